"""The job bar: what this job is, and the actions that are always at hand."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from swaddon.session.job import Job
from swaddon.session.lengths import size_text
from swaddon.session.tray import Tray
from swaddon.ui import theme
from swaddon.ui.widgets import Elided, Swatch, label


class JobBar(QWidget):
    """Name, garment, process, size, quantity; yardstick, undo, redo, export."""

    def __init__(self, actions: dict[str, QAction]) -> None:
        super().__init__()
        self.setObjectName("ground")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 6, 12, 6)
        layout.setSpacing(10)
        self.name = Elided("", "title")
        self.swatch = Swatch((0, 0, 0), "Garment colour", 22)
        self.swatch.setEnabled(False)
        self.facts = label("", "quiet")
        self.jobs = QToolButton()
        self.jobs.setAccessibleName("Open jobs")
        self.jobs.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.jobs.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.jobs.hide()
        layout.addWidget(self.name, 3)
        layout.addWidget(self.jobs)
        layout.addWidget(self.swatch)
        layout.addWidget(self.facts, 2)
        layout.addStretch(0)
        for key, icon, text in (
            ("pin", "pin", "Yardstick"),
            ("curtain", "", "Curtain"),
            ("undo", "undo-2", ""),
            ("redo", "redo-2", ""),
            ("export", "download", "Export"),
        ):
            layout.addWidget(_tool(actions[key], icon, text))

    def show_tray(self, tray: Tray) -> None:
        """Which of the open jobs this is; hidden while there is only one."""
        self.jobs.setVisible(len(tray) > 1)
        self.jobs.setText(f"{tray.current + 1} of {len(tray)}")
        menu = QMenu(self.jobs)
        for index, title in enumerate(tray.titles()):
            action = menu.addAction(title)
            action.setCheckable(True)
            action.setChecked(index == tray.current)
            action.triggered.connect(lambda _=False, index=index: tray.switch(index))
        old = self.jobs.menu()
        self.jobs.setMenu(menu)
        if old is not None:
            old.deleteLater()

    def show_job(self, job: Job, changed: bool, inches: bool) -> None:
        self.name.show_text(job.name + (" •" if changed else ""))
        self.name.setAccessibleName(f"{job.name}, {'not saved' if changed else 'saved'}")
        settings = job.settings
        self.swatch.show_value(settings.garment)
        self.swatch.setVisible(job.file is not None)
        if job.file is None or job.profile is None:
            self.facts.setText("")
            return
        height = job.height_mm
        size = size_text(settings.width_mm, height, inches)
        pieces = sum(line.settings.quantity for line in job.lines)
        of = f" of {pieces} in {len(job.lines)} lines" if len(job.lines) > 1 else ""
        self.facts.setText(f"{job.profile.process} · {size} · {settings.quantity} ×{of}")


def _tool(action: QAction, icon: str, text: str) -> QToolButton:
    made = QToolButton()
    made.setDefaultAction(action)
    if icon:
        theme.name_icon(action, icon)
        made.setIconSize(theme.ICON_SIZE)
    style = Qt.ToolButtonStyle.ToolButtonTextBesideIcon if text and icon else Qt.ToolButtonStyle.ToolButtonTextOnly
    if not text:
        style = Qt.ToolButtonStyle.ToolButtonIconOnly
    made.setToolButtonStyle(style)
    if text:
        action.setIconText(text)
    made.setAccessibleName(text or action.text().replace("&", ""))
    made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return made
