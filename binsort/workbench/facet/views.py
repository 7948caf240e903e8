"""The pages of one facet."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.changes import facets as facet_changes
from binsort.core.facets.facet_file import FacetFileError
from binsort.racks.addresses import query_pairs
from binsort.racks.setup import Document, facet_document, the_setup
from binsort.workbench.frame.views import Edit, OwnerView, based_on

from .form import FacetForm, form_document
from .page import facet_page, facts_of, unbinned_page


class FacetPage(OwnerView):
    """The settings of one facet, with what they do."""

    template = "workbench/facet/facet.html"
    fragment = "workbench/facet/_facet.html"

    def get(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _document_or_404(setup.draft.document, key)
        form = FacetForm(document=document, facts=facts_of(setup, key))
        return self.show(request, {"setup": setup, "page": facet_page(setup, key, query_pairs(request)), "form": form})

    def post(self, request: HttpRequest, key: str) -> HttpResponse:
        setup = the_setup()
        document = _document_or_404(setup.draft.document, key)
        form = FacetForm(request.POST, document=document, facts=facts_of(setup, key))
        new_key, status = key, 200
        if form.is_valid():
            new_key = self._save(request, key, form)
        if form.errors:
            status = 200 if request.htmx else 422  # type: ignore[attr-defined]
        elif not request.htmx:  # type: ignore[attr-defined]
            return redirect("facet", key=new_key)
        setup = the_setup()
        response = self.show(request, {"page": facet_page(setup, new_key, query_pairs(request)), "form": form}, status=status)
        if new_key != key:
            response["HX-Replace-Url"] = reverse("facet", kwargs={"key": new_key})
        return response

    def _save(self, request: HttpRequest, key: str, form: FacetForm) -> str:
        changed = form_document(form)
        if changed == form.document:
            return key
        try:
            facet_changes.change_facet(key, changed, actor=request.user, based_on=based_on(request))
        except FacetFileError as error:
            form.add_problems(error.problems)
            return key
        except facet_changes.EditedMeanwhile as other:
            form.add_error(
                None,
                _("Not saved: meanwhile somebody else made a change, “%(other)s”. What you typed is still here; save it again.")
                % {"other": other},
            )
            return key
        return str(changed["key"])


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


def _document_or_404(document: Document, key: str) -> Document:
    if key not in document["racks"][0]["facets"]:
        raise Http404("There is no such facet on the rack.")
    return facet_document(document, key)
