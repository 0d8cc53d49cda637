"""A hundred and more files that mean no good, made here: what no program that means well would write.

They lie about their sizes, end too early, point out of themselves, refer to themselves, grow when they are opened, or
ask for more than a machine has. Each is to be read or refused in one sentence, within the bounds, and never more.
"""

import gzip
import io
import random
import struct
import zipfile
import zlib
from collections.abc import Iterator

import imagecodecs
import numpy as np
from PIL import Image

Named = tuple[str, bytes]

HUGE = (0, 1, 65_535, 1_000_000, 2**31 - 1, 2**32 - 1)
"""Sizes that headers claim."""

_SIDE = 40


def files() -> Iterator[Named]:
    """All of them, by name."""
    good = dict(_good())
    for name, data in good.items():
        stem, suffix = name.split(".")
        for share in (0.0, 0.02, 0.3, 0.7, 0.97):
            yield f"{stem} cut at {share:.0%}.{suffix}", data[: round(share * len(data))]
        for seed in range(4):
            yield f"{stem} spoiled {seed}.{suffix}", _spoiled(data, seed)
        yield f"{stem} and more.{suffix}", data + bytes(70_000)
    yield from ((f"{name} of another kind.png", data) for name, data in good.items() if not name.endswith(".png"))
    yield from _png()
    yield from _tiff()
    yield from _svg()
    yield from _pdf()
    yield from _ora()


def _good() -> Iterator[Named]:
    step = np.arange(_SIDE * _SIDE * 4, dtype=np.uint32).reshape(_SIDE, _SIDE, 4)
    picture = Image.fromarray((step * 2654435761 >> 13).astype(np.uint8))
    for kind in ("png", "tiff", "webp"):
        file = io.BytesIO()
        picture.save(file, kind.upper())
        yield f"good.{kind}", file.getvalue()
    file = io.BytesIO()
    picture.convert("RGB").save(file, "JPEG")
    yield "good.jpg", file.getvalue()
    yield "good.svg", _drawing('<path d="M1 1h7v7z" fill="red"/>')
    yield "good.pdf", _document([b"1 0 0 rg 10 10 50 50 re f"])
    yield "good.ora", _layered(f'<layer src="a.png" x="{0}"/>')


