"""Films: shells and afterimages, against what rays and plain arithmetic say; their noise, and what they bend."""

from dataclasses import replace

import numba
import numpy as np
import pytest

from tests.pools import DT, PLAIN, born
from wraithon.character.pose import skin_of
from wraithon.particles.looks import batch_of
from wraithon.particles.looks.batch import ShowMoment
from wraithon.picture.camera import camera_of
from wraithon.picture.kernels.shell_kernels import CELLS
from wraithon.picture.looks import drawer_of
from wraithon.picture.looks.drawer import SpriteTextures, Viewport
from wraithon.picture.looks.shell import figure_of
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.renderer import Buffers
from wraithon.picture.shells import shell_meshes
from wraithon.picture.shells.lattice import lattice, noise
from wraithon.picture.shells.shell_meshes import BENDS, ShellDraw, bent, drawn_shells
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.thinning import thinned
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Gradient, Tint
from wraithon.project.look import AfterimageLook, Blend, Figure, Ingredient, NoiseField, ShellLook, ShellSide
from wraithon.project.project import View
from wraithon.project.source import PointSource
from wraithon.stage.frame import frame_of
from wraithon.stage.player import Player

VIEW = View(target=(0, 0.5, 0), azimuth=0, elevation=0, distance=4, follow=False)
HIGH, WIDE = 120, 160
BARE = {
    "first": NoiseField(amount=0),
    "second": NoiseField(amount=0),
    "warp": 0,
    "contrast": 1,
    "low": (0, 0),
    "high": (1, 1),
}
CALM = {"turn": Attribute.of(0), **PLAIN}


def viewport(view=VIEW):
    return Viewport(camera_of(view, (0, 0, 0)), WIDE, HIGH)


def textures():
    return SpriteTextures(TextureLibrary(None).read)


def shell(size=1.0, count=1, worn=None, **look):
    layer = Layer(
        source=PointSource(), look=ShellLook(**({"side": ShellSide.FRONT, "soft": 0.0} | look)),
        size=Attribute.of(size),
        colour=Tint(first=(0.5, 0.25, 1.0), second=(0.5, 0.25, 1.0)), opacity=Attribute.of(0.8), **CALM,
    )  # fmt: skip
    pool, program = born(layer, count)
    return batch_of(pool, program, ShowMoment(0.0, lambda _seconds: worn))


def shells_of(batch, shown=None, held=None):
    return drawer_of(batch.kind).layered(batch, shown or viewport(), held or textures()).shell_meshes


