"""An order's lines as they are typed, pasted and edited; its plans; and the job file that holds them."""

from dataclasses import replace
from decimal import Decimal
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import artwork, badge

from swaddon.core.engine import Cache, Run
from swaddon.core.errors import PlanError
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.lines import Goods
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.io import profiles
from swaddon.io.garments import LibraryGarment, shipped_garments
from swaddon.io.print_areas import shipped_table
from swaddon.session import edits, order_edits, order_plans
from swaddon.session.demo import demo_job
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.line_list import ShopGoods, line_of, lines_of, read_lines
from swaddon.session.order_plans import OrderPlanner
from swaddon.session.order_report import order_report, order_table
from swaddon.session.order_tally import order_tally
from swaddon.session.session import Edit, Session
from swaddon.session.storage import open_job, save_job

TABLE = shipped_table()
GOODS = ShopGoods(shipped_garments(), TABLE)
FILM = profiles.shipped("film")
TEXT = "black,M,12\nblack,XL,3\nnavy,2XL,6\nwhite,S,10\nheather grey tee,L,4,back\nnatural canvas,,5,tote,60mm\n"


def job(text: str = TEXT, **settings: object) -> Job:
    base = Job(file=ArtworkFile(artwork(badge(120)), b""), settings=PlanSettings(**settings), profile=FILM)  # type: ignore[arg-type]
    return order_edits.add_lines(lines_of(text, GOODS), TABLE).made(base)


# typing


def test_lines_say_garment_size_pieces_place_and_print():
    made = job().lines
    assert [line.title for line in made] == [
        "Black tee M", "Black tee XL", "Navy tee 2XL", "White tee S", "Heather grey tee L back", "Natural canvas tote",
    ]  # fmt: skip
    assert [line.settings.quantity for line in made] == [12, 3, 6, 10, 4, 5]
    assert [line.settings.width_mm for line in made] == [280, 280, 320, 280, 290, 60]
    assert [line.goods.fit for line in made] == ["adult", "adult", "oversize", "adult", "adult", "own"]
    assert [line.shape for line in made] == ["shirt", "shirt", "shirt", "shirt", "back", "tote"]
    assert made[0].settings.drop_mm == 76.2, "3 in below the collar: common practice, no source"


def test_heads_tabs_and_semicolons_are_read_alike():
    plain = lines_of("Black tee,M,12,back", GOODS)
    assert plain == lines_of("Black tee\tm\t12\tBack", GOODS)
    assert plain == lines_of("Garment;Pieces;Place;Size\nblack tee;12;back;M", GOODS)
    assert plain == (line_of("black tee:M:12:back", GOODS),)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "there is no line"),
        ("garment,size,quantity\n", "there is no line"),
        ("black,M,12\nblack,M,-2\n", "row 2: quantity “-2” is not a whole number"),
        ("black,M,2.5\n", "row 1: quantity “2.5”"),
        ("black,M,0\n", "row 1: quantity “0”"),
        ("black,M," + "9" * 40, "row 1: quantity"),
        ("black,M\n", "row 1: quantity “”"),
        ("blakc,M,2\n", "row 1: “blakc” is no garment of the library"),
        (",M,2\n", "row 1: names no garment"),
        ("#12345,M,2\n", "row 1:"),
        ("garment,size,quantity\nblack,Q,2\n", "row 2: “Q” is no size of the table"),
        ("black,M,2,nose\n", "row 1: “nose” is no place"),
        ("black,M,2,front,huge\n", "row 1: print size “huge” is not youth"),
        ("black,M,2,front,9m\n", "row 1: print size “9m”"),
        ("\n".join(["black,M,2"] * 501), "more than 500"),
    ],
)
def test_a_bad_list_gets_one_sentence_with_the_row(tmp_path: Path, text, says):
    path = tmp_path / "lines.csv"
    path.write_text(text)
    with pytest.raises(PlanError) as error:
        read_lines(path, GOODS)
    assert says in str(error.value)


def test_a_name_that_may_be_two_is_asked_for_in_full():
    goods = ShopGoods((LibraryGarment("Black tee", (0, 0, 0)), LibraryGarment("Black hoodie", (9, 9, 9))), TABLE)
    with pytest.raises(ValueError, match="may be Black tee or Black hoodie"):
        goods.garment_named("black")
    assert goods.garment_named("black hoodie").rgb == (9, 9, 9)
    assert goods.garment_named("navy").rgb == (31, 41, 68), "a plain colour, where the library has none of that name"
    assert goods.garment_named("#123456") == LibraryGarment("", (18, 52, 86))


