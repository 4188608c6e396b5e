"""What lies over an empty picture: where to begin, recent projects, and first effects on a character."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from wraithon.desktop.session.recents import SIZE, recent_projects
from wraithon.desktop.theme.colours import GROUND, INK, LINE, PANEL, RAISED, SOFT, TEAL
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft, tool
from wraithon.studio.first_steps import FIRST_STEPS

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from wraithon.desktop.desk import Desk
    from wraithon.project.project import Project


SHOWN, ACROSS = 6, 3
"""Recent projects that are shown, and how many side by side."""
STEP_ICONS = ("shield", "cloud", "wind", "lightning")


class StartView(QFrame):
    """Lies over the picture while there is nothing to see; with a character it offers first effects."""

    def __init__(self, desk: Desk, over: QWidget, open_path: Callable[[Path], object]) -> None:
        super().__init__(over)
        self._desk, self._session, self._over, self._open_path = desk, desk.session, over, open_path
        self._dismissed, self._stepped = False, False
        self.setObjectName("start")
        self.setStyleSheet(
            f"QFrame#start {{ background: {PANEL}; border: 1px solid {LINE}; border-radius: 8px; }}"
            f"QLabel#head {{ color: {INK}; font-size: 16px; font-weight: 600; }}"
            f"QToolButton {{ border: 1px solid {LINE}; border-radius: 4px; background: {GROUND}; color: {SOFT};"
            f" padding: 4px; }} QToolButton:hover {{ background: {RAISED}; color: {INK}; }}"
            f"QToolButton:focus {{ border-color: {TEAL}; }}"
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 16)
        column.setSpacing(10)
        self._head = QLabel()
        self._head.setObjectName("head")
        top = QHBoxLayout()
        top.addWidget(self._head, 1)
        self.close_it = tool("x", "Hides these suggestions", self.dismiss)
        top.addWidget(self.close_it)
        column.addLayout(top)
        self._build_beginning(column)
        self._build_steps(column)
        over.installEventFilter(self)
        self._session.changed.connect(self.refresh)
        self._session.loaded.connect(self._loaded)
        self.refresh()

    def _build_beginning(self, column: QVBoxLayout) -> None:
        self._beginning = QWidget()
        inner = column_of(self._beginning, 8)
        keeper = self._desk.keeper
        row = QHBoxLayout()
        for name, text, action in (
            ("person-simple", "Import a character ...", keeper.bringing.choose),
            ("folder-open", "Open a project ...", keeper.choose_project),
            ("sparkle", "Open the demo", keeper.open_demo),
        ):
            button = Button(icon(name), text)
            button.clicked.connect(lambda _on=False, action=action: action())
            row.addWidget(button)
        inner.addLayout(row)
        inner.addWidget(soft("Or drop a .glb, .gltf or project folder on the window."))
        self._recent_head = soft("Recent projects")
        inner.addWidget(self._recent_head)
        self._recents = QGridLayout()
        self._recents.setSpacing(8)
        inner.addLayout(self._recents)
        self.recents: list[QToolButton] = []
        column.addWidget(self._beginning)

    def _build_steps(self, column: QVBoxLayout) -> None:
        self._steps = QWidget()
        inner = column_of(self._steps, 6)
        row = QHBoxLayout()
        self.steps: dict[str, Button] = {}
        for name, picture in zip(FIRST_STEPS, STEP_ICONS, strict=True):
            button = Button(icon(picture), name)
            button.clicked.connect(partial(self._take, name))
            row.addWidget(button)
            self.steps[name] = button
        inner.addLayout(row)
        self._made = soft("Each makes an effect from what is found of the character. Undo takes it back.")
        inner.addWidget(self._made)
        column.addWidget(self._steps)

    # ---- showing --------------------------------------------------------------------------------

    def _loaded(self) -> None:
        self._dismissed = self._stepped = False
        self.refresh()

    def refresh(self) -> None:
        """Show what there is to begin with, or nothing where the work has begun."""
        project = self._session.project
        bare = _bare(project)
        first = self._session.character is not None and (not project.effects or self._stepped)
        self.setVisible((bare or first) and not self._dismissed)
        if self.isHidden():
            return
        self._head.setText("Begin" if bare else f"Try on {project.character.name}" if project.character else "")
        self._beginning.setVisible(bare)
        self._steps.setVisible(not bare)
        self.close_it.setVisible(not bare)
        if bare:
            self._list_recents()
        self._place()

    def _list_recents(self) -> None:
        found = recent_projects()[:SHOWN]
        if [button.toolTip() for button in self.recents] != [str(each.folder) for each in found]:
            for button in self.recents:
                self._recents.removeWidget(button)
                button.hide()
                button.deleteLater()
            self.recents = []
            for k, each in enumerate(found):
                button = QToolButton()
                button.setText(self.fontMetrics().elidedText(each.name, Qt.TextElideMode.ElideRight, 120))
                button.setToolTip(str(each.folder))
                button.setAccessibleName(f"Open {each.name}")
                button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
                button.setIconSize(QSize(SIZE[0] * 3 // 4, SIZE[1] * 3 // 4))
                picture = QPixmap(str(each.picture))
                button.setIcon(icon("folder-open") if picture.isNull() else QIcon(picture))
                button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
                button.clicked.connect(partial(self._open, each.folder))
                self._recents.addWidget(button, k // ACROSS, k % ACROSS)
                self.recents.append(button)
        self._recent_head.setVisible(bool(found))

    def _open(self, folder: Path, _on: bool = False) -> None:
        self._open_path(folder)

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Stay where it is over the picture."""
        if event.type() in {QEvent.Type.Resize, QEvent.Type.Show} and not self.isHidden():
            self._place()
        return False

    def event(self, event: QEvent) -> bool:
        """Stand anew when what is in it has become larger or smaller."""
        if event.type() == QEvent.Type.LayoutRequest and not self.isHidden():
            self._place()
        return super().event(event)

    def _place(self) -> None:
        """Stand in the middle where there is nothing, above where there is a character to be seen."""
        room = self._over.size()
        width = min(self.sizeHint().width(), room.width() - 16)
        height = min(self.sizeHint().height(), room.height() - 16)
        top = (room.height() - height) // 2 if not self._beginning.isHidden() else 8
        self.setGeometry((room.width() - width) // 2, max(8, top), width, height)
        self.raise_()

    # ---- what is done ---------------------------------------------------------------------------

    def dismiss(self) -> None:
        """Hide the suggestions until another project is opened."""
        self._dismissed = True
        self.hide()

    def _take(self, name: str, _on: bool = False) -> None:
        """Make a first effect, select it, and tell how it was made."""
        character = self._session.character
        if character is None:
            return
        step = FIRST_STEPS[name](self._session.project, character)
        if step.project is self._session.project:
            self._session.said.emit(step.text, "warning")
            self._made.setText(step.text)
            return
        self._stepped = True
        self._session.edit(name, lambda _project: step.project, final=True)
        self._desk.station("effects")
        self._session.select(*step.selection)
        self._made.setText(step.text)
        self._place()
        self._desk.play_on()


def _bare(project: Project) -> bool:
    """Return whether nothing has been brought in or made."""
    return not project.characters and not project.effects and not project.triggers
