"""What is wrong at the press: heat that the goods do not bear."""

from dataclasses import replace

from swaddon.core.findings.scene import Finding
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.steps import step_name
from swaddon.core.run.card import RunCard
from swaddon.core.units import fahrenheit_from_c


def heat_findings(card: RunCard, settings: PlanSettings, garment: str) -> tuple[Finding, ...]:
    """One finding for the hottest step that the goods do not bear; its fix is the next setting that the supplies allow.

    The fix cools every step on the goods: none goes hotter than the press itself (``run.card``).
    """
    if not card.conflicts:
        return ()
    worst = card.conflicts[0]
    fix, label = None, ""
    cooler = [conflict.instead for conflict in card.conflicts if conflict.instead is not None]
    hot = f"{step_name(worst.step)} at {_told(worst.temperature_c)}"
    text = f"{hot}: {garment} bears {_told(worst.bears_c)} by the shop’s list."
    if len(cooler) == len(card.conflicts):
        heat = min(pair[0] for pair in cooler)
        fix = replace(settings, at_press=replace(settings.at_press, temperature_c=heat, time_s=0.0))
        label = f"Work at {_told(heat)}"
    else:
        text += " The supplies allow no cooler setting that is known: take others, or other goods."
    found = Finding(
        "press-too-hot", "stop", text, 0.0, 0.0, worst.temperature_c - worst.bears_c, "°C", fix, label, settings,
        has_place=False,
    )  # fmt: skip
    return (found,)


def _told(celsius: float) -> str:
    """Heat in both units: a finding is told whatever the shop prefers."""
    return f"{celsius:g} °C ({fahrenheit_from_c(celsius):.0f} °F)"
