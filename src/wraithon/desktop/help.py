"""Help inside the program: the guide at what is asked about, the keys of the station, and what the program is."""

from __future__ import annotations

import platform
import re
from html import escape
from importlib import metadata, resources
from typing import TYPE_CHECKING

from PySide6.QtGui import QKeySequence, QTextCursor, QTextDocument
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QTabWidget, QTextBrowser, QVBoxLayout, QWidget

import wraithon
from wraithon.desktop.theme.colours import INK
from wraithon.desktop.widgets.basics import Button, Section
from wraithon.desktop.widgets.popup import keys_text

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.desktop.widgets.panels import Command


LIBRARIES = (
    "numpy", "scipy", "numba", "pydantic", "Pillow", "typer", "miniaudio", "platformdirs", "PySide6-Essentials",
    "qtawesome",
)  # fmt: skip
FONTS = (("Figtree", "SIL Open Font License 1.1"), ("JetBrains Mono", "SIL Open Font License 1.1"))
TOPICS = {"Preset": "Presets"}
"""Sections of sheets to what the guide calls them, where that differs."""


def guide_text() -> str:
    """Return the guide, as Markdown."""
    return resources.files(wraithon).joinpath("guide.md").read_text(encoding="utf-8")


def topic_of(widget: QWidget | None, station: str) -> str:
    """Return what the guide is to be opened at: the section of a sheet a widget stands in, else the station."""
    while widget is not None:
        if isinstance(widget, Section):
            return TOPICS.get(widget.title, widget.title)
        widget = widget.parentWidget()
    return station


class HelpView(QDialog):
    """The guide with a line to search in it, and the keys that work now; it stays open beside the work."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle("Help")
        self.setObjectName("panel")
        self.resize(640, 620)
        self.guide, self.keys, self.line = QTextBrowser(), QTextBrowser(), QLineEdit()
        self.guide.setAccessibleName("Guide")
        self.keys.setAccessibleName("Keys")
        self.guide.setMarkdown(guide_text())
        _spread(self.guide.document())
        self.guide.setOpenLinks(False)
        self.line.setPlaceholderText("Search the guide; Enter finds the next place")
        self.line.setAccessibleName("Search the guide")
        self.line.returnPressed.connect(self.find_next)
        self.line.textChanged.connect(lambda _text: self.find_next(from_start=True))
        self.tabs = QTabWidget()
        self.tabs.addTab(self.guide, "Guide")
        self.tabs.addTab(self.keys, "Keys")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 10, 10)
        column.addWidget(self.line)
        column.addWidget(self.tabs)

    def open_at(self, topic: str, station: str, groups: Iterable[tuple[str, Iterable[Command]]]) -> None:
        """Show the guide at a topic, and the keys of a station and of everywhere."""
        self.line.clear()
        self.keys.setHtml("".join(_table(title, commands) for title, commands in groups))
        self.show()
        self.tabs.setCurrentWidget(self.guide)
        if not self.show_topic(topic):
            self.show_topic(station)
        self.raise_()
        self.activateWindow()

    def show_topic(self, topic: str) -> bool:
        """Bring the heading or the bold words of a topic to the top; return whether there are such."""
        document, cursor = self.guide.document(), QTextCursor(self.guide.document())
        wanted = re.compile(rf"{re.escape(topic)}\b", re.IGNORECASE)
        while not (cursor := document.find(topic, cursor)).isNull():
            block = cursor.block()
            heads = block.blockFormat().headingLevel() > 0 or cursor.charFormat().fontWeight() > 500
            if heads and wanted.match(block.text()):
                cursor.movePosition(QTextCursor.MoveOperation.StartOfBlock)
                self.guide.setTextCursor(cursor)
                top = self.guide.cursorRect(cursor).top() + self.guide.verticalScrollBar().value()
                self.guide.verticalScrollBar().setValue(top - 6)
                return True
        return False

    def find_next(self, *, from_start: bool = False) -> None:
        """Go to the next place of what is typed, and again from the beginning after the last."""
        self.tabs.setCurrentWidget(self.guide)
        text = self.line.text()
        if from_start or not self.guide.find(text):
            self.guide.moveCursor(QTextCursor.MoveOperation.Start)
            found = not text or self.guide.find(text)
            self.line.setToolTip("" if found else "Not in the guide")


def _spread(document: QTextDocument) -> None:
    """Put some room above each paragraph."""
    block = document.begin()
    while block.isValid():
        form = block.blockFormat()
        form.setTopMargin(14 if form.headingLevel() else 3 if block.textList() else 6)
        QTextCursor(block).setBlockFormat(form)
        block = block.next()


def _table(title: str, commands: Iterable[Command]) -> str:
    rows = "".join(
        f"<tr><td>{escape(keys_text(QKeySequence.listFromString(keys)))}&nbsp;&nbsp;</td>"
        f"<td>{text.removesuffix(' ...')}</td></tr>"
        for text, keys, _ in commands
        if keys
    )
    return f'<h3 style="color: {INK}">{title}</h3><table cellpadding="2">{rows}</table>' if rows else ""


class AboutView(QDialog):
    """What the program is, with the versions and licences of all that it is made with."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle("About Wraithon")
        self.setObjectName("panel")
        self.resize(480, 420)
        self.text = QTextBrowser()
        self.text.setAccessibleName("About Wraithon")
        self.text.setHtml(about_html())
        close = Button("Close")
        close.clicked.connect(self.accept)
        column, row = QVBoxLayout(self), QHBoxLayout()
        column.setContentsMargins(10, 10, 10, 10)
        column.addWidget(self.text)
        row.addStretch(1)
        row.addWidget(close)
        column.addLayout(row)


def about_html() -> str:
    """Return what the program is, as HTML."""
    rows = [(name, *_version_and_licence(name)) for name in LIBRARIES]
    rows += [(name, "", licence) for name, licence in FONTS]
    table = "".join("<tr>" + "".join(f"<td>{cell}&nbsp;&nbsp;</td>" for cell in row) + "</tr>" for row in rows)
    return (
        f"<h2>Wraithon {wraithon.__version__}</h2><p>Particle effects emitted from skinned characters and fired from"
        f" their animation. MIT licence.</p><p>Python {platform.python_version()} on {platform.system()}"
        f" {platform.machine()}</p><h3>Made with</h3><table cellpadding='2'>{table}</table>"
    )


def _version_and_licence(name: str) -> tuple[str, str]:
    """Return the version and the licence of a library, as far as it says them."""
    try:
        found = metadata.metadata(name)
    except metadata.PackageNotFoundError:
        return "not installed", ""
    classifiers = found.get_all("Classifier") or []
    licences = found.get_all("License-Expression") or [
        c.rpartition(" :: ")[2] for c in classifiers if c.startswith("License")
    ] or found.get_all("License") or [""]  # fmt: skip
    return metadata.version(name), ", ".join(licences).partition("\n")[0][:60]
