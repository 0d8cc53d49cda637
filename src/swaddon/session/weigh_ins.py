"""Weigh-ins as a table gives them: whose prints they are, what they tell, and taking it into a press profile."""

import datetime
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from swaddon.core.engine import Cache, Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import plan_print
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.next_print import Candidate, NextBest, next_best, patches
from swaddon.core.shop.stopwatch import TimeIn, time_in
from swaddon.core.shop.sureness import Sure, Sureness
from swaddon.core.shop.used import Used, used_by
from swaddon.core.shop.weigh_in import WeighIn, weigh_in
from swaddon.core.shop.weighing import Print
from swaddon.io import profiles
from swaddon.io.plan_file import read_plan
from swaddon.io.spreadsheet import write_rows
from swaddon.io.weighings import Planned, Resolve, Table, weighed_profile

SCHEMA = "swaddon-weigh-in/1"


def planned(used: Used) -> Planned:
    """What a plan tells of a print that is weighed or timed."""
    return Planned(Print.of(used), used.bands, used.travel_mm)


def resolver(press: PressProfile, folder: Path, open_job: Callable[[Path], Any]) -> Resolve:
    """Finds plans by what a table says: an export's folder, a plan.json, or a job file.

    It is looked for from the table's folder on, then from the working folder.
    """
    known: dict[Path, Planned] = {}

    def resolve(text: str) -> Planned:
        path = folder / text
        if not path.exists() and Path(text).exists():
            path = Path(text)
        if path not in known:
            known[path] = _plan_at(path, press, open_job)
        return known[path]

    return resolve


def _plan_at(path: Path, press: PressProfile, open_job: Callable[[Path], Any]) -> Planned:
    if path.is_dir() or path.suffix.lower() == ".json" or not path.exists():
        return planned(read_plan(path).used(press))
    request = replace(open_job(path), profile=press).request()
    if request is None:
        raise PlanError(f"The job “{path.name}” has no artwork.")
    return planned(used_by(plan_print(request, Run(Cache(1))).measures, request.profile))


@dataclass(frozen=True, eq=False)
class Told:
    """What a table tells of a press: by weights, by times, and which print to weigh next."""

    press: PressProfile
    weighed: WeighIn | None
    timed: TimeIn | None
    next: NextBest | None

    @property
    def sentences(self) -> tuple[str, ...]:
        """What is wrong with the weights and times, in words."""
        out = [item.sentence for item in self.weighed.left_out] if self.weighed is not None else []
        if self.weighed is not None and self.weighed.drift is not None:
            out.append(self.weighed.drift.sentence)
        out += self.timed.left_out if self.timed is not None else ()
        return tuple(f"{text.rstrip('.')}." for text in out)

    @property
    def constants(self) -> tuple[tuple[Sure, Sure], ...]:
        """Every constant before and after."""
        out: list[tuple[Sure, Sure]] = []
        for found in (self.weighed, self.timed):
            if found is not None:
                out += zip(found.before, found.after, strict=True)
        return tuple(out)


def told_by(table: Table, press: PressProfile, others: tuple[Candidate, ...] = ()) -> Told:
    """Refit a press to a table; raises ``PlanError`` with one sentence that names the row."""
    weighed = weigh_in(press, table.weighings) if table.weighings else None
    timed = time_in(press, table.timings) if table.timings else None
    best = None
    if weighed is not None:
        seen = {row.name: Candidate(row.name, row.of) for row in table.weighings if not row.bottle}
        best = next_best(press, Sureness(weighed.after, weighed.covariance), (*patches(press), *seen.values(), *others))
    return Told(press, weighed, timed, best)


def taken(told: Told, source: str, day: datetime.date) -> PressProfile:
    """The press with what was told; raises ``PlanError``."""
    found = [part for part in (told.weighed, told.timed) if part is not None]
    after = [item for part in found for item in part.after]
    covariance = np.zeros((len(after), len(after)))
    start = 0
    for part in found:
        end = start + len(part.after)
        covariance[start:end, start:end] = part.covariance
        start = end
    return profiles.parse(weighed_profile(told.press, after, covariance, source, day), told.press.name)


def weigh_report(told: Told, source: str, day: datetime.date) -> dict[str, Any]:
    """What was told as JSON-ready values (docs/cost.md)."""
    weighed = told.weighed
    measured = f"measured on {day.isoformat()}, {source}"
    return {
        "schema": SCHEMA,
        "press": told.press.name,
        "constants": {
            after.constant: {
                "title": after.title, "unit": after.unit, "value": _number(after.value), "pm": _number(after.pm),
                "low": _number(after.low), "high": _number(after.high),
                "source": measured if after.log_sd < 0.98 * before.log_sd else before.source,
                "before": _number(before.value), "before_pm": _number(before.pm),
            }
            for before, after in told.constants
        },
        "left_out": [] if weighed is None else [
            {"name": item.name, "row": item.row, "sentence": f"{item.sentence}."} for item in weighed.left_out
        ],
        "drift": None if weighed is None or weighed.drift is None else {
            "kind": weighed.drift.kind, "amount": _number(weighed.drift.amount), "sds": round(weighed.drift.sds, 1),
            "row": weighed.drift.row, "sentence": f"{weighed.drift.sentence}.",
        },
        "not_told_apart": [] if weighed is None else [
            {"constants": list(group)} for group in weighed.not_apart
        ],
        "residuals": [] if weighed is None else [
            {
                "name": item.name, "row": item.row, "what": item.what, "weighed_g": _number(item.weighed_g),
                "predicted_g": _number(item.predicted_g), "sds": round(item.sds, 2), "left_out": item.is_left_out,
            }
            for item in weighed.residuals
        ],
        "times": [] if told.timed is None else [
            {"name": timing.name, "row": timing.row, "print_s": timing.seconds, "off_s": round(off, 2), "left_out": out}
            for timing, off, out in told.timed.residuals
        ],
        "next_best": None if told.next is None else {
            "print": told.next.candidate.name, "reason": told.next.reason, "gain": round(told.next.gain, 3),
        },
        "warnings": list(told.sentences),
    }  # fmt: skip


def write_residuals(path: Path, told: Told) -> None:
    """Write each weight and time, as it was and as the constants make it, as CSV; raises ``PlanError``."""
    rows: list[tuple[str, ...]] = [("row", "name", "what", "measured", "predicted", "left_out")]
    for item in told.weighed.residuals if told.weighed is not None else ():
        weights = (f"{item.weighed_g:.4g}", f"{item.predicted_g:.4g}")
        rows.append((str(item.row), item.name, f"{item.what} g", *weights, "yes" if item.is_left_out else ""))
    for timing, off, is_out in told.timed.residuals if told.timed is not None else ():
        times = (f"{timing.seconds:.4g}", f"{timing.seconds - off:.4g}")
        rows.append((str(timing.row), timing.name, "print s", *times, "yes" if is_out else ""))
    write_rows(path, rows)


def weigh_table(told: Told) -> str:
    """What was told, in a few lines for a terminal."""
    rows = [
        f"{after.title:<24} {before.value:>9.4g} → {after.value:>9.4g} ± {after.pm:<9.2g} {after.unit}"
        for before, after in told.constants
    ]
    if told.weighed is not None:
        titles = {item.constant: item.title for item in told.weighed.after}
        rows += [
            "Not told apart: " + ", ".join(titles[key].lower() for key in group) for group in told.weighed.not_apart
        ]
    if told.next is not None:
        rows.append(f"Weigh next: {told.next.candidate.name} ({told.next.reason})")
    return "\n".join(rows)


def _number(value: float) -> float:
    return float(f"{value:.6g}")
