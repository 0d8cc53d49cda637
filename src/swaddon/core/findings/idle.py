"""Choices that come to nothing on this artwork: said, not swallowed."""

from collections.abc import Iterator
from dataclasses import replace

import cv2

from swaddon.core.artwork.placement import PointMap
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.findings.scene import Finding, Scene
from swaddon.core.white.design_white import areas_at
from swaddon.core.white.underbase import design_ramp


def idle_knockout(scene: Scene) -> Iterator[Finding]:
    """A knockout that takes no pixel."""
    settings = scene.settings
    for index, (item, pixels) in enumerate(zip(settings.knockouts, scene.took, strict=True)):
        if pixels:
            continue
        name = f"the {scene.item}’s colour" if item.colour is None else hex_from_rgb(item.colour)
        where = {"outside": " that is connected with the outside", "clicked": " where it was clicked"}
        text = (
            f"The knockout of {name} takes nothing: there is none within ΔE {item.tolerance:g} of it"
            f"{where.get(item.reach, '')}."
        )
        x, y = scene.centre()
        fix = replace(settings, knockouts=settings.knockouts[:index] + settings.knockouts[index + 1 :])
        yield Finding("knockout-idle", "note", text, x, y, 0.0, "mm²", fix, "Drop it", has_place=False)


def idle_fades(scene: Scene) -> Iterator[Finding]:
    """A screen for fades where nothing fades."""
    chosen = scene.settings.alpha
    if chosen is None or chosen.kind != "screen" or cv2.countNonZero(scene.treated.soft_before):
        return
    x, y = scene.centre()
    text = "Fades are to be screened, but nothing here is half-transparent: the screen cuts nothing."
    yield Finding(
        "fades-idle", "note", text, x, y, 0.0, "mm²", replace(scene.settings, alpha=None), "By process", has_place=False
    )


def idle_design_rule(scene: Scene) -> Iterator[Finding]:
    """A choice for an area of design white at a place where there is none."""
    white = scene.settings.white
    if not white.design_rules:
        return
    height, width = scene.art.shape[:2]
    artwork = scene.artwork
    where = PointMap(scene.settings.placement, artwork.width_px, artwork.height_px, (width, height))
    ramp = design_ramp(scene.profile.white)
    for index, rule in enumerate(white.design_rules):
        at = where.on_grid(rule.point)
        if areas_at(scene.art, ramp, [at]) is not None:
            continue
        x, y = scene.mm(*at)
        text = (
            f"White of the design was chosen at {x:.0f}, {y:.0f} mm, but there is none at that place: the choice "
            "changes nothing."
        )
        rules = white.design_rules[:index] + white.design_rules[index + 1 :]
        yield Finding(
            "design-white-idle", "note", text, x, y, 0.0, "mm²", scene.with_white(design_rules=rules), "Drop it"
        )
