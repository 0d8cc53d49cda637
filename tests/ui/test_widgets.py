"""The small parts that stations are built from."""

import sys

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QWidget

from swaddon.core.plan.trouble import KINDS, Patch
from swaddon.session.curves import Line, height_at
from swaddon.session.pictures import HATCHES, hatched, worst_of_four
from swaddon.ui.charts import CurveChart
from swaddon.ui.fields import Drag, SlideRow
from swaddon.ui.fold import Fold
from swaddon.ui.legend import Legend
from swaddon.ui.rebuilding import clear
from swaddon.ui.widgets import Choice, label


@pytest.fixture
def slide(qtbot) -> SlideRow:
    made = SlideRow("Ink left", 0.05, 1.0, 0.01, "%", 100)
    qtbot.addWidget(made)
    made.show()
    return made


def typed(qtbot, slide: SlideRow, text: str) -> None:
    slide.field.setFocus()
    slide.field.selectAll()
    qtbot.keyClicks(slide.field, text)
    qtbot.keyClick(slide.field, Qt.Key.Key_Return)


def test_a_slide_row_shows_its_value_in_its_unit(slide):
    slide.show_value(0.85)
    assert slide.field.text() == "85 %"
    assert slide.slider.value() == 80


@pytest.mark.parametrize(("text", "value"), [("40", 0.4), ("40 %", 0.4), ("62,5", 0.625), ("5.0%", 0.05)])
def test_numbers_are_typed_with_or_without_their_unit(slide, qtbot, text, value):
    got = []
    slide.moved.connect(got.append)
    typed(qtbot, slide, text)
    assert got[-1] == pytest.approx(value)
    assert slide.field.toolTip() == ""


@pytest.mark.parametrize(
    ("text", "says"),
    [("much", "not a number"), ("4", "Between 5 % and 100 %"), ("400", "Between")],
)
def test_a_wrong_number_is_refused_in_place(slide, qtbot, text, says):
    got = []
    slide.moved.connect(got.append)
    typed(qtbot, slide, text)
    assert not got
    assert says in slide.field.toolTip()


def test_a_slider_in_use_is_not_moved_under_the_hand(qtbot):
    drag = Drag("Choke", 0, 1, 0.01)
    qtbot.addWidget(drag)
    drag.setSliderDown(True)
    drag.show_value(0.7)
    assert drag.value() == 0
    drag.setSliderDown(False)
    drag.show_value(0.7)
    assert drag.value() == 70


def test_escape_brings_back_what_was_there(slide, qtbot):
    slide.show_value(0.5)
    slide.field.setFocus()
    slide.field.selectAll()
    qtbot.keyClicks(slide.field, "abc")
    qtbot.keyClick(slide.field, Qt.Key.Key_Escape)
    assert slide.field.text() == "50 %"


def test_clearing_a_layout_takes_every_widget_out(qtbot):
    holder = QWidget()
    qtbot.addWidget(holder)
    layout = QHBoxLayout(holder)
    for text in ("one", "two"):
        layout.addWidget(label(text))
    clear(layout)
    assert layout.count() == 0


@pytest.fixture
def chart(qtbot) -> CurveChart:
    made = CurveChart("Harm against choke", "mm", 0.01)
    qtbot.addWidget(made)
    made.resize(300, 84)
    made.show()
    made.show_curves([Line("harm", tuple((x / 10, (x / 10 - 0.2) ** 2) for x in range(7)))], 0.3, 0.2, 0.4)
    return made


def test_a_curve_is_dragged_and_settles_once(chart, qtbot):
    moved, settled = [], []
    chart.moved.connect(moved.append)
    chart.settled.connect(lambda: settled.append(1))
    area = chart._area()
    middle = QPointF(area.center()).toPoint()
    qtbot.mousePress(chart, Qt.MouseButton.LeftButton, pos=QPoint(int(area.left()), middle.y()))
    qtbot.mouseMove(chart, middle)
    qtbot.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=middle)
    assert moved[0] == 0
    assert len(settled) == 1


def test_a_curve_is_walked_by_keyboard_within_its_ends(chart, qtbot):
    moved = []
    chart.moved.connect(moved.append)
    chart.setFocus()
    for _ in range(40):
        qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert moved[0] == pytest.approx(0.31)
    assert max(moved) == pytest.approx(0.6)
    for _ in range(70):
        qtbot.keyClick(chart, Qt.Key.Key_Left)
    assert min(moved) == 0
    assert "recommended 0.2 mm, safe 0.4 mm" in chart.accessibleDescription()


