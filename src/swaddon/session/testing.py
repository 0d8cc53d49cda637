"""A test print on the bench: its page, its scan read, its constants taken into the press profile."""

import datetime
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray

from swaddon.core.colour.spaces import srgb_from_linear
from swaddon.core.engine import key_of
from swaddon.core.press.profile import PressProfile
from swaddon.core.testprint.constants import Constant, constants_of
from swaddon.core.testprint.drawing import CHART_PPI, draw_page
from swaddon.core.testprint.find import find_page
from swaddon.core.testprint.layout import WIDTH_MM, page_for
from swaddon.core.testprint.reading import Reading, read_page, told
from swaddon.core.testprint.scan import Scan
from swaddon.core.units import MM_PER_INCH
from swaddon.devices.hidden import drawn
from swaddon.devices.press import CARD, PAPER, print_on
from swaddon.devices.scanner import Scanner, scan
from swaddon.io import profiles
from swaddon.io.charts import page_picture, write_page
from swaddon.io.measured import measured_profile
from swaddon.io.scans import read_scan, wide_meaning
from swaddon.session import shop
from swaddon.session.job import Job
from swaddon.session.kept_tests import KeptTest, keep_test
from swaddon.session.session import Edit

Progress = Callable[[str, float], None]

SHOWN_PX_PER_MM = 7.0
"""Resolution of the pictures of page and scan on the bench."""


@dataclass(frozen=True, eq=False)
class ReadTest:
    """A test print as it lies on the bench.

    Attributes
    ----------
    press
        The press that it was read for, with its line-up.
    reading
        What it told.
    constants
        What it tells of the press.
    sent, scanned
        Pictures of the page as it should be and as it is, sRGB ``uint8 (H, W, 3)``, one upon the other.
    source
        Name of the scan.
    """

    press: PressProfile
    reading: Reading
    constants: tuple[Constant, ...]
    sent: NDArray[np.uint8]
    scanned: NDArray[np.uint8]
    source: str


def save_page(path: Path, press: PressProfile, day: datetime.date, progress: Progress) -> list[Path]:
    """Write the test page of a press; raises ``PlanError``."""
    page = page_for(press, day)
    progress("Drawing the page", 0.2)
    planes = draw_page(page, CHART_PPI)
    progress("Writing the page", 0.6)
    return write_page(path, page, planes, press, CHART_PPI)


@cached(LRUCache(4), key=lambda press, day: (key_of(press), day), lock=threading.Lock())
def sent_picture(press: PressProfile, day: datetime.date) -> NDArray[np.uint8]:
    """How the page should come out; it cannot be written, so that it is drawn once for station and readings."""
    page = page_for(press, day)
    drawn = page_picture(page, list(draw_page(page, SHOWN_PX_PER_MM * MM_PER_INCH)), press)
    drawn.flags.writeable = False
    return drawn


def simulate(press: PressProfile, seed: int, day: datetime.date, progress: Progress, ppi: float = 600.0) -> Scan:
    """The page printed on the simulated press of a seed, and scanned."""
    page = page_for(press, day)
    planes = draw_page(page, CHART_PPI)
    medium = CARD if page.whites else PAPER
    faults = drawn(press, page.slots, seed)
    light = print_on(list(planes), page.slots, press, faults, CHART_PPI, medium, seed, progress=progress)
    pixels = scan(light, CHART_PPI, ppi, Scanner.drawn(seed), seed, medium, progress=progress)
    return Scan(pixels, *wide_meaning())


def read_file(path: Path, press: PressProfile, progress: Progress) -> ReadTest:
    """Read a scan from a file; raises ``PlanError`` with one sentence."""
    progress("Opening the scan", 0.0)
    return read_test(read_scan(path), press, path.name, progress)


def read_test(scanned: Scan, press: PressProfile, source: str, progress: Progress) -> ReadTest:
    """Read a scan, and take the page out of it straight."""
    reading = read_page(scanned, press, progress, profiles.shipped_names())
    progress("Laying scan and page on each other", 0.95)
    sent = sent_picture(press, reading.day)
    return ReadTest(press, reading, constants_of(reading, press), sent, _straight(scanned, press, sent.shape), source)


def _straight(scanned: Scan, press: PressProfile, shape: tuple[int, ...]) -> NDArray[np.uint8]:
    """The page of a scan as if it lay straight, sRGB, as large as a shape."""
    found = find_page(scanned.pixels, page_for(press, datetime.date(2000, 1, 1)))
    height, width = shape[:2]
    step = WIDTH_MM / width
    to_mm = np.array([[step, 0, step / 2], [0, step, step / 2], [0, 0, 1.0]])
    factor = max(1, round(found.ppi / MM_PER_INCH / SHOWN_PX_PER_MM))
    small = cv2.resize(scanned.pixels, None, fx=1 / factor, fy=1 / factor, interpolation=cv2.INTER_AREA)
    shrink = np.array([[1 / factor, 0, (1 / factor - 1) / 2], [0, 1 / factor, (1 / factor - 1) / 2], [0, 0, 1.0]])
    matrix = shrink @ found.matrix @ to_mm
    taken = cv2.warpPerspective(small, matrix, (width, height), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    light = scanned.light(np.asarray(taken, np.uint8))
    return np.asarray(np.rint(srgb_from_linear(light) * 255), np.uint8)


def keep_reading(test: ReadTest, today: datetime.date) -> None:
    """Put a reading to the press's history."""
    keep_test(test.press.name, KeptTest(today.isoformat(), test.source, told(test.reading)))


def keep_by_eye(press: PressProfile, constants: Sequence[Constant], today: datetime.date) -> None:
    """Put what the eye read to the press's history."""
    values: dict[str, Any] = {"is_whole": False, "by_eye": True}
    for constant in constants:
        new = list(constant.new) if isinstance(constant.new, tuple) else constant.new
        if constant.key == "registration.shift_mm":
            values["shift_mm"] = new
        elif constant.key == "white.contrast_ratio":
            values |= {"white_contrast_ratio": new, "white_contrast_ratio_pm": constant.pm}
    keep_test(press.name, KeptTest(today.isoformat(), "by eye", values))


def taken(press: PressProfile, chosen: Sequence[Constant], source: str, today: datetime.date) -> PressProfile:
    """A press profile with the chosen constants; raises ``PlanError``."""
    return profiles.parse(measured_profile(press, chosen, source, today), press.name)


def accept(press: PressProfile, chosen: Sequence[Constant], source: str, today: datetime.date) -> Edit:
    """Take constants into the press profile of the job: one step of undo."""
    measured = taken(press, chosen, source, today)
    many = f"{len(chosen)} measured constants" if len(chosen) > 1 else f"“{chosen[0].title}” as measured"
    return Edit(f"Take {many}", lambda job: replace(job, profile=measured))


class ShopFollows:
    """The shop's own profile of a press follows what is taken, undone and done again on the bench."""

    def __init__(self) -> None:
        self._uid, self._before = -1, Job()

    def see(self, job: Job, uid: int, initiator: str) -> None:
        """Look at the job after a change."""
        before, self._before = self._before, job
        is_same = uid == self._uid and initiator not in ("open", "start")
        self._uid = uid
        if not is_same or before.profile is None or job.profile is None or before.profile is job.profile:
            return
        if before.profile.name == job.profile.name and before.profile.measured != job.profile.measured:
            shop.keep_profile(job.profile)
