"""Pictures: where things are, how they blend, and that the same frame gives the same bytes."""

from dataclasses import replace

import numba
import numpy as np
import pytest
from scipy import ndimage

from wraithon.numeric.compiled import called
from wraithon.particles.looks.batch import Drawn
from wraithon.particles.looks.sprite import SpriteBatch
from wraithon.picture.camera import camera_of
from wraithon.picture.enlarging import enlarged
from wraithon.picture.kernels.columns import SPRITE_COLUMNS
from wraithon.picture.kernels.doubling_kernels import SPARE, mix_rows, write_doubled
from wraithon.picture.kernels.post_kernels import BRIGHTEST, DARKEST, byte_table
from wraithon.picture.kernels.raster_kernels import band_order
from wraithon.picture.kernels.sprite_kernels import ADDED, GREY, NARROW, SPECK, TINTED
from wraithon.picture.looks import sprite
from wraithon.picture.looks.drawer import SpriteQuads, Triangles, Viewport
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.renderer import Buffers
from wraithon.picture.shells.shell_meshes import NO_PATCHES
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.solid.ground import ground_texture
from wraithon.picture.textures import SpriteAtlas, halved, read_texture
from wraithon.picture.transparent import PlacedTransparents, _far_to_near, band_rows, prepared
from wraithon.picture.triangles import listed
from wraithon.project.dissolve import Dissolve
from wraithon.project.look import Blend, Facing, SpriteLook
from wraithon.project.project import View
from wraithon.stage.frame import Frame
from wraithon.stage.player import Player
from wraithon.support.errors import RenderError

VIEW = View(target=(0, 1, 0), azimuth=0, elevation=5, distance=5, follow=False)


def renderer():
    return RasterRenderer(TextureLibrary(None).read)


def batch(positions, *, size=0.2, colour=(1, 1, 1, 1), velocity=(0, 0, 0), **look):
    positions = np.asarray(positions, np.float32).reshape(-1, 3)
    n = len(positions)
    made = Drawn(
        positions,
        np.tile(np.asarray(velocity, np.float32), (n, 1)),
        np.tile(np.array([0, 1, 0], np.float32), (n, 1)),
        np.full(n, size, np.float32),
        np.ones(n, np.float32),
        np.zeros(n, np.float32),
        np.tile(np.asarray(colour, np.float32), (n, 1)),
        np.zeros(n, np.int32),
    )
    return SpriteBatch("layer", np.arange(n, dtype=np.uint64), SpriteLook(**({"soft": 0.0} | look)), made)


def frame(*batches, body=None):
    return Frame(0.0, body, (0.0, 0.0, 0.0), tuple(batches), "plain", 1.0)


def drawn(*batches, body=None, size=(160, 120), **more):
    return renderer().draw(frame(*batches, body=body), VIEW, *size, **more).pixels[..., :3].astype(int)


@pytest.fixture(scope="module")
def dancer(demo):
    player = Player(demo.project, demo.characters)
    player.seek(2.95)
    return player.frame()


def test_a_sprite_is_where_the_camera_says():
    point = np.array([[0.4, 1.3, 0.2]])
    change = np.abs(drawn(batch(point, size=0.1)) - drawn()).sum(axis=2)
    y, x = np.unravel_index(change.argmax(), change.shape)
    expected = camera_of(VIEW, (0, 0, 0)).project(point, 160, 120)[0]
    assert abs(x + 0.5 - expected[0]) < 2
    assert abs(y + 0.5 - expected[1]) < 2


def test_rays_and_projection_are_inverse():
    camera = camera_of(View(azimuth=37, elevation=20, distance=3), (1, 0, 2))
    ray = camera.ray(200.0, 90.0, 320, 240)
    x, y, _ = camera.project((camera.eye + ray * 2.5)[None], 320, 240)[0]
    assert (x, y) == (pytest.approx(200, abs=1e-3), pytest.approx(90, abs=1e-3))


