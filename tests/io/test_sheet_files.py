"""Whole sheets as files: what is written is what lies on them, by readers that are not ours."""

import re
import subprocess
import zlib
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pytest
import tifffile
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from pypdf import PdfReader

from swaddon.core.artwork.raster import Box
from swaddon.core.errors import PlanError
from swaddon.core.sheet.media import Medium
from swaddon.io.cut_lines import write_cut_pdf, write_cut_svg
from swaddon.io.media import (
    cells_of,
    media_from,
    medium_named,
    parse_media,
    read_media,
    shipped_media,
    typed_medium,
    write_media,
)
from swaddon.io.png import adler_combined
from swaddon.io.separations import spot_names
from swaddon.io.sheet_bands import PlateStore, SheetPlanes, Stamp
from swaddon.io.sheet_writers import Words, write_sheet_pdf, write_sheet_pngs, write_sheet_tiff

PPI = 150.0


def quiet(_share: float) -> None:
    pass


@pytest.fixture
def laid(tmp_path: Path):
    """A store with two prints, and a sheet of 700 × 1300 px on which they lie turned, mirrored and overlapping empties;
    with it the same laid by plain NumPy."""
    rng = np.random.default_rng(4)
    store = PlateStore(tmp_path, 5)
    whole = np.zeros((1300, 700, 5), np.uint8)
    stamps = []
    for turn, (x, y), mirrored in (
        (0, (20, 30), False),
        (90, (300, 5), True),
        (270, (40, 600), False),
        (180, (50, 990), True),
    ):
        planes = rng.integers(0, 256, (260, 310, 5)).astype(np.uint8)
        planes[rng.random((260, 310)) < 0.5] = 0
        box = Box(10, 20, 300, 250)
        stored = store.keep(planes[..., :4], [planes[..., 4]], box, turn, mirrored)
        own = planes[20:250, 10:300]
        own = own[:, ::-1] if mirrored else own
        own = np.rot90(own, -(turn // 90))
        assert (stored.height, stored.width) == own.shape[:2]
        whole[y : y + own.shape[0], x : x + own.shape[1]] = np.maximum(
            whole[y : y + own.shape[0], x : x + own.shape[1]], own
        )
        stamps.append(Stamp(stored, x, y))
    yield store, SheetPlanes(700, 1300, PPI, ("White",), False, tuple(stamps)), whole
    store.close()


def test_bands_laid_together_are_the_whole_sheet(laid):
    store, sheet, whole = laid
    assert np.array_equal(store.compose(sheet, 0, 1300), whole)
    for top in range(0, 1300, 37):
        assert np.array_equal(store.compose(sheet, top, min(1300, top + 37)), whole[top : top + 37])


def test_the_tiff_is_read_by_another_reader_with_its_white_named(laid, tmp_path: Path):
    store, sheet, whole = laid
    write_sheet_tiff(tmp_path / "s.tif", store, sheet, "sheet 1", quiet)
    assert np.array_equal(tifffile.imread(tmp_path / "s.tif"), whole)
    assert spot_names(tmp_path / "s.tif") == ["White"]
    with tifffile.TiffFile(tmp_path / "s.tif") as file:
        assert not file.is_bigtiff
        assert file.pages[0].photometric == tifffile.PHOTOMETRIC.SEPARATED
        assert file.pages[0].tags["XResolution"].value == (150, 1)


def test_each_ink_is_a_png_that_another_reader_opens(laid, tmp_path: Path):
    store, sheet, whole = laid
    names = ["C", "M", "Y", "K", "White"]
    write_sheet_pngs({name: tmp_path / f"{name}.png" for name in names}, store, sheet, "sheet 1", quiet)
    for index, name in enumerate(names):
        with Image.open(tmp_path / f"{name}.png") as picture:
            assert picture.mode == "L"
            assert picture.info["dpi"] == pytest.approx((150, 150), abs=0.02)
            assert np.array_equal(np.asarray(picture), whole[..., index])


def test_the_pdf_has_its_true_size_and_every_plane(laid, tmp_path: Path):
    """pikepdf gives the images back, pypdf the size, pdfium draws it."""
    store, sheet, whole = laid
    write_sheet_pdf(tmp_path / "s.pdf", store, sheet, "sheet 1 of 2: Größe", quiet, [Words(5, 6, 3, "Sheet (1) of 2")])
    found = np.zeros_like(whole)
    with pikepdf.open(tmp_path / "s.pdf") as pdf:
        assert not pdf.check_pdf_syntax() if hasattr(pdf, "check_pdf_syntax") else not pdf.check()
        for line in pdf.pages[0].Contents.read_bytes().decode("latin-1").splitlines():
            if " Do" not in line:
                continue
            words = line.split()
            name, low = words[-3], float(words[words.index("cm") - 1])
            image = pdf.pages[0].Resources.XObject[name]
            rows = int(image.Height)
            bottom = 1300 - round(low * PPI / 72)
            samples = np.frombuffer(image.read_bytes(), np.uint8).reshape(rows, 700, -1)
            if image.ColorSpace == pikepdf.Name.DeviceCMYK:
                found[bottom - rows : bottom, :, :4] = samples
            else:
                assert image.ColorSpace[1] == "/White"
                found[bottom - rows : bottom, :, 4] = samples[..., 0]
    assert np.array_equal(found, whole)
    reader = PdfReader(tmp_path / "s.pdf")
    assert float(reader.pages[0].mediabox.width) == pytest.approx(700 / PPI * 72, abs=0.001)
    assert reader.metadata.subject == "sheet 1 of 2: Größe"
    assert "Sheet (1) of 2" in reader.pages[0].extract_text()
    document = pypdfium2.PdfDocument(tmp_path / "s.pdf")
    assert document[0].render(scale=0.5).to_pil().getextrema() != ((255, 255),) * 3
    document.close()


def test_a_page_of_more_than_200_inches_counts_in_larger_units(tmp_path: Path):
    with PlateStore(tmp_path, 4) as store:
        ink = np.full((4, 4, 4), 255, np.uint8)
        stored = store.keep(ink, [], Box(0, 0, 4, 4), 0, False)
        sheet = SheetPlanes(40, 2500, 10, (), False, (Stamp(stored, 1, 2490),))
        write_sheet_pdf(tmp_path / "long.pdf", store, sheet, "long", quiet)
    page = PdfReader(tmp_path / "long.pdf").pages[0]
    unit = float(page["/UserUnit"])
    assert float(page.mediabox.height) * unit == pytest.approx(250 * 72, abs=0.01)
    assert float(page.mediabox.height) <= 14_400


def test_a_writer_that_is_stopped_raises_and_leaves_the_store_usable(laid, tmp_path: Path):
    store, sheet, whole = laid

    def stop(share: float) -> None:
        if share > 0.2:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        write_sheet_tiff(tmp_path / "s.tif", store, sheet, "x", stop)
    assert np.array_equal(store.compose(sheet, 0, 64), whole[:64])


@given(st.binary(max_size=300), st.binary(max_size=300))
def test_the_check_of_two_pieces_is_that_of_the_whole(one, other):
    """RFC 1950; zlib's own."""
    assert adler_combined(zlib.adler32(one), zlib.adler32(other), len(other)) == zlib.adler32(one + other)


def test_cut_lines_are_closed_lines_at_true_size(tmp_path: Path):
    lines = [np.array([[10.0, 20.0], [40.0, 20.0], [40.0, 60.0]]), np.array([[1.0, 1.0], [2.0, 1.0], [2.0, 2.0]])]
    write_cut_svg(tmp_path / "c.svg", (210.0, 297.0), lines, "Cut <lines>")
    text = (tmp_path / "c.svg").read_text()
    assert 'width="210.000mm" height="297.000mm" viewBox="0 0 210.000 297.000"' in text
    assert text.count(" Z") == 2
    assert "Cut &lt;lines&gt;" in text
    write_cut_pdf(tmp_path / "c.pdf", (210.0, 297.0), lines, "Cut lines")
    page = PdfReader(tmp_path / "c.pdf").pages[0]
    assert float(page.mediabox.width) == pytest.approx(210 / 25.4 * 72, abs=0.01)
    drawn = page.get_contents().get_data().decode("latin-1")
    x, y = 10 / 25.4 * 72, (297 - 20) / 25.4 * 72
    numbers = [float(word) for word in re.findall(r"-?\d*\.\d+", drawn)]
    assert min(abs(number - x) for number in numbers) < 1e-3
    assert min(abs(number - y) for number in numbers) < 1e-3


def test_resvg_draws_the_cut_lines_where_they_are(tmp_path: Path):
    """An independent reader of SVG: the line passes where it should and nowhere else."""
    import resvg_py

    lines = [np.array([[20.0, 20.0], [80.0, 20.0], [80.0, 80.0], [20.0, 80.0]])]
    write_cut_svg(tmp_path / "c.svg", (100.0, 100.0), lines, "Cut")
    text = (tmp_path / "c.svg").read_text().replace('stroke-width="0.1"', 'stroke-width="2"')
    data = bytes(resvg_py.svg_to_bytes(svg_string=text, width=400, dpi=96.0))
    (tmp_path / "c.png").write_bytes(data)
    alpha = np.asarray(Image.open(tmp_path / "c.png").convert("RGBA"))[..., 3]
    assert alpha[80, 200] > 128
    assert alpha[200, 320] > 128
    assert not alpha[120:280, 120:280].any()


# media


def test_shipped_media_have_the_sizes_of_iso_216_and_of_the_inch():
    """ISO 216: A4 is 210 × 297 mm, A3 297 × 420 mm; tabloid is 11 × 17 in of 25.4 mm."""
    sizes = {medium.name: (medium.width_mm, medium.height_mm) for medium in shipped_media()}
    assert sizes["a4"] == (210, 297)
    assert sizes["a3"] == sizes["film-a3"] == (297, 420)
    assert sizes["tabloid"] == pytest.approx((11 * 25.4, 17 * 25.4))
    assert {medium.kind for medium in shipped_media()} == {"roll", "cut", "sheet", "decal", "platen", "plate"}


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("600x1000mm", (600, 1000)),
        ("11x17in", (279.4, 431.8)),
        ("60 cm × 1000 mm", (600, 1000)),
        ("210*297", (210, 297)),
    ],
)
def test_a_size_may_be_typed_in_the_place_of_a_name(text, size):
    made = typed_medium(text)
    assert (made.width_mm, made.height_mm) == pytest.approx(size)


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "media"), ("schema = 'swaddon-media/1'\nmedia = []", "media"), ("x = [", "TOML"),
        ("schema='swaddon-media/1'\n[[media]]\nname='a'\ntitle='A'\nkind='cut'\nwidth_mm=5\nheight_mm=9\nmargin_mm=[3,0,3,0]",
         "smaller than its margins"),
        ("schema='swaddon-media/1'\n[[media]]\nname='a'\ntitle='A'\nkind='cut'\nwidth_mm=5", "height_mm"),
        ("schema='swaddon-media/1'\n" + "[[media]]\nname='a'\ntitle='A'\nkind='roll'\nwidth_mm=5\n" * 2, "twice"),
    ],
)  # fmt: skip
def test_bad_media_are_refused_in_a_sentence(text, why):
    with pytest.raises(PlanError, match=why):
        parse_media(text, "media.toml")
    with pytest.raises(PlanError, match="no medium “attic”"):
        medium_named("attic", shipped_media())
    with pytest.raises(PlanError, match="between 1 mm and 60 m"):
        typed_medium("0x4mm")


