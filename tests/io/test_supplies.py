"""Print areas and pattern tiles: the shipped ones, the operator's own, and bad ones."""

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from swaddon.core.errors import PlanError
from swaddon.io import print_areas
from swaddon.io.print_areas import PrintArea, SizeTable
from swaddon.io.tiles import decode_tile, read_tile, shipped_tiles


def test_a_print_just_fits_its_area():
    area = PrintArea("box", 250, 300)
    assert area.width_for(1000, 500) == 250
    assert area.width_for(500, 1000) == 150


def test_the_operators_table_takes_the_shipped_ones_place(tmp_path: Path):
    assert len(print_areas.shipped_table().areas) >= 6
    areas = (PrintArea('My "own"', 111.5, 222, "back", "youth"), PrintArea("Back\\yoke\x7f", 300, 100))
    mine = SizeTable(areas, (("youth", ("4", 'Y"S')), ("adult", ("M",)), ("oversize", ())))
    print_areas.write_table(tmp_path / print_areas.FILE, mine)
    assert print_areas.read_table(tmp_path / print_areas.FILE) == mine
    (tmp_path / print_areas.FILE).write_text("schema = 'x'")
    with pytest.raises(PlanError, match="cannot be read"):
        print_areas.read_table(tmp_path / print_areas.FILE)


def test_a_table_of_before_there_were_lines_gets_the_shipped_sizes(tmp_path: Path):
    old = 'schema = "swaddon-print-areas/1"\n[[areas]]\nname = "Apron"\nwidth_mm = 200\nheight_mm = 250\n'
    (tmp_path / print_areas.FILE).write_text(old)
    table = print_areas.read_table(tmp_path / print_areas.FILE)
    assert table.areas == (PrintArea("Apron", 200, 250),)
    assert table.fit_of("3XL") == "oversize"
    assert table.size_named("one SIZE") == "one size"
    assert table.area_for("front", "adult") is None


def test_shipped_tiles_repeat_at_their_edges():
    for tile in shipped_tiles().values():
        inner = np.abs(np.diff(tile.grey.astype(int), axis=0)).mean()
        seam = np.abs(tile.grey[0].astype(int) - tile.grey[-1]).mean()
        assert seam <= 4 * inner + 4, tile.name
        assert 0.2 < tile.white_share < 0.95


def png(array: np.ndarray) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(array).save(buffer, "PNG")
    return buffer.getvalue()


def test_a_tile_of_ones_own_is_read_black_on_white(tmp_path: Path):
    art = np.zeros((40, 60, 4), np.uint8)
    art[:20] = (0, 0, 0, 255)
    (tmp_path / "mine.png").write_bytes(png(art))
    tile, data = read_tile(tmp_path / "mine.png")
    assert tile.name == "mine"
    assert tile.white_share == pytest.approx(0.5)
    assert decode_tile(data, "mine") == tile


@pytest.mark.parametrize(
    ("data", "says"),
    [(b"no picture", "not a readable PNG"), (png(np.full((9, 9), 255, np.uint8)), "nearly all one colour")],
)
def test_a_bad_tile_gets_one_sentence(tmp_path: Path, data, says):
    (tmp_path / "bad.png").write_bytes(data)
    with pytest.raises(PlanError, match=says):
        read_tile(tmp_path / "bad.png")
