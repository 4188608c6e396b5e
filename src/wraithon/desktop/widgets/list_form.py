"""A form for a list: an entry each with its own rows and a button that removes it, and a way to add one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.widgets.ahead import polished
from wraithon.desktop.widgets.basics import column_of, soft, tool
from wraithon.desktop.widgets.form import Form, Row
from wraithon.project.paths import value_at

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.base import Model


MAX_SPARE = 24
"""Lines that are kept while they show nothing."""

Rows = Callable[[Any], Sequence[Row]]
"""Returns the rows for an entry."""


@dataclass(frozen=True)
class Entry:
    """One entry of a list."""

    key: str
    """What tells it from others of another make: entries of the same keys keep their widgets."""
    path: str
    """Where it is in the thing."""
    model: Model
    """What stands there, or what holds it."""
    rows: Sequence[Row]
    title: str = ""
    """A line of its own above the rows."""
    name: str = "entry"


class ListLine(QWidget):
    """What shows one entry.

    Signals
    -------
    removed
        The entry is to go.
    """

    removed = Signal()

    def __init__(self, session: Session, thing: str, entry: Entry) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.key = entry.key
        self.number = 0
        """Which entry of the list it shows."""
        remove = tool("x", f"Remove this {entry.name}", self.removed.emit)
        self.form = Form(session, thing, entry.path, type(entry.model), entry.rows, None if entry.title else remove)
        column = column_of(self, 2)
        self._title = soft(entry.title) if entry.title else None
        if self._title is not None:
            head = QHBoxLayout()
            head.addWidget(self._title, 1)
            head.addWidget(remove)
            column.addLayout(head)
        column.addWidget(self.form)

    def position(self, number: int, entry: Entry) -> None:
        """Show another entry of the same key."""
        self.number, self.form.base = number, entry.path
        if self._title is not None:
            self._title.setText(entry.title)


class ListForm(QWidget):
    """Shows and edits the entries of a list.

    Parameters
    ----------
    session, thing
        As a form's.
    entries
        Returns the entries of what is shown.
    without
        Returns path, value and words of the edit that removes an entry.
    """

    def __init__(
        self,
        session: Session,
        thing: str,
        entries: Callable[[Any], list[Entry]],
        without: Callable[[Any, int], tuple[str, Any, str]],
        spacing: int = 4,
    ) -> None:
        super().__init__()
        self._session, self._thing = session, thing
        self._entries, self._without = entries, without
        self._model: Any = None
        self._what = ""
        self.keys: list[str] = []
        """Keys of the entries that are shown."""
        self.forms: list[Form] = []
        self._lines: list[ListLine] = []
        self._spare: list[ListLine] = []
        """Lines that show nothing now, the latest last: making one takes longer than showing it again."""
        self._column = column_of(self, spacing)

    def show_model(self, model: Any, what: str) -> None:
        """Show the entries of a model of the thing with this id; nothing is edited."""
        self._model, self._what = model, what
        entries = self._entries(model)
        keys = [entry.key for entry in entries]
        if keys != self.keys:
            self.keys = keys
            self._build(entries)
        for form, entry in zip(self.forms, entries, strict=True):
            form.show_model(entry.model, what)
        self.setVisible(bool(entries))

    def _build(self, entries: list[Entry]) -> None:
        """Show a line for each entry: one that is there for its key, or a new one."""
        spare = [*self._spare, *self._lines]
        while self._column.takeAt(0) is not None:
            pass
        self._lines = []
        for number, entry in enumerate(entries):
            line = next((line for line in spare if line.key == entry.key), None)
            if line is None:
                line = self._made(entry)
            else:
                spare.remove(line)
            line.position(number, entry)
            self._lines.append(line)
            self._column.addWidget(line)
            line.show()
        self.forms = [line.form for line in self._lines]
        for line in spare:
            line.hide()
        for line in spare[:-MAX_SPARE]:
            line.deleteLater()
        self._spare = spare[-MAX_SPARE:]

    def ahead(self, model: Any) -> Iterator[object]:
        """Make, one at each turn, the lines that the entries of a model will need, as far as none is there."""
        there = Counter(line.key for line in (*self._lines, *self._spare))
        for entry in self._entries(model):
            there[entry.key] -= 1
            if there[entry.key] < 0 and len(self._spare) < MAX_SPARE:
                line = self._made(entry)
                line.setParent(self)
                line.hide()
                self._spare.append(line)
                yield polished(line)

    def _made(self, entry: Entry) -> ListLine:
        line = ListLine(self._session, self._thing, entry)
        line.removed.connect(lambda: self.remove(line.number))
        return line

    def remove(self, number: int) -> None:
        """Remove an entry."""
        path, value, text = self._without(self._model, number)
        self._session.set_value(self._thing, self._what, path, value, text)


class Tupled:
    """How the entries of a tuple of models are listed, removed and added.

    Parameters
    ----------
    path
        Where the tuple is in the thing.
    rows
        Returns the rows for one of its models.
    name
        Returns what one is called.
    shape
        Returns what else its rows hang on.
    """

    def __init__(
        self, path: str, rows: Rows, name: Callable[[Any], str], shape: Callable[[Any], str] = lambda _item: ""
    ) -> None:
        self._path, self._rows, self._name, self._shape = path, rows, name, shape

    def entries(self, thing: Model) -> list[Entry]:
        """Return the entries."""
        return [
            Entry(
                f"{self._name(item)} {self._shape(item)}".strip(),
                f"{self._path}.{number}",
                item,
                self._rows(item),
                name=self._name(item),
            )
            for number, item in enumerate(value_at(thing, self._path))
        ]

    def without(self, thing: Model, number: int) -> tuple[str, Any, str]:
        """Return the edit that removes one."""
        values = value_at(thing, self._path)
        return self._path, (*values[:number], *values[number + 1 :]), f"Remove {self._name(values[number])}"

    def with_another(self, thing: Model, item: Model) -> tuple[str, Any, str]:
        """Return the edit that adds one at the end."""
        return self._path, (*value_at(thing, self._path), item), f"Add {self._name(item)}"
