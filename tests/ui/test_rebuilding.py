"""What is rebuilt while somebody has something of it, or beside it, at hand."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QAbstractSlider, QApplication, QComboBox, QLineEdit, QVBoxLayout, QWidget
from tests.ui.patience import take_events
from tests.ui.test_watches import EDITS

from swaddon.ui.fields import TextField
from swaddon.ui.rebuilding import clear
from swaddon.ui.station_registry import STATIONS
from swaddon.ui.widgets import button

CHANGES = ("knockouts", "profile", "white", "goods", "garment", "quantity")
AT_HAND = QAbstractButton | QAbstractSlider | QComboBox | QLineEdit


def in_reach(page: QWidget) -> list[QWidget]:
    """What of a page can have the focus."""
    found = [item for item in page.findChildren(QWidget) if isinstance(item, AT_HAND)]
    return [item for item in found if item.isVisible() and item.isEnabled() and item.focusPolicy().value]


@pytest.mark.parametrize("spec", STATIONS, ids=lambda spec: spec.key)
def test_no_change_moves_the_focus_to_another_field_or_enters_what_is_half_typed(marble, settle, spec):
    """Steps of a run were shown as windows of their own for a moment: what was half typed became a setting."""
    marble.activateWindow()
    marble.go_to_station(spec.key)
    settle()
    page = marble.pages[spec.key]
    for turn, change in enumerate(CHANGES):
        found = in_reach(page)
        texts = [item for item in found if isinstance(item, TextField)]
        held = (texts or found)[turn % len(texts or found)] if found else page
        held.setFocus()
        name, kind = held.accessibleName(), type(held)
        if isinstance(held, TextField):
            QTest.keyClicks(held, "7")
        typed = held.text() if isinstance(held, QLineEdit) else ""
        marble.session.apply(EDITS[change])
        label = marble.session.undo_label
        settle()
        take_events()
        now = QApplication.focusWidget()
        assert marble.session.undo_label == label, "what was half typed was entered"
        if isinstance(now, QLineEdit):
            assert (type(now), now.accessibleName()) == (kind, name), (change, "another field has the focus")
            assert now.text() == typed
        assert QApplication.activeWindow() is marble
        if isinstance(now, TextField):
            now.revert()


@pytest.fixture
def box(qtbot):
    """A window with a list of a field and a button, and a field beside it."""
    window, inner, beside = QWidget(), QWidget(), TextField("Beside")
    layout, within = QVBoxLayout(window), QVBoxLayout(inner)
    layout.addWidget(TextField("Before"))
    layout.addWidget(inner)
    layout.addWidget(beside)
    qtbot.addWidget(window)
    entered = []

    def refill(*names: str) -> None:
        clear(within)
        for name in names:
            made = TextField(name) if name.startswith("Field") else button(name)
            if isinstance(made, TextField):
                made.show_value("5")
                made.entered.connect(entered.append)
            within.addWidget(made)

    refill("Field", "Take")
    window.show()
    qtbot.waitExposed(window)
    window.activateWindow()
    window.beside, window.inner, window.refill, window.entered, window.within = beside, inner, refill, entered, within
    return window


def test_what_is_half_typed_goes_on_in_the_field_that_comes_in_its_place(box):
    field = box.within.itemAt(0).widget()
    field.setFocus()
    QTest.keyClicks(field, "81")
    box.refill("Field", "Take", "Another")
    take_events()
    now = QApplication.focusWidget()
    assert now is box.within.itemAt(0).widget()
    assert now.text() == "581"
    assert box.entered == []
    QTest.keyClick(now, Qt.Key.Key_Return)
    assert box.entered == ["581"]


def test_what_is_half_typed_in_something_that_is_gone_is_not_entered(box):
    field = box.within.itemAt(0).widget()
    field.setFocus()
    QTest.keyClicks(field, "81")
    box.refill("Take")
    take_events()
    assert box.entered == []
    assert QApplication.focusWidget() is box.inner
    QTest.keyClick(box.inner, Qt.Key.Key_Tab)
    assert QApplication.focusWidget() is box.within.itemAt(0).widget()


def test_a_button_that_is_made_anew_keeps_the_focus_and_one_who_has_gone_on_is_not_called_back(box):
    box.within.itemAt(1).widget().setFocus()
    box.refill("Field", "Take")
    take_events()
    assert QApplication.focusWidget() is box.within.itemAt(1).widget()
    box.refill("Field", "Take")
    box.beside.setFocus()
    take_events()
    assert QApplication.focusWidget() is box.beside
