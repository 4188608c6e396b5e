"""Facets: triangles seen in perspective, against a plain twin; ribbons and lying sprites that are made of them."""

import numpy as np
import pytest

from tests.pools import PLAIN, born
from wraithon.demo import DEMO_FOLDER
from wraithon.particles import columns as k
from wraithon.particles.looks import batch_of
from wraithon.particles.looks.ribbon import RibbonBatch
from wraithon.picture.camera import camera_of
from wraithon.picture.kernels.triangle_kernels import ASIDE, LOWER
from wraithon.picture.looks import drawer_of
from wraithon.picture.looks.drawer import SpriteQuads, SpriteTextures, Triangles, Viewport, triangles_of
from wraithon.picture.renderer import Buffers
from wraithon.picture.shells.shell_meshes import NO_PATCHES
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.transparent import PlacedTransparents, _composite, _far_to_near
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Curve, Gradient
from wraithon.project.look import Blend, Facing, RibbonLook, SpriteLook
from wraithon.project.project import View
from wraithon.project.source import PointSource

VIEW = View(target=(0, 1, 0), azimuth=20, elevation=25, distance=4, follow=False)
HIGH, WIDE = 120, 160
EMPTY = SpriteQuads(np.zeros((0, 12), np.float32), np.zeros((0, 3), np.int32), np.zeros(0, np.uint8))
QUAD = np.array([[0, 1, 3], [0, 3, 2]], np.int32)
FLAT = np.array([(-1, 0.5, -1), (1, 0.5, -1), (-1, 0.7, 1), (1, 0.6, 1)], np.float32)
UVS = np.array([(0, 0), (1, 0), (0, 1), (1, 1)], np.float32)
TINTS = np.array([(1, 0.2, 0.1, 0.9), (0.2, 1, 0.1, 0.5), (0.1, 0.2, 1, 0.7), (1, 1, 1, 0.2)], np.float32)


def viewport(view=VIEW):
    return Viewport(camera_of(view, (0, 0, 0)), WIDE, HIGH)


def textures():
    return SpriteTextures(TextureLibrary(DEMO_FOLDER).read)


def laid(*triangles, light=None, depth=None, planes=None, coarse=1):
    """Return a picture (3, H, W) with facets laid over it."""
    light = np.zeros((3, HIGH, WIDE), np.float32) if light is None else light.copy()
    depth = np.zeros((HIGH, WIDE), np.float32) if depth is None else depth
    placed = PlacedTransparents(EMPTY, Triangles.together(triangles), NO_PATCHES)
    _composite(
        placed,
        _far_to_near(EMPTY, np.zeros(0, np.float32), placed.boxes[:, 5], Buffers()),
        light,
        depth,
        planes,
        coarse,
        Buffers(),
    )
    return light


def twin(corners, points, tints, uvs, texture, texels, soft, depth, *, blend=Blend.ALPHA, tiled=False, light=None):  # noqa: PLR0913
    """Lay facets one after another, in double precision and a whole picture at a time."""
    out = np.zeros((HIGH, WIDE, 3)) if light is None else np.moveaxis(light.astype(float), 0, 2).copy()
    seen = viewport().camera.project(points, WIDE, HIGH)
    y, x = np.mgrid[0:HIGH, 0:WIDE] + np.array([0.5 + float(LOWER), 0.5 + float(ASIDE)])[:, None, None]
    first, side = texture.levels[0]
    picture = texels[first : first + side * side].reshape(side, side, 4).astype(float)
    for row in corners:
        (ax, ay, ad), (bx, by, bd), (cx, cy, cd) = seen[row]
        area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        b = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area
        c = ((y - ay) * (bx - ax) - (x - ax) * (by - ay)) / area
        inside = np.minimum(np.minimum(b, c), 1 - b - c) >= 0
        near = (1 - b - c) / ad + b / bd + c / cd
        with np.errstate(divide="ignore", invalid="ignore"):
            b, c = b / bd / near, c / cd / near
        shares = np.nan_to_num(np.stack([1 - b - c, b, c], -1))
        u, v = np.moveaxis(shares @ uvs[row], -1, 0)
        premultiplied = np.column_stack([tints[row, :3] * tints[row, 3:], tints[row, 3:]])
        tint = shares @ premultiplied
        across = np.clip(u * side - 0.5, 0, side - 1)
        along = (v - np.floor(v)) * side - 0.5 if tiled else np.clip(v * side - 0.5, 0, side - 1)
        x0, y0 = np.minimum(np.floor(across), side - 2).astype(int), np.floor(along).astype(int)
        y0 = y0 if tiled else np.minimum(y0, side - 2)
        sx, sy = (across - x0)[..., None], (along - y0)[..., None]
        upper, lower = y0 % side, (y0 + 1) % side
        top = picture[upper, x0] * (1 - sx) + picture[upper, x0 + 1] * sx
        low = picture[lower, x0] * (1 - sx) + picture[lower, x0 + 1] * sx
        with np.errstate(divide="ignore"):
            far, solid = 1 / near, np.where(depth > 0, 1 / depth, 1e9)
        gap = np.clip((solid - far) / max(soft, 1e-4), 0, 1) * inside
        texel = (top + (low - top) * sy) * tint * gap[..., None]
        cover = texel[..., 3:] * (blend is not Blend.ADDITIVE)
        more = texel[..., :3]
        out = out * (1 - cover + more) if blend is Blend.MULTIPLY else out * (1 - cover) + more
    return out


