"""Joint maps: which joint of a motion moves which of a character, kept for the next motion of the same skeleton."""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Iterable
from pathlib import Path
from typing import Annotated

from pydantic import Field

from wraithon.project.base import Model
from wraithon.support.plain_files import read_plain
from wraithon.support.saving import replacing

log = logging.getLogger(__name__)

LARGEST = 2**20


class JointMap(Model):
    """Pairs of a motion's joint and a character's, and which of the motion's were matched by hand."""

    matches: Annotated[tuple[tuple[str, str], ...], Field(max_length=4096)] = ()
    by_hand: Annotated[tuple[str, ...], Field(max_length=4096)] = ()


def keep_map(folder: Path, joints: Iterable[str], names: Iterable[str], known: JointMap) -> None:
    """Keep how `joints` of a motion move those `names` of a character; nothing is kept that no hand had a part in."""
    path = _path(folder, joints, names)
    try:
        if not known.by_hand:
            path.unlink(missing_ok=True)
            return
        with replacing(path) as file:
            file.write(known.model_dump_json(indent=1).encode(errors="backslashreplace"))
    except OSError as error:  # it only spares the user to do it again
        log.warning("%s: %s", path, error)


def stored_map(folder: Path, joints: Iterable[str], names: Iterable[str]) -> JointMap | None:
    """Return what was kept for the same two skeletons, or None."""
    path = _path(folder, joints, names)
    try:
        return JointMap.model_validate_json(read_plain(path, LARGEST, folder))
    except FileNotFoundError:
        return None
    except (OSError, ValueError) as error:
        log.warning("%s: %s", path, error)
        return None


def _path(folder: Path, joints: Iterable[str], names: Iterable[str]) -> Path:
    text = "\0".join(("\n".join(joints), "\n".join(names))).encode(errors="backslashreplace")
    return folder / f"{hashlib.blake2b(text, digest_size=12).hexdigest()}.json"
