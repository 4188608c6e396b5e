"""The window: rail, index, picture, sheet and score around one session and one engine."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

import wraithon
from wraithon.desktop.character_station import CharacterIndex, CharacterSheet
from wraithon.desktop.effects_station import EffectsIndex, EffectsSheet
from wraithon.desktop.engine import Engine
from wraithon.desktop.fields import Button, Readout, tool
from wraithon.desktop.keeping import Bar, Keeper
from wraithon.desktop.picture_view import PictureView
from wraithon.desktop.score import Score
from wraithon.desktop.session import Session
from wraithon.desktop.skin_tools import SkinTools
from wraithon.desktop.theme import BRICK, GROUND, MOSS, OCHRE, RAISED, SOFT, TEAL, icon
from wraithon.desktop.triggers_station import TriggersIndex, TriggersSheet
from wraithon.places import config_folder
from wraithon.stage.loading import CHARACTER_ENDINGS, CAPTURE_ENDINGS, Loaded

__all__ = ["Window"]

log = logging.getLogger(__name__)

SAID_SECONDS = 6
STATIONS = (
    ("character", "Character", "person-simple"),
    ("effects", "Effects", "sparkle"),
    ("triggers", "Triggers", "lightning"),
)


class Window(QMainWindow):
    """The one window of the program.

    Parameters
    ----------
    loaded
        The project to work on.
    save_folder
        Where saving goes without asking; None asks.
    opened
        What was opened, for the journal: a path, or empty.
    engine
        The engine to use; the window starts and stops it.

    Signals
    -------
    station_changed
        Another station is shown.
    """

    station_changed = Signal()

    def __init__(
        self,
        loaded: Loaded | None,
        save_folder: Path | None = None,
        opened: str = "",
        engine: Engine | None = None,
    ) -> None:
        super().__init__()
        self.session = Session(loaded)
        self.session.save_folder = save_folder
        self.engine = engine or Engine()
        self.playing = False
        self._closing = False
        self._problems_said: set[str] = set()
        self._shown = False
        self.began = time.perf_counter()
        """When the program began; whoever starts it knows better."""
        self.resize(1280, 800)
        self.setMinimumSize(900, 560)
        self.setAcceptDrops(True)
        self.bar = Bar()
        self.keeper = Keeper(self, self.session, self.bar, lambda: self.picture.view, opened)
        # Before all others that listen, so that the picture is under way while they work.
        self.session.changed.connect(self._send_project)
        self._build()
        self._actions()
        self._connect()
        self._restore()
        self._retitle()
        self._begin_at()
        self._send_all()
        self.skin_tools = SkinTools(self)
        self.picture.setFocus()
        self.engine.start()
        self.keeper.offer_left()

    def _begin_at(self) -> None:
        """Show the station where the work goes on, with its first thing selected."""
        project = self.session.project
        if project.effects:
            first = project.effects[0]
            self.station("effects")
            if first.layers:
                self.session.select("layer", first.layers[0].id)
            else:
                self.session.select("effect", first.id)
        else:
            self.station("character")

    # ---- building -------------------------------------------------------------------------------

    def _build(self) -> None:
        session = self.session
        self.picture = PictureView()
        self.picture.view = session.project.view
        self.picture.say("Getting ready")
        self.score = Score(session)
        self.character_index = CharacterIndex(session)
        self.effects_index, self.triggers_index = EffectsIndex(session), TriggersIndex(session)
        self.effects_sheet, self.triggers_sheet = EffectsSheet(session), TriggersSheet(session)
        self.character_sheet = CharacterSheet(session)
        self.indexes, self.sheets = QStackedWidget(), QStackedWidget()
        for index in (self.character_index, self.effects_index, self.triggers_index):
            self.indexes.addWidget(index)
        for sheet in (self.character_sheet, self.effects_sheet, self.triggers_sheet):
            self.sheets.addWidget(sheet)
        self.indexes.setMinimumWidth(160)
        self.sheets.setMinimumWidth(340)
        self.upper = QSplitter(Qt.Orientation.Horizontal)
        for widget, stretch in ((self.indexes, 0), (self.picture, 1), (self.sheets, 0)):
            self.upper.addWidget(widget)
            self.upper.setStretchFactor(self.upper.count() - 1, stretch)
        self.upper.setSizes([224, 592, 404])
        self.lower_half = QWidget()
        column = QVBoxLayout(self.lower_half)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._transport())
        column.addWidget(self.score, 1)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.addWidget(self.upper)
        self.split.addWidget(self.lower_half)
        self.split.setStretchFactor(0, 1)
        self.split.setSizes([602, 198])
        for splitter in (self.upper, self.split):
            splitter.setHandleWidth(4)
            splitter.setChildrenCollapsible(False)
        body = QWidget()
        whole = QHBoxLayout(body)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self.rail = self._rail()
        whole.addWidget(self.rail)
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(self.bar)
        right.addWidget(self.split, 1)
        whole.addLayout(right, 1)
        self.setCentralWidget(body)

    def _rail(self) -> QWidget:
        rail = QWidget()
        rail.setFixedWidth(56)
        rail.setStyleSheet(
            f"QWidget {{ background: {GROUND}; }}"
            "QToolButton { border: none; border-radius: 4px; padding: 5px 0; font-size: 10px; width: 52px; }"
            f"QToolButton {{ color: {SOFT}; }} QToolButton:hover {{ background: {RAISED}; }}"
            f"QToolButton:checked {{ color: {TEAL}; background: {RAISED}; }}"
            f"QToolButton:focus {{ border: 1px solid {TEAL}; }}"
            "QToolButton::menu-indicator { image: none; }"
        )
        column = QVBoxLayout(rail)
        column.setContentsMargins(2, 6, 2, 6)
        column.setSpacing(4)
        self.menu_button = self._rail_button("list", "Menu", "All commands")
        self.menu_button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        column.addWidget(self.menu_button)
        column.addSpacing(6)
        self.station_buttons: dict[str, QToolButton] = {}
        for k, (key, name, picture) in enumerate(STATIONS):
            button = self._rail_button(picture, name, f"{name} (Ctrl+{k + 1})")
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.clicked.connect(lambda _on=False, key=key: self.station(key))
            self.station_buttons[key] = button
            column.addWidget(button)
        column.addStretch(1)
        for picture, name, tip, action in (
            ("arrow-u-up-left", "Undo", "Undo (Ctrl+Z)", self.session.undo),
            ("arrow-u-up-right", "Redo", "Redo (Ctrl+Shift+Z)", self.session.redo),
            ("floppy-disk", "Save", "Save (Ctrl+S)", self.keeper.save),
        ):
            button = self._rail_button(picture, name, tip)
            button.clicked.connect(lambda _on=False, action=action: action())
            column.addWidget(button)
            setattr(self, f"{name.lower()}_button", button)
        return rail

    @staticmethod
    def _rail_button(picture: str, name: str, tip: str) -> QToolButton:
        button = QToolButton()
        button.setIcon(icon(picture))
        button.setIconSize(QSize(20, 20))
        button.setText(name)
        button.setToolTip(tip)
        button.setAccessibleName(name)
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def _transport(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(30)
        row.setObjectName("panel")
        row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(row)
        layout.setContentsMargins(8, 2, 8, 2)
        layout.setSpacing(2)
        layout.addWidget(tool("skip-back", "Rewind (Home)", lambda: self.seek(0.0)))
        layout.addWidget(tool("caret-left", "One step back (comma)", lambda: self.step(-1)))
        self.play_button = tool("play-fill", "Play or pause (Space)", self.toggle_play)
        layout.addWidget(self.play_button)
        layout.addWidget(tool("caret-right", "One step on (full stop)", lambda: self.step(1)))
        self.clock = Readout(170)
        layout.addWidget(self.clock)
        mark = Button(icon("flag"), "Mark event")
        mark.setObjectName("plain")
        mark.setToolTip("Mark the selected event, or a new one, on the clip at the playhead (E)")
        mark.clicked.connect(self.score.mark_here)
        layout.addWidget(mark)
        layout.addStretch(1)
        self.said = QLabel("")
        layout.addWidget(self.said)
        self.findings_button = Button()
        self.findings_button.setObjectName("plain")
        self.findings_button.setToolTip("What will not do what it seems to say; choose one to go there")
        self.findings_menu = QMenu(self)
        self.findings_menu.aboutToShow.connect(self._fill_findings)
        self.findings_button.setMenu(self.findings_menu)
        layout.addWidget(self.findings_button)
        self._said_timer = QTimer(self)
        self._said_timer.setSingleShot(True)
        self._said_timer.timeout.connect(lambda: self.said.setText(""))
        return row

    def _actions(self) -> None:
        menu = QMenu(self)
        groups: tuple[tuple[tuple[str, str, Callable[[], object]], ...], ...] = (
            (
                ("New project", "Ctrl+N", self.keeper.new_project),
                ("Open a project folder ...", "Ctrl+O", self.keeper.choose_project),
                ("Open the demo", "", self.keeper.open_demo),
                ("Bring in a character ...", "Ctrl+I", self.keeper.choose_character),
                ("Save", "Ctrl+S", self.keeper.save),
                ("Save as ...", "Ctrl+Shift+S", self.keeper.save_as),
            ),
            (
                ("Undo", "Ctrl+Z", self.session.undo),
                ("Redo", "Ctrl+Shift+Z", self.session.redo),
                ("Duplicate", "Ctrl+D", self.duplicate),
                ("Delete", "Del", self.delete),
            ),
            (
                ("Play or pause", "Space", self.toggle_play),
                ("Rewind", "Home", lambda: self.seek(0.0)),
                ("One step back", ",", lambda: self.step(-1)),
                ("One step on", ".", lambda: self.step(1)),
                ("Mark event at the playhead", "E", self.score.mark_here),
                ("Fire the selected effect", "Ctrl+Return", self.effects_index.fire),
                ("Mute layer", "M", self.effects_index.toggle_mute),
                ("Solo layer", "S", self.effects_index.solo),
            ),
            (
                ("Frame the character", "F", self.picture.frame_all),
                ("From the front", "Alt+1", lambda: self._look(0, 4)),
                ("From her left", "Alt+2", lambda: self._look(90, 4)),
                ("From above", "Alt+3", lambda: self._look(0, 88)),
                ("From the back", "Alt+4", lambda: self._look(180, 4)),
                ("Only the picture (Tab in the picture)", "Ctrl+Tab", self.toggle_panels),
                ("Next area", "F6", self.next_area),
                ("Keep this picture", "K", self.picture.keep_picture),
                ("Compare with the kept picture", "Shift+K", self.compare),
            ),
            (
                ("About Wraithon", "", self.about),
                ("Quit", "Ctrl+Q", self.close),
            ),
        )
        for k, group in enumerate(groups):
            if k:
                menu.addSeparator()
            for words, keys, action in group:
                entry = QAction(words, self)
                if keys:
                    entry.setShortcut(QKeySequence(keys))
                    entry.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
                entry.triggered.connect(lambda _on=False, action=action: action())
                menu.addAction(entry)
                self.addAction(entry)
        for k, (key, name, _) in enumerate(STATIONS):
            entry = QAction(name, self)
            entry.setShortcut(QKeySequence(f"Ctrl+{k + 1}"))
            entry.triggered.connect(lambda _on=False, key=key: self.station(key))
            self.addAction(entry)
        self.menu_button.setMenu(menu)

    def _connect(self) -> None:
        session, engine = self.session, self.engine
        queued = Qt.ConnectionType.QueuedConnection
        engine.shot_ready.connect(self._take_shot, queued)
        engine.busy.connect(self._busy, queued)
        engine.failed.connect(lambda words: self._say(words, "error"), queued)
        session.changed.connect(self._project_changed)
        session.loaded.connect(self._project_loaded)
        session.selected.connect(lambda _kind, _what: self._mark_places())
        session.selected.connect(self._follow_selection)
        session.said.connect(self._say)
        self.picture.panels_wanted.connect(self.toggle_panels)
        self.picture.view_changed.connect(lambda view: engine.send(view=view))
        self.picture.resized.connect(lambda wide, high: engine.send(size=(wide, high), redraw=True))
        self.score.sought.connect(self.seek)
        self.effects_index.fired.connect(self.fire)
        self.character_index.wanted.connect(self.keeper.choose_character)
        self.character_sheet.anchor_wanted.connect(self.character_index.add_anchor)
        self.character_sheet.replacement_wanted.connect(self.keeper.choose_replacement)
        self.effects_sheet.source.masks_wanted.connect(self._mask_wanted)
        self._show_findings()
        self._show_history()

    # ---- the engine -----------------------------------------------------------------------------

    def _send_all(self) -> None:
        session = self.session
        self.engine.send(
            project=session.project,
            characters=session.characters,
            shelf=session.shelf,
            view=self.picture.view,
            size=self.picture.picture_size(),
            playing=self.playing,
        )

    def _take_shot(self) -> None:
        shot = self.engine.take()
        if shot is None or self._closing:
            return
        if not self._shown:
            self._shown = True
            log.info("first picture %.2f s after the program began", time.perf_counter() - self.began)
        self.picture.show_shot(shot)
        self.score.show_shot(shot)
        self.skin_tools.show_shot(shot)
        rate = self.session.project.step_rate
        self.clock.set_text(f"{shot.time:8.3f} s  step {round(shot.time * rate) % rate:02d}")
        self._mark_places()
        for problem in shot.problems:
            if problem not in self._problems_said:
                self._problems_said.add(problem)
                self._say(problem, "error")

    def _busy(self, words: str, share: float) -> None:
        if words:
            self.picture.say(words, share)
        elif self.picture.shot is not None or self.picture.words.startswith("Getting ready"):
            self.picture.say("")

    def _mark_places(self) -> None:
        shot = self.picture.shot
        kind, what = self.session.selection
        project = self.session.project
        self.picture.marked, self.picture.joint = [], None
        if shot is None:
            return
        wanted = []
        if kind == "anchor" and self.at != "character":
            wanted = [what]
        elif kind == "event" and (event := project.event(what)):
            wanted = [event.anchor or ""]
        elif kind == "trigger" and (trigger := project.trigger(what)):
            wanted = [s.anchor or "" for s in trigger.response]
        for key in wanted:
            anchor = project.anchor(key)
            if anchor is not None and key in shot.places:
                self.picture.marked.append((anchor.name, shot.places[key]))
        character = self.session.character
        if kind == "joint" and character is not None:
            node = character.skeleton.index.get(what)
            if node is not None and node < len(shot.joints):
                self.picture.joint = shot.joints[node]
        self.picture.update()

    def _mask_wanted(self) -> None:
        """Go and paint the mask that a filter asked for."""
        self.station("character")
        self.character_index.add_mask()
        self._say("Paint where births may fall, then choose the mask in the layer's filter", "fine")

    def toggle_play(self) -> None:
        """Play or pause."""
        self.set_playing(not self.playing)

    def set_playing(self, playing: bool) -> None:
        """Play, or pause."""
        self.playing = playing
        self.play_button.setIcon(icon("pause-fill" if playing else "play-fill", TEAL if playing else SOFT))
        self.engine.send(playing=playing, redraw=True)

    def seek(self, time: float) -> None:
        """Go to a moment of the show, in seconds; playing goes on from there."""
        self.engine.send(seek=time)

    def step(self, count: int) -> None:
        """Pause, and go some steps on or back."""
        self.set_playing(False)
        self.engine.step(count)

    def fire(self, effect_id: str) -> None:
        """Start an effect now, at the anchor its first trigger uses, and play."""
        self.engine.fire(effect_id, self._anchor_for(effect_id))
        if not self.playing:
            self.set_playing(True)

    def _anchor_for(self, effect_id: str) -> str | None:
        project = self.session.project
        for trigger in project.triggers:
            event = project.event(trigger.when.event) if trigger.when.kind == "event" else None
            for step in trigger.response:
                if step.effect == effect_id:
                    return step.anchor or (event.anchor if event else None)
        use = project.character
        return use.anchors[0].id if use and use.anchors else None

    # ---- the project ----------------------------------------------------------------------------

    def _send_project(self) -> None:
        self.engine.send(project=self.session.project, characters=self.session.characters)

    def _project_changed(self) -> None:
        self._retitle()
        self._show_findings()
        self._show_history()

    def _project_loaded(self) -> None:
        self._problems_said = set()
        self.picture.view = self.session.project.view
        self.picture.shot = None
        self.playing = False
        self._send_all()
        self._begin_at()

    def _retitle(self) -> None:
        dot = "• " if self.session.history.unsaved else ""
        self.setWindowTitle(f"{dot}{self.session.project.name} — Wraithon")

    def _show_history(self) -> None:
        history = self.session.history
        for button, label, word, keys in (
            (self.undo_button, history.undo_label, "Undo", "Ctrl+Z"),  # type: ignore[attr-defined]
            (self.redo_button, history.redo_label, "Redo", "Ctrl+Shift+Z"),  # type: ignore[attr-defined]
        ):
            button.setEnabled(label is not None)
            button.setToolTip(f"{word}: {label} ({keys})" if label else f"Nothing to {word.lower()} ({keys})")
        self.save_button.setEnabled(history.unsaved or self.session.save_folder is None)  # type: ignore[attr-defined]

    def _show_findings(self) -> None:
        findings = self.session.findings()
        errors = sum(f.level == "error" for f in findings)
        if not findings:
            self.findings_button.setText("all well")
            self.findings_button.setIcon(icon("check-circle", MOSS))
        else:
            words = "finding" if len(findings) == 1 else "findings"
            self.findings_button.setText(f"{len(findings)} {words}")
            self.findings_button.setIcon(icon("x-circle", BRICK) if errors else icon("warning", OCHRE))
        self.findings_button.setEnabled(bool(findings))

    def _fill_findings(self) -> None:
        self.findings_menu.clear()
        for finding in self.session.findings()[:40]:
            colour, picture = (BRICK, "x-circle") if finding.level == "error" else (OCHRE, "warning")
            words = f"{finding.place}: {finding.message}"
            entry = self.findings_menu.addAction(icon(picture, colour), words)
            entry.triggered.connect(lambda _on=False, about=finding.about: self._go_to(about))

    def _go_to(self, about: str) -> None:
        project = self.session.project
        for kind, found, station in (
            ("layer", project.layer(about), "effects"),
            ("effect", project.effect(about), "effects"),
            ("trigger", project.trigger(about), "triggers"),
            ("anchor", project.anchor(about), "character"),
        ):
            if found is not None:
                self.station(station)
                self.session.select(kind, about)
                return
        self.station("character")

    def _say(self, words: str, kind: str) -> None:
        colour = {"error": "#f08a80", "warning": OCHRE}.get(kind, SOFT)
        metrics = self.said.fontMetrics()
        self.said.setText(metrics.elidedText(words, Qt.TextElideMode.ElideMiddle, 520))
        self.said.setToolTip(words)
        self.said.setStyleSheet(f"color: {colour}; padding-right: 10px;")
        self._said_timer.start(SAID_SECONDS * 1000 * (3 if kind == "error" else 1))
        if kind == "error":
            log.warning("said: %s", words)

    # ---- stations and panels --------------------------------------------------------------------

    def station(self, key: str) -> None:
        """Show a station's index and sheet."""
        number = [name for name, _, _ in STATIONS].index(key)
        self.indexes.setCurrentIndex(number)
        self.sheets.setCurrentIndex(number)
        self.station_buttons[key].setChecked(True)
        self.station_changed.emit()

    @property
    def at(self) -> str:
        """The station that is shown."""
        return STATIONS[self.indexes.currentIndex()][0]

    def _follow_selection(self, kind: str, _what: str) -> None:
        if kind in {"mark", "event", "trigger"} and self.indexes.currentIndex() != 2:
            self.station("triggers")

    def toggle_panels(self) -> None:
        """Show only the picture, or everything again."""
        hide = self.indexes.isVisible()
        for widget in (self.indexes, self.sheets, self.lower_half, self.rail):
            widget.setVisible(not hide)

    def next_area(self) -> None:
        """Give the keyboard to the next of index, picture, sheet and score."""
        areas = (self.indexes.currentWidget(), self.picture, self.sheets.currentWidget(), self.score)
        focus = self.focusWidget()
        here = next((k for k, area in enumerate(areas) if area is focus or area.isAncestorOf(focus)), -1)
        area = areas[(here + 1) % len(areas)]
        if area in {self.picture, self.score}:
            area.setFocus(Qt.FocusReason.ShortcutFocusReason)
        else:
            first = area.nextInFocusChain()
            while first is not area and not (first.focusPolicy() & Qt.FocusPolicy.TabFocus and first.isVisible()):
                first = first.nextInFocusChain()
            first.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def compare(self) -> None:
        """Wipe between the kept picture and now."""
        if not self.picture.toggle_wipe() and self.picture._kept is None:  # noqa: SLF001  # only to say why
            self._say("Keep a picture first (K), then compare", "warning")

    def _look(self, azimuth: float, elevation: float) -> None:
        self.picture.set_view(self.picture.view.but(azimuth=azimuth, elevation=elevation))

    def duplicate(self) -> None:
        """Duplicate what is selected."""
        kind = self.session.selection[0]
        if kind in {"layer", "effect"}:
            self.effects_index.duplicate()
        elif kind == "trigger":
            self.triggers_index.duplicate()
        elif kind == "mark":
            self.score.duplicate_mark()

    def delete(self) -> None:
        """Delete what is selected."""
        kind = self.session.selection[0]
        if kind in {"layer", "effect"}:
            self.effects_index.remove()
        elif kind in {"trigger", "event"}:
            self.triggers_index.remove()
        elif kind == "mark":
            self.score.remove_selected()
        elif kind == "anchor":
            self.character_index.remove()

    # ---- closing --------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.keeper.may_lose():
            event.ignore()
            return
        self.shut()
        event.accept()

    def shut(self) -> None:
        """Stop everything; the journal is cleared because the work was saved or given up."""
        if self._closing:
            return
        self._closing = True
        self._said_timer.stop()
        self.keeper.stop()
        settings = _settings()
        settings.setValue("upper", self.upper.saveState())
        settings.setValue("split", self.split.saveState())
        settings.setValue("geometry", self.saveGeometry())
        self.engine.stop()

    def _restore(self) -> None:
        settings = _settings()
        for key, restore in (
            ("geometry", self.restoreGeometry),
            ("upper", self.upper.restoreState),
            ("split", self.split.restoreState),
        ):
            value = settings.value(key)
            if isinstance(value, QByteArray):
                restore(value)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(_droppable(Path(url.toLocalFile())) for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            path = Path(url.toLocalFile())
            if path.suffix.lower() in CHARACTER_ENDINGS | CAPTURE_ENDINGS:
                self.keeper.bring_in(path)
                return
            if _droppable(path) and self.keeper.may_lose():
                self.keeper.open_path(path)
                return

    def about(self) -> None:
        """Say what this is."""
        self._say(f"Wraithon {wraithon.__version__}, MIT licence. Effects born on skinned characters.", "fine")


def _droppable(path: Path) -> bool:
    return path.suffix.lower() in CHARACTER_ENDINGS | CAPTURE_ENDINGS or (path / "project.json").is_file()


def _settings() -> QSettings:
    return QSettings(str(config_folder() / "window.ini"), QSettings.Format.IniFormat)
