"""The evening's work in a minute: artwork, knockout and holes through the command line, on pictures drawn here."""

import json

import numpy as np
import pytest
from PIL import Image
from tests.acceptance.drawings import badge_with_lettering, crest, emblem, scan
from tests.acceptance.test_command_line import run

from swaddon.core.colour.spaces import hex_from_rgb

MM = 25.4 / 300


def plan(capsys, tmp_path, file, *options: str) -> dict:
    code, out, err = run("plan", str(file), "--json", "--out", str(tmp_path / "out"), *options, capsys=capsys)
    assert (code, err) == (0, "")
    return json.loads(out)


def plane(tmp_path, name: str) -> np.ndarray:
    return np.asarray(Image.open(tmp_path / "out" / f"{name}.png"))


@pytest.mark.parametrize("garment", [(27, 27, 31), (250, 250, 248), (31, 41, 68)])
def test_one_crest_on_black_white_and_navy(compiled, capsys, tmp_path, garment):
    """One command for every garment: what has its colour goes, the figure's area is the same each time."""
    Image.fromarray(crest(garment)).save(tmp_path / "crest.png")
    report = plan(
        capsys, tmp_path, tmp_path / "crest.png", "--width", "59.27mm", "--garment", hex_from_rgb(garment),
        "--knockout", "outside:garment:5:hard", "--holes", "round:35:52.5:0.8",
    )  # fmt: skip
    (knocked,) = report["knockouts"]
    figure = (0.7 * 0.45 + 0.7 * 0.37 / 2) * 700 * 700 * MM**2
    assert report["print"]["width_mm"] ** 2 - knocked["area_mm2"] == pytest.approx(figure, rel=0.02)
    is_white = garment == (250, 250, 248)
    inks = knocked["saved"]["white_ml"] + knocked["saved"]["colour_ml"]
    assert (inks > 0.01) is not is_white, "bare white of the design costs no ink; the film beside it is saved"
    assert report["hand"]["open_share"] == pytest.approx(0.2, abs=0.04)
    assert not plane(tmp_path, "white")[:40].any()


def test_a_fade_to_black_becomes_dots_of_full_ink_at_35_lpi(compiled, capsys, tmp_path):
    Image.fromarray(emblem()).save(tmp_path / "emblem.png")
    report = plan(
        capsys, tmp_path, tmp_path / "emblem.png", "--width", "59.27mm", "--garment", "#000000",
        "--knockout", "outside:garment:1:soft", "--alpha", "screen:35:52.5:haze:0.04", "--choke", "0mm",
    )  # fmt: skip
    assert report["alpha"]["kind"] == "screen"
    assert report["screens"][-1]["lpi"] == pytest.approx(35, rel=0.01)
    white = plane(tmp_path, "white")
    assert set(np.unique(white)) == {0, 255}, "dots, no thin white"
    rings = [white[350, 350 + r - 6 : 350 + r + 6] for r in (120, 280)]
    tones = [(plane(tmp_path, "white")[300:400, 350 + r - 15 : 350 + r + 15] > 0).mean() for r in (150, 220)]
    assert rings[0].size
    assert tones[0] > tones[1] + 0.1
    note = next(finding for finding in report["findings"] if finding["code"] == "half-transparent")
    assert note["severity"] == "note"


