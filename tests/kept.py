"""What the tests of one worker share: results of stages, by their content, and the decoded artwork of the demo.

A test that watches the planning itself, or changes what a stage does, is marked ``fresh_plans`` and shares nothing.
"""

import hashlib
from functools import lru_cache

import numpy as np

from swaddon.core import fast
from swaddon.core.artwork.artwork import Artwork
from swaddon.core.engine import Cache
from swaddon.io.images import decode_artwork

_BYTES = 1_500_000_000
"""Three workers with so much each leave room on a machine of 8 GB."""


class Kept(Cache):
    """Results that outlive the bench that made them. They are read-only and found by content, as in any cache."""

    def beside(self, limit_bytes: int) -> Cache:
        """Work beside finds what is here as well."""
        return self

    def clear(self) -> None:
        """A bench that closes lets go of its own; these are everybody's."""


PLANS = Kept(_BYTES)


def plans() -> Cache:
    """The shared results; none while the kernels are off, whose twins are to be run and not read."""
    return PLANS if fast.compiled() is not None else Cache()


def key_of_pixels(rgba: np.ndarray) -> str:
    """A content id that tells arrays apart, so that their plans are not taken for each other."""
    return f"{rgba.shape} {hashlib.blake2b(np.ascontiguousarray(rgba), digest_size=16).hexdigest()}"


@lru_cache(maxsize=12)
def decoded(data: bytes, name: str) -> Artwork:
    """Artwork of the demo, decoded once; its pixels cannot be written."""
    made = decode_artwork(data, name)
    made.rgba.flags.writeable = False
    return made
