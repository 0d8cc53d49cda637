"""Hand: how heavy, how closed and how open a print is on the cloth."""

from dataclasses import dataclass

import cv2

from swaddon.core.artwork.raster import Mask
from swaddon.core.count.consumption import materials_of
from swaddon.core.count.measure import Measures
from swaddon.core.press.profile import PressProfile
from swaddon.core.units import pixel_area_mm2, px_from_mm

UNBROKEN_MM = 3.0
"""A patch is unbroken where a disc of this diameter finds ink all over (assumed)."""

_STEP_MM = 0.45


@dataclass(frozen=True)
class Hand:
    """How a print feels.

    Attributes
    ----------
    grams
        Ink and powder of the whole print.
    g_per_m2
        The same per area of the artwork, whatever of it is left out: a print that loses ink gets no stiffer.
    printed_g_per_m2
        The same per printed area: how heavy it is where there is any.
    largest_patch_cm2
        Largest unbroken patch.
    open_share
        Share of the printed figure that holes leave open.
    """

    grams: float
    g_per_m2: float
    printed_g_per_m2: float
    largest_patch_cm2: float
    open_share: float


def hand(measures: Measures, figure_px: int, mask: Mask, profile: PressProfile, artwork_px: int) -> Hand:
    """Judge a print.

    Parameters
    ----------
    measures
        Counts of the print.
    figure_px
        Pixels of the figure before holes were cut.
    mask
        Mask (255) of printed pixels.
    artwork_px
        Pixels of the artwork, before anything was taken out.
    """
    if figure_px == 0:
        return Hand(0.0, 0.0, 0.0, 0.0, 0.0)
    grams = sum(
        material.amount * material.supply.grams
        for material in materials_of(measures, profile)
        if material.kind in ("white", "colour", "powder")
    )
    pixel_m2 = pixel_area_mm2(measures.ppi) / 1e6
    of_artwork, of_print = grams / (max(figure_px, artwork_px) * pixel_m2), grams / (figure_px * pixel_m2)
    open_share = max(0.0, 1 - measures.printed_px / figure_px)
    return Hand(grams, of_artwork, of_print, largest_patch_mm2(mask, measures.ppi) / 100, open_share)


def largest_patch_mm2(mask: Mask, ppi: float) -> float:
    """Area in mm² of the largest connected place that a disc of ``UNBROKEN_MM`` covers without meeting a hole.

    Worked out on blocks of about half a millimetre that count as ink only when every pixel of them is.
    """
    block = max(1, int(px_from_mm(_STEP_MM, ppi)))
    height, width = (side // block * block for side in mask.shape)
    if height == 0 or width == 0:
        return 0.0
    size = (width // block, height // block)
    mean = cv2.resize(mask[:height, :width], size, interpolation=cv2.INTER_AREA)
    pad = cv2.copyMakeBorder(cv2.inRange(mean, 255, 255), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    unit_mm = block * 25.4 / ppi
    radius = UNBROKEN_MM / 2 / unit_mm
    depth = cv2.distanceTransform(pad, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    core = cv2.inRange(depth, radius, 1e9)
    if not cv2.countNonZero(core):
        return 0.0
    around = cv2.distanceTransform(cv2.bitwise_not(core), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    patch = cv2.inRange(around, -1.0, float(radius) - 0.5)
    _, _, stats, _ = cv2.connectedComponentsWithStats(patch, connectivity=4)
    return float(stats[1:, cv2.CC_STAT_AREA].max()) * unit_mm**2
