"""Lines of an order: what is carried to the others, what stays a line's own, and how it is put back."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.core.colour.goods import goods_class
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.lines import FACTS, Goods, OrderLine, at_path, carried, differences, like, put_back
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import changed

BLACK, NAVY, WHITE = (27, 27, 31), (31, 41, 68), (250, 250, 248)
VALUES = {
    "white.choke_mm": (0.1, 0.3, 0.5),
    "white.mode": ("none", "need", "solid"),
    "holes.give_back": (True, False),
    "knockouts": ((), (Knockout(None, 4.0),)),
    "gamut": ("hue", "steps"),
    "garment": (BLACK, NAVY),
    "width_mm": (180.0, 260.0),
    "quantity": (1, 7),
}
STEPS = st.lists(
    st.sampled_from([(path, value) for path, values in VALUES.items() for value in values]).flatmap(
        lambda step: st.tuples(st.just(step), st.integers(0, 2), st.booleans())
    ),
    max_size=14,
)


def order() -> list[OrderLine]:
    return [OrderLine(PlanSettings(garment=rgb, width_mm=200.0 + at)) for at, rgb in enumerate((BLACK, NAVY, WHITE))]


def step(lines: list[OrderLine], path: str, value: object, at: int, alone: bool) -> list[OrderLine]:
    before = lines[at]
    after = replace(before, settings=changed(before.settings, path, value))
    line, others = carried(before, after, [item for index, item in enumerate(lines) if index != at], alone)
    return [*others[:at], line, *others[at:]]


@given(STEPS)
def test_lines_that_follow_the_order_share_all_but_what_they_are(steps):
    lines = order()
    for (path, value), at, alone in steps:
        lines = step(lines, path, value, at, alone)
    for one in lines:
        for other in lines:
            apart = set(differences(one.settings, other.settings)) - FACTS
            assert apart <= set(one.own) | set(other.own)
            assert not FACTS & set(one.own)


def test_a_change_for_one_line_alone_is_marked_and_outlives_changes_of_the_others():
    lines = step(order(), "white.choke_mm", 0.5, 1, alone=True)
    assert [line.own for line in lines] == [(), ("white.choke_mm",), ()]
    lines = step(lines, "white.choke_mm", 0.1, 0, alone=False)
    assert [line.settings.white.choke_mm for line in lines] == [0.1, 0.5, 0.1]
    lines = step(lines, "white.choke_mm", 0.6, 1, alone=False)
    assert [line.settings.white.choke_mm for line in lines] == [0.1, 0.6, 0.1], "what is its own stays its own"


@pytest.mark.parametrize("path", sorted(set(VALUES) - FACTS))
def test_what_is_put_back_is_what_the_order_has(path):
    before = order()
    lines = step(before, path, VALUES[path][1], 2, alone=True)
    back = put_back(lines[2], path, lines[:2])
    assert back == before[2]


def test_what_a_line_is_stays_with_it():
    lines = step(order(), "garment", (200, 30, 30), 0, alone=False)
    assert [line.settings.garment for line in lines[1:]] == [NAVY, WHITE]
    assert lines[0].own == ()


def test_a_crop_keeps_the_scale_of_every_line():
    lines = order()
    before = lines[0]
    cropped = replace(
        before.settings, placement=replace(before.settings.placement, crop=(0, 0, 50, 50)), width_mm=100.0
    )
    line, others = carried(before, replace(before, settings=cropped), lines[1:], alone=True)
    assert line.own == (), "artwork is cropped everywhere"
    assert [other.settings.width_mm for other in others] == [100.5, 101.0]
    assert all(other.settings.placement == cropped.placement for other in others)


def test_a_new_line_has_nothing_of_its_own():
    line = replace(order()[0], own=("gamut",), goods=Goods("Black tee", size="M"))
    assert like(line, quantity=4).own == ()
    assert at_path(like(line, quantity=4).settings, "quantity") == 4


def test_lines_of_the_same_print_share_their_plan():
    line = order()[0]
    other = replace(line, settings=replace(line.settings, quantity=40, drop_mm=99.0), goods=Goods(size="XL"))
    assert line.planned == other.planned


@pytest.mark.parametrize(
    ("rgb", "kind"),
    [(BLACK, "dark"), (NAVY, "dark"), ((163, 32, 40), "dark"), ((36, 72, 160), "dark"), ((128, 128, 130), "mid"),
     ((242, 206, 60), "mid"), ((150, 192, 226), "pastel"), ((232, 160, 178), "pastel"), ((205, 205, 203), "light"),
     ((224, 212, 186), "light"), (WHITE, "light")],
)  # fmt: skip
def test_garments_are_classed_as_the_trade_calls_them(rgb, kind):
    """Ash and natural are light, light blue and pink pastel, grey and yellow mid: common practice, no source."""
    assert goods_class(rgb) == kind
