"""Kernels against their plain twins: the same answers from the obvious way, which shares no line with them."""

import dataclasses

import numpy as np
import pytest
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation, Slerp

from tests import flight_twin, twins
from tests.bodies import body, swaying_pole
from tests.pools import DT, HOME, born, free, lift, tick_context
from wraithon.character import spacing
from wraithon.character.measures import triangle_nodes
from wraithon.character.model import Clip, Track
from wraithon.character.pose import clip_locals, mixed, pose_of, rest_pose, rest_skin, skin_of, world_matrices
from wraithon.character.sampler import BorderSampler
from wraithon.character.sampling import sampler_of
from wraithon.particles import columns as k
from wraithon.particles.looks.batch import drawn_of
from wraithon.particles.pool import Pool, living_by_firing
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.character import Anchor, CharacterUse
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Curve, Gradient, LifeMode, Range, Tint
from wraithon.project.look import FrameGrid, SheetPlay, SpriteLook
from wraithon.project.motion import (
    Attraction,
    Collision,
    Curl,
    Drag,
    Gravity,
    GroundCollision,
    Hold,
    Lift,
    Motion,
    Orbit,
    Vortex,
    Wind,
)
from wraithon.project.source import (
    Aim,
    BoxSource,
    ConeSource,
    Heading,
    HeightMask,
    JointSet,
    LineSource,
    Mode,
    PointSource,
    Riding,
    RingSource,
    SkinSource,
    Spacing,
    SphereSource,
    TextureMask,
)
from wraithon.stage.anchors import anchorage_of

MANY = 2000
HEADINGS = [heading for heading in Heading if heading is not Heading.AXES]  # that has tests of its own


# ---- poses ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "parents", [(-1,), (-1, 0, 0, -1, 2, 4, 1), tuple(range(-1, 700))], ids=["one", "two roots", "a chain"]
)
def test_the_rest_pose_is_that_of_the_kernel_to_the_bit(parents):
    rng = np.random.default_rng(len(parents))
    skeleton = body(rng.normal(size=(3, 3)), [[0, 1, 2]], parents=parents).skeleton
    skeleton.rest[:] = rng.normal(size=skeleton.rest.shape) * 1.1
    skeleton.fixed[:, :3] = rng.normal(size=(len(parents), 3, 4))
    skeleton.is_fixed[1::3] = True
    held = body(rng.normal(size=(3, 3)), [[0, 1, 2]], parents=parents)
    held = dataclasses.replace(held, skeleton=skeleton)
    wanted = world_matrices(skeleton, skeleton.rest, np.eye(4, dtype=np.float32))
    assert rest_pose(held).matrices.tobytes() == wanted.tobytes()


def clip_with(mode, path, seed=0, keys=6):
    rng = np.random.default_rng(seed)
    width = 4 if path == 1 else 3
    values = np.zeros((keys * (3 if mode == 2 else 1), 4), np.float32)
    values[:, :width] = rng.normal(size=(len(values), width))
    if path == 1 and mode != 2:
        values /= np.linalg.norm(values, axis=1, keepdims=True)
    return Clip.pack("made", [Track(2, path, mode, np.cumsum(rng.uniform(0.1, 1, keys)).astype(np.float32), values)])


@pytest.mark.parametrize("mode", [0, 1, 2])
@pytest.mark.parametrize("path", [0, 1, 2])
@pytest.mark.parametrize("keys", [1, 2, 6])
def test_tracks_are_sampled_as_the_library_does(mode, path, keys):
    character, clip = swaying_pole(8, 12), clip_with(mode, path, keys=keys)
    rest = character.skeleton.rest
    times = [*np.linspace(-0.5, clip.seconds + 0.5, 41), *clip.times]
    for time in times:
        got, twin = clip_locals(character, clip, float(time)), twins.locals_at(clip, rest, float(time))
        flip = np.sign((got[:, 3:7] * twin[:, 3:7]).sum(axis=1, keepdims=True))
        got[:, 3:7] *= flip  # a turn and its negative are one turn
        np.testing.assert_allclose(got, twin, atol=2e-5)


