"""The print for the next program: flattened, its white under the name that program wants, and read back."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from swaddon.core.errors import PlanError
from swaddon.core.order.handover import check_white_name
from swaddon.core.plan.stages import Plan
from swaddon.io.layers import write_ink_layers
from swaddon.io.png import write_png
from swaddon.io.separations import spot_names, write_separations
from swaddon.io.spot_pdf import Page, colorants, write_print_pdf

HIGHLIGHT = "Highlight"
MARGIN_MM = 12.0
"""Room for marks on each side of a page of two passes."""

_SUFFIX = {"tiff": "tif", "pdf": "pdf", "png": "png", "layers": "ora"}


_STEMS = ("print-mirrored", "print-not-mirrored")


@dataclass(frozen=True)
class Card:
    """What the next program must be told, in the words of the bench."""

    lines: tuple[tuple[str, str], ...]


def white_name(plan: Plan) -> str:
    """What the white channel is called."""
    return plan.request.settings.handover.white_name or plan.request.profile.white_name


def planes(plan: Plan, turned: Callable[[NDArray[np.uint8]], NDArray[np.uint8]]) -> dict[str, NDArray[np.uint8]]:
    """The whites of a plan by the name of their channel; raises ``PlanError`` where that is another channel's."""
    try:
        check_white_name(white_name(plan))
    except ValueError as error:
        raise PlanError(f"{error}.") from error
    spots = {white_name(plan): turned(plan.white_plane)} if plan.request.profile.has_white else {}
    if plan.highlight is not None:
        spots[HIGHLIGHT] = turned(plan.highlight)
    return spots


