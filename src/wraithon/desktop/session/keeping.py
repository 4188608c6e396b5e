"""Keeping work: opening, saving, the journal, and asking before anything could be lost."""

from __future__ import annotations

import datetime as dt
import hashlib
import threading
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QDialog, QFileDialog, QMessageBox, QWidget

from wraithon.desktop.session.bar import Bar
from wraithon.desktop.session.bringing import Bringing, looked_over
from wraithon.desktop.session.pictures import Pictures
from wraithon.desktop.session.reading import Reading
from wraithon.desktop.session.save_sheet import SaveSheet
from wraithon.desktop.session.session import Session
from wraithon.interchange.journal import Journal, Left
from wraithon.picture.shipped import ENDINGS
from wraithon.project.files import LARGEST, PROJECT_FILE, open_project, to_text
from wraithon.project.project import Project, View
from wraithon.sounds import SOUND_ENDINGS
from wraithon.stage.loading import CAPTURE_ENDINGS, CHARACTER_ENDINGS, Loaded, load
from wraithon.support.errors import WraithonError
from wraithon.support.plain_files import read_plain

FOREIGN = frozenset({".fbx", ".obj", ".dae", ".blend", ".usd", ".usdz", ".ply", ".stl"})
"""Endings of models in other formats."""
MANY, PREPARE_DELAY = 40, 3000
"""Effects from which on a project is large, and milliseconds after which it is prepared to be saved."""
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

    Signals
    -------
    leaving
        The project was saved, or another one is about to be opened.
    """

    leaving = Signal()

    def __init__(self, window: QWidget, session: Session, bar: Bar, view: Callable[[], View], opened: str) -> None:
        super().__init__(window)
        self._window, self._session, self._bar, self._view = window, session, bar, view
        self.journal = Journal(opened)
        self.reading = Reading()
        self.reading.failed.connect(lambda text: self._trouble(text, "error"))
        self._dropping = False
        self._troubles: list[str] = []
        """What was told of the files of one drop: all of it stays to be read."""
        self.reading.progressed.connect(self._progressed)
        self.pictures = Pictures(window, session, self.reading)
        self.bringing = Bringing(window, session, self.reading, bar, self._begin)
        self._dropped: list[Path] = []
        """What was dropped and is still to be taken."""
        for over in (self.reading.over, bar.closed):
            over.connect(self._take_next, Qt.ConnectionType.QueuedConnection)
        self._stamp = stamp_of(session.folder)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(JOURNAL_DELAY)
        self._timer.timeout.connect(self._write_aside)
        self._writing: threading.Thread | None = None
        """What writes the journal down, beside the window."""
        session.changed.connect(self._timer.start)
        self._prepare()

    def set_autosave(self, seconds: float) -> None:
        """Write unsaved work down so many seconds after the last edit."""
        self._timer.setInterval(round(seconds * 1000))

    def stop(self) -> None:
        """Stop; the journal is cleared because the work was saved or given up."""
        self.reading.wait()
        self._session.stop()
        self._timer.stop()
        self._wait_for_journal()
        self.journal.close()

    def open_path(self, path: Path) -> None:
        """Open a project, or a character as a new project; say what went wrong."""
        from wraithon.demo import DEMO_FOLDER

        def take(loaded: Loaded) -> None:
            self._take(loaded, None if path == DEMO_FOLDER else loaded.folder, str(path))

        self.reading.read(path, lambda report: looked_over(load(path, report)), take)

    def _progressed(self, text: str, share: float) -> None:
        if text:
            self._bar.show_message(f"{text}: {share:.0%}", "Cancel", self.reading.cancel)
        else:
            self._bar.hide()

    def _take(self, loaded: Loaded, save_folder: Path | None, opened: str) -> None:
        self.leaving.emit()
        self._wait_for_journal()
        self.journal.close()
        self._timer.stop()
        self.journal = Journal(opened)
        self._stamp = stamp_of(loaded.folder)
        self._session.open(loaded, save_folder)
        self._timer.stop()
        self._prepare()
        self.offer_left()

    def _begin(self, loaded: Loaded, path: Path) -> None:
        if self.may_lose():
            self._take(loaded, None, str(path))

    def take_dropped(self, paths: list[Path]) -> None:
        """Take all that can be taken of some dropped files, one after another, and say what cannot."""
        found = [path for path in paths if droppable(path)]
        found.sort(key=lambda path: not _is_project(path))  # others go into what is open then
        projects = [path for path in found if _is_project(path)]
        self._dropped = [path for path in found if path not in projects[1:]]
        left = [path for path in paths if path not in self._dropped]
        self._troubles, self._dropping = [], True
        if left:
            self._trouble(_not_taken(left, projects), "warning")
        if self._dropped:
            self._take_one(self._dropped.pop(0))
        self._take_next()

    def _trouble(self, text: str, kind: str) -> None:
        """Tell what a file cannot be taken for, after what was told of those dropped with it."""
        if not self._dropping:
            self._troubles = []
        self._troubles.append(text)
        self._session.said.emit(" · ".join(self._troubles), kind)

    def _take_next(self) -> None:
        """Take the next dropped file, once nothing is being read and nothing is asked."""
        while self._dropped and not self.reading.busy and not self._bar.isVisible():
            self._take_one(self._dropped.pop(0))
        self._dropping = bool(self._dropped) or self.reading.busy

    def _take_one(self, path: Path) -> None:
        ending = path.suffix.lower()
        if _is_project(path):
            if self.may_lose():
                self.open_path(path)
            else:
                self._dropped.clear()
        elif ending in CHARACTER_ENDINGS | CAPTURE_ENDINGS:
            self.bringing.bring_in(path)
        elif ending in ENDINGS:
            self.pictures.give(path)
        else:
            self.pictures.give_sound(path)

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

    def save(self) -> bool:
        """Save where the project came from, or ask where."""
        if self._session.save_folder is None:
            return self.save_as()
        return self.save_in(self._session.save_folder)

    def save_as(self) -> bool:
        """Ask for a name and a place, and save in a folder that is made there."""
        own = self._session.save_folder
        sheet = SaveSheet(self._window, self._session.project.name, own.parent if own is not None else None)
        if sheet.exec() != QDialog.DialogCode.Accepted:
            return False
        return self.save_in(sheet.folder, sheet.name.text().strip())

    def save_in(self, folder: Path, name: str = "") -> bool:
        """Save into a folder, after asking when that would replace what is not known here; return whether it was.

        With a `name` the project is called so.
        """
        if not self._may_replace(folder):
            return False
        project = self._session.project
        named = project.evolve(view=self._view(), name=name or project.name)
        if named != project:
            self._session.history.amend(named)
        saved = self._session.save(folder)
        if saved:
            self._timer.stop()
            self._wait_for_journal()
            self.journal.close()
            self.journal = Journal(str(folder))
            self._stamp = stamp_of(folder)
            self.leaving.emit()
        return saved

    def _may_replace(self, folder: Path) -> bool:
        """Ask before saving over another project, or over something newer than what was opened."""
        there = stamp_of(folder)
        own = self._session.save_folder
        if not there or (own is not None and own.resolve() == folder.resolve() and there == self._stamp):
            return True
        if own is not None and own.resolve() == folder.resolve():
            text = f"“{folder.name}” was changed by another window or program since it was opened here."
            return self._ask("Newer on the disk", text, "Save over it")
        text = f"“{folder.name}” already holds the project “{_name_of(folder)}”, which would be gone."
        return self._ask("Another project", text, "Replace it")

    def _ask(self, title: str, text: str, go_on: str) -> bool:
        box = QMessageBox(self._window)
        box.setWindowTitle(title)
        box.setText(text)
        yes = box.addButton(go_on, QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole))
        box.exec()
        return box.clickedButton() is yes

    # ---- safety ---------------------------------------------------------------------------------

    def _prepare(self) -> None:
        """Write a large project out as text beside the window, so that saving it the first time is no wait."""
        if len(self._session.project.effects) > MANY:
            QTimer.singleShot(PREPARE_DELAY, self, self._write_out)

    def _write_out(self) -> None:
        what = (self._session.project,)
        threading.Thread(target=to_text, args=what, name="writing out", daemon=True).start()

    def _write_aside(self) -> None:
        """Write unsaved work into the journal, beside the window; once more where it is still being written."""
        if self._writing is not None and self._writing.is_alive():
            self._timer.start()
        elif self._session.history.unsaved:
            what = (self._session.project,)
            self._writing = threading.Thread(target=self.journal.write, args=what, name="journal", daemon=True)
            self._writing.start()
        else:
            self.journal.clear()

    def _wait_for_journal(self) -> None:
        """Wait until nothing is being written into the journal any more."""
        if self._writing is not None:
            self._writing.join()
            self._writing = None

    def write_down(self) -> bool:
        """Write unsaved work into the journal; without any, clear it; return whether all is safe."""
        self._wait_for_journal()
        if self._session.history.unsaved:
            return self.journal.write(self._session.project)
        self.journal.clear()
        return True

    def offer_left(self) -> None:
        """Offer work that crashes have left behind, the latest first, if there is any."""
        left = self.journal.all_left_behind()
        for same in [work for work in left if work.project == self._session.project]:
            same.discard()
            left.remove(same)
        if left:
            self._offer(left)
        elif self.journal.open_elsewhere():
            self._bar.ask(
                "This project is open in another window, too: saving there and here replace each other.",
                ("All right", lambda: None),
            )

    def _offer(self, left: list[Left]) -> None:
        latest, others = left[0], left[1:]
        when = dt.datetime.fromtimestamp(latest.written).astimezone().strftime("%d %B, %H:%M")
        more = f", the latest of {len(left)}" if others else ""
        answers: list[tuple[str, Callable[[], object]]] = [
            ("Bring it back", lambda: self._bring_back(latest, others)),
            ("Discard it", lambda: self._discard(latest, others)),
        ]
        if others:
            answers.append(("Look at the one before", lambda: self._offer([*others, latest])))
        self._bar.ask(f"Unsaved work from {when} was found{more}.", *answers)

    def _discard(self, left: Left, others: list[Left]) -> None:
        left.discard()
        if others:
            self._offer(others)

    def _bring_back(self, left: Left, others: list[Left]) -> None:
        self._session.edit("Bring back unsaved work", lambda _p: left.project)
        self._session.history.mark_unsaved()
        self.bringing.read_missing()
        if self.write_down():
            left.discard()
        else:
            text = "The journal cannot be written (is the disk full?): the restored work stays there as it was"
            self._session.said.emit(text, "warning")
        if others:
            self._offer(others)

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
        return hashlib.blake2b(read_plain(folder / PROJECT_FILE, LARGEST)).digest() if folder else b""
    except OSError:
        return b""


def _name_of(folder: Path) -> str:
    """Return what the project in a folder is called, or its file when it cannot be read."""
    try:
        return open_project(folder).project.name
    except WraithonError:
        return PROJECT_FILE


def droppable(path: Path) -> bool:
    """Return whether there is something to do with a path."""
    known = CHARACTER_ENDINGS | CAPTURE_ENDINGS | ENDINGS | SOUND_ENDINGS
    return path.suffix.lower() in known or _is_project(path)


def _is_project(path: Path) -> bool:
    return (path / PROJECT_FILE).is_file() or (path.name == PROJECT_FILE and path.is_file())


def _not_taken(paths: list[Path], projects: list[Path]) -> str:
    """Return why some dropped files are not taken."""
    path = paths[0]
    if path in projects:
        why = "open one project at a time"
    elif path.is_dir():
        why = "this folder holds no project; drop one that does, or the files in it"
    elif path.suffix.lower() in FOREIGN:
        why = "this kind is not read; export it as glTF 2.0 (.glb), or a motion as .bvh"
    else:
        why = "not a kind that is read: drop .glb, .gltf, .bvh, .png, .jpg, .webp, .wav or a project folder"
    more = f" (and {len(paths) - 1} more are not taken)" if len(paths) > 1 else ""
    return f"{path.name}: {why}{more}"
