"""Other prices: what they change in open orders, and the edit that takes them into a job."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from swaddon.core.count.money import money_text
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import plan_print
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.book import Book
from swaddon.core.shop.costing import costing
from swaddon.core.units import number_of
from swaddon.io.priced import priced_profile
from swaddon.session.job import Job
from swaddon.session.preset_proofs import about
from swaddon.session.session import Edit


@dataclass(frozen=True)
class PriceEffect:
    """One open order before and after: cost of a piece of the line at hand, and of the whole order, unrounded."""

    name: str
    piece: tuple[Decimal, Decimal]
    order: tuple[Decimal, Decimal]
    pieces: int
    currency: str

    @property
    def text(self) -> str:
        before, after = (money_text(value) for value in self.piece)
        if before == after:
            return f"{self.name}: {after} {self.currency}, as before"
        was, now = (money_text(value, 2) for value in self.order)
        return (
            f"{self.name}: {before} → {after} {self.currency} a piece; {number_of(self.pieces, 'piece')} {was} → {now}"
        )


def take_prices(profile: PressProfile, label: str = "Take the shop’s prices") -> Edit:
    """Let a job reckon with a press at other prices: one step of undo."""
    return Edit(label, lambda job: replace(job, profile=profile))


def repriced(job: Job, book: Book) -> PressProfile | None:
    """The job's press at the table's prices; ``None``: it has none, or they are the same.

    Raises
    ------
    PlanError
        When the table cannot price it.
    """
    if job.profile is None:
        return None
    made = priced_profile(job.profile, book)
    return None if made is job.profile else made


def price_effects(
    before: tuple[Book, Sequence[Job]], after: tuple[Book, Sequence[Job]], run: Run
) -> tuple[PriceEffect, ...]:
    """What a change of prices makes of jobs, by plans on fewer pixels; jobs without artwork are left out.

    Before and after are the prices, and the jobs with their presses as they reckon with them.
    """
    out = []
    for at, (job, changed) in enumerate(zip(before[1], after[1], strict=True)):
        run.report(f"Counting {job.name}", at / max(1, len(before[1])))
        if job.file is None or job.profile is None or changed.profile is None:
            continue
        try:
            out.append(_effect(job, (before[0], job.profile), (after[0], changed.profile), run))
        except PlanError:
            continue
    run.report("", 1.0)
    return tuple(out)


def _effect(job: Job, before: tuple[Book, PressProfile], after: tuple[Book, PressProfile], run: Run) -> PriceEffect:
    assert job.profile is not None
    inner = run.aside(1)
    known = {}
    sums, piece = [Decimal(0), Decimal(0)], [Decimal(0), Decimal(0)]
    for place, line in enumerate(job.lines):
        if line.planned not in known:
            request = job.turned_to(place).request()
            assert request is not None
            known[line.planned] = plan_print(about(request), inner).measures
        for side, (book, profile) in enumerate((before, after)):
            press = line.settings.used(profile, job.height_mm)
            used = line.settings.used_by(known[line.planned], press)
            cost = costing(used, press, book, line.goods.name).total
            sums[side] += cost * line.settings.quantity
            if place == job.at:
                piece[side] = cost
    pieces = sum(line.settings.quantity for line in job.lines)
    return PriceEffect(job.name, (piece[0], piece[1]), (sums[0], sums[1]), pieces, after[1].currency)
