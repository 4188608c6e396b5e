"""Findings at their bounds: one planted thing is told once, and what is just within is not told."""

from dataclasses import FrozenInstanceError

import pytest

from wraithon.project.character import Anchor, CharacterUse, ClipUse, Event, Mark
from wraithon.project.checks.finding import Finding, Level
from wraithon.project.dissolve import Dissolve
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.findings import CharacterFacts, check
from wraithon.project.life import Attribute, Curve, LifeMode, Range
from wraithon.project.look import RibbonLook, SpriteLook
from wraithon.project.motion import Attraction, Hold, Motion, Vortex
from wraithon.project.project import ClipRun, Project, Stage
from wraithon.project.source import HeightMask, JointRow, JointSet, LineSource, SkinSource, TextureMask
from wraithon.project.staging.actions import PlaySound, StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, OnEvent
from wraithon.project.trigger import Trigger
from wraithon.support.plain_files import is_inside

FACTS = {"c": CharacterFacts(frozenset({"hip", "knee"}), frozenset({"body"}), {"walk": 1.0})}
LAYER = Layer(id="l", name="l", emission=Emission(rate=10))


def use_of(**changes):
    mark = Mark(id="m", event="e", time=0.5)
    fields = {
        "id": "c",
        "name": "who",
        "file": "c.glb",
        "anchors": (Anchor(id="a", name="a", joint="hip"),),
        "events": (Event(id="e", name="step", anchor="a"),),
        "clips": (ClipUse(name="walk", marks=(mark,)),),
    }
    return CharacterUse(**(fields | changes))


def project_of(layer=LAYER, use=None, effect=None, trigger=None, **changes):
    effect = effect or Effect(id="f", name="f", length=1.0, layers=(layer,))
    trigger = trigger or Trigger(id="t", name="t", when=OnEvent(event="e"), response=(StartEffect(effect="f"),))
    fields = {
        "characters": (use or use_of(),),
        "effects": (effect,),
        "triggers": (trigger,),
        "stage": Stage(order=(ClipRun(clip="walk"),)),
    }
    return Project(**(fields | changes))


def told(project, facts=FACTS, textures=None):
    return [(f.level, f.location, f.message, f.about) for f in check(project, facts, textures)]


def messages(project, **more):
    return [message for _, _, message, _ in told(project, **more)]


def one(project, text, level, about="l", **more):
    """Tell that there is this finding and no other."""
    found = told(project, **more)
    assert len(found) == 1, found
    assert text in found[0][2]
    assert found[0][0] is level
    assert found[0][3] == about


def test_a_sound_project_has_none():
    assert told(project_of()) == []


def test_errors_come_before_warnings():
    bad = project_of(LAYER.evolve(look=SpriteLook(texture="gone.png"), emission=Emission()))
    levels = [level for level, *_ in told(bad, textures=frozenset())]
    assert levels == [Level.ERROR, Level.WARNING]


# ---- character ------------------------------------------------------------------------------------


def marked(time, event="e", clip="walk"):
    return project_of(use=use_of(clips=(ClipUse(name=clip, marks=(Mark(id="m", event=event, time=time),)),)))


@pytest.mark.parametrize(("time", "never"), [(0.0, False), (0.999, False), (1.0, True), (1.5, True)])
def test_a_mark_at_the_clips_end_never_comes(time, never):
    if never:
        one(marked(time), f"a mark at {time:.2f} s lies at or past the clip's end (1.00 s)", Level.ERROR, "m")
    else:
        assert told(marked(time)) == []


def test_a_mark_of_no_event_is_told():
    found = told(marked(0.5, event="gone"))
    assert [(f[0], f[3]) for f in found] == [(Level.ERROR, "m"), (Level.WARNING, "t")]
    assert "belongs to no event" in found[0][2]
    assert 'no clip has a mark of "step" yet' in found[1][2]


def test_a_clip_that_is_gone_is_told_when_it_has_marks():
    one(marked(0.5, clip="crawl"), "its 1 marks never come", Level.ERROR, "")
    assert told(project_of(use=use_of(clips=(*use_of().clips, ClipUse(name="crawl"))))) == []


def test_an_anchor_on_a_missing_joint_is_told():
    one(project_of(use=use_of(anchors=(Anchor(id="a", name="a", joint="tail"),))), 'joint "tail"', Level.ERROR, "a")


def test_a_running_order_without_its_clip_is_told_for_the_one_on_stage():
    bad = project_of(stage=Stage(order=(ClipRun(clip="walk"), ClipRun(clip="hop"))))
    one(bad, 'no clip "hop"', Level.ERROR, "")
    other = CharacterUse(id="d", name="d", file="d.glb")
    facts = FACTS | {"d": CharacterFacts(frozenset(), frozenset(), {})}
    assert told(project_of(characters=(use_of(), other)), facts) == []


def test_a_character_that_could_not_be_read_is_asked_nothing():
    assert told(project_of(use=use_of(anchors=(Anchor(id="a", joint="tail"),))), facts={}) == []


