"""How planes become pictures: ink on paper, artwork on a check, trouble under hatches."""

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Plane
from swaddon.core.plan.trouble import KINDS, Kind

PAPER = np.array([232, 232, 232], np.float32)
INK_RGB = {"C": (0, 150, 205), "M": (200, 20, 110), "Y": (238, 205, 0), "K": (24, 24, 26)}

KIND_TITLES: dict[Kind, str] = {
    "haze": "Haze", "dots": "Dots too small", "peek": "White could peek", "rim": "Bare rim", "lost": "Lost lines",
}  # fmt: skip

HATCHES: dict[Kind, tuple[tuple[int, int, int], int, int]] = {
    "haze": ((120, 170, 210), 1, 1), "dots": ((235, 150, 40), 0, 1), "peek": ((255, 255, 255), 1, 0),
    "rim": ((235, 90, 80), 1, -1), "lost": ((255, 60, 160), 2, 1),
}  # fmt: skip
"""Colour of each hatch, and the steps in x and y that its lines count."""


def on_paper(ink: NDArray[np.uint8], rgb: tuple[int, int, int]) -> NDArray[np.uint8]:
    share = ink.astype(np.float32)[..., None] / 255
    return (PAPER + share * (np.array(rgb, np.float32) - PAPER) + 0.5).astype(np.uint8)


