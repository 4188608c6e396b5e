"""The stage's ground: exact heights and kinds, what stands on it in the picture, and particles that meet it."""

import numba
import numpy as np
import pytest

from wraithon.ground.ground import SIZE, floor_of, ground
from wraithon.ground.terrain import FLAT, ground_colours, terrain_of
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.solid.blocks import blocks_of
from wraithon.project.character import Anchor
from wraithon.project.checks.finding import mended
from wraithon.project.edit import with_anchor
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.motion import Collision, Gravity, GroundCollision, Motion
from wraithon.project.project import Project, Stage, View
from wraithon.project.source import Aim, Heading, PointSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.ground import Block, OwnGround, Sky
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Only, Trigger
from wraithon.stage.player import Player

BLOCK = Block(id="b", kind="slate", place=(0.0, 0.0), size=(2.0, 2.0), height=0.5)


def test_a_stage_without_pieces_is_flat_and_of_one_kind():
    bare = terrain_of("moss", ())
    assert bare.relief is FLAT
    assert (bare.height(3, 4), bare.kind(3, 4)) == (0.0, "moss")
    assert bare.height(float("nan"), 0) == 0.0


@pytest.mark.parametrize(("x", "z", "height"), [(0.97, 0.97, 0.5), (1.05, 0, 0), (0, -1.05, 0), (-0.97, 0.5, 0.5)])
def test_a_block_is_as_high_as_it_is_within_its_sides(x, z, height):
    assert terrain_of("slate", (BLOCK,)).height(x, z) == height


def test_a_ramp_rises_from_its_near_end_to_its_far_one_the_way_it_is_turned():
    ramp = BLOCK.evolve(height=0.2, rise=1.0)
    ground_ = terrain_of("slate", (ramp,))
    assert ground_.height(0, -0.98) == pytest.approx(0.2, abs=0.02)
    assert ground_.height(0, 0.0) == pytest.approx(0.7, abs=0.02)
    assert ground_.height(0, 0.98) == pytest.approx(1.2, abs=0.02)
    turned = terrain_of("slate", (ramp.evolve(turn=90.0),))
    assert turned.height(0.98, 0) == pytest.approx(1.2, abs=0.02)  # its far end now looks along +X


def test_the_highest_counts_and_of_those_the_last():
    over = BLOCK.evolve(id="c", kind="moss", size=(1.0, 1.0), height=0.5)
    assert terrain_of("slate", (BLOCK, over)).kind(0, 0) == "moss"
    assert terrain_of("slate", (over, BLOCK)).kind(0, 0) == "slate"
    low = over.evolve(height=0.2)
    assert terrain_of("slate", (BLOCK, low)).kind(0, 0) == "slate"


def test_a_patch_is_of_its_kind_but_for_its_frayed_border():
    patch = Block(kind="puddle", place=(0, 0), size=(2, 2))
    ground_ = terrain_of("slate", (patch,))
    assert ground_.kind(0.7, 0.7) == "puddle"
    assert ground_.kind(1.1, 0) == "slate"
    assert ground_.height(0, 0) == 0
    round_ = terrain_of("slate", (patch.evolve(round=True),))
    assert (round_.kind(0.6, 0.6), round_.kind(0.95, 0.95)) == ("puddle", "slate")


def test_pieces_far_out_and_many_take_no_more_memory_than_there_is_room_for():
    far = tuple(Block(place=(x, x), size=(60, 60), height=1) for x in (-1e6, -200, 0, 200, 1e6))
    ground_ = terrain_of("slate", far)
    assert ground_.relief.heights.size <= 2048**2
    assert ground_.height(0, 0) == 1.0
    assert ground_.height(1e6, 1e6) == 0.0


def test_colours_beneath_are_those_of_what_lies_there():
    patch = Block(kind="moss", place=(0, 0), size=(2, 2))
    places = np.array([[0.3, 0, 0.3], [3.0, 0, 3.0]], np.float32)
    seen = ground_colours("slate", places, terrain_of("slate", (patch,)))
    plain = ground_colours("slate", places)
    np.testing.assert_array_equal(seen[1], plain[1])
    assert seen[0, 1] > seen[0, 0]
    assert seen[0, 1] > 2 * seen[0, 2]  # green
    np.testing.assert_allclose(ground("moss", patch=True)[..., 1].mean(), 0.055, atol=0.02)


SAND = OwnGround(id="sand", name="sand", colour=(0.3, 0.2, 0.1), gloss=0.05)


