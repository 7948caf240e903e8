"""The rack view, and the changes of the draft that are made on it."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.translation import gettext as _

from binsort.changes import facets as facet_changes
from binsort.changes import racks as rack_changes
from binsort.racks.addresses import query_pairs
from binsort.racks.setup import Document, UnknownFacet, rack_document, the_setup
from binsort.workbench.frame.views import Edit, OwnerView, based_on

from .page import rack_page


class Rack(OwnerView):
    """The rack view."""

    template = "workbench/rack/rack.html"
    fragment = "workbench/rack/_rack.html"

    def get(self, request: HttpRequest, rack: str = "") -> HttpResponse:
        setup = the_setup()
        if rack and not any(one["key"] == rack for one in setup.draft.document["racks"]):
            raise Http404("There is no such rack.")
        return self.show(request, {"setup": setup, "rack": rack_page(setup, query_pairs(request), request.path, rack)})


def _rack(request: HttpRequest) -> Document:
    """Return the rack that a form is about: the first one unless said otherwise. Raises UnknownRack."""
    document = the_setup().draft.document
    return rack_document(document, request.POST.get("rack") or document["racks"][0]["key"])


class Reorder(Edit):
    """Put the facets into another order."""

    def change(self, request: HttpRequest, **names: str) -> None:
        facet_changes.order_facets(_rack(request)["key"], request.POST.getlist("facet"), actor=request.user, based_on=based_on(request))


class Move(Edit):
    """Move one facet up or down by one."""

    def change(self, request: HttpRequest, **names: str) -> None:
        rack = _rack(request)
        keys, key = list(rack["facets"]), names["key"]
        if key not in keys:
            raise UnknownFacet(key)
        place = keys.index(key)
        keys.insert(max(0, place + (-1 if request.POST.get("way") == "up" else 1)), keys.pop(place))
        facet_changes.order_facets(rack["key"], keys, actor=request.user, based_on=based_on(request))


class Remove(Edit):
    """Take a facet off the rack."""

    def change(self, request: HttpRequest, **names: str) -> None:
        done = rack_changes.take_off_rack(names["key"], _rack(request)["key"], actor=request.user, based_on=based_on(request))
        messages.success(request, f"{done.summary}.", extra_tags="undo")


class Undo(Edit):
    """Take back the last change."""

    def change(self, request: HttpRequest, **names: str) -> None:
        undone = facet_changes.undo(actor=request.user, based_on=based_on(request))
        messages.info(
            request,
            _("Undone: %(summary)s.") % {"summary": undone.summary} if undone else _("There is nothing to undo."),
            extra_tags="redo" if undone else "",
        )


class Redo(Edit):
    """Do again what was undone."""

    def change(self, request: HttpRequest, **names: str) -> None:
        again = facet_changes.redo(actor=request.user, based_on=based_on(request))
        messages.info(
            request,
            _("Done again: %(summary)s.") % {"summary": again.summary} if again else _("There is nothing to do again."),
            extra_tags="undo" if again else "",
        )
