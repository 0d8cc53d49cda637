"""Cost, prices and weigh-ins on the command line, as a shop would use them."""

import csv
import json
from decimal import Decimal
from pathlib import Path

import numpy as np
import pytest
from tests.acceptance.test_command_line import run
from tests.core.shop.weighed_sets import KEYS, Set

from swaddon.cli import main
from swaddon.io import profiles
from swaddon.io.plan_file import read_plan
from swaddon.session import order_edits
from swaddon.session.demo import demo_job
from swaddon.session.storage import save_job

FILM = profiles.shipped("film")


def told(capsys: pytest.CaptureFixture[str], *arguments: str | Path) -> tuple[int, str, str]:
    """A command as typed: its exit code, and what it says."""
    code, out, err = run(*map(str, arguments), capsys=capsys)
    return code, out, err


@pytest.fixture(scope="module")
def planned(tmp_path_factory: pytest.TempPathFactory, compiled: None) -> Path:
    """The badge planned on film, exported once."""
    from PIL import Image
    from tests.conftest import badge

    folder = tmp_path_factory.mktemp("planned")
    Image.fromarray(badge(300)).save(folder / "badge.png")
    with pytest.raises(SystemExit) as ended:
        main(
            [
                "plan",
                str(folder / "badge.png"),
                "--width",
                "120mm",
                "--garment",
                "#1b1b1f",
                "--out",
                str(folder / "out"),
            ]
        )
    assert not ended.value.code
    return folder / "out"


def test_the_cost_of_an_export_is_told_in_parts_that_sum(planned, capsys, tmp_path):
    code, out, err = told(capsys, "cost", planned, "--json", "--out", tmp_path / "parts.csv")
    report = json.loads(out)
    assert (code, err) == (0, "")
    assert report["schema"] == "swaddon-cost/1"
    assert sum(Decimal(part["cost"]) for part in report["parts"]) == Decimal(report["total"])
    assert sum(Decimal(part["cost_exact"]) for part in report["parts"]) == Decimal(report["total_exact"])
    plan = json.loads((planned / "plan.json").read_text(encoding="utf-8"))
    assert float(report["print_exact"]) == pytest.approx(float(plan["cost"]["total_exact"]), rel=1e-9)
    assert report["print_pm"] == pytest.approx(plan["cost"]["pm"], rel=0.01)
    assert all(part["formula"][-1].startswith("= ") for part in report["parts"])
    assert {item["source"] for item in report["constants"]} == {"assumed"}
    assert report["largest"]["print_pm_after_weighing"] < report["print_pm"]
    film_m2 = next(item["amount"] for item in plan["materials"] if item["kind"] == "film")
    area = film_m2 / FILM.film.amount_per_m2 * 1e6 / 25.4**2
    assert float(report["rule_of_thumb"]["price"]) == pytest.approx(0.007 * area, rel=5e-3)
    assert report["rule_of_thumb"]["square_inches"] == pytest.approx(area, rel=5e-3)
    rows = list(csv.reader((tmp_path / "parts.csv").read_text(encoding="utf-8").splitlines()))
    assert len(rows) == len(report["parts"]) + 2
    assert rows[-1][5] == report["total"]
    code, out, _ = told(capsys, "cost", planned / "plan.json")
    assert code == 0
    assert "weigh one print, and ±" in out
    assert "Rule of thumb 0.007 EUR per sq in" in out


def test_other_prices_change_the_cost_and_not_the_amounts(planned, capsys, tmp_path):
    prices = tmp_path / "prices.csv"
    prices.write_text(
        "item,applies_to,pack_price,pack_size,unit,currency\n"
        "white ink,film,170,1,l,EUR\ngarment,Black tee,6,1,piece,EUR\n",
        encoding="utf-8",
    )
    _, before, _ = told(capsys, "cost", planned, "--json")
    _, after, _ = told(capsys, "cost", planned, "--supplies", prices, "--garment", "Black tee", "--json")
    old, new = ({part["kind"]: part for part in json.loads(text)["parts"]} for text in (before, after))
    assert Decimal(new["white"]["cost_exact"]) == 2 * Decimal(old["white"]["cost_exact"])
    assert new["white"]["amount"] == old["white"]["amount"]
    assert new["garment"]["cost"] == "6.0000"
    assert "labour" not in new
    assert "170 EUR for 1 l" in "\n".join(new["white"]["formula"])


