"""The stages of a plan, in the order of the work."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import knockout, underbase
from swaddon.core.colour import delta_e_2000, lab_from_srgb8, xyz_from_lab
from swaddon.core.consumption import Material, materials_of, rounded, total_cost
from swaddon.core.findings import Finding, Scene, all_findings
from swaddon.core.measure import Measures, measure
from swaddon.core.optics import Appearance
from swaddon.core.plan.artwork import Artwork
from swaddon.core.plan.engine import Cache, PlanError, Results, Run, Stage, run_stages
from swaddon.core.plan.settings import Knockout, PlanSettings
from swaddon.core.profile import PressProfile
from swaddon.core.raster import Plane, Rgba, alpha_of, resample
from swaddon.core.separation import Table, separate
from swaddon.core.timing import PrintTime, print_time
from swaddon.core.underbase import White
from swaddon.core.units import px_from_mm

LARGEST_GRID_PX = 200_000_000
"""Largest plan grid in pixels; a larger print is refused with a sentence (memory is about 12 bytes a pixel)."""


@dataclass(frozen=True, eq=False)
class PlanRequest:
    """What a plan is made of.

    ``table`` gives the profile's inverse separation; it may take a while, so it is asked for in the stage.
    ``ppi`` below the profile's gives a proxy: same stages, fewer pixels.
    """

    artwork: Artwork
    settings: PlanSettings
    profile: PressProfile
    table: Callable[[], Table]
    ppi: float

    @property
    def grid_size(self) -> tuple[int, int]:
        """Width and height of the plan grid in pixels."""
        width_mm = self.settings.width_mm
        height_mm = self.artwork.height_mm_at(width_mm)
        width, height = px_from_mm(width_mm, self.ppi), px_from_mm(height_mm, self.ppi)
        return max(1, round(width)), max(1, round(height))


@dataclass(frozen=True, eq=False)
class Plan:
    """A finished plan.

    Attributes
    ----------
    grid, art
        ``uint8 (H, W, 4)``: artwork at print size, before and after knockout and half-transparency.
    cmyk
        ``uint8 (H, W, 4)``, ink coverage, 255 = full.
    white
        White plane and what the choke took.
    key
        Content key; equal keys are equal plans.
    """

    request: PlanRequest
    grid: Rgba
    art: Rgba
    cmyk: NDArray[np.uint8]
    white: White
    measures: Measures
    materials: tuple[Material, ...]
    time: PrintTime
    findings: tuple[Finding, ...]
    half_transparent_px: int
    key: str

    @property
    def white_plane(self) -> Plane:
        return self.white.plane

    @property
    def ppi(self) -> float:
        return self.request.ppi

    @property
    def cost(self) -> str:
        """Cost of one shirt, a decimal string."""
        return str(rounded(total_cost(self.materials)))


def _grid(request: PlanRequest, _done: Mapping[str, Any], _run: Run) -> Rgba:
    width, height = request.grid_size
    if width * height > LARGEST_GRID_PX:
        raise PlanError(
            f"This print would need {width} × {height} px at {request.ppi:g} ppi, more than Swaddon plans "
            f"({LARGEST_GRID_PX // 1_000_000} megapixels); choose a smaller print width."
        )
    return resample(request.artwork.rgba, width, height)


def _knockout(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Rgba:
    settings = request.settings
    art: Rgba = done["grid"]
    before: tuple[Knockout, ...] = ()
    for wanted in settings.knockouts:
        run.check()
        colour = wanted.resolved(settings.garment)
        found = run.memo(
            ("distances", done["keys"]["grid"], before, settings.garment, colour, _decade(wanted.tolerance)),
            partial(knockout.distances, art, colour, _decade(wanted.tolerance)),
        )
        removed = knockout.removed_area(art, found, wanted.tolerance, wanted.reach)
        zone = None
        if wanted.edge == "soft":
            is_cloth = same_cloth(colour, settings)
            zone = knockout.soft_zone(art, colour, removed, wanted.reach, is_cloth)
        art = knockout.knock_out(art, colour, removed, zone)
        before = (*before, wanted)
    if settings.half_transparent is not None:
        art = knockout.cut_half_transparent(art, settings.half_transparent)
    return art


def _decade(tolerance: float) -> float:
    """Distances are kept up to the next ten, so that small moves of the tolerance only look them up."""
    return max(10.0, math.ceil(tolerance / 10) * 10.0)


def same_cloth(colour: tuple[int, int, int], settings: PlanSettings) -> bool:
    """Whether a removed colour counts as the garment's own, so that fades into it become fades of ink."""
    difference = delta_e_2000(lab_from_srgb8(colour), lab_from_srgb8(settings.garment))
    return float(difference) <= knockout.SAME_CLOTH_DELTA_E


