"""Weigh-ins and stopped times as a CSV file, and the press profile that comes of them."""

import datetime
import math
import tomllib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.next_print import patches
from swaddon.core.shop.stopwatch import Timing
from swaddon.core.shop.sureness import Sure, value_of
from swaddon.core.shop.weighing import Print, Weighing
from swaddon.io import profiles
from swaddon.io.names import shown
from swaddon.io.spreadsheet import Row, columns_of, read_text, rows_of, write_rows

INKS = ("W", "C", "M", "Y", "K", "H")
HEADS = (
    "name", "plan", "count", "blank_g", "pretreated_g", "printed_g", "powdered_g", "bottle", "before_g", "after_g",
    "at_min", "print_s", *(f"{ink.lower()}_cm2" for ink in INKS), "printed_cm2", "pretreat_cm2", "bands", "travel_mm",
)  # fmt: skip
_KNOWN = {key: (key.replace("_", " "),) for key in HEADS} | {"name": ("print",), "plan": ("job",)}
MOST_ROWS = 500
_LARGEST = {"_g": 100_000.0, "_cm2": 1_000_000.0, "_s": 100_000.0, "_min": 1e7, "count": 10_000.0}
_LONGEST_NAME = 80


@dataclass(frozen=True)
class Planned:
    """What a plan tells of a print: its areas, bands and carriage travel."""

    of: Print
    bands: int = 0
    travel_mm: float = 0.0


@dataclass(frozen=True)
class Table:
    """The rows of a weigh-in: weights, and times."""

    weighings: tuple[Weighing, ...]
    timings: tuple[Timing, ...]


Resolve = Callable[[str], Planned]
"""What a plan is by what stands in its column; raises ``PlanError``."""


def read_weighings(path: Path, press: PressProfile, resolve: Resolve) -> Table:
    """Rows of a CSV file.

    Raises
    ------
    PlanError
        One sentence that names the row.
    """
    try:
        return table_of(read_text(path), press, resolve)
    except ValueError as error:
        raise PlanError(f"The weights in “{shown(path)}” cannot be taken: {str(error).rstrip('.')}.") from error


def table_of(text: str, press: PressProfile, resolve: Resolve) -> Table:
    """Rows of the text of a table; raises ``ValueError`` with one sentence that names the row."""
    rows = rows_of(text)
    places = columns_of(rows[0], _KNOWN) if rows else None
    if places is None:
        raise ValueError(f"its first row must be heads: name and some of {', '.join(HEADS[1:])}")
    if len(rows) == 1:
        raise ValueError("it has heads and no row below them")
    return _table(rows[1:], places, press, resolve)


def table_from(cells: Sequence[Sequence[str]], press: PressProfile, resolve: Resolve) -> Table:
    """Rows of cells in the order of ``HEADS``; raises ``ValueError`` that names the row."""
    rows = [Row(number, tuple(row)) for number, row in enumerate(cells, start=1)]
    return _table(rows, {key: at for at, key in enumerate(HEADS)}, press, resolve)


def _table(rows: Sequence[Row], places: dict[str, int], press: PressProfile, resolve: Resolve) -> Table:
    if len(rows) > MOST_ROWS:
        raise ValueError(f"it has {len(rows)} rows, more than {MOST_ROWS}")
    weighings, timings = [], []
    for at, row in enumerate(rows):
        cells = _Cells(row, places)
        planned = _planned(cells, press, resolve)
        name = cells.text("name") or f"print {at + 1}"
        if len(name) > _LONGEST_NAME:
            raise ValueError(f"row {row.number}: the name is longer than {_LONGEST_NAME} characters")
        weighing = _weighing(cells, name, planned, float(at))
        if weighing is not None:
            weighings.append(weighing)
        seconds = cells.number("print_s")
        if seconds is not None:
            if planned.bands <= 0:
                raise ValueError(f"row {row.number}: a print time needs its plan, or bands and travel_mm")
            timings.append(Timing(name, row.number, planned.bands, planned.travel_mm, seconds))
        if weighing is None and seconds is None:
            raise ValueError(f"row {row.number} ({name}) has no weight and no time")
    return Table(tuple(weighings), tuple(timings))


