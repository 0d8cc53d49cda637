"""A press profile with the inks of a measured chart."""

import datetime
import tomllib
from pathlib import Path
from typing import Any

from swaddon.core.errors import PlanError
from swaddon.core.inks.fitting import FittedInks
from swaddon.core.press.profile import INKS, PRIMARY_NAMES, PressProfile
from swaddon.io import profiles
from swaddon.io.names import shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason


def fitted_profile(base: PressProfile, fitted: FittedInks, source: str, name: str, day: datetime.date) -> str:
    """TOML text of a press profile: that of ``base`` with other inks, their date and source in its notes."""
    document: dict[str, Any] = tomllib.loads(base.source)
    separation = document["separation"]
    inks = "".join(base.inks)
    names = [primary for primary in PRIMARY_NAMES if primary == "paper" or set(primary) <= set(inks)]
    lab = dict(zip(PRIMARY_NAMES, fitted.primaries_lab.tolist(), strict=True))
    separation["primaries"] = {primary: [round(value, 2) for value in lab[primary]] for primary in names}
    separation["yule_nielsen_n"] = fitted.yule_nielsen_n
    separation["tone_curves"] = {
        ink: list(curve) for ink, curve in zip(INKS, fitted.curves, strict=True) if ink in base.inks
    }
    document["name"] = name
    document["title"] = f"{base.title}, inks measured"[:80]
    document["notes"] = (
        f"Inks fitted on {day.isoformat()} to {source}: {fitted.patches} patches, ΔE00 mean {fitted.mean_de:.2f}, 95 % "
        f"{fitted.p95_de:.2f}; {fitted.held_out} patches held out, mean {fitted.held_mean_de:.2f}, 95 % "
        f"{fitted.held_p95_de:.2f}. All else is of the profile {base.name}."
    )
    import tomli_w

    text = tomli_w.dumps(document)
    profiles.parse(text, name)
    return text


def write_profile(path: Path, text: str) -> None:
    """Write a profile whole; raises ``PlanError`` with one sentence."""
    try:
        with output_file(path) as file:
            file.write(text.encode("utf-8"))
    except OSError as error:
        raise PlanError(f"The profile could not be written to “{shown(path)}” ({reason(error)}).") from error


def told(fitted: FittedInks) -> str:
    """The fit in a few lines for a terminal."""
    gains = (
        f"{ink} {100 * (curve[len(curve) // 2] - 0.5):+.0f} %" for ink, curve in zip(INKS, fitted.curves, strict=True)
    )
    rows = (
        ("Patches", f"{fitted.patches}, {fitted.held_out} of them held out of the fit"),
        ("ΔE00", f"mean {fitted.mean_de:.2f}, 95 % {fitted.p95_de:.2f}"),
        ("Held out", f"mean {fitted.held_mean_de:.2f}, 95 % {fitted.held_p95_de:.2f}"),
        ("Yule-Nielsen n", f"{fitted.yule_nielsen_n:g}"),
        ("Gain at 50 %", ", ".join(gains)),
    )
    return "\n".join(f"{head:<15} {text}" for head, text in rows)
