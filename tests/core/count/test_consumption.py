"""Amounts, money and time, with the trade's worked examples through the real code."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from swaddon.core.count.consumption import Material, amount_text, materials_of, powder_g, total_cost
from swaddon.core.count.measure import measure
from swaddon.core.count.money import money_text, places, rounded, shares
from swaddon.core.count.timing import non_empty_bands, print_time, sheet_time_s
from swaddon.core.press.profile import Carriage, Phase, Powder, Supply
from swaddon.core.units import MM_PER_INCH
from swaddon.io import profiles

FILM, DIRECT = profiles.shipped("film"), profiles.shipped("direct")
SQUARE_INCH_M2 = (MM_PER_INCH / 1000) ** 2


def worked(ink_ml: float, powder: float) -> Decimal:
    """10 × 10 in of film, ink and powder at the example's prices, waste left out as it leaves it out."""
    film = Supply("Film", "m²", Decimal("0.0024") / Decimal(repr(SQUARE_INCH_M2)), 0.0)
    ink = Supply("Ink", "ml", Decimal("0.14"), 0.0)
    grains = Supply("Powder", "g", Decimal("0.07"), 0.0)
    return total_cost(
        [
            Material("film", "film", 100 * SQUARE_INCH_M2, film),
            Material("ink", "colour", ink_ml, ink),
            Material("powder", "powder", powder, grains),
        ]
    )


def test_the_trades_worked_example():
    """Common practice, no source: 1.96 ml ink and 2.51 g powder on 10 × 10 in cost 0.69."""
    assert rounded(worked(1.96, 2.51)) == Decimal("0.69")


def test_solid_white_costs_what_the_trade_says_and_white_by_need_saves_a_sixth():
    """Common practice, no source: 41 % more ink, 15 % more powder → 0.83; by need saves 16.7 % of it."""
    need, solid = worked(1.96, 2.51), worked(1.96 * 1.41, 2.51 * 1.15)
    assert rounded(solid) == Decimal("0.83")
    assert float((solid - need) / solid) == pytest.approx(0.167, abs=0.001)


def test_dropping_black_saves_about_thirty_percent():
    """Common practice, no source: 48 % less ink, 42 % less powder → 0.48 to 0.49, 30 % less than 0.69."""
    less = worked(1.96 * 0.52, 2.51 * 0.58)
    assert Decimal("0.48") <= rounded(less) <= Decimal("0.49")
    assert float(1 - less / worked(1.96, 2.51)) == pytest.approx(0.30, abs=0.01)


def full_square(side: int, cmyk=(255, 0, 0, 0), white: int = 255):
    ink = np.zeros((side, side, 4), np.uint8)
    ink[...] = cmyk
    return measure(ink, np.full((side, side), white, np.uint8), 300.0)


def test_ink_is_coverage_times_area_times_lay_down():
    """3000 px at 300 ppi are 254 mm: 0.064516 m² of full cyan at 17 ml/m² are 1.0968 ml; white has two hits."""
    lines = {line.kind: line.amount for line in materials_of(full_square(3000), FILM)}
    assert lines["colour"] == pytest.approx(0.064516 * 17, rel=1e-6)
    assert lines["white"] == pytest.approx(0.064516 * 27 * 2, rel=1e-6)
    assert lines["film"] == pytest.approx(0.264**2, rel=1e-6)
    assert lines["powder"] == pytest.approx(52 * 0.064516 + 0.18 * (lines["white"] + lines["colour"]), rel=1e-6)


def test_direct_without_white_needs_no_pretreat():
    with_white = {line.kind: line.amount for line in materials_of(full_square(100), DIRECT)}
    without = {line.kind: line.amount for line in materials_of(full_square(100, white=0), DIRECT)}
    assert with_white["pretreat"] > 0
    assert without["pretreat"] == 0
    assert without["white"] == 0


