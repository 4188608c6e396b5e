"""The window: rail, index, picture, sheet and timeline around one session and one engine."""

from __future__ import annotations

import logging
import time
from pathlib import Path

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QHideEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from wraithon.desktop.areas import focus_next
from wraithon.desktop.auditioning import Auditioning
from wraithon.desktop.commands import key_groups, menu_of
from wraithon.desktop.compares import Compares
from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.engine.speaker import Speaker
from wraithon.desktop.export_sheet import ExportSheet
from wraithon.desktop.finder import Finder
from wraithon.desktop.folding import TIMELINE, Folding, Folds
from wraithon.desktop.help import AboutView, HelpView, topic_of
from wraithon.desktop.picks import Picks
from wraithon.desktop.picture.anchor_gizmo import AnchorGizmo
from wraithon.desktop.picture.framing import points_of
from wraithon.desktop.picture.picture_view import PictureView
from wraithon.desktop.picture.snapshot_strip import SnapshotStrip
from wraithon.desktop.picture.tools import PictureTools
from wraithon.desktop.playing import Plays
from wraithon.desktop.preferences_sheet import PreferencesSheet, apply_keys
from wraithon.desktop.rail import Rail
from wraithon.desktop.rehearse.keys import DrivingKeys
from wraithon.desktop.remembered import remember, restore
from wraithon.desktop.session.bar import Bar
from wraithon.desktop.session.keeping import Keeper
from wraithon.desktop.session.recents import note_recent
from wraithon.desktop.session.session import Session
from wraithon.desktop.start_view import StartView
from wraithon.desktop.stations import STATIONS, Station
from wraithon.desktop.timeline.timeline import Timeline
from wraithon.desktop.transport import Transport
from wraithon.desktop.undo_list import UndoList
from wraithon.desktop.widgets.ahead import Ahead
from wraithon.desktop.widgets.basics import column_of, tool
from wraithon.desktop.widgets.panels import Index, Sheet
from wraithon.picture.pace import Pace
from wraithon.project.edit import sounds_of
from wraithon.project.history import History
from wraithon.project.project import View
from wraithon.project.things import FOUND_BY_ID, THINGS, anchors_of, find
from wraithon.stage.loading import Loaded
from wraithon.stage.player import Player
from wraithon.studio.refusals import refused_by_layer
from wraithon.support.preferences import Preferences, load_preferences

log = logging.getLogger(__name__)

STANDS = 400
"""Milliseconds after which a camera that was moved stands still."""
CLOSE = 0.25
"""Metres around a joint or an anchor that are looked at."""