def test_an_order_is_told_line_by_line_and_in_sum(capsys, tmp_path):
    job = order_edits.set_quantity(1, 7).made(order_edits.repeat_line().made(demo_job("marble")))
    save_job(tmp_path / "two.swaddon", job)
    code, out, _ = told(capsys, "cost", tmp_path / "two.swaddon", "--json", "--out", tmp_path / "cost.json")
    report = json.loads(out)
    assert code == 0
    assert json.loads((tmp_path / "cost.json").read_text(encoding="utf-8")) == report
    assert len(report["lines"]) == len(job.lines)
    whole = sum(Decimal(line["total_exact"]) * line["quantity"] for line in report["lines"])
    assert Decimal(report["order"]["total_exact"]) == whole
    assert report["order"]["pieces"] == sum(line.settings.quantity for line in job.lines)
    for line in report["lines"]:
        assert sum(Decimal(part["cost"]) for part in line["parts"]) == Decimal(line["total"])


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("cost", "{tmp}/nowhere"), "cannot be opened"),
        (("cost", "{plan}", "--supplies", "{tmp}/none.csv"), "cannot be read"),
        (("cost", "{plan}", "--supplies", "{tmp}/bad.csv"), "row 3: the pack size is 0; it must be above 0"),
        (("cost", "{plan}", "--supplies", "{tmp}/dollars.csv"), "in USD, the press film in EUR"),
        (("cost", "{plan}", "--profile", "direct"), "The plan uses film, which the press direct does not"),
        (("cost", "{plan}", "--out", "{tmp}/cost.pdf"), "is no CSV or JSON file"),
        (("weigh", "{tmp}/shrinks.csv"), "Row 2 (crest) shrinks: 9 g after 10 g"),
        (("weigh", "{tmp}/none.csv"), "cannot be read"),
        (("weigh",), "Missing the table of weights"),
        (("weigh", "{tmp}/shrinks.csv", "--accept", "{tmp}/out.json"), "is not a TOML file"),
        (("weigh", "--back", "{tmp}/back.toml"), "was never weighed in"),
        (("supplies", "--take", "{tmp}/bad.csv"), "row 3: the pack size is 0"),
    ],
)
def test_bad_input_is_refused_in_one_sentence_with_its_row(planned, capsys, tmp_path, arguments, says):
    head = "item,pack_price,pack_size,unit,currency\n"
    (tmp_path / "bad.csv").write_text(f"{head}film,2,1,m2,EUR\npowder,2,0,g,EUR\n", encoding="utf-8")
    (tmp_path / "dollars.csv").write_text(f"{head}film,2,1,m2,USD\n", encoding="utf-8")
    (tmp_path / "shrinks.csv").write_text("name,plan,blank_g,printed_g\ncrest,patch W,10,9\n", encoding="utf-8")
    code, out, err = told(capsys, *(item.format(tmp=tmp_path, plan=planned) for item in arguments))
    assert (code, out) == (2, "")
    assert says in err
    assert err.count("\n") == 1
    assert "Traceback" not in err


def weighed_table(path: Path, planned: Path, rows: int, tare_at: int = 0, drift_g: float = 0.0) -> np.ndarray:
    """Weights of the exported plan and of patches on a press with constants of its own; its constants."""
    made = Set(np.random.default_rng(6))
    of = read_plan(planned).used(FILM)
    from swaddon.core.shop.next_print import patches
    from swaddon.core.shop.weighing import Print

    prints = [("out", Print.of(of)), *((f"patch {item.ink}", item.of) for item in patches(FILM))]
    lines = ["name,plan,blank_g,printed_g,powdered_g"]
    for row in range(rows):
        plan, printed = prints[row % len(prints)]
        blank = 12.0
        first = blank + made.grams("ink", printed) + (9.0 if row + 1 == tare_at else 0.0) + drift_g * row
        second = first + made.grams("powder", printed) - (9.0 if row + 1 == tare_at else 0.0)
        lines.append(f"print {row + 1},{plan},{blank},{first:.2f},{max(second, 0):.2f}")
    path.write_text("\n".join(lines), encoding="utf-8")
    return made.truth


