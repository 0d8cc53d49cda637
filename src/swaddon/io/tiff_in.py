"""A TIFF's first page: unsigned samples of any depth and floats, grey, RGB or CMYK, with associated or plain alpha."""

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core.errors import PlanError
from swaddon.io import apart
from swaddon.io.colour_managed import sixteen_bits

_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB, _PALETTE, _SEPARATED = 0, 1, 2, 3, 5
_ASSOCIATED, _UNASSOCIATED = 1, 2
_UNSIGNED, _FLOAT = 1, 3
_OLD_JPEG, _JPEG = 6, 7
_REDUCED, _MASK, _MOST_PAGES = 1, 4, 200
_MOST_CHANNELS = 8
"""Channels that room is made for (assumed): files of many spots are read within the bound, or not at all."""

_ICC_TAG, _ORIENTATION_TAG = 34675, 274
_MAGIC = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")


@dataclass(frozen=True, eq=False)
class Samples:
    """Colour ``(H, W, 1 | 3 | 4)`` and alpha ``(H, W)``, ``uint8``; colour profile and EXIF orientation.

    Colours of more than 8 bits with a profile are ``uint16``: they are reduced when they were converted.
    """

    colour: NDArray[np.uint8] | NDArray[np.uint16]
    alpha: NDArray[np.uint8] | None
    is_cmyk: bool
    notes: tuple[str, ...]
    icc: bytes | None
    orientation: int


def is_tiff(data: bytes) -> bool:
    """Whether bytes begin like a TIFF or BigTIFF."""
    return data[:4] in _MAGIC


def read_tiff(data: bytes, name: str, most_px: int) -> Samples | None:
    """First page of a TIFF that is no smaller copy of another, read in a process of its own.

    ``None`` when the general image reader serves it better (JPEG inside, palette).

    Raises
    ------
    PlanError
        When it holds what is not read; the sentence says what and what to do.
    ValueError
        It is damaged.
    """
    facts, arrays = apart.run(opened, data, name, most_px)
    if facts is None:
        return None
    alpha = arrays[1] if facts["has_alpha"] else None
    icc = arrays[-1].tobytes() if facts["has_icc"] else None
    return Samples(arrays[0], alpha, facts["is_cmyk"], tuple(facts["notes"]), icc, facts["orientation"])


def opened(data: bytes, name: str, most_px: int) -> tuple[dict[str, Any] | None, list[NDArray[Any]]]:
    """What a TIFF says of itself; its colour, alpha and profile; worked out in a process apart."""
    import tifffile

    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = _first_whole(file.pages)
        if page.photometric == _PALETTE or int(page.compression) in (_OLD_JPEG, _JPEG):
            return None, []
        _check(page, name, most_px)
        # the samples, and twice over on the way to 8 bits
        apart.make_room(4 * int(page.imagewidth) * int(page.imagelength) * _pixel_bytes(page))
        array = _decoded(page, name)
        icc = page.tags.get(_ICC_TAG)
        turned = page.tags.get(_ORIENTATION_TAG)
    profile = None if icc is None else bytes(icc.value)
    found = _samples(page, array, profile, 1 if turned is None else int(turned.value))
    facts = {
        "is_cmyk": found.is_cmyk,
        "notes": found.notes,
        "orientation": found.orientation,
        "has_alpha": found.alpha is not None,
        "has_icc": bool(profile),
    }
    parts: list[Any] = [found.colour, found.alpha, np.frombuffer(profile, np.uint8) if profile else None]
    return facts, [part for part in parts if part is not None]


def _first_whole(pages: Any) -> Any:
    """The first page that is neither a reduced picture nor a mask (TIFF 6.0, NewSubfileType); else the first of all."""
    for at, page in enumerate(pages):
        if at == _MOST_PAGES:
            break
        if not int(page.subfiletype or 0) & (_REDUCED | _MASK):
            return page
    return pages[0]


