"""Sheets of jobs: laid, told as JSON, and what they mean for cost and time."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

import numpy as np

from swaddon import __version__
from swaddon.core.count.shared import SheetShare
from swaddon.core.count.timing import sheet_time_s
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.findings import Finding
from swaddon.core.findings.sheets import OnSheet, sheet_findings, turned_angle
from swaddon.core.order.lines import OrderLine
from swaddon.core.sheet.by_hand import is_clear
from swaddon.core.sheet.gang import Gang, GangSearch, Spot, lengths_of, steps_for
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.prints import TURNS, Turn
from swaddon.core.sheet.room import as_printed
from swaddon.core.sheet.settings import PlacedPrint, SheetSettings
from swaddon.core.sheet.tags import TagPlace
from swaddon.core.units import mm_from_px, number_of
from swaddon.session.job import Job
from swaddon.session.session import Edit
from swaddon.session.sheet_prints import Laid, PrintMaker, Wanted

SEEN_FROM = "printed side"
"""Places on a sheet are as its files show it and the device prints it; a mirrored print is mirrored in its place."""

SCHEMA = "swaddon-sheet/1"
_ASK_EVERY_S = 0.1
"""How often a search tells how far it is, and looks whether it is still wanted."""


@dataclass(frozen=True, eq=False)
class SheetPlan:
    """Prints on sheets, and what boxes would have taken."""

    laid: tuple[Laid, ...]
    tags: tuple[TagPlace | None, ...]
    gang: Gang
    by_box: Gang
    settings: SheetSettings

    @property
    def findings(self) -> tuple[Finding, ...]:
        return sheet_findings(self.gang, [on_sheet(item) for item in self.laid])

    @property
    def saved_mm(self) -> float:
        """Film that laying by shape saves against boxes, in mm of length (of sheets: of printed length)."""
        return sum(self.by_box.printed_mm) - sum(self.gang.printed_mm)

    @property
    def saved_cost(self) -> Decimal:
        """What that film costs."""
        film = self.laid[0].made.press.film
        if film is None or not self.gang.medium.is_roll:
            return Decimal(0)
        area = self.saved_mm * self.gang.medium.width_mm / 1e6 * film.amount_per_m2
        return Decimal(repr(round(area, 9))) * film.supply.unit_price

    def film_by_job(self) -> dict[str, float]:
        """Medium in mm² that each job takes, by its name on the sheet."""
        out: dict[str, float] = {}
        for index, item in enumerate(self.laid):
            film = self.gang.film_of(index) * item.copies
            out[item.wanted.label] = out.get(item.wanted.label, 0.0) + film
        return out


class SheetWork:
    """Lays prints, and improves the layout step by step."""

    def __init__(
        self, laid: Sequence[Laid], medium: Medium, settings: SheetSettings, check: Callable[[], None] = lambda: None
    ) -> None:
        self._laid, self._settings = tuple(laid), settings
        made = [item.item(settings.tags, settings.apart) for item in laid]
        self._tags = tuple(place for _, place in made)
        ppi = laid[0].made.outline.ppi if laid else 300.0
        own = as_printed(medium, laid[0].made.press) if laid else medium
        try:
            self._search = GangSearch(
                [item for item, _ in made], own, ppi, settings.rules, settings.way, settings.seed, check
            )
        except ValueError as error:
            text = str(error)
            raise PlanError(f"{text[:1].upper()}{text[1:]}.") from error
        self.steps = steps_for(sum(item.copies for item in laid))

    @property
    def plan(self) -> SheetPlan:
        """The best so far."""
        return SheetPlan(self._laid, self._tags, self._search.best, self._search.by_box, self._settings)

    def improved(
        self, run: Run, steps: int | None = None, better: Callable[[SheetPlan], None] = lambda _plan: None
    ) -> SheetPlan:
        """The best after some steps, each better one handed over; raises ``Superseded`` when nobody waits any more."""
        count, goal = self.steps if steps is None else steps, self._search.best.lengths_px
        asked = 0.0
        for index, _ in enumerate(self._search.improve(count, run.check)):
            if time.monotonic() - asked < _ASK_EVERY_S:
                continue
            run.check()
            run.report("Laying prints", min(1.0, index / max(1, count)))
            now, asked = self._search.best, time.monotonic()
            if now.lengths_px != goal:
                goal = now.lengths_px
                better(self.plan)
        return self.plan


def by_hand(
    laid: Sequence[Laid], medium: Medium, settings: SheetSettings, like: SheetPlan | None = None
) -> SheetPlan | None:
    """Prints where they were put by hand; ``None`` where that is not possible any more.

    ``like`` is another plan of the same prints on the same medium: what boxes take is known from there.
    """
    boxes = SheetWork(laid, medium, replace(settings, way="box")).plan if like is None else like
    numbers = {(item.wanted.label, item.line): index for index, item in enumerate(laid)}
    spots = []
    for placed in settings.placed:
        index = numbers.get((placed.job, placed.line))
        if index is None or placed.turn not in TURNS:
            return None
        turn: Turn = placed.turn
        spots.append(Spot(index, placed.number, placed.sheet, placed.x_px, placed.y_px, turn))
    wanted = {(index, copy) for index, item in enumerate(laid) for copy in range(1, item.copies + 1)}
    if {(spot.item, spot.copy) for spot in spots} != wanted or len(spots) != len(wanted):
        return None
    sheets = max(spot.sheet for spot in spots)
    if sheets > len(spots):
        return None
    items = boxes.gang.items
    groups = [{items[spot.item].group for spot in spots if spot.sheet == number} for number in range(1, sheets + 1)]
    if any(len(group) > 1 for group in groups):
        return None
    gang = replace(
        boxes.gang,
        spots=tuple(spots),
        lengths_px=lengths_of(items, spots, sheets),
        groups=tuple(next(iter(group), "") for group in groups),
        way="shape",
    )
    return replace(boxes, gang=gang, settings=settings) if is_clear(gang) else None


def placed_of(plan: SheetPlan, gang: Gang) -> tuple[PlacedPrint, ...]:
    """Prints as they lie, to be kept as put by hand."""
    return tuple(
        PlacedPrint(
            plan.laid[spot.item].wanted.label, plan.laid[spot.item].line, spot.copy, spot.sheet, spot.x_px, spot.y_px,
            spot.turn,
        )
        for spot in gang.spots
    )  # fmt: skip


def lay(
    wanted: Sequence[Wanted], medium: Medium, settings: SheetSettings, run: Run, maker: PrintMaker | None = None,
    steps: int | None = None,
) -> SheetPlan:  # fmt: skip
    """Prints of jobs on sheets of a medium; raises ``PlanError`` with one sentence."""
    laid = (maker or PrintMaker()).laid(wanted, run)
    return SheetWork(laid, medium, settings, run.check).improved(run, steps)


def on_sheet(item: Laid) -> OnSheet:
    """What findings need to know of a print."""
    made, line = item.made, item.order_line
    return OnSheet(
        title=item.title,
        garment=line.garment_name,
        mirrored=made.mirrored,
        flips=made.press.printing.flips,
        has_white=made.has_white,
        wants_white=made.wants_white,
        hole_angles=made.hole_angles,
    )


def shares(plan: SheetPlan) -> dict[tuple[int, int], SheetShare]:
    """What one piece of each line takes of its sheets, by the job's uid and the line's place from 0."""
    gang = plan.gang
    times = print_times(plan)
    sheet_mm2 = gang.medium.width_mm * gang.medium.height_mm
    out = {}
    for index, item in enumerate(plan.laid):
        film = gang.film_of(index)
        time = gang.share_of(index, times)
        alone = item.made.alone_s
        out[item.wanted.uid, item.line - 1] = SheetShare(
            medium=gang.medium.title,
            film_mm2=round(film, 1),
            sheets=0.0 if gang.medium.is_roll else round(film / sheet_mm2, 6),
            time_ratio=round(time / alone, 6) if alone else 1.0,
            width_mm=item.order_line.settings.width_mm,
            press=item.made.press.name,
        )
    return out


def print_times(plan: SheetPlan) -> list[float]:
    """Print time of each sheet in s."""
    gang, press = plan.gang, plan.laid[0].made.press
    out = []
    for number, length in enumerate(gang.lengths_px, start=1):
        rows, across = np.zeros(max(1, length), np.bool_), [gang.area.width_px, 0]
        white = False
        for spot in gang.spots:
            if spot.sheet != number:
                continue
            width, height = gang.items[spot.item].outline.size_px(spot.turn)
            rows[max(0, spot.y_px) : spot.y_px + height] = True
            across = [min(across[0], spot.x_px), max(across[1], spot.x_px + width)]
            white |= plan.laid[spot.item].made.has_white
        width_mm = mm_from_px(max(0, across[1] - across[0]), gang.area.ppi)
        out.append(sheet_time_s(press, rows, width_mm, gang.area.ppi, white))
    return out


def taken(uid: int, found: dict[tuple[int, int], SheetShare]) -> Edit:
    """The edit that gives each line of a job its share of the sheet."""

    def with_share(line: OrderLine, at: int) -> OrderLine:
        share = found.get((uid, at))
        return line if share is None else replace(line, settings=replace(line.settings, sheet_share=share))

    def change(before: Job) -> Job:
        return before.of_lines(tuple(with_share(line, at) for at, line in enumerate(before.lines)), before.at)

    return Edit("Take film and time from the sheet", change)


def sheet_report(plan: SheetPlan, files: dict[int, list[str]] | None = None) -> dict[str, Any]:
    """The sheets as JSON-ready values. Names are a contract (docs/sheets.md): fields may be added, none renamed."""
    gang, medium = plan.gang, plan.gang.medium
    by_job = plan.film_by_job()
    total = gang.film_mm2
    return {
        "schema": SCHEMA,
        "swaddon_version": __version__,
        "medium": {
            "name": medium.name,
            "title": medium.title,
            "kind": medium.kind,
            "width_mm": medium.width_mm,
            "height_mm": medium.height_mm,
            "margin_mm": list(medium.margin_mm),
        },
        "process": plan.laid[0].made.press.process,
        "press": plan.laid[0].made.press.name,
        "ppi": gang.area.ppi,
        "by": plan.settings.way,
        "laid_by": gang.way,
        "spacing_mm": plan.settings.spacing_mm,
        "turns": plan.settings.turns,
        "fill_rings": plan.settings.fill_rings,
        "seed": plan.settings.seed,
        "seen_from": SEEN_FROM,
        "sheets": [_sheet(plan, number, (files or {}).get(number, [])) for number in range(1, gang.sheets + 1)],
        "film_mm2": round(total, 3),
        "film_share": {job: round(film / total, 9) for job, film in by_job.items()},
        "film_of_job_mm2": {job: round(film, 3) for job, film in by_job.items()},
        "filled_share": round(gang.filled_share, 6),
        "boxes": {
            "sheets": plan.by_box.sheets,
            "used_length_mm": [round(length, 3) for length in plan.by_box.printed_mm],
            "film_mm2": round(plan.by_box.film_mm2, 3),
            "saved_mm": round(plan.saved_mm, 3),
        },
        "findings": [_finding(item) for item in plan.findings],
    }


def _finding(item: Finding) -> dict[str, Any]:
    """What was found on a sheet."""
    return {
        "code": item.code,
        "severity": item.severity,
        "text": item.text,
        "x_mm": round(item.x_mm, 2),
        "y_mm": round(item.y_mm, 2),
        "size": round(item.size, 3),
        "unit": item.unit,
    }


def _sheet(plan: SheetPlan, number: int, files: list[str]) -> dict[str, Any]:
    gang = plan.gang
    return {
        "number": number,
        "used_length_mm": round(gang.printed_mm[number - 1], 3),
        "length_mm": round(gang.used_mm[number - 1], 3),
        "mirrored": plan.laid[0].made.mirrored,
        "group": gang.groups[number - 1],
        "files": files,
        "prints": [_print(plan, spot) for spot in gang.spots if spot.sheet == number],
    }


def artboard_px(gang: Gang, spot: Spot) -> tuple[int, int]:
    """Upper left corner of a print's turned artboard on its sheet, in pixels."""
    inset = gang.items[spot.item].outline.inset_px(spot.turn)
    return gang.area.left_px + spot.x_px - inset[0], gang.area.top_px + spot.y_px - inset[1]


