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
from swaddon.io.png import write_png
from swaddon.io.separations import write_separations
from swaddon.io.whole import whole_set

PROOF_LONGEST_PX = 2400
HIGHLIGHT_FILE = "highlight.png"
PLATES = ("white.png", *(f"{ink}.png" for ink in INKS), "separations.tif", "proof.png", "plan.json", HIGHLIGHT_FILE)
KNOWN = (*PLATES, *handover.NAMES, *two_pass.NAMES)
"""Every file that an export may hold; those of an earlier one that are not among the new go."""


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
        One sentence: the folder cannot be written, the disk is full.
    """
    try:
        with whole_set(folder, KNOWN) as part:
            written = _write_all(plan, part, mirror, progress, rate)
    except OSError as error:
        raise PlanError(_sentence(error, folder)) from error
    return [folder / name for name in written]


def exported_before(folder: Path) -> str | None:
    """What an export that lies in a folder is of, in a few words; ``None`` when none lies there."""
    try:
        text = json.loads((folder / "plan.json").read_text(encoding="utf-8"))
        return f"{text['artwork']['file']} on {text['garment']['rgb']}, {text['process']}"
    except (FileNotFoundError, NotADirectoryError):
        return None
    except (OSError, ValueError, KeyError, TypeError):
        return "another plan"


def words_for(plan: Plan) -> str:
    """What an export of this plan is of, in the same words as :func:`exported_before`."""
    request = plan.request
    return f"{request.artwork.file_name} on {hex_from_rgb(request.settings.garment)}, {request.profile.process}"


def _sentence(error: OSError, folder: Path) -> str:
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk of “{folder}” is full: nothing was exported; free some space or choose another folder."
    why = (error.strerror or "the system refused it").lower()
    return f"Nothing could be exported to “{folder}” ({why}): choose another folder."


def _write_all(
    plan: Plan, folder: Path, mirror: bool, progress: Callable[[str, float], None], rate: Rate | None
) -> list[str]:
    """Write the files; their names."""

    def turned(plane: NDArray[np.uint8]) -> NDArray[np.uint8]:
        return np.asarray(cv2.flip(plane, 1), np.uint8) if mirror else plane

    cmyk, white = turned(plan.cmyk), turned(plan.white_plane)
    spots = handover.planes(plan, turned)
    jobs: list[tuple[str, Callable[[], None]]] = [
        ("separations.tif", lambda: write_separations(folder / "separations.tif", cmyk, spots, plan.ppi)),
        ("proof.png", lambda: _write_proof(plan, folder / "proof.png")),
        ("plan.json", lambda: _write_report(plan, folder / "plan.json", rate)),
    ]
    if plan.request.profile.has_white:
        jobs.append(("white.png", lambda: write_png(folder / "white.png", white, plan.ppi)))
    if plan.highlight is not None:
        highlight = spots[handover.HIGHLIGHT]
        jobs.append((HIGHLIGHT_FILE, lambda: write_png(folder / HIGHLIGHT_FILE, highlight, plan.ppi)))
    inks = plan.request.profile.inks
    jobs += [(f"{ink}.png", partial(_write_ink, folder, cmyk, INKS.index(ink), plan.ppi)) for ink in inks]
    jobs += [*handover.writers(plan, folder), *two_pass.writers(plan, folder)]
    with ThreadPoolExecutor(2) as pool:
        running = [(name, pool.submit(job)) for name, job in jobs]
        for index, (name, done) in enumerate(running):
            progress(f"Writing {name}", index / len(running))
            done.result()
    return [name for name, _ in jobs]


def _write_ink(folder: Path, cmyk: NDArray[np.uint8], index: int, ppi: float) -> None:
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
