"""The shop's face for every template of it."""

from typing import Any

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from binsort.racks.models import ShopFace
from binsort.racks.shop_face import the_face
from binsort.tally.current import NotReady, current


def face_now() -> ShopFace:
    """Return what the shop calls itself, read once while nothing was committed; a shop without a name where nothing can be read."""
    try:
        return current().beside("face", the_face)
    except NotReady:
        return the_face()
    except (OperationalError, InterfaceError):
        return ShopFace()


def face(request: HttpRequest) -> dict[str, Any]:
    """Give templates the face, read only where one asks for it."""
    return {"face": SimpleLazyObject(face_now)}
