"""Kernels of looks beside equal C loops: each gets what the picture itself hands to it, and does the same."""

import ctypes

import numba
import numpy as np
import pytest

from benchmarks.conftest import compiled_c, times_faster
from wraithon.picture import transparent
from wraithon.picture.kernels.ground_kernels import HORIZON
from wraithon.picture.looks import drawer, light, mark, ribbon
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shells import shell_meshes
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.solid import solids
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.look import Blend, DecalLook, LightLook, MeshLook, RibbonLook, ShellLook, SpriteLook, Through
from wraithon.project.motion import Curl, Motion
from wraithon.project.source import PointSource, RingSource, SphereSource
from wraithon.stage.player import Player

MAXIMUM = 1.3
"""Times that a C loop's time may be taken."""
THREADS = numba.config.NUMBA_NUM_THREADS
SWIRL = Motion(forces=(Curl(strength=1.5, scale=0.5),))
BALL = SphereSource(radius=1.0)


@pytest.fixture(scope="module")
def c(tmp_path_factory):
    """Return the C loops, compiled now for this very processor, or skip when there is no compiler."""
    return compiled_c(tmp_path_factory.mktemp("c"), "looks")


def told(*arguments):
    """Return arguments as C takes them: arrays by where they are, whole numbers of 64 bits, floats of 32."""
    kinds = {int: ctypes.c_int64, float: ctypes.c_float, np.float32: ctypes.c_float}
    return [
        ctypes.c_void_p(a.ctypes.data) if isinstance(a, np.ndarray) else kinds[type(a)](a) for a in arguments
    ]  # fmt: skip


def handed(monkeypatch, demo, module, name, layer, *, seconds=1.2, live=False):
    """Return a kernel and the arguments that the picture of a layer hands to it."""
    seen, kernel = [], getattr(module, name)

    def spy(*arguments):
        seen.append(arguments)
        return kernel(*arguments)

    effect = Effect(id="e", length=None, layers=(layer,))
    player = Player(demo.project.evolve(effects=(effect,), triggers=()), demo.characters)
    player.show.start(player.show.compiled.effects["e"], None, 0.0)
    for _ in range(round(seconds * 60)):
        player.show.advance()
    monkeypatch.setattr(module, name, spy)
    renderer = RasterRenderer(TextureLibrary(None).read)
    for _ in range(2):
        renderer.draw(player.frame(), demo.project.view, 640, 576, live=live)
    monkeypatch.undo()
    return kernel, seen[-1]


def layer_of(look, count, **more):
    given = {"source": BALL, "speed": Attribute.of(0.5), "lifetime": Attribute.of(100), "motion": SWIRL} | more
    return Layer(id="crowd", look=look, emission=Emission(bursts=(Burst(count=count),), limit=count), **given)


def compare(benchmark, ratio, text, ours, loop, *pairs):
    """Run both, see that they write the same, and note how long the kernel takes beside the loop."""
    ours()
    held = [out.copy() for out, _ in pairs]
    for out, _ in pairs:
        out[...] = 0
    loop()
    for (out, close), wanted in zip(pairs, held, strict=True):
        np.testing.assert_allclose(out, wanted, atol=close, rtol=2e-3)
    benchmark(ours)
    ratio(f"{text}: kernel / C loop", times_faster(loop, ours, slow_turns=8), at_most=MAXIMUM)


def compare_on(picture, benchmark, ratio, text, ours, loop, close):
    """Compare as `compare` does, each time with the picture as it was before anything was laid on it."""
    fresh = picture.copy()

    def onto(function):
        def run():
            picture[...] = fresh
            function()

        return run

    compare(benchmark, ratio, text, onto(ours), onto(loop), (picture, close))


def test_pieces(benchmark, ratio, demo, c, monkeypatch):
    kernel, arguments = handed(monkeypatch, demo, solids, "place_pieces", layer_of(MeshLook(shapes=("ball",)), 2000))
    positions, points, out, out_normals = arguments[0], arguments[3], *arguments[5:]
    given = told(len(positions), len(points), *arguments)
    compare(
        benchmark, ratio, "placing 2,000 pieces", lambda: kernel(*arguments),
        lambda: c.pieces(*given, ctypes.c_int(THREADS)), (out, 1e-5), (out_normals, 1e-5),
    )  # fmt: skip


