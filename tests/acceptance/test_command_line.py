"""The main job without a window, as a user types it."""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.conftest import PLATES, badge
from tests.icc_maker import cmyk_profile

from swaddon import cli
from swaddon.core.colour.spaces import rgb_from_hex
from swaddon.core.proof.optics import Appearance, fine_white, printed_share, seen
from swaddon.io import profiles
from swaddon.io.export import HIGHLIGHT_FILE
from swaddon.io.outputs import MANIFEST
from swaddon.io.spot_pdf import colorants
from swaddon.session import demo, storage
from swaddon.session.job import Job
from swaddon.session.storage import load_artwork, save_job

CONTRACT = {
    "schema": str,
    "artwork": {"file": str, "width_px": int, "height_px": int, "ppi": float, "has_alpha": bool},
    "print": {
        "width_mm": float, "height_mm": float, "grid_ppi": float, "printed_area_mm2": float, "printed_share": float,
    },
    "garment": {"rgb": str},
    "process": str,
    "white": {"mode": str, "limit": float, "choke_mm": float, "area_mm2": float, "coverage_mean": float},
    "channels": [
        {"ink": str, "role": str, "hit": int, "slot": int, "coverage_mean": float, "amount": float, "unit": str}
    ],
    "stack": [str],
    "mirrored": bool,
    "materials": [
        {"name": str, "amount": float, "unit": str, "waste_share": float, "unit_price": str, "cost": str}
    ],
    "cost": {"materials": str, "total": str, "currency": str},
    "time": {"print_s": float, "phases": [{"name": str, "bands": int, "seconds": float}], "shirts_per_hour": float},
    "findings": [
        {"code": str, "severity": str, "text": str, "x_mm": float, "y_mm": float, "size": float, "unit": str}
    ],
    "settings": {},
}  # fmt: skip


def run(*arguments: str, capsys) -> tuple[int, str, str]:
    with pytest.raises(SystemExit) as ended:
        cli.main(list(arguments))
    out, err = capsys.readouterr()
    return int(ended.value.code or 0), out, err


def assert_shape(value, wanted, place="plan") -> None:
    """Every promised field is there and of its kind; more may be."""
    if isinstance(wanted, dict):
        assert wanted.keys() <= value.keys(), place
        for key, kind in wanted.items():
            assert_shape(value[key], kind, f"{place}.{key}")
    elif isinstance(wanted, list):
        assert isinstance(value, list), place
        for item in value:
            assert_shape(item, wanted[0], place)
    else:
        assert isinstance(value, (int, float) if wanted is float else wanted), f"{place} is {value!r}"


@pytest.fixture
def box_file(tmp_path: Path) -> Path:
    rgba = badge()
    alpha = rgba[..., 3:] / 255
    flat = np.rint(rgba[..., :3] * alpha + 255 * (1 - alpha)).astype(np.uint8)
    flat[rgba[..., 1] > 200] = (250, 200, 40)
    path = tmp_path / "box.png"
    Image.fromarray(flat).save(path)
    return path


def test_the_whole_path_from_file_to_files(compiled, capsys, box_file, tmp_path):
    out = tmp_path / "out"
    code, text, err = run(
        "plan", str(box_file), "--process", "film", "--garment", "#1b1b1f", "--width", "1in",
        "--knockout", "outside:#ffffff:8", "--white", "solid", "--choke", "0.25mm", "--out", str(out), capsys=capsys,
    )  # fmt: skip
    assert (code, err) == (0, "")
    assert "Cost per shirt" in text
    assert {path.name for path in out.iterdir()} == PLATES - {HIGHLIGHT_FILE} | {MANIFEST}
    report = json.loads((out / "plan.json").read_text())
    assert_shape(report, CONTRACT)
    white = np.asarray(Image.open(out / "white.png"))
    assert white.shape == (300, 300)
    assert not white[:20, :20].any(), "the box is gone"
    assert white[150, 150] == 255
    share = report["print"]["printed_share"]
    assert share == pytest.approx(np.pi * 0.425**2, rel=0.02), "the disc's share of the artboard"
    assert report["stack"] == ["garment", "powder", "W", "K", "Y", "M", "C"]


