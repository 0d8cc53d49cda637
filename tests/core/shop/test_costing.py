"""What one piece costs: the trade's worked figures through the real code, sums, scale, and prices that make no plan."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge

from swaddon.core.colour.spaces import Rgb
from swaddon.core.count.consumption import materials_of, total_cost
from swaddon.core.count.measure import measure
from swaddon.core.count.money import rounded
from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.book import PAGE_M2, Book, Price, own_supplies, page_g, with_prices
from swaddon.core.shop.costing import PRINT_KINDS, costing
from swaddon.core.shop.rule import Counted, right_rate, thumb
from swaddon.core.shop.sureness import cost_slopes, cost_spread, sureness, value_of
from swaddon.core.shop.used import used_by
from swaddon.io import profiles
from swaddon.io.supplies import shipped_book
from swaddon.io.weighings import weighed_profile

FILM, DIRECT, TONER = (profiles.shipped(name) for name in ("film", "direct", "toner-onepass"))
NO_BOOK = Book()


def euro(item: str, price: str, size: str = "1", unit: str = "piece", of: str = "", currency: str = "EUR") -> Price:
    return Price(item, Decimal(price), Decimal(size), unit, currency, of)


def square(side_px: int, ppi: float, share: float = 1.0, white: float = 1.0, colour: float = 1.0):
    """Counts of a square, so much of its rows printed."""
    rows = round(side_px * share)
    ink, plane = np.zeros((side_px, side_px, 4), np.uint8), np.zeros((side_px, side_px), np.uint8)
    ink[:rows, :, 0], plane[:rows] = round(255 * colour), round(255 * white)
    return measure(ink, plane, ppi)


WORKED = Book(
    (
        euro("white ink", "0.14", "1", "ml"), euro("colour ink", "0.14", "1", "ml"),
        euro("film", "0.0024", "1", "sq in"), euro("powder", "0.07", "1", "g"),
    )
)  # fmt: skip


def worked_press(white: float, colour: float, area: float, by_ink: float) -> PressProfile:
    """A film press with constants given, without waste and margin, at the prices of the worked example."""
    press = replace(FILM, lay_down_per_m2=dict.fromkeys("CMYK", colour) | {"W": white})
    assert press.powder is not None
    assert press.film is not None
    powder = replace(press.powder, per_area_g_m2=area, per_ink_g_ml=by_ink)
    bare = replace(press, powder=powder, film=replace(press.film, margin_mm=0.0))
    priced = with_prices(WORKED, bare)
    assert priced.powder is not None
    assert priced.film is not None
    return replace(
        priced,
        white_ink=replace(priced.white_ink, waste_share=0.0),
        colour_ink=replace(priced.colour_ink, waste_share=0.0),
        powder=replace(priced.powder, supply=replace(priced.powder.supply, waste_share=0.0)),
        film=replace(priced.film, supply=replace(priced.film.supply, waste_share=0.0)),
    )


PX, PPI = 1000, 100.0
"""10 × 10 in."""


def test_the_trades_worked_example_through_press_and_prices():
    """Common practice, no source: 10 × 10 in, 64 % printed, 1.96 g ink, 2.51 g powder: 0.24 + 0.27 + 0.18 = 0.69."""
    area = 0.64 * 0.064516
    press = worked_press(0.0, 1.96 / area, 2.51 / area, 0.0)
    art = square(PX, PPI, 0.64, white=0.0)
    full = replace(art, printed=replace(art.printed, right=PX, bottom=PX))
    made = costing(used_by(full, press), press, NO_BOOK)
    parts = [made.cost_of(kind) for kind in ("film", "colour", "powder")]
    assert [str(rounded(part)) for part in parts] == ["0.24", "0.27", "0.18"]
    assert str(rounded(made.of_print)) == "0.69"


@pytest.mark.parametrize(("ink", "powder"), [(1.41, 1.15), (0.52, 0.58)])
def test_solid_white_and_black_left_out_cost_what_the_trade_says(ink, powder):
    """Common practice, no source: 41 % more ink and 15 % more powder → 0.83; 48 and 42 % less → 0.48 to 0.49."""
    area = 0.64 * 0.064516
    art = square(PX, PPI, 0.64, white=0.0)
    full = replace(art, printed=replace(art.printed, right=PX, bottom=PX))
    base, other = (
        costing(used_by(full, press), press, NO_BOOK).of_print
        for press in (
            worked_press(0.0, 1.96 / area, 2.51 / area, 0.0),
            worked_press(0.0, 1.96 * ink / area, 2.51 * powder / area, 0.0),
        )
    )
    if ink > 1:
        assert str(rounded(other)) == "0.83"
        assert float((other - base) / other) == pytest.approx(0.167, abs=0.001)
    else:
        assert Decimal("0.48") <= rounded(other) <= Decimal("0.49")
        assert float(1 - other / base) == pytest.approx(0.30, abs=0.01)


def test_the_rule_of_thumb_by_its_own_figures():
    """Common practice, no source: 0.7 cent per square inch; 10 × 10 in make 0.70, where 0.69 is right."""
    found = thumb(Counted(100.0, Decimal("0.69")))
    assert found is not None
    assert found.price == Decimal("0.7")
    assert found.error == pytest.approx(0.0145, abs=0.001)
    assert found.own_rate == Decimal("0.0069")
    mix = [Counted(100.0, Decimal("0.69"), 3), Counted(50.0, Decimal("0.10"), 1)]
    assert right_rate(mix) == (Decimal("2.07") + Decimal("0.10")) / Decimal(350)
    assert right_rate([]) is None
    assert thumb(Counted(100.0, Decimal(0))) is None


def test_dark_costs_five_to_six_times_the_ink_of_light(make):
    """Common practice, no source: the same picture direct on black, white under all of it, and on white without."""
    art = badge(600)

    def ink(garment: Rgb, mode: str) -> float:
        from swaddon.core.white.settings import WhiteSettings

        plan = make(art, "direct", garment=garment, width_mm=254.0, white=WhiteSettings(mode=mode))
        return sum(float(item.cost) for item in plan.materials if item.kind in ("white", "colour"))

    assert 5 <= ink((20, 20, 22), "solid") / ink((250, 250, 248), "none") <= 6


def test_the_film_demo_press_is_of_the_class_of_the_worked_example():
    """Within 20 % of 1.96 ml and 2.51 g where 64 % is printed, with two thirds of solid white (assumed)."""
    art = square(PX, PPI, 0.64, white=0.62, colour=1.0)
    amounts = {item.kind: item.amount for item in materials_of(art, FILM)}
    assert amounts["white"] + amounts["colour"] == pytest.approx(1.96, rel=0.2)
    assert amounts["powder"] == pytest.approx(2.51, rel=0.2)


@given(
    st.floats(10, 1000),
    st.sampled_from(["EUR", "JPY", "USD", "KWD"]),
    st.decimals("0.0001", "500", places=4),
    st.sampled_from([FILM, DIRECT, TONER]),
)
def test_parts_sum_to_the_total_at_every_size_and_in_every_currency(size_mm, currency, price, press):
    supplies = [euro(item, str(price), "3", supply.unit, "", currency) for item, supply in own_supplies(press)]
    units = {"m²": "m²", "set": "set"}
    supplies = [replace(item, unit=units.get(item.unit, item.unit)) for item in supplies]
    extras = [
        euro("garment", str(price), "7", "piece", "", currency), euro("labour", "21", "1", "h", "", currency),
        euro("packaging", "1", "3", "piece", "", currency), euro("energy", "0.3", "1", "kWh", "", currency),
        euro("machine", "2", "1", "h", "", currency), euro("cover sheet", "1", "9", "press", "", currency),
    ]  # fmt: skip
    book = Book((*supplies, *extras))
    priced = with_prices(book, press)
    made = costing(used_by(square(100, 100 / size_mm * 25.4, 0.7), priced), priced, book)
    assert made.currency == currency
    assert made.total == sum((part.cost for part in made.parts), Decimal(0))
    assert made.of_print == total_cost(used_by(square(100, 100 / size_mm * 25.4, 0.7), priced).materials)
    assert all(part.cost >= 0 and part.formula[-1].startswith("= ") for part in made.parts)
    assert {part.kind for part in made.parts} >= {"white", "colour", "garment", "labour", "energy", "spoilage"}


def test_twice_the_size_takes_four_times_the_ink(make):
    """Within 1 %, on pixels that are drawn anew at each size."""
    art = badge(900)
    small, large = (make(art, "film", width_mm=width) for width in (60.0, 120.0))
    for kind in ("white", "colour"):
        ink = [sum(item.amount for item in plan.materials if item.kind == kind) for plan in (small, large)]
        assert ink[1] / ink[0] == pytest.approx(4, rel=0.01)


def test_no_price_makes_a_plan(make):
    """Other prices, waste and figures of the shop: every stage keeps its key, so nothing is worked out anew."""
    dear = replace(
        with_prices(
            replace(WORKED, prices=tuple(replace(item, pack_price=Decimal(9)) for item in WORKED.prices)), FILM
        ),
        working=replace(FILM.working, spoilage_share=0.5, pieces_per_day=3),
    )
    one, other = make(badge(200), FILM), make(badge(200), dear)
    assert total_cost(other.materials) > 5 * total_cost(one.materials)
    money = {key for key in one.keys if one.keys[key] != other.keys[key]}
    assert money <= {"findings"}
    assert np.array_equal(one.cmyk, other.cmyk)
    assert np.array_equal(one.white_plane, other.white_plane)


def test_every_part_is_what_its_formula_says():
    """Each part recomputed from plain numbers."""
    art = square(PX, PPI, 0.5)
    book = shipped_book()
    made = costing(used_by(art, FILM), FILM, book)
    area = 0.5 * 0.064516
    white, colour = area * 2 * 27, area * 17
    powder = area * 52 + 0.18 * (white + colour)
    film = (0.254 + 0.01) * (0.127 + 0.01)
    hands = 10 + 12 + 6 + 38 + 22 + 18
    expected = {
        "white": white * 1.05 * 0.085, "colour": colour * 1.05 * 0.075, "powder": powder * 1.2 * 0.035,
        "film": film * 1.25 * 2.40, "upkeep": (7.5 * 0.085 + 4.0 * 0.075) / 60, "cover": 11.40 / 600, "garment": 3.85,
        "labour": hands / 3600 * 21, "energy": 0.129 * 0.31, "packaging": 0.045,
        "machine": used_by(art, FILM).print_s / 3600 * 2.4,
    }  # fmt: skip
    for kind, cost in expected.items():
        assert float(made.cost_of(kind)) == pytest.approx(cost, rel=1e-9), kind
    assert float(made.cost_of("spoilage")) == pytest.approx(sum(expected.values()) * 0.02 / 0.98, rel=1e-9)
    assert {part.kind for part in made.parts} == {*expected, "spoilage"}
    film_part = next(part for part in made.parts if part.kind == "film")
    assert film_part.formula[0] == "Length (127.0 + 2 × 5) mm × width (254.0 + 2 × 5) mm"


def test_what_has_no_price_is_not_counted_and_nothing_printed_costs_nothing():
    made = costing(used_by(square(PX, PPI), FILM), FILM, NO_BOOK)
    assert {part.kind for part in made.parts} == {"white", "colour", "film", "powder", "upkeep", "spoilage"}
    empty = costing(used_by(square(50, 100.0, 0.0), FILM), FILM, shipped_book())
    assert empty.total == 0
    assert empty.spread.largest is None
    assert {part.kind for part in empty.parts} <= set(PRINT_KINDS)


def test_toner_is_priced_by_the_pages_that_its_yield_is_stated_in():
    """ISO/IEC 19798: A4 at 5 %; 3000 such pages of 4.5 g/m² hold 42.1 g."""
    assert float(page_g(TONER, "colour ink")) == pytest.approx(0.05 * PAGE_M2 * 4.5)
    book = Book((euro("colour ink", "84.20", "3000", "page"),))
    press = with_prices(book, TONER)
    assert float(press.colour_ink.unit_price) == pytest.approx(84.20 / 3000 / (0.05 * 0.21 * 0.297 * 4.5))
    assert press.white_ink == TONER.white_ink
    made = costing(used_by(square(PX, PPI), press), press, NO_BOOK)
    part = next(part for part in made.parts if part.kind == "colour")
    assert "pages of 5 % coverage (ISO/IEC 19798)" in "\n".join(part.formula)


def test_the_nearest_row_of_the_table_counts():
    book = Book(
        (
            euro("machine", "1"), euro("machine", "2", of="direct"), euro("machine", "3", of="direct-highlight"),
            euro("garment", "4"), euro("garment", "9", of="Charcoal hoodie"),
        )
    )  # fmt: skip
    assert book.price("machine", "direct-highlight", "direct").pack_price == 3
    assert book.price("machine", "direct", "direct").pack_price == 2
    assert book.price("machine", "film", "film").pack_price == 1
    assert book.price("garment", "charcoal hoodie").pack_price == 9
    assert book.price("garment", "Black tee").pack_price == 4
    assert book.price("labour") is None
    assert book.with_price(euro("garment", "5")).price("garment").pack_price == 5
    assert len(book.with_price(euro("labour", "5")).prices) == 6


def test_prices_that_do_not_fit_a_press_are_refused_in_one_sentence():
    with pytest.raises(PlanError, match="by ml, but toner-onepass counts it in g"):
        with_prices(Book((euro("white ink", "1", "1", "ml"),)), TONER)
    with pytest.raises(PlanError, match="supplies are in USD, the press film in EUR, and there is no price of film"):
        with_prices(
            Book(
                (euro("white ink", "1", "1", "l", "", "USD"), euro("colour ink", "1", "1", "l", "", "USD")),
            ),
            FILM,
        )


# how sure it is


@pytest.mark.parametrize("press", [FILM, DIRECT, TONER], ids=lambda press: press.name)
def test_the_interval_of_a_cost_is_that_of_its_constants_drawn_at_random(press):
    """Monte Carlo: constants drawn from their spreads, each print counted anew by the materials' own code."""
    art, chance = square(200, 100.0, 0.6, white=0.8), np.random.default_rng(2)
    small = _weighed(press, 0.08)
    sure = sureness(small)
    costs = []
    for _ in range(1500):
        drawn = np.exp(chance.multivariate_normal(np.zeros(len(sure.keys)), sure.covariance)).tolist()
        costs.append(float(total_cost(materials_of(art, _with(small, dict(zip(sure.keys, drawn, strict=True)))))))
    assert cost_spread(used_by(art, small), small).pm == pytest.approx(1.96 * np.std(costs), rel=0.1)