def test_ribbons(benchmark, ratio, demo, c, monkeypatch):
    look = RibbonLook(through=Through.PAST, past=1.05, tail=0.8, soft=0.01)
    kernel, arguments = handed(monkeypatch, demo, ribbon, "build_ribbons", layer_of(look, 300))
    starts, points, _, widths, colours, _, _, _, eye, ahead, focal, fine, shape, _, out, tints, uvs = arguments
    given = told(
        len(starts) - 1, starts, points, widths, colours, eye, ahead, focal, fine, np.array(shape, np.float32), out,
        tints, uvs,
    )  # fmt: skip
    compare(
        benchmark, ratio, "laying out 300 ribbons of 64 points", lambda: kernel(*arguments),
        lambda: c.ribbons(*given, ctypes.c_int(THREADS)), (out, 1e-4), (tints, 1e-3), (uvs, 1e-3),
    )  # fmt: skip


def test_facets(benchmark, ratio, demo, c, monkeypatch):
    look = RibbonLook(through=Through.PAST, past=1.05, tail=0.8, soft=0.01)
    kernel, arguments = handed(monkeypatch, demo, drawer, "place_triangles", layer_of(look, 300))
    corners, points, tints, uvs, eye, basis, focal, width, height, soft, levels, flags, rows, skins, boxes = arguments
    given = told(
        len(corners), corners, points, tints, uvs, eye, basis, focal, float(width), float(height), soft, len(levels),
        np.ascontiguousarray(levels), flags, rows, skins, boxes,
    )  # fmt: skip
    given[13] = ctypes.c_int(flags)
    boxes[:], rows[:], skins[:] = 0, 0, 0
    compare(
        benchmark, ratio, f"placing {len(corners):,} facets", lambda: kernel(*arguments),
        lambda: c.triangles(*given, ctypes.c_int(THREADS)), (boxes, 0.05),
    )  # fmt: skip


SHELL = layer_of(ShellLook(bend=0.05), 1, source=PointSource(), speed=Attribute.of(0), size=Attribute.of(1.4))


def test_doubling(benchmark, ratio, demo, c, monkeypatch):
    kernel, arguments = handed(monkeypatch, demo, shell_meshes, "double_patch", SHELL, live=True)
    source, out = arguments
    given = told(*source.shape, source, out.shape[2], out)
    compare(
        benchmark, ratio, "a film at twice its size", lambda: kernel(*arguments),
        lambda: c.doubled(*given, ctypes.c_int(THREADS)), (out, 1e-5),
    )  # fmt: skip


def test_bending(benchmark, ratio, demo, c, monkeypatch):
    kernel, arguments = handed(monkeypatch, demo, shell_meshes, "bend_picture", SHELL)
    source, corner, patch, box, step, picture = arguments
    given = told(
        source, *source.shape[1:], corner, patch, *patch.shape[1:], box, step, picture, *picture.shape[1:]
    )  # fmt: skip
    compare_on(
        picture, benchmark, ratio, "bending what is seen through a shell", lambda: kernel(*arguments),
        lambda: c.bend(*given, ctypes.c_int(THREADS)), 1e-4,
    )  # fmt: skip


FLAT_DOWN = {"source": RingSource(radius=1.5, thickness=0.8), "speed": Attribute.of(0), "motion": Motion()}


def test_marks(benchmark, ratio, demo, c, monkeypatch):
    layer = layer_of(DecalLook(texture="glow.png"), 200, size=Attribute.of(0.8), **FLAT_DOWN)
    kernel, arguments = handed(monkeypatch, demo, mark, "draw_decals", layer)
    picture, depth, eye, basis, focal, marks, spans, picks, flags, planes = arguments
    given = told(
        picture, depth, *depth.shape, eye, basis, focal, len(marks), marks, spans, picks, int(flags[1]),
        len(planes) // 4, planes, float(HORIZON),
    )  # fmt: skip
    compare_on(
        picture, benchmark, ratio, "laying 200 marks", lambda: kernel(*arguments),
        lambda: c.marks(*given, ctypes.c_int(THREADS)), 2e-3,
    )  # fmt: skip


