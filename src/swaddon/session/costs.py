"""What one piece of a job costs, with all that is told of it: parts, ±, what would make it surer, the rule of thumb."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from typing import Any

from swaddon.core.count.money import STORED_PLACES, money_text, rounded, shares
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan, PlannedPrint
from swaddon.core.press.profile import PressProfile
from swaddon.core.press.wares import ware_of
from swaddon.core.shop.book import Book
from swaddon.core.shop.costing import Costing, costing
from swaddon.core.shop.next_print import after_weighing, weights_of
from swaddon.core.shop.rule import Counted, Thumb, right_rate, thumb
from swaddon.core.shop.sureness import Sureness, cost_slopes, spread_of, sureness
from swaddon.core.shop.used import Used
from swaddon.core.shop.weighing import Print
from swaddon.io.names import shown
from swaddon.io.outputs import output_file
from swaddon.io.spreadsheet import write_rows
from swaddon.session.job import Job
from swaddon.session.order_plans import OrderPlanner

SCHEMA = "swaddon-cost/1"


@dataclass(frozen=True, eq=False)
class Costed:
    """The cost of a piece.

    Attributes
    ----------
    sure
        The constants it hangs on.
    weighed_pm
        Its ± after this print was weighed once, in money.
    rule
        The rule of thumb on it; ``None`` when nothing prints.
    piece
        What it is called.
    """

    press: PressProfile
    used: Used
    costing: Costing
    sure: Sureness
    weighed_pm: float
    rule: Thumb | None
    quantity: int = 1
    garment: str = ""
    piece: str = "shirt"

    @property
    def counted(self) -> Counted:
        """The print for the rule of a shop's mix."""
        return Counted(self.used.square_inches, self.costing.of_print, self.quantity)


def costed(
    used: Used, press: PressProfile, book: Book, garment: str = "", quantity: int = 1, piece: str = ""
) -> Costed:
    """The cost of a print on a press; see :func:`swaddon.core.shop.costing.costing`."""
    piece = piece or ware_of(press.printing, garment).piece
    made = costing(used, press, book, garment, piece)
    sure = sureness(press)
    weighed = after_weighing(sure, weights_of(Print.of(used), press, sure.keys)) if used.printed_m2 else sure.covariance
    spread = spread_of(cost_slopes(used, press, sure.keys), Sureness(sure.constants, weighed))
    rule = thumb(Counted(used.square_inches, made.of_print))
    return Costed(press, used, made, sure, spread.pm, rule, quantity, garment, piece)


def costed_plan(plan: PlannedPrint, book: Book, garment: str = "", quantity: int = 1) -> Costed:
    """The cost of a piece of a plan."""
    press, piece = plan.request.profile, plan.request.ware.piece
    return costed(plan.request.settings.used_by(plan.measures, press), press, book, garment, quantity, piece)


def costed_job(job: Job, book: Book, run: Run) -> tuple[Costed, ...]:
    """The cost of a piece of every line of a job, the line at hand first, each distinct print planned once.

    Raises
    ------
    PlanError
        When a line cannot be planned.
    """
    planner, found = OrderPlanner(), {}

    def done(line: Any, plan: Plan) -> None:
        found[line.planned] = plan.measures, plan.request.profile

    for line in planner.work(job, run, done=done):
        if problem := planner.problem(job, line):
            raise PlanError(f"{line.title}: {problem}")
    lines = (job.line, *job.above, *job.below)
    out = []
    for line in lines:
        measures, press = found[line.planned]
        used = line.settings.used_by(measures, press)
        out.append(costed(used, press, book, line.goods.name, line.settings.quantity, line.ware(press.printing).piece))
    return tuple(out)


def mix_rate(mix: Iterable[Costed]) -> Decimal | None:
    """The rule of thumb that would be right for some prints."""
    return right_rate(item.counted for item in mix)


def cost_report(name: str, found: Sequence[Costed], mix: Iterable[Counted] = ()) -> dict[str, Any]:
    """The cost of a job as JSON-ready values (docs/cost.md); the first is the line at hand."""
    first = found[0]
    pieces = sum(item.quantity for item in found)
    order = sum((item.costing.total * item.quantity for item in found), Decimal(0))
    report = _piece(first)
    return {
        "schema": SCHEMA,
        "name": name,
        "press": first.press.name,
        "process": first.press.process,
        "currency": first.costing.currency,
        **report,
        "constants": [
            {
                "constant": item.constant, "title": item.title, "unit": item.unit, "value": _number(item.value),
                "pm": _number(item.pm), "source": item.source,
            }
            for item in first.sure.constants
        ],
        "rule_of_thumb": _rule(first, found, mix),
        "lines": [{"quantity": item.quantity, **_piece(item)} for item in found] if len(found) > 1 else [],
        "order": {"pieces": pieces, "total": str(rounded(order, STORED_PLACES)), "total_exact": f"{order:f}"},
    }  # fmt: skip


