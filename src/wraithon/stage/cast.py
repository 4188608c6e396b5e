"""The cast: a project compiled against the characters it uses, ready for a show to run."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wraithon.character.sampling import BorderSampler
from wraithon.particles.emission import emission_end
from wraithon.particles.kernels import BONE
from wraithon.particles.program import LayerProgram, compile_layer
from wraithon.project.source import SkinSource
from wraithon.stage.anchors import Anchorage, anchorage_of
from wraithon.stage.performance import Performance
from wraithon.stage.trial import TEST_BURST

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.character.model import Character
    from wraithon.project.character import CharacterUse
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project
    from wraithon.stage.sampler_shelf import SamplerShelf

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

    @property
    def effects(self) -> tuple[Effect, ...]:
        """All effects that can be fired: the project's, and the test burst."""
        return (*self.project.effects, TEST_BURST)

    def effect(self, effect_id: str | None) -> Effect | None:
        """Return the effect with this id, or None."""
        return TEST_BURST if effect_id == TEST_BURST.id else self.project.effect(effect_id)

    @property
    def uses_skin(self) -> bool:
        """Whether any layer is born on the character."""
        return any(program.sampler is not None for program in self.programs.values())

    @property
    def uses_bones(self) -> bool:
        """Whether any layer is born around the character's bones."""
        return any(program.sampler is not None and program.kind == BONE for program in self.programs.values())


def compile_project(
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerShelf,
    earlier: Cast | None = None,
) -> Cast:
    """Return the cast of a project.

    Parameters
    ----------
    project
        The project.
    characters
        Character id to what was read from its file; one that is missing simply does not appear.
    samplers
        Makes the samplers of sources on the character.
    earlier
        The cast before an edit: what the edit did not touch is taken over from it.
    """
    use = project.character
    character = characters.get(use.id) if use else None
    performance = None
    if use is not None and character is not None:
        performance = _performance(project, character, earlier)
    programs: dict[str, LayerProgram] = {}
    ends: dict[str, float] = {}
    scale = use.scale if use else 1.0
    same = earlier is not None and _same_skin(earlier, performance) and earlier.project.seed == project.seed
    for effect in (*project.effects, TEST_BURST):
        for layer in effect.layers:
            if layer.muted:
                continue
            ends[layer.id] = emission_end(layer.emission, effect.length)
            sampler = None
            if isinstance(layer.source, SkinSource) and character is not None and use is not None:
                sampler = samplers.get(character, use, layer.source, project.seed)
            before = earlier.programs.get(layer.id) if earlier and same else None
            blotches = _blotches(layer, use)
            unlike = before is None or before.sampler is not sampler or before.layer != layer
            if before is None or unlike or (before.border and before.border.blotches) != blotches:
                border = BorderSampler(sampler, blotches) if blotches and sampler and not sampler.empty else None
                programs[layer.id] = compile_layer(layer, effect.id, project.seed, sampler, scale, border)
            else:
                programs[layer.id] = before
    anchorage = anchorage_of(character, use) if use is not None and character is not None else None
    return Cast(project, performance, anchorage, programs, ends)


def _blotches(layer: Layer, use: CharacterUse | None) -> float | None:
    """Return the blotches a metre of the dissolve that a layer's births keep to the border of, if they do."""
    on_border = isinstance(layer.source, SkinSource) and layer.source.dissolving and layer.source.mode != "bones"
    return 1 / use.dissolve.scale if use is not None and on_border else None


def _same_skin(earlier: Cast, performance: Performance | None) -> bool:
    before = earlier.performance
    if before is None or performance is None:
        return before is None and performance is None
    return before.character is performance.character and before.use.scale == performance.use.scale


def _performance(project: Project, character: Character, earlier: Cast | None) -> Performance:
    use = project.character
    assert use is not None  # the caller has a character
    before = earlier.performance if earlier else None
    if before is not None and before.character is character and before.use == use:
        assert earlier is not None
        if earlier.project.stage == project.stage:
            return before
    return Performance(character, use, project.stage)
