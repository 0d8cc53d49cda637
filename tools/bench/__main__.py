"""Measure Swaddon beside the same work scripted plainly. Whole processes, files to files; medians; peak memory.

Run ``make bench`` or ``python tools/bench [--runs 5] [--plain-runs 1]``. Read the ratios, not the seconds.
"""

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

import numpy as np
import plain_need
import plain_regions
from picture import draw
from PIL import Image

from swaddon.core import fast
from swaddon.core.artwork.regions import find_regions
from swaddon.core.colour.spaces import SRGB_FROM_BANDS, bands_from_srgb8
from swaddon.core.engine import Cache, Run, taken
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.inks.separation import separate
from swaddon.core.inks.settings import Recipe
from swaddon.core.knockout.settings import AlphaTreatment, Knockout, OutlineKnockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.core.plan.variants import variants_of, worked_out
from swaddon.core.press.lineup import LineUp, factory
from swaddon.core.proof.optics import Appearance
from swaddon.core.white import need, underbase
from swaddon.core.white.stages import FollowSettings
from swaddon.io import profiles
from swaddon.io.images import read_artwork
from swaddon.io.tables import cache_folder, separation_table
from swaddon.session import shop
from swaddon.session.job import ArtworkFile, Job, first_settings, request_for
from swaddon.session.preview import Previewer
from swaddon.session.variants import axes_from, request_of
from swaddon.session.view import View

FILM = profiles.shipped("film")
GARMENT = (27, 27, 31)
WINDOW = """
import os, time
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from PySide6.QtWidgets import QApplication
from swaddon.session.preferences import Preferences
from swaddon.session.session import Session
from swaddon.ui import theme
from swaddon.ui.bench import Bench
app = QApplication([])
theme.load_fonts()
theme.apply("dark")
window = Bench(Session(), Preferences())
window.show()
app.processEvents()
print(time.clock_gettime(time.CLOCK_MONOTONIC) - float(os.environ["SWADDON_BEGUN"]))
os._exit(0)
"""


def process(command: list[str]) -> tuple[float, float, float]:
    """Wall seconds, CPU seconds and peak MB of one process."""
    begun = time.perf_counter()
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(child.pid, 0)
    if status:
        raise SystemExit(f"failed: {' '.join(command)}")
    return time.perf_counter() - begun, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def medians(command: list[str], runs: int) -> tuple[float, float, float]:
    """Medians of some runs after one that warms up when there are several."""
    if runs > 1:
        process(command)
    results = [process(command) for _ in range(runs)]
    wall, cpu, memory = (statistics.median(column) for column in zip(*results, strict=True))
    return wall, cpu, memory


def constants(path: Path, request) -> None:
    """What the plain script needs to know of garment and profile."""
    look = Appearance.of(GARMENT, FILM)
    white, ink = taken(FollowSettings, request).tables
    np.savez(
        path, table=separation_table(FILM.separation), fade_white=white, fade_ink=ink, primaries=look.primaries,
        ramp=underbase.design_ramp(FILM.white), scatter=look.scatter, garment=bands_from_srgb8(GARMENT),
        to_srgb=SRGB_FROM_BANDS,
    )  # fmt: skip


def agreement(ours: Path, plain: Path) -> str:
    """How far the two results are apart: both must have done the same work."""
    parts = []
    for name in ("white", "C", "K"):
        one, other = (np.asarray(Image.open(folder / f"{name}.png")).astype(int) for folder in (ours, plain))
        apart = np.abs(one - other)
        parts.append(f"{name} mean {apart.mean():.2f}, over 32 in {(apart > 32).mean():.2%}")
    return "; ".join(parts)


VIEWS = {"fit": View(822, 606, 606 / 400, -20, -20), "1 px": View(822, 606, 300 / 25.4, 100, 100)}
DOTS = HoleSettings(Screen("round"))
SLOTS = factory(FILM).slots
CORNERS = (4200, 300), (4100, 3900), (240, 3700)
CHANGES = {
    "choke": lambda s, i: replace(s, white=replace(s.white, choke_mm=0.2 + i / 100)),
    "allowed shift": lambda s, i: replace(s, white=replace(s.white, mode="need", allowed_shift=2 + i / 4)),
    "tolerance": lambda s, i: replace(s, knockouts=(replace(s.knockouts[0], tolerance=5 + i / 4),)),
    "lpi of the holes": lambda s, i: replace(s, holes=replace(s.holes, default=Screen("round", 25 + i))),
    "ink left by holes": lambda s, i: replace(s, holes=replace(s.holes, default=Screen("round", share=0.6 + i / 50))),
    "tile of the holes": lambda s, i: replace(
        s, holes=replace(s.holes, default=Screen("tile", share=None, tile="grit", tile_mm=8 + i))
    ),
    "slots": lambda s, i: replace(s, lineup=LineUp("Moved", SLOTS[i % 6 :] + SLOTS[: i % 6])),
    "exact colour": lambda s, i: replace(
        s, recipes=(Recipe((200, 40, 60), (0.0, 1.0, 0.5 + i / 100, 0.0), 4 + i / 4),)
    ),
    "outline": lambda s, i: replace(s, outlines=(OutlineKnockout(((300 + 9 * i, 250), *CORNERS)),)),
}


