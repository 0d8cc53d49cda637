"""A whole gang sheet as artwork: its prints found, counted, and taken out."""

import cv2
import numpy as np
import pytest
from PIL import Image
from scipy.ndimage import label as scipy_label

from swaddon.core.sheet.parts import find_parts


def sheet() -> np.ndarray:
    """Two kinds, five prints, one of them with an islet near by, two of them tight."""
    art = np.zeros((1200, 1000, 4), np.uint8)
    for x, y in ((40, 40), (400, 40), (700, 60)):
        cv2.circle(art, (x + 100, y + 100), 100, (200, 30, 30, 255), -1)
        cv2.circle(art, (x + 100, y + 218), 8, (200, 30, 30, 255), -1)
    art[400:500, 100:300] = art[400:500, 320:520] = (20, 60, 200, 255)
    return art


@pytest.mark.parametrize("background", [None, (255, 255, 255)])
def test_every_print_is_found_with_its_size_and_kind(background):
    art = sheet()
    if background is not None:
        art[art[..., 3] == 0] = (*background, 255)
    found = find_parts(art, background, 18, 40)
    sizes = [(part.box.width, part.box.height) for part in found.parts]
    assert sizes == [(201, 227)] * 3 + [(200, 100)] * 2
    assert [part.kind for part in found.parts] == [1, 1, 1, 2, 2]
    assert found.parts[3].nearest_px == pytest.approx(21, abs=0.2)
    assert found.parts[0].nearest_px == float("inf")


def crest(text: str, number: str = "", star: tuple[int, int, int] = (250, 210, 60), size: int = 500) -> np.ndarray:
    """A crest with a name, a number and a small star."""
    big = np.zeros((size, size, 4), np.uint8)
    unit = size / 500
    cv2.ellipse(big, ((size / 2, size / 2), (size * 0.96, size * 0.8), 0), (30, 60, 140, 255), -1, cv2.LINE_AA)
    cv2.circle(big, (round(250 * unit), round(130 * unit)), round(9 * unit), (*star, 255), -1, cv2.LINE_AA)
    for word, y, scale in ((text, 270, 0.7), (number, 380, 0.9)):
        place = (round(170 * unit), round(y * unit))
        cv2.putText(big, word, place, cv2.FONT_HERSHEY_SIMPLEX, scale * unit, (250, 250, 250, 255), round(3 * unit))
    return big


WHITE = (255, 255, 255, 255)


def on_white(item: np.ndarray) -> np.ndarray:
    """On a white sheet, with a margin."""
    share = item[..., 3:].astype(np.float32) / 255
    out = np.rint(item[..., :3] * share + 255 * (1 - share)).astype(np.uint8)
    return cv2.copyMakeBorder(np.dstack([out, np.full_like(out[..., 0], 255)]), 10, 10, 10, 10, 0, value=WHITE)


def kinds_of(prints: list[np.ndarray]) -> list[int]:
    """The kinds of prints that lie side by side on a white sheet."""
    whole = np.full(
        (max(item.shape[0] for item in prints) + 80, sum(item.shape[1] + 60 for item in prints) + 60, 4), 255
    )
    whole, x = whole.astype(np.uint8), 60
    for item in prints:
        place = whole[40 : 40 + item.shape[0], x : x + item.shape[1]]
        share = item[..., 3:].astype(np.float32) / 255
        place[...] = np.rint(item * share + place * (1 - share))
        place[..., 3] = 255
        x += item.shape[1] + 60
    return [part.kind for part in find_parts(whole, (255, 255, 255), 20, 30).parts]


@pytest.mark.parametrize("size", [300, 500, 1100])
@pytest.mark.parametrize(
    ("one", "other"),
    [
        (("ANNA",), ("EMMA",)), (("TIM", "7"), ("TIM", "1")), (("TIM", "12"), ("TIM", "13")), (("OLE",), ("OLF",)),
        (("TIM", "3"), ("TIM", "8")), (("A", "", (250, 210, 60)), ("A", "", (60, 200, 90))),
    ],
)  # fmt: skip
def test_prints_that_differ_in_one_place_only_are_two_kinds(one, other, size):
    """Seven tenths of a centimetre of lettering on a crest of ten: a mean over a thumbnail took them for copies."""
    first, second = crest(*one, size=size), crest(*other, size=size)
    assert kinds_of([first, second, first, second]) == [1, 2, 1, 2]


