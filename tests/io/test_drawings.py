"""Drawings and layers in: SVG and PDF at any resolution, OpenRaster layer by layer, bad ones with a sentence."""

import gzip
import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.io.pdf import pdf

from swaddon.core.artwork.placement import Placement
from swaddon.core.errors import PlanError
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.io import profiles
from swaddon.io.images import decode_artwork, read_artwork
from swaddon.session.job import request_for

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="50.8mm" height="25.4mm" viewBox="0 0 200 100">
<rect x="20" y="20" width="60" height="60" fill="#c81e28"/><circle cx="150" cy="50" r="30" fill="#1e3cb4"/></svg>"""


GROWING = b'<!ENTITY e0 "ha">' + b"".join(b'<!ENTITY e%d "%s">' % (n, b"&e%d;" % (n - 1) * 10) for n in range(1, 10))
"""Entities that stand for a thousand million times two letters."""

TWO_PAGES = pdf(b"0.8 0.1 0.1 rg 18 18 36 36 re f", b"0.1 0.2 0.7 rg 90 18 36 36 re f")


def test_an_svg_has_its_own_size_and_transparency(tmp_path: Path):
    (tmp_path / "a.svg").write_bytes(SVG)
    art = read_artwork(tmp_path / "a.svg")
    assert (art.file_format, art.width_px, art.height_px) == ("SVG", 600, 300)
    assert art.natural_mm == pytest.approx(50.8)
    assert art.rgba[10, 10, 3] == 0
    assert tuple(art.rgba[150, 150]) == (200, 30, 40, 255)
    assert decode_artwork(gzip.compress(SVG), "a.svgz").width_px == 600


@pytest.mark.parametrize("encoding", ["utf-8", "iso-8859-1", "windows-1252", "utf-16", "utf-16-le", "utf-16-be"])
@pytest.mark.parametrize("declares", [True, False])
def test_an_svg_of_any_encoding_is_read(encoding, declares):
    """XML 1.0, 4.3.3 and appendix F: by its mark, its declaration, or its first bytes."""
    if encoding in ("iso-8859-1", "windows-1252") and not declares:
        return  # nothing would tell them
    head = f'<?xml version="1.0" encoding="{encoding.removesuffix("-le").removesuffix("-be")}"?>\n' if declares else ""
    text = head + SVG.decode().replace("</svg>", '<g id="größe"/></svg>')
    art = decode_artwork(text.encode(encoding), "a.svg")
    assert np.array_equal(art.rgba, decode_artwork(SVG, "a.svg").rgba)


def test_inner_entities_as_drawing_programs_write_them_are_written_out():
    """A namespace, a colour within a style, and a shape; a link that hides in one is cut all the same."""
    head = b"""<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd" [
  <!ENTITY ns_svg "http://www.w3.org/2000/svg"> <!ENTITY red "#c81e28"> <!ENTITY st "fill:&red;">
  <!ENTITY dot '<circle cx="150" cy="50" r="30" fill="#1e3cb4"/>'> <!ENTITY link "/etc/secret.png"> ]>"""
    body = b"""<svg xmlns="&ns_svg;" width="50.8mm" height="25.4mm" viewBox="0 0 200 100">
