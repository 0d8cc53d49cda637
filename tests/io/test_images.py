"""Artwork in: every kind arrives as upright sRGB with alpha; bad files get one sentence."""

import io
import os
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms
from tests.conftest import badge

from swaddon.core.colour.spaces import delta_e_2000, lab_from_srgb8
from swaddon.core.errors import PlanError
from swaddon.io.images import decode_artwork, read_artwork

RGBA = badge(120)
OPAQUE = RGBA[..., 3] == 255


def saved(image: Image.Image, kind: str, **options: object) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


def tiff(samples: np.ndarray, **options: object) -> bytes:
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, samples, **options)
    return buffer.getvalue()


def test_png_with_alpha_arrives_unchanged():
    art = decode_artwork(saved(Image.fromarray(RGBA), "PNG"), "a.png")
    np.testing.assert_array_equal(art.rgba, RGBA)
    assert art.has_alpha
    assert not art.rgba.flags.writeable


@pytest.mark.parametrize("kind", ["PNG", "TIFF", "WEBP", "JPEG"])
def test_rgb_without_alpha_is_opaque(kind):
    options = {"quality": 98, "subsampling": 0} if kind == "JPEG" else {"lossless": True} if kind == "WEBP" else {}
    art = decode_artwork(saved(Image.fromarray(RGBA[..., :3]), kind, **options), "a")
    assert not art.has_alpha
    assert (art.rgba[..., 3] == 255).all()
    assert np.abs(art.rgba[..., :3].astype(int) - RGBA[..., :3])[OPAQUE].mean() < (3 if kind == "JPEG" else 0.01)
    assert art.file_format == kind


def test_webp_keeps_its_alpha():
    art = decode_artwork(saved(Image.fromarray(RGBA), "WEBP", lossless=True, exact=True), "a.webp")
    np.testing.assert_array_equal(art.rgba, RGBA)


def test_grey_palette_and_one_bit():
    grey = Image.fromarray(RGBA[..., :3]).convert("L")
    for image in (grey, grey.convert("1"), Image.fromarray(RGBA[..., :3]).quantize(32)):
        for kind in ("PNG", "TIFF"):
            art = decode_artwork(saved(image, kind), "a")
            wanted = np.asarray(image.convert("RGB")).astype(int)
            assert np.abs(art.rgba[..., :3] - wanted).max() <= 1, (image.mode, kind)


def test_palette_transparency_becomes_alpha():
    image = Image.fromarray(RGBA[..., :3]).quantize(16)
    art = decode_artwork(saved(image, "PNG", transparency=0), "a.png")
    gone = np.asarray(image) == 0
    assert art.has_alpha
    assert (art.rgba[gone, 3] == 0).all()
    assert (art.rgba[~gone, 3] == 255).all()


def test_sixteen_bits_are_rounded_not_cut():
    wide = RGBA.astype(np.uint16) * 257
    import imagecodecs

    for data in (imagecodecs.png_encode(wide), tiff(wide, photometric="rgb", extrasamples=["unassalpha"])):
        art = decode_artwork(data, "a")
        np.testing.assert_array_equal(art.rgba, RGBA)
        assert any("16" in note for note in art.notes)
    grey = imagecodecs.png_encode(np.ascontiguousarray(wide[..., 0]))
    np.testing.assert_array_equal(decode_artwork(grey, "g.png").rgba[..., 1], RGBA[..., 0])


def test_associated_alpha_is_divided_out():
    weighted = RGBA.astype(float)
    weighted[..., :3] *= weighted[..., 3:] / 255
    art = decode_artwork(
        tiff(np.rint(weighted).astype(np.uint8), photometric="rgb", extrasamples=["assocalpha"]), "a.tif"
    )
    strong = RGBA[..., 3] > 60
    assert np.abs(art.rgba.astype(int) - RGBA)[strong].max() <= 5


@pytest.mark.parametrize("planar", ["contig", "separate"])
def test_tiff_layouts(planar):
    samples = RGBA[..., :3] if planar == "contig" else np.moveaxis(RGBA[..., :3], -1, 0)
    data = tiff(np.ascontiguousarray(samples), photometric="rgb", planarconfig=planar, compression="lzw")
    np.testing.assert_array_equal(decode_artwork(data, "a.tif").rgba[..., :3], RGBA[..., :3])


def test_white_is_zero_tiff():
    data = tiff(255 - RGBA[..., 0], photometric="miniswhite")
    np.testing.assert_array_equal(decode_artwork(data, "a.tif").rgba[..., 0], RGBA[..., 0])


@pytest.mark.parametrize("kind", ["JPEG", "TIFF"])
def test_cmyk_without_profile_is_read_as_print(kind):
    """Paper is white, full inks are their own colours, 400 % is black."""
    cmyk = np.zeros((16, 80, 4), np.uint8)
    cmyk[:, 16:32, 0] = 255
    cmyk[:, 32:48, 1] = 255
    cmyk[:, 48:64, 2] = 255
    cmyk[:, 64:] = 255
    options = {"quality": 100, "subsampling": 0} if kind == "JPEG" else {}
    art = decode_artwork(saved(Image.fromarray(cmyk, "CMYK"), kind, **options), "a")
    white, cyan, magenta, yellow, black = (art.rgba[8, x, :3].astype(int) for x in (8, 24, 40, 56, 72))
    assert white.min() >= 250
    assert black.max() <= 12
    assert cyan[2] > cyan[0] + 80
    assert magenta[0] > magenta[1] + 80
    assert yellow[0] > yellow[2] + 80


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation_turns_the_picture_upright(orientation):
    """Against Pillow's own transposition."""
    from PIL import ImageOps

    image = Image.fromarray(RGBA[:60, :110, :3])
    exif = Image.Exif()
    exif[0x0112] = orientation
    for kind, options in (("PNG", {}), ("WEBP", {"lossless": True}), ("TIFF", {})):
        data = saved(image, kind, exif=exif, **options)
        wanted = np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(data))).convert("RGB"))
        np.testing.assert_array_equal(decode_artwork(data, "a").rgba[..., :3], wanted)


