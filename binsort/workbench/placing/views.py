"""The page *Listings*."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse

from binsort.changes import racks as rack_changes
from binsort.core.facets.place_edits import INHERIT, NOTHING
from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import Edit, based_on

from .page import place_named, placing_page
from .tree import Folding

_ASKED = ("at", "where", "choice", "rack", "below", "tree")


class Listings(Edit):
    """Which rack stands where on which listing."""

    template = "workbench/placing/listings.html"
    fragment = "workbench/placing/_listings.html"
    section = "listings"

    def get(self, request: HttpRequest) -> HttpResponse:
        setup, asked = the_setup(), {name: request.GET.get(name, "") for name in _ASKED}
        folding = Folding(frozenset(request.GET.getlist("open")), frozenset(request.GET.getlist("shut")))
        return self.show(request, {"setup": setup, "page": placing_page(setup, asked, folding)})

    def change(self, request: HttpRequest, **names: str) -> None:
        node = place_named(the_setup().draft.document, request.POST.get("at", ""))
        choice = request.POST.get("choice", "")
        done = rack_changes.place_rack(
            node.said,
            request.POST.get("where", ""),
            choice if choice in (INHERIT, NOTHING) else request.POST.get("rack", ""),
            below=request.POST.get("below") != "0",
            words=node.name,
            actor=request.user,
            based_on=based_on(request),
        )
        messages.success(request, f"{done.summary}.", extra_tags="undo")
