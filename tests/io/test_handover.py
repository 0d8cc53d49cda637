"""What the next program gets: read back with other readers, named, sized and turned as it says."""

import json
import struct
import subprocess
import sys
import zipfile
import zlib
from xml.etree import ElementTree

import numpy as np
import pypdf
import pypdfium2
import pytest
import tifffile
from PIL import Image
from tests.conftest import PLATES, badge

from swaddon.core.errors import PlanError
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.order.handover import HandOver, check_white_name
from swaddon.core.order.settings import PlanSettings
from swaddon.io import export, handover
from swaddon.io.images import read_artwork
from swaddon.io.separations import spot_names
from swaddon.io.spot_pdf import colorants, write_print_pdf

BLACK = (27, 27, 31)


def exported(plan, folder):
    return {path.name: path for path in export.export_plan(plan, folder)}


def turned(plane):
    return plane[:, ::-1]


@pytest.fixture
def plan(make):
    """A function: a film plan, which is mirrored, handed over in some way."""

    def build(process="film", **chosen):
        return make(badge(), garment=BLACK, process=process, handover=HandOver(**chosen))

    return build


def samples_of(image):
    """Samples of a PDF image as pypdf reads them."""
    data = np.frombuffer(image.get_data(), np.uint8)
    return data.reshape(image["/Height"], image["/Width"], -1)


def images_of(path):
    page = pypdf.PdfReader(path).pages[0]
    return page, [item.get_object() for item in page["/Resources"]["/XObject"].values()]


def test_plates_alone_are_what_they_were(plan, tmp_path):
    files = exported(plan(), tmp_path / "out")
    assert set(files) == PLATES - {export.HIGHLIGHT_FILE}
    assert spot_names(files["separations.tif"]) == ["White"]


@pytest.mark.parametrize("name", ["Undercoat 7", "Weiß (2)", "w", "blanc/deux"])
def test_a_pdf_holds_the_white_by_any_name(plan, tmp_path, name):
    made = plan(kind="pdf", white_name=name)
    path = exported(made, tmp_path / "out")["print-mirrored.pdf"]
    page, (image,) = images_of(path)
    space = image["/ColorSpace"]
    assert space[0] == "/DeviceN"
    assert [str(item)[1:] for item in space[1]] == ["Cyan", "Magenta", "Yellow", "Black", name]
    samples = samples_of(image)
    assert np.array_equal(samples[..., :4], turned(made.cmyk))
    assert np.array_equal(samples[..., 4], turned(made.white_plane))
    width, height = (float(side) / 72 * 25.4 for side in page.mediabox[2:])
    assert width == pytest.approx(made.request.settings.width_mm, abs=0.05)
    assert height == pytest.approx(made.request.height_mm, abs=0.05)
    told = pypdf.PdfReader(path).metadata["/Subject"]
    assert told.startswith("mirrored; ")
    assert name in told


def test_a_viewer_without_white_sees_the_colours_where_they_print(plan, tmp_path):
    made = plan(process="direct", kind="pdf")
    path = exported(made, tmp_path / "out")["print-not-mirrored.pdf"]
    shown = np.asarray(pypdfium2.PdfDocument(str(path))[0].render(scale=300 / 72).to_pil().convert("RGB"))
    height, width = made.cmyk.shape[:2]
    shown = shown[:height, :width].astype(int)
    full = made.cmyk.max(axis=2)[: shown.shape[0], : shown.shape[1]]
    assert shown[full == 0].min() > 250
    assert shown[full > 200].min(axis=1).mean() < 130


def test_rgb_is_flattened_with_white_over_it(plan, tmp_path):
    made = plan(kind="pdf", colour="rgb", white_name="W1")
    _, (picture, white) = images_of(exported(made, tmp_path / "out")["print-mirrored.pdf"])
    assert picture["/ColorSpace"] == "/DeviceRGB"
    assert np.array_equal(samples_of(picture), turned(handover.flattened(made)))
    assert [str(part) for part in white["/ColorSpace"][:2]] == ["/Separation", "/W1"]
    assert np.array_equal(samples_of(white)[..., 0], turned(made.white_plane))


def test_flattened_follows_alpha_and_holes(make):
    made = make(badge(), holes=HoleSettings(default=Screen("round", 30, 45, 0.6)), handover=HandOver("tiff", "rgb"))
    flat = handover.flattened(made).astype(int)
    share = made.art[..., 3:] / 255 * made.cut[..., None] / 255
    assert np.abs(flat - (made.art[..., :3] * share + 255 * (1 - share))).max() <= 1.01
    assert flat[made.art[..., 3] == 0].min() == 255


