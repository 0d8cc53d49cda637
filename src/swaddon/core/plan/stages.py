"""The stages of a plan, in the order of the work."""

import math
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import holes, knockout, regions, screen, underbase
from swaddon.core.background import border_tolerance, uniform_border
from swaddon.core.colour import Rgb, delta_e_2000, lab_from_srgb8, xyz_from_lab
from swaddon.core.consumption import Material, materials_of, rounded, total_cost
from swaddon.core.fades import Treated, treat
from swaddon.core.findings import Finding, Scene, all_findings
from swaddon.core.hand import Hand, hand
from swaddon.core.holes import GiveBack, Zones
from swaddon.core.inspection import Inspection, distinct_colours, inspect
from swaddon.core.measure import Measures, measure
from swaddon.core.optics import Appearance, printed_share
from swaddon.core.placement import Point
from swaddon.core.plan.artwork import Artwork
from swaddon.core.plan.engine import Cache, PlanError, Results, Run, Stage, run_stages
from swaddon.core.plan.settings import Keep, Knockout, PlanSettings
from swaddon.core.profile import PressProfile
from swaddon.core.raster import Mask, Plane, Rgba, alpha_of, resample
from swaddon.core.regions import RegionMap
from swaddon.core.savings import Saving, Worth, saving, worth
from swaddon.core.screen import Cut, Tiles
from swaddon.core.separation import Table, interpolate, separate
from swaddon.core.timing import PrintTime, print_time
from swaddon.core.underbase import White
from swaddon.core.units import px_from_mm

LARGEST_GRID_PX = 200_000_000
"""Largest plan grid in pixels; a larger print is refused with a sentence (memory is about 12 bytes a pixel)."""


@dataclass(frozen=True, eq=False)
class PlanRequest:
    """What a plan is made of.

    ``table`` gives the profile's inverse separation; it may take a while, so it is asked for in the stage.
    ``ppi`` below the profile's gives a proxy: same stages, fewer pixels. ``tiles`` are the pattern tiles by name.
    """

    artwork: Artwork
    settings: PlanSettings
    profile: PressProfile
    table: Callable[[], Table]
    ppi: float
    tiles: Tiles = field(default_factory=dict)

    @property
    def height_mm(self) -> float:
        """Height of the artboard."""
        return self.artwork.height_mm_at(self.settings.width_mm, self.settings.placement)

    @property
    def grid_size(self) -> tuple[int, int]:
        """Width and height of the plan grid in pixels."""
        width, height = px_from_mm(self.settings.width_mm, self.ppi), px_from_mm(self.height_mm, self.ppi)
        return max(1, round(width)), max(1, round(height))

    def on_grid(self, point: Point) -> tuple[int, int]:
        """Pixel of the grid under an artwork point; may lie outside it."""
        artwork, (width, height) = self.artwork, self.grid_size
        x, y = self.settings.placement.to_artboard(point, artwork.width_px, artwork.height_px)
        return math.floor(x * width), math.floor(y * height)


@dataclass(frozen=True, eq=False)
class Knocked:
    """Artwork after the knockouts; ``taken`` is ``uint8 (H, W)``: ``i + 1`` where knockout ``i`` took the pixel."""

    art: Rgba
    taken: Plane


@dataclass(frozen=True, eq=False)
class Plan:
    """A finished plan.

    Attributes
    ----------
    grid, art
        ``uint8 (H, W, 4)``: artwork at print size, before and after knockout and half-transparency.
    separated, cmyk
        ``uint8 (H, W, 4)``, ink coverage, 255 = full, before and after the holes.
    white
        White plane and what the choke took.
    whole_measures, whole_hand
        Counts and hand as they would be without holes.
    keys
        Content keys of the stages; equal keys are equal results.
    """

    request: PlanRequest
    grid: Rgba
    knocked: Knocked
    treated: Treated
    regions: RegionMap | None
    zones: Zones | None
    screens: Cut
    given: tuple[GiveBack, ...]
    separated: NDArray[np.uint8]
    cmyk: NDArray[np.uint8]
    white: White
    measures: Measures
    whole_measures: Measures
    hand: Hand
    whole_hand: Hand
    savings: tuple[Saving, ...]
    inspection: Inspection
    materials: tuple[Material, ...]
    time: PrintTime
    findings: tuple[Finding, ...]
    keys: Mapping[str, str]

    @property
    def art(self) -> Rgba:
        return self.treated.art

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


