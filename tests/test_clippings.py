"""What is copied as text: whole, under new identities, and nothing else is taken for it."""

import json

import pytest
from pydantic import ValidationError

from wraithon.interchange.clippings import clipping_of, fresh_effect, paste, read_clipping
from wraithon.project.binding import Binding, Dial
from wraithon.project.effect import Effect, Layer
from wraithon.project.project import Project
from wraithon.support.errors import ProjectError


def project(layers=3):
    sparks = Effect(
        id="sparks",
        name="sparks",
        layers=tuple(Layer(id=f"l{k}", name=f"layer {k}") for k in range(layers)),
        dials=(Dial(id="heat"),),
        bindings=(Binding(dial="heat", layer="l1", path="size.birth.high"),),
    )
    return Project(effects=(sparks,))


def test_every_layer_of_the_demo_comes_back_as_it_was_but_for_its_id(demo):
    for effect in demo.project.effects:
        for layer in effect.layers:
            (back,) = read_clipping(clipping_of(demo.project, "layer", (layer.id,))).layers
            assert back == layer
            pasted, kind, (what,) = paste(
                Project(), read_clipping(clipping_of(demo.project, "layer", (layer.id,))), None
            )
            assert kind == "layer"
            assert what != layer.id
            assert pasted.layer(what)[1].evolve(id=layer.id) == layer


def test_a_layer_goes_below_the_selected_one_under_a_free_name():
    before = project()
    after, _, (what,) = paste(before, read_clipping(clipping_of(before, "layer", ("l0",))), "sparks", "l1")
    assert [layer.id for layer in after.effects[0].layers] == ["l0", "l1", what, "l2"]
    assert [layer.name for layer in after.effects[0].layers] == ["layer 0", "layer 1", "layer 3", "layer 2"]


def test_a_layer_goes_last_where_none_is_selected_and_into_a_new_effect_where_there_is_none():
    clipping = read_clipping(clipping_of(project(), "layer", ("l0",)))
    assert paste(project(), clipping, "sparks").project.effects[0].layers[-1].name == "layer 3"
    new = paste(Project(), clipping, None).project
    assert [len(effect.layers) for effect in new.effects] == [1]


def test_an_effects_bindings_go_with_its_own_layers():
    before = project()
    after, kind, (what,) = paste(before, read_clipping(clipping_of(before, "effect", ("sparks",))), None)
    assert kind == "effect"
    twin = after.effect(what)
    assert twin.name == "sparks 2"
    assert twin.bindings[0].layer == twin.layers[1].id
    assert {layer.id for layer in twin.layers}.isdisjoint({"l0", "l1", "l2"})
    assert fresh_effect(before, before.effects[0]).bindings[0].layer != "l1"


def test_unknown_fields_of_a_newer_version_stay():
    before = Project(effects=(Effect(id="e", layers=(Layer.model_validate({"id": "x", "shimmer": 3}),)),))
    (back,) = read_clipping(clipping_of(before, "layer", ("x",))).layers
    assert back.model_extra == {"shimmer": 3}


def test_more_layers_than_an_effect_may_hold_are_refused():
    full = project(64)
    with pytest.raises(ValidationError):
        paste(full, read_clipping(clipping_of(full, "layer", ("l0",))), "sparks")


GOOD = json.loads(clipping_of(project(), "layer", ("l0",)))


@pytest.mark.parametrize(
    "text",
    [
        "", "hello", "wraithon clipping", "{", json.dumps({**GOOD, "layers": []}),
        json.dumps({**GOOD, "format": "x"}),
        json.dumps({**GOOD, "layers": [{**GOOD["layers"][0], "speed": 1e400}]}),
        json.dumps({**GOOD, "layers": 1001 * GOOD["layers"]}),
        '{"format": "wraithon clipping", "layers": ' + "[" * 100_000,
        json.dumps(GOOD) + " " * 5_000_000,
        '{"format": "wraithon clipping", "layers": [{"name": "\ud800"}]}',
    ],
)  # fmt: skip
def test_anything_else_is_refused_in_words(text):
    with pytest.raises(ProjectError, match=r"paste"):
        read_clipping(text)


def test_only_layers_and_effects_are_copied():
    assert clipping_of(project(), "anchor", ("l0",)) is None
    assert clipping_of(project(), "layer", ("gone",)) is None
    assert clipping_of(project(), "", ("",)) is None