def test_additive_adds_and_alpha_covers():
    plain, dark = drawn(), (0.0, 0.0, 0.0, 1.0)
    added = drawn(batch([0, 1, 0], size=1, blend=Blend.ADDITIVE, colour=dark))
    covered = drawn(batch([0, 1, 0], size=1, blend=Blend.ALPHA, colour=dark))
    assert np.abs(added - plain).max() <= 1
    assert (plain - covered).max() > 10
    assert (covered - plain).max() <= 1


def test_near_alpha_sprites_cover_far_ones_in_any_order():
    near = batch([0, 1, 1], size=1, colour=(1, 0, 0, 1))
    far = batch([0, 1, -1], size=1, colour=(0, 0, 1, 1))
    one, other = drawn(near, far), drawn(far, near)
    np.testing.assert_array_equal(one, other)
    middle = one[55:65, 75:85].mean(axis=(0, 1))
    assert middle[0] > middle[2]


@pytest.mark.parametrize("away", [0.12, 0.3, 0.49, 0.51, 1.5])
def test_what_is_near_covers_what_is_farther_off(away):
    """Within half a metre of the eye, too."""
    camera = camera_of(VIEW, (0, 0, 0))
    ahead = camera.basis[2]
    near = batch(camera.eye + ahead * away, size=away / 4, colour=(1, 0, 0, 1))
    far = batch(camera.eye + ahead * (away + 1), size=(away + 1) / 4, colour=(0, 1, 0, 1))
    for batches in ((near, far), (far, near)):
        red, green, _, _ = map(int, renderer().draw(frame(*batches), VIEW, 96, 96).pixels[48, 48])
        assert red > 2 * green


def order_of(near, blends, others):
    quads = SpriteQuads(np.zeros((len(near), SPRITE_COLUMNS), np.float32), np.zeros((len(near), 3), np.int32), blends)
    return _far_to_near(quads, near, others, Buffers()).tolist()


def test_an_order_is_that_of_distance():
    rng = np.random.default_rng(4)
    near, others = ((1 / np.exp(rng.uniform(-3, 14, many))).astype(np.float32) for many in (3000, 500))
    near[rng.random(3000) < 0.2], others[7] = 0, np.nan
    blends = np.where(rng.random(3000) < 0.5, ADDED, 0).astype(np.uint8)
    rows, every = order_of(near, blends, others), np.concatenate([near, others])
    assert sorted(rows) == np.flatnonzero(every > 0).tolist()
    assert (np.maximum.accumulate(every[rows]) <= every[rows] * 1.0005).all()


def test_an_order_leaves_alone_what_it_need_not_sort():
    alike, blends = np.full(5, 2.0, np.float32), np.zeros(5, np.uint8)
    assert order_of(alike, blends, alike[:2]) == list(range(7))
    # What only adds light needs no order, but where others are among it.
    mixed = np.array([3, 0, 1, 2, 0.5], np.float32)
    assert order_of(mixed, blends + ADDED, mixed[:0]) == [0, 2, 3, 4]
    assert order_of(mixed, blends + ADDED, mixed[:1]) == [4, 2, 3, 0, 5]
    assert order_of(mixed, np.array([ADDED] * 4 + [0], np.uint8), mixed[:0]) == [4, 2, 3, 0]


def test_sprites_behind_the_character_are_hidden(dancer):
    middle = dancer.body.positions[:3000].mean(axis=0)
    view = VIEW.evolve(target=tuple(float(x) for x in middle))
    behind = batch(middle + (0, 0, -0.5), size=0.05, colour=(50, 50, 50, 1), blend=Blend.ADDITIVE)
    before = batch(middle + (0, 0, 1.0), size=0.05, colour=(50, 50, 50, 1), blend=Blend.ADDITIVE)

    def change(*batches):
        base = Frame(0.0, dancer.body, dancer.centre, (), "plain", 1.0)
        full = Frame(0.0, dancer.body, dancer.centre, batches, "plain", 1.0)
        pixels = [renderer().draw(f, view, 160, 160).pixels.astype(int) for f in (base, full)]
        return np.abs(pixels[1] - pixels[0]).sum()

    assert change(behind) < change(before) * 0.05


