"""Particles: kernels equal their twins, births are fair, chance is repeatable, forces do what they say."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.interpolate import PchipInterpolator
from scipy.spatial.transform import Rotation

from tests import twins
from tests.pools import DT, HOME, PLAIN, births_of, born, drawn, free, lift, positions, tick_context, velocities
from wraithon.character.checkup import height_of
from wraithon.character.pose import Pose, clip_locals, pose_of, posed_positions, skin_of, turns_fast
from wraithon.character.sampler import BorderSampler, Places
from wraithon.character.sampling import sampler_of
from wraithon.character.spacing import skin_values
from wraithon.numeric.chance import firing_key, layer_key, uniform
from wraithon.numeric.compiled import called
from wraithon.numeric.noise import curl_noise
from wraithon.numeric.vector_memory import read_exact, write
from wraithon.numeric.vectors import exact8
from wraithon.particles import columns as k
from wraithon.particles.curves import curve_values, integral_table
from wraithon.particles.emission import emission_end
from wraithon.particles.pool import Line, Pool
from wraithon.particles.program import compile_layer
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve, LifeMode
from wraithon.project.motion import Collision, Curl, Drag, Gravity, GroundCollision, Motion, Vortex, Wind
from wraithon.project.source import Aim, Heading, JointRow, PointSource, Riding, RingSource, SkinSource, SphereSource

# ---- chance ---------------------------------------------------------------------------------------


@called
def _uniforms(identities, channel, out):
    for i in range(len(identities)):
        out[i] = uniform(identities[i], channel)


def test_chance_equals_its_twin_and_is_uniform():
    identities = np.arange(50_000, dtype=np.uint64)
    out = np.empty(len(identities), np.float32)
    _uniforms(identities, 3, out)
    np.testing.assert_array_equal(out, twins.uniform(identities, 3))
    assert stats.kstest(out, "uniform").pvalue > 0.001
    other = np.empty_like(out)
    _uniforms(identities, 4, other)
    assert abs(np.corrcoef(out, other)[0, 1]) < 0.02


def test_keys_differ_by_everything_they_stand_for():
    keys = {layer_key(1, "a", "b"), layer_key(2, "a", "b"), layer_key(1, "ab", ""), layer_key(1, "a", "c")}
    assert len(keys) == 4
    assert firing_key(5, 0) != firing_key(5, 1)


# ---- emission -------------------------------------------------------------------------------------


@pytest.mark.parametrize("step", [1 / 240, 1 / 60, 1 / 13, 0.37, 5.0])
def test_births_do_not_depend_on_step_length(step):
    emission = Emission(rate=37.3, start=0.11, bursts=(Burst(time=0.25, count=3, repeats=4, interval=0.1),))
    whole = births_of(emission, 2.0, 0.0, 5.0)
    edges = np.append(np.arange(0, 5, step), 5.0)
    parts = np.concatenate([births_of(emission, 2.0, a, b) for a, b in pairwise(edges)])
    np.testing.assert_allclose(np.sort(parts), whole, atol=1e-9)
    assert len(whole) == int(np.ceil((2.0 - 0.11) * 37.3)) + 12


def test_a_burst_at_zero_happens_even_without_length():
    assert len(births_of(Emission(bursts=(Burst(count=5),)), 0.0, 0.0, DT)) == 5


def test_emission_ends_when_rate_and_bursts_do():
    assert emission_end(Emission(rate=1), None) == np.inf
    assert emission_end(Emission(rate=1, start=1, length=2), 10.0) == 3
    assert emission_end(Emission(bursts=(Burst(time=1, repeats=3, interval=0.5),)), 1.6) == pytest.approx(1.6)


# ---- courses --------------------------------------------------------------------------------------


@given(
    st.lists(st.tuples(st.integers(0, 1000), st.floats(-50, 50)), min_size=1, max_size=12, unique_by=lambda p: p[0])
)
def test_curves_equal_the_library_and_never_overshoot(points):
    curve = Curve(points=tuple((age / 1000, value) for age, value in sorted(points)))
    ages = np.linspace(0, 1, 257)
    values = curve_values(curve, ages)
    x, y = np.array(curve.points).T
    if len(x) > 1:
        np.testing.assert_allclose(values, PchipInterpolator(x, y)(np.clip(ages, x[0], x[-1])), atol=1e-6)
    assert values.min() >= y.min() - 1e-6
    assert values.max() <= y.max() + 1e-6


def test_running_integrals_are_areas():
    table = integral_table(Curve.through((0, 0), (1, 1)))
    assert table[0] == 0
    assert table[-1] == pytest.approx(0.5, abs=1e-3)


# ---- noise and motion -----------------------------------------------------------------------------


@called
def _curls(p, seed, out):
    like = exact8(np.float32(0))
    for i in range(0, p.shape[1], 8):
        position = np.uint64(i), np.uint64(i + p.shape[1]), np.uint64(i + 2 * p.shape[1])
        found = curl_noise(
            read_exact(like, p, position[0]), read_exact(like, p, position[1]), read_exact(like, p, position[2]), seed
        )
        for axis in range(3):
            write(out, position[axis], found[axis])


def _curls_at(p, seed):
    """Return the curl (N, 3) at points (N, 3); N is a multiple of eight."""
    out = np.empty_like(p.T, order="C")
    _curls(np.ascontiguousarray(p.T), np.uint32(seed), out)
    return out.T


def test_curl_noise_is_the_curl_of_its_potential():
    p = np.random.default_rng(0).uniform(-20, 20, (2000, 3)).astype(np.float32)
    out = _curls_at(p, 99)
    np.testing.assert_allclose(out, twins.curl(p.astype(float), 99), atol=2e-3)
    np.testing.assert_allclose(out, twins.curl_exact(p, 99), atol=2e-4)


@pytest.mark.parametrize("count", [1, 7, 8, 9, 1023, 1025])
def test_swirls_of_a_particle_do_not_hang_on_how_many_there_are(count):
    layer = Layer(motion=Motion(forces=(Curl(strength=3.0, scale=0.7),)))
    (few, program), (many, its) = free(count, layer), free(2000, layer)
    few.columns.restore(many.columns.first(count).copy())
    few.step(program, DT, 0.5, TickContext.empty())
    many.step(its, DT, 0.5, TickContext.empty())
    assert (velocities(many) != 0).all()
    np.testing.assert_array_equal(positions(few), positions(many)[:count])
    np.testing.assert_array_equal(velocities(few), velocities(many)[:count])


def test_curl_noise_neither_gathers_nor_thins():
    rng = np.random.default_rng(1)
    p = rng.uniform(-10, 10, (4000, 3)).astype(np.float32)
    h = np.float32(0.01)
    divergence = np.zeros(len(p))
    for axis in range(3):
        e = np.zeros(3, np.float32)
        e[axis] = h
        a, b = _curls_at(p + e, 5), _curls_at(p - e, 5)
        divergence += (a[:, axis] - b[:, axis]) / (2 * h)
    assert np.abs(divergence).mean() < 0.02


@pytest.mark.parametrize("count", [700, 5000])
def test_step_equals_its_twin(count):
    """Either version of the kernel, for one thread and for all."""
    forces = (
        Gravity(pull=9),
        Wind(push=(0.5, 0, 1)),
        Drag(rate=0.7),
        Curl(strength=2, scale=1 / 1.5),
        Vortex(reach=1),
    )
    pool, program = free(count, Layer(motion=Motion(forces=forces)))
    expected = pool.columns.state[:, :count].copy()
    points = np.zeros((len(program.forces.rows.codes), 2, 3), np.float32)
    points[-1] = [[0.1, 0, 0.2], [0.4, 1, -0.2]]
    for n in range(5):
        pool.step(program, DT, n * DT, TickContext.empty(), points)
        twins.step(expected, DT, n * DT, program.forces.rows, points)
    np.testing.assert_allclose(pool.columns.state[:7, :count], expected[:7], atol=5e-4)


def test_free_fall_and_drag_have_the_known_answers():
    layer = Layer(**PLAIN, motion=Motion(forces=(Drag(rate=2.0),)))
    pool, program = born(layer, 1)
    pool.columns.state[k.VX, 0] = 3.0
    for n in range(60):
        pool.step(program, DT, n * DT, TickContext.empty())
    assert pool.columns.state[k.VX, 0] == pytest.approx(3 * np.exp(-2 * 1.0), rel=1e-3)
    layer = Layer(**PLAIN, motion=Motion(forces=(Gravity(pull=9.81),)))
    pool, program = born(layer, 1)
    for n in range(60):
        pool.step(program, DT, n * DT, TickContext.empty())
    assert pool.columns.state[k.PY, 0] == pytest.approx(-9.81 / 2, rel=0.03)


def test_no_setting_explodes():
    forces = (Drag(rate=1e6), Gravity(pull=1e6), Curl(strength=1e6, scale=0.01, change=1e3))
    pool, program = born(Layer(**PLAIN, motion=Motion(forces=forces)), 50)
    for n in range(200):
        pool.step(program, DT, n * DT, TickContext.empty())
    assert np.isfinite(pool.columns.state[:, : pool.count]).all()


@pytest.mark.parametrize("contact", list(Collision))
def test_ground_contact(contact):
    ground = GroundCollision(contact=contact, bounce=0.5, grip=0.5)
    layer = Layer(**PLAIN, motion=Motion(forces=(Gravity(),), ground=ground))
    high = HOME.copy()
    high[1, 3] = 1.0
    pool, program = born(layer, 1, anchors=(high, high))
    pool.columns.state[k.VX, 0] = 1.0
    heights = []
    for n in range(240):
        pool.step(program, DT, n * DT, TickContext.empty())
        if not pool.count:
            break
        heights.append(pool.columns.state[k.PY, 0])
    heights = np.array(heights)
    if contact is Collision.PASS:
        assert heights[-1] < -10
        return
    assert heights.min() >= 0
    if contact is Collision.DIE:
        assert not pool.count
    elif contact is Collision.BOUNCE:
        fall = int(np.argmax(np.diff(heights) > 0))
        # Half the speed is a quarter of the height, measured between the bounces.
        assert heights[fall + 2 :].max() == pytest.approx(0.25, abs=0.06)
    elif contact is Collision.STICK:
        assert heights[-1] == 0
        assert np.ptp(pool.columns.state[k.VX : k.VZ + 1, 0]) == 0
    else:
        assert heights[-1] == 0
        assert 0 <= pool.columns.state[k.VX, 0] < 0.1


# ---- births ---------------------------------------------------------------------------------------


def test_births_are_spread_along_a_fast_anchor():
    far = lift(HOME, 6.0)
    pool, _ = born(Layer(**PLAIN), 600, anchors=(HOME, far))
    heights = np.sort(positions(pool)[:, 1])
    assert np.diff(heights).max() < 0.02
    assert heights[-1] > 5.8


def test_keep_takes_the_anchors_speed_along():
    for keep in (0.0, 0.5, 1.0):
        layer = Layer(**PLAIN, source=PointSource(riding=Riding(keep=keep)))
        pool, _ = born(layer, 10, anchors=(HOME, lift(HOME, 0.1)))
        np.testing.assert_allclose(velocities(pool)[:, 1], keep * 0.1 / DT, rtol=1e-4)


def test_sphere_and_ring_keep_their_measures():
    pool, _ = born(Layer(**PLAIN, source=SphereSource(radius=0.5, shell=1.0)), 2000)
    np.testing.assert_allclose(np.linalg.norm(positions(pool), axis=1), 0.5, rtol=1e-3)
    many = Emission(limit=100_000)
    pool, _ = born(Layer(**PLAIN, emission=many, source=SphereSource(radius=2.0)), 20_000)
    share = (np.linalg.norm(positions(pool), axis=1) / 2.0) ** 3
    assert stats.kstest(share, "uniform").pvalue > 0.001
    pool, _ = born(Layer(**PLAIN, source=RingSource(radius=1.0, thickness=0.1)), 2000)
    p = positions(pool)
    assert np.abs(np.hypot(p[:, 0], p[:, 2]) - 1).max() <= 0.1001
    assert np.abs(p[:, 1]).max() <= 0.1001


def test_directions_fill_the_cone_evenly():
    aim = Aim(heading=Heading.UP, spread=40)
    layer = Layer(speed=Attribute.of(1), emission=Emission(limit=100_000), source=PointSource(aim=aim))
    pool, _ = born(layer, 20_000)
    v = velocities(pool)
    np.testing.assert_allclose(np.linalg.norm(v, axis=1), 1, rtol=1e-4)
    share = (1 - v[:, 1]) / (1 - np.cos(np.radians(40)))
    assert stats.kstest(share, "uniform").pvalue > 0.001
    around = np.arctan2(v[:, 0], v[:, 2]) / (2 * np.pi) + 0.5
    assert stats.kstest(around, "uniform").pvalue > 0.001


def test_skin_births_are_even_by_area(halcyon):
    sampler = sampler_of(halcyon, SkinSource())
    around = tick_context(halcyon, 0.5, 0.5)
    pool, _ = born(Layer(**PLAIN, emission=Emission(limit=100_000), source=SkinSource()), 60_000, sampler, around)
    corners = halcyon.mesh.positions[halcyon.mesh.triangles].astype(float)
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    groups = np.array_split(np.argsort(areas), 40)  # from the smallest triangles to the largest
    counts = np.bincount(pool.columns.triangle[: pool.count], minlength=len(areas))
    seen = np.array([counts[g].sum() for g in groups])
    wanted = np.array([areas[g].sum() for g in groups]) / areas.sum() * pool.count
    assert stats.chisquare(seen, wanted).pvalue > 0.01


def test_parts_are_kept_to(halcyon):
    sampler = sampler_of(halcyon, SkinSource(parts=("left fan",)))
    around = tick_context(halcyon, 0.5, 0.5)
    pool, _ = born(Layer(**PLAIN, source=SkinSource(parts=("left fan",))), 500, sampler, around)
    names = {halcyon.parts[i].name for i in halcyon.mesh.part_of_triangle[pool.columns.triangle[: pool.count]]}
    assert names == {"left fan"}


def test_riders_lie_on_the_skinned_triangle(halcyon):
    layer = Layer(**PLAIN, source=SkinSource(riding=Riding(share=1.0)))
    around = tick_context(halcyon, 0.7, 0.7 + DT)
    pool, program = born(layer, 4000, sampler_of(halcyon, SkinSource()), around)
    pool.step(program, DT, 0.7, around)
    rows = pool.columns.triangle[: pool.count]
    corners = around.skin_now[halcyon.mesh.triangles[rows]].astype(float)
    b, c = pool.columns.state[k.SHARE_B, : pool.count], pool.columns.state[k.SHARE_C, : pool.count]
    expected = corners[:, 0] * (1 - b - c)[:, None] + corners[:, 1] * b[:, None] + corners[:, 2] * c[:, None]
    np.testing.assert_allclose(positions(pool), expected, atol=1e-5)


@pytest.mark.parametrize("clip", ["idle", "walk", "run", "leap", "strike", "fall"])
def test_riding_is_exact_over_every_clip(halcyon, clip):
    """Riders stand where exact skinning in float64 puts them, within 1e-5 of the character's height."""
    made = halcyon.clip(clip)
    mesh, skeleton = halcyon.mesh, halcyon.skeleton
    sampler = sampler_of(halcyon, SkinSource())
    tall = height_of(halcyon)
    for time in np.linspace(0, made.seconds, 7)[1:]:
        poses = [pose_of(halcyon, clip_locals(halcyon, made, t), HOME) for t in (time - DT, time)]
        around = TickContext.between(halcyon, *((pose, skin_of(halcyon, pose)) for pose in poses))
        pool, program = born(Layer(**PLAIN, source=SkinSource(riding=Riding(share=1.0))), 500, sampler, around)
        pool.step(program, DT, 0.0, around)
        palette = poses[1].matrices[skeleton.palette_nodes].astype(float) @ skeleton.inverse_bind.astype(float)
        corners = mesh.triangles[pool.columns.triangle[: pool.count]]
        share = np.stack(
            [pool.columns.state[k.SHARE_B, : pool.count], pool.columns.state[k.SHARE_C, : pool.count]], 1
        ).astype(float)
        share = np.concatenate([1 - share.sum(1, keepdims=True), share], axis=1)
        rest = np.concatenate([mesh.positions, np.ones((len(mesh.positions), 1))], axis=1).astype(float)
        blended = (palette[mesh.joints[corners]] * mesh.weights[corners].astype(float)[..., None, None]).sum(axis=2)
        exact = (np.einsum("ncij,ncj->nci", blended, rest[corners]) * share[..., None]).sum(axis=1)[:, :3]
        assert np.abs(positions(pool) - exact).max() < 1e-5 * tall


