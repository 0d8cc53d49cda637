"""Pictures in: PNG, JPEG, TIFF and WebP become upright sRGB with straight alpha, 8 bits a channel."""

import hashlib
import io
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, UnidentifiedImageError

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import bands
from swaddon.core.errors import PlanError
from swaddon.core.press.processes import USUAL
from swaddon.io import apart, drawings, layers, profiles
from swaddon.io.colour_managed import is_srgb, to_srgb
from swaddon.io.names import refuse_odd, shown
from swaddon.io.stated_size import stated_ppi, tiff_ppi, width_mm
from swaddon.io.tiff_in import is_tiff, read_tiff

FORMATS = {"PNG": (".png",), "JPEG": (".jpg", ".jpeg"), "TIFF": (".tif", ".tiff"), "WEBP": (".webp",)}
KINDS = "PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster"
SUFFIXES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".svg", ".svgz", ".pdf", ".ora")
LARGEST_PIXELS = 250_000_000
LARGEST_BYTES = 2_000_000_000
_BYTES_IN_WORK = 12  # a pixel's, while it is read, spread and converted

Image.MAX_IMAGE_PIXELS = None  # the limit above is checked on the header, with a sentence of our own

Array = NDArray[Any]


def read_artwork(path: Path, page: int = 1) -> Artwork:
    """Artwork from a file; ``page`` counts from 1 and is read for PDF.

    Raises
    ------
    PlanError
        One sentence: what is wrong with which file, and what to do.
    """
    name = shown(path)
    if path.is_dir():
        raise PlanError(f"“{name}” is a folder: give a {KINDS} file inside it.")
    refuse_odd(path)
    try:
        size = path.stat().st_size
        if size > LARGEST_BYTES:
            raise PlanError(f"“{name}” is larger than 2 GB: save the artwork at its print size, 300 ppi.")
        data = path.read_bytes()
    except FileNotFoundError as error:
        raise PlanError(f"There is no file “{name}” at the given place: check the path.") from error
    except OSError as error:
        why = profiles.reason(error)
        raise PlanError(f"“{name}” cannot be read ({why}): check its permissions.") from error
    return decode_artwork(data, name, page)


def decode_artwork(data: bytes, name: str, page: int = 1) -> Artwork:
    """Artwork from the bytes of a file called ``name``; raises as :func:`read_artwork`."""
    if not data:
        raise PlanError(f"“{name}” is empty (0 bytes): save or copy the artwork again.")
    if drawings.is_drawing(data):
        return drawings.decode_drawing(data, name, page)
    if layers.is_openraster(data):
        return layers.decode_openraster(data, name)
    return _decode_picture(data, name)


def _decode_picture(data: bytes, name: str) -> Artwork:
    if is_tiff(data):
        made = _decode_tiff(data, name)
        if made is not None:
            return made
    try:
        head = Image.open(io.BytesIO(data), formats=tuple(FORMATS))
    except UnidentifiedImageError as error:
        raise PlanError(
            f"“{name}” is not a {KINDS} file, whatever its name says: export the artwork as PNG."
        ) from error
    except Exception as error:
        raise PlanError(_DAMAGED.format(name)) from error
    if head.width * head.height > LARGEST_PIXELS:
        raise PlanError(
            f"“{name}” has {head.width} × {head.height} px, more than the {LARGEST_PIXELS // 1_000_000} megapixels "
            "that Swaddon reads: save it at its print size, 300 ppi."
        )
    with _told(name):
        ppi, orientation = stated_ppi(head, data), _orientation(head, data)
        rgba, has_alpha, notes = _decode_apart(data, name) if head.format == "TIFF" else _decode(head, data)
        turned = _upright(rgba, orientation)
    if turned is not rgba:
        notes = [*notes, "turned upright as its EXIF data says"]
    kind = "JPEG" if head.format == "MPO" else str(head.format)
    size_mm = width_mm(ppi, (turned.shape[1], turned.shape[0]), orientation)
    return _artwork(turned, data, name, kind, has_alpha, notes, head.info.get("icc_profile"), size_mm)