<rect x="20" y="20" width="60" height="60" style="&st;"/>&dot;<image href="&link;" width="9" height="9"/></svg>"""
    art = decode_artwork(head + body, "a.svg")
    assert np.array_equal(art.rgba, decode_artwork(SVG, "a.svg").rgba)
    assert any("left out" in note for note in art.notes)


def test_a_drawing_is_rendered_at_the_plans_resolution(compiled):
    """Twice the print width: edges stay one pixel sharp, unlike enlarged pixels."""
    art = decode_artwork(SVG, "a.svg")
    settings = PlanSettings(width_mm=101.6)
    plan = make_plan(request_for(art, settings, profiles.shipped("film")))
    assert plan.grid.shape[:2] == (600, 1200)
    assert ((plan.grid[300, :, 3] > 0) & (plan.grid[300, :, 3] < 255)).sum() <= 4
    assert not any(finding.code == "ppi-low" for finding in plan.findings)


def test_a_cropped_and_turned_drawing_keeps_its_parts(compiled):
    art = decode_artwork(SVG, "a.svg")
    settings = PlanSettings(width_mm=25.4, placement=Placement((300, 0, 600, 300), 1))
    plan = make_plan(request_for(art, settings, profiles.shipped("film")))
    assert plan.grid.shape[:2] == (300, 300)
    assert tuple(plan.grid[150, 150, :3]) == (30, 60, 180)
    assert plan.grid[5, 5, 3] == 0


def test_nothing_outside_an_svg_is_fetched(tmp_path: Path):
    secret = tmp_path / "secret.png"
    Image.new("RGB", (50, 50), (1, 200, 3)).save(secret)
    linked = SVG.replace(b"</svg>", f'<image href="{secret}" width="200" height="100"/></svg>'.encode())
    art = decode_artwork(linked, "a.svg")
    assert not (art.rgba[..., 1] == 200).any()
    assert any("left out" in note for note in art.notes)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (SVG[:120], "damaged"),
        (SVG.replace(b"50.8mm", b"9e9mm"), "sensible size"),
        (b'<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]>' + SVG, "fetches “a” from outside"),
        (b'<!DOCTYPE svg [<!ENTITY % p "x">]>' + SVG, "fetches “p” from outside"),
        (b'<!DOCTYPE svg [<!ENTITY a "&a;&a;">]>' + SVG, "grows by others, “a”"),
        (b"<!DOCTYPE svg [" + GROWING + b"]>" + SVG.replace(b"</svg>", b"<desc>&e9;</desc></svg>"), "grows by others"),
        (b'<?xml version="1.0" encoding="zlib"?>' + SVG, "is not a PNG"),
        (pdf(b"", b"0 g 9 9 9 9 re f"), "There is nothing on page 1 of"),
        (pdf(b"q 1 1 1 rg Q"), "There is nothing on the page of"),
        (TWO_PAGES[:40], "damaged"),
        (b"%PDF-1.7 and then nothing", "damaged"),
    ],
)
def test_bad_drawings_get_one_sentence(data, says):
    with pytest.raises(PlanError, match=says) as text:
        decode_artwork(data, "bad.drawing")
    assert "bad.drawing" in str(text.value)


def test_a_chosen_page_of_a_pdf_is_read_with_bare_paper_transparent():
    first, second = decode_artwork(TWO_PAGES, "a.pdf"), decode_artwork(TWO_PAGES, "a.pdf", 2)
    assert (first.pages, first.page, second.page) == (2, 1, 2)
    assert first.content_id != second.content_id
    assert (first.width_px, first.height_px) == (600, 300)
    assert first.rgba[150, 150, 3] == 255
    assert first.rgba[150, 150, 0] > 180
    assert first.rgba[150, 450, 3] == 0
    assert second.rgba[150, 450, 2] > 150
    with pytest.raises(PlanError, match="no page 3"):
        decode_artwork(TWO_PAGES, "a.pdf", 3)


def ora(stack: str, **layers: Image.Image) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack)
        for name, picture in layers.items():
            data = io.BytesIO()
            picture.save(data, "PNG")
            archive.writestr(f"{name}.png", data.getvalue())
    return buffer.getvalue()


RED, BLUE = Image.new("RGBA", (20, 20), (200, 0, 0, 255)), Image.new("RGBA", (20, 20), (0, 0, 200, 255))


def test_openraster_layers_are_laid_over_each_other_as_they_are_shown():
    stack = """<image w="60" h="40"><stack>
      <layer src="hid.png" visibility="hidden"/><layer src="red.png" x="10" y="10" opacity="0.5"/>
      <stack x="5" y="0"><layer src="blue.png" x="15" y="10"/></stack></stack></image>"""
    art = decode_artwork(ora(stack, hid=RED, red=RED, blue=BLUE), "a.ora")
    assert (art.width_px, art.height_px, art.file_format) == (60, 40, "OpenRaster")
    assert tuple(art.rgba[15, 12]) == (200, 0, 0, 128)
    assert art.rgba[15, 25, 0] == pytest.approx(100, abs=1)
    assert art.rgba[15, 25, 2] == pytest.approx(100, abs=1)
    assert tuple(art.rgba[15, 35]) == (0, 0, 200, 255)
    assert art.rgba[0, 0, 3] == 0
    assert "2 layers" in art.notes[0]


def test_special_blending_takes_the_merged_picture():
    stack = '<image w="20" h="20"><stack><layer src="red.png" composite-op="svg:multiply"/></stack></image>'
    art = decode_artwork(ora(stack, red=RED, mergedimage=BLUE), "a.ora")
    assert tuple(art.rgba[5, 5]) == (0, 0, 200, 255)


@pytest.mark.parametrize(
    ("stack", "says"),
    [
        ("<image", "damaged"),
        ('<image w="90000" h="90000"><stack/></image>', "print size"),
        ('<image w="9" h="9"><stack><layer src="../x.png"/></stack></image>', "damaged"),
        ('<!DOCTYPE a [<!ENTITY a "b">]><image w="9" h="9"><stack/></image>', "entities"),
    ],
)
def test_bad_layered_files_get_one_sentence(stack, says):
    with pytest.raises(PlanError, match=says):
        decode_artwork(ora(stack), "bad.ora")


def test_arrays_of_drawings_are_read_only():
    assert not decode_artwork(SVG, "a.svg").rgba.flags.writeable
    assert np.asarray(decode_artwork(TWO_PAGES, "a.pdf").rgba).dtype == np.uint8