def test_births_between_poses_lie_on_the_arc_of_a_fast_limb(halcyon):
    """Half way through a step, births stand nearer the true pose than the straight line between the two would."""
    made = halcyon.clip("strike")
    long = 1 / 60
    start = 0.70
    times = (start, start + long / 2, start + long)
    posed = [(p := pose_of(halcyon, clip_locals(halcyon, made, t), HOME), skin_of(halcyon, p)) for t in times]
    source = SkinSource(parts=("right fan",))
    sampler = sampler_of(halcyon, source)
    program = compile_layer(Layer(**PLAIN, source=source), "effect", 1, sampler)
    quarter = pose_of(halcyon, clip_locals(halcyon, made, start + long / 4), HOME)
    truth = skin_of(halcyon, quarter).positions
    errors = []
    for midpoint in (None, posed[1][0]):
        pool = Pool()
        around = TickContext.between(halcyon, posed[0], posed[2], midpoint)
        leads = np.full(400, long / 4, np.float32)
        pool.emit(program, Line(np.uint64(3), 0, 0), leads, long, around, AnchorPlaces.of(HOME, HOME))
        corners = truth[halcyon.mesh.triangles[pool.columns.triangle[: pool.count]]]
        b, c = pool.columns.state[k.SHARE_B, : pool.count, None], pool.columns.state[k.SHARE_C, : pool.count, None]
        exact = corners[:, 0] * (1 - b - c) + corners[:, 1] * b + corners[:, 2] * c
        errors.append(np.linalg.norm(positions(pool) - exact, axis=1).mean())
    assert errors[1] < errors[0] / 3


