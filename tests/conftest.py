"""Fixtures that many tests share."""

from __future__ import annotations

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

from wraithon.demo import DEMO_FOLDER
from wraithon.stage.loading import Loaded, load
from wraithon.stage.player import Player

# The same examples every time, unless somebody goes looking: WRAITHON_EXPLORE=1 make test. No example is
# timed: the machine may be busy.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("explore", derandomize=False, deadline=None)
settings.load_profile("explore" if os.environ.get("WRAITHON_EXPLORE") else "steady")


@pytest.fixture(scope="session")
def demo() -> Loaded:
    return load(DEMO_FOLDER)


@pytest.fixture(scope="session")
def halcyon(demo):
    return demo.characters["halcyon"]


@pytest.fixture
def player(demo) -> Player:
    return Player(demo.project, demo.characters)


@pytest.fixture(autouse=True)
def own_folders(tmp_path, monkeypatch):
    """Keep settings, journals and logs of a test out of the user's folders."""
    for name in ("STATE", "CONFIG", "DATA", "CACHE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name.lower()))
