"""Playing: what the window's commands ask of the engine's clock."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.things import anchor_for
from wraithon.stage.performance import Performance

if TYPE_CHECKING:
    from wraithon.desktop.auditioning import Auditioning
    from wraithon.desktop.engine.engine import Engine
    from wraithon.desktop.picture.picture_view import PictureView
    from wraithon.desktop.rehearse.keys import DrivingKeys
    from wraithon.desktop.session.session import Session
    from wraithon.desktop.timeline.timeline import Timeline
    from wraithon.desktop.transport import Transport


MEASURED = 5.0
"""Seconds of a show without a character whose cost is measured."""


class Plays:
    """A window that plays: its part of commands that the transport, the timeline and the stations share."""

    session: Session
    engine: Engine
    transport: Transport
    timeline: Timeline
    auditioning: Auditioning
    picture: PictureView
    keys: DrivingKeys
    playing: bool
    _played = False
    """Whether it played when the character began to be driven."""

    @property
    def moment(self) -> float:
        """The show's moment that is seen, in seconds."""
        return self.timeline.time

    @property
    def performance(self) -> Performance | None:
        """What the character on stage plays; None without one."""
        use, character = self.session.project.character, self.session.character
        return Performance(character, use, self.session.project.stage) if use and character else None

    def set_tempo(self, tempo: float) -> None:
        """Play at a share of the show's own speed."""
        self.engine.send(tempo=tempo)

    def play_round(self, start: float, end: float) -> None:
        """Play what lies between two moments round and round; on to the end when they are the same."""
        self.engine.send(round=(start, end))

    def slower(self) -> None:
        """Play at half the speed of now."""
        self.transport.shift_tempo(1)

    def faster(self) -> None:
        """Play at twice the speed of now, up to the show's own."""
        self.transport.shift_tempo(-1)

    def toggle_play(self) -> None:
        """Play or pause."""
        self.set_playing(not self.playing)

    def set_playing(self, playing: bool) -> None:
        """Play, or pause."""
        self.playing = playing
        self.transport.show_playing(playing)
        self.engine.send(playing=playing, redraw=True)

    def play_on(self) -> None:
        """Play, where it rests."""
        if not self.playing:
            self.set_playing(True)

    def hit(self, part: str, position: tuple[float, float, float]) -> None:
        """Hit the character on a part, at a place of the world."""
        self.engine.give("hit", part, position)
        self.play_on()

    def restart(self) -> None:
        """Begin again, and forget all that was done by hand."""
        self.keys.release()
        self.engine.give("restart")
        self.engine.send(redraw=True)

    def rehearse(self, *, on: bool) -> None:
        """Let the keys drive the character from now on, or go back to the running order, which plays if it did."""
        if on != self.keys.on:
            self.keys.switch(on=on)
            self.engine.send(drive=on, redraw=True)
            if on:
                self._played = self.playing
                self.set_playing(True)
                self.picture.setFocus()
            else:
                self.set_playing(self._played)

    def seek(self, time: float) -> None:
        """Seek to a moment of the show, in seconds; playing goes on from there."""
        self.engine.send(seek=time)

    def rewind(self) -> None:
        """Rewind to the beginning."""
        self.seek(0.0)

    def step_back(self) -> None:
        """Pause, and go a step back."""
        self.step(-1)

    def step_on(self) -> None:
        """Pause, and go a step on."""
        self.step(1)

    def step(self, count: int) -> None:
        """Pause, and go some steps on or back."""
        self.set_playing(False)
        self.engine.step(count)

    def measure_cost(self) -> None:
        """Measure what the show costs, from its start to the end of its running order."""
        self.set_playing(False)
        performance = self.performance
        self.engine.send(measure=performance.period if performance else MEASURED)

    def respond(self, trigger_id: str, strength: float = 1.0, ground: str = "") -> None:
        """Fire a trigger now, with a share of all strength and as on a kind of ground, and play."""
        self.engine.give("respond", trigger_id, strength, ground)
        self.play_on()

    def fire(self, effect_id: str, anchor: str | None = None) -> None:
        """Start an effect now, at an anchor or where its first trigger would, and play."""
        self.engine.give("fire", effect_id, anchor or anchor_for(self.session.project, effect_id))
        self.play_on()
