"""What is laid on solid things: marks on the ground and lights, against plain versions, a pixel at a time."""

import numpy as np
import pytest
from scipy import ndimage

from tests.pools import DT, PLAIN, born
from wraithon.particles import columns as k
from wraithon.particles.looks import batch_of
from wraithon.particles.looks.light import flickering
from wraithon.picture.camera import camera_of
from wraithon.picture.looks import draw_on_solid, drawer_of
from wraithon.picture.looks.drawer import Phase, Scene, SpriteTextures
from wraithon.picture.looks.light import MAX_LIGHTS
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.effect import Layer
from wraithon.project.life import Attribute, Tint
from wraithon.project.look import Blend, DecalLook, LightLook
from wraithon.project.project import View
from wraithon.project.source import PointSource, SphereSource
from wraithon.stage.frame import Frame

HIGH, WIDE = 60, 80
VIEW = View(target=(0, 0.3, 0), azimuth=20, elevation=25, distance=3, follow=False)
CAMERA = camera_of(VIEW, (0, 0, 0))
FOCAL = CAMERA.lens * HIGH


def rays():
    """Return where each pixel looks (H, W, 3), one metre ahead."""
    y, x = np.mgrid[0:HIGH, 0:WIDE].astype(float)
    local = np.stack([(x + 0.5 - WIDE / 2) / FOCAL, (HIGH / 2 - y - 0.5) / FOCAL, np.ones_like(x)], -1)
    return local @ CAMERA.basis.astype(float)


def scene(wall=None):
    """Return an even ground in grey, with an upright wall at z = `wall` on its left half, and where all of it is."""
    way = rays()
    with np.errstate(divide="ignore"):
        ahead = np.where(way[..., 1] < -1e-4, -CAMERA.eye[1] / way[..., 1], np.inf)
        if wall is not None:
            to_wall = (wall - CAMERA.eye[2]) / way[..., 2]
            hit = (to_wall > 0) & (to_wall < ahead) & (CAMERA.eye[0] + to_wall * way[..., 0] < 0)
            hit &= CAMERA.eye[1] + to_wall * way[..., 1] < 1
            ahead = np.where(hit, to_wall, ahead)
    depth = (1 / ahead).astype(np.float32)
    light = np.full((3, HIGH, WIDE), 0.3, np.float32)
    light[1] = 0.15
    seen = np.isfinite(ahead)
    positions = CAMERA.eye + np.where(seen, ahead, 0)[..., None] * way
    return Scene(CAMERA, light, depth, SpriteTextures(TextureLibrary(None).read)), positions, seen


def layer_of(look, **changes):
    fields = {"id": "one", "look": look, "source": PointSource(), "size": Attribute.of(1.0), **PLAIN}
    return Layer(**(fields | changes))


def batch(look, positions, **changes):
    pool, program = born(
        layer_of(look, **changes), len(positions), emission_offsets=np.zeros(len(positions), np.float32)
    )
    pool.columns.state[:3, : len(positions)] = np.array(positions, np.float32).T
    pool.columns.state[k.AGE, : len(positions)] = np.arange(len(positions))[::-1] * DT
    return batch_of(pool, program)


# ---- marks ----------------------------------------------------------------------------------------


def marked(light, positions, made, texture, planes, *, additive):
    """Lay marks the plain way: for each pixel of the ground, where it lies on each mark."""
    ground = np.abs(positions[..., 1]) < 0.004
    many, out = len(planes) // 4, light.astype(float).copy()
    drawn = made.drawn
    for n in range(len(drawn.sizes)):
        turn, half = drawn.turns[n], drawn.sizes[n] / 2
        dx, dz = positions[..., 0] - drawn.positions[n, 0], positions[..., 2] - drawn.positions[n, 2]
        u, v = (np.cos(turn) * dx - np.sin(turn) * dz) / half, (np.sin(turn) * dx + np.cos(turn) * dz) / half
        first, side = texture
        x, y = (np.clip((w + 1) * side / 2 - 0.5, 0, side - 1) for w in (u, v))
        column, row = np.minimum(x.astype(int), side - 2), np.minimum(y.astype(int), side - 2)
        sx, sy = x - column, y - row
        texels = np.stack([planes[c * many : (c + 1) * many] & 0xFFFF for c in range(4)], -1) / 65535

        def at(down, right):
            return texels[first + (row + down) * side + column + right]  # noqa: B023  # used at once

        sx, sy = sx[..., None], sy[..., None]
        found = (at(0, 0) * (1 - sx) + at(0, 1) * sx) * (1 - sy) + (at(1, 0) * (1 - sx) + at(1, 1) * sx) * sy
        inside = ground & (np.abs(u) < 1) & (np.abs(v) < 1)
        found = np.where(inside[..., None], found, 0) * drawn.colours[n, 3]
        kept = 1 if additive else 1 - found[..., 3]
        for c in range(3):
            out[c] = out[c] * kept + found[..., c] * drawn.colours[n, c]
    return out


