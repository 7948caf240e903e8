"""Pages for addresses that lead nowhere and for counts that are not there yet: the shop's in the shop, the tool's elsewhere."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

from binsort.shopfront import views as shop
from binsort.tally.current import NotReady
from binsort.workbench.activity import views as activity
from binsort.workbench.frame import views as workbench

_AGAIN = "3"  # seconds until a page that waits for counts asks again


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Answer 404 in the hand of the house that was asked; other systems get a problem that they can read."""
    if request.path.startswith("/api/"):
        return JsonResponse({"title": "There is nothing at this address.", "status": 404, "problems": []}, status=404)
    is_shop = request.path.startswith("/shop/")
    return shop.not_found(request, exception) if is_shop else workbench.not_found(request, exception)


class WaitForCounts:
    """Answers 503 with a page that comes back by itself, while the first counts of a big catalogue are being made."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self._get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """Turn missing counts into a page that waits."""
        if not isinstance(exception, NotReady):
            return None
        response = shop.counting(request) if request.path.startswith("/shop/") else activity.counting(request)
        response["Retry-After"] = response["Refresh"] = _AGAIN
        response["Cache-Control"] = "no-store"
        return response
