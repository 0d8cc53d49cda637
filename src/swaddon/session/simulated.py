"""The simulated press at work on files: a test page becomes a scan, an exported plan becomes shirts."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, rgb_from_hex
from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile, Slot
from swaddon.core.units import MM_PER_INCH
from swaddon.devices.hidden import Hidden, drawn, perfect
from swaddon.devices.press import CARD, PAPER, print_on
from swaddon.devices.run import shirts
from swaddon.devices.scanner import Scanner, picture, scan
from swaddon.io.charts import read_channels
from swaddon.io.names import shown
from swaddon.io.outputs import output_group
from swaddon.io.png import write_png
from swaddon.io.profiles import reason
from swaddon.io.scans import write_scan

Progress = Callable[[str, float], None]


def hidden_of(press: PressProfile, seed: int, faultless: bool) -> tuple[tuple[Slot, ...], Hidden]:
    """Slots of a press from the left, and what the one of a seed hides."""
    slots = tuple(sorted(press.slots, key=lambda slot: slot.number))
    return slots, perfect(press, slots) if faultless else drawn(press, slots, seed)


def print_chart(
    chart: Path, press: PressProfile, seed: int, ppi: float, out: Path, faultless: bool, progress: Progress
) -> dict[str, Any]:
    """Print a test page on a black card (on paper without white), scan it, and write the scan; what the press hides."""
    slots, hidden = hidden_of(press, seed, faultless)
    channels = read_channels(chart, slots, press)
    medium = CARD if press.has_white else PAPER
    light = print_on(channels.planes, slots, press, hidden, channels.ppi, medium, seed, channels.strengths, progress)
    lain = Scanner() if faultless else Scanner.drawn(seed)
    pixels = scan(light, channels.ppi, ppi, lain, seed, medium, progress=progress)
    _written(out, lambda folder: write_scan(folder / out.name, pixels, ppi, "simulated scan of a test print"))
    return hidden.truth(slots)


def print_shirts(
    folder: Path, press: PressProfile, seed: int, ppi: float, out: Path, count: int, faultless: bool, progress: Progress
) -> dict[str, Any]:
    """Print an exported plan on its garment and write a picture of each shirt; what the press hides."""
    slots, hidden = hidden_of(press, seed, faultless)
    channels = read_channels(folder, slots, press)
    garment = _bands(garment_of(folder))
    run = shirts(
        channels.planes, channels.strengths, slots, press, hidden, channels.ppi, garment, count, seed, progress
    )

    def write(part: Path) -> None:
        for number, light in enumerate(run, start=1):
            made, at_ppi = picture(light), channels.ppi
            if ppi < channels.ppi:
                size = tuple(max(1, round(side * ppi / channels.ppi)) for side in made.shape[1::-1])
                made = np.asarray(cv2.resize(made, size, interpolation=cv2.INTER_AREA), np.uint8)
                at_ppi = made.shape[1] / (light.shape[1] / channels.ppi * MM_PER_INCH) * MM_PER_INCH
            name = out.name if count == 1 else f"{out.stem}-{number:02d}{out.suffix}"
            write_png(part / name, made, at_ppi, f"simulated shirt {number} of {count}")

    _written(out, write)
    return hidden.truth(slots)


def garment_of(folder: Path) -> Rgb:
    """Colour of the garment that an exported plan is for."""
    try:
        told = json.loads((folder / "plan.json").read_text(encoding="utf-8"))
        return rgb_from_hex(str(told["garment"]["rgb"]))
    except OSError as error:
        raise PlanError(f"“{folder.name}” holds no exported plan (plan.json: {reason(error)}).") from error
    except (ValueError, KeyError, TypeError) as error:
        raise PlanError(f"plan.json in “{folder.name}” tells no garment: export the plan anew.") from error


def _bands(rgb: Rgb) -> tuple[float, float, float]:
    red, green, blue = (float(value) for value in bands_from_srgb8(rgb))
    return red, green, blue


def _written(out: Path, write: Callable[[Path], None]) -> None:
    try:
        with output_group(out.parent) as part:
            write(part)
    except OSError as error:
        raise PlanError(f"“{shown(out)}” could not be written ({reason(error)}): choose another place.") from error
