"""Speed, as ratios measured in one run: particles, skinning, and a whole demo frame with its parts."""

import ctypes
import shutil
import subprocess
from pathlib import Path

import numba
import numpy as np
import pytest
from tests import twins
from tests.bodies import body, sphere, swaying_pole

from benchmarks.conftest import best, times_faster
from wraithon.character.pose import clip_locals, pose_of, skin_of
from wraithon.character.sampling import sampler_of
from wraithon.character.spacing import spaced_evenly
from wraithon.demo.crowd import crowded_demo
from wraithon.particles import kernels as k
from wraithon.particles.pool import Surroundings
from wraithon.picture.renderer import Renderer
from wraithon.picture.shipped import TextureShelf
from wraithon.project.character import CharacterUse
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.project import Cue, Project, Stage
from wraithon.project.source import Riding, SkinSource, Spacing
from wraithon.project.trigger import AtStart, StartEffect, Trigger
from wraithon.stage.player import Player

COUNT = 100_000
DT = np.float32(1 / 60)
PUSH, DRAG = np.array([0, -9.81, 0], np.float32), np.float32(0.5)
CURLS, SEEDS = np.array([[1.5, 2.0, 0.3]], np.float32), np.array([7], np.uint32)


def free_particles():
    rng = np.random.default_rng(3)
    state = np.zeros((k.COLUMNS, COUNT), np.float32)
    state[:6] = rng.normal(size=(6, COUNT))
    state[k.LIFETIME], state[k.RIDE_END] = 1e9, -1
    return state


def kernel_step(state):
    triangle, nothing = np.full(COUNT, -1, np.int32), Surroundings.empty()
    zero, table = np.float32(0), np.ones(128, np.float32)

    def go():
        k.step(
            COUNT, state, triangle, COUNT, DT, np.float32(1), PUSH, DRAG, CURLS, SEEDS, k.PASS, zero, zero, -1, table,
            k.POINT, zero, zero, zero, False, nothing.skin_before, nothing.skin_amid, nothing.skin_now,
            nothing.normal_now, nothing.triangles, nothing.bones_before, nothing.bones_amid, nothing.bones_now, False,
        )  # fmt: skip

    go()
    return go


@pytest.fixture(scope="module")
def c_step(tmp_path_factory):
    """Return the C loop, compiled now with cc -O3, or skip when there is no compiler."""
    compiler = shutil.which("cc")
    if compiler is None:
        pytest.skip("no C compiler here")
    library = tmp_path_factory.mktemp("c") / "step.so"
    source = Path(__file__).parent / "step.c"
    subprocess.run([compiler, "-O3", "-shared", "-fPIC", str(source), "-o", str(library), "-lm"], check=True)
    function = ctypes.CDLL(str(library)).step
    floats = ctypes.POINTER(ctypes.c_float)
    f = ctypes.c_float
    function.argtypes = [floats, ctypes.c_int64, ctypes.c_int64, f, f, floats, f, f, f, f, ctypes.c_uint32]

    def go(state):
        function(
            state.ctypes.data_as(floats), COUNT, COUNT, DT, 1.0, PUSH.ctypes.data_as(floats), DRAG,
            *(float(x) for x in CURLS[0]), int(SEEDS[0]),
        )  # fmt: skip

    return go


