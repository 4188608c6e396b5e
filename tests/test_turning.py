"""Dials while the show plays: turned by hand, by steps, by ramps and by strength; and what else belongs to that."""

import io
import math
import wave

import numpy as np
import pytest

from wraithon.interchange.folders import save_whole
from wraithon.particles.columns import VX, VZ
from wraithon.particles.curves import curve_value
from wraithon.project.binding import Binding, Dial
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.files import from_text, to_text
from wraithon.project.findings import check
from wraithon.project.life import Attribute, Curve
from wraithon.project.look import SpriteLook
from wraithon.project.project import Project
from wraithon.project.staging.actions import (
    SOFTLY,
    DialCurve,
    Dissolving,
    OnGroundKind,
    PlaySound,
    RampSignal,
    SetSignal,
    StartEffect,
)
from wraithon.project.staging.signals import dials_of, known_signals
from wraithon.project.staging.trigger_kinds import AtStart, Never, OnKey
from wraithon.project.trigger import Only, Strength, Trigger
from wraithon.sounds import CHANNELS, RATE, SoundLibrary
from wraithon.stage.compiled_project import with_dials
from wraithon.stage.player import Player
from wraithon.studio.sentence import sentence
from wraithon.support.errors import RenderError

HEAT = Dial(id="heat", name="heat", low=0.0, high=10.0, value=0.0)
STILL = Attribute.of(0)
FLAME = Effect(
    id="flame", name="flame", length=None, dials=(HEAT,),
    layers=(
        Layer(id="f", emission=Emission(rate=60), lifetime=Attribute.of(10), speed=Attribute.of(0.1)),
        Layer(id="g", emission=Emission(rate=60), lifetime=Attribute.of(10), speed=STILL),
    ),
    bindings=(
        Binding(dial="heat", layer="f", path="speed.birth.low", low=0.1, high=1.1),
        Binding(dial="heat", layer="f", path="speed.birth.high", low=0.1, high=1.1),
        Binding(dial="heat", layer="g", path="disabled", low=0.0, high=1.0),
    ),
)  # fmt: skip
BURN = Trigger(id="b", name="burn", when=AtStart(), response=(StartEffect(effect="flame"),))
KEY = "flame/heat"


@pytest.fixture
def played(demo):
    """Play her with an effect that has a dial."""

    def play(*triggers, effects=(FLAME,), **stage):
        held = demo.project.stage.evolve(**stage)
        return Player(demo.project.evolve(effects=effects, triggers=(BURN, *triggers), stage=held), demo.characters)

    return play


def speeds(pool):
    """Return how fast each was born: nothing slows them down."""
    return np.linalg.norm(pool.columns.state[VX : VZ + 1, : pool.count], axis=0)


def go(player, steps):
    for _ in range(steps):
        player.step()


def test_dials_are_signals_but_for_those_of_colours():
    effects = (FLAME.evolve(dials=(HEAT, Dial(id="c", kind="colour"), Dial(id="x" * 64))),)
    project = from_text(to_text(_project(effects))).project
    assert list(dials_of(project)) == [KEY]
    kind = known_signals(project)[KEY]
    assert (kind.text, kind.low, kind.high, kind.given) == ("heat of flame", 0.0, 10.0, True)
    toggle, choice = Dial(id="t", kind="toggle", high=9.0), Dial(id="o", kind="choice", options=("a", "b", "c"))
    assert (toggle.range, choice.range, HEAT.range) == ((0.0, 1.0), (0.0, 2.0), (0.0, 10.0))


def _project(effects=(FLAME,)):
    return Project(effects=effects)


def test_a_dial_turned_by_hand_changes_what_is_born_from_the_next_step_on(played):
    player = played()
    go(player, 10)
    player.signal(KEY, 5.0)
    go(player, 10)
    assert speeds(player.show.pools["f"])[:10] == pytest.approx(0.1)
    assert speeds(player.show.pools["f"])[10:20] == pytest.approx(0.6)
    assert "g" not in player.show.pools  # muted from half of the way on
    player.signal(KEY, 0.0)
    go(player, 1)
    assert player.show.compiled is player.show.base
    assert player.show.pools["g"].count == 1  # it begins anew


def test_a_ramp_takes_a_dial_along_its_course_and_leaves_it_there(played):
    curve = Curve.through((0.0, 0.0), (1.0, 1.0))
    player = played(
        Trigger(id="r", when=OnKey(key="1"), response=(RampSignal(signal=KEY, to=10.0, seconds=0.5, curve=curve),))
    )
    go(player, 6)
    player.key("1")
    go(player, 40)
    # Born in the step that ends k / 30 of the way there; and 1.1 m/s when it is there.
    shares = np.clip(np.arange(1, 41) / 30, 0, 1)
    assert speeds(player.show.pools["f"])[6:46] == pytest.approx(0.1 + shares, abs=2e-6)
    assert player.show.signals(player.show.step_number)[KEY] == 10.0


