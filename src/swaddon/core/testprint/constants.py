"""Constants of a press profile that a test print tells, read by program or by eye: old, new, and how sure."""

from dataclasses import dataclass

import numpy as np

from swaddon.core.errors import PlanError
from swaddon.core.press.measured import Value
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.testprint.layout import TONES, VERNIER_MM, VERNIER_STEPS, WIDTHS_MM
from swaddon.core.testprint.naming import WORDS
from swaddon.core.testprint.reading import Reading
from swaddon.core.testprint.tones import at_tones

HOLDS = {"line": "Least line", "gap": "Least gap", "dot": "Least dot", "hole": "Least hole"}

_SPREAD_PM_MM = 0.02
"""How sure the spread of white is: its blur in print and scan counts in it (assumed)."""

_WASH = "as printed; what press and wash leave is for the eye to say"


@dataclass(frozen=True)
class Constant:
    """One constant of a press profile.

    Attributes
    ----------
    key
        Its place in the profile's file.
    title, unit
        Its name on the bench, and its unit.
    old, new
        A number or numbers; ``TONES`` of a curve, (right, down) of a shift.
    pm
        95 % interval of the new value; 0 where none is known.
    note
        What is to be kept in mind.
    is_offered
        Whether it is ticked to begin with.
    """

    key: str
    title: str
    unit: str
    old: Value
    new: Value
    pm: float = 0.0
    note: str = ""
    is_offered: bool = True


def current(press: PressProfile, key: str) -> Value:
    """A constant of a press as it is now; curves at ``TONES``."""
    room, _, name = key.partition(".")
    if room == "separation":
        curves = press.separation.tone_curves
        if name == "total_area_limit_percent":
            return press.separation.total_area_limit
        ink = INKS.index(name.rpartition(".")[2])
        curve = at_tones(curves[ink]) if curves else np.array(TONES)
        return tuple(round(float(value), 4) for value in curve)
    holder = {"white": press.white, "holds": press.holds, "registration": press.registration}[room]
    value: Value = getattr(holder, name)
    return value


def constants_of(reading: Reading, press: PressProfile) -> tuple[Constant, ...]:
    """What a reading tells of a press; nothing where white is not in its slots."""
    out: list[Constant] = []

    def add(key: str, title: str, unit: str, new: Value, pm: float = 0.0, note: str = "", offered: bool = True) -> None:
        out.append(Constant(key, title, unit, current(press, key), new, pm, note, offered))

    found = reading.registration
    if found is not None:
        shift = tuple(round(value, 3) for value in found.shift_mm)
        add("registration.shift_mm", "White lies off, right and down", "mm", shift, round(max(found.shift_mm_pm), 4))
        add("registration.rotation_deg", "White is turned", "°", round(found.rotation_deg, 4), found.rotation_deg_pm)
    if reading.spread_mm is not None:
        add("registration.squeeze_mm", "White spreads", "mm", round(max(reading.spread_mm, 0.0), 3), _SPREAD_PM_MM)
    if reading.opacity is not None:
        ratio = round(reading.opacity.contrast_ratio, 3)
        add("white.contrast_ratio", "Contrast ratio of one hit", "", ratio, round(reading.opacity.pm, 4))
    for ink, gain in reading.gain.items():
        add(
            f"separation.tone_curves.{ink}",
            f"{WORDS[ink].capitalize()} prints 50 % as",
            "",
            gain.curve,
            round(gain.pm, 4),
        )
    if reading.fine is not None:
        for kind, title in HOLDS.items():
            least = reading.fine.least_mm.get(kind)
            if least is not None:
                key = f"holds.{kind}_mm"
                worse = least > float(np.max(current(press, key)))
                add(key, title, "mm", least, 0.0, _WASH, worse)
    return tuple(out)