@pytest.mark.parametrize("clip", ["walk", "strike"])
def test_poses_and_skins_are_what_matrices_say(halcyon, clip):
    root = lift(HOME, 0.3)
    skeleton = halcyon.skeleton
    for time in (0.0, 0.31, 0.77):
        local = clip_locals(halcyon, halcyon.clip(clip), time)
        pose = pose_of(halcyon, local, root)
        plain = twins.world(skeleton.parents, local, skeleton.fixed, skeleton.is_fixed, root)
        np.testing.assert_allclose(pose.matrices, plain, atol=2e-5)
        skin = skin_of(halcyon, pose)
        positions, normals = twins.skinned(halcyon, plain)
        np.testing.assert_allclose(skin.positions, positions, atol=2e-5)
        np.testing.assert_allclose(skin.normals, normals, atol=2e-4)


@pytest.mark.parametrize("share", [0.25, 0.5, 1.0])
def test_a_mix_of_two_poses_turns_the_shorter_way(halcyon, share):
    a, b = (clip_locals(halcyon, halcyon.clip("strike"), t) for t in (0.1, 0.6))
    b[3, 3:7] *= -1  # the same turn, written the long way round
    plain_mix = a + share * (b - a)
    for node in range(len(a)):
        turns = Slerp([0, 1], Rotation.from_quat([a[node, 3:7], b[node, 3:7]]))
        plain_mix[node, 3:7] = turns([share]).as_quat()[0]
    skeleton = halcyon.skeleton
    plain = twins.world(skeleton.parents, plain_mix, skeleton.fixed, skeleton.is_fixed, HOME)
    np.testing.assert_allclose(pose_of(halcyon, mixed(a, b, share), HOME).matrices, plain, atol=5e-5)


def test_a_triangle_belongs_to_the_node_that_holds_most_of_it(halcyon):
    held = twins.holders(halcyon)
    chosen = triangle_nodes(halcyon)
    np.testing.assert_allclose(held[np.arange(len(chosen)), chosen], held.max(axis=1), atol=1e-5)


def test_places_on_triangles_are_the_mix_of_their_corners(halcyon):
    sampler = sampler_of(halcyon, SkinSource())
    positions = sampler.draw(MANY, 5)
    corners = rest_skin(halcyon).positions[sampler.arrays.triangles[positions.rows]]
    b, c = positions.numbers[:, 0], positions.numbers[:, 1]
    shares = np.stack([1 - b - c, b, c], axis=1)
    plain = np.einsum("nc,ncd->nd", shares, corners)
    np.testing.assert_allclose(spacing.positions_of(halcyon, sampler, positions), plain, atol=1e-5)


def test_thinning_out_takes_the_one_most_hemmed_in(monkeypatch):
    points = np.random.default_rng(5).uniform(size=(160, 3)).astype(np.float32)
    points[:, 2] = 0
    monkeypatch.setattr(spacing, "ROUNDS", 0)
    reach = 2 * spacing._largest_radius(cKDTree(points.astype(float)), 40, flat=True)
    left = twins.thinned(points.astype(float), 40, reach)
    assert sorted(spacing.eliminated(points, 40)) == np.flatnonzero(left).tolist()


@pytest.mark.parametrize("flat", [False, True])
def test_those_too_close_move_to_wider_gaps(monkeypatch, flat):
    """Who was thinned out is the twin's above; here what the rounds make of those that are left."""
    points = np.random.default_rng(8).uniform(size=(120, 3)).astype(np.float32)
    points[:, 1 + flat :] = 0
    reach = 2 * spacing._largest_radius(cKDTree(points.astype(float)), 30, flat=flat)
    monkeypatch.setattr(spacing, "ROUNDS", 0)
    thinned = np.isin(np.arange(120), spacing.eliminated(points, 30, flat=flat))
    monkeypatch.setattr(spacing, "ROUNDS", 24)
    moved = sorted(spacing.eliminated(points, 30, flat=flat))
    wanted = twins.spread(points.astype(float), thinned, reach, spacing.GOAL * reach, 24)
    assert moved == np.flatnonzero(wanted).tolist()
    assert not (wanted == thinned).all()