def test_soft_edges_fade_before_the_ground():
    hard = drawn(batch([0, 0.0, 0], size=1.0, soft=0.0)) - drawn()
    soft = drawn(batch([0, 0.0, 0], size=1.0, soft=0.6)) - drawn()
    assert 0 < np.abs(soft).sum() < np.abs(hard).sum() * 0.9


def test_sprites_along_their_velocity_stretch_along_it():
    stretched = batch(
        [0, 1, 0], size=0.05, velocity=(4, 0, 0), facing=Facing.VELOCITY, stretch=0.1, blend=Blend.ADDITIVE,
        colour=(0.9, 0.9, 0.9, 1),
    )  # fmt: skip
    change = np.abs(drawn(stretched) - drawn()).sum(axis=2) > 30
    assert np.ptp(np.flatnonzero(change.any(axis=0))) > 2.5 * np.ptp(np.flatnonzero(change.any(axis=1)))


def test_thin_sprites_keep_their_light():
    def light(size):
        change = (
            drawn(batch([0, 1, 0], size=size, blend=Blend.ADDITIVE, colour=(0.4 / size**2,) * 3 + (1,))) - drawn()
        )
        return change.sum()

    assert light(0.004) > 0


def test_pictures_are_the_same_bytes_at_any_thread_count(dancer):
    threads = numba.get_num_threads()
    pictures = []
    try:
        for count in sorted({1, threads}):
            numba.set_num_threads(count)
            for live in (False, True):
                pictures.append(renderer().draw(dancer, VIEW, 233, 171, live=live).pixels.tobytes())
    finally:
        numba.set_num_threads(threads)
    assert len(set(pictures)) == 2
    assert len(set(pictures[::2])) == 1


def test_a_used_renderer_draws_what_a_new_one_does(dancer):
    used = renderer()
    used.draw(dancer, View(distance=1.0), 200, 150)
    used.draw(frame(), VIEW, 200, 150)
    np.testing.assert_array_equal(
        used.draw(dancer, VIEW, 200, 150).pixels, renderer().draw(dancer, VIEW, 200, 150).pixels
    )


def test_crowds_make_the_live_picture_coarser_and_say_so():
    rng = np.random.default_rng(0)
    crowd = batch(rng.normal(size=(4000, 3)) * 0.5 + (0, 1, 0), size=1.5, colour=(0.1, 0.1, 0.1, 0.1))
    draw = renderer().draw
    assert draw(frame(crowd), VIEW, 320, 240, live=True).coarseness > 1
    assert draw(frame(crowd), VIEW, 320, 240).coarseness == 1


def test_one_slow_frame_costs_no_sharpness_and_what_was_given_up_comes_back_after_a_while():
    slow = renderer()
    full = slow._budget
    for seconds in (0.02, 0.06, 0.02):
        slow.keep_up(seconds, 0.03)
    assert slow._budget == full
    for _ in range(12):
        slow.keep_up(0.05, 0.03)
    less = slow._budget
    assert less < 0.5 * full
    assert not renderer().gives_all
    for _ in range(20):  # until it is known to be quick again
        slow.keep_up(0.02, 0.03)
    minimum = slow._budget
    for _ in range(70):
        slow.keep_up(0.02, 0.03)
    assert slow._budget == minimum
    for _ in range(200):
        slow.keep_up(0.02, 0.03)
    assert slow._budget == full
    for _ in range(200):  # neither slow nor so quick that more can be borne
        slow.keep_up(0.028, 0.03)
    assert slow._budget == full


