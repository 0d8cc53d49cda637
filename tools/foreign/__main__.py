"""Plan open pictures that nobody here drew, hold each plan against rules, and show the worst twenty.

    .venv/bin/python tools/foreign [--most 60] [--home FOLDER] [--out sheet.png]

Each picture is planned on a black, a mid and a white garment, for film and for direct printing. What stops a decode
must stop it with one sentence; anything else counts as broken.
"""

import argparse
import os
import sys
import time
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent))

import rules
import sets

from swaddon.core import fast
from swaddon.core.plan.artwork import Artwork
from swaddon.core.plan.engine import PlanError
from swaddon.core.plan.settings import PlanSettings, WhiteSettings
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.io import profiles
from swaddon.io.export import proof_picture
from swaddon.io.images import read_artwork
from swaddon.io.tables import cache_folder
from swaddon.session.job import request_for

GARMENTS = {"black": (27, 27, 31), "mid": (128, 130, 134), "white": (250, 250, 248)}
WAYS = {"film": "need", "direct": "solid"}
WIDTH_MM, SIDE = 60.0, 220
WORST = 20


def plan_of(art: Artwork, process: str, garment: tuple[int, int, int], mode: str) -> Plan:
    white = WhiteSettings("none" if garment == GARMENTS["white"] else mode, choke_mm=0.1)  # type: ignore[arg-type]
    return make_plan(
        request_for(art, PlanSettings(width_mm=WIDTH_MM, garment=garment, white=white), profiles.shipped(process))
    )


def side_by_side(plan: Plan) -> np.ndarray:
    """Artwork on grey, proof, white."""
    assert plan.grid is not None
    alpha = plan.grid[..., 3:].astype(np.float32) / 255
    drawn = (170 + alpha * (plan.grid[..., :3].astype(np.float32) - 170)).astype(np.uint8)
    proof, _ = proof_picture(plan)
    white = np.repeat(plan.white_plane[..., None], 3, axis=2)
    return np.concatenate(
        [cv2.resize(part, (SIDE, SIDE), interpolation=cv2.INTER_AREA) for part in (drawn, proof, white)], 1
    )


def tried(path: Path, shown: list[tuple[float, str, np.ndarray | None]]) -> str:
    """Decode and plan one file; what is broken goes to ``shown``. Tells ``refused`` or ``planned``."""
    try:
        art = read_artwork(path)
    except PlanError as error:
        if "\n" in str(error):
            shown.append((99.0, f"{path.name}: a refusal of several lines", None))
        return "refused"
    off = rules.decoded_otherwise(path.read_bytes(), art)
    if off is not None:
        shown.append((off.by, f"{path.name}: {off.rule}, {off.told}", None))
    if min(art.rgba.shape[:2]) < 8 or max(art.rgba.shape[:2]) > 6 * min(art.rgba.shape[:2]):
        return "too small"
    for process, mode in WAYS.items():
        for garment, rgb in GARMENTS.items():
            plan = plan_of(art, process, rgb, mode)
            for item in rules.broken(plan):
                told = f"{path.name} on {garment}, {process}: {item.rule}, {item.told}"
                shown.append((item.by, told, side_by_side(plan)))
    return "planned"


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--most", type=int, default=40, help="pictures of each set, spread evenly")
    parser.add_argument("--home", type=Path, default=cache_folder() / "foreign")
    parser.add_argument("--out", type=Path, default=Path("foreign.png"))
    chosen = parser.parse_args()
    fast.enable(cache_folder())
    shown: list[tuple[float, str, np.ndarray | None]] = []
    counts: dict[str, int] = {}
    begun = time.monotonic()
    for name, paths in sets.fetch(chosen.home).items():
        every = max(1, len(paths) // chosen.most)
        for path in paths[::every]:
            try:
                what = tried(path, shown)
            except Exception as error:
                what = "failed"
                shown.append((99.0, f"{path.name}: {type(error).__name__}: {error}", None))
            counts[f"{name} {what}"] = counts.get(f"{name} {what}", 0) + 1
    shown.sort(key=lambda item: -item[0])
    for by, told, _ in shown[:WORST]:
        print(f"{by:6.1f} ×  {told}")
    pictures = [picture for _, _, picture in shown[:WORST] if picture is not None]
    if pictures:
        cv2.imwrite(os.fspath(chosen.out), np.concatenate(pictures, 0)[..., ::-1])
        print(f"The worst {len(pictures)}, artwork, proof and white side by side: {chosen.out}")
    print(
        ", ".join(f"{name}: {count}" for name, count in sorted(counts.items())), f"in {time.monotonic() - begun:.0f} s"
    )
    print(f"{len(shown)} rules broken")
    return 1 if shown else 0


if __name__ == "__main__":
    sys.exit(main())