def changed(request, change, index: int):
    return replace(request, settings=change(request.settings, index))


def interactive(request) -> list[tuple[str, float]]:
    """Milliseconds on the bench: the visible part after each change, and the tally of the whole print."""
    fast.enable(cache_folder())
    cut = replace(request, settings=replace(request.settings, holes=DOTS))
    cache = Cache(4_000_000_000)
    plan = make_plan(cut, Run(cache))
    previewer = Previewer(cache)
    previewer.warm(plan)
    rows = []
    for what, change in CHANGES.items():
        for name, view in VIEWS.items():
            times = []
            for index in range(9):
                moved = changed(cut, change, index)
                begun = time.perf_counter()
                previewer.frame(view, "cloth", "jersey", moved, plan, Run(cache))
                times.append(time.perf_counter() - begun)
            rows.append((f"{what}, visible part, {name}", statistics.median(times[1:]) * 1000))
    for what in ("choke", "allowed shift", "lpi of the holes"):
        times = [counted_and_checked(changed(cut, CHANGES[what], index + 20), cache, plan) for index in range(5)]
        for name, column in zip(("tally", "findings"), zip(*times[1:], strict=True), strict=True):
            rows.append((f"{what}, {name} of the whole print", statistics.median(column) * 1000))
    return rows


def counted_and_checked(request, cache: Cache, before) -> tuple[float, float]:
    """Seconds until the tally of a plan is there, and until its findings are."""
    begun = time.perf_counter()
    counted: list[float] = []
    make_plan(
        request, Run(cache), before=before.checks, counted=lambda _plan: counted.append(time.perf_counter() - begun)
    )
    return counted[0], time.perf_counter() - begun


def by_need(request, constants_file: Path) -> tuple[float, float, float]:
    """Seconds to solve a garment's white by need, to lay it on the whole picture, and of a plain script for both."""
    fast.enable(cache_folder())
    rgba = np.ascontiguousarray(request.artwork.rgba)
    look = Appearance.of(GARMENT, FILM)
    begun = time.perf_counter()
    solved = need.node_errors(FILM.separation, separation_table(FILM.separation), look)
    solving = time.perf_counter() - begun
    begun = time.perf_counter()
    need.need_plane(rgba, need.need_table(solved, 3.0))
    laying = time.perf_counter() - begun
    known = dict(np.load(constants_file))
    begun = time.perf_counter()
    plain_need.white_by_need(rgba, known, 3.0)
    return solving, laying, time.perf_counter() - begun


def against_decoding(art: Path, request, runs: int) -> tuple[float, float, float]:
    """Median seconds to decode the picture, to separate it, and to plan it whole, in one warm process."""
    fast.enable(cache_folder())
    rows = []
    for _ in range(runs + 1):
        begun = time.perf_counter()
        decoded = read_artwork(art)
        read = time.perf_counter() - begun
        begun = time.perf_counter()
        separate(np.ascontiguousarray(decoded.rgba), separation_table(FILM.separation))
        separated = time.perf_counter() - begun
        begun = time.perf_counter()
        make_plan(replace(request, artwork=decoded), Run(Cache(limit_bytes=1)), lean=True)
        rows.append((read, separated, time.perf_counter() - begun))
    decode, separation, whole = (statistics.median(column) for column in zip(*rows[1:], strict=True))
    return decode, separation, whole


def regions(art: Path) -> tuple[float, float, float]:
    """Seconds to find all regions, milliseconds of a click, and seconds of a plain script for the same."""
    fast.enable(cache_folder())
    rgba = read_artwork(art).rgba
    found, times = find_regions(rgba), []
    for _ in range(3):
        begun = time.perf_counter()
        found = find_regions(rgba)
        times.append(time.perf_counter() - begun)
    ours = statistics.median(times)
    begun = time.perf_counter()
    for index in range(100):
        found.at(40.0 * index, 41.0 * index)
    click = (time.perf_counter() - begun) * 10
    begun = time.perf_counter()
    plain_regions.regions(rgba)
    return ours, click, time.perf_counter() - begun


