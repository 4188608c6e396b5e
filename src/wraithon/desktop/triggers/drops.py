"""Effects that are dropped on the timeline: event, anchor and trigger are made where they fall."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QDragMoveEvent, QDropEvent
from PySide6.QtWidgets import QToolTip

from wraithon.desktop.timeline.lanes import LEFT
from wraithon.desktop.widgets.trees import dragged_thing
from wraithon.project.things import effect_of
from wraithon.studio.wiring import ClipMoment, spot_at, wired

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk


KINDS = frozenset({QEvent.Type.DragEnter, QEvent.Type.DragMove, QEvent.Type.Drop, QEvent.Type.DragLeave})


class EffectDrops(QObject):
    """Takes effects, and layers for theirs, that are dropped on a timeline."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk.timeline)
        self._desk = desk
        desk.timeline.setAcceptDrops(True)
        desk.timeline.installEventFilter(self)

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Take what is dragged over the timeline; all else goes its way."""
        if event.type() not in KINDS:
            return False
        if isinstance(event, QDropEvent):  # those that enter and move are, too
            self._take_drop(event)
        else:
            QToolTip.hideText()
        return True

    def _take_drop(self, event: QDropEvent) -> None:
        effect, x = self._effect(event), event.position().x()
        spot = self._spot(x) if effect and x >= LEFT else None
        if spot is None:
            event.ignore()
            QToolTip.hideText()
            return
        # Nothing, as far as the list it comes from knows: after a move it would take it away by itself.
        event.setDropAction(Qt.DropAction.IgnoreAction if event.type() is QEvent.Type.Drop else event.dropAction())
        event.accept()
        timeline = self._desk.timeline
        if isinstance(event, QDragMoveEvent):
            text = f"{spot.joint}{' comes down' if spot.lands else ''}: {spot.clip} {spot.time:.2f} s"
            QToolTip.showText(timeline.mapToGlobal(event.position().toPoint()), text, timeline)
        elif event.type() is QEvent.Type.Drop:
            QToolTip.hideText()
            self.wire(effect, spot)

    def _effect(self, event: QDropEvent) -> str:
        """Return the id of the effect that is dragged; empty where it is something else."""
        effect = effect_of(self._desk.session.project, *dragged_thing(event.mimeData()))
        return effect.id if effect else ""

    def _spot(self, x: float) -> ClipMoment | None:
        performance, session = self._desk.performance, self._desk.session
        if performance is None:
            return None
        kind, what = session.selection
        anchor = session.project.anchor(what) if kind == "anchor" else None
        joint = anchor.joint if anchor else what if kind == "joint" else ""
        return spot_at(performance, self._desk.timeline.lanes.time_at(x), session.project.step_rate, joint)

    def wire(self, effect: str, spot: ClipMoment) -> None:
        """Make a trigger that fires an effect at a spot, and go to it."""
        session = self._desk.session
        project, trigger = wired(session.project, effect, spot)
        name = project.effect(effect)
        if trigger and name is not None and session.edit(f"Fire {name.name} there", lambda _: project, final=True):
            self._desk.go_to(trigger)
            where = f"{spot.joint}, at {spot.time:.2f} s of {spot.clip}"
            session.said.emit(f"{name.name} fires at {where}; drag its anchor in the picture", "fine")
