"""Decode and plan open pictures that nobody here drew, hold them against rules, and show the worst twenty.

    .venv/bin/python tools/foreign [--most 60] [--decoded 100000] [--home FOLDER] [--out sheet.png]

Every distinct picture is decoded and held against an independent decoder; some of each set are planned, each for two
of fifteen ways: five ways of printing on a black, a mid and a white garment. What stops a decode must stop it with one
sentence; anything else counts as broken.
"""

import argparse
import hashlib
import itertools
import os
import resource
import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent))

import rules
import sets

from swaddon.core import fast
from swaddon.core.artwork.artwork import Artwork
from swaddon.core.errors import PlanError
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.io.export import proof_picture
from swaddon.io.images import read_artwork
from swaddon.io.tables import cache_folder
from swaddon.session.job import request_for

GARMENTS = {"black": (27, 27, 31), "mid": (128, 130, 134), "white": (250, 250, 248)}
MODES = {"film": "need", "direct": "solid", "toner-twopass": "solid", "toner-no-black": "limit", "decal": "need"}
VIEW_MODES = tuple(itertools.product(MODES, GARMENTS))
WAYS_EACH = 2
WIDTH_MM, SIDE = 50.0, 220
WORST = 20
FAILED = 99.0
SLOW_S = 12.0
"""Seconds within which any of these files is decoded or refused."""

LARGEST_GB = 3.0
"""Memory that no process takes, whatever a file asks for."""

Shown = tuple[float, str, np.ndarray | None]
Tried = tuple[str, list[Shown]]


def plan_of(art: Artwork, process: str, garment: str) -> Plan:
    mode = "none" if garment == "white" else MODES[process]
    white = WhiteSettings(mode, choke_mm=0.1)  # type: ignore[arg-type]
    settings = PlanSettings(width_mm=WIDTH_MM, garment=GARMENTS[garment], white=white)
    return make_plan(request_for(art, settings, profiles.shipped(process)))


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


def decoded(path: Path) -> Tried:
    """Decode one file and hold it against the independent decode."""
    begun = time.monotonic()
    try:
        art = read_artwork(path)
    except PlanError as error:
        lines = [(FAILED, f"{path.name}: a refusal of several lines", None)] if "\n" in str(error) else []
        return "refused", [*lines, *_slow(path, begun)]
    if sets.meaning_of(path).exists():
        off = rules.meant(art, np.load(sets.meaning_of(path)))
    else:
        off = rules.decoded_otherwise(path.read_bytes(), art)
    text = [] if off is None else [(off.by, f"{path}: {off.rule}, {off.text}", None)]
    return "decoded", [*text, *_slow(path, begun)]


def _slow(path: Path, begun: float) -> list[Shown]:
    took = time.monotonic() - begun
    return [(took / SLOW_S, f"{path}: decoded in {took:.0f} s", None)] if took > SLOW_S else []


def planned(path: Path, turn: int) -> Tried:
    """Plan one file for some of the ways, which ones by its turn."""
    try:
        art = read_artwork(path)
    except PlanError:
        return "refused", []
    if min(art.rgba.shape[:2]) < 8 or max(art.rgba.shape[:2]) > 6 * min(art.rgba.shape[:2]):
        return "too small", []
    shown: list[Shown] = []
    for process, garment in (VIEW_MODES[(WAYS_EACH * turn + step) % len(VIEW_MODES)] for step in range(WAYS_EACH)):
        plan = plan_of(art, process, garment)
        for item in rules.broken(plan):
            text = f"{path.name} on {garment}, {process}: {item.rule}, {item.text}"
            shown.append((item.by, text, side_by_side(plan)))
    return "planned", shown


def guarded(work: Callable[..., Tried], path: Path, *rest: int) -> Tried:
    """A piece of work whose failure is a finding."""
    try:
        return work(path, *rest)
    except Exception as error:
        return "failed", [(FAILED, f"{path}: {type(error).__name__}: {error}", None)]


def distinct(paths: list[Path]) -> list[Path]:
    """One path for each content."""
    return list({hashlib.blake2b(path.read_bytes()).digest(): path for path in reversed(paths)}.values())[::-1]


def spread(paths: list[Path], most: int) -> list[Path]:
    """At most so many of the paths, evenly."""
    return paths[:: max(1, -(-len(paths) // most))] if most else []


def tried(found: dict[str, list[Path]], most_decoded: int, most: int) -> Iterator[tuple[str, Tried]]:
    """All work, on two processes, in order."""
    with ProcessPoolExecutor(2, initializer=fast.enable, initargs=(cache_folder(),)) as pool:
        jobs = []
        for name, paths in found.items():
            jobs += [(name, pool.submit(guarded, decoded, path)) for path in spread(paths, most_decoded)]
            jobs += [(name, pool.submit(guarded, planned, path, turn)) for turn, path in enumerate(spread(paths, most))]
        for name, job in jobs:
            yield name, job.result()


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--most", type=int, default=40, help="pictures of each set to plan, spread evenly")
    parser.add_argument("--decoded", type=int, default=100_000, help="pictures of each set to decode")
    parser.add_argument("--sets", nargs="*", help="names of the sets to take; all of them when not given")
    parser.add_argument("--home", type=Path, default=cache_folder() / "foreign")
    parser.add_argument("--out", type=Path, default=Path("foreign.png"))
    chosen = parser.parse_args()
    fetched = sets.fetch(chosen.home)
    found = {name: distinct(paths) for name, paths in fetched.items() if chosen.sets is None or name in chosen.sets}
    shown: list[Shown] = []
    counts: Counter[str] = Counter()
    begun = time.monotonic()
    for name, (what, broken) in tried(found, chosen.decoded, chosen.most):
        counts[f"{name} {what}"] += 1
        shown += broken
    took_gb = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1e6
    if took_gb > LARGEST_GB:
        shown.append((took_gb / LARGEST_GB, f"a process took {took_gb:.1f} GB", None))
    shown.sort(key=lambda item: -item[0])
    for by, text, _ in shown:
        print(f"{by:6.1f} ×  {text}")
    pictures = [picture for _, _, picture in shown if picture is not None][:WORST]
    if pictures:
        cv2.imwrite(os.fspath(chosen.out), np.concatenate(pictures, 0)[..., ::-1])
        print(f"The worst {len(pictures)}, artwork, proof and white side by side: {chosen.out}")
    took = time.monotonic() - begun
    print(
        ", ".join(f"{name}: {count}" for name, count in sorted(counts.items())),
        f"in {took:.0f} s, the largest process {took_gb:.1f} GB",
    )
    print(f"{len(shown)} rules broken")
    return 1 if shown else 0


if __name__ == "__main__":
    sys.exit(main())
