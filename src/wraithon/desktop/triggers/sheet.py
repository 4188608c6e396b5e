"""The triggers' sheet: the selected trigger or event, in full."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu, QVBoxLayout, QWidget

from wraithon.desktop.character.anchor_editor import move_anchor
from wraithon.desktop.picture.anchor_gizmo import AnchorGizmo
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.triggers.action_lane import ActionLane
from wraithon.desktop.triggers.action_rows import ACTION_KINDS, ACTIONS, new_action
from wraithon.desktop.triggers.rows import (
    OFTEN_ROWS,
    ONLY_ROWS,
    STRENGTH_ROWS,
    WHEN_CHOICES,
    WHEN_ROWS,
)
from wraithon.desktop.triggers.trying import Trying
from wraithon.desktop.widgets.ahead import polished
from wraithon.desktop.widgets.basics import Button, column_of, counted, heading, soft
from wraithon.desktop.widgets.finding_list import FindingList
from wraithon.desktop.widgets.form import Choice, Form, KindChoice, Number, Row, Text, Tick
from wraithon.desktop.widgets.list_form import ListForm
from wraithon.desktop.widgets.offers import anchors_or
from wraithon.desktop.widgets.on_demand import OnDemand
from wraithon.desktop.widgets.panels import Sheet
from wraithon.project.character import Event, Mark
from wraithon.project.edit import find_mark
from wraithon.project.staging.trigger_kinds import TRIGGER_MODELS, OnEvent
from wraithon.project.things import anchors_of
from wraithon.project.trigger import Trigger
from wraithon.stage.overlays import Overlay
from wraithon.studio.sentence import sentence
from wraithon.studio.wiring import mirrored_event

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from wraithon.desktop.desk import Desk
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.picture.picture_tools import PictureTool
    from wraithon.project.project import Project
    from wraithon.project.staging.actions import Action


ROWS = (
    Row("name", Text("name"), width=92, undo="Rename trigger"),
    Row("", Tick("enabled", text="enabled"), undo="Trigger on or off"),
)
EVENT_ROWS = (
    Row("name", Text("name"), width=92, undo="Rename event"),
    Row(
        "belongs to",
        Choice("anchor", choices=anchors_or("no anchor")),
        width=92,
        undo="Event anchor",
    ),
)
MARK_ROWS = (
    Row(
        "this mark at",
        Number("time", "The mark's time on its clip"),
        width=92,
        undo="Move mark",
    ),
)


class TriggersSheet(Sheet):
    """The selected trigger or event, in full."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        session = self._session = desk.session
        self._trigger: Trigger | None = None
        self._anchor_gizmo = AnchorGizmo()
        self._anchor_gizmo.changed.connect(lambda anchor, final: move_anchor(session, anchor, final=final))
        self._trigger_box, self._trigger_column = self.box()
        self._event_box, self._event_column = self.box()
        self._unmade = [self._build_trigger, self._build_event]
        self.body.addStretch(1)
        self.listen_to(session, late=True)

    def _build_event(self) -> None:
        session, column = self._session, self._event_column
        self.event_form = Form(session, "event", "", Event, EVENT_ROWS)
        self.mark_form = Form(session, "mark", "", Mark, MARK_ROWS)
        self._event_marks, self._event_users = soft(""), soft("")
        hint = soft(
            "Mark it on the clip below: put the playhead on the moment and press E. "
            "Triggers that wait for it then fire each time the clip passes the flag."
        )
        self.mirror = Button(icon("arrows-left-right"), "Mirror to the other side")
        self.mirror.setToolTip(
            "Makes its anchor, marks (in loops half a cycle later) and triggers for the other side"
        )
        self.mirror.clicked.connect(self.mirror_event)
        for widget in (self.event_form, self.mark_form, self._event_marks, self._event_users, hint):
            column.addWidget(widget)
        column.addWidget(self.mirror, 0, Qt.AlignmentFlag.AlignLeft)
        polished(self._event_box)

    def _build_trigger(self) -> None:
        session, column = self._session, self._trigger_column
        self.form = Form(session, "trigger", "", Trigger, ROWS)
        self.when = KindChoice(
            session, "trigger", "when", TRIGGER_MODELS, WHEN_CHOICES, "When this happens", "Trigger moment"
        )
        self._kind_forms_box = QWidget()
        room = column_of(self._kind_forms_box)
        self.kind_forms = OnDemand(lambda kind: self._when_form(room, kind))
        self._marks, self._sentence, self._answer = soft(""), soft(""), soft("")
        self.only = Form(session, "trigger", "", Trigger, ONLY_ROWS)
        self.often = Form(session, "trigger", "", Trigger, OFTEN_ROWS)
        self.strength = Form(session, "trigger", "", Trigger, STRENGTH_ROWS)
        self.lane = ActionLane(session)
        self.action_list = ListForm(session, "trigger", ACTIONS.entries, ACTIONS.without, 8)
        self.trying = Trying(self._desk)
        for widget in (
            self.form, self._sentence, self._answer, self.trying, heading("When"), self.when, self._kind_forms_box,
            self._marks, heading("Only if"), self.only, heading("How often"), self.often, heading("How strongly"),
            self.strength, heading("Then"), self.lane, self.action_list,
        ):  # fmt: skip
            column.addWidget(widget)
        self.add = Button(icon("plus"), "Add an action")
        self.add_menu = QMenu(self)
        for text, make in ACTION_KINDS:
            self.add_menu.addAction(text, partial(self._add_made, make))
        self.add.setMenu(self.add_menu)
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        self.findings = FindingList(session)
        column.addWidget(self.findings)
        polished(self._trigger_box)

    def _when_form(self, room: QVBoxLayout, kind: str) -> Form:
        form = Form(self._session, "trigger", "when", TRIGGER_MODELS[kind], WHEN_ROWS[kind])
        form.hide()
        room.addWidget(form)
        return form

    def _add_made(self, make: Callable[[], Action]) -> None:
        self.add_action(new_action(make))

    def _built(self) -> Iterator[object]:
        """Make what there is not yet, a part at each turn."""
        while self._unmade:
            yield self._unmade.pop(0)()

    def ahead(self) -> Iterator[object]:
        """Make the forms that the project's triggers need."""
        yield from self._built()
        for trigger in self._session.project.triggers:
            yield from self.kind_forms.ahead(trigger.when.kind)
            yield from self.action_list.ahead(trigger)

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is selected."""
        for _ in self._built():
            pass
        kind, what = self._session.selection
        project = self._session.project
        self._trigger = trigger = project.trigger(what) if kind == "trigger" else None
        position = find_mark(project, what) if kind == "mark" else None
        event = project.event(what) if kind == "event" else project.event(position.mark.event) if position else None
        self.mark_form.setVisible(position is not None)
        if position is not None:
            self.mark_form.show_model(position.mark, what)
        self._trigger_box.setVisible(trigger is not None)
        self._event_box.setVisible(event is not None)
        self.show_message("")
        if trigger is not None:
            self._show_trigger(trigger)
        elif event is not None:
            self._show_event(event)
        else:
            self.title.setText("Nothing selected")
            self.show_message(
                "Choose a trigger or an event on the left. A flag in the timeline below selects its event, too."
            )

    def _show_trigger(self, trigger: Trigger) -> None:
        self.title.setText(trigger.name)
        self.form.show_model(trigger, trigger.id)
        self._sentence.setText(sentence(self._session.project, trigger))
        rendered = self._desk.picture.rendered
        self._answer.setText(_answered(trigger, rendered) if rendered is not None else "")
        self.only.show_model(trigger, trigger.id)
        self.often.show_model(trigger, trigger.id)
        self.when.show_model(trigger.when, trigger.id)
        self.strength.show_model(trigger, trigger.id)
        self.kind_forms[trigger.when.kind].show_model(trigger.when, trigger.id)
        for kind, form in self.kind_forms.items():
            form.setVisible(kind == trigger.when.kind)
        self.lane.show_trigger(trigger)
        self.action_list.show_model(trigger, trigger.id)
        text = _marks_text(self._session.project, trigger.when.event if isinstance(trigger.when, OnEvent) else None)
        self._marks.setText(text)
        self._marks.setVisible(bool(text))
        self.findings.show_findings(f for f in self._session.findings() if f.about == trigger.id)

    def _show_event(self, event: Event) -> None:
        self.title.setText(event.name)
        self.event_form.show_model(event, event.id)
        self._event_marks.setText(_marks_text(self._session.project, event.id))
        waiting = [
            t.name for t in self._session.project.triggers if isinstance(t.when, OnEvent) and t.when.event == event.id
        ]
        self._event_users.setText(
            "Triggers that wait for it: " + ", ".join(waiting)
            if waiting
            else "No trigger waits for it yet: press + above the triggers."
        )

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Show how often the trigger has responded by now, and why it did not the last time."""
        trigger = self._trigger
        if trigger is not None:
            self._answer.setText(_answered(trigger, rendered))

    # ---- in the picture -------------------------------------------------------------------------

    @property
    def hands(self) -> list[PictureTool]:
        """The handles of the anchor that the selected trigger or event has."""
        return [self._anchor_gizmo]

    def overlay(self) -> Overlay:
        """Ready the handles for what is selected."""
        use = self._session.project.character
        self._anchor_gizmo.anchor = next(iter(anchors_of(self._session.project, *self._position())), None)
        self._anchor_gizmo.scale = use.scale if use else 1.0
        return Overlay()

    def _position(self) -> tuple[str, str]:
        """Return kind and id of what has the anchor that is at hand."""
        kind, what = self._session.selection
        trigger, position = self._session.project.trigger(what), find_mark(self._session.project, what)
        if kind == "trigger" and trigger is not None and isinstance(trigger.when, OnEvent):
            named = any(action.anchor is not None for action in trigger.about)
            return (kind, what) if named else ("event", trigger.when.event or "")
        return ("event", position.mark.event) if kind == "mark" and position else (kind, what)

    # ---- doing ----------------------------------------------------------------------------------

    def mirror_event(self) -> None:
        """Make the selected event for the other side, too, with all that goes with it."""
        session = self._session
        what, character = self._position()[1], session.character
        event = session.project.event(what)
        if event is None or character is None:
            return
        project, twin = mirrored_event(session.project, character, what)
        if not twin:
            session.said.emit(_mirrored_text(event.name), "warning")
        elif session.edit(f"Mirror {event.name}", lambda _: project, final=True):
            session.select("event", twin)

    def add_action(self, action: Action) -> None:
        """Add an action to the response of the selected trigger."""
        if self._trigger is not None:
            self._session.set_value("trigger", self._trigger.id, *ACTIONS.with_another(self._trigger, action))


def _mirrored_text(name: str) -> str:
    return f"{name} is on no side: give it an anchor on a joint that has another one across"


def _answered(trigger: Trigger, rendered: RenderedFrame) -> str:
    """Return how often a trigger has responded by a picture's moment, and why it did not the last time."""
    state = rendered.triggers.states.get(trigger.id)
    fired = state.fired if state else 0
    text = f"Responded {counted(fired, 'time')} so far" + (
        f", last at {state.last:.2f} s." if state and fired else "."
    )
    refused = next((r for r in reversed(rendered.triggers.refusals) if r.trigger == trigger.id), None)
    return f"{text} Refused at {refused.time:.2f} s: {refused.reason}." if refused else text


def _marks_text(project: Project, event_id: str | None) -> str:
    use = project.character
    if use is None or event_id is None:
        return ""
    positions = [f"{clip.name} {m.time:.2f} s" for clip in use.clips for m in clip.marks if m.event == event_id]
    return "Marked on: " + ", ".join(positions) if positions else "No clip has a mark of it yet."
