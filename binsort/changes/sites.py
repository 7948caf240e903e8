"""Sites: letting other sites show listings of this shop, and ending that."""

from typing import Any
from urllib.parse import urlsplit

from django.db import transaction
from django.utils.translation import gettext as _

from binsort.core.values.text import normalise
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Entry, Site

from .history import tell
from .locks import Refused

_USUAL = {"http": 80, "https": 443}


def origin_of(text: str) -> str:
    """Return the origin of an address, as browsers send it (RFC 6454, section 6.2). Raises Refused where it has none.

    >>> origin_of("GullHythe.example/bosun"), origin_of("http://127.0.0.1:8100/"), origin_of("https://gullhythe.example:443")
    ('https://gullhythe.example', 'http://127.0.0.1:8100', 'https://gullhythe.example')
    """
    words = normalise(text)
    try:
        parts = urlsplit(words if "://" in words else f"https://{words}")
        host, port = (parts.hostname or "").encode("idna").decode("ascii"), parts.port
    except (ValueError, UnicodeError) as error:
        raise Refused(_("“%(text)s” is no address of a site. Write it as https://shop.example.") % {"text": words[:80]}) from error
    if parts.scheme not in _USUAL or not host or " " in host or parts.username or len(host) > 253:
        raise Refused(_("“%(text)s” is no address of a site. Write it as https://shop.example.") % {"text": words[:80]})
    host = f"[{host}]" if ":" in host else host
    return f"{parts.scheme}://{host}" + (f":{port}" if port and port != _USUAL[parts.scheme] else "")


@needs(Act.PEOPLE)
@transaction.atomic
def let_in(text: str, *, actor: Any) -> tuple[Site, bool]:
    """Let a site in by any address of it; returns it, and whether it was not in before. Raises Refused."""
    origin = origin_of(text)
    site, is_new = Site.objects.get_or_create(origin=origin, defaults={"actor": actor})
    if is_new:
        tell(Entry.Kind.PEOPLE, _("Let %(site)s show listings") % {"site": origin}, actor=actor)
    return site, is_new


@needs(Act.PEOPLE)
@transaction.atomic
def end(number: int, *, actor: Any) -> Site | None:
    """Let a site show listings no more; returns which it was, None where it was ended before."""
    site = Site.objects.filter(pk=number).first()
    if site is None or not Site.objects.filter(pk=number).delete()[0]:
        return None
    tell(Entry.Kind.PEOPLE, _("Ended %(site)s showing listings") % {"site": site.origin}, actor=actor)
    return site
