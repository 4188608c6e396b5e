"""Kernels as a whole: both versions of each do the same, and none is taken from the cache when it is stale."""

import ast
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

import wraithon
from tests.pools import DT, HOME, PLAIN, born, free, lift, tick_context
from wraithon.character.sampling import sampler_of
from wraithon.numeric import compiled
from wraithon.numeric.compiled import FEW, HELPERS, SizedKernel
from wraithon.particles.looks.batch import drawn_of
from wraithon.particles.rules import TickContext
from wraithon.picture.kernels.columns import PICK_COLUMNS, SPRITE_COLUMNS
from wraithon.picture.kernels.raster_kernels import LISTED
from wraithon.picture.looks.drawer import SpriteQuads, Triangles
from wraithon.picture.renderer import Buffers
from wraithon.picture.shells.shell_meshes import NO_PATCHES
from wraithon.picture.transparent import PlacedTransparents, prepared
from wraithon.picture.triangles import listed
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Curve
from wraithon.project.motion import Collision, Curl, Gravity, GroundCollision, Motion, Vortex
from wraithon.project.source import Mode, PointSource, Riding, RingSource, SkinSource, SphereSource

HERE = Path(wraithon.__file__).parent
MANY = 3 * FEW + 5


@pytest.fixture(params=["few", "many"])
def version(request, monkeypatch):
    """Run every kernel in one version, whatever the number of rows."""

    def call(self, _rows, *arguments):
        return (self.small if request.param == "few" else self._large)(*arguments)

    monkeypatch.setattr(SizedKernel, "__call__", call)
    return request.param


SOURCES = {
    "point": PointSource(),
    "sphere": SphereSource(),
    "ring": RingSource(),
    "skin": SkinSource(riding=Riding(share=0.5)),
    "bone": SkinSource(mode=Mode.BONES, riding=Riding(share=0.5)),
}
_seen: dict[str, tuple] = {}


def same_as_the_other_version(name, *arrays):
    """Hold what one version gives until the other has run, then compare."""
    other = _seen.setdefault(name, tuple(array.copy() for array in arrays))
    for one, two in zip(arrays, other, strict=True):
        np.testing.assert_array_equal(one, two)


@pytest.mark.parametrize("source", SOURCES)
@pytest.mark.parametrize("count", [7, MANY])
def test_births_are_the_same_in_both_versions(version, source, count, halcyon):
    layer = Layer(source=SOURCES[source], emission=Emission(limit=MANY))
    needs = source in {"skin", "bone"}
    around = tick_context(halcyon, 0.2, 0.25) if needs else TickContext.empty()
    sampler = sampler_of(halcyon, layer.source) if needs else None
    pool, _ = born(layer, count, sampler, around, anchors=(HOME, lift(HOME, 0.5)))
    held = pool.columns.first(pool.count)
    assert pool.count == count
    assert (held.state[2] != 0).any() or source == "point"
    same_as_the_other_version(f"bear {source} {count}", *held)


def test_a_step_is_the_same_in_both_versions(version):
    ground = GroundCollision(contact=Collision.BOUNCE)
    layer = Layer(id="one", motion=Motion(forces=(Gravity(), Curl(), Vortex()), ground=ground))
    pool, program = free(MANY, layer)
    points = np.zeros((3, 2, 3), np.float32)
    happened = [pool.step(program, DT, n * DT, TickContext.empty(), points) for n in range(20)]
    assert sum(len(part.kinds) for part in happened) > 0
    told = [array for part in happened for array in (part.kinds, part.moments, *part.particles)]
    same_as_the_other_version("step", *pool.columns.first(pool.count), *told)


def test_what_is_drawn_is_the_same_in_both_versions(version):
    fade = Attribute.of(0.2, 0.9, Curve.through((0, 1), (1, 0)))
    layer = Layer(**{**PLAIN, "lifetime": Attribute.of(1, 3)}, opacity=fade, emission=Emission(limit=MANY))
    pool, program = born(layer, MANY)
    drawn = drawn_of(pool, program)
    assert (drawn.sizes > 0).all()
    assert np.ptp(drawn.colours[:, 3]) > 0.5
    same_as_the_other_version("draw", *drawn)


