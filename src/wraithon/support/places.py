"""Where the program keeps its own files: the XDG folders."""

from __future__ import annotations

import hashlib
import logging
import os
from collections.abc import Iterable
from logging.handlers import RotatingFileHandler
from pathlib import Path

import platformdirs

PACKAGE = Path(__file__).parents[1]
"""The folder of the program's own files."""


def state_folder() -> Path:
    """Return the folder for journals and logs."""
    return Path(platformdirs.user_state_dir("wraithon"))


def config_folder() -> Path:
    """Return the folder for settings."""
    return Path(platformdirs.user_config_dir("wraithon"))


def cache_folder() -> Path:
    """Return the folder for what can be made again."""
    return Path(platformdirs.user_cache_dir("wraithon"))


def derived_folder() -> Path:
    """Return the folder for what is made from the program's own files: among them, where that can be written."""
    return PACKAGE / "__pycache__" if os.access(PACKAGE, os.W_OK) else cache_folder()


def state_of(files: Iterable[Path], version: str) -> str:
    """Return 16 characters that tell states of files apart, and versions of what works on them."""
    digest = hashlib.blake2b(version.encode(), digest_size=8)
    for file in files:
        digest.update(file.read_bytes())
    return digest.hexdigest()


def texture_folder() -> Path:
    """Return the folder for pictures that the user brought in; they are at hand in every project."""
    return Path(platformdirs.user_data_dir("wraithon")) / "textures"


def piece_folder() -> Path:
    """Return the folder for small meshes that the user brought in; they are at hand in every project."""
    return Path(platformdirs.user_data_dir("wraithon")) / "pieces"


def sound_folder() -> Path:
    """Return the folder for sounds that the user brought in; they are at hand in every project."""
    return Path(platformdirs.user_data_dir("wraithon")) / "sounds"


def usual_preset_folder() -> Path:
    """Return the folder for presets that the user kept for all projects, where no other is preferred."""
    return Path(platformdirs.user_data_dir("wraithon")) / "presets"


def map_folder() -> Path:
    """Return the folder for which joint is which, as the user matched them by hand."""
    return Path(platformdirs.user_data_dir("wraithon")) / "joint maps"


def log_file() -> Path:
    """Return the log's path."""
    return state_folder() / "wraithon.log"


def crash_file() -> Path:
    """Return the path of what is written down of a crash."""
    return state_folder() / "crash.log"


def start_log() -> None:
    """Write the program's log, and all warnings, to its file; where that cannot be written, to nowhere."""
    root = logging.getLogger("wraithon")
    if root.handlers:
        return
    root.setLevel(logging.INFO)
    try:
        log_file().parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(log_file(), maxBytes=500_000, backupCount=2)
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    root.addHandler(handler)
    # Warnings are for whoever mends the program: a user can do nothing about them.
    logging.captureWarnings(capture=True)
    warned = logging.getLogger("py.warnings")
    warned.addHandler(handler)
    warned.propagate = False
