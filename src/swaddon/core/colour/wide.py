"""A wide RGB space, in which scans of full inks are not clipped: primaries of ITU-R BT.2020, gamma 2.2, D50-adapted."""

import numpy as np

from swaddon.core.colour.spaces import BANDS_FROM_SRGB, XYZ_D50_FROM_BANDS

WIDE_GAMMA = 2.2

_PRIMARIES = ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046))
_WHITE_D65 = np.array([0.95047, 1.0, 1.08883])
_BRADFORD = np.array(
    [
        [1.0478112, 0.0228866, -0.0501270],
        [0.0295424, 0.9904844, -0.0170491],
        [-0.0092345, 0.0150436, 0.7521316],
    ]
)
"""D65 to D50 (Lindbloom's tables)."""


def _xyz_from_wide() -> np.ndarray:
    columns = np.array([[x / y, 1.0, (1 - x - y) / y] for x, y in _PRIMARIES]).T
    return np.asarray(_BRADFORD @ (columns * np.linalg.solve(columns, _WHITE_D65)))


XYZ_D50_FROM_WIDE = _xyz_from_wide()
"""Linear light of the space to XYZ, D50."""

WIDE_FROM_BANDS = np.linalg.inv(XYZ_D50_FROM_WIDE) @ XYZ_D50_FROM_BANDS
WIDE_FROM_BANDS /= WIDE_FROM_BANDS.sum(axis=1, keepdims=True)
SRGB_FROM_XYZ_D50 = np.linalg.inv(BANDS_FROM_SRGB) @ np.linalg.inv(XYZ_D50_FROM_BANDS)
"""XYZ (D50) to linear sRGB, which may be negative."""
