"""What a layer or effect has to do with presets: the one it follows, what is its own, and the ways back."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft
from wraithon.desktop.widgets.naming import NameLine
from wraithon.interchange.presets import keep_preset
from wraithon.project.preset import Preset
from wraithon.project.resolving.following import (
    back_to_preset,
    into_preset,
    keep_effect,
    keep_layer,
    own_rows,
    preset_of,
)
from wraithon.project.resolving.membership import apart, back_to_whole, into_whole, whole_of
from wraithon.support.errors import WraithonError
from wraithon.support.preferences import preset_folder

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project


ACROSS = 4
"""Buttons beside each other."""


class _Ways(NamedTuple):
    """How what is shown goes back to its preset, all of it or something alone, and into it."""

    back: Callable[..., Project]
    into: Callable[[Project, str], Project]


WAYS = {"layer": _Ways(back_to_preset, into_preset), "effect": _Ways(back_to_whole, into_whole)}


class PresetView(QWidget):
    """Says what a layer or effect follows, and keeps layers and effects as presets."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._kind, self._what, self._name = "", "", ""
        self._rows: tuple[tuple[str, str], ...] = ()
        column = column_of(self)
        self._text = soft("")
        column.addWidget(self._text)
        self._own = QWidget()
        self._own_column = column_of(self._own, 2)
        column.addWidget(self._own)
        self.ways_back: list[Button] = []
        """One for each row that is its own, and each layer that it lacks."""
        self.back = Button(icon("arrow-counter-clockwise"), "All as the preset")
        self.into = Button(icon("bookmark-simple"), "Apply to the preset")
        self.into.setToolTip("Changes the preset, and all that follows it")
        self.keep = Button(icon("bookmark-simple"), "Store as a preset ...")
        self.keep.setToolTip("Stores it in this project under a name, and follows it")
        self.keep_all = Button(icon("bookmark"), "For all projects ...")
        self.keep_all.setToolTip("Stores it in your own folder of presets, for all projects")
        self.back.clicked.connect(lambda: self._edit("All as the preset", WAYS[self._kind].back))
        self.into.clicked.connect(lambda: self._edit("Apply to the preset", WAYS[self._kind].into))
        self.keep.clicked.connect(lambda: self.line.ask(self._name, self.keep_as))
        self.keep_all.clicked.connect(lambda: self.line.ask(self._name, self.keep_for_all))
        self.line = NameLine("Name of the preset")
        for pair in ((self.back, self.into), (self.keep, self.keep_all)):
            row = QHBoxLayout()
            row.setSpacing(4)
            for button in pair:
                row.addWidget(button)
            row.addStretch(1)
            column.addLayout(row)
        column.addWidget(self.line)

    def text(self) -> str:
        """Return what is said."""
        return self._text.text()

    def show_layer(self, layer: Layer) -> None:
        """Show what a layer follows."""
        self._kind, self._what, self._name = "layer", layer.id, layer.name
        preset, project = preset_of(self._session.project, layer), self._session.project
        own = own_rows(project, layer.id)
        self._show_own((row, row) for row in own)
        for button in (self.back, self.into):
            button.setVisible(preset is not None)
            button.setEnabled(bool(own))
        if preset is None:
            self._text.setText("It follows no preset.")
            return
        others = sum(x.follows == layer.follows for e in project.effects for x in e.layers) - 1
        following = f'It follows "{preset[0].name}"{_also(others)}.'
        self._text.setText(f"{following} Changed; each can be restored:" if own else following)

    def show_effect(self, effect: Effect) -> None:
        """Show what an effect has to do with presets."""
        self._kind, self._what, self._name = "effect", effect.id, effect.name
        project = self._session.project
        preset, found = whole_of(project, effect), apart(project, effect.id)
        lacks = ((layer.id, f"{layer.name} again") for layer in found.missing)
        self._show_own((*((row, row.replace("_", "-")) for row in found.rows), *lacks))
        for button in (self.back, self.into):
            button.setVisible(preset is not None)
            button.setEnabled(any(found))
        if preset is None:
            followed = {own[0].name for layer in effect.layers if (own := preset_of(project, layer))}
            names = ", ".join(f'"{name}"' for name in sorted(followed))
            self._text.setText(f"Its layers follow {names}." if followed else "Its layers follow no preset.")
            return
        others = sum(each.follows == effect.follows for each in project.effects) - 1
        text = [f'It follows "{preset[0].name}"{_also(others)}.']
        if found.more:
            text.append(f"The preset has no {', '.join(layer.name for layer in found.more)}.")
        if found.missing:
            text.append(f"It lacks {', '.join(layer.name for layer in found.missing)}.")
        if self._rows:
            text.append("Changed; each can be restored:")
        self._text.setText(" ".join(text))

    def _show_own(self, own: Iterable[tuple[str, str]]) -> None:
        """Show ways back: what goes back, and what that is called."""
        rows = tuple(own)
        if rows == self._rows:
            return
        self._rows, self.ways_back = rows, []
        while (item := self._own_column.takeAt(0)) is not None:
            line = item.widget()
            line.hide()
            line.deleteLater()
        for first in range(0, len(rows), ACROSS):
            line = QWidget()
            layout = QHBoxLayout(line)
            layout.setContentsMargins(0, 0, 0, 0)
            layout.setSpacing(4)
            for row, name in rows[first : first + ACROSS]:
                button = Button(icon("arrow-counter-clockwise"), name)
                button.setToolTip(f"Have {name} as the preset has it")
                button.clicked.connect(partial(self._take_back, row, name))
                self.ways_back.append(button)
                layout.addWidget(button)
            layout.addStretch(1)
            self._own_column.addWidget(line)
        self._own.setVisible(bool(rows))

    def _take_back(self, row: str, name: str, _on: bool = False) -> None:
        what, back = self._what, WAYS[self._kind].back
        self._session.edit(f"{name.capitalize()} as the preset", lambda p: back(p, what, [row]), final=True)

    def _edit(self, text: str, change: Callable[..., Project]) -> None:
        what = self._what
        self._session.edit(text, lambda p: change(p, what), final=True)

    def keep_as(self, name: str) -> None:
        """Keep what is shown as a preset of this project, and have it follow that."""
        store, what = keep_layer if self._kind == "layer" else keep_effect, self._what
        if self._session.edit(f"Keep {name} as a preset", lambda p: store(p, what, name), final=True):
            self._session.said.emit(f'Stored as "{name}"; find it in the presets (P)', "fine")

    def keep_for_all(self, name: str) -> None:
        """Keep what is shown as a preset for all projects."""
        project = keep_layer if self._kind == "layer" else keep_effect
        preset: Preset = project(self._session.project, self._what, name).presets[-1]
        try:
            keep_preset(preset_folder(), preset)
        except WraithonError as error:
            self._session.said.emit(str(error), "error")
            return
        self._session.said.emit(f'"{preset.name}" is at hand in all projects now', "fine")


def _also(others: int) -> str:
    return f", as {others} more do" if others > 1 else ", as another does" if others else ""
