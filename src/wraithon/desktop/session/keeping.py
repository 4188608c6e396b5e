"""Keeping work: opening, saving, the journal, and asking before anything could be lost."""

from __future__ import annotations

import datetime as dt
import hashlib
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QMessageBox, QPushButton, QWidget

from wraithon.character.checkup import check_mesh, measure_clip
from wraithon.character.measures import triangle_nodes
from wraithon.character.reading.bvh import Capture, read_bvh
from wraithon.character.retarget import guess_unit, propose_matches
from wraithon.desktop.session.pictures import Pictures
from wraithon.desktop.session.reading import Reading
from wraithon.desktop.session.session import Session
from wraithon.desktop.theme.colours import LINE
from wraithon.desktop.widgets.basics import Button
from wraithon.errors import WraithonError
from wraithon.interchange.journal import Journal, Left
from wraithon.interchange.maps import JointMap, kept_map
from wraithon.picture.shipped import ENDINGS
from wraithon.places import map_folder
from wraithon.project.character import CaptureUse
from wraithon.project.edit import fresh_name, with_character
from wraithon.project.files import PROJECT_FILE, open_project
from wraithon.project.matching import missing_names
from wraithon.project.project import Project, View
from wraithon.stage.loading import CAPTURE_ENDINGS, CHARACTER_ENDINGS, Loaded, load, project_of_character

__all__ = ["Bar", "Keeper", "droppable"]

FOREIGN = frozenset({".fbx", ".obj", ".dae", ".blend", ".usd", ".usdz", ".ply", ".stl"})
"""Endings of models in other formats."""
JOURNAL_DELAY = 1500
"""Milliseconds between the last edit and writing it down."""


