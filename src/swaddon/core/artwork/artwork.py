"""Artwork as the plan takes it in."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from swaddon.core.artwork.background import border_tolerance, uniform_border
from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.raster import Rgba
from swaddon.core.colour.spaces import Rgb
from swaddon.core.units import inches_from_mm

_PRINT_PPI = (120.0, 2400.0)
"""Resolutions that pictures for print are saved at (assumed)."""


@dataclass(frozen=True, eq=False)
class Artwork:
    """A picture read from a file.

    Attributes
    ----------
    rgba
        ``uint8 (H, W, 4)``, sRGB, straight alpha, upright, read-only.
    content_id
        Hash of the file's bytes; two artworks with the same id are the same picture.
    file_name
        Name without folder.
    file_format
        ``PNG``, ``JPEG``, ``TIFF`` or ``WEBP``.
    has_alpha
        Whether the file carries transparency.
    notes
        What reading it did (colour profile converted, turned upright, 16 bits reduced).
    profile
        Name of the embedded colour profile, empty without one.
    render
        For drawings (SVG, PDF): draws the whole artwork at a width and height in pixels, ``uint8 (H, W, 4)``; what it
        is given third is called now and then, and may raise to stop it.
    page, pages
        Page shown, from 1 on, and how many the file has.
    natural_width_mm
        Width that the file says it has: a drawing's or a page's own, a picture's by its resolution tags.
    """

    rgba: Rgba
    content_id: str
    file_name: str
    file_format: str
    has_alpha: bool
    notes: tuple[str, ...] = field(default=())
    profile: str = ""
    render: Callable[[int, int, Callable[[], None]], Rgba] | None = None
    page: int = 1
    pages: int = 1
    natural_width_mm: float | None = None

    @property
    def content_key(self) -> tuple[str, str, str, int]:
        """What tells this artwork from others."""
        return self.content_id, self.file_name, self.file_format, self.page

    @cached_property
    def background(self) -> Rgb | None:
        """The one colour all round the artwork, ``None`` when there is none."""
        return uniform_border(self.rgba, border_tolerance(self.file_format))

    @property
    def width_px(self) -> int:
        return int(self.rgba.shape[1])

    @property
    def height_px(self) -> int:
        return int(self.rgba.shape[0])

    @property
    def natural_mm(self) -> float:
        """Width that a first print of it gets: the file's own where it says it sensibly, else 300 pixels per inch."""
        own = self.natural_width_mm
        return own if own is not None and self.says_its_size else self.width_px / 300 * 25.4

    @property
    def says_its_size(self) -> bool:
        """Whether the file says a size that somebody meant.

        A drawing has one. Pictures of 72 or 96 ppi were saved for a screen: nobody chose that (common practice, no
        source).
        """
        if self.natural_width_mm is None:
            return False
        return (
            self.render is not None
            or _PRINT_PPI[0] <= self.width_px / inches_from_mm(self.natural_width_mm) <= (_PRINT_PPI[1])
        )

    def stated_mm(self, placement: Placement) -> float | None:
        """Width of the printed part by the size that the file says; ``None``: it says none."""
        if self.natural_width_mm is None:
            return None
        return self.natural_width_mm * self.placed_px(placement)[0] / self.width_px

    def placed_px(self, placement: Placement) -> tuple[int, int]:
        """Width and height in pixels of the printed part, as it lies on the artboard."""
        return placement.size(self.width_px, self.height_px)

    def ppi_at(self, width_mm: float, placement: Placement) -> float:
        """Artwork pixels per inch when the printed part is ``width_mm`` wide."""
        return self.placed_px(placement)[0] / inches_from_mm(width_mm)

    def height_mm_at(self, width_mm: float, placement: Placement) -> float:
        """Height in mm of the artboard when it is ``width_mm`` wide."""
        width_px, height_px = self.placed_px(placement)
        return width_mm * height_px / width_px
