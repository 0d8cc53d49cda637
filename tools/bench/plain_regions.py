"""Regions of one colour scripted plainly with scikit-image and SciPy, as a skilled user would."""

import numpy as np
from scipy import ndimage
from skimage import color, measure

COLOURS, SPECK_PX = 24, 12


def regions(rgba: np.ndarray) -> np.ndarray:
    """Quantise in CIELAB by k-means, label components, give specks to the nearest region, describe each."""
    inked = rgba[..., 3] > 0
    lab = color.rgb2lab(rgba[..., :3].astype(np.float32) / 255)
    sample = lab[inked][:: max(1, int(inked.sum()) // 200_000)]
    rng = np.random.default_rng(1)
    centres = sample[rng.choice(len(sample), COLOURS, replace=False)]
    for _ in range(8):
        nearest = ((sample[:, None] - centres[None]) ** 2).sum(axis=2).argmin(axis=1)
        centres = np.stack([sample[nearest == i].mean(axis=0) if (nearest == i).any() else centres[i]
                            for i in range(COLOURS)])  # fmt: skip
    index = np.empty(inked.shape, np.int32)
    for top in range(0, len(lab), 256):
        rows = slice(top, top + 256)
        index[rows] = ((lab[rows][..., None, :] - centres) ** 2).sum(axis=-1).argmin(axis=-1)
    labels = measure.label(np.where(inked, index + 1, 0), connectivity=1)
    counts = np.bincount(labels.ravel())
    small = (counts < SPECK_PX)[labels] & inked
    nearest = ndimage.distance_transform_edt(small | ~inked, return_distances=False, return_indices=True)
    labels = np.where(inked, labels[tuple(nearest)], 0)
    measure.regionprops_table(labels, properties=("area", "bbox"))
    return labels
