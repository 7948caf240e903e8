"""Pictures of bins given as files: read, made small, kept once."""

from hashlib import sha256
from io import BytesIO

from django.utils.translation import gettext as _
from PIL import Image, ImageOps, UnidentifiedImageError

from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Picture

from .actors import Actor
from .locks import Refused

KINDS = ("PNG", "JPEG", "WEBP", "GIF")
MOST_BYTES = 8 << 20
_MOST_PIXELS = 40_000_000
_SIDE = 480  # pixels; shoppers see it at a quarter of that, on fine screens at half
_QUALITY = 88


@needs(Act.DRAFT)
def keep_picture(data: bytes, *, actor: Actor) -> str:
    """Keep a picture and return the address by which it is shown. Raises Refused where it is none, or too large.

    It is read and written anew, so that nothing but its picture is kept: no place, no camera, nothing hidden behind it.
    """
    if len(data) > MOST_BYTES:
        raise Refused(_("The picture has more than 8 MB. Make it smaller: it is shown at 480 pixels at most."))
    try:
        with Image.open(BytesIO(data), formats=KINDS) as image:
            if image.width * image.height > _MOST_PIXELS:
                raise Refused(_("The picture has more than 40 million pixels. Make it smaller: it is shown at 480 pixels at most."))
            upright = ImageOps.exif_transpose(image).convert("RGBA")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise Refused(_("That is no picture that can be read. Take a PNG, JPEG, WebP or GIF file.")) from error
    upright.thumbnail((_SIDE, _SIDE))
    upright.info.clear()
    written = BytesIO()
    upright.save(written, "WEBP", quality=_QUALITY)
    name = sha256(written.getvalue()).hexdigest()
    picture, _is_new = Picture.objects.get_or_create(name=name, defaults={"data": written.getvalue()})
    return picture.address
