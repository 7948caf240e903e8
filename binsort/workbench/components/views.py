"""The page that shows every part of the tool."""

from django.http import HttpRequest, HttpResponse

from binsort.workbench.facet.form import FacetForm
from binsort.workbench.frame.views import OwnerView

from .specimens import specimens


class Components(OwnerView):
    """Every part of the tool in its states."""

    template = "workbench/components/components.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        document = {"key": "sample", "label": "Sample", "source": {"kind": "price"}, "cuts": [10, 20]}
        form = FacetForm({**FacetForm(document=document).initial, "cuts": "10, thick"}, document=document)
        return self.show(request, {"specimens": specimens(), "form": form})
