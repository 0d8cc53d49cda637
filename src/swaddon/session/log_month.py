"""A month of the log book in words and bars, on paper and as CSV."""

import datetime
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from swaddon.core.count.money import money_text
from swaddon.core.log.month import Month, Used
from swaddon.core.log.troubles import trouble_title
from swaddon.core.press.processes import PROCESSES
from swaddon.io.month_pdf import MonthPage, write_month_pdf
from swaddon.io.spreadsheet import write_rows
from swaddon.session.figure_words import time_text

_MATERIALS = {"film": "Film", "sheet": "Sheets", "powder": "Powder", "pretreat": "Pretreat"}
_COLOURANTS = {"ml": "ink", "g": "toner"}
_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


@dataclass(frozen=True)
class Bar:
    """One bar: its length and a mark as shares of the room, and its value in words."""

    title: str
    share: float
    told: str
    kind: Literal["good", "bad", "plain"] = "plain"
    mark: float | None = None


def month_title(month: str) -> str:
    """A month as one says it.

    >>> month_title("2026-11")
    'November 2026'
    """
    day = datetime.date.fromisoformat(f"{month}-01")
    return f"{_MONTHS[day.month - 1]} {day.year}"


def month_head(month: Month) -> tuple[str, str, str]:
    """Title, the sums in a sentence, and what they are made of."""
    if not month.runs:
        return month_title(month.month), "No run ended in this month.", ""
    cost = ", ".join(f"{money_text(total, 2)} {currency}" for currency, total in month.spoilage_cost) or "nothing"
    share = f"{100 * month.spoiled_share:.1f} %"
    head = f"{month.good} good, {month.lost} spoiled ({share}) in {month.runs} runs; spoilage cost {cost} of materials."
    note = (
        "Planned is what the pieces ordered need by their plans, with waste; used is that of all pieces begun, spoiled "
        "ones too, and measured amounts where they were entered. Print time taken counts runs whose printing was timed."
    )
    return month_title(month.month), head, note


def month_bars(month: Month) -> tuple[tuple[str, tuple[Bar, ...]], ...]:
    """Groups of bars."""
    groups: list[tuple[str, tuple[Bar, ...]]] = []
    begun = max(1, month.good + month.lost)
    if month.runs:
        groups.append(("Pieces", (
            Bar("Good", month.good / begun, f"{month.good} of {month.ordered} ordered", "good"),
            Bar("Spoiled", month.lost / begun, f"{month.lost}", "bad"),
            *(Bar(_process(key), count / begun, f"{count}") for key, count in month.by_process),
        )))  # fmt: skip
    if month.spoiled:
        most = max(count for _, count in month.spoiled)
        groups.append(("Spoiled, and why", tuple(
            Bar(trouble_title(why), count / most, f"{count}", "bad") for why, count in month.spoiled
        )))  # fmt: skip
    if month.used:
        groups.append(("Used, and planned (mark)", tuple(
            _against(_material(used), used.used, used.planned,
                     _amount(used.used, used.unit), _amount(used.planned, used.unit), used.is_measured)
            for used in month.used
        )))  # fmt: skip
    times = []
    if month.print_taken_s:
        taken, planned = month.print_taken_s, month.print_planned_s
        times.append(_against("Printing, timed", taken, planned, time_text(taken), time_text(planned), True))
    if month.worked_s:
        whole = max(month.worked_s, month.planned_s)
        times.append(Bar("Runs, without breaks", month.worked_s / whole, time_text(month.worked_s)))
        times.append(Bar("Printing, planned", month.planned_s / whole, time_text(month.planned_s)))
    if times:
        groups.append(("Time", tuple(times)))
    return tuple(groups)


def _material(used: Used) -> str:
    """What a material is called; white and colour are ink or toner by their unit."""
    if used.kind in _MATERIALS:
        return _MATERIALS[used.kind]
    return f"{used.kind.capitalize()} {_COLOURANTS.get(used.unit, '')}".strip()


def _process(key: str) -> str:
    return PROCESSES[key].title if key in PROCESSES else key


def _against(title: str, used: float, planned: float, told: str, wanted: str, is_measured: bool) -> Bar:
    whole = 1.1 * max(used, planned, 1e-9)
    more = f"{told} of {wanted}" + (", measured" if is_measured else "")
    return Bar(title, used / whole, more, "plain", planned / whole)


def _amount(amount: float, unit: str) -> str:
    if unit == "m2":
        return f"{amount:.2f} m²"
    return f"{amount:.0f} {unit}" if amount >= 100 else f"{amount:.3g} {unit}"


def month_rows(month: Month) -> list[tuple[str, ...]]:
    """The sums as rows of CSV: what, of which, planned, used, unit."""
    rows: list[tuple[str, ...]] = [
        ("what", "which", "planned", "used", "unit"),
        ("runs", "", "", str(month.runs), ""),
        ("pieces", "good", str(month.ordered), str(month.good), "pieces"),
        ("pieces", "spoiled", "", str(month.lost), "pieces"),
        *(("spoiled", why, "", str(count), "pieces") for why, count in month.spoiled),
        *(("begun", process, "", str(count), "pieces") for process, count in month.by_process),
        *(
            (
                "material",
                used.kind,
                f"{used.planned:.6g}",
                f"{used.used:.6g}",
                used.unit + (" measured" * used.is_measured),
            )
            for used in month.used
        ),
        *(("spoilage cost", "materials", "", f"{total:f}", currency) for currency, total in month.spoilage_cost),
        ("time", "printing, timed", f"{month.print_planned_s:.1f}", f"{month.print_taken_s:.1f}", "s"),
        ("time", "printing, all begun", f"{month.planned_s:.1f}", "", "s"),
        ("time", "runs without breaks", "", f"{month.worked_s:.1f}", "s"),
    ]
    return rows


def write_month(path: Path, month: Month, paper: str = "a4") -> None:
    """Write a month by the suffix of the name, ``.csv`` or PDF; raises ``PlanError`` with one sentence."""
    if path.suffix.lower() == ".csv":
        write_rows(path, month_rows(month))
        return
    title, head, note = month_head(month)
    groups = [
        (name, [(bar.title, bar.share, bar.told, bar.kind, bar.mark) for bar in bars])
        for name, bars in month_bars(month)
    ]
    write_month_pdf(path, MonthPage(title, head, note, groups, paper))
