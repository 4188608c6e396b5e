"""Births that read where they happen: distance from the anchor, the skin's colour, a picture; and warmed up."""

import numpy as np
import pytest

from tests.bodies import body
from tests.pools import DT, HOME, PLAIN, born, positions
from wraithon.character.measures import skin_colours
from wraithon.character.model import Material
from wraithon.character.sampling import sampler_of
from wraithon.ground.ground import METRES, SIZE, ground
from wraithon.ground.terrain import ground_colours
from wraithon.numeric.srgb import linear_light
from wraithon.particles import columns as k
from wraithon.particles.looks.batch import drawn_of
from wraithon.particles.pool import Line, Pool
from wraithon.particles.program import BirthImages, compile_layer
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, By, Range, Tint, WeightedChoice
from wraithon.project.look import RibbonLook, Through
from wraithon.project.motion import Curl, Drag, Gravity, Motion
from wraithon.project.source import (
    Aim,
    Heading,
    PictureSource,
    PointSource,
    Riding,
    SkinSource,
    SphereSource,
)
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player
from wraithon.stage.sampler_cache import SIDE, SamplerCache

MANY = 500
AIR = TickContext.empty()
BALL = SphereSource(radius=2.0)


def far(low, high, reach=1.0, **more):
    return Attribute(birth=Range.of(low, high), by=By.DISTANCE, far=reach, **more)


# ---- by distance ----------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["size", "opacity", "intensity", "stretch"])
def test_what_is_drawn_grows_with_the_distance_from_the_anchor(name):
    layer = Layer(source=BALL, emission=Emission(limit=MANY), **PLAIN, **{name: far(0.2, 0.9, 1.5)})
    pool, program = born(layer, MANY)
    drawn = drawn_of(pool, program)
    found = {
        "size": drawn.sizes, "opacity": drawn.colours[:, 3], "intensity": drawn.colours[:, 0],
        "stretch": drawn.stretches,
    }[name]  # fmt: skip
    share = np.minimum(np.linalg.norm(positions(pool), axis=1) / 1.5, 1)
    np.testing.assert_allclose(found, 0.2 + 0.7 * share, atol=1e-5)


def test_lifetime_and_speed_read_it_too_and_it_stays_as_it_was_at_birth():
    layer = Layer(
        source=BALL, emission=Emission(limit=MANY), lifetime=far(1, 3), speed=far(0, 4, 2.0), size=far(0.1, 1)
    )
    pool, program = born(layer, MANY, emission_offsets=np.zeros(MANY, np.float32))
    off = np.linalg.norm(positions(pool), axis=1)
    np.testing.assert_allclose(pool.columns.state[k.LIFETIME, :MANY], 1 + 2 * np.minimum(off, 1), atol=1e-5)
    speeds = np.linalg.norm(pool.columns.state[k.VX : k.VZ + 1, :MANY], axis=0)
    np.testing.assert_allclose(speeds, 4 * np.minimum(off / 2, 1), atol=1e-4)
    before = drawn_of(pool, program).sizes.copy()
    pool.step(program, DT, 0.0, AIR)
    np.testing.assert_array_equal(drawn_of(pool, program).sizes, before)


def test_of_several_values_the_first_is_near_and_the_last_far():
    values = (WeightedChoice(value=1), WeightedChoice(value=2), WeightedChoice(value=3, weight=2))
    pool, program = born(
        Layer(source=BALL, emission=Emission(limit=MANY), **PLAIN, size=far(0, 0, 2, choices=values)), MANY
    )
    share = np.minimum(np.linalg.norm(positions(pool), axis=1) / 2, 0.9999)
    sizes = drawn_of(pool, program).sizes
    clear = np.abs(share[:, None] - (0.25, 0.5)).min(axis=1) > 0.01
    wanted = np.where(share < 0.25, 1, np.where(share < 0.5, 2, 3))
    np.testing.assert_array_equal(sizes[clear], wanted[clear])


def test_the_anchor_is_where_it_is_at_the_moment_of_birth():
    moved = HOME.copy()
    moved[:3, 3] = (60 * DT, 0, 0)
    layer = Layer(source=PointSource(), emission=Emission(limit=9), **PLAIN, size=far(0.5, 9))
    pool, program = born(layer, 9, anchors=(HOME, moved))
    np.testing.assert_allclose(drawn_of(pool, program).sizes, 0.5, atol=1e-4)