# edits


LINE_EDITS = st.lists(
    st.tuples(
        st.sampled_from(
            [
                lambda at: order_edits.set_quantity(at, 7),
                lambda at: order_edits.set_size(at, "3XL", TABLE),
                lambda at: order_edits.set_place(at, "sleeve", TABLE),
                lambda at: order_edits.set_fit(at, "youth", TABLE),
                lambda at: order_edits.set_garment(at, shipped_garments()[3]),
                lambda at: order_edits.set_width(at, 111.0),
                order_edits.remove_line,
                lambda _at: order_edits.repeat_line(),
                lambda _at: edits.change("white.choke_mm", 0.41),
                lambda _at: replace(edits.change("white.mode", "need"), alone=True),
                lambda _at: order_edits.put_back_all(),
            ]
        ),
        st.integers(0, 7),
        st.integers(0, 7),
    ),
    max_size=12,
)


@given(LINE_EDITS)
def test_undo_of_any_edit_of_lines_gives_the_identical_job_back(steps):
    session = Session(job())
    first = session.job
    for make, at, turn in steps:
        session.turn_to(turn)
        session.apply(make(at))
        assert 0 <= session.job.at < len(session.job.lines)
        assert len(session.job.lines) > 1 or session.job.own == ()
    while session.undo_label is not None:
        session.undo()
    assert session.job.is_same(first)
    assert session.job.lines == first.lines


def test_the_first_lines_take_the_place_of_an_order_that_was_never_itemised():
    plain = Job(file=ArtworkFile(artwork(badge(120)), b""), profile=FILM)
    made = order_edits.add_lines(lines_of("black,M,2", GOODS), TABLE).made(plain)
    assert len(made.lines) == 1
    assert made.goods == Goods("Black tee", "cotton", "M", "front", "adult")
    assert len(order_edits.add_lines(lines_of("navy,M,2", GOODS), TABLE).made(made).lines) == 2


def test_a_size_takes_its_print_size_along_and_a_width_of_its_own_stays():
    session = Session(job("black,M,2\nnavy,M,2"))
    session.apply(order_edits.set_size(1, "YS", TABLE))
    assert (session.job.lines[1].goods.fit, session.job.lines[1].settings.width_mm) == ("youth", 210)
    session.apply(order_edits.set_width(1, 100.0))
    session.apply(order_edits.set_size(1, "4XL", TABLE))
    assert (session.job.lines[1].goods.fit, session.job.lines[1].settings.width_mm) == ("own", 100.0)


def test_lines_that_were_entered_before_the_artwork_are_fitted_to_it_when_it_comes():
    session = Session(Job(profile=FILM))
    session.apply(order_edits.add_lines(lines_of("black,M,2\nnavy,2XL,3\nwhite,S,1,front,90mm", GOODS), TABLE))
    session.turn_to(2)
    tall = np.zeros((400, 200, 4), np.uint8) + np.uint8(200)
    session.apply(edits.place_artwork(ArtworkFile(artwork(tall), b""), FILM))
    assert [line.settings.width_mm for line in session.job.lines] == [175, 200, 90], (
        "350 and 400 mm high, as the table has it"
    )
    wide = artwork(np.ascontiguousarray(tall[:100]), content_id="wide")
    session.turn_to(1)
    session.apply(edits.place_artwork(ArtworkFile(wide, b""), FILM))
    assert [line.settings.width_mm for line in session.job.lines] == [280, 320, 90]
    session.undo()
    session.undo()
    assert session.job.file is None


def test_looking_at_another_line_is_no_step_and_no_change():
    session = Session(job())
    before = session.job
    seen = []
    session.changed.connect(lambda _job, changes: seen.append(changes.initiator))
    session.turn_to(3)
    assert session.job.line == before.lines[3]
    assert session.undo_label is None
    assert not session.is_changed
    assert seen == ["line"]
    session.turn_to(99)
    assert session.job.at == 5, "there is none further"


def test_undo_goes_back_to_the_line_that_was_changed():
    session = Session(job())
    session.turn_to(2)
    session.apply(order_edits.set_quantity(2, 99))
    session.turn_to(4)
    session.undo()
    assert session.job.at == 2


def test_another_garment_by_its_colour_is_none_of_the_library():
    session = Session(job("black,M,2"))
    session.apply(edits.set_garment((1, 2, 3)))
    assert (session.job.goods.name, session.job.line.garment_name) == ("", "black")