@pytest.mark.parametrize("blend", list(Blend))
@pytest.mark.parametrize("wall", [None, 0.2])
def test_marks_are_those_of_the_twin(blend, wall):
    made = batch(
        DecalLook(blend=blend), [(0, 0.7, 0), (0.4, 0, 0.3), (-0.5, 2, 0.2)], turn=Attribute.of(30, 300),
        size=Attribute.of(0.6, 1.2), opacity=Attribute.of(0.4, 0.9),
        colour=Tint(first=(1, 0, 0.5), second=(0.2, 1, 0)),
    )  # fmt: skip
    shown, positions, _ = scene(wall)
    plain = shown.textures.find("")
    before = shown.light.copy()
    draw_on_solid([made], shown)
    levels = plain.levels[plain.levels[:, 1] >= 2]
    best = [
        np.abs(
            marked(before, positions, made, level, shown.textures.planes, additive=blend is Blend.ADDITIVE)
            - shown.light
        )
        for level in levels.tolist()
    ]
    # Each takes the level that fits its size on the picture: where they lie alone, one of them is right.
    assert np.min(best, axis=0).max() < 0.02
    assert np.abs(shown.light - before).max() > 0.1


def test_a_mark_stays_off_what_stands_before_it_and_off_the_sky():
    made = batch(DecalLook(), [(0, 0, 0)], size=Attribute.of(50.0))
    shown, positions, seen = scene(wall=0.2)
    before = shown.light.copy()
    draw_on_solid([made], shown)
    changed = np.abs(shown.light - before).sum(axis=0) > 1e-4
    assert not (changed & ~seen).any()
    assert not (changed & (positions[..., 1] > 0.02)).any()
    assert changed.sum() > 0.5 * (seen & (positions[..., 1] < 0.001)).sum()


def test_later_marks_lie_over_earlier_ones():
    pool, program = born(layer_of(DecalLook()), 3, emission_offsets=np.zeros(3, np.float32))
    pool.columns.state[k.AGE, :3] = (1, 5, 3)
    pool.columns.state[k.PX, :3] = (1, 5, 3)
    assert batch_of(pool, program).drawn.positions[:, 0].tolist() == [5, 3, 1]


# ---- lights ---------------------------------------------------------------------------------------


def lit(light, positions, normals, seen, made):
    """Add lights the plain way, with the surfaces' true normals."""
    out = light.astype(float).copy()
    total = np.zeros((HIGH, WIDE, 3))
    for n in range(len(made.reaches)):
        way = made.positions[n] - positions
        away = np.linalg.norm(way, axis=-1)
        share = np.clip(1 - (away / made.reaches[n]) ** 2, 0, None) ** 2
        facing = (normals * way).sum(axis=-1) / np.maximum(away, 1e-9)
        total += (share * np.clip(facing + 0.25, 0, None) / 1.25 * seen)[..., None] * made.colours[n]
    return out + np.moveaxis(total, -1, 0) * np.clip(out / 0.8, 0.05, 0.8)


