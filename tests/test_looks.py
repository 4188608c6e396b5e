"""Looks: one word finds the model, what it draws, its drawer and its editor; ribbons join births in order."""

import importlib

import numpy as np
import pytest
from pydantic import TypeAdapter, ValidationError

from tests.pools import DT, HOME, PLAIN, born, lift
from wraithon.demo import DEMO_FOLDER
from wraithon.particles import columns as k
from wraithon.particles.looks import batch_of
from wraithon.particles.looks.batch import ShowMoment
from wraithon.particles.looks.ribbon import RibbonBatch
from wraithon.particles.pool import Line
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.picture.camera import camera_of
from wraithon.picture.kernels.columns import PICK_COLUMNS, SPRITE_COLUMNS
from wraithon.picture.kernels.sprite_kernels import ADDED, TIMES
from wraithon.picture.looks import drawer_of, of_phase
from wraithon.picture.looks.drawer import Phase, SpriteQuads, SpriteTextures, Viewport
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Tint
from wraithon.project.look import LOOKS, Blend, Facing, FrameGrid, Look, RibbonLook, SheetPlay, SpriteLook, Through
from wraithon.project.motion import Motion
from wraithon.project.project import Project, View
from wraithon.project.source import Aim, Heading, PointSource, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.frame import Frame, frame_of
from wraithon.stage.player import Player

AIR = TickContext.empty()
VIEW = View(target=(0, 1, 0), azimuth=0, elevation=0, distance=5, follow=False)
RIBBON = Layer(
    id="ribbon",
    source=PointSource(),
    emission=Emission(limit=1000),
    look=RibbonLook(soft=0.0),
    motion=Motion(),
    size=Attribute.of(0.1),
    **PLAIN,
)


@pytest.mark.parametrize("kind", LOOKS)
def test_a_looks_word_finds_all_that_belongs_to_it(kind):
    assert LOOKS[kind]().kind == kind
    assert isinstance(TypeAdapter(Look).validate_python({"kind": kind}), LOOKS[kind])
    assert isinstance(drawer_of(kind).phase, Phase)
    assert callable(importlib.import_module(f"wraithon.particles.looks.{kind}").batch_of)
    importlib.import_module(f"wraithon.desktop.effects.looks.{kind}")


def test_an_unknown_look_is_refused():
    with pytest.raises(ValidationError):
        TypeAdapter(Look).validate_python({"kind": "glow"})


def test_looks_of_before_there_were_kinds_are_sprites():
    older = Layer.model_validate({"look": {"texture": "spark", "facing": "velocity", "stretch": 0.5}})
    assert older.look == SpriteLook(texture="spark", facing=Facing.VELOCITY, stretch=0.5)


def test_only_sheets_have_frames_and_only_some_sprites_turn_by_the_normal():
    assert SpriteLook(sheet=FrameGrid(columns=3, rows=4)).frames == 12
    assert RibbonLook().frames == SpriteLook().frames == 1
    assert SpriteLook(facing=Facing.NORMAL).by_normal
    assert not SpriteLook().by_normal
    assert not RibbonLook().by_normal


def somebody(_seconds):
    """Return a character as looks hold it; what it is they do not ask."""
    return object(), object()


def test_a_batch_names_its_layer_and_whose_rows_are_whose():
    for look in LOOKS.values():
        pool, program = born(RIBBON.evolve(look=look()), 20)
        batch = batch_of(pool, program, ShowMoment(1.0, somebody))
        assert batch.layer == "ribbon"
        assert batch.kind == look().kind
        assert sorted(batch.identities) == sorted(pool.columns.identity[:20])


def test_a_batch_stays_as_it_is_when_its_particles_move_on():
    for look in LOOKS.values():
        pool, program = born(RIBBON.evolve(look=look(), speed=Attribute.of(1)), 20)
        batch = batch_of(pool, program)
        held = getattr(batch, "drawn", batch)
        positions, who = getattr(held, "positions", np.zeros(0)).copy(), batch.identities.copy()
        pool.step(program, DT, 0.0, AIR)
        pool.columns.identity[:] = 0
        np.testing.assert_array_equal(getattr(held, "positions", np.zeros(0)), positions)
        np.testing.assert_array_equal(batch.identities, who)


