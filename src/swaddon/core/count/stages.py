"""Stages that count: areas and amounts with and without holes, hand, and what each knockout leaves out."""

from dataclasses import dataclass

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.count.coverage import TotalCoverage, total_coverage_of
from swaddon.core.count.hand import Hand, hand
from swaddon.core.count.measure import Measures, measure
from swaddon.core.engine import of, settle, stage
from swaddon.core.inks.stages import Inks
from swaddon.core.knockout.stages import Knocked
from swaddon.core.press.profile import PressProfile
from swaddon.core.proof.optics import printed_share


@dataclass(frozen=True)
class GridSettings:
    """Resolution of the grid."""

    ppi: float


def measures(inks: Inks, white: Plane, highlight: Plane | None, knocked: Knocked, settings: GridSettings) -> Measures:
    """Counts of the print."""
    return measure(inks, white, settings.ppi, knocked.removed_px, highlight)


@dataclass(frozen=True)
class LimitSettings:
    """Largest C+M+Y+K in percent."""

    limit_percent: float = of("profile.separation.total_area_limit")


def total_coverage(inks: Inks, settings: LimitSettings) -> TotalCoverage:
    """Where most ink lies on one spot, against what the press takes."""
    return total_coverage_of(inks, settings.limit_percent)


def whole_measures(
    separated: Inks,
    whole_white: Plane,
    whole_highlight: Plane | None,
    cut: Mask | None,
    measures: Measures,
    settings: GridSettings,
) -> Measures:
    """Counts of the print as it would be without holes."""
    if cut is None:
        return measures
    return measure(separated, whole_white, settings.ppi, measures.removed_px, whole_highlight)


@dataclass(frozen=True, eq=False)
class Hands:
    """Hand of the print, and as it would be without holes."""

    own: Hand
    whole: Hand


@dataclass(frozen=True)
class PressSettings:
    """The press, whatever its supplies cost."""

    profile: PressProfile

    def __post_init__(self) -> None:
        settle(self, profile=self.profile.unpriced())


def hands(
    separated: Inks,
    whole_white: Plane,
    cut: Mask | None,
    measures: Measures,
    whole_measures: Measures,
    artwork_px: int,
    settings: PressSettings,
) -> Hands:
    """How soft and how open the print is."""
    whole, profile = whole_measures, settings.profile
    mask = printed_share(separated, whole_white)
    before = hand(whole, whole.printed_px, mask, profile, artwork_px)
    if cut is None:
        return Hands(before, before)
    own = np.asarray(cv2.bitwise_and(mask, cut), np.uint8)
    return Hands(hand(measures, whole.printed_px, own, profile, artwork_px), before)


STAGES = (
    stage(measures, 2, "Measuring"),
    stage(whole_measures, 2),
    stage(hands, 1, "Judging the hand"),
    stage(total_coverage, 1),
)
