"""Test pages of presses that are not like the others: highlight white, no white, no black, two passes, white first."""

import pytest
from tests.seeds import outcome

from swaddon.io import profiles


@pytest.mark.parametrize("name", ["direct-highlight", "toner-colour", "toner-no-black", "toner-twopass", "decal"])
def test_a_page_of_an_unusual_press_is_read(name):
    press = profiles.shipped(name)
    made = next(made for seed in range(3) if (made := outcome(name, seed, 300.0)).is_whole)
    assert made.read["wiring"] == made.truth["wiring"]
    assert made.gain_off() < 0.02
    assert set(made.read["gain"]) == set(press.inks)
    if press.has_white:
        assert made.shift_off().max() < 0.02
        assert made.contrast_off() < 0.025
    else:
        assert made.read["shift_mm"] is None
        assert made.read["white_contrast_ratio"] is None
    assert made.read["blocked_nozzles"].keys() == (
        made.truth["blocked_nozzles"].keys() if press.ink_unit == "ml" else set()
    )