# ---- sprites --------------------------------------------------------------------------------------


def squares_of(look, count=40, **changes):
    """Return the placed squares of a layer's particles at all ages, seen by the camera, and their batch."""
    layer = RIBBON.evolve(look=look, source=SphereSource(radius=0.5), **changes)
    pool, program = born(layer, count)
    pool.columns.state[k.AGE, :count] = np.linspace(0, 0.99, count) * pool.columns.state[k.LIFETIME, :count]
    pool.columns.state[k.PY, :count] += 1
    batch, drawer = batch_of(pool, program), drawer_of("sprite")
    many = drawer.count(batch)
    out = SpriteQuads(
        np.zeros((many, SPRITE_COLUMNS), np.float32),
        np.zeros((many, PICK_COLUMNS), np.int32),
        np.zeros(many, np.uint8),
    )
    textures = SpriteTextures(TextureLibrary(DEMO_FOLDER).read)
    drawer.position(batch, Viewport(camera_of(VIEW, (0, 0, 0)), 200, 200), textures, out)
    return out, batch


def test_frames_that_fade_into_each_other_are_two_squares_that_share_the_opacity():
    look = SpriteLook(texture="feather.png", sheet=FrameGrid(columns=2, rows=2, play=SheetPlay.LIFE, blended=True))
    out, batch = squares_of(look, opacity=Attribute.of(0.8))
    assert len(out.rows) == 80
    share, seen = batch.drawn.frames % 1, out.rows[:, 2] > 0
    np.testing.assert_allclose(out.rows[:40, 10], 0.8 * (1 - share), atol=2e-3)
    np.testing.assert_allclose(out.rows[40:, 10], 0.8 * share, atol=2e-3)
    both = seen[:40] & seen[40:]
    assert both.sum() > 30
    side = int(out.picks[seen, 1][0])
    step = (out.picks[40:, 0] - out.picks[:40, 0])[both]
    assert set(step.tolist()) <= {side * side, -3 * side * side}  # each is the one after, and round


def test_one_that_shows_a_frame_by_chance_is_one_square_though_it_should_fade():
    out, _ = squares_of(SpriteLook(sheet=FrameGrid(columns=2, rows=2, blended=True)))
    assert len(out.rows) == 40


@pytest.mark.parametrize(
    ("axis", "upright"), [((0, 1, 0), (1, 0)), ((2, 0, 0), (0, 1)), ((1, 1, 0), (0.7071, 0.7071))]
)
def test_sprites_along_an_axis_stand_so_whatever_their_turn(axis, upright):
    out, _ = squares_of(SpriteLook(facing=Facing.AXIS, axis=axis))
    seen = out.rows[:, 2] > 0
    assert seen.any()
    np.testing.assert_allclose(out.rows[seen, 5:7], np.tile(upright, (seen.sum(), 1)), atol=1e-3)


@pytest.mark.parametrize(("longest", "times"), [(1000.0, 41.0), (5.0, 5.0), (1.0, 1.0)])
def test_a_stretch_ends_at_the_longest(longest, times):
    layer = RIBBON.evolve(
        look=SpriteLook(facing=Facing.VELOCITY, stretch=0.2, longest=longest),
        source=PointSource(aim=Aim(heading=Heading.UP, spread=0)),
        speed=Attribute.of(20),
    )
    pool, program = born(layer, 1, emission_offsets=np.zeros(1, np.float32))
    pool.columns.state[k.PY, 0] = 1
    out = SpriteQuads(
        np.zeros((1, SPRITE_COLUMNS), np.float32), np.zeros((1, PICK_COLUMNS), np.int32), np.zeros(1, np.uint8)
    )
    viewport = Viewport(camera_of(VIEW, (0, 0, 0)), 200, 200)
    drawer_of("sprite").position(batch_of(pool, program), viewport, SpriteTextures(TextureLibrary(None).read), out)
    assert out.rows[0, 4] / out.rows[0, 3] == pytest.approx(times, rel=1e-3)


