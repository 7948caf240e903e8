"""The answer to a few letters typed into the jump field."""

from django.http import HttpRequest, HttpResponse

from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import OwnerView

from .targets import jump_targets


class Jump(OwnerView):
    """Where a few letters can lead: facets, bins, listings, products, pages."""

    template = fragment = "workbench/jump/_jump.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        return self.show(request, {"targets": jump_targets(the_setup(), request.GET.get("find", ""))})
