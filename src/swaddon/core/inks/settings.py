"""What the operator chooses about the inks themselves."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from swaddon.core.colour.spaces import Rgb
from swaddon.core.press.profile import INKS
from swaddon.core.schema import Named, Option, Share, Slider

RECIPE_TOLERANCE_DE = 4.0


@dataclass(frozen=True)
class Recipe:
    """Inks that one colour of the artwork gets exactly, whatever the separation says.

    Attributes
    ----------
    colour
        The colour in the artwork.
    inks
        Coverage of C, M, Y and K, 0..1.
    tolerance_de
        Colours of the artwork within this ΔE00 get the same inks.
    """

    colour: Rgb
    inks: tuple[Share, Share, Share, Share]
    tolerance_de: Annotated[float, Ge(0), Le(30), Slider("Tolerance", "ΔE", 0.5, "Change a recipe", most=15)] = (
        RECIPE_TOLERANCE_DE
    )

    @property
    def text(self) -> str:
        """The inks in words, such as ``C20 M100 Y100``; those of none are left out."""
        parts = [f"{ink}{share * 100:g}" for ink, share in zip(INKS, self.inks, strict=True) if share > 0]
        return " ".join(parts) or "no ink"

    @property
    def total_percent(self) -> float:
        """C + M + Y + K in percent."""
        return round(sum(self.inks) * 100, 6)


Intent = Literal["perceptual", "relative", "saturation", "absolute"]


@dataclass(frozen=True)
class IccChoice:
    """A CMYK output profile of one's own instead of the built-in separation; its file travels with the job.

    Attributes
    ----------
    name, digest
        The file, and what tells its content from others.
    intent
        What becomes of colours that the inks do not reach (ICC.1:2022).
    black_point
        Whether the darkest of the artwork is lifted to the darkest of the press, so that shadows keep their steps.
    """

    name: Annotated[str, MaxLen(200)]
    digest: Annotated[str, MaxLen(64)]
    intent: Annotated[
        Intent,
        Named(
            "Intent",
            "Change the intent",
            (
                ("perceptual", "Perceptual"),
                ("relative", "Relative"),
                ("saturation", "Saturation"),
                ("absolute", "Absolute"),
            ),
        ),
        Option("--icc-intent", "Intent of --icc: perceptual, relative, saturation or absolute. Default: relative."),
    ] = "relative"
    black_point: Annotated[
        bool,
        Named("Black point compensation", "Change the black point"),
        Option(
            "--black-point/--no-black-point",
            "With --icc, lift the artwork's black to the press's darkest print. Default: yes.",
        ),
    ] = True
