"""What is written: read back by independent readers, whole or not at all."""

import errno
import json
import re
from dataclasses import replace
from pathlib import Path

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image
from tests.conftest import PLATES, badge

from swaddon.core.errors import PlanError
from swaddon.core.plan.report_inks import stack
from swaddon.core.plan.stages import make_plan
from swaddon.core.press.processes import PROCESSES
from swaddon.io import export, profiles
from swaddon.io.outputs import MANIFEST
from swaddon.io.png import write_png
from swaddon.io.separations import write_separations
from swaddon.io.tables import cache_folder, separation_table


@pytest.mark.parametrize("shape", [(1, 1), (5, 7), (900, 2300), (40, 30, 3), (700, 800, 3)])
def test_png_reads_back_in_two_readers(tmp_path: Path, shape):
    image = np.random.default_rng(1).integers(0, 256, shape, dtype=np.uint8)
    path = tmp_path / "a.png"
    write_png(path, image, 300.0)
    with Image.open(path) as opened:
        opened.load()
        np.testing.assert_array_equal(np.asarray(opened), image)
        assert opened.info["dpi"] == pytest.approx((300, 300), abs=0.01)
    np.testing.assert_array_equal(imagecodecs.png_decode(path.read_bytes()), image)


def test_separations_are_cmyk_plus_a_named_spot_in_three_readers(tmp_path: Path):
    """TIFF 6.0 section 16; tifffile reads five samples, Pillow and libtiff (imagecodecs) the CMYK picture in them.

    libtiff turns CMYK into RGB as R = (255 − C)(255 − K) / 255, so that is what it must give.
    """
    rng = np.random.default_rng(2)
    cmyk, white = rng.integers(0, 256, (300, 200, 4), dtype=np.uint8), rng.integers(0, 256, (300, 200), dtype=np.uint8)
    path = tmp_path / "s.tif"
    write_separations(path, cmyk, {"White": white}, 300.0)
    with tifffile.TiffFile(path) as file:
        page = file.pages[0]
        samples = page.asarray()
        tags = {tag.code: tag.value for tag in page.tags.values()}
        assert page.photometric.name == "SEPARATED"
        assert tuple(page.extrasamples) == (0,)
    np.testing.assert_array_equal(samples[..., :4], cmyk)
    np.testing.assert_array_equal(samples[..., 4], white)
    assert tags[332] == 1, "InkSet CMYK"
    assert tags[282] == (300, 1)
    assert b"\x05White" in bytes(tags[34377])
    seen = (255 - cmyk[..., :3].astype(int)) * (255 - cmyk[..., 3:].astype(int)) // 255
    np.testing.assert_array_equal(imagecodecs.tiff_decode(path.read_bytes())[..., :3], seen)
    with Image.open(path) as opened:
        assert opened.mode == "CMYK"
        np.testing.assert_array_equal(np.asarray(opened), cmyk)


def test_an_export_holds_every_file_and_the_same_pixels(make, tmp_path: Path):
    plan = make(badge())
    files = export.export_plan(plan, tmp_path / "out")
    assert {path.name for path in files} == PLATES - {export.HIGHLIGHT_FILE}
    assert {path.name for path in (tmp_path / "out").iterdir()} == {path.name for path in files} | {MANIFEST}
    np.testing.assert_array_equal(np.asarray(Image.open(tmp_path / "out" / "white.png")), plan.white_plane)
    for index, ink in enumerate("CMYK"):
        np.testing.assert_array_equal(np.asarray(Image.open(tmp_path / "out" / f"{ink}.png")), plan.cmyk[..., index])
    report = json.loads((tmp_path / "out" / "plan.json").read_text())
    assert report["schema"] == "swaddon-plan/1"
    with Image.open(tmp_path / "out" / "proof.png") as proof:
        assert proof.size == plan.white_plane.shape[::-1]


def test_highlight_white_is_a_file_and_a_named_spot_of_its_own(make, tmp_path: Path):
    request = replace(make(badge()).request, press=profiles.shipped("direct-highlight"))
    plan = make_plan(request)
    files = export.export_plan(plan, tmp_path / "out")
    assert {path.name for path in files} == PLATES
    np.testing.assert_array_equal(np.asarray(Image.open(tmp_path / "out" / "highlight.png")), plan.highlight)
    with tifffile.TiffFile(tmp_path / "out" / "separations.tif") as file:
        page = file.pages[0]
        assert page.asarray().shape[2] == 6
        assert tuple(page.extrasamples) == (0, 0)
        np.testing.assert_array_equal(page.asarray()[..., 5], plan.highlight)
        assert b"\x05White\x09Highlight" in bytes(page.tags[34377].value)
    with Image.open(tmp_path / "out" / "separations.tif") as opened:
        assert opened.mode == "CMYK"


def test_mirrored_files_are_mirrored(make, tmp_path: Path):
    plan = make(badge()[:, :200])
    export.export_plan(plan, tmp_path, mirror=True)
    np.testing.assert_array_equal(np.asarray(Image.open(tmp_path / "white.png")), plan.white_plane[:, ::-1])


