"""Preferences: general ones, and the keys of commands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QKeySequenceEdit,
    QLineEdit,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, labelled, soft, tool
from wraithon.desktop.widgets.fields import Check, NumberField
from wraithon.desktop.widgets.popup import keys_text
from wraithon.support.preferences import Preferences, save_preferences

if TYPE_CHECKING:
    from collections.abc import Iterable


USUAL_KEYS = "usual keys"
"""Property of an action: its keys where none are preferred."""
NUMBERS = {
    "size": ("interface size", "%", 5, "Size of text and all else; counts from the next start on"),
    "frames": ("live frame rate", "/s", 5, "Pictures a second below which the live picture is made coarser"),
    "undo_steps": ("undo", "steps", 50, "Edits that can be undone"),
    "copy_megabytes": ("seek memory", "MB", 16, "Memory for copies of the show: more makes seeking back quicker"),
    "threads": ("threads", "", 1, "Threads that simulate and draw, 0 for all; counts from the next start on"),
    "autosave": ("autosave", "s", 0.5, "Seconds after the last edit at which unsaved work is written down"),
}
"""Field to its label, unit, step and tool tip."""
WIDE = 120


class PreferencesSheet(QDialog):
    """Shows preferences, and applies each as it is changed.

    Signals
    -------
    changed
        Preferences that are to hold from now on.
    """

    changed = Signal(object)

    def __init__(self, window: QWidget, preferences: Preferences, actions: Iterable[QAction]) -> None:
        super().__init__(window)
        self.setWindowTitle("Preferences")
        self.setObjectName("panel")
        self.resize(520, 460)
        self.preferences = preferences
        self.numbers: dict[str, NumberField] = {}
        self.keys: dict[str, QKeySequenceEdit] = {}
        self._actions = {action.text(): action for action in actions if action.text()}
        self.says = soft("")
        tabs = QTabWidget()
        tabs.addTab(self._general(), "General")
        tabs.addTab(self._keys_tab(), "Keys")
        close = Button("Close")
        close.clicked.connect(self.accept)
        column, row = QVBoxLayout(self), QHBoxLayout()
        column.setContentsMargins(10, 10, 10, 10)
        column.addWidget(tabs)
        row.addWidget(self.says, 1)
        row.addWidget(close)
        column.addLayout(row)

    def _general(self) -> QWidget:
        page = QWidget()
        page.setObjectName("panel")
        column = column_of(page, 6)
        column.setContentsMargins(10, 10, 10, 10)
        for name, (label, unit, step, tip) in NUMBERS.items():
            bounds = {type(each).__name__: each for each in Preferences.model_fields[name].metadata}
            decimals = 1 if name == "autosave" else 0
            field = NumberField(
                unit, low=bounds["Ge"].ge, high=bounds["Le"].le, step=step, decimals=decimals, name=tip
            )
            field.set_value(getattr(self.preferences, name))
            field.edited.connect(lambda value, final, name=name: self._number_edited(name, value, final))
            self.numbers[name] = field
            column.addWidget(labelled(label, field, width=WIDE))
        self.safe = Check("told apart without red and green", "Colours from the next start on")
        self.safe.set_value(self.preferences.safe_colours)
        self.safe.edited.connect(lambda on, _final: self.change(safe_colours=bool(on)))
        column.addWidget(labelled("colours", self.safe, width=WIDE))
        self.presets = QLineEdit(self.preferences.presets)
        self.presets.setPlaceholderText("the usual folder")
        self.presets.setAccessibleName("Folder of your presets")
        self.presets.editingFinished.connect(lambda: self.change(presets=self.presets.text().strip()))
        choose = Button(icon("folder-open"), "Choose ...")
        choose.clicked.connect(self._choose)
        column.addWidget(labelled("presets", self.presets, choose, width=WIDE))
        usual = Button(icon("arrow-counter-clockwise"), "Reset to usual")
        usual.clicked.connect(self.reset)
        column.addWidget(usual)
        column.addStretch(1)
        return page

    def _keys_tab(self) -> QWidget:
        page = QWidget()
        page.setObjectName("panel")
        column = column_of(page, 3)
        column.setContentsMargins(10, 10, 10, 10)
        for text, action in self._actions.items():
            field = QKeySequenceEdit(action.shortcut())
            field.setMaximumSequenceLength(1)
            field.setClearButtonEnabled(True)
            field.setAccessibleName(f"Keys of {text}")
            field.editingFinished.connect(lambda text=text: self._key_edited(text))
            self.keys[text] = field
            again = tool(
                "arrow-counter-clockwise", f"The usual keys of {text}", lambda text=text: self._usual_key(text)
            )
            column.addWidget(labelled(text, field, again, width=250))
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(page)
        return area

    # ---- edits ----------------------------------------------------------------------------------

    def change(self, **values: object) -> None:
        """Change preferences, store and apply them; say what goes wrong."""
        self.preferences = Preferences.model_validate(self.preferences.model_dump() | values)
        self.changed.emit(self.preferences)
        try:
            save_preferences(self.preferences)
        except OSError as error:
            self.says.setText(f"Not stored: {error.strerror or error}")
            return
        later = values.keys() & {"size", "threads", "safe_colours"}
        self.says.setText("Counts from the next start on" if later else "")

    def _number_edited(self, name: str, value: float, final: bool) -> None:
        if final:
            self.change(**{name: value if name == "autosave" else round(value)})

    def _choose(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Folder of your presets", self.presets.text())
        if folder:
            self.presets.setText(folder)
            self.change(presets=folder)

    def reset(self) -> None:
        """Make all as it usually is."""
        self.preferences = Preferences()
        for name, field in self.numbers.items():
            field.set_value(getattr(self.preferences, name))
        self.safe.set_value(self.preferences.safe_colours)
        self.presets.setText("")
        self.change()
        for text, action in self._actions.items():
            self.keys[text].setKeySequence(action.shortcut())

    def _key_edited(self, text: str) -> None:
        wanted = self.keys[text].keySequence()
        if wanted == self._actions[text].shortcut():
            return
        taken = [
            o for o, a in self._actions.items() if o != text and not wanted.isEmpty() and wanted in a.shortcuts()
        ]
        if taken:
            self.keys[text].setKeySequence(self._actions[text].shortcut())
            self.says.setText(f"{keys_text([wanted])} is taken by “{taken[0]}”: give that other keys first")
            return
        self.change(keys=self.preferences.keys | {text: wanted.toString()})

    def _usual_key(self, text: str) -> None:
        others = {key: value for key, value in self.preferences.keys.items() if key != text}
        self.change(keys=others)
        self.keys[text].setKeySequence(self._actions[text].shortcut())


def apply_keys(actions: Iterable[QAction], preferred: dict[str, str]) -> None:
    """Give commands the keys that are preferred, and all others their usual ones."""
    for action in actions:
        usual = str(action.property(USUAL_KEYS) or "")
        keys = preferred.get(action.text(), usual)
        action.setShortcuts(QKeySequence.listFromString(keys))
