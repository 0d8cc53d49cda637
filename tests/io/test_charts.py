"""Test pages as files, read back by independent readers; scans in their colour space; measured profiles."""

import datetime
import io
import tomllib

import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms
from pypdf import PdfReader
from tests.io.test_images import wide_gamut_profile
from tests.seeds import DAY

from swaddon.core.colour.spaces import linear_from_srgb
from swaddon.core.errors import PlanError
from swaddon.core.testprint.constants import Constant
from swaddon.core.testprint.drawing import draw_page
from swaddon.core.testprint.layout import WIDTH_MM, page_for
from swaddon.io import profiles
from swaddon.io.charts import channel_names, read_channels, write_page
from swaddon.io.measured import measured_profile
from swaddon.io.png import write_png
from swaddon.io.scans import _meaning, read_scan, wide_profile, write_scan

PPI = 150.0


@pytest.fixture(scope="module")
def made():
    press = profiles.shipped("film")
    page = page_for(press, DAY)
    return press, page, draw_page(page, PPI)


@pytest.mark.parametrize("suffix", ["tif", "pdf", "png"])
def test_a_page_comes_back_channel_by_channel(tmp_path, made, suffix):
    """As a press gets it: turned the right way round again, whatever the file's kind."""
    press, page, planes = made
    write_page(tmp_path / f"page.{suffix}", page, planes, press, PPI)
    read = read_channels(tmp_path / f"page.{suffix}", page.slots, press)
    assert read.ppi == pytest.approx(PPI, rel=1e-3)
    for plane, before in zip(read.planes, planes, strict=True):
        np.testing.assert_array_equal(plane, before)


def test_a_page_of_a_process_that_turns_the_print_over_is_mirrored_in_the_file(tmp_path, made):
    """Common practice, no source: transfers are printed mirrored. Read by tifffile, not by us."""
    press, page, planes = made
    write_page(tmp_path / "page.tif", page, planes, press, PPI)
    samples = tifffile.imread(tmp_path / "page.tif")
    np.testing.assert_array_equal(samples[..., 3], planes[page.inks.index("K")][:, ::-1])
    direct = profiles.shipped("direct")
    flat = page_for(direct, DAY)
    drawn = draw_page(flat, PPI)
    write_page(tmp_path / "flat.tif", flat, drawn, direct, PPI)
    np.testing.assert_array_equal(tifffile.imread(tmp_path / "flat.tif")[..., 0], drawn[0])


def test_a_pdf_page_has_its_true_size_and_names_its_whites(tmp_path, made):
    press, page, planes = made
    write_page(tmp_path / "page.pdf", page, planes, press, PPI)
    pdf = PdfReader(tmp_path / "page.pdf")
    assert float(pdf.pages[0].mediabox.width) / 72 * 25.4 == pytest.approx(WIDTH_MM, abs=0.2)
    assert float(pdf.pages[0].mediabox.height) / 72 * 25.4 == pytest.approx(page.height_mm, abs=0.2)
    assert "press: film" in pdf.metadata.subject
    assert channel_names(page.slots) == ["C", "M", "Y", "K", "White", "White2"]


def test_a_press_without_white_has_a_page_too(tmp_path):
    press = profiles.shipped("toner-colour")
    page = page_for(press, DAY)
    planes = draw_page(page, PPI)
    for suffix in ("pdf", "tif"):
        write_page(tmp_path / f"page.{suffix}", page, planes, press, PPI)
        read = read_channels(tmp_path / f"page.{suffix}", page.slots, press)
        np.testing.assert_array_equal(read.planes[0], planes[0])


@pytest.mark.parametrize(
    ("name", "data"),
    [("page.gif", b""), ("page.tif", b"II*\0rubbish"), ("page.pdf", b"%PDF-1.4 rubbish"), ("page.png", b"rubbish"),
     ("gone.tif", None)],
)  # fmt: skip
def test_what_is_no_page_is_refused_in_a_sentence(tmp_path, made, name, data):
    press, page, _ = made
    if data is not None:
        (tmp_path / name).write_bytes(data)
    with pytest.raises(PlanError, match=r"[.]$"):
        read_channels(tmp_path / name, page.slots, press)


