"""What one step, one check and one file may take is bounded, and what is left out is told with its number."""

import io

import numpy as np
import pytest
from PIL import Image

from tests.glb_maker import skinned_strip
from wraithon.character.reading import gltf_materials
from wraithon.character.reading.gltf import read_gltf
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.textures import decoded
from wraithon.project.effect import Effect, EffectBounds, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.project import Project
from wraithon.project.source import Occasion, OffspringSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, EveryMetres, OnEnd
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player
from wraithon.stage.triggering.triggers import MAX_DONE, MAX_HEARD
from wraithon.studio import survey
from wraithon.studio.survey import fired_findings
from wraithon.support.errors import CharacterError, RenderError

FIVE = Layer(id="l", emission=Emission(bursts=(Burst(count=5),)), lifetime=Attribute.of(0.1))
SHORT = Effect(id="e", length=0.1, layers=(FIVE,))


def test_a_step_over_a_million_metres_hears_so_many_moments_and_says_so(demo):
    use = demo.project.character.evolve(scale=1e6)
    trigger = Trigger(id="t", when=EveryMetres(metres=0.01))
    player = Player(demo.project.evolve(characters=(use,), effects=(SHORT,), triggers=(trigger,)), demo.characters)
    for _ in range(4):
        before = player.show.triggers.states.get("t")
        player.step()
        now = player.show.triggers.states["t"]
        assert now.fired - (before.fired if before else 0) <= MAX_HEARD
    text = {refusal.reason for refusal in player.show.triggers.refusals}
    assert f"more than {MAX_HEARD:,} moments come in one step of the show" in text


def test_effects_that_start_each_other_do_so_many_things_a_step_and_say_so(monkeypatch):
    brief = SHORT.layers[0].evolve(lifetime=Attribute.of(0.0))
    effects = tuple(Effect(id=f"e{k}", length=0.0, layers=(brief.evolve(id=f"l{k}"),)) for k in range(8))
    starts = tuple(StartEffect(effect=f"e{k}") for k in range(8))
    triggers = tuple(Trigger(when=OnEnd(effect=f"e{k}"), response=starts) for k in range(8) for _ in range(4))
    player = Player(Project(effects=effects, triggers=(*triggers, Trigger(when=AtStart(), response=starts))), {})
    done, start = [], player.show.start

    def counted(*told, **named):
        done[-1] += 1
        return start(*told, **named)

    monkeypatch.setattr(player.show, "start", counted)
    for _ in range(10):
        done.append(0)
        player.step()
    assert max(done) == MAX_DONE
    text = [refusal.reason for refusal in player.show.triggers.refusals]
    assert any(f"more than {MAX_DONE:,} actions are due in one step of the show: " in each for each in text)


def chain(length):
    first = Layer(id="l0", emission=Emission(rate=200.0), lifetime=Attribute.of(2.0), size=Attribute.of(0.5))
    layers = [first]
    for k in range(1, length):
        source = OffspringSource(layer=f"l{k - 1}", count=20, occasion=Occasion.DEATH)
        layers.append(
            first.evolve(id=f"l{k}", source=source, emission=Emission(limit=None), lifetime=Attribute.of(0.3))
        )
    return Effect(id="e", name="chain", length=None, layers=tuple(layers))


def test_a_check_leaves_out_what_would_take_too_long_and_says_how_many(demo, monkeypatch):
    monkeypatch.setattr(survey, "MAX_WORK", 1e6)
    bounded = SHORT.evolve(id="f", bounds=EffectBounds(low=(-9, -9, -9), high=(9, 9, 9)))
    project = demo.project.evolve(effects=(chain(20), bounded), triggers=(), step_rate=240)
    (finding,) = fired_findings(project, demo.characters, TextureLibrary(None))
    assert finding.location == "effects"
    assert finding.message.startswith(
        "1 of 2 effects were not fired to be looked at: that would take more than 1 million particle steps;"
    )


def picture(width, height):
    out = io.BytesIO()
    Image.fromarray(np.zeros((height, width, 3), np.uint8)).save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize(("width", "height"), [(16_385, 1), (1, 16_385)])
def test_a_picture_that_is_far_too_long_is_refused(width, height):
    with pytest.raises(RenderError, match="pixels are too many"):
        decoded(picture(width, height), "long.png")


def test_pictures_of_a_character_beyond_what_a_file_may_hold_are_left_out_and_told(tmp_path, monkeypatch):
    monkeypatch.setattr(gltf_materials, "MAX_PIXELS", 150)
    maker = skinned_strip()
    for k in range(3):
        (tmp_path / f"{k}.png").write_bytes(picture(8, 8))
    maker.json["images"] = [{"uri": f"{k}.png"} for k in range(3)]
    maker.json["textures"] = [{"source": k} for k in range(3)]
    maker.json["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": k}}} for k in range(3)]
    (tmp_path / "strip.glb").write_bytes(maker.glb())
    character = read_gltf(tmp_path / "strip.glb")
    notes = [note for note in character.notes if "all pictures together have more than 150 pixels" in note]
    assert len(notes) == 1


def test_extensions_that_are_no_object_get_our_words(tmp_path):
    maker = skinned_strip()
    maker.json["materials"] = [{"extensions": 5122}]
    maker.json["meshes"][0]["primitives"][0]["extensions"] = 5122
    maker.json["extensions"] = 5122
    (tmp_path / "strip.glb").write_bytes(maker.glb())
    try:
        read_gltf(tmp_path / "strip.glb")
    except CharacterError as error:
        assert "must be an object" in str(error)
