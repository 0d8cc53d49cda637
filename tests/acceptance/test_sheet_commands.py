"""Gang, split and take apart without a window, as a user types them."""

import json
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image
from scipy.ndimage import distance_transform_edt
from tests.acceptance.test_command_line import assert_shape, run
from tests.conftest import coarse

from swaddon.core.order.settings import PlanSettings
from swaddon.session.demo import demo_job
from swaddon.session.job import Job
from swaddon.session.storage import load_artwork, save_job

PRINT = {
    "job": str, "line": int, "copy": int, "x_mm": float, "y_mm": float, "width_mm": float, "height_mm": float,
    "turn_deg": int,
}  # fmt: skip
SHEET = {
    "schema": str, "medium": {"name": str, "width_mm": float, "height_mm": float, "margin_mm": [float]},
    "sheets": [{"number": int, "used_length_mm": float, "prints": [PRINT], "files": [str]}], "film_mm2": float,
    "film_share": dict,
}  # fmt: skip
SPLIT = {
    "schema": str, "seam": list, "crossing_mm": float,
    "sheets": [{"number": int, "x_mm": float, "y_mm": float, "width_mm": float, "height_mm": float, "files": [str]}],
}  # fmt: skip


PPI = 100


@pytest.fixture
def press(tmp_path: Path) -> tuple[str, str]:
    """The film press with few pixels."""
    path = tmp_path / "few.toml"
    path.write_text(coarse("film", PPI).source)
    return "--profile", str(path)


@pytest.fixture
def shapes(tmp_path: Path) -> Path:
    """A crescent, a label and a poster of two words, drawn here."""
    crescent = np.zeros((600, 600, 4), np.uint8)
    mask = np.zeros((600, 600), np.uint8)
    cv2.circle(mask, (300, 300), 290, 255, -1, cv2.LINE_AA)
    cv2.circle(mask, (430, 300), 250, 0, -1, cv2.LINE_AA)
    crescent[..., :3], crescent[..., 3] = (220, 120, 40), mask
    Image.fromarray(crescent).save(tmp_path / "crescent.png")
    label = np.zeros((150, 300, 4), np.uint8)
    label[10:140, 10:290] = (30, 90, 200, 255)
    Image.fromarray(label).save(tmp_path / "label.png")
    poster = np.zeros((700, 1500, 4), np.uint8)
    poster[100:600, 60:700] = poster[100:600, 790:1440] = (200, 40, 50, 255)
    Image.fromarray(poster).save(tmp_path / "poster.png")
    return tmp_path


def test_prints_are_ganged_and_written_as_the_sheet_says(shapes, press, tmp_path, capsys):
    """The ink in the files lies where sheet.json says, nowhere else, and no nearer than the spacing."""
    out = tmp_path / "out"
    given = [f"{shapes / 'crescent.png'}@80mm:3", f"{shapes / 'label.png'}@40mm:4"]
    code, text, err = run(
        "gang", *given, "--medium", "250x400mm", "--spacing", "4mm", "--turn", "--steps", "10", "--out", str(out),
        "--json", *press, capsys=capsys,
    )  # fmt: skip
    assert (code, err) == (0, "")
    sheet = json.loads(text)
    assert_shape(sheet, SHEET)
    assert json.loads((out / "sheet.json").read_text()) == sheet
    assert sheet["schema"] == "swaddon-sheet/1"
    assert sum(sheet["film_share"].values()) == pytest.approx(1, abs=1e-6)
    prints = sheet["sheets"][0]["prints"]
    assert sorted((item["job"], item["copy"]) for item in prints) == [
        *(("crescent.png", copy) for copy in (1, 2, 3)), *(("label.png", copy) for copy in (1, 2, 3, 4)),
    ]  # fmt: skip
    files = set(sheet["sheets"][0]["files"])
    assert files <= {path.name for path in out.iterdir()}
    planes = tifffile.imread(out / "sheet-1.tif")
    assert planes.shape[:2] == (round(400 / 25.4 * PPI), round(250 / 25.4 * PPI))
    for index, name in enumerate(("C", "M", "Y", "K", "white")):
        assert np.array_equal(np.asarray(Image.open(out / f"sheet-1-{name}.png")), planes[..., index])
    ink = planes.max(axis=2) > 0
    near = cv2.dilate(ink.astype(np.uint8), np.ones((5, 5), np.uint8))  # screened edges are dots of one print
    count, found = cv2.connectedComponents(near, connectivity=8)
    assert count - 1 == 7
    labels, px = np.zeros(ink.shape, np.int32), PPI / 25.4
    for number, item in enumerate(prints, start=1):
        x, y, w, h = (round(item[key] * px) for key in ("x_mm", "y_mm", "width_mm", "height_mm"))
        inside = np.zeros(ink.shape, bool)
        inside[max(0, y) : y + h, max(0, x) : x + w] = True
        own = [part for part in range(1, 8) if not (ink & (found == part) & ~inside).any()]
        assert own
        labels[np.isin(found, own) & ink & (labels == 0)] = number
    assert not (ink & (labels == 0)).any()
    for number in range(1, 8):
        away = distance_transform_edt(labels != number)
        others = (labels > 0) & (labels != number)
        assert (away[others].min() + 2) / px >= 4


