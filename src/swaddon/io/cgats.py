"""Measured charts as CGATS.17 text: CMYK patches with CIELAB, XYZ or spectral reflectance (D50, 2° observer)."""

import csv
import re
import shlex
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import WHITE_D50, xyz_from_lab
from swaddon.core.errors import PlanError
from swaddon.core.press.profile import INKS
from swaddon.io.names import clean, shown
from swaddon.io.profiles import reason

_LARGEST_BYTES = 50_000_000
_SPECTRAL = re.compile(r"^(?:SPECTRAL_NM_?|SPECTRAL_|SPECTRAL_NM|NM_?|SPEC_?|R_)(\d{3})(?:\.0+)?$")
_LEAST_BANDS = 16
"""Fewer spectral bands than that tell no colour (visible light in steps of 20 nm)."""


@dataclass(frozen=True, eq=False)
class Chart:
    """Measured patches.

    Attributes
    ----------
    cmyk
        ``float64 (n, 4)``, coverages 0..1 as they were sent.
    xyz
        ``float64 (n, 3)``, tristimulus values, Y of the perfect white 1.
    names
        What the file calls itself and when it was made, as far as it says so.
    """

    cmyk: NDArray[np.float64]
    xyz: NDArray[np.float64]
    descriptor: str
    created: str


def read_chart(path: Path) -> Chart:
    """A chart from a file.

    Raises
    ------
    PlanError
        One sentence: what is missing or wrong, and in which line.
    """
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is too large for a measured chart (over 50 MB).")
        text = path.read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise PlanError(f"The measured chart “{shown(path)}” cannot be read ({reason(error)}).") from error
    return parse_chart(text, shown(path))


def parse_chart(text: str, name: str) -> Chart:
    """A chart from CGATS.17 text; raises ``PlanError`` with one sentence."""
    lines = text.splitlines()
    fields = _between(lines, "BEGIN_DATA_FORMAT", "END_DATA_FORMAT", name)
    columns = [word.upper() for _, words in fields for word in words]
    rows = _between(lines, "BEGIN_DATA", "END_DATA", name)
    missing = [f"CMYK_{ink}" for ink in INKS if f"CMYK_{ink}" not in columns]
    if missing:
        raise PlanError(f"“{name}” has no column {missing[0]}: a chart of C, M, Y and K in percent is needed.")
    values = _numbers(rows, columns, name)
    cmyk = np.stack([values[:, columns.index(f"CMYK_{ink}")] for ink in INKS], axis=1) / 100
    if cmyk.min() < -1e-6 or cmyk.max() > 1 + 1e-6:
        raise PlanError(f"“{name}” has coverages outside 0 to 100 %: C, M, Y and K are percent.")
    found = {key: _quoted(lines, key) for key in ("DESCRIPTOR", "CREATED")}
    return Chart(np.clip(cmyk, 0, 1), _tristimulus(values, columns, name), found["DESCRIPTOR"], found["CREATED"])


def _between(lines: list[str], first: str, last: str, name: str) -> list[tuple[int, list[str]]]:
    """Words of the lines between two keywords, with the lines' numbers."""
    start = next((at for at, line in enumerate(lines) if line.strip() == first), None)
    stop = None if start is None else next((at for at in range(start, len(lines)) if lines[at].strip() == last), None)
    if start is None or stop is None:
        raise PlanError(f"“{name}” is no CGATS.17 chart: it has no {first if start is None else last}.")
    out = []
    for number in range(start + 1, stop):
        line = lines[number].strip()
        if line and not line.startswith("#"):
            out.append((number + 1, _words(line)))
    return out


def _words(line: str) -> list[str]:
    if '"' not in line:
        return line.split()
    try:
        return shlex.split(line, posix=True)
    except ValueError:
        return line.replace('"', " ").split()


def _numbers(rows: list[tuple[int, list[str]]], columns: list[str], name: str) -> NDArray[np.float64]:
    """All numbers; columns of words are not-a-number."""
    needed = [_is_number(column) for column in columns]
    out = np.full((len(rows), len(columns)), np.nan)
    for at, (number, words) in enumerate(rows):
        if len(words) != len(columns):
            raise PlanError(f"“{name}”, line {number}: {len(words)} values where {len(columns)} columns are named.")
        for column, word in enumerate(words):
            if not needed[column]:
                continue
            try:
                out[at, column] = float(word.replace(",", "."))
            except ValueError as error:
                what = clean(word[:20])
                raise PlanError(f"“{name}”, line {number}: “{what}” is no number ({columns[column]}).") from error
    if not np.isfinite(out[:, needed]).all():
        raise PlanError(f"“{name}” holds values that are no finite numbers: measure it again.")
    return out


def _is_number(column: str) -> bool:
    return column.startswith(("CMYK_", "LAB_", "XYZ_")) or _SPECTRAL.match(column) is not None


def _tristimulus(values: NDArray[np.float64], columns: list[str], name: str) -> NDArray[np.float64]:
    """XYZ from what was measured: spectra before XYZ before CIELAB."""
    bands = sorted((int(found[1]), at) for at, column in enumerate(columns) if (found := _SPECTRAL.match(column)))
    if len(bands) >= _LEAST_BANDS:
        spectra = values[:, [at for _, at in bands]]
        spectra = spectra / 100 if spectra.max() > 2 else spectra
        return xyz_of_spectra(np.array([nm for nm, _ in bands], np.float64), spectra)
    if all(f"XYZ_{axis}" in columns for axis in "XYZ"):
        return np.stack([values[:, columns.index(f"XYZ_{axis}")] for axis in "XYZ"], axis=1) / 100
    if all(f"LAB_{axis}" in columns for axis in "LAB"):
        lab = np.stack([values[:, columns.index(f"LAB_{axis}")] for axis in "LAB"], axis=1)
        return np.asarray(xyz_from_lab(lab), np.float64)
    raise PlanError(f"“{name}” has neither LAB_L, LAB_A, LAB_B nor XYZ_X, XYZ_Y, XYZ_Z nor a spectrum for its patches.")


def xyz_of_spectra(nm: NDArray[np.float64], reflectance: NDArray[np.float64]) -> NDArray[np.float64]:
    """XYZ (Y of white 1) of reflectances ``(n, bands)``, 0..1, at wavelengths: D50, CIE 1931 2° (CIE 15:2018).

    Between bands reflectance runs straight, beyond them it stays as it is at the end. The white is scaled to that of
    ``WHITE_D50``, so that a perfect white is just that.
    """
    table = _observer()
    at = table[:, 0]
    spread = np.stack([np.interp(at, nm, row) for row in reflectance])
    weights = table[:, 1:2] * table[:, 2:]
    return np.asarray(spread @ (weights / weights.sum(axis=0)) * WHITE_D50, np.float64)


@lru_cache
def _observer() -> NDArray[np.float64]:
    """Wavelength, D50, x̄, ȳ, z̄ every 10 nm."""
    text = (resources.files(__package__) / "cie_d50_2deg.csv").read_text(encoding="utf-8")
    rows = list(csv.reader(text.splitlines()))[1:]
    return np.array(rows, np.float64)


def _quoted(lines: list[str], key: str) -> str:
    for line in lines[:200]:
        if line.startswith(key):
            return clean(line[len(key) :].strip().strip('"'))[:120]
    return ""