def _spoiled(data: bytes, seed: int) -> bytes:
    chance, out = random.Random(seed), bytearray(data)
    for _ in range(1 + len(data) // 200):
        out[chance.randrange(len(out))] = chance.randrange(256)
    return bytes(out)


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def _png_of(width: int, height: int, bits: int, colour: int, data: bytes, *more: bytes) -> bytes:
    head = _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, bits, colour, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + b"".join(more) + _chunk(b"IDAT", data) + _chunk(b"IEND", b"")


def _png() -> Iterator[Named]:
    rows = zlib.compress(bytes(41 * 40))
    for size in HUGE:
        yield f"wide {size}.png", _png_of(size, 40, 8, 0, rows)
        yield f"high {size}.png", _png_of(40, size, 8, 0, rows)
    yield "bits of three.png", _png_of(40, 40, 3, 0, rows)
    yield "colour of seven.png", _png_of(40, 40, 8, 7, rows)
    yield "no palette.png", _png_of(40, 40, 8, 3, rows)
    yield "beyond the palette.png", _png_of(40, 40, 8, 3, zlib.compress(b"\0" + b"\xff" * 40), _chunk(b"PLTE", b"abc"))
    yield "growing text.png", _png_of(40, 40, 8, 0, rows, _chunk(b"zTXt", b"k\0\0" + zlib.compress(bytes(300_000_000))))
    growing = _chunk(b"iCCP", b"sRGB\0\0" + zlib.compress(bytes(100_000_000)))
    yield "growing profile.png", _png_of(40, 40, 8, 2, zlib.compress(bytes(121 * 40)), growing)
    yield "endless samples.png", _png_of(40, 40, 8, 0, zlib.compress(bytes(200_000_000)))
    yield "no samples.png", _png_of(40, 40, 8, 0, b"")


def _tags(*tags: tuple[int, int, int, int], following: int = 0) -> bytes:
    body = b"".join(struct.pack("<HHII", *tag) for tag in tags)
    return b"II*\0" + struct.pack("<IH", 8, len(tags)) + body + struct.pack("<I", following)


def _tiff() -> Iterator[Named]:
    def plain(**changed: int) -> bytes:
        facts = {
            "width": 40, "height": 40, "bits": 8, "packing": 1, "meaning": 1, "at": 200, "samples": 1, "rows": 40,
            "count": 1600, "following": 0,
        } | changed  # fmt: skip
        names = {
            "width": 256, "height": 257, "bits": 258, "packing": 259, "meaning": 262, "at": 273, "samples": 277,
            "rows": 278, "count": 279,
        }  # fmt: skip
        entries = [(number, 4, 1, facts[name]) for name, number in names.items()]
        head = _tags(*entries, following=facts["following"])
        return head + bytes(200 - len(head)) + bytes(range(256)) * 7

    for size in HUGE:
        for name in ("width", "height", "rows", "count", "at", "samples"):
            yield f"{name} {size}.tif", plain(**{name: size})
    for bits in (0, 3, 64, 65_535):
        yield f"bits {bits}.tif", plain(bits=bits)
    for packing in (2, 5, 7, 8, 32_773, 34_676, 34_712, 50_000, 65_000):
        yield f"packed as {packing}.tif", plain(packing=packing)
    yield "its own next page.tif", plain(following=8)
    yield "tags without end.tif", b"II*\0" + struct.pack("<IH", 8, 65_535)
    yield "values without end.tif", _tags((256, 4, 2**31, 8), (257, 4, 1, 40))
    yield "large tables.tif", b"II+\0" + struct.pack("<HHQQ", 8, 0, 16, 2**63)


def _drawing(body: str, size: str = 'width="40mm" height="40mm" viewBox="0 0 9 9"') -> bytes:
    space = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {space} {size}>{body}</svg>".encode()


def _svg() -> Iterator[Named]:
    inside = '<rect width="9" height="9" fill="red"/>'
    for name, size in {
        "huge": 'width="1e9mm" height="1e9mm"', "nothing": 'width="0" height="0"', "below": 'width="-5" height="-5"',
        "no number": 'width="nan" height="inf"', "thin": 'width="1e7" height="1e-7"',
        "empty box": 'width="9" height="9" viewBox="0 0 0 0"', "far": 'width="9" height="9" viewBox="1e30 1e30 1 1"',
        "percent": 'width="100%" height="100%"',
    }.items():  # fmt: skip
        yield f"{name}.svg", _drawing(inside, size)
    for name, place in {"file": "file:///etc/passwd", "net": "http://127.0.0.1:9/a.png", "device": "/dev/zero"}.items():
        yield f"picture from {name}.svg", _drawing(f'<image width="9" height="9" xlink:href="{place}"/>{inside}')
        yield f"style from {name}.svg", _drawing(f'<style>@import url("{place}");</style>{inside}')
        yield f"entity from {name}.svg", f'<!DOCTYPE svg [<!ENTITY e SYSTEM "{place}">]>'.encode() + _drawing("&e;")
    yield "deep.svg", _drawing("<g>" * 100_000 + inside + "</g>" * 100_000)
    yield "many.svg", _drawing(inside * 200_000)
    yield "long path.svg", _drawing('<path stroke="red" d="M0 0' + "L9 9L0 9" * 400_000 + '"/>')
    yield "dashes.svg", _drawing('<path stroke="red" stroke-dasharray="1e-6" d="M0 0L9 9"/>')
    yield "wide stroke.svg", _drawing('<path stroke="red" stroke-width="1e30" d="M0 0L9 9"/>')
    yield "itself.svg", _drawing('<g id="a"><use xlink:href="#a"/></g>')
    yield (
        "mask of itself.svg",
        _drawing(f'<mask id="m"><g mask="url(#m)">{inside}</g></mask><g mask="url(#m)">{inside}</g>'),
    )
    yield "script.svg", _drawing(f"<script>while(1){{}}</script>{inside}")
    yield "endless.svgz", gzip.compress(_drawing(" " * 400_000_000))
    yield "not a drawing.svg", b"<html><svg/></html>"


def _document(pages: list[bytes], box: str = "0 0 144 72", more: bytes = b"") -> bytes:
    kids = b" ".join(b"%d 0 R" % (3 + 2 * at) for at in range(len(pages)))
    objects = [b"<</Type/Catalog/Pages 2 0 R>>", b"<</Type/Pages/Kids[" + kids + b"]/Count %d>>" % len(pages)]
    for at, stream in enumerate(pages):
        page = f"<</Type/Page/Parent 2 0 R/MediaBox[{box}]/Contents {4 + 2 * at} 0 R".encode()
        objects += [page + more + b">>", b"<</Length %d>>stream\n" % len(stream) + stream + b"\nendstream"]
    out, places = b"%PDF-1.4\n", []
    for number, body in enumerate(objects, start=1):
        places.append(len(out))
        out += b"%d 0 obj" % number + body + b"endobj\n"
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    ends = b"trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % (len(objects) + 1, len(out))
    return out + b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1) + table + ends


