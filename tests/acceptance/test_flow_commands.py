"""The flow of a day and the quote on the command line."""

import csv
import json
from decimal import Decimal
from pathlib import Path

import pypdf
import pytest
from tests.acceptance.test_command_line import run

from swaddon.io.shops import parse, read_shop, shipped_shop, write_shop
from swaddon.session.demo import demo_job
from swaddon.session.storage import open_job, save_job

ORDERS = "name,process,print_s,quantity,due\nRegatta,film,45,24,12:00\nHeron,direct,169,10,16:00\nChoir,direct,57,30,\n"
FIELDS = {"shirts_per_hour", "finish", "bottleneck", "resources", "late_share", "what_if"}


@pytest.fixture
def orders(tmp_path: Path) -> Path:
    path = tmp_path / "orders.csv"
    path.write_text(ORDERS, encoding="utf-8")
    return path


def test_a_day_is_told_and_is_the_same_for_the_same_seed(orders, capsys, tmp_path):
    given = ("flow", str(orders), "--seed", "3", "--runs", "20", "--json")
    code, text, err = run(*given, "--out", str(tmp_path / "bars.csv"), capsys=capsys)
    report = json.loads(text)
    assert (code, err) == (0, "")
    assert set(report) >= FIELDS
    assert report["pieces"] == 64
    assert {item["name"] for item in report["resources"]} >= {"printer", "heat-press", "hands", "oven", "pretreater"}
    assert all(0 <= item["use"] <= 1 for item in report["resources"])
    assert report["bottleneck"] == max(report["resources"], key=lambda item: item["use"])["name"]
    assert 0 <= report["late_share"] <= 1
    assert report["runs"] == 20
    rows = list(csv.DictReader((tmp_path / "bars.csv").read_text(encoding="utf-8").splitlines()))
    assert max(float(row["end_s"]) for row in rows) >= report["finish_s"] - 0.1
    assert run(*given, capsys=capsys)[1] == text
    assert run("flow", str(orders), "--seed", "4", "--runs", "0", "--json", capsys=capsys)[1] != text


def test_another_press_is_what_it_says_it_brings(orders, capsys):
    _, text, _ = run("flow", str(orders), "--runs", "0", "--json", capsys=capsys)
    gains = {item["resource"]: item for item in json.loads(text)["what_if"]}
    _, more, _ = run("flow", str(orders), "--runs", "0", "--set", "printer=2", "--json", capsys=capsys)
    assert json.loads(more)["shirts_per_hour"] == pytest.approx(gains["printer"]["shirts_per_hour"], rel=0.12)
    assert json.loads(more)["shirts_per_hour"] > json.loads(text)["shirts_per_hour"]
    _, plain, _ = run("flow", str(orders), "--runs", "5", capsys=capsys)
    assert "Bottleneck: printer" in plain
    assert "Start by" in plain


def test_a_spare_platen_prints_more_of_what_lies_on_one(tmp_path, capsys):
    path = tmp_path / "light.csv"
    path.write_text("name,process,print_s,quantity,pretreated\nlight,direct,57,60,no\n", encoding="utf-8")
    given = ("flow", str(path), "--runs", "0", "--json")
    without, spare = (
        json.loads(run(*given, *more, capsys=capsys)[1]) for more in ((), ("--set", "platen=2", "--set", "hands=3"))
    )
    assert spare["shirts_per_hour"] > without["shirts_per_hour"] + 5
    assert {item["name"] for item in spare["resources"]} - {item["name"] for item in without["resources"]} == {"platen"}
    assert all(0 <= item["use"] <= 1 for item in spare["resources"])


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("a,film,0,10,", "row 2: print_s is 0, it must be above 0"),
        ("a,film,-3,10,", "row 2: print_s is -3"),
        ("a,film,soon,10,", "row 2: print_s “soon” is no number"),
        ("a,film,40,0,", "row 2: quantity is 0"),
        ("a,film,40,2.5,", "row 2: quantity is 2.5, it must be a whole number"),
        ("a,film,40,,", "row 2: quantity is empty"),
        ("a,screen,40,10,", "row 2: “screen” is none of film, direct"),
        ("a,film,40,10,07:30", "row 2: the due time 07:30 is in the past: work begins at 08:00"),
        ("a,film,40,10,late", "row 2: “late” is no time of day"),
        ("a,film,40,99999,", "row 2: quantity is 99999"),
    ],
)
def test_bad_orders_are_refused_with_their_row(tmp_path, capsys, row, says):
    path = tmp_path / "bad.csv"
    path.write_text(f"name,process,print_s,quantity,due\n{row}\n", encoding="utf-8")
    code, out, err = run("flow", str(path), "--runs", "0", capsys=capsys)
    assert (code, out) == (2, "")
    assert says in err
    assert err.count("\n") == 1


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (("hands = 2", "hands = 0"), "it has no hands"),
        (("printer = 1", "printer = 0"), "it has no printer"),
        (("stop_share = 0.08", "stop_share = 1.5"), "printers.stop_share"),
        (("machine_s = 45", "machine_s = -45"), "routes.direct"),
        (('machine = "oven"', 'machine = "kiln"'), "not one of printer"),
        (('machine = "oven"', 'machine = "platen"'), "say on_platen there"),
        (('machine = "oven"', 'machine = "oven"\non_platen = true'), "only what is done at a printer lies on a platen"),
        (('open = [["08:00", "12:00"], ["12:30", "17:00"]]', 'open = [["17:00", "08:00"]]'), "it is never open"),
        (("[routes", "[[routes"), "not valid TOML"),
    ],
)
def test_shops_in_which_nothing_can_be_done_are_refused(tmp_path, orders, capsys, change, says):
    from importlib import resources

    text = (resources.files("swaddon.io") / "shop.toml").read_text(encoding="utf-8")
    assert change[0] in text
    path = tmp_path / "shop.toml"
    path.write_text(text.replace(*change, 1), encoding="utf-8")
    code, out, err = run("flow", str(orders), "--shop", str(path), "--runs", "0", capsys=capsys)
    assert (code, out) == (2, "")
    assert says in err