def test_json_goes_to_standard_output_and_nothing_else_does(compiled, capsys, badge_file):
    code, text, err = run("plan", str(badge_file), "--width", "1in", "--json", capsys=capsys)
    assert (code, err) == (0, "")
    report = json.loads(text)
    assert_shape(report, CONTRACT)
    assert report["findings"] == []
    total = sum(float(line["cost"]) for line in report["materials"])
    assert float(report["cost"]["total"]) == pytest.approx(total, abs=0.02)


def test_a_report_page_is_asked_for_by_name(compiled, capsys, badge_file, tmp_path):
    page = tmp_path / "page.html"
    code, text, err = run("plan", str(badge_file), "--width", "1in", "--report", str(page), capsys=capsys)
    assert (code, err) == (0, "")
    assert f"Report written to {page}" in text
    assert "</html>" in page.read_text(encoding="utf-8")
    code, _, err = run("plan", str(badge_file), "--report", str(tmp_path / "page.pdf"), capsys=capsys)
    assert code == 2
    assert "ends in .html" in err


def test_white_coverage_recomputed_from_the_file_is_the_reported_one(compiled, capsys, badge_file, tmp_path):
    run("plan", str(badge_file), "--width", "1in", "--out", str(tmp_path / "o"), capsys=capsys)
    report = json.loads((tmp_path / "o" / "plan.json").read_text())
    white = np.asarray(Image.open(tmp_path / "o" / "white.png")).astype(float) / 255
    assert white.mean() == pytest.approx(report["white"]["coverage_mean"], abs=1e-6)
    profile = profiles.shipped("film")
    ml = white.mean() * 0.0254**2 * profile.lay_down_per_m2["W"]
    assert report["channels"][-1]["amount"] == pytest.approx(ml, abs=1e-4)


def test_more_white_by_a_higher_limit(compiled, capsys, badge_file):
    amounts = []
    for white in ("none", "limit:170", "limit:280", "limit:400", "solid"):
        _, text, _ = run("plan", str(badge_file), "--width", "1in", "--white", white, "--json", capsys=capsys)
        amounts.append(json.loads(text)["white"]["coverage_mean"])
    assert amounts == sorted(amounts)
    assert amounts[0] > 0, "the ring is white of the design"
    assert amounts[-2] == amounts[-1]
    _, text, _ = run(
        "plan", str(badge_file), "--width", "1in", "--white", "none", "--no-design-white", "--json", capsys=capsys
    )
    assert json.loads(text)["white"]["coverage_mean"] == 0


def test_a_job_file_gives_artwork_and_settings_and_options_override(compiled, capsys, tmp_path):
    path = tmp_path / "heron.swaddon"
    storage.save_job(path, demo.demo_job("heron"))
    _, text, _ = run("plan", "--job", str(path), "--width", "100mm", "--json", capsys=capsys)
    report = json.loads(text)
    assert report["garment"]["rgb"] == "#1f2944"
    assert report["print"]["width_mm"] == 100
    assert report["settings"]["quantity"] == 18


def test_a_profile_file_of_ones_own(compiled, capsys, badge_file, tmp_path):
    from importlib import resources

    text = (resources.files("swaddon.io.profiles") / "film.toml").read_text()
    path = tmp_path / "mine.toml"
    path.write_text(text.replace('name = "film"', 'name = "mine"').replace('currency = "EUR"', 'currency = "CHF"'))
    _, out, _ = run("plan", str(badge_file), "--profile", str(path), "--width", "1in", "--json", capsys=capsys)
    assert json.loads(out)["cost"]["currency"] == "CHF"


def test_profiles_are_listed(capsys):
    code, text, _ = run("profiles", capsys=capsys)
    assert code == 0
    assert [line.split()[0] for line in text.splitlines()] == list(profiles.shipped_names())


