"""Casts: what an edit did not touch is taken over, and what is made from an earlier one is what a fresh one is."""

from dataclasses import fields

import numpy as np
import pytest

from tests.test_purity import everything, player_of
from wraithon.particles.program import LayerProgram, runs_alike
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.binding import Binding, Dial
from wraithon.project.effect import Effect, Layer
from wraithon.project.paths import with_value_at
from wraithon.project.project import Project
from wraithon.project.resolving.resolving import resolved
from wraithon.stage.compiled_project import compile_project, compiled_alike, with_dials
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.stage.trial import TEST_BURST


@pytest.fixture(scope="module")
def library():
    loaded, _ = everything()
    return SamplerCache(TextureLibrary(loaded.folder).read)


@pytest.fixture
def compiling(library):
    loaded, project = everything()

    def make(change=lambda p: p, earlier=None, characters=loaded.characters):
        return compile_project(change(project), characters, library, earlier)

    return make


def same_program(one: LayerProgram, two: LayerProgram):
    """Tell whether two programs hold the same numbers throughout."""
    same = runs_alike(one, two)
    return same and all(np.array_equal(a, b) for a, b in zip(one.drawn, two.drawn, strict=True))


CHANGES = {
    "name": lambda p: p.evolve(name="x"),
    "seed": lambda p: p.evolve(seed=78),
    "a layer's rate": lambda p: with_value_at(p, "effects.0.layers.0.emission.rate", 5.0),
    "a layer's size": lambda p: with_value_at(p, "effects.0.layers.0.size.birth.high", 5.0),
    "a filter": lambda p: with_value_at(p, "effects.1.layers.0.source.height.low", 0.4),
    "the scale": lambda p: with_value_at(p, "characters.0.scale", 1.5),
    "the dissolve's blotches": lambda p: with_value_at(p, "characters.0.dissolve.scale", 0.5),
    "a mask": lambda p: with_value_at(p, "characters.0.masks.0.values", ""),
    "muting": lambda p: with_value_at(p, "effects.1.layers.6.disabled", True),
    "a dial": lambda p: with_value_at(p, "effects.0.dials.0.value", 2.0),
    "the fade": lambda p: with_value_at(p, "stage.fade", 0.3),
}


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES)
def test_a_cast_made_from_an_earlier_one_is_what_a_fresh_one_is(compiling, change):
    before = compiling()
    fresh, made = compiling(change), compiling(change, before)
    assert made.ends == fresh.ends
    assert made.programs.keys() == fresh.programs.keys()
    assert all(same_program(made.programs[key], fresh.programs[key]) for key in fresh.programs)
    assert made.project == fresh.project
    assert made.performance.use == fresh.performance.use
    assert made.performance.period == fresh.performance.period
    assert made.listeners == fresh.listeners


def test_what_an_edit_did_not_touch_is_taken_over(compiling):
    before = compiling()
    after = compiling(CHANGES["a layer's rate"], before)
    assert after.performance is before.performance
    kept = [key for key in before.programs if after.programs[key] is before.programs[key]]
    assert "a-point" not in kept
    assert len(kept) == len(before.programs) - 1


def test_an_edit_settles_only_the_effect_it_touches_and_what_is_started_of_it(demo, library):
    def compiling(project, earlier=None):
        return compile_project(project, demo.characters, library, earlier)

    project = demo.project
    before = compiling(project)
    assert before.variants  # the demo starts effects by strength
    bright = compiling(project.evolve(exposure=1.5), before)
    assert all(bright.effects[key] is effect for key, effect in before.effects.items())
    started = next(iter(before.variants)).effect
    row = [effect.id for effect in project.effects].index(started)
    change = with_value_at(project, f"effects.{row}.layers.0.size.birth.high", 9.0)
    fresh, made = compiling(change), compiling(change, before)
    assert made.effects == fresh.effects
    assert made.variants == fresh.variants
    for key, variant in made.variants.items():
        assert (variant is before.variants[key]) == (key.effect != started)
    assert (made.effects[started] == before.effects[started]) is False
    assert not made.settled


def test_what_dials_were_turned_to_is_not_taken_over_as_what_stands(compiling):
    before = compiling()
    key = next(iter(before.dials))
    effect, dial = before.dials[key]
    low_or_high = dial.range[0] if dial.value != dial.range[0] else dial.range[1]
    turned_ = with_dials(before, {key: low_or_high})
    assert turned_.effects[effect.id] != before.effects[effect.id]
    made = compiling(lambda p: p.evolve(name="x"), turned_)
    assert made.effects == before.effects


@pytest.mark.parametrize("name", ["seed", "the scale"])
def test_a_seed_or_a_scale_makes_every_program_anew(compiling, name):
    before = compiling()
    after = compiling(CHANGES[name], before)
    assert not any(after.programs[key] is before.programs[key] for key in before.programs)


def test_the_border_is_made_anew_only_when_its_blotches_change(compiling):
    before = compiling()
    assert before.programs["b-border"].border.blotches == pytest.approx(1 / 0.3)
    assert before.programs["b-surface"].border is None
    assert compiling(CHANGES["name"], before).programs["b-border"] is before.programs["b-border"]
    after = compiling(CHANGES["the dissolve's blotches"], before)
    assert after.programs["b-border"].border.blotches == pytest.approx(2.0)


ALIKE = {"name", "a layer's size"}


