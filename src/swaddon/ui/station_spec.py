"""What a station is to the bench."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from PySide6.QtWidgets import QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.findings import Finding
from swaddon.core.flow.shop import Shop
from swaddon.core.plan.stages import Plan
from swaddon.core.shop.book import Book
from swaddon.session.job import Job
from swaddon.session.order_counter import OrderCounter
from swaddon.session.preferences import Preferences
from swaddon.session.runs import Run
from swaddon.session.selection import Outline
from swaddon.session.session import Edit
from swaddon.session.side_work import SideWork
from swaddon.ui.log_deck import LogDeck
from swaddon.ui.outline_pen import Drawn
from swaddon.ui.picking import Picked

Progress = Callable[[str, float], None]


@dataclass(frozen=True)
class StationContext:
    """The narrow door through which a station reaches the bench.

    ``job`` is the one on the bench as it stands, and ``is_planned`` says whether the plan that pages were given is that
    of it; ``work`` runs something long in the background, with progress and a way to stop it; ``show_table`` asks the
    bench to look again at what lies on the table; ``order`` knows what each line of the order comes to, ``variants``
    works variants out, ``costs`` what a print would cost another way. ``book`` are the shop's prices; ``take_prices``
    keeps others with figures of a press, lets all open jobs reckon with them, and tells how many changed. ``flows``
    runs days of the ``shop``. ``sheets`` lays prints; ``uid`` tells the job on the bench from the other open ones,
    which ``apply_to`` edits and ``add_jobs`` adds to; ``found_on_sheet`` lets the rail show what is found there.
    ``log`` keeps runs and the log book; ``path`` is the job's file, ``open_entry`` shows an entry of the book,
    ``open_made`` brings a new job to the bench, ``take_up_run`` the job of a run.
    """

    apply: Callable[[Edit], None]
    end_drag: Callable[[], None]
    pick: Callable[[Picked], None]
    draw: Callable[[Drawn, Sequence[Point]], None]
    choose_artwork: Callable[[], None]
    load_artwork: Callable[[Path], None]
    show_page: Callable[[int], None]
    choose_tile: Callable[[Callable[[str], None]], None]
    see: Callable[[str], None]
    on_seen: Callable[[Callable[[str], None]], object]
    go_to: Callable[[float, float], None]
    outline: Callable[[Sequence[Outline]], None]
    want_regions: Callable[[], None]
    regions: Callable[[], RegionMap | None]
    finds_regions: Callable[[], bool]
    pin: Callable[[], None]
    is_planned: Callable[[], bool]
    job: Callable[[], Job]
    set_inches: Callable[[bool], None]
    uses_inches: Callable[[], bool]
    tell: Callable[[str], None]
    export: Callable[[], object]
    in_background: Callable[[Callable[[], Any], Callable[[Any], None]], None]
    work: Callable[[Callable[[Progress], Any], Callable[[Any], None]], None]
    shop_changed: Callable[[], None]
    show_table: Callable[[], None]
    order: OrderCounter
    variants: SideWork
    turn_to: Callable[[int], None]
    costs: SideWork
    book: Callable[[], Book]
    open_jobs: Callable[[], Sequence[Job]]
    take_prices: Callable[[Book, str, dict[str, float]], int]
    flows: SideWork
    quotes: SideWork
    shop: Callable[[], Shop]
    take_shop: Callable[[Shop], None]
    sheets: SideWork
    uid: Callable[[], int]
    jobs_by_uid: Callable[[], Sequence[tuple[int, Job]]]
    apply_to: Callable[[int, Edit], bool]
    add_jobs: Callable[[Sequence[Job]], None]
    found_on_sheet: Callable[[tuple[Finding, ...]], None]
    log: LogDeck
    preferences: Callable[[], Preferences]
    prefer: Callable[..., None]
    path: Callable[[], Path | None]
    open_entry: Callable[[str], None]
    open_made: Callable[[Job], None]
    take_up_run: Callable[[Run], None]


class Page(Protocol):
    """A station's sheet: a widget that shows a job and its plan."""

    def render_job(self, job: Job, plan: Plan | None, yardstick: Plan | None) -> None: ...


class TablePage(Protocol):
    """A page that may lay something of its own on the table in the place of the shirt."""

    own_table: QWidget
    shows_own_table: bool


class ClickedPage(Protocol):
    """A page that takes clicks on the proof table, as artwork points (``None``: beside the artwork)."""

    def clicked(self, point: Point | None, adds: bool) -> None: ...

    def step(self, by: int) -> None: ...


@dataclass(frozen=True)
class StationSpec:
    """One station.

    ``watches`` names what its page shows: fields of the job and of its settings, and ``plan``, ``yardstick``,
    ``regions``, ``units`` and ``tests`` (of the press); the page is rendered when one of these changes. ``codes`` are
    the findings that belong to it; ``touched`` says whether its step has been done, ``help`` what it is for.
    """

    key: str
    title: str
    help: str
    shortcut: str
    view_mode: str
    watches: frozenset[str]
    codes: frozenset[str]
    touched: Callable[[Job], bool]
    page: Callable[[StationContext], QWidget]