def test_help_names_the_unit_of_every_option(capsys):
    code, text, _ = run("plan", "--help", capsys=capsys)
    assert code == 0
    for words in ("mm or in", "ΔE00", "percent" if "percent" in text else "PERCENT", "#rrggbb", "alpha 0..1", "shirts"):
        assert words in text


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        ([], "Missing the artwork"),
        (["none.png"], "no file"),
        (["{dir}"], "is a folder"),
        (["{file}", "--process", "sublimation"], "is not film, direct, toner-onepass"),
        (["{file}", "--garment", "black"], "six hexadecimal digits"),
        (["{file}", "--width", "wide"], "not a length"),
        (["{file}", "--width", "0mm"], "outside 1 to 5000 mm"),
        (["{file}", "--knockout", "outside:8"], "REACH:COLOUR:TOLERANCE"),
        (["{file}", "--white", "limit:900"], "0 to 400 %"),
        (["{file}", "--alpha", "soft"], "not keep, hard:LEVEL"),
        (["{file}", "--profile", "nobody"], "No press profile"),
        (["{file}", "--profile", "direct", "--process", "film"], "is for direct"),
        (["{file}", "--quantity", "0"], "outside 1 to 1000000"),
        (["{file}", "--bogus"], "No such option"),
        (["{file}", "--job", "none.swaddon"], "cannot be opened"),
        (["{text}"], "not a PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster"),
        (["{file}", "--width", "4900mm"], "choose a smaller print width"),
        (["{file}", "--out", "{text}"], "give a folder"),
    ],
)
def test_a_wrong_call_gets_one_sentence_and_exit_2(compiled, capsys, badge_file, tmp_path, arguments, says):
    text = tmp_path / "text.png"
    text.write_text("hello")
    places = {"dir": tmp_path, "file": badge_file, "text": text}
    before = sorted(tmp_path.rglob("*"))
    code, out, err = run("plan", *[argument.format(**places) for argument in arguments], capsys=capsys)
    assert code == 2
    assert out == ""
    assert says in err
    assert err.count("\n") == 1
    assert "Traceback" not in err
    assert sorted(tmp_path.rglob("*")) == before, "nothing half-written"


def test_as_a_program_of_its_own(compiled, badge_file, tmp_path):
    """The installed command, in a process of its own."""
    command = [sys.executable, "-m", "swaddon", "plan", str(badge_file), "--width", "1in", "--out", str(tmp_path / "o")]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stderr == ""
    assert (tmp_path / "o" / "separations.tif").is_file()


def plan_of(capsys, *arguments: str) -> dict:
    code, text, err = run("plan", *arguments, "--json", capsys=capsys)
    assert (code, err) == (0, "")
    return json.loads(text)


def test_choices_of_white_by_option(compiled, capsys, badge_file):
    base = (str(badge_file), "--width", "1in", "--garment", "#1f2944")
    solid = plan_of(capsys, *base)
    lights = plan_of(capsys, *base, "--white", "highlight")
    alone = plan_of(capsys, *base, "--white", "only")
    assert lights["white"]["coverage_mean"] < solid["white"]["coverage_mean"]
    assert lights["white"]["saved_vs_solid"] > 0
    assert sum(line["amount"] for line in alone["materials"] if line["name"] == "Colour ink") == 0
    hits = plan_of(capsys, *base, "--hits", "1,0.5")
    assert hits["white"]["hits"] == [1, 0.5]
    whites = [line for line in hits["channels"] if line["ink"] == "W"]
    assert [line["hit_amount"] for line in whites] == [1, 0.5]
    assert whites[1]["amount"] == pytest.approx(whites[0]["amount"] / 2, abs=1e-4)
    fixed = plan_of(capsys, *base, "--white", "need:3", "--white-at", "#c81e28:0.9")
    free = plan_of(capsys, *base, "--white", "need:3")
    assert fixed["white"]["coverage_mean"] > free["white"]["coverage_mean"]
    bare = plan_of(capsys, *base, "--design-at", "bare@150,30")
    assert bare["white"]["area_mm2"] < solid["white"]["area_mm2"]
    assert bare["settings"]["white"]["design_rules"] == [{"point": [150.0, 30.0], "ink": False}]
    flooded = plan_of(capsys, *base, "--whole-sheet")
    assert flooded["white"]["coverage_mean"] == 1
    assert flooded["findings"][0]["code"] == "white-outside"


