"""Whole orders, presets and variants without a window, as a user types them."""

import csv
import json
from decimal import Decimal
from html.parser import HTMLParser
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.acceptance.test_command_line import assert_shape, run

from swaddon.session import edits, order_edits, shop
from swaddon.session.demo import demo_job
from swaddon.session.session import Session
from swaddon.session.storage import save_job

LINE = {
    "garment": str, "garment_rgb": str, "class": str, "cloth": str, "size": str, "quantity": int, "place": str,
    "print_size": str, "width_mm": float, "height_mm": float, "own": [str],
    "materials": [{"kind": str, "name": str, "amount": float, "unit": str}], "white_amount": float, "cost": str,
    "print_s": float, "hand_g_m2": float, "worst_de": float, "findings": [{"code": str, "severity": str, "text": str}],
}  # fmt: skip
TOTAL = {"pieces": int, "cost": str, "cost_exact": str, "currency": str, "print_s": float, "worst_de": float}
ORDER = {
    "schema": str, "artwork": str, "process": str, "press": str, "currency": str, "lines": [LINE], "total": TOTAL,
    "one_for_all": {"ways": [{"way": str, "title": str, "transfers": int, **TOTAL}], "advised": str, "reason": str},
}  # fmt: skip
VARIANT = {
    "garment": str, "garment_rgb": str, "process": str, "press": str, "white": str, "knockout": str, "holes": str,
    "white_amount": float, "white_unit": str, "cost": str, "currency": str, "print_s": float, "hand_g_m2": float,
    "worst_de": float, "worst_colour": str, "findings": [{"code": str, "severity": str, "text": str}],
    "dominated": bool,
}  # fmt: skip


def test_an_order_of_lines_is_planned_written_and_summed(badge_file, tmp_path: Path, capsys):
    """The files of a line are those of the same job planned alone, byte for byte."""
    lines = ["black:M:12:front:30mm", "white:S:5:front:30mm", "black:XL:3:front:30mm"]
    given = [word for line in lines for word in ("--line", line)] + ["--hand-over", "pdf"]
    out = tmp_path / "order"
    code, text, err = run(
        "plan", str(badge_file), *given, "--white", "need:3", "--out", str(out), "--json", capsys=capsys
    )
    assert (code, err) == (0, "")
    order = json.loads(text)
    assert_shape(order, ORDER)
    assert json.loads((out / "order.json").read_text()) == order
    assert [line["folder"] for line in order["lines"]] == ["1-black-tee-m", "2-white-tee-s", "1-black-tee-m"]
    assert Decimal(order["total"]["cost_exact"]) == sum(
        Decimal(line["cost"]) * line["quantity"] for line in order["lines"]
    )
    assert order["total"]["pieces"] == 20
    assert (out / "2-white-tee-s" / "print-mirrored.pdf").is_file()
    alone = tmp_path / "alone"
    given = ("--garment", "#fafaf8", "--width", "30mm", "--white", "need:3", "--out", str(alone))
    assert run("plan", str(badge_file), *given, capsys=capsys)[0] == 0
    for name in ("white.png", "C.png", "M.png", "Y.png", "K.png"):
        assert (alone / name).read_bytes() == (out / "2-white-tee-s" / name).read_bytes()
    plan = json.loads((alone / "plan.json").read_text())
    assert plan["cost"]["total_exact"] == order["lines"][1]["cost"]


def test_an_order_is_told_as_a_table_with_its_verdict(badge_file, tmp_path: Path, capsys):
    sheet = tmp_path / "lines.csv"
    sheet.write_text("Garment;Size;Pieces;Print size\nBlack tee;M;12;20mm\nwhite;S;4;20mm\n")
    code, text, err = run("plan", str(badge_file), "--lines", str(sheet), capsys=capsys)
    assert (code, err) == (0, "")
    rows = text.splitlines()
    assert rows[1].startswith("Black tee M")
    assert rows[3].startswith("Order")
    assert rows[-1].startswith(("One", "White"))


