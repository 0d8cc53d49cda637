"""A scan of a test page read whole: wiring, registration, opacity, dot gain, detail, nozzles."""

import datetime
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.testprint.code import Label, digest, label_of
from swaddon.core.testprint.details import (
    Fine,
    read_coverage,
    read_fine,
    read_no_peek,
    read_nozzles,
    read_screens,
    read_spread,
)
from swaddon.core.testprint.find import find_page
from swaddon.core.testprint.layout import CODE_COLUMNS, CODE_ROWS, COVERAGES, NOZZLES, REVISION, Box, page_for
from swaddon.core.testprint.naming import WORDS, numbered
from swaddon.core.testprint.quality import check_quality
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.register import RegistrationRead, read_registration
from swaddon.core.testprint.sample import Lighting, Sampler, lighting
from swaddon.core.testprint.scan import Scan
from swaddon.core.testprint.tones import Gain, Opacity, read_gain, read_opacity, tone_table
from swaddon.core.testprint.wiring import Wiring, read_wiring

Progress = Callable[[str, float], None]

NOZZLE_PPI = 500.0
"""Below this resolution a nozzle that seems blocked may be none: a finer scan is asked for."""

_UNEVEN, _WORST = 0.02, 0.08
"""Most that the white patches differ from even light, as a share: their spread, and the worst of them (assumed)."""


@dataclass(frozen=True, eq=False)
class Reading:
    """What a test print told.

    Everything but ``wiring`` is ``None`` or empty where white does not sit where it should: then the bottles come
    first, and another print.

    Attributes
    ----------
    press
        Name of the press profile that the page was made for.
    day
        When the page was made.
    wiring
        What the slots really print.
    registration, opacity, gain, fine, spread_mm, screens, coverage, no_peek_mm, blocked
        See the functions that read them; ``gain`` by ink, ``blocked`` by ink as ``naming.numbered`` calls it.
    ppi, residual_mm, turned_deg, uneven
        Of the scan: its resolution, how well the fiducials fit, how the page lay, and the spread of its white.
    """

    press: str
    day: datetime.date
    wiring: Wiring
    numbers: tuple[int, ...]
    ppi: float
    residual_mm: float
    turned_deg: float
    registration: RegistrationRead | None = None
    opacity: Opacity | None = None
    gain: dict[str, Gain] = field(default_factory=dict)
    fine: Fine | None = None
    spread_mm: float | None = None
    screens: dict[str, tuple[float, ...]] = field(default_factory=dict)
    coverage: tuple[float, ...] = ()
    no_peek_mm: float | None = None
    blocked: dict[str, tuple[int, ...]] = field(default_factory=dict)
    uneven: float = 0.0

    @property
    def is_whole(self) -> bool:
        """Whether more than the wiring was read."""
        return bool(self.gain)

    @property
    def trusts_nozzles(self) -> bool:
        """Whether the scan is fine enough to tell single nozzles."""
        return self.ppi >= NOZZLE_PPI

    def sentences(self) -> tuple[str, ...]:
        """What is wrong with the press, in plain words."""
        out = list(self.wiring.sentences(self.numbers))
        if not self.is_whole:
            out.append("White is not where it should be: put the bottles right and print the page again.")
        lost = [f"{_inks_words(ink)} {_lines(numbers)}" for ink, numbers in self.blocked.items() if numbers]
        if lost:
            unsure = "" if self.trusts_nozzles else " (a scan of 600 ppi tells for sure)"
            out.append(f"Blocked nozzles, by line: {'; '.join(lost)}{unsure}. Clean the heads.")
        return tuple(out)


def _inks_words(ink: str) -> str:
    return WORDS[ink[0]] + (f" (slot {ink[1:]} of it)" if len(ink) > 1 else "")


def _lines(numbers: tuple[int, ...]) -> str:
    """Lines as the page counts them, from 1."""
    return ", ".join(str(number + 1) for number in numbers[:12]) + (" …" if len(numbers) > 12 else "")


def read_page(
    scan: Scan,
    press: PressProfile,
    progress: Progress = lambda _title, _share: None,
    names: tuple[str, ...] = (),
) -> Reading:
    """Read a scan of the test page of a press.

    Parameters
    ----------
    scan
        The scan.
    press
        The press with its line-up.
    progress
        Told the step and the share that is done; what it raises ends the reading.
    names
        Presses that a page may be of instead, so that it can be told which.

    Raises
    ------
    UnreadablePageError
        One sentence: what is wrong with the scan, and what to do.
    """
    page = page_for(press, datetime.date(2000, 1, 1))
    progress("Finding the page", 0.0)
    found = find_page(scan.pixels, page)
    sampler = Sampler(scan, found, page)
    label = _checked_label(sampler, press, names)
    page = replace(page, day=label.day)
    progress("Looking over the scan", 0.1)
    check_quality(sampler)
    progress("Reading the slots", 0.2)
    wiring = read_wiring(sampler, found, press)
    numbers = tuple(slot.number for slot in page.slots)
    reading = Reading(press.name, label.day, wiring, numbers, found.ppi, found.residual_mm, found.turned_deg)
    if not wiring.whites_are_right:
        return reading
    return _whole(reading, sampler, press, progress)


