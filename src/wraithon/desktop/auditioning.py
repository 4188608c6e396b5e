"""Auditions at the desk: which effect shows itself, and the pose it is judged at."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QObject, Signal

from wraithon.project.things import effect_of
from wraithon.studio.audition import NOTHING, AuditionWish, next_moment, position_of

if TYPE_CHECKING:
    from wraithon.desktop.engine.engine import Engine
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Effect
    from wraithon.stage.performance import Performance


class Clock(Protocol):
    """What auditions may ask of the window that plays."""

    @property
    def moment(self) -> float:
        """The show's moment that is seen, in seconds."""

    @property
    def performance(self) -> Performance | None:
        """What the character on stage plays; None without one."""

    def set_playing(self, playing: bool) -> None:
        """Play, or pause."""

    def seek(self, time: float) -> None:
        """Seek to a moment of the show, in seconds."""


class Auditioning(QObject):
    """Has the selected effect show itself again and again, until that is turned off.

    What is selected as a project opens does not: it is the project's own show that is seen first.

    Signals
    -------
    changed
        Another effect shows itself, none does, or it was turned on or off.
    """

    changed = Signal()

    def __init__(self, desk: Clock, session: Session, engine: Engine) -> None:
        super().__init__()
        self._desk, self._session, self._engine = desk, session, engine
        self.on = True
        self._wish = NOTHING
        self._anchor: str | None = None
        """The anchor that was selected last: where an effect is shown that no trigger starts."""
        session.selected.connect(self.follow)

    @property
    def effect(self) -> Effect | None:
        """The effect that shows itself now."""
        return self._session.project.effect(self._wish.effect)

    def position(self, effect_id: str) -> str | None:
        """Return the anchor that an effect shows itself at; None: where the character stands."""
        return position_of(self._session.project, AuditionWish(effect_id, self._anchor))[0]

    def follow(self, kind: str, what: str) -> None:
        """Follow what is selected."""
        project, effect = self._session.project, None
        if kind == "layer" and (found := project.layer(what)):
            effect = found[0]
        elif kind == "effect":
            effect = project.effect(what)
        elif kind == "anchor":
            self._anchor = what
        self._send(AuditionWish(effect.id, self._anchor) if effect is not None and self.on else NOTHING)

    def rest(self) -> None:
        """Audition nothing until something is selected."""
        self._send(NOTHING)

    def toggle(self) -> None:
        """Turn auditions off or on."""
        # One that waits for a choice begins with what is chosen already.
        self.on = not self.on or self._wish == NOTHING
        self.follow(*self._session.selection)
        text = "Auditions are on: the selected effect repeats beside the show"
        self._session.said.emit(text if self.on else "Auditions are off (A turns them on)", "fine")
        self.changed.emit()

    def hold_pose(self) -> None:
        """Go to the pose of the moment that an effect is started by, and stay there while the effect goes on."""
        effect, moment = self.effect or self._chosen(), None
        if effect is not None:
            moment = self._next_moment(effect)
        if effect is not None and moment is None:
            self._session.said.emit(f'No event on the clips starts "{effect.name}": this pose is held', "warning")
        self._desk.set_playing(False)
        if moment is not None:
            self._desk.seek(moment)

    def _chosen(self) -> Effect | None:
        return effect_of(self._session.project, *self._session.selection)

    def _next_moment(self, effect: Effect) -> float | None:
        """Return the show's next moment, in seconds, at which an event starts an effect."""
        performance = self._desk.performance
        if performance is None:
            return None
        return next_moment(self._session.project, performance, effect.id, self._desk.moment)

    def _send(self, wish: AuditionWish) -> None:
        if wish != self._wish:
            self._wish = wish
            self._engine.send(audition=wish)
            self.changed.emit()
