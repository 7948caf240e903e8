"""The page of all racks, and what is done to a rack as a whole."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from binsort.changes import racks as rack_changes
from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import Edit, based_on

from .page import all_racks, rack_row


class AllRacks(Edit):
    """Every rack; a new one is made here."""

    template = "workbench/all_racks/racks.html"
    fragment = "workbench/all_racks/_racks.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        setup = the_setup()
        return self.show(request, {"setup": setup, "racks": all_racks(setup)})

    def change(self, request: HttpRequest, **names: str) -> None:
        done, _key = rack_changes.make_rack(request.POST.get("label", ""), actor=request.user, based_on=based_on(request))
        messages.success(request, f"{done.summary}.", extra_tags="undo")


class Rename(Edit):
    """Call a rack otherwise."""

    def change(self, request: HttpRequest, **names: str) -> None:
        done = rack_changes.rename_rack(names["rack"], request.POST.get("label", ""), actor=request.user, based_on=based_on(request))
        if done:
            messages.success(request, f"{done.summary}.", extra_tags="undo")


class Copy(Edit):
    """Make a rack of the facets of another."""

    def change(self, request: HttpRequest, **names: str) -> None:
        label, own = request.POST.get("label", ""), request.POST.get("facets") == "own"
        done, _key = rack_changes.copy_rack(names["rack"], label, own_facets=own, actor=request.user, based_on=based_on(request))
        messages.success(request, f"{done.summary}.", extra_tags="undo")


class Delete(Edit):
    """The question whether to delete a rack, with what that would take away, and the answer."""

    template = "workbench/all_racks/delete.html"

    def get(self, request: HttpRequest, rack: str) -> HttpResponse:
        setup = the_setup()
        row = rack_row(setup, rack)
        if row is None:
            raise Http404("There is no such rack.")
        return self.show(request, {"setup": setup, "row": row, "only": len(setup.draft.document["racks"]) == 1})

    def post(self, request: HttpRequest, **names: str) -> HttpResponse:
        super().post(request, **names)
        return redirect("racks")

    def change(self, request: HttpRequest, **names: str) -> None:
        done = rack_changes.delete_rack(names["rack"], actor=request.user, based_on=based_on(request))
        messages.success(request, f"{done.summary}.", extra_tags="undo")


class Put(Edit):
    """Put a facet on another rack: shared, copied, or moved there."""

    def change(self, request: HttpRequest, **names: str) -> None:
        how, rack = request.POST.get("how", "share"), request.POST.get("rack", "")
        moved_from = request.POST.get("from", "") if how == "move" else ""
        _key, done = rack_changes.put_on_rack(
            names["key"], rack, copied=how == "copy", moved_from=moved_from, actor=request.user, based_on=based_on(request)
        )
        messages.success(request, _("%(summary)s.") % {"summary": done.summary}, extra_tags="undo")


class Apart(Edit):
    """Put a facet of a rack at a place of its own on the page."""

    def change(self, request: HttpRequest, **names: str) -> None:
        rack, where = request.POST.get("rack", ""), request.POST.get("where", "")
        done = rack_changes.set_apart(rack, names["key"], where, actor=request.user, based_on=based_on(request))
        if done:
            messages.success(request, f"{done.summary}.", extra_tags="undo")


class Heading(Edit):
    """Put a heading above a facet of a rack."""

    def change(self, request: HttpRequest, **names: str) -> None:
        rack, heading = request.POST.get("rack", ""), request.POST.get("heading", "")
        rack_changes.set_heading(rack, names["key"], heading, actor=request.user, based_on=based_on(request))
