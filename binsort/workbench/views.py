"""The owner's pages: each reads the request, calls one service, renders."""

from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.contrib.auth.mixins import LoginRequiredMixin, UserPassesTestMixin
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.cache import patch_vary_headers
from django.views import View

from binsort.core.facetfile import FacetFileError
from binsort.core.query import pairs_of
from binsort.racks import editing
from binsort.tally.activity import COUNTING, ask_to_stop, end_rest, rests_until, running
from binsort.tally.current import ask_for_snapshot

from .activityview import activity_page, in_words
from .adding import add_page, proposal_named
from .components import specimens
from .facetform import FacetForm, form_document
from .facetview import facet_page, unbinned_page
from .jumping import jump_targets
from .rackview import draft_state, rack_page

Pair = tuple[str, str]


def query_pairs(request: HttpRequest) -> list[Pair]:
    """Return the query of a request, decoded as the core decodes it."""
    raw = request.META.get("QUERY_STRING", "")
    return pairs_of(raw.encode("latin-1", "replace").decode("utf-8", "replace"))


class OwnerView(LoginRequiredMixin, View):
    """A page of the owner's: signed in, with the draft in the top bar; a part of it for htmx."""

    template = ""
    fragment = ""

    def show(self, request: HttpRequest, context: dict[str, Any], *, status: int = 200) -> HttpResponse:
        """Render the page, or the part of it that htmx swaps."""
        htmx = request.htmx  # type: ignore[attr-defined]
        partial = self.fragment and htmx and not htmx.history_restore_request
        setup = editing.the_setup()
        response = render(request, self.fragment if partial else self.template, {**draft_state(setup), **context}, status=status)
        patch_vary_headers(response, ["HX-Request"])
        response["Cache-Control"] = "no-store"
        return response


def back_to(request: HttpRequest) -> HttpResponse:
    """Go back to the rack as it was being looked at, or to a page of the tool that the form names."""
    target = request.POST.get("next", "")
    return redirect(target if target.startswith("/racks/") and "//" not in target and "\\" not in target else "rack")


def based_on(request: HttpRequest) -> int | None:
    """Return the edition that the form was made from."""
    text = request.POST.get("edition", "")
    return int(text) if text.isascii() and text.isdigit() and len(text) < 18 else None


class Rack(OwnerView):
    """The rack view."""

    template = "workbench/rack.html"
    fragment = "workbench/_rack.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        return self.show(request, {"rack": rack_page(editing.the_setup(), query_pairs(request), request.path)})


class Edit(OwnerView):
    """One change of the draft by a form; then back to where it was made."""

    def post(self, request: HttpRequest, **names: str) -> HttpResponse:
        try:
            self.change(request, **names)
        except editing.EditedMeanwhile as other:
            messages.warning(
                request, f"Not done: meanwhile somebody else made a change, “{other}”. You see it now; do yours again if it is still right."
            )
        except editing.UnknownFacet:
            messages.warning(request, "Not done: that facet is no longer on the rack.")
        return back_to(request)

    def change(self, request: HttpRequest, **names: str) -> None:
        """Make the change and say so."""
        raise NotImplementedError


class Reorder(Edit):
    """Put the facets into another order."""

    def change(self, request: HttpRequest, **names: str) -> None:
        editing.order_facets(_rack_key(), request.POST.getlist("facet"), actor=request.user, based_on=based_on(request))


class Move(Edit):
    """Move one facet up or down by one."""

    def change(self, request: HttpRequest, **names: str) -> None:
        rack = editing.the_setup().draft.document["racks"][0]
        keys, key = list(rack["facets"]), names["key"]
        if key not in keys:
            raise editing.UnknownFacet(key)
        place = keys.index(key)
        keys.insert(max(0, place + (-1 if request.POST.get("way") == "up" else 1)), keys.pop(place))
        editing.order_facets(rack["key"], keys, actor=request.user, based_on=based_on(request))


class Remove(Edit):
    """Take a facet off the rack."""

    def change(self, request: HttpRequest, **names: str) -> None:
        done = editing.remove_facet(names["key"], actor=request.user, based_on=based_on(request))
        messages.success(request, f"{done.summary}.", extra_tags="undo")


class Undo(Edit):
    """Take back the last change."""

    def change(self, request: HttpRequest, **names: str) -> None:
        undone = editing.undo(based_on=based_on(request))
        messages.info(request, f"Undone: {undone.summary}." if undone else "There is nothing to undo.", extra_tags="redo" if undone else "")


class Redo(Edit):
    """Do again what was undone."""

    def change(self, request: HttpRequest, **names: str) -> None:
        again = editing.redo(based_on=based_on(request))
        messages.info(
            request, f"Done again: {again.summary}." if again else "There is nothing to do again.", extra_tags="undo" if again else ""
        )


class PutLive(Edit):
    """Let shoppers see the draft."""

    def change(self, request: HttpRequest, **names: str) -> None:
        editing.put_live(based_on=based_on(request))
        messages.success(request, "Live: shoppers see this rack from now on.")


