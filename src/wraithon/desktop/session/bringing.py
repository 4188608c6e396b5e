"""Bringing characters and motions in: as a new project, beside others, in another's place, or onto a character."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QWidget

from wraithon.character.reading.gltf_motions import motions_of
from wraithon.character.retarget import guess_unit, propose_matches
from wraithon.desktop.widgets.basics import counted
from wraithon.interchange.maps import JointMap, stored_map
from wraithon.project.character import CaptureUse
from wraithon.project.edit import fresh_name, replace_by_id, with_character
from wraithon.project.files import to_text
from wraithon.project.matching import missing_names
from wraithon.stage.fitness import look_over
from wraithon.stage.loading import CAPTURE_ENDINGS, Loaded, load, project_of_character, read_captures, read_files
from wraithon.support.errors import CharacterError, NoMeshError
from wraithon.support.places import map_folder

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.character.reading.bvh import Capture
    from wraithon.desktop.session.bar import Bar
    from wraithon.desktop.session.reading import Reading
    from wraithon.desktop.session.session import Session
    from wraithon.project.character import CharacterUse
    from wraithon.stage.loading import FilesRead


ALIKE = 0.5
"""Share of a file's joints named as a character's, from which its clips are offered for that character."""

Begin = Callable[[Loaded, Path], object]


class Bringing:
    """Brings files into the session's project.

    Parameters
    ----------
    window
        What dialogs belong to.
    session, reading, bar
        Where to, what reads, and where offers are made.
    begin
        Told of a character, and its path, that is to become a new project, because there is none yet.
    """

    def __init__(self, window: QWidget, session: Session, reading: Reading, bar: Bar, begin: Begin) -> None:
        self._window, self._session, self._reading, self._bar, self._begin = window, session, reading, bar, begin

    def choose(self) -> None:
        """Ask for a character or motion file and bring it in."""
        kinds = "Characters and motions (*.glb *.gltf *.bvh)"
        name, _ = QFileDialog.getOpenFileName(self._window, "Import a character or a motion", "", kinds)
        if name:
            self.bring_in(Path(name))

    def choose_replacement(self) -> None:
        """Ask for a file to put in the place of the character on stage."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Replace the character's file", "", "glTF (*.glb *.gltf)")
        if name:
            self.replace(Path(name))

    def bring_in(self, path: Path) -> None:
        """Bring a character or motions into the project; an empty project becomes one of that character."""
        if path.suffix.lower() in CAPTURE_ENDINGS:
            self._reading.read(
                path, lambda _report: read_captures(path), lambda motions: self._add_motions(path, motions)
            )
            return

        def job(report: Callable[[float], None]) -> Loaded | dict[str, Capture]:
            try:
                return looked_over(load(path, report))
            except NoMeshError as error:
                try:
                    return read_captures(path, report)
                except CharacterError:
                    raise error from None

        self._reading.read(path, job, lambda found: self._take(path, found))

    def replace(self, path: Path) -> None:
        """Put another file in the place of the character's on stage; what was added to it stays."""
        if self._session.project.character is None:
            self.bring_in(path)
            return
        self._reading.read(path, lambda report: looked_over(load(path, report)), lambda found: self._put(path, found))

    def read_missing(self) -> None:
        """Read files that the project names and that were not read yet: it came out of a journal."""
        session = self._session
        known = {*session.files, *(file for file, _ in session.captures)}
        names = {name for use in session.project.characters for name in (use.file, *(c.file for c in use.captures))}
        paths = [(session.folder or Path()) / name for name in sorted(names - known)]
        if not paths:
            return
        # The journal is the user's own: what they had brought in then is read from where it was.
        own = session.project
        self._reading.read(
            paths[0], lambda report: read_files(own, session.folder, report, brought=names), self._found
        )

    def _found(self, found: FilesRead) -> None:
        files, captures, findings = found
        self._session.files |= files
        self._session.captures |= captures
        self._session.reading_findings = (*self._session.reading_findings, *findings)
        self._session.forget(*files, *(file for file, _ in captures))
        self._session.refresh_characters()

    # ---- characters -----------------------------------------------------------------------------

    def _take(self, path: Path, found: Loaded | dict[str, Capture]) -> None:
        """Take what a glTF file holds; ask where its clips may be meant for the character on stage."""
        project = self._session.project
        if not isinstance(found, Loaded):
            self._add_motions(path, found)
            return
        character, ours, use = next(iter(found.characters.values())), self._session.character, project.character
        if not (project.effects or project.triggers or project.characters):
            self._begin(found, path)
        elif ours is None or use is None or not character.clips or not _alike(character, ours):
            self._add(path, found)
        else:
            clips = counted(len(character.clips), "clip")
            self._bar.ask(
                f"The joints of {path.name} are named like those of {use.name}.",
                (f"Put its {clips} on {use.name}", lambda: self._add_clips(path, character)),
                ("Import it as another character", lambda: self._add(path, found)),
            )

    def _add(self, path: Path, loaded: Loaded) -> None:
        character = next(iter(loaded.characters.values()))
        use = project_of_character(character, path.resolve()).characters[0]
        self._session.files[use.file] = character
        project = self._session.project
        use = use.evolve(name=fresh_name(use.name, (u.name for u in project.characters)))
        stage = loaded.project.stage.evolve(character=use.id, ground=project.stage.ground)
        changed = project.evolve(characters=(*project.characters, use), stage=stage)
        self._session.reading_findings = (*self._session.reading_findings, *loaded.findings)
        if self._session.edit(f"Import {character.name}", lambda _p: changed):
            self._session.select("", "")
            self._session.said.emit(f"{use.name} is on stage; the others are listed above its clips", "fine")

    def _put(self, path: Path, loaded: Loaded) -> None:
        session = self._session
        file = str(path.resolve())
        # The same path may hold something newer: what was read before must not stand in for it.
        session.files[file] = next(iter(loaded.characters.values()))
        session.forget(file)
        session.edit(f"Replace by {path.name}", lambda p: with_character(p, lambda use: use.evolve(file=file)))
        session.refresh_characters()
        session.select("", "")
        use, character = session.project.character, session.character
        if use is not None and character is not None:
            missing = missing_names(session.project, use, character.facts)
            if missing:
                text = f"{len(missing)} names are not in {path.name}: pick others in the sheet"
                session.said.emit(text, "warning")
            else:
                session.said.emit(f"Everything still matches in {path.name}", "fine")

    # ---- motions --------------------------------------------------------------------------------

    def _add_clips(self, path: Path, character: Character) -> None:
        self._add_motions(path, motions_of(character.skeleton, (c for c in character.clips if len(c.heads))))

    def _add_motions(self, path: Path, motions: dict[str, Capture]) -> None:
        """Put a file's motions on the character on stage, as one step of undo."""
        session = self._session
        character, use = session.character, session.project.character
        if character is None or use is None:
            session.said.emit("Import a character first: a motion is put on its joints", "warning")
            return
        file = str(path.resolve())
        taken = [clip.name for clip in character.clips]
        added: list[CaptureUse] = []
        capture = next(iter(motions.values()))
        known = stored_map(map_folder(), capture.joints, character.skeleton.joint_names) or JointMap()
        matches = dict(known.matches) or propose_matches(capture, character)
        unit = guess_unit(capture, character, matches)
        lost = {m.clip: m for m in use.captures if (m.file, m.clip) not in session.captures and _called(m, path)}
        for clip, read in motions.items():
            session.captures[file, clip] = read
            if clip in lost:  # it takes the place of one whose file could not be read
                added.append(lost[clip].evolve(file=file))
                continue
            motion = CaptureUse(
                file=file, clip=clip, name=fresh_name(read.name, taken), unit=unit,
                matches=tuple(matches.items()), by_hand=known.by_hand,
            )  # fmt: skip
            taken.append(motion.name)
            added.append(motion)
        text = f"Import {path.name}"
        if not session.edit(text, lambda p: with_character(p, lambda u: _with_motions(u, added))):
            return
        if known.by_hand:
            session.said.emit(f"{path.name}: matched as its skeleton was by hand before; see the sheet", "fine")
        elif not matches:
            text = f"{path.name}: no joint is named like one of {use.name}'s; pick them in the sheet"
            session.said.emit(text, "warning")
        session.select("clip", added[0].name)


def _called(motion: CaptureUse, path: Path) -> bool:
    return Path(motion.file).name == path.name


def _with_motions(use: CharacterUse, motions: list[CaptureUse]) -> CharacterUse:
    """Return a character with motions, each in the place of the one of its id, or behind them all."""
    captures = use.captures
    for motion in motions:
        captures = replace_by_id(captures, motion)
    return use.evolve(captures=captures)


def _alike(character: Character, ours: Character) -> bool:
    names = character.skeleton.joint_names
    return len(set(names) & set(ours.skeleton.joint_names)) >= ALIKE * len(names)


def looked_over(loaded: Loaded) -> Loaded:
    """Look at what was read while nobody waits: what is found is kept for when it is asked for."""
    look_over(loaded.project, loaded.characters)
    to_text(loaded.project)
    loaded.check()
    return loaded
