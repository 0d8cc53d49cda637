"""Photos from outside: upright, small, bare of what else the file told; what is none is one sentence."""

import io

import numpy as np
import pytest
from PIL import Image

from swaddon.core.errors import PlanError
from swaddon.io.photos import LONGEST_PX, photo_of, read_photo


def saved(kind: str, size: tuple[int, int] = (400, 300), **more) -> bytes:
    pixels = np.zeros((size[1], size[0], 3), np.uint8)
    pixels[:, : size[0] // 2] = (220, 30, 30)
    held = io.BytesIO()
    Image.fromarray(pixels).save(held, kind, **more)
    return held.getvalue()


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "TIFF", "WEBP", "BMP"])
def test_every_kind_becomes_a_jpeg(kind):
    with Image.open(io.BytesIO(photo_of(saved(kind), "photo"))) as made:
        assert (made.format, made.mode, made.size) == ("JPEG", "RGB", (400, 300))
        red, _, _ = made.getpixel((50, 150))
        assert red > 200


def test_a_large_one_is_scaled_down_and_keeps_its_shape():
    with Image.open(io.BytesIO(photo_of(saved("JPEG", (4000, 1000)), "photo"))) as made:
        assert made.size == (LONGEST_PX, LONGEST_PX // 4)


def test_it_lies_upright_and_tells_nothing_of_where_it_was_taken():
    """EXIF orientation 6: turned a quarter clockwise to be seen upright (CIPA DC-008)."""
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x010F] = "Camera of someone"
    with Image.open(io.BytesIO(photo_of(saved("JPEG", exif=exif.tobytes()), "photo"))) as made:
        assert made.size == (300, 400)
        assert made.getpixel((150, 50))[0] > 200
        assert not made.getexif()


@pytest.mark.parametrize(
    "data", [b"", b"hello", b"%PDF-1.7", saved("PNG")[:200], saved("JPEG")[:60], b"GIF89a" + bytes(50)]
)
def test_what_is_no_photo_is_one_sentence(data):
    with pytest.raises(PlanError, match="no photo that can be read"):
        photo_of(data, "thing.jpg")


def test_a_bomb_is_refused_before_it_is_unpacked():
    """A PNG of 400 million pixels that packs into some hundred kB."""
    held = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(held, "PNG")
    with pytest.raises(PlanError, match="over 200 million pixels"):
        photo_of(held.getvalue(), "bomb.png")


def test_a_file_that_is_not_there_is_one_sentence(tmp_path):
    with pytest.raises(PlanError, match="cannot be read"):
        read_photo(tmp_path / "none.jpg")