def test_a_full_disk_leaves_nothing_behind(make, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(export, "write_separations", full)
    with pytest.raises(PlanError, match="is full"):
        export.export_plan(make(badge()), tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_a_really_full_device_is_told(make, tmp_path: Path):
    """/dev/full answers every write with “no space left”."""
    with pytest.raises(OSError, match="No space left") as text:
        write_png(Path("/dev/full"), np.zeros((400, 400), np.uint8), 300.0)
    assert "free some space" in export._sentence(text.value, tmp_path)


def test_exporting_into_a_file_is_refused(make, tmp_path: Path):
    target = tmp_path / "taken"
    target.write_text("mine")
    with pytest.raises(PlanError, match="choose another folder"):
        export.export_plan(make(badge()), target)
    assert target.read_text() == "mine"


# profiles


def test_the_shipped_profiles_load_and_name_their_data_generic():
    assert set(PROCESSES) <= set(profiles.shipped_names())
    for name in profiles.shipped_names():
        profile = profiles.load(name)
        assert profile.name == name
        assert "FOGRA39L" in profile.notes
        assert profile.cautions


def edited(**changes: str) -> str:
    from importlib import resources

    text = (resources.files("swaddon.io.profiles") / "film.toml").read_text()
    for old, new in changes.items():
        text = text.replace(old.replace("_is_", " = "), new)
    return text


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("name = ", "not valid TOML"),
        ("name = 'x'", "wrong value at"),
        (edited(plan_ppi_is_300="plan_ppi = 3"), "plan_ppi"),
        (edited(currency="money"), "currency"),
        (edited().replace('ink = "C"', 'ink = "M"', 1), "each of C, M and Y once"),
        (edited().replace('print_order = ["colour", "white"]', 'print_order = ["white", "white"]'), "print_order"),
        (edited().replace("CMYK = [", "CMYX = ["), "lacks CMYK"),
    ],
)
def test_a_wrong_profile_is_refused_with_the_place(tmp_path: Path, text, says):
    path = tmp_path / "mine.toml"
    path.write_text(text)
    with pytest.raises(PlanError, match=says):
        profiles.load(str(path))


def test_an_unknown_profile_names_those_there_are():
    with pytest.raises(PlanError, match="direct, direct-highlight, film"):
        profiles.load("none-such")


def test_a_damaged_cached_table_is_solved_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    separation = profiles.shipped("film").separation
    good = separation_table(separation)
    monkeypatch.setenv("SWADDON_CACHE", str(tmp_path))
    separation_table.cache_clear()
    first = separation_table(separation)
    for file in cache_folder().glob("*.npy"):
        file.write_bytes(b"broken")
    separation_table.cache_clear()
    np.testing.assert_array_equal(separation_table(separation), first)
    np.testing.assert_allclose(first, good, rtol=1e-5, err_msg="compiled or plain, by whoever solved it first")
    separation_table.cache_clear()


def press() -> str:
    """The text of the direct press profile."""
    return (Path(profiles.__file__).parent / "direct.toml").read_text(encoding="utf-8")


def test_a_profile_may_name_its_own_hits_bleed_and_cure():
    text = press().replace("[white]", "[white]\nhits = [1.0, 0.6]\nbleed_share = 0.02")
    profile = profiles.parse(text, "own")
    assert profile.hits == (1.0, 0.6)
    assert profile.white.bleed_share == 0.02
    assert profile.cures_per_m2 == 260
    assert profile.with_hits((0.5,)).hits == (0.5,)
    assert profile.with_hits(()).hits == (1.0, 0.6)
    assert profiles.shipped("direct").white_rounds == 1
    assert profiles.shipped("direct").with_hits((1.0, 1.0, 1.0)).white_rounds == 2


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        (
            '["white", "colour"]',
            '["white", "colour", "highlight"]',
            "print_order must name colour and, where",
        ),
        ('["white", "colour"]', '["white", "white"]', "print_order must name"),
        ("[lay_down_ml_m2]", "[lay_down_g_m2]", "lay_down_ml_m2 lacks"),
        ('unit = "ml"', 'unit = "l"', "must both be counted in ml, or both in g"),
        ("contrast_ratio = 0.70", "contrast_ratio = 0.70\nbleed_share = 2", "wrong value at white.bleed_share"),
        ("contrast_ratio = 0.70", "contrast_ratio = 0.70\nhits = [1, 1, 1, 1, 1]", "wrong value at white.hits"),
    ],
)
def test_a_press_that_does_not_fit_together_is_refused(old, new, says):
    text = press()
    assert old in text
    with pytest.raises(PlanError, match=re.escape(says)):
        profiles.parse(text.replace(old, new), "own.toml")


def test_white_is_under_colour_on_every_shipped_press():
    """Common practice, no source: on the finished item white lies between garment and colour."""
    for name in profiles.shipped_names():
        profile = profiles.shipped(name)
        layers = stack(profile)
        assert profile.white_under_colour
        if not profile.has_white:
            continue
        assert layers.index("garment") < layers.index("W") < min(layers.index(ink) for ink in profile.inks)
