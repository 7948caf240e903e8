"""Why a product is on a listing under picks, or is not."""

from django.http import Http404, HttpRequest, HttpResponse

from binsort.racks.addresses import query_pairs
from binsort.racks.setup import UnknownRack, the_setup
from binsort.workbench.frame.views import OwnerView

from .page import why_page


class Why(OwnerView):
    """The way of a product through the picks."""

    template = "workbench/why/why.html"

    def get(self, request: HttpRequest, rack: str) -> HttpResponse:
        """Show it."""
        setup = the_setup()
        try:
            page = why_page(setup, rack, query_pairs(request), request.GET.get("product", ""))
        except UnknownRack as error:
            raise Http404("There is no such rack.") from error
        return self.show(request, {"setup": setup, "page": page})
