"""What all stations share: a list in the index, and a scrolling column under a title in the sheet."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEventLoop, QPoint, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QListView,
    QScrollArea,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from wraithon.desktop.theme.colours import SOFT
from wraithon.desktop.widgets.basics import Button, Section, column_of, soft
from wraithon.stage.overlays import Overlay

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.picture.picture_tools import PictureTool
    from wraithon.desktop.session.session import Session


Command = tuple[str, str, "Callable[[], object]"]
"""What the menu calls it, its keys, and what it does."""


class Panel(QWidget):
    """A part of a station: while it is not shown it does not follow the project, and catches up when it is."""

    _behind = False

    def refresh(self) -> None:
        """Show what the session holds."""

    def follow(self, _kind: str, _what: str) -> None:
        """Show what is selected."""
        self.refresh()

    def ahead(self) -> Iterator[object]:
        """Make, a part at each turn, what would take long to make when it is asked for."""
        yield from ()

    def listen_to(self, session: Session, *, late: bool = False) -> None:
        """Show what the session holds from now on, or `late`: from when it is shown first, and made only then."""
        session.changed.connect(self._changed)
        session.loaded.connect(self._changed)
        session.noticed.connect(self._changed)
        session.selected.connect(self._selected)
        self._behind = late
        if not late:
            self.refresh()

    def _changed(self) -> None:
        self._behind = not self.isVisible()
        if not self._behind:
            self.refresh()

    def _selected(self, kind: str, what: str) -> None:
        self._behind = not self.isVisible()
        if not self._behind:
            self.follow(kind, what)

    def showEvent(self, event: QShowEvent) -> None:
        if self._behind:
            self._changed()
        super().showEvent(event)


class Sheet(Panel):
    """A title with buttons, and a column below it that scrolls."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        head = QWidget()
        head.setObjectName("panel")
        head.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.head = QHBoxLayout(head)
        self.head.setContentsMargins(12, 8, 10, 6)
        self.title = QLabel("")
        self.title.setObjectName("title")
        self.head.addWidget(self.title, 1)
        outer.addWidget(head)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        content = QWidget()
        content.setObjectName("panel")
        self._strip = QWidget()
        self._strip.setObjectName("panel")
        strip = QHBoxLayout(self._strip)
        strip.setContentsMargins(8, 0, 8, 4)
        strip.setSpacing(0)
        strip.addStretch(1)
        self._strip.hide()
        outer.addWidget(self._strip)
        self.body = QVBoxLayout(content)
        self.body.setContentsMargins(12, 0, 10, 12)
        self.body.setSpacing(4)
        self._scroll.setWidget(content)
        outer.addWidget(self._scroll, 1)
        self.hint = soft("")
        self.hint.hide()
        self.body.addWidget(self.hint)

    def scroll_to(self, widget: QWidget) -> None:
        """Bring an editor to the top of what is in sight."""
        position = widget.mapTo(self._scroll.widget(), widget.rect().topLeft())
        self._scroll.verticalScrollBar().setValue(max(0, position.y() - 34))

    def sections(self) -> list[Section]:
        """Return the sections of the sheet as it is, in their order."""
        content = self._scroll.widget()
        return [section for section in content.findChildren(Section) if section.isVisibleTo(content)]

    def show_strip(self) -> None:
        """Show the names of the sections under the title; each leads to its own."""
        sections = self.sections()
        layout = self._strip.layout()
        assert isinstance(layout, QHBoxLayout)  # it was made so
        if [layout.itemAt(k).widget().text() for k in range(layout.count() - 1)] == [s.title for s in sections]:
            return
        while layout.count() > 1:
            gone = layout.takeAt(0).widget()
            gone.hide()
            gone.deleteLater()
        for k, section in enumerate(sections):
            button = Button(section.title)
            button.setObjectName("plain")
            button.setToolTip(f"Shows {section.title.lower()}")
            button.setStyleSheet(f"QPushButton {{ color: {SOFT}; font-size: 11px; padding: 1px 5px; }}")
            button.clicked.connect(partial(self._lead_to, section))
            layout.insertWidget(k, button)
        self._strip.setVisible(len(sections) > 1)

    def _lead_to(self, section: Section, _on: bool = False) -> None:
        section.unfold()
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        self._scroll.verticalScrollBar().setValue(section.mapTo(self._scroll.widget(), QPoint(0, 0)).y())

    def fields(self) -> Iterator[tuple[QWidget, str]]:
        """Yield what can be edited in the sheet as it is, and the title of the section that it stands in."""
        for widget in self._scroll.widget().findChildren(QWidget):
            if widget.focusPolicy() == Qt.FocusPolicy.NoFocus or not label_of(widget) or _is_head(widget):
                continue
            section = _section_of(widget)
            folded = section is not None and section.folded
            if widget.isVisible() or (folded and section is not None and section.isVisible()):
                yield widget, section.title if section is not None else ""

    def reveal(self, widget: QWidget) -> None:
        """Bring an editor in sight, and unfold the section that it stands in."""
        section = _section_of(widget)
        if section is not None:
            section.unfold()
        self.scroll_to(widget)

    def to_top(self) -> None:
        """Bring the beginning in sight."""
        self._scroll.verticalScrollBar().setValue(0)

    def box(self, spacing: int = 4) -> tuple[QWidget, QVBoxLayout]:
        """Add a part that can be shown and hidden as a whole; return it and its column."""
        box = QWidget()
        column = column_of(box, spacing)
        self.body.addWidget(box)
        return box, column

    @property
    def hands(self) -> list[PictureTool]:
        """What takes the mouse in the picture before the camera does, while this sheet is shown."""
        return []

    def overlay(self) -> Overlay:
        """Return what is to colour the skin while this sheet is shown, and ready the hands for the selection."""
        return Overlay()

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Take over what the engine worked out, while this sheet is shown."""

    def show_message(self, text: str) -> None:
        """Show a hint instead of editors, or none when empty."""
        self.hint.setText(text)
        self.hint.setVisible(bool(text))


def label_of(widget: QWidget) -> str:
    """Return what a field is called beside it, or else to those who hear the window."""
    return str(widget.property("label") or "") or widget.accessibleName()


def _section_of(widget: QWidget) -> Section | None:
    above = widget.parentWidget()
    while above is not None and not isinstance(above, Section):
        above = above.parentWidget()
    return above


def _is_head(widget: QWidget) -> bool:
    return isinstance(widget.parentWidget(), Section)


class Index(Panel):
    """A title with buttons over a list, in the narrow column left of the picture."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(8, 8, 6, 8)
        self.column.setSpacing(4)
        self.head = self.bar(title)
        """The line with the title, and buttons at its right end."""
        self.column.addLayout(self.head)

    def commands(self) -> list[Command]:
        """Return what the menu offers of this station."""
        return []

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Take over what a picture brings with it."""

    def focus_list(self) -> None:
        """Put the focus on the list."""
        lists = (QTreeView, QListView)
        found = [each for kind in lists for each in self.findChildren(kind) if each.isVisible()]
        # Of several it is the one in which something is selected.
        found.sort(key=lambda each: not each.selectionModel().hasSelection())
        if found:
            found[0].setFocus(Qt.FocusReason.ShortcutFocusReason)

    def duplicate(self) -> None:
        """Duplicate what is selected."""

    def remove(self) -> None:
        """Delete what is selected."""

    def bar(self, title: str, *buttons: QWidget) -> QHBoxLayout:
        """Return a line with a title and buttons at its right end."""
        row = QHBoxLayout()
        row.setSpacing(2)
        label = QLabel(title)
        label.setObjectName("title")
        row.addWidget(label, 1)
        for button in buttons:
            row.addWidget(button)
        return row
