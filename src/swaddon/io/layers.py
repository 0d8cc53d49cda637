"""Layered OpenRaster files: a ZIP of PNG layers and ``stack.xml``; visible layers are laid over each other.

Read as artwork, and written with a layer per ink for image programs.
"""

import hashlib
import io
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import bands
from swaddon.core.errors import PlanError
from swaddon.io import apart
from swaddon.io.archives import TooLarge, entry
from swaddon.io.png import png_chunks
from swaddon.io.stated_size import width_mm

MEDIA_TYPE = b"image/openraster"
LARGEST_PIXELS = 250_000_000
_LARGEST_STACK = 5_000_000
_LARGEST_LAYER = 1_000_000_000
_PLAIN = ("svg:src-over", "")


def is_openraster(data: bytes) -> bool:
    """Whether the bytes are a ZIP that names itself OpenRaster in its first entry."""
    return data[:4] == b"PK\x03\x04" and MEDIA_TYPE in data[:128]


def decode_openraster(data: bytes, name: str) -> Artwork:
    """Artwork from an OpenRaster file; raises ``PlanError`` with one sentence."""
    try:
        facts, (rgba,) = apart.run(opened, data, name)
    except ValueError as error:
        raise PlanError(f"“{name}” is damaged or is no OpenRaster file: save it again, or as PNG.") from error
    ppi = None if facts["ppi"] is None else (facts["ppi"][0], facts["ppi"][1])
    return Artwork(
        rgba=rgba,
        content_id=hashlib.blake2b(data, digest_size=16).hexdigest(),
        file_name=name,
        file_format="OpenRaster",
        has_alpha=True,
        notes=tuple(facts["notes"]),
        natural_width_mm=width_mm(ppi, (rgba.shape[1], rgba.shape[0]), 1),
    )


def opened(data: bytes, name: str) -> tuple[dict[str, Any], list[NDArray[np.uint8]]]:
    """What a layered file says of itself, and its picture; worked out in a process apart."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        picture, notes, ppi = _picture(archive, name)
    return {"notes": notes, "ppi": ppi}, [np.asarray(picture)]


def _picture(archive: zipfile.ZipFile, name: str) -> tuple[Image.Image, list[str], tuple[float, float] | None]:
    """The picture, what reading it did, and the resolution that the file says."""
    try:
        text = entry(archive, "stack.xml", _LARGEST_STACK)
    except TooLarge as error:
        raise PlanError(f"“{name}” has a layer list of over 5 MB: save it again with fewer layers.") from error
    if b"<!ENTITY" in text:
        raise PlanError(f"“{name}” defines entities in its layer list: save it again.")
    root = ElementTree.fromstring(text)
    width, height = int(root.get("w", "0")), int(root.get("h", "0"))
    if width < 1 or height < 1 or width * height > LARGEST_PIXELS:
        raise PlanError(f"“{name}” says it is {width} × {height} px: save it at its print size, 300 ppi.")
    apart.make_room(12 * width * height)  # the picture, a layer and what is laid over it
    ppi, stack = _stated_ppi(root), root.find("stack")
    if stack is None:
        raise ValueError("no stack")
    if any(layer.get("composite-op", "") not in _PLAIN for layer in stack.iter()):
        with _opened(archive, "mergedimage.png") as merged:
            return merged.convert("RGBA"), ["layers with special blending: the file’s own merged picture is used"], ppi
    out = Image.new("RGBA", (width, height))
    shown, hidden = _lay(archive, stack, out, 0, 0)
    return out, [f"{shown} layers laid over each other" + (f", {hidden} hidden ones left out" if hidden else "")], ppi


def _stated_ppi(root: ElementTree.Element) -> tuple[float, float] | None:
    """Resolution of the picture (OpenRaster, attributes xres and yres), where somebody set one."""
    try:
        across, down = float(root.get("xres", "")), float(root.get("yres", ""))
    except ValueError:
        return None
    return (across, down) if 1 <= across <= 100_000 and 1 <= down <= 100_000 else None


def _opened(archive: zipfile.ZipFile, layer: str) -> Image.Image:
    opened = Image.open(io.BytesIO(entry(archive, layer, _LARGEST_LAYER)), formats=("PNG",))
    if opened.width * opened.height > LARGEST_PIXELS:
        raise ValueError("layer too large")
    return opened


def _lay(archive: zipfile.ZipFile, stack: ElementTree.Element, out: Image.Image, dx: int, dy: int) -> tuple[int, int]:
    """Lay a stack's layers, the first one on top; how many were shown and hidden."""
    shown = hidden = 0
    for layer in reversed(list(stack)):
        if layer.get("visibility", "visible") == "hidden":
            hidden += 1
            continue
        x, y = dx + int(layer.get("x", "0")), dy + int(layer.get("y", "0"))
        opacity = min(max(float(layer.get("opacity", "1")), 0.0), 1.0)
        if layer.tag == "stack":
            group = Image.new("RGBA", out.size)
            more, less = _lay(archive, layer, group, x, y)
            shown, hidden = shown + more, hidden + less
            out.alpha_composite(_faded(group, opacity))
        elif layer.tag == "layer":
            with _opened(archive, layer.get("src", "")) as picture:
                page = Image.new("RGBA", out.size)
                page.paste(_faded(picture.convert("RGBA"), opacity), (x, y))
            out.alpha_composite(page)
            shown += 1
    return shown, hidden


