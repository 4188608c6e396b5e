"""The Triggers station: events of the clips and what they fire."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from wraithon.desktop.effects_station import anchor_choices, effect_choices
from wraithon.desktop.fields import (
    Button,
    Check,
    ChoiceField,
    NumberField,
    TextField,
    heading,
    labelled,
    line,
    soft,
    tool,
)
from wraithon.desktop.session import Session
from wraithon.desktop.sheet import Index, Sheet
from wraithon.desktop.theme import RUST, SOFT, TEAL, icon
from wraithon.project.base import new_id
from wraithon.project.character import Event
from wraithon.project.edit import (
    find_mark,
    fresh_name,
    put_event,
    put_mark,
    put_trigger,
    remove_event,
    without_id,
)
from wraithon.project.project import Project
from wraithon.project.trigger import AtStart, OnEvent, StartEffect, Trigger

__all__ = ["TriggersIndex", "TriggersSheet"]

KEY = Qt.ItemDataRole.UserRole


class TriggersIndex(Index):
    """Two lists: triggers, and the events they may wait for."""

    def __init__(self, session: Session) -> None:
        super().__init__("Triggers")
        self._session = session
        self._filling = False
        bar = self.column.itemAt(0).layout()
        for button in (
            tool("plus", "New trigger", self.add_trigger),
            tool("copy", "Duplicate (Ctrl+D)", self.duplicate),
            tool("trash", "Delete (Del)", self.remove),
        ):
            bar.addWidget(button)
        self.triggers = self._list("Triggers", "trigger")
        self.column.addWidget(self.triggers, 3)
        self._no_triggers = soft("No triggers yet. A trigger starts effects when something happens; press +.")
        self.column.addWidget(self._no_triggers)
        self.column.addWidget(line())
        self.column.addLayout(
            self.bar(
                "Events",
                tool("plus", "New event", self.add_event),
                tool("trash", "Delete event", self.remove_event),
            )
        )
        self.events = self._list("Events", "event")
        self.column.addWidget(self.events, 2)
        self._no_events = soft("No events yet. An event is a named moment; mark it on a clip below with E.")
        self.column.addWidget(self._no_events)
        session.changed.connect(self.refresh)
        session.selected.connect(self._follow)
        self.refresh()

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
        self._follow(*self._session.selection)

    def _follow(self, kind: str, what: str) -> None:
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
        """Add a trigger that waits for the first event, and select it."""
        project = self._session.project
        events = project.character.events if project.character else ()
        effect = project.effects[0].id if project.effects else None
        trigger = Trigger(
            name=fresh_name("trigger", (t.name for t in project.triggers)),
            when=OnEvent(event=events[0].id if events else None),
            response=(StartEffect(effect=effect),),
        )
        self._session.edit("New trigger", lambda p: put_trigger(p, trigger))
        self._session.select("trigger", trigger.id)

    def duplicate(self) -> None:
        """Duplicate the selected trigger."""
        kind, what = self._session.selection
        trigger = self._session.project.trigger(what) if kind == "trigger" else None
        if trigger is not None:
            names = (t.name for t in self._session.project.triggers)
            twin = trigger.but(id=new_id(), name=fresh_name(trigger.name, names))
            self._session.edit("Duplicate trigger", lambda p: put_trigger(p, twin))
            self._session.select("trigger", twin.id)

    def remove(self) -> None:
        """Delete the selected trigger, or the selected event."""
        kind, what = self._session.selection
        if kind == "trigger":
            self._session.edit("Delete trigger", lambda p: p.but(triggers=without_id(p.triggers, what)))
            self._session.select("", "")
        elif kind == "event":
            self.remove_event()

    def add_event(self) -> None:
        """Add an event and select it."""
        use = self._session.project.character
        if use is None:
            self._session.said.emit("Bring in a character first: events belong to its clips", "warning")
            return
        event = Event(name=fresh_name("event", (e.name for e in use.events)))
        self._session.edit("New event", lambda p: put_event(p, event))
        self._session.select("event", event.id)

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


class TriggersSheet(Sheet):
    """The selected trigger or event, in full."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._trigger_box, self._event_box = QWidget(), QWidget()
        for box in (self._trigger_box, self._event_box):
            box.setObjectName("panel")
            self.body.addWidget(box)
        self._build_trigger()
        self._build_event()
        self.body.addStretch(1)
        session.changed.connect(self.refresh)
        session.selected.connect(lambda _kind, _what: self.refresh())
        self.refresh()

    def _build_trigger(self) -> None:
        column = QVBoxLayout(self._trigger_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._name = TextField("Name of the trigger")
        self._name.edited.connect(lambda name: self._edit("Rename trigger", name=name))
        self._enabled = Check("listens")
        self._enabled.clicked.connect(lambda on: self._edit("Trigger on or off", enabled=on))
        column.addWidget(labelled("name", self._name))
        column.addWidget(labelled("", self._enabled))
        column.addWidget(heading("When"))
        self._when = ChoiceField((("a clip passes an event", "event"), ("the show begins", "start")), name="When")
        self._when.chosen.connect(self._when_chosen)
        column.addWidget(labelled("this happens", self._when))
        self._event = ChoiceField(name="Event it waits for")
        self._event.chosen.connect(lambda v: self._edit("Trigger event", when=OnEvent(event=v)))
        self._event_row = labelled("event", self._event)
        column.addWidget(self._event_row)
        self._marks = soft("")
        column.addWidget(self._marks)
        column.addWidget(heading("Then"))
        self._steps = QVBoxLayout()
        self._steps.setSpacing(8)
        column.addLayout(self._steps)
        self._step_rows: list[_StepEditor] = []
        add = Button(icon("plus"), "Add a step")
        add.clicked.connect(self._add_step)
        column.addWidget(add, 0, Qt.AlignmentFlag.AlignLeft)
        self._findings = soft("")
        self._findings.setObjectName("warning")
        column.addWidget(self._findings)

    def _build_event(self) -> None:
        column = QVBoxLayout(self._event_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._event_name = TextField("Name of the event")
        self._event_name.edited.connect(lambda name: self._event_edit("Rename event", name=name))
        self._event_anchor = ChoiceField(name="Anchor the event belongs to")
        self._event_anchor.chosen.connect(lambda v: self._event_edit("Event anchor", anchor=v))
        column.addWidget(labelled("name", self._event_name))
        column.addWidget(labelled("belongs to", self._event_anchor))
        self._mark_time = NumberField("s", low=0, high=1e4, step=1 / 60, name="The mark's time on its clip")
        self._mark_time.edited.connect(self._mark_moved)
        self._mark_row = labelled("this mark at", self._mark_time)
        column.addWidget(self._mark_row)
        self._event_marks = soft("")
        column.addWidget(self._event_marks)
        self._event_users = soft("")
        column.addWidget(self._event_users)
        self._event_hint = soft(
            "Mark it on the clip below: put the playhead on the moment and press E. "
            "Triggers that wait for it then fire each time the clip passes the flag."
        )
        column.addWidget(self._event_hint)

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is selected."""
        kind, what = self._session.selection
        project = self._session.project
        trigger = project.trigger(what) if kind == "trigger" else None
        place = find_mark(project, what) if kind == "mark" else None
        event = project.event(what) if kind == "event" else project.event(place.mark.event) if place else None
        self._mark_row.setVisible(place is not None)
        if place is not None:
            self._mark_time.set_value(place.mark.time)
        self._trigger_box.setVisible(trigger is not None)
        self._event_box.setVisible(event is not None)
        self.say("")
        if trigger is not None:
            self._show_trigger(trigger)
        elif event is not None:
            self._show_event(event)
        else:
            self.title.setText("Nothing selected")
            self.say("Choose a trigger or an event on the left. A flag in the score below selects its event, too.")

    def _show_trigger(self, trigger: Trigger) -> None:
        project = self._session.project
        self.title.setText(trigger.name)
        self._name.set_value(trigger.name)
        self._enabled.setChecked(trigger.enabled)
        self._when.set_value(trigger.when.kind)
        events = project.character.events if project.character else ()
        self._event.set_choices([("choose an event", None), *((e.name, e.id) for e in events)])
        waits = trigger.when.kind == "event"
        self._event_row.setVisible(waits)
        self._marks.setVisible(waits)
        event_id = trigger.when.event if trigger.when.kind == "event" else None
        self._event.set_value(event_id)
        self._marks.setText(_marks_words(project, event_id))
        self._show_steps(trigger)
        about = [f.message for f in self._session.findings() if f.about == trigger.id]
        self._findings.setText("\n".join(f"Note: {message}." for message in about))
        self._findings.setVisible(bool(about))

    def _show_steps(self, trigger: Trigger) -> None:
        while len(self._step_rows) > len(trigger.response):
            row = self._step_rows.pop()
            self._steps.removeWidget(row)
            row.hide()
            row.deleteLater()
        while len(self._step_rows) < len(trigger.response):
            row = _StepEditor(self._session, len(self._step_rows))
            row.edited.connect(self._step_edited)
            row.removed.connect(self._remove_step)
            self._step_rows.append(row)
            self._steps.addWidget(row)
        for row, step in zip(self._step_rows, trigger.response, strict=True):
            row.show_step(step, by_event=trigger.when.kind == "event")

    def _show_event(self, event: Event) -> None:
        self.title.setText(event.name)
        self._event_name.set_value(event.name)
        self._event_anchor.set_choices(anchor_choices(self._session, "no anchor"))
        self._event_anchor.set_value(event.anchor)
        self._event_marks.setText(_marks_words(self._session.project, event.id))
        waiting = [
            t.name for t in self._session.project.triggers if t.when.kind == "event" and t.when.event == event.id
        ]
        self._event_users.setText(
            "Triggers that wait for it: " + ", ".join(waiting)
            if waiting
            else "No trigger waits for it yet: press + above the triggers."
        )

    # ---- doing ----------------------------------------------------------------------------------

    def _edit(self, words: str, final: bool = True, **changes: object) -> None:
        kind, what = self._session.selection
        if kind != "trigger":
            return

        def change(project: Project) -> Project:
            trigger = project.trigger(what)
            return put_trigger(project, trigger.but(**changes)) if trigger else project

        self._session.edit(words, change, merge=f"{words} {what}")
        if final:
            self._session.history.seal()

    def _event_edit(self, words: str, **changes: object) -> None:
        kind, what = self._session.selection
        project = self._session.project
        place = find_mark(project, what) if kind == "mark" else None
        event = project.event(what) if kind == "event" else project.event(place.mark.event) if place else None
        if event is not None:
            self._session.edit(words, lambda p: put_event(p, event.but(**changes)))

    def _mark_moved(self, time: float, final: bool) -> None:
        place = find_mark(self._session.project, self._session.selection[1])
        if place is not None:
            moved = place.mark.but(time=round(time, 4))
            self._session.edit("Move mark", lambda p: put_mark(p, place.clip, moved), merge=f"move {moved.id}")
            if final:
                self._session.history.seal()

    def _when_chosen(self, kind: object) -> None:
        self._edit("Trigger moment", when=AtStart() if kind == "start" else OnEvent())

    def _response(self) -> list[StartEffect]:
        trigger = self._session.project.trigger(self._session.selection[1])
        return list(trigger.response) if trigger else []

    def _add_step(self) -> None:
        self._edit("Add step", response=(*self._response(), StartEffect()))

    def _remove_step(self, index: int) -> None:
        response = self._response()
        del response[index]
        self._edit("Remove step", response=tuple(response))

    def _step_edited(self, index: int, step: StartEffect, final: bool) -> None:
        response = self._response()
        response[index] = step
        self._edit("Step", final, response=tuple(response))


def _marks_words(project: Project, event_id: str | None) -> str:
    use = project.character
    if use is None or event_id is None:
        return ""
    places = [f"{clip.name} {m.time:.2f} s" for clip in use.clips for m in clip.marks if m.event == event_id]
    return "Marked on: " + ", ".join(places) if places else "No clip has a mark of it yet."


class _StepEditor(QWidget):
    """One step of a response: start an effect at an anchor."""

    edited = Signal(int, object, bool)
    removed = Signal(int)

    def __init__(self, session: Session, index: int) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._session, self._index, self._step = session, index, StartEffect()
        self._effect = ChoiceField(name="Effect to start")
        self._effect.chosen.connect(lambda v: self._change(True, effect=v))
        self._anchor = ChoiceField(name="Anchor to start it at")
        self._anchor.chosen.connect(lambda v: self._change(True, anchor=v))
        self._after = NumberField("s", low=0, high=1e4, step=0.01, name="Seconds after the moment")
        self._after.edited.connect(lambda v, f: self._change(f, after=v))
        self._follow = Check("moves with the anchor")
        self._follow.clicked.connect(lambda on: self._change(True, follow=on))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        remove = tool("x", "Remove this step", lambda: self.removed.emit(self._index))
        column.addWidget(labelled("start", self._effect, remove))
        column.addWidget(labelled("at", self._anchor))
        column.addWidget(labelled("after", self._after, self._follow))

    def show_step(self, step: StartEffect, *, by_event: bool) -> None:
        """Show a step."""
        self._step = step
        self._effect.set_choices(effect_choices(self._session))
        self._effect.set_value(step.effect)
        nowhere = "where the event belongs" if by_event else "the character's root"
        self._anchor.set_choices(anchor_choices(self._session, nowhere))
        self._anchor.set_value(step.anchor)
        self._after.set_value(step.after)
        self._follow.setChecked(step.follow)

    def _change(self, final: bool, **changes: object) -> None:
        self._step = self._step.but(**changes)
        self.edited.emit(self._index, self._step, final)
