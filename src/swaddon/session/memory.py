"""Memory that a large plan takes, told before it is begun."""

from pathlib import Path

from swaddon.core.artwork.stages import LARGEST_GRID_PX
from swaddon.core.errors import PlanError
from swaddon.core.order.request import PlanRequest

BYTES_PER_PX = 42
"""What a plan takes at most for each pixel of its grid (measured on 198 megapixels: 36, on the bench 41)."""

TOLD_FROM_PX = 60_000_000
"""Plans of fewer pixels are not worth a word; those of more than can be planned are refused for that."""


def free_bytes() -> int | None:
    """Memory that programs can still take; ``None`` where the system does not tell."""
    try:
        for line in Path("/proc/meminfo").read_text(encoding="ascii").splitlines():
            if line.startswith("MemAvailable:"):
                return int(line.split()[1]) * 1024
    except (OSError, ValueError, IndexError):
        return None
    return None


def memory_words(request: PlanRequest, free: int | None = None) -> str:
    """What a large plan takes and what is free; empty for others.

    Raises
    ------
    PlanError
        When it takes more than there is; one sentence that says what to do.
    """
    width, height = request.grid_size
    if not TOLD_FROM_PX <= width * height <= LARGEST_GRID_PX:
        return ""
    need, there = width * height * BYTES_PER_PX, free_bytes() if free is None else free
    size = f"{width * height / 1e6:.0f} megapixels"
    if there is None:
        return f"{size}, about {need / 1e9:.1f} GB"
    if need > there:
        raise PlanError(
            f"A plan of {size} takes about {need / 1e9:.1f} GB of memory, {there / 1e9:.1f} GB are free: close other "
            "programs, print it smaller, or take its prints apart on the station Sheet."
        )
    return f"{size}, about {need / 1e9:.1f} of {there / 1e9:.0f} GB of memory that are free"
