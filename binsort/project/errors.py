"""Pages for addresses that lead nowhere and for counts that are not there yet: the shop's in the shop, the tool's elsewhere."""

import sys
from collections.abc import Callable

from django.core.exceptions import RequestDataTooBig, TooManyFieldsSent, TooManyFilesSent
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.template.loader import render_to_string

from binsort.racks.models import ShopFace
from binsort.shopfront import views as shop
from binsort.tally.current import NotReady
from binsort.workbench.activity import views as activity
from binsort.workbench.frame import views as workbench

MOST_ADDRESS = 6_000  # characters; the server itself takes 8,190
_AGAIN = "3"  # seconds until a page that waits for counts asks again


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Answer 404 in the hand of the house that was asked; other systems get a problem that they can read."""
    if request.path.startswith("/api/"):
        return JsonResponse({"title": "There is nothing at this address.", "status": 404, "problems": []}, status=404)
    is_shop = request.path.startswith("/shop/")
    return shop.not_found(request, exception) if is_shop else workbench.not_found(request, exception)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Answer 413 to what is too large and 400 to what is no request, with what to do, in the hand of the house that was asked."""
    is_large = isinstance(exception, RequestDataTooBig | TooManyFieldsSent | TooManyFilesSent)
    title = "More was sent than is taken at once. Send less in a call." if is_large else "This is no request that can be understood."
    return refusal(request, 413 if is_large else 400, title)


def refusal(request: HttpRequest, status: int, title: str) -> HttpResponse:
    """Answer that a request is not taken: a page to people, a problem that they can read to other systems."""
    if request.path.startswith("/api/"):
        return JsonResponse({"title": title, "status": status, "problems": []}, status=status)
    house = "shopfront" if request.path.startswith("/shop/") else "workbench/frame"
    return HttpResponse(render_to_string(f"{house}/trouble.html", {"refused": title, "face": ShopFace()}), status=status)


class LimitAddresses:
    """Answers 414 to addresses that are too long, before anything else looks at them."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        if len(request.path) + len(request.META.get("QUERY_STRING", "")) > MOST_ADDRESS:
            return refusal(request, 414, f"The address is longer than {MOST_ADDRESS:,} characters. Ask for less at once.")
        return self._get_response(request)


def trouble(request: HttpRequest) -> HttpResponse:
    """Say that something went wrong; where the database is away, that too, with a page that comes back by itself.

    Nothing here asks the database, not even who is asking.
    """
    is_away = isinstance(sys.exc_info()[1], OperationalError | InterfaceError)
    status = 503 if is_away else 500
    if request.path.startswith("/api/"):
        title = "The database cannot be reached. Nothing was changed: send it again." if is_away else "Something went wrong on our side."
        response: HttpResponse = JsonResponse({"title": title, "status": status, "problems": []}, status=status)
    else:
        house = "shopfront" if request.path.startswith("/shop/") else "workbench/frame"
        response = HttpResponse(render_to_string(f"{house}/trouble.html", {"is_away": is_away, "face": ShopFace()}), status=status)
    if is_away:
        response["Retry-After"] = _AGAIN
        response["Refresh"] = _AGAIN
    response["Cache-Control"] = "no-store"
    return response


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