class Keeper(QObject):
    """Opens and saves the session's project, and writes unsaved work down as it happens.

    Parameters
    ----------
    window
        What dialogs belong to.
    session
        What is kept.
    bar
        Where offers are made.
    view
        Returns the view to save with the project.
    opened
        What is open: a path, or empty for a new project.
    """

    def __init__(self, window: QWidget, session: Session, bar: Bar, view: Callable[[], View], opened: str) -> None:
        super().__init__(window)
        self._window, self._session, self._bar, self._view = window, session, bar, view
        self.journal = Journal(opened)
        self.reading = Reading()
        self.reading.failed.connect(lambda words: session.said.emit(words, "error"))
        self.reading.progressed.connect(self._progressed)
        self.pictures = Pictures(window, session, self.reading)
        self._stamp = stamp_of(session.folder)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(JOURNAL_DELAY)
        self._timer.timeout.connect(self.write_down)
        session.changed.connect(self._timer.start)

    def stop(self) -> None:
        """Stop; the journal is cleared because the work was saved or given up."""
        self.reading.wait()
        self._timer.stop()
        self.journal.close()

    def open_path(self, path: Path) -> None:
        """Open a project, or a character as a new project; say what went wrong."""
        from wraithon.demo import DEMO_FOLDER

        def take(loaded: Loaded) -> None:
            self._take(loaded, None if path == DEMO_FOLDER else loaded.folder, str(path))

        self.reading.read(path, lambda tell: _looked_over(load(path, tell)), take)

    def _progressed(self, words: str, share: float) -> None:
        if words:
            self._bar.say(f"{words}: {share:.0%}", "Cancel", self.reading.cancel)
        else:
            self._bar.hide()

    def _take(self, loaded: Loaded, save_folder: Path | None, opened: str) -> None:
        self.journal.close()
        self._timer.stop()
        self.journal = Journal(opened)
        self._stamp = stamp_of(loaded.folder)
        self._session.open(loaded, save_folder)
        self._timer.stop()
        self.offer_left()

    def take_dropped(self, paths: list[Path]) -> None:
        """Take the first of some dropped files that is a character, a motion, a picture or a project."""
        path = next(filter(droppable, paths), None)
        if path is None:
            return
        if path.suffix.lower() in FOREIGN:
            words = f"{path.name}: this kind is not read; export it as glTF 2.0 (.glb), or a motion as .bvh"
            self._session.said.emit(words, "warning")
            return
        if path.suffix.lower() in CHARACTER_ENDINGS | CAPTURE_ENDINGS:
            self.bring_in(path)
        elif path.suffix.lower() in ENDINGS:
            self.pictures.give(path)
        elif self.may_lose():
            self.open_path(path)

    def new_project(self) -> None:
        """Begin with nothing."""
        if self.may_lose():
            self._take(Loaded(Project(), None), None, "")

    def open_demo(self) -> None:
        """Open the demo project."""
        from wraithon.demo import DEMO_FOLDER

        if self.may_lose():
            self.open_path(DEMO_FOLDER)

    def choose_project(self) -> None:
        """Ask for a project folder and open it."""
        if not self.may_lose():
            return
        folder = QFileDialog.getExistingDirectory(self._window, "Open a project folder")
        if folder:
            self.open_path(Path(folder))

    def choose_character(self) -> None:
        """Ask for a character or motion file and bring it in."""
        kinds = "Characters and motions (*.glb *.gltf *.bvh)"
        name, _ = QFileDialog.getOpenFileName(self._window, "Bring in a character", "", kinds)
        if name:
            self.bring_in(Path(name))

    def choose_replacement(self) -> None:
        """Ask for a file to put in the place of the character on stage."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Replace the character's file", "", "glTF (*.glb *.gltf)")
        if name:
            self.replace(Path(name))

    def bring_in(self, path: Path) -> None:
        """Bring a character or a motion into the project; an empty project becomes one of that character."""
        if path.suffix.lower() in CAPTURE_ENDINGS:
            self.reading.read(path, lambda _tell: read_bvh(path), lambda capture: self._add_capture(path, capture))
            return
        self.reading.read(path, lambda tell: _looked_over(load(path, tell)), lambda found: self._add(path, found))

    def _add(self, path: Path, loaded: Loaded) -> None:
        if not self._keeps_work() and not self._session.project.characters:
            if self.may_lose():
                self._take(loaded, None, str(path))
            return
        character = next(iter(loaded.characters.values()))
        use = project_of_character(character, path.resolve()).characters[0]
        self._session.files[use.file] = character
        project = self._session.project
        use = use.but(name=fresh_name(use.name, (u.name for u in project.characters)))
        stage = loaded.project.stage.but(character=use.id, ground=project.stage.ground)
        changed = project.but(characters=(*project.characters, use), stage=stage)
        self._session.reading_findings = (*self._session.reading_findings, *loaded.findings)
        if self._session.edit(f"Bring in {character.name}", lambda _p: changed):
            self._session.select("", "")
            self._session.said.emit(f"{use.name} is on stage; the others are listed above its clips", "fine")

    def replace(self, path: Path) -> None:
        """Put another file in the place of the character's on stage; what was added to it stays."""
        if self._session.project.character is None:
            self.bring_in(path)
            return
        self.reading.read(path, lambda tell: _looked_over(load(path, tell)), lambda found: self._put(path, found))

    def _put(self, path: Path, loaded: Loaded) -> None:
        session = self._session
        file = str(path.resolve())
        # The same path may hold something newer: what was read before must not stand in for it.
        session.files[file] = next(iter(loaded.characters.values()))
        session.forget(file)
        session.edit(f"Replace by {path.name}", lambda p: with_character(p, lambda use: use.but(file=file)))
        session.refresh_characters()
        session.select("", "")
        use, character = session.project.character, session.character
        if use is not None and character is not None:
            missing = missing_names(session.project, use, character.facts)
            if missing:
                words = f"{len(missing)} names are not in {path.name}: pick others in the sheet"
                session.said.emit(words, "warning")
            else:
                session.said.emit(f"Everything still matches in {path.name}", "fine")

    def _add_capture(self, path: Path, capture: Capture) -> None:
        session = self._session
        character, use = session.character, session.project.character
        if character is None or use is None:
            session.said.emit("Bring in a character first: a motion is put on its joints", "warning")
            return
        known = kept_map(map_folder(), capture.joints, character.skeleton.joint_names) or JointMap()
        matches = dict(known.matches) or propose_matches(capture, character)
        if known.by_hand:
            session.said.emit(f"{path.name}: matched as its skeleton was by hand before; see the sheet", "fine")
        elif not matches:
            words = f"{path.name}: no joint is named like one of {use.name}'s; pick them in the sheet"
            session.said.emit(words, "warning")
        name = fresh_name(capture.name, (clip.name for clip in character.clips))
        added = CaptureUse(
            file=str(path.resolve()), name=name, unit=guess_unit(capture, character, matches),
            matches=tuple(matches.items()), by_hand=known.by_hand,
        )  # fmt: skip
        session.captures[added.file] = capture
        session.edit(
            f"Bring in {path.name}", lambda p: with_character(p, lambda u: u.but(captures=(*u.captures, added)))
        )
        session.select("clip", name)

    def _keeps_work(self) -> bool:
        project = self._session.project
        return bool(project.effects or project.triggers)

    def save(self) -> bool:
        """Save where the project came from, or ask where."""
        if self._session.save_folder is None:
            return self.save_as()
        return self.save_in(self._session.save_folder)

    def save_as(self) -> bool:
        """Ask for a folder and save there."""
        folder = QFileDialog.getExistingDirectory(self._window, "Save the project in a folder (an empty one is best)")
        return bool(folder) and self.save_in(Path(folder))

    def save_in(self, folder: Path) -> bool:
        """Save into a folder, after asking when that would replace what is not known here; return whether it was."""
        if not self._may_replace(folder):
            return False
        if self._view() != self._session.project.view:
            self._session.history.amend(self._session.project.but(view=self._view()))
        saved = self._session.save(folder)
        if saved:
            self._timer.stop()
            self.journal.close()
            self.journal = Journal(str(folder))
            self._stamp = stamp_of(folder)
        return saved

    def _may_replace(self, folder: Path) -> bool:
        """Ask before saving over another project, or over something newer than what was opened."""
        there = stamp_of(folder)
        own = self._session.save_folder
        if not there or (own is not None and own.resolve() == folder.resolve() and there == self._stamp):
            return True
        if own is not None and own.resolve() == folder.resolve():
            words = f"“{folder.name}” was changed by another window or program since it was opened here."
            return self._ask("Newer on the disk", words, "Save over it")
        words = f"“{folder.name}” already holds the project “{_name_of(folder)}”, which would be gone."
        return self._ask("Another project", words, "Replace it")

    def _ask(self, title: str, words: str, go_on: str) -> bool:
        box = QMessageBox(self._window)
        box.setWindowTitle(title)
        box.setText(words)
        yes = box.addButton(go_on, QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole))
        box.exec()
        return box.clickedButton() is yes

    # ---- safety ---------------------------------------------------------------------------------

    def write_down(self) -> None:
        """Write unsaved work into the journal; without any, clear it."""
        if self._session.history.unsaved:
            self.journal.write(self._session.project)
        else:
            self.journal.clear()

    def offer_left(self) -> None:
        """Offer work that a crash has left behind, if there is any."""
        left = self.journal.left_behind()
        if left is not None and left.project == self._session.project:
            left.discard()
            left = None
        if left is None:
            if self.journal.open_elsewhere():
                self._bar.ask(
                    "This project is open in another window, too: saving there and here replace each other.",
                    ("All right", lambda: None),
                )
            return
        when = dt.datetime.fromtimestamp(left.written).astimezone().strftime("%d %B, %H:%M")
        self._bar.ask(
            f"Unsaved work from {when} was found.",
            ("Bring it back", lambda: self._bring_back(left)),
            ("Discard it", left.discard),
        )

    def _bring_back(self, left: Left) -> None:
        self._session.edit("Bring back unsaved work", lambda _p: left.project)
        self._session.history.mark_unsaved()
        self.write_down()
        left.discard()

    def may_lose(self) -> bool:
        """Ask, when there is unsaved work, whether to save it; return whether to go on."""
        if not self._session.history.unsaved:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Unsaved work")
        box.setText(f"“{self._session.project.name}” has changes that are not saved.")
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Do not save", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is keep:
            return self.save()
        return box.clickedButton() is drop