# artwork


def _grid(request: PlanRequest, _done: Mapping[str, Any], _run: Run) -> Rgba:
    width, height = request.grid_size
    if width * height > LARGEST_GRID_PX:
        raise PlanError(
            f"This print would need {width} × {height} px at {request.ppi:g} ppi, more than Swaddon plans "
            f"({LARGEST_GRID_PX // 1_000_000} megapixels); choose a smaller print width."
        )
    artwork, placement = request.artwork, request.settings.placement
    if artwork.render is None:
        return resample(placement.place(artwork.rgba), width, height)
    return resample(_drawn(request, width), width, height)


def _drawn(request: PlanRequest, width: int) -> Rgba:
    """A drawing rendered so that its printed part is as wide as the grid."""
    artwork, placement = request.artwork, request.settings.placement
    assert artwork.render is not None
    scale = width / artwork.placed_px(placement)[0]
    whole = round(artwork.width_px * scale), round(artwork.height_px * scale)
    if whole[0] * whole[1] > LARGEST_GRID_PX:
        raise PlanError("The cropped drawing would be too large to render at this width; choose a smaller print width.")
    picture = artwork.render(max(1, whole[0]), max(1, whole[1]))
    return placement.scaled(picture.shape[1] / artwork.width_px, picture.shape[0] / artwork.height_px).place(picture)


# knockout


