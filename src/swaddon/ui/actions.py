"""Every action of the bench, with menu, words and shortcut."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from swaddon.session.view_modes import VIEW_MODES
from swaddon.ui.station_spec import StationSpec


@dataclass(frozen=True)
class Command:
    """One entry: key, menu, words, shortcut; ``-`` as key is a separator."""

    key: str
    menu: str
    text: str
    shortcut: str = ""
    checkable: bool = False
    needs: str = ""
    """``artwork`` or ``plan``: off while there is none."""


MENUS = ("&Job", "&Edit", "&Stations", "&Look", "&Compare", "&Run", "&Help")
COMMANDS = (
    Command("new", "&Job", "&New job", "Ctrl+N"),
    Command("open", "&Job", "&Open job …", "Ctrl+O"),
    Command("by-code", "&Job", "Open by a card’s co&de …"),
    Command("press", "&Job", "Open press pro&file …"),
    Command("place", "&Job", "&Place artwork …", "Ctrl+I"),
    Command("paste", "&Job", "P&aste artwork", "Ctrl+V"),
    Command("-", "&Job", ""),
    Command("save", "&Job", "&Save job", "Ctrl+S", needs="artwork"),
    Command("save-as", "&Job", "Sa&ve job as …", "Ctrl+Shift+S", needs="artwork"),
    Command("export", "&Job", "&Export separations …", "Ctrl+E", needs="plan"),
    Command("export-order", "&Job", "Export the &whole order …", "Ctrl+Shift+E", needs="plan"),
    Command("report", "&Job", "Repor&t …", "Ctrl+R", needs="plan"),
    Command("-", "&Job", ""),
    Command("next-job", "&Job", "Next open &job", "Ctrl+PgDown"),
    Command("close-job", "&Job", "&Close this job", "Ctrl+W", needs="artwork"),
    Command("recovered", "&Job", "&Unsaved work of before …"),
    Command("-", "&Job", ""),
    Command("quit", "&Job", "&Quit", "Ctrl+Q"),
    Command("undo", "&Edit", "&Undo", "Ctrl+Z"),
    Command("redo", "&Edit", "&Redo", "Ctrl+Shift+Z"),
    Command("line-next", "&Edit", "Next &line of the order", "Ctrl+Right", needs="artwork"),
    Command("line-previous", "&Edit", "Line &before", "Ctrl+Left", needs="artwork"),
    Command("line-add", "&Edit", "Add a line li&ke this", "Ctrl+D", needs="artwork"),
    Command("order-list", "&Edit", "&Order list", "Ctrl+J"),
    Command("region-next", "&Edit", "Select the &next region", "Ctrl+.", needs="artwork"),
    Command("region-previous", "&Edit", "Select the &previous region", "Ctrl+,", needs="artwork"),
    Command("pin", "&Compare", "&Pin this plan as yardstick", "Ctrl+Y", needs="plan"),
    Command("unpin", "&Compare", "Put the yardstick &away"),
    Command(
        "curtain",
        "&Compare",
        "&Curtain between yardstick and this plan (hold Y: yardstick alone)",
        "Ctrl+K",
        checkable=True,
    ),
    Command("fit", "&Look", "&Fit the print", "Ctrl+0", needs="artwork"),
    Command("fit-garment", "&Look", "Fit the &garment", "Ctrl+9", needs="artwork"),
    Command("true-size", "&Look", "&True size, 1:1", "Ctrl+1", needs="artwork"),
    Command("pixel", "&Look", "One &pixel of the plan per pixel", "Ctrl+2", needs="artwork"),
    Command("-", "&Look", ""),
    Command("core-sample", "&Look", "&Core sample in the middle of the table", "Ctrl+M", needs="plan"),
    Command("loupe", "&Look", "&Loupe at the pointer", "F11", checkable=True, needs="artwork"),
    Command("worst-case", "&Look", "White at its &worst misregistration", "F10", checkable=True, needs="artwork"),
    Command("nudge-left", "&Look", "Nudge the white to the left", "Alt+Left", needs="artwork"),
    Command("nudge-right", "&Look", "Nudge the white to the right", "Alt+Right", needs="artwork"),
    Command("nudge-up", "&Look", "Nudge the white up", "Alt+Up", needs="artwork"),
    Command("nudge-down", "&Look", "Nudge the white down", "Alt+Down", needs="artwork"),
    Command("squeeze-more", "&Look", "Squeeze the white further out", "Alt+PgUp", needs="artwork"),
    Command("squeeze-less", "&Look", "Squeeze the white less", "Alt+PgDown", needs="artwork"),
    Command("nudge-back", "&Look", "Put the white &back in its place", "Alt+Home", needs="artwork"),
    Command("-", "&Look", ""),
    Command("scheme", "&Look", "Light or dark &surroundings", "Ctrl+L"),
    Command("units", "&Look", "&Millimetres or inches", "Ctrl+U"),
    Command("good", "&Run", "One more is &good (begins the run)", "Ctrl+G", needs="plan"),
    Command("spoiled", "&Run", "One more is &spoiled", "Ctrl+B"),
    Command("count-back", "&Run", "&Take the last count back"),
    Command("rest", "&Run", "&Rest, or go on"),
    Command("end-run", "&Run", "&End the run"),
    Command("-", "&Run", ""),
    Command("card", "&Run", "Run &card as PDF …", needs="plan"),
    Command("-", "&Run", ""),
    Command("log-find", "&Run", "&Find in the log book", "Ctrl+F"),
    Command("log-verdict", "&Run", "&Verdict on a piece"),
    Command("find", "&Help", "&Find a command …", "Ctrl+Space"),
    Command("-", "&Help", ""),
    Command("stations", "&Help", "The &stations, in the order of the work", "Shift+F1"),
    Command("shortcuts", "&Help", "&Keys"),
    Command("words", "&Help", "&Words of the trade, and our own"),
    Command("-", "&Help", ""),
    Command("about", "&Help", "&About Swaddon"),
)


class Actions:
    """Builds the menus; ``by_key`` holds each action."""

    def __init__(
        self,
        window: QMainWindow,
        handlers: dict[str, Callable[[], object]],
        see: Callable[[str], None],
        stations: Iterable[StationSpec],
        go: Callable[[str], None],
    ) -> None:
        self.by_key: dict[str, QAction] = {}
        self.menus: dict[str, QMenu] = {}
        for title in MENUS:
            self._menu(window, title)
        for command in COMMANDS:
            menu = self._menu(window, command.menu)
            if command.key == "-":
                menu.addSeparator()
                continue
            action = QAction(command.text, window)
            if command.shortcut:
                action.setShortcut(QKeySequence(command.shortcut))
            action.setCheckable(command.checkable)
            action.triggered.connect(lambda _=False, run=handlers[command.key]: run())
            menu.addAction(action)
            self.by_key[command.key] = action
        self.recent = QMenu("Open &recent", window)
        self.open_jobs = QMenu("Open jo&bs", window)
        for made, before in ((self.recent, "place"), (self.open_jobs, "next-job")):
            self._menu(window, "&Job").insertMenu(self.by_key[before], made)
        self.view_modes: dict[str, QAction] = {}
        self._group = QActionGroup(window)
        look = self._menu(window, "&Look")
        look.addSeparator()
        for view_mode in VIEW_MODES.values():
            action = QAction(f"See {view_mode.title}", window)
            action.setShortcut(QKeySequence(view_mode.shortcut))
            action.setCheckable(True)
            action.triggered.connect(lambda _=False, key=view_mode.key: see(key))
            self._group.addAction(action)
            look.addAction(action)
            self.view_modes[view_mode.key] = action
        work = self._menu(window, "&Stations")
        for spec in stations:
            action = QAction(f"Go to {spec.title}", window)
            action.setShortcut(QKeySequence(spec.shortcut))
            action.triggered.connect(lambda _=False, key=spec.key: go(key))
            work.addAction(action)
            self.by_key[f"station-{spec.key}"] = action

    def show_view_mode(self, key: str) -> None:
        """Check the way of seeing that is taken; none where it is not in the menu."""
        if key in self.view_modes:
            self.view_modes[key].setChecked(True)
        elif (checked := self._group.checkedAction()) is not None:
            self._group.setExclusive(False)
            checked.setChecked(False)
            self._group.setExclusive(True)

    def show_needs(self, has_artwork: bool, has_plan: bool) -> None:
        """What is of no use on an empty bench, or before there is a plan, is off."""
        there = {"artwork": has_artwork, "plan": has_plan, "": True}
        for command in COMMANDS:
            if command.needs:
                self.by_key[command.key].setEnabled(there[command.needs])
        for action in self.view_modes.values():
            action.setEnabled(has_artwork)

    def _menu(self, window: QMainWindow, title: str) -> QMenu:
        if title not in self.menus:
            self.menus[title] = window.menuBar().addMenu(title)
        return self.menus[title]

    def all(self) -> list[QAction]:
        return [*self.by_key.values(), *self.view_modes.values()]
