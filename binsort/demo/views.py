"""Line-art pictures of products, tinted by colour."""

from functools import cache
from pathlib import Path

from django.http import Http404, HttpRequest, HttpResponse

_FOLDER = Path(__file__).parent / "pictures"


@cache
def _drawings() -> dict[str, str]:
    return {path.stem: path.read_text() for path in _FOLDER.glob("*.svg")}


def picture(request: HttpRequest, kind: str, tint: str) -> HttpResponse:
    """Serve a picture of one kind of product in one colour."""
    drawing = _drawings().get(kind)
    if drawing is None:
        raise Http404("There is no such picture.")
    shade = "".join(f"{round(int(tint[place : place + 2], 16) * 0.72):02x}" for place in (0, 2, 4))
    body = drawing.replace("TINT", f"#{tint}").replace("SHADE", f"#{shade}")
    response = HttpResponse(body, content_type="image/svg+xml")
    response["Cache-Control"] = "public, max-age=86400"
    return response