def test_bones_carry_riders_along(halcyon):
    source = SkinSource(mode="bones", radius=0.05, riding=Riding(share=1.0))
    around = tick_context(halcyon, 0.7, 0.7 + DT)
    pool, program = born(Layer(**PLAIN, source=source), 800, sampler_of(halcyon, source), around)
    pool.step(program, DT, 0.7, around)
    frames = around.bones_now[pool.columns.triangle[: pool.count]].astype(float)
    along = pool.columns.state[k.SHARE_B, : pool.count, None]
    middle = frames[:, 0] + along * (frames[:, 1] - frames[:, 0])
    away = np.linalg.norm(positions(pool) - middle, axis=1)
    np.testing.assert_allclose(away, pool.columns.state[k.SHARE_D, : pool.count] * 0.05, atol=1e-5)
    axis = frames[:, 1] - frames[:, 0]
    np.testing.assert_allclose(((positions(pool) - middle) * axis).sum(1), 0, atol=1e-5)


def test_the_joint_table_changes_speed_and_size(halcyon):
    rows = (JointRow(joint="head", size=3.0, speed=2.0), JointRow(joint="left hand", size=0.5, speed=0.0))
    source = SkinSource(table=rows)
    layer = Layer(lifetime=Attribute.of(9), speed=Attribute.of(1), size=Attribute.of(0.1), source=source)
    sampler = sampler_of(halcyon, source)
    pool, _ = born(layer, 600, sampler, tick_context(halcyon, 0.5, 0.5))
    speed = np.linalg.norm(velocities(pool), axis=1)
    group = sampler.arrays.groups[pool.columns.triangle[: pool.count]]
    np.testing.assert_allclose(speed[group == 0], 2, rtol=1e-4)
    np.testing.assert_allclose(speed[group == 1], 0, atol=1e-6)
    np.testing.assert_allclose(sampler.sizes, [3.0, 0.5, 1.0])


