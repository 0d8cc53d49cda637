"""The desk: an open session with its background work. Qt-free; results arrive through ``post``.

Four threads: one plans, one draws frames, one finds regions, one reads and writes files. Each works on the newest
request only (files: on one request at a time). ``post`` hands a call to the thread of the interface; whether a result
is still wanted is asked there once more.
"""

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, fields, replace
from functools import partial
from typing import Any, ClassVar

from psygnal import Signal

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.artwork.stages import artwork_regions
from swaddon.core.engine import Cache, Run, Superseded
from swaddon.core.errors import PlanError, told
from swaddon.core.order.request import PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.printed_regions import printing
from swaddon.core.plan.stages import Checks, Plan, make_plan
from swaddon.core.proof.cloth import ClothKind
from swaddon.core.proof.misregistration import Misregistration
from swaddon.io import apart
from swaddon.session.job import Job
from swaddon.session.memory import memory_words
from swaddon.session.preview import Frame, Previewer
from swaddon.session.session import Changes, Session
from swaddon.session.view import View
from swaddon.session.worker import NewestTold, NewestWins

Post = Callable[[Callable[[], None]], None]

_LAID = frozenset({"sheet", "cloth", "goods"})
"""Of these, some say what fits, or what is decorated."""

_CARRIED = frozenset({"quantity", "drop_mm", "handover"})
"""Settings that a plan only carries along."""

_PLANNED = frozenset({item.name for item in fields(PlanSettings)} - _CARRIED | {"file", "profile", "tiles"})
"""What makes another plan: all other settings, the artwork, its tiles, and the press."""

_CACHE_BYTES = 1_100_000_000
"""What is kept of the open job: about a print of 19 megapixels with all that a slider needs."""

_DRAWING_GOES_FIRST_S = 0.15
"""How long a plan waits, between its steps, for the picture of the visible part."""


@dataclass(frozen=True)
class ViewState:
    """What the proof table asks for."""

    view: View
    view_mode: str
    fabric: ClothKind
    misregistration: Misregistration = field(default_factory=Misregistration)
    loupe: View | None = None


@dataclass(frozen=True, eq=False)
class _FrameRequest:
    view_state: ViewState
    request: PlanRequest
    plan: Plan | None
    yardstick: Plan | None


