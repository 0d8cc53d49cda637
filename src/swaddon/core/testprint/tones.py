"""Tones of a page: how much one hit of white covers, and dot gain.

Opacity is the contrast ratio of a white without absorption (Kubelka 1948): a hit of scatter S·X over a ground Rg shines
R = (Rg + (1 − Rg)·S·X) / (1 + (1 − Rg)·S·X). Known are one and several hits and the bare card, in a scanner whose white
and gamma are nearly right: the likeliest values are found by Gauss-Newton steps with these two as priors.

Gain is the coverage that the Yule-Nielsen model (Yule & Nielsen 1951; with n = 1 that of Murray & Davies 1936) gives
the light of a step between bare white and full ink.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import BANDS_FROM_SRGB
from swaddon.core.inks.separation import gloss
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.testprint.layout import TONES, Box
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.sample import Floats, Lighting, Sampler

_WHITE_SD, _GAMMA_SD, _LEVEL_SD = 0.010, 0.013, 0.004
"""Standard deviations, as shares: a scanner's white, its gamma, and the light of one patch (assumed)."""

_STEPS = 30
_BARE_MM = (37.0, 92.0, 174.0)
"""Where nothing is printed above the second row of the page."""

_STRANGE = 4.0
"""Standard deviations from which a scanner's white or gamma is not believed."""
_CLIPPED_SHARE = 0.02
"""Share of the darkest pixels that there are from which a patch counts as clipped."""

_TAKEN_SD, _LINE_SD, _INK_SD, _BEYOND, _TRIALS = 0.004, 0.002, 0.03, 0.3, 300
"""Standard deviations of what a step takes away along the ink's line and off it, and, as a share, of full ink against
that of the profile (assumed); how far below none a channel may lie, and trials between."""


@dataclass(frozen=True)
class Opacity:
    """Contrast ratio of one hit of white with its 95 % interval, and the light of a white plane's steps, 0..1."""

    contrast_ratio: float
    pm: float
    ladder: tuple[float, ...]


@dataclass(frozen=True)
class Gain:
    """Coverage in print at ``TONES`` sent, 0..1, with the largest 95 % interval of a step."""

    curve: tuple[float, ...]
    pm: float


def read_opacity(sampler: Sampler, light: Lighting, press: PressProfile) -> Opacity:
    """Opacity of one hit of white."""
    page = sampler.page
    bare = _evened(sampler, light, [Box(x, page.matrix[0][0].y - 3.4, 4.0, 2.8) for x in _BARE_MM], 0.4)
    observed = [(0.0, bare)]
    singles = [_evened(sampler, light, page.hits[(channel,)], 1.4) for channel in page.whites]
    observed.append((1.0, float(np.mean(singles))))
    if len(page.whites) > 1:
        observed.append((float(len(page.whites)), _evened(sampler, light, page.flats, 0.8)))
    ratio, spread = _likeliest(observed, press.white.contrast_ratio)
    full = observed[-1][1]
    ladder = tuple(min(_evened(sampler, light, (box,), 1.2) / full, 1.2) for box in page.white_ladder)
    return Opacity(ratio, 1.96 * spread, ladder)


def _evened(sampler: Sampler, light: Lighting, boxes: Sequence[Box], guard: float) -> float:
    """Mean light of patches, as if all lay in the page's middle."""
    middle = light.level_at((95.0, sampler.page.height_mm / 2), sampler.page)
    shares = [sampler.level(box, guard) / light.level_at(box.middle, sampler.page) for box in boxes]
    return float(np.mean(np.mean(shares, axis=0) * middle))


def _likeliest(observed: list[tuple[float, float]], start: float) -> tuple[float, float]:
    """Contrast ratio of one hit and its standard deviation, from (hits, light as scanned)."""
    hits = np.array([count for count, _ in observed])
    seen = np.log(np.maximum([level for _, level in observed], 1e-4))
    # unknown: logit of the ratio, log of the card's reflectance, log of the scanner's white, log of its gamma
    state = np.array([math.log(start / (1 - start)), seen[0], 0.0, 0.0])
    noise = np.array([0.02, *[_LEVEL_SD] * (len(hits) - 1)])

    def off(at: Floats) -> Floats:
        scatter, ground = math.exp(at[0]), min(math.exp(at[1]), 0.9)
        spread = (1 - ground) * hits * scatter
        shown = math.exp(at[3]) * (at[2] + np.log((ground + spread) / (1 + spread)))
        return np.concatenate([(shown - seen) / noise, [at[2] / _WHITE_SD, at[3] / _GAMMA_SD]])

    for _ in range(_STEPS):
        now = off(state)
        slope = np.stack([(off(state + step) - now) / 1e-5 for step in np.eye(4) * 1e-5], axis=1)
        normal = slope.T @ slope
        state = state + np.clip(np.linalg.solve(normal + 1e-9 * np.eye(4), -slope.T @ now), -1, 1)
    if max(abs(state[2]) / _WHITE_SD, abs(state[3]) / _GAMMA_SD) > _STRANGE:
        raise UnreadablePageError(
            "tone", "The scan’s tones are not straight: switch every correction of the scanner off and scan again."
        )
    ratio = 1 / (1 + math.exp(-state[0]))
    spread = math.sqrt(float(np.linalg.inv(normal + 1e-9 * np.eye(4))[0, 0])) * ratio * (1 - ratio)
    return ratio, spread


