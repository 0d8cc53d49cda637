"""Shapes of goods in millimetres, that the print is shown on and laid by.

Coordinates: (0, 0) is the middle of the collar's lower edge (shirt), or of the piece's upper edge; y grows downwards.
Sizes are those of common goods, assumed.
"""

from dataclasses import dataclass

from swaddon.core.proof.cloth import ClothKind

BELOW_COLLAR_MM = 76.2
"""Print position: 3 in below the collar (common practice, no source)."""

Path = tuple[tuple[str, tuple[float, ...]], ...]
"""``m`` and ``l`` with a point, ``c`` with the three points of a cubic curve; a path of ``parts`` is closed."""

_ROUND = 0.5523
"""Handle of a cubic curve that follows a quarter circle, as a share of its radius."""


@dataclass(frozen=True)
class GarmentShape:
    """A piece to print on.

    Attributes
    ----------
    parts, holes
        What it is made of, lowest first, and what is cut out of it.
    seams
        Lines on it.
    print_top_mm
        Where the print's top edge lies, where the place says nothing.
    has_collar
        Whether a print is laid by its distance below the collar.
    """

    key: str
    title: str
    fabric: ClothKind
    print_top_mm: float
    parts: tuple[Path, ...]
    seams: tuple[Path, ...]
    holes: tuple[Path, ...] = ()
    has_collar: bool = False


def _box(left: float, top: float, width: float, height: float, radius: float = 0.0) -> Path:
    """A rectangle, its corners round."""
    right, bottom, k = left + width, top + height, radius * (1 - _ROUND)
    if not radius:
        return ("m", (left, top)), ("l", (right, top)), ("l", (right, bottom)), ("l", (left, bottom))
    return (
        ("m", (left + radius, top)),
        ("l", (right - radius, top)),
        ("c", (right - k, top, right, top + k, right, top + radius)),
        ("l", (right, bottom - radius)),
        ("c", (right, bottom - k, right - k, bottom, right - radius, bottom)),
        ("l", (left + radius, bottom)),
        ("c", (left + k, bottom, left, bottom - k, left, bottom - radius)),
        ("l", (left, top + radius)),
        ("c", (left, top + k, left + k, top, left + radius, top)),
    )


def _line(*points: tuple[float, float]) -> Path:
    return tuple(("m" if at == 0 else "l", point) for at, point in enumerate(points))


def _shirt(key: str = "shirt", title: str = "Shirt", collar_mm: float = 0.0) -> GarmentShape:
    """A shirt from its front, or with a collar that lies ``collar_mm`` higher from its back."""
    low = -collar_mm
    right: list[tuple[float, float]] = [(228, -52), (352, 118), (280, 176), (262, 150)]
    left = [(-x, y) for x, y in reversed(right)][1:]
    outline: Path = (
        ("m", (-88, -92)),
        ("c", (-70, min(-20, low), -40, low, 0, low)),
        ("c", (40, low, 70, min(-20, low), 88, -92)),
        *(("l", point) for point in right),
        ("c", (256, 320, 262, 520, 268, 640)),
        ("c", (150, 652, -150, 652, -268, 640)),
        ("c", (-262, 520, -256, 320, -262, 150)),
        *(("l", point) for point in left),
    )
    collar: Path = (
        ("m", (-104, -92)),
        ("c", (-84, low - 2, -46, low + 20, 0, low + 20)),
        ("c", (46, low + 20, 84, low - 2, 104, -92)),
    )
    sides: list[Path] = []
    for side in (-1, 1):
        sides.append((("m", (side * 228, -52)), ("c", (side * 214, 20, side * 232, 96, side * 262, 150))))
        sides.append(_line((side * 340, 100), (side * 268, 158)))
    hem: Path = (("m", (-266, 622)), ("c", (-150, 634, 150, 634, 266, 622)))
    return GarmentShape(
        key, title, "jersey", BELOW_COLLAR_MM, (outline,), (collar, *sides, hem), has_collar=True
    )  # fmt: skip


def _sleeve() -> GarmentShape:
    """A sleeve laid flat, from the shoulder seam to the cuff."""
    outline: Path = (
        ("m", (-120, 20)), ("c", (-60, -20, 60, -20, 120, 20)), ("l", (96, 230)), ("l", (-96, 230)),
    )  # fmt: skip
    return GarmentShape("sleeve", "Sleeve", "jersey", 50.0, (outline,), (_line((-98, 210), (98, 210)),))


def _tote() -> GarmentShape:
    parts = (
        _box(-95, -220, 25, 222), _box(70, -220, 25, 222), _box(-95, -240, 190, 60, 28), _box(-200, 0, 400, 430, 6),
    )  # fmt: skip
    seams = (_line((-200, 26), (200, 26)),)
    return GarmentShape("tote", "Tote bag", "canvas", 90.0, parts, seams, (_box(-70, -215, 140, 80, 14),))


def _tin() -> GarmentShape:
    """The lid of an enamelled tin: its rim, and the step where the lid is pressed."""
    seams = (_box(-65.5, 2.5, 131, 97, 14), _box(-60, 8, 120, 86, 10))
    return GarmentShape("tin", "Tin", "plain", 16.0, (_box(-68, 0, 136, 102, 16),), seams)


def _tag() -> GarmentShape:
    """A bag tag of canvas with its slit for the strap."""
    stitch = (_box(-28.5, 2.5, 57, 107, 5),)
    return GarmentShape(
        "tag", "Bag tag", "canvas", 20.0, (_box(-31, 0, 62, 112, 7),), stitch, (_box(-9, 6, 18, 5, 2.5),)
    )  # fmt: skip


_ALL = (
    _shirt(), _shirt("back", "Back", 62.0), _sleeve(), _tote(),
    GarmentShape("panel", "Plain cloth", "jersey", 60.0, (_box(-260, 0, 520, 700),), ()), _tin(), _tag(),
)  # fmt: skip
SHAPES = {shape.key: shape for shape in _ALL}


def shape(key: str) -> GarmentShape:
    """A shape by its key, else a shirt."""
    return SHAPES.get(key, SHAPES["shirt"])
