"""Where every way loses the same colour, the next that differs is told."""

from decimal import Decimal

import numpy as np
import pytest

from swaddon.core.plan.outcome import Outcome, Shift
from swaddon.core.plan.variants import differing_colour

A, B, C = (0, 255, 0), (200, 30, 40), (20, 40, 90)


def outcome(**colours: float) -> Outcome:
    names = {"a": A, "b": B, "c": C}
    shifts = sorted((Shift(names[name], 0.3, off) for name, off in colours.items()), key=lambda item: -item.delta_e)
    picture = np.zeros((1, 1, 3), np.uint8)
    return Outcome(picture, (), Decimal(1), "EUR", 1.0, 1.0, 0.0, False, None, tuple(shifts), ())


@pytest.mark.parametrize(
    ("ways", "told"),
    [
        ([{"a": 63.27, "b": 4.0, "c": 2.0}, {"a": 63.3, "b": 9.0, "c": 2.1}, {"a": 63.27, "b": 4.1, "c": 5.0}], B),
        ([{"a": 9.0, "b": 4.0, "c": 2.0}, {"a": 9.1, "b": 4.1, "c": 6.0}], C),
        ([{"a": 9.0, "b": 4.0}, {"a": 12.0, "b": 4.0}], None),
        ([{"a": 9.0, "b": 4.0}, {"b": 12.0, "a": 4.0}], None),
        ([{"a": 9.0, "b": 4.0}, {"a": 9.0, "b": 4.0}], None),
        ([{"a": 9.0}], None),
        ([], None),
        ([{}, {"a": 3.0}], None),
    ],
)  # fmt: skip
def test_the_next_that_differs(ways, told):
    assert differing_colour([outcome(**way) for way in ways]) == told