def read_gain(sampler: Sampler, light: Lighting, channel: int, ink: str, press: PressProfile, ratio: float) -> Gain:
    """Dot gain of the ink that a colour channel printed."""
    page = sampler.page
    curves = np.stack([
        coverages(*_strip(sampler, light, strip), press, ink, ratio, len(page.whites))
        for strip in (page.tints[channel], page.tints_again[channel])
    ])  # fmt: skip
    mean = curves.mean(axis=0)
    mean[0], mean[-1] = 0.0, 1.0
    curve = np.maximum.accumulate(np.clip(mean, 0, 1))
    apart = float(np.abs(curves[0] - curves[1])[1:-1].mean())
    return Gain(tuple(round(float(value), 4) for value in curve), 0.008 + apart)


def _strip(sampler: Sampler, light: Lighting, boxes: Sequence[Box]) -> tuple[Floats, NDArray[np.bool_]]:
    """Light of the steps over that of bare white, ``(11, 3)``, and which channels of each are clipped in places."""
    page = sampler.page
    rgb, clipped = [], []
    for box in boxes:
        even = light.level_at(box.middle, page) if page.whites else np.ones(3)
        rgb.append(sampler.level(box, 1.3) / even)
        dark = sampler.scan.is_clipped(sampler.pixels(box.inset(1.3)))
        clipped.append(np.mean(dark, axis=(0, 1)) > _CLIPPED_SHARE)
    return np.array(rgb) / rgb[0], np.array(clipped)


def coverages(
    rgb: Floats, clipped: NDArray[np.bool_], press: PressProfile, ink: str, ratio: float, hits: int
) -> Floats:
    """Coverage of steps between none (first) and full (last) from their light over bare white, linear sRGB ``(11, 3)``.

    All bands together by least squares, in the n-th root of what the ink lets through.
    """
    surface = gloss(press.separation.primaries()[-1])
    scatter = ratio / (1 - ratio) * hits
    shine = 1.0 if hits == 0 else scatter / (1 + scatter)
    constant = surface * (1 - shine) / shine + (press.white.bleed_share if press.white_under_colour and hits else 0)
    root = 1 / press.separation.yule_nielsen_n

    def taken(rgb: Floats) -> Floats:
        """What the ink takes away, by band, in the n-th root."""
        through = np.clip((rgb @ BANDS_FROM_SRGB.T - constant) / (1 - constant), 1e-4, 1.2)
        return np.asarray(1 - through**root, np.float64)

    clear = np.array([not step.any() for step in clipped])
    found = taken(rgb)
    if clear.all() or not clear[1:].any():
        return np.asarray(found @ found[-1] / float(found[-1] @ found[-1]), np.float64)
    way = found[1:][clear[1:]].sum(axis=0)
    way = way / np.linalg.norm(way)
    lengths, spread = found @ way, np.full(len(rgb), _TAKEN_SD)
    for step in np.flatnonzero(~clear):
        lengths[step], spread[step] = _unclipped(rgb[step], int(np.argmin(rgb[step])), way, taken)
    expected = 1 - press.separation.primaries()[1 << INKS.index(ink)] ** root
    return _extended(lengths, spread, float(expected @ way))


def _unclipped(rgb: Floats, channel: int, way: Floats, taken: Callable[[Floats], Floats]) -> tuple[float, float]:
    """What a step takes away whose colour lies outside sRGB, so that a scan shows it clipped: mean and spread.

    The channel that is missing may be anything below what is seen; its likely values bring the step onto the line of
    the paler ones.
    """
    trials = np.repeat(rgb[None], _TRIALS, axis=0)
    trials[:, channel] = np.linspace(-_BEYOND, rgb[channel], _TRIALS)
    found = taken(trials)
    along = found @ way
    off = np.linalg.norm(found - along[:, None] * way, axis=1) / _LINE_SD
    weight = np.exp(-0.5 * (off**2 - (off**2).min()))
    mean = float((weight * along).sum() / weight.sum())
    return mean, math.hypot(math.sqrt(float((weight * (along - mean) ** 2).sum() / weight.sum())), _TAKEN_SD)


def _extended(taken: Floats, spread: Floats, expected: float) -> Floats:
    """Coverages where the darkest steps are known roughly.

    A smooth curve t + t·(1 − t)·(c₀ + c₁·t + c₂·t²), times what full ink takes away, goes through the steps by their
    spreads; what full ink takes is known beforehand within a few percent, from the press profile.
    """
    tone = np.linspace(0, 1, taken.size)
    terms = np.stack([tone, *(tone * (1 - tone) * tone**power for power in range(3))], axis=1)
    beforehand = np.diag([1 / (_INK_SD * expected), 1 / 0.8, 1 / 0.5, 1 / 0.5])
    found, *_ = np.linalg.lstsq(
        np.vstack([terms / spread[:, None], beforehand]),
        np.concatenate([taken / spread, [1 / _INK_SD, 0, 0, 0]]),
        rcond=None,
    )
    sure = (_TAKEN_SD / spread) ** 2
    return np.asarray((sure * taken + (1 - sure) * (terms @ found)) / found[0], np.float64)


def tone_table(gains: dict[str, Gain]) -> dict[str, dict[str, float]]:
    """Gain by ink as it goes into JSON: tone → printed tone."""
    return {
        ink: {f"{tone:g}": value for tone, value in zip(TONES, gain.curve, strict=True)} for ink, gain in gains.items()
    }


def at_tones(curve: Sequence[float]) -> NDArray[np.float64]:
    """A curve of any number of even steps at ``TONES``."""
    return np.asarray(np.interp(TONES, np.linspace(0, 1, len(curve)), curve), np.float64)