def _check(page: Any, name: str, most_px: int) -> None:
    """Refuse what would be read wrongly."""
    width, height = int(page.imagewidth), int(page.imagelength)
    if width * height > most_px:
        raise PlanError(
            f"“{name}” has {width} × {height} px, more than the {most_px // 1_000_000} megapixels that Swaddon reads: "
            "save it at its print size, 300 ppi."
        )
    if int(page.photometric) not in (_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB, _SEPARATED):
        raise PlanError(f"The colours of “{name}” are stored as {page.photometric.name}: save it as RGB, grey or CMYK.")
    if int(page.imagedepth) != 1 or isinstance(page.bitspersample, tuple):
        raise PlanError(f"The samples of “{name}” are laid out in a way that is not read: save it with 8 or 16 bits.")
    if int(page.sampleformat) not in (_UNSIGNED, _FLOAT):
        raise PlanError(f"“{name}” holds signed or complex numbers, not a picture's: save it with 8 or 16 bits.")
    if int(page.samplesperpixel) < {_RGB: 3, _SEPARATED: 4}.get(int(page.photometric), 1):
        raise PlanError(f"“{name}” has fewer channels than its colours need: save the artwork again.")


def _pixel_bytes(page: Any) -> int:
    return min(int(page.samplesperpixel), _MOST_CHANNELS) * max(1, int(page.bitspersample) // 8)


def _decoded(page: Any, name: str) -> NDArray[Any]:
    import imagecodecs

    try:
        return np.asarray(page.asarray())
    except (imagecodecs.DelayedImportError, KeyError, NotImplementedError) as error:
        raise _unknown_compression(page, name) from error
    except ValueError as error:
        if "compression" in str(error).lower() or "codec" in str(error).lower():
            raise _unknown_compression(page, name) from error
        raise


def _unknown_compression(page: Any, name: str) -> PlanError:
    kind = getattr(page.compression, "name", str(page.compression))
    return PlanError(f"“{name}” is compressed as {kind}, which is not read: save it with LZW or ZIP, or without.")


def _samples(page: Any, array: NDArray[Any], icc: bytes | None, orientation: int) -> Samples:
    if array.ndim == 2:
        array = array[..., None]
    elif int(page.planarconfig) == 2:
        array = np.moveaxis(array, 0, -1)
    photometric, extras = int(page.photometric), tuple(int(kind) for kind in page.extrasamples)
    own = {_RGB: 3, _SEPARATED: 4}.get(photometric, 1)
    has_alpha = bool(extras) and extras[0] in (_ASSOCIATED, _UNASSOCIATED) and array.shape[2] > own
    notes = []
    bits, is_float = int(page.bitspersample), int(page.sampleformat) == _FLOAT
    if is_float:
        notes.append(f"floating point of {bits} bits, taken as 0 to 1 and reduced to 8 bits")
    elif bits > 8:
        notes.append(f"reduced from {bits} to 8 bits")
    if not has_alpha and extras:
        notes.append("channels beside the colours left out")
    top = 1.0 if is_float else float(2**bits - 1)
    colour = array[..., :own]
    if photometric == _WHITE_IS_ZERO:
        colour = np.asarray(top).astype(colour.dtype) - colour if colour.dtype != np.bool_ else ~colour
    alpha = array[..., own] if has_alpha else None
    if alpha is not None and extras[0] == _ASSOCIATED:
        colour = _divided(colour, alpha, top)
    keeps = icc is not None and colour.dtype.itemsize > 1
    kept = sixteen_bits(colour, top) if keeps else reduced(colour, top)
    return Samples(
        kept, None if alpha is None else reduced(alpha, top), photometric == _SEPARATED, tuple(notes), icc, orientation
    )


def reduced(samples: NDArray[Any], top: float) -> NDArray[np.uint8]:
    """Samples of 0 to ``top`` as 8 bits, rounded; what is beyond is cut, what is no number is 0."""
    if samples.dtype == np.uint8 and top == 255:
        return samples
    out = np.empty(samples.shape, np.uint8)
    for start in range(0, samples.shape[0], 256):
        rows = slice(start, start + 256)
        with np.errstate(invalid="ignore", over="ignore"):
            share = np.nan_to_num(samples[rows].astype(np.float64) / top, nan=0.0, posinf=1.0, neginf=0.0)
        out[rows] = np.clip(share, 0, 1) * 255 + 0.5
    return out


def _divided(colour: NDArray[Any], alpha: NDArray[Any], top: float) -> NDArray[Any]:
    """Colours freed of the alpha they were multiplied with."""
    share = np.maximum(alpha.astype(np.float64), 1e-6)[..., None] / top
    freed = np.clip(colour / share, 0, top)
    return np.asarray(freed if top == 1 else np.rint(freed).astype(colour.dtype))
