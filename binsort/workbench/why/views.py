"""Why a product is on a listing under picks, or is not."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect

from binsort.racks.addresses import query_pairs
from binsort.racks.setup import UnknownRack, the_setup
from binsort.workbench.frame.views import OwnerView

from .asked import reasons_address
from .page import why_page


class WhyOf(OwnerView):
    """To the way of a product, from wherever it is asked: on the rack that its listing shows."""

    def get(self, request: HttpRequest) -> HttpResponse:
        """Go there."""
        return redirect(reasons_address(the_setup(), query_pairs(request)))


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