class Add(OwnerView):
    """What can shoppers narrow by? Every source, tried on a listing."""

    template = "workbench/add.html"
    fragment = "workbench/_add.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        asked = {name: request.GET.get(name, "") for name in ("category", "group", "find", "source")}
        return self.show(request, {"page": add_page(editing.the_setup(), **asked), "asked": asked})

    def post(self, request: HttpRequest) -> HttpResponse:
        setup, listing = editing.the_setup(), request.POST.get("category", "")
        proposal = proposal_named(setup, listing, request.POST.get("source", ""))
        if proposal is None:
            messages.warning(request, "Not added: that source is on the rack already, or gone from the catalogue.")
            return redirect("rack-add")
        try:
            done = editing.add_facet(proposal.document, rack=_rack_key(), actor=request.user, based_on=based_on(request))
        except editing.EditedMeanwhile as other:
            messages.warning(request, f"Not added: meanwhile somebody else made a change, “{other}”. Look again, then add it.")
            return redirect("rack-add")
        messages.success(request, f"{done.summary}.", extra_tags="undo")
        if "set_up" in request.POST:
            return redirect("facet", key=proposal.spec.key)
        where = f"?{urlencode({'category': listing})}" if listing else ""
        return HttpResponseRedirect(f"{reverse('rack')}{where}#shelf-{proposal.spec.key}")


class FacetPage(OwnerView):
    """The settings of one facet, with what they do."""

    template = "workbench/facet.html"
    fragment = "workbench/_facet.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = editing.the_setup()
        document = _document_or_404(setup.draft.document, key)
        form = FacetForm(document=document)
        return self.show(request, {"page": facet_page(setup, key, query_pairs(request)), "form": form})

    def post(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = editing.the_setup()
        document = _document_or_404(setup.draft.document, key)
        form = FacetForm(request.POST, document=document)
        new_key, status = key, 200
        if form.is_valid():
            new_key = self._save(request, key, form)
        if form.errors:
            status = 200 if request.htmx else 422  # type: ignore[attr-defined]
        elif not request.htmx:  # type: ignore[attr-defined]
            return redirect("facet", key=new_key)
        setup = editing.the_setup()
        response = self.show(request, {"page": facet_page(setup, new_key, query_pairs(request)), "form": form}, status=status)
        if new_key != key:
            response["HX-Replace-Url"] = reverse("facet", kwargs={"key": new_key})
        return response

    def _save(self, request: HttpRequest, key: str, form: FacetForm) -> str:
        changed = form_document(form)
        if changed == form.document:
            return key
        try:
            editing.change_facet(key, changed, actor=request.user, based_on=based_on(request))
        except FacetFileError as error:
            form.add_problems(error.problems)
            return key
        except editing.EditedMeanwhile as other:
            form.add_error(
                None,
                f"Not saved: meanwhile somebody else made a change, “{other}”. What you typed is still here; save it again.",
            )
            return key
        return str(changed["key"])


class Unbinned(OwnerView):
    """The products of a listing that are in no bin of a facet."""

    template = "workbench/unbinned.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = editing.the_setup()
        _document_or_404(setup.draft.document, key)
        return self.show(request, {"page": unbinned_page(setup, key, query_pairs(request))})


class Components(UserPassesTestMixin, OwnerView):
    """Every part of the tool in its states; for staff."""

    template = "workbench/components.html"

    def test_func(self) -> bool:
        """Let staff in."""
        return bool(self.request.user.is_staff)  # type: ignore[union-attr]

    def get(self, request: HttpRequest) -> HttpResponse:
        document = {"key": "sample", "label": "Sample", "source": {"kind": "price"}, "cuts": [10, 20]}
        form = FacetForm({**FacetForm(document=document).initial, "cuts": "10, thick"}, document=document)
        return self.show(request, {"specimens": specimens(), "form": form})


class Jump(OwnerView):
    """Where a few letters can lead: facets, bins, listings, products, pages."""

    template = fragment = "workbench/_jump.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        return self.show(request, {"targets": jump_targets(editing.the_setup(), request.GET.get("find", ""))})


def _rack_key() -> str:
    return str(editing.the_setup().draft.document["racks"][0]["key"])


def _document_or_404(document: editing.Document, key: str) -> editing.Document:
    if key not in document["racks"][0]["facets"]:
        raise Http404("There is no such facet on the rack.")
    return editing.facet_document(document, key)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say that there is nothing at an address of the tool."""
    return render(request, "workbench/not_found.html", status=404)


class Activity(OwnerView):
    """What takes long, and how far it is."""

    template, fragment = "workbench/activity.html", "workbench/_activity.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        return self.show(request, {"page": activity_page()})


class ActivityCancel(OwnerView):
    """Stopping a piece of work."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Ask it to stop."""
        if not ask_to_stop(number):
            messages.info(request, "That has ended already.")
        target = request.POST.get("next", "")
        return redirect(target if target.startswith("/catalogue/") and "//" not in target and "\\" not in target else "activity")


class ActivityAgain(OwnerView):
    """Beginning the counting again after it was cancelled."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """End its rest."""
        end_rest(COUNTING)
        ask_for_snapshot()
        return redirect("activity")


def counting(request: HttpRequest) -> HttpResponse:
    """Say that there are no counts yet, and how far they are."""
    line = running()
    context = {
        "line": line,
        "left": in_words(line.left) if line else "",
        "rests_until": rests_until(COUNTING),
        **draft_state(editing.the_setup()),
    }
    return render(request, "workbench/counting.html", context, status=503)
