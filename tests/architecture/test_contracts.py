"""The house stands as it is drawn: imports go one way, and a violation is caught."""

import ast
import re
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "swaddon"


def lint_imports(folder: Path) -> subprocess.CompletedProcess[str]:
    program = (
        "import sys; from importlinter.cli import lint_imports_command; "
        "sys.path.insert(0, 'src'); lint_imports_command(['--no-cache'])"
    )
    return subprocess.run([sys.executable, "-c", program], cwd=folder, capture_output=True, text=True, check=False)


WRONG_WAYS = (
    ("core/units.py", "from swaddon.session import job", "One direction through the house"),
    ("core/holes/screen.py", "from swaddon.core.white import need", "Rooms of the core"),
    ("core/white/settings.py", "from swaddon.core.white import need", "Settings lie below the mathematics"),
)


def test_a_violation_of_the_layers_is_caught(tmp_path: Path):
    """A copy of the house in which imports go the wrong way is refused by each contract that they break."""
    ignore = shutil.ignore_patterns("__pycache__", "*.png", "*.jpg", "*.ttf")
    shutil.copytree(SOURCE, tmp_path / "src" / "swaddon", ignore=ignore)
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    for where, what, _ in WRONG_WAYS:
        changed = tmp_path / "src" / "swaddon" / where
        changed.write_text(f"{changed.read_text()}\n{what}\n")
    result = lint_imports(tmp_path)
    assert result.returncode != 0
    for where, what, contract in WRONG_WAYS:
        assert f"{contract} BROKEN" in result.stdout
        of, to = (f"swaddon.{name}" for name in (where[:-3].replace("/", "."), ".".join(what.split()[1:4:2])[8:]))
        assert f"{of} -> {to}" in result.stdout, result.stdout


def test_everything_below_the_interface_works_without_qt():
    """Core, io and session import and plan with PySide6 not importable."""
    program = """
import sys
sys.modules["PySide6"] = None
from swaddon.core.plan.stages import make_plan
from swaddon.session import desk, preview, storage
from swaddon.session.demo import demo_job
from swaddon.ui.stations.white import model
import importlib, pkgutil, swaddon.core, swaddon.io, swaddon.session
for package in (swaddon.core, swaddon.io, swaddon.session):
    for item in pkgutil.walk_packages(package.__path__, package.__name__ + "."):
        if "fast.kernels" not in item.name:
            importlib.import_module(item.name)
print("planned" if model.white_state(demo_job("heron"), None) else "")
"""
    result = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert result.stdout.strip() == "planned", result.stderr


def test_starting_the_window_imports_nothing_slow():
    """No compiler and no test library before the window shows."""
    program = (
        "import swaddon.app, swaddon.ui.bench, sys; "
        "print([m for m in ('numba', 'scipy', 'skimage', 'tifffile', 'imagecodecs') if m in sys.modules])"
    )
    result = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert result.stdout.strip() == "[]", result.stdout + result.stderr


def test_files_stay_short():
    files = sorted(SOURCE.rglob("*.py"))
    assert len(files) > 300
    lines = {str(path.relative_to(SOURCE)): len(path.read_text().splitlines()) for path in files}
    assert {name: count for name, count in lines.items() if count > 400} == {}


def long_functions(path: Path) -> list[str]:
    """Functions of more than 40 lines, docstring and signature not counted."""
    return long_functions_in(path.read_text())


def long_functions_in(source: str) -> list[str]:
    found = []
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.FunctionDef):
            body = node.body[1:] if ast.get_docstring(node) and len(node.body) > 1 else node.body
            if (node.end_lineno or 0) - body[0].lineno + 1 > 40:
                found.append(node.name)
    return found


def test_functions_stay_short():
    """Kernels are left out: a call costs there what it saves elsewhere."""
    files = [path for path in SOURCE.rglob("*.py") if "kernels" not in path.parts]
    assert {str(path.relative_to(SOURCE)): found for path in files if (found := long_functions(path))} == {}
    source = "def long():\n" + "    x = 1\n" * 41
    assert long_functions_in(source) == ["long"]


KEPT = {
    "io/journal.py", "io/media.py", "io/print_areas.py", "io/tables.py", "session/kept.py", "session/shop.py",
}  # fmt: skip
"""Documents that the shop keeps, copies and caches: written whole, by their own door."""


def test_all_that_is_put_out_goes_through_the_one_door():
    """Who writes whole files besides keeps the shop’s documents; all else asks ``io/outputs.py`` what may go."""
    writers = {
        str(path.relative_to(SOURCE))
        for path in SOURCE.rglob("*.py")
        if re.search(r"from swaddon\.io\.whole import .*(whole_file|whole_set|PREFIX)", path.read_text())
    }
    assert writers == KEPT | {"io/outputs.py"}
    dialogs = {str(path.relative_to(SOURCE)) for path in SOURCE.rglob("*.py") if "getSaveFileName(" in path.read_text()}
    assert dialogs == {"ui/saving.py"}, "the answer of a dialog is an agreement to replace"