def _weighed(press: PressProfile, sd: float) -> PressProfile:
    """A press whose constants are known to so much, white and colour together less well than their sum."""
    sure = sureness(press)
    size = len(sure.keys)
    covariance = np.eye(size) * sd**2
    covariance[0, 1] = covariance[1, 0] = -0.6 * sd**2
    found = [replace(item, log_sd=sd) for item in sure.constants]
    import datetime

    text = weighed_profile(press, found, covariance, "test", datetime.date(2026, 11, 28))
    return profiles.parse(text, press.name)


def _with(press: PressProfile, factors: dict[str, float]) -> PressProfile:
    """The press with constants multiplied."""
    lay_down = {
        ink: amount * factors.get(f"lay_down_{press.ink_unit}_m2.{ink}", 1.0)
        for ink, amount in press.lay_down_per_m2.items()
    }
    out = replace(press, lay_down_per_m2=lay_down)
    if out.powder is not None:
        area, ink = (factors[f"supplies.powder.{name}"] for name in ("per_area_g_m2", "per_ink_g_ml"))
        powder = replace(
            out.powder, per_area_g_m2=out.powder.per_area_g_m2 * area, per_ink_g_ml=out.powder.per_ink_g_ml * ink
        )
        out = replace(out, powder=powder)
    if out.pretreat is not None:
        amount = out.pretreat.amount_per_m2 * factors["supplies.pretreat.per_area"]
        out = replace(out, pretreat=replace(out.pretreat, amount_per_m2=amount))
    return out