def test_births_keep_to_the_border_of_a_dissolve_and_rest_with_it(halcyon):
    source = SkinSource(dissolving=True)
    sampler = sampler_of(halcyon, source)
    border = BorderSampler(sampler, 1 / 0.12)
    program = compile_layer(
        Layer(**PLAIN, emission=Emission(limit=9999), source=source), "e", 1, sampler, 1.0, border
    )
    around = tick_context(halcyon, 0.5, 0.5)
    for gone in ((0.3, 0.32), (0.62, 0.6)):
        pool = Pool()
        leads = np.zeros(2000, np.float32)
        moving = around._replace(gone_before=gone[0], gone_now=gone[1])
        pool.emit(program, Line(np.uint64(1), 0, 0), leads, DT, moving, AnchorPlaces.of(HOME, HOME))
        alive = pool.columns.state[k.LIFETIME, : pool.count] > 0
        assert alive.mean() > 0.97
        numbers = pool.columns.state[[k.SHARE_B, k.SHARE_C, k.SHARE_D], : pool.count].T.copy()
        positions = skin_values(sampler, Places(pool.columns.triangle[: pool.count], numbers), sampler.arrays.rest)
        noise = twins.value_noise(positions / 0.12)
        assert noise[alive].min() >= min(gone) - 1e-4
        assert noise[alive].max() <= max(gone) + 1e-4
        # Even by area: halves of the border by height have births by how much of it they hold.
        many = sampler.draw(60_000, key=9)
        spots = skin_values(sampler, many, sampler.arrays.rest)
        fair = twins.value_noise(spots / 0.12)
        held = spots[(fair >= min(gone)) & (fair <= max(gone)), 1]
        ours = positions[alive, 1]
        assert stats.ks_2samp(held, ours).pvalue > 0.01
    still = Pool()
    still.emit(program, Line(np.uint64(1), 0, 0), np.zeros(50, np.float32), DT, around, AnchorPlaces.of(HOME, HOME))
    assert (still.count, still.refused) == (0, 0)