def flattened(plan: Plan) -> NDArray[np.uint8]:
    """The artwork as it prints, sRGB on white: without what was knocked out, with its fades and holes."""
    art = plan.art
    alpha = art[..., 3].astype(np.uint16)
    if plan.cut is not None:
        alpha = (alpha * plan.cut + 127) // 255
    alpha = alpha[..., None]
    return np.asarray((art[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255, np.uint8)


def size_mm(plan: Plan) -> tuple[float, float]:
    """Width and height of the files at their resolution."""
    return tuple(side / plan.ppi * 25.4 for side in plan.white_plane.shape[::-1])


def facts(plan: Plan) -> str:
    """What a file says of itself in its metadata; ASCII, as TIFF 6.0 wants it."""
    mirrored = "mirrored" if plan.request.settings.is_mirrored(plan.request.profile) else "not mirrored"
    width, height = size_mm(plan)
    white = white_name(plan) if plan.request.profile.has_white else "none"
    return f"{mirrored}; {width:.1f} x {height:.1f} mm; {plan.ppi:.0f} ppi; white: {white}"


def card(plan: Plan) -> Card:
    """One card: the names of the files and what to tell the next program about them."""
    settings, profile = plan.request.settings, plan.request.profile
    chosen = settings.handover
    mirrored = settings.is_mirrored(profile)
    width, height = size_mm(plan)
    colours = {"cmyk": "CMYK, separated here", "rgb": "RGB, to be separated there"}[chosen.colour]
    own = chosen.white == "file" or chosen.kind == "png"
    lines = [
        ("Files", ", ".join(names(plan)) or "the plates: one grey file per ink, 255 = full"),
        ("White", f"{'a file of its own' if own else 'spot channel'}, called “{white_name(plan)}”"),
        ("Mirrored", "yes, already: do not mirror again" if mirrored else "no, and it must not be"),
        ("Size", f"{width:.1f} × {height:.1f} mm: print at 100 %"),
        ("Resolution", f"{plan.ppi:.0f} ppi"),
    ]
    if chosen.kind == "plates" and profile.printing.passes == 2:
        how = "mirrored already" if mirrored else "not mirrored"
        lines = [
            ("Pass 1", "colour.pdf or colour.png: all but white"),
            ("Pass 2", "mask.pdf or mask.png: black is where white prints"),
            ("Mirrored", f"{how}; the plates beside them are not"),
            ("Size", f"{width:.1f} × {height:.1f} mm at 100 %, and {MARGIN_MM:.0f} mm for marks on each side"),
            lines[4],
        ]
    elif chosen.kind == "plates":
        lines[1] = ("White", f"white.png; in separations.tif a spot called “{white_name(plan)}”")
        lines[2] = ("Mirrored", "no: mirror them there" if mirrored else "no, and it must not be")
    elif chosen.kind == "png":
        lines.append(("Colours", "RGB, to be separated there"))
    elif chosen.kind == "layers":
        lines = [lines[0], ("Layers", "one per ink, each in its own tint"), *lines[2:]]
    else:
        lines.append(("Colours", colours))
    if not profile.has_white:
        lines[1] = ("White", "none: this press has no white")
    return Card(tuple(lines))


def names(plan: Plan) -> list[str]:
    """The files that are handed over; none where the plates are enough."""
    settings = plan.request.settings
    chosen = settings.handover
    if chosen.kind == "plates":
        return []
    stem = _STEMS[0] if settings.is_mirrored(plan.request.profile) else _STEMS[1]
    suffix = _SUFFIX[chosen.kind]
    out = [f"{stem}.{suffix}"]
    has_white = plan.request.profile.has_white
    if has_white and (chosen.kind == "png" or (chosen.white == "file" and chosen.kind != "layers")):
        out.append(f"{stem}-white.{suffix}")
        if plan.highlight is not None:
            out.append(f"{stem}-highlight.{suffix}")
    return out


def writers(plan: Plan) -> Iterator[tuple[str, Callable[[Path], None]]]:
    """Each file's name, and what writes it into a folder; files with a named channel are read back."""
    chosen = plan.request.settings.handover
    listed = names(plan)
    if not listed:
        return
    mirrored = plan.request.settings.is_mirrored(plan.request.profile)

    def turned(plane: NDArray[np.uint8]) -> NDArray[np.uint8]:
        return np.ascontiguousarray(plane[:, ::-1]) if mirrored else plane

    spots = planes(plan, turned)
    if chosen.kind == "layers":
        inks = {ink: turned(plan.cmyk[..., "CMYK".index(ink)]) for ink in plan.request.profile.inks}
        yield listed[0], lambda folder: write_ink_layers(folder / listed[0], inks, spots, plan.ppi)
        return
    rgb = chosen.colour == "rgb" or chosen.kind == "png"
    own = len(listed) > 1

    def main(folder: Path) -> None:
        _write(folder / listed[0], turned(flattened(plan) if rgb else plan.cmyk), {} if own else spots, plan)

    yield listed[0], main
    for name, (channel, plane) in zip(listed[1:], spots.items(), strict=False):
        yield name, lambda folder, name=name, one={channel: plane}: _write(folder / name, None, one, plan)  # type: ignore[misc]


def _write(path: Path, colour: NDArray[np.uint8] | None, spots: dict[str, NDArray[np.uint8]], plan: Plan) -> None:
    told = facts(plan)
    if path.suffix == ".png":
        write_png(path, next(iter(spots.values())) if colour is None else colour, plan.ppi, told)
    elif path.suffix == ".pdf":
        page = Page(facts={"Title": plan.request.artwork.file_name, "Subject": told})
        write_print_pdf(path, colour, spots, size_mm(plan), page)
        _check(path, list(spots), colorants(path), spots)
    elif colour is None:
        _write_grey_tiff(path, next(iter(spots.values())), plan.ppi, told)
    else:
        write_separations(path, colour, spots, plan.ppi, told.encode("ascii", "replace").decode())
        import tifffile

        samples = tifffile.imread(path)
        found = dict(zip(spot_names(path), np.moveaxis(samples[..., colour.shape[2] :], -1, 0), strict=False))
        _check(path, list(spots), found, spots)


def _write_grey_tiff(path: Path, plane: NDArray[np.uint8], ppi: float, told: str) -> None:
    """A grey TIFF of one plane, 255 = full."""
    import tifffile

    tifffile.imwrite(
        path, plane, photometric="minisblack", compression="zlib", resolution=(ppi, ppi), resolutionunit="INCH",
        description=told.encode("ascii", "replace").decode(), metadata=None, software=False, rowsperstrip=128,
    )  # fmt: skip


def _check(
    path: Path, wanted: list[str], found: dict[str, NDArray[np.uint8]], spots: dict[str, NDArray[np.uint8]]
) -> None:
    """Raise ``PlanError`` where a file does not hold what was written into it."""
    for name in wanted:
        if name not in found or not np.array_equal(found[name], spots[name]):
            raise PlanError(
                f"{path.name} was read back without its white channel “{name}”: choose a plainer name for it."
            )
