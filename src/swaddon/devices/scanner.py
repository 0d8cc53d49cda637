"""The simulated scanner: light in, a picture in a wide RGB space with its faults out."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import SRGB_FROM_BANDS, encode_table
from swaddon.core.colour.wide import WIDE_FROM_BANDS, WIDE_GAMMA
from swaddon.core.units import MM_PER_INCH
from swaddon.devices.light import FULL_LIGHT, Light

_LID = (0.86, 0.86, 0.85)
_RIM_MM = 6.0
_BAND = 256
_NOISE_ROWS = 32
_SHARES = np.arange(16385) / 16384
_WIDE_TABLE = (255 * (np.arange(16385) / 16384) ** (1 / WIDE_GAMMA)).astype(np.float32)


@dataclass(frozen=True)
class Scanner:
    """How a page lies on the glass, and what the scanner does to it.

    ``turn_deg`` is clockwise; ``wobble_mm`` is how far the carriage runs off sideways and along, ``uneven`` how much
    its light differs from the mean; ``gain`` and ``gamma`` are errors of its tone.
    """

    turn_deg: float = 0.0
    upside_down: bool = False
    scale: tuple[float, float] = (1.0, 1.0)
    shear: float = 0.0
    wobble_mm: tuple[float, float] = (0.0, 0.0)
    wave: tuple[float, float, float, float] = (60.0, 0.0, 80.0, 0.0)
    uneven: float = 0.0
    light_turn: float = 0.0
    gain: float = 1.0
    gamma: float = 1.0
    blur_mm: float = 0.02
    noise: float = 0.0

    @classmethod
    def drawn(cls, seed: int) -> "Scanner":
        """A scanner of an office, and a page laid on it by hand."""
        chance = np.random.default_rng([seed, 23])
        return cls(
            turn_deg=float(chance.uniform(-2, 2)),
            upside_down=bool(chance.random() < 0.25),
            scale=tuple(chance.uniform(0.995, 1.005, 2).tolist()),
            shear=float(chance.uniform(-0.001, 0.001)),
            wobble_mm=tuple(chance.uniform(0, 0.03, 2).tolist()),
            wave=(float(chance.uniform(45, 120)), float(chance.uniform(0, 6.28)), float(chance.uniform(45, 120)),
                  float(chance.uniform(0, 6.28))),
            uneven=float(chance.uniform(0, 0.06)),
            light_turn=float(chance.uniform(0, 6.28)),
            gain=float(chance.uniform(0.985, 1.015)),
            gamma=float(chance.uniform(0.98, 1.02)),
            blur_mm=float(chance.uniform(0.015, 0.035)),
            noise=float(chance.uniform(0.5, 2.0)),
        )  # fmt: skip


def scan(
    light: Light,
    print_ppi: float,
    ppi: float,
    scanner: Scanner,
    seed: int = 0,
    card: tuple[float, float, float] | None = None,
    is_wide: bool = True,
    progress: Callable[[str, float], None] = lambda _title, _share: None,
) -> NDArray[np.uint8]:
    """Scan a print that lies on the glass with a rim of its medium round it.

    Parameters
    ----------
    light
        ``uint16 (H, W, 3)`` from the press.
    card
        Reflectance of the medium round the print; beyond it lies the lid.

    Returns
    -------
    ndarray
        ``uint8 (H', W', 3)``, in the space of ``core.colour.wide``; with ``is_wide`` off in sRGB, as cheap ones do.
    """
    width_mm, height_mm = (side / print_ppi * MM_PER_INCH for side in light.shape[1::-1])
    while print_ppi > ppi * 1.5:
        half = light.shape[1] // 2, light.shape[0] // 2
        light = cv2.resize(light[: half[1] * 2, : half[0] * 2], half, interpolation=cv2.INTER_AREA)
        print_ppi /= 2
    if scanner.blur_mm:
        light = cv2.GaussianBlur(light, (0, 0), max(scanner.blur_mm * print_ppi / MM_PER_INCH, 0.25))
    room = _RIM_MM + 6 + math.sin(math.radians(abs(scanner.turn_deg))) * height_mm / 2
    size_mm = width_mm + 2 * room, height_mm + 2 * room
    px = ppi / MM_PER_INCH
    width, height = (round(side * px) for side in size_mm)
    out = np.empty((height, width, 3), np.uint8)
    chance = np.random.default_rng([seed, 31])
    for top in range(0, height, _BAND):
        progress("Scanning", top / height)
        rows = slice(top, min(top + _BAND, height))
        x, y = _places(rows, width, px, size_mm, scanner)
        page = _taken(light, x + width_mm / 2, y + height_mm / 2, print_ppi / MM_PER_INCH)
        beyond = (abs(x) > width_mm / 2) | (abs(y) > height_mm / 2)
        lid = (abs(x) > width_mm / 2 + _RIM_MM) | (abs(y) > height_mm / 2 + _RIM_MM)
        page[beyond] = np.array(card or _LID, np.float32)
        page[lid] = np.array(_LID, np.float32)
        out[rows] = _seen(page, x / width_mm, y / height_mm, scanner, chance, is_wide)
    return out


def _places(
    rows: slice, width: int, px: float, size_mm: tuple[float, float], scanner: Scanner
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Where on the print, in mm from its middle, each pixel of some rows looks."""
    across = ((np.arange(width) + 0.5) / px - size_mm[0] / 2).astype(np.float32)
    down = ((np.arange(rows.start, rows.stop) + 0.5) / px - size_mm[1] / 2).astype(np.float32)
    long_x, phase_x, long_y, phase_y = scanner.wave
    off_x = scanner.wobble_mm[0] * np.sin(2 * np.pi * down / long_x + phase_x)
    off_y = scanner.wobble_mm[1] * np.sin(2 * np.pi * down / long_y + phase_y)
    x = across[None, :] + (off_x + scanner.shear * down)[:, None]
    y = np.broadcast_to((down + off_y)[:, None], x.shape)
    x, y = x / scanner.scale[0], y / scanner.scale[1]
    turn = math.radians(scanner.turn_deg + (180 if scanner.upside_down else 0))
    cos, sin = np.float32(math.cos(turn)), np.float32(math.sin(turn))
    return x * cos + y * sin, y * cos - x * sin