@pytest.mark.parametrize("name", CHANGES)
def test_only_what_is_drawn_leaves_the_course_as_it_was(compiling, name):
    before = compiling()
    assert compiled_alike(before, compiling(CHANGES[name], before)) == (name in ALIKE)
    assert compiled_alike(before, before)


@pytest.mark.parametrize(
    "change",
    [
        lambda p: p.evolve(step_rate=50),
        lambda p: p.evolve(effects=p.effects[:-1]),
        lambda p: p.evolve(effects=p.effects[::-1]),
        lambda p: with_value_at(p, "effects.0.length", 0.75),
        lambda p: with_value_at(p, "effects.0.layers", p.effects[0].layers[1:]),
        lambda p: with_value_at(p, "triggers.0.enabled", False),
        lambda p: p.evolve(characters=()),
    ],
)
def test_other_edits_change_the_course(compiling, change):
    assert not compiled_alike(compiling(), compiling(change))


def test_muted_layers_have_no_program_and_bear_nothing(compiling):
    compiled = compiling()
    assert "a-muted" not in compiled.programs
    assert "a-muted" not in compiled.ends
    assert {"a-point", "b-bones", TEST_BURST.layers[0].id} <= compiled.programs.keys()


def test_skin_and_bones_are_used_when_a_layer_is_born_there(compiling):
    def without(*ids):
        def change(project):
            effects = (e.evolve(layers=tuple(x for x in e.layers if x.id not in ids)) for e in project.effects)
            return project.evolve(effects=tuple(effects))

        return change

    compiled = compiling()
    assert (compiled.uses_skin, compiled.uses_bones) == (True, True)
    compiled = compiling(without("b-bones"))
    assert (compiled.uses_skin, compiled.uses_bones) == (True, False)
    names = ["surface", "edges", "vertices", "bones", "table", "even", "border", "texture"]
    compiled = compiling(without(*(f"b-{name}" for name in names)))
    assert (compiled.uses_skin, compiled.uses_bones) == (False, False)


def test_without_its_character_a_cast_has_neither_performance_nor_samplers(compiling):
    compiled = compiling(characters={})
    assert (compiled.performance, compiled.anchorage) == (None, None)
    assert all(program.sampler is None for program in compiled.programs.values())
    assert not compiled_alike(compiling(), compiled)


def test_effects_are_found_by_id_the_test_burst_too_and_the_first_of_two(compiling):
    compiled = compiling()
    assert compiled.effect("a").name == "around"
    assert compiled.effect(TEST_BURST.id) is TEST_BURST
    assert compiled.effect("gone") is compiled.effect(None) is None
    twice = Project(effects=(Effect(id="e", name="one"), Effect(id="e", name="two")))
    assert compile_project(twice, {}, SamplerCache()).effect("e").name == "one"


# ---- dials ----------------------------------------------------------------------------------------


def bound(**changes):
    binding = {"dial": "d", "layer": "l", "path": "size.birth.high", "low": 1.0, "high": 3.0} | changes
    dial = Dial(id="d", low=-1.0, high=1.0, value=0.0)
    return Effect(layers=(Layer(id="l"), Layer(id="m")), dials=(dial,), bindings=(Binding(**binding),))


@pytest.mark.parametrize(
    ("settings", "value"), [(None, 2.0), ({"d": -1}, 1.0), ({"d": 0.5}, 2.5), ({"d": 9}, 3.0), ({"other": 1}, 2.0)]
)
def test_a_dial_drives_a_value_between_its_bounds(settings, value):
    made = resolved(bound(), settings)
    assert made.layers[0].size.birth.high == pytest.approx(value)
    assert made.layers[1] is bound().layers[1] or made.layers[1] == Layer(id="m")


@pytest.mark.parametrize(
    "changes", [{"layer": "gone"}, {"dial": "gone"}, {"path": "size.gone"}, {"path": "emission.bursts.3.time"},
                {"path": "lifetime.birth.high", "low": -9.0, "high": -9.0}, {"path": "name"}],
)  # fmt: skip
def test_a_binding_that_cannot_be_followed_changes_nothing(changes):
    effect = bound(**changes)
    assert resolved(effect, {"d": 1}) is effect


def test_a_dial_of_no_span_stands_at_its_lowest():
    effect = bound().evolve(dials=(Dial(id="d", low=1.0, high=1.0, value=1.0),))
    assert resolved(effect).layers[0].size.birth.high == 1.0


def test_what_a_dial_drives_is_compiled():
    _, project = everything()
    assert player_of(project).compiled.programs["a-ring"].birth.speed[1] == 2.0
    turned = with_value_at(project, "effects.0.dials.0.value", 0.0)
    assert player_of(turned).compiled.programs["a-ring"].birth.speed[1] == 1.0
    assert {f.name for f in fields(LayerProgram)} >= {"birth", "flight", "forces", "drawn"}


def test_a_character_that_comes_or_goes_takes_programs_on_its_skin_along(compiling):
    """What rides a skin is compiled for it; without it, and with it again, all is made anew."""
    with_it, without_it = compiling(), compiling(characters={})
    gone = compiling(earlier=with_it, characters={})
    back = compiling(earlier=without_it)
    for made, fresh in ((gone, without_it), (back, with_it)):
        assert made.programs.keys() == fresh.programs.keys()
        for key, program in made.programs.items():
            assert (program.sampler is None) is (fresh.programs[key].sampler is None)
            assert same_program(program, fresh.programs[key])
