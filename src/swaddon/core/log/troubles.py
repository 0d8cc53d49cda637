"""What goes wrong with prints, as the trade names it (common practice, no source)."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Trouble:
    """Something that goes wrong: its key in the log, its name, how it is told from others, and a key to press."""

    key: str
    title: str
    described: str
    letter: str


TROUBLES = (
    Trouble(
        "peek", "White peeks out", "A white edge beside the colour: choke too small, or white and colour apart.", "E"
    ),
    Trouble("halo", "Halo", "A dull rim in the cloth’s colour: choke too large.", "H"),
    Trouble("box", "Box shows", "A rectangle round the picture: background printed.", "B"),
    Trouble("lost-lines", "Lost lines", "Fine lines or lettering gone, or their white.", "L"),
    Trouble("speckle", "Pale speckle", "White pushed through dark colours.", "K"),
    Trouble("haze", "Haze", "A dirty veil where half-transparent pixels print.", "Z"),
    Trouble("shift", "White and colour apart", "All white lies to one side: heads or passes out of line.", "T"),
    Trouble("dull", "Dull colours", "Paler or darker than the proof.", "D"),
    Trouble("stiff", "Stiff", "A hard, closed hand.", "F"),
    Trouble("cracked", "Cracked in the wash", "Cracks or lifts after washing; say after how many washes.", "W"),
)
"""What a verdict looks for on a finished piece."""

AT_PRESS = (
    Trouble("not-lifted", "Did not come off", "Parts stayed on film or sheet: heat, time, pressure or peel.", ""),
    Trouble("scorched", "Scorched", "Cloth marked or discoloured by heat.", ""),
    Trouble("crooked", "Crooked or off its place", "Laid on askew, too low, not centred.", ""),
    Trouble("stained", "Stained", "Pretreat stain, remains of a print before, ink on the cloth.", ""),
    Trouble("banding", "Lines across", "Blocked nozzles or feed: lines through the print.", ""),
    Trouble("wrong-goods", "Wrong garment", "Wrong size, colour or fault in the cloth.", ""),
    Trouble("other", "Something else", "None of these.", ""),
)
"""Further reasons why a piece is thrown away."""

KNOWN = {trouble.key: trouble for trouble in (*TROUBLES, *AT_PRESS)}


def trouble_title(key: str) -> str:
    """What a trouble is called; one from a newer bench by its key."""
    return KNOWN[key].title if key in KNOWN else key.replace("-", " ").capitalize()