# ---- effects and layers ---------------------------------------------------------------------------


def test_an_effect_without_layers_is_told():
    one(project_of(effect=Effect(id="f", name="f", layers=())), "no layers", Level.WARNING, "f")


@pytest.mark.parametrize(
    ("source", "text", "level"),
    [
        (SkinSource(parts=("wing",)), 'no part "wing"', Level.ERROR),
        (SkinSource(joints=JointSet(names=("tail",))), 'no joint "tail"', Level.ERROR),
        (SkinSource(table=(JointRow(joint="tail"),)), 'no joint "tail"', Level.ERROR),
        (SkinSource(texture=TextureMask()), "names no picture yet", Level.WARNING),
        (SkinSource(dissolving=True), "border does not move", Level.WARNING),
        (SkinSource(painted="gone"), "painted mask is gone", Level.ERROR),
        (SkinSource(mode="bones", height=HeightMask()), "bones keep to joints only", Level.WARNING),
        (SkinSource(mode="bones", parts=("body",)), "bones keep to joints only", Level.WARNING),
    ],
)
def test_a_source_that_asks_for_what_is_not_there(source, text, level):
    one(project_of(LAYER.evolve(source=source)), text, level)


@pytest.mark.parametrize(
    ("amount", "clip", "moves"), [(0.0, "walk", False), (0.5, "", False), (0.5, "walk", True), (1.0, "walk", True)]
)
def test_births_on_the_border_need_a_dissolve_that_moves(amount, clip, moves):
    use = use_of(dissolve=Dissolve(amount=amount, clip=clip))
    assert bool(told(project_of(LAYER.evolve(source=SkinSource(dissolving=True)), use=use))) != moves


@pytest.mark.parametrize("look", [SpriteLook(texture="a.png"), RibbonLook(texture="a.png")])
def test_a_missing_texture_is_told_whatever_the_look(look):
    layer = LAYER.evolve(look=look)
    one(project_of(layer), 'texture "a.png"', Level.ERROR, textures=frozenset({"b.png"}))
    assert told(project_of(layer), textures=frozenset({"a.png"})) == []
    assert told(project_of(layer), textures=None) == []
    assert told(project_of(LAYER), textures=frozenset()) == []


@pytest.mark.parametrize(
    ("emission", "nothing"),
    [
        (Emission(), True),
        (Emission(bursts=(Burst(count=0),)), True),
        (Emission(bursts=(Burst(count=0), Burst(count=1))), False),
        (Emission(rate=0.1), False),
    ],
)
def test_a_layer_that_bears_nothing_is_told(emission, nothing):
    assert ("nothing is emitted" in " ".join(messages(project_of(LAYER.evolve(emission=emission))))) == nothing


@pytest.mark.parametrize(("start", "late"), [(0.99, False), (1.0, True), (1.5, True)])
def test_a_rate_that_starts_after_the_effect_is_told(start, late):
    found = messages(project_of(LAYER.evolve(emission=Emission(rate=10, start=start))))
    assert any("after the effect's own end" in message for message in found) == late
    endless = Effect(id="f", name="f", length=None, layers=(LAYER.evolve(emission=Emission(rate=10, start=start)),))
    assert not any("after the effect's own end" in message for message in messages(project_of(effect=endless)))
    burst = LAYER.evolve(emission=Emission(start=start, bursts=(Burst(),)))
    assert messages(project_of(burst)) == []


@pytest.mark.parametrize(("limit", "refused"), [(200, False), (191, False), (190, True), (100, True)])
def test_a_limit_below_what_lives_at_once_is_told_with_the_number(limit, refused):
    """At a rate of 100 and lifetimes from 1 to 3 s about 200 live at once; a twentieth is forgiven."""
    layer = LAYER.evolve(emission=Emission(rate=100, limit=limit), lifetime=Attribute.of(1.0, 3.0))
    found = messages(project_of(layer))
    assert found == ([f"about 200 would live at once but the limit is {limit}: births will be refused"] * refused)


def attribute(low, high, life=None, mode=LifeMode.SCALE):
    return Attribute(birth=Range(low=low, high=high), life=life, mode=mode)


FLAT, RISE, BELOW = Curve.through((0, 0), (1, 0)), Curve.through((0, 0), (1, 0.1)), Curve.through((0, -1))


@pytest.mark.parametrize(
    ("value", "unseen"),
    [
        (attribute(0, 0), True),
        (attribute(0, 0.001), False),
        (attribute(1, 1, FLAT), True),
        (attribute(1, 1, RISE), False),
        (attribute(0, 0, RISE, LifeMode.ADD), False),
        (attribute(1, 1, BELOW, LifeMode.ADD), True),
        (attribute(2, 2, BELOW, LifeMode.ADD), False),
        (attribute(1, 1, FLAT, LifeMode.REPLACE), True),
        (attribute(0, 0, RISE, LifeMode.REPLACE), False),
    ],
)
@pytest.mark.parametrize("name", ["size", "opacity", "intensity"])
def test_what_is_never_above_zero_is_told(name, value, unseen):
    found = [m for m in messages(project_of(LAYER.evolve(**{name: value}))) if "cannot be seen" in m]
    assert found == ([f"it cannot be seen: {name} is never above zero"] * unseen)


