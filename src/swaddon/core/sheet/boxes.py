"""Prints laid by the boxes round them, with a packing library: the bound that laying by shape is held to.

Maximal rectangles, bottom left (J. Jylänki, "A Thousand Ways to Pack the Bin", 2010), and skylines for a first answer.
"""

from collections.abc import Iterator, Sequence

from swaddon.core.sheet.layout import LONGEST_MM, Area, Layout, Placed, Rules, layout_of, spacing_px
from swaddon.core.sheet.prints import Outline
from swaddon.core.units import MM_PER_INCH

_FEW = 160
"""Up to so many prints every sort is tried with maximal rectangles."""


def quick_boxes(outlines: Sequence[Outline], pieces: Sequence[int], area: Area, rules: Rules) -> Layout:
    """A first layout by boxes, in well under a second for hundreds of prints."""
    import rectpack

    return _packed(outlines, pieces, area, rules, rectpack.SkylineBl, rectpack.SORT_LSIDE)


def all_boxes(outlines: Sequence[Outline], pieces: Sequence[int], area: Area, rules: Rules) -> Iterator[Layout]:
    """Layouts by boxes in several orders; the best of them is what boxes can do."""
    import rectpack

    sorts = [rectpack.SORT_LSIDE, rectpack.SORT_AREA, rectpack.SORT_SSIDE, rectpack.SORT_PERI, _by_height]
    for sort in sorts:
        yield _packed(outlines, pieces, area, rules, rectpack.SkylineBl, sort)
    for sort in sorts if len(pieces) <= _FEW else sorts[:1]:
        yield _packed(outlines, pieces, area, rules, rectpack.MaxRectsBl, sort)


def best_boxes(outlines: Sequence[Outline], pieces: Sequence[int], area: Area, rules: Rules) -> Layout:
    """The best layout by boxes."""
    return min(all_boxes(outlines, pieces, area, rules), key=lambda layout: layout.goal)


def _by_height(boxes: list[tuple[int, int, int]]) -> list[tuple[int, int, int]]:
    return sorted(boxes, key=lambda box: (-box[1], -box[0]))


def _packed(
    outlines: Sequence[Outline],
    pieces: Sequence[int],
    area: Area,
    rules: Rules,
    algorithm: object,
    sort: object,
) -> Layout:
    import rectpack

    gap = spacing_px(rules, area.ppi)
    packer = rectpack.newPacker(rectpack.PackingMode.Offline, rectpack.PackingBin.BFF, algorithm, sort, rules.turns)
    for index, piece in enumerate(pieces):
        width, height = outlines[piece].size_px()
        packer.add_rect(width + gap, height + gap, rid=index)
    high = area.height_px or round(LONGEST_MM * 10 * area.ppi / MM_PER_INCH)
    packer.add_bin(area.width_px + gap, high + gap, count=len(pieces) if area.height_px else 1)
    packer.pack()
    placed = []
    for sheet, x, y, width, height, index in packer.rect_list():
        own = outlines[pieces[index]].size_px()
        turn = 0 if (width - gap, height - gap) == own else 90
        placed.append(Placed(index, sheet, x, y, 90 if turn else 0))
    return layout_of(outlines, pieces, placed, "box")
