"""A project compiled against the characters it uses, ready for a show to run."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING

from wraithon.character.measures import skin_colours
from wraithon.character.sampler import BorderSampler
from wraithon.ground.terrain import FLAT, terrain_of
from wraithon.numeric.chance import layer_key
from wraithon.particles.columns import BONE
from wraithon.particles.emission import SLACK, emission_end, warmed
from wraithon.particles.program import BirthImages, LayerProgram, compile_layer, layer_limit, runs_alike
from wraithon.project.resolving.overlapping import Rate, rates
from wraithon.project.resolving.playing import played
from wraithon.project.resolving.variants import Variants, Wanted, variants_of
from wraithon.project.source import Occasion, OffspringSource, PictureSource, SkinSource
from wraithon.project.staging.signals import dials_of, resting
from wraithon.stage.anchors import Anchorage, anchorage_of
from wraithon.stage.performance import Performance
from wraithon.stage.trial import TEST_BURST
from wraithon.stage.triggering.strengths import startable, started
from wraithon.stage.triggering.triggers import Listeners, listeners_of

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping

    from wraithon.character.model import Character
    from wraithon.ground.terrain import Relief, Terrain
    from wraithon.project.character import CharacterUse, Event
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.emission import Emission
    from wraithon.project.project import Project
    from wraithon.project.staging.actions import StartEffect
    from wraithon.project.staging.signals import DialAt
    from wraithon.stage.sampler_cache import SamplerCache


ALIKE = (
    "events",
    "waited",
    "looks",
    "given",
    "resting",
    "dials",
    "terrain",
    "relief",
    "owners",
    "bases",
    "startable",
    "rates",
)
"""What of a compiled project does not hang on where dials stand."""


@dataclass(frozen=True)
class CompiledProject:
    """Everything a show needs that does not change while it runs."""

    project: Project
    performance: Performance | None
    anchorage: Anchorage | None
    programs: Mapping[str, LayerProgram]
    """Layer id to its program, for the layers that are not muted."""
    ends: Mapping[str, float]
    """Layer id to the age of a firing after which the layer surely bears nothing more."""
    effects: Mapping[str, Effect]
    """All effects that can be fired, by id, dials resolved and mastered: the project's, variants, the test burst."""
    listeners: Listeners
    """Which triggers wait for what."""
    variants: Variants = field(default_factory=dict)
    """What is played of effects that are started with master values, or dials, of their own."""
    samplers: SamplerCache | None = None
    """What makes the samplers of its programs."""
    settings: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    """What dials are turned to, of the effects that have any that are (see `with_dials`)."""
    only: frozenset[str] | None = None
    """Ids of the layers that are played, where not all of them are (see `with_only`)."""
    settled: Mapping[str, Effect] = field(default_factory=dict)
    """While it is filled: effects as they are played, by id, that are known from before."""

    def started(self, step: StartEffect, ground: str = "", strength: float = 1.0) -> Effect | None:
        """Return what a step of a response starts on a kind of ground, at a strength from 0 to 1, or None."""
        key = started(step, ground, strength, self.given)
        return self.variants.get(key) or self.effect(key.effect)

    @cached_property
    def bases(self) -> Mapping[str, str]:
        """Id of a variant to that of the project's effect."""
        return {variant.id: key.effect for key, variant in self.variants.items()}

    def effect(self, effect_id: str | None) -> Effect | None:
        """Return the effect with this id, or None."""
        return self.effects.get(effect_id or "")

    @cached_property
    def events(self) -> Mapping[str, Event]:
        """The events of the character on stage, by id."""
        use = self.project.character
        return {event.id: event for event in reversed(use.events)} if use else {}

    @cached_property
    def waited(self) -> Mapping[str, tuple[str, ...]]:
        """Kind of moment to which of it triggers wait for."""
        found: dict[str, list[str]] = {}
        for kind, what in self.listeners:
            found.setdefault(kind, []).append(what)
        return {kind: tuple(waiting) for kind, waiting in found.items()}

    @cached_property
    def looks(self) -> bool:
        """Whether any trigger asks what the character does at a moment, or where that is."""
        return any(
            t.only.looks or any(action.scalings or action.grounds for action in t.starts)
            for t in self.project.triggers
        )

    @cached_property
    def given(self) -> Mapping[str, Effect]:
        """The project's effects by id, as they are edited."""
        return {effect.id: effect for effect in reversed(self.project.effects)}

    @cached_property
    def rates(self) -> Mapping[str, tuple[Rate, ...]]:
        """How often each of the project's effects is started, by its id."""
        character = self.performance.character if self.performance is not None else None
        return rates(self.project, {clip.name: clip.seconds for clip in character.clips} if character else {})

    @cached_property
    def startable(self) -> tuple[Wanted, ...]:
        """All that steps of triggers may start, each once."""
        return tuple(dict.fromkeys(startable(self.project.triggers, self.given)))

    @cached_property
    def resting(self) -> Mapping[str, float]:
        """What signals that are given are while nobody gives them anything."""
        return resting(self.project)

    @cached_property
    def dials(self) -> Mapping[str, DialAt]:
        """The dials that are signals, by their keys."""
        return dials_of(self.project)

    @cached_property
    def terrain(self) -> Terrain:
        """The stage's ground."""
        stage, samplers = self.project.stage, self.samplers
        floors = tuple(samplers.floor(own) for own in stage.grounds) if samplers is not None else ()
        return terrain_of(stage.ground, stage.pieces, floors)

    @cached_property
    def relief(self) -> Relief:
        """How high the stage is; FLAT where nothing stands on it."""
        return self.terrain.relief if self.terrain.relief.heights.any() else FLAT

    @cached_property
    def owners(self) -> Mapping[str, str]:
        """Layer id to the id of its effect."""
        return {layer.id: effect.id for effect in self.effects.values() for layer in effect.layers}

    @cached_property
    def lasting(self) -> Mapping[str, tuple[Layer, ...]]:
        """Effect id to its layers whose particles hang on their firing; effects without any are left out."""
        found: dict[str, list[Layer]] = {}
        for program in self.programs.values():
            if program.ends_with_firing:
                found.setdefault(self.owners[program.layer.id], []).append(program.layer)
        return {effect: tuple(layers) for effect, layers in found.items()}

    @cached_property
    def children(self) -> Mapping[str, tuple[LayerProgram, ...]]:
        """Layer id to the programs of those that are born by what happens to its particles."""
        found: dict[str, list[LayerProgram]] = {}
        for program in self.programs.values():
            parent = parent_of(program.layer, self.effects[self.owners[program.layer.id]])
            if parent in self.programs:
                found.setdefault(parent, []).append(program)
        return {parent: tuple(children) for parent, children in found.items()}

    @cached_property
    def uses_skin(self) -> bool:
        """Whether any layer is born on the character."""
        return any(program.sampler is not None for program in self.programs.values())

    @cached_property
    def uses_capsules(self) -> bool:
        """Whether any layer's particles meet the character, or are drawn to it."""
        return any(program.bodily for program in self.programs.values())

    @cached_property
    def uses_bones(self) -> bool:
        """Whether any layer is born around the character's bones."""
        return any(program.sampler is not None and program.kind == BONE for program in self.programs.values())


