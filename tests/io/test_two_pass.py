"""The two files of a two-pass print: true size, the same marks, turned alike, and what each of them prints."""

import cv2
import numpy as np
import pypdf
import pypdfium2
import pytest
from PIL import Image
from tests.conftest import badge

from swaddon.io import export, two_pass


@pytest.fixture
def files(make, tmp_path):
    plan = make(badge(), process="toner-twopass", garment=(27, 27, 31))
    return plan, {path.name: path for path in export.export_plan(plan, tmp_path / "out")}


def test_only_two_passes_have_two_files(make, tmp_path, files):
    assert set(two_pass.NAMES) <= set(files[1])
    other = {path.name for path in export.export_plan(make(badge()), tmp_path / "film")}
    assert not other & set(two_pass.NAMES)


@pytest.mark.parametrize("part", ["colour", "mask"])
def test_pages_are_at_true_size_with_room_for_marks(files, part):
    plan, written = files
    wanted = [
        plan.request.settings.width_mm + 2 * two_pass.MARGIN_MM, plan.request.height_mm + 2 * two_pass.MARGIN_MM
    ]  # fmt: skip
    page = pypdf.PdfReader(written[f"{part}.pdf"]).pages[0]
    assert [float(side) / 72 * 25.4 for side in page.mediabox[2:]] == pytest.approx(wanted, abs=0.1)
    assert "Feed this edge first" in page.extract_text()
    assert {"colour": "Pass 1 of 2", "mask": "Pass 2 of 2"}[part] in page.extract_text()
    with Image.open(written[f"{part}.png"]) as picture:
        assert [side / plan.ppi * 25.4 for side in picture.size] == pytest.approx(wanted, abs=0.2)
        assert picture.info["Description"].startswith("mirrored")


def test_marks_of_both_passes_lie_on_each_other_and_outside_the_print(files):
    plan, _ = files
    colour, mask = (two_pass.marks(plan, part) for part in ("colour", "mask"))
    assert colour.lines == mask.lines
    width, height = (
        plan.request.settings.width_mm + 2 * two_pass.MARGIN_MM, plan.request.height_mm + 2 * two_pass.MARGIN_MM
    )  # fmt: skip
    for x0, y0, x1, y1 in colour.lines:
        for x, y in ((x0, y0), (x1, y1)):
            assert not (
                two_pass.MARGIN_MM < x < width - two_pass.MARGIN_MM
                and two_pass.MARGIN_MM < y < height - two_pass.MARGIN_MM
            )


def test_the_mask_is_the_white_turned_and_in_black_alone(files):
    plan, written = files
    rim = round(two_pass.MARGIN_MM * plan.ppi / 25.4)
    with Image.open(written["mask.png"]) as picture:
        assert picture.mode == "L"
        grey = np.asarray(picture)[rim:-rim, rim:-rim]
    assert np.array_equal(255 - grey, plan.white_plane[:, ::-1])
    page = pypdf.PdfReader(written["mask.pdf"]).pages[0]
    (image,) = (item.get_object() for item in page["/Resources"]["/XObject"].values())
    assert image["/ColorSpace"] == "/DeviceGray", "grey goes to the black station alone"


def test_the_choked_mask_lies_within_the_colour_as_printed(files):
    """Rendered by another program, the two pages laid on each other: white never stands out."""
    plan, written = files
    colour, mask = (
        np.asarray(pypdfium2.PdfDocument(str(written[f"{part}.pdf"]))[0].render(scale=300 / 72).to_pil().convert("RGB"))
        for part in ("colour", "mask")
    )
    rim = round((two_pass.MARGIN_MM + 0.5) * 300 / 25.4)
    inside = (slice(rim, -rim), slice(rim, -rim))
    white, printed = mask[inside].max(axis=2) < 128, colour[inside].min(axis=2) < 250
    assert white.any()
    own = plan.art[:, ::-1, :3].min(axis=2) > 200
    near = cv2.dilate(own.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    edge = round(0.5 * 300 / 25.4)
    near = near[edge : edge + white.shape[0], edge : edge + white.shape[1]]
    assert not (white & ~printed & ~near).any(), "white under no colour that is no white of the design"
