"""Pieces: shapes, how they are turned, their colours, shadows and files."""

import re
from dataclasses import replace

import numpy as np
import pytest

from tests.pools import PLAIN, born
from wraithon.particles import columns as k
from wraithon.particles.looks import batch_of
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.renderer import Buffers
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.solid.mesh_library import MeshLibrary
from wraithon.picture.solid.shapes import FEW, lesser, shipped_shape
from wraithon.picture.solid.solids import Shapes, solids_of
from wraithon.picture.thinning import clustered
from wraithon.project.effect import Layer
from wraithon.project.life import Attribute, Tint
from wraithon.project.look import SHAPES, MeshLook, Orientation
from wraithon.project.project import View
from wraithon.project.source import PointSource
from wraithon.stage.frame import Frame, frame_of
from wraithon.stage.player import Player
from wraithon.support.errors import RenderError

VIEW = View(target=(0, 0.5, 0), azimuth=0, elevation=15, distance=4, follow=False)


def pieces(count=1, *, positions=None, size=0.5, colour=(1, 0.5, 0.25), turn=0.0, **look):
    layer = Layer(
        source=PointSource(), look=MeshLook(**look), size=Attribute.of(size), turn=Attribute.of(turn),
        colour=Tint(first=colour, second=colour), **PLAIN,
    )  # fmt: skip
    pool, program = born(layer, count)
    if positions is not None:
        pool.columns.state[k.PX : k.PZ + 1, :count] = np.asarray(positions, np.float32).reshape(-1, 3).T
    return batch_of(pool, program)


def frame(*batches, body=None):
    return Frame(0.0, body, (0.0, 0.0, 0.0), tuple(batches), "plain", 1.0)


def drawn(*batches, shapes=None, **more):
    return (
        RasterRenderer(TextureLibrary(None).read, shapes)
        .draw(frame(*batches), VIEW, 160, 120, **more)
        .pixels[..., :3]
    )


@pytest.mark.parametrize("name", SHAPES)
def test_a_shape_is_a_metre_long_around_its_middle_and_faces_outward(name):
    shape = shipped_shape(name)
    low, high = shape.points.min(axis=0), shape.points.max(axis=0)
    assert (high - low).max() == pytest.approx(1, abs=1e-5)
    np.testing.assert_allclose(low + high, 0, atol=0.02)
    np.testing.assert_allclose(np.linalg.norm(shape.normals, axis=1), 1, atol=1e-5)
    a, b, c = (shape.points[shape.triangles[:, n]] for n in range(3))
    assert (np.linalg.norm(np.cross(b - a, c - a), axis=1) > 1e-7).all()
    if (shape.sides == 1).all():  # closed: as seen from outside
        assert np.einsum("ij,ij->i", a, np.cross(b, c)).sum() > 0
    assert len(shape.triangles) <= 100


def test_there_is_no_other_shape():
    assert shipped_shape("nothing") is None


def test_pieces_are_their_shape_turned_sized_and_placed():
    batch = pieces(5, positions=np.random.default_rng(1).normal(size=(5, 3)), shapes=("cube", "shard"))
    solids = solids_of(frame(batch), Shapes(None), Buffers())
    at, begun = 1, 1  # nobody stands there: one point, one triangle
    for number, name in enumerate(("cube", "shard")):
        shape = shipped_shape(name)
        for row in np.flatnonzero(batch.shapes == number):
            many = len(shape.points)
            wanted = batch.positions[row] + (shape.points * batch.sizes[row]) @ batch.turns[row].T
            np.testing.assert_allclose(solids.body.positions[at : at + many], wanted, atol=1e-5)
            normals = solids.body.normals[at : at + many]
            np.testing.assert_allclose(normals, shape.normals @ batch.turns[row].T, atol=1e-5)
            faces = solids.body.triangles[begun : begun + len(shape.triangles)]
            np.testing.assert_array_equal(faces, shape.triangles + at)
            at, begun = at + many, begun + len(shape.triangles)
    assert at == len(solids.body.positions)


@pytest.mark.parametrize("orientation", Orientation)
def test_turns_are_rotations(orientation):
    turns = pieces(200, orientation=orientation, turn=40).turns.astype(float)
    np.testing.assert_allclose(turns @ np.swapaxes(turns, 1, 2), np.tile(np.eye(3), (200, 1, 1)), atol=1e-5)
    np.testing.assert_allclose(np.linalg.det(turns), 1, atol=1e-5)


def test_pieces_lie_anyhow():
    """No way is likelier than another: each axis points evenly to all sides."""
    turns = pieces(2000, orientation=Orientation.FIXED).turns
    for axis in range(3):
        way = turns[:, :, axis]
        assert np.abs(way.mean(axis=0)).max() < 0.045
        np.testing.assert_allclose((way[:, :, None] * way[:, None]).mean(axis=0), np.eye(3) / 3, atol=0.02)