BEHIND = {
    "plain": SkinSource(),
    "masked": SkinSource(texture=TextureMask(texture="made")),
    "thinned": SkinSource(joints=JointSet(names=("head", "left hand"), falloff=1.0)),
    "edges": SkinSource(mode=Mode.EDGES, texture=TextureMask(texture="made"), height=HeightMask(low=0.4, soft=0.2)),
    "vertices": SkinSource(mode=Mode.VERTICES),
    "bones": SkinSource(mode=Mode.BONES),
    "even": SkinSource(spacing=Spacing.EVEN, pieces=40),
}


@pytest.mark.parametrize("source", BEHIND)
def test_places_are_those_the_twin_chooses_behind_any_mask(halcyon, source):
    picture = np.random.default_rng(3).integers(0, 256, (9, 7, 4)).astype(np.uint8)
    picture[::2, ::2] = 0
    sampler = sampler_of(halcyon, BEHIND[source], image=picture)
    positions = sampler.draw(300, key=6, first=2)
    wanted = [twins.chosen(sampler.arrays, 6, serial) for serial in range(2, 302)]
    same = positions.rows == [row for row, _ in wanted]
    assert same.mean() > 0.99  # a chance on the very border of a density may go either way
    plain = np.array([numbers for _, numbers in wanted])
    np.testing.assert_allclose(positions.numbers[same], plain[same], atol=2e-5)


def test_births_at_a_dissolves_border_are_where_the_twin_finds_it(halcyon):
    sampler = sampler_of(halcyon, SkinSource(dissolving=True))
    border = BorderSampler(sampler, 8.0)
    part, band = border.within(0.4, 0.44)
    corners = sampler.arrays.rest[sampler.arrays.triangles[sampler.arrays.rows]]
    noise = twins.value_noise(corners.reshape(-1, 3) * 8).reshape(-1, 3)
    met = ((noise >= 0.4) & (noise <= 0.44)).any(axis=1) | (noise.min(axis=1) < 0.4) & (noise.max(axis=1) > 0.44)
    assert np.isin(sampler.arrays.rows[met], part.arrays.rows).all()
    shares = sampler.shares[np.isin(sampler.arrays.rows, part.arrays.rows)]
    np.testing.assert_allclose(part.shares, shares / shares.sum(), rtol=1e-6)
    layer = Layer(source=SkinSource(dissolving=True), emission=Emission(limit=300))
    around = tick_context(halcyon, 0.2, 0.2)._replace(gone_before=0.4, gone_now=0.44)
    pool, _ = born(layer, 300, sampler, around, emission_offsets=np.zeros(300, np.float32), border=border)
    wanted = [twins.chosen(part.arrays, 7, serial, band.tolist()) for serial in range(300)]
    same = pool.columns.triangle[:300] == [row for row, _ in wanted]
    assert same.mean() > 0.98


TURNS = [(0, 0, 0), (90, 0, 0), (10, -40, 170), (0, 180, 0)]