def test_where_nothing_asks_for_it_nothing_is_measured_and_digests_stay():
    plain, program = born(Layer(source=BALL, emission=Emission(limit=MANY), **PLAIN), MANY)
    assert not program.birth.measured
    assert (plain.columns.state[k.FAR, :MANY] == 0).all()
    asked, program = born(Layer(source=BALL, emission=Emission(limit=MANY), **PLAIN, size=far(0, 1)), MANY)
    assert program.birth.measured
    assert (asked.columns.state[k.FAR, :MANY] > 0).all()
    np.testing.assert_array_equal(plain.columns.state[: k.FAR, :MANY], asked.columns.state[: k.FAR, :MANY])


# ---- the skin's colour ----------------------------------------------------------------------------


def painted():
    """Return a square of skin, red on its left and dim blue on its right."""
    texture = np.zeros((2, 2, 4), np.uint8)
    texture[:, 0], texture[:, 1] = (255, 0, 0, 255), (0, 0, 188, 255)
    points = [(x, 1, z) for x in (0, 1, 2, 3) for z in (0, 1)]
    triangles = [(a, a + 1, a + 3) for a in (0, 4)] + [(a, a + 3, a + 2) for a in (0, 4)]
    uvs = [(0.25, 0.5)] * 4 + [(0.75, 0.5)] * 4
    plain = body(points, triangles, uvs=uvs)
    material = Material("painted", colour=(1.0, 0.5, 1.0, 1.0), texture=texture)
    return type(plain)(plain.name, plain.parts, plain.mesh, plain.skeleton, plain.clips, (material,))


def test_the_colours_of_skin_are_its_materials_times_its_pictures_in_linear_light():
    blue = linear_light(np.array([188], np.uint8))[0]
    assert blue == pytest.approx(0.5029, abs=1e-3)
    np.testing.assert_allclose(skin_colours(painted()), [[1, 0, 0]] * 4 + [[0, 0, blue]] * 4, atol=1e-6)


@pytest.mark.parametrize("share", [0.0, 0.5, 1.0])
def test_what_is_born_on_skin_takes_its_colour_by_a_share(share):
    character, source = painted(), SkinSource()
    layer = Layer(
        source=source, emission=Emission(limit=MANY), intensity=Attribute.of(1),
        colour=Tint(first=(1, 1, 1), second=(1, 1, 1), beneath=share), **PLAIN,
    )  # fmt: skip
    sampler = sampler_of(character, source)
    program = compile_layer(layer, "e", 1, sampler, seen=BirthImages(skin=skin_colours(character)))
    mesh = character.mesh
    around = AIR._replace(
        skin_before=mesh.positions, skin_now=mesh.positions, skin_midpoint=mesh.positions, triangles=mesh.triangles,
        normal_before=mesh.normals, normal_now=mesh.normals,
    )  # fmt: skip
    pool, home = Pool(), AnchorPlaces.of(HOME, HOME)
    for start in range(0, MANY, 100):  # those born later take theirs, and leave others' alone
        pool.emit(program, Line(np.uint64(3), start, 0), np.zeros(100, np.float32), DT, around, home)
    left = positions(pool)[:, 0] < 1.5
    blue = linear_light(np.array([188], np.uint8))[0]
    beneath = np.where(left[:, None], (1, 0, 0), (0, 0, blue))
    np.testing.assert_allclose(drawn_of(pool, program).colours[:, :3], 1 + share * (beneath - 1), atol=1e-5)


@pytest.mark.parametrize("kind", ["slate", "plain"])
def test_what_is_not_born_on_skin_takes_the_colour_of_the_ground_below(kind):
    layer = Layer(
        source=SphereSource(radius=3.0), emission=Emission(limit=MANY), intensity=Attribute.of(1),
        colour=Tint(first=(1, 1, 1), second=(1, 1, 1), beneath=0.5), **PLAIN,
    )  # fmt: skip
    program = compile_layer(layer, "e", 1, None, seen=BirthImages(ground=kind))
    pool = Pool()
    pool.emit(program, Line(np.uint64(3), 0, 0), np.zeros(MANY, np.float32), DT, AIR, AnchorPlaces.of(HOME, HOME))
    x, _, z = positions(pool).T
    squares = ground(kind)
    below = squares[(z / METRES % 1 * SIZE).astype(int) % SIZE, (x / METRES % 1 * SIZE).astype(int) % SIZE, :3]
    np.testing.assert_allclose(drawn_of(pool, program).colours[:, :3], 0.5 + 0.5 * below, atol=1e-5)
    assert np.ptp(below, axis=0).min() > 0.01