def _checked_label(sampler: Sampler, press: PressProfile, names: tuple[str, ...]) -> Label:
    """The code of the page: that it can be read, and is of this press, line-up and revision."""
    labels = [label for box in sampler.page.codes if (label := _label_in(sampler, box)) is not None]
    if not labels:
        raise UnreadablePageError(
            "code", "The code at the head of the page cannot be read: scan it more sharply, without shadows."
        )
    label = labels[0]
    if label.revision != REVISION:
        raise UnreadablePageError(
            "revision", f"The page is of revision {label.revision}, this is revision {REVISION}: print it anew."
        )
    if label.press != digest(press.name):
        other = next((name for name in names if digest(name) == label.press), None)
        whose = f"the press profile “{other}”" if other else "another press profile"
        raise UnreadablePageError(
            "press", f"The page was made for {whose}, not for “{press.name}”: read it for that one."
        )
    if label.inks != sampler.page.inks:
        raise UnreadablePageError(
            "line-up",
            f"The page was made for the line-up {' '.join(label.inks)}, the job has {' '.join(sampler.page.inks)}: "
            "take that line-up, or print the page anew.",
        )
    return label


def _label_in(sampler: Sampler, box: Box) -> Label | None:
    window = sampler.window(box).mean(axis=2)
    height, width = window.shape[0] / CODE_ROWS, window.shape[1] / CODE_COLUMNS
    cells = [
        [
            float(window[round((y + 0.3) * height) : round((y + 0.7) * height),
                         round((x + 0.3) * width) : round((x + 0.7) * width)].mean())
            for x in range(CODE_COLUMNS)
        ]
        for y in range(CODE_ROWS)
    ]  # fmt: skip
    values = np.array(cells)
    low, high = np.percentile(values, 10), np.percentile(values, 90)
    if high - low < 0.05:
        return None
    light = values > (low + high) / 2
    return label_of(light if sampler.page.whites else ~light)


def _whole(reading: Reading, sampler: Sampler, press: PressProfile, progress: Progress) -> Reading:
    """All that a page tells once its white is right."""
    page, printed = sampler.page, reading.wiring.printed
    progress("Reading the light", 0.3)
    light = lighting(sampler, page.flats)
    _check_light(light)
    progress("Reading the place of white", 0.4)
    registration = read_registration(sampler) if page.whites else None
    progress("Reading the tones", 0.6)
    opacity = read_opacity(sampler, light, press) if page.whites else None
    ratio = opacity.contrast_ratio if opacity else 0.0
    gain = {printed[at]: read_gain(sampler, light, at, printed[at], press, ratio) for at in page.colours}
    progress("Reading fine detail", 0.8)
    names = numbered(printed)
    blocked = read_nozzles(sampler, registration, lambda: progress("Reading the nozzles", 0.9))
    return replace(
        reading,
        registration=registration,
        opacity=opacity,
        gain={ink: gain[ink] for ink in INKS if ink in gain},
        fine=read_fine(sampler, light),
        spread_mm=read_spread(sampler, light) if page.whites else None,
        screens=read_screens(sampler, light),
        coverage=read_coverage(sampler, light),
        no_peek_mm=read_no_peek(sampler, light),
        blocked={names[at]: lost for at, lost in blocked.items()},
        uneven=light.spread,
    )


def _check_light(light: Lighting) -> None:
    if light.spread > _UNEVEN or light.worst > _WORST:
        raise UnreadablePageError(
            "shadow",
            f"The page is lit unevenly (its white differs by {100 * max(light.worst, light.spread):.0f} %): press it "
            "flat on the glass, close the lid, and scan without any correction.",
        )


def told(reading: Reading) -> dict[str, Any]:
    """A reading as JSON values; names are those of the simulated press's truth, with ``…_pm`` for 95 % intervals."""
    made: dict[str, Any] = {
        "press": reading.press,
        "page_made": reading.day.isoformat(),
        "wiring": list(reading.wiring.printed),
        "wiring_sent": list(reading.wiring.sent),
        "is_whole": reading.is_whole,
        "sentences": list(reading.sentences()),
        "scan": {
            "ppi": round(reading.ppi, 1),
            "residual_mm": round(reading.residual_mm, 4),
            "turned_deg": round(reading.turned_deg, 2),
            "uneven": round(reading.uneven, 4),
        },
        "shift_mm": None, "shift_mm_pm": None, "rotation_deg": None, "rotation_deg_pm": None,
        "white_contrast_ratio": None, "white_contrast_ratio_pm": None,
        "blocked_nozzles": {ink: list(lost) for ink, lost in reading.blocked.items()},
        "nozzles_of_an_ink": NOZZLES, "nozzles_are_sure": reading.trusts_nozzles,
        "gain": tone_table(reading.gain),
        "gain_pm": {ink: round(gain.pm, 4) for ink, gain in reading.gain.items()},
        "squeeze_mm": None if reading.spread_mm is None else round(reading.spread_mm, 3),
        "no_peek_mm": reading.no_peek_mm,
        "least_mm": {} if reading.fine is None else dict(reading.fine.least_mm),
        "coverage_light": dict(zip((str(step) for step in COVERAGES), reading.coverage, strict=False)),
        "holes_open": {lpi: list(shares) for lpi, shares in reading.screens.items()},
    }  # fmt: skip
    if reading.registration is not None:
        found = reading.registration
        made |= {
            "shift_mm": [round(value, 4) for value in found.shift_mm],
            "shift_mm_pm": [round(value, 4) for value in found.shift_mm_pm],
            "rotation_deg": round(found.rotation_deg, 5),
            "rotation_deg_pm": round(found.rotation_deg_pm, 5),
        }
    if reading.opacity is not None:
        made |= {
            "white_contrast_ratio": round(reading.opacity.contrast_ratio, 4),
            "white_contrast_ratio_pm": round(reading.opacity.pm, 4),
            "white_steps": [round(value, 4) for value in reading.opacity.ladder],
        }
    return made
