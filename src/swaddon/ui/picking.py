"""Picking a colour of the artwork by a click on the proof table."""

from collections.abc import Callable

from swaddon.core.colour import Rgb
from swaddon.session.session import Session
from swaddon.ui.proof_table import ProofTable


class Picking:
    """Waits for one click that hits artwork; clicks beside it are ignored."""

    def __init__(self, table: ProofTable, session: Session) -> None:
        self._table, self._session = table, session
        self._picked: Callable[[Rgb], None] | None = None
        table.clicked_at.connect(self._clicked_at)

    @property
    def is_on(self) -> bool:
        return self._picked is not None

    def begin(self, picked: Callable[[Rgb], None]) -> None:
        self._picked = picked
        self._table.set_picking(True)

    def end(self) -> None:
        self._picked = None
        self._table.set_picking(False)

    def _clicked_at(self, x_mm: float, y_mm: float) -> None:
        picked, file = self._picked, self._session.job.file
        if picked is None or file is None:
            return
        artwork = file.artwork
        scale = artwork.width_px / self._session.job.settings.width_mm
        x, y = int(x_mm * scale), int(y_mm * scale)
        if 0 <= x < artwork.width_px and 0 <= y < artwork.height_px and artwork.rgba[y, x, 3] > 0:
            r, g, b = (int(v) for v in artwork.rgba[y, x, :3])
            self.end()
            picked((r, g, b))