def test_a_plain_tiff_is_no_page(tmp_path, made):
    press, page, _ = made
    tifffile.imwrite(tmp_path / "plain.tif", np.zeros((20, 20, 3), np.uint8))
    with pytest.raises(PlanError, match="separations"):
        read_channels(tmp_path / "plain.tif", page.slots, press)
    with pytest.raises(PlanError, match=r"[.]pdf"):
        write_page(tmp_path / "page.doc", page, np.zeros((6, 4, 4), np.uint8), press, PPI)


def test_a_scan_keeps_colours_beyond_srgb(tmp_path):
    """The wide space read back: linear sRGB below 0 for a colour that sRGB cannot hold."""
    write_scan(tmp_path / "scan.png", np.full((4, 4, 3), (30, 180, 220), np.uint8), 300)
    scan = read_scan(tmp_path / "scan.png")
    assert scan.light(scan.pixels)[0, 0, 0] < -0.02


@pytest.mark.parametrize("icc", [wide_profile(), wide_gamut_profile()])
def test_colours_of_a_scan_are_those_of_littlecms(tmp_path, icc):
    """Against LittleCMS, for colours that sRGB holds."""
    rng = np.random.default_rng(1)
    pixels = (110 + rng.integers(0, 60, (8, 8, 3))).astype(np.uint8)
    write_png(tmp_path / "a.png", pixels, 300, icc=icc)
    scan = read_scan(tmp_path / "a.png")
    transform = ImageCms.buildTransform(
        ImageCms.ImageCmsProfile(io.BytesIO(icc)), ImageCms.createProfile("sRGB"), "RGB", "RGB",
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
    )  # fmt: skip
    expected = np.asarray(ImageCms.applyTransform(Image.fromarray(pixels), transform))
    assert scan.light(pixels) == pytest.approx(linear_from_srgb(expected / 255), abs=0.006)


def test_a_scan_with_a_strange_profile_is_read_as_artwork_is(tmp_path):
    write_png(tmp_path / "a.png", np.full((4, 4, 3), 128, np.uint8), 300, icc=b"rubbish" * 40)
    assert read_scan(tmp_path / "a.png").pixels[0, 0].tolist() == [128, 128, 128]
    assert _meaning(b"") is None
    assert _meaning(wide_profile()[:200]) is None


def test_measured_constants_are_written_with_what_they_were():
    press = profiles.shipped("direct")
    curve = tuple(min(1.0, 0.13 * at) for at in range(11))
    found = [
        Constant("white.contrast_ratio", "", "", 0.7, 0.66, 0.01),
        Constant("registration.shift_mm", "", "mm", (0.0, 0.0), (0.2, -0.1), 0.002),
        Constant("separation.tone_curves.M", "", "", (0.0,), curve),
    ]
    day = datetime.date(2026, 11, 28)
    made = profiles.parse(measured_profile(press, found, "test print, scan “a.png”", day), "direct")
    assert made.white.contrast_ratio == 0.66
    assert made.registration.shift_mm == (0.2, -0.1)
    assert made.separation.tone_curves[1] == curve
    assert made.separation.tone_curves[0] == pytest.approx(np.linspace(0, 1, 11))
    entry = made.measured_as("white.contrast_ratio")
    assert (entry.old, entry.value, entry.pm, entry.date) == (0.7, 0.66, 0.01, "2026-11-28")
    assert made.measured_as("holds.line_mm") is None
    again = profiles.parse(
        measured_profile(made, [Constant("white.contrast_ratio", "", "", 0.66, 0.64, 0.01)], "again", day), "direct"
    )
    assert [(e.old, e.value) for e in again.measured if e.constant == "white.contrast_ratio"] == [
        (0.7, 0.66),
        (0.66, 0.64),
    ]
    assert tomllib.loads(again.source)["white"]["contrast_ratio"] == 0.64


def test_a_value_that_no_press_has_is_refused():
    press = profiles.shipped("direct")
    with pytest.raises(PlanError, match="contrast_ratio"):
        measured_profile(press, [Constant("white.contrast_ratio", "", "", 0.7, 1.4)], "", datetime.date(2026, 1, 1))