def test_anchors_stand_where_the_twin_puts_them(halcyon):
    rng = np.random.default_rng(4)
    joints = [halcyon.skeleton.names[n] for n in (0, 3, 5, 9)]
    anchors = [
        Anchor(name=f"a{n}", joint=joint, offset=rng.normal(0, 1, 3).tolist(), turn=turn, on_ground=n % 2 == 0)
        for n, (joint, turn) in enumerate(
            zip(joints, [(0, 0, 0), (90, 0, 0), (10, -40, 170), (0, 180, 0)], strict=True)
        )
    ]
    use = CharacterUse(file="made.glb", anchors=anchors, scale=1.7)
    pose = pose_of(halcyon, clip_locals(halcyon, halcyon.clip("strike"), 0.4), lift(HOME, 0.3))
    pose.matrices[:, :3, :3] *= 2.5  # a joint's own scale moves no anchor
    held = anchorage_of(halcyon, use)
    turns = [Rotation.from_euler("XYZ", anchor.turn, degrees=True).as_matrix() for anchor in anchors]
    nodes = [halcyon.skeleton.index[joint] for joint in joints]
    plain = twins.anchors(
        pose.matrices, nodes, [a.offset for a in anchors], turns, [a.on_ground for a in anchors], 1.7
    )
    np.testing.assert_allclose(held.matrices(pose), plain, atol=2e-5)


# ---- births ---------------------------------------------------------------------------------------

SOURCES = {
    "point": lambda aim: PointSource(aim=aim, riding=Riding(keep=0.5)),
    "ball": lambda aim: SphereSource(aim=aim, radius=0.6, shell=0.0),
    "shell": lambda aim: SphereSource(aim=aim, radius=0.6, shell=1.0),
    "ring": lambda aim: RingSource(aim=aim, radius=0.5, thickness=0.1),
    "box": lambda aim: BoxSource(aim=aim, size=(0.5, 0.2, 0.1)),
    "cone": lambda aim: ConeSource(aim=aim, length=0.7, angle=35),
    "spray": lambda aim: ConeSource(aim=aim, length=0.0, angle=50),
    "line": lambda aim: LineSource(aim=aim, thickness=0.05, to="other"),
}


@pytest.mark.parametrize("heading", HEADINGS)
@pytest.mark.parametrize("source", SOURCES)
def test_births_are_those_of_the_twin(source, heading):
    layer = Layer(
        source=SOURCES[source](Aim(heading=heading, spread=35)).evolve(riding=Riding(share=0, keep=0.7)),
        emission=Emission(limit=MANY),
        lifetime=Attribute.of(1, 3),
        speed=Attribute.of(2, 5),
    )
    turned = lift(HOME, 0.2)
    turned[:3, :3] = Rotation.from_euler("yx", (70, 25), degrees=True).as_matrix()
    turned[0, 3] = 0.4
    ends = (np.array([1, 0.5, -1], np.float32), np.array([1.2, 0.1, -1], np.float32))
    leads = np.linspace(0, DT * 0.99, MANY).astype(np.float32)
    pool, program = born(layer, MANY, anchors=(HOME, turned, ends), serial=11, emission_offsets=leads)
    positions, serials = AnchorPlaces.of(HOME, turned, ends), np.arange(11, 11 + MANY)
    plain, middle, cosine, pace, moved = twins.births(7, serials, leads, DT, program.birth, positions)
    state = pool.columns.state[:, :MANY]
    np.testing.assert_array_equal(pool.columns.identity[:MANY], twins.identity(7, serials))
    for row in (k.PX, k.PY, k.PZ, k.NX, k.NY, k.NZ, k.LIFETIME, k.LEAD, k.RIDE_END, k.AGE):
        np.testing.assert_allclose(state[row], plain[row], atol=2e-5)
    own = state[k.VX : k.VZ + 1].T - moved
    assert np.abs(moved).max() > 1
    np.testing.assert_allclose(np.linalg.norm(own, axis=1), pace, rtol=1e-4)
    np.testing.assert_allclose((own * middle).sum(axis=1) / pace, cosine, atol=1e-4)


