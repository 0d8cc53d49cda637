"""What the Test print sheet shows: the test on the bench, its constants old → new, and the history of the press."""

import datetime
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, fields

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.testprint.constants import ByEye, Constant, constants_by_eye, current
from swaddon.core.testprint.layout import TONES, VERNIER_MM, WIDTHS_MM
from swaddon.core.testprint.naming import WORDS
from swaddon.session.constant_words import standing, text_of, value_text
from swaddon.session.job import Job
from swaddon.session.kept_tests import KeptTest
from swaddon.session.testing import ReadTest


@dataclass(frozen=True)
class ConstantRow:
    """One constant to be taken or left: its words, whether it is ticked, and how the old one stands."""

    key: str
    title: str
    old: str
    new: str
    note: str
    is_ticked: bool


@dataclass(frozen=True)
class Curve:
    """Dot gain of an ink: as measured, and as the profile has it, at ``TONES``."""

    ink: str
    measured: tuple[float, ...]
    assumed: tuple[float, ...]


@dataclass(frozen=True)
class Ladder:
    """Widths of a kind of detail: which stood, and the last of them."""

    title: str
    shares: tuple[float, ...]
    least_mm: float | None


@dataclass(frozen=True)
class ReadState:
    """A test print in pictures."""

    title: str
    sentences: tuple[str, ...]
    numbers: tuple[int, ...]
    sent: tuple[str, ...]
    printed: tuple[str, ...]
    shift_mm: tuple[float, float] | None
    shift_text: str
    curves: tuple[Curve, ...]
    ladders: tuple[Ladder, ...]
    widths_mm: tuple[float, ...] = WIDTHS_MM
    tones: tuple[float, ...] = TONES
    vernier_mm: float = VERNIER_MM


_KINDS = {"line": "Lines", "gap": "Gaps", "dot": "Dots", "hole": "Holes"}


def what_to_do(press: PressProfile | None) -> str:
    """What comes next while nothing was read, with the caution that belongs to it."""
    if press is None:
        return "Open a job first: its press is the one that is tested."
    medium = "on a black card or black cloth" if press.has_white else "on white paper"
    return (
        f"Nothing read yet for this press. Save the page, print it at 100 % {medium}, scan it flat at 600 ppi, open "
        "the scan. The cautions of Run hold for a test print too."
    )


def read_state(test: ReadTest) -> ReadState:
    """A reading as it is shown."""
    reading, press = test.reading, test.press
    found, fine = reading.registration, reading.fine
    text = "Not read: white is not in its slots."
    if not press.has_white:
        text = "No white on this press."
    elif found is not None:
        pm = max(found.shift_mm_pm)
        text = (
            f"White lies {_off(found.shift_mm[0], 'right', 'left')} and {_off(found.shift_mm[1], 'low', 'high')}, "
            f"± {pm:.3f} mm; turned {found.rotation_deg:+.3f}° ± {found.rotation_deg_pm:.3f}."
        )
    curves = tuple(Curve(ink, gain.curve, _assumed(press, ink)) for ink, gain in reading.gain.items())
    ladders = (
        ()
        if fine is None
        else tuple(Ladder(title, fine.shown[kind], fine.least_mm[kind]) for kind, title in _KINDS.items())
    )
    return ReadState(
        f"Page of {reading.day.isoformat()}, read from {test.source} ({reading.ppi:.0f} ppi)",
        reading.sentences(), reading.numbers, reading.wiring.sent, reading.wiring.printed,
        None if found is None else found.shift_mm, text, curves, ladders,
    )  # fmt: skip


def _off(value: float, more: str, less: str) -> str:
    way = more if value > 0 else less
    return f"{abs(value):.2f} mm {'too' if more == 'low' else 'to the'} {way}"


def _assumed(press: PressProfile, ink: str) -> tuple[float, ...]:
    value = current(press, f"separation.tone_curves.{ink}")
    assert isinstance(value, tuple)
    return value


def rows(constants: Sequence[Constant], press: PressProfile, ticks: dict[str, bool]) -> tuple[ConstantRow, ...]:
    """Constants old → new, each with its tick."""
    return tuple(
        ConstantRow(
            item.key, item.title, f"{value_text(item.old, item)} ({standing(press, item.key)})",
            value_text(item.new, item, sure=True), item.note,
            ticks.get(item.key, item.is_offered),
        )
        for item in constants
    )  # fmt: skip


def chosen(constants: Sequence[Constant], ticks: dict[str, bool]) -> tuple[Constant, ...]:
    """Those that are ticked."""
    return tuple(item for item in constants if ticks.get(item.key, item.is_offered))


# by eye

EYE_FIELDS = (
    ("across", "Vernier across", "line"),
    ("down", "Vernier down", "line"),
    ("line", "Least line", "mm"),
    ("gap", "Least gap", "mm"),
    ("dot", "Least dot", "mm"),
    ("hole", "Least hole", "mm"),
    ("like_black", "One hit is like black", "%"),
    ("no_peek_mm", "Least choke", "mm"),
    ("most_coverage", "Most coverage", "%"),
)
"""What the eye can read off the page: field, words, unit. One hit is told by two or more."""

_WHITE_ONLY = frozenset({"across", "down", "like_black", "no_peek_mm"})


def seed_of(text: str) -> int:
    """The number of a simulated press; raises ``ValueError`` with one sentence."""
    return _whole(text, 0, 9999, "A simulated press has a number")


