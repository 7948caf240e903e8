"""Addresses of a bench: the page with some of its parameters changed."""

from collections.abc import Callable
from urllib.parse import urlencode

Address = Callable[..., str]


def page_address(path: str, kept: dict[str, str]) -> Address:
    """Return what gives the address of a page with some parameters changed; empty ones fall away."""

    def address(**changed: object) -> str:
        named = {name: str(value) for name, value in {**kept, **changed}.items() if value not in ("", None)}
        return f"{path}?{urlencode(named)}" if named else path

    return address
