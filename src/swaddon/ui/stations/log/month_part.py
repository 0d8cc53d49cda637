"""Which month, and the month as a file."""

import datetime
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.log.month import Month, month_of
from swaddon.session.log_month import month_title, write_month
from swaddon.ui.saving import save_name
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.log.model import month_before
from swaddon.ui.widgets import button, label, row

_WHY = (
    "Runs that ended in the month, as they stand after all corrections. What spoilage cost is the materials of the "
    "spoiled pieces; the garments and the time come on top."
)


class MonthPart(QWidget):
    """Goes from month to month; ``found`` gives its sums."""

    found = Signal(object)

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self.month = datetime.datetime.fromtimestamp(context.log.runs.now()).strftime("%Y-%m")
        self._sums: Month | None = None
        self.title, self.told = label("", "head"), label("", "effect", wrap=True)
        self.back, self.on = button("Month before", "low"), button("Month after", "low")
        self.back.clicked.connect(lambda: self.step(1))
        self.on.clicked.connect(lambda: self.step(-1))
        self.write = button("Month as file…", "", "download", "As PDF or CSV")
        self.write.clicked.connect(self._choose)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        for item in (self.title, row(self.back, self.on, 1), self.write, self.told, label(_WHY, "quiet", wrap=True)):
            layout.addWidget(item)
        layout.addStretch(1)

    def step(self, months: int) -> None:
        """Another month, so many before."""
        self.month = month_before(self.month, months)
        self.ask()

    def ask(self) -> None:
        """Add the month up."""
        month, keeper = self.month, self._context.log.keeper
        self.title.setText(month_title(month))
        self.told.setText("")

        def work(_run: Run, _step: Callable[[Any], None]) -> Month:
            return month_of(month, keeper.book().ended_in(month))

        self._context.log.reads.start(work, self._show, self.told.setText)

    def _show(self, sums: Month) -> None:
        self._sums = sums
        self.write.setEnabled(bool(sums.runs))
        self.found.emit(sums)

    def _choose(self) -> None:
        path, _ = save_name(self, "Month", f"{self.month}.pdf", "PDF (*.pdf);;Table (*.csv)")
        if path:
            self.write_to(Path(path))

    def write_to(self, path: Path) -> None:
        """Write the month that is shown."""
        if self._sums is None:
            return
        target = path if path.suffix else path.with_suffix(".pdf")
        try:
            write_month(target, self._sums, self._context.preferences().paper)
        except PlanError as error:
            self._context.tell(str(error))
            return
        self.told.setText(f"Written to {target.name}.")
