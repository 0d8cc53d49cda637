"""TIFF samples of every depth, held against values packed by hand and against another reader."""

import io
import struct

import numpy as np
import pytest
import tifffile
from PIL import Image

from swaddon.core.errors import PlanError
from swaddon.io.images import decode_artwork


def packed(values: np.ndarray, bits: int) -> bytes:
    """Rows of big-endian bit fields, each row filled up to whole bytes (TIFF 6.0)."""
    rows = []
    for row in values:
        text = "".join(f"{int(value):0{bits}b}" for value in row)
        text += "0" * (-len(text) % 8)
        rows.append(bytes(int(text[at : at + 8], 2) for at in range(0, len(text), 8)))
    return b"".join(rows)


def grey_tiff(values: np.ndarray, bits: int, photometric: int = 1) -> bytes:
    """A little TIFF 6.0 file with one strip, written by hand."""
    height, width = values.shape
    strip = values.astype("<u2").tobytes() if bits == 16 else packed(values, bits)
    tags = [
        (256, 3, width), (257, 3, height), (258, 3, bits), (259, 3, 1), (262, 3, photometric), (273, 4, 0),
        (277, 3, 1), (278, 3, height), (279, 4, len(strip)),
    ]  # fmt: skip
    start = 8 + 2 + 12 * len(tags) + 4
    body = struct.pack("<H", len(tags))
    for tag, kind, value in tags:
        body += struct.pack("<HHII", tag, kind, 1, start if tag == 273 else value)
    return b"II*\0" + struct.pack("<I", 8) + body + struct.pack("<I", 0) + strip


@pytest.mark.parametrize("bits", [1, 2, 4, 8, 12, 16])
@pytest.mark.parametrize("photometric", [0, 1])
def test_every_depth_of_grey_is_scaled_to_its_own_top(bits, photometric):
    top = 2**bits - 1
    values = np.rint(np.linspace(0, top, 37 * 5)).astype(int).reshape(5, 37)
    data = grey_tiff(values, bits, photometric)
    wanted = np.floor((values if photometric else top - values) / top * 255 + 0.5)
    seen = decode_artwork(data, "grey.tif").rgba[..., 0]
    np.testing.assert_array_equal(seen, wanted)
    if bits in (2, 4, 8):
        other = np.asarray(Image.open(io.BytesIO(data)).convert("L"))
        assert np.abs(seen.astype(int) - other).max() <= 1


@pytest.mark.parametrize("kind", [np.uint32, np.float16, np.float32, np.float64])
def test_wide_integers_and_floats_are_read(kind):
    share = np.linspace(0, 1, 12 * 20 * 3).reshape(12, 20, 3)
    top = np.iinfo(kind).max if np.issubdtype(kind, np.integer) else 1.0
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, (share * top).astype(kind), photometric="rgb")
    art = decode_artwork(buffer.getvalue(), "wide.tif")
    assert np.abs(art.rgba[..., :3] - share * 255).max() <= (0.6 if kind is np.float16 else 0.51)
    assert any("8 bits" in note for note in art.notes)


def test_floats_beyond_white_and_no_numbers_do_no_harm():
    samples = np.array([[0.5, 2.0, -1.0, np.nan, np.inf, -np.inf]], np.float32)
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, samples)
    assert decode_artwork(buffer.getvalue(), "odd.tif").rgba[0, :, 0].tolist() == [128, 255, 0, 0, 255, 0]


@pytest.mark.parametrize("kind", [np.int8, np.int16, np.int32, np.complex64])
def test_signed_and_complex_samples_are_refused_in_a_sentence(kind):
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, np.zeros((6, 5), kind), photometric="minisblack")
    with pytest.raises(PlanError, match=r"signed or complex numbers.*save it with 8 or 16 bits"):
        decode_artwork(buffer.getvalue(), "signed.tif")


def test_associated_alpha_of_sixteen_bits_is_taken_out():
    colour = np.full((4, 4, 3), 40000, np.uint16)
    alpha = np.full((4, 4, 1), 20000, np.uint16)
    weighted = np.rint(colour * (alpha / 65535)).astype(np.uint16)
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, np.concatenate([weighted, alpha], axis=2), photometric="rgb", extrasamples=["assocalpha"])
    pixel = decode_artwork(buffer.getvalue(), "soft.tif").rgba[0, 0]
    assert pixel.tolist() == [round(40000 / 257)] * 3 + [round(20000 / 257)]


@pytest.mark.parametrize("where", ["raw", "xmp"])
@pytest.mark.parametrize("orientation", [3, 6, 8])
def test_orientation_in_text_chunks_of_a_png_is_honoured(where, orientation):
    from PIL import PngImagePlugin

    picture = Image.fromarray(np.arange(30 * 20 * 3, dtype=np.uint8).reshape(30, 20, 3))
    info = PngImagePlugin.PngInfo()
    if where == "raw":
        exif = b"Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0" + bytes([orientation]) + b"\0\0\0\0\0\0"
        info.add_text("Raw profile type exif", f"\nexif\n{len(exif):8d}\n{exif.hex()}\n", zip=True)
    else:
        xmp = f'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf tiff:Orientation="{orientation}"/></x:xmpmeta>'
        info.add_itxt("XML:com.adobe.xmp", xmp)
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", pnginfo=info)
    seen = decode_artwork(buffer.getvalue(), "turned.png").rgba[..., :3]
    quarter = {3: 2, 6: 3, 8: 1}[orientation]
    np.testing.assert_array_equal(seen, np.rot90(np.asarray(picture), quarter))


@pytest.mark.parametrize("order", ["small first", "small last", "small alone"])
def test_the_full_picture_is_read_and_not_its_reduced_copy(order):
    """TIFF 6.0, NewSubfileType bit 0: a preview often comes first."""
    full = np.full((60, 80, 3), (200, 30, 40), np.uint8)
    pages = {"small first": [1, 0], "small last": [0, 1], "small alone": [1]}[order]
    file = io.BytesIO()
    with tifffile.TiffWriter(file) as writer:
        for is_small in pages:
            writer.write(full[::8, ::8] if is_small else full, photometric="rgb", subfiletype=is_small, metadata=None)
    art = decode_artwork(file.getvalue(), "pages.tif")
    assert (art.width_px, art.height_px) == ((10, 8) if order == "small alone" else (80, 60))


@pytest.mark.parametrize("compression", ["raw", "tiff_lzw", "jpeg"])
@pytest.mark.parametrize("mode", ["1", "L", "LA", "P", "RGB", "RGBA", "CMYK"])
def test_every_kind_is_decoded_apart(mode, compression, monkeypatch):
    """Whichever reader serves it, what a file asks for cannot hurt the program."""
    file = io.BytesIO()
    try:
        Image.new(mode, (40, 30)).save(file, "TIFF", compression=compression)
    except (OSError, KeyError):
        pytest.skip("no such file can be written")
    assert decode_artwork(file.getvalue(), "a.tif").width_px == 40
    monkeypatch.setattr(tifffile.TiffPage, "asarray", None)  # no picture comes about here
    monkeypatch.setattr(Image.Image, "load", None)
    assert decode_artwork(file.getvalue(), "a.tif").width_px == 40