def wide_gamut_profile() -> bytes:
    """An RGB matrix profile that is not sRGB, built by hand: ICC.1 v2, D50-adapted P3-like primaries, gamma 2.2."""

    def s15(value: float) -> bytes:
        return struct.pack(">i", round(value * 65536))

    def xyz(x: float, y: float, z: float) -> bytes:
        return b"XYZ \0\0\0\0" + s15(x) + s15(y) + s15(z)

    curve = b"curv\0\0\0\0" + struct.pack(">IH", 1, round(2.2 * 256)) + b"\0\0"
    text = b"Wide test"
    name = b"desc\0\0\0\0" + struct.pack(">I", len(text) + 1) + text + b"\0" + b"\0" * (12 + 67)
    name += b"\0" * (-len(name) % 4)
    tags = [
        (b"desc", name),
        (b"wtpt", xyz(0.9642, 1.0, 0.8249)),
        (b"rXYZ", xyz(0.5151, 0.2412, -0.0011)),
        (b"gXYZ", xyz(0.2920, 0.6922, 0.0419)),
        (b"bXYZ", xyz(0.1571, 0.0666, 0.7841)),
        (b"rTRC", curve),
        (b"gTRC", curve),
        (b"bTRC", curve),
        (b"cprt", b"text\0\0\0\0none\0\0\0\0"),
    ]
    offset = 128 + 4 + 12 * len(tags)
    table, body = struct.pack(">I", len(tags)), b""
    for signature, data in tags:
        table += signature + struct.pack(">II", offset + len(body), len(data))
        body += data
    size = 128 + len(table) + len(body)
    head = struct.pack(">I4sI4s4s4s", size, b"none", 0x02400000, b"mntr", b"RGB ", b"XYZ ")
    head += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + b"\0" * 28 + s15(0.9642) + s15(1.0) + s15(0.8249)
    return head.ljust(128, b"\0") + table + body


def test_an_embedded_profile_is_honoured_and_equals_littlecms():
    profile = wide_gamut_profile()
    image = Image.fromarray(RGBA)
    art = decode_artwork(saved(image, "PNG", icc_profile=profile), "a.png")
    transform = ImageCms.buildTransform(
        ImageCms.ImageCmsProfile(io.BytesIO(profile)), ImageCms.createProfile("sRGB"), "RGB", "RGB",
        ImageCms.Intent.RELATIVE_COLORIMETRIC, ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )  # fmt: skip
    wanted = np.asarray(ImageCms.applyTransform(image.convert("RGB"), transform))
    assert np.abs(art.rgba[OPAQUE][:, :3].astype(int) - wanted[OPAQUE]).max() <= 1
    np.testing.assert_array_equal(art.rgba[..., 3], RGBA[..., 3])
    moved = delta_e_2000(lab_from_srgb8(art.rgba[..., :3]), lab_from_srgb8(RGBA[..., :3]))[OPAQUE]
    assert moved.max() > 3, "a wide-gamut red is not the sRGB red of the same numbers"


def test_an_srgb_profile_changes_nothing():
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    art = decode_artwork(saved(Image.fromarray(RGBA), "PNG", icc_profile=profile), "a.png")
    np.testing.assert_array_equal(art.rgba, RGBA)


def test_a_broken_profile_does_not_stop_the_work():
    art = decode_artwork(saved(Image.fromarray(RGBA), "PNG", icc_profile=b"not a profile"), "a.png")
    np.testing.assert_array_equal(art.rgba, RGBA)


# bad input


def png_claiming(width: int, height: int) -> bytes:
    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")
    )


GOOD = saved(Image.fromarray(RGBA), "PNG")


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"Dear printer, here is my logo\n" * 20, "not a PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster"),
        (GOOD[: len(GOOD) // 2], "damaged or cut short"),
        (saved(Image.fromarray(RGBA[..., :3]), "JPEG")[:400], "damaged or cut short"),
        (saved(Image.fromarray(RGBA), "TIFF")[:2000], "damaged or cut short"),
        (png_claiming(30000, 30000), "megapixels"),
        (png_claiming(12000, 12000), "damaged or cut short"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "PNG"),
    ],
)
def test_bad_files_get_one_sentence(data, says):
    with pytest.raises(PlanError, match=says) as text:
        decode_artwork(data, "logo.png")
    text = str(text.value)
    assert "logo.png" in text
    assert text.endswith(".")
    assert "\n" not in text


def test_a_folder_a_missing_and_an_unreadable_path(tmp_path: Path):
    for path, says in ((tmp_path, "is a folder"), (tmp_path / "none.png", "no file")):
        with pytest.raises(PlanError, match=says):
            read_artwork(path)
    if os.geteuid() != 0:
        locked = tmp_path / "locked.png"
        locked.write_bytes(GOOD)
        locked.chmod(0)
        with pytest.raises(PlanError, match="permission"):
            read_artwork(locked)


def test_an_unreadable_file_is_told_by_its_cause(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    path = tmp_path / "a.png"
    path.write_bytes(GOOD)

    def refuse(_self: Path) -> bytes:
        raise PermissionError(13, "Permission denied")

    monkeypatch.setattr(Path, "read_bytes", refuse)
    with pytest.raises(PlanError, match="permission denied"):
        read_artwork(path)
