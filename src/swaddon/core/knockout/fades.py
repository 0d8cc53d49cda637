"""What becomes of half-transparent pixels: kept, cut hard, or (fades) given to a screen."""

from dataclasses import dataclass

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of
from swaddon.core.colour.spaces import XYZ_D50_FROM_SRGB, Rgb, linear_table
from swaddon.core.knockout.settings import AlphaTreatment

_BLACK = 1e-3
"""Sum of two square-root encoded lights below which both are black."""


@dataclass(frozen=True, eq=False)
class Treated:
    """Artwork after the treatment.

    Attributes
    ----------
    art
        ``uint8 (H, W, 4)``; screened fades are opaque here, and gone where their tone is nothing.
    tone
        ``uint8 (H, W)``: tone that a screened fade is cut to, 0 elsewhere; ``None`` when nothing is screened.
    soft_before, soft
        Masks (255) of fades before and after the treatment.
    """

    art: Rgba
    tone: Plane | None
    soft_before: Mask
    soft: Mask


def rim_enlargement(treatment: AlphaTreatment, enlargement: float) -> float:
    """How far edges count as having grown, by pixels of the grid for one of the artwork.

    An edge that grew is cut, not screened. Where it is kept it counts as a fade, so that its white follows it to the
    end.
    """
    return enlargement if treatment.kind == "screen" else 1.0


def treat(art: Rgba, before: Mask, treatment: AlphaTreatment, garment: Rgb) -> Treated:
    """Treat the half-transparent pixels of ``art`` (``uint8 (H, W, 4)``, straight alpha) on a garment.

    ``before`` is the mask (255) of its fades.
    """
    soft = before
    if treatment.haze_below > 0 and cv2.countNonZero(soft):
        art, soft = _without_haze(art, soft, treatment.haze_below)
    if treatment.kind == "keep":
        return Treated(art, None, before, soft)
    alpha = alpha_of(art)
    if not cv2.countNonZero(cv2.inRange(alpha, 1, 254)):
        return Treated(art, None, before, soft)
    full = np.asarray(cv2.inRange(alpha, treatment.level * 255, 255), np.uint8)
    tone = None
    if treatment.kind == "screen" and cv2.countNonZero(soft):
        tone = fade_tone(art, soft, garment)
        full = np.where(soft > 0, np.where(tone > 0, np.uint8(255), np.uint8(0)), full)
    out = art.copy()
    cv2.insertChannel(full, out, 3)
    return Treated(out, tone, before, np.zeros_like(alpha))


def _without_haze(art: Rgba, soft: Mask, below: float) -> tuple[Rgba, Mask]:
    """Artwork without the part of its fades that is thinner than ``below`` (0..1)."""
    alpha = alpha_of(art)
    thin = cv2.bitwise_and(soft, cv2.inRange(alpha, 1, max(1, int(below * 255))))
    out = art.copy()
    alpha = alpha.copy()
    alpha[thin > 0] = 0
    cv2.insertChannel(alpha, out, 3)
    return out, np.asarray(cv2.bitwise_and(soft, cv2.bitwise_not(thin)), np.uint8)


def fade_tone(art: Rgba, soft: Mask, garment: Rgb) -> Plane:
    """``uint8 (H, W)``: the share of dots that looks like the artwork's blend into the cloth; 0 where not soft.

    A screen blends light, an sRGB blend does not. With a square-root encoding, ink f² over cloth g² blended at α is
    (αf + (1 − α)g)²; dots of share a give a·f² + (1 − a)·g². Equal for a = α(α(f − g) + 2g) / (f + g), which rises
    from 0 to 1 with α; for black on black, where every share looks alike, a = α.
    """
    ys, xs = np.nonzero(soft)
    alpha = art[ys, xs, 3].astype(np.float32) / 255
    luminance = XYZ_D50_FROM_SRGB[1].astype(np.float32)
    f = np.sqrt(linear_table()[art[ys, xs, :3]] @ luminance)
    g = np.sqrt(linear_table()[list(garment)] @ luminance)
    both = f + g
    share = np.where(both > _BLACK, alpha * (alpha * (f - g) + 2 * g) / np.maximum(both, _BLACK), alpha)
    out = np.zeros(art.shape[:2], np.uint8)
    out[ys, xs] = np.clip(share * 255 + 0.5, 0, 255)
    return out