def _inks(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> NDArray[np.uint8]:
    art: Rgba = done["knockout"]
    if cv2.countNonZero(done["soft"]):
        art = art.copy()
        cv2.insertChannel(done["alpha"].ink, art, 3)
    return separate(art, request.table())


def _alpha(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> underbase.PrintAlpha:
    return underbase.print_alpha(done["knockout"], done["soft"], fade_tables(request))


def fade_tables(request: PlanRequest) -> underbase.FadeTables | None:
    """How white and inks follow alpha in fades; plain alpha without white under the colour."""
    if request.settings.white.mode == "none" or not request.profile.white_under_colour:
        return None
    luminance = float(xyz_from_lab(lab_from_srgb8(request.settings.garment))[1])
    look = Appearance.of(request.settings.garment, request.profile)
    return underbase.fade_tables(luminance**0.5, look.scatter)


def _soft(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Plane:
    return underbase.soft_area(done["knockout"])


def white_of(
    request: PlanRequest,
    art: Rgba,
    cmyk: NDArray[np.uint8],
    soft: Plane,
    alpha: underbase.PrintAlpha,
    run: Run,
) -> White:
    """The white of artwork whose knockout and inks are done; also serves a cut-out of it with a rim to spare."""
    white = request.settings.white
    ramp = underbase.design_ramp(request.profile.white)
    limit = {"none": None, "solid": 400.0, "limit": white.limit}[white.mode]
    figure = underbase.figure(art, soft, ramp, white.design)
    run.check()
    coverage = underbase.pull_in(figure, px_from_mm(white.choke_mm, request.ppi))
    run.check()
    plane = underbase.lay(art, cmyk, coverage, alpha, ramp, limit, white.design)
    whole, left = cv2.sumElems(figure)[0], cv2.sumElems(coverage)[0]
    taken = 1 - left / whole if whole > 0 and white.mode != "none" else 0.0
    return White(plane, taken)


def _white(request: PlanRequest, done: Mapping[str, Any], run: Run) -> White:
    return white_of(request, done["knockout"], done["inks"], done["soft"], done["alpha"], run)


def _measure(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Measures:
    had = cv2.countNonZero(alpha_of(done["grid"]))
    has = cv2.countNonZero(alpha_of(done["knockout"]))
    return measure(done["inks"], done["white"].plane, request.ppi, had - has)


def _findings(request: PlanRequest, done: Mapping[str, Any], run: Run) -> tuple[Finding, ...]:
    return all_findings(
        Scene(
            artwork=request.artwork,
            settings=request.settings,
            profile=request.profile,
            art=done["knockout"],
            soft=done["soft"],
            white=done["white"].plane,
            measures=done["measure"],
            check=run.check,
        )
    )


STAGES = (
    Stage("grid", 1, (), lambda r: (r.artwork.content_id, r.grid_size), _grid, "Placing the artwork"),
    Stage(
        "knockout",
        1,
        ("grid",),
        lambda r: (
            r.settings.knockouts,
            r.settings.garment if r.settings.knockouts else None,
            r.settings.half_transparent,
        ),
        _knockout,
        "Knocking out",
    ),
    Stage("soft", 1, ("knockout",), lambda _: None, _soft, "Finding fades"),
    Stage(
        "alpha",
        1,
        ("knockout", "soft"),
        lambda r: (r.profile.white, r.profile.slots, r.settings.garment, r.settings.white.mode == "none"),
        _alpha,
        "Following fades",
    ),
    Stage("inks", 1, ("knockout", "soft", "alpha"), lambda r: r.profile.separation, _inks, "Separating inks"),
    Stage(
        "white",
        1,
        ("knockout", "inks", "soft", "alpha"),
        lambda r: (r.settings.white, r.profile.white, r.ppi),
        _white,
        "Laying white",
    ),
    Stage("measure", 1, ("grid", "knockout", "inks", "white"), lambda r: r.ppi, _measure, "Measuring"),
    Stage(
        "findings",
        1,
        ("knockout", "soft", "white", "measure"),
        lambda r: (r.settings, r.profile, r.artwork.file_format),
        _findings,
        "Looking for trouble",
    ),
)


def make_plan(request: PlanRequest, run: Run | None = None) -> Plan:
    """Run all stages.

    Raises
    ------
    PlanError
        When the request cannot be planned; the text says what to do.
    Superseded
        When the run is no longer wanted.
    """
    results = run_stages(STAGES, request, run or Run(Cache()))
    return _plan(request, results)


def _plan(request: PlanRequest, results: Results) -> Plan:
    values = results.values
    measures: Measures = values["measure"]
    return Plan(
        request=request,
        grid=values["grid"],
        art=values["knockout"],
        cmyk=values["inks"],
        white=values["white"],
        measures=measures,
        materials=materials_of(measures, request.profile),
        time=print_time(measures, request.profile.carriage),
        findings=values["findings"],
        half_transparent_px=int(cv2.countNonZero(underbase.haze(values["knockout"], values["soft"]))),
        key=results.keys["findings"],
    )