def compile_project(
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerCache,
    earlier: CompiledProject | None = None,
) -> CompiledProject:
    """Return the compiled project of a project.

    Parameters
    ----------
    project
        The project.
    characters
        Character id to what was read from its file; one that is missing simply does not appear.
    samplers
        Makes the samplers of sources on the character.
    earlier
        The compiled project before an edit: what the edit did not touch is taken over from it.
    """
    use = project.character
    character = characters.get(use.id) if use else None
    performance = None
    if use is not None and character is not None:
        performance = _performance(project, character, earlier)
    same = earlier is not None and _same_skin(earlier, performance) and earlier.project.seed == project.seed
    anchorage = anchorage_of(character, use) if use is not None and character is not None else None
    listeners = listeners_of(project.triggers)
    empty = CompiledProject(project, performance, anchorage, {}, {}, {}, listeners, samplers=samplers)
    return _filled(_begun(empty, earlier), character, earlier.programs if earlier and same else {})


def _begun(compiled: CompiledProject, earlier: CompiledProject | None) -> CompiledProject:
    """Return a project with the variants and settled effects of an earlier one that an edit did not touch."""
    if earlier is None:
        return compiled
    untouched = {key for key, effect in compiled.given.items() if earlier.given.get(key) is effect}
    untouched -= earlier.settings.keys()
    effects = {key: earlier.effects[key] for key in untouched & earlier.effects.keys()}
    variants = {key: variant for key, variant in earlier.variants.items() if key.effect in untouched}
    return replace(compiled, settled=effects, variants=variants)


