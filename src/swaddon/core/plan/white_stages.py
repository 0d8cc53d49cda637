"""Stages of the white: how much lies under each colour, how far it is pulled in, and what that saved and bared."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Plane, Rgba
from swaddon.core.engine import Run, Stage
from swaddon.core.order.request import LOOK, PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.art_stages import PLACED
from swaddon.core.proof.optics import Appearance, printed_share
from swaddon.core.units import px_from_mm
from swaddon.core.white import need, underbase
from swaddon.core.white.design_white import DesignArea, areas_at, design_areas, own_mask
from swaddon.core.white.edges import EdgeTrouble, bare, peeking
from swaddon.core.white.guard import guarded
from swaddon.core.white.strokes import Strokes, stroke_lengths, thin_strokes
from swaddon.core.white.underbase import Choked


@dataclass(frozen=True)
class WhiteCheck:
    """What the choke did to thin strokes, white as a share of solid white, and the share that the choke took, 0..1."""

    strokes: Strokes = field(default_factory=Strokes)
    of_solid: float = 1.0
    taken_share: float = 0.0


def white_limit(settings: PlanSettings) -> float | None:
    """Total coverage in percent up to which white lies under a colour; ``None``: by colour, or no white under any."""
    return {"solid": 400.0, "limit": settings.white.limit}.get(settings.white.mode)


def amount_key(settings: PlanSettings) -> Hashable:
    """What decides how much white lies under a colour, apart from garment and profile."""
    white = settings.white
    return white.mode, white.limit, white.allowed_shift, white.least, white.most, white.fixed


def design_reads(_request: PlanRequest) -> tuple[str, ...]:
    """What decides whether, and from which colour on, white of the design is ink."""
    return "settings.white.design", "settings.garment", "profile.white"


def amount_reads(request: PlanRequest) -> tuple[str, ...]:
    """What decides how much white lies under a colour."""
    own = tuple(f"settings.white.{name}" for name in ("mode", "limit", "allowed_shift", "least", "most", "fixed"))
    if request.settings.white.mode == "need":
        return (*own, *LOOK, "solve_table")
    if request.settings.white.mode == "only":
        return (*own, *LOOK)
    return (*own, "profile.white", "profile.slots", "profile.print_order", "profile.mirrored")


def _figure_reads(request: PlanRequest) -> tuple[str, ...]:
    white = tuple(f"settings.white.{name}" for name in ("choke_mm", "guard", "mode"))
    return (*design_reads(request), *white, "ppi")


def _white_reads(request: PlanRequest) -> tuple[str, ...]:
    return _joined(amount_reads(request), design_reads(request), ("settings.white.whole_sheet",))


def _joined(*groups: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(path for group in groups for path in group))


_REGISTRATION = (
    "profile.registration", "settings.white.registration_mm", "settings.white.squeeze_mm", "settings.white.worst_case",
)  # fmt: skip
_SCREEN_CHOKE = ("settings.white.screen_choke_mm", "ppi")


def _edge_reads(request: PlanRequest) -> tuple[str, ...]:
    return _joined(amount_reads(request), design_reads(request), _REGISTRATION, ("ppi",))


def _check_reads(request: PlanRequest) -> tuple[str, ...]:
    least = ("settings.white.whole_sheet", "settings.white.choke_mm", "ppi")
    return _joined(amount_reads(request), design_reads(request), least)


def ground_key(request: PlanRequest) -> Hashable:
    """What white that goes by colour is solved for."""
    if request.settings.white.mode == "need":
        return request.settings.garment, request.profile.separation
    return request.settings.garment if request.settings.white.mode == "only" else None


def colour_errors(request: PlanRequest, run: Run) -> need.NodeErrors:
    """ΔE00 of every colour for every amount of white on this garment, solved once and kept."""
    look = Appearance.of(request.settings.garment, request.profile)
    separation = request.profile.separation
    errors: need.NodeErrors = run.memo(
        ("white errors", separation, request.settings.garment, look.scatter, look.white_under, look.bleed_share),
        lambda: need.node_errors(separation, request.table(), look),
    )
    return errors


def white_need(request: PlanRequest, run: Run) -> need.NeedTable | None:
    """White by colour; ``None`` when white does not go by colour."""
    if not request.settings.white.goes_by_colour:
        return None
    profile = request.profile
    looks = profile.white, profile.hits, profile.white_under_colour
    parts = ("white by colour", amount_key(request.settings), ground_key(request), looks)
    table: need.NeedTable = run.memo(parts, lambda: _by_colour(request, run))
    return table


def _by_colour(request: PlanRequest, run: Run) -> need.NeedTable:
    white, profile = request.settings.white, request.profile
    if white.mode == "only":
        return need.tone_table(Appearance.of(request.settings.garment, profile))
    if white.mode == "need":
        table = need.need_table(colour_errors(request, run), white.allowed_shift, white.least, white.most)
    else:
        table = need.highlight_table(profile.white)
    return need.with_fixed(table, [(item.colour, item.amount, item.tolerance) for item in white.fixed])


def white_under(request: PlanRequest, run: Run, rgb: NDArray[np.uint8], inks: NDArray[Any]) -> NDArray[np.float64]:
    """White under some colours, 0..1: sRGB ``(n, 3)`` and their inks 0..1 ``(n, 4)``."""
    table, limit = white_need(request, run), white_limit(request.settings)
    if table is not None:
        return need.need_of(rgb, table)
    if limit is None:
        return np.zeros(len(rgb))
    return np.asarray(inks.sum(axis=-1) * 100 <= limit + 1, np.float64)


def figure_of(request: PlanRequest, art: Rgba, soft: Plane, otherwise: Mask | None) -> Plane:
    """Coverage of the printed figure before any choke."""
    ramp = underbase.design_ramp(request.profile.white)
    return underbase.figure(art, soft, ramp, request.settings.prints_design_white, otherwise)


def choked(request: PlanRequest, figure: Plane, run: Run, counts: bool = False) -> Choked:
    """The figure under the choke; with ``counts`` thin strokes are looked for even where nothing guards them.

    White alone has no colour that it could peek out from under, so it is not pulled in.
    """
    white = request.settings.white
    choke_px, least_px = (px_from_mm(mm, request.ppi) for mm in (white.choke_mm, request.profile.white.least_stroke_mm))
    if white.mode == "only" or choke_px == 0:
        return Choked(figure, figure, figure)
    pulled = underbase.pull_in(figure, choke_px)
    if white.mode == "none" or not (white.guard or counts):
        return Choked(figure, pulled, pulled)
    run.check()
    thin = thin_strokes(figure, choke_px, least_px)
    kept = guarded(figure, pulled, thin, choke_px, least_px) if white.guard else pulled
    return Choked(figure, pulled, kept, thin)


@dataclass(frozen=True, eq=False)
class Ground:
    """What white is laid on: artwork after knockout and fades, its inks, what is soft, alpha of white and inks, and
    white of the design that is treated otherwise."""

    art: Rgba
    cmyk: NDArray[np.uint8]
    soft: Plane
    alpha: underbase.PrintAlpha
    otherwise: Mask | None


def _ground(done: Mapping[str, Any]) -> Ground:
    return Ground(done["fades"].art, done["separate"], done["fades"].soft, done["alpha"], done["design"])


def laid(request: PlanRequest, ground: Ground, coverage: Plane, limit: float | None, run: Run) -> Plane:
    """White within a figure that is already choked; by colour when ``limit`` is ``None``."""
    table = white_need(request, run) if limit is None else None
    return underbase.lay(
        ground.art,
        ground.cmyk,
        coverage,
        ground.alpha,
        underbase.design_ramp(request.profile.white),
        limit,
        request.settings.prints_design_white,
        None if table is None else need.need_plane(ground.art, table),
        ground.otherwise,
    )


def white_of(request: PlanRequest, ground: Ground, under: Choked, run: Run) -> Plane:
    """The white of artwork before any holes, ``uint8 (H, W)``, 255 = full; also serves a cut-out of it."""
    if request.settings.white.whole_sheet:
        return np.full(ground.art.shape[:2], 255, np.uint8)
    return laid(request, ground, under.kept, white_limit(request.settings), run)


def highlight_of(request: PlanRequest, ground: Ground) -> Plane | None:
    """White of the design as a channel of its own, where the press has one; under no colour and never pulled in."""
    settings = request.settings
    if not request.profile.highlight_slots or settings.white.whole_sheet:
        return None
    ramp, full = underbase.design_ramp(request.profile.white), np.full(ground.art.shape[:2], 255, np.uint8)
    prints = settings.prints_design_white
    return underbase.lay(ground.art, ground.cmyk, full, ground.alpha, ramp, None, prints, None, ground.otherwise)


def _whole_highlight(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Plane | None:
    return highlight_of(request, _ground(done))


def _highlight(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Plane | None:
    whole: Plane | None = done["whole highlight"]
    return None if whole is None else holed_white(request, whole, done["cut"])


def _design(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Mask | None:
    """White of the design that is treated otherwise than the rest of it; a later choice wins over an earlier."""
    usual, ramp, out = request.settings.prints_design_white, underbase.design_ramp(request.profile.white), None
    for rule in request.settings.white.design_rules:
        area = areas_at(done["fades"].art, ramp, [request.on_grid(rule.point)])
        if area is None:
            continue
        out = np.zeros_like(area) if out is None else out
        out[area > 0] = 0 if rule.ink == usual else 255
    return out if out is not None and out.any() else None


def _choked(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Choked:
    figure = figure_of(request, done["fades"].art, done["fades"].soft, done["design"])
    return choked(request, figure, run, counts=True)


def _whole_white(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Plane:
    return white_of(request, _ground(done), done["choked"], run)


def _white(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Plane:
    whole: Plane = done["whole white"]
    return holed_white(request, whole, done["cut"])


def holed_white(request: PlanRequest, white: Plane, cut: Mask | None) -> Plane:
    """White and colour share their holes, so white is cut by the same mask; the choke never widens a hole.

    Only the screen's own choke does, by its own smaller amount.
    """
    if cut is None:
        return white
    return np.asarray(cv2.bitwise_and(white, underbase.shrunk_screen(cut, screen_choke_px(request))), np.uint8)


def screen_choke_px(request: PlanRequest) -> float:
    """How far white is pulled in from the holes of a screen, in pixels."""
    return px_from_mm(request.settings.white.screen_choke_mm, request.ppi)


def _white_check(request: PlanRequest, done: Mapping[str, Any], run: Run) -> WhiteCheck:
    settings, profile = request.settings.white, request.profile
    white: Plane = done["whole white"]
    under: Choked = done["choked"]
    if settings.mode == "none" or settings.whole_sheet:
        return WhiteCheck()
    strokes, of_solid = Strokes(), 1.0
    if under.thin is not None:
        reach_px = px_from_mm(settings.choke_mm + profile.white.least_stroke_mm, request.ppi)
        strokes = stroke_lengths(under.thin, under.pulled, under.kept, reach_px, request.ppi)
    if settings.mode != "solid":
        whole = cv2.sumElems(laid(request, _ground(done), under.kept, 400.0, run))[0]
        of_solid = cv2.sumElems(white)[0] / whole if whole > 0 else 1.0
    return WhiteCheck(strokes, of_solid, under.taken_share)


def _areas(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> tuple[DesignArea, ...]:
    return design_areas(done["fades"].art, underbase.design_ramp(request.profile.white), request.ppi)


def _edges(request: PlanRequest, done: Mapping[str, Any], run: Run) -> EdgeTrouble:
    """What the edges of the white come to, on the print as it is cut."""
    white: Plane = done["white"]
    none = np.zeros_like(white)
    if request.settings.white.mode in ("none", "only"):
        return EdgeTrouble(none, none)
    art, soft = done["fades"].art, done["fades"].soft
    own = own_mask(art, underbase.design_ramp(request.profile.white))
    figure = figure_of(request, art, soft, done["design"])
    peek = peeking(white, figure, own, px_from_mm(request.settings.registration(request.profile).reach_mm, request.ppi))
    run.check()
    ground = Ground(art, done["inks"], soft, done["alpha"], done["design"])
    full, limit = np.full_like(white, 255), white_limit(request.settings)
    plain = request.settings.white.mode == "solid" and request.settings.prints_design_white and ground.otherwise is None
    wanted = ground.alpha.white if plain else laid(request, ground, full, limit, run)
    return EdgeTrouble(peek, bare(wanted, white, printed_share(done["inks"], none)))


def _highlight_reads(request: PlanRequest) -> tuple[str, ...]:
    return _joined(design_reads(request), ("profile.slots", "settings.white.whole_sheet"))


def _rule_reads(request: PlanRequest) -> tuple[str, ...]:
    return _joined(design_reads(request), ("settings.white.design_rules",), PLACED)


WHITE_STAGES = (
    Stage("design", 1, ("fades",), _rule_reads, _design),
    Stage("choked", 2, ("fades", "design"), _figure_reads, _choked, "Pulling white in"),
    Stage(
        "whole white",
        4,
        ("fades", "separate", "alpha", "design", "choked"),
        _white_reads,
        _whole_white,
        "Laying white",
    ),
    Stage("whole highlight", 1, ("fades", "separate", "alpha", "design"), _highlight_reads, _whole_highlight),
    Stage("highlight", 1, ("whole highlight", "cut"), _SCREEN_CHOKE, _highlight),
    Stage("white", 4, ("whole white", "cut"), _SCREEN_CHOKE, _white),
)

CHECK_STAGES = (
    Stage(
        "white check",
        2,
        ("fades", "separate", "alpha", "design", "choked", "whole white"),
        _check_reads,
        _white_check,
        "Following thin strokes",
    ),
    Stage("edges", 1, ("fades", "alpha", "design", "inks", "white"), _edge_reads, _edges, "Following edges"),
    Stage("design areas", 1, ("fades",), ("profile.white", "ppi"), _areas, "Finding white of the design"),
)
