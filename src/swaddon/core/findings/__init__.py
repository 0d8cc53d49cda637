"""Findings: what is wrong with a plan, by measurement. Each has a place, a size and, where one exists, one fix."""

from dataclasses import replace

from swaddon.core.findings.artwork import (
    box,
    enclosed_background,
    fine_detail,
    ink_below,
    jpeg_edges,
    low_ppi,
    nothing_printed,
    too_large,
)
from swaddon.core.findings.choke import bare_rim, choke_kept, choke_too_large, choke_zero, lost_lines, peek
from swaddon.core.findings.idle import idle_design_rule, idle_fades, idle_knockout
from swaddon.core.findings.inks import too_much_ink
from swaddon.core.findings.match import ink_on_match
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.findings.screens import bare_haze, beating, half_transparent, on_the_weave, too_fine
from swaddon.core.findings.told import causes
from swaddon.core.findings.white import (
    beyond_cure,
    design_white_missing,
    push_through,
    reads_backwards,
    white_choice,
    white_not_needed,
    white_on_top,
    white_outside,
    white_under_black,
)

__all__ = ["Finding", "Scene", "Severity", "all_findings"]

_LOOKS = (
    nothing_printed, box, enclosed_background, too_large, white_on_top, reads_backwards, white_choice,
    design_white_missing, white_outside, beyond_cure, too_much_ink, white_under_black, ink_on_match, push_through,
    choke_zero, choke_kept, lost_lines, choke_too_large, peek, bare_rim, half_transparent, bare_haze, too_fine,
    on_the_weave, beating, fine_detail, jpeg_edges, low_ppi, white_not_needed, idle_knockout, idle_fades,
    idle_design_rule, ink_below,
)  # fmt: skip


def all_findings(scene: Scene) -> tuple[Finding, ...]:
    """Every finding of a plan, worst first, each with the one that tells its cause already."""
    found: list[Finding] = []
    for look in _LOOKS:
        scene.check()
        found.extend(replace(finding, base=scene.settings) for finding in look(scene))
    order = {"stop": 0, "look": 1, "note": 2}
    return causes(sorted(found, key=lambda finding: order[finding.severity]))
