"""The picture's kernels against their plain twins, each pass through the one function that runs it."""

from dataclasses import replace

import numpy as np
import pytest

from tests import picture_twins as plain
from tests.bodies import swaying_pole
from wraithon.character.model import Material
from wraithon.character.pose import clip_locals, pose_of, skin_of
from wraithon.particles.looks.batch import Drawn
from wraithon.particles.looks.sprite import SpriteBatch
from wraithon.picture.camera import camera_of
from wraithon.picture.enlarging import enlarged
from wraithon.picture.finishing import finished
from wraithon.picture.kernels.raster_kernels import GUARD
from wraithon.picture.light import SHADOW_CELLS
from wraithon.picture.looks.drawer import Scene, SpriteInputs, SpriteTextures
from wraithon.picture.renderer import Buffers, PassTimes
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.solid import opaque
from wraithon.picture.solid.body import body_arrays
from wraithon.picture.solid.ground import ground_texture
from wraithon.picture.solid.opaque import draw_opaque
from wraithon.picture.solid.ramps import ramp_colours
from wraithon.picture.solid.solids import Solids
from wraithon.picture.transparent import draw_transparent
from wraithon.project.dissolve import Dissolve
from wraithon.project.look import Blend, Facing, FrameGrid, SpriteLook
from wraithon.project.project import View
from wraithon.stage.frame import Frame, PosedBody

WIDE, HIGH = 61, 47
VIEW = View(target=(0, 0.9, 0), azimuth=25, elevation=12, distance=2.6, follow=False)


def body_of(character, time=0.3, clip=None, **changes):
    clip = character.clips[0] if clip is None else character.clip(clip)
    root = np.eye(4, dtype=np.float32)
    skin = skin_of(character, pose_of(character, clip_locals(character, clip, time), root))
    return PosedBody(character, skin.positions, skin.normals, frozenset(), **changes)


def frame_of(body, batches=()):
    return Frame(0.0, body, (0.0, 0.0, 0.0), batches, "slate", 1.0)


