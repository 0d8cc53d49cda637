"""Photos from outside, checked and scaled down."""

import io
from pathlib import Path

from PIL import Image, ImageOps, UnidentifiedImageError

from swaddon.core.errors import PlanError
from swaddon.io.names import shown
from swaddon.io.profiles import reason

LONGEST_PX = 1600
_LARGEST_BYTES, _MOST_PX = 100_000_000, 200_000_000
_QUALITY = 82
MEDIA = "image/jpeg"


def read_photo(path: Path) -> bytes:
    """A photo as JPEG, upright, no side longer than ``LONGEST_PX``, without what else the file told.

    Raises
    ------
    PlanError
        One sentence: it cannot be read, is no picture, or far too large.
    """
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is larger than 100 MB and was not taken: take a smaller photo.")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The photo “{shown(path)}” cannot be read ({reason(error)}).") from error
    return photo_of(data, shown(path))


def photo_of(data: bytes, name: str) -> bytes:
    """:func:`read_photo` of bytes."""
    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "TIFF", "WEBP", "BMP")) as picture:
            if picture.width * picture.height > _MOST_PX:
                raise PlanError(f"“{name}” has over 200 million pixels and was not taken: take a smaller photo.")
            picture.draft("RGB", (LONGEST_PX, LONGEST_PX))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
            upright.thumbnail((LONGEST_PX, LONGEST_PX))
            out = io.BytesIO()
            upright.save(out, "JPEG", quality=_QUALITY)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise PlanError(f"“{name}” is no photo that can be read: give a JPEG, PNG, TIFF or WebP.") from error
    finally:
        Image.MAX_IMAGE_PIXELS = limit
    return out.getvalue()
