"""More of the character beside her: each as the show is, elsewhere, and none of it in the show."""

from __future__ import annotations

import numpy as np
import pytest

from wraithon.picture.raster import RasterRenderer
from wraithon.picture.renderer import Buffers
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.solid.solids import Shapes, solids_of
from wraithon.project.project import Project
from wraithon.stage.player import Player
from wraithon.studio.crowd import MANY, ROW, Crowd


@pytest.fixture
def both(demo):
    """A player in the midst of the strike, and its crowd."""
    player = Player(demo.project, demo.characters)
    player.seek(3.0)
    crowd = Crowd()
    crowd.call(player.show, MANY)
    return player, crowd


def shows(crowd, player):
    crowd.frame(player.frame(), player.show)
    return crowd._shows


def test_each_is_as_the_show_is_but_stands_elsewhere(both):
    player, crowd = both
    alone, frame = player.frame(), crowd.frame(player.frame(), player.show)
    away = [other.positions - alone.body.positions for other in frame.others]
    for by in away:
        np.testing.assert_allclose(by, by[:1] * np.ones_like(by), atol=1e-5)
    stands = np.array([by[0] for by in away])
    assert (stands[:, 2] < -1).all()  # behind her
    assert len({tuple(by) for by in np.round(stands, 3).tolist()}) == MANY
    across = np.sort(stands[:ROW, 0])
    np.testing.assert_allclose(across, -across[::-1], atol=1e-5)
    many = len(alone.batches)
    assert len(frame.batches) == (1 + MANY) * many
    for number, by in enumerate(stands, 1):
        for mine, theirs in zip(alone.batches, frame.batches[number * many :], strict=False):
            np.testing.assert_array_equal(mine.identities, theirs.identities)
            np.testing.assert_allclose(theirs.reach().positions, mine.reach().positions + by, atol=1e-4)
    assert crowd.alive == MANY * player.show.alive


def test_they_go_along_step_by_step_and_the_show_does_not_hear_of_it(demo, both):
    player, crowd = both
    for _ in range(20):
        player.step()
        crowd.advance_with(player.show)
    alone = Player(demo.project, demo.characters)
    alone.seek(player.time)
    assert player.digest() == alone.digest()
    assert {show.digest() for show in shows(crowd, player)} == {alone.digest()}


def test_after_a_seek_an_edit_or_a_shot_by_hand_they_are_where_the_show_is(demo, both):
    player, crowd = both

    def together():
        return {show.digest() for show in shows(crowd, player)} == {player.digest()}

    assert together()
    player.seek(1.0)
    assert together()
    player.fire(player.compiled.effect("thunder-stamp"), None)
    for _ in range(2):
        player.step()
        crowd.advance_with(player.show)
        assert together()
    player.adopt(demo.project.evolve(seed=demo.project.seed + 1))
    player.step()
    crowd.advance_with(player.show)
    assert together()


def test_sent_away_or_with_nobody_to_be_there_are_none(both):
    player, crowd = both
    crowd.call(player.show, 0)
    frame = player.frame()
    assert crowd.frame(frame, player.show) is frame
    assert crowd.alive == 0
    nobody = Player(Project(), {})
    crowd.call(nobody.show, MANY)
    assert crowd.frame(nobody.frame(), nobody.show).others == ()


def test_all_of_them_are_drawn(both):
    player, crowd = both
    frame = crowd.frame(player.frame(), player.show)
    solids, one = (solids_of(each, Shapes(None), Buffers()) for each in (frame, player.frame()))
    own, mesh = len(frame.body.positions), len(frame.body.character.mesh.triangles)
    for number, body in enumerate((frame.body, *frame.others)):
        part = slice(number * own, (number + 1) * own)
        np.testing.assert_array_equal(solids.body.positions[part], body.positions)
        faces = solids.body.triangles[number * mesh : (number + 1) * mesh]
        np.testing.assert_array_equal(faces, one.body.triangles[:mesh] + number * own)
    assert solids.body.triangles.max() < len(solids.body.positions)
    library = TextureLibrary(None)
    renderer = RasterRenderer(library.read, library.pieces.read)
    view = player.project.view.evolve(distance=9.0)
    few, more = (renderer.draw(each, view, 240, 160).pixels.astype(int) for each in (player.frame(), frame))
    assert (np.abs(few - more).max(axis=-1) > 8).mean() > 0.1


def test_of_one_who_is_driven_all_do_the_same_and_go_on_alone_afterwards(demo):
    player = Player(demo.project, demo.characters, driven=True)
    crowd = Crowd()
    crowd.call(player.show, MANY)
    player.steer(0, 1, fast=True)
    for _ in range(90):
        player.step()
        crowd.advance_with(player.show)
    alone, frame = player.frame(), crowd.frame(player.frame(), player.show)
    assert len(alone.batches) >= 1
    assert len(frame.batches) == (1 + MANY) * len(alone.batches)
    assert crowd.alive == MANY * player.show.alive
    for other in frame.others:
        away = other.positions - alone.body.positions
        np.testing.assert_allclose(away, away[:1] * np.ones_like(away), atol=1e-5)
    player.drive(driven=False)
    player.step()
    crowd.advance_with(player.show)
    assert {show.digest() for show in shows(crowd, player)} == {player.digest()}
    assert crowd.alive == MANY * player.show.alive