@pytest.mark.parametrize("press", [FILM, DIRECT, TONER], ids=lambda press: press.name)
def test_slopes_of_a_cost_are_those_of_the_materials(press):
    """Against finite differences through the materials' own code."""
    art = square(200, 100.0, 0.6, white=0.8)
    keys = sureness(press).keys
    slopes = sum(cost_slopes(used_by(art, press), press, keys).values())
    base = float(total_cost(materials_of(art, press)))
    for at, key in enumerate(keys):
        factors = dict.fromkeys(keys, 1.0) | {key: float(np.exp(1e-5))}
        more = float(total_cost(materials_of(art, _with(press, factors))))
        assert slopes[at] == pytest.approx((more - base) / 1e-5, rel=1e-3, abs=1e-9)


def test_the_largest_part_of_the_spread_is_named():
    """With white all over a film print it is white's lay-down; once that is known it is something else."""
    art = square(200, 100.0)
    spread = cost_spread(used_by(art, FILM), FILM)
    assert spread.largest is not None
    assert spread.largest.constant == "lay_down_ml_m2.W"
    assert 0.5 < spread.largest_share <= 1
    assert value_of(FILM, "lay_down_ml_m2.W") == 27
    text = FILM.source + '\n[[stated]]\nconstant = "lay_down_ml_m2.W"\nsource = "maker’s figure"\npercent = 1\n'
    known = cost_spread(used_by(art, FILM), profiles.parse(text, "film"))
    assert known.pm < spread.pm
    assert known.largest is not None
    assert known.largest.constant != "lay_down_ml_m2.W"


def test_a_piece_is_as_large_as_its_artboard_and_charged_by_its_film():
    """600 pixels at 300 ppi are two inches: 50.8 mm, and four square inches; film has a margin round them."""
    used = used_by(square(600, 300.0), FILM)
    assert (used.width_mm, used.height_mm) == (pytest.approx(50.8), pytest.approx(50.8))
    assert used_by(square(600, 300.0), profiles.shipped("direct")).square_inches == pytest.approx(4.0)
    assert used.square_inches == pytest.approx((2 + 2 * FILM.film.margin_mm / 25.4) ** 2)
