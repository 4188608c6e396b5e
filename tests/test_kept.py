"""Projects that the first version of the format saved: they open without a word and play as they did."""

import json
import platform
from pathlib import Path

import llvmlite.binding
import numba
import numpy as np
import pytest

from wraithon.demo import DEMO_FOLDER
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.base import EARLIER
from wraithon.project.files import open_project, to_text
from wraithon.stage.loading import load
from wraithon.stage.player import Player
from wraithon.stage.sampler_cache import SamplerCache

KEPT = Path(__file__).parent / "kept"
RECORD = json.loads((KEPT / "digests.json").read_text())
HERE = {
    "processor": llvmlite.binding.get_host_cpu_name(),
    "numba": numba.__version__,
    "numpy": np.__version__,
    "libc": " ".join(platform.libc_ver()),
}
PROJECTS = ("everything", "no character", "halcyon")


def played(name):
    folder = KEPT / name
    loaded = load(DEMO_FOLDER if name == "halcyon" else folder)
    project = open_project(folder).project
    return Player(project, loaded.characters, SamplerCache(TextureLibrary(loaded.folder).read))


@pytest.mark.parametrize("name", PROJECTS)
def test_a_kept_project_opens_without_a_word(name):
    opened = open_project(KEPT / name)
    assert opened.findings == ()
    # What it held is all still there: only what is new since then is added.
    before = json.loads((KEPT / name / "project.json").read_text())
    assert differences(before, json.loads(to_text(opened.project))) == []


def differences(before, now, position=""):
    """List what stands otherwise in `now`; fields that only `now` has are none, nor are those of a newer name."""
    if isinstance(before, dict) and isinstance(now, dict):
        named = {key: key if key in now else EARLIER.get(key, key) for key in before}
        return [x for key in before for x in differences(before[key], now.get(named[key]), f"{position}.{key}")]
    if isinstance(before, list) and isinstance(now, list) and len(before) == len(now):
        return [
            x for k, (a, b) in enumerate(zip(before, now, strict=True)) for x in differences(a, b, f"{position}[{k}]")
        ]
    return [] if before == now else [position]


@pytest.mark.parametrize("name", PROJECTS)
def test_a_kept_project_plays_as_it_did(name):
    player = played(name)
    for row in RECORD[name]:
        player.seek(row["time"])
        show = player.show
        assert (show.born, show.refused, len(show.history())) == (row["born"], row["refused"], row["firings"])
        assert {layer: pool.count for layer, pool in show.pools.items()} == row["pools"]
        if RECORD["arithmetic"] == HERE:  # elsewhere the last bit of a sine may be another
            assert player.digest() == row["digest"]


def test_backwards_and_from_the_middle_it_is_the_same():
    player, rows = played("everything"), RECORD["everything"]
    for row in reversed(rows):
        player.seek(row["time"])
        assert (player.show.alive, player.show.born) == (row["alive"], row["born"])
