"""Acceptance pictures, drawn here: a crest, an emblem that fades to black, a two-colour badge, a scan-like JPEG."""

from pathlib import Path

import cv2
import numpy as np
from PIL import Image


def crest(garment: tuple[int, int, int], size: int = 700) -> np.ndarray:
    """A shield on an opaque ground of the garment's colour, antialiased; ``uint8 (size, size, 3)``."""
    big = np.full((size * 3, size * 3, 3), garment, np.uint8)
    s = size * 3
    shield = np.array([(0.15, 0.1), (0.85, 0.1), (0.85, 0.55), (0.5, 0.92), (0.15, 0.55)]) * s
    cv2.fillPoly(big, [shield.astype(np.int32)], (214, 168, 52))
    inner = np.array([(0.22, 0.17), (0.78, 0.17), (0.78, 0.52), (0.5, 0.83), (0.22, 0.52)]) * s
    cv2.fillPoly(big, [inner.astype(np.int32)], (24, 96, 90))
    cv2.circle(big, (s // 2, int(0.4 * s)), int(0.14 * s), (250, 250, 250), -1)
    cv2.circle(big, (s // 2, int(0.4 * s)), int(0.06 * s), (190, 40, 40), -1)
    return cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA)


def emblem(size: int = 700) -> np.ndarray:
    """A warm disc that fades into black all round."""
    y, x = np.mgrid[0:size, 0:size] / size - 0.5
    away = np.clip((np.hypot(x, y) - 0.15) / 0.3, 0, 1)
    light = (1 - away)[..., None] ** 1.5
    return np.rint(light * np.array([255, 150, 40])).astype(np.uint8)


def badge_with_lettering(size: int = 900) -> np.ndarray:
    """Two big areas and fine lettering on nothing, hard-edged."""
    art = np.zeros((size, size, 4), np.uint8)
    cv2.circle(art, (size // 2, size // 2), int(0.46 * size), (28, 60, 130, 255), -1)
    cv2.ellipse(
        art, (size // 2, int(0.62 * size)), (int(0.3 * size), int(0.22 * size)), 0, 0, 360, (220, 120, 30, 255), -1
    )
    cv2.putText(
        art, "COXSWAIN", (int(0.16 * size), int(0.33 * size)), cv2.FONT_HERSHEY_DUPLEX, 3.6, (250, 240, 220, 255), 9
    )
    return art


def scan(path: Path, size: int = 700) -> None:
    """A print scanned on dirty white paper, as a JPEG of middling quality."""
    rng = np.random.default_rng(8)
    paper = np.full((size, size, 3), 246.0)
    stains = cv2.GaussianBlur(rng.normal(0, 26, (size, size)).astype(np.float32), (0, 0), 9)
    paper += stains[..., None] + rng.normal(0, 2.0, (size, size, 3))
    drawn = np.clip(paper, 0, 255).astype(np.uint8)
    cv2.circle(drawn, (size // 2, size // 2), int(0.3 * size), (60, 90, 40), -1, cv2.LINE_AA)
    cv2.circle(drawn, (size // 2, size // 2), int(0.12 * size), (250, 250, 248), -1, cv2.LINE_AA)
    Image.fromarray(drawn).save(path, quality=60)
