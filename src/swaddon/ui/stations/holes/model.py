"""Holes: which regions are cut, how, and what it does to colour, cost and hand."""

from dataclasses import dataclass, fields, replace
from typing import Any

from swaddon.core.artwork.regions import RegionMap
from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.holes.held import Features, features, usual_screen
from swaddon.core.holes.screen import TileArt, cell_size_px, left_share, rule
from swaddon.core.holes.settings import Screen
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import Holds, PressProfile
from swaddon.core.units import MM_PER_INCH
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.session.selection import Selection, finest_mm, mm_per_px
from swaddon.session.session import Edit

KINDS = (("solid", "Solid"), ("round", "Dots"), ("inverted", "Holes"), ("line", "Lines"), ("tile", "Tile"))
GAVE_UP = "Finding regions was cancelled; come back to this station to look again."
_MEASURED = 12
"""Regions of a selection whose finest width is measured, so that a click answers at once."""


@dataclass(frozen=True)
class RegionFacts:
    """The selected regions in one line."""

    colour: Rgb | None
    text: str


@dataclass(frozen=True)
class HolesState:
    """What the Holes sheet shows; ``screen`` is ``None`` for solid."""

    ready: bool
    searching: bool
    scope: str
    screen: Screen | None
    share: float
    kind: str
    tiles: tuple[str, ...]
    effect: str
    selected: RegionFacts
    has_selection: bool
    fine_mm: float
    give_back: bool
    give_back_effect: str
    deeper_black: float


def holes_state(
    job: Job,
    plan: Plan | None,
    found: RegionMap | None,
    selection: Selection,
    widths: dict[tuple[int, float], float] | None = None,
) -> HolesState:
    """``widths`` keeps the finest widths measured so far, by region and scale."""
    settings = job.settings.holes
    screen = settings.default
    if found is not None and selection.numbers:
        screen = selection.screen(found, settings)
    tiles = job.all_tiles()
    return HolesState(
        ready=job.file is not None,
        searching=job.file is not None and found is None,
        scope="selected" if selection.numbers else "every",
        screen=screen,
        share=0.85 if screen is None else _share(screen, tiles),
        kind="solid" if screen is None else screen.pattern,
        tiles=tuple(sorted(tiles)),
        effect="" if screen is None or job.profile is None else _screen_effect(screen, tiles, job.profile),
        selected=_facts(job, found, selection, {} if widths is None else widths),
        has_selection=bool(selection.numbers),
        fine_mm=settings.fine_mm,
        give_back=settings.give_back,
        give_back_effect="" if plan is None else _give_back_effect(plan, job, screen),
        deeper_black=settings.deeper_black,
    )


def _share(screen: Screen, tiles: dict[str, TileArt]) -> float:
    if screen.share is not None:
        return screen.share
    return left_share(screen, tiles.get(screen.tile)) / max(screen.tone, 1e-6)


def _screen_effect(screen: Screen, tiles: dict[str, TileArt], profile: PressProfile) -> str:
    ruled = rule(screen, tiles, profile.plan_ppi)
    what = features(ruled, profile.plan_ppi)
    if ruled.tile is not None:
        wide, high = (
            side * MM_PER_INCH / profile.plan_ppi for side in cell_size_px(screen, ruled.tile, profile.plan_ppi)
        )
        return f"A tile of {wide:.1f} × {high:.1f} mm, repeated · {_held(what, profile.holds)}"
    text = f"{what.levels} tones at {profile.plan_ppi:g} ppi · {_held(what, profile.holds)}"
    if ruled.is_nudged:
        text += f" · ruled at {ruled.screen.lpi:.2f} lpi to hold the tone"
    return text


def _held(what: Features, holds: Holds) -> str:
    ink = f"ink {what.ink_mm:.2f} mm (holds {holds.dot_mm:g}{', too fine' if what.washes(holds) else ''})"
    return f"{ink}, hole {what.hole_mm:.2f} mm (holds {holds.hole_mm:g}{', too fine' if what.fills(holds) else ''})"


