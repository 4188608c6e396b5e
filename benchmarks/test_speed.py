"""Speed, as ratios measured in one run: particles, skinning, and a whole demo frame with its parts."""

import ctypes

import numba
import numpy as np
import pytest
from scripts.demo_maker.crowd import crowded_demo
from tests import twins
from tests.bodies import body, sphere, swaying_pole
from tests.pools import PLAIN, born, free

from benchmarks.conftest import best, compiled_c, times_faster
from wraithon.character.pose import clip_locals, pose_of, skin_of
from wraithon.character.sampling import sampler_of
from wraithon.character.spacing import spaced_evenly
from wraithon.particles import columns as k
from wraithon.particles.few import SmallPools
from wraithon.particles.rules import TickContext
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.character import CharacterUse
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.motion import Curl, Drag, Gravity, Motion
from wraithon.project.project import ClipRun, Project, Stage
from wraithon.project.source import Riding, SkinSource, Spacing
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.frame import frame_of
from wraithon.stage.player import Player

COUNT = 100_000
DT = np.float32(1 / 60)
FORCES = Motion(forces=(Gravity(), Drag(rate=0.5), Curl(strength=1.5, scale=0.5, change=0.3)))
NOWHERE = np.zeros((3, 2, 3), np.float32)


@pytest.fixture(scope="module")
def c_step(tmp_path_factory):
    """Return the C loop, compiled now for this very processor, or skip when there is no compiler."""
    function = compiled_c(tmp_path_factory.mktemp("c"), "step").step
    floats = ctypes.POINTER(ctypes.c_float)
    f = ctypes.c_float
    function.argtypes = [
        floats,
        ctypes.c_int64,
        ctypes.c_int64,
        f,
        f,
        floats,
        f,
        f,
        f,
        f,
        ctypes.c_uint32,
        ctypes.c_int,
    ]

    def go(state, rows, threads):
        push, drag, curl = rows.numbers
        function(
            state.ctypes.data_as(floats), COUNT, COUNT, DT, 1.0, push.ctypes.data_as(floats), drag[0],
            *(float(x) for x in curl[:3]), int(rows.seeds[2]), threads,
        )  # fmt: skip

    return go


def test_fused_step_against_its_twin_and_c(benchmark, ratio, c_step):
    pool, program = free(COUNT, Layer(motion=FORCES))
    rows, nothing = program.forces.rows, TickContext.empty()
    check, twin = (pool.columns.state[:, :COUNT].copy() for _ in range(2))
    c_step(check, rows, 1)
    twins.step(twin, DT, 1.0, rows, NOWHERE)
    np.testing.assert_allclose(check[:7], twin[:7], atol=5e-4)

    def go():
        pool.step(program, DT, 1.0, nothing, NOWHERE, wants_moments=False)

    go()
    np.testing.assert_allclose(pool.columns.state[:7, :COUNT], twin[:7], atol=5e-4)
    benchmark(go)
    threads = numba.config.NUMBA_NUM_THREADS
    ours, c = best(go), best(lambda: c_step(check, rows, threads))
    numba.set_num_threads(1)
    single, single_c = best(go), best(lambda: c_step(check, rows, 1))
    numba.set_num_threads(threads)
    plain = best(lambda: twins.step(twin, DT, 1.0, rows, NOWHERE), rounds=3)
    ratio("step of 100,000: NumPy twin / kernel", plain / ours, at_least=8)
    ratio("step of 100,000: kernel / C loop", ours / c, at_most=1.5)
    ratio("step of 100,000: kernel / C loop, one thread each", single / single_c)


def plain_riding(character, pose, rows, b, c):
    """Return the plain way to where riders are: skin all, gather, combine."""
    mesh, skeleton = character.mesh, character.skeleton
    palette = (pose.matrices[skeleton.palette_nodes] @ skeleton.inverse_bind).astype(np.float32)

    def go():
        matrices = (palette[mesh.joints] * mesh.weights[..., None, None]).sum(axis=1)
        skinned = np.einsum("vij,vj->vi", matrices[:, :3, :3], mesh.positions) + matrices[:, :3, 3]
        corners = skinned[mesh.triangles[rows]]
        return corners[:, 0] * (1 - b - c)[:, None] + corners[:, 1] * b[:, None] + corners[:, 2] * c[:, None]

    return go


def test_riding_against_the_plain_way(benchmark, ratio):
    character = swaying_pole()
    poses = [
        pose_of(character, clip_locals(character, character.clip("sway"), t), np.eye(4, dtype=np.float32))
        for t in (0.7, 0.7 + 1 / 60)
    ]
    skins = [skin_of(character, pose) for pose in poses]
    around = TickContext.between(character, *zip(poses, skins, strict=True))
    layer = Layer(
        source=SkinSource(riding=Riding(share=1.0)),
        emission=Emission(limit=COUNT),
        motion=Motion(),
        **{**PLAIN, "lifetime": Attribute.of(1e5)},
    )
    source = sampler_of(character, layer.source)
    pool, program = born(layer, COUNT, source, around)

    def ours():
        skin_of(character, poses[1])
        pool.step(program, DT, 0.0, around, wants_moments=False)

    shares = pool.columns.state[[k.SHARE_B, k.SHARE_C], :COUNT]
    plain = plain_riding(character, poses[1], pool.columns.triangle[:COUNT], *shares)
    ours()
    np.testing.assert_allclose(pool.columns.state[:3, :COUNT].T, plain(), atol=2e-5)
    benchmark(ours)
    ratio("riding of 100,000: plain NumPy / kernel", times_faster(ours, plain), at_least=10)