def test_a_weigh_in_refits_a_press_and_the_next_cost_is_surer(planned, capsys, tmp_path):
    table = planned.parent / "weights.csv"
    truth = weighed_table(table, planned, 6)
    code, out, err = told(capsys, "weigh", table, "--profile", "film", "--accept", tmp_path / "own.toml", "--json")
    report = json.loads(out)
    assert (code, err) == (0, "")
    assert list(report["constants"]) == list(KEYS)
    for key, true in zip(KEYS, truth, strict=True):
        found = report["constants"][key]
        assert abs(found["value"] - true) <= 1.5 * found["pm"]
        assert found["low"] < found["value"] < found["high"]
        assert found["source"].startswith("measured on ")
    assert set(report["next_best"]) == {"print", "reason", "gain"}
    assert len(report["residuals"]) == 12
    _, before, _ = told(capsys, "cost", planned, "--json")
    _, after, _ = told(capsys, "cost", planned, "--profile", tmp_path / "own.toml", "--json")
    assert json.loads(after)["print_pm"] < json.loads(before)["print_pm"] / 3
    code, _, _ = told(
        capsys,
        "weigh",
        "--profile",
        tmp_path / "own.toml",
        "--back",
        tmp_path / "back.toml",
        "--routine",
        tmp_path / "r.csv",
    )
    assert code == 0
    assert profiles.load(str(tmp_path / "back.toml")).lay_down_per_m2 == FILM.lay_down_per_m2
    assert (tmp_path / "r.csv").read_text(encoding="utf-8").count("patch") == 5


def test_a_forgotten_tare_and_a_drift_are_told_with_their_rows(planned, capsys, tmp_path):
    table = planned.parent / "tare.csv"
    weighed_table(table, planned, 6, tare_at=3)
    code, out, err = told(capsys, "weigh", table, "--json", "--out", tmp_path / "residuals.csv")
    report = json.loads(out)
    assert code == 0
    assert [item["row"] for item in report["left_out"]] == [4]
    assert "Row 4 (print 3)" in err
    assert "tare" in err
    assert (tmp_path / "residuals.csv").read_text(encoding="utf-8").count("yes") == 2
    weighed_table(table, planned, 12, drift_g=0.15)
    code, out, err = told(capsys, "weigh", table, "--json")
    assert code == 0
    assert json.loads(out)["drift"]["sentence"] in err
    assert f"row {json.loads(out)['drift']['row']}" in err
    code, out, _ = told(capsys, "weigh", table)
    assert "Weigh next:" in out


def test_the_shops_prices_are_written_taken_and_used(planned, capsys, tmp_path):
    code, out, _ = told(capsys, "supplies", "--out", tmp_path / "mine.csv")
    assert code == 0
    text = (tmp_path / "mine.csv").read_text(encoding="utf-8").replace("labour,,21.00", "labour,,42.00")
    (tmp_path / "mine.csv").write_text(text, encoding="utf-8")
    _, before, _ = told(capsys, "cost", planned, "--json")
    code, out, _ = told(capsys, "supplies", "--take", tmp_path / "mine.csv")
    assert (code, "are the shop's now" in out) == (0, True)
    _, after, _ = told(capsys, "cost", planned, "--json")
    old, new = ({part["kind"]: part for part in json.loads(text)["parts"]} for text in (before, after))
    assert Decimal(new["labour"]["cost_exact"]) == 2 * Decimal(old["labour"]["cost_exact"])
    _, listed, _ = told(capsys, "supplies")
    assert "labour,,42.00,1,h,EUR" in listed
