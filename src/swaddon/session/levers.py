"""What would make a print cheaper, and what a picture costs on light and on dark goods; about, on fewer pixels."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from decimal import Decimal

from swaddon.core.colour.goods import goods_class
from swaddon.core.colour.spaces import Rgb
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.holes.held import usual_screen
from swaddon.core.plan.outcome import colour_shifts, worst_de
from swaddon.core.plan.stages import Plan, PlannedPrint, advice_of, plan_print
from swaddon.core.shop.book import Book
from swaddon.session import edits
from swaddon.session.costs import Costed, costed_plan
from swaddon.session.job import Job
from swaddon.session.one_sheet import shared_by_one_sheet
from swaddon.session.preset_proofs import about
from swaddon.session.session import Edit

BLACK: Rgb = (27, 27, 31)
WHITE: Rgb = (250, 250, 248)
_CACHE_BYTES = 200_000_000
_WORTH = Decimal("0.01")
"""A lever that saves a smaller share of the print's cost is none (assumed)."""


@dataclass(frozen=True, eq=False)
class Lever:
    """A change that makes the print cheaper: what it saves of one piece, unrounded, and what becomes of the colours."""

    title: str
    saves: Decimal
    share: float
    worst_de: tuple[float, float]
    edit: Edit


@dataclass(frozen=True, eq=False)
class Compared:
    """The same picture on white goods without white, and on black ones with it; and the levers, the largest first.

    ``is_whole``: all was tried.
    """

    light: Costed | None
    dark: Costed | None
    levers: tuple[Lever, ...]
    is_whole: bool = False


def compared(
    job: Job, plan: Plan, book: Book, run: Run, step: Callable[[Compared], None] = lambda _found: None
) -> Compared:
    """Plan a job's line other ways, on fewer pixels; ``step`` gets what is there so far."""
    name, quantity = job.goods.name, job.settings.quantity
    inner = run.aside(_CACHE_BYTES)
    base = _plan(job, inner)
    if base is None:
        return Compared(None, None, (), is_whole=True)
    light, dark = (_on(job, goods, book, inner) for goods in (WHITE, BLACK))
    found = Compared(light, dark, ())
    step(found)
    own = costed_plan(base, book, name, quantity).costing.of_print
    worst = _worst_de(base, inner)
    for title, edit in _tries(job, plan):
        made = _plan(edit.made(job), inner)
        if made is None:
            continue
        saves = own - costed_plan(made, book, name, quantity).costing.of_print
        told = {item.title: item.saves for item in found.levers}
        if own and saves / own >= _WORTH and saves > told.get(title, Decimal(0)):
            lever = Lever(title, saves, float(saves / own), (worst, _worst_de(made, inner)), edit)
            found = replace(found, levers=_sorted((*(item for item in found.levers if item.title != title), lever)))
            step(found)
    return replace(found, is_whole=True)


def _sorted(levers: Iterable[Lever]) -> tuple[Lever, ...]:
    return tuple(sorted(levers, key=lambda item: -item.saves))


def _plan(job: Job, run: Run) -> PlannedPrint | None:
    request = job.request()
    if request is None:
        return None
    try:
        return plan_print(about(request), run)
    except PlanError:
        return None


def _worst_de(made: PlannedPrint, run: Run) -> float:
    return worst_de(colour_shifts(made, advice_of(made, run)))


def _tries(job: Job, plan: Plan) -> Iterator[tuple[str, Edit]]:
    """Changes that practitioners make to save: less white, holes, colours that the garment has, what findings mend."""
    white, press = job.settings.white, plan.request.profile
    if press.has_white and white.mode in ("solid", "limit"):
        yield "White by need", edits.set_white("White by need", mode="need")
    if press.has_white and white.mode != "none" and goods_class(job.settings.garment) in ("light", "pastel"):
        yield "No white under colour", edits.set_white("No white under colour", mode="none")
    if job.settings.holes.default is None:
        screen = usual_screen(press)
        yield f"Small holes in large areas, {screen.lpi:g} lpi", edits.set_screen(screen)
    if (shared := shared_by_one_sheet(plan)) is not None:
        fit, share = shared
        saves = f"{fit.count} fit one sheet of {share.medium}"
        yield saves, edits.change("sheet_share", share, label="Share the sheet")
    for finding in plan.findings:
        if finding.fix is not None and finding.code in ("ink-on-match", "white-needless", "opaque-box"):
            yield finding.fix_label, edits.mend(finding)


def _on(job: Job, garment: Rgb, book: Book, run: Run) -> Costed | None:
    """The job on other goods: white ones without white, black ones with the job's own white, or by need."""
    changed = edits.set_garment(garment).made(job)
    if garment == WHITE:
        changed = edits.set_white("White", mode="none").made(changed)
    elif job.settings.white.mode == "none":
        changed = edits.set_white("White", mode="need").made(changed)
    made = _plan(changed, run)
    return None if made is None else costed_plan(made, book, "", job.settings.quantity)