def _knockout(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Knocked:
    settings = request.settings
    art: Rgba = done["grid"]
    taken = np.zeros(art.shape[:2], np.uint8)
    kept = kept_mask(request, art)
    before: tuple[Knockout, ...] = ()
    for index, wanted in enumerate(settings.knockouts):
        run.check()
        colour = wanted.resolved(settings.garment)
        reach = _decade(wanted.tolerance * (knockout.HALO_TOLERANCE if wanted.clean else 1))
        found = run.memo(
            ("distances", done["keys"]["grid"], before, settings.keeps, settings.garment, colour, reach),
            partial(knockout.distances, art, colour, reach),
        )
        points = [request.on_grid(point) for point in wanted.points]
        removed = knockout.removed_area(art, found, wanted.tolerance, wanted.reach, points, kept)
        if wanted.clean:
            removed = knockout.with_halo(art, found, wanted.tolerance, removed, kept)
        zone = None
        if wanted.edge == "soft":
            zone = knockout.soft_zone(art, colour, removed, wanted.reach, same_cloth(colour, settings))
            if kept is not None:
                zone[kept > 0] = 0
        taken[(removed > 0) & (art[..., 3] > 0)] = min(index + 1, 255)
        art = knockout.knock_out(art, colour, removed, zone)
        before = (*before, wanted)
    return Knocked(art, taken)


def kept_mask(request: PlanRequest, art: Rgba) -> Mask | None:
    """Mask (255) of all that must stay; ``None`` without a keep list."""
    masks = [_kept(request, art, keep) for keep in request.settings.keeps if request.settings.knockouts]
    if not masks:
        return None
    out = masks[0]
    for mask in masks[1:]:
        out = np.asarray(cv2.bitwise_or(out, mask), np.uint8)
    return out


def _kept(request: PlanRequest, art: Rgba, keep: Keep) -> Mask:
    point = None if keep.point is None else request.on_grid(keep.point)
    return knockout.kept_area(art, keep.colour, keep.tolerance, point)


def _decade(tolerance: float) -> float:
    """Distances are kept up to the next ten, so that small moves of the tolerance only look them up."""
    return max(10.0, math.ceil(tolerance / 10) * 10.0)


def same_cloth(colour: Rgb, settings: PlanSettings) -> bool:
    """Whether a removed colour counts as the garment's own, so that fades into it become fades of ink."""
    difference = delta_e_2000(lab_from_srgb8(colour), lab_from_srgb8(settings.garment))
    return float(difference) <= knockout.SAME_CLOTH_DELTA_E


def _fades(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Treated:
    return treat(done["knockout"].art, request.settings.alpha_treatment(request.profile), request.settings.garment)


def _fades_key(request: PlanRequest) -> Hashable:
    treatment = request.settings.alpha_treatment(request.profile)
    garment = request.settings.garment if treatment.kind == "screen" else None
    return treatment.kind, treatment.level, treatment.haze_below, garment


# holes


def needs_regions(settings: PlanSettings) -> bool:
    """Whether the plan depends on the artwork's regions."""
    return settings.holes.cuts


def artwork_regions(artwork: Artwork, run: Run) -> RegionMap:
    """The regions of an artwork, found once and kept."""
    found: RegionMap = run.memo(("regions", artwork.content_id), lambda: regions.find_regions(artwork.rgba, run.check))
    return found


def _regions(request: PlanRequest, _done: Mapping[str, Any], run: Run) -> RegionMap | None:
    return artwork_regions(request.artwork, run) if needs_regions(request.settings) else None


def _zones(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Zones | None:
    """Classes of the regions, with screened fades as a class of their own."""
    found: RegionMap | None = done["regions"]
    tone = done["fades"].tone
    if found is None and tone is None:
        return None
    width, height = request.grid_size
    laid = Zones(np.zeros((height, width), np.uint8), (), ())
    if found is not None:
        px_per_mm = request.artwork.ppi_at(request.settings.width_mm, request.settings.placement) / 25.4
        laid = holes.zones(found, request.settings.holes, request.settings.placement, (width, height), px_per_mm)
    if tone is not None:
        plane = laid.plane.copy()
        plane[tone > 0] = screen.FADE
        laid = Zones(plane, laid.classes, laid.sources)
    return laid


def screens_of(request: PlanRequest, laid: Zones | None) -> Cut:
    """The screens of a plan at its resolution.

    A proxy rules them at its own resolution, so that its cells lie where the plan's do.
    """
    if laid is None:
        return Cut((), None)
    settings = request.settings.holes
    wanted = [holes.screen_for(settings, item.source) or screen.Screen() for item in laid.classes]
    ruled = tuple(screen.rule(item, request.tiles, request.ppi) for item in wanted)
    fade = request.settings.alpha_treatment(request.profile)
    full = screen.Screen("round", fade.screen.lpi, fade.screen.angle, 1.0)
    return Cut(ruled, screen.rule(full, request.tiles, request.ppi) if fade.kind == "screen" else None)


def _cut(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Mask | None:
    laid: Zones | None = done["zones"]
    if laid is None or not cv2.countNonZero(laid.plane):
        return None
    tone = done["fades"].tone
    return screen.cut(laid.plane, laid.plane if tone is None else tone, screens_of(request, laid))


def _give_back(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> tuple[GiveBack, ...]:
    return given_back(request, done["zones"])


def given_back(request: PlanRequest, laid: Zones | None) -> tuple[GiveBack, ...]:
    """What holes do to the colour of each class, and the ink that is given back."""
    if laid is None or not laid.classes:
        return ()
    look = Appearance.of(request.settings.garment, request.profile)
    inks = interpolate(request.table(), np.array([item.colour for item in laid.classes], np.uint8)) / 255
    limit = white_limit(request.settings)
    out = []
    for cmyk, ruled in zip(inks, screens_of(request, laid).ruled, strict=True):
        white = 1.0 if limit is not None and float(cmyk.sum()) * 100 <= limit + 1 else 0.0
        out.append(holes.give_back(cmyk.astype(np.float64), white, ruled.share, look, request.settings.holes))
    return tuple(out)


# inks and white


def _separate(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> NDArray[np.uint8]:
    art: Rgba = done["fades"].art
    if cv2.countNonZero(done["fades"].soft):
        art = art.copy()
        cv2.insertChannel(done["alpha"].ink, art, 3)
    return separate(art, request.table())


def _inks(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> NDArray[np.uint8]:
    mask, laid = done["cut"], done["zones"]
    if mask is None or laid is None:
        separated: NDArray[np.uint8] = done["separate"]
        return separated
    return holes.punch(done["separate"], mask, laid.plane, done["give back"])


def _alpha(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> underbase.PrintAlpha:
    return underbase.print_alpha(done["fades"].art, done["fades"].soft, fade_tables(request))


def fade_tables(request: PlanRequest) -> underbase.FadeTables | None:
    """How white and inks follow alpha in fades; plain alpha without white under the colour."""
    if request.settings.white.mode == "none" or not request.profile.white_under_colour:
        return None
    luminance = float(xyz_from_lab(lab_from_srgb8(request.settings.garment))[1])
    look = Appearance.of(request.settings.garment, request.profile)
    return underbase.fade_tables(luminance**0.5, look.scatter)


def white_limit(settings: PlanSettings) -> float | None:
    """Total coverage in percent up to which white lies under a colour; ``None``: no white under colour."""
    return {"none": None, "solid": 400.0, "limit": settings.white.limit}[settings.white.mode]


def white_of(
    request: PlanRequest,
    art: Rgba,
    cmyk: NDArray[np.uint8],
    soft: Plane,
    alpha: underbase.PrintAlpha,
    run: Run,
) -> White:
    """The white of artwork whose knockout and separation are done, before any holes; also serves a cut-out of it."""
    white = request.settings.white
    ramp = underbase.design_ramp(request.profile.white)
    figure = underbase.figure(art, soft, ramp, white.design)
    run.check()
    coverage = underbase.pull_in(figure, px_from_mm(white.choke_mm, request.ppi))
    run.check()
    plane = underbase.lay(art, cmyk, coverage, alpha, ramp, white_limit(request.settings), white.design)
    whole, left = cv2.sumElems(figure)[0], cv2.sumElems(coverage)[0]
    taken = 1 - left / whole if whole > 0 and white.mode != "none" else 0.0
    return White(plane, taken)


def _whole_white(request: PlanRequest, done: Mapping[str, Any], run: Run) -> White:
    return white_of(request, done["fades"].art, done["separate"], done["fades"].soft, done["alpha"], run)


def _white(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> White:
    """White and colour share their holes, so white is cut by the same mask; the choke never widens a hole."""
    whole: White = done["whole white"]
    mask = done["cut"]
    if mask is None:
        return whole
    return White(np.asarray(cv2.bitwise_and(whole.plane, mask), np.uint8), whole.pulled_in_share)


# counting and looking


def _removed_px(done: Mapping[str, Any]) -> int:
    return cv2.countNonZero(alpha_of(done["grid"])) - cv2.countNonZero(alpha_of(done["fades"].art))


def _measure(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Measures:
    return measure(done["inks"], done["white"].plane, request.ppi, _removed_px(done))


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
    taken, settings = done["knockout"].taken, request.settings
    ramp = underbase.design_ramp(request.profile.white)
    out = []
    for index in range(len(settings.knockouts)):
        chosen = np.asarray(cv2.inRange(taken, index + 1, index + 1), np.uint8)
        codes, counts = run.memo(
            ("taken colours", done["keys"]["knockout"], index),
            partial(knockout.colour_counts, done["grid"], chosen),
        )
        out.append(worth(codes, counts, request.table(), ramp, white_limit(settings), settings.white.design))
    return tuple(out)


def _inspect(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Inspection:
    artwork = request.artwork
    colours = run.memo(("colours", artwork.content_id), lambda: distinct_colours(artwork.rgba))
    background = uniform_border(artwork.rgba, border_tolerance(artwork.file_format))
    return inspect(done["knockout"].art, done["fades"].soft_before, request.ppi, colours, background)


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


STAGES = (
    Stage(
        "grid",
        2,
        (),
        lambda r: (r.artwork.content_id, r.settings.placement, r.grid_size),
        _grid,
        "Placing the artwork",
    ),
    Stage(
        "knockout",
        2,
        ("grid",),
        lambda r: (
            r.settings.knockouts,
            (r.settings.garment, r.settings.keeps) if r.settings.knockouts else None,
        ),
        _knockout,
        "Knocking out",
    ),
    Stage(
        "fades",
        1,
        ("knockout",),
        _fades_key,
        _fades,
        "Treating fades",
    ),
    Stage(
        "regions",
        1,
        (),
        lambda r: (r.artwork.content_id, needs_regions(r.settings)),
        _regions,
        "Finding regions",
    ),
    Stage(
        "zones",
        1,
        ("fades", "regions"),
        lambda r: (holes.structure(r.settings.holes), r.settings.placement, r.settings.width_mm, r.grid_size),
        _zones,
        "Laying out holes",
    ),
    Stage(
        "cut",
        1,
        ("fades", "zones"),
        lambda r: (
            r.ppi,
            r.settings.holes,
            r.settings.alpha_treatment(r.profile),
            tuple(sorted((tile.name, tile.content_id) for tile in r.tiles.values())),
        ),
        _cut,
        "Cutting holes",
    ),
    Stage(
        "alpha",
        1,
        ("fades",),
        lambda r: (r.profile.white, r.profile.slots, r.settings.garment, r.settings.white.mode == "none"),
        _alpha,
        "Following fades",
    ),
    Stage("separate", 1, ("fades", "alpha"), lambda r: r.profile.separation, _separate, "Separating inks"),
    Stage(
        "give back",
        1,
        ("zones",),
        lambda r: (
            r.settings.garment,
            white_limit(r.settings),
            r.settings.holes,
            r.profile.separation,
            r.profile.white,
        ),
        _give_back,
    ),
    Stage("inks", 1, ("separate", "zones", "cut", "give back"), lambda _: None, _inks, "Cutting inks"),
    Stage(
        "whole white",
        1,
        ("fades", "separate", "alpha"),
        lambda r: (r.settings.white, r.profile.white, r.ppi),
        _whole_white,
        "Laying white",
    ),
    Stage("white", 2, ("whole white", "cut"), lambda _: None, _white, "Cutting white"),
    Stage("measure", 2, ("grid", "fades", "inks", "white"), lambda r: r.ppi, _measure, "Measuring"),
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
        "worth",
        1,
        ("grid", "knockout"),
        lambda r: (r.settings.white, r.profile.white, r.profile.separation),
        _worth,
        "Counting what was saved",
    ),
    Stage("inspect", 1, ("knockout", "fades"), lambda r: (r.ppi, r.artwork.file_format), _inspect, "Inspecting"),
    Stage(
        "findings",
        2,
        ("fades", "zones", "inspect", "white", "measure"),
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
        knocked=values["knockout"],
        treated=values["fades"],
        regions=values["regions"],
        zones=values["zones"],
        screens=screens_of(request, values["zones"]),
        given=values["give back"],
        separated=values["separate"],
        cmyk=values["inks"],
        white=values["white"],
        measures=measures,
        whole_measures=values["whole measure"],
        hand=values["hand"][0],
        whole_hand=values["hand"][1],
        savings=tuple(saving(item, request.profile, request.ppi) for item in values["worth"]),
        inspection=values["inspect"],
        materials=materials_of(measures, request.profile),
        time=print_time(measures, request.profile.carriage),
        findings=values["findings"],
        keys=results.keys,
    )
