"""The dials of an effect: what may be set from outside, tried by dragging, and what each drives."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QHBoxLayout, QMenu, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft
from wraithon.desktop.widgets.form import Number, Row, Text
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.project.binding import Binding, Dial
from wraithon.project.edit import fresh_name, put_effect
from wraithon.project.effect import Layer
from wraithon.project.paths import bounds_at, value_at
from wraithon.project.settling.driving import drivable, without_dial

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Effect

__all__ = ["DialsEditor"]

DIAL_ROWS = (
    Row("dial", Text("name", "Name of the dial"), width=44, undo="Rename dial"),
    Row(
        "set to",
        Number("value", "What it is while nobody sets it; drag to try it", step=0.05, stretch=3),
        Number("low", "Its lowest", lead="from", step=0.1, stretch=4),
        Number("high", "Its highest", lead="to", step=0.1, stretch=4),
        width=44,
        undo="Dial",
    ),
)


class _Bindings(Tupled):
    """How what a dial drives is listed: where it is, and between which values it goes."""

    def __init__(self) -> None:
        super().__init__("bindings", self._rows_of, lambda binding: f"driven {binding.layer} {binding.path}")

    def _rows_of(self, _binding: Binding) -> Sequence[Row]:
        low = Number("low", "What is driven, when the dial is at its lowest", step=0.05)
        high = Number("high", "What is driven, when the dial is at its highest", lead="to", step=0.05)
        return (Row("from", low, high, width=44, undo="Driven value"),)

    def entries(self, thing: Any) -> list[Any]:
        """Return the entries, each under what it drives."""
        names = {layer.id: layer.name for layer in thing.layers}
        dials = {dial.id: dial.name for dial in thing.dials}
        found = []
        for entry in super().entries(thing):
            binding = value_at(thing, entry.path)
            words = f"{dials.get(binding.dial, '?')} drives {names.get(binding.layer, '?')}: {_said(binding.path)}"
            found.append(type(entry)(entry.key, entry.path, entry.model, entry.rows, words, "driven value"))
        return found


class _DialList(ListForm):
    """A list of dials; with one goes what it drives."""

    def remove(self, number: int) -> None:
        """Remove a dial; what it drove has the value that stands in the layer."""
        effect, dial = self._model, self._model.dials[number]
        rest = without_dial(effect, dial.id)
        self._session.edit(f"Remove {dial.name}", lambda p: put_effect(p, rest), final=True)


class DialsEditor(QWidget):
    """Declares dials, and picks what they drive."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._effect: Effect | None = None
        self._listed = Tupled("dials", lambda _dial: DIAL_ROWS, lambda _dial: "dial")
        self._bound = _Bindings()
        column = column_of(self)
        self._hint = soft("A dial is a number for triggers and games to set: it drives values of the layers with it.")
        self.dials = _DialList(session, "effect", self._listed.entries, self._listed.without)
        self.bindings = ListForm(session, "effect", self._bound.entries, self._bound.without)
        for widget in (self._hint, self.dials, self.bindings):
            column.addWidget(widget)
        self.add = Button(icon("plus"), "Add a dial")
        self.add.clicked.connect(self.add_dial)
        self.drive = Button(icon("link"), "Have it drive ...")
        self.drive.clicked.connect(self._ask)
        self.menu = QMenu(self)
        row = QHBoxLayout()
        row.addWidget(self.add)
        row.addWidget(self.drive)
        row.addStretch(1)
        column.addLayout(row)

    def show_effect(self, effect: Effect) -> None:
        """Show an effect's dials."""
        self._effect = effect
        self._hint.setVisible(not effect.dials)
        self.drive.setVisible(bool(effect.dials))
        self.dials.show_model(effect, effect.id)
        self.bindings.show_model(effect, effect.id)

    def add_dial(self) -> None:
        """Declare another dial."""
        effect = self._effect
        if effect is not None:
            dial = Dial(name=fresh_name("dial", (each.name for each in effect.dials)), value=0.5)
            self._session.put("effect", effect.id, *self._listed.with_another(effect, dial))

    def _ask(self) -> None:
        """Ask which dial drives what."""
        self.fill_menu()
        self.menu.popup(self.drive.mapToGlobal(self.drive.rect().bottomLeft()))

    def fill_menu(self) -> None:
        """List what dials may drive, layer by layer."""
        self.menu.clear()
        effect = self._effect
        for dial in effect.dials if effect else ():
            held = self.menu if effect and len(effect.dials) == 1 else self.menu.addMenu(dial.name)
            for layer in effect.layers if effect else ():
                mine, parts = held.addMenu(layer.name), dict[str, QMenu]()
                for path in drivable(layer):
                    part = path.partition(".")[0]
                    if part not in parts:
                        parts[part] = mine.addMenu(part)
                    parts[part].addAction(_said(path), partial(self.bind, dial.id, layer.id, path))

    def bind(self, dial: str, layer: str, path: str) -> None:
        """Have a dial drive a value of a layer, from nothing to twice what it is now."""
        effect = self._effect
        found = self._session.project.layer(layer)
        if effect is None or found is None:
            return
        value, bounds = float(value_at(found[1], path)), bounds_at(Layer, path) if _plain(path) else None
        high = 2 * value if value else 1.0
        high = min(high, bounds.high) if bounds else high
        binding = Binding(dial=dial, layer=layer, path=path, low=0.0, high=high)
        others = tuple(b for b in effect.bindings if (b.layer, b.path) != (layer, path))
        bound = effect.but(bindings=(*others, binding))
        self._session.edit(f"Drive {_said(path)}", lambda p: put_effect(p, bound), final=True)


def _plain(path: str) -> bool:
    """Tell whether a path leads through fields of one kind only."""
    return path.startswith(("emission.", *(f"{name}." for name in ("size", "speed", "lifetime", "opacity"))))


def _said(path: str) -> str:
    """Return a path in words."""
    return path.replace(".birth", " at birth").replace(".", " ")