def with_only(compiled: CompiledProject, layers: Collection[str]) -> CompiledProject:
    """Return a compiled project that plays some layers alone, also once its dials are turned."""
    programs = {key: program for key, program in compiled.programs.items() if key in layers}
    return replace(compiled, programs=programs, only=frozenset(layers))


def with_dials(
    compiled: CompiledProject, values: Mapping[str, float], now: CompiledProject | None = None
) -> CompiledProject:
    """Return a compiled project while dials are set by the values of signals; itself where none is.

    Parameters
    ----------
    compiled
        The compiled project as the project has it.
    told
        What was given of signals so far.
    now
        What was returned before; that again where nothing is turned further.
    """
    settings: dict[str, dict[str, float]] = {}
    for key in values.keys() & compiled.dials.keys():
        effect, dial = compiled.dials[key]
        if values[key] != dial.value:
            settings.setdefault(effect.id, {})[dial.id] = values[key]
    if not settings:
        return compiled
    programs = compiled.programs
    if now is not None and now.project is compiled.project and now.performance is compiled.performance:
        if now.settings == settings:
            return now
        programs = now.programs
    character = compiled.performance.character if compiled.performance else None
    made = _filled(replace(compiled, settings=settings), character, programs)
    for name in ALIKE:  # what was worked out once need not be again
        getattr(compiled, name)
        made.__dict__[name] = compiled.__dict__[name]
    return made


def _filled(
    compiled: CompiledProject, character: Character | None, programs_before: Mapping[str, LayerProgram]
) -> CompiledProject:
    """Return a compiled project with all effects and programs, of which it may have some already.

    `programs_before`, by layer, are taken where they fit.
    """
    project, settings = compiled.project, compiled.settings
    effects: dict[str, Effect] = {}
    for effect in (*project.effects, TEST_BURST):
        if effect.id not in effects:
            settled = compiled.effects.get(effect.id) or compiled.settled.get(effect.id)
            before = settled if effect.id not in settings else None
            effects[effect.id] = before or played(effect, settings.get(effect.id, {}))
    given = compiled.given

    def set_so(effect: str, further: Mapping[str, float]) -> Effect:
        return played(given[effect], {**settings.get(effect, {}), **further}) if effect in given else effects[effect]

    unchanged = {key: variant for key, variant in compiled.variants.items() if key.effect not in settings}
    variants = variants_of(compiled.startable, effects, set_so, unchanged)
    effects |= {variant.id: variant for variant in variants.values()}
    parents = _parents(effects)
    started = {
        **compiled.rates,
        **{variant.id: compiled.rates.get(key.effect, ()) for key, variant in variants.items()},
    }
    programs: dict[str, LayerProgram] = {}
    ends: dict[str, float] = {}
    for effect in effects.values():
        same = compiled.effects.get(effect.id) is effect
        for layer in effect.layers:
            if layer.disabled or (compiled.only is not None and layer.id not in compiled.only):
                continue
            if same:
                programs[layer.id], ends[layer.id] = compiled.programs[layer.id], compiled.ends[layer.id]
                continue
            ends[layer.id] = _last_birth(layer.emission, effect.length) + SLACK
            program = _program(
                compiled, effect, layer, character, programs_before.get(layer.id), started.get(effect.id, ())
            )
            wants_moments, spacings = layer.id in parents, parents.get(layer.id, ())
            if (program.wants_moments, program.spacings) != (wants_moments, spacings):
                program = replace(program, wants_moments=wants_moments, spacings=spacings)
            programs[layer.id] = program
    return replace(compiled, programs=programs, ends=ends, effects=effects, variants=variants, settled={})


def _last_birth(emission: Emission, length: float | None) -> float:
    """Return the age of a firing after which a layer bears nothing more; what its warm-up bore was before."""
    return emission_end(emission, warmed(emission, length)) - emission.warm_up