def test_fused_step_against_its_twin_and_c(benchmark, ratio, c_step):
    state = free_particles()
    go = kernel_step(state)
    check = free_particles()
    c_step(check)
    twin = free_particles()
    twins.step(twin, DT, 1.0, PUSH, DRAG, CURLS, SEEDS)
    np.testing.assert_allclose(check[:7], twin[:7], atol=5e-4)
    benchmark(go)
    numba.set_num_threads(1)
    single = best(go)
    numba.set_num_threads(numba.config.NUMBA_NUM_THREADS)
    ours, c = best(go), best(lambda: c_step(check))
    plain = best(lambda: twins.step(twin, DT, 1.0, PUSH, DRAG, CURLS, SEEDS), rounds=3)
    ratio("step of 100,000: NumPy twin / kernel", plain / ours, at_least=8)
    ratio("step of 100,000: kernel / C loop", ours / c, at_most=1.5)
    ratio("step of 100,000: kernel on one thread / C loop", single / c)


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
    mesh = character.mesh
    poses = [
        pose_of(character, clip_locals(character, character.clip("sway"), t), np.eye(4, dtype=np.float32))
        for t in (0.7, 0.7 + 1 / 60)
    ]
    skins = [skin_of(character, pose) for pose in poses]
    around = Surroundings.between(character, *zip(poses, skins, strict=True))
    state = free_particles()
    rng = np.random.default_rng(4)
    b, c = rng.uniform(0, 0.5, (2, COUNT)).astype(np.float32)
    state[k.SHARE_B], state[k.SHARE_C], state[k.RIDE_END] = b, c, 1e9
    rows = rng.integers(0, len(mesh.triangles), COUNT).astype(np.int32)
    zero, table = np.float32(0), np.ones(128, np.float32)
    none, seeds = np.zeros((0, 3), np.float32), np.zeros(0, np.uint32)

    def ours():
        skin_of(character, poses[1])
        k.step(
            COUNT, state, rows, COUNT, DT, zero, PUSH, zero, none, seeds, k.PASS, zero, zero, -1, table,
            k.SKIN, zero, zero, zero, False,
            around.skin_before, around.skin_amid, around.skin_now, around.normal_now, around.triangles,
            around.bones_before, around.bones_amid, around.bones_now, False,
        )  # fmt: skip

    plain = plain_riding(character, poses[1], rows, b, c)
    ours()
    np.testing.assert_allclose(state[:3].T, plain(), atol=2e-5)
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
    effect = Effect(name="coat", layers=(layer,))
    project = Project(
        characters=(CharacterUse(id="pole", file="pole.glb"),),
        stage=Stage(order=(Cue(clip="sway"),)),
        effects=(effect,),
        triggers=(Trigger(when=AtStart(), response=(StartEffect(effect=effect.id),)),),
    )
    player = Player(project, {"pole": character})
    player.step()
    assert player.show.alive == COUNT
    pool = player.show.pools[layer.id]
    assert (pool.state[k.RIDE_END, :COUNT] > 0).all()
    plain = plain_riding(
        character, player.show.posed(1)[0], pool.triangle[:COUNT], *pool.state[[k.SHARE_B, k.SHARE_C], :COUNT]
    )
    benchmark(player.step)
    assert player.show.alive == COUNT
    words = "100,000 riders: plain NumPy riding alone / whole step with pose and skin"
    ratio(words, times_faster(player.step, plain))


@pytest.mark.parametrize("pieces", [2000, 20_000])
def test_even_spacing(benchmark, pieces):
    character = body(*sphere())
    source = SkinSource(spacing=Spacing.EVEN, pieces=pieces)
    sampler = sampler_of(character, source.but(spacing=Spacing.RANDOM))
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
    renderer = Renderer(TextureShelf(None).read)
    view = demo.project.view
    parts = {}

    def whole():
        player.step()
        picture = renderer.draw(player.frame(), view, 588, 598, live=True)
        for name, seconds in picture.seconds.items():
            parts.setdefault(name, []).append(seconds)

    benchmark.pedantic(whole, rounds=20, warmup_rounds=3)
    total = benchmark.stats.stats.median
    for name, seconds in parts.items():
        ratio(f"frame of 20,000: {name} / whole", float(np.median(seconds)) / total)
    frame = player.frame()
    still = best(lambda: renderer.draw(frame, view, 588, 598), rounds=5)
    moving = best(lambda: renderer.draw(frame, view, 588, 598, live=True), rounds=5)
    ratio("picture of 20,000: full quality / live", still / moving)
