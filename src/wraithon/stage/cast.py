"""The cast: a project compiled against the characters it uses, ready for a show to run."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.surface import Surface, surface_of
from wraithon.particles.emission import emission_end
from wraithon.particles.program import LayerProgram, compile_layer
from wraithon.project.source import SkinSource
from wraithon.stage.performance import Performance

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose
    from wraithon.project.character import Anchor
    from wraithon.project.project import Project

__all__ = ["Cast", "anchor_matrix", "compile_project"]


@dataclass(frozen=True)
class Cast:
    """Everything a show needs that does not change while it runs."""

    project: Project
    performance: Performance | None
    programs: Mapping[str, LayerProgram]
    """Layer id to its program, for the layers that are not muted."""
    ends: Mapping[str, float]
    """Layer id to the age of a firing after which the layer bears nothing more."""

    def anchor(self, anchor_id: str | None, pose: Pose | None, place: NDArray[np.float64]) -> NDArray[np.float32]:
        """Return an anchor's world matrix (4, 4); an unknown one is the character's place on the ground."""
        anchor = self.project.anchor(anchor_id)
        if anchor is not None and pose is not None and self.performance is not None:
            node = self.performance.character.skeleton.index.get(anchor.joint)
            if node is not None:
                return anchor_matrix(anchor, pose.matrices[node], self.performance.use.scale)
        matrix = np.eye(4, dtype=np.float32)
        matrix[:3, 3] = place
        return matrix


def anchor_matrix(anchor: Anchor, joint: NDArray[np.float32], scale: float) -> NDArray[np.float32]:
    """Return the world matrix (4, 4) of an anchor on a joint's world matrix.

    The offset is in metres along the joint's own axes, whatever the scale of the character.
    """
    axes = joint[:3, :3].astype(np.float64)
    lengths = np.linalg.norm(axes, axis=0)
    axes = axes / np.maximum(lengths, 1e-12)
    matrix = np.eye(4)
    matrix[:3, :3] = axes @ _turn_matrix(anchor.turn)
    matrix[:3, 3] = joint[:3, 3] + axes @ np.asarray(anchor.offset) * scale
    return matrix.astype(np.float32)


@lru_cache(maxsize=1024)
def _turn_matrix(turn: tuple[float, float, float]) -> NDArray[np.float64]:
    """Return the rotation (3, 3) about the own X, then Y, then Z axis, from degrees."""
    (a, b, c), (d, e, f) = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    about_x = np.array([[1, 0, 0], [0, a, -d], [0, d, a]])
    about_y = np.array([[b, 0, e], [0, 1, 0], [-e, 0, b]])
    about_z = np.array([[c, -f, 0], [f, c, 0], [0, 0, 1]])
    return about_x @ about_y @ about_z


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
    return Cast(project, performance, programs, ends)


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