def far_first(corners, points):
    """Return corners in the order of their facets' average inverse distance."""
    inverse = 1 / viewport().camera.project(points, WIDE, HIGH)[:, 2]
    return corners[np.argsort(inverse[corners].mean(axis=1), kind="stable")]


@pytest.mark.parametrize("blend", Blend)
@pytest.mark.parametrize("soft", [0.0, 0.8])
def test_a_facet_is_as_its_plain_twin_draws_it(blend, soft):
    held = textures()
    texture, shown = held.find("feather.png"), viewport()
    depth = np.full((HIGH, WIDE), 1 / 4.2, np.float32)
    depth[:, :60] = 0
    light = np.full((3, HIGH, WIDE), 0.25, np.float32)
    look = SpriteLook(blend=blend, soft=soft)
    triangles = triangles_of(QUAD, FLAT, TINTS, UVS, look, texture, shown)
    triangles.skins[:, :2] = texture.levels[0]  # the level that the twin looks up
    found = np.moveaxis(laid(triangles, light=light, depth=depth, planes=held.planes), 0, 2)
    wanted = twin(
        far_first(QUAD, FLAT), FLAT, TINTS, UVS, texture, held._atlas.texels, soft, depth, blend=blend, light=light
    )
    off = np.abs(found - wanted).max(axis=2)
    assert np.mean(off > 2e-3) < 0.002  # samples on an edge may fall to either side
    assert np.abs(wanted - 0.25).max() > 0.1


def test_a_texture_that_repeats_meets_itself():
    held = textures()
    uvs = UVS * np.array([1, 3.5], np.float32) + np.array([0, -1.2], np.float32)
    texture, white = held.find("mist.png", 2, 2), np.ones((4, 4), np.float32)
    triangles = triangles_of(QUAD, FLAT, white, uvs, SpriteLook(soft=0.0), texture, viewport(), tiled=True)
    triangles.skins[:, :2] = texture.levels[0]
    found = np.moveaxis(laid(triangles, planes=held.planes), 0, 2)
    nothing = np.zeros((HIGH, WIDE), np.float32)
    wanted = twin(far_first(QUAD, FLAT), FLAT, white, uvs, texture, held._atlas.texels, 0, nothing, tiled=True)
    assert np.mean(np.abs(found - wanted).max(axis=2) > 2e-3) < 0.002
    assert wanted.max() > 0.3


def test_two_facets_that_share_an_edge_leave_no_gap_and_lay_nothing_twice():
    """Seen straight from above a square's diagonal goes through the very middles of pixels."""
    view = View(target=(0, 0, 0), azimuth=0, elevation=89, distance=4, follow=False)
    square = np.array([(-1, 0, -1), (1, 0, -1), (-1, 0, 1), (1, 0, 1)], np.float32)
    held = textures()
    white = np.tile(np.array([0.5, 0.5, 0.5, 0.5], np.float32), (4, 1))
    midpoint = np.full((4, 2), 0.5, np.float32)  # where the disc is opaque
    found = laid(
        triangles_of(QUAD, square, white, midpoint, SpriteLook(soft=0.0), held.find(""), viewport(view)),
        planes=held.planes,
    )
    values = np.unique(np.round(found[0], 4))
    assert len(values) == 2
    assert np.count_nonzero(found[0]) > 2000


