"""Tests of when the compiled kernels count as ready."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import swaddon
from swaddon.core import fast
from swaddon.io.tables import cache_folder

ASK = """
from swaddon.core import fast
from swaddon.io.tables import cache_folder
print(fast.is_compiled(cache_folder()))
"""


def ready_from(root: Path) -> bool:
    environment = os.environ | {"PYTHONPATH": str(root)}
    done = subprocess.run([sys.executable, "-c", ASK], env=environment, capture_output=True, text=True, check=True)
    return done.stdout.strip() == "True"


def test_a_second_copy_of_the_program_compiles_for_itself_though_it_shares_the_cache_folder(
    compiled: None, tmp_path: Path
) -> None:
    assert fast.is_compiled(cache_folder())
    source = Path(swaddon.__file__).parent
    assert ready_from(source.parent)
    shutil.copytree(source, tmp_path / "swaddon", ignore=shutil.ignore_patterns("__pycache__"))
    assert not ready_from(tmp_path)