def _taken(light: Light, x: NDArray[np.float32], y: NDArray[np.float32], px: float) -> NDArray[np.float32]:
    """The print's light at places."""
    mapped = cv2.remap(
        light, (x * np.float32(px) - np.float32(0.5)).astype(np.float32), (y * px - 0.5).astype(np.float32),
        cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.asarray(mapped, np.float32) / np.float32(FULL_LIGHT)


def _seen(
    page: NDArray[np.float32],
    x: NDArray[np.float32],
    y: NDArray[np.float32],
    scanner: Scanner,
    chance: np.random.Generator,
    is_wide: bool,
) -> NDArray[np.uint8]:
    """Light as numbers, through uneven light, tone and noise."""
    turned = x * np.float32(math.cos(scanner.light_turn)) + y * np.float32(math.sin(scanner.light_turn))
    field = 1 + np.float32(scanner.uneven) * (turned + 2 * turned * turned - np.float32(0.17))
    matrix = WIDE_FROM_BANDS if is_wide else SRGB_FROM_BANDS
    linear = np.clip(page @ matrix.T.astype(np.float32), 0, 1)
    linear *= (field * np.float32(scanner.gain))[..., None]
    table = _WIDE_TABLE if is_wide else encode_table().astype(np.float32)
    if scanner.gamma != 1:
        table = np.interp(_SHARES**scanner.gamma, _SHARES, table).astype(np.float32)
    np.clip(linear, 0, 1, out=linear)
    linear *= table.size - 1
    code = table[np.rint(linear, out=linear).astype(np.int32)]
    if scanner.noise:
        code += _noise(chance, code.shape, scanner.noise)
    return np.asarray(np.clip(np.rint(code, out=code), 0, 255, out=code), np.uint8)


def _noise(chance: np.random.Generator, shape: tuple[int, ...], spread: float) -> NDArray[np.float32]:
    """Noise of a band: rows of one drawing in another order and from another start each time."""
    rows = chance.standard_normal((_NOISE_ROWS, shape[1] * shape[2]), np.float32) * np.float32(spread)
    order = chance.integers(0, _NOISE_ROWS, shape[0])
    starts = chance.integers(0, rows.shape[1], shape[0])
    return np.stack([np.roll(rows[row], start) for row, start in zip(order, starts, strict=True)]).reshape(shape)


def picture(light: Light) -> NDArray[np.uint8]:
    """A print as it is, sRGB ``uint8 (H, W, 3)``, without any scanner."""
    table = encode_table()
    out = np.empty(light.shape, np.uint8)
    for top in range(0, light.shape[0], _BAND):
        rows = slice(top, top + _BAND)
        linear = np.clip(light[rows] / np.float32(FULL_LIGHT) @ SRGB_FROM_BANDS.T.astype(np.float32), 0, 1)
        out[rows] = table[np.rint(linear * (table.size - 1)).astype(np.intp)]
    return out
