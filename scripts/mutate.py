"""Breaks the core's logic in small ways, one at a time, and tells which breaks the tests do not see.

Run as `.venv/bin/python scripts/mutate.py [--most N] [--sample N] [--workers N] [MODULE ...]`; without modules, all
of the core. The same breaks are chosen every time, `--most` of each module or `--sample` of all together. The tests
that should see a break are those that import its module, then those that import a module which does. Survivors are
printed with their line, so that a test can be written for each.
"""

from __future__ import annotations

import argparse
import ast
import importlib.abc
import importlib.util
import io
import multiprocessing
import os
import random
import re
import signal
import sys
from collections.abc import Iterable
from contextlib import redirect_stderr, redirect_stdout
from functools import cache
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
CORE = (
    "support", "numeric", "ground", "project", "character", "particles", "stage", "picture", "interchange", "studio",
)  # fmt: skip
"""Packages whose modules are broken; kernels are not, since each break would have to be compiled."""
SECONDS = 240
COMPARE = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
SUMS = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult,
        ast.Mod: ast.Mult, ast.Pow: ast.Mult}  # fmt: skip


class _Places(ast.NodeVisitor):
    """Lists where a module can be broken, and how."""

    def __init__(self) -> None:
        self.found: list[tuple[ast.AST, str]] = []

    def visit(self, node: ast.AST) -> None:
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.dump(node.test):
            return
        if isinstance(node, ast.FunctionDef | ast.AnnAssign):  # annotations say nothing at run time
            for part in node.body if isinstance(node, ast.FunctionDef) else [node.value] if node.value else []:
                self.visit(part)
            if isinstance(node, ast.FunctionDef):
                for default in (*node.args.defaults, *filter(None, node.args.kw_defaults)):
                    self.visit(default)
            return
        self._look_at(node)
        self.generic_visit(node)

    def _look_at(self, node: ast.AST) -> None:
        if isinstance(node, ast.Compare) and type(node.ops[0]) in COMPARE:
            self.found.append((node, "comparison"))
        elif isinstance(node, ast.BinOp) and type(node.op) in SUMS and not _is_text(node):
            self.found.append((node, "arithmetic"))
        elif isinstance(node, ast.BoolOp):
            self.found.append((node, "and/or"))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            self.found.append((node, "not"))
        elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
            self.found.append((node, "number"))
        elif isinstance(node, ast.Continue | ast.Break):
            self.found.append((node, "loop"))


def _is_text(node: ast.BinOp) -> bool:
    return any(isinstance(side, ast.JoinedStr) or (isinstance(side, ast.Constant) and isinstance(side.value, str))
               for side in (node.left, node.right))  # fmt: skip


def _break(node: ast.AST, how: str) -> ast.AST:
    """Return what stands in a node's place when it is broken."""
    if how == "comparison":
        assert isinstance(node, ast.Compare)  # listed as one
        return ast.Compare(node.left, [COMPARE[type(node.ops[0])](), *node.ops[1:]], node.comparators)
    if how == "arithmetic":
        assert isinstance(node, ast.BinOp)  # listed as one
        return ast.BinOp(node.left, SUMS[type(node.op)](), node.right)
    if how == "and/or":
        assert isinstance(node, ast.BoolOp)  # listed as one
        return ast.BoolOp(ast.Or() if isinstance(node.op, ast.And) else ast.And(), node.values)
    if how == "not":
        assert isinstance(node, ast.UnaryOp)  # listed as one
        return node.operand
    if how == "loop":
        return ast.Break() if isinstance(node, ast.Continue) else ast.Continue()
    assert isinstance(node, ast.Constant)  # listed as one
    return ast.Constant(not node.value if isinstance(node.value, bool) else node.value + 1)


class _Swap(ast.NodeTransformer):
    """Puts one node in the place of another."""

    def __init__(self, old: ast.AST, new: ast.AST) -> None:
        self._old, self._new = old, new

    def visit(self, node: ast.AST) -> ast.AST:
        return ast.copy_location(self._new, node) if node is self._old else self.generic_visit(node)


def _source_of(module: str) -> Path:
    return ROOT / "src" / Path(*module.split(".")).with_suffix(".py")


def modules() -> list[str]:
    """Return the modules of the core."""
    from wraithon.numeric.compiled import HELPERS

    compiled = {ROOT / "src" / "wraithon" / name for name in HELPERS}
    found = (path for name in CORE for path in sorted((ROOT / "src" / "wraithon" / name).rglob("*.py")))
    return [
        ".".join(path.relative_to(ROOT / "src").with_suffix("").parts)
        for path in found
        if not path.name.endswith("kernels.py") and path.name != "__init__.py" and path not in compiled
    ]


def _importing(module: str, files: Iterable[Path]) -> list[Path]:
    """Return the files that import a module."""
    package, _, name = module.rpartition(".")
    said = re.compile(
        rf"^\s*(from {re.escape(module)} import|from {re.escape(package)} import .*\b{name}\b)", re.MULTILINE
    )
    return [path for path in files if said.search(path.read_text(encoding="utf-8"))]


