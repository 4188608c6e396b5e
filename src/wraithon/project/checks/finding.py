"""Findings: what will not do what it seems to say, and what mends it at one stroke."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING, Any, NamedTuple

from wraithon.project.things import with_value

if TYPE_CHECKING:
    from wraithon.project.project import Project


class Level(StrEnum):
    """How bad a finding is: an error will not work, a warning may surprise."""

    ERROR = "error"
    WARNING = "warning"


class Change(NamedTuple):
    """A value at a path of a thing (see `project.things`)."""

    kind: str
    what: str
    path: str
    value: Any


@dataclass(frozen=True)
class Remedy:
    """What mends a finding at one stroke: what it does in words, and the values that change."""

    text: str
    changes: tuple[Change, ...]


@dataclass(frozen=True)
class Finding:
    """One thing noticed: where, what, and what to do. `about` is the id of what it concerns."""

    level: Level
    location: str
    message: str
    about: str = ""
    remedy: Remedy | None = None


def layer_remedy(text: str, layer: str, **values: Any) -> Remedy:
    """Return a remedy that changes values of a layer; paths have `__` for their dots."""
    return Remedy(text, tuple(Change("layer", layer, path.replace("__", "."), v) for path, v in values.items()))


def mended(project: Project, remedy: Remedy) -> Project:
    """Return a project with what a remedy changes; what is gone meanwhile is left alone.

    Raises
    ------
    pydantic.ValidationError
        When a value may not stand there any more.
    """
    for change in remedy.changes:
        project = with_value(project, *change)
    return project
