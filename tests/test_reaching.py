"""Edits that reach several layers, and parts that are pasted onto them."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from wraithon.project.effect import ATTRIBUTES, Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.look import RibbonLook, SpriteLook
from wraithon.project.motion import Curl, Drag, Gravity, Motion
from wraithon.project.paths import value_at
from wraithon.project.project import Project
from wraithon.project.resolving.references import PARTS, pasted_parts, reached
from wraithon.project.source import PointSource, RingSource

DRAG, PULL, CURL = Drag(rate=1), Gravity(pull=4), Curl()


def project_of(*layers):
    return Project(effects=(Effect(id="e", layers=layers),))


A = Layer(id="a", name="a", motion=Motion(forces=(DRAG,)), emission=Emission(rate=5))
B = Layer(id="b", name="b", motion=Motion(forces=(PULL, DRAG)), source=RingSource(), look=RibbonLook())


@pytest.mark.parametrize(
    ("path", "value", "theirs"),
    [
        ("emission.rate", 60.0, 60.0),
        ("size", Attribute.of(0.2), Attribute.of(0.2)),
        ("name", "new", "b"),
        ("follows", "p", None),
        ("motion.forces", (DRAG, CURL), (PULL, DRAG, CURL)),
        ("motion.forces", (), (PULL,)),
        ("motion.forces", (CURL,), (CURL,)),
        ("emission.bursts", (Burst(count=3),), (Burst(count=3),)),
        ("source", PointSource(), PointSource()),
        ("look", SpriteLook(soft=0.2), SpriteLook(soft=0.2)),
        ("look.soft", 0.3, 0.05),
    ],
)
def test_an_edit_reaches_the_others_where_they_have_the_same_place(path, value, theirs):
    project = reached(project_of(A, B), "a", ["a", "b"], path, value)
    assert value_at(project.layer("a")[1], path) == value
    assert value_at(project.layer("b")[1], path) == theirs


def test_a_force_of_another_kind_in_the_same_place_is_left_alone():
    project = reached(project_of(A, B), "a", ["b"], "motion.forces.0.rate", 3.0)
    assert project.layer("a")[1].motion.forces == (Drag(rate=3.0),)
    assert project.layer("b")[1].motion.forces == (PULL, DRAG)


def test_what_may_not_stand_in_the_first_is_refused_and_what_is_gone_is_passed_over():
    with pytest.raises(ValidationError):
        reached(project_of(A, B), "a", ["b"], "emission.rate", -1.0)
    assert reached(project_of(A), "gone", ["a"], "emission.rate", 1.0) == project_of(A)
    assert reached(project_of(A), "a", ["gone"], "emission.rate", 1.0).layer("a")[1].emission.rate == 1.0


def test_parts_are_pasted_whole_and_nothing_else_is():
    model = Layer(id="m", name="m", emission=Emission(rate=99), size=Attribute.of(0.3), look=SpriteLook(soft=0.4))
    project = pasted_parts(project_of(A, B, model), model, ["a", "b", "gone"], ("size", *PARTS["look"]))
    for before in (A, B):
        now = project.layer(before.id)[1]
        assert (now.size, now.look) == (model.size, model.look)
        assert now == before.evolve(size=model.size, look=model.look)


def test_every_field_of_a_layer_belongs_to_a_part():
    fields = set(Layer.model_fields) - {"id", "name", "disabled", "tag", "follows"}
    assert {name for names in PARTS.values() for name in names} == fields
    assert set(PARTS["life"]) == {*ATTRIBUTES, "hold", "fade_in", "fade_out", "ending"}