def test_lights(benchmark, ratio, demo, c, monkeypatch):
    layer = layer_of(LightLook(), 12, size=Attribute.of(1.5), **(FLAT_DOWN | {"source": BALL}))
    kernel, arguments = handed(monkeypatch, demo, light, "add_lights", layer)
    picture, depth, eye, basis, focal, lights, spans, skip = arguments
    given = told(picture, depth, *depth.shape, eye, basis, focal, len(lights), lights, spans, skip)
    compare_on(
        picture, benchmark, ratio, "adding 12 lights", lambda: kernel(*arguments),
        lambda: c.lights(*given, ctypes.c_int(THREADS)), 2e-3,
    )  # fmt: skip


def test_veils(benchmark, ratio, demo, c, monkeypatch):
    kernel, arguments = handed(monkeypatch, demo, shell_meshes, "draw_shell", SHELL, live=True)
    (_, counts, lists, _, screen, triangles, vertices, positions, shader_parameters, _, _, lattice, _, lens, solid,
    step, fine, _,
     depth, ids, _, box, patch) = arguments  # fmt: skip
    assert fine == 1
    given = told(
        len(counts) - 1, counts, lists, screen, triangles, vertices, positions, shader_parameters, lattice, lens,
        solid,
        *solid.shape, float(step), len(depth), depth, ids, depth.shape[1], box, patch, *patch.shape,
    )  # fmt: skip
    compare(
        benchmark, ratio, "a film of noise", lambda: kernel(*arguments),
        lambda: c.shell_mesh(*given, ctypes.c_int(THREADS)), (patch, 0.08),
    )  # fmt: skip


@pytest.mark.parametrize("blend", [Blend.ADDITIVE, Blend.ALPHA])
@pytest.mark.parametrize("texture", ["glow.png", "feather.png"])
def test_squares(benchmark, ratio, demo, c, monkeypatch, blend, texture):
    look = SpriteLook(texture=texture, blend=blend)
    layer = layer_of(look, 20_000, size=Attribute.of(0.02, 0.04), opacity=Attribute.of(0.3, 0.6))
    kernel, arguments = handed(monkeypatch, demo, transparent, "composite_sprites", layer)
    (records, marks, _, _, _, _, counts, lists, order, rows, planes, depth, step, _, _, picture) = arguments
    assert step == 1
    given = told(
        len(order), records, marks, counts, lists, int(rows), len(planes) // 4, planes, depth, *depth.shape, picture
    )  # fmt: skip
    text = f"20,000 squares of {texture[:-4]}, {blend}"
    compare_on(
        picture, benchmark, ratio, text, lambda: kernel(*arguments),
        lambda: c.quads(*given, ctypes.c_int(THREADS)), 0.02,
    )  # fmt: skip


def test_laying_facets(benchmark, ratio, demo, c, monkeypatch):
    look = RibbonLook(through=Through.PAST, past=1.05, tail=0.8, soft=0.01, texture="mist.png")
    layer = layer_of(look, 300, size=Attribute.of(0.05), opacity=Attribute.of(0.5))
    kernel, arguments = handed(monkeypatch, demo, transparent, "composite_sprites", layer)
    (_, marks, triangles, skins, _, _, counts, lists, order, rows, planes, depth, step, _, _, picture) = arguments
    assert step == 1
    given = told(
        len(order), marks, counts, lists, triangles, skins, int(rows), len(planes) // 4, planes, depth, *depth.shape,
        picture,
    )  # fmt: skip
    compare_on(
        picture, benchmark, ratio, f"laying {len(triangles):,} facets", lambda: kernel(*arguments),
        lambda: c.lay_facets(*given, ctypes.c_int(THREADS)), 0.03,
    )  # fmt: skip