@dataclass(frozen=True)
class ByEye:
    """What was read off the page by eye; ``None`` where nothing was.

    Attributes
    ----------
    across, down
        Line of the vernier that meets, -10..10; halves where two meet alike.
    line, gap, dot, hole
        Least width in mm that held, of those on the page.
    like_black
        Step of black on white, 0..1, that is as light as one hit of white on the card.
    no_peek_mm
        Least choke beyond which no white shows.
    most_coverage
        Largest total coverage, percent, that dried and held.
    """

    across: float | None = None
    down: float | None = None
    line: float | None = None
    gap: float | None = None
    dot: float | None = None
    hole: float | None = None
    like_black: float | None = None
    no_peek_mm: float | None = None
    most_coverage: float | None = None


def constants_by_eye(eye: ByEye, press: PressProfile) -> tuple[Constant, ...]:
    """The same constants from what the eye says.

    Raises
    ------
    PlanError
        One sentence: what stands nowhere on the page.
    """
    out: list[Constant] = []

    def add(key: str, title: str, unit: str, new: Value, pm: float, note: str = "") -> None:
        out.append(Constant(key, title, unit, current(press, key), new, pm, note))

    if eye.across is not None or eye.down is not None:
        before = press.registration.shift_mm
        both = tuple(
            old if line is None else round(_vernier_mm(line), 3)
            for line, old in zip((eye.across, eye.down), before, strict=True)
        )
        add("registration.shift_mm", "White lies off, right and down", "mm", both, VERNIER_MM / 2)
    for kind, title in HOLDS.items():
        width = getattr(eye, kind)
        if width is not None:
            if width not in WIDTHS_MM:
                steps = ", ".join(f"{step:g}" for step in WIDTHS_MM)
                raise PlanError(f"{title}: {width:g} mm is none of the page’s ({steps} mm).")
            add(f"holds.{kind}_mm", title, "mm", width, 0.0)
    if eye.like_black is not None:
        ratio = _lightness_of_black(eye.like_black, press)
        add("white.contrast_ratio", "Contrast ratio of one hit", "", round(ratio, 3), 0.05, "by the step of black")
    if eye.no_peek_mm is not None:
        note = "a new job starts with it"
        add("white.default_choke_mm", "Choke to start with", "mm", eye.no_peek_mm, 0.05, note)
    if eye.most_coverage is not None:
        if not 100 <= eye.most_coverage <= 400:
            raise PlanError(f"Total coverage: {eye.most_coverage:g} % is none of the page’s (100 to 400 %).")
        add("separation.total_area_limit_percent", "Most total coverage", "%", eye.most_coverage, 25.0)
    return tuple(out)


def _vernier_mm(line: float) -> float:
    if not -VERNIER_STEPS <= line <= VERNIER_STEPS:
        raise PlanError(f"Vernier: line {line:g} is none of the page’s ({-VERNIER_STEPS} to {VERNIER_STEPS}).")
    return line * VERNIER_MM


def _lightness_of_black(tone: float, press: PressProfile) -> float:
    """Reflectance, over that of full white, of a step of black: that of one hit on black when they look alike.

    Lightness of a step by the Yule-Nielsen model with the press's own black and curve.
    """
    if not 0 < tone < 1:
        raise PlanError("White like black: give a step of black between 1 and 99 %.")
    curve = press.separation.tone_curves[3] if press.separation.tone_curves else TONES
    printed = float(np.interp(tone, np.linspace(0, 1, len(curve)), curve))
    n = press.separation.yule_nielsen_n
    black = float(press.separation.primaries()[8].mean())
    step = float((1 - printed + printed * black ** (1 / n)) ** n)
    # the step T lies on all h hits, one hit on the bare card: s / (1 + s) = T·h·s / (1 + h·s)
    hits = len(press.white_slots)
    if hits * step <= 1:
        raise PlanError("White like black: one hit is never as dark as that step beside all hits of white; look again.")
    scatter = (hits * step - 1) / (hits * (1 - step))
    return scatter / (1 + scatter)