def read_tiff(data):
    """All samples of a deflated, stripped, 8-bit TIFF, read after TIFF 6.0 with nothing but struct and zlib."""
    order = {b"II": "<", b"MM": ">"}[data[:2]]
    (at,) = struct.unpack_from(order + "I", data, 4)
    (count,) = struct.unpack_from(order + "H", data, at)
    tags = {}
    for entry in range(at + 2, at + 2 + 12 * count, 12):
        tag, kind, number = struct.unpack_from(order + "HHI", data, entry)
        size, code = {1: (1, "B"), 2: (1, "B"), 3: (2, "H"), 4: (4, "I"), 5: (8, "Q")}[kind]
        place = entry + 8 if size * number <= 4 else struct.unpack_from(order + "I", data, entry + 8)[0]
        tags[tag] = struct.unpack_from(f"{order}{number}{code}", data, place)
    width, height, channels = tags[256][0], tags[257][0], tags[277][0]
    packed = (data[at : at + size] for at, size in zip(tags[273], tags[279], strict=True))
    raw = b"".join(zlib.decompress(strip) for strip in packed)
    return np.frombuffer(raw, np.uint8)[: width * height * channels].reshape(height, width, channels)


@pytest.mark.parametrize("colour", ["cmyk", "rgb"])
def test_a_tiff_names_its_white_and_says_how_it_lies(plan, tmp_path, colour):
    made = plan(kind="tiff", colour=colour, white_name="Unterdruck Ä")
    path = exported(made, tmp_path / "out")["print-mirrored.tif"]
    with tifffile.TiffFile(path) as file:
        page = file.pages[0]
        assert page.tags["Photometric"].value == {"cmyk": 5, "rgb": 2}[colour] if "Photometric" in page.tags else True
        assert page.photometric == {"cmyk": 5, "rgb": 2}[colour]
        assert page.tags["ImageDescription"].value.startswith("mirrored; ")
        samples = page.asarray()
    assert spot_names(path) == ["Unterdruck Ä"]
    assert np.array_equal(read_tiff(path.read_bytes()), samples), "read by hand as well"
    assert np.array_equal(samples[..., -1], turned(made.white_plane))
    wanted = made.cmyk if colour == "cmyk" else handover.flattened(made)
    assert np.array_equal(samples[..., :-1], turned(wanted))


def test_white_may_be_a_file_of_its_own(plan, tmp_path):
    made = plan(kind="tiff", white="file")
    files = exported(made, tmp_path / "out")
    with Image.open(files["print-mirrored.tif"]) as colour, Image.open(files["print-mirrored-white.tif"]) as white:
        assert colour.mode == "CMYK"
        assert white.info["dpi"][0] == pytest.approx(made.ppi, abs=0.5)
        assert np.array_equal(np.asarray(white), turned(made.white_plane))


def test_a_png_comes_in_two(plan, tmp_path):
    made = plan(kind="png")
    files = exported(made, tmp_path / "out")
    with Image.open(files["print-mirrored.png"]) as colour, Image.open(files["print-mirrored-white.png"]) as white:
        assert colour.info["Description"].startswith("mirrored; ")
        assert np.array_equal(np.asarray(colour), turned(handover.flattened(made)))
        assert np.array_equal(np.asarray(white), turned(made.white_plane))


def test_layers_open_in_general_programs_and_in_our_own(plan, tmp_path):
    made = plan(process="direct", kind="layers", white_name="Underbase")
    path = exported(made, tmp_path / "out")["print-not-mirrored.ora"]
    with zipfile.ZipFile(path) as archive:
        assert archive.infolist()[0].filename == "mimetype"
        stack = ElementTree.fromstring(archive.read("stack.xml")).find("stack")
        named = {layer.get("name"): layer.get("src") for layer in stack}
        assert list(named) == ["Black", "Yellow", "Magenta", "Cyan", "Underbase", "Ground"]
        with archive.open(named["Cyan"]) as file:
            assert np.array_equal(np.asarray(Image.open(file))[..., 3], made.cmyk[..., 0])
        with archive.open(named["Underbase"]) as file:
            assert np.array_equal(np.asarray(Image.open(file))[..., 3], made.white_plane)
    assert read_artwork(path).rgba.shape[:2] == made.white_plane.shape