def test_a_second_that_is_a_little_too_slow_passes_as_it_is_and_a_longer_one_does_not():
    slow = renderer()
    full = slow._budget
    for _ in range(30):
        slow.keep_up(0.034, 0.03)
    assert slow._budget == full
    for _ in range(60):  # time to spare pays it back
        slow.keep_up(0.028, 0.03)
    for _ in range(30):
        slow.keep_up(0.034, 0.03)
    assert slow._budget == full
    for _ in range(20):
        slow.keep_up(0.034, 0.03)
    assert slow._budget < full


def test_a_coarser_picture_is_nearly_the_same():
    mist = [batch([x, 1, 0], size=0.9, colour=(0.6, 0.5, 0.4, 0.5)) for x in (-0.5, 0.0, 0.6)]
    full = drawn(*mist)
    slow = renderer()
    for _ in range(60):
        slow.keep_up(1.0, 0.03)
    import wraithon.picture.raster as module

    before = module.FEWEST_LIVE_PIXELS
    try:
        module.FEWEST_LIVE_PIXELS = 1
        for _ in range(200):
            slow.keep_up(1.0, 0.03)
        picture = slow.draw(frame(*mist), VIEW, 160, 120, live=True)
    finally:
        module.FEWEST_LIVE_PIXELS = before
    assert picture.coarseness == 4
    assert np.abs(picture.pixels[..., :3].astype(int) - full).mean() < 4


def test_bad_numbers_are_left_out():
    bad = batch([[np.nan, 1, 0], [0, np.inf, 0], [0, 1, 0]], size=0.3)
    bad.drawn.sizes[2] = np.nan
    np.testing.assert_array_equal(drawn(bad), drawn())
    bright = batch([0, 1, 0], size=0.5, colour=(1e30, 1e30, 1e30, 1), blend=Blend.ADDITIVE)
    assert drawn(bright).max() == 255


@pytest.mark.parametrize("size", [(7, 100), (100, 0), (9000, 100)])
def test_absurd_sizes_are_refused(size):
    with pytest.raises(RenderError, match="cannot be made"):
        renderer().draw(frame(), VIEW, *size)


@pytest.mark.parametrize("size", [(8, 8), (9, 301), (301, 9)])
def test_odd_sizes_are_drawn(dancer, size):
    assert renderer().draw(dancer, VIEW, *size, live=True).pixels.shape == (size[1], size[0], 4)


def test_a_missing_texture_is_told_and_drawn_as_a_disc():
    r = renderer()
    r.draw(frame(batch([0, 1, 0], texture="gone.png")), VIEW, 80, 60)
    assert "gone.png" in r.problems["gone.png"]


def test_damaged_textures_are_told(tmp_path):
    path = tmp_path / "bad.png"
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + b"\0" * 40)
    with pytest.raises(RenderError, match=r"bad\.png"):
        read_texture(path)


def test_shelves_stay_in_their_folder(tmp_path):
    library = TextureLibrary(tmp_path)
    assert library.path("../../etc/passwd") is None
    with pytest.raises(RenderError, match="no such texture"):
        library.read("../../etc/passwd")
    assert "feather.png" in library.names()


def test_levels_keep_the_mean_of_a_texture():
    picture = np.random.default_rng(0).integers(0, 255, (64, 64, 4)).astype(np.uint8)
    atlas = SpriteAtlas()
    texture = atlas.add("t", picture, 2, 2)
    first, side = texture.levels[0]
    last, one = texture.levels[-1]
    assert (side, one) == (32, 1)
    means = atlas.texels[first : first + 4 * side * side].reshape(4, -1, 4).mean(axis=1)
    np.testing.assert_allclose(atlas.texels[last : last + 4], means, atol=1e-5)


