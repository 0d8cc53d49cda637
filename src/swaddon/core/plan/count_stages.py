"""Stages that count and look: measures, hand, savings, inspection, findings."""

from collections.abc import Mapping
from functools import partial
from typing import Any

import cv2
import numpy as np

from swaddon.core import underbase
from swaddon.core.background import border_tolerance, uniform_border
from swaddon.core.findings import Finding, Scene, all_findings
from swaddon.core.hand import Hand, hand
from swaddon.core.holes import Zones
from swaddon.core.inspection import Inspection, distinct_colours, inspect
from swaddon.core.knockout import colour_counts
from swaddon.core.measure import Measures, measure
from swaddon.core.optics import printed_share
from swaddon.core.plan.engine import Run, Stage
from swaddon.core.plan.hole_stages import screens_of
from swaddon.core.plan.ink_stages import white_limit
from swaddon.core.plan.request import PlanRequest
from swaddon.core.savings import Worth, worth


def _measure(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Measures:
    return measure(done["inks"], done["white"].plane, request.ppi, done["inspect"].removed_px)


def _whole_measure(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Measures:
    """Counts of the print as it would be without holes."""
    if done["cut"] is None:
        same: Measures = done["measure"]
        return same
    return measure(done["separate"], done["whole white"].plane, request.ppi, done["measure"].removed_px)


def _hand(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> tuple[Hand, Hand]:
    """Hand of the print, and as it would be without holes."""
    whole, profile = done["whole measure"], request.profile
    mask = printed_share(done["separate"], done["whole white"].plane)
    before = hand(whole, whole.printed_px, mask, profile)
    if done["cut"] is None:
        return before, before
    after = hand(done["measure"], whole.printed_px, np.asarray(cv2.bitwise_and(mask, done["cut"]), np.uint8), profile)
    return after, before


def _worth(request: PlanRequest, done: Mapping[str, Any], run: Run) -> tuple[Worth, ...]:
    """Ink that each knockout leaves out."""
    settings = request.settings
    ramp = underbase.design_ramp(request.profile.white)
    limit = white_limit(settings)
    taken = done["knockout"].taken
    out = []
    for index in range(len(settings.knockouts)):
        own = np.asarray(cv2.inRange(taken, index + 1, index + 1), np.uint8)
        codes, counts = run.memo(
            ("taken colours", done["keys"]["knockout"], index), partial(colour_counts, done["grid"], own)
        )
        out.append(worth(codes, counts, request.table(), ramp, limit, settings.white.design))
    return tuple(out)


def _inspect(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Inspection:
    artwork = request.artwork
    colours = run.memo(("colours", artwork.content_id), lambda: distinct_colours(artwork.rgba))
    background = uniform_border(artwork.rgba, border_tolerance(artwork.file_format))
    return inspect(
        done["knockout"].art,
        done["fades"].soft_before,
        request.ppi,
        done["knockout"].removed_px,
        colours,
        background,
    )


def _findings(request: PlanRequest, done: Mapping[str, Any], run: Run) -> tuple[Finding, ...]:
    laid: Zones | None = done["zones"]
    return all_findings(
        Scene(
            artwork=request.artwork,
            settings=request.settings,
            profile=request.profile,
            art=done["fades"].art,
            soft=done["fades"].soft,
            treated=done["fades"],
            zones=None if laid is None else laid.plane,
            screens=screens_of(request, laid),
            inspection=done["inspect"],
            white=done["white"].plane,
            measures=done["measure"],
            check=run.check,
        )
    )


COUNT_STAGES = (
    Stage("measure", 2, ("inspect", "fades", "inks", "white"), lambda r: r.ppi, _measure, "Measuring"),
    Stage("whole measure", 1, ("separate", "whole white", "cut", "measure"), lambda r: r.ppi, _whole_measure),
    Stage(
        "hand",
        1,
        ("separate", "whole white", "cut", "measure", "whole measure"),
        lambda r: (r.profile.lay_down_ml_m2.items(), r.profile.slots, r.profile.powder),
        _hand,
        "Judging the hand",
    ),
    Stage(
        "findings",
        2,
        ("fades", "zones", "inspect", "white", "measure"),
        lambda r: (r.settings, r.profile, r.artwork.file_format),
        _findings,
        "Looking for trouble",
    ),
)

LOOK_STAGES = (
    Stage(
        "worth",
        1,
        ("grid", "knockout"),
        lambda r: (r.settings.white, r.profile.white, r.profile.separation),
        _worth,
        "Counting what was saved",
    ),
    Stage("inspect", 1, ("knockout", "fades"), lambda r: (r.ppi, r.artwork.file_format), _inspect, "Inspecting"),
)
"""Stages that need the artwork only; they come early, so that it can be let go."""
