"""Inverse separation tables kept on disk, because solving one takes seconds."""

import hashlib
import os
from functools import lru_cache
from pathlib import Path

import numpy as np
import platformdirs

from swaddon.core.inks.inverse import inverse_table
from swaddon.core.inks.separation import NODES, Table
from swaddon.core.press.profile import Separation
from swaddon.io.whole import whole_file

_VERSION = 5
"""Raised when the solver's mathematics change."""


def cache_folder() -> Path:
    """Where Swaddon keeps what it can make again."""
    return Path(os.environ.get("SWADDON_CACHE") or platformdirs.user_cache_path("swaddon"))


@lru_cache(maxsize=8)
def separation_table(separation: Separation) -> Table:
    """The inverse table of a separation, from disk when it was solved before."""
    digest = hashlib.sha256(f"{_VERSION}|{NODES}|{separation!r}".encode()).hexdigest()[:20]
    path = cache_folder() / f"separation-{digest}.npy"
    try:
        table = np.load(path, allow_pickle=False)
        if table.shape == (NODES, NODES, NODES, 4) and table.dtype == np.float32:
            table.flags.writeable = False
            return table
    except (OSError, ValueError):
        pass
    table = inverse_table(separation)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(path) as file:
            np.save(file, table)
    except OSError:
        return table
    return table