def test_sprites_reach_the_same_bands_in_both_versions(version):
    rng = np.random.default_rng(3)
    sprites = rng.uniform(-20, 140, (MANY, SPRITE_COLUMNS)).astype(np.float32)
    squares = SpriteQuads(sprites, np.full((MANY, PICK_COLUMNS), 4, np.int32), np.zeros(MANY, np.uint8))
    placed = PlacedTransparents(squares, Triangles.together([]), NO_PATCHES)
    found = prepared(placed, rng.permutation(MANY), np.zeros(256, np.uint32), 1, (16, 120, 120), Buffers())
    same_as_the_other_version("reach", *found)


@pytest.mark.parametrize("count", [0, 1, LISTED, LISTED + 1, 3 * LISTED + 7])
def test_many_are_told_to_their_bands_as_few_are(count):
    rng = np.random.default_rng(count)
    first = rng.integers(0, 30, count)
    spans = np.column_stack([first, first + rng.integers(-1, 4, count)]).astype(np.int32)
    counts = np.full(35, -1, np.int32)
    lists = listed(Buffers(), "", spans, counts)[: counts[-1]]
    wanted = [np.flatnonzero((spans[:, 0] <= band) & (spans[:, 1] >= band)) for band in range(34)]
    assert lists.tolist() == np.concatenate(wanted).tolist()
    assert counts.tolist() == [0, *np.cumsum([len(rows) for rows in wanted])]


def imported_by(path):
    """Return the project's own files that a file imports when it runs."""
    tree = ast.parse(path.read_text())
    idle = {
        inner
        for node in ast.walk(tree)
        if isinstance(node, ast.If) and ast.unparse(node.test) == "TYPE_CHECKING"
        for inner in ast.walk(node)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and node not in idle and (node.module or "").startswith("wraithon"):
            parts = node.module.split(".")[1:]
            whole = HERE.joinpath(*parts).with_suffix(".py")
            yield from [whole] if whole.exists() else (HERE.joinpath(*parts, f"{n.name}.py") for n in node.names)


def test_whatever_is_compiled_into_a_kernel_is_in_the_name_of_its_cache():
    """Else an edit of a helper would leave the old machine code in use."""
    told = {*HERE.rglob("*kernels.py"), *(HERE / name for name in HELPERS)}
    assert {path for path in told if not path.exists()} == set()
    for path in told - {HERE / "numeric" / "compiled.py"}:
        into = compiled._compiled_into(path)
        needed = {found for part in into - {HERE / "numeric" / "compiled.py"} for found in imported_by(part)}
        assert {str(part.relative_to(HERE)) for part in needed - into} == set()
        assert into <= told


def edited(monkeypatch, name):
    read = Path.read_bytes
    monkeypatch.setattr(Path, "read_bytes", lambda path: read(path) + b"#" * (path.name == name))
    compiled._cache_folder.cache_clear()


def test_an_edit_gives_a_new_cache_to_what_depends_on_it_and_to_nothing_else(monkeypatch):
    sources = compiled._sources()
    before, complete = {path: compiled._cache_folder(path) for path in sources}, compiled._complete()
    edited(monkeypatch, "order_kernels.py")
    try:
        anew = {path.stem for path in sources if compiled._cache_folder(path) != before[path]}
        assert anew == {"order_kernels"}
        edited(monkeypatch, "meeting.py")
        anew = {path.stem for path in sources if compiled._cache_folder(path) != before[path]}
        assert anew == {"order_kernels", "meeting", "flight_kernels", "few_kernels", "draw_kernels"}
        assert compiled._complete() != complete
    finally:
        compiled._cache_folder.cache_clear()


def test_reading_a_project_asks_for_nothing_that_is_compiled():
    """Importing the compiler takes as long as all the rest of it."""
    label = "import sys; from wraithon.cli import main; sys.argv = ['wraithon', 'inspect', 'demo']\ntry: main()\n"
    label += "except SystemExit: pass\nprint('numba' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", label], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "False"


def test_threads_that_call_a_kernel_at_once_compile_it_once(monkeypatch, tmp_path):
    made = []
    monkeypatch.setattr(compiled, "_cache_folder", lambda _file: tmp_path)
    numba = compiled.compiler()
    njit = numba.njit
    monkeypatch.setattr(numba, "njit", lambda *a, **k: made.append(a) or njit(*a, **k))

    def doubled(x):
        return x + x

    alone = compiled.Kernel(doubled)
    with ThreadPoolExecutor(8) as threads:
        assert list(threads.map(alone, [4] * 8)) == [8] * 8
    assert sum(arguments[0] is doubled for arguments in made) == 1