def test_the_other_school_pretreats_light_garments_like_dark_ones():
    always = replace(DIRECT, pretreat=replace(DIRECT.pretreat, only_under_white=False))
    light = {line.kind: line.amount for line in materials_of(full_square(100, white=0), always)}
    dark = {line.kind: line.amount for line in materials_of(full_square(100), DIRECT)}
    assert light["pretreat"] == dark["pretreat"] > 0
    assert not profiles.shipped("direct-highlight").pretreat.only_under_white


def test_nothing_printed_costs_nothing():
    measures = full_square(50, cmyk=(0, 0, 0, 0), white=0)
    assert total_cost(materials_of(measures, FILM)) == 0
    assert print_time(measures, FILM.carriage).print_s == 0
    assert print_time(measures, FILM.carriage).shirts_per_hour == 0


@given(st.lists(st.floats(0, 50), min_size=1, max_size=5))
def test_parts_sum_to_the_total_to_the_last_digit(amounts):
    supply = Supply("Ink", "ml", Decimal("0.137"), 0.05)
    lines = [Material("ink", "colour", amount, supply) for amount in amounts]
    assert total_cost(lines) == sum((line.cost for line in lines), Decimal(0))


def test_what_is_bought_is_what_is_used_and_a_share_of_waste():
    """0.5 m² of film with 25 % of waste at 12 a m²: 0.625 m², 7.50."""
    film = Material("Film", "film", 0.5, Supply("Film", "m²", Decimal(12), 0.25))
    assert film.bought == 0.625
    assert film.cost == Decimal("7.5")
    assert total_cost([film, film]) == Decimal(15)


def test_powder_needs_ink():
    powder = Powder(38, 0.5, Supply("Powder", "g", Decimal(1), 0.2))
    assert powder_g(powder, 1000, 0.0) == 0


def test_coverage_counts_pixels_exactly():
    ink = np.zeros((10, 10, 4), np.uint8)
    ink[:5, :, 1] = 255
    white = np.zeros((10, 10), np.uint8)
    white[:2] = 51
    measures = measure(ink, white, 300.0)
    assert measures.coverage == {"W": 0.04, "C": 0.0, "M": 0.5, "Y": 0.0, "K": 0.0, "H": 0.0}
    assert measures.printed_px == 50
    assert measures.white_px == 20
    assert measures.printed is not None
    assert (measures.printed.width, measures.printed.height) == (10, 5)


def test_bands_without_ink_are_skipped():
    rows = np.zeros(100, np.bool_)
    rows[5], rows[95] = True, True
    assert non_empty_bands(rows, 10.0) == 2
    assert non_empty_bands(np.ones(100, np.bool_), 33.4) == 3


def test_print_time_by_hand():
    """254 mm of full print, 25.4 mm head, 2 passes: 20 bands × (254 / 508 + 0.5) s + 10 s = 30 s."""
    carriage = Carriage(10, 25.4, 508, 0.5, (Phase("White", ("white",), 2), Phase("Colour", ("colour",), 1)))
    time = print_time(full_square(3000), carriage)
    assert [(phase.name, phase.bands) for phase in time.phases] == [("White", 20), ("Colour", 10)]
    assert time.print_s == pytest.approx(10 + 20 + 10)
    assert time.shirts_per_hour == pytest.approx(90)


def test_no_white_about_halves_the_time_or_better_when_white_goes_first():
    """Common practice, no source: white off saves about half the print time and more on such machines."""
    dark, light = (print_time(full_square(3000, white=white), DIRECT.carriage).print_s for white in (255, 0))
    assert 0.3 < light / dark < 0.6


def test_dark_takes_three_times_the_print_time_of_light():
    """Common practice, no source: 169 s against 57 s for the same picture of 10 × 10 in, white and colour in turn."""
    dark, light = (print_time(full_square(3000, white=white), DIRECT.carriage).print_s for white in (255, 0))
    assert dark == pytest.approx(169, rel=0.03)
    assert light == pytest.approx(57, rel=0.03)


def test_one_way_takes_twice_the_travel_and_a_second_pass_is_fed_again():
    """The carriage's way back: 20 bands × 0.5 s more for each phase's travel, by hand."""
    both = Carriage(10, 25.4, 508, 0.5, (Phase("White", ("white",), 2),))
    one = replace(both, one_way=True)
    assert print_time(full_square(3000), one).print_s - print_time(full_square(3000), both).print_s == pytest.approx(10)
    again = replace(both, refeed_s=6.0)
    assert print_time(full_square(3000), again).print_s - print_time(full_square(3000), both).print_s == 6


