"""The triggers' sheet: the selected trigger or event, in full."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from wraithon.desktop.character.anchor_editor import put_moved
from wraithon.desktop.picture.anchor_hand import AnchorHand
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, counted, heading, soft
from wraithon.desktop.widgets.finding_list import FindingList
from wraithon.desktop.widgets.form import Choice, Form, KindChoice, Names, Number, Row, Switch, Text, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.master_rows import master_rows
from wraithon.desktop.widgets.offers import anchors_or, clip_names, effects_or, events_or
from wraithon.desktop.widgets.panels import Sheet
from wraithon.project.character import Event, Mark
from wraithon.project.edit import find_mark
from wraithon.project.staging.steps import StartEffect, StopEffect
from wraithon.project.staging.whens import AtStart, EveryMetres, EverySeconds, Never, OnEvent
from wraithon.project.things import anchors_of
from wraithon.project.trigger import Trigger
from wraithon.stage.overlays import Overlay
from wraithon.studio.sentence import sentence
from wraithon.studio.wiring import mirrored_event

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.desktop.engine.shot import Shot
    from wraithon.desktop.picture.hands import Hand
    from wraithon.project.base import Model
    from wraithon.project.project import Project
    from wraithon.project.staging.steps import Step

__all__ = ["TriggersSheet"]

ROWS = (
    Row("name", Text("name", "Name of the trigger"), width=92, undo="Rename trigger"),
    Row("", Tick("enabled", text="listens"), undo="Trigger on or off"),
)
MODELS: dict[str, type[Model]] = {
    "event": OnEvent, "start": AtStart, "seconds": EverySeconds, "metres": EveryMetres, "never": Never,
}  # fmt: skip
WHENS = (
    ("a clip passes an event", "event"),
    ("the show begins", "start"),
    ("again and again, after so long", "seconds"),
    ("again and again, after so far", "metres"),
    ("never by itself", "never"),
)
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
    "seconds": (Row("every", Number("seconds", "How long from one to the next", unit="s", step=0.1), width=92),),
    "metres": (Row("every", Number("metres", "How far the character goes between", unit="m", step=0.1), width=92),),
    "never": (),
}
"""Kind of moment to what there is to say about it."""
ONLY_ROWS = (
    Row(
        "while", Names("only.clips", "Only while one of these clips plays; none ticked means any", choices=clip_names,
                       columns=3),
        width=92, undo="Only while clips play",
    ),
    Row(
        "speed from",
        Number("only.slowest", "Only when the character goes at least so fast", unit="m/s", step=0.1),
        Switch("only.fastest", "Whether it may be too fast", text="up to", on=3.0),
        Number("only.fastest", "Only when the character goes no faster", unit="m/s", step=0.1,
               shows=lambda trigger: trigger is not None and trigger.only.fastest is not None),
        width=92, undo="Only at speeds",
    ),
    Row(
        "chance", Number("only.chance", "How likely it is each time", unit="%", factor=100, step=5, decimals=0),
        width=92, undo="Chance of the trigger",
    ),
)  # fmt: skip
OFTEN_ROWS = (
    Row("every", Number("often.every", "It responds to the first, and then to every so-manieth", unit="th"), width=92,
        undo="How often"),
    Row(
        "cool-down",
        Number("often.cool_down", "No sooner than so long after the last time", unit="s", step=0.05),
        Number("often.jitter", "How much longer or shorter that is by chance", lead="±", unit="%", factor=100, step=5,
               decimals=0, idle=lambda trigger: "" if trigger.often.cool_down else "there is no cool-down"),
        width=92, undo="Cool-down",
    ),
    Row(
        "at most", Switch("often.times", "Whether there is an end to it", text="in all", on=1),
        Number("often.times", "How often in all", unit="times",
               shows=lambda trigger: trigger is not None and trigger.often.times is not None),
        Switch("often.alive", "Whether it waits while enough of what it started lives", text="alive", on=1),
        Number("often.alive", "How many firings of its own may live at once",
               shows=lambda trigger: trigger is not None and trigger.often.alive is not None),
        width=92, undo="How often",
    ),
)  # fmt: skip
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


STOP_ROWS = (
    Row("stop", Choice("effect", "What is to bear no more", choices=effects_or("choose an effect")), width=92,
        undo="Step"),
    Row("at", Choice("anchor", "Only those that are fired there", choices=anchors_or("any anchor")), width=92,
        undo="Step"),
    Row("after", Number("after", "Seconds after the moment", unit="s", step=0.01), width=92, undo="Step"),
)  # fmt: skip


def _listed(nowhere: str) -> Tupled:
    return Tupled(
        "response",
        lambda step: STOP_ROWS if isinstance(step, StopEffect) else _step_rows(nowhere),
        lambda step: "stop" if isinstance(step, StopEffect) else "step",
    )


STEPS = {kind: _listed("where the event belongs" if kind == "event" else "the character's root") for kind in MODELS}
"""Kind of moment to how the steps of its response are listed."""


class TriggersSheet(Sheet):
    """The selected trigger or event, in full."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        session = self._session = desk.session
        self._trigger: Trigger | None = None
        self._anchor_hand = AnchorHand()
        self._anchor_hand.changed.connect(lambda anchor, final: put_moved(session, anchor, final=final))
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
        self.mirror = Button(icon("arrows-left-right"), "Mirror to the other side")
        self.mirror.setToolTip("Make its anchor, marks (in loops half a round later) and triggers for the other side")
        self.mirror.clicked.connect(self.mirror_event)
        for widget in (self.event_form, self.mark_form, self._event_marks, self._event_users, hint):
            column.addWidget(widget)
        column.addWidget(self.mirror, 0, Qt.AlignmentFlag.AlignLeft)
        self.body.addStretch(1)
        self.heed(session)

    def _build_trigger(self, column: QVBoxLayout) -> None:
        session = self._session
        self.form = Form(session, "trigger", "", Trigger, ROWS)
        self.when = KindChoice(session, "trigger", "when", MODELS, WHENS, "When this happens", "Trigger moment")
        self.whens = {
            kind: Form(session, "trigger", "when", model, WHEN_ROWS[kind]) for kind, model in MODELS.items()
        }
        self._marks, self._sentence, self._answer = soft(""), soft(""), soft("")
        self.only = Form(session, "trigger", "", Trigger, ONLY_ROWS)
        self.often = Form(session, "trigger", "", Trigger, OFTEN_ROWS)
        self.steps = {kind: ListForm(session, "trigger", t.entries, t.without, 8) for kind, t in STEPS.items()}
        for widget in (
            self.form, self._sentence, self._answer, heading("When"), self.when, *self.whens.values(), self._marks,
            heading("Only if"), self.only, heading("How often"), self.often, heading("Then"),
            *self.steps.values(),
        ):  # fmt: skip
            column.addWidget(widget)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.add_start, self.add_stop = Button(icon("plus"), "Start an effect"), Button(icon("stop"), "Stop one")
        self.add_start.clicked.connect(lambda: self.add_step(StartEffect()))
        self.add_stop.clicked.connect(lambda: self.add_step(StopEffect()))
        self.try_it = Button(icon("lightning"), "Try it")
        self.try_it.setToolTip("Have it respond now, whatever it waits for and asks; seeking to before forgets it")
        self.try_it.clicked.connect(lambda: self._desk.respond(self._session.selection[1]))
        for button in (self.add_start, self.add_stop, self.try_it):
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
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
        self._sentence.setText(sentence(self._session.project, trigger))
        self.only.show_model(trigger, trigger.id)
        self.often.show_model(trigger, trigger.id)
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

    def show_shot(self, shot: Shot) -> None:
        """Say how often the trigger has responded by now, and why it did not the last time."""
        trigger = self._trigger
        if trigger is not None:
            self._answer.setText(_answered(trigger, shot))

    # ---- in the picture -------------------------------------------------------------------------

    @property
    def hands(self) -> list[Hand]:
        """The handles of the anchor that the selected trigger or event has."""
        return [self._anchor_hand]

    def overlay(self) -> Overlay:
        """Ready the handles for what is selected."""
        use = self._session.project.character
        self._anchor_hand.anchor = next(iter(anchors_of(self._session.project, *self._place())), None)
        self._anchor_hand.scale = use.scale if use else 1.0
        return Overlay()

    def _place(self) -> tuple[str, str]:
        """Return kind and id of what has the anchor that is at hand."""
        kind, what = self._session.selection
        trigger, place = self._session.project.trigger(what), find_mark(self._session.project, what)
        if kind == "trigger" and trigger is not None and isinstance(trigger.when, OnEvent):
            named = any(step.anchor is not None for step in trigger.response)
            return (kind, what) if named else ("event", trigger.when.event or "")
        return ("event", place.mark.event) if kind == "mark" and place else (kind, what)

    # ---- doing ----------------------------------------------------------------------------------

    def mirror_event(self) -> None:
        """Make the selected event for the other side, too, with all that goes with it."""
        session = self._session
        what, character = self._place()[1], session.character
        event = session.project.event(what)
        if event is None or character is None:
            return
        project, twin = mirrored_event(session.project, character, what)
        if not twin:
            session.said.emit(_mirrored_words(event.name), "warning")
        elif session.edit(f"Mirror {event.name}", lambda _: project, final=True):
            session.select("event", twin)

    def add_step(self, step: Step) -> None:
        """Add a step to the response of the selected trigger."""
        if self._trigger is not None:
            listed = STEPS[self._trigger.when.kind]
            self._session.put("trigger", self._trigger.id, *listed.with_another(self._trigger, step))


def _mirrored_words(name: str) -> str:
    return f"{name} is on no side: give it an anchor on a joint that has another one across"


def _answered(trigger: Trigger, shot: Shot) -> str:
    """Return how often a trigger has responded by a picture's moment, and why it did not the last time."""
    state = shot.triggers.states.get(trigger.id)
    fired = state.fired if state else 0
    words = f"Responded {counted(fired, 'time')} so far" + (
        f", last at {state.last:.2f} s." if state and fired else "."
    )
    refused = next((r for r in reversed(shot.triggers.refusals) if r.trigger == trigger.id), None)
    return f"{words} Refused at {refused.time:.2f} s: {refused.reason}." if refused else words


def _marks_words(project: Project, event_id: str | None) -> str:
    use = project.character
    if use is None or event_id is None:
        return ""
    places = [f"{clip.name} {m.time:.2f} s" for clip in use.clips for m in clip.marks if m.event == event_id]
    return "Marked on: " + ", ".join(places) if places else "No clip has a mark of it yet."