class Window(Plays, Folds, Compares, Picks, QMainWindow):
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
    """

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
        self.auditioning = Auditioning(self, self.session, self.engine)
        self.playing = False
        self.speaker = Speaker(self)
        self._closing, self._seen = False, True
        self.export_sheet: ExportSheet | None = None
        self.help_view: HelpView | None = None
        self.preferences_sheet: PreferencesSheet | None = None
        self._problems_said: set[str] = set()
        self._shown, self._ahead = False, Ahead(self)
        self._stands = QTimer(self, singleShot=True, interval=STANDS)
        """Over when the camera has stood still."""
        self._stands.timeout.connect(lambda: self.session.look_from(self.picture.view))
        self._lens = self.session.project.view.fov
        self._selected_at: dict[str, tuple[str, str]] = {}
        """What was selected in each station when it was left."""
        self.began = time.perf_counter()
        """When the program began; whoever starts it knows better."""
        self.resize(1280, 800)
        self.setMinimumSize(900, 560)
        self.setAcceptDrops(True)
        self.picture, self.timeline, self.bar = PictureView(), Timeline(self.session), Bar()
        self.keeper = Keeper(self, self.session, self.bar, self._view, opened)
        # Before all others that listen, so that the picture is under way while they work.
        self.session.changed.connect(self._send_project)
        self.session.wished.connect(self._send_project)
        self._build()
        self.rail.set_menu(menu_of(self, self))
        self.start_view = StartView(self, self.picture, self.open_recent)
        self.finder = Finder(self, self.session, self.go_to_thing)
        self.undo_list = UndoList(self, self.session)
        self.finder.set_commands(self.actions())
        self.apply_preferences(load_preferences())
        self._connect()
        restore(self, upper=self.upper, split=self.split)
        self.folding.restore()
        self._project_changed()
        self._begin_at()
        self._send_all()
        self.refresh_tools()
        self.picture.setFocus()
        self.engine.start()
        self.keeper.offer_left()

    def _view(self) -> View:
        return self.picture.view

    def _begin_at(self) -> None:
        """Show the station where the work goes on, with its first thing selected."""
        project = self.session.project
        first = project.effects[0] if project.effects else None
        thing = ("layer", first.layers[0].id) if first and first.layers else ("effect", first.id) if first else None
        home = _home_of(thing[0]) if thing else STATIONS[0]
        self.station(home.key)
        if thing is not None:
            self.session.select(*thing)
        self.auditioning.rest()

    # ---- building -------------------------------------------------------------------------------

    def _build(self) -> None:
        self.picture.view = self.session.project.view
        self.picture.show_message("Getting ready")
        self.tools, self.keys = PictureTools(self.picture, self.engine, self.session), DrivingKeys(self)
        self.indexes, self.sheets = QStackedWidget(), QStackedWidget()
        for station in STATIONS:
            index, sheet = station.build(self)
            self.indexes.addWidget(index)
            self.sheets.addWidget(sheet)
        self.indexes.setMinimumWidth(160)
        self.sheets.setMinimumWidth(340)
        for station in STATIONS:
            self.index(station.key).head.addWidget(tool("caret-left", "Collapse this list (F7)", self.fold_index))
        self.upper = QSplitter(Qt.Orientation.Horizontal)
        self.snapshot_strip = SnapshotStrip(self.session, self.picture.comparing)
        self.snapshot_strip.wanted.connect(self.show_snapshot)
        middle = QWidget()
        seen = column_of(middle, 0)
        seen.addWidget(self.snapshot_strip)
        seen.addWidget(self.picture, 1)
        for widget, stretch in ((self.indexes, 0), (middle, 1), (self.sheets, 0)):
            self.upper.addWidget(widget)
            self.upper.setStretchFactor(self.upper.count() - 1, stretch)
        self.upper.setSizes([224, 606, 390])
        self.transport = Transport(self)
        self.lower_half = QWidget()
        column = column_of(self.lower_half, 0)
        column.addWidget(self.transport)
        column.addWidget(self.timeline, 1)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.addWidget(self.upper)
        self.split.addWidget(self.lower_half)
        self.split.setStretchFactor(0, 1)
        self.split.setSizes([602, TIMELINE])
        for splitter in (self.upper, self.split):
            splitter.setHandleWidth(4)
            splitter.setChildrenCollapsible(False)
        self.rail = Rail(self, STATIONS)
        others = (self.sheets, self.lower_half, self.rail)
        self.folding = Folding(self.indexes, self.timeline, self.transport, self.split, others)
        body = QWidget()
        whole, right = QHBoxLayout(body), QVBoxLayout()
        for layout in (whole, right):
            layout.setContentsMargins(0, 0, 0, 0)
            layout.setSpacing(0)
        whole.addWidget(self.rail)
        whole.addWidget(self.folding.unfold, 0, Qt.AlignmentFlag.AlignTop)
        right.addWidget(self.bar)
        right.addWidget(self.split, 1)
        whole.addLayout(right, 1)
        self.setCentralWidget(body)

    def _connect(self) -> None:
        session, engine = self.session, self.engine
        self.speaker.failed.connect(self.report_fault)
        queued = Qt.ConnectionType.QueuedConnection
        engine.frame_ready.connect(self._take_rendered, queued)
        engine.busy.connect(self._busy, queued)
        engine.failed.connect(self.report_fault, queued)
        session.changed.connect(self._project_changed)
        session.noticed.connect(self.transport.show_findings)
        session.loaded.connect(self._project_loaded)
        self.keeper.leaving.connect(self._note_recent)
        session.selected.connect(self._follow_selection)
        session.said.connect(self.transport.show_message)
        self.picture.view_changed.connect(self._view_changed)
        self.picture.resized.connect(self._resized)
        self.picture.clicked.connect(self.pick)
        self.timeline.sought.connect(self.seek)
        self.timeline.rounds.changed.connect(self.play_round)

    def report_fault(self, text: str) -> None:
        """Show what went wrong."""
        self.transport.show_message(text, "error")

    def _view_changed(self, view: View) -> None:
        self.engine.send(view=view)
        self._stands.start()

    def _resized(self, width: int, height: int) -> None:
        self.engine.send(size=(width, height), redraw=True)

    # ---- the engine -----------------------------------------------------------------------------

    def _send_all(self) -> None:
        session = self.session
        self.engine.send(
            project=session.played,
            characters=session.characters,
            library=session.library,
            view=self.picture.view,
            size=self.picture.picture_size(),
            playing=self.playing,
        )

    def _take_rendered(self) -> None:
        rendered = self.engine.take()
        if rendered is None or self._closing:
            return
        if not self._shown:
            self._shown = True
            self._ahead.start(*(self.sheet(station.key).ahead for station in STATIONS))
            log.info("first picture %.2f s after the program began", time.perf_counter() - self.began)
        self.speaker.play(rendered)
        self.session.take_refused(refused_by_layer(rendered.living))
        self.picture.show_rendered(rendered)
        self.timeline.show_rendered(rendered)
        self.sheet(self.at).show_rendered(rendered)
        self.index(self.at).show_rendered(rendered)
        self.transport.show_time(rendered.time, self.session.project.step_rate)
        self._mark_positions()
        for problem in rendered.problems:
            if problem not in self._problems_said:
                self._problems_said.add(problem)
                self.transport.show_message(problem, "error")

    def _busy(self, text: str, share: float) -> None:
        if text:
            self.picture.show_message(text, share)
        elif self.picture.rendered is not None or self.picture.text.startswith("Getting ready"):
            self.picture.show_message("")

    def _mark_positions(self) -> None:
        """Show the anchors of what is selected, and a selected joint, where they are in the picture."""
        rendered, project = self.picture.rendered, self.session.project
        kind, what = self.session.selection
        self.picture.marked, self.picture.joint = [], None
        if rendered is None:
            return
        with_gizmo = {hand.anchor.id for hand in self.picture.hands if isinstance(hand, AnchorGizmo) and hand.anchor}
        for anchor in anchors_of(project, kind, what):
            if anchor.id in rendered.positions and (kind != "anchor" or anchor.id not in with_gizmo):
                self.picture.marked.append((anchor.name, rendered.positions[anchor.id]))
        character = self.session.character
        node = character.skeleton.index.get(what) if kind == "joint" and character is not None else None
        if node is not None and node < len(rendered.joints):
            self.picture.joint = rendered.joints[node]
        self.picture.update()

    def refresh_tools(self) -> None:
        """Ask the sheet that is shown anew what colours the skin, and what the mouse may hold."""
        self.tools.show_sheet(self.sheet(self.at))

    # ---- the project ----------------------------------------------------------------------------

    def _send_project(self) -> None:
        self.engine.send(project=self.session.played, characters=self.session.characters)

    def _project_changed(self) -> None:
        lens = self.session.project.view.fov
        if lens != self._lens:
            self._lens = lens
            self.picture.set_view(self.picture.view.evolve(fov=lens))
        dot = "• " if self.session.history.unsaved else ""
        self.setWindowTitle(f"{dot}{self.session.project.name} — Wraithon")
        self.speaker.take(self.session.library.sounds, sounds_of(self.session.project))
        self.transport.show_findings()
        self.rail.show_history(self.session.history, saved_somewhere=self.session.save_folder is not None)
        if self.isVisible():
            self.refresh_tools()

    def _project_loaded(self) -> None:
        self._problems_said = set()
        self._selected_at.clear()
        self.picture.view = self.session.project.view
        self._stands.stop()
        self.picture.rendered = None
        self.picture.comparing.clear()
        self.playing = False
        self._send_all()
        self._begin_at()

    def go_to(self, about: str) -> None:
        """Select the thing with this id, in the station where it is at home."""
        for station in STATIONS:
            for kind in station.kinds:
                if kind in FOUND_BY_ID and find(self.session.project, kind, about) is not None:
                    self.station(station.key)
                    self.session.select(kind, about)
                    return
        self.station(STATIONS[0].key)

    def go_to_thing(self, kind: str, what: str) -> None:
        """Select a thing by its kind and id, in the station where it is at home."""
        home = _home_of(kind)
        if home is not None:
            self.station(home.key)
            self.session.select(kind, what)
            self.index(home.key).focus_list()

    def export(self) -> None:
        """Save a picture of this moment, or a sequence."""
        self.set_playing(False)
        rendered, performance = self.picture.rendered, self.performance
        now = rendered.time if rendered is not None else 0.0
        period = performance.period if performance is not None else 3.0
        if self.export_sheet is not None:
            self.export_sheet.deleteLater()
        self.export_sheet = sheet = ExportSheet(self, self.picture.view, now, period, self.session.project.name)
        sheet.wanted.connect(lambda wish: self.engine.send(export=wish))
        sheet.stopped.connect(lambda: self.engine.send(export=False))
        queued = Qt.ConnectionType.QueuedConnection
        self.engine.exporting.connect(sheet.show_progress, queued)
        self.engine.exported.connect(sheet.finish, queued)
        sheet.accepted.connect(lambda: self.session.said.emit(f"Pictures written: {sheet.path.text()}", "fine"))
        sheet.open()

    def find_anything(self) -> None:
        """Find a field of the sheet, a thing of the project, or a command, by typing."""
        self.finder.open_for_all(self.sheet(self.at))

    def run_command(self) -> None:
        """Find a command by typing, and run it."""
        self.finder.open_for_commands()

    def open_recent(self, folder: Path) -> None:
        """Open a project that was open lately."""
        if self.keeper.may_lose():
            self.keeper.open_path(folder)

    def _note_recent(self) -> None:
        """Remember the project that is open, with a picture of how it is."""
        folder, rendered = self.session.save_folder, self.picture.rendered
        if folder is not None:
            note_recent(folder, self.session.project.name, rendered.pixels if rendered is not None else None)

    # ---- stations and panels --------------------------------------------------------------------

    def station(self, key: str, _on: bool = False) -> None:
        """Show a station's index and sheet, with what was selected there."""
        before = self.at
        if key != before:
            self._selected_at[before] = self.session.selection
        number = [station.key for station in STATIONS].index(key)
        self.indexes.setCurrentIndex(number)
        self.sheets.setCurrentIndex(number)
        self.rail.stations[key].setChecked(True)
        self.rehearse(on=key == "rehearse")
        home = _home_of(self.session.selection[0])
        if key != before and (home is None or home.key != key):
            # Nothing stays selected that is not seen.
            kind, what = self._selected_at.get(key, ("", ""))
            gone = kind in THINGS and find(self.session.project, kind, what) is None
            self.session.select(*("", "") if gone else (kind, what))
        self.refresh_tools()

    def enter(self, key: str) -> None:
        """Show a station, with the focus on its list; in Rehearse on the picture, where the keys drive."""
        self.station(key)
        if key == "rehearse":
            self.picture.setFocus()
        else:
            self.index(key).focus_list()

    @property
    def at(self) -> str:
        """The station that is shown."""
        return STATIONS[self.indexes.currentIndex()].key

    def index(self, key: str) -> Index:
        """Return a station's index."""
        index = self.indexes.widget([station.key for station in STATIONS].index(key))
        assert isinstance(index, Index)  # nothing else was put there
        return index

    def sheet(self, key: str) -> Sheet:
        """Return a station's sheet."""
        sheet = self.sheets.widget([station.key for station in STATIONS].index(key))
        assert isinstance(sheet, Sheet)  # nothing else was put there
        return sheet

    def _follow_selection(self, kind: str, _what: str) -> None:
        home = _home_of(kind) if kind else None
        if home is not None and home.comes_up and self.at != home.key:
            self.station(home.key)
        self.refresh_tools()
        self._mark_positions()

    def next_area(self) -> None:
        """Move the focus to the next of index, picture, sheet and timeline."""
        focus_next(self, (self.indexes.currentWidget(), self.picture, self.sheets.currentWidget(), self.timeline))

    def frame(self) -> None:
        """Look at what is selected, or at the whole character."""
        points = points_of(*self.session.selection, self.picture.rendered, self.session.character)
        if points is None:
            self.picture.frame_all()
        else:
            self.picture.frame(points, CLOSE)

    def duplicate(self) -> None:
        """Duplicate what is selected."""
        home = _home_of(self.session.selection[0])
        if home is not None:
            self.index(home.key).duplicate()

    def delete(self) -> None:
        """Delete what is selected."""
        home = _home_of(self.session.selection[0])
        if home is not None:
            self.index(home.key).remove()

    # ---- being seen -----------------------------------------------------------------------------

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.WindowStateChange:
            self._show_seen()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show_seen()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._show_seen()

    def _show_seen(self) -> None:
        """Tell the engine whether anybody can see what it draws."""
        seen = self.isVisible() and not self.isMinimized()
        if seen != self._seen:
            self._seen = seen
            self.engine.send(seen=seen, redraw=seen)

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
        self._note_recent()
        self._closing = True
        self._ahead.stop()
        self._stands.stop()
        self.transport.stop()
        self.keeper.stop()
        self.folding.remember()
        remember(self, upper=self.upper, split=self.split)
        self.engine.stop()
        self.speaker.shut()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():  # what cannot be taken is told once it is dropped
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        self.keeper.take_dropped([Path(url.toLocalFile()) for url in urls if url.isLocalFile()])

    def about(self) -> None:
        """Show what this program is."""
        view = AboutView(self)
        view.finished.connect(view.deleteLater)
        view.open()

    def help(self) -> None:
        """Show the guide at what has the focus."""
        station = next(each for each in STATIONS if each.key == self.at)
        if self.help_view is None:
            self.help_view = HelpView(self)
        topic = topic_of(QApplication.focusWidget(), station.title)
        self.help_view.open_at(topic, station.title, key_groups(self, station))

    def prefer(self) -> None:
        """Show the preferences; each holds as soon as it is changed."""
        if self.preferences_sheet is not None:
            self.preferences_sheet.deleteLater()
        sheet = PreferencesSheet(self, load_preferences(), self.actions())
        sheet.changed.connect(self.apply_preferences)
        self.preferences_sheet = sheet
        sheet.open()

    def apply_preferences(self, preferences: Preferences) -> None:
        """Make preferences hold that need no new start."""
        History.limit = preferences.undo_steps
        Player.copy_bytes = preferences.copy_megabytes * 2**20
        Pace.WANTED = 1 / preferences.frames
        self.keeper.set_autosave(preferences.autosave)
        apply_keys(self.actions(), preferences.keys)

    def list_edits(self) -> None:
        """Show all edits; a click goes to one."""
        self.undo_list.open()


def _home_of(kind: str) -> Station | None:
    """Return the station where things of a kind are at home."""
    return next((station for station in STATIONS if kind in station.kinds), None)
