"""Garments by lightness: white goods, dark goods, and what lies between."""

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from swaddon.core.colour.spaces import Rgb, delta_e_2000, lab_from_srgb8

DARK_LIGHTNESS = 60.0
"""Garments below this L* need white to show colours as they are (assumed)."""

WHITE_LIGHTNESS, WHITE_CHROMA = 93.0, 5.0
"""Garments lighter and greyer than this count as white goods (assumed)."""


GoodsClass = Literal["light", "pastel", "mid", "dark"]

_DARK_BELOW, _LIGHT_FROM = 45.0, 72.0
_GREYISH, _STRONG = 18.0, 40.0
_BLACK_LIGHTNESS, _BLACK_CHROMA = 20.0, 10.0
"""Bounds in L* and C*ab between classes of goods (assumed)."""

_PALE_LIGHTNESS, _PALE_CHROMA = 90.0, 10.0
"""Off-white goods, and white art that is the cloth on them, are lighter and greyer than this (assumed)."""

SAME_CLOTH_DELTA_E = 6.0
"""Colours this near to the garment's count as its own, whatever their class (assumed)."""


def is_dark(garment: Rgb) -> bool:
    """Whether colours on this garment need white under them.

    >>> is_dark((27, 27, 31)), is_dark((224, 212, 186))
    (True, False)
    """
    return float(lab_from_srgb8(garment)[0]) < DARK_LIGHTNESS


def is_white(garment: Rgb) -> bool:
    """Whether the garment counts as white goods.

    >>> is_white((250, 250, 248)), is_white((224, 212, 186))
    (True, False)
    """
    lightness, a, b = lab_from_srgb8(garment)
    return bool(lightness >= WHITE_LIGHTNESS and np.hypot(a, b) <= WHITE_CHROMA)


def is_black(garment: Rgb) -> bool:
    """Whether the garment counts as black goods.

    >>> is_black((27, 27, 31)), is_black((31, 41, 68))
    (True, False)
    """
    return bool(_is_black(lab_from_srgb8(garment)))


def same_cloth(colours: ArrayLike, garment: Rgb) -> NDArray[np.bool_]:
    """Which colours, sRGB ``(…, 3)`` 0..255, are the garment's own, so that the cloth can stand for them.

    Black is black and white is white: art of #000000 and cloth of #1b1b1f are far apart for their ΔE00, since
    differences of dark colours weigh much in it, but nobody sees one printed on the other. They are told by class and
    lightness; all other colours by ΔE00.

    >>> same_cloth([(0, 0, 0), (27, 27, 31), (31, 41, 68), (60, 60, 60)], (27, 27, 31)).tolist()
    [True, True, False, False]
    >>> same_cloth([(255, 255, 255), (224, 212, 186)], (244, 240, 230)).tolist()
    [True, False]
    """
    lab, cloth = lab_from_srgb8(np.asarray(colours)), lab_from_srgb8(garment)
    alike = [delta_e_2000(lab, cloth) <= SAME_CLOTH_DELTA_E]
    for belongs in (_is_black, _is_pale):
        alike.append(belongs(lab) & belongs(cloth))
    return np.asarray(np.any(alike, axis=0))


def is_neutral_cloth(garment: Rgb) -> bool:
    """Whether a garment is black or off-white: art of its class is the cloth, whatever its exact value.

    >>> is_neutral_cloth((27, 27, 31)), is_neutral_cloth((31, 41, 68))
    (True, False)
    """
    lab = lab_from_srgb8(garment)
    return bool(_is_black(lab) or _is_pale(lab))


def _is_black(lab: NDArray[np.floating]) -> NDArray[np.bool_]:
    return (lab[..., 0] < _BLACK_LIGHTNESS) & (np.hypot(lab[..., 1], lab[..., 2]) <= _BLACK_CHROMA)


def _is_pale(lab: NDArray[np.floating]) -> NDArray[np.bool_]:
    return (lab[..., 0] >= _PALE_LIGHTNESS) & (np.hypot(lab[..., 1], lab[..., 2]) <= _PALE_CHROMA)


def goods_class(garment: Rgb) -> GoodsClass:
    """The class of a garment by its lightness and chroma: light goods are greyish, pastels tinted, strong colours mid.

    >>> [goods_class(rgb) for rgb in ((224, 212, 186), (150, 190, 220), (128, 128, 130), (31, 41, 68))]
    ['light', 'pastel', 'mid', 'dark']
    """
    lightness, a, b = lab_from_srgb8(garment)
    chroma = float(np.hypot(a, b))
    if lightness < _DARK_BELOW:
        return "dark"
    if lightness < _LIGHT_FROM or chroma > _STRONG:
        return "mid"
    return "light" if chroma <= _GREYISH else "pastel"


_NAMES: tuple[tuple[str, Rgb], ...] = (
    ("black", (20, 20, 22)), ("charcoal", (58, 58, 62)), ("grey", (128, 128, 130)), ("ash", (205, 205, 203)),
    ("white", (252, 252, 250)), ("natural", (226, 214, 188)), ("yellow", (242, 206, 60)), ("orange", (226, 110, 40)),
    ("red", (176, 32, 40)), ("burgundy", (96, 24, 40)), ("pink", (232, 160, 178)), ("purple", (92, 52, 120)),
    ("navy", (31, 41, 68)), ("royal blue", (36, 72, 160)), ("light blue", (150, 192, 226)), ("teal", (24, 110, 116)),
    ("green", (34, 120, 66)), ("forest green", (28, 62, 44)), ("olive", (96, 98, 54)), ("brown", (90, 62, 44)),
    ("sand", (196, 174, 136)), ("mint", (172, 218, 194)),
)  # fmt: skip
"""Plain words for cloth colours (invented list, no standard)."""


def named_colours() -> dict[str, Rgb]:
    """Colours by their plain words."""
    return dict(_NAMES)


def colour_word(rgb: Rgb) -> str:
    """The plain word for a garment's colour that comes nearest (ΔE00).

    >>> colour_word((27, 27, 31))
    'black'
    """
    apart = delta_e_2000(lab_from_srgb8(np.array([near for _, near in _NAMES])), lab_from_srgb8(rgb))
    return _NAMES[int(np.argmin(apart))][0]
