"""Whether a scan's numbers can be trusted: no correction, no clipping, not packed too hard, not grey, not noisy."""

import cv2
import numpy as np

from swaddon.core.testprint.layout import Box
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.sample import Sampler
from swaddon.core.testprint.scan import Picture

_BLOCKS = 1.75
"""How much larger steps across the borders of 8 × 8 blocks are than others, from which a JPEG was packed too hard (a
scan has 1.0; quality 50 gives 1.4, 30 gives 1.65)."""

_FEW_TERMS = 0.2
"""Low cosine terms of 5 to 11 grey values to those of 13 to 60, below which they were rounded away (scans have 0.6 to
1.2, JPEGs of quality 50 have 0.27 to 0.5, of 40 and less under 0.12)."""

_BANDS, _BAND, _MOST_STEP = 12, 96, 12
_FEWEST_VALUES = 96
_MOST_CLIPPED = 0.2
_MOST_NOISE = 18.0
_LEAST_COLOUR = 12
"""Most distinct grey values of a posterised scan, share of clipped pixels, noise and least colour in 8-bit steps
(assumed)."""

_WIDEST_EDGE_MM = 0.32
"""Widest that half of the edges may be (a good scan has under 0.2; assumed)."""

_MOST_OFF_MM, _SPREAD_MM = 0.25, 0.1
"""How far a target may lie from where the fiducials say: one, and the root mean square of all (assumed)."""


def check_quality(sampler: Sampler) -> None:
    """Raise where a scan was changed, clipped, or packed so that its numbers tell nothing."""
    page, pixels = sampler.page, sampler.scan.pixels
    if float(np.unique(pixels[::7, ::7, 1]).size) < _FEWEST_VALUES:
        raise UnreadablePageError("steps", "The scan has too few tones: scan in full colour without any correction.")
    if blockiness(pixels) > _BLOCKS or quantised(pixels):
        raise UnreadablePageError(
            "packed", "The scan was packed too hard as a JPEG: save it as PNG or TIFF, or as a JPEG of high quality."
        )
    white = np.stack([sampler.pixels(box.inset(1.0)).reshape(-1, 3)[:400] for box in page.flats[:12]])
    bare = sampler.pixels(Box(page.fine["line"].x + 28.5, page.fine["line"].y + 0.5, 2.6, 8.0))
    light = white if page.whites else bare
    if float((light >= 255).mean()) > _MOST_CLIPPED:
        raise UnreadablePageError("bright", "The scan’s white is cut off: scan it darker, without any correction.")
    if page.whites and float((bare <= 0).all(axis=2).mean()) > _MOST_CLIPPED:
        raise UnreadablePageError("dark", "The scan’s black is cut off: switch its contrast and level corrections off.")
    if float(np.median(light.astype(np.float32).std(axis=-2))) > _MOST_NOISE:
        raise UnreadablePageError("noisy", "The scan is too noisy: clean the glass, and scan in better quality.")
    full = [sampler.pixels(strip[-1].inset(1.5)).reshape(-1, 3).mean(axis=0) for strip in page.tints.values()]
    if page.whites or page.colours:
        cells = [sampler.pixels(cell.inset(1.5)).reshape(-1, 3).mean(axis=0) for line in page.matrix for cell in line]
        if max(float(np.ptp(colour)) for colour in (*full, *cells)) < _LEAST_COLOUR:
            raise UnreadablePageError("grey", "The scan is grey: scan in colour, 24 bits or more.")


def blockiness(pixels: Picture) -> float:
    """How much steps between neighbours stand out at every eighth pixel, both ways; 1 where nothing was packed.

    A dozen bands of the scan tell.
    """
    height = pixels.shape[0] // 8 * 8
    tops = np.linspace(0, max(height - _BAND - 1, 0), _BANDS).astype(int) // 8 * 8
    down, across = np.zeros(_BAND), np.zeros(pixels.shape[1] - 1)
    for top in tops:
        green = np.ascontiguousarray(pixels[top : top + _BAND + 1, :, 1])
        if len(green) <= _BAND:
            continue
        down += np.minimum(cv2.absdiff(green[1:], green[:-1]), _MOST_STEP).sum(axis=1)
        across += np.minimum(cv2.absdiff(green[:, 1:], green[:, :-1]), _MOST_STEP).sum(axis=0)
    out = []
    for along in (down, across):
        phases = [float(along[phase::8].mean()) for phase in range(8)]
        out.append(max(phases) / max(float(np.median(phases)), 1e-6))
    return float(np.mean(out))


def quantised(pixels: Picture) -> bool:
    """Whether tones come in steps as a JPEG of low quality leaves them (ITU-T T.81, annex A.3).

    Packing rounds the cosine terms of 8 × 8 blocks; at a quality of about 40 and less, low terms of 5 to 11 grey values
    are rounded to none or to more, and hardly any are left.
    """
    at = np.arange(8) * 2 + 1
    even, once, twice = np.full(8, 8**-0.5), np.cos(at * np.pi / 16) / 2, np.cos(at * np.pi / 8) / 2
    few = many = 0
    width = pixels.shape[1] // 8 * 8
    for top in np.linspace(0, max(pixels.shape[0] - _BAND, 0), _BANDS).astype(int) // 8 * 8:
        luma = pixels[top : top + _BAND, :width].astype(np.float32) @ np.array([0.299, 0.587, 0.114], np.float32)
        if len(luma) < _BAND:
            continue
        blocks = luma.reshape(_BAND // 8, 8, width // 8, 8)
        for down, across in ((even, once), (once, even), (once, once), (even, twice), (twice, even)):
            term = np.abs(np.einsum("aibj,i,j->ab", blocks, down, across, optimize=True))
            few += int(((term > 5) & (term < 11)).sum())
            many += int(((term > 13) & (term < 60)).sum())
    return many > 0 and few / many < _FEW_TERMS


def check_sharpness(edges_mm: list[float]) -> None:
    """Raise where edges of white, in mm from a tenth to nine tenths of the step, are no edges."""
    if edges_mm and float(np.median(edges_mm)) > _WIDEST_EDGE_MM:
        raise UnreadablePageError(
            "blurred", "The scan is not sharp, or doubled: lay the page flat on the glass and scan it again."
        )


def check_flatness(corners_mm: list[tuple[float, float]]) -> None:
    """Raise where targets lie elsewhere than the fiducials say: (right, down) of white at each."""
    off = np.array(corners_mm)
    if not len(off):
        return
    size = np.linalg.norm(off - np.median(off, axis=0), axis=1)
    if float(size.max()) > _MOST_OFF_MM or float(np.sqrt((size**2).mean())) > _SPREAD_MM:
        raise UnreadablePageError(
            "bent", "The page does not lie flat, or moved while it was scanned: press it on the glass and scan again."
        )