def days_of(text: str) -> int:
    """How many days a test holds; raises ``ValueError`` with one sentence."""
    return _whole(text.removesuffix("days"), 1, 3650, "A test holds a number of days")


def _whole(text: str, least: int, most: int, what: str) -> int:
    digits = text.strip()
    if not digits.isdigit() or not least <= int(digits) <= most:
        raise ValueError(f"{what}, {least} to {most}")
    return int(digits)


def eye_fields(press: PressProfile | None) -> tuple[tuple[str, str, str], ...]:
    """The fields that a press has."""
    whites = 2 if press is None else len(press.white_slots)
    hidden = _WHITE_ONLY if whites == 0 else {"like_black"} if whites == 1 else frozenset[str]()
    return tuple(item for item in EYE_FIELDS if item[0] not in hidden)


def with_typed(eye: ByEye, name: str, text: str) -> ByEye:
    """What was read, with one field as it was typed; empty text takes it out.

    Raises
    ------
    ValueError
        One sentence on what is no such number.
    """
    values = {item.name: getattr(eye, item.name) for item in fields(ByEye)}
    words = next(title for key, title, _ in EYE_FIELDS if key == name)
    plain = text.strip().rstrip("%").removesuffix("mm").strip().replace(",", ".").replace("−", "-")
    if not plain:
        values[name] = None
        return ByEye(**values)
    try:
        number = float(plain)
    except ValueError as error:
        raise ValueError(f"{words}: “{text.strip()}” is no number") from error
    values[name] = number / 100 if name == "like_black" else number
    return ByEye(**values)


def eye_text(eye: ByEye, name: str) -> str:
    """A field as it is shown."""
    value = getattr(eye, name)
    if value is None:
        return ""
    return f"{100 * value:g}" if name == "like_black" else f"{value:g}"


def eye_constants(eye: ByEye, press: PressProfile) -> tuple[Constant, ...]:
    """Constants of what was read by eye; raises ``ValueError`` with one sentence."""
    try:
        return constants_by_eye(eye, press)
    except PlanError as error:
        raise ValueError(str(error)) from error


# the press over time

CONSTANTS = (
    ("white.contrast_ratio", "Contrast ratio of one hit", ""),
    ("registration.shift_mm", "White lies off", "mm"),
    ("registration.rotation_deg", "White is turned", "°"),
    ("registration.squeeze_mm", "White spreads", "mm"),
    ("holds.line_mm", "Least line", "mm"),
    ("holds.gap_mm", "Least gap", "mm"),
    ("holds.dot_mm", "Least dot", "mm"),
    ("holds.hole_mm", "Least hole", "mm"),
    ("separation.total_area_limit_percent", "Most total coverage", "%"),
    ("white.default_choke_mm", "Choke to start with", "mm"),
)


@dataclass(frozen=True)
class HistoryRow:
    """One test print of the past."""

    day: str
    text: str


@dataclass(frozen=True)
class History:
    """Tests of a press: newest first; points over time as (days before today, right, down) and (days, ratio)."""

    rows: tuple[HistoryRow, ...]
    shifts: tuple[tuple[float, float, float], ...]
    ratios: tuple[tuple[float, float], ...]
    days: int
    standing: tuple[tuple[str, str, str], ...]


def history(job: Job, tests: Sequence[KeptTest], days: int, today: datetime.date) -> History:
    """The press of a job over time, and how its constants stand."""
    shifts, ratios, lines = [], [], []
    for test in tests:
        age = float((today - test.date).days)
        shift, ratio = test.reading.get("shift_mm"), test.reading.get("white_contrast_ratio")
        if isinstance(shift, list) and len(shift) == 2:
            shifts.append((age, float(shift[0]), float(shift[1])))
        if isinstance(ratio, float):
            ratios.append((age, ratio))
        lines.append(HistoryRow(test.day, _line(test)))
    return History(tuple(lines[::-1]), tuple(shifts), tuple(ratios), days, _standing(job))


def _line(test: KeptTest) -> str:
    told, parts = test.reading, []
    if isinstance(told.get("wiring"), list) and told["wiring"] != told.get("wiring_sent"):
        parts.append("slots wrong")
    shift = told.get("shift_mm")
    if isinstance(shift, list) and len(shift) == 2:
        parts.append(f"white {shift[0]:+.2f}, {shift[1]:+.2f} mm")
    ratio = told.get("white_contrast_ratio")
    if isinstance(ratio, float):
        parts.append(f"contrast {ratio:.2f}")
    lost = told.get("blocked_nozzles")
    if isinstance(lost, dict):
        count = Counter({WORDS[ink[0]]: 0 for ink in lost})
        for ink, numbers in lost.items():
            count[WORDS[ink[0]]] += len(numbers)
        words = ", ".join(f"{number} of {ink}" for ink, number in count.items() if number)
        parts.append(f"blocked: {words}" if words else "")
    return f"{test.source}: " + ("; ".join(part for part in parts if part) or "nothing read")


def _standing(job: Job) -> tuple[tuple[str, str, str], ...]:
    """Constants of the job's press with their values, and whether they were measured."""
    press = job.profile
    if press is None:
        return ()
    keys = [item for item in CONSTANTS if press.has_white or not item[0].startswith(("white", "registration"))]
    keys += [(f"separation.tone_curves.{ink}", f"{WORDS[ink].capitalize()} prints 50 % as", "") for ink in press.inks]
    return tuple(
        (title, text_of(current(press, key), unit, 0.0, key), standing(press, key)) for key, title, unit in keys
    )
