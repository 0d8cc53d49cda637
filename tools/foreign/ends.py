"""Every command that writes, where it cannot: a full disk, one to read only, no reader, told to end, killed.

    .venv/bin/python tools/foreign/ends.py [--kills 5]

What is there afterwards is what was there before, or all that the command writes; what a killed command had begun is
swept by the next. A refusal is one sentence. Full and read-only disks are mounted, which only the system's owner may:
for others a limit on the size of files stands for the full one, and the read-only one is left out.
"""

import argparse
import csv
import hashlib
import inspect
import itertools
import os
import random
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

import numpy as np
import typer
from PIL import Image

from swaddon.cli import app
from swaddon.cli.guard import WRITES

WRITING = {
    "chart": "--out {}/c.pdf",
    "press": "p --ppi 100 --shirts 3 --out {}/s.png --truth {}/t.json",
    "read-chart": "scan.png --accept {}/a.toml",
    "variants": "a.png --width 40mm --white solid --white need --out {}/v",
    "cost": "j.swaddon --out {}/c.csv",
    "supplies": "--out {}/s.csv",
    "weigh": "w.csv --accept {}/a.toml --out {}/o.csv",
    "weigh routine": "--routine {}/w.csv --patches {}/patches",
    "weigh back": "--profile a.toml --back {}/b.toml",
    "flow": "j.swaddon --out {}/f.csv",
    "quote": "j.swaddon --out {}/q.pdf",
    "gang": "j.swaddon:3 --out {}/g",
    "split save": "j.swaddon --medium 30x80mm --save-job {}/k.swaddon --overwrite",
    "split": "j.swaddon --medium 30x80mm --out {}/sp",
    "parts": "a.png --out {}/pa",
    "card": "j.swaddon --out {}/c.pdf",
    "plan": "--job j.swaddon --out {}/pl",
    "plan report": "--job j.swaddon --report {}/r.html",
    "plan save": "--job j.swaddon --save-job {}/k.swaddon --overwrite",
    "fit-inks": "inks.txt --out {}/i.toml",
    "log export": "--out {}/l.html",
    "log month": "--out {}/m.pdf",
    "store backup": "{}/b.zip",
}
"""Each command that writes, once for each of its outputs; ``{}`` is the folder for them."""

READS_BACK = {("supplies", "take")}
"""What is written by these is the shop's own table, under the configuration folder."""

SIZES_KB = (16, 64, 300, 1000)
LATE_S = 1.2

State = dict[str, str]


def declared(of: typer.Typer, before: tuple[str, ...] = ()) -> Iterator[tuple[str, str]]:
    """Names of all commands and of what each writes."""
    for info in of.registered_commands:
        name = " ".join((*before, info.name or info.callback.__name__))
        yield from ((name, option) for option in inspect.signature(info.callback).parameters if option in WRITES)
    for group in of.registered_groups:
        yield from declared(group.typer_instance, (*before, str(group.name)))


def missing() -> set[tuple[str, str]]:
    """Outputs of commands that are not tried here."""

    def is_tried(command: str, option: str) -> bool:
        flag = "--" + option.replace("_", "-") + " "
        return any(
            _command(name) == command.split() and (flag in words + " " or option == "backup_file")
            for name, words in WRITING.items()
        )

    return {pair for pair in declared(app) if not is_tried(*pair)} - READS_BACK


def _command(name: str) -> list[str]:
    """The command of an entry, without the word that tells its entries apart."""
    words = name.split()
    return words if name in {command for command, _ in declared(app)} else words[:-1]


def state(folder: Path) -> State:
    """What lies in a folder, by its digests."""
    files = (path for path in sorted(folder.rglob("*")) if path.is_file())
    return {str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest() for path in files}


