"""Pattern tiles: black-on-white PNGs that repeat at their edges; black is cut out of the print."""

import hashlib
import io
from functools import lru_cache
from importlib import resources
from pathlib import Path

import numpy as np
from PIL import Image

from swaddon.core.errors import PlanError
from swaddon.core.holes.screen import TileArt
from swaddon.io.profiles import reason

LARGEST_BYTES = 20_000_000
LARGEST_SIDE = 4000


@lru_cache(maxsize=1)
def shipped_tiles() -> dict[str, TileArt]:
    """The tiles that come with Swaddon, by name."""
    files = sorted(file.name for file in resources.files(__package__).iterdir() if file.name.endswith(".png"))
    read = ((resources.files(__package__) / name).read_bytes() for name in files)
    return {name[:-4]: decode_tile(data, name[:-4]) for name, data in zip(files, read, strict=True)}


def read_tile(path: Path) -> tuple[TileArt, bytes]:
    """A tile from a PNG, with the bytes read; raises ``PlanError`` with one sentence."""
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise PlanError(f"The tile “{path.name}” is larger than 20 MB: save it smaller.")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The tile “{path.name}” cannot be read ({reason(error)}): choose another file.") from error
    return decode_tile(data, path.stem), data


def decode_tile(data: bytes, name: str) -> TileArt:
    """A tile from PNG bytes; raises ``PlanError`` with one sentence."""
    try:
        with Image.open(io.BytesIO(data), formats=("PNG",)) as opened:
            if max(opened.size) > LARGEST_SIDE:
                raise PlanError(f"The tile “{name}” is over {LARGEST_SIDE} px on a side: save it smaller.")
            on_white = Image.new("RGBA", opened.size, "white")
            on_white.alpha_composite(opened.convert("RGBA"))
            grey = np.asarray(on_white.convert("L"))
    except PlanError:
        raise
    except Exception as error:
        raise PlanError(f"The tile “{name}” is not a readable PNG: save it, black on white, as PNG.") from error
    share = float((grey >= 128).mean())
    if not 0.02 <= share <= 0.98:
        raise PlanError(f"The tile “{name}” is nearly all one colour: it needs black to cut and white to keep.")
    return TileArt(name, hashlib.blake2b(data, digest_size=16).hexdigest(), grey)