def test_time_of_a_whole_sheet_by_hand():
    """254 mm of rows, half of them empty: 10 bands of white, twice for two hits by one slot, 5 of colour, 1 s each."""
    phases = (Phase("White", ("white",), 2), Phase("Colour", ("colour",), 1))
    slots = tuple(slot for slot in DIRECT.slots if slot.role == "colour" or slot == DIRECT.white_slots[0])
    carriage = Carriage(10, 25.4, 508, 0.5, phases, refeed_s=6.0)
    press = replace(DIRECT, carriage=carriage, slots=slots, white=replace(DIRECT.white, hits=(1.0, 1.0)))
    rows = np.zeros(3000, np.bool_)
    rows[:1500] = True
    assert sheet_time_s(press, rows, 254.0, 300.0, has_white=True) == pytest.approx(16 + 2 * 10 + 5)
    assert sheet_time_s(press, rows, 254.0, 300.0, has_white=False) == pytest.approx(16 + 5)
    one_way = replace(press, carriage=replace(press.carriage, one_way=True))
    assert sheet_time_s(one_way, rows, 254.0, 300.0, has_white=False) == pytest.approx(16 + 5 * 1.5)
    assert sheet_time_s(press, np.zeros_like(rows), 254.0, 300.0, has_white=True) == 0


@pytest.mark.parametrize(
    ("amount", "unit", "text"),
    [
        (0.0596, "m²", "596 cm²"), (1.234, "ml", "1.23 ml"), (0.0134, "g", "0.013 g"), (0.0999, "ml", "0.10 ml"),
        (0.0, "g", "0.00 g"), (-0.02, "ml", "-0.020 ml"),
    ],
)  # fmt: skip
def test_small_amounts_are_told_to_a_thousandth(amount, unit, text):
    assert amount_text(amount, unit) == text


@pytest.mark.parametrize(
    ("value", "text"),
    [
        ("0", "0.00"),
        ("0.0041", "0.0041"),
        ("0.0234", "0.0234"),
        ("0.69", "0.69"),
        ("12.345", "12.35"),
        ("0.00003", "0.00003"),
        ("0.0150", "0.015"),
    ],
)
def test_money_is_told_to_the_digits_that_matter(value, text):
    assert money_text(Decimal(value)) == text


@given(st.lists(st.decimals("0.00001", "50", places=7), min_size=1, max_size=8))
@example([Decimal("0.005"), Decimal("0.0950001")])
def test_parts_sum_to_the_total_shown_and_none_shows_as_nothing(parts):
    total = sum(parts, Decimal(0))
    decimals = places(total, parts)
    shown = shares(parts, decimals)
    assert sum(shown) == rounded(total, decimals)
    assert all(abs(one - part) < Decimal(1).scaleb(-decimals) for one, part in zip(shown, parts, strict=True))
    assert all(one > 0 for one in shown)


def test_a_tiny_print_shows_its_cost_and_keeps_it_exact(make):
    from swaddon.core.plan.report import plan_report
    from swaddon.session.tally import tally_lines

    art = np.zeros((40, 40, 4), np.uint8)
    art[10:30, 10:30] = (200, 30, 40, 255)
    plan = make(art, "direct")
    report = plan_report(plan)
    exact = Decimal(report["cost"]["total_exact"])
    assert exact == sum(Decimal(line["cost_exact"]) for line in report["materials"]) == total_cost(plan.materials)
    assert sum(Decimal(line["cost"]) for line in report["materials"]) == Decimal(report["cost"]["total"])
    line = next(line for line in tally_lines(plan, None) if line.key == "cost")
    assert Decimal(line.value.split()[0]) > 0
    parts = [Decimal(text.removeprefix("+ ").split()[0]) for text in line.arithmetic[:-1]]
    assert sum(parts) == Decimal(line.value.split()[0])