def test_letting_go_takes_the_skins_speed_along(halcyon):
    around = tick_context(halcyon, 0.74, 0.74 + DT)
    for keep in (0.0, 1.0):
        layer = Layer(
            lifetime=Attribute.of(0.02), speed=Attribute.of(0), source=SkinSource(riding=Riding(share=0.5, keep=keep))
        )
        pool, program = born(layer, 500, sampler_of(halcyon, SkinSource()), around)
        pool.columns.state[k.LEAD, : pool.count] = 0
        pool.step(program, DT, 0.0, around)
        speed = np.linalg.norm(velocities(pool), axis=1)
        assert (speed.max() == 0) if keep == 0 else (speed.max() > 1.0)


def test_the_limit_refuses_and_counts():
    pool, _ = born(Layer(emission=Emission(limit=30)), 100)
    assert (pool.count, pool.refused, pool.born) == (30, 70, 30)


def test_a_skin_source_without_a_character_refuses():
    pool, _ = born(Layer(source=SkinSource()), 10)
    assert (pool.count, pool.refused) == (0, 10)


def test_chance_belongs_to_the_particle_not_to_the_batch():
    layer = Layer(source=SphereSource(radius=1))
    whole, _ = born(layer, 40)
    second, _ = born(layer, 20, serial=20)
    np.testing.assert_array_equal(whole.columns.identity[20:40], second.columns.identity[:20])


