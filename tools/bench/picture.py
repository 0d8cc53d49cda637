"""The test picture: 4500 × 4200 px, 15 × 14 in at 300 ppi, RGBA; discs, lettering, a soft glow, photographic noise."""

from pathlib import Path

import cv2
import numpy as np

WIDTH, HEIGHT = 4500, 4200


def draw(path: Path) -> None:
    """Write the picture as PNG."""
    rng = np.random.default_rng(3)
    image = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
    for _ in range(60):
        colour = (*(int(v) for v in rng.integers(0, 256, 3)), 255)
        centre = (int(rng.integers(200, WIDTH - 200)), int(rng.integers(200, HEIGHT - 200)))
        cv2.circle(image, centre, int(rng.integers(80, 500)), colour, -1, cv2.LINE_AA)
    for _ in range(200):
        place = (int(rng.integers(0, WIDTH)), int(rng.integers(0, HEIGHT)))
        size, weight = float(rng.uniform(0.8, 5)), int(rng.integers(1, 9))
        cv2.putText(image, "LANTERN", place, cv2.FONT_HERSHEY_DUPLEX, size, (255, 255, 255, 255), weight, cv2.LINE_AA)
    photo = image[1500:2900, 1500:2900]
    photo[..., :3] = (photo[..., :3] * 0.5 + rng.integers(0, 128, photo[..., :3].shape)).astype(np.uint8)
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    glow = np.exp(-((x - 2200) ** 2 + (y - 2200) ** 2) / 500**2)
    image[..., 3] = np.maximum(image[..., 3], (glow * 255).astype(np.uint8))
    image[:700, :900] = (255, 255, 255, 255)
    cv2.circle(image, (450, 350), 200, (40, 40, 200, 255), -1, cv2.LINE_AA)
    cv2.imwrite(str(path), image)
