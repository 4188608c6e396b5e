"""What is solid and stands still is drawn once, and pictures stay the same bytes."""

import numpy as np
import pytest

from wraithon.picture import raster
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary


@pytest.fixture
def drawn(demo, player, monkeypatch):
    """Draw the player's moment live; count how often what is solid is drawn."""
    count, real = [], raster.draw_opaque

    def counted(*arguments, **named):
        count.append(1)
        return real(*arguments, **named)

    monkeypatch.setattr(raster, "draw_opaque", counted)
    renderer = RasterRenderer(TextureLibrary(demo.folder).read)

    def draw(view=demo.project.view, size=(160, 90), *, live=True, fresh=False):
        own = RasterRenderer(TextureLibrary(demo.folder).read) if fresh else renderer
        return own.draw(player.frame(), view, *size, live=live).pixels.copy()

    draw.count = count
    return draw


def test_a_moment_that_stands_still_is_drawn_twice_and_then_kept(player, drawn):
    player.seek(1.0)
    pictures = [drawn() for _ in range(6)]
    assert len(drawn.count) == 2
    for picture in pictures[1:]:
        np.testing.assert_array_equal(picture, pictures[0])


@pytest.mark.parametrize("change", ["moment", "view", "size"])
def test_whatever_moves_is_drawn_anew(player, demo, drawn, change):
    player.seek(1.0)
    for _ in range(4):
        drawn()
    named = {}
    if change == "moment":
        player.seek(1.1)
    elif change == "view":
        named["view"] = demo.project.view.evolve(distance=3.0)
    else:
        named["size"] = (200, 120)
    picture = drawn(**named)
    np.testing.assert_array_equal(picture, drawn(**named, fresh=True))


def test_a_picture_that_is_not_live_is_always_drawn(player, drawn):
    player.seek(1.0)
    for _ in range(4):
        drawn(live=False)
    assert len(drawn.count) == 4
