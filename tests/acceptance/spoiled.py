"""Ways to spoil the scan of a test page, and the kind of refusal that each must get."""

from collections.abc import Callable

import cv2
import numpy as np

Picture = np.ndarray
_CHANCE = np.random.default_rng(0)


def _bent(scan: Picture, mm: float) -> Picture:
    height, width = scan.shape[:2]
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    right, down = (mm * np.sin(way).astype(np.float32) for way in (y / height * np.pi, x / width * 4.7))
    return cv2.remap(scan, x + right, y + down, cv2.INTER_LINEAR)


def _shadowed(scan: Picture, depth: float) -> Picture:
    y, x = np.mgrid[0 : scan.shape[0], 0 : scan.shape[1]].astype(np.float32)
    across, down = np.clip((x / scan.shape[1] - 0.5) * 4, 0, 1), np.clip(2 - y / scan.shape[0] * 2, 0, 1)
    return (scan * (1 - depth * across * down)[..., None]).astype(np.uint8)


def _covered(scan: Picture, box: tuple[float, float, float, float], value: int) -> Picture:
    out, (height, width) = scan.copy(), scan.shape[:2]
    x, y, w, h = box
    out[round(y * height) : round((y + h) * height), round(x * width) : round((x + w) * width)] = value
    return out


def _jpeg(scan: Picture, quality: int) -> Picture:
    return cv2.imdecode(cv2.imencode(".jpg", scan, [cv2.IMWRITE_JPEG_QUALITY, quality])[1], cv2.IMREAD_COLOR)


def _wall(scan: Picture, _px_per_mm: float) -> Picture:
    noise = _CHANCE.integers(40, 220, (scan.shape[0] // 40, scan.shape[1] // 40, 3), dtype=np.uint8)
    return cv2.resize(noise, scan.shape[1::-1], interpolation=cv2.INTER_CUBIC)


def _perspective(scan: Picture) -> Picture:
    height, width = scan.shape[:2]
    at = np.float32([[0, 0], [width, 0], [0, height], [width, height]])
    to = np.float32([[0.06 * width, 0.03 * height], [0.95 * width, 0], [0, height], [width, 0.97 * height]])
    return cv2.warpPerspective(scan, cv2.getPerspectiveTransform(at, to), (width, height))


SPOILED: dict[str, tuple[Callable[[Picture, float], Picture], set[str]]] = {
    "cropped at the right": (lambda s, _: s[:, : int(s.shape[1] * 0.8)], {"corner"}),
    "cropped below": (lambda s, _: s[: int(s.shape[0] * 0.75)], {"corner"}),
    "a covered corner": (lambda s, _: _covered(s, (0, 0, 0.25, 0.15), 40), {"corner"}),
    "blurred": (lambda s, mm: cv2.GaussianBlur(s, (0, 0), 0.2 * mm), {"blurred", "bent"}),
    "much blurred": (lambda s, mm: cv2.GaussianBlur(s, (0, 0), 0.6 * mm), {"no-page", "bent", "blurred"}),
    "doubled": (lambda s, mm: s // 2 + np.roll(s, round(0.4 * mm), axis=0) // 2, {"blurred", "bent"}),
    "grey": (lambda s, _: np.repeat(cv2.cvtColor(s, cv2.COLOR_RGB2GRAY)[..., None], 3, axis=2), {"grey"}),
    "mirrored": (lambda s, _: s[:, ::-1], {"mirrored"}),
    "bent": (_bent, {"bent"}),
    "a little bent": (lambda s, mm: _bent(s, 0.4 * mm), {"bent"}),
    "shadowed": (lambda s, _: _shadowed(s, 0.5), {"shadow", "code"}),
    "half in the dark": (lambda s, _: _shadowed(s, 0.9), {"shadow", "code", "corner"}),
    "a JPEG of quality 5": (lambda s, _: _jpeg(s, 5), {"packed"}),
    "a JPEG of quality 20": (lambda s, _: _jpeg(s, 20), {"packed"}),
    "a photo of the wall": (_wall, {"no-page", "blank"}),
    "blank": (lambda s, _: np.full_like(s, 230), {"blank"}),
    "coarse": (lambda s, mm: cv2.resize(s, None, fx=5.5 / mm, fy=5.5 / mm, interpolation=cv2.INTER_AREA), {"coarse"}),
    "stretched": (lambda s, _: cv2.resize(s, (int(s.shape[1] * 1.06), s.shape[0])), {"stretched"}),
    "photographed from aside": (lambda s, _: _perspective(s), {"stretched", "bent"}),
    "negative": (lambda s, _: 255 - s, {"no-page"}),
    "overexposed": (lambda s, _: np.clip(s * 1.5, 0, 255).astype(np.uint8), {"bright"}),
    "levels pushed": (lambda s, _: np.clip((s.astype(int) - 60) * 1.6, 0, 255).astype(np.uint8), {"bright", "dark"}),
    "posterised": (lambda s, _: s // 64 * 64 + 32, {"steps"}),
    "noisy": (lambda s, _: np.clip(s + _CHANCE.normal(0, 40, s.shape), 0, 255).astype(np.uint8), {"noisy"}),
    "red and blue exchanged": (lambda s, _: s[..., ::-1], {"colours"}),
    "a hand on it": (lambda s, _: _covered(s, (0.2, 0.4, 0.6, 0.25), 150), {"shadow", "targets", "bright"}),
    "a card on it": (lambda s, _: _covered(s, (0.3, 0.1, 0.4, 0.3), 40), {"shadow", "targets", "colours", "code"}),
}  # fmt: skip
"""What is done to a scan (with its pixels per mm), and the kinds of refusal that are right for it."""