@pytest.mark.parametrize(("by_age", "on_top"), [(False, "red"), (True, "green")])
@pytest.mark.parametrize("facing", [Facing.CAMERA, Facing.FLAT])
@pytest.mark.parametrize("fading", [False, True])
def test_by_age_the_younger_lie_over_the_older_wherever_they_are(by_age, on_top, facing, fading):
    """The older one is red and nearer to the camera, the younger one green and farther."""
    sheet = FrameGrid(columns=2, rows=1, play=SheetPlay.LIFE, blended=fading)
    look = SpriteLook(facing=facing, axis=(0, 0, 1), by_age=by_age, soft=0.0, sheet=sheet if fading else FrameGrid())
    layer = RIBBON.evolve(look=look, source=PointSource(), size=Attribute.of(1.0), turn=Attribute.of(0))
    pool, program = born(layer, 2)
    pool.columns.state[: k.PZ + 1, :2] = np.array([(0, 1, 1), (0, 1, 0)], float).T
    batch = batch_of(pool, program)
    batch.drawn.colours[:] = [(1, 0, 0, 1), (0, 1, 0, 1)]
    pixel = picture(batch)[60, 80]
    assert (pixel[1] > pixel[0]) == (on_top == "green")


# ---- ribbons --------------------------------------------------------------------------------------


def drawn_out(steps=10, each=3, firings=1):
    """Return a ribbon whose source rises by 0.1 m a step, with as many firings side by side."""
    pool, program = born(RIBBON, 0, emission_offsets=np.zeros(0, np.float32))
    for n in range(steps):
        for slot in range(firings):
            positions = AnchorPlaces.of(lift(HOME, n * 0.1), lift(HOME, (n + 1) * 0.1))
            leads = ((np.arange(each) + 0.5) * DT / each).astype(np.float32)
            pool.emit(program, Line(np.uint64(7 + slot), n * each, slot), leads, DT, AIR, positions)
        pool.step(program, DT, n * DT, AIR)
    return pool, program


def test_a_ribbon_goes_through_its_births_from_the_last_to_the_first():
    ribbon = batch_of(*drawn_out())
    assert isinstance(ribbon, RibbonBatch)
    heights = ribbon.positions[:, 1]
    np.testing.assert_allclose(heights, 1 - (np.arange(30) + 0.5) / 30, atol=1e-5)
    assert ribbon.starts.tolist() == [0, 30]
    np.testing.assert_allclose(ribbon.widths, 0.1)


def test_ribbons_of_two_firings_are_not_joined():
    ribbon = batch_of(*drawn_out(steps=4, each=2, firings=3))
    assert len(ribbon.positions) == 24
    assert ribbon.starts.tolist() == [0, 8, 16, 24]
    for n in range(3):
        assert (np.diff(ribbon.positions[n * 8 : n * 8 + 8, 1]) < 0).all()


def test_a_ribbon_loses_its_oldest_end_and_stays_in_order():
    pool, program = drawn_out()
    state = pool.columns.state
    oldest = np.argsort(-state[k.AGE, : pool.count])[:7]
    state[k.LIFETIME, oldest] = state[k.AGE, oldest]
    pool.step(program, DT, 1.0, AIR)
    ribbon = batch_of(pool, program)
    assert len(ribbon.positions) == 23
    np.testing.assert_allclose(ribbon.positions[::-1, 1], (np.arange(7, 30) + 0.5) / 30, atol=1e-5)


def test_births_of_one_moment_keep_one_order():
    pool, program = born(RIBBON, 40, emission_offsets=np.zeros(40, np.float32))
    before = batch_of(pool, program).identities
    pool.columns.state[k.LIFETIME, 3] = 1e-6
    pool.step(program, DT, 0.0, AIR)
    after = batch_of(pool, program).identities
    assert after.tolist() == [who for who in before if who in set(after.tolist())]


@pytest.mark.parametrize("through", Through)
@pytest.mark.parametrize("count", [0, 1])
def test_nothing_and_a_single_birth_are_no_band(count, through):
    pool, program = born(RIBBON.evolve(look=RibbonLook(through=through)), count)
    ribbon = batch_of(pool, program)
    assert len(np.unique(ribbon.positions, axis=0)) == count
    assert not (facets_of_ribbon(ribbon).boxes[:, 5] > 0).any()


