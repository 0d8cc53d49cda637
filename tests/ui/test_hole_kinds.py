"""Going from dots to lines, to a tile, to solid and back: what was chosen is found again."""

from dataclasses import replace

from swaddon.core.holes.held import usual_screen
from swaddon.io import profiles
from swaddon.ui.stations.holes.model import Kinds

FILM = profiles.shipped("film")
TILES = ("grit", "stripe")
DOTS = usual_screen(FILM)


def test_lines_and_back_restores_the_angle_and_the_ruling():
    for start in (DOTS, replace(DOTS, angle=72.0), replace(DOTS, angle=15.0, lpi=22.0)):
        kinds = Kinds()
        lines = kinds.chosen(start, "line", FILM, TILES)
        assert lines is not None
        assert kinds.chosen(lines, "round", FILM, TILES) == start
    assert Kinds().chosen(DOTS, "line", FILM, TILES) == usual_screen(FILM, "line")


def test_what_was_changed_goes_along():
    kinds = Kinds()
    start = replace(DOTS, share=0.7, lpi=30.0)
    lines = kinds.chosen(start, "line", FILM, TILES)
    assert (lines.share, lines.lpi, lines.angle) == (0.7, 30.0, 72.0)
    turned = replace(lines, angle=10.0)
    back = kinds.chosen(turned, "round", FILM, TILES)
    assert back == replace(start, angle=10.0), "an angle turned on the lines was meant"


def test_solid_and_a_tile_keep_what_stood_before():
    kinds = Kinds()
    start = replace(DOTS, share=0.6, angle=15.0)
    assert kinds.chosen(start, "solid", FILM, TILES) is None
    assert kinds.chosen(None, "round", FILM, TILES) == start
    tile = kinds.chosen(start, "tile", FILM, TILES)
    assert (tile.tile, tile.share, tile.angle) == ("grit", None, 15.0), "a tile starts as it is drawn"
    own = replace(tile, tile="stripe", share=0.9, tile_mm=12.0)
    again = kinds.chosen(own, "round", FILM, TILES)
    assert (again.pattern, again.share, again.lpi, again.angle) == ("round", 0.6, 35.0, 15.0)
    assert kinds.chosen(again, "tile", FILM, TILES) == own
