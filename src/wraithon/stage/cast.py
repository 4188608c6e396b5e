"""The cast: a project compiled against the characters it uses, ready for a show to run."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wraithon.character.surface import Surface, surface_of
from wraithon.particles.emission import emission_end
from wraithon.particles.program import LayerProgram, compile_layer
from wraithon.project.source import SkinSource
from wraithon.stage.anchors import Anchorage, anchorage_of
from wraithon.stage.performance import Performance

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.character.model import Character
    from wraithon.project.project import Project

__all__ = ["Cast", "compile_project"]


@dataclass(frozen=True)
class Cast:
    """Everything a show needs that does not change while it runs."""

    project: Project
    performance: Performance | None
    anchorage: Anchorage | None
    programs: Mapping[str, LayerProgram]
    """Layer id to its program, for the layers that are not muted."""
    ends: Mapping[str, float]
    """Layer id to the age of a firing after which the layer bears nothing more."""


def compile_project(project: Project, characters: Mapping[str, Character], earlier: Cast | None = None) -> Cast:
    """Return the cast of a project.

    Parameters
    ----------
    project
        The project.
    characters
        Character id to what was read from its file; one that is missing simply does not appear.
    earlier
        The cast before an edit: what the edit did not touch is taken over from it.
    """
    use = project.character
    character = characters.get(use.id) if use else None
    performance = None
    if use is not None and character is not None:
        performance = _performance(project, character, earlier)
    surfaces: dict[tuple[str, ...], Surface] = {}
    programs: dict[str, LayerProgram] = {}
    ends: dict[str, float] = {}
    for effect in project.effects:
        for layer in effect.layers:
            if layer.muted:
                continue
            ends[layer.id] = emission_end(layer.emission, effect.length)
            before = earlier.programs.get(layer.id) if earlier else None
            same_skin = earlier is not None and _same_skin(earlier, performance)
            if (
                before is not None
                and before.layer == layer
                and same_skin
                and earlier
                and _same_seed(earlier, project)
            ):
                programs[layer.id] = before
                continue
            surface = None
            if isinstance(layer.source, SkinSource) and character is not None:
                parts = layer.source.parts
                surface = surfaces.setdefault(parts, surface_of(character, parts))
            scale = use.scale if use else 1.0
            programs[layer.id] = compile_layer(layer, effect.id, project.seed, surface, scale)
    anchorage = anchorage_of(character, use) if use is not None and character is not None else None
    return Cast(project, performance, anchorage, programs, ends)


def _same_skin(earlier: Cast, performance: Performance | None) -> bool:
    before = earlier.performance
    if before is None or performance is None:
        return before is None and performance is None
    return before.character is performance.character and before.use.scale == performance.use.scale


def _same_seed(earlier: Cast, project: Project) -> bool:
    return earlier.project.seed == project.seed


def _performance(project: Project, character: Character, earlier: Cast | None) -> Performance:
    use = project.character
    assert use is not None  # the caller has a character
    before = earlier.performance if earlier else None
    if before is not None and before.character is character and before.use == use:
        assert earlier is not None
        if earlier.project.stage == project.stage:
            return before
    return Performance(character, use, project.stage)