def test_by_shape_takes_no_more_than_by_box_and_a_seed_repeats(shapes, press, capsys):
    given = [f"{shapes / 'crescent.png'}@80mm:4", f"{shapes / 'label.png'}@40mm:4", "--medium", "roll-330", "--turn"]
    found = {}
    for name, more in (("shape", []), ("again", []), ("box", ["--by", "box"]), ("other", ["--seed", "3"])):
        _, text, _ = run("gang", *given, "--steps", "15", "--json", *more, *press, capsys=capsys)
        found[name] = json.loads(text)
    assert found["shape"] == found["again"]
    lengths = {name: sum(sheet["used_length_mm"] for sheet in item["sheets"]) for name, item in found.items()}
    assert lengths["shape"] <= lengths["box"]
    assert lengths["other"] <= lengths["box"]
    assert found["shape"]["boxes"]["used_length_mm"] == [sheet["used_length_mm"] for sheet in found["box"]["sheets"]]


def test_a_job_with_lines_is_ganged_with_its_quantities_and_tags(shapes, tmp_path, capsys):
    few = coarse("film")
    save_job(tmp_path / "club.swaddon", replace(demo_job("club"), profile=few))
    label = Job(file=load_artwork(shapes / "label.png"), settings=PlanSettings(width_mm=40.0), profile=few)
    save_job(tmp_path / "label.swaddon", label)
    out = tmp_path / "out"
    code, text, err = run(
        "gang", f"{tmp_path / 'club.swaddon'}:1", str(tmp_path / "label.swaddon"), "--tags", "--apart", "--steps", "0",
        "--files", "png,cut", "--out", str(out), "--json", capsys=capsys,
    )  # fmt: skip
    assert code == 0
    assert "is another by now" in err, "both jobs keep the press that they were planned with"
    sheet = json.loads(text)
    lines = {(item["job"], item["line"]) for part in sheet["sheets"] for item in part["prints"]}
    assert {line for job, line in lines if job == "club.swaddon"} == set(range(1, 7))
    for part in sheet["sheets"]:
        assert len({item["garment"] for item in part["prints"]}) == 1
    assert (out / "sheet-1-cut.svg").exists()
    assert not (out / "sheet-1.tif").exists()


def test_a_print_is_split_along_its_gap_and_laid_together_again(shapes, press, tmp_path, capsys):
    out, poster = tmp_path / "out", shapes / "poster.png"
    code, text, err = run(
        "split", f"{poster}@330mm", "--medium", "a4", "--out", str(out), "--json", *press, capsys=capsys
    )
    assert (code, err) == (0, "")
    split = json.loads(text)
    assert_shape(split, SPLIT)
    assert (split["crossing_mm"], len(split["sheets"])) == (0, 2)
    assert all(700 / 1500 * 330 < x < 790 / 1500 * 330 for x, _ in split["seam"])
    plan_out = tmp_path / "plan"
    code, _, _ = run("plan", str(poster), "--width", "330mm", "--out", str(plan_out), *press, capsys=capsys)
    assert code == 0
    white = np.asarray(Image.open(plan_out / "white.png"))
    whole, px = np.zeros_like(white), PPI / 25.4
    for part in split["sheets"]:
        plane = np.asarray(Image.open(out / f"sheet-{part['number']}-white.png"))
        x, y = (round(value * px) for value in part["on_sheet_mm"])
        w, h = round(part["width_mm"] * px), round(part["height_mm"] * px)
        own = plane[y : y + h, x : x + w]
        own = own[:, ::-1] if split["mirrored"] else own
        left, top = round(part["x_mm"] * px), round(part["y_mm"] * px)
        whole[top : top + h, left : left + w] = np.maximum(whole[top : top + h, left : left + w], own)
    assert np.array_equal(whole, white)


