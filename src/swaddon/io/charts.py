"""Test pages as files at true size, and the channels of a page or an export as a press gets them.

TIFF and PDF hold C, M, Y and K with each white as a named spot; PNG is a picture of the page, with a plate per channel
beside it. Pages of processes that turn the print over are mirrored in the file.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import SRGB_FROM_BANDS, srgb_from_linear
from swaddon.core.errors import PlanError
from swaddon.core.inks.separation import over_ground, transmittance
from swaddon.core.press.profile import INKS, PressProfile, Slot
from swaddon.core.proof.optics import white_over
from swaddon.core.testprint.layout import REVISION, Page
from swaddon.core.testprint.naming import numbered
from swaddon.core.units import MM_PER_INCH
from swaddon.io.names import shown
from swaddon.io.outputs import output_group
from swaddon.io.png import write_png
from swaddon.io.profiles import reason
from swaddon.io.separations import spot_names, write_separations
from swaddon.io.spot_pdf import Page as PdfPage
from swaddon.io.spot_pdf import colorants, write_print_pdf

Plane = NDArray[np.uint8]
SUFFIXES = (".pdf", ".tif", ".tiff", ".png")
_WHITES = {"W": "White", "H": "Highlight"}
_CARD, _PAPER = 0.033, 0.85


@dataclass(frozen=True, eq=False)
class Channels:
    """What a press is sent: a plane per slot as it is to be seen on the finished item, and how strong each white is."""

    planes: tuple[Plane, ...]
    strengths: tuple[float, ...]
    ppi: float


def channel_names(slots: tuple[Slot, ...]) -> list[str]:
    """Names of the channels by slot: inks, and whites by their spot."""
    return [re.sub("^[WH]", lambda found: _WHITES[found[0]], name) for name in numbered([slot.ink for slot in slots])]


def facts(page: Page, mirrored: bool) -> str:
    """What a file says of itself."""
    how = "mirrored" if mirrored else "not mirrored"
    inks = " ".join(page.inks)
    return f"test print {REVISION}; press: {page.press}; slots: {inks}; made: {page.day.isoformat()}; {how}"


def write_page(path: Path, page: Page, planes: NDArray[np.uint8], press: PressProfile, ppi: float) -> list[Path]:
    """Write a page by the suffix of its name; the files written.

    Raises
    ------
    PlanError
        One sentence: it cannot be written, or is no known kind.
    """
    if path.suffix.lower() not in SUFFIXES:
        raise PlanError(
            f"“{shown(path)}” is no kind of file for a test page: give a name ending in .pdf, .tif or .png."
        )
    turned = np.ascontiguousarray(planes[:, :, ::-1]) if press.mirrored else planes
    names = channel_names(page.slots)
    try:
        with output_group(path.parent) as folder:
            written = _write(folder, path.name, page, dict(zip(names, turned, strict=True)), press, ppi)
    except OSError as error:
        raise PlanError(f"The test page could not be written to “{shown(path)}” ({reason(error)}).") from error
    return [path.parent / name for name in written]


def _write(folder: Path, name: str, page: Page, planes: dict[str, Plane], press: PressProfile, ppi: float) -> list[str]:
    told, path = facts(page, press.mirrored).encode("ascii", "replace").decode(), folder / name
    spots = {key: plane for key, plane in planes.items() if key not in INKS}
    if path.suffix.lower() == ".png":
        write_png(path, page_picture(page, list(planes.values()), press), ppi, told)
        plates = {f"{path.stem}-{key.replace(' ', '-')}.png": plane for key, plane in planes.items()}
        for plate, plane in plates.items():
            write_png(folder / plate, plane, ppi, told)
        return [name, *plates]
    empty = np.zeros_like(next(iter(planes.values())))
    cmyk = np.stack([planes.get(ink, empty) for ink in INKS], axis=-1)
    if path.suffix.lower() == ".pdf":
        size = tuple(side / ppi * MM_PER_INCH for side in cmyk.shape[1::-1])
        write_print_pdf(path, cmyk, spots, (size[0], size[1]), PdfPage(facts={"Title": "Test print", "Subject": told}))
    else:
        write_separations(path, cmyk, spots, ppi, told)
    return [name]


def page_picture(page: Page, planes: list[Plane], press: PressProfile) -> NDArray[np.uint8]:
    """How a page should come out, sRGB ``uint8 (H, W, 3)``, on its card or paper."""
    out = np.empty((*planes[0].shape, 3), np.uint8)
    primaries, n = press.separation.primaries(), press.separation.yule_nielsen_n
    ground = np.full(3, _CARD if page.whites else _PAPER)
    whites, colours = [*page.whites, *page.highlights], page.colours
    for top in range(0, out.shape[0], 128):
        rows = slice(top, top + 128)
        codes = np.zeros(out[rows].shape[:2], np.uint64)
        for plane in planes:
            codes = codes * np.uint64(17) + (plane[rows].astype(np.uint64) * 16 + 127) // 255
        distinct, where = np.unique(codes, return_inverse=True)
        shares = np.empty((len(planes), distinct.size))
        for at in range(len(planes) - 1, -1, -1):
            shares[at], distinct = distinct % 17 / 16, distinct // np.uint64(17)
        cmyk = np.zeros((distinct.size, 4))
        for channel in colours:
            cmyk[:, INKS.index(page.slots[channel].ink)] = shares[channel]
        amount = shares[whites].sum(axis=0)[:, None] * press.white.scatter
        bands = over_ground(transmittance(cmyk, primaries, n), white_over(ground, amount), primaries[-1])
        light = np.clip(bands @ SRGB_FROM_BANDS.T, 0, 1)
        out[rows] = np.rint(srgb_from_linear(light) * 255).astype(np.uint8)[where.reshape(codes.shape)]
    return out


def read_channels(path: Path, slots: tuple[Slot, ...], press: PressProfile) -> Channels:
    """The channels of a test page or of an exported plan, by the slots of a press.

    Raises
    ------
    PlanError
        One sentence: what is missing.
    """
    try:
        if path.is_dir():
            return _of_export(path, slots, press)
        names, found, ppi, told = _READERS.get(path.suffix.lower(), _refuse)(path)
    except OSError as error:
        raise PlanError(f"“{shown(path)}” cannot be read ({reason(error)}).") from error
    wanted = channel_names(slots)
    missing = [name for name in wanted if name not in names]
    if missing:
        raise PlanError(f"“{shown(path)}” has no channel “{missing[0]}”: give a test page or export of {press.name}.")
    planes = [np.ascontiguousarray(found[names.index(name)]) for name in wanted]
    if told is None or "; mirrored" in told:
        planes = [np.ascontiguousarray(plane[:, ::-1]) for plane in planes] if told else planes
    return Channels(tuple(planes), (1.0,) * len(planes), ppi)


def _of_export(folder: Path, slots: tuple[Slot, ...], press: PressProfile) -> Channels:
    """An exported plan: each white slot lays the white of the plan with its share of the hits."""
    file = folder / "separations.tif"
    if not file.is_file():
        raise PlanError(f"“{folder.name}” holds no exported plan (separations.tif is missing): give its folder.")
    names, found, ppi, _ = _tiff(file)
    whites = [name for name in names if name not in INKS]
    count = max(len(press.white_slots), 1)
    planes: list[Plane] = []
    strengths = []
    for slot in slots:
        if slot.role == "colour":
            planes.append(np.ascontiguousarray(found[names.index(slot.ink)]))
            strengths.append(1.0)
            continue
        wanted = whites[-1] if slot.role == "highlight" and len(whites) > 1 else (whites[0] if whites else "")
        plane = found[names.index(wanted)] if wanted else np.zeros_like(found[0])
        if slot.role == "highlight" and len(whites) < 2:
            plane = np.zeros_like(found[0])
        planes.append(np.ascontiguousarray(plane))
        strengths.append(sum(press.hits) / count if slot.role == "white" else 1.0)
    return Channels(tuple(planes), tuple(strengths), ppi)


Read = tuple[list[str], list[Plane], float, str | None]


def _tiff(path: Path) -> Read:
    import tifffile

    try:
        with tifffile.TiffFile(path) as file:
            page: Any = file.pages[0]
            samples = page.asarray()
            x = page.tags["XResolution"].value
            told = str(page.description or "")
        names = [*INKS, *spot_names(path)]
    except (ValueError, KeyError, IndexError, tifffile.TiffFileError) as error:
        raise PlanError(f"“{shown(path)}” is no TIFF of separations: give one that Swaddon wrote.") from error
    if samples.ndim != 3 or samples.dtype != np.uint8 or samples.shape[2] != len(names):
        raise PlanError(f"“{shown(path)}” is no TIFF of separations: give one that Swaddon wrote.")
    return names, [samples[..., at] for at in range(len(names))], float(x[0]) / float(x[1]), told


def _pdf(path: Path) -> Read:
    import pikepdf

    try:
        found = colorants(path, with_process=True)
        with pikepdf.open(path) as pdf:
            told = str(pdf.docinfo.get("/Subject", ""))
            width_mm = float(pdf.pages[0].mediabox[2]) / 72 * MM_PER_INCH
    except (pikepdf.PdfError, ValueError, KeyError, IndexError) as error:
        raise PlanError(f"“{shown(path)}” is no PDF of separations: give one that Swaddon wrote.") from error
    if not found:
        raise PlanError(f"“{shown(path)}” holds no named inks: give a test page as PDF or TIFF.")
    words = dict(zip(("Cyan", "Magenta", "Yellow", "Black"), INKS, strict=True))
    planes = list(found.values())
    return [words.get(name, name) for name in found], planes, planes[0].shape[1] / width_mm * MM_PER_INCH, told


def _png(path: Path) -> Read:
    """The plates beside the picture of a page."""
    from PIL import Image

    names, planes, ppi, told = [], [], 0.0, ""
    plates = (file for file in path.parent.iterdir() if file.name.startswith(f"{path.stem}-") and file.suffix == ".png")
    for file in sorted(plates):
        try:
            with Image.open(file, formats=("PNG",)) as image:
                plane = np.asarray(image)
                ppi, told = round(float(image.info.get("dpi", (0, 0))[0]), 1), str(image.info.get("Description", ""))
        except (OSError, ValueError, SyntaxError) as error:
            raise PlanError(f"The plate “{shown(file)}” cannot be read: write the test page anew.") from error
        if plane.ndim == 2 and plane.dtype == np.uint8 and told.startswith("test print"):
            names.append(file.stem[len(path.stem) + 1 :].replace("-", " "))
            planes.append(plane)
    if not planes or len({plane.shape for plane in planes}) > 1 or ppi <= 0:
        raise PlanError(f"“{shown(path)}” is a picture, and its plates are not beside it: give the PDF or the TIFF.")
    return names, planes, ppi, told


def _refuse(path: Path) -> Read:
    raise PlanError(f"“{shown(path)}” is no test page: give its PDF, TIFF or PNG, or the folder of an export.")


_READERS: dict[str, Callable[[Path], Read]] = {".tif": _tiff, ".tiff": _tiff, ".pdf": _pdf, ".png": _png}