def _artwork(
    rgba: Array, data: bytes, name: str, file_format: str, has_alpha: bool, notes: list[str], icc: bytes | None,
    stated_mm: float | None,
) -> Artwork:  # fmt: skip
    rgba.flags.writeable = False
    return Artwork(
        rgba=rgba,
        content_id=hashlib.blake2b(data, digest_size=16).hexdigest(),
        file_name=name,
        file_format=file_format,
        has_alpha=has_alpha,
        notes=tuple(notes),
        profile=_profile_name(icc),
        natural_width_mm=stated_mm,
    )


def _decode_tiff(data: bytes, name: str) -> Artwork | None:
    """A TIFF read sample by sample; ``None``: the general reader serves it better."""
    with _told(name):
        samples = read_tiff(data, name, LARGEST_PIXELS)
        if samples is None:
            return None
        rgba, has_alpha, notes = _to_srgb(
            samples.colour, samples.alpha, samples.icc, samples.is_cmyk, list(samples.notes)
        )
        turned = _upright(rgba, samples.orientation)
    if turned is not rgba:
        notes = [*notes, "turned upright as its EXIF data says"]
    size_mm = width_mm(tiff_ppi(data), (turned.shape[1], turned.shape[0]), samples.orientation)
    return _artwork(turned, data, name, "TIFF", has_alpha, notes, samples.icc, size_mm)


_TELL_ORIENTATION = (b"eXIf", b"Raw profile type exif", b"XML:com.adobe.xmp")


def _orientation(head: Image.Image, data: bytes) -> int:
    """EXIF orientation; for PNG only when something may tell it, since asking decodes the whole picture."""
    if head.format == "PNG" and not any(mark in data for mark in _TELL_ORIENTATION):
        return 1
    return int(head.getexif().get(0x0112, 1))


_DAMAGED = "“{}” is damaged or cut short: save or copy the artwork again."


@contextmanager
def _told(name: str) -> Iterator[None]:
    """Whatever stops a decoder is told in one sentence."""
    try:
        yield
    except PlanError:
        raise
    except MemoryError as error:
        raise PlanError(f"“{name}” needs more memory than there is: save it at its print size.") from error
    except Exception as error:
        raise PlanError(_DAMAGED.format(name)) from error


def _decode_apart(data: bytes, name: str) -> tuple[Array, bool, list[str]]:
    value, (rgba,) = apart.run(opened, data, name)
    return rgba, bool(value["has_alpha"]), list(value["notes"])


def opened(data: bytes, name: str) -> tuple[Any, apart.Arrays]:
    """A TIFF that the general reader serves best, for :func:`apart.run`; sRGB and alpha, and what was done to it."""
    with _told(name):
        head = Image.open(io.BytesIO(data), formats=("TIFF",))
        apart.make_room(_BYTES_IN_WORK * head.width * head.height)
        rgba, has_alpha, notes = _decode(head, data)
    return {"has_alpha": has_alpha, "notes": notes}, [rgba]


def _decode(head: Image.Image, data: bytes) -> tuple[Array, bool, list[str]]:
    icc = head.info.get("icc_profile")
    if head.format == "PNG" and head.mode not in ("P", "PA"):
        # Pillow compares a level that means nothing with samples it has spread, or cut to 8 bits, before.
        array = _decode_png(data, "transparency" in head.info)
        notes = ["reduced from 16 to 8 bits"] if array.dtype == np.uint16 else []
        return _split(array, icc, notes)
    return _decode_with_pillow(head, icc)


def _decode_png(data: bytes, has_clear_level: bool) -> Array:
    import imagecodecs

    if not has_clear_level:
        with suppress(imagecodecs.SpngError):
            return np.asarray(imagecodecs.spng_decode(data))
    return np.asarray(imagecodecs.png_decode(data))


def _split(array: Array, icc: bytes | None, notes: list[str]) -> tuple[Array, bool, list[str]]:
    """Grey, grey + alpha, RGB or RGBA samples to sRGB + alpha."""
    if array.ndim == 2:
        array = array[..., None]
    has_alpha = array.shape[2] in (2, 4)
    if has_alpha and array.shape[2] == 4 and (icc is None or is_srgb(icc)):
        return np.ascontiguousarray(eight_bits(array)), True, notes
    alpha = array[..., -1] if has_alpha else None
    colour = array[..., :-1] if has_alpha else array
    return _to_srgb(colour, alpha, icc, False, notes)