def test_mirrored_twins_are_two_kinds():
    """A number and its mirror image; and an arrow."""
    one = crest("L", "F")
    assert kinds_of([one, np.ascontiguousarray(one[:, ::-1]), one]) == [1, 2, 1]


def test_a_clear_print_resampled_with_a_wider_soft_edge_stays_one_kind():
    """Its box grows by the soft edge, so that the boxes alone lay its lettering two pixels aside."""
    large = [Image.fromarray(crest("ANNA", number, size=1400)) for number in ("12", "13")]
    one, letter = (item.resize((700, 700), Image.Resampling.BOX) for item in large)
    other = one.resize((690, 695), Image.Resampling.LANCZOS).resize((700, 700), Image.Resampling.BICUBIC)
    sheet = [np.pad(np.asarray(item), ((9, 9), (9, 9), (0, 0))) for item in (one, other, one, letter)]
    found = find_parts(np.hstack(sheet), None, 10, 20)
    assert [part.kind for part in found.parts] == [1, 1, 1, 2]


@pytest.mark.parametrize("how", ["resampled", "moved by half a pixel", "turned", "noisy", "unevenly lit", "a JPEG"])
def test_a_print_that_was_scanned_or_resampled_stays_one_kind(how):
    one, rng = on_white(crest("ANNA", "12", size=700)), np.random.default_rng(3)
    side = one.shape[0]
    if how == "resampled":
        small = cv2.resize(one, None, fx=0.71, fy=0.71, interpolation=cv2.INTER_AREA)
        other = cv2.resize(small, (side + 2, side - 1), interpolation=cv2.INTER_CUBIC)
    elif how == "moved by half a pixel":
        other = cv2.warpAffine(one, np.array([[1, 0, 0.5], [0, 1, 0.5]]), (side, side), borderValue=WHITE)
    elif how == "turned":
        turn = cv2.getRotationMatrix2D((side / 2, side / 2), 0.4, 1.002)
        other = cv2.warpAffine(one, turn, (side, side), borderValue=WHITE)
    elif how == "noisy":
        other = np.clip(one + rng.normal(0, 5, one.shape), 0, 255)
    elif how == "unevenly lit":
        other = one * np.linspace(0.93, 1, side)[None, :, None]
    else:
        data = cv2.imencode(".jpg", one[..., :3], [cv2.IMWRITE_JPEG_QUALITY, 80])[1]
        other = np.dstack([cv2.imdecode(data, cv2.IMREAD_COLOR), one[..., 3]])
    other = np.asarray(other).astype(np.uint8)
    other[..., 3] = 255
    assert kinds_of([one, other]) == [1, 1]


def test_a_part_is_taken_out_without_its_neighbours():
    """A disc in the arm of an angle: their boxes overlap, their pixels do not mix; SciPy labels agree."""
    art = np.zeros((400, 400, 4), np.uint8)
    art[20:380, 20:80] = art[320:380, 20:380] = (10, 120, 10, 255)
    cv2.circle(art, (240, 160), 60, (200, 200, 10, 255), -1)
    found = find_parts(art, None, 10, 40)
    labels, count = scipy_label(art[..., 3] > 0)
    assert count == len(found.parts) == 2
    for part in found.parts:
        own = found.cut_out(art, part)
        box = part.box
        number = labels[box.top : box.bottom, box.left : box.right][own[..., 3] > 0]
        assert len(set(number.tolist())) == 1
        assert np.count_nonzero(own[..., 3]) == np.count_nonzero(labels == number[0])


def test_a_large_sheet_is_searched_on_a_coarse_mask_with_the_same_result():
    art = sheet()
    big = np.asarray(cv2.resize(art, None, fx=5, fy=5, interpolation=cv2.INTER_NEAREST))
    small, large = find_parts(art, None, 18, 40), find_parts(big, None, 90, 200)
    assert large.scale > 1
    assert [part.kind for part in large.parts] == [part.kind for part in small.parts]
    for one, other in zip(small.parts, large.parts, strict=True):
        assert (other.box.left, other.box.top, other.box.right, other.box.bottom) == tuple(
            5 * side for side in (one.box.left, one.box.top, one.box.right, one.box.bottom)
        )


def test_noise_of_thousands_of_specks_is_refused_in_a_sentence():
    art = np.zeros((1200, 1200, 4), np.uint8)
    art[::20, ::20] = 255
    with pytest.raises(ValueError, match="raise the gap"):
        find_parts(art, None, 5, 10)