def _piece(item: Costed) -> dict[str, Any]:
    """One piece: its parts sum to its total."""
    made = item.costing
    costs = shares((part.cost for part in made.parts), STORED_PLACES)
    largest = made.spread.largest
    return {
        "garment": item.garment,
        "parts": [
            {
                "kind": part.kind, "title": part.title, "amount": _number(part.amount), "unit": part.unit,
                "unit_price": f"{part.unit_price:.10g}", "cost": str(cost), "cost_exact": f"{part.cost:f}",
                "pm": _number(part.pm), "formula": list(part.formula),
            }
            for part, cost in zip(made.parts, costs, strict=True)
        ],
        "print": str(rounded(made.of_print, STORED_PLACES)),
        "print_exact": f"{made.of_print:f}",
        "print_pm": _number(made.spread.pm),
        "total": str(rounded(made.total, STORED_PLACES)),
        "total_exact": f"{made.total:f}",
        "pm": _number(made.pm),
        "largest": None
        if largest is None
        else {
            "constant": largest.constant, "title": largest.title, "share": round(made.spread.largest_share, 4),
            "print_pm_after_weighing": _number(item.weighed_pm),
        },
    }  # fmt: skip


def _rule(first: Costed, found: Sequence[Costed], mix: Iterable[Counted]) -> dict[str, Any] | None:
    if first.rule is None:
        return None
    right = right_rate((*(item.counted for item in found), *mix))
    return {
        "per_square_inch": f"{first.rule.rate:f}",
        "currency": first.costing.currency,
        "square_inches": round(first.used.square_inches, 4),
        "price": str(rounded(first.rule.price, STORED_PLACES)),
        "error": round(first.rule.error, 4),
        "right_for_this": f"{first.rule.own_rate:.6f}",
        "right_for_the_mix": None if right is None else f"{right:.6f}",
    }


def write_cost(path: Path, report: dict[str, Any]) -> None:
    """Write the parts as CSV, or the whole as JSON, by the suffix; raises ``PlanError``."""
    import json

    if path.suffix.lower() == ".json":
        try:
            with output_file(path) as file:
                file.write((json.dumps(report, indent=2, ensure_ascii=False) + "\n").encode("utf-8"))
        except OSError as error:
            raise PlanError(f"“{shown(path)}” could not be written: choose another place.") from error
        return
    heads = ("kind", "title", "amount", "unit", "unit_price", "cost", "pm")
    rows = [[str(part[head]) for head in heads] for part in report["parts"]]
    end = ["total", "", "", report["currency"], "", report["total"], str(report["pm"])]
    write_rows(path, [heads, *rows, end])


def cost_table(report: dict[str, Any]) -> str:
    """The cost in a few lines for a terminal."""
    currency = report["currency"]
    rows = [
        f"{part['title']:<20} {part['cost']:>10}  {part['amount']:>9.4g} {part['unit']}" for part in report["parts"]
    ]
    total = f"{'Total':<20} {report['total']:>10}  {currency} ± {report['pm']:.2g}"
    print_ = f"{'of it the print':<20} {report['print']:>10}  {currency} ± {report['print_pm']:.2g}"
    rows += [total, print_]
    if report["largest"] is not None:
        largest = report["largest"]
        rows.append(
            f"Most of the ± is {largest['title'].lower()}: weigh one print, and ± {report['print_pm']:.2g} becomes "
            f"± {largest['print_pm_after_weighing']:.2g}"
        )
    rule = report["rule_of_thumb"]
    if rule is not None:
        side = "too dear" if rule["error"] > 0 else "too cheap"
        rows.append(
            f"Rule of thumb {rule['per_square_inch']} {currency} per sq in: {money_text(Decimal(rule['price']))} "
            f"{currency}, {abs(rule['error']):.0%} {side}; right here would be {Decimal(rule['right_for_this']):.4f}"
        )
    return "\n".join(rows)


def _number(value: float) -> float:
    return float(f"{value:.6g}")
