"""A plan as files: white and inks as PNG, all separations as TIFF, plan.json and a proof. All of them or none."""

import errno
import json
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import half
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.errors import PlanError
from swaddon.core.flow.bound import Rate
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.proof.optics import Appearance, both_whites, printed_share, seen
from swaddon.io import handover, two_pass
from swaddon.io.outputs import output_set
from swaddon.io.png import write_png
from swaddon.io.separations import write_separations

PROOF_LONGEST_PX = 2400
HIGHLIGHT_FILE = "highlight.png"

Job = tuple[str, Callable[[Path], None]]
"""The name of a file, and what writes it into a folder."""


def export_plan(
    plan: Plan,
    folder: Path,
    *,
    mirror: bool = False,
    progress: Callable[[str, float], None] = lambda _title, _share: None,
    rate: Rate | None = None,
) -> list[Path]:
    """Write every file of the plan into ``folder``; on any failure nothing of it is left there.

    ``rate`` is what the shop makes of it in an hour, where that is known.

    Raises
    ------
    PlanError
        One sentence: the folder cannot be written, holds what we did not write (``WouldReplace``), the disk is full.
    """
    jobs = _jobs(plan, mirror, rate)
    try:
        with output_set(folder, content_of(plan), (name for name, _ in jobs)) as part:
            written = _write_all(jobs, part, progress)
    except OSError as error:
        raise PlanError(_sentence(error, folder)) from error
    return [folder / name for name in written]


def content_of(plan: Plan) -> str:
    """Key of what an export is of: the artwork's content, the garment's colour, the process."""
    request = plan.request
    return f"plan {request.artwork.content_id} {hex_from_rgb(request.settings.garment)} {request.profile.process}"


def _sentence(error: OSError, folder: Path) -> str:
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk of “{folder}” is full: nothing was exported; free some space or choose another folder."
    why = (error.strerror or "the system refused it").lower()
    return f"Nothing could be exported to “{folder}” ({why}): choose another folder."


def _jobs(plan: Plan, mirror: bool, rate: Rate | None) -> list[Job]:
    """Every file of a plan, and what writes it."""

    def turned(plane: NDArray[np.uint8]) -> NDArray[np.uint8]:
        return np.asarray(cv2.flip(plane, 1), np.uint8) if mirror else plane

    cmyk, white = turned(plan.cmyk), turned(plan.white_plane)
    spots = handover.planes(plan, turned)
    jobs: list[Job] = [
        ("separations.tif", lambda folder: write_separations(folder / "separations.tif", cmyk, spots, plan.ppi)),
        ("proof.png", lambda folder: _write_proof(plan, folder / "proof.png")),
        ("plan.json", lambda folder: _write_report(plan, folder / "plan.json", rate)),
    ]
    if plan.request.profile.has_white:
        jobs.append(("white.png", lambda folder: write_png(folder / "white.png", white, plan.ppi)))
    if plan.highlight is not None:
        highlight = spots[handover.HIGHLIGHT]
        jobs.append((HIGHLIGHT_FILE, lambda folder: write_png(folder / HIGHLIGHT_FILE, highlight, plan.ppi)))
    inks = plan.request.profile.inks
    jobs += [(f"{ink}.png", partial(_write_ink, cmyk=cmyk, index=INKS.index(ink), ppi=plan.ppi)) for ink in inks]
    return [*jobs, *handover.writers(plan), *two_pass.writers(plan)]


def _write_all(jobs: list[Job], folder: Path, progress: Callable[[str, float], None]) -> list[str]:
    """Write the files; their names."""
    with ThreadPoolExecutor(2) as pool:
        running = [(name, pool.submit(job, folder)) for name, job in jobs]
        for index, (name, done) in enumerate(running):
            progress(f"Writing {name}", index / len(running))
            done.result()
    return [name for name, _ in jobs]


def _write_ink(folder: Path, *, cmyk: NDArray[np.uint8], index: int, ppi: float) -> None:
    plane = np.asarray(cv2.extractChannel(cmyk, index), np.uint8)
    write_png(folder / f"{INKS[index]}.png", plane, ppi)


def _write_report(plan: Plan, path: Path, rate: Rate | None) -> None:
    path.write_text(json.dumps(plan_report(plan, rate), indent=2, ensure_ascii=False) + "\n", encoding="utf-8")


def _write_proof(plan: Plan, path: Path) -> None:
    picture, ppi = proof_picture(plan)
    write_png(path, picture, ppi)


def proof_picture(plan: Plan) -> tuple[NDArray[np.uint8], float]:
    """sRGB picture of the print on plain cloth, at most ``PROOF_LONGEST_PX`` long, and its ppi."""
    profile = plan.request.profile
    cmyk, white, ppi = plan.cmyk, both_whites(plan.white_plane, plan.highlight, profile), plan.ppi
    share = printed_share(plan.cmyk, plan.white_plane)
    while max(white.shape) > PROOF_LONGEST_PX:
        cmyk, white, share, ppi = half(cmyk), half(white), half(share), ppi / 2
    look = Appearance.of(plan.request.settings.garment, plan.request.profile)
    return seen(cmyk, white, look, share=share), ppi
