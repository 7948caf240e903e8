"""Which other sites may ask from a browser: those that the owner let in. How often each asked is counted, whether it may or not."""

import re
from typing import Any

from corsheaders.signals import check_request_enabled
from django.conf import settings
from django.dispatch import receiver
from django.http import HttpRequest

from binsort.footfall.counting import count
from binsort.footfall.kinds import SITE_ASKED, SITE_REFUSED, SITE_SHOWN
from binsort.racks.models import Site
from binsort.tally.current import NotReady, current


def is_in(request: HttpRequest, origin: str) -> bool:
    """Tell whether a site is let in; looked up once a request."""
    if not hasattr(request, "sites_let_in"):
        request.sites_let_in = _sites()  # type: ignore[attr-defined]
    return origin in request.sites_let_in  # type: ignore[attr-defined]


def _sites() -> frozenset[str]:
    """Return the origins that are let in; asked for once while nothing is committed."""

    def read() -> frozenset[str]:
        return frozenset(Site.objects.values_list("origin", flat=True))

    try:
        return current().beside("sites", read)
    except NotReady:
        return read()


@receiver(check_request_enabled)
def is_let_in(sender: Any, request: HttpRequest, **_more: Any) -> bool:
    """Tell whether a request may be read by the site it comes from (the Fetch standard, CORS protocol)."""
    return re.match(settings.CORS_URLS_REGEX, request.path) is not None and is_in(request, request.headers.get("Origin", ""))


_ORIGIN = re.compile(r"https?://[^\s/@]{1,253}")


def note_site(request: HttpRequest, *, shows: bool = False) -> None:
    """Count that a site asked, where a browser says which one it is.

    Args:
        request: from it.
        shows: it shows a listing to somebody who begins to look at it.
    """
    origin = request.headers.get("Origin", "")
    if _ORIGIN.fullmatch(origin) and origin != f"{request.scheme}://{request.get_host()}":
        count((SITE_SHOWN if shows else SITE_ASKED) if is_in(request, origin) else SITE_REFUSED, origin)
