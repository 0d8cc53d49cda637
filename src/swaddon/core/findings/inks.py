"""Findings about the inks: more of them on one spot than the press takes."""

from collections.abc import Iterator

from swaddon.core.artwork.raster import place
from swaddon.core.count.coverage import over_limit
from swaddon.core.findings.scene import Finding, Scene

_OVER_AT_LEAST_MM2 = 1.0


def too_much_ink(scene: Scene) -> Iterator[Finding]:
    """Ink above the total-area limit: it dries badly, cracks and comes off."""
    found = scene.coverage
    area_mm2 = found.over_px * scene.pixel_mm2
    if area_mm2 < _OVER_AT_LEAST_MM2:
        return
    x, y = scene.mm(*place(over_limit(scene.cmyk, found.limit_percent)))
    text = (
        f"C+M+Y+K reach {found.most_percent:.0f} % and lie above {found.limit_percent:.0f} %, the most that this press "
        f"takes, over {area_mm2 / 100:.1f} cm²: such {scene.profile.ink_name} dries badly, cracks and rubs off."
    )
    yield Finding("over-limit", "look", text, x, y, area_mm2, "mm²")