def test_what_tumbles_turns_about_an_axis_of_its_own_by_its_turn():
    still, turned = (pieces(50, turn=degrees).turns.astype(float) for degrees in (0, 90))
    between = turned @ np.swapaxes(still, 1, 2)
    np.testing.assert_allclose(np.trace(between, axis1=1, axis2=2), 1 + 2 * np.cos(np.pi / 2), atol=1e-4)
    np.testing.assert_array_equal(*(pieces(50, turn=t, orientation=Orientation.FIXED).turns for t in (0, 90)))


def test_pieces_stand_along_their_velocity():
    layer = Layer(source=PointSource(), look=MeshLook(orientation=Orientation.VELOCITY), **PLAIN)
    pool, program = born(layer, 3)
    ways = np.array([(1, 0, 0), (0, -2, 0), (0.3, 0.4, 1.2)], np.float32)
    pool.columns.state[k.VX : k.VZ + 1, :3] = ways.T
    turns = batch_of(pool, program).turns
    np.testing.assert_allclose(turns[:, :, 1], ways / np.linalg.norm(ways, axis=1, keepdims=True), atol=1e-5)


def test_each_shape_is_as_likely_as_another():
    found = np.bincount(pieces(1900, shapes=SHAPES).shapes, minlength=len(SHAPES))
    assert np.abs(found / 1900 - 1 / len(SHAPES)).max() < 0.02


def test_a_piece_shows_in_its_colour_and_throws_a_shadow():
    position = [(0, 0.8, 0)]
    plain, shown = drawn().astype(int), drawn(pieces(positions=position, shapes=("ball",))).astype(int)
    ball = shown[40:52, 74:86].reshape(-1, 3).mean(axis=0)
    assert ball[0] > ball[1] > ball[2]
    darker = (plain - shown).sum(axis=2) > 25
    assert darker[70:].sum() > 20  # on the ground
    alone = drawn(pieces(positions=position, shapes=("ball",), shadow=False)).astype(int)
    assert ((plain - alone).sum(axis=2) > 25)[70:].sum() == 0
    assert np.abs(alone - shown)[:60].max() <= 1


def test_pieces_that_glow_or_are_not_lit_shine_by_themselves():
    position, ball = [(0, 0.8, 0)], ("ball",)
    lit, glowing, alone = (
        drawn(pieces(positions=position, shapes=ball, colour=(0.2, 0.1, 0.3), **more))
        .astype(int)[44:50, 77:83]
        .mean(axis=(0, 1))
        for more in ({}, {"glow": 1.0}, {"lit": False})
    )
    np.testing.assert_array_equal(glowing, alone)
    assert np.abs(glowing - lit).max() > 5


def test_pieces_hide_each_other_and_the_same_bytes_come_again():
    near, far = (
        pieces(positions=[(0, 0.5, 1)], shapes=("cube",)),
        pieces(positions=[(0, 0.5, -1)], colour=(0, 0, 1), shapes=("cube",)),
    )
    np.testing.assert_array_equal(drawn(near, far), drawn(far, near))
    many = pieces(300, positions=np.random.default_rng(0).normal(size=(300, 3)), size=0.1, shapes=SHAPES)
    np.testing.assert_array_equal(drawn(many), drawn(many))


def test_a_picture_does_not_hang_on_which_pieces_were_drawn_before(demo):
    body = frame_of(Player(demo.project, demo.characters).show).body
    renderer = RasterRenderer(TextureLibrary(None).read)
    sets = [(), SHAPES[:1], SHAPES[2:4], SHAPES[1:3], SHAPES, SHAPES[:1], ()]
    for shapes in sets:
        shown = frame(*([pieces(4, positions=[(x, 0.5, 1) for x in (-1, 0, 1, 2)], shapes=shapes)] if shapes else []))
        shown = replace(shown, body=body)
        again = RasterRenderer(TextureLibrary(None).read).draw(shown, VIEW, 160, 120)
        np.testing.assert_array_equal(renderer.draw(shown, VIEW, 160, 120).pixels, again.pixels)


def test_those_that_cannot_be_seen_are_left_out():
    assert len(pieces(3, size=0).sizes) == 0
    assert len(pieces(3, shapes=()).sizes) == 0
    assert len(pieces(2, positions=[(np.nan, 0, 0), (0, 1, 0)]).sizes) == 1
    np.testing.assert_array_equal(drawn(pieces(3, size=0)), drawn())