def test_registration_squeeze_and_verdict_by_option(compiled, capsys, badge_file, tmp_path):
    art = badge()
    art[art[..., 3] > 0, :3] = (200, 30, 40)
    Image.fromarray(art).save(tmp_path / "red.png")
    base = (str(tmp_path / "red.png"), "--width", "1in", "--garment", "#1b1b1f")
    worst = plan_of(capsys, *base, "--registration", "0.2mm:worst", "--squeeze", "0.05mm", "--choke", "auto")
    assert worst["choke"]["recommended_mm"] == pytest.approx(0.25, abs=0.011)
    assert worst["white"]["choke_mm"] == worst["choke"]["recommended_mm"]
    hidden = plan_of(capsys, *base, "--registration", "0.1mm", "--squeeze", "0.05mm", "--choke", "no-peek")
    assert hidden["white"]["choke_mm"] == hidden["choke"]["no_peek_mm"] == 0.25  # 2 × 0.1 + 0.05
    assert hidden["choke"]["recommended_mm"] < 0.25
    ash = plan_of(capsys, str(badge_file), "--width", "1in", "--garment", "#c8d7eb", "--process", "direct",
                  "--white", "none", "--strengthen")  # fmt: skip
    assert ash["verdict"]["enough"] == "strengthen"
    assert not ash["verdict"]["needs_white"]
    for line in ash["verdict"]["colours"]:
        assert line["strengthened"] <= line["without_white"]
        assert len(line["recipe"]) == len(line["strengthened_recipe"]) == 4
    assert ash["settings"]["white"]["strengthen"] is True


def test_toner_is_planned_in_grams_under_a_coverage_limit(compiled, capsys, badge_file):
    report = plan_of(capsys, str(badge_file), "--width", "1in", "--process", "toner-onepass", "--white", "limit:170")
    assert report["process"] == "toner-onepass"
    assert {line["unit"] for line in report["channels"]} == {"g"}
    assert report["stack"] == ["garment", "W", "K", "Y", "M", "C"]
    assert report["mirrored"] is True


@pytest.mark.parametrize(
    ("options", "says"),
    [
        (["--hits", "1,2"], "--hits “1,2” is not one to four amounts"),
        (["--hits", "1,1,1,1,1"], "one to four amounts"),
        (["--white-at", "red:0.5"], "--white-at colour"),
        (["--white-at", "#c81e28"], "is not COLOUR:AMOUNT"),
        (["--design-at", "ink"], "is not ink@X,Y or bare@X,Y"),
        (["--registration", "0.2mm:best"], "0.2mm:worst"),
        (["--squeeze", "wide"], "--squeeze “wide” is not a length"),
        (["--white", "some"], "not none, highlight, solid, only"),
    ],
)
def test_wrong_choices_of_white_are_one_sentence(capsys, badge_file, options, says):
    code, text, err = run("plan", str(badge_file), *options, capsys=capsys)
    assert (code, text) == (2, "")
    assert says in err
    assert err.count("\n") == 1