@pytest.mark.parametrize("coarse", [2, 4])
def test_coarser_facets_are_nearly_the_same(coarse):
    held = textures()
    triangles = triangles_of(QUAD, FLAT, TINTS, UVS, SpriteLook(soft=0.0), held.find(""), viewport())
    fine, rough = (laid(triangles, planes=held.planes, coarse=c) for c in (1, coarse))
    assert fine.max() > 0.2
    assert np.abs(fine - rough).mean() < 0.02 * fine.max()


def test_what_comes_too_near_or_is_no_number_or_unseen_is_left_out():
    points = np.repeat(FLAT[None], 5, axis=0)
    points[1] += viewport().camera.eye - points[1, 0]
    points[2, 1, 0] = np.nan
    points[3, 2, 1] = np.inf
    tints = np.repeat(TINTS[None], 5, axis=0)
    tints[4, :, 3] = 0
    corners = (QUAD[None] + 4 * np.arange(5)[:, None, None]).reshape(-1, 3).astype(np.int32)
    held = textures()
    triangles = triangles_of(
        corners,
        points.reshape(-1, 3),
        tints.reshape(-1, 4),
        np.tile(UVS, (5, 1)),
        SpriteLook(),
        held.find(""),
        viewport(),
    )
    assert (triangles.boxes[:2, 5] > 0).all()
    assert (triangles.boxes[2:, 5] == 0).sum() == 6
    assert np.isfinite(laid(triangles, planes=held.planes)).all()


# ---- sprites that lie -----------------------------------------------------------------------------


@pytest.mark.parametrize("axis", [(0, 1, 0), (0, 0, 1), (1, 2, -0.5), (0, 0, 0)])
def test_flat_sprites_lie_across_their_axis(axis):
    layer = Layer(
        source=PointSource(), look=SpriteLook(facing=Facing.FLAT, axis=axis), size=Attribute.of(0.6), **PLAIN
    )
    pool, program = born(layer, 3)
    pool.columns.state[k.PX : k.PZ + 1, :3] = np.array([[0, 1, 0], [0.3, 1.2, 0.1], [-0.4, 0.8, -0.2]]).T
    batch, drawer = batch_of(pool, program), drawer_of("sprite")
    assert drawer.count(batch) == 0
    (triangles,) = drawer.layered(batch, viewport(), textures()).triangles
    assert len(triangles.rows) == 6
    up = np.array(axis if any(axis) else (0, 1, 0), float)
    # Their corners lie in a plane across the axis, at the right distance from the middle.
    for n in range(3):
        a, one, two = triangles.rows[2 * n, 4:6], triangles.rows[2 * n, 10:13], triangles.rows[2 * n + 1, 10:13]
        assert one[0] == two[0], "both begin at the same corner"
        assert np.isfinite(a).all()
    camera, middle = viewport().camera, batch.drawn.positions[0]
    nearness = 1 / triangles.rows[0, 10:13]
    ahead = (middle - camera.eye) @ camera.basis[2]
    tilt = np.linalg.norm(np.cross(up / np.linalg.norm(up), camera.basis[2]))
    assert np.abs(nearness - ahead).max() <= 0.6 * np.sqrt(0.5) * tilt + 1e-3


def test_a_flat_sprite_stretches_and_fades_from_frame_to_frame():
    look = SpriteLook(
        facing=Facing.FLAT, texture="feather.png", sheet={"columns": 2, "rows": 2, "play": "life", "blended": True}
    )
    layer = Layer(
        source=PointSource(), look=look, stretch=Attribute.of(3.0), **(PLAIN | {"lifetime": Attribute.of(2.0)})
    )
    pool, program = born(layer, 1)
    pool.columns.state[k.PY, 0], pool.columns.state[k.AGE, 0] = 1, 0.5
    now, later = drawer_of("sprite").layered(batch_of(pool, program), viewport(), textures()).triangles
    step = later.skins[:, 0] - now.skins[:, 0]
    assert (step == now.skins[:, 1] ** 2).all()
    assert now.rows[0, 28] + later.rows[0, 28] == pytest.approx(1 / 65535, rel=1e-3)