def test_too_many_lines_are_refused_and_nothing_is_lost():
    session = Session(job("\n".join(["black,M,2"] * 499)))
    with pytest.raises(ValueError, match="more than 500"):
        session.apply(order_edits.add_lines(lines_of("navy,M,1\nnavy,L,1", GOODS), TABLE))
    assert len(session.job.lines) == 499


def test_a_job_file_holds_the_order_with_its_own_settings(tmp_path: Path):
    session = Session(demo_job("club"))
    session.turn_to(2)
    session.apply(replace(edits.change("white.choke_mm", 0.5), alone=True))
    path = tmp_path / "club.swaddon"
    save_job(path, session.job)
    opened = open_job(path)
    assert opened.lines == session.job.lines
    assert opened.at == 2
    assert opened.lines[2].own == ("white.choke_mm",)
    assert Edit("", lambda item: item).made(opened) == opened


# plans


@pytest.mark.usefixtures("compiled")
def test_a_line_without_settings_of_its_own_is_the_same_job_planned_alone():
    """Bit for bit, cost and findings too; and the order is the sum of its lines."""
    whole = job("black,M,12,front,30mm\nnavy,L,5,front,30mm\nwhite,S,2,back,24mm\nblack,XL,1,front,30mm")
    planner, plans = OrderPlanner(), {}
    for _ in planner.work(whole, Run(Cache()), done=lambda line, plan: plans.update({line.title: plan})):
        pass
    assert list(plans) == ["Black tee M", "Navy tee L", "White tee S back"], "two black lines share their plan"
    for at, line in enumerate(whole.lines):
        alone = Job(file=whole.file, settings=line.settings, profile=whole.profile).request()
        assert alone is not None
        plan = make_plan(alone)
        outcome = planner.outcome(whole, line)
        assert outcome is not None
        assert outcome.cost == sum((item.cost for item in plan.materials), Decimal(0))
        assert [found.code for found in outcome.findings] == [found.code for found in plan.findings]
        if line.title in plans:
            assert np.array_equal(plans[line.title].white_plane, plan.white_plane)
            assert np.array_equal(plans[line.title].cmyk, plan.cmyk)
        assert whole.turned_to(at).request().settings == alone.settings
    order = planner.plan(whole, Run(Cache()))
    assert order.sum.cost == sum(
        line.settings.quantity * outcome.cost for line, outcome in zip(order.lines, order.outcomes, strict=True)
    )
    report = order_report(whole, order, None)
    assert sum(entry["quantity"] for entry in report["lines"]) == report["total"]["pieces"] == 20
    assert Decimal(report["total"]["cost_exact"]) == sum(
        Decimal(entry["cost"]) * entry["quantity"] for entry in report["lines"]
    )
    assert "Navy tee L" in order_table(order, None)
    tally = {line.key: line for line in order_tally(order)}
    parts = [Decimal(text.split()[-1]) for text in tally["cost"].arithmetic[:-1]]
    assert sum(parts) == Decimal(tally["cost"].value.split()[0]), "the parts told sum to the total told"


@pytest.mark.usefixtures("compiled")
def test_what_follows_the_garment_follows_it_on_every_line():
    whole = job("black,M,1,front,20mm\nwhite,M,1,front,20mm", knockouts=(Knockout(None, 6.0, "everywhere"),))
    black, white = (whole.turned_to(at).request() for at in (0, 1))
    assert black is not None
    assert white is not None
    assert black.settings.prints_design_white
    assert not white.settings.prints_design_white
    one, other = make_plan(black), make_plan(white)
    assert one.measures.removed_px == 0, "nothing black in the badge"
    assert other.measures.removed_px > 0, "its white ring goes on the white shirt"


def test_a_line_that_cannot_be_planned_is_told_and_the_others_are(monkeypatch, compiled):
    whole = job("black,M,1,front,20mm\nnavy,M,1,front,20mm")
    real = order_plans.planned

    def planned(job, settings, *rest):
        if settings.garment == whole.lines[0].settings.garment:
            raise PlanError("It is too wide.")
        return real(job, settings, *rest)

    monkeypatch.setattr(order_plans, "planned", planned)
    planner = OrderPlanner()
    assert len(list(planner.work(whole, Run(Cache())))) == 2
    assert planner.problem(whole, whole.lines[0]) == "It is too wide."
    assert planner.outcome(whole, whole.lines[1]) is not None
    planner.forget()
    with pytest.raises(PlanError, match="Black tee M: It is too wide"):
        planner.plan(whole, Run(Cache()))