def _parents(effects: Mapping[str, Effect]) -> dict[str, tuple[float, ...]]:
    """Return the ids of layers that others are born by, and the metres between those born along their ways."""
    found: dict[str, set[float]] = {}
    for effect in effects.values():
        for layer in effect.layers:
            if (parent := parent_of(layer, effect)) and isinstance(layer.source, OffspringSource):
                along = layer.source.occasion is Occasion.PASSING and not layer.disabled
                found.setdefault(parent, set()).update([layer.source.every] if along else [])
    return {parent: tuple(sorted(spacings)) for parent, spacings in found.items()}


def parent_of(layer: Layer, effect: Effect) -> str:
    """Return the id of the layer of the same effect that a layer is born by; empty where there is none."""
    source = layer.source
    if not isinstance(source, OffspringSource) or source.layer == layer.id:
        return ""
    return source.layer if source.layer and any(each.id == source.layer for each in effect.layers) else ""


def compiled_alike(before: CompiledProject, after: CompiledProject) -> bool:
    """Return whether an edit leaves the show's course as it was: only what is drawn has changed."""
    a, b = before.project, after.project
    if a.step_rate != b.step_rate or before.performance is not after.performance or a.triggers != b.triggers:
        return False
    if before.terrain is not after.terrain or a.signals != b.signals:
        return False
    if before.ends != after.ends or list(before.effects) != list(after.effects):
        return False
    for one, two in zip(before.effects.values(), after.effects.values(), strict=True):
        if one.length != two.length or [x.id for x in one.layers] != [x.id for x in two.layers]:
            return False
    if [(e.dials, e.bindings) for e in a.effects] != [(e.dials, e.bindings) for e in b.effects]:
        return False  # what is turned while it plays goes by them
    same_layers = before.programs.keys() == after.programs.keys()
    return same_layers and all(runs_alike(program, after.programs[key]) for key, program in before.programs.items())


def _program(
    compiled: CompiledProject,
    effect: Effect,
    layer: Layer,
    character: Character | None,
    before: LayerProgram | None,
    rates: tuple[Rate, ...],
) -> LayerProgram:
    """Return a layer's program; that of `before` an edit when nothing it hangs on has changed."""
    project, samplers = compiled.project, compiled.samplers
    assert samplers is not None  # there from the beginning
    use, source, sampler = project.character, layer.source, None
    if isinstance(source, SkinSource) and character is not None and use is not None:
        sampler = samplers.get(character, use, source, project.seed)
    blotches = _blotches(layer, use)
    blotches_before = before.border.blotches if before is not None and before.border is not None else None
    limit = layer_limit(layer, effect.length, rates)
    same = before is not None and before.layer == layer and before.limit == limit
    chance = f"{effect.id} {effect.roll}" if effect.roll else effect.id
    same = same and before is not None and before.key == layer_key(project.seed, chance, layer.id)
    terrain = compiled.terrain
    same_ground = not layer.colour.beneath or (before is not None and before.seen.terrain is terrain)
    if before is not None and same and before.sampler is sampler and blotches_before == blotches and same_ground:
        return before
    border = BorderSampler(sampler, blotches) if blotches and sampler and not sampler.empty else None
    scale = use.scale if use else 1.0
    picture = samplers.picture(source.texture) if isinstance(source, PictureSource) else None
    on_surface = layer.colour.beneath > 0 and sampler is not None
    skin = skin_colours(character) if on_surface and character is not None else None
    seen = BirthImages(picture, skin, project.stage.ground, terrain)
    program = compile_layer(layer, chance, project.seed, sampler, scale, border, effect.length, seen)
    return program if program.limit == limit else replace(program, limit=limit)


def _blotches(layer: Layer, use: CharacterUse | None) -> float | None:
    """Return the blotches a metre of the dissolve that a layer's births keep to the border of, if they do."""
    on_border = isinstance(layer.source, SkinSource) and layer.source.dissolving and layer.source.mode != "bones"
    return 1 / use.dissolve.scale if use is not None and on_border else None


def _same_skin(earlier: CompiledProject, performance: Performance | None) -> bool:
    before = earlier.performance
    if before is None or performance is None:
        return before is None and performance is None
    return before.character is performance.character and before.use.scale == performance.use.scale


def _performance(project: Project, character: Character, earlier: CompiledProject | None) -> Performance:
    use = project.character
    assert use is not None  # the caller has a character
    before = earlier.performance if earlier else None
    if before is not None and before.character is character and before.use == use:
        assert earlier is not None
        if earlier.project.stage.playing == project.stage.playing:
            return before
    return Performance(character, use, project.stage)