def test_media_go_through_a_table_and_a_file_unchanged(tmp_path: Path):
    media = media_from([cells_of(medium) for medium in shipped_media()])
    assert media == shipped_media()
    write_media(tmp_path / "media.toml", media)
    assert read_media(tmp_path / "media.toml") == media


@pytest.mark.parametrize(
    ("column", "text", "why"),
    [(3, "wide", "Row 1, Width: “wide” is no number"), (0, "A B", "Row 1, name"), (3, "8", "Row 1: .*margins"),
     (3, "-4", "Row 1, width_mm")],
)  # fmt: skip
def test_a_wrong_row_of_media_is_named(column, text, why):
    cells = list(cells_of(shipped_media()[4]))
    cells[column] = text
    with pytest.raises(ValueError, match=why):
        media_from([cells])
    row = cells_of(shipped_media()[4])
    with pytest.raises(ValueError, match="Row 2 has the name “a4” again"):
        media_from([row, row])
    with pytest.raises(ValueError, match="at least one"):
        media_from([])


def test_a_medium_leaves_what_its_margins_leave():
    assert Medium("m", "M", "cut", 100, 80, (1, 2, 3, 4)).printable_mm == (96, 74)


@pytest.mark.skipif(not Path("/usr/bin/gs").exists(), reason="Ghostscript is not on this machine")
def test_ghostscript_separates_the_white_of_the_pdf(laid, tmp_path: Path):
    """Plates by an independent interpreter, at the file's own resolution."""
    store, sheet, whole = laid
    write_sheet_pdf(tmp_path / "s.pdf", store, sheet, "x", quiet)
    command = ["gs", "-q", "-dBATCH", "-dNOPAUSE", "-sDEVICE=tiffsep", f"-r{PPI:.0f}", "-o", "p.tif", "s.pdf"]
    subprocess.run(command, cwd=tmp_path, check=True, timeout=120)
    plate = 255 - np.asarray(Image.open(tmp_path / "p(White).tif").convert("L")).astype(int)
    assert abs(plate - whole[..., 4]).max() <= 1