def test_a_lifetime_of_zero_is_told_and_muted_layers_are_left_alone():
    one(project_of(LAYER.evolve(lifetime=Attribute.of(0))), "lifetime is zero", Level.WARNING)
    assert told(project_of(LAYER.evolve(lifetime=Attribute.of(0), size=Attribute.of(0), disabled=True))) == []


# ---- triggers -------------------------------------------------------------------------------------


def triggered(**changes):
    fields = {"id": "t", "name": "t", "when": OnEvent(event="e"), "response": (StartEffect(effect="f"),)}
    return project_of(trigger=Trigger(**(fields | changes)))


@pytest.mark.parametrize(
    ("changes", "text", "level"),
    [
        ({"when": OnEvent()}, "waits for no event", Level.ERROR),
        ({"response": ()}, "does nothing", Level.WARNING),
        ({"response": (StartEffect(effect="gone"),)}, "starts no effect", Level.ERROR),
        ({"response": (StartEffect(effect="f", anchor="gone"),)}, "anchor is gone", Level.ERROR),
        ({"when": AtStart()}, "names an anchor", Level.WARNING),
    ],
)
def test_a_trigger_that_will_not_do_is_told(changes, text, level):
    found = told(triggered(**changes))
    assert any(text in message and of is level and about == "t" for of, _, message, about in found)
    assert told(triggered(enabled=False, **changes)) == []


def test_an_anchor_of_the_step_or_of_the_event_is_enough():
    assert told(triggered(when=AtStart(), response=(StartEffect(effect="f", anchor="a"),))) == []
    lost = use_of(events=(Event(id="e", name="step"),))
    assert "names an anchor" in " ".join(messages(project_of(use=lost)))
    step = StartEffect(effect="f", anchor="a")
    trigger = Trigger(id="t", when=OnEvent(event="e"), response=(step,))
    assert told(project_of(use=lost, trigger=trigger)) == []


@pytest.mark.parametrize(
    ("name", "within"),
    [("a.glb", True), ("x/a.glb", True), ("..a", True), ("../a", False), ("x/../a", False), ("/a", False),
     ("", False), ("c:a", False), ("x\\..\\a", False), ("x\\a", True)],
)  # fmt: skip
def test_names_stay_inside_the_folder(name, within):
    assert is_inside(name) == within


def test_a_finding_is_not_changed_once_it_is_told():
    with pytest.raises(FrozenInstanceError):
        Finding(Level.ERROR, "here", "words").message = "other"


@pytest.mark.parametrize(
    ("layer", "text"),
    [
        (Layer(source=LineSource()), "its line has no other end"),
        (Layer(source=LineSource(to="gone")), "its line ends at an anchor that is gone"),
        (Layer(source=LineSource(to="there")), None),
        (
            Layer(motion=Motion(forces=(Attraction(anchor="gone"),))),
            "its attraction acts from an anchor that is gone",
        ),
        (Layer(motion=Motion(forces=(Hold(anchor="gone"), Vortex(anchor="there")))), "its hold acts from an anchor"),
        (Layer(motion=Motion(forces=(Vortex(), Attraction(anchor="there")))), None),
    ],
)
def test_anchors_that_are_gone_are_told_where_they_are_named(layer, text):
    use = CharacterUse(id="c", file="c.glb", anchors=(Anchor(id="there", joint="j"),))
    layer = layer.evolve(emission=Emission(rate=5))
    found = check(Project(characters=(use,), effects=(Effect(layers=(layer,)),)), {})
    told = [f.message for f in found if "anchor" in f.message]
    assert len(told) == (text is not None)
    assert text is None or told[0].startswith(text)


@pytest.mark.parametrize(
    ("emission", "length", "told"),
    [
        (Emission(rate=5, curve=Curve()), None, True),
        (Emission(rate=5, curve=Curve()), 1.0, False),
        (Emission(rate=5, curve=Curve(), length=2.0), None, False),
        (Emission(rate=5), None, False),
    ],
)
def test_a_course_of_the_rate_that_goes_nowhere_is_told(emission, length, told):
    found = check(Project(effects=(Effect(length=length, layers=(Layer(emission=emission),)),)), {})
    assert any("has a curve but no end" in f.message for f in found) is told


@pytest.mark.parametrize(
    ("sounds", "lost"), [(None, False), (frozenset({"thud.wav"}), False), (frozenset(), True)], ids=str
)
def test_a_sound_that_is_not_there_is_told_where_it_is_played(sounds, lost):
    step = PlaySound(sound="thud.wav")
    project = project_of(trigger=Trigger(id="t", name="t", when=OnEvent(event="e"), response=(step,)))
    found = [finding for finding in check(project, FACTS, None, sounds) if "thud.wav" in finding.message]
    assert [finding.about for finding in found] == (["t"] if lost else [])