class _Cells:
    """One row by the names of its columns."""

    def __init__(self, row: Row, places: dict[str, int]) -> None:
        self.row, self._places = row, places

    def text(self, key: str) -> str:
        return self.row.cell(self._places[key]) if key in self._places else ""

    def number(self, key: str) -> float | None:
        """A number of 0 or more; ``None`` in an empty cell."""
        text = self.text(key)
        if not text:
            return None
        try:
            value = float(text.replace(",", "."))
        except ValueError as error:
            raise ValueError(f"row {self.row.number}: “{text}” in {key} is no number") from error
        most = next((most for end, most in _LARGEST.items() if key.endswith(end)), 1e9)
        if not math.isfinite(value) or value < 0 or value > most:
            raise ValueError(f"row {self.row.number}: {text} in {key} is not between 0 and {most:g}")
        return value


def _planned(cells: _Cells, press: PressProfile, resolve: Resolve) -> Planned:
    """What the row's print is made of: by its plan, or by its areas."""
    number, plan = cells.row.number, cells.text("plan")
    areas = {ink: cells.number(f"{ink.lower()}_cm2") for ink in INKS}
    given = any(area is not None for area in areas.values())
    if plan and given:
        raise ValueError(f"row {number} has a plan and areas: give one of them")
    if plan:
        for patch in patches(press):
            if plan.lower() in (f"patch {patch.ink.lower()}", patch.name.lower()):
                return Planned(patch.of)
        try:
            return resolve(plan)
        except PlanError as error:
            raise ValueError(f"row {number}: {str(error).rstrip('.')}") from error
    printed = cells.number("printed_cm2")
    if not given and cells.number("bands") is None:
        raise ValueError(f"row {number} needs its plan, or the areas of its inks (w_cm2, c_cm2 …) and printed_cm2")
    if given and printed is None and press.powder is not None and cells.number("powdered_g") is not None:
        raise ValueError(f"row {number} is weighed powdered: give printed_cm2")
    of = Print(
        {ink: area / 1e4 for ink, area in areas.items() if area is not None},
        (printed or 0.0) / 1e4,
        (cells.number("pretreat_cm2") or 0.0) / 1e4,
    )
    return Planned(of, round(cells.number("bands") or 0), cells.number("travel_mm") or 0.0)


def _weighing(cells: _Cells, name: str, planned: Planned, place: float) -> Weighing | None:
    """The weights of a row; ``None`` where it has none."""
    number = cells.row.number
    weights = {key: cells.number(key) for key in HEADS if key.endswith("_g")}
    if all(weight is None for weight in weights.values()):
        return None
    count = cells.number("count")
    if count is not None and (count < 1 or count != round(count)):
        raise ValueError(f"row {number}: count is {cells.text('count')}, it must be 1 or more")
    bottle = cells.text("bottle").upper().replace("COLOUR", "CMYK").replace("WHITE", "W").replace("H", "")
    if bottle and not set(bottle) <= set("WCMYK"):
        raise ValueError(f"row {number}: “{cells.text('bottle')}” is no bottle: W, C, M, Y, K or colour")
    if bottle and "W" in bottle and len(bottle) > 1:
        raise ValueError(f"row {number}: white and colours are bottles of their own")
    if not bottle and weights["blank_g"] is None:
        raise ValueError(f"row {number} ({name}) needs blank_g: a weight tells only against the blank")
    if not bottle and all(weights[key] is None for key in ("pretreated_g", "printed_g", "powdered_g")):
        raise ValueError(f"row {number} ({name}) needs printed_g or powdered_g beside blank_g")
    at = cells.number("at_min")
    return Weighing(
        name, number, planned.of, round(count or 1), bottle=bottle, at=place if at is None else at, **weights
    )