def test_births_on_the_skin_are_where_it_is_at_their_moment(halcyon):
    """Between two poses the skin goes straight here: each birth on it, and with its speed, exactly."""
    layer = Layer(source=SkinSource(lift=0.02, riding=Riding(share=0, keep=1)), emission=Emission(limit=MANY))
    layer = layer.evolve(speed=Attribute.of(0))
    around = tick_context(halcyon, 0.2, 0.2 + DT)._replace(curved=False)
    leads = np.linspace(0, DT * 0.99, MANY).astype(np.float32)
    pool, _ = born(layer, MANY, sampler_of(halcyon, layer.source), around, emission_offsets=leads)
    state, f = pool.columns.state[:, :MANY], (leads / DT)[:, None]
    shares = np.stack([1 - state[k.SHARE_B] - state[k.SHARE_C], state[k.SHARE_B], state[k.SHARE_C]], 1)
    corners = around.triangles[pool.columns.triangle[:MANY]]
    before, now, normal_before, normal_now = (
        np.einsum("nc,ncd->nd", shares, values[corners])
        for values in (around.skin_before, around.skin_now, around.normal_before, around.normal_now)
    )
    normal = normal_before + f * (normal_now - normal_before)
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    np.testing.assert_allclose(state[:3].T, before + f * (now - before) + 0.02 * normal, atol=1e-5)
    np.testing.assert_allclose(state[3:6].T, (now - before) / DT, atol=1e-3)


FADING = Curve.through((0, 2), (0.6, 1), (1, 0))
FORCES = (
    Gravity(pull=9), Wind(push=(0.5, 0, 1)), Drag(rate=2), Curl(strength=2, scale=0.7, spread=0.4),
    Gravity(pull=-3, curve=FADING), Drag(rate=3, spread=1, curve=FADING), Lift(strength=4),
    Wind(push=(3, 0, -1), gust=2, pace=3, scatter=5), Hold(radius=0.5, strength=30, spread=0.2),
    Attraction(strength=-6, reach=0.4), Vortex(reach=0.8, curve=FADING), Orbit(speed=-3, radius=0.4, spread=0.3),
)  # fmt: skip
"""The last have a place."""
FLOWN = {
    "riders": SkinSource(riding=Riding(share=0.02, keep=0.8)),
    "lifted": SkinSource(riding=Riding(share=0.02, keep=0.8), lift=0.03),
    "bones": SkinSource(mode=Mode.BONES, riding=Riding(share=0.02, keep=-0.5), radius=0.1),
    "free": SphereSource(radius=0.5),
}