def test_an_earlier_hand_over_goes_with_the_next(plan, tmp_path):
    exported(plan(kind="pdf"), tmp_path / "out")
    exported(plan(kind="tiff"), tmp_path / "out")
    left = {path.name for path in (tmp_path / "out").iterdir()}
    assert "print-mirrored.pdf" not in left
    assert "print-mirrored.tif" in left


def test_a_file_that_lost_its_white_is_not_handed_over(plan, tmp_path, monkeypatch):
    monkeypatch.setattr(handover, "colorants", lambda _path: {})
    with pytest.raises(PlanError, match="without its white channel “White”"):
        export.export_plan(plan(kind="pdf"), tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_the_card_says_what_the_next_program_must_be_told(plan):
    lines = dict(handover.card(plan(kind="pdf", white_name="Spot 1")).lines)
    assert "Spot 1" in lines["White"]
    assert lines["Mirrored"].startswith("yes, already")
    assert "100 %" in lines["Size"]
    assert lines["Files"] == "print-mirrored.pdf"


def test_names_and_mirroring_are_settings_like_others(tmp_path):
    from swaddon.core.schema import document

    told = document(PlanSettings(handover=HandOver("pdf", white_name="W")))
    assert json.loads(json.dumps(told))["handover"]["white_name"] == "W"


def test_the_card_of_two_passes_names_both_files(plan):
    lines = dict(handover.card(plan(process="toner-twopass")).lines)
    assert "colour.pdf" in lines["Pass 1"]
    assert "mask.pdf" in lines["Pass 2"]
    assert lines["Mirrored"].startswith("mirrored already")
    assert "12 mm for marks" in lines["Size"]


@pytest.mark.parametrize("kind", ["pdf", "tiff", "png", "layers", "two-pass"])
def test_a_full_disk_is_told_in_a_sentence(tmp_path, badge_file, kind):
    """In a process of its own: a library's own writing of a PDF once ended the program there."""
    how = ["--process", "toner-twopass"] if kind == "two-pass" else ["--hand-over", kind]
    script = (
        "import resource, signal, sys; signal.signal(signal.SIGXFSZ, signal.SIG_IGN);"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (6000, 6000)); from swaddon.cli import main; main(sys.argv[1:])"
    )
    out = tmp_path / "out"
    command = [sys.executable, "-c", script, "plan", str(badge_file), "--width", "1in", *how, "--out", str(out)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 2, done.stderr
    assert "Nothing could be exported" in done.stderr
    assert not out.exists()


# the PDF itself


def test_a_grey_page_with_marks_is_its_size_with_the_room_round_it(tmp_path):
    from swaddon.io.spot_pdf import Page

    grey = np.full((60, 90), 255, np.uint8)
    grey[20:40, 30:60] = 0
    path = tmp_path / "grey.pdf"
    write_print_pdf(path, grey, {}, (90.0, 60.0), Page(10.0, ((2, 2, 8, 2),), ((2, 8, 3, "Feed (this) edge"),)))
    page = pypdf.PdfReader(path).pages[0]
    assert [float(side) / 72 * 25.4 for side in page.mediabox[2:]] == pytest.approx([110.0, 80.0], abs=1e-3)
    assert "Feed (this) edge" in page.extract_text()
    shown = np.asarray(pypdfium2.PdfDocument(str(path))[0].render(scale=2 * 25.4 / 72).to_pil().convert("L"))
    assert shown[2 * 40, 2 * 55] < 20, "the block, in the middle of the print"
    assert shown[2 * 75, 2 * 100] > 250
    assert shown[3:6, 6:14].min() < 160, "the mark"
    assert colorants(path) == {}


def test_white_alone_can_be_seen(tmp_path):
    white = np.zeros((20, 20), np.uint8)
    white[:, :10] = 255
    write_print_pdf(tmp_path / "w.pdf", None, {"White": white}, (20.0, 20.0))
    shown = np.asarray(pypdfium2.PdfDocument(str(tmp_path / "w.pdf"))[0].render(scale=2).to_pil().convert("L"))
    assert shown[:, : shown.shape[1] // 2 - 2].max() < 90
    assert shown[:, shown.shape[1] // 2 + 2 :].min() > 250


@pytest.mark.parametrize("name", ["Black", "cyan", " Highlight ", "All", "None"])
def test_white_called_like_another_channel_is_refused(name):
    """It would take that channel's place in a TIFF or PDF; “All” paints on every plate (ISO 32000-1, 8.6.6.4)."""
    with pytest.raises(ValueError, match="choose another name"):
        check_white_name(name)
    check_white_name("Spot 1")
