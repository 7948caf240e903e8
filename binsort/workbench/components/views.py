"""The page that shows every part of the tool."""

from django.http import HttpRequest, HttpResponse

from binsort.workbench.facet.form import FacetForm, Facts
from binsort.workbench.frame.views import OwnerView

from .specimens import specimens


class Components(OwnerView):
    """Every part of the tool in its states."""

    template = "workbench/components/components.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        document = {"key": "sample", "label": "Sample", "source": {"kind": "price"}, "cuts": [10, 20]}
        initial = FacetForm(document=document, facts=Facts()).initial
        form = FacetForm({**initial, "cuts": "10, thick"}, document=document, facts=Facts())
        return self.show(request, {"specimens": specimens(), "form": form})