# ---- ribbons --------------------------------------------------------------------------------------


def ribbon(points, *, look=None, width=0.2, sides=None, opacity=1.0, flowed=0.0):
    points = np.asarray(points, np.float32)
    many = len(points)
    return RibbonBatch(
        "layer", np.arange(1, dtype=np.uint64), look or RibbonLook(soft=0.0), np.array([0, many], np.int32), points,
        np.zeros((0, 3), np.float32) if sides is None else np.asarray(sides, np.float32),
        np.full(many, width, np.float32), np.tile(np.array([1, 1, 1, opacity], np.float32), (many, 1)), flowed,
    )  # fmt: skip


def corners_of(batch):
    """Return what a ribbon's corners are told to the facets: places, colours and uvs."""
    seen = {}
    real = triangles_of

    def spy(corners, points, tints, uvs, *rest, **more):
        seen.update(corners=corners, points=points, tints=tints, uvs=uvs)
        return real(corners, points, tints, uvs, *rest, **more)

    import wraithon.picture.looks.ribbon as module

    module.triangles_of, held = spy, module.triangles_of
    try:
        drawer_of("ribbon").layered(batch, viewport(), textures())
    finally:
        module.triangles_of = held
    return seen


STRAIGHT = [(0, 0.5 + 0.1 * n, 0) for n in range(11)]
BENT = [(np.sin(n / 3) * 0.5, 0.6 + 0.05 * n, np.cos(n / 3) * 0.5) for n in range(16)]


def test_a_band_is_as_wide_as_told_and_goes_through_all_its_points():
    found = corners_of(ribbon(BENT))
    left, right = found["points"][0::2], found["points"][1::2]
    assert len(left) == 15 * 4 + 1
    np.testing.assert_allclose((left + right)[::4] / 2, BENT, atol=1e-5)
    np.testing.assert_allclose(np.linalg.norm(right - left, axis=1), 0.2, atol=1e-5)
    # It faces the camera: across is square to the way there.
    across, ahead = right - left, (left + right) / 2 - viewport().camera.eye
    np.testing.assert_allclose((across * ahead).sum(axis=1), 0, atol=1e-5)


def test_a_band_is_smooth_between_its_points():
    points = corners_of(ribbon(BENT))["points"]
    middle = (points[0::2] + points[1::2]) / 2
    angle = np.unwrap(np.arctan2(middle[:, 0], middle[:, 2]))
    radius = np.linalg.norm(middle[:, [0, 2]], axis=1)
    assert np.abs(radius[4:-4] - 0.5).max() < 0.004  # a polyline would be off by 0.007
    assert (np.diff(angle) > 0).all()


def test_it_tapers_to_points_at_either_end():
    found = corners_of(ribbon(STRAIGHT, look=RibbonLook(head=0.25, tail=0.5, soft=0)))
    width = np.linalg.norm(found["points"][1::2] - found["points"][0::2], axis=1)
    along = np.linspace(0, 1, len(width))
    one, two = np.minimum(along / 0.25, 1), np.minimum((1 - along) / 0.5, 1)
    minimum = 1.5 * 4 / (viewport().camera.lens * HIGH)  # at least this wide, and fainter for it
    np.testing.assert_allclose(width, np.maximum(0.2 * one * (2 - one) * two * (2 - two), minimum), rtol=0.2)
    assert found["tints"][0, 3] == found["tints"][-1, 3] == 0


def test_curves_run_from_head_to_tail():
    look = RibbonLook(
        soft=0, widening=Curve.through((0, 1), (1, 2)), fading=Curve.through((0, 1), (1, 0.2)),
        tinting=Gradient.through((0, (1, 0, 0)), (1, (0, 0, 1))),
    )  # fmt: skip
    found = corners_of(ribbon(STRAIGHT, look=look))
    width = np.linalg.norm(found["points"][1::2] - found["points"][0::2], axis=1)
    assert width[[0, -1]] == pytest.approx([0.2, 0.4], rel=1e-4)
    np.testing.assert_allclose(found["tints"][[0, -1]], [(1, 0, 0, 1), (0, 0, 1, 0.2)], atol=1e-4)
    assert (np.diff(width) > -1e-6).all()


