"""Constants of a press in words."""

from swaddon.core.press.measured import Value
from swaddon.core.press.profile import PressProfile
from swaddon.core.testprint.constants import Constant


def value_text(value: Value, constant: Constant, *, sure: bool = False) -> str:
    """A value of a constant with its unit, and with ``sure`` its 95 % interval."""
    return text_of(value, constant.unit, constant.pm if sure else 0.0, constant.key)


def text_of(value: Value, unit: str, pm: float, key: str) -> str:
    """A value in its unit; of a curve, what becomes of 50 %."""
    if "tone_curves" in key and isinstance(value, tuple):
        middle = 100 * value[len(value) // 2]
        return f"{middle:.0f} %" + (f" ± {100 * pm:.0f}" if pm else "")
    places = 3 if unit == "°" or key == "white.contrast_ratio" else 2
    numbers = value if isinstance(value, tuple) else (value,)
    if unit == "%":
        places = 0
    signs = "+" if isinstance(value, tuple) or unit == "°" else ""
    shown = ", ".join(f"{number:{signs}.{places}f}" for number in numbers).replace("-", "−")
    finer = places if pm >= 0.95 * 10**-places else places + 1
    after = f" ± {pm:.{finer}f}" if pm else ""
    return f"{shown}{after}°" if unit == "°" else f"{shown}{after} {unit}".strip()


def standing(press: PressProfile, key: str) -> str:
    """How a constant of a press stands: “assumed”, or when and by what it was measured."""
    found = press.measured_as(key)
    return "assumed" if found is None else f"measured on {found.date}"
