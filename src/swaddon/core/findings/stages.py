"""Stages that look: the artwork inspected, and all that is found in a plan."""

from dataclasses import dataclass

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import Mask, Plane, Rgba
from swaddon.core.count.coverage import TotalCoverage
from swaddon.core.count.measure import Measures
from swaddon.core.engine import Run, of, stage
from swaddon.core.findings import Finding, Scene, all_findings
from swaddon.core.findings.inspection import Inspection, distinct_colours, inspect
from swaddon.core.holes.holes import Zones
from swaddon.core.holes.screen import Cut
from swaddon.core.inks.stages import Inks
from swaddon.core.knockout.fades import Treated
from swaddon.core.knockout.islands import Island
from swaddon.core.knockout.stages import Knocked
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import PressProfile
from swaddon.core.press.wares import Ware, ware_of
from swaddon.core.sheet.grid import BUTT, SplitRules
from swaddon.core.sheet.media import Medium
from swaddon.core.white.check_stages import WhiteCheck
from swaddon.core.white.edges import EdgeTrouble
from swaddon.core.white.register import ChokeCurve
from swaddon.core.white.verdict import WhiteAdvice


@dataclass(frozen=True)
class InspectionSettings:
    """The artwork as it came, and the resolution it is printed at."""

    artwork: Artwork
    ppi: float


def inspection(knocked: Knocked, fades: Mask, settings: InspectionSettings, run: Run) -> Inspection:
    """What the artwork is like at print size."""
    artwork = settings.artwork
    colours = run.memo(("colours", artwork.content_id), lambda: distinct_colours(artwork.rgba))
    background = artwork.background
    return inspect(knocked.art, fades, settings.ppi, knocked.removed_px, colours, background)


@dataclass(frozen=True)
class FindingSettings:
    """All that was chosen: a finding may speak of any of it, and mend it."""

    artwork: Artwork
    profile: PressProfile
    ppi: float
    chosen: PlanSettings = of("settings")
    medium: Medium | None = None
    split_rules: SplitRules = BUTT
    ware: Ware | None = None


def findings(
    *,
    art: Rgba,
    soft: Mask,
    islands: tuple[Island, ...],
    took: tuple[int, ...],
    treated: Treated,
    zones: Zones | None,
    screens: Cut,
    inspection: Inspection,
    white: Plane,
    inks: Inks,
    white_alpha: Plane,
    design_exceptions: Mask | None,
    edges: EdgeTrouble,
    white_check: WhiteCheck,
    choke_curve: ChokeCurve,
    advice: WhiteAdvice,
    measures: Measures,
    total_coverage: TotalCoverage,
    settings: FindingSettings,
    run: Run,
) -> tuple[Finding, ...]:
    """All that is found in the plan, worst first."""
    return all_findings(
        Scene(
            artwork=settings.artwork,
            settings=settings.chosen,
            profile=settings.profile,
            art=art,
            soft=soft,
            islands=islands,
            took=took,
            treated=treated,
            zones=None if zones is None else zones.plane,
            screens=screens,
            inspection=inspection,
            white=white,
            cmyk=inks,
            fade=white_alpha,
            exceptions=design_exceptions,
            medium=settings.medium,
            split_rules=settings.split_rules,
            ware=settings.ware or ware_of(settings.profile.printing),
            edges=edges,
            strokes=white_check.strokes,
            choke=choke_curve,
            advice=advice,
            measures=measures,
            coverage=total_coverage,
            check=run.check,
            beside=run.beside,
        )
    )


EARLY_STAGES = (stage(inspection, 1, "Inspecting"),)
"""They need the artwork as it was placed; they come early, so that it can be let go."""

STAGES = (stage(findings, 4, "Looking for trouble"),)
