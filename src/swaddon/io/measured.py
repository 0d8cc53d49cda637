"""A press profile with constants that were measured."""

import datetime
import tomllib
from collections.abc import Sequence
from typing import Any

from swaddon.core.press.measured import Value
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.testprint.constants import Constant, current
from swaddon.io import profiles


def measured_profile(base: PressProfile, found: Sequence[Constant], source: str, day: datetime.date) -> str:
    """TOML text of a press profile with new constants, each with its date, source and old value.

    Raises
    ------
    PlanError
        When a value is none that a press profile may have.
    """
    import tomli_w

    document: dict[str, Any] = tomllib.loads(base.source)
    entries = document.setdefault("measured", [])
    for constant in found:
        _put(document, base, constant)
        entries.append(
            {
                "constant": constant.key, "value": _plain(constant.new), "old": _plain(current(base, constant.key)),
                "pm": float(constant.pm), "date": day.isoformat(), "source": source[:200],
            }
        )  # fmt: skip
    text = tomli_w.dumps(document)
    profiles.parse(text, base.name)
    return text


def _put(document: dict[str, Any], base: PressProfile, constant: Constant) -> None:
    *rooms, name = constant.key.split(".")
    place = document
    for room in rooms:
        place = place.setdefault(room, {})
    place[name] = _plain(constant.new)
    if rooms[-1] == "tone_curves":  # inks without a curve keep what they had
        for ink in (ink for ink in INKS if ink in base.inks and ink not in place):
            place[ink] = _plain(current(base, f"separation.tone_curves.{ink}"))


def _plain(value: Value) -> float | list[float]:
    return [float(number) for number in value] if isinstance(value, tuple) else float(value)