# ---- drawing --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("mode", "low", "high"), [(LifeMode.SCALE, 1.0, 2.0), (LifeMode.ADD, 2.5, 4.5), (LifeMode.REPLACE, 0.5, 0.5)]
)
def test_life_meets_birth_by_its_mode(mode, low, high):
    size = Attribute(birth={"low": 2.0, "high": 4.0}, life=Curve.through((0, 0.5), (1, 0.5)), mode=mode)
    sizes = drawn(Layer(size=size)).sizes
    assert sizes.min() == pytest.approx(low, abs=0.01)
    assert sizes.max() == pytest.approx(high, abs=0.01)


def test_spin_turns_by_the_area_under_its_course():
    spin = Attribute(birth={"low": 90.0, "high": 90.0}, life=Curve.through((0, 0), (1, 2)))
    turns = drawn(Layer(turn=Attribute.of(0), spin=spin), age=0.5).turns
    assert np.degrees(turns[0]) == pytest.approx(90 * 0.25, rel=0.02)


def test_steady_spin_turns_by_rate_times_age():
    turns = drawn(Layer(turn=Attribute.of(10), spin=Attribute.of(80)), age=0.25).turns
    assert np.degrees(turns[0]) == pytest.approx(30, rel=1e-3)


def test_sheet_frames_are_all_drawn_alike_often():
    layer = Layer()
    layer = layer.evolve(look=layer.look.evolve(sheet={"columns": 2, "rows": 2}))
    frames = drawn(layer).frames
    assert stats.chisquare(np.bincount(frames.astype(int), minlength=4)).pvalue > 0.001


