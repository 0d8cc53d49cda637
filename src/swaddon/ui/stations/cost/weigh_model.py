"""Weigh-in: rows of weighed prints, what they tell of the press, and what is to be done next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.sureness import Sure, sureness, value_of
from swaddon.devices.scale import weight_of
from swaddon.io import profiles
from swaddon.io.weighings import HEADS, cells_for, stepped_back
from swaddon.session.costs import Costed
from swaddon.session.job import Job
from swaddon.session.kept_weighings import Cells
from swaddon.session.scales import STEPS
from swaddon.session.session import Edit
from swaddon.session.weigh_ins import Told, planned

STEP_WORDS = {"blank_g": "Blank", "pretreated_g": "Pretreated", "printed_g": "Printed", "powdered_g": "Powdered"}


def steps_for(press: PressProfile | None) -> tuple[str, ...]:
    """Weights that a press's prints have, in the order of the work."""
    if press is None:
        return ("blank_g", "printed_g")
    out = ["blank_g", "printed_g"]
    if press.pretreat is not None:
        out.insert(1, "pretreated_g")
    if press.powder is not None:
        out.append("powdered_g")
    return tuple(out)


def grams(text: str, title: str) -> float | None:
    """A weight as typed, or as a scale that acts as a keyboard types it; ``None`` for nothing.

    Raises
    ------
    ValueError
        One sentence.
    """
    if not text.strip():
        return None
    try:
        value = weight_of(text).grams
    except ValueError as error:
        raise ValueError(f"{title}: {error}") from error
    if not 0 <= value <= 100_000:
        raise ValueError(f"{title}: {value:g} g is no weight of a print")
    return value


def new_row(name: str, count: str, weights: Mapping[str, str], seconds: str, costed: Costed) -> Cells:
    """A row of the table for the print at hand; raises ``ValueError`` with one sentence."""
    given = {step: grams(weights.get(step, ""), STEP_WORDS[step]) for step in STEPS}
    typed = {step: f"{value:g}" for step, value in given.items() if value is not None}
    time = seconds.strip().rstrip("s ").replace(",", ".")
    if time:
        try:
            if not 0 < float(time) <= 100_000:
                raise ValueError
        except ValueError as error:
            raise ValueError(f"Print time: “{seconds}” is no time in seconds") from error
    if not typed and not time:
        raise ValueError("Nothing was weighed or timed: give blank and printed weights, or a print time")
    if typed and ("blank_g" not in typed or len(typed) < 2):
        raise ValueError("A weight tells only against another: give the blank weight, and one after it")
    number = count.strip() or "1"
    if not number.isdigit() or not 1 <= int(number) <= 10_000:
        raise ValueError(f"Count: “{count}” is no number of prints")
    return cells_for(name, planned(costed.used), count=number, print_s=time, **typed)


@dataclass(frozen=True)
class RowView:
    """One row of the table in words."""

    title: str
    facts: str
    is_left_out: bool


def row_views(rows: Sequence[Cells], told: Told | None) -> tuple[RowView, ...]:
    """Rows of the table, with those that were left out marked."""
    out_rows = set()
    if told is not None and told.weighed is not None:
        out_rows = {item.row for item in told.weighed.left_out}
    if told is not None and told.timed is not None:
        out_rows |= {timing.row for timing, _, is_out in told.timed.residuals if is_out}
    place = {key: at for at, key in enumerate(HEADS)}
    out = []
    for number, cells in enumerate(rows, start=1):
        weights = " → ".join(cells[place[step]] for step in STEPS if cells[place[step]])
        facts = [f"{weights} g"] if weights else []
        if cells[place["bottle"]]:
            facts.append(f"bottle {cells[place['bottle']]} {cells[place['before_g']]} → {cells[place['after_g']]} g")
        if cells[place["print_s"]]:
            facts.append(f"{cells[place['print_s']]} s")
        count = cells[place["count"]]
        times = f"{count} × " if count not in ("", "1") else ""
        out.append(RowView(f"{times}{cells[place['name']]}", ", ".join(facts) or "to be weighed", number in out_rows))
    return tuple(out)


def is_filled(cells: Cells) -> bool:
    """Whether a row has any weight or time yet."""
    return any(cells[at] for at, key in enumerate(HEADS) if key.endswith("_g") or key == "print_s")


@dataclass(frozen=True)
class ConstantView:
    """A constant before and after, on one scale: logarithms of low, middle and high over the old value."""

    title: str
    text: str
    before: tuple[float, float]
    after: tuple[float, float, float]
    is_surer: bool


def constant_views(told: Told) -> tuple[ConstantView, ...]:
    """Constants as bars: where they were thought to be, and where they are."""
    out = []
    for before, after in told.constants:
        base = before.value or 1.0
        out.append(
            ConstantView(
                after.title,
                f"{_short(before)} → {_short(after)} ± {_pm(after)} {after.unit}".strip(),
                (before.low / base, before.high / base),
                (after.low / base, after.value / base, after.high / base),
                after.log_sd < 0.98 * before.log_sd,
            )
        )
    return tuple(out)


def standing_views(press: PressProfile) -> tuple[ConstantView, ...]:
    """Constants as they stand, each with its ± and where it is from."""
    return tuple(
        ConstantView(
            item.title,
            f"{_short(item)} ± {_pm(item)} {item.unit}, {item.source}",
            (item.low / item.value, item.high / item.value),
            (item.low / item.value, 1.0, item.high / item.value),
            item.source.startswith("measured"),
        )
        for item in sureness(press).constants
        if item.value > 0
    )


def history_text(press: PressProfile | None) -> str:
    """Weigh-ins that were taken, with their dates."""
    if press is None or not press.weighed:
        return ""
    return "Taken: " + "; ".join(f"{item.date}, {item.source}" for item in press.weighed[-4:]) + "."


def _pm(item: Sure) -> str:
    """A ± to two digits, never with an exponent."""
    return f"{float(f'{item.pm:.2g}'):g}"


def _short(item: Sure) -> str:
    return f"{item.value:.3g}"


def tells_more(told: Told | None, press: PressProfile) -> bool:
    """Whether the constants told are others than the press has."""
    if told is None:
        return False
    return any(abs(after.value / value_of(press, after.constant) - 1) > 1e-4 for _, after in told.constants)


def step_back(press: PressProfile) -> Edit | None:
    """Take the last weigh-in out of the job's press; ``None``: there was none."""
    text = stepped_back(press)
    if text is None:
        return None
    before = profiles.parse(text, press.name)

    def change(job: Job) -> Job:
        return replace(job, profile=before)

    return Edit("Back to the constants before the weigh-in", change)
