"""What test prints say against a plan: too old, other than the press profile, slots wrong, nozzles blocked."""

import datetime
import math
from collections import Counter
from collections.abc import Callable, Sequence

from swaddon.core.findings import Finding, Severity
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.testprint.naming import WORDS
from swaddon.session.job import Job
from swaddon.session.kept_tests import KeptTest, days_of, tests_of
from swaddon.session.run_cards import run_findings

CODES = frozenset({"test-old", "test-differs", "slots-wrong", "nozzles-blocked"})


def press_findings(
    job: Job, tests: Sequence[KeptTest], days: int, today: datetime.date, used: Sequence[str] = INKS
) -> tuple[Finding, ...]:
    """Findings of a job's press by its tests; none where the shop never tested it.

    Parameters
    ----------
    tests
        Those of the press, oldest first.
    days
        How long one holds.
    used
        Colour inks that the plan prints at all.
    """
    if job.profile is None or job.file is None or not tests:
        return ()
    last = tests[-1]
    out = []
    age = (today - last.date).days
    if age > days:
        text = f"The last test print of this press is {age} days old, the shop wants {days}."
        out.append(_finding("test-old", "look", text, age))
    sent, printed = last.reading.get("wiring_sent"), last.reading.get("wiring")
    if isinstance(printed, list) and printed != sent:
        text = "The last test print found inks in the wrong slots: put them right and test again."
        out.append(
            _finding("slots-wrong", "stop", text, sum(a != b for a, b in zip(printed, sent or (), strict=False)))
        )
        return tuple(out)
    out += _differences(job.profile, last)
    out += _nozzles(last, used)
    return tuple(out)


class PressWatch:
    """Keeps the tests of the press at hand, and looks at a job by them."""

    def __init__(self, today: Callable[[], datetime.date] = datetime.date.today) -> None:
        self._today = today
        self._press: str | None = None
        self._tests: tuple[KeptTest, ...] = ()
        self._days = 0

    def refresh(self) -> None:
        """Tests were kept, or another age is wanted: read them again."""
        self._press = None

    def findings(self, job: Job, plan: Plan | None) -> tuple[Finding, ...]:
        """What the tests of the job's press say against it, and the goods against its heat."""
        if job.profile is None:
            return ()
        if job.profile.name != self._press:
            self._press = job.profile.name
            self._tests, self._days = tests_of(self._press), days_of(self._press)
        used: tuple[str, ...] = INKS
        if plan is not None:
            used = tuple(ink for ink in INKS if plan.measures.coverage.get(ink, 0) > 0)
        return (*press_findings(job, self._tests, self._days, self._today(), used), *run_findings(job))

    def all_findings(self, job: Job, plan: Plan) -> tuple[Finding, ...]:
        """Those of a plan and of its press, worst first."""
        order = {"stop": 0, "look": 1, "note": 2}
        return tuple(sorted((*plan.findings, *self.findings(job, plan)), key=lambda found: order[found.severity]))


def _differences(press: PressProfile, last: KeptTest) -> list[Finding]:
    """Where the profile of the job says other than what the test told, beyond its ±."""
    told, out = last.reading, []
    ratio, pm = told.get("white_contrast_ratio"), told.get("white_contrast_ratio_pm") or 0.0
    if isinstance(ratio, float) and abs(ratio - press.white.contrast_ratio) > max(2 * pm, 0.02):
        out.append(f"contrast ratio {press.white.contrast_ratio:.2f} instead of {ratio:.2f}")
    shift = told.get("shift_mm")
    if isinstance(shift, list) and len(shift) == 2:
        off = math.dist(shift, press.registration.shift_mm)
        reach = press.registration.reach_mm
        if off > reach:
            out.append(f"white {math.hypot(*shift):.2f} mm off, {reach:.2f} mm are reckoned with")
    gain = told.get("gain")
    if isinstance(gain, dict):
        worst = max(
            ((_gain_off(press, ink, curve), ink) for ink, curve in gain.items() if ink in INKS), default=(0.0, "")
        )
        if worst[0] > 0.04:
            out.append(f"dot gain of {WORDS[worst[1]]} {100 * worst[0]:.0f} points other")
    if not out:
        return []
    text = f"The press profile contradicts the test print of {last.day}: {'; '.join(out)}."
    return [_finding("test-differs", "look", text, len(out))]


def _gain_off(press: PressProfile, ink: str, curve: object) -> float:
    """Difference at half a tone."""
    if not isinstance(curve, dict) or not isinstance(curve.get("0.5"), float):
        return 0.0
    curves = press.separation.tone_curves
    own = curves[INKS.index(ink)] if curves else (0.0, 0.5, 1.0)
    return abs(float(curve["0.5"]) - own[len(own) // 2])


def _nozzles(last: KeptTest, used: Sequence[str]) -> list[Finding]:
    lost = last.reading.get("blocked_nozzles")
    if not isinstance(lost, dict) or not last.reading.get("nozzles_are_sure", True):
        return []
    found: Counter[str] = Counter()
    for ink, numbers in lost.items():
        if numbers and (ink[0] in used or ink[0] in "WH"):
            found[WORDS[ink[0]]] += len(numbers)
    if not found:
        return []
    words = ", ".join(f"{count} of {ink}" for ink, count in found.items())
    text = f"Nozzles were blocked in the test print of {last.day}: {words}. Clean the heads and test again."
    return [_finding("nozzles-blocked", "look", text, sum(found.values()))]


def _finding(code: str, severity: Severity, text: str, size: float) -> Finding:
    return Finding(code, severity, text, 0.0, 0.0, float(size), "", has_place=False)
