"""Each finding, planted: it is told once and nothing else is, and its button mends it."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from wraithon.interchange.presets import shipped_presets
from wraithon.picture.making.recipe import Recipe, as_png, painted
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.binding import Binding, Dial
from wraithon.project.character import Anchor, CharacterUse, ClipUse, Event, Mark
from wraithon.project.checks.finding import Change, Remedy, mended
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission, Full
from wraithon.project.findings import CharacterFacts, check
from wraithon.project.life import Attribute, Curve, Gradient, LifeMode, Tint
from wraithon.project.look import AfterimageLook, Facing, FrameGrid, SheetPlay, ShellLook, SpriteLook
from wraithon.project.motion import Attraction, Curl, Drag, Gravity, Hold, Lift, Motion, Swirl, Vortex, Wind
from wraithon.project.project import Project, View
from wraithon.project.source import (
    FacingMask,
    JointRow,
    JointSet,
    Mode,
    Occasion,
    OffspringSource,
    PointSource,
    Riding,
    SkinSource,
    TextureMask,
)
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, OnEvent
from wraithon.project.trigger import Only, Trigger
from wraithon.studio.sheets import Sheets, empty_frames

LAYER = Layer(
    id="l", name="l", emission=Emission(rate=40), size=Attribute.of(0.05), look=SpriteLook(texture="glow.png")
)
FACTS = {"c": CharacterFacts(frozenset({"hand", "head"}), frozenset({"body"}), {"walk": 1.0})}
USE = CharacterUse(
    id="c", file="c.glb", anchors=(Anchor(id="a", name="a", joint="hand"),),
    events=(Event(id="step", name="step", anchor="a"),),
    clips=(ClipUse(name="walk", marks=(Mark(event="step", time=0.2),)),),
)  # fmt: skip
HARD = SpriteLook(texture="glow.png", soft=0.0)
FLAT = Curve.through((0, 1), (1, 0.5))
PARENT = LAYER.evolve(id="parent", name="parent")
COURSE = Curve.through((0, 0), (1, 0))


def project_of(*layers, length=1.0, when=None, anchor=None, view=None):
    effect = Effect(id="e", name="e", length=length, layers=layers)
    step = StartEffect(effect="e", anchor=anchor)
    trigger = Trigger(id="t", name="t", when=when or OnEvent(event="step"), response=(step,))
    return Project(characters=(USE,), effects=(effect,), triggers=(trigger,), view=view or View())


def layer(**changes):
    return LAYER.evolve(**changes)


def image(**changes):
    """Return a layer of afterimages that nothing else is wrong with."""
    plain = {"speed": Attribute.of(0), "size": Attribute.of(0)}
    return layer(look=AfterimageLook(), **plain, **changes)


def on_skin(**changes):
    return layer(source=SkinSource(**changes), motion=Motion(forces=(Drag(rate=6.0),)))


def found(project):
    return check(project, FACTS, frozenset({"glow.png"}))


def told(project):
    return [finding.message for finding in found(project)]


def replaced(low, high):
    return Attribute(birth=Attribute.of(low, high).birth, life=FLAT, mode=LifeMode.REPLACE)


PLANTED = {
    "no layers": (project_of(), "no layers"),
    "nothing born": (project_of(layer(emission=Emission())), "nothing is emitted: set a rate"),
    "starts too late": (project_of(layer(emission=Emission(rate=9, start=1.0))), "starts after the effect's own end"),
    "course without end": (
        project_of(layer(emission=Emission(rate=9, curve=FLAT)), length=None, when=AtStart(), anchor="a"),
        "a curve but no end",
    ),
    "loop that never comes": (project_of(layer(emission=Emission(rate=9, loop=1.0))), "never repeats"),
    "burst above the limit": (
        project_of(layer(emission=Emission(bursts=(Burst(count=90),), limit=80))),
        "at once but",
    ),
    "rate above the limit": (project_of(layer(emission=Emission(rate=90, limit=80))), "about 90 would live"),
    "many shells": (
        project_of(layer(look=ShellLook(), emission=Emission(bursts=(Burst(count=17),)))),
        "up to 17 shells live at once, of which 16 are drawn",
    ),
    "many afterimages": (
        project_of(image(emission=Emission(rate=25))),
        "up to 25 afterimages live at once, of which the youngest 24 are drawn",
    ),
    "a burst of afterimages": (
        project_of(image(emission=Emission(bursts=(Burst(count=25),)))),
        "up to 25 afterimages live at once",
    ),
    "limit far above": (project_of(layer(emission=Emission(rate=40, limit=2001))), "is far above the 40"),
    "no end": (project_of(LAYER, length=None), 'it has no end, and "t" starts another one'),
    "birth replaced": (project_of(layer(size=replaced(0.05, 0.1))), "size at birth (0.05 to 0.1) does nothing"),
    "colour replaced": (
        project_of(
            layer(colour=Tint(second=(1, 0, 0), life=Gradient.through((0, (1, 1, 1))), mode=LifeMode.REPLACE))
        ),
        "colour at birth does nothing",
    ),
    "turn": (
        project_of(layer(spin=Attribute.of(90), look=SpriteLook(texture="glow.png", facing=Facing.VELOCITY))),
        "turn and spin",
    ),
    "stretch of an image": (
        project_of(image(stretch=Attribute.of(2), emission=Emission(rate=9))),
        "stretch does nothing",
    ),
    "sheet of the disc": (project_of(layer(look=SpriteLook(sheet=FrameGrid(columns=2)))), "its sheet does nothing"),
    "soft edge": (
        project_of(layer(size=Attribute.of(0.02), look=SpriteLook(texture="glow.png", soft=0.081))),
        "its soft edge (8.1 cm)",
    ),
    "under a pixel": (
        project_of(layer(size=Attribute.of(0.001, 0.0015), look=HARD)),
        "under a pixel: 0.15 cm at most",
    ),
    "under a pixel, replaced": (
        project_of(layer(size=Attribute(life=Curve.through((0, 0.001)), mode=LifeMode.REPLACE), look=HARD)),
        "under a pixel",
    ),
    "no size": (project_of(layer(size=Attribute.of(0))), "size is never above zero"),
    "no opacity": (project_of(layer(opacity=Attribute.of(0))), "opacity is never above zero"),
    "no intensity": (project_of(layer(intensity=Attribute.of(0, 0))), "intensity is never above zero"),
    "no lifetime": (project_of(layer(lifetime=Attribute.of(0))), "lifetime is zero"),
    "late burst": (
        project_of(layer(emission=Emission(rate=9, bursts=(Burst(time=1.5),)))),
        "comes after the effect's end",
    ),
    "thrown": (project_of(layer(source=SkinSource(riding=Riding(share=0.2, keep=1.0)))), "thrown off by 2.4 m"),
    "thrown backwards": (
        project_of(layer(source=SkinSource(riding=Riding(share=0.2, keep=-1.0)))),
        "keeps -100% of the skin's",
    ),
    "forces on riders": (
        project_of(layer(source=PointSource(riding=Riding(share=1.0)), motion=Motion(forces=(Gravity(),)))),
        "stay attached all their life",
    ),
    "forces on images": (
        project_of(image(motion=Motion(forces=(Gravity(),)), emission=Emission(rate=9))),
        "stays as the character was",
    ),
    "no wind": (project_of(layer(motion=Motion(forces=(Gravity(), Wind(gust=1.0))))), "its wind has no effect"),
    "no curl": (project_of(layer(motion=Motion(forces=(Curl(strength=0),)))), "its curl has no effect"),
    "no carrying": (
        project_of(layer(motion=Motion(forces=(Curl(swirl=Swirl.CARRY, speed=0),)))),
        "its curl has no effect",
    ),
    "no vortex": (project_of(layer(motion=Motion(forces=(Vortex(strength=0),)))), "its vortex has no effect"),
    "no pull": (project_of(layer(motion=Motion(forces=(Gravity(pull=0),)))), "its gravity has no effect"),
    "no drag": (project_of(layer(motion=Motion(forces=(Drag(rate=0),)))), "its drag has no effect"),
    "no attraction": (
        project_of(layer(motion=Motion(forces=(Attraction(strength=0),)))),
        "its attraction has no effect",
    ),
    "no lift": (project_of(layer(motion=Motion(forces=(Lift(strength=0),)))), "its lift has no effect"),
    "no hold": (project_of(layer(motion=Motion(forces=(Hold(strength=0),)))), "its hold has no effect"),
    "a force never felt": (
        project_of(layer(motion=Motion(forces=(Gravity(curve=COURSE),)))),
        "its gravity has no effect",
    ),
    "gone anchor of a force": (
        project_of(layer(motion=Motion(forces=(Vortex(anchor="x"),)))),
        "acts from an anchor that is gone",
    ),
    "gone anchor of a step": (project_of(LAYER, anchor="x"), "an action's anchor is gone"),
    "idle anchor of a step": (project_of(on_skin(), anchor="a"), "an action's anchor does nothing"),
    "gone part": (project_of(on_skin(parts=("body", "tail"))), 'no part "tail"'),
    "gone joint": (
        project_of(on_skin(joints=JointSet(names=("tail",)), table=(JointRow(joint="tail"),))),
        'no joint "tail"',
    ),
    "empty table": (
        project_of(on_skin(table=(JointRow(joint="hand", share=0),))),
        "no joint of its table has a share",
    ),
    "empty mask": (project_of(on_skin(texture=TextureMask())), "names no picture"),
    "painted mask gone": (project_of(on_skin(painted="x")), "painted mask is gone"),
    "dissolve that stands": (project_of(on_skin(dissolving=True)), "border does not move"),
    "falloff on bones": (
        project_of(on_skin(mode=Mode.BONES, joints=JointSet(names=("hand",), falloff=1))),
        "falloff does nothing",
    ),
    "filters on bones": (
        project_of(on_skin(mode=Mode.BONES, parts=("body",), facing=FacingMask())),
        "its other filters do nothing",
    ),
    "texture gone": (project_of(layer(look=SpriteLook(texture="gone.png"))), '"gone.png" is not in the project'),
    "no parent": (project_of(PARENT, layer(emission=Emission(), source=OffspringSource())), "pick the layer whose"),
    "a parent elsewhere": (
        project_of(PARENT, layer(emission=Emission(), source=OffspringSource(layer="x"))),
        "is not in this effect",
    ),
    "a parent left out": (
        project_of(PARENT.evolve(disabled=True), layer(emission=Emission(), source=OffspringSource(layer="parent"))),
        '"parent" is disabled',
    ),
    "a parent that meets nothing": (
        project_of(
            PARENT, layer(emission=Emission(), source=OffspringSource(layer="parent", occasion=Occasion.CONTACT))
        ),
        "collides with nothing",
    ),
    "no offspring": (
        project_of(PARENT, layer(emission=Emission(), source=OffspringSource(layer="parent", count=0))),
        "its count is 0",
    ),
    "offspring with a rate": (
        project_of(PARENT, layer(source=OffspringSource(layer="parent"))),
        "its own rate and bursts do nothing",
    ),
    "born by itself": (
        project_of(
            PARENT,
            layer(emission=Emission(), source=OffspringSource(layer="m")),
            layer(id="m", emission=Emission(), source=OffspringSource(layer="l")),
        ),
        "emitted by itself in the end",
    ),
}


@pytest.mark.parametrize(
    ("only", "text"),
    [
        (Only(chance=0), "its chance is 0"), (Only(slowest=2, fastest=1), "no speed is both"),
        (Only(clips=("run",)), "none of the clips that it keeps to"),
    ],
)  # fmt: skip
def test_a_trigger_that_never_responds_is_told_once_and_mended(only, text):
    project = project_of(LAYER)
    silent = project.evolve(triggers=(project.triggers[0].evolve(only=only),))
    (finding,) = found(silent)
    assert text in finding.message
    assert (finding.about, told(mended(silent, finding.remedy))) == ("t", [])


def driven(**changes):
    binding = Binding(dial="d", layer="l", path="size.birth.high", low=0, high=1).evolve(**changes)
    project = project_of(LAYER)
    effect = project.effects[0].evolve(dials=(Dial(id="d"),), bindings=(binding,))
    return project.evolve(effects=(effect,))


@pytest.mark.parametrize("changes", [{"dial": "x"}, {"layer": "x"}, {"path": "size.birth.highest"}])
def test_what_is_driven_and_is_not_there_is_told_and_mended(changes):
    assert told(driven()) == []
    (finding,) = found(driven(**changes))
    assert "one of these is not there" in finding.message
    assert told(mended(driven(**changes), finding.remedy)) == []


def test_without_anything_planted_nothing_is_told():
    assert told(project_of(LAYER)) == []
    assert told(project_of(on_skin())) == []


@pytest.mark.parametrize("name", PLANTED)
def test_what_is_planted_is_told_once_and_alone_and_its_button_mends_it(name):
    project, text = PLANTED[name]
    findings = found(project)
    if name == "born by itself":
        # Each of the two says so, and mending either mends both.
        assert len(findings) == 2
        findings = findings[:1]
    (finding,) = findings
    assert text in finding.message
    assert finding.remedy is not None
    assert told(mended(project, finding.remedy)) == []


@pytest.mark.parametrize(
    ("project", "text"),
    [
        (project_of(layer(emission=Emission(bursts=(Burst(count=80),), limit=80))), []),
        (project_of(layer(emission=Emission(rate=84, limit=80))), []),
        (project_of(layer(emission=Emission(rate=800, limit=80, full=Full.END_OLDEST))), []),
        (project_of(layer(look=ShellLook(), emission=Emission(bursts=(Burst(count=16),)))), []),
        (project_of(image(emission=Emission(rate=24))), []),
        (project_of(image(emission=Emission(rate=90, limit=24, full=Full.END_OLDEST))), []),
        (project_of(layer(emission=Emission(rate=40, limit=2000))), []),
        (project_of(LAYER, length=None, when=AtStart(), anchor="a"), []),
        (project_of(layer(emission=Emission(bursts=(Burst(),))), length=None), []),
        (project_of(layer(size=replaced(0.05, 0.05))), []),
        (project_of(layer(size=Attribute.of(0.02), look=SpriteLook(texture="glow.png", soft=0.08))), []),
        (project_of(layer(size=Attribute.of(0.0019), look=HARD)), []),
        (project_of(layer(source=SkinSource(riding=Riding(share=0.2, keep=0.5)))), []),
        (project_of(layer(size=Attribute.of(0), opacity=Attribute.of(0), disabled=True)), []),
    ],
)
def test_what_is_just_within_bounds_is_not_told(project, text):
    assert told(project) == text


def test_what_is_seen_from_further_away_is_under_a_pixel_sooner():
    small = layer(size=Attribute.of(0.004), look=SpriteLook(texture="glow.png", soft=0.0))
    assert told(project_of(small)) == []
    assert "under a pixel" in told(project_of(small, view=View(distance=12.0)))[0]


def test_a_remedy_leaves_alone_what_is_gone_meanwhile():
    project = project_of(LAYER)
    remedy = Remedy("Do", (Change("layer", "gone", "disabled", True), Change("effect", "e", "name", "new")))
    assert mended(project, remedy).effects[0].name == "new"


def test_frames_that_the_picture_does_not_hold_are_told_and_mended(tmp_path):
    picture = np.zeros((64, 64, 4), np.uint8)
    for row, column in ((0, 0), (0, 1), (1, 0), (1, 1)):
        picture[row * 32 + 8 : row * 32 + 24, column * 32 + 8 : column * 32 + 24] = 255
    (tmp_path / "textures").mkdir()
    Image.fromarray(picture).save(tmp_path / "textures" / "four.png")
    library, sheets = TextureLibrary(tmp_path), Sheets()

    def cut(columns, rows):
        look = SpriteLook(texture="four.png", sheet=FrameGrid(columns=columns, rows=rows))
        return project_of(layer(look=look))

    assert sheets.findings(cut(2, 2), library) == []
    assert sheets.findings(cut(1, 1), library) == []
    (finding,) = sheets.findings(cut(8, 8), library)
    assert finding.message.startswith("48 of its 64 frames are empty")
    assert finding.remedy.text == "Cut it into 2 × 2"
    assert sheets.findings(mended(cut(8, 8), finding.remedy), library) == []
    assert empty_frames(np.full((4, 4, 4), 255, np.uint8), 4, 4) == 0
    assert empty_frames(picture[:3, :3], 16, 16) == 256
    (tmp_path / "textures" / "four.png").write_bytes(b"no picture")
    assert sheets.findings(cut(8, 8), TextureLibrary(tmp_path)) == []


@pytest.mark.parametrize("play", SheetPlay)
def test_a_right_sheet_whose_last_frames_have_faded_is_never_cut_otherwise(tmp_path, play):
    recipe = Recipe(columns=6, rows=6, side=32, width=0.6, fades=1.0)
    (tmp_path / "textures").mkdir()
    library = TextureLibrary(tmp_path)
    for name, data in (("own.png", as_png(recipe)), ("foreign.png", None)):
        if data is None:
            Image.fromarray(painted(recipe)).save(tmp_path / "textures" / name)
        else:
            (tmp_path / "textures" / name).write_bytes(data)
        look = SpriteLook(texture=name, sheet=FrameGrid(columns=6, rows=6, play=play))
        found = Sheets().findings(project_of(layer(look=look)), library)
        # By chance a particle may have an empty one all its life; played, that is how it ends.
        assert [finding.remedy for finding in found] == ([None] if play is SheetPlay.CHANCE else [])


def test_no_sheet_of_the_demo_or_of_a_preset_has_empty_frames(demo):
    layers = [each for preset in shipped_presets() for each in preset.layers]
    project = demo.project.evolve(effects=(*demo.project.effects, Effect(layers=tuple(layers[:60]))))
    assert Sheets().findings(project, TextureLibrary(demo.folder)) == []
