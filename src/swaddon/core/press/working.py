"""What goes into one piece beside its materials, and how sure a press's constants are: shop's figures of one press."""

from dataclasses import dataclass

Seconds = tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Working:
    """Hands, energy and upkeep of a press, per piece or per day; all are the shop's own figures.

    Attributes
    ----------
    hands_s
        Stages with the seconds that a pair of hands gives one piece in each; those that begin with “pretreat” are left
        out for pieces that are not pretreated.
    energy_wh
        Machines with what each draws for one piece, Wh.
    cover_presses
        How often one piece is pressed under a cover sheet.
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
    purge_white_per_day: float = 0.0
    purge_colour_per_day: float = 0.0
    pieces_per_day: float = 40.0
    spoilage_share: float = 0.0
    setup_min: float = 0.0

    def hands_for(self, is_pretreated: bool) -> Seconds:
        """The stages that a piece goes through.

        >>> Working((("pretreat and dry", 40.0), ("load", 26.0))).hands_for(is_pretreated=False)
        (('load', 26.0),)
        """
        return tuple(item for item in self.hands_s if is_pretreated or not item[0].startswith("pretreat"))


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
