"""Projects that were open lately, each with a small picture of how it was left."""

from __future__ import annotations

import hashlib
import json
import logging
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from wraithon.project.files import PROJECT_FILE, write_atomic
from wraithon.support.errors import WraithonError
from wraithon.support.places import cache_folder, state_folder
from wraithon.support.plain_files import read_plain

log = logging.getLogger(__name__)

MAXIMUM, LARGEST = 12, 100_000
SIZE = 176, 110
"""Pixels of a picture."""


class Recent(NamedTuple):
    """A project that was open."""

    folder: Path
    name: str

    @property
    def picture(self) -> Path:
        """Where its picture is, once there is one."""
        key = hashlib.blake2b(str(self.folder).encode(), digest_size=12).hexdigest()
        return cache_folder() / "recent" / f"{key}.png"


def recent_projects() -> list[Recent]:
    """Return the projects that were open lately and are still there, the latest first."""
    return [each for each in _listed() if (each.folder / PROJECT_FILE).is_file()]


def note_recent(folder: Path, name: str, pixels: NDArray[np.uint8] | None = None) -> None:
    """Put a project first, with its picture (H, W, 4) where there is one; nothing is said where that fails."""
    noted = Recent(folder.absolute(), name)
    others = [each for each in _listed() if each.folder != noted.folder]
    for gone in others[MAXIMUM - 1 :]:
        gone.picture.unlink(missing_ok=True)
    listed = [noted, *others[: MAXIMUM - 1]]
    try:
        text = json.dumps([{"folder": str(each.folder), "name": each.name} for each in listed], indent=1)
        write_atomic(_file(), text.encode())
        if pixels is not None:
            noted.picture.parent.mkdir(parents=True, exist_ok=True)
            _filling(pixels).save(noted.picture)
    except (OSError, WraithonError) as error:
        log.warning("recent projects: %s", error)


def _filling(pixels: NDArray[np.uint8]) -> Image.Image:
    """Return the middle of a picture at the size of the small ones."""
    height, width = pixels.shape[:2]
    part = min(width / SIZE[0], height / SIZE[1])
    left, top = (width - part * SIZE[0]) / 2, (height - part * SIZE[1]) / 2
    box = left, top, left + part * SIZE[0], top + part * SIZE[1]
    return Image.fromarray(pixels[..., :3]).resize(SIZE, Image.Resampling.BOX, box=box)


def _file() -> Path:
    return state_folder() / "recent.json"


def _listed() -> list[Recent]:
    """Return what is written down; what is damaged is left out."""
    try:
        listed = json.loads(read_plain(_file(), LARGEST))
    except (OSError, ValueError):
        return []
    entries = [each for each in listed if isinstance(each, dict)] if isinstance(listed, list) else []
    texts = ((each.get("folder"), each.get("name")) for each in entries)
    found = [Recent(Path(folder), str(name)[:200]) for folder, name in texts if isinstance(folder, str) and folder]
    return found[:MAXIMUM]
