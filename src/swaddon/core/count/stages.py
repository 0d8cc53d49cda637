"""Stages that count: areas and amounts with and without holes, hand, and what each knockout leaves out."""

from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Plane, Rgba
from swaddon.core.count.coverage import TotalCoverage, total_coverage_of
from swaddon.core.count.hand import Hand, hand
from swaddon.core.count.measure import Measures, measure
from swaddon.core.count.savings import Worth, worth
from swaddon.core.engine import Run, of, settle, stage
from swaddon.core.inks.separation import Table
from swaddon.core.inks.stages import Inks
from swaddon.core.knockout.knockout import colour_counts
from swaddon.core.knockout.settings import Knockout
from swaddon.core.knockout.stages import Knocked
from swaddon.core.press.profile import PressProfile
from swaddon.core.proof.optics import printed_share
from swaddon.core.white.need import NeedTable
from swaddon.core.white.stages import DesignSettings, UnderSettings, white_under


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
    settings: PressSettings,
) -> Hands:
    """How soft and how open the print is."""
    whole, profile = whole_measures, settings.profile
    mask = printed_share(separated, whole_white)
    before = hand(whole, whole.printed_px, mask, profile)
    if cut is None:
        return Hands(before, before)
    own = np.asarray(cv2.bitwise_and(mask, cut), np.uint8)
    return Hands(hand(measures, whole.printed_px, own, profile), before)


@dataclass(frozen=True)
class WorthSettings(UnderSettings):
    """What is knocked out, and how white would lie under it."""

    knockouts: tuple[Knockout, ...] = of("settings.knockouts")
    design: DesignSettings | None = of("design_settings")

    def __post_init__(self) -> None:
        super().__post_init__()
        if not self.knockouts:
            settle(self, design=None, mode="none", limit=0.0)


def left_out(
    placed: Rgba,
    knocked: Knocked,
    ink_table: Table,
    need_table: NeedTable | None,
    settings: WorthSettings,
    run: Run,
) -> tuple[Worth, ...]:
    """Ink that each knockout leaves out."""

    def under(rgb: NDArray[np.uint8], cmyk: NDArray[np.floating]) -> NDArray[np.float64]:
        return white_under(rgb, cmyk, need_table, settings.percent)

    out = []
    for index in range(len(settings.knockouts)):
        assert settings.design is not None
        own = np.asarray(cv2.inRange(knocked.taken, index + 1, index + 1), np.uint8)
        codes, counts = run.beside("knocked", ("taken colours", index), partial(colour_counts, placed, own))
        design = settings.design
        out.append(worth(codes, counts, ink_table, design.ramp, under, design.prints_design_white))
    return tuple(out)


EARLY_STAGES = (stage(left_out, 1, "Counting what was saved"),)
"""They need the artwork; they come early, so that it can be let go."""

STAGES = (
    stage(measures, 2, "Measuring"),
    stage(whole_measures, 2),
    stage(hands, 1, "Judging the hand"),
    stage(total_coverage, 1),
)
