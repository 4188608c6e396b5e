"""Presets on the disk: those that come with the program, and those that the user keeps for all projects."""

from __future__ import annotations

import logging
import re
from functools import lru_cache
from pathlib import Path
from typing import Annotated

from pydantic import Field

from wraithon.project.base import Model
from wraithon.project.files import write_atomic
from wraithon.project.preset import Preset
from wraithon.support.errors import ProjectError
from wraithon.support.plain_files import read_plain

log = logging.getLogger(__name__)

SHIPPED = Path(__file__).parent / "presets.json"
LARGEST, MAXIMUM = 2**20, 500
"""Bytes of a file, and files of the folder, that are looked at."""


class _ShippedPresets(Model):
    presets: Annotated[tuple[Preset, ...], Field(max_length=MAXIMUM)] = ()


@lru_cache(maxsize=1)
def shipped_presets() -> tuple[Preset, ...]:
    """Return the presets that come with the program."""
    return _ShippedPresets.model_validate_json(SHIPPED.read_bytes()).presets


def write_shipped(presets: tuple[Preset, ...]) -> None:
    """Write the presets that come with the program."""
    write_atomic(SHIPPED, (_ShippedPresets(presets=presets).model_dump_json(indent=1) + "\n").encode())


def stored_presets(folder: Path) -> tuple[Preset, ...]:
    """Return the presets in a folder, by name; what cannot be read is left out, and the log says why."""
    found = []
    try:
        paths = sorted(folder.glob("*.json"))[:MAXIMUM]
    except OSError as error:
        log.warning("%s: %s", folder, error)
        return ()
    for path in paths:
        try:
            found.append(Preset.model_validate_json(read_plain(path, LARGEST, folder)))
        except (OSError, ValueError) as error:
            log.warning("%s: %s", path, error)
    return tuple(sorted(found, key=lambda preset: preset.name.casefold()))


def keep_preset(folder: Path, preset: Preset) -> None:
    """Keep a preset in a folder; one of the same id is replaced.

    Raises
    ------
    ProjectError
        When the folder cannot be written.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise ProjectError(f"{folder}: cannot be made ({error.strerror})") from error
    write_atomic(folder / _file(preset), (preset.model_dump_json(indent=1) + "\n").encode(errors="backslashreplace"))


def drop_preset(folder: Path, preset: Preset) -> None:
    """Keep a preset in a folder no longer."""
    try:
        (folder / _file(preset)).unlink(missing_ok=True)
    except OSError as error:
        raise ProjectError(f"{folder / _file(preset)}: cannot be deleted ({error.strerror})") from error


def _file(preset: Preset) -> str:
    return f"{re.sub(r'[^0-9A-Za-z_-]', '_', preset.id)}.json"


def found_presets(project_own: tuple[Preset, ...], folder: Path) -> tuple[Preset, ...]:
    """Return all presets at hand, each once: the project's own, the user's, and those that come with the program."""
    found: dict[str, Preset] = {}
    for preset in (*project_own, *stored_presets(folder), *shipped_presets()):
        found.setdefault(preset.id, preset)
    return tuple(found.values())