def test_what_is_set_ends_a_ramp_and_a_ramp_begins_where_the_signal_is(played):
    ramp = Trigger(id="r", when=OnKey(key="1"), response=(RampSignal(signal=KEY, to=10.0, seconds=1.0),))
    player = played(ramp, Trigger(id="s", when=OnKey(key="2"), response=(SetSignal(signal=KEY, value=2.0),)))
    player.key("1")
    go(player, 30)
    assert player.show.signal_values[KEY] == pytest.approx(5.0, abs=1e-9)
    player.key("2")
    go(player, 10)
    assert player.show.signal_values[KEY] == 2.0
    player.key("1")
    go(player, 30)
    assert player.show.signal_values[KEY] == pytest.approx(6.0)


def test_turning_is_exact_by_steps_by_seek_and_after_edits(played):
    steps = (RampSignal(signal=KEY, to=8.0, seconds=0.7, after=0.3), SetSignal(signal=KEY, value=1.0, after=1.5))
    ramp = Trigger(id="r", when=AtStart(), response=steps)
    player, other = played(ramp), played(ramp)
    go(player, 150)
    other.seek(4.0)
    other.seek(0.6)
    other.seek(2.5)
    assert player.digest() == other.digest()
    # An edit of what the dial makes is one of what plays, though nothing of it shows where the dial stands now.
    wider = FLAME.evolve(bindings=(FLAME.bindings[0], FLAME.bindings[1].evolve(high=2.1), FLAME.bindings[2]))
    edited = player.project.evolve(effects=(wider,))
    player.adopt(edited)
    assert not player.pure
    if not player.mend():
        player.seek(2.5)
    fresh = Player(edited, other._characters)
    fresh.seek(2.5)
    assert player.digest() == fresh.digest() != other.digest()


def test_turning_nothing_costs_no_new_cast_and_further_casts_share_what_did_not_change(played):
    player = played()
    base = player.show.base
    assert with_dials(base, {}) is with_dials(base, {KEY: 0.0}) is with_dials(base, {"health": 0.3}) is base
    once = with_dials(base, {KEY: 4.0})
    assert with_dials(base, {KEY: 4.0}, once) is once
    assert once.programs["f"] is not base.programs["f"]
    quiet = Effect(id="quiet", layers=(Layer(id="q"),))
    both = played(effects=(FLAME, quiet)).show.base
    assert with_dials(both, {KEY: 4.0}).programs["q"] is both.programs["q"]


def test_only_where_a_dial_is_within_a_range(played):
    only = Only(signal=KEY, least=4.0, most=6.0)
    asks = Trigger(id="a", when=OnKey(key="1"), only=only, response=(SetSignal(signal="health", value=0.5),))
    player = played(asks)
    for value, health in ((3.9, 1.0), (6.1, 1.0), (4.0, 0.5)):
        player.signal(KEY, value)
        player.key("1")
        go(player, 2)
        assert player.show.signals(player.show.step_number)["health"] == health


def test_strength_sets_a_dial_of_what_it_starts(played):
    step = StartEffect(effect="flame", turns=(DialCurve(dial="heat", curve=Curve.through((0.0, 0.2), (1.0, 0.4))),))
    told = Strength(signal="health", low=0.0, high=1.0)
    player = played(Trigger(id="t", name="t", when=Never(), strength=told, response=(step,)))
    for strength, speed in ((0.0, 0.3), (0.5, 0.4), (1.0, 0.5)):
        player.restart()
        player.respond("t", strength)
        go(player, 3)
        (firing,) = [each for each in player.show.firings.values() if "~" in each.effect]
        (layer,) = [pool for key, pool in player.show.pools.items() if key.startswith("f~")]
        assert speeds(layer) == pytest.approx(speed)
        assert firing.base == "flame"


def test_on_a_kind_of_ground_layers_are_left_out_and_textures_are_others(played):
    pair = Effect(
        id="pair", name="pair", length=0.1,
        layers=tuple(
            Layer(id=key, emission=Emission(bursts=(Burst(count=2),)), look=SpriteLook(texture="glow.png"))
            for key in ("one", "two")
        ),
    )  # fmt: skip
    other = OnGroundKind(ground="moss", without=("two",), texture="smoke.png")
    step = StartEffect(effect="pair", grounds=(other,))
    player = played(Trigger(id="t", name="t", when=Never(), response=(step,)), effects=(FLAME, pair))
    player.respond("t", ground="slate")
    player.respond("t", ground="moss")
    go(player, 2)
    assert {key for key in player.show.pools if not key.startswith(("f", "g"))} >= {"one", "two"}
    (moss,) = [key for key in player.show.pools if key.startswith("one~")]
    assert not [key for key in player.show.pools if key.startswith("two~")]
    assert player.show.compiled.programs[moss].layer.look.texture == "smoke.png"


