"""Findings: what is wrong with a plan, by measurement. Each has a place, a size and, where one exists, one fix."""

from swaddon.core.findings.artwork import box, fine_detail, jpeg_edges, low_ppi, nothing_printed, too_large
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.findings.screens import beating, half_transparent, on_the_weave, too_fine
from swaddon.core.findings.white import choke_too_large, choke_zero, lost_lines, white_choice, white_under_black

__all__ = ["Finding", "Scene", "Severity", "all_findings"]

_LOOKS = (
    nothing_printed, box, too_large, white_choice, white_under_black, choke_zero, lost_lines, choke_too_large,
    half_transparent, too_fine, on_the_weave, beating, fine_detail, jpeg_edges, low_ppi,
)  # fmt: skip


def all_findings(scene: Scene) -> tuple[Finding, ...]:
    """Every finding of a plan, worst first."""
    found: list[Finding] = []
    for look in _LOOKS:
        scene.check()
        found.extend(look(scene))
    order = {"stop": 0, "look": 1, "note": 2}
    return tuple(sorted(found, key=lambda finding: order[finding.severity]))