@pytest.mark.parametrize("mode", [None, *LifeMode])
@pytest.mark.parametrize("contact", list(Collision))
@pytest.mark.parametrize("source", FLOWN)
def test_a_step_is_what_the_twin_makes_of_each_particle(halcyon, source, contact, mode):
    """Riding, letting go at their own moment, flying, and meeting the ground: the whole of it."""
    many, curve = 60, None if mode is None else Curve.through((0, 0.4), (1, 2))
    layer = Layer(
        source=FLOWN[source],
        emission=Emission(limit=many),
        lifetime=Attribute.of(1, 2),
        speed=Attribute(birth=Range.of(1, 3), life=curve, mode=mode or LifeMode.SCALE),
        motion=Motion(forces=FORCES, ground=GroundCollision(contact=contact, bounce=0.6, grip=0.3)),
    )
    around = tick_context(halcyon, 0.2, 0.2 + DT)
    midpoint = pose_of(halcyon, clip_locals(halcyon, halcyon.clip("strike"), 0.2 + DT / 2), HOME)
    poses = [pose_of(halcyon, clip_locals(halcyon, halcyon.clip("strike"), t), HOME) for t in (0.2, 0.2 + DT)]
    if contact is not Collision.PASS:
        around = TickContext.between(halcyon, *((pose, skin_of(halcyon, pose)) for pose in poses), midpoint)
    sampler = sampler_of(halcyon, layer.source) if isinstance(layer.source, SkinSource) else None
    pool, program = born(
        layer, many, sampler, around, emission_offsets=np.linspace(0, DT * 0.99, many).astype(np.float32)
    )
    points = np.zeros((len(program.forces.rows.codes), 2, 3), np.float32)
    points[-4:] = [[0.1, 0, 0.2], [0.4, 1, -0.2]]
    for n in range(4):
        count = pool.count
        low = np.flatnonzero(pool.columns.state[k.RIDE_END, :count] < 0)[: count // 3]
        pool.columns.state[k.PY, low] = np.linspace(0, 0.05, len(low))
        pool.columns.state[k.VY, low] -= 2
        wanted = pool.columns.state[:, :count].T.astype(float)
        who, rows = pool.columns.identity[:count].copy(), pool.columns.triangle[:count].copy()
        for state, one, row in zip(wanted, who, rows, strict=True):
            flight_twin.stepped(state, one, row, DT, n * DT, program, points.astype(float), around)
        pool.step(program, DT, n * DT, around, points)
        position = {one: at for at, one in enumerate(pool.columns.identity[: pool.count].tolist())}
        living = [at for at, one in enumerate(who.tolist()) if one in position]
        order = [position[who[at]] for at in living]
        np.testing.assert_allclose(pool.columns.state[:, order].T, wanted[living], atol=2e-4, rtol=2e-4)
        gone = np.setdiff1d(np.arange(count), living)
        assert (wanted[gone, k.AGE] >= wanted[gone, k.LIFETIME]).all()
    assert (pool.count < many) == (contact is Collision.DIE)


def test_clearing_away_leaves_exactly_those_whose_time_is_not_over():
    pool, program = free(MANY)
    state = pool.columns.state
    state[k.LIFETIME, :MANY] = np.random.default_rng(1).uniform(0, 2 * DT, MANY)
    state[k.LIFETIME, :2], state[k.LIFETIME, MANY - 2 : MANY] = (0, DT), (DT, 0)  # at both ends, and to the letter
    state[k.AGE, :MANY] = 0
    after = state.copy()
    after[k.AGE] += np.float32(DT)
    expected = twins.swept(after, pool.columns.identity, MANY)
    firing = np.arange(MANY, dtype=np.int32) % 7
    pool.columns.firing[:MANY] = firing
    of = dict(zip(pool.columns.identity[:MANY].tolist(), firing.tolist(), strict=True))
    pool.step(program, DT, 0.0, TickContext.empty())
    living = pool.columns.identity[: pool.count].tolist()
    assert sorted(living) == expected
    assert living == [who for who in of if who in set(expected)]  # in the order of their birth
    assert 0 < pool.count < MANY
    assert [of[who] for who in living] == pool.columns.firing[: pool.count].tolist()
    told = living_by_firing([pool, Pool()], np.array([0, 1, 2, 3, 4, 5, 6, 9], np.int32))
    assert told.tolist() == [*np.bincount([of[who] for who in living], minlength=7).tolist(), 0]


@pytest.mark.parametrize(
    ("firings", "positions", "alive"),
    [
        ([], [], []),
        ([], [3, 8], [0, 0]),
        ([5, 5, 5], [5], [3]),
        ([9, 3, 3, 8, 3, 9], [3, 8, 9], [3, 1, 2]),
        ([3, 7, 12, 3], [3, 8], [2, 0]),  # firings that nobody asks for, amid and beyond
        ([4, 4], [], []),
    ],
)
def test_the_living_are_counted_by_their_firings(firings, positions, alive):
    pool, _ = free(max(len(firings), 1))
    pool.columns.firing[: len(firings)] = firings
    pool.count = len(firings)
    assert living_by_firing([Pool(), pool], np.array(positions, np.int32)).tolist() == alive


# ---- drawing --------------------------------------------------------------------------------------


def attribute(low, high, mode, *points):
    return Attribute(birth=Range.of(low, high), mode=mode, life=Curve.through(*points) if points else None)


@pytest.mark.parametrize("mode", list(LifeMode))
def test_what_is_drawn_is_what_the_twin_draws(mode):
    """Each number from its own channel: birth by chance, met by its course through life."""
    layer = Layer(
        emission=Emission(limit=MANY),
        lifetime=Attribute.of(1, 3),
        size=attribute(0.1, 0.4, mode, (0, 0.5), (0.3, 2), (1, 0.1)),
        intensity=attribute(1, 4, mode, (0, 1), (1, 3)),
        opacity=attribute(0.2, 0.9, mode, (0, 0.1), (1, 0.8)),
        turn=attribute(-90, 90, mode, (0, 0.2), (1, 0.7)),
        colour=Tint(
            first=(1, 0, 0.2),
            second=(0.1, 1, 0.4),
            life=Gradient.through((0, (1, 0.5, 0.2)), (1, (0.2, 0.8, 1))),
            mode=mode if mode is not LifeMode.ADD else LifeMode.SCALE,
        ),
        look=SpriteLook(sheet=FrameGrid(columns=3, rows=2)),
    )
    pool, program = born(layer, MANY)
    state, who = pool.columns.state[:, :MANY], pool.columns.identity[:MANY]
    state[k.AGE] = np.random.default_rng(2).uniform(0, 1.2, MANY) * state[k.LIFETIME]
    age = (state[k.AGE] / state[k.LIFETIME]).astype(float)
    drawn, rules = drawn_of(pool, program), program.drawn
    values = []
    for row, channel in enumerate((4, 6, 7, 8)):
        low, high = rules.births[row].astype(float)
        birth = low + (high - low) * twins.uniform(who, channel)
        values.append(twins.meeting(birth, twins.curve(rules.tables[row], age), mode))
    size, strength, opacity, turn = values
    np.testing.assert_allclose(drawn.sizes, size, rtol=1e-4, atol=1e-5)
    np.testing.assert_allclose(drawn.turns, turn, rtol=1e-4, atol=1e-4)
    np.testing.assert_allclose(drawn.colours[:, 3], np.clip(opacity, 0, 1), rtol=1e-4, atol=1e-5)
    share = twins.uniform(who, 5)[:, None]
    tint = rules.tints[0] + share * (rules.tints[1] - rules.tints[0])
    through = np.stack([twins.curve(row, age) for row in rules.tint_table], 1)
    tint = twins.meeting(tint, through, layer.colour.mode)
    np.testing.assert_allclose(drawn.colours[:, :3], tint * np.maximum(strength, 0)[:, None], rtol=1e-4, atol=1e-5)
    np.testing.assert_array_equal(drawn.frames, np.minimum(twins.uniform(who, 10) * np.float32(6), 5).astype(int))
    np.testing.assert_array_equal(drawn.positions, state[:3].T)
    np.testing.assert_array_equal(drawn.velocities, state[3:6].T)


@pytest.mark.parametrize("blended", [False, True])
@pytest.mark.parametrize("play", [SheetPlay.LIFE, SheetPlay.LIFE_FROM_CHANCE])
@pytest.mark.parametrize("times", [0.5, 1.0, 3.0])
def test_a_sheet_that_plays_goes_through_its_frames_as_often_as_it_says(play, times, blended):
    sheet = FrameGrid(columns=3, rows=2, play=play, times=times, blended=blended)
    pool, program = born(Layer(emission=Emission(limit=MANY), look=SpriteLook(sheet=sheet)), MANY)
    state, who = pool.columns.state[:, :MANY], pool.columns.identity[:MANY]
    age = np.linspace(0, 0.9999, MANY)
    state[k.AGE] = age * state[k.LIFETIME]
    frames = drawn_of(pool, program).frames
    first = np.minimum(twins.uniform(who, 10) * np.float32(6), 5).astype(int) if play is not SheetPlay.LIFE else 0
    wanted = (age * (6 * times - blended) + first) % 6
    apart = np.abs(frames - wanted)
    assert np.minimum(apart, 6 - apart).max() < 2e-3
    if play is SheetPlay.LIFE and times == 1:
        assert frames.max() == pytest.approx(5 if blended else 6, abs=2e-3)  # it ends with the last, not the first
