"""Artwork as the plan takes it in."""

from dataclasses import dataclass, field

from swaddon.core.raster import Rgba
from swaddon.core.units import inches_from_mm


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
    """

    rgba: Rgba
    content_id: str
    file_name: str
    file_format: str
    has_alpha: bool
    notes: tuple[str, ...] = field(default=())

    @property
    def width_px(self) -> int:
        return int(self.rgba.shape[1])

    @property
    def height_px(self) -> int:
        return int(self.rgba.shape[0])

    def ppi_at(self, width_mm: float) -> float:
        """Artwork pixels per inch when printed ``width_mm`` wide."""
        return self.width_px / inches_from_mm(width_mm)

    def height_mm_at(self, width_mm: float) -> float:
        """Height in mm of the artboard when printed ``width_mm`` wide."""
        return width_mm * self.height_px / self.width_px
