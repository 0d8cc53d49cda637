"""Heat, time and pressure in the units that the operator prefers."""

from swaddon.core.press.steps import Figures
from swaddon.core.units import celsius_from_f, fahrenheit_from_c
from swaddon.session.preferences import Preferences

_HOUR_S, _MINUTE_S = 3600, 60


def heat_text(celsius: float, preferences: Preferences) -> str:
    """A temperature.

    >>> heat_text(150, Preferences()), heat_text(150, Preferences(fahrenheit=True))
    ('150 °C', '302 °F')
    """
    return f"{fahrenheit_from_c(celsius):.0f} °F" if preferences.fahrenheit else f"{celsius:.0f} °C"


def heat_c(value: float, preferences: Preferences) -> float:
    """A typed temperature in °C, to a tenth."""
    return round(celsius_from_f(value) if preferences.fahrenheit else value, 1)


def time_text(seconds: float) -> str:
    """A duration as one says it; from an hour on to the minute.

    >>> time_text(10), time_text(120), time_text(95), time_text(43200), time_text(0.4), time_text(4000)
    ('10 s', '2 min', '1 min 35 s', '12 h', '0 s', '1 h 7 min')
    """
    whole = round(seconds) if seconds < _HOUR_S else round(seconds / _MINUTE_S) * _MINUTE_S
    hours, minutes, rest = whole // _HOUR_S, whole % _HOUR_S // _MINUTE_S, whole % _MINUTE_S
    parts = [f"{hours} h" if hours else "", f"{minutes} min" if minutes else "", f"{rest} s" if rest else ""]
    return " ".join(filter(None, parts)) or "0 s"


def clock_text(seconds: float) -> str:
    """A duration as a clock shows it; below 0 it is over.

    >>> clock_text(75), clock_text(-5), clock_text(3700)
    ('1:15', '+0:05', '1:01:40')
    """
    whole = int(-(-seconds // 1)) if seconds > 0 else int(-seconds // 1)
    hours, minutes, rest = whole // _HOUR_S, whole % _HOUR_S // _MINUTE_S, whole % _MINUTE_S
    text = f"{hours}:{minutes:02d}:{rest:02d}" if hours else f"{minutes}:{rest:02d}"
    return text if seconds > 0 or not whole else f"+{text}"


def pressure_text(figures: Figures, preferences: Preferences) -> str:
    """Pressure, in words or in bar.

    >>> pressure_text(Figures(pressure="heavy", pressure_bar=4), Preferences())
    'heavy pressure'
    >>> pressure_text(Figures(pressure="heavy", pressure_bar=4), Preferences(bar=True))
    '4 bar'
    """
    if figures.bar is None:
        return ""
    if preferences.bar or figures.pressure is None:
        about = "" if figures.pressure_bar is not None else "about "
        return f"{about}{figures.bar:g} bar"
    return f"{figures.pressure} pressure"


def figures_text(figures: Figures, preferences: Preferences) -> tuple[str, ...]:
    """All that a step is done with, each in a few words."""
    heat = "" if figures.temperature_c is None else heat_text(figures.temperature_c, preferences)
    time = "" if figures.time_s is None else time_text(figures.time_s)
    return tuple(filter(None, (heat, time, pressure_text(figures, preferences))))
