"""A motion put on the character: its unit of length, and which joint is which."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.character.retarget import guess_unit, propose_matches
from wraithon.desktop.fields import Button, ChoiceField, NumberField, heading, labelled, soft
from wraithon.desktop.session import Session
from wraithon.desktop.theme import icon
from wraithon.project.character import CharacterUse, CaptureUse
from wraithon.project.edit import replace_by_id, with_character

__all__ = ["CaptureEditor"]


class CaptureEditor(QWidget):
    """Edits the motion that the selected clip came from; nothing for clips of the character's own file."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._session = session
        self._built: tuple[object, ...] = ()
        self.fields: dict[str, ChoiceField] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(4)
        column.addWidget(heading("Motion file"))
        self._facts = soft("")
        column.addWidget(self._facts)
        self._unit = NumberField(
            "m", low=1e-6, high=1e3, step=0.001, decimals=5, name="What one unit of it stands for"
        )
        self._unit.edited.connect(lambda v, f: self._change("Unit", f, unit=v))
        column.addWidget(labelled("1 unit is", self._unit))
        self._again = Button(icon("magic-wand"), "Match by names again")
        self._again.clicked.connect(self.match_again)
        column.addWidget(self._again)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        column.addLayout(self._rows)
        self._remove = Button(icon("trash"), "Take this motion off the character")
        self._remove.clicked.connect(self.remove)
        column.addWidget(self._remove)
        self.hide()

    def _capture(self) -> CaptureUse | None:
        use, (kind, what) = self._session.project.character, self._session.selection
        if use is None or kind != "clip":
            return None
        return next((capture for capture in use.captures if capture.name == what), None)

    def refresh(self) -> None:
        """Show the motion of the selected clip."""
        capture, character = self._capture(), self._session.character
        held = self._session.captures.get(capture.file) if capture else None
        self.setVisible(capture is not None and held is not None and character is not None)
        if capture is None or held is None or character is None:
            return
        self._unit.set_value(capture.unit)
        matches = dict(capture.matches)
        name = capture.file.rsplit("/", 1)[-1]
        rate = 1 / held.frame_time
        self._facts.setText(
            f"{name}: {len(held.joints)} joints, {len(held.positions)} frames at {rate:.0f} a second; "
            f"{len(matches)} joints matched. The unit was guessed from the lengths of limbs."
        )
        names = character.skeleton.joint_names
        key = (capture.id, held.joints, names)
        if key != self._built:
            self._built = key
            while (item := self._rows.takeAt(0)) is not None:
                item.widget().hide()
                item.widget().deleteLater()
            self.fields = {}
            for joint in held.joints:
                field = ChoiceField([("nothing", None), *((n, n) for n in names)], name=f"What {joint} moves")
                field.chosen.connect(lambda match, joint=joint: self._match(joint, match))
                self.fields[joint] = field
                row = labelled(joint, field, width=140)
                row.setToolTip(joint)
                self._rows.addWidget(row)
        for joint, field in self.fields.items():
            field.set_value(matches.get(joint))

    def _match(self, joint: str, match: object) -> None:
        capture = self._capture()
        if capture is None:
            return
        kept = [(a, b) for a, b in capture.matches if a != joint and b != match]
        if isinstance(match, str):
            kept.append((joint, match))
        self._change(f"Match {joint}", True, matches=tuple(kept))

    def match_again(self) -> None:
        """Propose matches by name and guess the unit anew."""
        capture, character = self._capture(), self._session.character
        held = self._session.captures.get(capture.file) if capture else None
        if held is not None and character is not None:
            matches = propose_matches(held, character)
            unit = guess_unit(held, character, matches)
            self._change("Match by names", True, matches=tuple(matches.items()), unit=unit)

    def remove(self) -> None:
        """Take the motion off."""
        capture = self._capture()
        if capture is not None:

            def change(use: CharacterUse) -> CharacterUse:
                return use.but(captures=tuple(m for m in use.captures if m.id != capture.id))

            self._session.edit(f"Remove {capture.name}", lambda p: with_character(p, change))
            self._session.select("", "")

    def _change(self, words: str, final: bool, **changes: object) -> None:
        capture = self._capture()
        if capture is None:
            return
        changed = capture.but(**changes)

        def change(use: CharacterUse) -> CharacterUse:
            return use.but(captures=replace_by_id(use.captures, changed))

        self._session.edit(words, lambda p: with_character(p, change), merge=f"{words} {capture.id}")
        if final:
            self._session.history.seal()