def _facts(
    job: Job, found: RegionMap | None, selection: Selection, widths: dict[tuple[int, float], float]
) -> RegionFacts:
    if job.file is None:
        return RegionFacts(None, "Place artwork first.")
    if found is None:
        return RegionFacts(None, "Finding the artwork’s regions …")
    if not selection.numbers:
        return RegionFacts(None, f"{len(found.printing)} regions that print; click one on the table.")
    mm = mm_per_px(job.settings, job.file.artwork.placed_px(job.settings.placement)[0])
    chosen = selection.regions(found)
    area = sum(region.area_px for region in chosen) * (mm * found.reduction) ** 2 / 100
    for region in chosen[-_MEASURED:]:
        if (region.number, mm) not in widths:
            widths[region.number, mm] = finest_mm(found, region, mm)
    finest = min(widths[region.number, mm] for region in chosen[-_MEASURED:])
    last = chosen[-1]
    name = hex_from_rgb(last.colour) if len(chosen) == 1 else f"{len(chosen)} regions"
    return RegionFacts(last.colour, f"{name} · {area:.1f} cm² · finest {finest:.1f} mm")


def _give_back_effect(plan: Plan, job: Job, screen: Screen | None) -> str:
    if plan.zones is None or not plan.given or screen is None:
        return ""
    worst = max(plan.given, key=lambda item: item.delta_e_before)
    if not job.settings.holes.give_back:
        return f"Colours shift by up to ΔE {worst.delta_e_before:.1f} at arm’s length"
    if worst.boost <= 1.0 and worst.delta_e_after >= worst.delta_e_before - 0.05:
        return f"No more ink helps on this garment: ΔE {worst.delta_e_before:.1f} stays"
    boosts = [item.boost for item in plan.given]
    return (
        f"Worst ΔE {worst.delta_e_before:.1f} → {worst.delta_e_after:.1f}, ink × {min(boosts):.2f} to {max(boosts):.2f}"
    )


def screen_edit(
    found: RegionMap | None, selection: Selection, screen: Screen | None, merge_key: str | None = None
) -> Edit:
    """Treat the selected regions so, or every region when none is selected."""
    if found is None or not selection.numbers:
        return edits.set_screen(screen, merge_key)
    return edits.set_rule(selection.rule(found, screen), merge_key)


class Kinds:
    """The screen of each kind of treatment as it was left, so that going to lines and back changes nothing.

    What the operator changes on one kind (share, angle …) goes along to the others; what a kind brought by itself does
    not.
    """

    def __init__(self) -> None:
        self._left: dict[str, Screen] = {}
        self._brought: Screen | None = None
        self._own: dict[str, Any] = {}

    def chosen(self, now: Screen | None, kind: str, press: PressProfile, tiles: tuple[str, ...]) -> Screen | None:
        """The screen after a kind was chosen; ``None``: solid."""
        if now is not None:
            brought = self._brought or _first(now.pattern, press, now.tile)
            changed = {} if brought.pattern != now.pattern else _differing(brought, now)
            self._left = {key: _with(screen, changed) for key, screen in self._left.items()} | {now.pattern: now}
            self._own |= changed
        if kind == "solid":
            return None
        tile = now.tile if now is not None and now.tile in tiles else (tiles[0] if tiles else "")
        screen = self._left.get(kind)
        if screen is None:
            screen = _with(_first(kind, press, tile), self._own)
        self._brought = screen
        return screen


def _first(kind: str, press: PressProfile, tile: str) -> Screen:
    """The screen that a kind starts with on a press; a tile starts as it is drawn."""
    if kind == "tile":
        return Screen("tile", share=None, tile=tile)
    return usual_screen(press, kind)  # type: ignore[arg-type]


def _with(screen: Screen, own: dict[str, Any]) -> Screen:
    """A screen with what was changed on another; ink left is of a tile, or of what is no tile."""
    left = {name: value for name, value in own.items() if name != "share" or screen.pattern != "tile"}
    return replace(screen, **left)


def _differing(one: Screen, other: Screen) -> dict[str, Any]:
    """What the operator changed of a kind; which tile it is belongs to the tile alone."""
    stays = {"pattern", "tile"} | ({"share"} if other.pattern == "tile" else set())
    return {
        item.name: getattr(other, item.name)
        for item in fields(Screen)
        if item.name not in stays and getattr(one, item.name) != getattr(other, item.name)
    }
