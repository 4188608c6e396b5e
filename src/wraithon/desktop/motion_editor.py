"""What moves a layer's free particles: a list of forces, and the ground."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.desktop.fields import ChoiceField, NumberField, labelled, soft, tool
from wraithon.project.motion import Contact, Curl, Drag, Force, Gravity, Ground, Motion, Wind

__all__ = ["MotionEditor"]

KINDS = {"gravity": Gravity, "drag": Drag, "wind": Wind, "curl": Curl}
CONTACTS = (
    ("passes through", Contact.PASS),
    ("bounces", Contact.BOUNCE),
    ("slides", Contact.SLIDE),
    ("sticks", Contact.STICK),
    ("ends", Contact.DIE),
)


class MotionEditor(QWidget):
    """Edits a motion.

    Signals
    -------
    edited
        What changed in words, the motion, and whether the gesture is over.
    """

    edited = Signal(str, object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._motion = Motion()
        self._rows: list[_ForceRow] = []
        self._forces = QVBoxLayout()
        self._forces.setSpacing(4)
        self._add = ChoiceField(name="Add a force")
        self._add.set_choices(
            [("add a force ...", None), *((f"{name}: {words}", name) for name, words in _WORDS.items())]
        )
        self._add.set_value(None)
        self._add.chosen.connect(self._add_force)
        self._contact = ChoiceField(CONTACTS, name="What happens at the ground")
        self._contact.chosen.connect(lambda v: self._ground("Ground contact", True, contact=v))
        self._bounce = NumberField("%", low=0, high=100, step=1, decimals=0, name="Share of the falling speed kept")
        self._grip = NumberField("%", low=0, high=100, step=1, decimals=0, name="Share of the sideways speed taken")
        self._bounce.edited.connect(lambda v, f: self._ground("Bounce", f, bounce=v / 100))
        self._grip.edited.connect(lambda v, f: self._ground("Grip", f, grip=v / 100))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self._nothing = soft("No forces: particles go straight on at their own speed.")
        layout.addWidget(self._nothing)
        layout.addLayout(self._forces)
        layout.addWidget(self._add)
        layout.addWidget(labelled("at ground", self._contact, width=70))
        self._bounce_row = labelled("bounce", self._bounce, width=70)
        self._grip_row = labelled("grip", self._grip, width=70)
        layout.addWidget(self._bounce_row)
        layout.addWidget(self._grip_row)

    def show_motion(self, motion: Motion) -> None:
        """Show a motion; nothing is signalled."""
        self._motion = motion
        kinds = [force.kind for force in motion.forces]
        if kinds != [row.kind for row in self._rows]:
            self._build(kinds)
        for row, force in zip(self._rows, motion.forces, strict=True):
            row.show_force(force)
        self._nothing.setVisible(not kinds)
        self._contact.set_value(motion.ground.contact)
        self._bounce.set_value(round(motion.ground.bounce * 100, 3))
        self._grip.set_value(round(motion.ground.grip * 100, 3))
        self._bounce_row.setVisible(motion.ground.contact is Contact.BOUNCE)
        self._grip_row.setVisible(motion.ground.contact in {Contact.BOUNCE, Contact.SLIDE})

    def _build(self, kinds: list[str]) -> None:
        for row in self._rows:
            self._forces.removeWidget(row)
            row.hide()
            row.deleteLater()
        self._rows = []
        for index, kind in enumerate(kinds):
            row = _ForceRow(index, kind)
            row.edited.connect(self._force_edited)
            row.removed.connect(self._remove)
            self._rows.append(row)
            self._forces.addWidget(row)

    def _change(self, words: str, final: bool, **changes: object) -> None:
        self._motion = self._motion.but(**changes)
        self.edited.emit(words, self._motion, final)

    def _ground(self, words: str, final: bool, **changes: object) -> None:
        ground: Ground = self._motion.ground
        self._change(words, final, ground=ground.but(**changes))

    def _add_force(self, kind: object) -> None:
        self._add.set_value(None)
        if kind is not None:
            force = KINDS[str(kind)]()
            self._change(f"Add {kind}", True, forces=(*self._motion.forces, force))

    def _remove(self, index: int) -> None:
        forces = list(self._motion.forces)
        kind = forces.pop(index).kind
        self._change(f"Remove {kind}", True, forces=tuple(forces))

    def _force_edited(self, index: int, force: Force, final: bool) -> None:
        forces = list(self._motion.forces)
        forces[index] = force
        self._change(force.kind.capitalize(), final, forces=tuple(forces))


_WORDS = {
    "gravity": "pulls down",
    "drag": "slows",
    "wind": "pushes one way",
    "curl": "swirls",
}
# Per kind: field of the model, label, unit, step, lowest, highest, what it means.
_FIELDS: dict[str, tuple[tuple[str, str, str, float, float, float, str], ...]] = {
    "gravity": (("pull", "", "m/s²", 0.1, -1000, 1000, "Pull downwards; below zero it rises"),),
    "drag": (("rate", "", "/s", 0.1, 0, 1000, "Slowing: at 1, a second leaves 37 % of the speed"),),
    "curl": (
        ("strength", "", "m/s²", 0.1, -1000, 1000, "Strength of the swirls"),
        ("scale", "size", "m", 0.05, 0.01, 1000, "Size of an eddy"),
        ("change", "pace", "/s", 0.05, 0, 100, "How quickly the eddies alter"),
    ),
}


class _ForceRow(QWidget):
    """One force with its numbers."""

    edited = Signal(int, object, bool)
    removed = Signal(int)

    def __init__(self, index: int, kind: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.kind = kind
        self._index = index
        self._force: Force = KINDS[kind]()  # type: ignore[assignment]  # one of the four
        self._fields: dict[str, NumberField] = {}
        self._axes: list[NumberField] = []
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        widgets: list[QWidget] = []
        for name, label, unit, step, low, high, words in _FIELDS.get(kind, ()):
            field = NumberField(unit, low=low, high=high, step=step, name=words)
            field.edited.connect(lambda v, f, name=name: self._change(f, **{name: v}))
            self._fields[name] = field
            widgets.append(labelled(label, field, width=28) if label else field)
        if kind == "wind":
            for k, axis in enumerate("xyz"):
                field = NumberField(axis, low=-1000, high=1000, step=0.1, name=f"Push along {axis} in m/s²")
                field.edited.connect(lambda v, f, k=k: self._push(k, v, f))
                self._axes.append(field)
                widgets.append(field)
        layout.addWidget(labelled(kind, *widgets, width=44), 1)
        layout.addWidget(tool("x", f"Remove this {kind}", lambda: self.removed.emit(self._index)))

    def show_force(self, force: Force) -> None:
        """Show a force."""
        self._force = force
        for name, field in self._fields.items():
            field.set_value(getattr(force, name))
        if isinstance(force, Wind):
            for field, value in zip(self._axes, force.push, strict=True):
                field.set_value(value)

    def _change(self, final: bool, **changes: object) -> None:
        self._force = self._force.but(**changes)
        self.edited.emit(self._index, self._force, final)

    def _push(self, axis: int, value: float, final: bool) -> None:
        assert isinstance(self._force, Wind)  # only its rows have axes
        push = list(self._force.push)
        push[axis] = value
        self._change(final, push=tuple(push))