def test_the_ground_repeats_and_another_ground_makes_another_program(demo):
    spots = np.array([[0.3, 0, -0.7], [0.3 + METRES, 5, -0.7 - 2 * METRES], [0, 0, 0]])
    colours = ground_colours("slate", spots)
    np.testing.assert_array_equal(colours[0], colours[1])
    player = fired(demo, steady(colour=Tint(beneath=1.0)), seconds=0.5)
    before = player.show.digest()
    player.adopt(player.compiled.project.evolve(stage=player.compiled.project.stage.evolve(ground="moss")), {})
    player.seek(0.5)
    assert player.show.digest() != before


# ---- pictures -------------------------------------------------------------------------------------


def pictured(cells, many=4000, at=HOME, **more):
    layer = Layer(source=PictureSource(size=(2.0, 1.0), **more), emission=Emission(limit=many), **PLAIN)
    program = compile_layer(layer, "e", 1, None, seen=BirthImages(picture=np.asarray(cells, float)))
    pool = Pool()
    leads = np.zeros(many, np.float32)
    pool.emit(program, Line(np.uint64(3), 0, 0), leads, DT, AIR, AnchorPlaces.of(at, at))
    return pool


def test_births_fall_as_bright_as_the_cells_are_with_the_first_row_on_top():
    cells = [[0, 1, 3], [0, 0, 4]]
    pool = pictured(cells)
    x, y, z = positions(pool).T
    assert np.abs(z).max() == 0
    columns, rows = np.floor((x / 2 + 0.5) * 3).astype(int), np.floor((0.5 - y) * 2).astype(int)
    shares = np.zeros((2, 3))
    np.add.at(shares, (rows, columns), 1 / pool.count)
    np.testing.assert_allclose(shares, np.array(cells) / 8, atol=0.025)
    assert (shares[np.array(cells) == 0] == 0).all()
    within = (x / 2 + 0.5) * 3 - columns
    assert abs(within.mean() - 0.5) < 0.02


def test_inverted_dark_cells_bear_and_a_picture_with_nothing_in_it_bears_nothing():
    pool = pictured([[1, 0.25]], invert=True)
    assert (positions(pool)[:, 0] > 0).all()
    assert pictured([[0, 0]]).count == 0
    assert pictured([[1, 1]], invert=True).count == 0


def test_it_stands_across_the_anchors_forward_which_is_outward():
    turned = HOME.copy()
    turned[:3, :3] = np.array([[0, 0, 1], [0, 1, 0], [-1, 0, 0]], np.float32)  # its own +Z along the world's +X
    layer = Layer(
        source=PictureSource(aim=Aim(heading=Heading.OUTWARD, spread=0)), speed=Attribute.of(3),
        lifetime=Attribute.of(5), emission=Emission(limit=50),
    )  # fmt: skip
    pool, _ = born(layer, 50, anchors=(turned, turned))
    np.testing.assert_allclose(pool.columns.state[k.VX : k.VZ + 1, :50].T, np.tile([3, 0, 0], (50, 1)), atol=1e-5)
    assert np.abs(positions(pool)[:, 0]).max() < 1e-6


