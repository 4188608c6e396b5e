"""Keeping work: opening, saving, the journal, and asking before anything could be lost."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QMessageBox, QPushButton, QWidget

from wraithon.desktop.fields import Button
from wraithon.desktop.journal import Journal, Left
from wraithon.desktop.session import Session
from wraithon.desktop.theme import LINE
from wraithon.errors import WraithonError
from wraithon.project.project import Project, View
from wraithon.stage.loading import Loaded, load, project_of_character

__all__ = ["Bar", "Keeper"]

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
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(JOURNAL_DELAY)
        self._timer.timeout.connect(self.write_down)
        session.changed.connect(self._timer.start)

    def stop(self) -> None:
        """Stop; the journal is cleared because the work was saved or given up."""
        self._timer.stop()
        self.journal.clear()

    def open_path(self, path: Path) -> bool:
        """Open a project, or a character as a new project; say what went wrong."""
        from wraithon.demo import DEMO_FOLDER

        try:
            loaded = load(path)
        except WraithonError as error:
            self._session.said.emit(str(error), "error")
            return False
        self._take(loaded, None if path == DEMO_FOLDER else loaded.folder, str(path))
        return True

    def _take(self, loaded: Loaded, save_folder: Path | None, opened: str) -> None:
        self.journal.clear()
        self._timer.stop()
        self.journal = Journal(opened)
        self._session.open(loaded, save_folder)
        self._timer.stop()
        self.offer_left()

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
        """Ask for a character file and bring it in."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Bring in a character", "", "glTF (*.glb *.gltf)")
        if name:
            self.bring_in(Path(name))

    def bring_in(self, path: Path) -> None:
        """Bring a character into the project; a project that is empty becomes one of that character."""
        try:
            loaded = load(path)
        except WraithonError as error:
            self._session.said.emit(str(error), "error")
            return
        if not self._keeps_work():
            if self.may_lose():
                self._take(loaded, None, str(path))
            return
        character = next(iter(loaded.characters.values()))
        use = project_of_character(character, path.resolve()).characters[0]
        self._session.characters[use.id] = character
        project = self._session.project
        stage = loaded.project.stage
        changed = project.but(characters=(use, *project.characters[1:]), stage=stage)
        if self._session.edit(f"Bring in {character.name}", lambda _p: changed):
            self._session.loaded.emit()

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
        """Save into a folder; return whether that worked."""
        if self._view() != self._session.project.view:
            self._session.edit("Keep the view", lambda p: p.but(view=self._view()), merge="view")
        saved = self._session.save(folder)
        if saved:
            self._timer.stop()
            self.journal.clear()
            self.journal = Journal(str(folder))
        return saved

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
        if left is None or left.project == self._session.project:
            if left is not None:
                left.path.unlink(missing_ok=True)
            return
        when = dt.datetime.fromtimestamp(left.written).astimezone().strftime("%d %B, %H:%M")
        self._bar.ask(
            f"Unsaved work from {when} was found.",
            ("Bring it back", lambda: self._bring_back(left)),
            ("Discard it", lambda: left.path.unlink(missing_ok=True)),
        )

    def _bring_back(self, left: Left) -> None:
        self._session.edit("Bring back unsaved work", lambda _p: left.project)
        self._session.history.mark_unsaved()
        self.write_down()
        left.path.unlink(missing_ok=True)

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

    def answer(self, number: int) -> None:
        """Press a button."""
        self._buttons[number].click()

    def _answer(self, action: Callable[[], object]) -> None:
        self.hide()
        action()
