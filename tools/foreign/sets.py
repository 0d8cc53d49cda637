"""Open picture sets that nobody here drew, fetched by package name and unpacked beside the cache."""

import subprocess
import sys
import tarfile
from pathlib import Path

import hostile
import managed
import numpy as np

DEBIAN = {"stamps": "tuxpaint-stamps-default", "drawings": "tango-icon-theme", "drawings-2": "oxygen-icon-theme"}
"""Debian packages: photographs and cut-outs with soft alpha, and SVG drawings."""

PYPI = {"test-pictures": "pillow"}
"""Source packages whose own test pictures are hostile to a decoder."""

SUFFIXES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".svg", ".svgz", ".pdf", ".ora"}


def fetch(home: Path) -> dict[str, list[Path]]:
    """Pictures of each set; what was fetched before is not fetched again."""
    found = {}
    for name, package in DEBIAN.items():
        found[name] = _pictures(_debian(home / name, package))
    for name, package in PYPI.items():
        found[name] = _pictures(_pypi(home / name, package))
    found["managed"] = _made(home / "managed")
    found["hostile"] = _hostile(home / "hostile")
    return found


def _hostile(folder: Path) -> list[Path]:
    """Files that mean no good, made here; of equal ones each has its say, since names differ."""
    if not (folder / "done").exists():
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in hostile.files():
            (folder / name).write_bytes(data)
        (folder / "done").touch()
    return _pictures(folder)


def _made(folder: Path) -> list[Path]:
    """Colour-managed pictures, made here, with what they mean beside them."""
    folder.mkdir(parents=True, exist_ok=True)
    for picture in managed.pictures():
        (folder / picture.name).write_bytes(picture.data)
        np.save(meaning_of(folder / picture.name), np.append(picture.means.ravel(), np.uint8(picture.limit)))
    return _pictures(folder)


def meaning_of(path: Path) -> Path:
    """Where the meaning of a picture lies that was made here."""
    return path.with_name(path.name + ".npy")


def _pictures(folder: Path) -> list[Path]:
    files = (path for path in folder.rglob("*") if path.suffix.lower() in SUFFIXES and path.is_file())
    return sorted(path for path in files if not path.is_symlink())


def _debian(folder: Path, package: str) -> Path:
    if not (folder / "done").exists():
        folder.mkdir(parents=True, exist_ok=True)
        subprocess.run(["apt-get", "download", "-qq", package], cwd=folder, check=True)
        for archive in folder.glob("*.deb"):
            subprocess.run(["dpkg-deb", "-x", archive.name, "."], cwd=folder, check=True)
            archive.unlink()
        (folder / "done").touch()
    return folder


def _pypi(folder: Path, package: str) -> Path:
    if not (folder / "done").exists():
        folder.mkdir(parents=True, exist_ok=True)
        subprocess.run(
            [sys.executable, "-m", "pip", "download", "-q", "--no-deps", "--no-binary", ":all:",
             "-d", str(folder), package],
            check=True,
        )  # fmt: skip
        for archive in folder.glob("*.tar.gz"):
            with tarfile.open(archive) as packed:
                packed.extractall(folder, filter="data")
            archive.unlink()
        (folder / "done").touch()
    return folder