def cells_for(name: str, planned: Planned, **given: str) -> tuple[str, ...]:
    """A row of the table in the order of ``HEADS``, with the areas of its print, and other cells as given."""
    areas = {f"{ink.lower()}_cm2": planned.of.full_m2.get(ink) for ink in INKS}
    numbers = areas | {"printed_cm2": planned.of.printed_m2, "pretreat_cm2": planned.of.pretreat_m2}
    cells = {key: "" if area is None else f"{area * 1e4:.6g}" for key, area in numbers.items()}
    cells |= {"name": name, "bands": str(planned.bands), "travel_mm": f"{planned.travel_mm:.6g}"} | given
    return tuple(cells.get(key, "") for key in HEADS)


def rows_in(path: Path) -> tuple[tuple[str, ...], ...]:
    """The cells of a table in the order of ``HEADS``; raises ``PlanError`` where it is none."""
    rows = rows_of(read_text(path))
    places = columns_of(rows[0], _KNOWN) if rows else None
    if places is None:
        raise PlanError(f"“{shown(path)}” is no table of weights: its first row must be heads.")
    return tuple(tuple(row.cell(places[key]) if key in places else "" for key in HEADS) for row in rows[1:])


def write_rows_of(path: Path, rows: Sequence[Sequence[str]]) -> None:
    """Write a table of weights; raises ``PlanError``."""
    write_rows(path, [HEADS, *rows])


def write_routine(path: Path, press: PressProfile) -> None:
    """Write the table of the routine, to be filled in: a row for each patch; raises ``PlanError``."""
    empty = ("",) * (len(HEADS) - 3)
    write_rows(path, [HEADS, *((item.name, f"patch {item.ink}", "1", *empty) for item in patches(press))])


def weighed_profile(
    base: PressProfile,
    found: Sequence[Sure],
    covariance: NDArray[np.float64],
    source: str,
    day: datetime.date,
) -> str:
    """TOML text of a press profile with constants as weighed or timed, each with its old value, ±, date and source.

    Raises
    ------
    PlanError
        When a value is none that a press profile may have.
    """
    import tomli_w

    document: dict[str, Any] = tomllib.loads(base.source)
    entries = document.setdefault("measured", [])
    for item in found:
        old = value_of(base, item.constant)
        _put(document, item.constant, _digits(item.value))
        entries.append(
            {
                "constant": item.constant, "value": _digits(item.value), "old": old, "pm": _digits(item.pm),
                "date": day.isoformat(), "source": source[:200],
            }
        )  # fmt: skip
    document.setdefault("weighed", []).append(
        {
            "date": day.isoformat(),
            "source": source[:200],
            "constants": [item.constant for item in found],
            "log_covariance": [[_digits(float(value)) for value in line] for line in covariance],
        }
    )
    text = tomli_w.dumps(document)
    profiles.parse(text, base.name)
    return text


def stepped_back(base: PressProfile) -> str | None:
    """TOML text of the profile as it was before the last weigh-in; ``None``: there was none."""
    import tomli_w

    if not base.weighed:
        return None
    last = base.weighed[-1]
    document: dict[str, Any] = tomllib.loads(base.source)
    document["weighed"].pop()
    entries: list[dict[str, Any]] = document["measured"]
    for constant in last.constants:
        at = max(
            (at for at, entry in enumerate(entries) if entry["constant"] == constant and entry["date"] == last.date),
            default=None,
        )
        if at is not None:
            _put(document, constant, entries.pop(at)["old"])
    text = tomli_w.dumps(document)
    profiles.parse(text, base.name)
    return text


def _put(document: dict[str, Any], constant: str, value: float) -> None:
    *rooms, name = constant.split(".")
    place = document
    for room in rooms:
        place = place.setdefault(room, {})
    place[name] = value


def _digits(value: float) -> float:
    """Six digits are enough for what is weighed."""
    return float(f"{value:.6g}")
