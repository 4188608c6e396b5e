"""The triggers' sheet: the selected trigger or event, in full."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, heading, soft
from wraithon.desktop.widgets.finding_list import FindingList
from wraithon.desktop.widgets.form import Choice, Form, KindChoice, Number, Row, Text, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.master_rows import master_rows
from wraithon.desktop.widgets.offers import anchors_or, effects_or, events_or
from wraithon.desktop.widgets.panels import Sheet
from wraithon.project.character import Event, Mark
from wraithon.project.edit import find_mark
from wraithon.project.trigger import AtStart, OnEvent, StartEffect, Trigger

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.project.base import Model
    from wraithon.project.project import Project

__all__ = ["TriggersSheet"]

ROWS = (
    Row("name", Text("name", "Name of the trigger"), width=92, undo="Rename trigger"),
    Row("", Tick("enabled", text="listens"), undo="Trigger on or off"),
)
MODELS: dict[str, type[Model]] = {"event": OnEvent, "start": AtStart}
WHENS = (("a clip passes an event", "event"), ("the show begins", "start"))
WHEN_ROWS: dict[str, tuple[Row, ...]] = {
    "event": (
        Row(
            "event",
            Choice("event", "Event it waits for", choices=events_or("choose an event")),
            width=92,
            undo="Trigger event",
        ),
    ),
    "start": (),
}
"""Kind of moment to what there is to say about it."""
EVENT_ROWS = (
    Row("name", Text("name", "Name of the event"), width=92, undo="Rename event"),
    Row(
        "belongs to",
        Choice("anchor", "Anchor the event belongs to", choices=anchors_or("no anchor")),
        width=92,
        undo="Event anchor",
    ),
)
MARK_ROWS = (
    Row(
        "this mark at",
        Number("time", "The mark's time on its clip", unit="s", step=1 / 60),
        width=92,
        undo="Move mark",
    ),
)


def _step_rows(nowhere: str) -> tuple[Row, ...]:
    return (
        Row(
            "start",
            Choice("effect", "Effect to start", choices=effects_or("choose an effect")),
            width=92,
            undo="Step",
        ),
        Row("at", Choice("anchor", "Anchor to start it at", choices=anchors_or(nowhere)), width=92, undo="Step"),
        Row(
            "after",
            Number("after", "Seconds after the moment", unit="s", step=0.01),
            Tick("follow", text="moves with the anchor"),
            width=92,
            undo="Step",
        ),
        *master_rows("of what this step starts, on top of the effect's own", "its "),
    )


STEPS = {
    "event": Tupled("response", lambda _step: _step_rows("where the event belongs"), lambda _step: "step"),
    "start": Tupled("response", lambda _step: _step_rows("the character's root"), lambda _step: "step"),
}
"""Kind of moment to how the steps of its response are listed."""


class TriggersSheet(Sheet):
    """The selected trigger or event, in full."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        session = self._session = desk.session
        self._trigger: Trigger | None = None
        self._trigger_box, column = self.box()
        self._build_trigger(column)
        self._event_box, column = self.box()
        self.event_form = Form(session, "event", "", Event, EVENT_ROWS)
        self.mark_form = Form(session, "mark", "", Mark, MARK_ROWS)
        self._event_marks, self._event_users = soft(""), soft("")
        hint = soft(
            "Mark it on the clip below: put the playhead on the moment and press E. "
            "Triggers that wait for it then fire each time the clip passes the flag."
        )
        for widget in (self.event_form, self.mark_form, self._event_marks, self._event_users, hint):
            column.addWidget(widget)
        self.body.addStretch(1)
        self.heed(session)

    def _build_trigger(self, column: QVBoxLayout) -> None:
        session = self._session
        self.form = Form(session, "trigger", "", Trigger, ROWS)
        self.when = KindChoice(session, "trigger", "when", MODELS, WHENS, "When this happens", "Trigger moment")
        self.whens = {
            kind: Form(session, "trigger", "when", model, WHEN_ROWS[kind]) for kind, model in MODELS.items()
        }
        self._marks = soft("")
        self.steps = {kind: ListForm(session, "trigger", t.entries, t.without, 8) for kind, t in STEPS.items()}
        for widget in (
            self.form, heading("When"), self.when, *self.whens.values(), self._marks, heading("Then"),
            *self.steps.values(),
        ):  # fmt: skip
            column.addWidget(widget)
        add = Button(icon("plus"), "Add a step")
        add.clicked.connect(self.add_step)
        column.addWidget(add, 0, Qt.AlignmentFlag.AlignLeft)
        self.findings = FindingList(session)
        column.addWidget(self.findings)

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is selected."""
        kind, what = self._session.selection
        project = self._session.project
        self._trigger = trigger = project.trigger(what) if kind == "trigger" else None
        place = find_mark(project, what) if kind == "mark" else None
        event = project.event(what) if kind == "event" else project.event(place.mark.event) if place else None
        self.mark_form.setVisible(place is not None)
        if place is not None:
            self.mark_form.show_model(place.mark, what)
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
        self.title.setText(trigger.name)
        self.form.show_model(trigger, trigger.id)
        self.when.show_model(trigger.when, trigger.id)
        for kind, form in self.whens.items():
            form.setVisible(kind == trigger.when.kind)
            self.steps[kind].setVisible(kind == trigger.when.kind)
        self.whens[trigger.when.kind].show_model(trigger.when, trigger.id)
        self.steps[trigger.when.kind].show_model(trigger, trigger.id)
        words = _marks_words(self._session.project, trigger.when.event if isinstance(trigger.when, OnEvent) else None)
        self._marks.setText(words)
        self._marks.setVisible(bool(words))
        self.findings.show_findings(f for f in self._session.findings() if f.about == trigger.id)

    def _show_event(self, event: Event) -> None:
        self.title.setText(event.name)
        self.event_form.show_model(event, event.id)
        self._event_marks.setText(_marks_words(self._session.project, event.id))
        waiting = [
            t.name for t in self._session.project.triggers if isinstance(t.when, OnEvent) and t.when.event == event.id
        ]
        self._event_users.setText(
            "Triggers that wait for it: " + ", ".join(waiting)
            if waiting
            else "No trigger waits for it yet: press + above the triggers."
        )

    # ---- doing ----------------------------------------------------------------------------------

    def add_step(self) -> None:
        """Add a step to the response of the selected trigger."""
        if self._trigger is not None:
            listed = STEPS[self._trigger.when.kind]
            self._session.put("trigger", self._trigger.id, *listed.with_another(self._trigger, StartEffect()))


def _marks_words(project: Project, event_id: str | None) -> str:
    use = project.character
    if use is None or event_id is None:
        return ""
    places = [f"{clip.name} {m.time:.2f} s" for clip in use.clips for m in clip.marks if m.event == event_id]
    return "Marked on: " + ", ".join(places) if places else "No clip has a mark of it yet."