def test_a_texture_is_drawn_out_once_or_repeats_by_the_metre_and_flows():
    v = corners_of(ribbon(STRAIGHT))["uvs"][0::2, 1]
    np.testing.assert_allclose(v, np.linspace(0, 1, len(v)), atol=1e-4)
    look = RibbonLook(soft=0, tile=0.25, flow=1.0)
    v = corners_of(ribbon(STRAIGHT, look=look, flowed=10.1))["uvs"][0::2, 1]
    np.testing.assert_allclose(v, (np.linspace(0, 1, len(v)) - 0.1) / 0.25, atol=1e-4)


def test_a_band_that_turns_back_on_itself_does_not_twist():
    there = [(0.1 * n, 1.0, 0) for n in range(6)]
    back = [(0.5 - 0.1 * n, 1.02, 0) for n in range(1, 6)]
    points = corners_of(ribbon(there + back))["points"]
    across = points[1::2] - points[0::2]
    assert ((across[1:] * across[:-1]).sum(axis=1) > 0).all()


def test_points_that_coincide_make_no_spur():
    at_rest = [STRAIGHT[0]] * 5
    points = corners_of(ribbon(list(reversed(STRAIGHT)) + at_rest))["points"]
    assert points[:, 1].min() >= 0.5 - 1e-5
    assert np.isfinite(points).all()


def test_what_a_line_sweeps_is_as_wide_as_the_line():
    sides = [(0, 0, 0.1 + 0.02 * n) for n in range(11)]
    found = corners_of(ribbon(STRAIGHT, sides=sides, width=1.0))
    across = (found["points"][1::2] - found["points"][0::2])[::4]
    np.testing.assert_allclose(across, 2 * np.array(sides), atol=1e-5)


def test_thin_bands_are_fainter_not_thinner():
    found = corners_of(ribbon(STRAIGHT, width=0.001))
    wide = np.linalg.norm(found["points"][1::2] - found["points"][0::2], axis=1)
    pixel = np.linalg.norm(np.array(STRAIGHT[5]) - viewport().camera.eye) / (viewport().camera.lens * HIGH)
    assert wide[20] == pytest.approx(1.5 * pixel, rel=0.05)
    assert found["tints"][40, 3] == pytest.approx(0.001 / wide[20], rel=0.05)


@pytest.mark.parametrize(("many", "fine"), [(1_000, 4), (1_001, 2), (12_000, 2), (12_001, 1)])
def test_many_points_are_joined_more_plainly(many, fine):
    points = np.column_stack([np.linspace(-1, 1, many), np.ones(many), np.zeros(many)])
    assert len(corners_of(ribbon(points))["points"]) == 2 * ((many - 1) * fine + 1)


def test_a_sweeping_line_bears_amid_itself():
    from tests.pools import DT, HOME
    from wraithon.particles.pool import Line, Pool
    from wraithon.particles.program import compile_layer
    from wraithon.particles.rules import AnchorPlaces, TickContext
    from wraithon.project.look import Through
    from wraithon.project.source import LineSource

    layer = Layer(
        source=LineSource(to="tip", thickness=0.3),
        look=RibbonLook(through=Through.SWEEP),
        emission=Emission(),
        **PLAIN,
    )
    program, pool = compile_layer(layer, "e", 1, None), Pool()
    now = HOME.copy()
    now[:3, 3] = (0.2, 0, 0)
    ends = np.array([0, 1, 0], np.float32), np.array([0.2, 1.4, 0], np.float32)
    leads = np.array([0, DT / 2], np.float32)
    pool.emit(program, Line(np.uint64(1), 0, 0), leads, DT, TickContext.empty(), AnchorPlaces.of(HOME, now, ends))
    pool.step(program, DT, 0.0, TickContext.empty())
    batch = batch_of(pool, program)
    np.testing.assert_allclose(batch.positions[::-1], [(0, 0.5, 0), (0.1, 0.6, 0)], atol=1e-6)
    np.testing.assert_allclose(batch.sides[::-1], [(0, 0.5, 0), (0, 0.6, 0)], atol=1e-6)
    assert (batch.widths == 1).all()
