"""The patches of the weighing routine as files to print: one of each ink, at true size, as PDF and TIFF."""

from pathlib import Path

import numpy as np

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.shop.next_print import PATCH_MM, Candidate, patches
from swaddon.core.units import px_from_mm
from swaddon.io.names import shown
from swaddon.io.outputs import output_set
from swaddon.io.profiles import reason
from swaddon.io.separations import write_separations
from swaddon.io.spot_pdf import Page, write_print_pdf

PPI = 150.0


def write_patches(folder: Path, press: PressProfile) -> list[Path]:
    """Write every patch of a press into a folder; white is a spot under the press's own name.

    Raises
    ------
    PlanError
        One sentence: the folder cannot be written.
    """
    try:
        with output_set(folder, f"patches {press.name}") as part:
            names = [name for patch in patches(press) for name in _write(part, patch, press)]
    except OSError as error:
        raise PlanError(f"The patches could not be written to “{shown(folder)}” ({reason(error)}).") from error
    return [folder / name for name in names]


def _write(folder: Path, patch: Candidate, press: PressProfile) -> list[str]:
    side = round(px_from_mm(PATCH_MM, PPI))
    cmyk = np.zeros((side, side, 4), np.uint8)
    if patch.ink in INKS:
        cmyk[..., INKS.index(patch.ink)] = 255
    white = np.full((side, side), 255 if patch.ink == "W" else 0, np.uint8)
    spots = {press.white_name: white} if press.has_white else {}
    told, stem = f"{patch.name}; press: {press.name}", f"patch-{patch.ink}"
    facts = {"Title": patch.name, "Subject": told.encode("ascii", "replace").decode()}
    write_print_pdf(folder / f"{stem}.pdf", cmyk, spots, (PATCH_MM, PATCH_MM), Page(facts=facts))
    write_separations(folder / f"{stem}.tif", cmyk, spots, PPI, facts["Subject"])
    return [f"{stem}.pdf", f"{stem}.tif"]