def _pdf() -> Iterator[Named]:
    box = b"0 0 1 rg 0 0 100 100 re f"
    for name, size in {
        "huge": "0 0 1e9 1e9",
        "nothing": "0 0 0 0",
        "turned": "99 99 0 0",
        "far": "1e9 1e9 1e9 1e9",
    }.items():
        yield f"{name}.pdf", _document([box], size)
    yield "no page.pdf", _document([])
    yield "blank.pdf", _document([b""])
    yield "many pages.pdf", _document([b""] * 5000)
    yield "deep states.pdf", _document([b"q " * 500_000 + box])
    yield "many shapes.pdf", _document([b"0 0 m 99 99 l S " * 300_000])
    yield "endless dashes.pdf", _document([b"[1e-6] 0 d 0 0 m 99 99 l S"])
    yield "runs a program.pdf", _document([box], more=b"/AA<</O<</S/Launch/F(/bin/sh)>>>>")
    yield "its own parent.pdf", _document([box]).replace(b"/Type/Pages", b"/Type/Pages/Parent 2 0 R")
    yield "its own previous.pdf", _document([box]).replace(b"/Root 1 0 R", b"/Root 1 0 R/Prev 15")
    yield "locked.pdf", _document([box]).replace(b"/Root 1 0 R", b"/Root 1 0 R/Encrypt<</Filter/Standard/V 9>>")


def _layered(stack: str, size: str = 'w="40" h="40"', layer: bytes | None = None, **more: bytes) -> bytes:
    file = io.BytesIO()
    plain = bytes(imagecodecs.png_encode(np.full((9, 9, 4), 200, np.uint8)))
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "image/openraster", zipfile.ZIP_STORED)
        archive.writestr("stack.xml", f"<image {size}><stack>{stack}</stack></image>")
        archive.writestr("a.png", plain if layer is None else layer)
        for name, data in more.items():
            archive.writestr(name, data)
    return file.getvalue()


def _ora() -> Iterator[Named]:
    one = '<layer src="a.png"/>'
    for size in HUGE:
        yield f"canvas {size}.ora", _layered(one, f'w="{size}" h="{size}"')
    yield "no numbers.ora", _layered(one, 'w="nan" h="many"')
    yield "deep.ora", _layered("<stack>" * 50_000 + one + "</stack>" * 50_000)
    yield "many layers.ora", _layered(one * 20_000)
    yield "a layer far away.ora", _layered('<layer src="a.png" x="999999999999999999999" y="-1e99"/>')
    yield "a layer outside.ora", _layered('<layer src="../../../../etc/passwd"/>')
    yield "a layer missing.ora", _layered('<layer src="b.png"/>')
    yield "a layer that lies.ora", _layered(one, layer=_png_of(60_000, 60_000, 8, 6, b""))
    yield "growing.ora", _layered(one, layer=bytes(900_000_000))
    yield "growing stack.ora", _layered(" " * 300_000_000)
    yield "entities.ora", _layered(one).replace(b"<image", b"<!DOCTYPE a [<!ENTITY e 'x'>]><image")