KERNELS = """
import sys
from pathlib import Path
from wraithon.numeric import compiled
compiled.derived_folder = lambda: Path(sys.argv[2])
from wraithon.numeric.compiled import Kernel, called, compiler, kernel, parallel_kernel, prange

@called
def twice(x):
    return x + x

@kernel
def above(x):
    return twice(x) + 1

@kernel
def both(x):
    return above(x) * twice(x)

@parallel_kernel
def doubled(values):
    for i in prange(len(values)):
        values[i] = twice(values[i])
"""
FIRST = """
assert above(3) == 7
assert not isinstance(twice, Kernel)
import numpy as np
values = np.arange(5)
doubled(values)
assert values.tolist() == [0, 2, 4, 6, 8]
assert prange is compiler().prange
"""
LATER = """
assert above(3) == 7
assert "numba.np.arraymath" not in sys.modules, "what can be compiled was listed"
(found,) = above._dispatcher.overloads.values()
assert found.library._parsed is None, "intermediate code was read"
assert isinstance(twice, Kernel), "what is compiled into it was made anew"
assert sum(above._dispatcher.stats.cache_misses.values()) == 0
assert both(3) == 42
assert above(2.5) == 6.0
"""


def test_a_cached_kernel_is_loaded_alone_and_others_are_compiled_with_it(tmp_path):
    """In a second start it is fetched; then one that calls it is compiled, and it for another kind of number."""
    module = tmp_path / "small_kernels.py"
    module.write_text(f"{KERNELS}\nexec(sys.argv[1])\n")
    for text in (FIRST, LATER, LATER):
        subprocess.run([sys.executable, module, text, tmp_path], check=True)


GIVEN_BACK = """
from wraithon.desktop.engine.spare import COMPILER, _code_of, give_back
assert both(3) == 42

def resident():
    rows = Path("/proc/self/smaps").read_text().splitlines()
    found = [k for k, row in enumerate(rows) if COMPILER in row and " r-xp " in row]
    return sum(int(next(r for r in rows[k:] if r.startswith("Rss:")).split()[1]) for k in found)

assert len(_code_of(COMPILER)) == 1
assert _code_of("no such library") == []
before = resident()
give_back()
assert before > 5000
assert resident() < before / 10
assert both(3) == 42
assert both(2.5) == 30.0, "it compiles as before"
assert resident() > 5000
"""


def test_the_compilers_code_is_given_back_and_read_again_where_it_is_needed(tmp_path):
    module = tmp_path / "small_kernels.py"
    module.write_text(f"{KERNELS}\nexec(sys.argv[1])\n")
    subprocess.run([sys.executable, module, GIVEN_BACK, tmp_path], check=True)


DECORATORS = {"kernel", "parallel_kernel", "drawing_kernel", "SizedKernel"}


def kernels_of(path):
    """Return the names of the kernels that a file holds."""
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef) and DECORATORS & {ast.unparse(d) for d in node.decorator_list}:
            yield node.name


def calls_of(path, kernels):
    """Yield which function of a file calls which kernel; `kernels` maps names to modules."""
    tree = ast.parse(path.read_text())
    imports = [node for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)]
    direct = {(alias.asname or alias.name): alias.name for node in imports for alias in node.names}
    own = {name for name, module in kernels.items() if module == path.stem}
    near = {local for local, name in direct.items() if name in kernels} | own
    modules = set(kernels.values())

    def walk(node, where):
        for child in ast.iter_child_nodes(node):
            inner = [*where, child.name] if isinstance(child, (ast.FunctionDef, ast.ClassDef)) else where
            if isinstance(child, ast.Call):
                *owner, name = ast.unparse(child.func).split(".")
                if name in kernels and ((owner and owner[-1] in modules) or (not owner and name in near)):
                    yield name, f"{path.stem}.{'.'.join(where)}"
            yield from walk(child, inner)

    yield from walk(tree, [])


def test_each_kernel_is_called_in_one_place_tests_included():
    kernels = {name: path.stem for path in HERE.rglob("*kernels.py") for name in kernels_of(path)}
    tests = Path(__file__).parent
    callers = {name: set() for name in kernels}
    for path in [p for folder in (HERE, tests, tests.parent / "benchmarks") for p in folder.rglob("*.py")]:
        for name, where in calls_of(path, kernels):
            callers[name].add(where)
    assert {name: where for name, where in callers.items() if len(where) != 1} == {}
    assert len(kernels) > 30
