"""Do the tests see it when the code is wrong? Breaks one thing at a time in a copy, and runs the tests of its room.

    .venv/bin/python tools/mutants.py --seed 1 --count 40

Places are chosen at random (always the same for a seed) in the rooms of the core that decide what prints and what it
costs. What the tests of the room let pass is tried once more with all tests of the core; what is left is listed.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
ROOMS = ("white", "knockout", "holes", "count", "shop", "flow")
SWAPS: dict[type[ast.AST], str] = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==", ast.Add: "-", ast.Sub: "+",
    ast.Mult: "/", ast.Div: "*", ast.And: "or", ast.Or: "and",
}  # fmt: skip
SIGNS: dict[type[ast.AST], str] = {
    ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=", ast.Add: "+", ast.Sub: "-",
    ast.Mult: "*", ast.Div: "/", ast.And: "and", ast.Or: "or",
}  # fmt: skip
CALLS = {"min": "max", "max": "min", "minimum": "maximum", "maximum": "minimum", "any": "all", "all": "any"}


@dataclass(frozen=True)
class Mutant:
    """One thing that is wrong: the text of a line from a column on, and what stands there instead."""

    path: Path
    line: int
    column: int
    old: str
    new: str

    @property
    def title(self) -> str:
        return f"{self.path.relative_to(ROOT)}:{self.line}: {self.old} → {self.new}"

    def applied(self, source: str) -> str:
        lines = source.splitlines(keepends=True)
        raw = lines[self.line - 1].encode()
        at, end = self.column, self.column + len(self.old.encode())
        assert raw[at:end].decode() == self.old, self.title
        lines[self.line - 1] = (raw[:at] + self.new.encode() + raw[end:]).decode()
        return "".join(lines)


def mutants_of(path: Path) -> Iterator[Mutant]:
    """All that can be broken in a file: comparisons, sums, limits, conditions, numbers."""
    source = path.read_text(encoding="utf-8")
    lines = source.splitlines()

    def found(node: ast.expr, end: ast.expr, old: str, new: str) -> Iterator[Mutant]:
        """The operator between two expressions of one line."""
        if node.end_lineno == end.lineno and node.end_col_offset is not None:
            between = lines[end.lineno - 1].encode()[node.end_col_offset : end.col_offset].decode()
            if between.strip(" ()") == old:
                at = node.end_col_offset + len(between[: between.index(old)].encode())
                yield Mutant(path, end.lineno, at, old, new)

    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPS:
            yield from found(node.left, node.comparators[0], SIGNS[type(node.ops[0])], SWAPS[type(node.ops[0])])
        elif isinstance(node, ast.BinOp) and type(node.op) in SWAPS:
            yield from found(node.left, node.right, SIGNS[type(node.op)], SWAPS[type(node.op)])
        elif isinstance(node, ast.BoolOp):
            yield from found(node.values[0], node.values[1], SIGNS[type(node.op)], SWAPS[type(node.op)])
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
            old = lines[node.lineno - 1].encode()[node.col_offset : node.end_col_offset].decode()
            new = f"({old} + 1)" if node.value in (0, 1) else f"({old} * 1.25)"
            yield Mutant(path, node.lineno, node.col_offset, old, new)
        elif isinstance(node, ast.Call):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            if name in CALLS and node.func.end_col_offset is not None:
                at = node.func.end_col_offset - len(name)
                yield Mutant(path, node.func.end_lineno or 0, at, name, CALLS[name])


def chosen(seed: int, count: int, rooms: tuple[str, ...]) -> list[Mutant]:
    """So many at random, the same number of each room as far as that goes."""
    chance, out = random.Random(seed), list[Mutant]()
    for at, room in enumerate(rooms):
        files = sorted((ROOT / "src/swaddon/core" / room).glob("*.py"))
        every = [mutant for path in files for mutant in mutants_of(path)]
        out += chance.sample(every, count // len(rooms) + (at < count % len(rooms)))
    return out


def fails(copy: Path, tests: list[str], seconds: float) -> bool:
    """Whether some test fails, or does not end."""
    environment = os.environ | {"PYTHONPATH": str(copy / "src"), "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-n", "2", "--dist", "loadfile", *tests]
    try:
        done = subprocess.run(command, cwd=copy, env=environment, capture_output=True, timeout=seconds, check=False)
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def main() -> None:
    """Try them, and tell which were not noticed."""
    ask = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--count", type=int, default=40)
    ask.add_argument("--rooms", nargs="*", default=ROOMS)
    ask.add_argument("--own-room-only", action="store_true", help="do not try what is left with all tests of the core")
    given = ask.parse_args()
    left = []
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "house"
        left_out = shutil.ignore_patterns(".git", ".venv", ".mypy_cache", "__pycache__", "docs")
        shutil.copytree(ROOT, copy, ignore=left_out)
        for mutant in chosen(given.seed, given.count, tuple(given.rooms)):
            place = copy / mutant.path.relative_to(ROOT)
            source = place.read_text(encoding="utf-8")
            place.write_text(mutant.applied(source), encoding="utf-8")
            room = f"tests/core/{place.parent.name}"
            noticed = fails(copy, [room, "tests/core/plan/test_plan.py"], 300)
            noticed = noticed or (not given.own_room_only and fails(copy, ["tests/core"], 900))
            place.write_text(source, encoding="utf-8")
            print("noticed " if noticed else "NOT SEEN", mutant.title, flush=True)
            left += [] if noticed else [mutant]
    print(f"{len(left)} of {given.count} were not noticed")


if __name__ == "__main__":
    main()