@cache
def tests_of(module: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the tests that import a module, and further ones that import a module which does."""
    tests = sorted((ROOT / "tests").glob("test_*.py"))
    near, far = {str(path) for path in _importing(module, tests)}, set()
    for path in _importing(module, (_source_of(other) for other in modules())):
        user = ".".join(path.relative_to(ROOT / "src").with_suffix("").parts)
        far |= {str(test) for test in _importing(user, tests)}
    return tuple(sorted(near)), tuple(sorted(far - near))


def breaks_of(module: str, maximum: int) -> list[int]:
    """Return which breaks of a module are tried: numbers among all that there are."""
    positions = _Places()
    positions.visit(ast.parse(_source_of(module).read_text()))
    numbers = list(range(len(positions.found)))
    random.Random(module).shuffle(numbers)
    return sorted(numbers[:maximum])


def broken(module: str, number: int) -> tuple[ast.Module, str]:
    """Return a module's syntax tree with one break, and the break in words."""
    tree = ast.parse(_source_of(module).read_text())
    positions = _Places()
    positions.visit(tree)
    node, how = positions.found[number]
    new = _break(node, how)
    text = f"line {getattr(node, 'lineno', 0)}: {how}: {ast.unparse(node)}  ->  {ast.unparse(new)}"
    return ast.fix_missing_locations(_Swap(node, new).visit(tree)), text


class _Finder(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Imports one module from a syntax tree instead of its file."""

    def __init__(self, module: str, tree: ast.Module) -> None:
        self._module, self._tree = module, tree

    def find_spec(self, name: str, _path: object = None, _target: object = None) -> object:
        if name != self._module:
            return None
        return importlib.util.spec_from_file_location(name, _source_of(name), loader=self)

    def create_module(self, _spec: object) -> None:
        return None

    def exec_module(self, module: object) -> None:
        exec(compile(self._tree, str(_source_of(self._module)), "exec"), module.__dict__)  # noqa: S102  # ours, broken


def survives(task: tuple[str, int]) -> tuple[str, str, bool]:
    """Run a module's tests with one break, the near ones first; return whether all passed.

    Near tests that do not end have seen the break; further ones have not.
    """
    module, number = task
    tree, text = broken(module, number)
    near, far = tests_of(module)
    alive = not near or _run(module, tree, near) == 0
    return module, text, alive and (not far or _run(module, tree, far) in {0, signal.SIGALRM})


def _run(module: str, tree: ast.Module, tests: tuple[str, ...]) -> int:
    """Run tests with a module broken, in a process of its own, and return how that ended; 0 where all passed."""
    child = os.fork()
    if not child:
        signal.alarm(SECONDS)
        sys.meta_path.insert(0, _Finder(module, tree))
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        import pytest

        with redirect_stdout(io.StringIO()), redirect_stderr(io.StringIO()):
            code = pytest.main([*tests, "-x", "-q", "-p", "no:cacheprovider", "-W", "ignore", "-k", DESELECT])
        os._exit(1 if code else 0)
    _, status = os.waitpid(child, 0)
    return status


DESELECT = "not kill and not damaged and not thread_counts"
"""Tests that take long or fork; the breaks are for the others to see."""


def main() -> None:
    """Try the breaks and print how many were seen, module by module."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("modules", nargs="*", default=modules())
    parser.add_argument("--most", type=int, default=40)
    parser.add_argument("--sample", type=int, default=0)
    parser.add_argument("--workers", type=int, default=2)
    chosen = parser.parse_args()
    import numba  # noqa: F401  # once, for all children
    import pytest  # noqa: F401
    import scipy.spatial  # noqa: F401

    sys.path.insert(0, str(ROOT / "src"))
    sys.path.insert(1, str(ROOT))
    os.chdir(ROOT)
    maximum = 10**6 if chosen.sample else chosen.most
    tasks = [(module, n) for module in chosen.modules if any(tests_of(module)) for n in breaks_of(module, maximum)]
    if chosen.sample:
        tasks = random.Random(chosen.sample).sample(tasks, min(chosen.sample, len(tasks)))
    tried: dict[str, list[tuple[str, bool]]] = {module: [] for module in chosen.modules}
    with multiprocessing.get_context("fork").Pool(chosen.workers, maxtasksperchild=8) as pool:
        for module, text, alive in pool.imap_unordered(survives, tasks):
            tried[module].append((text, alive))
            if alive:
                print(f"survives: {module} {text}", flush=True)
    total = survived = 0
    for module, results in tried.items():
        alive = sum(lives for _, lives in results)
        total, survived = total + len(results), survived + alive
        if results:
            print(f"{module}: {len(results) - alive} of {len(results)} seen")
    print(f"{total - survived} of {total} seen, {survived / max(total, 1):.0%} survive")


if __name__ == "__main__":
    main()