def _decode_with_pillow(head: Image.Image, icc: bytes | None) -> tuple[Array, bool, list[str]]:
    head.load()
    if head.mode == "CMYK":
        return _to_srgb(np.asarray(head), None, icc, True, [])
    has_alpha = head.has_transparency_data
    if head.mode in ("P", "PA", "1", "RGBa", "La", "I", "F", "I;16", "YCbCr", "LAB", "HSV") or (
        has_alpha and head.mode not in ("RGBA", "LA")
    ):
        head = head.convert("RGBA" if has_alpha else "RGB")
    return _split(np.asarray(head), icc, [])


def eight_bits(array: Array) -> NDArray[np.uint8]:
    """Samples reduced to 8 bits with rounding; floats are taken as 0..1."""
    if array.dtype == np.uint8:
        return array
    out = np.empty(array.shape, np.uint8)
    top = float(np.iinfo(array.dtype).max) if np.issubdtype(array.dtype, np.integer) else 1.0
    for rows in bands(array.shape[0]):
        values = np.nan_to_num(array[rows].astype(np.float32)) * np.float32(255 / top)
        out[rows] = np.clip(values + np.float32(0.5), 0, 255)
    return out


def _to_srgb(
    colour: Array, alpha: Array | None, icc: bytes | None, is_cmyk: bool, notes: list[str]
) -> tuple[Array, bool, list[str]]:
    out = np.empty((*colour.shape[:2], 4), np.uint8)
    out[..., 3] = 255 if alpha is None else eight_bits(alpha)
    managed = bool(icc) and (is_cmyk or colour.shape[2] != 3 or not is_srgb(icc or b""))
    fine = colour if colour.dtype == np.uint16 else eight_bits(colour)
    converted = to_srgb(fine, icc, is_cmyk) if icc and managed else None
    if managed and converted is None:
        notes = [*notes, "its colour profile does not fit its samples and was left out"]
    if converted is not None:
        out[..., :3] = converted
        notes = [*notes, "converted to sRGB through its colour profile"]
    elif is_cmyk:
        _generic_cmyk_to_srgb(np.ascontiguousarray(eight_bits(colour)), out)
        notes = [*notes, "CMYK without a colour profile, read as generic offset print"]
    else:
        out[..., :3] = eight_bits(colour)
    return out, alpha is not None, notes


def _profile_of(icc: bytes) -> ImageCms.ImageCmsProfile:
    return ImageCms.ImageCmsProfile(io.BytesIO(icc))


def _profile_name(icc: bytes | None) -> str:
    """Description of an embedded profile, empty without one."""
    if not icc:
        return ""
    try:
        return ImageCms.getProfileDescription(_profile_of(icc)).strip()
    except (OSError, ImageCms.PyCMSError):
        return "unreadable, taken as sRGB"


def _generic_cmyk_to_srgb(cmyk: Array, out: Array) -> None:
    """CMYK by the generic inks' forward model, paper to white and the darkest print to black."""
    from swaddon.core.colour.spaces import srgb8_from_bands
    from swaddon.core.inks.separation import transmittance

    separation = profiles.shipped(USUAL).separation
    primaries = separation.primaries()
    black = primaries[-1]
    for rows in bands(cmyk.shape[0], 64):
        codes = np.ascontiguousarray(cmyk[rows]).view(np.uint32)[..., 0]
        distinct, place = np.unique(codes, return_inverse=True)
        inks = distinct.view(np.uint8).reshape(-1, 4) / 255
        seen = transmittance(inks, primaries, separation.yule_nielsen_n)
        rgb = srgb8_from_bands(np.clip((seen - black) / (1 - black), 0, 1))
        out[rows, :, :3] = rgb[place.reshape(codes.shape)]


def _upright(rgba: Array, orientation: int) -> Array:
    """The picture as EXIF orientation 1 to 8 means it (Exif 2.32, tag 0x0112)."""
    turned = {
        2: lambda a: a[:, ::-1],
        3: lambda a: a[::-1, ::-1],
        4: lambda a: a[::-1],
        5: lambda a: a.transpose(1, 0, 2),
        6: lambda a: a.transpose(1, 0, 2)[:, ::-1],
        7: lambda a: a[::-1, ::-1].transpose(1, 0, 2),
        8: lambda a: a.transpose(1, 0, 2)[::-1],
    }.get(orientation)
    return rgba if turned is None else np.ascontiguousarray(turned(rgba))