def twelve_variants(art: Path) -> dict[str, float]:
    """Wall and CPU seconds of two garments × three white plans × two presses, as multiples of one plan's own.

    One plan's own is the mean of all of them made alone, plans of one warm process between them.
    """
    fast.enable(cache_folder())
    settings = replace(first_settings(FILM), width_mm=381.0, knockouts=(Knockout((255, 255, 255), 8.0),))
    job = Job(file=ArtworkFile(read_artwork(art), b""), settings=settings, profile=FILM)
    out = {}
    for pair in (("black", "navy"), ("black", "white")):
        axes = axes_from(job, shop.goods(), pair, ("solid", "need:3", "none"), ("film", "direct"), (), (), ())
        variants = variants_of(axes)
        list(worked_out(variants[:1], lambda variant: request_of(job, variant), Run(Cache())))
        alone = [(time.perf_counter(), time.process_time())]
        for variant in variants:
            make_plan(request_of(job, variant), Run(Cache(1)), lean=True)
            alone.append((time.perf_counter(), time.process_time()))
        list(worked_out(variants, lambda variant: request_of(job, variant), Run(Cache())))
        wall, cpu = time.perf_counter() - alone[-1][0], time.process_time() - alone[-1][1]
        one_wall, one_cpu = (12 / (last - first) for first, last in zip(alone[0], alone[-1], strict=True))
        out[" and ".join(pair)] = wall
        out[" and ".join(pair) + ", × one plan"] = wall * one_wall
        out[" and ".join(pair) + ", × one plan, CPU"] = cpu * one_cpu
    return out


def window_start(runs: int) -> float:
    times = []
    for _ in range(runs):
        environment = os.environ | {"SWADDON_BEGUN": str(time.clock_gettime(time.CLOCK_MONOTONIC))}
        done = subprocess.run(
            [sys.executable, "-c", WINDOW], env=environment, capture_output=True, text=True, check=True
        )
        times.append(float(done.stdout))
    return statistics.median(times)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--plain-runs", type=int, default=1)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        art = folder / "art.png"
        print("Drawing 4500 × 4200 px …", flush=True)
        draw(art)
        settings = PlanSettings(width_mm=381.0, garment=GARMENT, knockouts=(Knockout((255, 255, 255)),),
                                alpha=AlphaTreatment("keep"))  # fmt: skip
        request = request_for(read_artwork(art), settings, FILM)
        constants(folder / "constants.npz", request)
        ours = [sys.executable, "-m", "swaddon", "plan", str(art), "--process", "film", "--garment", "#1b1b1f",
                "--width", "381mm", "--knockout", "outside:#ffffff:8", "--alpha", "keep",
                "--out", str(folder / "ours")]  # fmt: skip
        plain = [sys.executable, str(Path(__file__).with_name("plain.py")), str(art), str(folder / "constants.npz"),
                 str(folder / "plain")]  # fmt: skip
        print("Measuring …", flush=True)
        ours_row, plain_row = medians(ours, options.runs), medians(plain, options.plain_runs)
        print(f"\n{'files to files':<40}{'wall s':>9}{'CPU s':>9}{'peak MB':>9}")
        for title, row in (("Swaddon, command line", ours_row), ("Pillow, SciPy, scikit-image", plain_row)):
            print(f"{title:<40}{row[0]:>9.2f}{row[1]:>9.2f}{row[2]:>9.0f}")
        print(f"{'ratio':<40}{plain_row[0] / ours_row[0]:>8.1f}×{plain_row[1] / ours_row[1]:>8.1f}×")
        print(f"agreement: {agreement(folder / 'ours', folder / 'plain')}\n")
        solving, laying, plainly = by_need(request, folder / "constants.npz")
        print(f"{'white by need, solving a garment':<44}{solving:>9.2f} s")
        print(f"{'white by need, laid on the whole picture':<44}{laying:>9.2f} s")
        print(f"{'white by need, SciPy and scikit-image':<44}{plainly:>9.2f} s {plainly / (solving + laying):>8.1f}×")
        decode, separation, whole = against_decoding(art, request, options.runs)
        print(f"{'PNG decoded / separated':<44}{decode:>9.2f} s {separation:>8.2f} s")
        print(f"{'whole plan, in memory':<44}{whole:>9.2f} s {whole / (decode + separation):>8.1f}× of both\n")
        ours, click, plainly = regions(art)
        print(f"{'regions, all':<40}{ours:>9.2f} s")
        print(f"{'regions, scikit-image and SciPy':<40}{plainly:>9.2f} s {plainly / ours:>8.1f}×")
        print(f"{'regions, a click':<40}{click:>9.2f} ms\n")
        for title, value in interactive(request):
            print(f"{title:<44}{value:>9.0f} ms")
        for title, value in twelve_variants(art).items():
            print(f"{'12 variants, ' + title:<48}{value:>9.2f}")
        print(f"{'window shown after start':<40}{window_start(options.runs) * 1000:>9.0f} ms")


main()
