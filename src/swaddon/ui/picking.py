"""Picking a place of the artwork by a click on the proof table, or a part of it by an outline."""

from collections.abc import Callable, Sequence

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb
from swaddon.session.job import Job
from swaddon.session.selection import artwork_point
from swaddon.session.session import Changes, Session
from swaddon.ui.outline_pen import Drawn, OutlinePen
from swaddon.ui.proof_table import ProofTable

Picked = Callable[[Rgb, Point], None]


class Picking:
    """Waits for one click that hits artwork; clicks beside it are ignored. Other clicks go to ``otherwise``."""

    def __init__(
        self, table: ProofTable, session: Session, otherwise: Callable[[Point | None, bool, tuple[float, float]], None]
    ) -> None:
        self._table, self._session, self._otherwise = table, session, otherwise
        self._picked: Picked | None = None
        self.pen = OutlinePen(table, lambda: session.job)
        table.clicked_at.connect(self._clicked_at)
        session.changed.connect(self._job_changed)

    @property
    def is_on(self) -> bool:
        return self._picked is not None

    def begin(self, picked: Picked) -> None:
        self._picked = picked
        self._table.set_picking(True)

    def _job_changed(self, _job: Job, changes: Changes) -> None:
        """Corners that are no longer those of the job are let go."""
        if self.pen.is_on and changes.initiator in ("undo", "redo", "open"):
            self.pen.end()

    def draw(self, drawn: Drawn, points: Sequence[Point] = ()) -> None:
        """Take up the pen: a new line, or other corners for one."""
        self.end()
        self.pen.begin(drawn, points)

    def end(self) -> None:
        self._picked = None
        self._table.set_picking(False)
        if self.pen.is_on:
            self.pen.end()

    def _clicked_at(self, x_mm: float, y_mm: float, adds: bool) -> None:
        job, picked = self._session.job, self._picked
        if job.file is None:
            return
        artwork = job.file.artwork
        size = (artwork.width_px, artwork.height_px)
        point = artwork_point(x_mm, y_mm, job.settings, size, job.height_mm)
        if picked is None:
            self._otherwise(point, adds, (x_mm, y_mm))
            return
        if point is None:
            return
        x, y = min(int(point[0]), artwork.width_px - 1), min(int(point[1]), artwork.height_px - 1)
        if artwork.rgba[y, x, 3] > 0:
            r, g, b = (int(v) for v in artwork.rgba[y, x, :3])
            self.end()
            picked((r, g, b), point)