def test_a_stored_order_is_planned_line_by_line_with_what_is_its_own(tmp_path: Path, capsys):
    session = Session(demo_job("marble"))
    session.apply(order_edits.add_lines(order_list("red jersey,M,3,front,40mm\nblack,L,2,front,40mm"), shop.sizes()))
    session.turn_to(1)
    own = edits.change("white.choke_mm", 0.5)
    session.apply(type(own)(own.label, own.change, own.merge_key, alone=True))
    path = tmp_path / "order.swaddon"
    save_job(path, session.job)
    code, text, err = run("plan", "--job", str(path), "--json", capsys=capsys)
    assert (code, err) == (0, "")
    order = json.loads(text)
    assert [line["own"] for line in order["lines"]] == [[], ["white.choke_mm"]]
    assert [line["quantity"] for line in order["lines"]] == [3, 2]


def order_list(text: str):
    from swaddon.session.line_list import lines_of

    return lines_of(text, shop.goods())


def test_a_choke_of_each_lines_own_is_found_for_it(badge_file, capsys):
    given = ("--line", "black:M:1:front:20mm", "--line", "white:M:1:front:20mm", "--choke", "auto", "--json")
    code, text, _ = run("plan", str(badge_file), *given, capsys=capsys)
    assert code == 0
    assert len(json.loads(text)["lines"]) == 2


def test_a_preset_is_taken_by_name_or_file_and_options_override_it(badge_file, tmp_path: Path, capsys):
    _, text, _ = run("plan", str(badge_file), "--preset", "dark, light", "--width", "20mm", "--json", capsys=capsys)
    settings = json.loads(text)["settings"]
    assert settings["white"]["mode"] == "need"
    assert settings["holes"]["default"]["lpi"] == 35.0
    mine = tmp_path / "mine.json"
    mine.write_text('{"schema":"swaddon-preset/1","name":"Mine","settings":{"white":{"choke_mm":0.4}}}')
    given = ("--preset", str(mine), "--white", "none", "--width", "20mm", "--json")
    _, text, _ = run("plan", str(badge_file), *given, capsys=capsys)
    assert json.loads(text)["settings"]["white"]["choke_mm"] == 0.4
    assert json.loads(text)["settings"]["white"]["mode"] == "none"


class Page(HTMLParser):
    """Counts what a page holds."""

    def __init__(self) -> None:
        super().__init__()
        self.images: list[str] = []
        self.articles = 0

    def handle_starttag(self, tag, attrs):
        self.articles += tag == "article"
        if tag == "img":
            self.images.append(dict(attrs)["src"])


@pytest.fixture(scope="module")
def six(tmp_path_factory):
    """Variants of the badge: garment × white × process, in a folder."""
    from tests.conftest import badge

    from swaddon import cli

    folder = tmp_path_factory.mktemp("variants")
    Image.fromarray(badge(120)).save(folder / "badge.png")
    words = "--width 25mm --garment black,white --white solid,need:3,none --process film,direct"
    with pytest.raises(SystemExit) as ended:
        cli.main(["variants", str(folder / "badge.png"), *words.split(), "--out", str(folder / "out")])
    assert not ended.value.code
    return folder


def test_variants_are_written_as_json_csv_and_one_page(six):
    out = six / "out"
    found = json.loads((out / "variants.json").read_text())
    assert len(found) == 12
    for entry in found:
        assert_shape(entry, VARIANT)
    assert [entry["garment"] for entry in found] == ["Black tee"] * 6 + ["White tee"] * 6
    costs = [Decimal(entry["cost"]) for entry in found]
    assert costs[:6] == sorted(costs[:6])
    rows = list(csv.DictReader((out / "variants.csv").read_text().splitlines()))
    assert [row["cost"] for row in rows] == [entry["cost"] for entry in found]
    assert [row["dominated"] == "yes" for row in rows] == [entry["dominated"] for entry in found]
    page = Page()
    page.feed((out / "variants.html").read_text())
    assert page.articles == len(page.images) == 12
    assert all(image.startswith("data:image/png;base64,") for image in page.images), "whole in one file"


def test_the_trade_would_find_its_own_rules_in_the_variants(six):
    """White off on white goods is cheapest and quicker; without white colours vanish on black (common practice)."""
    found = {
        (entry["garment"], entry["process"], entry["white"]): entry
        for entry in json.loads((six / "out" / "variants.json").read_text())
    }
    bare, dark = found["White tee", "direct", "none"], found["Black tee", "direct", "solid"]
    assert float(bare["cost"]) < 0.35 * float(dark["cost"])
    assert bare["print_s"] < dark["print_s"]
    assert found["Black tee", "film", "none"]["worst_de"] > 30
    assert any(item["severity"] == "stop" for item in found["Black tee", "film", "none"]["findings"])
    assert found["White tee", "film", "need:3"]["white_amount"] < found["White tee", "film", "solid"]["white_amount"]
    assert found["White tee", "film", "solid"]["dominated"]


