"""A motion put on the character: its unit of length, and which joint is which."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.character.retarget import guess_unit, propose_matches
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, counted, heading, labelled, soft
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.form import Form, Number, Row
from wraithon.interchange.maps import JointMap, keep_map
from wraithon.project.character import CaptureUse, CharacterUse
from wraithon.project.edit import with_character
from wraithon.support.places import map_folder

if TYPE_CHECKING:
    from wraithon.character.reading.bvh import Capture
    from wraithon.desktop.session.session import Session


ROWS = (
    Row(
        "1 unit is",
        Number("unit"),
        width=92,
        undo="Unit",
    ),
)


class CaptureEditor(QWidget):
    """Edits the motion that the selected clip came from; nothing for clips of the character's own file."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._built: tuple[object, ...] = ()
        self.fields: dict[str, ChoiceField] = {}
        column = column_of(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.addWidget(heading("Motion file"))
        self._facts = soft("")
        column.addWidget(self._facts)
        self.form = Form(session, "capture", "", CaptureUse, ROWS)
        column.addWidget(self.form)
        self._again = Button(icon("magic-wand"), "Match by names again")
        self._again.clicked.connect(self.match_again)
        column.addWidget(self._again)
        self._forget = Button(icon("eraser"), "Forget what was matched by hand")
        self._forget.setToolTip("Match all joints by their names, here and for the next motion of this skeleton")
        self._forget.clicked.connect(lambda: self.match_again(forget=True))
        column.addWidget(self._forget)
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

    def _motion_of(self, capture: CaptureUse | None) -> Capture | None:
        """Return what was read of a motion."""
        return self._session.captures.get((capture.file, capture.clip)) if capture else None

    def refresh(self) -> None:
        """Show the motion of the selected clip."""
        capture, character = self._capture(), self._session.character
        motion = self._motion_of(capture)
        self.setVisible(capture is not None and character is not None)
        for part in (self.form, self._again, self._forget, *self.fields.values()):
            part.setEnabled(motion is not None)
        if capture is None or character is None:
            return
        if motion is None:
            self._facts.setText(f"{capture.file} was not read: bring it in again, and it takes its place.")
            return
        self.form.show_model(capture, capture.id)
        matches = dict(capture.matches)
        self._forget.setVisible(bool(capture.by_hand))
        name = capture.file.rsplit("/", 1)[-1]
        said = " It is being put on the character ..." if self._session.dressing else ""
        said += " The unit was guessed from the lengths of limbs." if self._was_guessed(capture) else ""
        rate = 1 / motion.frame_time
        clip = f", clip {capture.clip}" if capture.clip else ""
        self._facts.setText(
            f"{name}{clip}: {counted(len(motion.joints), 'joint')}, {len(motion.positions)} frames at {rate:.0f} "
            f"a second; {counted(len(matches), 'joint')} matched.{said}"
        )
        names = character.skeleton.joint_names
        key = (motion.joints, names)
        if key != self._built:
            self._built = key
            while (item := self._rows.takeAt(0)) is not None:
                item.widget().hide()
                item.widget().deleteLater()
            self.fields = {}
            for joint in motion.joints:
                field = ChoiceField([("nothing", None), *((n, n) for n in names)], name=f"What {joint} moves")
                field.edited.connect(partial(self.match, joint))
                self.fields[joint] = field
                row = labelled(joint, field, width=140)
                row.setToolTip(joint)
                self._rows.addWidget(row)
        for joint, field in self.fields.items():
            field.set_value(matches.get(joint))

    def match(self, joint: str, match: object, _final: bool = True) -> None:
        """Match a joint of the file with a joint of the character, or with none."""
        capture = self._capture()
        if capture is None:
            return
        others = [(a, b) for a, b in capture.matches if a != joint and b != match]
        if isinstance(match, str):
            others.append((joint, match))
        unit = capture.unit
        if self._was_guessed(capture):
            # A unit that was guessed is guessed again; one that was typed stays.
            unit = self._guessed(capture, dict(others))
        by_hand = (*(other for other in capture.by_hand if other != joint), joint)
        changed = capture.evolve(matches=tuple(others), unit=unit, by_hand=by_hand)
        self._put(f"Match {joint}", changed)

    def _put(self, text: str, capture: CaptureUse) -> None:
        """Put a motion that was matched anew, with all others of its file, and keep how for its skeleton."""

        def change(use: CharacterUse) -> CharacterUse:
            now = {"matches": capture.matches, "by_hand": capture.by_hand, "unit": capture.unit}
            return use.evolve(captures=tuple(m.evolve(**now) if m.file == capture.file else m for m in use.captures))

        self._session.edit(text, lambda p: with_character(p, change))
        motion, character = self._motion_of(capture), self._session.character
        if motion is not None and character is not None:
            known = JointMap(matches=capture.matches, by_hand=capture.by_hand)
            keep_map(map_folder(), motion.joints, character.skeleton.joint_names, known)

    def _guessed(self, capture: CaptureUse, matches: dict[str, str]) -> float:
        """Return the unit that matched limbs tell; what it is now where they tell nothing."""
        motion, character = self._motion_of(capture), self._session.character
        if motion is None or character is None or len(matches) < 2:
            return capture.unit
        return guess_unit(motion, character, matches)

    def _was_guessed(self, capture: CaptureUse) -> bool:
        """Return whether the unit is what the limbs tell."""
        return len(capture.matches) > 1 and abs(capture.unit - self._guessed(capture, dict(capture.matches))) < 1e-9

    def match_again(self, *, forget: bool = False) -> None:
        """Propose matches by name and guess the unit anew; those by hand stay, unless it is to `forget` them."""
        capture, character = self._capture(), self._session.character
        motion = self._motion_of(capture)
        if capture is not None and motion is not None and character is not None:
            hands = () if forget else capture.by_hand
            by_hand = {joint: match for joint, match in capture.matches if joint in hands}
            proposed = propose_matches(motion, character)
            free = {j: m for j, m in proposed.items() if j not in hands and m not in by_hand.values()}
            known = {**free, **by_hand}
            matches = {joint: known[joint] for joint in motion.joints if joint in known}
            unit = guess_unit(motion, character, matches)
            self._put("Match by names", capture.evolve(matches=tuple(matches.items()), unit=unit, by_hand=hands))

    def remove(self) -> None:
        """Take the motion off."""
        capture = self._capture()
        if capture is not None:

            def change(use: CharacterUse) -> CharacterUse:
                return use.evolve(captures=tuple(m for m in use.captures if m.id != capture.id))

            self._session.edit(f"Remove {capture.name}", lambda p: with_character(p, change))
            self._session.select("", "")
