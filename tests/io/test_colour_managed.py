"""Colour-managed pictures mean what their profiles do, whatever these are called."""

import struct
import sys
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import ImageCms

from swaddon.io.colour_managed import is_srgb, to_srgb
from swaddon.io.images import decode_artwork

sys.path.insert(0, str(Path(__file__).parents[2] / "tools" / "foreign"))

import managed  # the set that `make foreign` reads as well

PICTURES = list(managed.pictures())


@pytest.mark.parametrize("picture", PICTURES, ids=lambda picture: picture.name)
def test_a_picture_means_what_its_profile_does(picture):
    """By the formulas of ICC.1:2022 and IEC 61966-2-1: profiles called sRGB were off by up to 163 of 255."""
    art = decode_artwork(picture.data, picture.name)
    off = np.abs(art.rgba.astype(int) - picture.means)
    assert off[..., 3].max() == 0
    assert off[..., :3].max() <= picture.limit
    assert any("colour profile" in note for note in art.notes)


def test_srgb_is_known_by_what_it_does():
    real = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    assert is_srgb(real)
    assert not any(is_srgb(kind.icc) for kind in managed.KINDS)
    assert not is_srgb(b"no profile")


def test_a_profile_for_other_samples_is_left_out_and_said():
    grey = next(kind for kind in managed.KINDS if kind.channels == 1)
    assert to_srgb(np.zeros((2, 2, 3), np.uint8), grey.icc, False) is None
    picture = next(item for item in PICTURES if item.name == "sRGB linear, 8 bits.png")
    rgb = managed.KINDS[0]
    at = picture.data.index(b"iCCP") - 4
    end = at + 12 + struct.unpack_from(">I", picture.data, at)[0]
    swapped = managed._with_chunk(picture.data[:at] + picture.data[end:], grey.icc)
    art = decode_artwork(swapped, "odd.png")
    assert "its colour profile does not fit its samples and was left out" in art.notes
    plain = np.rint(managed.samples_of(rgb, 8) * 255)
    assert np.array_equal(art.rgba[..., :3], plain)


def grey_png(depth: int, level: int, colour: bool = False) -> tuple[bytes, np.ndarray]:
    """A PNG whose samples run through all values of a depth, one of them clear; and its samples."""
    values = np.arange(2**depth if depth < 8 else 256) * (257 if depth == 16 else 1)
    values[-1] = 2**depth - 1
    each = np.repeat(values[:, None], 3, axis=1).ravel() if colour else values
    if depth < 8:
        bits = "".join(f"{value:0{depth}b}" for value in each)
        row = bytes(int(bits[at : at + 8].ljust(8, "0"), 2) for at in range(0, len(bits), 8))
    else:
        row = each.astype(">u2" if depth == 16 else "u1").tobytes()
    clear = struct.pack(">H", level) * (3 if colour else 1)

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", len(values), 1, depth, 2 if colour else 0, 0, 0, 0)
    parts = ((b"IHDR", head), (b"tRNS", clear), (b"IDAT", zlib.compress(b"\0" + row)), (b"IEND", b""))
    return b"\x89PNG\r\n\x1a\n" + b"".join(chunk(*part) for part in parts), values


@pytest.mark.parametrize(
    ("depth", "colour"), [(1, False), (2, False), (4, False), (8, False), (16, False), (8, True), (16, True)]
)
def test_a_clear_level_of_a_png_is_clear_at_every_depth(depth, colour):
    """PNG, second edition, 11.3.2: the level counts in the samples' own depth; grey ones were off by up to 253."""
    _, values = grey_png(depth, 0, colour)
    for at in {0, 1, len(values) // 2, len(values) - 1}:
        data, _ = grey_png(depth, int(values[at]), colour)
        art = decode_artwork(data, "levels.png")
        assert art.has_alpha
        wanted = np.full(len(values), 255)
        wanted[at] = 0
        assert np.array_equal(art.rgba[0, :, 3], wanted)
        seen = np.rint(values / (2**depth - 1) * 255)
        assert np.abs(art.rgba[0, :, :3].astype(int) - seen[:, None])[wanted > 0].max() == 0
