"""The selected anchor: name, joint, offset and turn, its mirror image, and a burst to try it with."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.character.anchoring import mirrored_anchor
from wraithon.desktop.fields import Button, Check, ChoiceField, NumberField, TextField, labelled, soft
from wraithon.desktop.session import Session
from wraithon.desktop.theme import icon
from wraithon.project.character import Anchor
from wraithon.project.edit import fresh_name, put_anchor
from wraithon.project.project import Project

__all__ = ["AnchorSheet"]


class AnchorSheet(QWidget):
    """Edits the selected anchor.

    Signals
    -------
    tried
        A test burst is wanted at the anchor with this id.
    """

    tried = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._name = TextField("Name of the anchor")
        self._name.edited.connect(lambda v: self._edit("Rename anchor", True, name=v))
        self._joint = ChoiceField(name="Joint it is on")
        self._joint.chosen.connect(lambda v: self._edit("Anchor joint", True, joint=v))
        self.ground = Check("on the ground under the joint")
        self.ground.clicked.connect(lambda on: self._edit("On the ground", True, on_ground=on))
        self._offset = [
            NumberField(f"{a} cm", low=-1e4, high=1e4, step=0.5, decimals=2, name=f"Offset along {a}") for a in "xyz"
        ]
        self._turn = [
            NumberField(f"{a} °", low=-360, high=360, step=1, decimals=1, name=f"Turn about {a}") for a in "xyz"
        ]
        for k, field in enumerate(self._offset):
            field.edited.connect(lambda v, f, k=k: self._axis("offset", k, v / 100, f))
        for k, field in enumerate(self._turn):
            field.edited.connect(lambda v, f, k=k: self._axis("turn", k, v, f))
        column.addWidget(labelled("name", self._name))
        column.addWidget(labelled("joint", self._joint))
        column.addWidget(self.ground)
        column.addWidget(labelled("offset", *self._offset, width=60))
        column.addWidget(labelled("turn", *self._turn, width=60))
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
        project, character = self._session.project, self._session.character
        names = list(character.skeleton.joint_names) if character else []
        extra = [] if anchor.joint in names else [(f"{anchor.joint} (missing)", anchor.joint)]
        self._name.set_value(anchor.name)
        self._joint.set_choices([*((n, n) for n in names), *extra])
        self._joint.set_value(anchor.joint)
        self.ground.setChecked(anchor.on_ground)
        for field, value in zip(self._offset, anchor.offset, strict=True):
            field.set_value(round(value * 100, 4))
        for field, value in zip(self._turn, anchor.turn, strict=True):
            field.set_value(value)
        axes = "the world's axes" if anchor.on_ground else "the joint's own axes"
        self._hint.setText(
            f"Offset and turn are along {axes}. In the picture: drag an arrow or the middle to move it, a ring to "
            "turn it; Ctrl snaps to 1 cm and 15°. Alt+1 to 4 look from the front, side, above and back."
        )
        use = project.character
        events = use.events if use else ()
        users = [f"event {e.name}" for e in events if e.anchor == anchor.id]
        users += [f"trigger {t.name}" for t in project.triggers if any(s.anchor == anchor.id for s in t.response)]
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
            twin = twin.but(id=known.id)
        else:
            twin = twin.but(name=fresh_name(twin.name, (a.name for a in use.anchors)))
        session.edit(f"Mirror {anchor.name}", lambda p: put_anchor(p, twin))
        session.select("anchor", twin.id)

    def put(self, anchor: Anchor, final: bool) -> None:
        """Take an anchor as it was moved in the picture."""
        self._session.edit("Move anchor", lambda p: put_anchor(p, anchor), merge=f"move {anchor.id}")
        if final:
            self._session.history.seal()

    def _edit(self, words: str, final: bool, **changes: object) -> None:
        what = self._session.selection[1]

        def change(project: Project) -> Project:
            anchor = project.anchor(what)
            return put_anchor(project, anchor.but(**changes)) if anchor else project

        self._session.edit(words, change, merge=f"{words} {what}")
        if final:
            self._session.history.seal()

    def _axis(self, field: str, axis: int, value: float, final: bool) -> None:
        anchor = self._session.project.anchor(self._session.selection[1])
        if anchor is not None:
            values = list(getattr(anchor, field))
            values[axis] = round(value, 6)
            self._edit(f"Anchor {field}", final, **{field: tuple(values)})
