"""What will be seen: cloth, white as scattering film, inks as filters.

White over a ground Rg is Kubelka-Munk with no absorption (Kubelka 1948): R = (Rg + (1 − Rg)·S·X) / (1 + (1 − Rg)·S·X)
per band; S·X is the scatter of one full hit × amount. Inks multiply it by their transmittance T (Neugebauer), and their
surface reflects what no ground can take away (``separation.over_ground``). White that ends up on top of the colour is
computed as such: it covers cloth and colour.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Plane
from swaddon.core.colour.spaces import SRGB_FROM_BANDS, Rgb, bands_from_srgb8, encode_table
from swaddon.core.inks.separation import ToneCurves, covered, gloss, over_ground, transmittance
from swaddon.core.press.profile import PressProfile

FULL_WHITE = 32640
"""Value of a fine white plane at full coverage; highlight white on a full underbase makes it more."""

_MOST_WHITE = 2.0

_SPECK_MM, _SPECKS = 0.12, 512
"""Size of a speck of white that comes through toner (assumed), and specks on a side of the tile of them."""

FLAT_CLOTH = 128
"""Value of a cloth-lightness plane where the cloth has just its own colour."""


@dataclass(frozen=True)
class Appearance:
    """What the optical model needs to know of garment and profile."""

    garment: Rgb
    primaries: NDArray[np.float64]
    yule_nielsen_n: float
    scatter: float
    white_under: bool
    bleed_share: float = 0.0
    tone_curves: ToneCurves = ()

    @classmethod
    def of(cls, garment: Rgb, profile: PressProfile) -> "Appearance":
        separation = profile.separation
        return cls(
            garment=garment,
            primaries=separation.primaries(),
            yule_nielsen_n=separation.yule_nielsen_n,
            scatter=profile.scatter,
            white_under=profile.white_under_colour,
            bleed_share=profile.white.bleed_share,
            tone_curves=separation.tone_curves,
        )


def white_over(ground: NDArray[np.float64], scatter_amount: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """Reflectance of white over a ground, 0..1 (Kubelka 1948, scattering only).

    S·X = 4 on black gives 0.8; on white it changes nothing:

    >>> white_over(np.array([0.0, 1.0]), 4.0).tolist()
    [0.8, 1.0]
    """
    spread = (1 - ground) * scatter_amount
    return np.asarray((ground + spread) / (1 + spread))


def seen_bands(
    cmyk: NDArray[np.float64],
    white: NDArray[np.float64],
    ground: NDArray[np.float64],
    look: Appearance,
    through: NDArray[np.float64] | None = None,
) -> NDArray[np.float64]:
    """Band reflectances of inks and white (both 0..1) over a ground ``(..., 3)``.

    ``through`` is the share, 0..1, of the white's light that comes through the colour unfiltered; ``None``: the mean
    that the profile gives for this much white.
    """
    filtered = transmittance(covered(cmyk, look.tone_curves), look.primaries, look.yule_nielsen_n)
    amount = (white * look.scatter)[..., None]
    if not look.white_under:
        return white_over(over_ground(filtered, ground, look.primaries[-1]), amount)
    share = (bleed(white, look) if through is None else through)[..., None]
    return over_ground(filtered, white_over(ground, amount), look.primaries[-1], share)


def bleed(white: NDArray[np.floating], look: Appearance) -> NDArray[np.float64]:
    """Mean share of light that white of an amount, 0..1, scatters through the colour over it (toner)."""
    return np.asarray(look.bleed_share * np.clip(white, 0, 1), np.float64)


def speckle(
    white: NDArray[np.uint16], look: Appearance, x0_mm: float = 0.0, y0_mm: float = 0.0, px_per_mm: float = 0.0
) -> Plane:
    """How much of the white comes through the colour, ``uint8 (H, W)``, 255 = all of it.

    Where specks of ``_SPECK_MM`` can be seen they are drawn, some paler than others, with the same mean as without.
    """
    if look.bleed_share == 0:
        return np.zeros(white.shape, np.uint8)
    amount = np.minimum(white * np.float32(1 / FULL_WHITE), np.float32(1))
    seen = float(np.clip((px_per_mm * _SPECK_MM - 0.7) / 0.8, 0, 1))
    if seen == 0:
        return np.asarray(cv2.convertScaleAbs(amount, alpha=255 * look.bleed_share), np.uint8)
    height, width = white.shape
    step = 1 / (px_per_mm * _SPECK_MM)
    x0, y0 = (mm / _SPECK_MM % _SPECKS for mm in (x0_mm, y0_mm))
    matrix = np.array([[step, 0, x0], [0, step, y0]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    drawn = cv2.warpAffine(_specks(look.bleed_share), matrix, (width, height), flags=flags, borderMode=cv2.BORDER_WRAP)
    share = seen * np.asarray(drawn, np.float32) + np.float32((1 - seen) * look.bleed_share)
    return np.asarray(cv2.convertScaleAbs(share * amount, alpha=255), np.uint8)


@lru_cache(maxsize=4)
def _specks(share: float) -> NDArray[np.float32]:
    """A seamless tile of specks, 0..1, whose mean is ``share`` (up to 0.5)."""
    chance = np.random.default_rng(7).random((_SPECKS, _SPECKS), np.float32)
    return np.asarray(np.maximum(1 - chance / max(2 * share, 1e-6), 0), np.float32)


def fine_white(white: Plane) -> NDArray[np.uint16]:
    """White in 1/128 steps of its 8-bit values, so that reducing a dithered fade does not round it into bands.

    >>> fine_white(np.array([[0, 1, 255]], np.uint8)).tolist()
    [[0, 128, 32640]]
    """
    return np.left_shift(white, 7, dtype=np.uint16)


def both_whites(white: Plane, highlight: Plane | None, profile: PressProfile) -> NDArray[np.uint16]:
    """Fine white of underbase and highlight white (each ``uint8 (H, W)``) together, in units of full underbase.

    No colour lies over either where they meet, so that their scatter adds up.
    """
    fine = fine_white(white)
    if highlight is None or profile.scatter == 0:
        return fine
    gain = profile.highlight_scatter / profile.scatter
    most = FULL_WHITE * _MOST_WHITE
    return np.minimum(fine + np.rint(highlight * np.float32(128 * gain)), most).astype(np.uint16)


def printed_share(cmyk: NDArray[np.uint8], white: Plane) -> Plane:
    """255 where a pixel has any ink, else 0: reduced with the inks, it tells holes from thin ink.

    >>> cmyk = np.zeros((1, 3, 4), np.uint8)
    >>> cmyk[0, 1, 0] = 9
    >>> printed_share(cmyk, np.array([[0, 0, 3]], np.uint8)).tolist()
    [[0, 255, 255]]
    """
    words = np.ascontiguousarray(cmyk).view(np.uint32)[..., 0]
    out = np.empty(white.shape, np.uint8)
    kernel = fast.chosen("inked", printed_share_plain)
    fast.by_rows(white.shape[0], lambda rows: kernel(words[rows], white[rows], out[rows]))
    return out


def printed_share_plain(words: NDArray[np.uint32], white: Plane, out: Plane) -> None:
    """:func:`printed_share` in plain NumPy; ``words`` are the four inks of a pixel as one."""
    out[...] = ((words != 0) | (white > 0)).view(np.uint8) * np.uint8(255)


def seen(
    cmyk: NDArray[np.uint8],
    white: NDArray[np.uint16],
    look: Appearance,
    cloth: Plane | None = None,
    share: Plane | None = None,
    through: Plane | None = None,
) -> NDArray[np.uint8]:
    """sRGB picture of the print on the garment.

    Parameters
    ----------
    cmyk
        ``uint8 (H, W, 4)``, 255 = full coverage; contiguous.
    white
        ``uint16 (H, W)``, coverage of one hit, ``FULL_WHITE`` = full; contiguous (see :func:`fine_white`).
    look
        Garment and profile.
    cloth
        ``uint8 (H, W)``: lightness of the cloth's texture, 128 = plain; ``None`` for plain cloth.
    share
        ``uint8 (H, W)``: part of each pixel that is printed at all (:func:`printed_share`, reduced like the inks);
        the rest is bare cloth, and the eye averages their light. ``None``: the inks are spread over the whole pixel.
    through
        ``uint8 (H, W)``: share of white that comes through the colour (:func:`speckle`); ``None``: its mean.

    Returns
    -------
    ndarray
        ``uint8 (H, W, 3)``.
    """
    out = np.empty((*white.shape, 3), np.uint8)
    texture = np.full(white.shape, FLAT_CLOTH, np.uint8) if cloth is None else cloth
    part = np.full(white.shape, 255, np.uint8) if share is None else share
    bled = speckle(white, look) if through is None else through
    if look.tone_curves:
        cmyk, look = _printed_coverage(cmyk, part, look.tone_curves), replace(look, tone_curves=())
    _see(cmyk, white, texture, part, bled, look, out)
    return out


def _printed_coverage(cmyk: NDArray[np.uint8], share: Plane, curves: ToneCurves) -> NDArray[np.uint8]:
    """Coverage in print of inks as they were sent, where only a share of each pixel is printed at all."""
    table = np.rint(covered(np.repeat(np.arange(256)[:, None] / 255, 4, axis=1), curves) * 255).astype(np.uint8)
    whole = np.maximum(share, 1)[..., None]
    sent = np.minimum((cmyk.astype(np.uint32) * 255 + whole // 2) // whole, 255)
    printed = np.stack([table[sent[..., ink], ink] for ink in range(4)], axis=-1)
    return np.asarray((printed.astype(np.uint32) * share[..., None] + 127) // 255, np.uint8)


def seen_plain(
    cmyk: NDArray[np.uint8],
    white: NDArray[np.uint16],
    cloth: Plane,
    share: Plane,
    through: Plane,
    look: Appearance,
    out: NDArray[np.uint8],
) -> None:
    """:func:`seen` in plain NumPy."""
    ground = bands_from_srgb8(look.garment) * (cloth[..., None] / FLAT_CLOTH)
    ground = np.minimum(ground, 1)
    part = share / 255
    whole = np.maximum(part, 1 / 255)
    inks, under = np.minimum(cmyk / 255 / whole[..., None], 1), np.minimum(white / FULL_WHITE / whole, _MOST_WHITE)
    bands = seen_bands(inks, under, ground, look, through / 255)
    bands = part[..., None] * bands + (1 - part[..., None]) * ground
    light = np.clip(bands @ SRGB_FROM_BANDS.T, 0, 1)
    table = encode_table()
    out[...] = table[np.rint(light * (table.size - 1)).astype(np.intp)]


@fast.instead_of(seen_plain)
def _see(
    kernels: Any,
    cmyk: NDArray[np.uint8],
    white: NDArray[np.uint16],
    cloth: Plane,
    share: Plane,
    through: Plane,
    look: Appearance,
    out: NDArray[np.uint8],
) -> None:
    roots = (look.primaries ** (1 / look.yule_nielsen_n)).astype(np.float32)
    bands = bands_from_srgb8(look.garment).astype(np.float32)
    matrix = np.ascontiguousarray(SRGB_FROM_BANDS, np.float32)
    fast.by_rows(
        white.shape[0],
        lambda rows: kernels.seen(
            cmyk[rows], white[rows], cloth[rows], share[rows], through[rows], bands, roots, look.yule_nielsen_n,
            np.float32(look.scatter), look.white_under, gloss(look.primaries[-1]).astype(np.float32), matrix,
            encode_table(), out[rows],
        ),
    )  # fmt: skip