@pytest.mark.parametrize(("widest", "fast"), [(3.98, False), (4.02, True), (179, True)])
def test_a_pose_turns_fast_when_any_joint_does_whatever_the_scale(widest, fast):
    rng = np.random.default_rng(1)
    angles = np.radians([0.5, 2.0, widest, 3.0])
    axes = rng.standard_normal((4, 3))
    turns = Rotation.from_rotvec(axes / np.linalg.norm(axes, axis=1)[:, None] * angles[:, None]).as_matrix()
    before = np.tile(np.eye(4, dtype=np.float32), (4, 1, 1))
    before[:, :3, :3] = Rotation.random(4, random_state=3).as_matrix() * 2.5
    now = before.copy()
    now[:, :3, :3] = turns @ before[:, :3, :3]
    assert turns_fast(Pose(before), Pose(now)) is fast
    assert not turns_fast(Pose(before), Pose(before))


def test_positions_alone_are_those_of_the_whole_skin(halcyon):
    pose = pose_of(halcyon, clip_locals(halcyon, halcyon.clip("leap"), 0.6), HOME)
    np.testing.assert_allclose(posed_positions(halcyon, pose), skin_of(halcyon, pose).positions, atol=1e-6)


def test_a_step_without_bones_moves_riders_on_the_skin_all_the_same(halcyon):
    clip = halcyon.clip("run")
    posed = [
        (p := pose_of(halcyon, clip_locals(halcyon, clip, t), HOME), skin_of(halcyon, p)) for t in (0.2, 0.2 + 1 / 60)
    ]
    source = SkinSource(riding=Riding(share=1.0))
    program = compile_layer(Layer(**PLAIN, source=source), "effect", 1, sampler_of(halcyon, source))
    made = []
    for bones in (True, False):
        pool, around = Pool(), TickContext.between(halcyon, *posed, bones=bones)
        pool.emit(
            program, Line(np.uint64(3), 0, 0), np.zeros(300, np.float32), 1 / 60, around, AnchorPlaces.of(HOME, HOME)
        )
        pool.step(program, 1 / 60, 0.0, around)
        made.append(positions(pool))
    np.testing.assert_array_equal(*made)
