"""What is set otherwise in another project, in words."""

from __future__ import annotations

import pytest

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve, Gradient, Tint
from wraithon.project.look import RibbonLook
from wraithon.project.motion import Drag, Gravity, Motion
from wraithon.project.project import Project, View
from wraithon.project.source import RingSource
from wraithon.studio.difference import difference

LAYER = Layer(id="l", name="sparks", emission=Emission(rate=40), motion=Motion(forces=(Drag(rate=1.5),)))


def project_of(*layers, **changes):
    return Project(effects=(Effect(id="e", name="stamp", layers=layers),), **changes)


@pytest.mark.parametrize(
    ("changes", "text"),
    [
        ({}, []),
        ({"emission": Emission(rate=60)}, ["emission rate 40 → 60"]),
        ({"size": Attribute.of(0.02, 0.05)}, ["size birth 0.05 → 0.02 to 0.05"]),
        ({"name": "embers"}, ["name sparks → embers"]),
        ({"disabled": True}, ["disabled off → on"]),
        ({"emission": Emission(rate=40, limit=None)}, ["emission limit 2000 → none"]),
        ({"opacity": Attribute.of(1, 1, Curve.through((0, 1), (1, 0)))}, ["opacity life none → (1 at 0, 0 at 1)"]),
        ({"colour": Tint(first=(1, 0.5, 0.25))}, ["colour first (1, 1, 1) → (1, 0.5, 0.25)"]),
        ({"colour": Tint(life=Gradient.through((0, (1, 1, 1))))}, ["colour life none → a gradient of 1"]),
        ({"motion": Motion(forces=(Drag(rate=2.0),))}, ["motion forces 1 rate 1.5 → 2"]),
        ({"motion": Motion(forces=(Gravity(),))}, ["motion forces 1 drag → gravity"]),
        ({"motion": Motion(forces=())}, ["motion forces: 1 → 0"]),
        ({"emission": Emission(rate=40, bursts=(Burst(),))}, ["emission bursts: 0 → 1"]),
        ({"source": RingSource()}, ["source point → ring"]),
        ({"look": RibbonLook()}, ["look sprite → ribbon"]),
    ],
)
def test_each_setting_is_told_once_with_what_it_was_and_is(changes, text):
    told = difference(project_of(LAYER), project_of(LAYER.evolve(**changes)))
    where = "stamp: sparks: "
    assert told == [where + word for word in text]


def test_what_comes_goes_and_moves_is_told_by_name():
    other = LAYER.evolve(id="m", name="smoke")
    assert difference(project_of(LAYER), project_of(LAYER, other)) == ["stamp: smoke is new"]
    assert difference(project_of(LAYER, other), project_of(other)) == ["stamp: sparks is gone"]
    assert difference(project_of(LAYER, other), project_of(other, LAYER)) == ["stamp: layers are in another order"]
    assert difference(Project(), project_of(LAYER)) == ["stamp is new"]
    assert difference(project_of(LAYER), project_of(LAYER, seed=7)) == ["seed 1 → 7"]


def test_where_it_is_seen_from_is_no_setting():
    assert difference(project_of(LAYER), project_of(LAYER, view=View(azimuth=3))) == []
