"""A bench on the offscreen platform, and patience for its background work."""

import sys
from collections.abc import Callable, Iterator
from types import FrameType, SimpleNamespace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialog, QInputDialog, QMessageBox, QWidget
from pytestqt.qtbot import QtBot
from tests import kept
from tests.conftest import coarse
from tests.ui.patience import has_delivered, until

from swaddon.session import demo
from swaddon.session.preferences import Preferences
from swaddon.session.session import Session
from swaddon.ui import settling, theme
from swaddon.ui.bench import Bench

Settle = Callable[[], None]
WINDOWS: list[str] = []


@pytest.fixture(scope="session", autouse=True)
def _look(qapp: QApplication) -> None:
    theme.load_fonts()
    theme.apply("dark")


@pytest.fixture(scope="session", autouse=True)
def _nothing_is_shown_without_a_parent(qapp: QApplication) -> None:
    """Whatever is shown before it has its place in a window is a window for a moment, and takes the focus."""
    shown, made_visible = QWidget.show, QWidget.setVisible

    def check(widget: QWidget) -> None:
        known = isinstance(widget, Bench | QDialog) or widget.windowType() == Qt.WindowType.Popup
        asks: FrameType | None = sys._getframe(2)
        while asks is not None and asks.f_code.co_name in ("show", "setVisible", "set_visible"):
            asks = asks.f_back
        by_us = asks is not None and "swaddon" in asks.f_globals["__name__"]
        if by_us and widget.parentWidget() is None and not known:
            WINDOWS.append(f"{type(widget).__name__} “{widget.accessibleName() or getattr(widget, 'text', str)()}”")

    def show(widget: QWidget) -> None:
        check(widget)
        shown(widget)

    def set_visible(widget: QWidget, visible: bool) -> None:
        if visible:
            check(widget)
        made_visible(widget, visible)

    QWidget.show, QWidget.setVisible = show, set_visible  # type: ignore[method-assign]


@pytest.fixture(autouse=True)
def _windows_of_their_own() -> Iterator[None]:
    WINDOWS.clear()
    yield
    assert not WINDOWS, "shown without a parent"


@pytest.fixture(autouse=True)
def _no_question_waits(monkeypatch: pytest.MonkeyPatch) -> None:
    """A question that no test answers would wait for ever."""
    monkeypatch.setattr(QMessageBox, "exec", lambda box: pytest.fail(f"asked: {box.text()}"))
    monkeypatch.setattr(QInputDialog, "getText", lambda _window, title, *_: pytest.fail(f"asked: {title}"))


@pytest.fixture(autouse=True)
def _coarse_presses(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """Demo jobs come with presses of few pixels: what is tried here is the bench. ``full_size`` leaves them be."""
    if request.node.get_closest_marker("full_size") is None:
        monkeypatch.setattr(demo, "profiles", SimpleNamespace(shipped=coarse))


@pytest.fixture(autouse=True)
def _quick_hands(monkeypatch: pytest.MonkeyPatch) -> None:
    """Pauses after which work begins are a tenth: nobody types here."""
    monkeypatch.setattr(settling, "SHARE", 0.1)


@pytest.fixture
def bench(qtbot: QtBot, compiled: None, request: pytest.FixtureRequest) -> Iterator[Bench]:
    """A bench that finds in the shared results what another has planned."""
    is_fresh = request.node.get_closest_marker("fresh_plans") is not None
    window = Bench(Session(), Preferences(), None if is_fresh else kept.plans())
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    yield window
    window.files.ask_unsaved = lambda: "discard"
    window.close()
    window.deleteLater()


@pytest.fixture
def settle(bench: Bench) -> Settle:
    """Wait until files, plan and pictures are done and delivered."""
    return lambda: until(lambda: has_delivered(bench))


@pytest.fixture
def heron(bench: Bench, settle: Settle) -> Bench:
    """The Night Heron job, opened."""
    bench.files.open_demo("heron")
    settle()
    return bench


@pytest.fixture
def marble(bench: Bench, settle: Settle) -> Bench:
    """The Marble League job, opened: the smallest print."""
    bench.files.open_demo("marble")
    settle()
    return bench
