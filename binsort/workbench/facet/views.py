"""The pages of one facet."""

from collections.abc import Sequence
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.catalog.dictionary.entry import BadValue
from binsort.changes import facets as facet_changes
from binsort.changes import racks as rack_changes
from binsort.changes.locks import Refused
from binsort.changes.pictures import MOST_BYTES, keep_picture
from binsort.core.facets.facet_file import FacetFileError
from binsort.core.values.text import identity, normalise
from binsort.racks.addresses import Pair, query_pairs, query_string
from binsort.racks.models import Setup
from binsort.racks.setup import Document, drawn_document, facet_document, own_looks, rack_of, the_setup
from binsort.tally.current import current
from binsort.workbench.frame.messages import say_done
from binsort.workbench.frame.views import Edit, OwnerView, based_on

from .acts import Acting, CannotDo, done, facet_of_its_own
from .form import FacetForm, form_document
from .look_form import LookForm, look_document
from .page import BenchSight, facet_page, facts_of, mended, unbinned_page
from .range_drawing import numbers_data
from .reading import reading_page, write_anew
from .shoppers import drawn_by, shoppers_page
from .source_choice import SourceQuestion, with_source

_MEANWHILE = _l("Not done: meanwhile %(who)s made a change, “%(other)s”. You see it now; do yours again if it is still right.")
_NOT_SAVED = _l("Not saved: meanwhile %(who)s made a change, “%(other)s”. What you typed is still here; save it again.")