def patch_of(shell_meshes, depth=None, coarse=1, held=None, *, live=False):
    """Return what veils show, a picture (4, H, W) each of light and cover."""
    depth = np.zeros((HIGH, WIDE), np.float32) if depth is None else depth
    draw = ShellDraw(viewport(), depth, (held or textures()).planes, coarse, Buffers(), live)
    patches = drawn_shells(shell_meshes, draw)
    out = np.zeros((len(patches.table), 4, -(-HIGH // coarse), -(-WIDE // coarse)), np.float32)
    for number in range(len(patches.table)):
        left, top, right, bottom = patches.reach(number)
        out[number][:, top:bottom, left:right] = patches.planes(number)[:4, :, : right - left]
    return out, patches


# ---- noise ----------------------------------------------------------------------------------------


def noise_twin(points):
    """Return the noise of shells, from the lattice corner by corner, in double precision."""
    values = (lattice() & 0xFFFF).reshape(CELLS, CELLS, CELLS).astype(float) / 65535  # z, y, x

    def octave(at):
        cell = np.floor(at).astype(int)
        share = at - cell
        share = share * share * (3 - 2 * share)
        total = np.zeros(len(at))
        for corner in np.ndindex(2, 2, 2):
            weight = np.prod([share[:, k] if corner[k] else 1 - share[:, k] for k in range(3)], axis=0)
            x, y, z = ((cell + np.array(corner)) % CELLS).T
            total += weight * values[z, y, x]
        return total

    return np.clip(1.1 * octave(points) + 0.55 * octave(points * 2 + 0.5) - 0.325, 0, 1)


def test_the_noise_is_as_its_plain_twin_says_and_repeats():
    points = np.random.default_rng(3).uniform(-70, 70, (1003, 3)).astype(np.float32)
    found = noise(points)
    np.testing.assert_allclose(found, noise_twin(points.astype(float)), atol=3e-4)
    np.testing.assert_allclose(found, noise(points + CELLS), atol=2e-3)
    assert abs(found.mean() - 0.5) < 0.03
    assert found.std() > 0.15


# ---- shells ---------------------------------------------------------------------------------------


def test_a_figure_is_closed_and_faces_outward():
    for kind in (Figure.ELLIPSOID, Figure.CAPSULE):
        figure = figure_of(kind, 2.0)
        a, b, c = (figure.points[figure.triangles[:, k]] for k in range(3))
        volume = np.einsum("ij,ij->i", a - (0, 1, 0), np.cross(b - (0, 1, 0), c - (0, 1, 0))).sum() / 6
        wanted = np.pi / 6 * 2 if kind is Figure.ELLIPSOID else np.pi / 6 + np.pi / 4
        assert abs(volume) == pytest.approx(wanted, rel=0.02)
        assert figure.points[:, 1].min() == pytest.approx(0, abs=1e-9)
        assert figure.points[:, 1].max() == pytest.approx(2)
        assert np.ptp(figure.points[:, 0]) == pytest.approx(1, rel=0.01)
        outward = ((figure.points - (0, 1, 0)) * figure.normals).sum(axis=1)
        assert (outward > 0).all()


@pytest.mark.parametrize(("fill", "rim"), [(1.0, 1.0), (0.2, 2.0), (0.0, 4.0)])
def test_a_bare_ball_is_what_rays_say(fill, rim):
    (picture,), _ = patch_of(shells_of(shell(figure=Figure.ELLIPSOID, tall=1.0, fill=fill, rim=rim, **BARE)))
    camera = viewport().camera
    y, x = np.mgrid[0:HIGH, 0:WIDE] + 0.5
    focal = camera.lens * HIGH
    flat = np.stack([(x - WIDE / 2) / focal, (HIGH / 2 - y) / focal, np.ones_like(x)], -1)
    ways = flat @ camera.basis.astype(float)
    ways /= np.linalg.norm(ways, axis=-1, keepdims=True)
    to = np.array([0, 0.5, 0]) - camera.eye
    along = ways @ to
    inside = 0.25 - ((to @ to) - along**2)
    hit = inside > 0
    normal = (camera.eye + ways * (along - np.sqrt(np.maximum(inside, 0)))[..., None] - (0, 0.5, 0)) / 0.5
    facing = np.abs((normal * ways).sum(axis=-1))
    wanted = np.where(hit, 0.8 * (fill + (1 - fill) * (1 - facing) ** rim), 0)
    deep = hit & (facing > 0.3)
    np.testing.assert_allclose(picture[1][deep], wanted[deep] * 0.25, atol=0.004)
    np.testing.assert_allclose(picture[2][deep], wanted[deep], atol=0.015)
    assert (picture[2][~hit & (inside < -0.02)] == 0).all()
    assert (picture[3] == 0).all()  # it only adds light


def test_one_that_covers_tells_how_much():
    (picture,), _ = patch_of(shells_of(shell(blend=Blend.ALPHA, tall=1.0, fill=1, **BARE)))
    np.testing.assert_allclose(picture[3, 60, 80], 0.8, atol=1e-4)
    np.testing.assert_allclose(picture[:3, 60, 80], np.array([0.5, 0.25, 1]) * 0.8, atol=1e-4)


def test_it_is_nothing_behind_what_is_solid_and_fades_before_it():
    batch = shell(tall=1.0, fill=1, soft=0.5, **BARE)
    near = 3.5  # metres to the ball's nearest point
    shown = [
        patch_of(shells_of(batch), np.full((HIGH, WIDE), 1 / (near + gap), np.float32))[0][0][2, 60, 80]
        for gap in (-0.1, 0.001, 0.25, 0.6)
    ]
    np.testing.assert_allclose(shown, [0, 0.0016, 0.4, 0.8], atol=5e-3)


def test_what_is_behind_of_it_is_sorted_behind_and_turned_away():
    both = shells_of(shell(side=ShellSide.BOTH, tall=1.0, fill=1, **BARE))
    assert [shell_mesh.behind for shell_mesh in both] == [True, False]
    pictures, patches = patch_of(both)
    assert patches.boxes[0, 5] < 1 / 4 < patches.boxes[1, 5]
    np.testing.assert_allclose(pictures[0, 2, 60, 80], 0.8, atol=1e-4)
    (only,) = shells_of(shell(side=ShellSide.BACK))
    assert only.behind


def test_it_keeps_to_a_part_of_its_height():
    look = BARE | {"low": (0.2, 0.4), "high": (0.6, 0.9)}
    (picture,), _ = patch_of(shells_of(shell(tall=2.0, fill=1, **look)))
    (whole,), _ = patch_of(shells_of(shell(tall=2.0, fill=1, **BARE)))
    share = picture[2, :, 80] / np.maximum(whole[2, :, 80], 1e-6)
    camera = viewport().camera
    heights = np.linspace(0.02, 1.98, 40)
    rows = camera.project(np.column_stack([0 * heights, heights, 0 * heights + 0.3]), WIDE, HIGH)[:, 1]
    for height, row in zip(heights / 2, rows, strict=True):
        if 0 < row < HIGH - 1 and not any(abs(height - edge) < 0.09 for edge in (0.2, 0.4, 0.6, 0.9)):
            wanted = 0 if height < 0.2 or height > 0.9 else 1 if 0.4 < height < 0.6 else None
            if wanted is not None:
                assert share[int(row)] == pytest.approx(wanted, abs=0.06)


def test_a_picture_masks_it_where_it_is_dark():
    """A mask that is bright in its upper half: what is shown is that half, and the mask alone shows as much."""

    def half(_name):
        picture = np.full((64, 64, 4), 255, np.uint8)
        picture[32:, :, :3] = 0
        return picture

    held = SpriteTextures(half)
    (whole,), _ = patch_of(shells_of(shell(tall=2.0, fill=1, **BARE)))
    for look in ({}, {"shows": Ingredient.MASK}):
        batch = shell(tall=2.0, fill=1, mask="half.png", **BARE, **look)
        (picture,), _ = patch_of(shells_of(batch, held=held), held=held)
        rows = viewport().camera.project(np.array([[0, 1.2, 0.5], [0, 0.8, 0.5]]), WIDE, HIGH)[:, 1].astype(int)
        np.testing.assert_allclose(picture[2, : rows[0], 80], whole[2, : rows[0], 80], atol=0.02)
        assert np.abs(picture[2, rows[1] :, 80]).max() < 0.02
    assert ShellLook(mask="half.png").textures == ("half.png",)


@pytest.mark.parametrize("live", [False, True])
def test_while_playing_a_film_is_nearly_as_it_is(live):
    """One sample a pixel, fewer triangles and half the size lose no light and hardly move its outline."""
    batch = shell(tall=1.6, fill=0.6, rim=1.5, **BARE)
    exact, shown = patch_of(shells_of(batch))[0][0], patch_of(shells_of(batch), live=live)[0][0]
    assert shown[2].sum() == pytest.approx(exact[2].sum(), rel=0.03)
    assert np.abs(shown[2] - exact[2]).mean() < 0.01


@pytest.mark.parametrize("shows", [Ingredient.FIRST, Ingredient.SECOND])
def test_an_ingredient_alone_is_its_noise(shows):
    look = BARE | {"first": NoiseField(scale=0.2, amount=1), "second": NoiseField(scale=0.5, amount=1)}
    (picture,), _ = patch_of(shells_of(shell(tall=1.0, shows=shows, **look)))
    camera = viewport().camera
    scale = 0.2 if shows is Ingredient.FIRST else 0.5
    for x, y in ((80, 60), (70, 50), (95, 66)):
        way = camera.ray(x + 0.5, y + 0.5, WIDE, HIGH)
        to = np.array([0, 0.5, 0]) - camera.eye
        along = way @ to
        position = camera.eye + way * (along - np.sqrt(0.25 - (to @ to - along**2)))
        assert picture[2, y, x] / 0.8 == pytest.approx(float(noise_twin((position / scale)[None])[0]), abs=0.06)


def test_its_fields_move_unless_they_are_held():
    def at(age, **look):
        batch = shell(tall=1.0, **look)
        batch.ages[:] = age
        return patch_of(shells_of(batch))[0][0]

    assert np.abs(at(0.0) - at(1.0)).max() > 0.05
    np.testing.assert_array_equal(at(0.0, frozen=True), at(1.0, frozen=True))
    moved = at(1.0, first=NoiseField(drift=(0, 0.25 * CELLS, 0)), second=NoiseField(amount=0), warp=0)
    still = at(0.0, first=NoiseField(drift=(0, 0.25 * CELLS, 0)), second=NoiseField(amount=0), warp=0)
    np.testing.assert_allclose(moved, still, atol=2e-2)  # once round


def test_it_swells_but_keeps_calm_below():
    swollen, calm = (shells_of(shell(tall=2.0, swell=s, calm=0.5, side=ShellSide.FRONT))[0] for s in (0.2, 0.0))
    out = np.linalg.norm(swollen.points - calm.points, axis=1)
    assert 0.1 < out.max() <= 0.2 + 1e-5
    assert out[calm.heights < 0.02].max() < 1e-3
    assert out[calm.heights > 0.5].mean() > 2 * out[(calm.heights > 0.05) & (calm.heights < 0.3)].mean()


def test_bands_colour_it_by_its_strength():
    bands = Gradient.through((0, (0, 1, 0)), (0.5, (0, 1, 0)), (0.6, (1, 0, 0)), (1, (1, 0, 0)))
    (picture,), _ = patch_of(shells_of(shell(tall=1.0, fill=0.2, rim=1.0, bands=bands, **BARE)))
    left = np.flatnonzero(picture[:3].sum(axis=0)[60])[0]
    face_on, aside = picture[:3, 60, 80], picture[:3, 60, left + 1]
    assert face_on[1] > 0.02
    assert face_on[0] == 0
    assert aside[0] > 0.02


@pytest.mark.parametrize("texture", ["glow.png", "mist.png"])
def test_a_picture_meets_itself_all_around(texture):
    held = textures()
    look = BARE | {"first": NoiseField(texture=texture, scale=0.7, amount=1), "shows": Ingredient.FIRST}
    behind = View(target=(0, 0.5, 0), azimuth=0, elevation=0, distance=4, follow=False)
    (picture,), _ = patch_of(shells_of(shell(tall=1.0, **look), viewport(behind), held), held=held)
    row = picture[2, 60, 66:95]
    assert np.abs(np.diff(row)).max() < 0.25
    assert np.isfinite(picture).all()


def test_skin_is_worn_as_it_stands_pushed_outward(demo):
    character = demo.characters["halcyon"]
    player = Player(demo.project, demo.characters)
    _, skin = player.show.posed(0)
    for shell_mesh in shells_of(shell(0.05, figure=Figure.SKIN, side=ShellSide.BOTH, worn=(character, skin))):
        np.testing.assert_allclose(shell_mesh.points, skin.positions + 0.05 * skin.normals, atol=1e-6)
        assert shell_mesh.heights.min() == 0
        assert shell_mesh.heights.max() == 1
    assert shells_of(shell(0.05, figure=Figure.SKIN)) == ()


def test_hardly_more_shells_are_drawn_than_can_be():
    assert len(shells_of(shell(count=ShellLook.maximum + 5))) == ShellLook.maximum


@pytest.mark.parametrize("coarse", [2, 3])
def test_coarser_films_are_nearly_the_same(coarse):
    batch = shell(tall=1.0, fill=1.0, **BARE)
    fine, rough = patch_of(shells_of(batch))[0][0], patch_of(shells_of(batch), coarse=coarse)[0][0]
    assert rough[2].sum() * coarse**2 == pytest.approx(fine[2].sum(), rel=0.02)


# ---- bending --------------------------------------------------------------------------------------


def test_what_is_behind_is_bent_inward_and_only_there():
    shell_meshes = shells_of(shell(tall=1.0, bend=0.1, fill=0.0, **BARE))
    assert shell_meshes[0].shader_parameters[BENDS] == pytest.approx(0.1 * float(viewport().focal) / 4, rel=0.05)
    picture = np.tile(np.linspace(0, 1, WIDE, dtype=np.float32), (3, HIGH, 1))
    before = picture.copy()
    _, patches = patch_of(shell_meshes)
    bent(patches, 1, picture, Buffers())
    changed = np.abs(picture - before).max(axis=0) > 1e-6
    assert changed.any()
    assert not changed[:, :50].any()
    # To the right of its middle it shows what is farther to the right, to the left what is farther left.
    assert picture[0, 60, 88] > before[0, 60, 88]
    assert picture[0, 60, 71] < before[0, 60, 71]
    assert picture[0, 60, 88] - before[0, 60, 88] == pytest.approx(before[0, 60, 71] - picture[0, 60, 71], rel=0.05)


def test_a_shell_that_bends_nothing_leaves_the_picture():
    picture = np.random.default_rng(0).random((3, HIGH, WIDE), np.float32)
    before = picture.copy()
    bent(patch_of(shells_of(shell()))[1], 1, picture, Buffers())
    np.testing.assert_array_equal(picture, before)


# ---- afterimages ----------------------------------------------------------------------------------


def ghosts(demo, *, rate=10.0, limit=5, lifetime=0.6, length=None, **look):
    layer = Layer(
        id="ghosts", source=PointSource(), emission=Emission(rate=rate, limit=limit),
        look=AfterimageLook(**look), **(CALM | {"lifetime": Attribute.of(lifetime)}),
    )  # fmt: skip
    project = demo.project.evolve(effects=(Effect(id="e", length=length, layers=(layer,)),), triggers=())
    player = Player(project, demo.characters)
    player.show.start(player.show.compiled.effects["e"], None, 0.0)
    return player


def played(player, seconds):
    for _ in range(round(seconds / DT)):
        player.show.advance()
    return next(iter(frame_of(player.show).batches), None)


def test_an_afterimage_is_the_pose_of_its_birth(demo):
    player = ghosts(demo, rate=4, lifetime=10, limit=20)
    batch = played(player, 1.1)
    performance = player.show.compiled.performance
    assert len(batch.worn) == 5
    for n, (character, skin) in enumerate(batch.worn):  # the oldest first
        wanted = skin_of(character, performance.pose_at(n / 4))
        np.testing.assert_allclose(skin.positions, wanted.positions, atol=2e-3)
    one, two = (player.show.skin_before(1.1 - at)[1].positions for at in (0.25, 0.75))
    assert np.abs(one - two).max() > 0.02  # she has moved


def test_there_are_at_most_so_many_and_none_once_they_are_over(demo):
    player = ghosts(demo, rate=60, limit=3, lifetime=0.5)
    assert len(played(player, 0.2).worn) == 3
    many = ghosts(demo, rate=200, limit=400, lifetime=5)
    assert len(played(many, 0.3).worn) == AfterimageLook.maximum
    over = ghosts(demo, length=0.2)
    played(over, 0.2)
    for _ in range(60):
        over.show.advance()
    assert not over.show.firings
    assert not frame_of(over.show).batches


def test_afterimages_are_the_same_after_a_seek(demo):
    player = ghosts(demo)
    held = played(player, 1.0)
    copy = player.show.copy()
    played(player, 0.7)
    player.show.restore(copy)
    again = frame_of(player.show).batches[0]
    np.testing.assert_array_equal(again.identities, held.identities)
    for (_, one), (_, two) in zip(again.worn, held.worn, strict=True):
        np.testing.assert_array_equal(one.positions, two.positions)


def test_where_nobody_stands_there_are_none():
    layer = Layer(source=PointSource(), look=AfterimageLook(), **CALM)
    pool, program = born(layer, 3)
    batch = batch_of(pool, program)
    assert batch.worn == ()
    assert shells_of(batch) == ()


def test_few_triangles_are_nearly_the_character(demo):
    character = demo.characters["halcyon"]
    few = thinned(character)
    assert 1000 < len(few) < 0.6 * len(character.mesh.triangles)
    corners = character.mesh.positions[few]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    assert (area > 0).mean() > 0.99


# ---- the whole picture ----------------------------------------------------------------------------


def whole(demo, look, threads, *, live=False, burst=2):
    layer = Layer(
        id="l", source=PointSource(), emission=Emission(bursts=(Burst(count=burst),)), look=look,
        size=Attribute.of(1.2 if getattr(look, "figure", None) is not Figure.SKIN else 0.08), **CALM,
    )  # fmt: skip
    project = demo.project.evolve(effects=(Effect(id="e", layers=(layer,)),), triggers=())
    player = Player(project, demo.characters)
    player.show.start(player.show.compiled.effects["e"], None, 0.0)
    played(player, 0.3)
    before = numba.get_num_threads()
    numba.set_num_threads(threads)
    try:
        renderer = RasterRenderer(TextureLibrary(None).read)
        return renderer.draw(player.frame(), demo.project.view, 200, 150, live=live).pixels
    finally:
        numba.set_num_threads(before)


LOOKS = [
    ShellLook(bend=0.1),
    ShellLook(figure=Figure.SKIN, swell=0.05),
    ShellLook(blend=Blend.ALPHA),
    AfterimageLook(),
]


@pytest.mark.parametrize("live", [False, True])
@pytest.mark.parametrize("look", LOOKS, ids=lambda look: f"{look.kind} {getattr(look, 'figure', '')} {look.blend}")
def test_films_show_and_are_the_same_at_any_thread_count(demo, look, live):
    one, two = (whole(demo, look, threads, live=live) for threads in (1, 2))
    np.testing.assert_array_equal(one, two)
    nothing = whole(demo, look, 2, live=live, burst=0)
    assert np.abs(one.astype(int) - nothing).max() > 10


def test_a_film_lies_among_sprites_by_its_distance():
    """A square within a shell is seen through its front, and hides its back."""
    both = shells_of(shell(side=ShellSide.BOTH, tall=1.0))
    _, patches = patch_of(both)
    midpoint = 1 / 4.0
    order = np.argsort([patches.boxes[0, 5], midpoint, patches.boxes[1, 5]])
    assert order.tolist() == [0, 1, 2]


def test_veils_that_cannot_be_seen_are_left_out():
    batch = shell()
    batch.drawn.positions[:] += viewport().camera.eye + viewport().camera.basis[2] * -3
    assert len(patch_of(shells_of(batch))[1].table) == 0
    batch = shell(size=0.0)
    assert shells_of(batch) == ()
    odd = shell()
    odd = replace(odd, drawn=odd.drawn._replace(positions=np.full((1, 3), np.nan, np.float32)))
    assert len(patch_of(shells_of(odd))[1].table) == 0


# ---- films of live pictures -----------------------------------------------------------------------


@pytest.mark.parametrize("size", [0.37, 1.0, 2.9])
def test_a_film_at_twice_its_size_is_what_plain_arithmetic_says(size, monkeypatch):
    seen, kernel = [], shell_meshes.double_patch

    def spy(source, out):
        kernel(source, out)
        seen.append((source.copy(), out.copy()))

    monkeypatch.setattr(shell_meshes, "double_patch", spy)
    patch_of(shells_of(shell(size, figure=Figure.CAPSULE, fill=0.6)), live=True)
    ((source, out),) = seen
    _, height, width = source.shape
    assert source.any()
    around = np.pad(source.astype(float), ((0, 0), (1, 1), (1, 1)))
    y, x, end = np.arange(2 * height), np.arange(2 * width), min(2 * width, out.shape[2])
    rows = 0.75 * around[:, y // 2 + 1] + 0.25 * around[:, y // 2 + y % 2 * 2]
    wanted = 0.75 * rows[:, :, x // 2 + 1] + 0.25 * rows[:, :, x // 2 + x % 2 * 2]
    np.testing.assert_allclose(out[:, :, :end], wanted[:, :, :end], atol=1e-6)
    assert not out[:, :, end:].any()


def test_a_live_film_is_drawn_half_as_fine_and_looks_nearly_the_same():
    shell_meshes = shells_of(shell(figure=Figure.CAPSULE, tall=1.0, fill=0.6, **(BARE | {"low": (0.1, 0.4)})))
    (exact,), _ = patch_of(shell_meshes)
    (live,), _ = patch_of(shell_meshes, live=True)
    assert live[:3].sum() == pytest.approx(exact[:3].sum(), rel=0.01)
    shows = exact[2] > 0
    inside = shows & np.roll(shows, 3, 0) & np.roll(shows, -3, 0) & np.roll(shows, 3, 1) & np.roll(shows, -3, 1)
    assert inside.mean() > 0.05
    assert np.abs(live - exact)[:, inside].max() < 0.04
    assert np.abs(live - exact).mean() < 0.004
