"""What goes into one piece beside its materials, and how sure a press's constants are: shop's figures of one press."""

from dataclasses import dataclass

Seconds = tuple[tuple[str, float], ...]

PRETREAT, SECOND_PASS, SECOND_PRESS = "pretreat", "second pass", "second press"
"""Work that not every piece gets: figures whose names begin so count only where it is done."""

_ONCE = ("fold", "pack")


def is_once(name: str) -> bool:
    """Whether work is done once for each garment, however many sheets its print was split onto: its name tells.

    >>> is_once("Fold and pack"), is_once("press")
    (True, False)
    """
    return name.lower().startswith(_ONCE)


@dataclass(frozen=True)
class Gets:
    """What a piece gets by its plan.

    Attributes
    ----------
    white, pretreated, dots
        White ink, pretreatment, dots of a screen.
    parts
        Sheets that its print was split onto: each is printed, laid and pressed.
    pressed_twice
        Whether a transfer is pressed again after it was peeled.
    """

    white: bool
    pretreated: bool
    dots: bool = False
    parts: int = 1
    pressed_twice: bool = True

    @property
    def undone(self) -> tuple[str, ...]:
        """Work that it does not get."""
        known = ((PRETREAT, self.pretreated), (SECOND_PASS, self.white), (SECOND_PRESS, self.pressed_twice))
        return tuple(name for name, is_done in known if not is_done)

    def of(self, figures: Seconds) -> Seconds:
        """The figures of what it gets: without work that is not done, times the parts where each needs it.

        >>> Gets(white=True, pretreated=False).of((("pretreat and dry", 40.0), ("load", 26.0)))
        (('load', 26.0),)
        >>> Gets(white=True, pretreated=True, parts=2).of((("press", 40.0), ("fold and pack", 18.0)))
        (('press', 80.0), ('fold and pack', 18.0))
        """
        done = (item for item in figures if not item[0].startswith(self.undone))
        return tuple((name, each * (1 if is_once(name) else self.parts)) for name, each in done)


ALL = Gets(white=True, pretreated=True)
"""A piece that gets all there is."""


@dataclass(frozen=True)
class Working:
    """Hands, energy and upkeep of a press, per piece or per day; all are the shop's own figures.

    Attributes
    ----------
    hands_s
        Stages with the seconds that a pair of hands gives one piece in each.
    energy_wh
        Machines with what each draws for one piece, Wh.
    cover_presses, covered
        How often one piece is pressed under a cover sheet; and how many of these are of work that not every piece gets.
    purge_white_per_day, purge_colour_per_day
        Ink of cleaning, circulation and nozzle checks in a day, in the ink's unit.
    pieces_per_day
        Pieces that these are spread over.
    spoilage_share
        Pieces begun that are thrown away, 0 to below 1.
    setup_min
        Minutes of hands that an order takes once, whatever its size.
    """

    hands_s: Seconds = ()
    energy_wh: Seconds = ()
    cover_presses: float = 0.0
    covered: Seconds = ()
    purge_white_per_day: float = 0.0
    purge_colour_per_day: float = 0.0
    pieces_per_day: float = 40.0
    spoilage_share: float = 0.0
    setup_min: float = 0.0

    def covers_for(self, gets: Gets) -> float:
        """How often a piece that gets this is pressed under a cover sheet.

        >>> direct = Working(cover_presses=2.0, covered=(("pretreat", 1.0),))
        >>> [direct.covers_for(Gets(True, pretreated)) for pretreated in (True, False)]
        [2.0, 1.0]
        """
        undone = sum(each for name, each in self.covered if name.startswith(gets.undone))
        return max(0.0, self.cover_presses - undone) * gets.parts


@dataclass(frozen=True)
class Stated:
    """Where a constant that was not measured is from; ``percent`` is its 95 % interval, 0 where none is stated."""

    constant: str
    source: str
    percent: float = 0.0


@dataclass(frozen=True)
class Weighed:
    """A weigh-in that was taken: how sure its constants are together.

    ``log_covariance`` is that of the natural logarithms of ``constants``, in their order: what a few weights cannot
    tell apart is unsure one by one and sure in sum.
    """

    date: str
    source: str
    constants: tuple[str, ...]
    log_covariance: tuple[tuple[float, ...], ...]
