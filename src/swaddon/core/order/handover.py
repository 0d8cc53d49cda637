"""What the next program gets: which file, which colours, and how the white travels."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen

from swaddon.core.schema import Named, Option, Pattern

HandOverKind = Literal["plates", "tiff", "pdf", "png", "layers"]
HandOverColour = Literal["cmyk", "rgb"]
WhiteTravels = Literal["spot", "file"]

_TAKEN = frozenset({"cyan", "magenta", "yellow", "black", "highlight", "all", "none"})


def check_white_name(name: str) -> None:
    """Raise ``ValueError`` where white is called like another channel: it would take its place.

    “All” and “None” mean something of their own in PDF (ISO 32000-1, 8.6.6.4).
    """
    if name.strip().lower() in _TAKEN:
        raise ValueError(f"White cannot be called “{name.strip()}”, as another channel is: choose another name")


@dataclass(frozen=True)
class HandOver:
    """What is written for the next program, besides the plates.

    Attributes
    ----------
    kind
        ``plates``: nothing but these; ``tiff``, ``pdf``, ``png``: the whole print flattened in one or two files;
        ``layers``: an OpenRaster file with a layer per ink, for image programs.
    colour
        Separated into the inks, or as the flattened artwork for a program that separates by itself.
    white
        As a named spot channel beside the colours, or as a file of its own.
    white_name
        Name of the spot channel; empty: the press profile's.
    """

    kind: Annotated[
        HandOverKind,
        Named(
            "Hand over",
            "Change what is handed over",
            (("plates", "Plates"), ("tiff", "TIFF"), ("pdf", "PDF"), ("png", "PNG"), ("layers", "Layers")),
        ),
        Option(
            "--hand-over",
            "What is written for the next program besides the plates: tiff, pdf or png, the print flattened with its "
            "white; layers, an OpenRaster file with a layer per ink. Default: plates alone.",
        ),
    ] = "plates"
    colour: Annotated[
        HandOverColour,
        Named("Colours", "Change the colours handed over", (("cmyk", "CMYK"), ("rgb", "RGB"))),
        Option("--hand-over-colour", "Colours of the handed-over file: cmyk or rgb. Default: cmyk."),
    ] = "cmyk"
    white: Annotated[
        WhiteTravels,
        Named("White", "Change how white travels", (("spot", "Spot channel"), ("file", "Own file"))),
        Option("--hand-over-white", "White as a spot channel of that file, or as a file of its own. Default: spot."),
    ] = "spot"
    white_name: Annotated[
        str,
        MaxLen(60),
        Pattern(r"[^\x00-\x1f\x7f]*", "a short text without control characters"),
        Named("White is called", "Name the white channel"),
        Option("--white-name", "Name of the white channel, as the receiving program wants it. Default: the profile’s."),
    ] = ""
