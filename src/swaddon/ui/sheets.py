"""The stations' sheets, one of which is seen."""

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QStackedWidget, QWidget

from swaddon.ui import theme


class Sheets(QStackedWidget):
    """The sheets by station; while a window is dressed anew, the unseen ones wait outside and come back one by one."""

    def __init__(self) -> None:
        super().__init__()
        self._by_key: dict[str, QWidget] = {}
        self._outside: list[QWidget] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._take_in_next)

    def add(self, key: str, sheet: QWidget) -> None:
        self._by_key[key] = sheet
        self.addWidget(sheet)

    def show_sheet(self, key: str) -> None:
        sheet = self._by_key[key]
        if sheet in self._outside:
            self._take_in(sheet)
        self.setCurrentWidget(sheet)

    def dress(self, window: QWidget) -> None:
        """Dress the window they lie in: at once what is seen (a tenth of a second less), the rest a moment later."""
        for sheet in self._by_key.values():
            if sheet is not self.currentWidget() and sheet not in self._outside:
                self.removeWidget(sheet)
                sheet.setParent(None)
                self._outside.append(sheet)
        theme.dress(window)
        theme.refresh_icons(window)
        self._timer.start()

    def _take_in_next(self) -> None:
        if self._outside:
            self._take_in(self._outside[0])
            self._timer.start()

    def _take_in(self, sheet: QWidget) -> None:
        self._outside.remove(sheet)
        self.addWidget(sheet)
        theme.refresh_icons(sheet)