def test_a_whole_step_with_100_000_riders(benchmark, ratio):
    character = swaying_pole()
    layer = Layer(
        name="riders",
        source=SkinSource(riding=Riding(share=1.0)),
        emission=Emission(bursts=(Burst(count=COUNT),), limit=COUNT),
        lifetime=Attribute.of(1e5, 1e5),
    )
    effect = Effect(name="table", layers=(layer,))
    project = Project(
        characters=(CharacterUse(id="pole", file="pole.glb"),),
        stage=Stage(order=(ClipRun(clip="sway"),)),
        effects=(effect,),
        triggers=(Trigger(when=AtStart(), response=(StartEffect(effect=effect.id),)),),
    )
    player = Player(project, {"pole": character})
    player.step()
    assert player.show.alive == COUNT
    pool = player.show.pools[layer.id]
    state = pool.columns.state
    assert (state[k.RIDE_END, :COUNT] > 0).all()
    shares = state[[k.SHARE_B, k.SHARE_C], :COUNT]
    plain = plain_riding(character, player.show.posed(1)[0], pool.columns.triangle[:COUNT], *shares)
    benchmark(player.step)
    assert player.show.alive == COUNT
    text = "100,000 riders: plain NumPy riding alone / whole step with pose and skin"
    ratio(text, times_faster(player.step, plain))


@pytest.mark.parametrize("pieces", [2000, 20_000])
def test_even_spacing(benchmark, pieces):
    character = body(*sphere())
    source = SkinSource(spacing=Spacing.EVEN, pieces=pieces)
    sampler = sampler_of(character, source.evolve(spacing=Spacing.RANDOM))
    benchmark.pedantic(lambda: spaced_evenly(character, sampler, source, 1), rounds=5 if pieces < 5000 else 2)


def test_skinning_against_the_plain_way(benchmark, ratio, demo):
    character = demo.characters["halcyon"]
    mesh, skeleton = character.mesh, character.skeleton
    local = clip_locals(character, character.clip("walk"), 0.3)
    pose = pose_of(character, local, np.eye(4, dtype=np.float32))

    def plain():
        palette = pose.matrices[skeleton.palette_nodes] @ skeleton.inverse_bind
        matrices = (palette[mesh.joints] * mesh.weights[..., None, None]).sum(axis=1)
        positions = np.einsum("vij,vj->vi", matrices[:, :3, :3], mesh.positions) + matrices[:, :3, 3]
        normals = np.einsum("vij,vj->vi", matrices[:, :3, :3], mesh.normals)
        return positions, normals / np.linalg.norm(normals, axis=1, keepdims=True)

    benchmark(lambda: skin_of(character, pose))
    ratio("skinning: plain NumPy / kernel", times_faster(lambda: skin_of(character, pose), plain))


def test_a_whole_frame_with_its_parts(benchmark, ratio, demo):
    player = Player(crowded_demo(20_000), demo.characters)
    player.seek(3.2)
    renderer = RasterRenderer(TextureLibrary(None).read)
    view = demo.project.view
    parts = {}

    def whole():
        player.step()
        picture = renderer.draw(frame_of(player.show), view, 588, 598, live=True)
        for name, seconds in picture.seconds.items():
            parts.setdefault(name, []).append(seconds)

    benchmark.pedantic(whole, rounds=20, warmup_rounds=3)
    total = benchmark.stats.stats.median
    for name, seconds in parts.items():
        ratio(f"frame of 20,000: {name} / whole", float(np.median(seconds)) / total)
    frame = frame_of(player.show)
    still = best(lambda: renderer.draw(frame, view, 588, 598), rounds=5)
    moving = best(lambda: renderer.draw(frame, view, 588, 598, live=True), rounds=5)
    ratio("picture of 20,000: full quality / live", still / moving)


def test_many_small_pools_together_against_each_by_itself(benchmark, ratio):
    """512 firings of 500 effects with 30 births a second each."""
    effects = tuple(
        Effect(
            id=f"e{k}",
            length=None,
            layers=(Layer(id=f"l{k}", emission=Emission(rate=30), lifetime=Attribute.of(0.5)),),
        )
        for k in range(500)
    )
    show = Player(Project(effects=effects), {}).show
    for number in range(512):
        show.start(effects[number % 500], None, 0.0)
    for _ in range(60):
        show.advance()
    benchmark(show.advance)
    small, around = SmallPools(), TickContext.empty()
    pairs = [(show.compiled.programs[layer], pool) for layer, pool in show.pools.items()]

    def each():
        for program, pool in pairs:
            pool.step(program, 1e-6, 1.0, around, wants_moments=False)  # so short that nobody dies

    alone, together = best(each), best(lambda: small.step(pairs, 1e-6, 1.0, around))
    ratio("500 small pools: each by itself / together", alone / together, at_least=3)
