"""What a station is to the bench."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from PySide6.QtWidgets import QWidget

from swaddon.core.colour import Rgb
from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.session.preview import Way
from swaddon.session.session import Edit


@dataclass(frozen=True)
class StationContext:
    """The narrow door through which a station reaches the bench."""

    apply: Callable[[Edit], None]
    end_drag: Callable[[], None]
    pick_colour: Callable[[Callable[[Rgb], None]], None]
    choose_artwork: Callable[[], None]
    load_artwork: Callable[[Path], None]
    see: Callable[[Way], None]
    pin: Callable[[], None]
    set_inches: Callable[[bool], None]
    uses_inches: Callable[[], bool]


class Page(Protocol):
    """A station's sheet: a widget that shows a job and its plan."""

    def render_job(self, job: Job, plan: Plan | None, yardstick: Plan | None) -> None: ...


@dataclass(frozen=True)
class StationSpec:
    """One station.

    ``codes`` are the findings that belong to it; ``touched`` says whether its step has been done.
    """

    key: str
    title: str
    shortcut: str
    way: Way
    codes: frozenset[str]
    touched: Callable[[Job], bool]
    page: Callable[[StationContext], QWidget]