@pytest.mark.parametrize("wall", [None, 0.2])
def test_lights_are_those_of_the_twin(wall):
    made = batch(
        LightLook(), [(0.3, 0.4, 0.5), (-0.6, 0.3, 0.6)], size=Attribute.of(1.2), intensity=Attribute.of(3.0),
        colour=Tint(first=(1, 0.6, 0.2), second=(0.2, 0.6, 1)),
    )  # fmt: skip
    shown, positions, seen = scene(wall)
    before = shown.light.copy()
    draw_on_solid([made], shown)
    up = np.abs(positions[..., 1]) < 0.002
    normals = np.where(up[..., None], (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    wanted = lit(before, positions, normals, seen, made)
    # Where two surfaces meet, a pixel's neighbours may be the other's.
    meeting = ndimage.binary_dilation(ndimage.morphological_gradient(np.where(seen, 1 + up, 0), 3) > 0)
    assert meeting.mean() < 0.2
    assert np.abs(shown.light - wanted).max(axis=0)[~meeting].max() < 0.002
    assert (shown.light - before).max() > 0.3
    assert (shown.light >= before).all()


def test_a_light_reaches_as_far_as_its_size_and_not_into_the_sky():
    made = batch(LightLook(), [(0, 0.1, 0)], size=Attribute.of(0.5), intensity=Attribute.of(9.0))
    shown, positions, seen = scene()
    before = shown.light.copy()
    draw_on_solid([made], shown)
    changed = np.abs(shown.light - before).sum(axis=0) > 1e-5
    away = np.linalg.norm(positions - (0, 0.1, 0), axis=-1)
    assert not (changed & ((away >= 0.5) | ~seen)).any()
    assert (changed | (away > 0.48) | ~seen).all()


@pytest.mark.parametrize("position", [(0, 0.5, 2.6), (0, 1, 40), (np.nan, 0, 0)])
def test_lights_beside_behind_and_nowhere_do_no_harm(position):
    made = batch(LightLook(), [position], size=Attribute.of(3.0))
    shown, _, _ = scene()
    draw_on_solid([made], shown)
    assert np.isfinite(shown.light).all()


def test_of_very_many_lights_the_strongest_are_drawn():
    many = MAX_LIGHTS + 50
    rng = np.random.default_rng(3)
    made = batch(LightLook(), rng.uniform((-1, 0.1, -1), (1, 0.5, 1), (many, 3)), intensity=Attribute.of(0.001, 1.0))
    strong = np.argsort(-made.colours.max(axis=1))[:MAX_LIGHTS]
    shown, _, _ = scene()
    draw_on_solid([made], shown)
    part = type(made)(
        made.layer, made.identities, made.look, *(x[strong] for x in (made.positions, made.reaches, made.colours))
    )
    again, _, _ = scene()
    draw_on_solid([part], again)
    np.testing.assert_allclose(shown.light, again.light, atol=1e-4)


@pytest.mark.parametrize("flicker", [0.0, 0.4, 1.0])
def test_flicker_takes_up_to_its_share_and_each_light_its_own(flicker):
    who = np.arange(2000, dtype=np.uint64) * np.uint64(0x9E3779B97F4A7C15 % 2**60)
    look = LightLook(flicker=flicker, pace=5)
    found = flickering(look, who, np.full(2000, 1.3, np.float32))
    assert found.min() >= 1 - flicker - 1e-9
    assert found.max() <= 1 + 1e-9
    if flicker:
        assert np.ptp(found) > 0.7 * flicker
        one = flickering(look, np.repeat(who[:1], 400), np.linspace(0, 2, 400).astype(np.float32))
        assert np.ptp(one) > 0.8 * flicker
    np.testing.assert_array_equal(found, flickering(look, who, np.full(2000, 1.3, np.float32)))


# ---- both -----------------------------------------------------------------------------------------


def test_lights_fall_on_marks_whatever_the_order_of_layers():
    mark = batch(DecalLook(), [(0, 0, 0)], colour=Tint(first=(0.9, 0.9, 0.9), second=(0.9, 0.9, 0.9)))
    light = batch(LightLook(), [(0, 0.3, 0)], intensity=Attribute.of(4.0))
    one, two = scene()[0], scene()[0]
    draw_on_solid([mark, light], one)
    draw_on_solid([light, mark], two)
    np.testing.assert_array_equal(one.light, two.light)
    assert (drawer_of("mark").phase, drawer_of("light").phase) == (Phase.GROUND, Phase.LIGHT)


@pytest.mark.parametrize("look", [DecalLook(), LightLook()])
def test_a_whole_picture_has_them(look):
    pool, program = born(layer_of(look, source=SphereSource(radius=0.4), size=Attribute.of(0.8)), 20)
    pool.columns.state[k.PY, :20] = np.abs(pool.columns.state[k.PY, :20])
    drawn = RasterRenderer(TextureLibrary(None).read)

    def picture(*batches):
        return drawn.draw(Frame(0.0, None, (0, 0, 0), batches, "slate", 1.0), VIEW, 64, 48).pixels.astype(int)

    assert np.abs(picture(batch_of(pool, program)) - picture()).max() > 20


def test_a_live_picture_lights_each_two_rows_alike():
    made = batch(LightLook(), [(0.2, 0.3, 0)], intensity=Attribute.of(4.0))
    exact, live = scene()[0], scene()[0]._replace(live=True)
    draw_on_solid([made], exact)
    draw_on_solid([made], live)
    np.testing.assert_allclose(live.light[:, ::2], exact.light[:, ::2], atol=1e-5)
    np.testing.assert_array_equal(live.light[:, 1::2], live.light[:, ::2])
    assert np.abs(live.light - exact.light).max() < 0.25
