"""Samples of a TIFF: any depth, grey, RGB, palette or CMYK, with associated or plain alpha."""

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.core.plan.engine import PlanError

_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB, _PALETTE, _SEPARATED = 0, 1, 2, 3, 5
_ASSOCIATED, _UNASSOCIATED = 1, 2


@dataclass(frozen=True, eq=False)
class Samples:
    """Colour ``(H, W, 1 | 3 | 4)`` and alpha ``(H, W)`` in the file's own depth."""

    colour: NDArray[Any]
    alpha: NDArray[Any] | None
    is_cmyk: bool
    notes: tuple[str, ...]


def read_tiff(data: bytes, head: Image.Image) -> Samples | None:
    """First page of a TIFF; ``None`` when the general image reader serves it better (JPEG inside, 1 bit, palette)."""
    import tifffile

    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages[0]
        photometric = int(page.photometric)
        if photometric == _PALETTE or page.bitspersample == 1 or int(page.compression) in (6, 7):
            return None
        if photometric not in (_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB, _SEPARATED):
            raise PlanError(f"The TIFF's colours are stored as {page.photometric.name}: save it as RGB, grey or CMYK.")
        if sorted((page.imagewidth, page.imagelength)) != sorted(head.size):
            raise PlanError("The TIFF contradicts itself about its size: save the artwork again.")
        array = page.asarray()
        extras = tuple(int(kind) for kind in page.extrasamples)
    if array.ndim == 2:
        array = array[..., None]
    if int(page.planarconfig) == 2:
        array = np.moveaxis(array, 0, -1)
    own = {_RGB: 3, _SEPARATED: 4}.get(photometric, 1)
    colour = array[..., :own]
    alpha = array[..., own] if extras and extras[0] in (_ASSOCIATED, _UNASSOCIATED) else None
    notes = []
    if array.dtype.itemsize > 1:
        notes.append(f"reduced from {array.dtype.itemsize * 8} to 8 bits")
    if alpha is None and extras:
        notes.append("channels beside the colours left out")
    if photometric == _WHITE_IS_ZERO:
        colour = np.iinfo(colour.dtype).max - colour
    if alpha is not None and extras[0] == _ASSOCIATED:
        colour = _divided(colour, alpha)
    return Samples(colour, alpha, photometric == _SEPARATED, tuple(notes))


def _divided(colour: NDArray[Any], alpha: NDArray[Any]) -> NDArray[Any]:
    """Colours freed of the alpha they were multiplied with."""
    top = float(np.iinfo(colour.dtype).max) if np.issubdtype(colour.dtype, np.integer) else 1.0
    share = np.maximum(alpha.astype(np.float32), 1e-6)[..., None] / np.float32(top)
    return np.clip(colour / share + (0.5 if top > 1 else 0), 0, top).astype(colour.dtype)
