"""What the window works on: the project with its history, its folder, and what is selected."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic import ValidationError
from PySide6.QtCore import QObject, Signal

from wraithon.desktop.session.aside import Aside
from wraithon.desktop.widgets.basics import counted
from wraithon.interchange.folders import save_whole
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.checks.finding import Finding, mended
from wraithon.project.findings import check
from wraithon.project.history import History
from wraithon.project.project import Project
from wraithon.project.refusing import refusal
from wraithon.project.resolving.references import reached
from wraithon.project.things import THINGS, find, with_value
from wraithon.stage.fitness import fitness_findings, look_over
from wraithon.stage.retarget_cache import CaptureKey, RetargetCache
from wraithon.studio.refusals import Refusals
from wraithon.studio.sheets import Sheets
from wraithon.studio.survey import survey_findings
from wraithon.studio.view_overrides import ViewOverrides
from wraithon.support.errors import WraithonError
from wraithon.support.identity import same_objects

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.character.reading.bvh import Capture
    from wraithon.project.checks.finding import Remedy
    from wraithon.project.effect import Effect
    from wraithon.project.project import View
    from wraithon.stage.loading import Loaded
    from wraithon.studio.survey import Survey


log = logging.getLogger(__name__)

Edit = Callable[[Project], Project]
AT_ONCE = 4000
"""Turns of joints that are worked out before the window goes on."""
NEARER = 1.25
"""How many times nearer or farther the camera stands than before for findings to be found anew."""
MAX_NAMED = 3
"""Files that are named in one line."""
STALE = 0.5
"""Seconds after which findings are looked for again in an unchanged project."""


class Session(QObject):
    """The one place where the project changes; everything else listens.

    Signals
    -------
    changed
        The project is another one.
    loaded
        A different project was opened: characters and folder changed, too.
    selected
        The selection changed: kind ("effect", "layer", "trigger", "part", "joint", "clip", "anchor",
        "event", "mark" or "") and id.
    wished
        What is wished to be seen for now is something else (see `overrides`).
    noticed
        Something was found out about the project as it is (see `surveys`).
    said
        Something to tell the user in passing: words and kind ("fine", "warning", "error").
    """

    changed = Signal()
    loaded = Signal()
    selected = Signal(str, str)
    wished = Signal()
    noticed = Signal()
    said = Signal(str, str)

    def __init__(self, loaded: Loaded | None = None) -> None:
        super().__init__()
        self.history = History(loaded.project if loaded else Project())
        self.folder: Path | None = loaded.folder if loaded else None
        self.save_folder: Path | None = None
        self.characters: dict[str, Character] = dict(loaded.characters) if loaded else {}
        self.files: dict[str, Character] = dict(loaded.files) if loaded else {}
        """What was read from each character file, by the name the project gives it."""
        self.captures: dict[CaptureKey, Capture] = dict(loaded.captures) if loaded else {}
        self._retarget_cache = loaded.retarget_cache if loaded else RetargetCache()
        self._dressed = self._clothes()
        self._unfit = loaded.unfit if loaded else ()
        """Which motions are not on the characters, and why."""
        self._dressing = Aside()
        self._dressing.done.connect(self._dressed_aside)
        self.reading_findings: tuple[Finding, ...] = loaded.findings if loaded else ()
        self.library = TextureLibrary(self.folder)
        self.selection: tuple[str, str] = ("", "")
        self.also: tuple[str, ...] = ()
        """Ids of other things of the same kind that are selected, too."""
        self.overrides = ViewOverrides()
        """Layers that are muted or shown alone for now."""
        self._played = self.project, self.overrides, self.project
        self.earlier_models: dict[tuple[str, ...], object] = {}
        """What a choice held before another was taken, for when it is taken back."""
        self._surveys: dict[str, Survey] = {}
        self._refusals = Refusals()
        self._sheets = Sheets()
        self._seen_from: View | None = None
        """From where the artist looks, where that is nearer or farther than the project's own view."""
        self._found: tuple[Finding, ...] = ()
        self._checked: tuple[object, ...] = ()
        self._checked_at = 0.0

    # ---- project --------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """The current project."""
        return self.history.project

    @property
    def played(self) -> Project:
        """The current project as it is wished to be seen for now."""
        project, overrides, played = self._played
        if project is not self.project or overrides is not self.overrides:
            played = self.overrides.played(self.project)
            self._played = self.project, self.overrides, played
        return played

    def wish(self, overrides: ViewOverrides) -> None:
        """Wish to see something else for now: no edit of the project."""
        if overrides != self.overrides:
            self.overrides = overrides
            self.wished.emit()

    @property
    def character(self) -> Character | None:
        """What was read from the file of the character on stage."""
        use = self.project.character
        return self.characters.get(use.id) if use else None

    def open(self, loaded: Loaded, save_folder: Path | None) -> None:
        """Work on another project; `save_folder` is where saving goes without asking."""
        self.history = History(loaded.project)
        self.folder, self.save_folder = loaded.folder, save_folder
        self.characters = dict(loaded.characters)
        self.files, self.captures = dict(loaded.files), dict(loaded.captures)
        self._retarget_cache, self._unfit = loaded.retarget_cache, loaded.unfit
        self._dressed = self._clothes()
        self.reading_findings = loaded.findings
        self.library = TextureLibrary(self.folder)
        self.selection, self.also = ("", ""), ()
        self.overrides, self._seen_from = ViewOverrides(), None
        self.changed.emit()
        self.selected.emit("", "")
        self.loaded.emit()

    def edit(self, label: str, change: Edit, merge: str = "", *, final: bool = False) -> bool:
        """Change the project; edits in a row with the same `merge` key become one step of undo until a `final` one.

        A change the project's models refuse changes nothing and is said in words; returns whether
        anything changed.
        """
        try:
            project = change(self.project)
        except ValidationError as error:
            self.said.emit(f"{label}: {refusal(error)}", "error")
            self.changed.emit()  # editors show again what holds
            return False
        recorded = self.history.record(project, label, merge, (*self.selection, *self.also))
        if final:
            self.history.seal()
        if recorded:
            self._dress()
            self.changed.emit()
        return recorded

    def set_value(
        self, kind: str, what: str, path: str, value: object, text: str, *, final: bool = True,
        each: Callable[[Any], Any] | None = None,
    ) -> bool:  # fmt: skip
        """Set the value at a path of a thing (see `project.things`), as one step of undo until the gesture is over.

        Of a layer that is selected with others it reaches them, too, where they have such a place: as it is, or as
        what `each` makes of their own.

        Returns whether anything changed.
        """

        def change(project: Project) -> Project:
            if kind == "layer" and self.selection == (kind, what) and self.also:
                return reached(project, what, self.also, path, value, each)
            return with_value(project, kind, what, path, value)

        return self.edit(text, change, merge=f"{text} {kind} {what} {path}", final=final)

    def mend(self, remedy: Remedy) -> bool:
        """Apply the remedy of a finding, as one step of undo; return whether anything changed."""
        return self.edit(remedy.text, lambda project: mended(project, remedy), final=True)

    def _clothes(self) -> tuple[object, ...]:
        """Return what the characters are made of: their files, names of clips, and the motions put on them."""
        uses = self.project.characters
        names = (tuple((c.name, c.file_name) for c in use.clips if c.file_name) for use in uses)
        return tuple((use.id, use.file, use.captures, called) for use, called in zip(uses, names, strict=True))

    @property
    def dressing(self) -> bool:
        """Whether motions are being put on characters, which are as they were until that is done."""
        return self._dressing.busy

    def _dressed_aside(self, problem: str) -> None:
        if problem:
            self.said.emit(f"A motion could not be put on the character: {problem}", "error")
            self._dressed = self._clothes()
        else:
            self._dress()
        self.changed.emit()

    def _dress(self) -> None:
        """Make the characters anew when an edit changed what they are made of; aside, where that takes long."""
        clothes = self._clothes()
        if clothes == self._dressed:
            return
        made_of = (self.project, dict(self.files), dict(self.captures))
        if self._retarget_cache.work(*made_of) > AT_ONCE:
            self._dressing.start(partial(self._dressed_and_measured, *made_of))
            return
        before = {use[0]: use for use in self._dressed}  # type: ignore[index]
        made, unfit = self._retarget_cache.with_motions(*made_of)
        self._unfit = tuple(unfit)
        for key, now in ((use[0], use) for use in clothes):  # type: ignore[index]
            if before.get(key) == now and key in self.characters:
                made[key] = self.characters[key]
        self.characters, self._dressed = made, clothes

    def _dressed_and_measured(
        self, project: Project, files: dict[str, Character], captures: dict[CaptureKey, Capture]
    ) -> None:
        """Dress characters beside the window, and measure their clips: both are kept for when they are asked for."""
        made, _ = self._retarget_cache.with_motions(project, files, captures)
        look_over(project, made)

    def forget(self, *files: str) -> None:
        """Remake the characters of some files, whose content has changed."""
        self._dressed = tuple(
            use
            for use in self._dressed
            if use[1] not in files and not any(capture.file in files for capture in use[2])  # type: ignore[index]
        )

    def refresh_characters(self) -> None:
        """Make characters anew where what they are made of has changed, and tell."""
        self._dress()
        self.changed.emit()

    def look_again(self) -> None:
        """Tell that files have changed which the project names: what was missing may be there."""
        self._checked = ()
        self.changed.emit()

    def stop(self) -> None:
        """Stop what is being done aside."""
        self._dressing.wait()

    def undo(self) -> None:
        """Take the last edit back."""
        label = self.history.undo_label
        if label is not None:
            was = self.project
            self.history.undo()
            self._after_history(was, self.history.redo_note)
            self.said.emit(f"Undone: {label}", "fine")

    def redo(self) -> None:
        """Bring the last undone edit back."""
        label = self.history.redo_label
        if label is not None:
            self.history.redo()
            self._after_history(self.project)
            self.said.emit(f"Redone: {label}", "fine")

    def go_to_step(self, position: int) -> None:
        """Undo or redo until so many edits are done."""
        was, before = self.project, self.history.position
        if position == before:
            return
        self.history.go_to(position)
        self._after_history(was)
        steps = abs(self.history.position - before)
        word = "Undone" if position < before else "Redone"
        self.said.emit(f"{word}: {counted(steps, 'edit')}", "fine")

    def _after_history(self, was: Project, noted: object = None) -> None:
        """Let go of selected things that are gone; take up what was selected (`noted`) when it has come back."""
        before: tuple[str, ...] = noted if isinstance(noted, tuple) else ("", "")
        kind, what = self.selection
        back = not _has(was, before[:2]) and _has(self.project, before[:2])
        gone = bool(kind) and not _has(self.project, self.selection)
        self._dress()
        if kind == "clip" and not self._has_clip(what):
            gone, back = True, back or (before[0] == "clip" and self._has_clip(before[1]))
        self.changed.emit()
        if back:
            self.select(*before)
        elif gone:
            self.select("", "")
        elif self.also:
            self.select(kind, what, *(other for other in self.also if _has(self.project, (kind, other))))

    def _has_clip(self, name: str) -> bool:
        use = self.project.character
        if use is not None and any(motion.name == name for motion in use.captures):
            return True
        return self.character is not None and self.character.clip(name) is not None

    # ---- selection ------------------------------------------------------------------------------

    @property
    def chosen(self) -> tuple[str, ...]:
        """Ids of all that is selected, the one that the sheet shows first; empty without any."""
        return (self.selection[1], *self.also) if self.selection[0] else ()

    def select(self, kind: str, what: str, *also: str) -> None:
        """Select a thing by kind and id, and others of its kind."""
        also = tuple(other for other in dict.fromkeys(also) if other != what)
        if (self.selection, self.also) != ((kind, what), also):
            self.history.seal()
            self.selection, self.also = (kind, what), also
            self.selected.emit(kind, what)

    # ---- findings and files ---------------------------------------------------------------------

    def findings(self) -> tuple[Finding, ...]:
        """Return what was noticed while reading and all findings of the project as it is."""
        made_of = (self.project, self.characters, self.reading_findings, self._unfit)
        # Textures may come and go on the disk.
        if not same_objects(made_of, self._checked) or time.monotonic() - self._checked_at > STALE:
            facts = {key: character.facts for key, character in self.characters.items()}
            textures, sounds = frozenset(self.library.names()), frozenset(self.library.sounds.names())
            seen_from = self._seen_from or self.project.view
            found = check(self.project.evolve(view=seen_from), facts, textures, sounds)
            fitness = fitness_findings(self.project, self.characters)
            frames = self._sheets.findings(self.project, self.library)
            surveys = (self.survey_of(effect) for effect in self.project.effects)
            seen = (finding for survey in surveys if survey is not None for finding in survey_findings(survey))
            refused = self._refusals.findings(self.project)
            self._found = (*self.reading_findings, *self._unfit, *found, *refused, *frames, *seen, *fitness)
            self._checked, self._checked_at = made_of, time.monotonic()
        return self._found

    def look_from(self, view: View) -> None:
        """Set from where the artist looks: how many pixels something takes goes by that.

        What is found is found anew only where that makes a difference: a large project takes its time.
        """
        if not 1 / NEARER < view.metres_high / (self._seen_from or self.project.view).metres_high < NEARER:
            self._seen_from, self._checked = view, ()
            self.noticed.emit()

    def survey_of(self, effect: Effect) -> Survey | None:
        """Return what a firing of an effect, as it is, was seen to do; None where that is not known."""
        survey = self._surveys.get(effect.id)
        return survey if survey is not None and survey.effect is effect else None

    def take_survey(self, survey: Survey) -> None:
        """Take the survey of a firing; one that was edited since is surveyed again."""
        self._surveys[survey.effect.id] = survey
        self._checked = ()
        self.noticed.emit()

    def take_refused(self, refused: dict[str, int]) -> None:
        """Take how many births of each layer the show has refused."""
        if self._refusals.count(self.project, refused):
            self._checked = ()
            self.noticed.emit()

    def save(self, folder: Path) -> bool:
        """Save into a folder, bringing along the files the project uses; say what went wrong."""
        brought = {*self.files, *(file for file, _ in self.captures)}
        try:
            project, renamed, left_out = save_whole(self.project, self.folder, folder, brought)
        except (WraithonError, OSError) as error:
            log.warning("saving: %s", error)
            self.said.emit(f"Not saved: {error}", "error")
            return False
        if project != self.project:
            self.history.amend(project)
        self.files |= {there: self.files[name] for name, there in renamed.items() if name in self.files}
        self.captures |= {
            (renamed[name], clip): motion for (name, clip), motion in self.captures.items() if name in renamed
        }
        self.folder = self.save_folder = folder
        self.library = TextureLibrary(folder)
        self.history.mark_saved()
        self.changed.emit()
        if left_out:
            more = f" and {len(left_out) - MAX_NAMED} more (the log lists them)" if len(left_out) > MAX_NAMED else ""
            log.warning("%s: saved without %s", folder, "; ".join(left_out))
            text = f"Saved in {folder} without {', '.join(left_out[:MAX_NAMED])}{more}"
            self.said.emit(text, "warning")
        else:
            self.said.emit(f"Saved in {folder}", "fine")
        return True


def _has(project: Project, selection: tuple[str, ...]) -> bool:
    """Return whether what is selected is there; of what no project holds (joints, parts) there is no telling."""
    kind, what = selection
    return kind not in THINGS or find(project, kind, what) is not None
