"""The triggers' index: two lists, triggers and the events they may wait for."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QBrush, QColor
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QMenu

from wraithon.character.moments.peaks import KINDS as MOMENTS
from wraithon.desktop.theme.colours import RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.timeline.marks import chosen_event, duplicate_mark
from wraithon.desktop.widgets.basics import line, soft, tool
from wraithon.desktop.widgets.panels import Index
from wraithon.project.base import new_id
from wraithon.project.character import Event
from wraithon.project.edit import fresh_name, remove_event, with_event, with_trigger, without_id
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import OnEvent
from wraithon.project.things import effect_of
from wraithon.project.trigger import Trigger
from wraithon.studio.moments import FEET, found_moments

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.timeline.found_lane import FoundLane
    from wraithon.project.character import Anchor
    from wraithon.project.effect import Effect


KEY = Qt.ItemDataRole.UserRole
FLASH = 0.3
"""Seconds of the show that the row of a trigger is lit for once it has responded."""
SAID = 1.2
"""Seconds of the show that its row says why a trigger did not respond."""
LIT = "#5a3324"


class TriggersIndex(Index):
    """Two lists: triggers, and the events they may wait for."""

    def __init__(self, desk: Desk, lane: FoundLane) -> None:
        super().__init__("Triggers")
        session = desk.session
        self._desk, self._session, self._timeline, self._lane = desk, session, desk.timeline, lane
        self.menu = QMenu(self)
        self.search = tool("magnifying-glass", "Find moments on the clips: feet, strikes, extremes", self._ask)
        self._filling = False
        self._lit: set[str] = set()
        """Triggers whose rows are lit."""
        self._refused: dict[str, str] = {}
        """Triggers whose rows say why they did not respond."""
        for button in (
            tool("plus", "New trigger", self.add_trigger),
            tool("copy", "Duplicate (Ctrl+D)", self.duplicate),
            tool("trash", "Delete (Del)", self.remove),
        ):
            self.head.addWidget(button)
        self.triggers = self._list("Triggers", "trigger")
        self.column.addWidget(self.triggers, 3)
        self._no_triggers = soft("No triggers yet. A trigger starts effects when something happens; press +.")
        self.column.addWidget(self._no_triggers)
        self.column.addWidget(line())
        self.column.addLayout(
            self.bar(
                "Events",
                self.search,
                tool("plus", "New event", self.add_event),
                tool("trash", "Delete event", self.remove_event),
            )
        )
        self.events = self._list("Events", "event")
        self.column.addWidget(self.events, 2)
        self._no_events = soft("No events yet. An event is a named moment; mark it on a clip below with E.")
        self.column.addWidget(self._no_events)
        self.listen_to(session)

    def _list(self, name: str, kind: str) -> QListWidget:
        widget = QListWidget()
        widget.setAccessibleName(name)
        widget.setIconSize(QSize(15, 15))
        widget.currentItemChanged.connect(lambda item, _before: self._picked(kind, item))
        widget.itemClicked.connect(lambda item: self._session.select(kind, str(item.data(KEY))))
        return widget

    def _picked(self, kind: str, item: QListWidgetItem | None) -> None:
        if item is not None and not self._filling:
            self._session.select(kind, str(item.data(KEY)))

    def refresh(self) -> None:
        """Show the project's triggers and events."""
        self._filling = True
        project = self._session.project
        use = project.character
        rows = [
            (t.id, t.name, "lightning" if t.enabled else "lightning-slash", RUST if t.enabled else SOFT)
            for t in project.triggers
        ]
        _fill(self.triggers, rows)
        events = use.events if use else ()
        _fill(self.events, [(e.id, e.name, "flag", TEAL) for e in events])
        self._no_triggers.setVisible(not project.triggers)
        self._no_events.setVisible(not events)
        self._filling = False
        self.follow(*self._session.selection)

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Highlight the rows of triggers that have just responded."""
        lit = {r.trigger for r in rendered.triggers.responses if 0 <= rendered.time - r.time < FLASH}
        refused = {r.trigger: r.reason for r in rendered.triggers.refusals if 0 <= rendered.time - r.time < SAID}
        if (lit, refused) == (self._lit, self._refused):
            return
        self._lit, self._refused = lit, refused
        for k in range(self.triggers.count()):
            item = self.triggers.item(k)
            key = str(item.data(KEY))
            item.setBackground(QColor(LIT) if key in lit else QBrush())
            trigger = self._session.project.trigger(key)
            if trigger is not None:
                text = f"{trigger.name}: {refused[key]}" if key in refused and key not in lit else trigger.name
                item.setText(text)
                item.setToolTip(text)
                item.setForeground(QColor(SOFT) if text != trigger.name else QBrush())

    def follow(self, kind: str, what: str) -> None:
        """Show what is selected."""
        self._filling = True
        for name, widget in (("trigger", self.triggers), ("event", self.events)):
            if kind != name:
                widget.clearSelection()
                widget.setCurrentRow(-1)
                continue
            for k in range(widget.count()):
                if widget.item(k).data(KEY) == what:
                    widget.setCurrentRow(k)
        self._filling = False

    # ---- doing ----------------------------------------------------------------------------------

    def add_trigger(self) -> None:
        """Add a trigger that starts the selected effect at the selected anchor on the selected event; select it.

        Where no effect or event is selected it is the first one, and where no anchor is, that of the event.
        """
        project = self._session.project
        events = project.character.events if project.character else ()
        event, anchor = chosen_event(self._session) or (events[0] if events else None), self._anchor()
        effect = self._effect() or (project.effects[0] if project.effects else None)
        own = anchor is None or (event is not None and event.anchor == anchor.id)
        start = StartEffect(effect=effect.id if effect else None, anchor=None if own or anchor is None else anchor.id)
        trigger = Trigger(
            name=fresh_name("trigger", (t.name for t in project.triggers)),
            when=OnEvent(event=event.id if event else None),
            response=(start,),
        )
        self._session.edit("New trigger", lambda p: with_trigger(p, trigger))
        self._session.select("trigger", trigger.id)

    def _effect(self) -> Effect | None:
        """Return the effect that is selected among the effects, by itself or by a layer."""
        return effect_of(self._session.project, *self._desk.selected_at("effects"))

    def _anchor(self) -> Anchor | None:
        """Return the anchor that is selected on the character."""
        kind, what = self._desk.selected_at("character")
        return self._session.project.anchor(what) if kind == "anchor" else None

    def duplicate(self) -> None:
        """Duplicate the selected trigger or mark."""
        kind, what = self._session.selection
        if kind == "mark":
            duplicate_mark(self._session)
        trigger = self._session.project.trigger(what) if kind == "trigger" else None
        if trigger is not None:
            names = (t.name for t in self._session.project.triggers)
            twin = trigger.evolve(id=new_id(), name=fresh_name(trigger.name, names))
            self._session.edit("Duplicate trigger", lambda p: with_trigger(p, twin))
            self._session.select("trigger", twin.id)

    def remove(self) -> None:
        """Delete the selected trigger, event or mark."""
        kind, what = self._session.selection
        if kind == "trigger":
            self._session.edit("Delete trigger", lambda p: p.evolve(triggers=without_id(p.triggers, what)))
            self._session.select("", "")
        elif kind == "event":
            self.remove_event()
        elif kind == "mark":
            self._timeline.remove_selected()

    def add_event(self) -> None:
        """Add an event and select it."""
        use = self._session.project.character
        if use is None:
            self._session.said.emit("Import a character first: events belong to its clips", "warning")
            return
        event = Event(name=fresh_name("event", (e.name for e in use.events)))
        self._session.edit("New event", lambda p: with_event(p, event))
        self._session.select("event", event.id)

    def _ask(self) -> None:
        self.fill_menu()
        self.menu.popup(self.search.mapToGlobal(self.search.rect().bottomLeft()))

    def fill_menu(self) -> None:
        """List what may be found: of feet at once, of a joint by its name, those with anchors first."""
        self.menu.clear()
        character, use = self._session.character, self._session.project.character
        known = character.skeleton.joint_names if character is not None else ()
        placed = [anchor.joint for anchor in use.anchors if anchor.joint in known] if use else []
        for kind, text in MOMENTS.items():
            if kind in FEET:
                self.menu.addAction(f"Where {text}", partial(self.find_moments, kind, ""))
                continue
            menu = self.menu.addMenu(f"Where a joint {text}")
            for joint in dict.fromkeys((*placed, *known)):
                menu.addAction(joint, partial(self.find_moments, kind, joint))

    def find_moments(self, kind: str, joint: str) -> None:
        """Find moments on the clips, and offer them in the timeline."""
        character = self._session.character
        if character is None:
            self._session.said.emit("Import a character first: moments are found on its clips", "warning")
            return
        found = found_moments(self._session.project, character, kind, joint)
        self._lane.show_found(found)
        if not found:
            what = f"where {MOMENTS[kind]}" if not joint else f"where {joint} {MOMENTS[kind]}"
            self._session.said.emit(f"Found no moment {what} that is not marked already", "warning")

    def remove_event(self) -> None:
        """Delete the selected event with its marks."""
        kind, what = self._session.selection
        if kind == "event":
            self._session.edit("Delete event", lambda p: remove_event(p, what))
            self._session.select("", "")


def _fill(widget: QListWidget, rows: list[tuple[str, str, str, str]]) -> None:
    if [str(widget.item(k).data(KEY)) for k in range(widget.count())] != [row[0] for row in rows]:
        widget.clear()
        for key, _, _, _ in rows:
            item = QListWidgetItem()
            item.setData(KEY, key)
            widget.addItem(item)
    for k, (_, name, picture, colour) in enumerate(rows):
        widget.item(k).setText(name)
        widget.item(k).setIcon(icon(picture, colour))
