"""A clip: what it is called, how it is played, what is measured on it, and the motion file that it came from."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from wraithon.character.checkup import measure_clip
from wraithon.desktop.character.capture_editor import CaptureEditor
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, counted, heading, labelled, soft
from wraithon.desktop.widgets.fields import TextField
from wraithon.desktop.widgets.form import Choice, Form, Names, Number, Row, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.offers import events_or
from wraithon.project.character import ClipUse
from wraithon.project.edit import fresh_name, play_only
from wraithon.project.matching import rename_clip
from wraithon.project.project import ClipRun

if TYPE_CHECKING:
    from wraithon.character.model import Character, Clip
    from wraithon.desktop.session.session import Session
    from wraithon.project.character import CharacterUse
    from wraithon.project.project import Project


AXES = (("x", "x"), ("y, up", "y"), ("z", "z"))
ROWS = (
    Row("", Tick("loop", text="loops"), undo="Loop"),
    Row(
        "in place along",
        Names("in_place", choices=AXES, columns=3),
        width=92,
        undo="In place",
    ),
    Row(
        "raised by",
        Number("height"),
        width=92,
        undo="Raise clip",
    ),
    Row(
        "travel speed",
        Number(
            "goes.0",
            "Travel speed along x of a clip made in place, before the character's scale",
            lead="x",
            unit="m/s",
            step=0.05,
        ),
        Number(
            "goes.1", "Travel speed ahead, along z, before the character's scale", lead="z", unit="m/s", step=0.05
        ),
        width=92,
        undo="Pace of the clip",
    ),
    Row("", Tick("hidden", text="hidden from lists"), undo="Hide clip"),
)
MARKS = Tupled(
    "marks",
    lambda _mark: (
        Row(
            "",
            Number("time"),
            Choice("event", choices=events_or("no event"), stretch=2),
            undo="Move mark",
        ),
    ),
    lambda _mark: "mark",
)
MAX_LISTED = 48
"""Marks of a clip that are listed; a clip may have thousands."""


class ClipEditor(QWidget):
    """Edits the selected clip of the character on stage."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = column_of(self)
        self._facts = soft("")
        column.addWidget(self._facts)
        self.called = TextField(name="Name of the clip")
        self.called.edited.connect(self.rename)
        column.addWidget(labelled("name", self.called, width=92))
        self.form = Form(session, "clip", "", ClipUse, ROWS)
        column.addWidget(self.form)
        column.addWidget(heading("Events on it"))
        self.marks = ListForm(session, "clip", lambda clip: MARKS.entries(clip)[:MAX_LISTED], MARKS.without, 2)
        column.addWidget(self.marks)
        self._marks = soft("")
        column.addWidget(self._marks)
        column.addWidget(heading("Measured"))
        self._measures = soft("")
        column.addWidget(self._measures)
        only = Button(icon("play"), "Play only this clip")
        only.clicked.connect(self.play_only)
        append = Button(icon("plus"), "Add to the running order")
        append.clicked.connect(self.add_clip_run)
        column.addWidget(only)
        column.addWidget(append)
        self._order = soft("")
        column.addWidget(self._order)
        self.capture = CaptureEditor(session)
        column.addWidget(self.capture)

    def show_clip(self, character: Character, use: CharacterUse, name: str) -> None:
        """Show a clip."""
        clip, how = character.clip(name), use.clip(name)
        seconds = clip.seconds if clip else 0.0
        self._facts.setText(f"{seconds:.2f} s, {counted(len(how.marks), 'mark')} on it")
        self.called.set_value(name)
        self.called.setToolTip(f"The file calls it {how.file_name}" if how.file_name else "")
        self.form.show_model(how, name)
        self.marks.show_model(how, name)
        more = len(how.marks) - MAX_LISTED
        text = f"and {more:,} more, which the timeline shows" if more > 0 else "E marks one at the playhead"
        self._marks.setText(text)
        self._measures.setText("nothing yet: it is not on the character")
        if clip is not None:
            self._show_measures(character, use, clip)
        self._order.setText(f"The running order is: {order_text(self._session.project) or 'empty'}")
        self.capture.refresh()

    def _show_measures(self, character: Character, use: CharacterUse, clip: Clip) -> None:
        """Show how the clip travels and stands, and what is odd about it."""
        facts = measure_clip(character, clip)
        x, y, z = (metres * use.scale for metres in facts.travel)
        text = [f"travels {x:+.2f} m across, {y:+.2f} m up, {z:+.2f} m ahead"]
        text.append(f"loop closes within {facts.seam * use.scale * 100:.1f} cm ({facts.seam_joint})")
        for foot in facts.feet:
            spans = ", ".join(f"{a:.2f} to {b:.2f} s" for a, b in foot.contact)
            height = (foot.height * use.scale + use.height + use.clip(clip.name).height) * 100
            stands = f"stands {spans}, {height:+.1f} cm from the ground, slides {foot.slide * use.scale * 100:.1f} cm"
            text.append(f"{foot.joint} {stands if spans else 'never stands'}")
        self._measures.setText("\n".join(text).replace("-0.0 cm", "0.0 cm").replace("-0.00 m", "0.00 m"))

    def rename(self, name: str, _final: bool = True) -> None:
        """Call the selected clip otherwise, wherever it is named; of two alike the new one gets a number."""
        old, character = self._session.selection[1], self._session.character
        if character is None:
            return
        new = fresh_name(name, (clip.name for clip in character.clips if clip.name != old))
        if self._session.edit(f"Rename to {new}", lambda p: rename_clip(p, old, new)):
            self._session.select("clip", new)

    def play_only(self) -> None:
        """Play nothing but the selected clip."""
        name = self._session.selection[1]
        self._session.edit(f"Play {name}", lambda p: play_only(p, name))

    def add_clip_run(self) -> None:
        """Add the selected clip to the running order."""
        name = self._session.selection[1]

        def change(project: Project) -> Project:
            order = (*project.stage.order, ClipRun(clip=name))
            return project.evolve(stage=project.stage.evolve(order=order))

        self._session.edit(f"Add {name} to the order", change)


def order_text(project: Project) -> str:
    """Return the running order in words."""
    return ", ".join(
        clip_run.clip + (f" × {clip_run.times}" if clip_run.times > 1 else "") for clip_run in project.stage.order
    )