class Desk:
    """Keeps plan and frames up to date with the session, and does the slow file work.

    Its signals are sent in the thread of the interface.
    """

    plan_changed: ClassVar[Signal] = Signal(object, description="the plan, or None while there is none")
    frame_drawn: ClassVar[Signal] = Signal(object, object, description="the visible part, and the yardstick's or None")
    loupe_drawn: ClassVar[Signal] = Signal(object, description="the frame under the loupe")
    progressed: ClassVar[Signal] = Signal(str, float, description="title of the step and share done, 0..1")
    failed: ClassVar[Signal] = Signal(str, description="one sentence for the operator")
    regions_changed: ClassVar[Signal] = Signal(description="regions were asked for, found or given up")
    stopped: ClassVar[Signal] = Signal(description="background work was given up")

    def __init__(self, session: Session, post: Post, kept: Cache | None = None) -> None:
        self.session = session
        self._post = post
        self.cache = Cache(_CACHE_BYTES) if kept is None else kept
        self._previewer = Previewer(self.cache)
        self._request: PlanRequest | None = None
        self._view_state: ViewState | None = None
        self.plan: Plan | None = None
        self._checks: Checks | None = None
        self.yardstick: Plan | None = None
        self.shows_yardstick = False
        self.regions: RegionMap | None = None
        self._printed: tuple[tuple[object, ...], RegionMap] | None = None
        self._wants_regions = False
        self._searched: str | None = None
        self.gave_up_regions = False
        self._shown_before = ""
        self.is_stopped = False
        self._stops_files, self._ends = threading.Event(), threading.Event()
        self._file_progress = NewestTold(post, self.progressed.emit)
        self._planner = NewestWins[PlanRequest]("planner", self._make_plan, self._plan_failed)
        self._drawer = NewestWins[_FrameRequest]("drawer", self._draw, self._draw_failed)
        self._finder = NewestWins[Artwork]("finder", self._find_regions, self._find_failed)
        self._files = ThreadPoolExecutor(1, thread_name_prefix="files")
        session.changed.connect(self._job_changed)
        self._job_changed(session.job, Changes(frozenset({"file"}), "start"))

    @property
    def is_current(self) -> bool:
        """Whether ``plan`` is the plan of the job as it is now."""
        return self.is_planned and self.plan is not None and self.plan.checks.is_current

    @property
    def is_planned(self) -> bool:
        """Whether planes and amounts of ``plan`` are those of the job as it is now."""
        return self.plan is not None and self.plan.request is self._request

    @property
    def is_idle(self) -> bool:
        return self._planner.is_idle and self._drawer.is_idle and self._finder.is_idle

    def let_go_first(self) -> None:
        """Let plan and picture of the line at hand go first: returns soon, or when they are done."""
        self._planner.wait_idle(_DRAWING_GOES_FIRST_S)
        self._drawer.wait_idle(_DRAWING_GOES_FIRST_S)

    def want_regions(self) -> None:
        """Somebody looks at regions: find those of the artwork, in the background, now and whenever it changes."""
        self._wants_regions = True
        self._seek_regions()

    @property
    def printed_regions(self) -> RegionMap | None:
        """The regions, with those hidden that the last plan prints nothing of."""
        found, plan = self.regions, self.plan
        if found is None or plan is None or plan.request.artwork.content_id != self._searched:
            return found
        key = (id(found), plan.keys["inks"], plan.keys["white"], plan.keys["highlight"])
        if self._printed is None or self._printed[0] != key:
            self._printed = key, printing(found, plan)
        return self._printed[1]

    @property
    def is_finding_regions(self) -> bool:
        return self._searched is not None and self.regions is None and not self.gave_up_regions

    def retry_regions(self) -> None:
        """Look for regions again after a search was cancelled."""
        if self.gave_up_regions:
            self._searched = None

    def _seek_regions(self) -> None:
        file = self.session.job.file
        content = None if file is None else file.artwork.content_id
        if content == self._searched or not self._wants_regions:
            return
        self._searched, self.regions, self.gave_up_regions = content, None, False
        if file is None:
            self._finder.cancel()
        else:
            self._finder.submit(file.artwork)
        self.regions_changed.emit()

    def _find_regions(self, artwork: Artwork, is_wanted: Callable[[], bool]) -> None:
        found = artwork_regions(artwork, Run(self.cache, is_wanted))
        self._post(lambda: self._deliver_regions(artwork, found) if is_wanted() else None)

    def _deliver_regions(self, artwork: Artwork, found: RegionMap) -> None:
        if artwork.content_id == self._searched:
            self.regions = found
            self.regions_changed.emit()

    def _find_failed(self, _artwork: Artwork, error: Exception) -> None:
        text = told(error)
        self._post(lambda: self.failed.emit(text))

    def look_at(self, state: ViewState | None) -> None:
        """Show another part, or another way of seeing."""
        self._view_state = state
        self._ask_frame()

    def pin_yardstick(self, plan: Plan | None) -> None:
        self.yardstick = plan
        self._ask_frame()

    def show_yardstick(self, shows: bool) -> None:
        self.shows_yardstick = shows
        self._ask_frame()

    def cancel(self) -> None:
        """Give up the running plan and file work; the last finished plan stays."""
        self._planner.cancel()
        self._stops_files.set()
        self.is_stopped = self._request is not None and not self.is_current
        if self.is_finding_regions:
            self._finder.cancel()
            self.gave_up_regions = True
            self.regions_changed.emit()
        self.progressed.emit("", 1.0)
        self.stopped.emit()

    def go_on(self) -> None:
        """Take up the plan that was stopped."""
        if self.is_stopped and self._request is not None:
            self.is_stopped = False
            self._planner.submit(self._request)

    def check_files(self) -> None:
        """Raise ``Superseded`` when file work was told to stop."""
        if self._stops_files.is_set():
            raise Superseded

    def tell_progress_later(self, title: str, share: float) -> None:
        """Progress of file work, told from its own thread."""
        self._file_progress(title, share)

    def wait_for_files(self) -> None:
        """Return when the file work begun so far has ended; its results are posted."""
        self._files.submit(lambda: None).result()

    def end_files(self) -> None:
        """The window closes: give up what is read, and return when all that is written has ended."""
        self._ends.set()
        self.wait_for_files()

    def forget(self) -> None:
        """Give back what was kept for jobs that are closed; what the open one needs is made again when it is needed."""
        self.cache.clear()

    def stop(self) -> None:
        """End all background work and let go of what it made."""
        self._planner.stop()
        self._drawer.stop()
        self._finder.stop()
        self._files.shutdown(wait=True, cancel_futures=True)
        self.cache.clear()
        self.plan = self.yardstick = self.regions = None

    def in_background(
        self, work: Callable[[], Any], done: Callable[[Any], None], failed: Callable[[], None] = lambda: None
    ) -> None:
        """File work off the interface; ``PlanError`` becomes a sentence, anything else a report; both call ``failed``.

        Work that asks :meth:`check_files` now and then ends when it is told to stop.
        """

        def run() -> None:
            self._stops_files.clear()
            try:
                with apart.watched(self._reading):
                    result = work()
            except Superseded:
                self._post(failed)
            except PlanError as error:
                self._post(partial(self._file_work_failed, failed, str(error)))
            except Exception as error:
                text = told(error)
                self._post(partial(self._file_work_failed, failed, text))
            else:
                self._post(lambda: done(result))

        self._files.submit(run)

    def _reading(self, name: str, took_s: float) -> None:
        """A file that takes long to read is told with its seconds, and given up when that is wanted."""
        self.check_files()
        if self._ends.is_set():
            raise Superseded
        if name:
            most = apart.MOST_CPU_S
            self._file_progress(f"Reading “{name}”: {took_s:.0f} s of {most:.0f}", min(1.0, took_s / most))

    def _file_work_failed(self, failed: Callable[[], None], text: str) -> None:
        failed()
        self.failed.emit(text)

    def _job_changed(self, job: Job, changes: Changes) -> None:
        if "file" in changes.sections:
            self._seek_regions()
        is_opened = changes.initiator == "open"
        if self.plan is not None and (is_opened or "file" in changes.sections):
            self.plan = self._checks = None
            self.plan_changed.emit(None)
        is_laid_anew = changes.sections & _LAID and self._is_on_other(job)
        if not changes.sections & (_PLANNED | _CARRIED) and not is_laid_anew and not is_opened:
            return
        if changes.initiator == "line":
            self._shown_before = ""  # another line is shown at once, before anything is planned of it
            self.plan = None  # its planes would lie beside those of the plan to come
        if not changes.sections & _PLANNED and not is_laid_anew and self.is_current and self.plan is not None:
            press = self.plan.request.press
            self._request = replace(self.plan.request, settings=job.settings.on(press))
            self.plan = replace(self.plan, request=self._request)
            self.plan_changed.emit(self.plan)
            return
        self._request, self.is_stopped = job.request(), False
        if self._request is None:
            self.plan = None
            self._planner.cancel()
            self.plan_changed.emit(None)
            return
        self._ask_frame()
        self._planner.submit(self._request)

    def _is_on_other(self, job: Job) -> bool:
        """Whether what fits, or what is decorated, is other than for the last request: where prints lie on their sheet
        is no matter of it.
        """
        before, now = self._request, job.request()
        if before is None or now is None:
            return False
        return (before.medium, before.split_rules, before.ware) != (now.medium, now.split_rules, now.ware)

    def _ask_frame(self) -> None:
        if self._view_state is not None and self._request is not None:
            yardstick = self.yardstick if self.shows_yardstick else None
            plan = self.plan if self.is_planned else None
            self._drawer.submit(_FrameRequest(self._view_state, self._request, plan, yardstick))

    def _make_plan(self, request: PlanRequest, is_wanted: Callable[[], bool]) -> None:
        large = memory_words(request)

        def tell(title: str, share: float) -> None:
            if is_wanted():
                self.progressed.emit(f"{title} ({large})" if large and title else title, share)

        progress = NewestTold(self._post, tell)

        def still_wanted() -> bool:
            self._drawer.wait_idle(_DRAWING_GOES_FIRST_S)
            return is_wanted()

        def counted(plan: Plan) -> None:
            self._post(lambda: self._deliver(plan) if is_wanted() else None)

        plan = make_plan(request, Run(self.cache, still_wanted, progress), before=self._checks, counted=counted)
        self._post(lambda: self._deliver(plan) if is_wanted() else None)
        self._previewer.warm(plan)

    def _deliver(self, plan: Plan) -> None:
        if plan.request is not self._request:
            return
        was_planned = self.is_planned
        self.plan, self._checks = plan, plan.checks
        if plan.checks.is_current:
            self.progressed.emit("", 1.0)
        self.plan_changed.emit(plan)
        if not was_planned or (self._view_state is not None and self._view_state.view_mode == "trouble"):
            self._ask_frame()

    def _plan_failed(self, request: PlanRequest, error: Exception) -> None:
        text = told(error)

        def tell() -> None:
            if request is self._request:
                self.progressed.emit("", 1.0)
                self.failed.emit(text)

        self._post(tell)

    def _draw(self, request: _FrameRequest, is_wanted: Callable[[], bool]) -> None:
        run = Run(self.cache, is_wanted)
        state = request.view_state

        def picture(view: View, of: PlanRequest, plan: Plan | None) -> Frame:
            return self._previewer.frame(view, state.view_mode, state.fabric, of, plan, run, state.misregistration)

        was_shown = self._has_shown(request.request)
        if state.view_mode == "cloth" and request.plan is None and not was_shown:
            early = self._previewer.first(state.view, state.fabric, request.request)
            self._post(lambda: self.frame_drawn.emit(early, None) if is_wanted() else None)
        frame, other, pinned = picture(state.view, request.request, request.plan), None, request.yardstick
        if pinned is not None:
            other = picture(state.view, pinned.request, pinned)
        self._post(lambda: self.frame_drawn.emit(frame, other) if is_wanted() else None)
        if state.loupe is not None:
            near = picture(state.loupe, request.request, request.plan)
            self._post(lambda: self.loupe_drawn.emit(near) if is_wanted() else None)

    def _has_shown(self, request: PlanRequest) -> bool:
        """Whether a picture of this artwork was drawn before; remembers that one is."""
        before, self._shown_before = self._shown_before, request.artwork.content_id
        return before == self._shown_before

    def _draw_failed(self, _request: _FrameRequest, error: Exception) -> None:
        if not isinstance(error, PlanError):
            text = told(error)
            self._post(lambda: self.failed.emit(text))