def test_a_dissolve_follows_its_course(played):
    curve = Curve.through((0.0, 0.0), (0.5, 0.9), (1.0, 0.4))
    step = Dissolving(to=1.0, seconds=1.0, curve=curve)
    player = played(Trigger(id="d", when=OnKey(key="1"), response=(step,)))
    go(player, 3)
    player.key("1")
    go(player, 31)
    began = player.show.actor.stand(player.show.time).gone.start
    assert player.show.actor.dissolved_at(began + 0.5) == pytest.approx(0.9)
    assert player.show.actor.dissolved_at(began + 1.5) == pytest.approx(0.4)


def test_the_usual_course_sets_off_and_arrives_softly():
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        assert curve_value(SOFTLY, share) == pytest.approx(share * share * (3 - 2 * share), abs=1e-12)


# ---- sounds -----------------------------------------------------------------------------------------


def wav(path, seconds=0.1, rate=22_050, channels=1, tone=440.0):
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(channels)
        file.setsampwidth(2)
        file.setframerate(rate)
        wave_ = np.sin(2 * math.pi * tone * np.arange(round(seconds * rate)) / rate)
        file.writeframes(np.repeat((wave_ * 16_000).astype("<i2"), channels).tobytes())
    path.write_bytes(out.getvalue())
    return path


def test_a_sound_is_heard_with_its_step_as_loud_as_strength_has_it(played):
    step = PlaySound(sound="thud.wav", volume=0.8, after=0.1)
    player = played(Trigger(id="t", name="t", when=Never(), strength=Strength(high=1.0), response=(step,)))
    player.respond("t", 0.5)
    go(player, 5)
    assert player.show.sounds == []
    go(player, 3)
    (heard,) = player.show.sounds
    assert (heard.name, heard.volume) == ("thud.wav", 0.4)
    assert heard.time == pytest.approx(0.1)
    player.seek(0.05)
    assert player.show.sounds == []


@pytest.mark.parametrize(("rate", "channels"), [(22_050, 1), (48_000, 2), (8_000, 1)])
def test_sounds_of_any_rate_become_those_that_are_played(tmp_path, monkeypatch, rate, channels):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    library = SoundLibrary(None)
    name = library.keep(wav(tmp_path / "thud.wav", 0.25, rate, channels))
    assert (name, library.names()) == ("thud.wav", ["thud.wav"])
    samples = library.read(name)
    assert samples.shape[1] == CHANNELS
    assert len(samples) == pytest.approx(0.25 * RATE, rel=0.01)
    assert np.abs(samples).max() == pytest.approx(16_000 / 32_768, rel=0.05)


@pytest.mark.parametrize(
    ("data", "text"),
    [(b"", "not a WAV"), (b"RIFF\xff\xff\xff\xffWAVEfmt ", "not a WAV"), (b"ID3" + bytes(400), "not a WAV")],
)
def test_what_is_no_sound_is_told_and_not_kept(tmp_path, monkeypatch, data, text):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    bad = tmp_path / "bad.wav"
    bad.write_bytes(data)
    with pytest.raises(RenderError, match=text):
        SoundLibrary(None).keep(bad)
    assert SoundLibrary(None).names() == []
    with pytest.raises(RenderError, match="up to 60 s"):
        SoundLibrary(None).keep(wav(tmp_path / "long.wav", 61.0, 8000))
    with pytest.raises(RenderError, match="no such sound"):
        SoundLibrary(None).read("gone.wav")


def test_saving_takes_sounds_along(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    SoundLibrary(None).keep(wav(tmp_path / "thud.wav"))
    trigger = Trigger(when=AtStart(), response=(PlaySound(sound="thud.wav"),))
    save_whole(_project().evolve(triggers=(trigger,)), None, tmp_path / "saved")
    assert (tmp_path / "saved" / "sounds" / "thud.wav").read_bytes() == (tmp_path / "thud.wav").read_bytes()


# ---- words ------------------------------------------------------------------------------------------


def test_new_steps_are_told_in_words_and_found_when_they_do_nothing():
    steps = (
        RampSignal(signal=KEY, to=3.0, seconds=0.4), PlaySound(sound="thud.wav"), PlaySound(),
        RampSignal(signal="speed"), StartEffect(effect="flame", turns=(DialCurve(dial="heat"),)),
    )  # fmt: skip
    trigger = Trigger(id="t", name="t", when=AtStart(), response=steps)
    project = _project().evolve(triggers=(trigger,))
    told = sentence(project, trigger)
    assert "bring heat of flame to 3 over 0.4 s; play thud.wav; play a sound that is not chosen yet" in told
    assert "start flame, its heat by strength" in told
    text = [finding.message for finding in check(project, {}) if finding.about == "t"]
    assert any("plays no sound" in each for each in text)
    assert any("sets a signal that is gone, or that is measured" in each for each in text)