def test_a_figure_of_the_skin_leaves_pieces_as_they_are(demo, halcyon):
    player = Player(demo.project, demo.characters)
    body = frame_of(player.show).body
    heat = np.linspace(0, 1, len(body.positions)).astype(np.float32)
    solids = solids_of(frame(pieces(), body=replace(body, heat=heat)), Shapes(None), Buffers())
    many = len(shipped_shape("shard").points)
    assert (solids.body.heat[-many:] == -1).all()
    np.testing.assert_array_equal(solids.body.heat[:-many], heat)
    assert len(solids.body.dissolving) == len(solids.body.triangles)


# ---- files ----------------------------------------------------------------------------------------


@pytest.fixture
def rock(tmp_path, demo):
    """Return a folder of pieces with a file in it: the demo's own character, which is one piece as good as any."""
    (tmp_path / "pieces").mkdir()
    source = next(p for p in demo.folder.rglob("*.glb"))
    (tmp_path / "pieces" / "rock.glb").write_bytes(source.read_bytes())
    return tmp_path


def test_a_file_is_a_shape_in_its_own_materials(rock, halcyon):
    library = MeshLibrary(rock)
    assert library.names() == [*SHAPES, "rock.glb"]
    shape = library.read("rock.glb")
    assert len(shape.triangles) == len(halcyon.mesh.triangles)
    assert (shape.points.max(axis=0) - shape.points.min(axis=0)).max() == pytest.approx(1, abs=1e-5)
    picture = drawn(pieces(positions=[(0, 0.7, 0)], size=1.2, shapes=("rock.glb",)), shapes=library.read)
    assert np.abs(picture.astype(int) - drawn()).max() > 40
    assert library.read("cube") is shipped_shape("cube")


GONE = "there is no such mesh in the project; pick another"


@pytest.mark.parametrize(
    ("name", "text"), [("gone.glb", GONE), ("../pieces/rock.glb", GONE), ("bad.glb", "cannot be a mesh of a look (")]
)
def test_what_cannot_be_a_piece_is_told_and_drawn_as_a_shard(rock, name, text):
    (rock / "pieces" / "bad.glb").write_bytes(b"glTF nonsense")
    library = MeshLibrary(rock)
    with pytest.raises(RenderError, match=f"^{re.escape(f'{name}: {text}')}"):
        library.read(name)
    renderer = RasterRenderer(TextureLibrary(None).read, library.read)
    batch = pieces(positions=[(0, 0.8, 0)], shapes=(name,))
    picture = renderer.draw(frame(batch), VIEW, 160, 120).pixels[..., :3]
    assert name in renderer.problems
    np.testing.assert_array_equal(picture, drawn(pieces(positions=[(0, 0.8, 0)], shapes=("shard",))))
    renderer.look_again()
    assert name not in renderer.problems


def test_the_users_own_pieces_are_kept_and_found_again(rock):
    library = MeshLibrary(None)
    assert library.keep(rock / "pieces" / "rock.glb") == "rock.glb"
    assert library.keep(rock / "pieces" / "rock.glb") == "rock.glb"
    assert library.names() == [*SHAPES, "rock.glb"]
    bad = rock / "bad.glb"
    bad.write_bytes(b"")
    with pytest.raises(RenderError):
        library.keep(bad)


# ---- small pieces ---------------------------------------------------------------------------------


def test_corners_that_are_near_each_other_become_one():
    points = np.array([(0, 0, 0), (0.1, 0, 0), (9, 0, 0), (9, 9, 0), (9, 9, 0.2)], np.float32)
    triangles = np.array([(0, 2, 3), (1, 2, 4), (0, 1, 2), (2, 3, 4)], np.int32)
    corners, kept = clustered(points, triangles, np.array([0, 0, 0, 0]), 3)
    assert corners.tolist() == [[0, 2, 3], [0, 2, 3], [0, 0, 2], [2, 3, 3]]
    assert kept.tolist() == [True, True, False, False]
    # Nothing is joined over the border of a part.
    parted, kept = clustered(points, np.array([(0, 2, 3), (1, 4, 4)], np.int32), np.array([0, 1]), 3)
    assert parted.tolist() == [[0, 2, 3], [1, 4, 4]]
    none, kept = clustered(points, np.zeros((0, 3), np.int32), np.zeros(0, np.int32), 3)
    assert (len(none), len(kept)) == (0, 0)


@pytest.mark.parametrize("name", SHAPES)
def test_a_plainer_shape_keeps_its_extent_and_never_has_more(name):
    shape = shipped_shape(name)
    plain = lesser(shape)
    count = len(shape.triangles)
    assert (len(plain.triangles) < count) if count > FEW else (plain is shape)
    assert len(plain.sides) == len(plain.triangles) == len(plain.tables.part_material)
    for used in (shape, plain):
        corners = used.points[np.unique(used.triangles)]
        assert (np.ptp(corners, axis=0) > 0.5 * np.ptp(shape.points, axis=0)).all()