def test_what_the_shop_lacks_is_told_by_order(orders, capsys):
    code, _, err = run("flow", str(orders), "--set", "heat-press=0", "--runs", "0", capsys=capsys)
    assert code == 2
    assert "row 2: “Regatta” needs a heat press for “Press”, and the shop has none" in err
    for wrong in ("kiln=2", "heat-press", "heat-press=many"):
        assert run("flow", str(orders), "--set", wrong, capsys=capsys)[0] == 2
    assert run("flow", str(orders), "--rule", "mine", capsys=capsys)[0] == 2
    assert run("flow", str(orders), "--runs", "-1", capsys=capsys)[0] == 2


def test_a_shop_goes_out_and_comes_back(tmp_path):
    write_shop(tmp_path / "shop.toml", shipped_shop())
    assert read_shop(tmp_path / "shop.toml") == shipped_shop()
    film = (tmp_path / "shop.toml").read_text(encoding="utf-8").replace("printer = 1", "printer = 1\nfilm-printer = 2")
    assert parse(film, "x").counts["film-printer"] == 2


def test_a_job_is_run_and_quoted(tmp_path, capsys):
    """The page is read back by an independent reader; none of the shop's own figures stand on it."""
    path = tmp_path / "marble.swaddon"
    save_job(path, demo_job("marble"))
    code, text, _ = run("flow", str(path), "--runs", "5", "--due", "16:00", "--json", capsys=capsys)
    assert code == 0
    assert json.loads(text)["orders"][0]["process"] == "toner-onepass"
    pdf = tmp_path / "quote.pdf"
    given = ("quote", str(path), "--margin", "40", "--tax", "20", "--set-up", "12.50")
    code, text, err = run(*given, "--out", str(pdf), "--json", capsys=capsys)
    report = json.loads(text)
    assert (code, err) == (0, "")
    assert Decimal(report["total"]) == Decimal(report["net"]) + Decimal(report["tax"])
    assert Decimal(report["net"]) == sum(Decimal(line["sum"]) for line in report["lines"]) + Decimal("12.50")
    reader = pypdf.PdfReader(pdf)
    (page,) = reader.pages
    words = page.extract_text()
    assert report["number"] in words
    assert report["total"] in words
    assert report["lines"][0]["price"] in words
    assert len(page.images) == 1
    for secret in (report["lines"][0]["cost"], report["lines"][0]["earned"], "argin", "press-hour"):
        assert secret not in words
    assert report["alternatives"][0]["title"].startswith("As ordered")
    assert report["breaks"][0]["quantity"] == 1
    assert Decimal(report["breaks"][0]["price"]) > Decimal(report["breaks"][-1]["price"])
    code, text, _ = run(*given, "--out", str(tmp_path / "quote.txt"), capsys=capsys)
    assert code == 0
    assert "Total" in (tmp_path / "quote.txt").read_text(encoding="utf-8")
    code, text, _ = run(*given, "--out", str(tmp_path / "quote.csv"), "--number", "A-7", capsys=capsys)
    assert (tmp_path / "quote.csv").read_text(encoding="utf-8").startswith("title,pieces,each,sum\n")


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (("--margin", "120"), "The margin is 120: it must be between 0 and 99"),
        (("--margin", "20", "--markup", "30"), "Give a margin or a mark-up, not both"),
        (("--tax", "-5"), "The tax is -5"),
        (("--rounding", "0.07"), "“0.07” is no rounding"),
        (("--out", "quote.doc"), "is no quote"),
    ],
)
def test_terms_that_cannot_be_are_refused(tmp_path, capsys, given, says):
    path = tmp_path / "marble.swaddon"
    save_job(path, demo_job("marble"))
    code, out, err = run("quote", str(path), *given, capsys=capsys)
    assert (code, out) == (2, "")
    assert says in err
    assert open_job(path).quote is None