def stamp_of(folder: Path | None) -> bytes:
    """Return a fingerprint of the project file in a folder; empty where there is none."""
    try:
        return hashlib.blake2b((folder / PROJECT_FILE).read_bytes()).digest() if folder else b""
    except OSError:
        return b""


def _name_of(folder: Path) -> str:
    """Return what the project in a folder is called, or its file when it cannot be read."""
    try:
        return open_project(folder).project.name
    except WraithonError:
        return PROJECT_FILE


def droppable(path: Path) -> bool:
    """Tell whether there is something to do with a path, or to say about it."""
    known = CHARACTER_ENDINGS | CAPTURE_ENDINGS | ENDINGS | FOREIGN
    return path.suffix.lower() in known or (path / PROJECT_FILE).is_file()


def _looked_over(loaded: Loaded) -> Loaded:
    """Look a character over while nobody waits: what is measured is kept for when it is asked for."""
    for character in loaded.characters.values():
        check_mesh(character)
        triangle_nodes(character)
        for clip in character.clips:
            measure_clip(character, clip)
    return loaded


class Bar(QWidget):
    """A line above everything with a question that can be answered, or left."""

    def __init__(self) -> None:
        super().__init__()
        self.setStyleSheet(f"QWidget {{ background: #3d3022; }} QPushButton {{ border-color: {LINE}; }}")
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 4, 8, 4)
        self._words = QLabel("")
        self._row.addWidget(self._words, 1)
        self._buttons: list[QPushButton] = []
        self.hide()

    def ask(self, words: str, *answers: tuple[str, Callable[[], object]]) -> None:
        """Show a question with buttons; any of them closes it."""
        for button in self._buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self._buttons = []
        self._words.setText(words)
        for name, action in answers:
            button = Button(name)
            button.clicked.connect(lambda _on=False, action=action: self._answer(action))
            self._row.addWidget(button)
            self._buttons.append(button)
        self.show()

    def say(self, words: str, name: str, action: Callable[[], object]) -> None:
        """Show words that change, with one button; only the words are changed while it is the same."""
        if self.isVisible() and [button.text() for button in self._buttons] == [name]:
            self._words.setText(words)
        else:
            self.ask(words, (name, action))

    def answer(self, number: int) -> None:
        """Press a button."""
        self._buttons[number].click()

    def _answer(self, action: Callable[[], object]) -> None:
        self.hide()
        action()