class Seeing:
    """What the opaque pass makes of a body, with all that it works out on the way."""

    def __init__(self, body, view=VIEW, *, live=False):
        self.buffers, self.frame = Buffers(), frame_of(body)
        self.camera, self.body = camera_of(view, self.frame.centre), body_arrays(body)
        solids = Solids(self.body, self.body.shown)
        light, self.depth = draw_opaque(
            self.frame, solids, self.camera, (WIDE, HIGH), self.buffers, PassTimes(), live=live
        )
        self.light = np.moveaxis(light, 0, -1)
        self.skip = 2 if live else 1

    def held(self, name, *shape, dtype=np.float32):
        return self.buffers.get(name, shape, dtype)

    @property
    def screen(self):
        return self.buffers.lines("screen", len(self.body.positions), 3)

    @property
    def soft(self):
        return self.held("shadow", SHADOW_CELLS, SHADOW_CELLS)

    @property
    def around(self):
        planes = self.held("tick_context", 3, -(-HIGH // self.skip), -(-WIDE // self.skip))
        return np.moveaxis(planes, 0, -1)

    def samples(self):
        """Return inverse distance and triangle of each sample; outside of what was drawn, none."""
        depth = self.held("sample depth", 2 * HIGH, 2 * WIDE + GUARD)[:, : 2 * WIDE].copy()
        ids = self.held("ids", 2 * HIGH, 2 * WIDE + GUARD, dtype=np.int32)[:, : 2 * WIDE].copy()
        for band, (first, last) in enumerate(self.held("extents", -(-2 * HIGH // 16), 2, dtype=np.int32)):
            rows = np.s_[16 * band : 16 * band + 16]
            outside = (np.arange(2 * WIDE) < first) | (np.arange(2 * WIDE) > last)
            depth[rows, outside] = 0
        ids[depth == 0] = -1
        return depth.astype(float), ids


DISSOLVE = Dissolve(scale=0.2, width=0.2, colour=(1, 0.5, 0.1), intensity=4)
VIEWS = {
    "front": VIEW,
    "below": VIEW.model_copy(update={"elevation": -20.0, "distance": 1.4}),
    "above": VIEW.model_copy(update={"elevation": 85.0, "distance": 4.0}),
}


@pytest.fixture(params=VIEWS)
def view(request):
    return VIEWS[request.param]


def test_points_are_projected_as_the_camera_says(halcyon, view):
    seeing = Seeing(body_of(halcyon, clip="walk"), view)
    wanted = plain.projected(seeing.body.positions, seeing.camera, WIDE, HIGH)
    behind = wanted[:, 2] == 0
    np.testing.assert_array_equal(seeing.screen[:, 2] == 0, behind)
    np.testing.assert_allclose(seeing.screen[~behind], wanted[~behind], rtol=2e-5, atol=2e-3)


@pytest.mark.parametrize("dissolved", [0.0, 0.45])
def test_each_sample_shows_the_nearest_surface(halcyon, view, dissolved):
    character = swaying_pole(8, 12) if dissolved else halcyon
    seeing = Seeing(body_of(character, dissolve=DISSOLVE, dissolved=dissolved), view)
    depth, ids = seeing.samples()
    wanted_depth, wanted_ids, doubt = plain.rastered(seeing.screen.astype(float), seeing.body, WIDE, HIGH)
    sure = doubt > 0.01
    np.testing.assert_array_equal(ids[sure], wanted_ids[sure])
    np.testing.assert_allclose(depth[sure], wanted_depth[sure], rtol=1e-3)
    seen = (ids >= 0) | (wanted_ids >= 0)
    assert seen.sum() > 300
    assert (sure & seen).sum() > 0.65 * seen.sum()
    assert (ids != wanted_ids)[seen].mean() < 0.01


def test_a_shadow_is_what_the_light_throws_on_the_ground(halcyon):
    seeing = Seeing(body_of(halcyon, clip="leap", time=0.5))
    origin = np.array(seeing.frame.centre)[[0, 2]] - 2.5
    wanted = plain.shadow(seeing.body.positions.astype(float), seeing.body, opaque.SLANT, origin, 192 / 5, 192)
    assert wanted.max() > 0.9
    off = np.abs(seeing.soft - wanted) > 1e-5
    assert off.mean() < 2e-3  # corners on the border of a cell
    assert np.abs(seeing.soft - wanted).max() < 0.05


@pytest.mark.parametrize("live", [False, True])
def test_surroundings_are_lit_as_the_twin_lights_them(halcyon, view, live):
    seeing = Seeing(body_of(halcyon, clip="walk"), view, live=live)
    wanted = plain.tick_context(
        seeing.camera, ground_texture(seeing.frame.ground), seeing.soft.astype(float),
        np.full(2, -2.5), 192 / 5, WIDE, HIGH, seeing.skip,
    )  # fmt: skip
    np.testing.assert_allclose(seeing.around, wanted, rtol=2e-3, atol=2e-4)


def waves(seed, low, high, side=32):
    """Return a picture (side, side, 4) of soft waves that repeats, its channels between two bytes."""
    rng = np.random.default_rng(seed)
    turn = np.linspace(0, 2 * np.pi, side, endpoint=False)
    across, down = turn[None, :, None] + rng.uniform(0, 6, 4), 2 * turn[:, None, None] + rng.uniform(0, 6, 4)
    return (low + (high - low) * (np.sin(across) + np.sin(down) + 2) / 4).astype(np.uint8)


def test_pictures_of_surfaces_bend_and_colour_as_the_twin_says(halcyon):
    """Bent normals, roughness, metal and occlusion, on skin seen from both sides and unwrapped both ways."""
    detailed = Material(
        "detailed", (0.9, 0.8, 0.7, 1), texture=waves(1, 60, 250), normal=waves(2, 50, 200),
        surface=waves(3, 20, 240), occlusion=waves(4, 40, 250), metal=0.9, roughness=0.8, two_sided=True,
    )  # fmt: skip
    mirrored = halcyon.mesh.uvs.copy()
    mirrored[::2, 0] *= -1  # every other vertex, so that triangles are unwrapped either way
    mesh = replace(halcyon.mesh, uvs=np.where(halcyon.mesh.positions[:, :1] > 0, mirrored, halcyon.mesh.uvs))
    rest = (Material("tin", metal=0.7, roughness=0.3), Material("plain"))
    materials = tuple([detailed, *rest][k % 3] for k in range(len(halcyon.materials)))
    seeing = Seeing(body_of(replace(halcyon, mesh=mesh, materials=materials), clip="walk"))
    depth, ids = seeing.samples()
    around = seeing.around.astype(float)
    ramp = ramp_colours("share").astype(float)
    light, _ = plain.picture(seeing.body, seeing.screen.astype(float), seeing.camera, depth, ids, around, ramp)
    off = np.abs(seeing.light - light).max(axis=-1)
    assert (off > 4e-3).mean() < 4e-3
    flat = replace(halcyon, mesh=mesh, materials=tuple(replace(m, normal=None) for m in materials))
    assert np.abs(Seeing(body_of(flat, clip="walk")).light - seeing.light).max() > 0.1


@pytest.mark.parametrize("what", ["plain", "dissolving", "figures", "live"])
def test_bodies_are_coloured_as_the_twin_colours_them(halcyon, what):
    changes = {
        "dissolving": {"dissolve": DISSOLVE, "dissolved": 0.4},
        "figures": {
            "heat": np.linspace(-0.2, 1.2, len(halcyon.mesh.positions)).astype(np.float32),
            "ramp": "balance",
        },
    }
    seeing = Seeing(body_of(halcyon, clip="walk", **changes.get(what, {})), live=what == "live")
    depth, ids = seeing.samples()
    around = seeing.around.astype(float)
    if what == "live":
        around = plain.doubled(around, HIGH, WIDE)
    ramp = ramp_colours("balance" if what == "figures" else "share").astype(float)
    light, far = plain.picture(seeing.body, seeing.screen.astype(float), seeing.camera, depth, ids, around, ramp)
    np.testing.assert_allclose(seeing.depth, far, rtol=1e-4, atol=1e-5)
    off = np.abs(seeing.light - light).max(axis=-1)
    # What lies on the border of two levels of detail, or two steps of a ramp, may go either way.
    assert (off > 2e-3).mean() < 2e-3
    assert off.max() < 0.2
    assert np.abs(seeing.light - around).max() > 0.1


# ---- transparent ----------------------------------------------------------------------------------

LOOKS = {
    "added": SpriteLook(blend=Blend.ADDITIVE, texture="spark"),
    "over": SpriteLook(blend=Blend.ALPHA, texture="smoke", soft=0.3, lit=True, sheet=FrameGrid(columns=2, rows=2)),
    "disc": SpriteLook(blend=Blend.ALPHA, soft=0.02, facing=Facing.NORMAL),
    "stretched": SpriteLook(blend=Blend.ADDITIVE, texture="streak", facing=Facing.VELOCITY, stretch=0.3),
}


def crowd(count=80):
    """Return particles of all sizes around and amid a character, some of which cannot be seen."""
    rng = np.random.default_rng(7)
    sizes = rng.uniform(0.001, 0.5, count) * rng.choice([1, 0.1], count)
    colours = rng.uniform(0.1, 1.2, (count, 4))
    positions = rng.uniform((-1, 0, -1), (1, 2, 1), (count, 3))
    colours[0, 3], colours[1, 3], sizes[2], positions[3] = 0, np.nan, 0, (20, 10, 40)
    ways = rng.normal(0, 1, (2, count, 3))
    ways[0, 4] = 0
    turns, frames = rng.uniform(-4, 4, count), rng.integers(0, 4, count).astype(np.float32)
    stretches = rng.uniform(0.3, 3, count)
    return Drawn(*(a.astype(np.float32) for a in (positions, *ways, sizes, stretches, turns, colours)), frames)


class Laying:
    """The transparent pass over a picture with a solid wall that some squares meet."""

    def __init__(self, look, drawn, budget=np.inf):
        rng = np.random.default_rng(1)
        self.light = rng.uniform(0, 1, (HIGH, WIDE, 3)).astype(np.float32)
        self.before, self.depth = self.light.astype(float), np.zeros((HIGH, WIDE), np.float32)
        self.depth[:, WIDE // 2 :] = 1 / np.linspace(2.2, 3, WIDE - WIDE // 2)
        self.textures = SpriteTextures(TextureLibrary(None).read)
        batch = SpriteBatch("layer", np.arange(len(drawn.sizes), dtype=np.uint64), look, drawn)
        self.camera, frame = camera_of(VIEW, (0.0, 0.0, 0.0)), frame_of(None, (batch,))
        planes = np.ascontiguousarray(np.moveaxis(self.light, -1, 0))
        scene = Scene(self.camera, planes, self.depth, self.textures)
        self.step, self.laid = draw_transparent(frame, scene, Buffers(), PassTimes(), budget)
        self.light = np.moveaxis(planes, 0, -1)

    def twin(self, look, drawn):
        along = look.facing is not Facing.CAMERA
        uprights = drawn.normals if look.facing is Facing.NORMAL else drawn.velocities
        seen = SpriteInputs(drawn.positions, uprights, *drawn[3:], along, look.stretch)
        texture = self.textures.find(look.texture, look.sheet.columns, look.sheet.rows)
        self.texels = ((self.textures.planes & 0xFFFF) / 65535).reshape(4, -1).T
        quads = list(plain.placed(seen, look, self.camera, WIDE, HIGH))
        layer = plain.laid(
            quads, texture, self.texels, look.blend is Blend.ADDITIVE, look.soft, self.depth, self.step
        )
        return plain.over(layer, self.before, self.step), quads


@pytest.mark.parametrize("budget", [np.inf, 2000.0])
@pytest.mark.parametrize("look", LOOKS)
def test_sprites_are_laid_as_the_twin_lays_them(look, budget):
    look, drawn = LOOKS[look], crowd()
    laying = Laying(look, drawn, budget)
    assert laying.step == (1 if budget == np.inf else 2)
    wanted, quads = laying.twin(look, drawn)
    assert 40 < len(quads) < 80
    assert np.abs(wanted - laying.before).max() > 0.4
    np.testing.assert_allclose(laying.light, wanted, atol=4e-3)


@pytest.mark.parametrize("size", [0.4, 0.006])
@pytest.mark.parametrize("budget", [np.inf, 1.0])
def test_sprites_that_multiply_filter_what_is_behind_them(size, budget):
    """A grey one over all channels alike; specks count by how much they take away."""
    one = np.ones(1, np.float32)
    drawn = Drawn(
        np.array([[0, 0.9, 0]], np.float32), *np.zeros((2, 1, 3), np.float32), size * one, one, 0 * one,
        np.array([[0.4, 0.4, 0.4, 0.8]], np.float32), 0 * one,
    )  # fmt: skip
    laid, covering = (Laying(SpriteLook(blend=way, soft=0.0), drawn, budget) for way in (Blend.MULTIPLY, Blend.ALPHA))
    maximum = np.argmax(np.abs(covering.light - covering.before).sum(axis=2))
    y, x = np.unravel_index(maximum, (HIGH, WIDE))
    share = (covering.light[y, x] - covering.before[y, x]) / (0.4 - covering.before[y, x])  # what the square covers
    np.testing.assert_allclose(laid.light[y, x], laid.before[y, x] * (1 - share * 0.6), rtol=0.03)
    far = np.abs(covering.light - covering.before).sum(axis=2) == 0
    np.testing.assert_allclose(laid.light[far], laid.before[far], atol=1e-6)


@pytest.mark.parametrize("size", [0.002, 0.012, 0.03])
def test_the_smallest_sprites_give_the_light_they_have(size):
    look, drawn = LOOKS["added"], crowd(300)
    drawn = drawn._replace(sizes=np.full(300, size, np.float32))
    laying = Laying(look, drawn)
    np.testing.assert_allclose(laying.light, laying.twin(look, drawn)[0], atol=4e-3)


# ---- finishing ------------------------------------------------------------------------------------


def planar(light):
    return np.ascontiguousarray(np.moveaxis(light, -1, 0))


@pytest.mark.parametrize(("height", "width"), [(48, 64), (47, 61), (9, 8), (8, 33)])
@pytest.mark.parametrize("exposure", [0.25, 1.0, 4.0])
def test_finished_pixels_are_those_of_the_twin(height, width, exposure):
    rng = np.random.default_rng(3)
    light = rng.gamma(0.5, 0.4, (height, width, 3)).astype(np.float32)
    light[height // 2, width // 2] = (40, 3, 0)
    light[1, 1] = 0
    made = finished(planar(light), exposure, Buffers())
    wanted = plain.finished(light.astype(float), exposure)
    assert (made[..., 3] == 255).all()
    assert np.abs(made[..., :3] - wanted).max() <= 1.0


def test_light_that_is_no_number_is_black_and_the_brightest_is_white():
    light = np.zeros((16, 16, 3), np.float32)
    light[0, 0], light[15, 15] = np.nan, -1
    made = finished(planar(light), 1.0, Buffers())
    assert (made[15, 15, :3] == 0).all()
    assert (finished(np.full((3, 16, 16), 1e9, np.float32), 1.0, Buffers())[..., :3] == 255).all()


@pytest.mark.parametrize(("height", "width"), [(47, 61), (24, 31), (94, 122), (13, 100)])
def test_enlarging_lies_between_four_pixels(height, width):
    small = np.random.default_rng(5).integers(0, 256, (24, 31, 4)).astype(np.uint8)
    small[..., 3] = 255
    x, y = np.meshgrid(plain.middles(width, 31), plain.middles(height, 24))
    wanted = plain.bilinear(small.astype(float), x, y)
    assert np.abs(enlarged(small, width, height) - wanted).max() <= 2.0  # shares in 256ths, rounded twice
