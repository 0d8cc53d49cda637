"""Artwork at another size: no seam, no ring, no colour that was not there."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage
from skimage.transform import resize as reference_resize

from swaddon.core.artwork.raster import resample

RED = (200, 30, 40)


def on_clear(mask: np.ndarray) -> np.ndarray:
    """One colour where the mask is set, nothing elsewhere."""
    art = np.zeros((*mask.shape, 4), np.uint8)
    art[mask] = (*RED, 255)
    return art


@pytest.mark.parametrize("factor", [1.3, 2.0, 3.17, 4.43, 9.0])
def test_an_enlarged_shape_with_hard_edges_stays_closed_up_to_its_edge(factor):
    """Cubic overshoots beside an edge: bytes that went round left a bare ring four pixels wide inside every edge."""
    art = np.zeros((60, 80, 4), np.uint8)
    art[10:50, 12:70] = (*RED, 255)
    large = resample(art, round(80 * factor), round(60 * factor))
    across = large[large.shape[0] // 2, :, 3].astype(int)
    peak = int(across.argmax())
    assert np.all(np.diff(across[: peak + 1]) >= 0), "it rises to the edge"
    inside = across[round(14 * factor) : round(68 * factor)]
    assert inside.min() == 255


@given(mask=st.integers(0, 2**32 - 1), factor=st.floats(0.3, 6.0))
@settings(max_examples=60, deadline=None)
def test_one_colour_stays_that_colour_at_every_size(mask, factor):
    rng = np.random.default_rng(mask)
    art = on_clear(ndimage.binary_opening(rng.random((24, 30)) < 0.8))
    out = resample(art, max(1, round(30 * factor)), max(1, round(24 * factor)))
    seen = out[out[..., 3] >= 16][:, :3].astype(int)
    assert np.abs(seen - RED).max(initial=0) <= 2


@given(seed=st.integers(0, 2**32 - 1), factor=st.floats(1.2, 6.0))
@settings(max_examples=40, deadline=None)
def test_enlarged_alpha_follows_an_independent_spline(seed, factor):
    """Held against scikit-image's cubic, whose kernel is another one: nowhere further off than kernels differ."""
    rng = np.random.default_rng(seed)
    soft = ndimage.gaussian_filter(rng.random((20, 26)), 1.0)
    alpha = np.where(soft > np.median(soft), 255, 0).astype(np.uint8)
    art = np.dstack([np.full((20, 26, 3), 90, np.uint8), alpha])
    height, width = round(20 * factor), round(26 * factor)
    ours = resample(art, width, height)[..., 3].astype(float)
    theirs = np.clip(reference_resize(alpha.astype(float), (height, width), order=3, mode="edge"), 0, 255)
    assert np.abs(ours - theirs)[3:-3, 3:-3].max(initial=0) <= 70


def test_opaque_and_clear_artwork_agree_where_both_are_opaque():
    rng = np.random.default_rng(4)
    art = cv2.GaussianBlur(rng.integers(0, 256, (40, 50, 4), np.uint8), (0, 0), 2)
    art[..., 3] = 255
    clear = art.copy()
    clear[:, :4, 3] = 0
    one, other = resample(art, 171, 133), resample(clear, 171, 133)
    assert np.abs(one[:, 40:].astype(int) - other[:, 40:]).max() <= 1