def _faded(picture: Image.Image, opacity: float) -> Image.Image:
    if opacity < 1:
        picture.putalpha(picture.getchannel("A").point(lambda value: round(value * opacity)))
    return picture


_TINTS = {"C": (0, 158, 224), "M": (228, 0, 123), "Y": (255, 222, 0), "K": (29, 29, 27)}
_TITLES = {"C": "Cyan", "M": "Magenta", "Y": "Yellow", "K": "Black"}
_WHITE_TINT, _GROUND = (255, 255, 255), (118, 118, 118)


def write_ink_layers(
    path: Path, inks: Mapping[str, NDArray[np.uint8]], whites: Mapping[str, NDArray[np.uint8]], ppi: float
) -> None:
    """Write a layer per ink, ``uint8 (H, W)`` each, 255 = full: its tint, with the coverage as alpha.

    Inks multiply, as they do on white; whites lie below them, on a grey ground that shows where they are.
    """
    height, width = next(iter(inks.values())).shape
    layers = [(_TITLES[ink], plane, _TINTS[ink], "svg:multiply") for ink, plane in reversed(list(inks.items()))]
    layers += [(name, plane, _WHITE_TINT, "svg:src-over") for name, plane in whites.items()]
    root = ElementTree.Element("image", version="0.0.3", w=str(width), h=str(height))
    stack = ElementTree.SubElement(root, "stack")
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", MEDIA_TYPE.decode())
        for number, (name, plane, tint, mode) in enumerate([*layers, ("Ground", None, _GROUND, "svg:src-over")]):
            rgba = np.empty((height, width, 4), np.uint8)
            rgba[..., :3], rgba[..., 3] = tint, 255 if plane is None else plane
            _put(archive, f"data/layer{number}.png", rgba, ppi)
            made = {"name": name, "src": f"data/layer{number}.png", "composite-op": mode, "x": "0", "y": "0"}
            ElementTree.SubElement(stack, "layer", made | {"opacity": "1.0", "visibility": "visible"})
        merged = np.empty((height, width, 3), np.uint8)
        for rows in bands(height):
            merged[rows] = _merged([(plane[rows], tint, mode) for _, plane, tint, mode in reversed(layers)])
        _put(archive, "mergedimage.png", merged, ppi)
        step = max(1, -(-max(height, width) // 256))
        _put(archive, "Thumbnails/thumbnail.png", np.ascontiguousarray(merged[::step, ::step]), ppi)
        archive.writestr("stack.xml", ElementTree.tostring(root, encoding="utf-8", xml_declaration=True))


def _merged(layers: list[tuple[NDArray[np.uint8], tuple[int, int, int], str]]) -> NDArray[np.uint8]:
    """All layers, the lowest first, laid over the ground."""
    out = np.empty((*layers[0][0].shape, 3), np.float32)
    out[...] = _GROUND
    for plane, tint, mode in layers:
        share = plane[..., None].astype(np.float32) / 255
        full = np.array(tint, np.float32) * (out / 255 if mode == "svg:multiply" else 1)
        out += share * (full - out)
    return np.rint(out).astype(np.uint8)


def _put(archive: zipfile.ZipFile, name: str, picture: NDArray[np.uint8], ppi: float) -> None:
    with archive.open(name, "w") as file:
        for part in png_chunks(picture, ppi):
            file.write(part)