def test_a_ground_of_ones_own_has_its_number_its_name_and_its_colour():
    floor = floor_of(SAND, None)
    patch = Block(kind="sand", place=(0, 0), size=(2, 2))
    ground_ = terrain_of("slate", (patch,), (floor,))
    assert (ground_.kind(0, 0), ground_.kind(3, 3)) == ("sand", "slate")
    places = np.array([[0.3, 0, 0.3], [3.0, 0, 3.0]], np.float32)
    seen = ground_colours("slate", places, ground_)
    np.testing.assert_allclose(seen[0], SAND.colour, rtol=1e-6)
    np.testing.assert_array_equal(seen[1], ground_colours("slate", places)[1])
    whole = terrain_of("sand", (), (floor,))
    assert (whole.kind(9, 9), whole.height(9, 9)) == ("sand", 0)
    np.testing.assert_allclose(ground_colours("sand", places, whole), [SAND.colour] * 2, rtol=1e-6)
    assert terrain_of("gone", (patch.evolve(kind="gone"),)).kind(0, 0) == "plain"


def test_a_picture_repeats_over_it_and_where_it_is_clear_the_colour_shows():
    image = np.zeros((64, 64, 4), np.uint8)
    image[:32] = (0, 255, 0, 255)  # green above, clear below
    seen = floor_of(SAND.evolve(across=1.0), image).picture
    side = SIZE // 4
    np.testing.assert_allclose(seen[side // 4, 5, :3], (0, 0.2, 0), atol=1e-6)
    np.testing.assert_allclose(seen[3 * side // 4, 5, :3], SAND.colour, atol=1e-6)
    np.testing.assert_array_equal(seen[:side], seen[side : 2 * side])
    assert (seen[..., 3] == 0.05).all()
    # What does not go into four metres a whole number of times is taken for the nearest that does.
    np.testing.assert_array_equal(floor_of(SAND.evolve(across=0.9), image).picture, seen)


def test_the_picture_shows_grounds_of_ones_own_flat_and_standing_and_the_sky(demo):
    red, blue = (0.25, 0.0, 0.0), (0.0, 0.0, 0.25)
    own = OwnGround(id="own", name="own", colour=red, gloss=0.0), OwnGround(id="two", name="two", colour=blue)
    block = Block(kind="two", place=(0.0, 0.0), size=(1.2, 1.2), height=0.4)
    sky = Sky(top=(0.0, 0.3, 0.0), haze=(0.0, 0.3, 0.0))
    stage = Project().stage.evolve(ground="own", grounds=own, pieces=(block,), sky=sky)
    player = Player(Project(stage=stage), {})
    view = View(target=(0, 0.4, 0), elevation=12, distance=4)
    pixels = RasterRenderer(lambda _name: np.zeros((1, 1, 4), np.uint8)).draw(player.frame(), view, 160, 120).pixels
    for (row, column), channel in (((4, 80), 1), ((116, 80), 0), ((60, 80), 2)):
        others = [other for other in range(3) if other != channel]
        assert pixels[row, column, channel] > 1.5 * pixels[row, column, others].max(), (row, column)


def test_grounds_and_pictures_that_are_gone_are_found_and_mended():
    stage = Project().stage.evolve(
        ground="gone", pieces=(Block(id="p", kind="gone"),), grounds=(SAND.evolve(picture="lost.png"),)
    )
    project = Project(stage=stage)
    found = check(project, {}, frozenset())
    assert [finding.location for finding in found] == ["stage", 'stage, "patch"', 'ground "sand"']
    asks = Trigger(name="t", when=AtStart(), only=Only(grounds=("gone",)))
    text = [finding.message for finding in check(project.evolve(triggers=(asks,)), {})]
    assert "it never responds: the stage has no such ground" in text
    for finding in found:
        project = mended(project, finding.remedy)
    assert check(project, {}, frozenset()) == []
    assert (project.stage.ground, project.stage.pieces[0].kind, project.stage.grounds[0].picture) == (
        "plain", "plain", "",
    )  # fmt: skip


def test_blocks_are_closed_and_face_outwards():
    for piece in (BLOCK, BLOCK.evolve(round=True, turn=30.0), BLOCK.evolve(rise=0.7)):
        shape = blocks_of((piece,))
        corners = shape.points[shape.triangles].astype(float)
        across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        inside = corners.mean(axis=(0, 1)) * (1, 0.5, 1)
        assert (((corners.mean(axis=1) - inside) * across).sum(axis=1) > 0).all()
    assert blocks_of((Block(),)) is None


def test_a_block_and_a_patch_are_seen_in_the_picture_where_they_are(demo):
    library = TextureLibrary(None)
    view = demo.project.view.evolve(distance=9.0, elevation=35.0)

    def drawn(*pieces):
        project = Project(stage=Stage(pieces=pieces), view=view)
        frame = Player(project, {}).frame()
        return (
            RasterRenderer(library.read, library.pieces.read).draw(frame, view, 160, 120).pixels[..., :3].astype(int)
        )

    bare, block, patch = drawn(), drawn(BLOCK), drawn(Block(kind="moss", place=(0, 0), size=(2, 2)))
    for changed in (block, patch):
        off = np.abs(changed - bare).sum(axis=2) > 20
        _, columns = np.nonzero(off)
        assert 200 < off.sum() < 6000
        assert abs(columns.mean() - 80) < 25
    middle = patch[60:80, 70:90].mean(axis=(0, 1))
    assert middle[1] > middle[0] > middle[2]


def thrown(contact, pieces, aim=(0.0, 0.0, 0.0), **flight):
    """Let one particle go from 1.5 m above the middle of the stage."""
    layer = Layer(
        id="l", emission=Emission(bursts=(Burst(count=1),)), lifetime=Attribute.of(9), size=Attribute.of(0.01),
        source=PointSource(offset=(0.0, 1.5, 0.0), aim=Aim(heading=Heading.UP, spread=0)),
        speed=Attribute.of(0), motion=Motion(forces=(Gravity(pull=9.81),), ground=GroundCollision(contact=contact,
        **flight)),
    )  # fmt: skip
    effect = Effect(id="e", layers=(layer,), length=0.1)
    trigger = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
    player = Player(Project(effects=(effect,), triggers=(trigger,), stage=Stage(pieces=pieces)), {})
    player.advance(3.0)
    pool = player.show.pools["l"]
    return pool, pool.columns.state[:6, 0] if pool.count else None


def test_particles_come_to_rest_on_what_stands_there():
    _, flat = thrown(Collision.STICK, ())
    _, high = thrown(Collision.STICK, (BLOCK,))
    assert (flat[1], high[1]) == (0.0, 0.5)
    _, slid = thrown(Collision.SLIDE, (BLOCK,))
    assert slid[1] == 0.5
    pool, _ = thrown(Collision.DIE, (BLOCK,))
    assert pool.count == 0


def test_an_anchor_on_the_ground_lies_on_what_stands_there(demo):
    project = with_anchor(demo.project, Anchor(id="under", name="under", joint="hips", on_ground=True))
    raised = project.evolve(stage=project.stage.evolve(pieces=(BLOCK,)))
    assert Player(project, demo.characters).anchors()["under"][1, 3] == 0.0
    assert Player(raised, demo.characters).anchors()["under"][1, 3] == 0.5


def test_light_and_bloom_of_the_stage_change_the_picture_and_not_the_show(demo):
    library = TextureLibrary(None)

    def drawn(**stage):
        frame = Player(Project(stage=Stage(**stage)), {}).frame()
        draw = RasterRenderer(library.read, library.pieces.read).draw
        return draw(frame, demo.project.view, 96, 64).pixels[..., :3].astype(int)

    usual, dark, bright = drawn(), drawn(light=0.3), drawn(light=2.5)
    assert dark.sum() < usual.sum() < bright.sum()
    np.testing.assert_array_equal(drawn(light=1.0, bloom=1.0), usual)
    assert drawn(light=4.0, bloom=4.0).sum() >= drawn(light=4.0, bloom=0.0).sum()
    player = Player(demo.project, demo.characters)
    player.advance(0.5)
    performance, digest = player.compiled.performance, player.digest()
    player.adopt(demo.project.evolve(stage=demo.project.stage.evolve(light=0.5, bloom=2.0)))
    assert player.compiled.performance is performance
    assert (player.pure, player.digest()) == (True, digest)


@pytest.mark.parametrize("threads", [1, 2])
def test_a_driven_show_is_the_same_at_any_number_of_threads(demo, threads):
    held = numba.get_num_threads()
    digests = []
    try:
        for count in (threads, min(2, held)):
            numba.set_num_threads(min(count, held))
            player = Player(demo.project, demo.characters, driven=True)
            player.steer(-0.6, 1.0, fast=True)
            player.advance(1.4)
            digests.append(player.digest())
    finally:
        numba.set_num_threads(held)
    assert digests[0] == digests[1]
