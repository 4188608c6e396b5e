"""The selected anchor: name, joint, offset and turn, its mirror image, and a burst to try it with."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.character.anchoring import mirrored_anchor
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft
from wraithon.desktop.widgets.form import Choice, Form, Number, Row, Text, Tick
from wraithon.desktop.widgets.offers import joints
from wraithon.project.character import Anchor
from wraithon.project.edit import fresh_name, with_anchor

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


ROWS = (
    Row("name", Text("name"), width=92, undo="Rename anchor"),
    Row("joint", Choice("joint", choices=joints), width=92, undo="Anchor joint"),
    Row("", Tick("on_ground", text="on the ground under the joint"), undo="On the ground"),
    Row(
        "offset",
        *(Number(f"offset.{k}", f"Offset along {a}", unit=f"{a} cm") for k, a in enumerate("xyz")),
        undo="Anchor offset",
    ),
    Row(
        "rotation",
        *(Number(f"turn.{k}", f"Rotation about {a}", unit=f"{a} °") for k, a in enumerate("xyz")),
        undo="Anchor rotation",
    ),
)


class AnchorEditor(QWidget):
    """Edits the selected anchor.

    Signals
    -------
    tried
        A test burst is wanted at the anchor with this id.
    """

    tried = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = column_of(self)
        self.form = Form(session, "anchor", "", Anchor, ROWS)
        column.addWidget(self.form)
        self._hint = soft("")
        column.addWidget(self._hint)
        self.mirror_button = Button(icon("arrows-left-right"), "Mirror to the other side")
        self.mirror_button.clicked.connect(self.mirror)
        self.try_button = Button(icon("sparkle"), "Test burst here")
        self.try_button.setToolTip("Fires a small burst along the anchor's own z, whatever the effects are")
        self.try_button.clicked.connect(lambda: self.tried.emit(self._session.selection[1]))
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.mirror_button)
        row.addWidget(self.try_button)
        row.addStretch(1)
        column.addLayout(row)
        self._users = soft("")
        column.addWidget(self._users)

    def show_anchor(self, anchor: Anchor) -> None:
        """Show an anchor; nothing is edited."""
        project = self._session.project
        self.form.show_model(anchor, anchor.id)
        axes = "the world's axes" if anchor.on_ground else "the joint's own axes"
        self._hint.setText(
            f"Offset and rotation are along {axes}. In the picture: drag an arrow or the middle to move it, a ring "
            "to turn it; Ctrl snaps to 1 cm and 15°. Alt+1 to 4 look from the front, side, above and back."
        )
        use = project.character
        events = use.events if use else ()
        users = [f"event {e.name}" for e in events if e.anchor == anchor.id]
        users += [f"trigger {t.name}" for t in project.triggers if any(s.anchor == anchor.id for s in t.about)]
        self._users.setText("Used by: " + ", ".join(users) if users else "Nothing uses it yet.")

    def mirror(self) -> None:
        """Add the anchor's mirror image on the other side, or bring the one of that name up to date."""
        session = self._session
        character, use = session.character, session.project.character
        anchor = session.project.anchor(session.selection[1])
        if character is None or use is None or anchor is None:
            return
        twin = mirrored_anchor(character, anchor)
        known = next((a for a in use.anchors if a.name == twin.name and a.joint == twin.joint), None)
        if known is not None:
            twin = twin.evolve(id=known.id)
        else:
            twin = twin.evolve(name=fresh_name(twin.name, (a.name for a in use.anchors)))
        session.edit(f"Mirror {anchor.name}", lambda p: with_anchor(p, twin))
        session.select("anchor", twin.id)

    def apply(self, anchor: Anchor, final: bool) -> None:
        """Take an anchor as it was moved in the picture."""
        move_anchor(self._session, anchor, final=final)


def move_anchor(session: Session, anchor: Anchor, *, final: bool) -> None:
    """Take an anchor as it was moved in the picture; a drag is one step of undo."""
    session.edit("Move anchor", lambda p: with_anchor(p, anchor), merge=f"move {anchor.id}", final=final)