def test_line_holes_in_the_big_areas_and_solid_lettering(compiled, capsys, tmp_path):
    Image.fromarray(badge_with_lettering()).save(tmp_path / "badge.png")
    rules = [{"at_px": [450, 560], "treatment": "line:20:72:0.6"}]
    (tmp_path / "rules.json").write_text(json.dumps(rules))
    report = plan(
        capsys, tmp_path, tmp_path / "badge.png", "--width", "76.2mm", "--garment", "#1b1b1f", "--alpha", "keep",
        "--holes", "line:24:72:0.75", "--region-file", str(tmp_path / "rules.json"), "--fine", "3mm",
    )  # fmt: skip
    inked = np.stack([plane(tmp_path, ink) for ink in "CMYK"], axis=-1).any(axis=2) | (plane(tmp_path, "white") > 0)
    art = badge_with_lettering()
    letters = art[..., 0] == 250
    assert inked[letters].mean() > 0.999, "lettering stays solid"
    assert inked[500:620, 300:600].mean() == pytest.approx(0.6, abs=0.01)
    assert inked[80:200, 330:560].mean() == pytest.approx(0.75, abs=0.01)
    treated = {entry["colour"]: entry["treatment"]["share"] for entry in report["regions"] if entry["area_mm2"] > 100}
    assert treated == {"#1c3c82": 0.75, "#dc781e": 0.6}
    assert {(entry["pattern"], entry["share"]) for entry in report["screens"]} >= {("line", 0.75), ("line", 0.6)}


def test_a_dirty_scan_is_cleaned_as_far_as_that_goes_and_says_what_is_lost(compiled, capsys, tmp_path):
    scan(tmp_path / "scan.jpg")
    report = plan(
        capsys, tmp_path, tmp_path / "scan.jpg", "--width", "59.27mm", "--garment", "#1f2944",
        "--knockout", "outside:#f6f6f6:12:soft:clean", "--keep", "#fafaf8:10@350,350",
    )  # fmt: skip
    white = plane(tmp_path, "white")
    y, x = np.mgrid[0:700, 0:700] - 350
    beyond = np.hypot(x, y) > 0.3 * 700 + 10
    assert (white[beyond] > 0).mean() < 0.001
    assert white[350, 350] == 255, "the kept white of the middle"
    note = next(finding for finding in report["findings"] if finding["code"] == "jpeg-edges")
    assert "cannot be recovered" in note["text"]
    assert note["size"] == pytest.approx(8 * MM, abs=0.01)


@pytest.mark.parametrize(
    ("options", "says"),
    [
        (["--holes", "stars:1:2:3"], "solid"),
        (["--holes", "tile:nowhere:9mm:0"], "choose one of"),
        (["--keep", "white"], "--keep"),
        (["--crop", "9,9,3,3"], "empty"),
        (["--turn", "45"], "0, 90, 180 or 270"),
        (["--width", "9mm", "--height", "9mm"], "not both"),
        (["--give-back", "9"], "between 1 and 3"),
        (["--fine", "wide"], "not a length"),
        (["--region-file", "none.json"], "cannot be read"),
    ],
)
def test_a_wrong_option_gets_one_sentence_and_exit_2(compiled, capsys, badge_file, options, says):
    code, out, err = run("plan", str(badge_file), *options, capsys=capsys)
    assert (code, out) == (2, "")
    assert says in err
    assert err.count("\n") == 1


def test_white_by_need_and_the_recommended_choke_from_the_command_line(compiled, capsys, tmp_path):
    Image.fromarray(badge_with_lettering()).save(tmp_path / "badge.png")
    common = ("--width", "76.2mm", "--garment", "#1b1b1f")
    solid = plan(capsys, tmp_path, tmp_path / "badge.png", *common)
    lean = plan(capsys, tmp_path, tmp_path / "badge.png", *common, "--white", "need:3", "--choke", "auto")
    assert lean["white"]["mode"] == "need"
    assert lean["white"]["allowed_shift"] == 3
    assert 0.2 < lean["white"]["saved_vs_solid"] < 0.9
    assert lean["white"]["choke_mm"] == lean["choke"]["recommended_mm"] > 0
    assert lean["white"]["coverage_mean"] < solid["white"]["coverage_mean"]
    assert lean["verdict"]["needs_white"] is True
    harms = [point["peek"] + point["rim"] for point in lean["choke"]["curve"]]
    assert min(harms) < harms[0]
    assert min(harms) < harms[-1]
    wide = plan(capsys, tmp_path, tmp_path / "badge.png", *common, "--registration", "0.3mm", "--no-guard")
    assert wide["choke"]["recommended_mm"] > solid["choke"]["recommended_mm"]
    assert wide["white"]["guard"] is False