class Walk:
    """Runs the commands in a folder of their own, and tells what went wrong."""

    def __init__(self, home: Path) -> None:
        self.home, self.wrong, self.tried = home, 0, 0
        self._env = os.environ | {"SWADDON_DATA": str(home / "data"), "SWADDON_CONFIG": str(home / "config")}

    def arguments(self, name: str, folder: Path) -> list[str]:
        own = WRITING[name].replace("{}", str(folder)).split()
        return [sys.executable, "-m", "swaddon", *_command(name), *own]

    def run(self, words: list[str], before: Callable[[], None] | None = None) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            words, capture_output=True, text=True, cwd=self.home, env=self._env, check=False, preexec_fn=before
        )

    def expect(self, holds: bool, name: str, text: str) -> None:
        self.tried += 1
        if not holds:
            self.wrong += 1
            print(f"{name}: {text}", flush=True)

    def set_up(self) -> None:
        step = np.arange(200 * 300 * 3, dtype=np.uint32).reshape(200, 300, 3)
        Image.fromarray((step * 2654435761 >> 11).astype(np.uint8)).save(self.home / "a.png")
        (self.home / "inks.txt").write_text(_chart())
        for made in (
            "plan a.png --width 60mm --save-job j.swaddon", "plan --job j.swaddon --out p", "chart --out c.tif",
            "press c.tif --out scan.png", "weigh --routine w.csv",
        ):  # fmt: skip
            done = self.run([sys.executable, "-m", "swaddon", *made.split()])
            self.expect(done.returncode == 0, made, done.stderr)
        _weigh(self.home / "w.csv")
        done = self.run([sys.executable, "-m", "swaddon", "weigh", "w.csv", "--accept", "a.toml"])
        self.expect(done.returncode == 0, "weigh", done.stderr)

    def without_room(self, name: str) -> None:
        """On disks that fill up sooner or later, and on one to read only."""
        for size_kb in (*SIZES_KB, 0) if os.geteuid() == 0 else SIZES_KB:
            with _small_disk(self.home / "disk", size_kb) as limit:
                before = state(self.home / "disk")
                done = self.run(self.arguments(name, self.home / "disk"), limit)
                after = state(self.home / "disk")
            refused = done.returncode == 2 and done.stderr.count("\n") == 1 and (before == after or "routine" in name)
            what = f"{size_kb} kB" if size_kb else "to read only"
            self.expect(refused or (done.returncode == 0 and size_kb > 0), name, f"{what}: {done.stderr[-300:]}")

    def ended(self, name: str, number: signal.Signals, kills: int, chance: random.Random) -> None:
        """Ended in the middle, and done again."""
        folder = self.home / "ended"
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir()
        words, begun = self.arguments(name, folder), time.monotonic()
        done = self.run(words)
        self.expect(done.returncode == 0, name, done.stderr)
        takes, whole = time.monotonic() - begun, state(folder)
        for _ in range(kills):
            with subprocess.Popen(
                words, cwd=self.home, env=self._env, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True
            ) as begun_one:
                time.sleep(chance.uniform(0.3, 1.0) * takes)
                at = time.monotonic()
                begun_one.send_signal(number)
                told = begun_one.communicate()[1]
                late = time.monotonic() - at
            left = state(folder)
            self.expect(set(whole) <= set(left) and "Traceback" not in told, name, f"{number.name}: {told[-300:]}")
            self.expect(late < LATE_S, name, f"{number.name}: ended after {late:.1f} s")
            done = self.run(words)
            self.expect(done.returncode == 0, name, f"after {number.name}: {done.stderr}")
            self.expect(set(state(folder)) == set(whole), name, f"{number.name} left {set(state(folder)) - set(whole)}")

    def without_reader(self, name: str) -> None:
        """Into a pipe that nobody reads."""
        folder = Path(tempfile.mkdtemp(dir=self.home))
        reads, writes = os.pipe()
        os.close(reads)
        done = subprocess.run(
            self.arguments(name, folder),
            check=False,
            stdout=writes,
            stderr=subprocess.PIPE,
            text=True,
            cwd=self.home,
            env=self._env,
        )
        os.close(writes)
        silent = done.returncode == 0 and not done.stderr
        self.expect(silent or done.stderr.count("\n") == 1, name, f"no reader: {done.stderr[-300:]}")


def _weigh(table: Path) -> None:
    """Fill in the first patches of the routine."""
    with table.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))[:2]
    with table.open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, rows[0])
        writer.writeheader()
        writer.writerows(row | {"blank_g": "10.00", "printed_g": "11.10"} for row in rows)


def _chart() -> str:
    """A chart of four inks that each let part of the light through, in CGATS (ISO 28178)."""
    lines = []
    for inks in itertools.product((0, 50, 100), repeat=4):
        light = np.array([0.86, 0.89, 0.73])
        for share, through in zip(
            inks, ((0.2, 0.3, 0.8), (0.4, 0.2, 0.3), (0.9, 0.9, 0.1), (0.1, 0.1, 0.1)), strict=True
        ):
            light = light * (1 - share / 100 * (1 - np.array(through)))
        lines.append(" ".join(map(str, (*inks, *np.round(100 * light, 4)))))
    names = "CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z"
    data = "\n".join(lines)
    return f"CGATS.17\nBEGIN_DATA_FORMAT\n{names}\nEND_DATA_FORMAT\nBEGIN_DATA\n{data}\nEND_DATA\n"


@contextmanager
def _small_disk(place: Path, size_kb: int) -> Iterator[Callable[[], None] | None]:
    """A disk of so many kB, 0: one to read only; else a folder and a limit to be set before the command begins."""
    place.mkdir(exist_ok=True)
    if os.geteuid() != 0:
        limit = size_kb * 1000
        yield partial(resource.setrlimit, resource.RLIMIT_FSIZE, (limit, limit))
        shutil.rmtree(place)
        return
    options = f"size={size_kb or 64}k" + ("" if size_kb else ",ro")
    subprocess.run(["mount", "-t", "tmpfs", "-o", options, "none", str(place)], check=True)
    try:
        yield None
    finally:
        subprocess.run(["umount", str(place)], check=True)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=3)
    parser.add_argument("--only", nargs="*", choices=WRITING, default=list(WRITING))
    chosen = parser.parse_args()
    chance, begun = random.Random(1), time.monotonic()
    with tempfile.TemporaryDirectory() as home:
        walk = Walk(Path(home))
        walk.expect(not missing(), "not tried", str(missing()))
        walk.set_up()
        for name in chosen.only:
            walk.without_room(name)
            walk.without_reader(name)
            for number in (signal.SIGKILL, signal.SIGINT):
                walk.ended(name, number, chosen.kills, chance)
    print(f"{walk.tried} times held, {walk.wrong} wrong, in {time.monotonic() - begun:.0f} s")
    return 1 if walk.wrong else 0


if __name__ == "__main__":
    sys.exit(main())
