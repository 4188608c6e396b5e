"""What the user prefers, for all projects: one file in the folder for settings."""

from __future__ import annotations

import json
import logging
from pathlib import Path
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from wraithon.support.places import config_folder, usual_preset_folder
from wraithon.support.plain_files import read_plain
from wraithon.support.saving import replacing

log = logging.getLogger(__name__)

LARGEST = 200_000
"""Bytes of the file at most."""


class Preferences(BaseModel):
    """Preferences; each is within bounds, and what is not said is as it usually is.

    Size, threads and colours count from the next start on.
    """

    model_config = ConfigDict(frozen=True, extra="ignore")

    size: Annotated[int, Field(ge=75, le=250)] = 100
    """Per cent of the usual size of text and all else."""
    frames: Annotated[int, Field(ge=10, le=60)] = 30
    """Pictures a second that the live picture is made coarser for."""
    undo_steps: Annotated[int, Field(ge=20, le=5000)] = 500
    copy_megabytes: Annotated[int, Field(ge=16, le=4096)] = 96
    """Memory for copies of the show, from which seeking back goes on."""
    threads: Annotated[int, Field(ge=0, le=256)] = 0
    """Threads that step and draw; 0: as many as the machine has."""
    autosave: Annotated[float, Field(ge=0.5, le=600.0)] = 1.5
    """Seconds after the last edit at which unsaved work is written down."""
    presets: str = ""
    """Folder of the user's presets; empty: the usual one."""
    safe_colours: bool = False
    """Colours that are told apart without telling red from green."""
    keys: Annotated[dict[str, str], Field(max_length=500)] = {}
    """Commands, as the menu calls them, to keys that are not the usual ones; empty: none."""


def preferences_file() -> Path:
    """Return where preferences are stored."""
    return config_folder() / "preferences.json"


def load_preferences() -> Preferences:
    """Return the preferences; what is damaged is as usual, field by field, and the log says so."""
    path = preferences_file()
    try:
        text = read_plain(path, LARGEST)
    except OSError:
        return Preferences()
    try:
        return Preferences.model_validate_json(text)
    except ValidationError as error:
        log.warning("%s: %s", path, error)
        wrong = {str(each["loc"][0]) for each in error.errors() if each["loc"]}
    return Preferences.model_validate(_parsed(text, wrong))


def _parsed(text: bytes, without: set[str]) -> dict[str, Any]:
    """Return what is fine of a damaged file; nothing where it is no JSON."""
    try:
        found = json.loads(text)
    except ValueError:
        return {}
    return {key: value for key, value in found.items() if key not in without} if isinstance(found, dict) else {}


def preset_folder() -> Path:
    """Return the folder for presets that the user kept for all projects: the preferred one, or the usual one."""
    preferred = load_preferences().presets
    return Path(preferred).expanduser() if preferred else usual_preset_folder()


def save_preferences(preferences: Preferences) -> None:
    """Store preferences.

    Raises
    ------
    OSError
        When the folder for settings cannot be written.
    """
    with replacing(preferences_file()) as file:
        file.write((preferences.model_dump_json(indent=1, exclude_defaults=True) + "\n").encode())
