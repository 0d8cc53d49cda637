"""The wheel holds all that the application needs: built, unpacked by itself, and run from there."""

import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image
from tests.conftest import badge

ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder that holds the installed wheel alone; its libraries are those of the test's own environment."""
    made, home = tmp_path_factory.mktemp("wheel"), tmp_path_factory.mktemp("site")
    program = f"import flit_core.buildapi as build; print(build.build_wheel({str(made)!r}))"
    subprocess.run([sys.executable, "-c", program], cwd=ROOT, check=True, capture_output=True)
    (wheel,) = made.glob("*.whl")
    install = [
        sys.executable,
        "-m",
        "pip",
        "install",
        "-q",
        "--no-deps",
        "--no-index",
        "--target",
        str(home),
        str(wheel),
    ]
    subprocess.run(install, check=True, capture_output=True)
    return home


def environment(site: Path, tmp_path: Path) -> dict[str, str]:
    own = {"PYTHONPATH": str(site), "SWADDON_CONFIG": str(tmp_path / "config"), "QT_QPA_PLATFORM": "offscreen"}
    return os.environ | own


def run(site: Path, tmp_path: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "swaddon", *arguments],
        cwd=tmp_path, env=environment(site, tmp_path), capture_output=True, text=True, check=False,
    )  # fmt: skip


def test_it_is_the_wheel_that_runs_and_tells_its_version(site, tmp_path):
    where = subprocess.run(
        [sys.executable, "-c", "import swaddon; print(swaddon.__file__)"],
        env=environment(site, tmp_path), cwd=tmp_path, capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert Path(where.stdout.strip()).is_relative_to(site)
    assert run(site, tmp_path, "--version").stdout.strip() == "0.1.0"
    assert any("Apache License" in file.read_text() for file in site.rglob("LICENSE"))


def test_it_plans(site, tmp_path):
    Image.fromarray(badge()).save(tmp_path / "badge.png")
    done = run(site, tmp_path, "plan", "badge.png", "--width", "20mm", "--out", "out")
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "out" / "plan.json").is_file()


def test_its_bench_opens_the_demo_and_ends_when_told(site, tmp_path):
    bench = subprocess.Popen(
        [sys.executable, "-m", "swaddon", "bench"],
        cwd=tmp_path, env=environment(site, tmp_path), stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    with pytest.raises(subprocess.TimeoutExpired):
        bench.wait(timeout=6)
    bench.send_signal(signal.SIGTERM)
    _, said = bench.communicate(timeout=30)
    assert bench.returncode == -signal.SIGTERM
    assert "Traceback" not in said