def facets_of_ribbon(ribbon, size=(160, 120)):
    viewport = Viewport(camera_of(VIEW, (0, 0, 0)), *size)
    (triangles,) = drawer_of("ribbon").layered(ribbon, viewport, SpriteTextures(TextureLibrary(None).read)).triangles
    return triangles


def picture(*batches):
    renderer = RasterRenderer(TextureLibrary(None).read)
    frame = Frame(0.0, None, (0.0, 0.0, 0.0), tuple(batches), "plain", 1.0)
    return renderer.draw(frame, VIEW, 160, 120).pixels[..., :3].astype(int)


def test_a_ribbon_is_a_band_between_its_points():
    pool, program = drawn_out()
    added = (picture(batch_of(pool, program)) - picture()).sum(axis=2)
    lit = np.argwhere(added > 30)
    camera = camera_of(VIEW, (0, 0, 0))
    scale = camera.lens * 120 / 5
    assert np.ptp(lit[:, 0]) == pytest.approx(scale * 29 / 30, abs=5)
    assert np.ptp(lit[:, 1]) <= scale * 0.1 + 2
    assert np.median(lit[:, 1]) == pytest.approx(80, abs=1)
    # No gap: every row between its ends is lit.
    assert len(np.unique(lit[:, 0])) == np.ptp(lit[:, 0]) + 1


@pytest.mark.parametrize(("blend", "code"), [(Blend.ADDITIVE, ADDED), (Blend.ALPHA, 0), (Blend.MULTIPLY, TIMES)])
def test_squares_are_told_how_they_meet_what_is_behind(blend, code):
    pool, _ = drawn_out()
    batch = batch_of(pool, born(RIBBON.evolve(look=SpriteLook(blend=blend)), 0)[1])
    drawer, camera = drawer_of("sprite"), camera_of(VIEW, (0, 0, 0))
    count = drawer.count(batch)
    out = SpriteQuads(
        np.empty((count, SPRITE_COLUMNS), np.float32),
        np.empty((count, PICK_COLUMNS), np.int32),
        np.empty(count, np.uint8),
    )
    drawer.position(batch, Viewport(camera, 160, 120), SpriteTextures(TextureLibrary(None).read), out)
    assert (out.blends == code).all()
    assert (out.rows[:, 2] > 0).all()


def test_batches_are_drawn_in_the_phase_of_their_look_in_the_order_given():
    pool, program = drawn_out()
    ribbon = batch_of(pool, program)
    sprites = batch_of(pool, born(RIBBON.evolve(look=SpriteLook()), 0)[1])
    drawn = of_phase([ribbon, sprites, ribbon], Phase.TRANSPARENT)
    assert [batch for batch, _ in drawn] == [ribbon, sprites, ribbon]
    assert [drawer for _, drawer in drawn] == [drawer_of("ribbon"), drawer_of("sprite"), drawer_of("ribbon")]
    assert of_phase([ribbon, sprites], Phase.REFRACTING) == []


def test_ribbons_and_sprites_hide_each_other_by_depth():
    """Both are parts of one sorted pass: the nearer covers the farther whichever layer comes first."""
    near = np.array([[0, 1, 1.0]], np.float32)
    pool, program = drawn_out()
    ribbon = batch_of(pool, program)
    square = RIBBON.evolve(
        look=SpriteLook(soft=0.0), size=Attribute.of(3.0), colour=Tint(first=(1, 0, 0), second=(1, 0, 0))
    )
    other, square_program = born(square, 1)
    other.columns.state[k.PX : k.PZ + 1, 0] = near[0]
    cover = batch_of(other, square_program)
    np.testing.assert_array_equal(picture(ribbon, cover), picture(cover, ribbon))


def test_a_ribbon_plays_and_is_the_same_after_a_seek():
    layer = RIBBON.evolve(emission=Emission(rate=120, bursts=(Burst(count=4),)), lifetime=Attribute.of(0.4))
    effect = Effect(id="e", layers=(layer,))
    start = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
    project = Project(effects=(effect,), triggers=(start,))
    player = Player(project, {})
    player.seek(1.0)
    (batch,) = frame_of(player.show).batches
    held = batch.identities.copy()
    assert batch.starts.tolist() == [0, len(held)]
    player.seek(3.0)
    player.seek(1.0)
    np.testing.assert_array_equal(frame_of(player.show).batches[0].identities, held)