class FacetPage(OwnerView):
    """The settings of one facet, with what they do."""

    template = "workbench/facet/facet.html"
    fragment = "workbench/facet/_facet.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _document_or_404(setup.draft.document, key)
        form = FacetForm(document=document, facts=facts_of(setup, key))
        return self.show(request, {"setup": setup, "page": facet_page(setup, key, query_pairs(request)), "form": form, **_redo(setup)})

    def post(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _document_or_404(setup.draft.document, key)
        form = FacetForm(request.POST, document=document, facts=facts_of(setup, key, dict(query_pairs(request)).get("category", "")))
        new_key, status, question = key, 200, None
        if form.is_valid():
            question = self._asked(request, form)
            new_key = key if question else self._save(request, key, form)
        if form.errors:
            status = 200 if request.htmx else 422  # type: ignore[attr-defined]
        elif not request.htmx and not question:  # type: ignore[attr-defined]
            return redirect("facet", key=new_key)
        setup = the_setup()
        if not form.errors and not question:  # what fits may be another by now
            form = FacetForm(document=_document_or_404(setup.draft.document, new_key), facts=facts_of(setup, new_key))
        page = facet_page(setup, new_key, query_pairs(request))
        response = self.show(request, {"page": page, "form": form, "question": question, **_redo(setup)}, status=status)
        if new_key != key:
            response["HX-Replace-Url"] = reverse("facet", kwargs={"key": new_key})
        return response

    def _asked(self, request: HttpRequest, form: FacetForm) -> SourceQuestion | None:
        """Return what is to be asked before the source is changed, None where nothing would be lost."""
        wanted = form.cleaned_data.get("source")
        if not wanted or wanted == form.facts.source or "anyway" in request.POST:
            return None
        _changed, lost = with_source(current().index, form.document, wanted)
        return SourceQuestion(wanted, dict(form.facts.sources)[wanted], ", ".join(lost)) if lost else None

    def _save(self, request: HttpRequest, key: str, form: FacetForm) -> str:
        changed, wanted = form_document(form), form.cleaned_data.get("source")
        if wanted and wanted != form.facts.source:
            changed, _lost = with_source(current().index, changed, wanted)
        if changed == form.document:
            return key
        try:
            facet_changes.change_facet(key, changed, actor=request.user, based_on=based_on(request))
        except FacetFileError as error:
            form.add_problems(error.problems)
            return key
        except facet_changes.EditedMeanwhile as other:
            form.add_error(None, _NOT_SAVED % other.said)
            return key
        return str(changed["key"])


class Act(OwnerView):
    """One act on a bench; the page is shown again with what it did."""

    template = "workbench/facet/facet.html"
    fragment = "workbench/facet/_facet.html"
    page_name = "facet"

    def context(self, setup: Setup, key: str, pairs: Sequence[Pair]) -> dict[str, Any]:
        """Return what the page shows."""
        form = FacetForm(document=_document_or_404(setup.draft.document, key), facts=facts_of(setup, key))
        return {"setup": setup, "page": facet_page(setup, key, pairs), "form": form, **_redo(setup)}

    def post(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _document_or_404(setup.draft.document, key)
        pairs = query_pairs(request)
        if request.POST.get("act") == "split_off":
            return self._split_off(request, setup, key, pairs)
        try:
            changed, said = self._done(request, setup, key, pairs)
            if changed != document:
                edition = facet_changes.change_facet(key, changed, actor=request.user, based_on=based_on(request), said=said)
                if _is_of_checkup(request):
                    messages.success(request, f"{edition.summary}.", extra_tags="undo")
        except CannotDo as problem:
            messages.warning(request, str(problem))
        except FacetFileError as error:
            messages.warning(request, " ".join(problem.text.partition(": ")[2] for problem in error.problems))
        except facet_changes.EditedMeanwhile as other:
            messages.warning(request, _MEANWHILE % other.said)
        address = f"{reverse(self.page_name, kwargs={'key': key})}{query_string(_without_suggestion(pairs, request))}"
        if not request.htmx:  # type: ignore[attr-defined]
            return redirect("checkup" if _is_of_checkup(request) else address)
        response = self.show(request, self.context(the_setup(), key, _without_suggestion(pairs, request)))
        response["HX-Replace-Url"] = address
        return response

    def _split_off(self, request: HttpRequest, setup: Setup, key: str, pairs: Sequence[Pair]) -> HttpResponse:
        """Make a facet of its own out of the values that are ticked, and go there: it wants a name."""
        bench = BenchSight(setup, key, pairs)
        try:
            acting = Acting(bench.sight, key, bench.document, request.POST)
            new, label = facet_of_its_own(acting, actor=request.user, based_on=based_on(request))
        except (CannotDo, facet_changes.EditedMeanwhile, FacetFileError) as problem:
            other = problem if isinstance(problem, facet_changes.EditedMeanwhile) else None
            messages.warning(request, _MEANWHILE % other.said if other else str(problem))
            return redirect("facet", key=key)
        messages.success(request, _("%(label)s is a facet of its own, behind it on its racks.") % {"label": label}, extra_tags="undo")
        if not request.htmx:  # type: ignore[attr-defined]
            return redirect("facet", key=new)
        response = HttpResponse()
        response["HX-Redirect"] = reverse("facet", kwargs={"key": new})
        return response

    def _done(self, request: HttpRequest, setup: Setup, key: str, pairs: Sequence[Pair]) -> tuple[Document, str]:
        if request.POST.get("act") == "mend":
            made = mended(setup, key, pairs, request.POST.dict())
            if made is None:
                raise CannotDo(_("That has been mended meanwhile. You see the facet as it is now."))
            return made
        bench = BenchSight(setup, key, pairs)
        return done(Acting(bench.sight, key, bench.document, _with_picture(request)), request.POST.get("act", ""))


def _with_picture(request: HttpRequest) -> QueryDict:
    """Return what was sent; a picture sent as a file is kept, and named by its address. Raises CannotDo."""
    file = request.FILES.get("file")
    if file is None:
        return request.POST
    data = request.POST.copy()
    try:
        data.update({"way": "image", "image": keep_picture(file.read(MOST_BYTES + 1), actor=request.user)})
    except Refused as error:
        raise CannotDo(str(error)) from error
    data.setlist("way", ["image"])
    return data


def _is_of_checkup(request: HttpRequest) -> bool:
    """Tell whether an act was begun in the checkup, where it ends."""
    return request.POST.get("next") == reverse("checkup")


def _without_suggestion(pairs: Sequence[Pair], request: HttpRequest) -> list[Pair]:
    """Return the parameters of a bench after an act: what was looked at is done with, the cut in hand stays in hand."""
    kept = [pair for pair in pairs if pair[0] not in ("suggest", "bins", "at")]
    at = request.POST.get("at", "")
    return [*kept, ("at", at)] if at else kept


class Reading(OwnerView):
    """How numbers are read out of texts."""

    template = "workbench/facet/reading.html"
    fragment = "workbench/facet/_reading.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _document_or_404(setup.draft.document, key)
        if document["source"]["kind"] != "number_from":
            return redirect("facet", key=key)
        return self.show(request, _reading_context(setup, key, query_pairs(request)))


def _reading_context(setup: Setup, key: str, pairs: Sequence[Pair]) -> dict[str, Any]:
    form = FacetForm(document=_document_or_404(setup.draft.document, key), facts=facts_of(setup, key))
    return {"setup": setup, "page": reading_page(setup, key, pairs), "form": form, **_redo(setup)}


class ActOnReading(Act):
    """One act on how numbers are read; back to the page of reading."""

    template = "workbench/facet/reading.html"
    fragment = "workbench/facet/_reading.html"
    page_name = "facet-reading"

    def context(self, setup: Setup, key: str, pairs: Sequence[Pair]) -> dict[str, Any]:
        return _reading_context(setup, key, pairs)


class WriteAnew(Edit):
    """Write a text anew on the products of a listing that say it, where no number could be read from it."""

    def change(self, request: HttpRequest, **names: str) -> None:
        setup = the_setup()
        _document_or_404(setup.draft.document, names["key"])
        old, new = request.POST.get("old", ""), normalise(request.POST.get("new", ""))
        if not new or identity(new) == identity(old):
            messages.warning(request, _("Nothing was changed: write the text so that a number can be read from it."))
            return
        try:
            say_done(request, write_anew(BenchSight(setup, names["key"], query_pairs(request)), old, new, actor=request.user))
        except (BadValue, Refused) as error:
            messages.warning(request, _("Nothing was changed: %(error)s") % {"error": error})


class Numbers(OwnerView):
    """The numbers of a listing, with which a page counts any range exactly."""

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        _document_or_404(setup.draft.document, key)
        line = BenchSight(setup, key, query_pairs(request)).line
        response = JsonResponse(numbers_data(line) if line else {"numbers": [], "starts": [0], "repeats": [], "before": []})
        response["Cache-Control"] = "no-store"
        return response


class Shoppers(OwnerView):
    """How shoppers see one facet."""

    template = "workbench/facet/shoppers.html"
    fragment = "workbench/facet/_shoppers.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        form = LookForm(document=_drawn_or_404(request, setup, key), has_numbers=facts_of(setup, key).has_numbers)
        return self._shown(request, setup, key, form)

    def post(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _drawn_or_404(request, setup, key)
        has_numbers = facts_of(setup, key).has_numbers
        form = LookForm(request.POST if "look" in request.POST else None, document=document, has_numbers=has_numbers)
        status = 200
        try:
            made = self._made(request, setup, key, form)
            if made and made[0] != document:
                self._keep(request, setup, key, made)
            elif "own" in request.POST:
                look = document.get("look", {}) if request.POST["own"] == "yes" else None
                rack_changes.set_own_look(_rack_of(request, setup, key), key, look, actor=request.user, based_on=based_on(request))
        except FacetFileError as error:
            messages.warning(request, " ".join(problem.text.partition(": ")[2] for problem in error.problems))
        except facet_changes.EditedMeanwhile as other:
            messages.warning(request, _MEANWHILE % other.said)
        if form.is_bound and form.errors:
            status = 200 if request.htmx else 422  # type: ignore[attr-defined]
        elif not request.htmx:  # type: ignore[attr-defined]
            return redirect(f"{reverse('facet-shoppers', kwargs={'key': key})}{query_string(query_pairs(request))}")
        else:
            form = LookForm(document=_drawn_or_404(request, the_setup(), key), has_numbers=has_numbers)
        return self._shown(request, the_setup(), key, form, status=status)

    def _keep(self, request: HttpRequest, setup: Setup, key: str, made: tuple[Document, str]) -> None:
        """Keep what was made: as the rack's own way where it has one, else everywhere."""
        rack, seen = _rack_of(request, setup, key), based_on(request)
        shared = facet_document(setup.draft.document, key)
        if key not in own_looks(setup.draft.document, rack):
            facet_changes.change_facet(key, made[0], actor=request.user, based_on=seen, said=made[1])
            return
        meaning = {name: part for name, part in made[0].items() if name != "look"}
        meaning |= {"look": shared["look"]} if "look" in shared else {}
        if meaning != shared:
            seen = facet_changes.change_facet(key, meaning, actor=request.user, based_on=seen, said=made[1]).pk
        rack_changes.set_own_look(rack, key, made[0].get("look", {}), actor=request.user, based_on=seen)

    def _made(self, request: HttpRequest, setup: Setup, key: str, form: LookForm) -> tuple[Document, str] | None:
        control = request.POST.get("control")
        if control:
            return drawn_by(setup, key, query_pairs(request), control)
        return (look_document(form), "") if form.is_bound and form.is_valid() else None

    def _shown(self, request: HttpRequest, setup: Setup, key: str, form: LookForm, *, status: int = 200) -> HttpResponse:
        page = shoppers_page(setup, key, query_pairs(request))
        return self.show(request, {"setup": setup, "page": page, "form": form, **_redo(setup)}, status=status)


class OrderBins(Edit):
    """Put the bins of a facet into an order by hand."""

    def change(self, request: HttpRequest, **names: str) -> None:
        labels = [label for label in request.POST.getlist("bin") if label]
        moved = request.POST.get("moved", "")
        if moved in labels:  # by one, without scripts
            place = labels.index(moved)
            labels.insert(max(0, place + (-1 if request.POST.get("way") == "up" else 1)), labels.pop(place))
        facet_changes.order_bins(names["key"], labels, actor=request.user, based_on=based_on(request))


class Unbinned(OwnerView):
    """The products of a listing that are in no bin of a facet."""

    template = "workbench/facet/unbinned.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        _document_or_404(setup.draft.document, key)
        return self.show(request, {"page": unbinned_page(setup, key, query_pairs(request))})


def _redo(setup: Setup) -> dict[str, str]:
    """Return what would be done again, in words."""
    again = setup.draft.followers.first()
    return {"redo_words": again.summary if again else ""}


def _rack_of(request: HttpRequest, setup: Setup, key: str) -> str:
    return rack_of(setup.draft.document, key, request.GET.get("rack", ""))


def _drawn_or_404(request: HttpRequest, setup: Setup, key: str) -> Document:
    """Return a facet as the rack draws it on which it is looked at."""
    _document_or_404(setup.draft.document, key)
    return drawn_document(setup.draft.document, key, _rack_of(request, setup, key))


def _document_or_404(document: Document, key: str) -> Document:
    if not any(key in rack["facets"] for rack in document["racks"]):
        raise Http404("There is no such facet on any rack.")
    return facet_document(document, key)
