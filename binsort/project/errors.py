"""Pages for addresses that lead nowhere: the shop's in the shop, the tool's elsewhere."""

from django.http import HttpRequest, HttpResponse

from binsort.shopfront.views import not_found as shop_not_found
from binsort.workbench.views import not_found as workbench_not_found


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Answer 404 in the hand of the house that was asked."""
    if request.path.startswith("/shop/"):
        return shop_not_found(request, exception)
    return workbench_not_found(request, exception)
