"""The size a file says: resolution tags as Pillow and tifffile write them, kept where somebody meant them."""

import io
import zipfile

import numpy as np
import pytest
import tifffile
from PIL import Image, PngImagePlugin
from tests.conftest import badge

from swaddon.core.artwork.placement import Placement
from swaddon.io import profiles
from swaddon.io.images import decode_artwork
from swaddon.session.edits import place_artwork, set_stated_width
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.ordering import Order, ordered

PICTURE = Image.fromarray(badge(300)).convert("RGB").resize((600, 300))


def saved(kind: str, picture: Image.Image = PICTURE, **more: object) -> bytes:
    out = io.BytesIO()
    picture.save(out, kind, **more)
    return out.getvalue()


def exif(x: float, y: float, unit: int = 2, orientation: int = 1) -> bytes:
    tags = Image.Exif()
    tags[0x011A], tags[0x011B], tags[0x0128], tags[0x0112] = x, y, unit, orientation
    return tags.tobytes()


def stated(data: bytes, name: str) -> float | None:
    return decode_artwork(data, name).natural_width_mm


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
def test_resolution_tags_are_read(kind):
    """600 px at 150 ppi are 4 in."""
    assert stated(saved(kind, dpi=(150, 150)), "a") == pytest.approx(101.6, abs=0.1)
    assert stated(saved(kind, dpi=(240, 120)), "a") == pytest.approx(63.5, abs=0.1)


def test_exif_is_read_in_inches_and_centimetres_upright():
    assert stated(saved("WEBP", exif=exif(200, 200)), "a.webp") == pytest.approx(76.2)
    assert stated(saved("WEBP", exif=exif(100, 100, unit=3)), "a.webp") == pytest.approx(60)
    turned = decode_artwork(saved("WEBP", exif=exif(200, 100, orientation=6)), "a.webp")
    assert turned.width_px == 300
    assert turned.natural_width_mm == pytest.approx(300 / 100 * 25.4)


def test_a_tiff_of_centimetres_and_of_no_unit():
    out = io.BytesIO()
    tifffile.imwrite(out, np.asarray(PICTURE), resolution=(60, 60), resolutionunit="CENTIMETER", photometric="rgb")
    assert stated(out.getvalue(), "a.tif") == pytest.approx(100, abs=0.1)
    out = io.BytesIO()
    tifffile.imwrite(out, np.asarray(PICTURE), resolution=(60, 60), resolutionunit="NONE", photometric="rgb")
    assert stated(out.getvalue(), "a.tif") is None


def test_what_says_nothing_or_nonsense_says_nothing():
    assert stated(saved("PNG"), "a.png") is None
    assert stated(saved("WEBP"), "a.webp") is None
    for wrong in (b"\0" * 8, b"\xff" * 8):
        chunks = PngImagePlugin.PngInfo()
        chunks.add(b"pHYs", wrong + b"\1")
        assert stated(saved("PNG", pnginfo=chunks), "a.png") is None
    ratio = PngImagePlugin.PngInfo()
    ratio.add(b"pHYs", (5906).to_bytes(4, "big") * 2 + b"\0")
    assert stated(saved("PNG", pnginfo=ratio), "a.png") is None


def test_an_openraster_says_its_resolution():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr(
            "stack.xml", '<image w="600" h="300" xres="200" yres="200"><stack><layer src="a.png"/></stack></image>'
        )
        archive.writestr("a.png", saved("PNG"))
    assert stated(out.getvalue(), "a.ora") == pytest.approx(76.2)


@pytest.mark.parametrize(("ppi", "first_mm"), [(150, 101.6), (300, 50.8), (72, 50.8), (96, 50.8)])
def test_a_first_print_is_as_wide_as_the_file_says_where_somebody_meant_it(ppi, first_mm):
    """72 and 96 ppi are of screens: the file's size is offered, and 300 ppi taken."""
    file = ArtworkFile(decode_artwork(saved("PNG", dpi=(ppi, ppi)), "a.png"), b"")
    job = place_artwork(file, profiles.shipped("film")).change(Job())
    assert job.settings.width_mm == pytest.approx(first_mm, abs=0.1)
    own = set_stated_width().change(job).settings.width_mm
    assert own == pytest.approx(600 / ppi * 25.4, abs=0.1)
    cropped = file.artwork.stated_mm(Placement((0, 0, 150, 300)))
    assert cropped == pytest.approx(own / 4, abs=0.1)


@pytest.mark.parametrize(("ppi", "width_mm"), [(150, 101.6), (72, 250.0), (None, 250.0)])
def test_the_command_line_keeps_what_the_file_says_too(tmp_path, ppi, width_mm):
    more = {} if ppi is None else {"dpi": (ppi, ppi)}
    (tmp_path / "a.png").write_bytes(saved("PNG", **more))
    job = ordered(Order(artwork=tmp_path / "a.png"), lambda: None)
    assert job.settings.width_mm == pytest.approx(width_mm, abs=0.1)
    given = ordered(Order(artwork=tmp_path / "a.png", width="90mm"), lambda: None)
    assert given.settings.width_mm == 90