def _print(plan: SheetPlan, spot: Spot) -> dict[str, Any]:
    gang, item = plan.gang, plan.laid[spot.item]
    ppi = gang.area.ppi
    x, y = artboard_px(gang, spot)
    width, height = gang.items[spot.item].outline.artboard_px(spot.turn)
    line = item.order_line
    return {
        "job": item.wanted.label,
        "line": item.line,
        "copy": spot.copy,
        "title": line.title,
        "garment": line.garment_name,
        "size": line.goods.size,
        "place": line.goods.place,
        "x_mm": round(mm_from_px(x, ppi), 4),
        "y_mm": round(mm_from_px(y, ppi), 4),
        "width_mm": round(mm_from_px(width, ppi), 4),
        "height_mm": round(mm_from_px(height, ppi), 4),
        "turn_deg": spot.turn,
        "holes": [
            {"against_weave_deg": angle, "on_sheet_deg": turned_angle(angle, spot.turn, item.made.mirrored)}
            for angle in item.made.hole_angles
        ],
    }


def sheet_table(plan: SheetPlan) -> str:
    """The sheets in a few lines for a terminal."""
    gang, press = plan.gang, plan.laid[0].made.press
    count = len(gang.spots)
    lines = [f"{gang.medium.title} ({gang.medium.size_text}), {number_of(count, 'print')} on {_sheets(gang.sheets)}"]
    for number, length in enumerate(gang.printed_mm, start=1):
        own = sum(spot.sheet == number for spot in gang.spots)
        lines.append(f"Sheet {number:<3} {own:>5} prints  {length / 10:>8.1f} cm long")
    word = "Film" if gang.medium.kind in ("roll", "cut") else "Medium"
    lines.append(f"{word} {gang.film_mm2 / 1e6:.4f} m², {gang.filled_share:.0%} of it printed")
    if plan.settings.way == "shape":
        money = f", {plan.saved_cost:.2f} {press.currency}" if plan.saved_cost else ""
        lines.append(
            f"Boxes would take {sum(plan.by_box.printed_mm) / 10:.1f} cm: {plan.saved_mm / 10:.1f} cm{money} saved"
        )
    for job, film in plan.film_by_job().items():
        lines.append(f"{job:<32} {film / 100:>9.0f} cm²  {film / gang.film_mm2:>5.1%}")
    lines += [f"{item.severity}: {item.text}" for item in plan.findings]
    return "\n".join(lines)


def _sheets(count: int) -> str:
    return "one sheet" if count == 1 else f"{count} sheets"