def test_a_variant_costs_what_its_plan_costs(six, capsys):
    entry = json.loads((six / "out" / "variants.json").read_text())[0]
    given = ("--garment", entry["garment_rgb"], "--white", entry["white"], "--profile", entry["press"])
    _, text, _ = run("plan", str(six / "badge.png"), "--width", "25mm", *given, "--json", capsys=capsys)
    plan = json.loads(text)
    assert plan["cost"]["total_exact"] == entry["cost"]
    assert plan["time"]["print_s"] == entry["print_s"]


BAD = {
    "a line without its parts": ("plan", "--line", "black:M"),
    "a negative quantity": ("plan", "--line", "black:M:-2"),
    "an unknown garment": ("plan", "--line", "blakc:M:2"),
    "an unknown size": ("plan", "--line", "black:Q:2"),
    "an unknown place": ("plan", "--line", "black:M:2:nose"),
    "lines twice": ("plan", "--line", "black:M:2", "--lines", "x.csv"),
    "a garment beside lines": ("plan", "--line", "black:M:2", "--garment", "#000000"),
    "a report of several": ("plan", "--line", "black:M:2", "--report", "x.html"),
    "a list that is not there": ("plan", "--lines", "nosuch.csv"),
    "an unknown preset": ("plan", "--preset", "nosuch"),
    "an unknown white plan": ("variants", "--white", "lots"),
    "an unknown process": ("variants", "--process", "lace"),
    "an unknown press": ("variants", "--profile", "nosuch"),
    "an unknown screen": ("variants", "--holes", "deep"),
    "a garment of no library": ("variants", "--garment", "blakc"),
    "too many variants": ("variants", "--garment", ",".join(f"#{number:06x}" for number in range(300))),
    "a choke that looks": ("variants", "--choke", "auto"),
}


@pytest.mark.parametrize("words", BAD.values(), ids=BAD.keys())
def test_bad_input_gets_one_sentence(badge_file, capsys, words):
    code, out, err = run(words[0], str(badge_file), *words[1:], capsys=capsys)
    assert (code, out) == (2, "")
    assert err.endswith(".\n")
    assert err.count("\n") == 1
    assert "Traceback" not in err


@pytest.mark.parametrize(
    ("text", "says"), [("", "there is no line"), ("black,M,2\nblack,M,-1\n", "row 2: quantity “-1”")]
)
def test_a_bad_list_is_told_with_its_row(badge_file, tmp_path: Path, capsys, text, says):
    (tmp_path / "lines.csv").write_text(text)
    code, _, err = run("plan", str(badge_file), "--lines", str(tmp_path / "lines.csv"), capsys=capsys)
    assert code == 2
    assert says in err


def test_a_full_disk_leaves_nothing_half_written(six, monkeypatch, capsys):
    from swaddon.session import variants_report

    def full(*_given: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(variants_report, "write_rows", full)
    words = ("--width", "20mm", "--white", "none", "--out", str(six / "full"))
    code, _, err = run("variants", str(six / "badge.png"), *words, capsys=capsys)
    assert code == 2
    assert "no space left" in err
    assert not (six / "full").exists()


def test_artwork_nobody_here_drew_goes_through_an_order(tmp_path: Path, capsys):
    """An emblem from an open package (scikit-image's data, BSD-3): photographed colours, no transparency."""
    from skimage import data

    Image.fromarray(np.asarray(data.astronaut())[::2, ::2]).save(tmp_path / "a.png")
    given = (
        "--line",
        "black:M:2:front:40mm",
        "--line",
        "natural canvas::1:tote:30mm",
        "--preset",
        "dark, light",
        "--json",
    )
    code, text, err = run("plan", str(tmp_path / "a.png"), *given, capsys=capsys)
    assert (code, err) == (0, "")
    order = json.loads(text)
    assert [line["place"] for line in order["lines"]] == ["front", "tote"]
    assert all(line["findings"] for line in order["lines"]), "an opaque box round the picture at the least"