def test_an_empty_curve_says_so_and_takes_no_drag(chart, qtbot):
    chart.show_curves([], None)
    moved = []
    chart.moved.connect(moved.append)
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(100, 40))
    qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert not moved
    chart.grab()


@pytest.mark.parametrize(("x", "height"), [(-1, 2.0), (0, 2.0), (0.5, 3.0), (1, 4.0), (1.5, 2.0), (2, 0.0), (9, 0.0)])
def test_heights_lie_straight_between_points_and_level_beyond(x, height):
    assert height_at(((0.0, 2.0), (1.0, 4.0), (2.0, 0.0)), x) == pytest.approx(height)
    assert height_at((), x) == 0


def test_each_kind_of_trouble_has_a_hatch_of_its_own():
    ground = np.full((20, 20, 3), 60, np.uint8)
    pictures = []
    for index in range(1, len(KINDS) + 1):
        picture = hatched(ground, np.full((20, 20), index, np.uint8))
        assert len(np.unique(picture.reshape(-1, 3), axis=0)) == 2, "lines and ground of the hatch"
        pictures.append(picture.tobytes())
    assert len(set(pictures)) == len(KINDS)
    assert set(HATCHES) == set(KINDS)
    np.testing.assert_array_equal(hatched(ground, np.zeros((20, 20), np.uint8)), ground)


def test_thin_trouble_survives_halving():
    plane = np.zeros((8, 9), np.uint8)
    plane[3, :] = 4
    plane[3, 2] = 5
    halved = worst_of_four(plane)
    assert halved.shape == (4, 4)
    assert (halved[1] >= 4).all()
    assert halved[1, 1] == 5


def test_the_legend_names_areas_and_leads_to_places(qtbot):
    table = QWidget()
    qtbot.addWidget(table)
    table.resize(400, 300)
    table.show()
    legend = Legend(table)
    legend.show_patches((Patch("haze", 0.0, 0, 0), Patch("rim", 12.34, 5.0, 6.0)))
    texts = [line.text() for line in legend.lines]
    assert texts == ["Bare rim: 12.3 mm²", "Haze: none"]
    assert not legend.lines[1].isEnabled()
    places = []
    legend.go_to.connect(lambda x, y: places.append((x, y)))
    legend.lines[0].click()
    assert places == [(5.0, 6.0)]
    assert QColor(*HATCHES["rim"][0]).isValid()
    legend.show_patches(())
    assert not legend.isVisible()


def test_a_fold_tells_in_short_what_lies_under_it(qtbot):
    inside = label("inside")
    fold = Fold("Registration", inside)
    qtbot.addWidget(fold)
    fold.show()
    assert fold.head.text() == "+ Registration"
    assert not inside.isVisible()
    fold.show_note("σ 0.08 mm")
    fold.head.setFocus()
    qtbot.keyClick(fold.head, Qt.Key.Key_Space)
    assert inside.isVisible()
    assert fold.head.text() == "− Registration: σ 0.08 mm"
    assert "open" in fold.head.accessibleName()


def test_a_choice_of_many_goes_on_in_rows(qtbot):
    choice = Choice("Way", [(str(n), f"Way {n}") for n in range(6)], columns=3)
    qtbot.addWidget(choice)
    choice.show()
    first, fourth = choice.button_for("0"), choice.button_for("3")
    assert fourth.y() > first.y()
    assert fourth.x() == first.x()
    with qtbot.waitSignal(choice.chosen) as chosen:
        qtbot.mouseClick(choice.button_for("4"), Qt.MouseButton.LeftButton)
    assert chosen.args == ["4"]


def test_qt_calls_take_no_references_to_none_with_them(qtbot):
    """PySide6 6.12.0 on Python 3.11 lost one per call, until the interpreter aborted after some hundred renderings."""
    shown = label("")
    qtbot.addWidget(shown)
    before = sys.getrefcount(None)
    for number in range(500):
        shown.setText(str(number))
        shown.setEnabled(bool(number % 2))
    assert sys.getrefcount(None) > before - 250
