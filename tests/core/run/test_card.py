"""The run card: steps in the order of the work, the two schools, figures, and heat that the goods do not bear."""

from dataclasses import replace

import pytest

from swaddon.core.findings.press import heat_findings
from swaddon.core.order.at_press import AtPress
from swaddon.core.order.lines import Goods, OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.processes import PROCESSES
from swaddon.core.run.card import Gets, run_card
from swaddon.core.units import fahrenheit_from_c
from swaddon.io import profiles
from swaddon.io.garments import shipped_garments


def line(**at_press) -> OrderLine:
    return OrderLine(PlanSettings(at_press=AtPress(**at_press)), goods=Goods("Red jersey"))


def card(press="film", bears=None, finest=None, **at_press):
    return run_card(line(**at_press), profiles.shipped(press), 300.0, bears, finest)


def keys(made):
    return [step.key for step in made.steps]


def test_film_is_worked_in_the_order_of_the_trade():
    """Common practice, no source: pre-press 3 s, cool 15 s for warm peel, second press 7 to 10 s, oven 120 °C 120 s."""
    made = card()
    assert keys(made) == [
        "print", "powder", "oven", "pre-press", "place", "press", "cool-warm", "peel", "second-press", "wipe",
    ]  # fmt: skip
    assert made.step("pre-press").figures.time_s == 3
    assert made.step("oven").figures.temperature_c == 120
    assert made.step("oven").figures.time_s == 120
    assert made.step("cool-warm").figures.time_s == 15
    assert 7 <= made.step("second-press").figures.time_s <= 10
    assert card(peel="cold").step("cool-cold").figures.time_s == pytest.approx(120)


def test_a_direct_cure_is_the_trades():
    """45 s at 350 °F (177 °C): common practice, no source."""
    cure = card("direct").step("cure").figures
    assert cure.time_s == 45
    assert fahrenheit_from_c(cure.temperature_c) == pytest.approx(350, abs=1)


def test_the_schools_decide_which_steps_there_are():
    assert "second-press" not in keys(card(presses="once"))
    assert "cool-cold" in keys(card(peel="cold"))
    assert "cool-warm" not in keys(card(peel="cold"))
    cold = replace(profiles.shipped("film"), ways=(("peel", "cold"), ("presses", "once")))
    own = keys(run_card(line(), cold, 300.0))
    assert "cool-cold" in own
    assert "second-press" not in own
    for school, way in card().schools:
        assert way.right_when, school.title


def test_fine_work_is_rubbed_down():
    assert "rub" not in keys(card(finest=2.0))
    assert "rub" in keys(card(finest=0.3))


def test_the_print_is_placed_by_its_distance():
    """3 in below the collar: common practice, no source."""
    assert "76 mm below the collar, centred" in card().step("place").text
    made = run_card(line(), profiles.shipped("film"), 300.0, unit="in")
    assert "3 in below the collar" in made.step("place").text
    assert made.marks == ("Printed mirrored", "White last")
    assert card("decal").marks == ("Not mirrored", "White first")


@pytest.mark.parametrize("key", PROCESSES)
def test_every_figure_of_a_shipped_press_is_of_a_step_that_it_has(key):
    known = {step.key for step in PROCESSES[key].steps}
    for press in profiles.presses(key):
        assert {name for name, _ in press.steps} <= known, press.name


def test_heat_that_the_goods_do_not_bear_is_a_stop_with_a_cooler_setting():
    made = card("toner-onepass", bears=150.0)
    assert {conflict.step for conflict in made.conflicts} == {"press", "second-press"}
    settings = line().settings
    found = heat_findings(made, settings, "Red jersey")
    assert [(item.code, item.severity) for item in found] == [("press-too-hot", "stop")]
    assert "160 °C" in found[0].text
    assert "150 °C" in found[0].text
    mended = found[0].mend(settings)
    cooler = run_card(OrderLine(mended), profiles.shipped("toner-onepass"), 300.0, 150.0)
    assert cooler.conflicts == ()
    assert cooler.step("press").figures.temperature_c == 150
    assert cooler.step("press").figures.time_s > made.step("press").figures.time_s


def test_without_a_cooler_setting_there_is_no_fix():
    found = heat_findings(card("direct", bears=110.0), line().settings, "Red jersey")
    assert found[0].fix is None
    assert "no cooler setting" in found[0].text


@pytest.mark.parametrize("bears", [110.0, 130.0, 140.0, 150.0, 165.0, 177.0, 200.0])
@pytest.mark.parametrize("press", ["film", "direct", "toner-onepass", "toner-twopass"])
def test_a_fix_always_mends(press, bears):
    made = card(press, bears=bears)
    for found in heat_findings(made, line().settings, "it"):
        if found.fix is not None:
            mended = OrderLine(found.mend(line().settings))
            assert run_card(mended, profiles.shipped(press), 300.0, bears).conflicts == ()


def test_no_step_on_the_goods_gets_hotter_than_the_press_that_was_asked_for():
    for press in ("film", "toner-onepass"):
        for step in card(press, temperature_c=135.0).steps:
            assert not step.on_goods or (step.figures.temperature_c or 0) <= 135
    assert card(temperature_c=170.0).step("press").figures.temperature_c == 170
    assert card(time_s=22.0).step("press").figures.time_s == 22


def test_a_direct_print_is_cured_as_the_line_says():
    cure = card("direct", temperature_c=150.0).step("cure").figures
    assert (cure.temperature_c, cure.time_s) == (150, 120)
    assert card("direct", temperature_c=150.0).step("dry").figures.temperature_c == 150
    assert card("direct", time_s=60.0).step("cure").figures.time_s == 60
    assert card("direct").main.key == "cure"
    assert card("film").main.key == "press"
    assert card("decal").main is None


def test_film_and_polyester_of_the_shipped_library_agree():
    heat = {garment.name: garment.heat_c for garment in shipped_garments()}
    assert card("film", bears=heat["Red jersey"]).conflicts == ()
    assert card("direct", bears=heat["Red jersey"]).conflicts != ()


NONE, WHITE_ONLY, ALL = Gets(False, False), Gets(True, False), Gets(True, True)


def made(press: str, gets: Gets):
    return run_card(line(), profiles.shipped(press), 300.0, gets=gets)


def words(press: str, gets: Gets) -> str:
    return " ".join(step.text for step in made(press, gets).steps).lower()


@pytest.mark.parametrize("key", PROCESSES)
def test_a_piece_without_white_has_no_step_of_it(key):
    """White off once still said “powder the wet white” and “then white”."""
    press = next(press.name for press in profiles.presses(key) if press.has_white)
    assert "white" in words(press, ALL)
    assert "white" not in words(press, NONE)
    assert not any("hite" in mark for mark in made(press, NONE).marks)


def test_two_passes_without_white_are_one():
    assert "second-pass" in keys(made("toner-twopass", ALL))
    assert "second-pass" not in keys(made("toner-twopass", NONE))


def test_what_is_not_pretreated_is_neither_sprayed_nor_dried():
    assert {"pretreat", "dry"} <= set(keys(made("direct", ALL)))
    assert not {"pretreat", "dry"} & set(keys(made("direct", WHITE_ONLY)))
    assert "dry" in keys(made("decal", NONE)), "a decal is dried whatever lies under it"


def test_dots_of_a_screen_are_rubbed_down_whatever_they_come_from():
    assert "rub" not in keys(made("film", ALL))
    assert "rub" in keys(made("film", Gets(True, True, dots=True)))


def test_what_is_no_garment_has_no_collar():
    assert "collar" not in words("decal", ALL)
    assert "collar" in words("film", ALL)
