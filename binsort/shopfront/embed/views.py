"""The script of listings on other sites."""

from functools import lru_cache
from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.utils.cache import patch_vary_headers
from django.views.decorators.http import conditional_page, require_safe

_BUILT = Path(__file__).parent.parent / "static/shopfront/bins.js"
_KEPT = 600  # seconds that browsers keep it; then they ask whether it is still the same


@require_safe
@conditional_page
def bins(request: HttpRequest) -> HttpResponse:
    """Give the script, to every site: a module is fetched by the rules of CORS, and says nothing that is not public."""
    response = HttpResponse(_script(), content_type="text/javascript; charset=utf-8")
    response["Access-Control-Allow-Origin"] = "*"
    response["Cross-Origin-Resource-Policy"] = "cross-origin"
    response["Cache-Control"] = f"public, max-age={_KEPT}, stale-while-revalidate=86400"
    patch_vary_headers(response, ["Accept-Encoding"])
    return response


@lru_cache(maxsize=1)
def _script() -> bytes:
    return _BUILT.read_bytes()
