"""HEAD where GET is answered: the same headers without a body (RFC 9110, section 9.3.2)."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse


class HeadAsGet:
    """Lets the API answer HEAD as it answers GET; pages do so by themselves."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on as one for the whole, and leave the body out."""
        if request.method != "HEAD" or not request.path.startswith("/api/"):
            return self._get_response(request)
        request.method = "GET"
        response = self._get_response(request)
        length = response.get("Content-Length", str(len(response.content)))
        response.content = b""
        response["Content-Length"] = length
        return response