def test_what_fits_is_not_split(shapes, capsys):
    code, text, _ = run("split", f"{shapes / 'label.png'}@60mm", "--medium", "a4", "--json", capsys=capsys)
    split = json.loads(text)
    assert (code, split["seam"], split["crossing_mm"], len(split["sheets"])) == (0, [], 0, 1)


def test_a_gang_sheet_is_taken_apart(shapes, tmp_path, capsys):
    label = np.asarray(Image.open(shapes / "label.png"))
    whole = np.zeros((800, 1000, 4), np.uint8)
    for x, y in ((20, 30), (400, 30), (20, 250)):
        whole[y : y + 150, x : x + 300] = label
    whole[500:700, 500:600] = (10, 160, 60, 255)
    Image.fromarray(whole).save(tmp_path / "gang.png")
    out = tmp_path / "apart"
    code, text, err = run(
        "parts", str(tmp_path / "gang.png"), "--width", "100mm", "--out", str(out), "--json", capsys=capsys
    )
    assert (code, err) == (0, "")
    found = json.loads(text)
    assert (found["schema"], found["count"], found["kinds"]) == ("swaddon-parts/1", 4, 2)
    assert found["parts"][0]["width_mm"] == pytest.approx(28.0)
    assert np.array_equal(np.asarray(Image.open(out / "gang-1.png")), label[10:140, 10:290])


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["gang", "label.png:10000"], "“label.png” is wanted 10000 times"),
        (["gang", "label.png@500mm", "--medium", "300x400mm"], "“label.png” prints 467 × 217 mm"),
        (["gang", "label.png", "--spacing", "1000mm"], "--spacing 1000mm is outside"),
        (["gang", "nowhere.png"], "no file “nowhere.png”"),
        (["gang", "label.png", "--medium", "attic"], "There is no medium “attic”"),
        (["gang", "label.png@0mm"], "The width of “label.png”"),
        (["gang", "label.png:0"], "at least one copy"),
        (["gang", "label.png", "--by", "weight"], "is not shape or box"),
        (["gang", "label.png", "--files", "gif"], "is not tiff, pdf, png, cut or none"),
        (["gang", "label.png", "--medium", "plate-15x15"], "heat-press plate"),
        (["gang", "empty.png"], "empty"),
        (["gang", "clear.png"], "prints nothing"),
        (["split", "label.png@400mm", "--medium", "30x30mm"], "would take"),
        (["split", "clear.png"], "nothing is printed"),
        (["parts", "clear.png"], "holds nothing"),
        (["parts", "label.png", "--out", "label.png"], "what this command reads"),
    ],
)
def test_bad_input_is_one_sentence_that_names_it(shapes, press, monkeypatch, capsys, words, told):
    monkeypatch.chdir(shapes)
    (shapes / "empty.png").write_bytes(b"")
    Image.fromarray(np.zeros((50, 50, 4), np.uint8)).save(shapes / "clear.png")
    code, _, err = run(*words, *(press if words[0] != "parts" else ()), capsys=capsys)
    assert code == 2
    assert told in err
    assert err.count("\n") == 1


def test_a_split_is_saved_for_card_and_cost(shapes, press, tmp_path, capsys):
    poster = shapes / "poster.png"
    whole, parted = tmp_path / "whole.swaddon", tmp_path / "parted.swaddon"
    assert run("split", f"{poster}@180mm", "--medium", "a4", "--save-job", str(whole), *press, capsys=capsys)[0] == 0
    assert run("split", f"{poster}@330mm", "--medium", "a4", "--save-job", str(parted), *press, capsys=capsys)[0] == 0
    sheets = []
    for job in (whole, parted):
        code, text, _ = run("cost", str(job), "--json", capsys=capsys)
        assert code == 0
        (sheet,) = [part for part in json.loads(text)["parts"] if part["kind"] in ("sheet", "film")]
        sheets.append(sheet["amount"])
    assert sheets[1] > 1.5 * sheets[0]
    assert "more than the" not in run("plan", "--job", str(parted), capsys=capsys)[1]
    code, _, text = run("split", f"{poster}@330mm", "--medium", "a4", "--save-job", str(parted), *press, capsys=capsys)
    assert code == 2
    assert "is there already" in text