def test_packed_texels_are_those_of_the_atlas_with_their_right_neighbours():
    rng = np.random.default_rng(1)
    atlas = SpriteAtlas()
    grey = np.repeat(rng.integers(0, 255, (16, 16, 1)), 4, axis=2).astype(np.uint8)
    assert atlas.add("grey", grey, 1, 1).grey
    assert atlas.plain.grey
    assert not atlas.add("tinted", rng.integers(1, 255, (16, 16, 4)).astype(np.uint8), 1, 1).grey
    own, beside = (atlas.planes & 0xFFFF) / 65535, (atlas.planes >> 16) / 65535
    np.testing.assert_allclose(own.reshape(4, -1).T, atlas.texels, atol=1e-5)
    np.testing.assert_array_equal(beside.reshape(4, -1)[:, :-1], own.reshape(4, -1)[:, 1:])


def test_bytes_of_light_are_those_of_the_tone_curve_and_srgb():
    table = byte_table()
    light = np.geomspace(float(DARKEST) * 1.1, float(BRIGHTEST) * 0.99, len(table) * 3)
    positions = (light.astype(np.float32).view(np.int32) >> 15) - (int(DARKEST.view(np.int32)) >> 15)
    mapped = light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14)
    wanted = 255 * np.where(mapped <= 0.0031308, mapped * 12.92, 1.055 * np.minimum(mapped, 1) ** (1 / 2.4) - 0.055)
    assert np.abs(table[positions] - wanted).max() < 1
    assert (table[0], table[-1]) == (0, 255)


def test_a_picture_that_is_held_is_never_drawn_over_and_one_let_go_is_used_again(player, demo):
    renderer = RasterRenderer(TextureLibrary(None).read)
    frame = player.frame()
    first = renderer.draw(frame, demo.project.view, 64, 48).pixels
    was, position = first.copy(), first.ctypes.data
    others = [renderer.draw(frame, demo.project.view, 64, 48).pixels for _ in range(6)]
    assert len({pixels.ctypes.data for pixels in (first, *others)}) == 7
    np.testing.assert_array_equal(first, was)
    row = first[0]  # a view holds it, too
    del first
    assert renderer.draw(frame, demo.project.view, 64, 48).pixels.ctypes.data != position
    others.clear()
    again = [renderer.draw(frame, demo.project.view, 64, 48).pixels.ctypes.data for _ in range(3)]
    assert len(set(again)) == 1  # each was let go before the next
    np.testing.assert_array_equal(row, was[0])


def test_memory_to_give_away_has_the_shape_that_is_asked_for():
    buffers = Buffers()
    first = buffers.lent("pixels", (4, 4), np.uint32)
    assert buffers.lent("pixels", (4, 4), np.uint32) is not first
    assert buffers.lent("pixels", (2, 8), np.uint32).shape == (2, 8)
    assert buffers.lent("pixels", (4, 4), np.float32).dtype == np.float32


@pytest.mark.parametrize("kind", ["slate", "moss", "puddle", "plain"])
def test_grounds_differ_and_are_not_blank(kind):
    levels, texels = ground_texture(kind)
    assert len(texels) == sum(w * h for _, w, h in levels)
    assert texels[:, :3].std() > 1


@pytest.mark.parametrize("bands", [1, 2, 3, 17, 75, 600])
def test_band_orders_hold_every_band_once(bands):
    assert sorted(band_order(bands)) == list(range(bands))


def test_every_part_shows_and_hides(dancer, demo):
    use = demo.project.character
    pictures = set()
    for part in demo.characters["halcyon"].parts:
        project = demo.project.evolve(characters=(use.evolve(hidden_parts=(part.name,)),))
        player = Player(project, demo.characters)
        pictures.add(renderer().draw(player.frame(), demo.project.view, 160, 160).pixels.tobytes())
    assert len(pictures) == 5


# ---- figures on the skin, and the dissolve --------------------------------------------------------


def close_up(dancer, **changes):
    body = replace(dancer.body, **changes)
    return renderer().draw(replace(dancer, body=body, batches=()), VIEW, 320, 240).pixels[..., :3].astype(int)


