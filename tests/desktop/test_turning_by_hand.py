"""Dials, grounds, hits and sounds in the real window, with hands on them."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from tests.desktop.conftest import settle
from tests.test_turning import wav
from wraithon.desktop.engine.speaker import MAX_AT_ONCE, SoundMixer, Speaker
from wraithon.desktop.picture.picking import spot_at
from wraithon.desktop.triggers.action_rows import ACTION_KINDS
from wraithon.project.binding import Binding, Dial
from wraithon.project.staging.actions import DialCurve, OnGroundKind, PlaySound, RampSignal, Scaling, StartEffect
from wraithon.project.staging.trigger_kinds import Never, OnHit
from wraithon.project.trigger import Trigger
from wraithon.sounds import SoundLibrary
from wraithon.stage.copies import HeardSound
from wraithon.support.errors import RenderError

HAND = Qt.MouseButton.LeftButton


def offered(choice):
    """Return what a choice offers, words to value."""
    return dict(zip([choice.itemText(k) for k in range(choice.count())], choice._values, strict=True))


def there(qtbot, window, so, timeout=60_000):
    qtbot.waitUntil(lambda: so(window.picture.rendered), timeout=timeout)


def click(widget, x=None):
    position = QPoint(widget.width() // 2 if x is None else x, widget.height() // 2)
    QTest.mouseClick(widget, HAND, pos=position)


@pytest.fixture
def rehearsing(qtbot, new_window):
    window = new_window
    window.station("rehearse")
    qtbot.waitUntil(lambda: window.picture.rendered.driven and window.picture.hasFocus(), timeout=30_000)
    return window


def with_dial(window):
    """Give the demo's first effect a dial that takes its first layer away; return the dial's key as a signal."""
    effect = window.session.project.effects[0]
    dial = Dial(id="less", name="less", high=4.0)
    bound = Binding(dial="less", layer=effect.layers[0].id, path="size.birth.high", low=0.02, high=0.5)
    made = effect.evolve(dials=(dial,), bindings=(bound,))
    window.session.edit("Dial", lambda p: p.evolve(effects=(made, *p.effects[1:])))
    return f"{effect.id}/less"


def test_a_dial_is_a_meter_that_is_dragged_and_a_trigger_brings_it_somewhere(qtbot, rehearsing):
    window = rehearsing
    key = with_dial(window)
    index = window.index("rehearse")
    qtbot.waitUntil(lambda: key in index.meters.meters, timeout=5000)
    meter = index.meters.meters[key]
    assert meter.kind.text == f"less of {window.session.project.effects[0].name}"
    click(meter, meter.width() // 4)
    there(qtbot, window, lambda rendered: rendered.signals.get(key) == pytest.approx(1.0, abs=0.05))
    ramp = Trigger(id="ramp", name="ramp", when=Never(), response=(RampSignal(signal=key, to=4.0, seconds=0.2),))
    window.session.edit("Trigger", lambda p: p.evolve(triggers=(*p.triggers, ramp)))
    window.respond("ramp")
    there(qtbot, window, lambda rendered: rendered.signals.get(key) == 4.0)


def test_a_dial_is_offered_by_its_name_where_signals_are(window):
    key = with_dial(window)
    window.station("triggers")
    window.session.select("trigger", "on-strike")
    sheet = window.sheet("triggers")
    text = f"less of {window.session.project.effects[0].name}"
    assert offered(sheet.only.widgets["only.signal"])[text] == key


def test_a_ground_of_ones_own_is_made_coloured_and_put_under_her(qtbot, rehearsing):
    window = rehearsing
    sheet = window.sheet("rehearse")
    before = window.session.project
    sheet.add_ground()
    (own,) = window.session.project.stage.grounds
    (form,) = sheet.grounds.forms
    form.widgets["name"].edited.emit("sand", True)
    form.widgets["colour"].edited.emit((0.3, 0.02, 0.02), True)
    ground = sheet.stage.widgets["ground"]
    assert offered(ground)["sand"] == own.id
    ground.edited.emit(own.id, True)
    window.picture.look_from(0, 60)

    def red(rendered):
        low = rendered.pixels[-20:].reshape(-1, 4).mean(axis=0)
        return low[0] > 2 * low[2]

    there(qtbot, window, red)
    sheet.stage.widgets["sky.haze"].edited.emit((0.0, 0.3, 0.0), True)
    window.picture.look_from(0, 2)
    there(qtbot, window, lambda rendered: rendered.pixels[5, :, 1].mean() > 2 * rendered.pixels[5, :, 0].mean())
    for _ in range(5):
        window.session.undo()
    assert window.session.project == before


def test_no_more_grounds_than_there_may_be(window):
    window.station("rehearse")
    sheet = window.sheet("rehearse")
    for _ in range(13):
        sheet.add_ground()
    assert len(window.session.project.stage.grounds) == 12
    assert "12 kinds of ground already" in window.transport.said.text()


def test_a_click_on_her_hits_the_part_that_is_seen_there(qtbot, rehearsing):
    window = rehearsing
    trigger = Trigger(id="hit", name="hit", when=OnHit(), response=())
    window.session.edit("Trigger", lambda p: p.evolve(triggers=(*p.triggers, trigger)))
    window.picture.look_from(0, 5)
    rendered = window.picture.rendered
    there(qtbot, window, lambda now: now is not rendered)
    character, use = window.session.character, window.session.project.character

    def middle():
        x, y, _ = window.picture.project(window.picture.rendered.skin).mean(axis=0).tolist()
        return QPoint(round(x), round(y))

    spot = spot_at(window.picture, middle().toPointF(), character, use.hidden_parts)
    assert spot is not None
    near = np.linalg.norm(window.picture.rendered.skin - np.array(spot.position), axis=1).min()
    assert near < 0.05
    health = window.picture.rendered.signals["health"]
    QTest.mouseClick(window.picture, HAND, pos=middle())
    there(qtbot, window, lambda now: now.signals["health"] == pytest.approx(health - 0.1))
    there(qtbot, window, lambda now: any(each.trigger == "hit" for each in now.triggers.responses))
    QTest.mouseClick(window.picture, HAND, pos=QPoint(4, 4))
    assert window.session.selection == ("", "")


def test_a_sound_that_is_dropped_is_played_by_the_selected_trigger(qtbot, window, tmp_path):
    window.station("triggers")
    window.session.select("trigger", "on-strike")
    window.keeper.take_dropped([wav(tmp_path / "thud.wav")])
    qtbot.waitUntil(lambda: any(isinstance(s, PlaySound) for s in strike(window).response), timeout=10_000)
    assert strike(window).response[-1] == PlaySound(sound="thud.wav")
    heard = []
    window.speaker.mixer.add = lambda samples, volume: heard.append((len(samples), volume))
    window.speaker._tried = True  # no device is asked for
    window.respond("on-strike")
    qtbot.waitUntil(lambda: bool(heard), timeout=20_000)
    assert heard[0] == (pytest.approx(4800, abs=20), 1.0)
    window.seek(0.0)
    settled = len(heard)
    there(qtbot, window, lambda rendered: rendered.time < 1.0)
    assert len(heard) == settled  # leaps are silent
    bad = tmp_path / "bad.wav"
    bad.write_bytes(b"RIFF")
    window.keeper.take_dropped([bad])
    qtbot.waitUntil(lambda: "not a WAV" in window.transport.said.text(), timeout=10_000)
    del window.speaker.mixer.add


def test_no_step_is_wider_than_the_sheet(window):
    with_dial(window)
    effect = window.session.project.effects[0]
    start = StartEffect(
        effect=effect.id, scalings=(Scaling(what="size"),), turns=(DialCurve(dial="less"),),
        grounds=(OnGroundKind(ground="moss"),),
    )  # fmt: skip
    steps = (start, *(make() for _, make in ACTION_KINDS))
    trigger = Trigger(id="all", name="all", when=Never(), response=steps)
    window.session.edit("Trigger", lambda p: p.evolve(triggers=(*p.triggers, trigger)))
    window.station("triggers")
    window.session.select("trigger", "all")
    room = window.sheet("triggers")._scroll.viewport().width()
    for form, step in zip(window.sheet("triggers").action_list.forms, steps, strict=True):
        assert form.minimumSizeHint().width() <= room - 22, step.kind


def strike(window):
    return window.session.project.trigger("on-strike")


def test_marks_of_a_clip_are_listed_changed_and_removed(window):
    window.station("character")
    window.session.select("clip", "walk")
    editor = window.sheet("character").clip
    marks = window.session.project.character.clip("walk").marks
    assert len(editor.marks.forms) == len(marks) > 1
    event = window.session.project.event(marks[0].event)
    assert editor.marks.forms[0].widgets["event"].currentText() == event.name
    editor.marks.forms[0].widgets["time"].edited.emit(0.25, True)
    assert window.session.project.character.clip("walk").marks[0].time == 0.25
    editor.marks.remove(0)
    assert window.session.project.character.clip("walk").marks == marks[1:]


# ---- what is heard --------------------------------------------------------------------------------


def test_the_mixer_adds_what_sounds_at_once_and_stays_within_bounds():
    mixer = SoundMixer()
    long, short = np.full((300, 2), 0.6, np.float32), np.full((100, 2), 0.5, np.float32)
    mixer.add(long, 1.0)
    mixer.add(short, 0.4)
    first, second = mixer.take(200), mixer.take(200)
    np.testing.assert_allclose(first[:100], 0.8, rtol=1e-6)
    np.testing.assert_allclose(first[100:], 0.6, rtol=1e-6)
    np.testing.assert_allclose(second[:100], 0.6, rtol=1e-6)
    assert not second[100:].any()
    for _ in range(MAX_AT_ONCE + 5):
        mixer.add(long, 1.0)
    assert mixer.take(10).max() == 1.0
    mixer.hush()
    assert not mixer.take(10).any()


def test_a_speaker_with_a_lost_sound_stays_silent_and_says_why_once(qtbot, themed):
    class FileLibrary:
        def path(self, _name):
            return None

        def read(self, name):
            raise RenderError(f"{name}: gone")

    class RenderedFrame:
        def __init__(self, time):
            self.time, self.playing, self.sounds = time, True, (HeardSound(1.0, "thud.wav", 1.0),)

    speaker, told = Speaker(), []
    speaker.failed.connect(told.append)
    speaker.take(FileLibrary())
    for time in (0.95, 1.05, 1.0, 1.05):
        speaker.play(RenderedFrame(time))
    qtbot.waitUntil(lambda: bool(told), timeout=10_000)
    settle(0.05)
    assert told == ["thud.wav: gone"]
    assert not speaker.mixer.take(10).any()
    speaker.shut()


def test_what_is_to_be_heard_before_it_is_read_is_heard_then(qtbot, themed):
    class FileLibrary:
        def read(self, _name):
            return np.full((200, 2), 0.5, np.float32)

    speaker = Speaker()
    speaker._tried = True  # no device is asked for
    speaker.take(FileLibrary())
    speaker._play("thud.wav", 0.5)
    qtbot.waitUntil(lambda: speaker.mixer.take(10).max() == pytest.approx(0.25), timeout=10_000)
    speaker.mixer.hush()
    speaker.prepare(["thud.wav"])
    speaker._play("thud.wav", 1.0)
    assert speaker.mixer.take(10).max() == pytest.approx(0.5)


def test_a_lost_sound_that_is_brought_in_again_is_heard(qtbot, themed, tmp_path):
    speaker, told = Speaker(), []
    speaker._tried = True  # no device is asked for
    speaker.failed.connect(told.append)
    speaker.take(SoundLibrary(tmp_path), ["thud.wav"])
    qtbot.waitUntil(lambda: isinstance(speaker._known["thud.wav"], str), timeout=10_000)
    speaker._play("thud.wav", 1.0)
    assert len(told) == 1
    (tmp_path / "sounds").mkdir()
    wav(tmp_path / "sounds" / "thud.wav")
    speaker._play("thud.wav", 1.0)
    qtbot.waitUntil(lambda: speaker.mixer.take(10).any(), timeout=10_000)
    assert len(told) == 1