def test_a_shelf_reads_a_picture_once_in_cells_and_where_it_is_clear_it_is_dark():
    read = []

    def textures(name):
        read.append(name)
        picture = np.full((600, 300, 4), 255, np.uint8)
        picture[:, :150, 3] = 0
        return picture

    library = SamplerCache(textures)
    cells = library.picture("a.png")
    assert library.picture("a.png") is cells
    assert read == ["a.png"]
    assert cells.shape == (SIDE, SIDE)
    np.testing.assert_allclose(cells[:, : SIDE // 2], 0, atol=0.01)
    np.testing.assert_allclose(cells[:, SIDE // 2 :], 1, atol=0.01)
    assert library.picture("") is None


# ---- warm-up --------------------------------------------------------------------------------------


def fired(demo, *layers, seconds, length=None, rate=60):
    """Return a player of an effect that starts with the show on its own, after so many seconds."""
    effect = Effect(id="warm", length=length, layers=layers)
    trigger = Trigger(when=AtStart(), response=(StartEffect(effect="warm"),))
    project = demo.project.evolve(effects=(effect,), triggers=(trigger,), character=None, step_rate=rate)
    player = Player(project, {}, partial=True)
    player.seek(seconds)
    return player


def steady(warm_up=0.0, **more):
    given = {
        "emission": Emission(rate=50, limit=400, warm_up=warm_up), "speed": Attribute.of(0.5, 1),
        "lifetime": Attribute.of(0.5, 0.9), "source": BALL,
        "motion": Motion(forces=(Gravity(pull=3), Drag(rate=0.5), Curl(strength=1, change=0))),
    } | more  # fmt: skip
    return Layer(id="l", **given)


@pytest.mark.parametrize("ride", [0.0, 0.5])
def test_after_a_warm_up_it_is_as_if_it_had_begun_so_long_before(demo, ride):
    source = BALL.evolve(riding=Riding(share=ride))
    warm = fired(demo, steady(1.0, source=source), seconds=0.5).show.pools["l"]
    long = fired(demo, steady(source=source), seconds=1.5).show.pools["l"]
    assert warm.count == long.count > 20
    np.testing.assert_array_equal(warm.columns.identity[: warm.count], long.columns.identity[: long.count])
    np.testing.assert_allclose(
        warm.columns.state[:8, : warm.count], long.columns.state[:8, : long.count], atol=2e-4
    )  # fmt: skip


def test_it_is_there_from_the_first_picture_on(demo):
    warm = fired(demo, steady(2.0), seconds=1 / 60)
    assert warm.show.alive == pytest.approx(50 * 0.7, abs=8)
    assert fired(demo, steady(), seconds=1 / 60).show.alive <= 1


def test_seeking_and_stepping_show_the_same_and_the_firing_ends_when_it_is_over(demo):
    one, two = fired(demo, steady(1.0), seconds=0.7, length=2.0), fired(demo, steady(1.0), seconds=0.2, length=2.0)
    for _ in range(30):
        two.step()
    assert one.show.digest() == two.show.digest()
    two.seek(2.0 - 1 / 60)  # the warm-up takes nothing from its two seconds
    assert two.show.alive == pytest.approx(50 * 0.7, abs=8)
    two.seek(3.0)  # what it bore last lives for 0.9 s at most
    assert two.show.alive == 0
    assert not two.show.firings


def test_a_past_that_ribbons_show_is_there_too(demo):
    look = RibbonLook(through=Through.PAST, past=0.4)
    warm = fired(demo, steady(1.0, look=look), seconds=0.1).show.pools["l"]
    assert len(warm.past.positions) == warm.count
    moved = np.linalg.norm(warm.past.positions[:, 0] - warm.past.positions[:, -1], axis=1)
    assert np.median(moved) > 0.1


def test_the_limit_holds_and_what_is_beyond_it_is_counted(demo):
    many = fired(demo, steady(1.0, emission=Emission(rate=50, limit=10, warm_up=1.0)), seconds=1 / 60)
    assert many.show.alive in {9, 10}  # one may just have ended
    assert many.show.refused > 0


def test_bursts_of_the_time_before_have_been(demo):
    layer = steady(
        emission=Emission(bursts=(Burst(count=30, time=0.0),), limit=99, warm_up=0.4), lifetime=Attribute.of(0.5)
    )
    player = fired(demo, layer, seconds=1 / 60)
    assert player.show.alive == 30
    player.seek(0.2)
    assert player.show.alive == 0


@pytest.mark.parametrize("layers", [1, 12])
def test_absurd_warm_ups_are_bounded_together(demo, layers, monkeypatch):
    """However much of them begins at once: longer steps instead of more work, and no more alive than there may be."""
    from wraithon.particles.pool import Pool

    stepped, step = [], Pool.step
    monkeypatch.setattr(
        Pool, "step", lambda pool, *rest, **more: stepped.append(pool.count) or step(pool, *rest, **more)
    )
    emission = Emission(rate=400_000, limit=400_000, warm_up=10)
    crowd = [
        steady(emission=emission, lifetime=Attribute.of(1000), motion=Motion()).evolve(id=f"l{n}")
        for n in range(layers)
    ]
    player = fired(demo, *crowd, seconds=1 / 60)
    assert 390_000 * min(layers, 3) <= player.show.alive <= 1_500_000
    assert sum(stepped) <= 12_000_000 + 8 * 1_500_000 + player.show.alive