def on_check(grid: NDArray[np.uint8], taken: Plane) -> NDArray[np.uint8]:
    """Artwork on a neutral check; what knockouts take is hatched, what their soft edges thin is dotted.

    ``taken`` is 255 where a pixel went, ``THINNED`` where less of it is left.
    """
    height, width = grid.shape[:2]
    ys, xs = np.arange(height)[:, None], np.arange(width)
    ground = np.where((xs // 8 + ys // 8) % 2 == 0, np.float32(176), np.float32(164))[..., None]
    alpha = grid[..., 3:].astype(np.float32) / 255
    picture = ground + alpha * (grid[..., :3] - ground)
    lost = np.nonzero(taken > 191)
    line = ((lost[0] + lost[1]) % 8 < 2)[:, None]
    picture[lost] = np.where(line, 96, 0.45 * picture[lost] + 0.55 * 170)
    thin = np.nonzero((taken > 64) & (taken <= 191))
    dot = ((thin[0] % 6 < 2) & (thin[1] % 6 < 2))[:, None]
    picture[thin] = np.where(dot, 225, picture[thin])
    return (picture + 0.5).astype(np.uint8)


def hatched(ground: NDArray[np.uint8], kinds: Plane) -> NDArray[np.uint8]:
    """A picture with each kind of trouble under a hatch of its own (``kinds`` as in ``Trouble.plane``)."""
    ys, xs = np.mgrid[0 : kinds.shape[0], 0 : kinds.shape[1]]
    out = ground.copy()
    for index, kind in enumerate(KINDS, start=1):
        rgb, across, down = HATCHES[kind]
        chosen = kinds == index
        line = (xs * across + ys * down) % 5 < 3
        out[chosen & line] = rgb
        out[chosen & ~line] = (np.array(rgb) * 0.45).astype(np.uint8)
    return out


def worst_of_four(plane: Plane) -> Plane:
    """A plane of classes at half its size; the highest class of each block stays, so that no thin line is lost."""
    height, width = (side // 2 * 2 for side in plane.shape)
    across = np.maximum(plane[:height, 0:width:2], plane[:height, 1:width:2])
    return np.ascontiguousarray(np.maximum(across[0::2], across[1::2]))


def dim(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    grey = picture.mean(axis=2, keepdims=True)
    return (0.3 * grey + 0.2 * picture + 30).astype(np.uint8)


def every_second(plane: Plane) -> Plane:
    """A plane of classes at half its size: they cannot be averaged."""
    height, width = (side // 2 * 2 for side in plane.shape)
    return np.ascontiguousarray(plane[0:height:2, 0:width:2])


FOOTPRINT_RGB = {"nothing": (214, 214, 214), "white": (250, 250, 250), "ink": (128, 128, 128), "both": (38, 38, 40)}
"""Tones of what prints: nothing, white alone, ink alone, and ink on white."""

_PRINTS_FROM = 3
"""Coverage of 255 from which a pixel counts as printed; less is the trace of a fade."""


def footprint(ink: NDArray[np.uint8], white: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What prints at all, faint or full: white alone, ink alone, and both, each in a tone of its own."""
    out = np.empty((*ink.shape, 3), np.uint8)
    out[...] = FOOTPRINT_RGB["nothing"]
    has_ink, has_white = ink >= _PRINTS_FROM, white >= _PRINTS_FROM
    out[has_white & ~has_ink] = FOOTPRINT_RGB["white"]
    out[has_ink & ~has_white] = FOOTPRINT_RGB["ink"]
    out[has_ink & has_white] = FOOTPRINT_RGB["both"]
    return out


def one_tone(ink: NDArray[np.uint8], white: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What prints at all as one dark shape, so that white lettering shows as well as black."""
    out = np.empty((*ink.shape, 3), np.uint8)
    out[...] = FOOTPRINT_RGB["nothing"]
    out[(ink >= _PRINTS_FROM) | (white >= _PRINTS_FROM)] = FOOTPRINT_RGB["both"]
    return out


WHITE_TINT, TINT_GROUND = np.array([190, 214, 235], np.float32), np.array([112, 112, 112], np.float32)
"""White ink in a tint that can be seen, and the ground that it is seen on."""


def together(cmyk: NDArray[np.uint8], white: NDArray[np.floating] | None, inks: str) -> NDArray[np.uint8]:
    """Some inks laid over each other as filters, on paper or, with white among them, on its tint over grey.

    ``cmyk`` is ``uint8 (H, W, 4)``, ``white`` 0..1 ``(H, W)``.
    """
    if white is None:
        out = np.broadcast_to(PAPER, (*cmyk.shape[:2], 3)).astype(np.float32)
    else:
        out = TINT_GROUND + np.asarray(white, np.float32)[..., None] * (WHITE_TINT - TINT_GROUND)
    for ink, rgb in INK_RGB.items():
        if ink in inks:
            share = cmyk[..., "CMYK".index(ink)].astype(np.float32)[..., None] / 255
            out = out * (1 - share * (1 - np.array(rgb, np.float32) / PAPER))
    return np.clip(out + 0.5, 0, 255).astype(np.uint8)


OVER_RGB = ((235, 90, 80), (96, 20, 16))
"""Hatch of what lies above the limit."""

_SLOW_PERCENT = 40.0
"""Steps from pixel to pixel beyond this are edges of shapes, which need no line."""


def coverage_map(total: NDArray[np.floating], limit: float) -> NDArray[np.uint8]:
    """Total coverage in percent as a map: darker is more, lines at 100 and 200 %, a hatch above the limit."""
    grey = 236 - 190 * np.clip(total / max(limit, 1), 0, 1)
    step = np.floor(np.asarray(total) / 100 + 1e-6).astype(np.int16)
    edge = np.zeros(step.shape, np.bool_)
    for axis in (0, 1):
        slow = np.abs(np.diff(total, axis=axis)) < _SLOW_PERCENT
        met = slow & (np.diff(step, axis=axis) != 0)
        edge[tuple(slice(1, None) if at == axis else slice(None) for at in (0, 1))] |= met
    grey = np.where(edge, np.where(grey > 140, grey - 70, grey + 80), grey)
    out = np.repeat((grey + 0.5).astype(np.uint8)[..., None], 3, axis=2)
    over = np.asarray(total) > limit + 1
    ys, xs = np.mgrid[0 : step.shape[0], 0 : step.shape[1]]
    line = (xs + ys) % 6 < 3
    out[over & line], out[over & ~line] = OVER_RGB
    return out
