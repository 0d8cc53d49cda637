"""The same steps scripted plainly with Pillow, SciPy and scikit-image, as a skilled user would.

Usage: plain.py ARTWORK TABLE.npz OUT. The table holds the inverse separation, the primaries and the optical constants.
"""

import json
import sys
from pathlib import Path

import numpy as np
import tifffile
from PIL import Image
from scipy import ndimage
from skimage import color, morphology

Image.MAX_IMAGE_PIXELS = None
WHITE, TOLERANCE, CHOKE_PX = (255, 255, 255), 8.0, 0.25 / 25.4 * 300


def knock_out(rgba: np.ndarray) -> np.ndarray:
    """White, from outside, soft rim."""
    lab = color.rgb2lab(rgba[..., :3].astype(np.float32) / 255)
    reference = color.rgb2lab(np.full((1, 1, 3), 1.0))
    close = (color.deltaE_ciede2000(lab, reference) <= TOLERANCE) & (rgba[..., 3] > 0)
    del lab
    labels, _ = ndimage.label(close | (rgba[..., 3] == 0))
    border = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    removed = np.isin(labels, border[border > 0]) & close
    rim = ndimage.binary_dilation(removed, np.ones((5, 5))) & ~removed & (rgba[..., 3] > 0)
    gap = np.where(rgba[..., 3] > 0, (255 - rgba[..., :3].min(axis=2)).astype(np.float32), 0)
    peak = ndimage.maximum_filter(gap, 5)
    share = np.where(rim, np.maximum(gap / 255, gap / np.maximum(peak, 1)), 1.0)[..., None]
    out = rgba.astype(np.float32)
    out[..., :3] = np.clip(255 + (out[..., :3] - 255) / np.maximum(share, 1e-6), 0, 255)
    out[..., 3:] *= share
    out[removed, 3] = 0
    return np.rint(out).astype(np.uint8)


def separate(rgba: np.ndarray, ink_alpha: np.ndarray, table: np.ndarray) -> np.ndarray:
    """Trilinear look-up in the inverse table."""
    position = [rgba[..., c].ravel() * ((table.shape[0] - 1) / 255) for c in range(3)]
    planes = []
    for ink in range(4):
        plane = ndimage.map_coordinates(table[..., ink], position, order=1, mode="nearest", output=np.float32)
        planes.append(np.rint(plane.reshape(ink_alpha.shape) * (ink_alpha / 255)).astype(np.uint8))
    return np.stack(planes, axis=-1)


def inspected(rgba: np.ndarray, white: np.ndarray, cmyk: np.ndarray) -> dict:
    """Distinct colours, fringe, finest line and gap by the medial axis, largest patch without a hole."""
    packed = rgba[..., :3].astype(np.uint32) @ np.array([65536, 256, 1], np.uint32)
    alpha = rgba[..., 3]
    figure = alpha >= 128
    edge = figure & ~ndimage.binary_erosion(figure, np.ones((3, 3)))
    fine = []
    for mask in (figure, ~figure):
        axis, depth = morphology.medial_axis(mask, return_distance=True)
        fine.append(float(np.percentile(2 * depth[axis], 1)))
    solid = ndimage.binary_opening(((white > 0) | cmyk.any(axis=2))[::5, ::5], morphology.disk(4))
    patches, _ = ndimage.label(solid)
    return {
        "colours": len(np.unique(packed[alpha > 0])),
        "fringe": float(((alpha > 0) & (alpha < 255)).sum() / max(1, edge.sum())),
        "finest": fine,
        "patch": int(np.bincount(patches.ravel())[1:].max(initial=0)),
    }


def main() -> None:
    source, constants, out = Path(sys.argv[1]), np.load(sys.argv[2]), Path(sys.argv[3])
    out.mkdir(parents=True, exist_ok=True)
    rgba = knock_out(np.asarray(Image.open(source).convert("RGBA")))
    alpha = rgba[..., 3]
    soft = ndimage.binary_opening((alpha > 0) & (alpha < 255), np.ones((5, 5)))
    white_alpha = np.where(soft, constants["fade_white"][alpha] / 256, alpha)
    ink_alpha = np.where(soft, constants["fade_ink"][alpha] / 256, alpha)
    cmyk = separate(rgba, ink_alpha, constants["table"])
    figure = soft | (alpha >= 128)
    distance = ndimage.distance_transform_edt(np.pad(figure, 1))[1:-1, 1:-1]
    coverage = np.minimum(np.clip(distance - CHOKE_PX, 0, 1) * 255, white_alpha)
    own = constants["ramp"][rgba[..., :3].min(axis=2)] / 255
    white = np.rint(own * white_alpha + (1 - own) * coverage).astype(np.uint8)
    report = {"white": white.mean() / 255, "inks": (cmyk.mean(axis=(0, 1)) / 255).tolist()}
    rows = np.flatnonzero((white > 0).any(axis=1) | cmyk.any(axis=2).any(axis=1))
    report["printed"] = float(((white > 0) | cmyk.any(axis=2)).mean())
    report |= inspected(rgba, white, cmyk)
    report["bands"] = len(np.unique(rows // 65))
    (out / "plan.json").write_text(json.dumps(report))
    Image.fromarray(white).save(out / "white.png")
    for index, ink in enumerate("CMYK"):
        Image.fromarray(np.ascontiguousarray(cmyk[..., index])).save(out / f"{ink}.png")
    samples = np.dstack([cmyk, white])
    tifffile.imwrite(out / "separations.tif", samples, photometric="separated", compression="zlib",
                     extrasamples=["unspecified"], resolution=(300, 300))  # fmt: skip
    Image.fromarray(proof(cmyk, white, constants)).save(out / "proof.png")


def proof(cmyk: np.ndarray, white: np.ndarray, constants: np.lib.npyio.NpzFile) -> np.ndarray:
    """Reduced to 2000 px, then Neugebauer, Kubelka-Munk and sRGB."""
    size = tuple(round(side * 2000 / max(white.shape)) for side in white.shape[::-1])
    small = [np.asarray(Image.fromarray(np.ascontiguousarray(cmyk[..., i])).resize(size, Image.Resampling.BOX))
             for i in range(4)]  # fmt: skip
    laid = np.asarray(Image.fromarray(white).resize(size, Image.Resampling.BOX)) / 255
    weights = np.ones((*laid.shape, 16))
    for index in range(16):
        for bit in range(4):
            share = small[bit] / 255
            weights[..., index] *= share if index >> bit & 1 else 1 - share
    filtered = (weights @ np.sqrt(constants["primaries"])) ** 2
    ground = constants["garment"]
    spread = (1 - ground) * (laid * constants["scatter"])[..., None]
    light = np.clip((ground + spread) / (1 + spread) * filtered @ constants["to_srgb"].T, 0, 1)
    encoded = np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
    return np.rint(encoded * 255).astype(np.uint8)


main()