def test_heat_colours_the_skin_and_nothing_else(dancer):
    count = len(dancer.body.positions)
    plain = close_up(dancer)
    without = renderer().draw(replace(dancer, body=None, batches=()), VIEW, 320, 240).pixels[..., :3].astype(int)
    fair = close_up(dancer, heat=np.full(count, 0.5, np.float32), ramp="balance")
    dense = close_up(dancer, heat=np.ones(count, np.float32), ramp="balance")
    sparse = close_up(dancer, heat=np.zeros(count, np.float32), ramp="balance")
    skin = np.abs(fair - dense).sum(axis=2) > 6
    assert skin.sum() > 2000
    grey = fair[skin].mean(axis=0)
    assert np.ptp(grey) < 20
    assert dense[skin].mean(axis=0)[0] > dense[skin].mean(axis=0)[2] + 30
    assert sparse[skin].mean(axis=0)[2] > sparse[skin].mean(axis=0)[0] + 20
    far = np.abs(plain - without).sum(axis=2) == 0
    np.testing.assert_array_equal(fair[far & ~skin], plain[far & ~skin])


def test_a_character_that_is_gone_leaves_no_trace_but_its_shadow(dancer):
    whole = close_up(dancer)
    none = close_up(dancer, dissolved=0.0, dissolve=None)
    np.testing.assert_array_equal(whole, none)
    gone = close_up(dancer, dissolved=1.0, dissolve=Dissolve())
    empty = renderer().draw(replace(dancer, body=None, batches=()), VIEW, 320, 240).pixels[..., :3].astype(int)
    above = slice(0, 100)  # where no ground is seen behind her, there is no shadow
    np.testing.assert_array_equal(gone[above], empty[above])


@pytest.mark.parametrize("share", [0.35, 0.5, 0.65])
def test_a_dissolve_takes_its_share_and_its_border_glows(dancer, share):
    whole = close_up(dancer)
    empty = renderer().draw(replace(dancer, body=None, batches=()), VIEW, 320, 240).pixels[..., :3].astype(int)
    dark = Dissolve(colour=(0.0, 0.0, 0.0), scale=0.05, two_sided=False)
    part = close_up(dancer, dissolved=share, dissolve=dark)
    top = np.s_[:120]
    there = np.abs(whole - empty)[top].sum(axis=2) > 12
    left = (np.abs(part - empty)[top].sum(axis=2) > 12) & there
    assert 0.1 < left.sum() / there.sum() < 0.95
    bright = close_up(dancer, dissolved=share, dissolve=dark.evolve(colour=(1.0, 0.0, 0.0), intensity=1.0))
    added = (bright - part)[top]
    glow = added[..., 0] > 40
    assert glow.sum() > 50
    assert added[glow].mean(axis=0)[2] < 0.1 * added[glow].mean(axis=0)[0]


def test_only_the_named_materials_dissolve(dancer):
    material = dancer.body.character.materials[dancer.body.character.parts[1].material].name
    whole = close_up(dancer)
    some = close_up(dancer, dissolved=1.0, dissolve=Dissolve(materials=(material,)))
    changed = np.abs(whole - some).sum(axis=2) > 0
    assert changed.any()
    all_gone = close_up(dancer, dissolved=1.0, dissolve=Dissolve())
    assert changed.sum() < 0.6 * (np.abs(whole - all_gone).sum(axis=2) > 0).sum()
    other = close_up(dancer, dissolved=1.0, dissolve=Dissolve(materials=("no such material",)))
    np.testing.assert_array_equal(other, whole)


