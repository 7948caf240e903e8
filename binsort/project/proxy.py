"""Who asks, where proxies stand in front."""

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """Return the address of a client: what the outermost of our own proxies saw, which nobody else can write.

    With no proxy in front it is the address of the connection, whatever a header says.
    """
    direct = str(request.META.get("REMOTE_ADDR", ""))
    addresses = [part.strip() for part in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",") if part.strip()]
    return addresses[-settings.PROXIES] if settings.PROXIES and len(addresses) >= settings.PROXIES else direct
