"""Picking a place of the artwork by a click on the proof table."""

from collections.abc import Callable

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb
from swaddon.session.selection import artwork_point
from swaddon.session.session import Session
from swaddon.ui.proof_table import ProofTable

Picked = Callable[[Rgb, Point], None]


class Picking:
    """Waits for one click that hits artwork; clicks beside it are ignored. Other clicks go to ``otherwise``."""

    def __init__(
        self, table: ProofTable, session: Session, otherwise: Callable[[Point | None, bool, tuple[float, float]], None]
    ) -> None:
        self._table, self._session, self._otherwise = table, session, otherwise
        self._picked: Picked | None = None
        table.clicked_at.connect(self._clicked_at)

    @property
    def is_on(self) -> bool:
        return self._picked is not None

    def begin(self, picked: Picked) -> None:
        self._picked = picked
        self._table.set_picking(True)

    def end(self) -> None:
        self._picked = None
        self._table.set_picking(False)

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
