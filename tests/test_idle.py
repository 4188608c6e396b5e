"""Settings that do nothing say so, and what is wrong with a character's size or place comes with what mends it."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.bodies import body, sphere, swaying_pole
from wraithon.character.checkup import height_of
from wraithon.character.pose import rest_skin
from wraithon.picture.camera import camera_of
from wraithon.project.character import Anchor, CharacterUse
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.look import Facing, FrameGrid, RibbonLook, SpriteLook
from wraithon.project.motion import Motion, Vortex
from wraithon.project.project import Project
from wraithon.project.source import Aim, Heading, JointSet, Mode, PointSource, SkinSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.fitness import fitness_findings
from wraithon.stage.loading import project_of_character

BORN = Emission(rate=5)


def said(layer, length=1.0):
    project = Project(effects=(Effect(length=length, layers=(layer,)),))
    return [finding.message for finding in check(project, {})]


@pytest.mark.parametrize(
    ("layer", "text"),
    [
        (
            Layer(emission=BORN, look=SpriteLook(facing=Facing.VELOCITY), spin=Attribute.of(90)),
            "along their velocity",
        ),
        (Layer(emission=BORN, look=SpriteLook(facing=Facing.NORMAL), turn=Attribute.of(0, 90)), "face the normal"),
        (Layer(emission=BORN, look=RibbonLook(), spin=Attribute.of(90)), "ribbons lie along their way"),
        (Layer(emission=BORN, look=SpriteLook(sheet=FrameGrid(columns=2))), "its sheet does nothing"),
        (
            Layer(emission=BORN, source=SkinSource(mode=Mode.BONES, joints=JointSet(names=("head",), falloff=0.9))),
            "falloff does nothing on bones",
        ),
        (
            Layer(emission=Emission(rate=5, bursts=(Burst(time=1.5),))),
            "a burst at 1.5 s comes after the effect",
        ),
    ],
)
def test_a_setting_that_does_nothing_says_so(layer, text):
    assert any(text in message for message in said(layer))


@pytest.mark.parametrize(
    "layer",
    [
        Layer(emission=BORN, spin=Attribute.of(90)),
        Layer(emission=BORN, look=SpriteLook(facing=Facing.VELOCITY)),
        Layer(emission=BORN, look=SpriteLook(facing=Facing.VELOCITY), turn=Attribute.of(0)),
        Layer(emission=BORN, look=SpriteLook(sheet=FrameGrid(columns=2), texture="smoke")),
        Layer(emission=BORN, source=SkinSource(mode=Mode.BONES, joints=JointSet(names=("head",)))),
        Layer(emission=BORN, source=SkinSource(joints=JointSet(names=("head",), falloff=0.9))),
        Layer(emission=Emission(rate=5, bursts=(Burst(time=1.0),))),
    ],
)
def test_a_setting_that_does_something_is_left_alone(layer):
    assert said(layer) == []


@pytest.mark.parametrize(("facing", "idle"), [(f, f not in {Facing.CAMERA, Facing.FLAT}) for f in Facing])
def test_turn_and_spin_are_idle_where_something_else_turns(facing, idle):
    assert bool(SpriteLook(facing=facing).rotation_override) is idle


@pytest.mark.parametrize(
    ("layers", "idle"),
    [
        ((Layer(source=SkinSource()),), True),
        ((Layer(source=SkinSource()), Layer(source=PointSource())), False),
        ((Layer(source=SkinSource(aim=Aim(heading=Heading.FORWARD))),), False),
        ((Layer(source=SkinSource(), motion=Motion(forces=(Vortex(),))),), False),
    ],
)
def test_an_anchor_of_what_is_born_on_the_character_does_nothing(layers, idle):
    layers = tuple(layer.evolve(emission=BORN, id=f"l{n}") for n, layer in enumerate(layers))
    use = CharacterUse(id="c", file="c.glb", anchors=(Anchor(id="a", joint="j"),))
    trigger = Trigger(when=AtStart(), response=(StartEffect(effect="e", anchor="a"),))
    project = Project(effects=(Effect(id="e", layers=layers),), triggers=(trigger,), characters=(use,))
    found = [f for f in check(project, {}) if "anchor does nothing" in f.message]
    assert len(found) == idle


# ---- size and place -------------------------------------------------------------------------------


def remedies(character, **changes):
    use = CharacterUse(id="c", file="c.glb", **changes)
    found = fitness_findings(Project(characters=(use,)), {"c": character})
    return use, [finding.remedy for finding in found if finding.remedy]


@pytest.mark.parametrize("factor", [0.01, 100.0, 300.0, 1e-4])
def test_a_file_in_another_unit_is_told_and_scaled_by_a_power_of_ten(factor):
    pole = swaying_pole(8, 12)
    use, (remedy,) = remedies(pole, scale=factor * 1.7 / height_of(pole))
    ((_, _, field, value),) = remedy.changes
    assert field == "scale"
    mended = use.evolve(scale=value)
    assert 0.5 < height_of(pole) * mended.scale < 6
    assert remedies(pole, scale=value)[1] == []


@pytest.mark.parametrize("changes", [{"scale": 100.0}, {"scale": 0.01}, {"height": 0.5}, {"height": -0.5}])
def test_what_follows_from_its_size_or_height_is_not_told_of_every_clip_as_well(halcyon, changes):
    use = CharacterUse(id="c", file="c.glb", **changes)
    found = fitness_findings(Project(characters=(use,)), {"c": halcyon})
    assert len([f for f in found if "the ground" in f.message or "tall" in f.message]) == 1
    assert "scale" not in changes or len(found) == 1


@pytest.mark.parametrize("size", [0.2, 1.0, 80.0, 3000.0])
def test_a_new_character_is_seen_whole_and_large_whatever_its_size(size):
    points, triangles = sphere(12, 9)
    ball = body(size * (points + [0.0, 1.0, 3.0]), triangles)
    seen = project_of_character(ball, Path("ball.glb")).view
    pixels = camera_of(seen, (0.0, 0.0, 0.0)).project(rest_skin(ball).positions, 400, 400)
    assert (pixels[:, 2] > 0).all()
    assert (pixels[:, :2] > 0).all()
    assert (pixels[:, :2] < 400).all()
    assert np.ptp(pixels[:, 1]) > 150


@pytest.mark.parametrize("height", [-0.8, 0.5, 3.0])
def test_a_character_off_the_ground_is_told_and_put_on_it(halcyon, height):
    _, (remedy,) = remedies(halcyon, height=height)
    assert remedy.text == f"{'Raise' if height < 0 else 'Lower'} it by {abs(height):.2f} m"
    assert remedies(halcyon, height=remedy.changes[0].value)[1] == []


def test_a_sound_character_needs_nothing(halcyon):
    assert remedies(halcyon)[1] == []
    assert remedies(replace(halcyon), scale=1.4)[1] == []
