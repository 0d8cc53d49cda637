"""Regions: they part the artwork, rims belong to a side, and the same places come back at any size."""

import numpy as np
import pytest
from scipy import ndimage
from skimage.measure import label as components
from skimage.morphology import disk, opening
from tests.conftest import badge

from swaddon.core.artwork import areas, palette, regions
from swaddon.core.colour.spaces import delta_e_2000, lab_from_srgb8


def flat_art() -> np.ndarray:
    """Hard-edged patches of four colours on nothing."""
    art = np.zeros((200, 260, 4), np.uint8)
    for top, left, bottom, right, rgb in (
        (10, 10, 120, 120, (200, 30, 40)), (40, 40, 90, 90, (250, 250, 250)), (10, 140, 190, 250, (20, 60, 160)),
        (150, 20, 190, 60, (200, 30, 40)), (150, 80, 190, 120, (30, 30, 30)),
    ):  # fmt: skip
        art[top:bottom, left:right] = (*rgb, 255)
    return art


def test_regions_are_the_connected_patches_of_one_colour(either_way):
    """Against scikit-image's components of hard-edged artwork: equal up to their numbers."""
    art = flat_art()
    found = regions.find_regions(art)
    codes = (art[..., 0].astype(int) << 16 | art[..., 1].astype(int) << 8 | art[..., 2]) * (art[..., 3] > 0)
    wanted = components(codes, connectivity=1, background=0)
    inked = art[..., 3] > 0
    pairs = set(zip(found.labels[inked].tolist(), wanted[inked].tolist(), strict=True))
    assert len(pairs) == len(found.regions) == wanted.max()
    for region in found.regions:
        x, y = (int(value) for value in region.anchor)
        assert found.labels[y, x] == region.number
        assert region.area_px == (wanted == wanted[y, x]).sum()
        assert tuple(art[y, x, :3]) == region.colour


def test_every_inked_pixel_lies_in_exactly_one_region(either_way):
    art = badge()
    found = regions.find_regions(art)
    inked = art[..., 3] > 0
    assert (found.labels[inked] > 0).all()
    assert found.labels.max() == len(found.regions)
    assert sum(region.area_px for region in found.regions) == inked.sum()
    masks = [found.mask({region.number}) > 0 for region in found.regions]
    assert (np.sum(masks, axis=0)[inked] == 1).all()


def test_rims_belong_to_one_of_their_sides(compiled):
    """The antialiased badge has three colours: ring, disc halves and bar; no region of mixed rim colours."""
    found = regions.find_regions(badge())
    wanted = np.array([(255, 255, 255), (200, 30, 40), (30, 60, 180)])
    for region in found.regions:
        away = delta_e_2000(lab_from_srgb8(region.colour), lab_from_srgb8(wanted))
        assert away.min() < 5, region
    assert len(found.regions) <= 5


def test_a_colour_fade_is_one_region(compiled):
    art = np.zeros((200, 400, 4), np.uint8)
    art[20:180, 20:380, 3] = 255
    art[20:180, 20:380, 0] = np.linspace(30, 240, 360).astype(np.uint8)
    art[20:180, 20:380, 2] = 120
    assert len(regions.find_regions(art).regions) == 1


def test_texture_becomes_a_region_of_its_own_and_specks_give_way(compiled):
    art = np.full((160, 160, 4), 255, np.uint8)
    art[..., :3] = (30, 90, 60)
    art[80, 80, :3] = (250, 250, 250)
    assert len(regions.find_regions(art).regions) == 1
    noise = np.random.default_rng(4).integers(0, 256, (80, 80, 3))
    art[40:120, 40:120, :3] = noise
    found = regions.find_regions(art)
    assert (found.labels > 0).all()
    inside = np.bincount(found.labels[48:112, 48:112].ravel())
    assert inside.max() > 0.9 * 64 * 64


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_connected_areas_equal_the_reference(compiled, seed):
    """Union-find kernel against scikit-image on random classes."""
    classes = np.random.default_rng(seed).choice(np.array([0, 1, 2, 254, 255], np.uint8), (60, 70))
    ours = areas.connected(classes)
    wanted = components(np.where(classes < 254, classes.astype(int) + 1, 0), connectivity=1, background=0)
    inside = classes < 254
    pairs = set(zip(ours[inside].tolist(), wanted[inside].tolist(), strict=True))
    assert len(pairs) == wanted.max() == ours.max()
    assert (ours[classes == 254] == -1).all()
    assert (ours[classes == 255] == 0).all()


def test_kernels_and_plain_agree(compiled):
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    art = badge(160)
    rng = np.random.default_rng(5)
    art[60:100, 60:100, :3] = rng.integers(0, 256, (40, 40, 3))
    quick = regions.find_regions(art)
    fast.disable()
    plain = regions.find_regions(art)
    fast.enable(cache_folder())
    assert quick.palette == plain.palette
    assert (quick.labels > 0).sum() == (plain.labels > 0).sum()
    pairs = set(zip(quick.labels.ravel().tolist(), plain.labels.ravel().tolist(), strict=True))
    assert len(pairs) == len(quick.regions) + 1
    np.testing.assert_array_equal(quick.depth, plain.depth)
    assert sorted(r.colour for r in quick.regions) == sorted(r.colour for r in plain.regions)


def test_depth_is_the_distance_to_the_regions_edge():
    """Against SciPy's exact transform; the quick one may be off by 2 %."""
    labels = np.zeros((120, 160), np.int32)
    labels[20:100, 30:130] = 1
    labels[50:70, 60:90] = 2
    ours = regions.depths(labels) / 4
    one = ndimage.distance_transform_edt(labels == 1)
    inside = labels == 1
    np.testing.assert_allclose(ours[inside], one[inside] - 0.5, atol=0.3 + 0.03 * one.max())


def test_fine_parts_are_those_an_opening_takes_away():
    """Against scikit-image's opening with a disc."""
    labels = np.zeros((160, 200), np.int32)
    labels[20:140, 20:100] = 1
    labels[70:78, 100:190] = 1
    found = regions.RegionMap(labels, regions.depths(labels), (), (), 1)
    free = (regions.fine_free(found, 10) > 0) & (labels == 1)
    wanted = opening((labels == 1).astype(np.uint8), disk(10)) > 0
    assert (free ^ wanted).mean() < 0.01
    assert not free[70:78, 115:].any()


@pytest.mark.parametrize("shape", [(1, 1), (1, 9), (7, 1)])
def test_tiny_and_empty_artwork_have_regions_or_none(either_way, shape):
    full = np.full((*shape, 4), 255, np.uint8)
    assert (regions.find_regions(full).labels > 0).all()
    empty = regions.find_regions(np.zeros((*shape, 4), np.uint8))
    assert empty.regions == ()
    assert empty.at(0, 0) is None


def test_the_palette_names_the_flat_colours_by_area(compiled):
    assert set(palette.find_palette(flat_art())) == {(200, 30, 40), (250, 250, 250), (20, 60, 160), (30, 30, 30)}
