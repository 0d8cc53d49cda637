"""Stages that count and look: measures, hand, savings, inspection, findings."""

from collections.abc import Mapping
from functools import partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.background import border_tolerance, uniform_border
from swaddon.core.artwork.palette import main_colours
from swaddon.core.count.hand import Hand, hand
from swaddon.core.count.measure import Measures, measure
from swaddon.core.count.savings import Worth, worth
from swaddon.core.engine import Run, Stage
from swaddon.core.findings import Finding, Scene, all_findings
from swaddon.core.findings.inspection import Inspection, distinct_colours, inspect
from swaddon.core.holes.holes import Zones
from swaddon.core.knockout.knockout import colour_counts
from swaddon.core.order.request import LOOK, PlanRequest
from swaddon.core.plan.hole_stages import screens_of
from swaddon.core.plan.ink_stages import ink_reads, ink_table
from swaddon.core.plan.white_stages import amount_reads, colour_errors, figure_of, white_need, white_under
from swaddon.core.proof.optics import Appearance, printed_share
from swaddon.core.white import underbase
from swaddon.core.white.need import shift_curve
from swaddon.core.white.register import ChokeCurve, choke_curve, edges_of
from swaddon.core.white.verdict import WhiteAdvice, enough_white, verdicts


def _measure(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Measures:
    return measure(done["inks"], done["white"], request.ppi, done["inspect"].removed_px, done["highlight"])


def _whole_measure(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Measures:
    """Counts of the print as it would be without holes."""
    if done["cut"] is None:
        same: Measures = done["measure"]
        return same
    whole, lights = done["whole white"], done["whole highlight"]
    return measure(done["separate"], whole, request.ppi, done["measure"].removed_px, lights)


def _hand(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> tuple[Hand, Hand]:
    """Hand of the print, and as it would be without holes."""
    whole, profile = done["whole measure"], request.profile
    mask = printed_share(done["separate"], done["whole white"])
    before = hand(whole, whole.printed_px, mask, profile)
    if done["cut"] is None:
        return before, before
    after = hand(done["measure"], whole.printed_px, np.asarray(cv2.bitwise_and(mask, done["cut"]), np.uint8), profile)
    return after, before


def _worth(request: PlanRequest, done: Mapping[str, Any], run: Run) -> tuple[Worth, ...]:
    """Ink that each knockout leaves out."""
    settings = request.settings
    if not settings.knockouts:
        return ()
    ramp = underbase.design_ramp(request.profile.white)
    under = partial(white_under, request, run)
    taken = done["knockout"].taken
    out = []
    for index in range(len(settings.knockouts)):
        own = np.asarray(cv2.inRange(taken, index + 1, index + 1), np.uint8)
        codes, counts = run.memo(
            ("taken colours", done["keys"]["knockout"], index), partial(colour_counts, done["grid"], own)
        )
        out.append(worth(codes, counts, ink_table(request), ramp, under, settings.prints_design_white))
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


def _choke(request: PlanRequest, done: Mapping[str, Any], run: Run) -> ChokeCurve:
    """Harm of peeking white and of bare rims against choke, at this plan's edges."""
    ramp = underbase.design_ramp(request.profile.white)
    art = done["fades"].art
    figure = figure_of(request, art, done["fades"].soft, done["design"])
    look = Appearance.of(request.settings.garment, request.profile)

    def pulled_in(rgb: NDArray[np.uint8], inks: NDArray[np.floating]) -> NDArray[np.float64]:
        """White under colour that the choke concerns: white of the design keeps its edge."""
        return white_under(request, run, rgb, inks) * (1 - ramp[rgb.min(axis=1)] / 255)

    edges = edges_of(figure, art, done["separate"], pulled_in, look)
    return choke_curve(figure, edges, request.settings.registration(request.profile), request.ppi)


def _advice(request: PlanRequest, done: Mapping[str, Any], run: Run) -> WhiteAdvice:
    """Whether this garment needs white for these colours, and what each allowed shift would take."""
    look = Appearance.of(request.settings.garment, request.profile)
    separation, white = request.profile.separation, request.settings.white
    colours = main_colours(done["fades"].art)
    by_need = white_need(request, run) if white.mode == "need" else None
    found = verdicts(colours, separation, request.profile.white, request.table(), look, white.allowed_shift, by_need)
    curve: tuple[tuple[float, float], ...] = ()
    if white.mode == "need":
        curve = shift_curve(colour_errors(request, run), done["fades"].art, white.least, white.most)
    return WhiteAdvice(found, *enough_white(found), curve)


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
            white=done["white"],
            cmyk=done["inks"],
            fade=done["alpha"].white,
            otherwise=done["design"],
            edges=done["edges"],
            strokes=done["white check"].strokes,
            choke=done["choke"],
            advice=done["advice"],
            measures=done["measure"],
            check=run.check,
        )
    )


def _choke_reads(request: PlanRequest) -> tuple[str, ...]:
    registration = tuple(f"settings.white.{name}" for name in ("registration_mm", "squeeze_mm", "worst_case"))
    own = (*LOOK, "profile.registration", *registration, "settings.white.design", "ppi")
    return tuple(dict.fromkeys((*amount_reads(request), *own)))


def _advice_reads(request: PlanRequest) -> tuple[str, ...]:
    return tuple(dict.fromkeys((*amount_reads(request), *LOOK, "solve_table")))


def _worth_reads(request: PlanRequest) -> tuple[str, ...]:
    if not request.settings.knockouts:
        return ("settings.knockouts",)
    design = ("settings.white.design", "settings.garment")
    return tuple(dict.fromkeys(("settings.knockouts", *amount_reads(request), *ink_reads(request), *design)))


COUNT_STAGES = (
    Stage("measure", 2, ("inspect", "fades", "inks", "white", "highlight"), ("ppi",), _measure, "Measuring"),
    Stage(
        "whole measure",
        2,
        ("separate", "whole white", "whole highlight", "cut", "measure"),
        ("ppi",),
        _whole_measure,
    ),
    Stage(
        "hand",
        1,
        ("separate", "whole white", "cut", "measure", "whole measure"),
        ("profile",),
        _hand,
        "Judging the hand",
    ),
)

TROUBLE_STAGES = (
    Stage("choke", 2, ("fades", "separate", "design"), _choke_reads, _choke, "Weighing the choke"),
    Stage("advice", 2, ("fades",), _advice_reads, _advice, "Asking who needs white"),
    Stage(
        "findings",
        3,
        (
            "fades",
            "zones",
            "inspect",
            "alpha",
            "inks",
            "design",
            "white",
            "white check",
            "edges",
            "choke",
            "advice",
            "measure",
        ),
        ("settings", "profile", "artwork", "tiles", "ppi"),
        _findings,
        "Looking for trouble",
    ),
)

LOOK_STAGES = (
    Stage("worth", 1, ("grid", "knockout"), _worth_reads, _worth, "Counting what was saved"),
    Stage("inspect", 1, ("knockout", "fades"), ("artwork", "ppi"), _inspect, "Inspecting"),
)
"""Stages that need the artwork only; they come early, so that it can be let go."""