def test_what_is_to_be_told_of_a_job_goes_to_standard_error(tmp_path):
    """The press profile of the shop is another than the one that the job was planned with."""
    Image.fromarray(badge()).save(tmp_path / "badge.png")
    changed = profiles.shipped("film").source.replace("W = 27.0", "W = 19.0")
    job = Job(file=load_artwork(tmp_path / "badge.png"), profile=profiles.parse(changed, "film.toml"))
    save_job(tmp_path / "job.swaddon", job)
    done = subprocess.run(
        [sys.executable, "-m", "swaddon", "plan", "--job", str(tmp_path / "job.swaddon"), "--width", "20mm", "--json"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "is another by now" in done.stderr
    assert json.loads(done.stdout)["profile"] == "film"


# every way of printing, and what stands for it


def test_what_only_these_processes_have_goes_through_the_command(capsys, badge_file, tmp_path):
    lineup, outline, profile = tmp_path / "l.json", tmp_path / "o.json", tmp_path / "p.icc"
    lineup.write_text(json.dumps({"schema": "swaddon-lineup/1", "name": "Back", "slots": ["K", "Y", "M", "C"]}))
    outline.write_text(json.dumps({"points_px": [[5, 5], [295, 5], [295, 290], [5, 290]]}))
    profile.write_bytes(cmyk_profile())
    out = tmp_path / "out"
    report = plan_of(
        capsys, str(badge_file), "--width", "1in", "--process", "toner-twopass", "--lineup", str(lineup),
        "--outline", str(outline), "--icc", str(profile), "--icc-intent", "perceptual", "--no-black-point",
        "--recipe", "#c81e28=M100Y90:5", "--white-name", "Base 1", "--hand-over", "pdf", "--out", str(out),
    )  # fmt: skip
    assert report["lineup"] == {"name": "Back", "slots": ["K", "Y", "M", "C"]}
    assert {entry["ink"]: entry["slot"] for entry in report["channels"]} == {"K": 1, "Y": 2, "M": 3, "C": 4, "W": 1}
    assert report["recipes"][0]["inks_percent"] == {"M": 100, "Y": 90}
    assert report["outlines"][0]["corners"] == 4
    assert report["settings"]["icc"]["intent"] == "perceptual"
    assert report["settings"]["icc"]["black_point"] is False
    assert [item["number"] for item in report["passes"]] == [1, 2]
    names = {path.name for path in out.iterdir()}
    assert {"colour.pdf", "mask.pdf", "colour.png", "mask.png", "print-mirrored.pdf"} <= names
    assert "Base 1" in colorants(out / "print-mirrored.pdf")


def test_separations_recombine_to_the_proof(capsys, badge_file, tmp_path):
    """The plates, read back by another library and looked at through the optical model, are the proof."""
    for process, garment in (("film", "#1b1b1f"), ("decal", "#184230"), ("toner-no-black", "#9e1c26")):
        out = tmp_path / process
        extra = ["--profile", process] if process == "toner-no-black" else ["--process", process]
        plan_of(capsys, str(badge_file), "--width", "1in", *extra, "--garment", garment, "--out", str(out))
        press = profiles.shipped(process)
        planes = {ink: np.asarray(Image.open(out / f"{ink}.png")) for ink in press.inks}
        none = np.zeros_like(next(iter(planes.values())))
        cmyk = np.stack([planes.get(ink, none) for ink in "CMYK"], axis=-1)
        white = np.asarray(Image.open(out / "white.png"))
        look = Appearance.of(rgb_from_hex(garment), press)
        shown = seen(np.ascontiguousarray(cmyk), fine_white(white), look, share=printed_share(cmyk, white))
        proof = np.asarray(Image.open(out / "proof.png"))
        assert np.abs(shown.astype(int) - proof).max() <= 1


def test_files_mirrored_twice_are_the_files(capsys, badge_file, tmp_path):
    plain, mirrored = tmp_path / "plain", tmp_path / "mirrored"
    plan_of(capsys, str(badge_file), "--width", "1in", "--out", str(plain))
    plan_of(capsys, str(badge_file), "--width", "1in", "--mirror-files", "--out", str(mirrored))
    for name in ("white.png", "C.png", "M.png", "Y.png", "K.png"):
        one, other = (np.asarray(Image.open(folder / name)) for folder in (plain, mirrored))
        assert np.array_equal(one, other[:, ::-1])
        assert not np.array_equal(one, other)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--lineup", "{bad}"], "is no line-up"),
        (["--outline", "{bad}"], "outline 1 has a wrong value"),
        (["--icc", "{bad}"], "no ICC profile, or is damaged"),
        (["--icc-intent", "relative"], "give it with --icc"),
        (["--recipe", "#c81e28=M120"], "more than 100 %"),
        (["--profile", "toner-no-black", "--recipe", "#c81e28=K10"], "has no black"),
        (["--white-name", "x" * 61], "60 characters at most"),
        (["--white-name", "a\nb"], "without control characters"),
        (["--hand-over", "fax"], "is not plates, tiff, pdf, png or layers"),
        (["--white-position", "middle"], "is not first or last"),
        (["--white-position", "first"], "prints white last only"),
    ],
)
def test_what_is_wrong_about_inks_is_one_sentence(capsys, badge_file, tmp_path, arguments, says):
    bad = tmp_path / "bad.json"
    bad.write_text('{"nothing": 1}')
    code, out, err = run("plan", str(badge_file), *[text.format(bad=bad) for text in arguments], capsys=capsys)
    assert code == 2
    assert out == ""
    assert says in err
    assert err.count("\n") == 1


def test_fitting_inks_refuses_in_a_sentence(capsys, tmp_path):
    (tmp_path / "chart.txt").write_text("nothing")
    for arguments, says in (
        ([str(tmp_path / "chart.txt"), "--out", str(tmp_path / "p.toml")], "no CGATS.17 chart"),
        ([str(tmp_path / "chart.txt"), "--out", str(tmp_path / "p.txt")], "ends in .toml"),
        ([str(tmp_path / "none.txt"), "--out", str(tmp_path / "p.toml")], "cannot be read"),
        ([str(tmp_path / "chart.txt"), "--out", str(tmp_path / "p.toml"), "--profile", "nobody"], "No press profile"),
    ):
        code, _, err = run("fit-inks", *arguments, capsys=capsys)
        assert code == 2
        assert says in err