@pytest.mark.parametrize("width", [1, 2, 7, 8, 9, 16, 33])
@pytest.mark.parametrize("adding", [False, True])
def test_doubled_rows_sit_between_their_coarse_pixels(width, adding):
    @called
    def run(coarse, mixed, out):
        for y in range(out.shape[1]):
            mix_rows(coarse, y, np.float32(2), mixed)
            write_doubled(mixed, y, adding, out)

    pairs, height = -(-width // 2), 5
    coarse = np.random.default_rng(width).random((3, 3, pairs), np.float32)
    out = np.full((3, height, width), 0.25 if adding else np.nan, np.float32)
    run(coarse, np.empty((3, pairs + SPARE), np.float32), out)
    wide, tall = (np.clip((np.arange(n) + 0.5) / 2 - 0.5, 0, m - 1) for n, m in ((width, pairs), (height, 3)))
    positions = np.meshgrid(tall, wide, indexing="ij")
    wanted = np.stack([2 * ndimage.map_coordinates(channel.astype(float), positions, order=1) for channel in coarse])
    np.testing.assert_allclose(out, wanted + (0.25 if adding else 0), atol=1e-6)


def test_a_picture_made_larger_lies_between_its_pixels():
    rng = np.random.default_rng(8)
    small = rng.integers(0, 256, (9, 14, 4)).astype(np.uint8)
    height, width = 21, 33
    y = np.clip((np.arange(height) + 0.5) * 9 / height - 0.5, 0, 8)
    x = np.clip((np.arange(width) + 0.5) * 14 / width - 0.5, 0, 13)
    positions = np.meshgrid(y, x, indexing="ij")
    wanted = [ndimage.map_coordinates(small[..., k].astype(float), positions, order=1) for k in range(3)]
    made = enlarged(small, width, height)
    assert np.abs(made[..., :3] - np.stack(wanted, axis=-1)).max() < 2  # bytes and 256ths
    assert (made[..., 3] == 255).all()
    assert enlarged(small, 14, 9) is small


def test_halving_takes_the_mean_of_four_pixels():
    pictures = np.random.default_rng(2).random((3, 8, 6, 4), np.float32)
    wanted = pictures.reshape(3, 4, 2, 3, 2, 4).mean(axis=(2, 4))
    np.testing.assert_allclose(halved(pictures), wanted, atol=1e-6)


@pytest.mark.parametrize(("azimuth", "elevation"), [(0, 0), (28, 10), (200, -60), (-90, 88.9)])
def test_the_camera_looks_at_its_target_upright(azimuth, elevation):
    view = View(target=(0.2, 1.1, -0.4), azimuth=azimuth, elevation=elevation, distance=3, follow=True)
    camera = camera_of(view, (5.0, 0.0, 2.0))
    np.testing.assert_allclose(camera.basis @ camera.basis.T, np.eye(3), atol=1e-5)
    assert camera.basis[0, 1] == 0  # it never rolls
    assert camera.basis[1, 1] > 0
    (middle,) = camera.project(np.array([[5.2, 1.1, 1.6]]), 200, 100)
    np.testing.assert_allclose(middle[:2], (100, 50), atol=1e-2)
    assert camera.eye[1] >= 0.04


def plain_bands(spans, bands):
    return [[row for row, (first, last) in enumerate(spans) if first <= b <= last] for b in range(bands)]


def test_rows_are_listed_by_band_in_order_and_short_lists_grow():
    rng = np.random.default_rng(4)
    first = rng.integers(0, 12, 300)
    spans = np.column_stack([first, np.minimum(first + rng.integers(-1, 4, 300), 11)]).astype(np.int32)
    counts, buffers = np.zeros(13, np.int32), Buffers()
    wanted = plain_bands(spans, 12)
    for _ in range(2):  # what is held is too short the first time
        lists = listed(buffers, "made", spans, counts)
        assert [lists[counts[b] : counts[b + 1]].tolist() for b in range(12)] == wanted
    assert counts[12] == sum(map(len, wanted))


def placed(quads):
    """Return squares with nothing else beside them."""
    return PlacedTransparents(quads, Triangles.together([]), NO_PATCHES)


def square_of(count):
    """Return upright squares at (40, 40), ten pixels to each side, of four texels a side that are half opaque."""
    rows = np.zeros((count, SPRITE_COLUMNS), np.float32)
    rows[:, :7], rows[:, 7:11], rows[:, 11] = (40, 40, 0.2, 10, 10, 1, 0), (1, 2, 3, 0.8), 50
    picks = np.tile(np.array([1, 4, 1], np.int32), (count, 1))
    return SpriteQuads(rows, picks, np.zeros(count, np.uint8)), np.full(4 * 20, 32768 * 65537, np.uint32)


def test_a_coarser_pass_keeps_what_sprites_cover_and_finds_their_bands():
    quads, planes = square_of(3)
    quads.rows[:, 1], quads.rows[:, 3:5] = (6, 50, 500), [[1, 1], [10, 10], [2, 2]]
    quads.picks[0, 1] = 1
    records, marks, spans = prepared(placed(quads), np.array([0, 1, 2]), planes, 2, (8, 64, 64), Buffers())
    np.testing.assert_allclose(records[:2, :4], [[20, 3, 5, 50], [20, 25, 5, 50]])
    np.testing.assert_allclose(records[0, 4:6], 0.75)  # as wide as a coarse pixel at least
    faint = 0.8 * (0.5 / 0.75) ** 2  # fainter by as much as it is larger
    np.testing.assert_allclose(records[0, 8:12], np.array([1, 2, 3, 1]) * faint * 32768 / 65535, rtol=1e-6)
    np.testing.assert_allclose(records[1, 8:12] * 65535, np.array([1, 2, 3, 1]) * 0.8, rtol=1e-6)
    assert (marks[:2, 12].tolist(), marks[:2, 13].tolist()) == ([1, 1], [1 << 3 | SPECK, 4 << 3 | GREY])
    assert spans[0].tolist() == [0, 0]
    assert spans[1].tolist() == [20 // 8, 30 // 8]
    assert spans[2, 1] < spans[2, 0]  # below the picture


def test_sprites_are_laid_in_the_way_that_suits_them():
    quads, planes = square_of(4)
    quads.rows[1, 3:5], quads.rows[3, 5:7] = 1.99, (0.6, 0.8)
    quads.picks[2, 2], quads.blends[3] = 0, ADDED
    records, marks, _ = prepared(placed(quads), np.array([3, 2, 1, 0]), planes, 1, (16, 64, 64), Buffers())
    assert (marks[:, 13] & 7).tolist() == [GREY, TINTED, NARROW, GREY]
    np.testing.assert_allclose(records[0, 4:8], [0.06, 0.08, -0.08, 0.06], rtol=1e-6)
    np.testing.assert_allclose(records[0, 14:], 14, rtol=1e-6)
    assert records[0, 11] == 0  # what only adds light keeps all that is behind
    assert records.ctypes.data % 64 == 0


@pytest.mark.parametrize(("width", "rows"), [(8, 16), (1024, 16), (1025, 8), (2049, 4), (8192, 2)])
def test_wide_pictures_have_lower_bands(width, rows):
    assert band_rows(width) == rows


def test_sprites_fade_out_within_the_near_distance_of_the_camera():
    camera = camera_of(VIEW, (0.0, 0.0, 0.0))
    ahead = np.array([0.0, 0.5, 1.0, 2.0, 7.0], np.float32)
    made = batch(camera.eye + ahead[:, None] * camera.basis[2], colour=(1, 1, 1, 0.8), near=2.0)
    faded = sprite._faded_near(made, Viewport(camera, 160, 120))
    np.testing.assert_allclose(faded.colours[:, 3], 0.8 * np.array([0, 0.25, 0.5, 1, 1]), atol=1e-5)
    np.testing.assert_array_equal(made.drawn.colours[:, 3], np.float32(0.8))  # what is in the batch stays


@pytest.mark.parametrize("facing", [Facing.CAMERA, Facing.FLAT])
def test_a_near_fade_is_seen(facing):
    far = np.linalg.norm(camera_of(VIEW, (0.0, 0.0, 0.0)).eye)
    plain, half, beyond = (
        drawn(batch((0, 0, 0), facing=facing, blend=Blend.ADDITIVE, near=near)).sum()
        for near in (0.0, 2 * far, far / 2)
    )
    assert beyond == plain
    assert half < plain
