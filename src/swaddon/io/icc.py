"""A CMYK output profile of one's own in the place of the built-in separation, read through LittleCMS."""

import hashlib
import io
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from swaddon.core.errors import PlanError
from swaddon.core.inks.separation import NODES, Table
from swaddon.core.inks.settings import IccChoice
from swaddon.io.names import clean, shown
from swaddon.io.profiles import reason

LARGEST_BYTES = 50_000_000
_INTENTS = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 3}
_BLACK_POINT_COMPENSATION = 0x2000
"""``cmsFLAGS_BLACKPOINTCOMPENSATION`` of LittleCMS."""

_SPACES = {"RGB ": "RGB", "GRAY": "grey", "CMYK": "CMYK", "Lab ": "CIELAB"}
_CLASSES = {"prtr": "output", "mntr": "display", "scnr": "input", "link": "device link", "abst": "abstract"}


@dataclass(frozen=True)
class IccFile:
    """A profile as it was read."""

    name: str
    data: bytes = field(repr=False)

    @property
    def digest(self) -> str:
        """What tells this profile from others."""
        return hashlib.sha256(self.data).hexdigest()[:16]


def read_icc(path: Path) -> IccFile:
    """A CMYK output profile from a file.

    Raises
    ------
    PlanError
        One sentence: what it is instead.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is too large for a colour profile (over 50 MB).")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The colour profile “{shown(path)}” cannot be read ({reason(error)}).") from error
    return checked(IccFile(path.name, data))


def checked(file: IccFile) -> IccFile:
    """The file, when it is a CMYK output profile that separates; raises ``PlanError`` with one sentence."""
    from PIL import ImageCms

    name = clean(file.name)
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(file.data)).profile
        space, kind = profile.xcolor_space, profile.device_class
    except (OSError, TypeError, ValueError, ImageCms.PyCMSError) as error:
        raise PlanError(f"“{name}” is no ICC profile, or is damaged: choose the CMYK profile of your press.") from error
    if space != "CMYK" or kind != "prtr":
        what = f"{_SPACES.get(space, space.strip())} {_CLASSES.get(kind, kind.strip())} profile"
        article = "an" if what.startswith("RGB") else "a"
        raise PlanError(f"“{name}” is {article} {what}: a separation needs a CMYK output profile.")
    if not any(profile.is_intent_supported(intent, ImageCms.Direction.OUTPUT) for intent in _INTENTS.values()):
        raise PlanError(f"“{name}” holds no table from colours to inks: choose an output profile that separates.")
    try:
        _inks_of(file.data, np.zeros((1, 3)), 1, 0)
    except Exception as error:
        raise PlanError(f"“{name}” cannot be used ({error}): choose another output profile.") from error
    return file


@lru_cache(maxsize=8)
def described(file: IccFile) -> str:
    """What the profile calls itself."""
    from PIL import ImageCms

    text = ImageCms.ImageCmsProfile(io.BytesIO(file.data)).profile.profile_description or file.name
    return clean(text.strip())[:80] or file.name


@lru_cache(maxsize=8)
def output_table(file: IccFile, choice: IccChoice) -> Table:
    """The profile's separation of every node of the sRGB grid, as :func:`inverse.inverse_table` gives the built-in.

    White gives no ink, whatever paper the profile was made for.

    Raises
    ------
    PlanError
        When the profile is damaged there.
    """
    axis = np.linspace(0, 255, NODES)
    rgb = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    flags = _BLACK_POINT_COMPENSATION if choice.black_point else 0
    try:
        cmyk = _inks_of(file.data, rgb, _INTENTS[choice.intent], flags)
    except Exception as error:
        raise PlanError(
            f"“{clean(file.name)}” gives no inks by the {choice.intent} intent: choose another intent or profile."
        ) from error
    cmyk[-1] = 0.0
    table = (cmyk * 255).astype(np.float32).reshape(NODES, NODES, NODES, 4)
    table.flags.writeable = False
    return table


def _inks_of(data: bytes, rgb: NDArray[np.floating], intent: int, flags: int) -> NDArray[np.float64]:
    """Coverages 0..1, ``(n, 4)``, of sRGB 0..255 ``(n, 3)``, in 16 bits through LittleCMS."""
    import imagecodecs

    samples = np.rint(np.asarray(rgb, np.float64) / 255 * 65535).astype(np.uint16)[None]
    out = imagecodecs.cms_transform(
        samples, imagecodecs.cms_profile("srgb"), data, colorspace="rgb", outcolorspace="cmyk", outdtype="u2",
        intent=intent, flags=flags,
    )  # fmt: skip
    return np.asarray(out, np.float64).reshape(-1, 4) / 65535
