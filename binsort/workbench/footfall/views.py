"""Footfall: what shoppers do on a rack; counted, or not."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.translation import gettext as _

from binsort.changes.footfall import count_visits
from binsort.racks.setup import UnknownRack, the_setup
from binsort.workbench.frame.views import OwnerView, back_to

from .page import footfall_page


class Footfall(OwnerView):
    """A rack with the visits that hang from it."""

    template = "workbench/footfall/footfall.html"

    def get(self, request: HttpRequest, rack: str) -> HttpResponse:
        """Show it."""
        setup = the_setup()
        try:
            page = footfall_page(setup, rack, request.GET.get("days", ""), request.GET.get("category", ""))
        except UnknownRack as error:
            raise Http404("There is no such rack.") from error
        return self.show(request, {"setup": setup, "page": page})


class FootfallSwitch(OwnerView):
    """Counting visits, or not."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Do it."""
        on = request.POST.get("on") == "1"
        count_visits(on=on, actor=request.user)
        messages.info(request, _("Visits are counted from now on.") if on else _("Visits are counted no more. What was counted stays."))
        return back_to(request, "rack")
