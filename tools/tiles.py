"""Draw the shipped pattern tiles: black is cut out, each repeats at its edges. Run after changing a drawing."""

from pathlib import Path

import cv2
import numpy as np

OUT = Path(__file__).resolve().parents[1] / "src" / "swaddon" / "io" / "tiles"
SIDE, FINE = 256, 4


def wrapped(draw) -> np.ndarray:
    """A drawing on a white tile, drawn nine times so that it runs over the edges, antialiased."""
    big = SIDE * FINE
    sheet = np.full((3 * big, 3 * big), 255, np.uint8)
    for row in range(3):
        for column in range(3):
            draw(sheet, column * big, row * big, big)
    return cv2.resize(sheet[big : 2 * big, big : 2 * big], (SIDE, SIDE), interpolation=cv2.INTER_AREA)


def dots(sheet, x, y, side) -> None:
    for u, v in ((0, 0), (0.5, 0.5)):
        cv2.circle(sheet, (int(x + u * side), int(y + v * side)), int(0.15 * side), 0, -1, cv2.LINE_AA)


def stripes(sheet, x, y, side) -> None:
    for part in range(3):
        top = y + int((part + 0.5) * side / 3)
        cv2.rectangle(sheet, (x, top), (x + side, top + int(0.07 * side)), 0, -1)


def waves(sheet, x, y, side) -> None:
    across = np.arange(0, side + 1, 4)
    for part in range(3):
        down = y + (part + 0.5) * side / 3 + 0.06 * side * np.sin(across / side * 2 * np.pi)
        line = np.stack([x + across, down.astype(int)], axis=1).astype(np.int32)
        cv2.polylines(sheet, [line], False, 0, int(0.07 * side), cv2.LINE_AA)


def grit(sheet, x, y, side) -> None:
    rng = np.random.default_rng(11)
    for _ in range(110):
        u, v = rng.random(2)
        size = int(side * rng.uniform(0.008, 0.032))
        angles = np.sort(rng.uniform(0, 2 * np.pi, 7))
        radius = size * rng.uniform(0.5, 1.3, 7)
        centre = np.array([x + u * side, y + v * side])
        shape = centre + np.stack([np.cos(angles), np.sin(angles)], axis=1) * radius[:, None]
        cv2.fillPoly(sheet, [shape.astype(np.int32)], 0, cv2.LINE_AA)


def lanterns(sheet, x, y, side) -> None:
    for u, v in ((0.25, 0.25), (0.75, 0.75)):
        at = (int(x + u * side), int(y + v * side))
        cv2.ellipse(sheet, at, (int(0.11 * side), int(0.14 * side)), 0, 0, 360, 0, -1, cv2.LINE_AA)
        for end in (-1, 1):
            top = at[1] + end * int(0.155 * side)
            cv2.rectangle(sheet, (at[0] - int(0.045 * side), top - int(0.018 * side)),
                          (at[0] + int(0.045 * side), top + int(0.018 * side)), 0, -1)  # fmt: skip


def main() -> None:
    for draw in (dots, stripes, waves, grit, lanterns):
        cv2.imwrite(str(OUT / f"{draw.__name__}.png"), wrapped(draw), [cv2.IMWRITE_PNG_COMPRESSION, 9])


main()
