"""Ratios are gathered while the benchmarks run and printed at the end, each from this one run."""

from __future__ import annotations

import ctypes
import shutil
import statistics
import subprocess
import time
from pathlib import Path

import pytest

from wraithon.demo import DEMO_FOLDER
from wraithon.stage.loading import load

_ratios: list[str] = []


@pytest.fixture(scope="session")
def demo():
    return load(DEMO_FOLDER)


@pytest.fixture
def ratio():
    """Return a function that notes a ratio, and fails when a bound is given and broken."""

    def note(text, value, *, at_least=None, at_most=None):
        bound = f" (at least {at_least:g})" if at_least else f" (at most {at_most:g})" if at_most else ""
        _ratios.append(f"{text}: {value:.2f}{bound}")
        assert at_least is None or value >= at_least, _ratios[-1]
        assert at_most is None or value <= at_most, _ratios[-1]

    return note


def compiled_c(folder, name):
    """Return the C loops of a file here, compiled now for this very processor, or skip when there is no compiler."""
    compiler = shutil.which("cc")
    if compiler is None:
        pytest.skip("no C compiler here")
    source, library = Path(__file__).parent / f"{name}.c", folder / f"{name}.so"
    flags = ["-O3", "-march=native", "-ffast-math", "-fopenmp", "-shared", "-fPIC"]
    subprocess.run([compiler, *flags, str(source), "-o", str(library), "-lm"], check=True)
    return ctypes.CDLL(str(library))


def best(function, rounds=15):
    """Return the least seconds of several calls: on a shared machine the others measure the neighbours."""
    seconds = []
    for _ in range(rounds):
        began = time.perf_counter()
        function()
        seconds.append(time.perf_counter() - began)
    return min(seconds)


def times_faster(quick, slow, rounds=25, turns=8, slow_turns=1):
    """Return how many times faster `quick` is: the middle of many rounds, in each of which both take turns.

    So what slows the machine slows both, and one lucky round decides nothing. Where `slow` is about as quick it needs
    as many turns: the best of eight against one alone would make two equal ones differ by as much as the machine
    wavers.
    """
    return statistics.median(best(slow, slow_turns) / best(quick, turns) for _ in range(rounds))


def pytest_terminal_summary(terminalreporter):
    terminalreporter.section("ratios of this run")
    for text in _ratios:
        terminalreporter.write_line(text)
