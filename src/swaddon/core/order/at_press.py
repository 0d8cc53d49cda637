"""What the operator chooses of the work at the press, where it is not as the press profile has it."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le

from swaddon.core.press.profile import PressProfile
from swaddon.core.press.steps import School, Way
from swaddon.core.schema import Named, Option


@dataclass(frozen=True)
class AtPress:
    """Choices of one line for the run card.

    Attributes
    ----------
    peel, presses
        Which school is followed; ``own``: as the press profile says.
    temperature_c, time_s
        Heat in °C and time in s of pressing the print on, or of curing a direct print; 0: as the press profile says. No
        other step on the goods goes hotter.
    """

    peel: Annotated[
        Literal["own", "warm", "cold"],
        Named("Peel", "Change how it is peeled", (("own", "As the press"), ("warm", "Warm"), ("cold", "Cold"))),
        Option("--peel", "How the print is peeled: warm or cold. Default: as the press profile says."),
    ] = "own"
    presses: Annotated[
        Literal["own", "twice", "once"],
        Named(
            "Presses", "Change how often it is pressed", (("own", "As the press"), ("twice", "Twice"), ("once", "Once"))
        ),
        Option("--presses", "How often the print is pressed: twice or once. Default: as the press profile says."),
    ] = "own"
    temperature_c: Annotated[
        float,
        Ge(0),
        Le(260),
        Named("Press at", "Change the press’s heat"),
        Option("--press-c", "Heat of pressing the print on, in °C. Default: as the press profile says."),
    ] = 0.0
    time_s: Annotated[
        float,
        Ge(0),
        Le(3600),
        Named("Press for", "Change the press’s time"),
        Option("--press-s", "Time of pressing the print on, in s. Default: as the press profile says."),
    ] = 0.0

    def way(self, school: School, press: PressProfile) -> Way:
        """Which way of a school is gone: as chosen, else as the press profile says, else the usual one."""
        own = str(getattr(self, school.key, "own"))
        return school.way(own if own != "own" else dict(press.ways).get(school.key, ""))
