"""The dials of an effect: what may be set from outside, tried by dragging, and what each drives."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QHBoxLayout, QMenu, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft, tool
from wraithon.desktop.widgets.fields import NumberField
from wraithon.desktop.widgets.form import Choice, Colour, Field, Number, Row, Text, Tick
from wraithon.desktop.widgets.list_form import Entry, ListForm, ListLine, Tupled
from wraithon.desktop.widgets.offers import textures_or
from wraithon.project.binding import DIAL_KINDS, Binding, Dial
from wraithon.project.edit import fresh_name, with_effect
from wraithon.project.effect import Layer
from wraithon.project.paths import bounds_at, value_at
from wraithon.project.resolving.driving import (
    begun,
    drivable,
    drivable_fields,
    with_option,
    without_dial,
    without_option,
)

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wraithon.desktop.session.session import Session
    from wraithon.project.base import Model
    from wraithon.project.binding import DialKind
    from wraithon.project.effect import Effect


WIDTH = 44
NAME = Row("dial", Text("name", "Name of the dial"), width=WIDTH, undo="Rename dial")
ANYTHING = (-1e6, 1e6)
MENU_TITLES = {
    "number": "Number", "colour": "Colour", "toggle": "Toggle: on or off", "choice": "Choice: one of several",
}  # fmt: skip


@dataclass(frozen=True)
class _OnOff(Tick):
    """A tick for a number that is 0 or 1."""

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Tick it where the number is nearer to 1."""
        widget.set_value(value >= 0.5)

    def stored(self, value: Any) -> Any:
        """Return 1 or 0."""
        return float(value)


@dataclass(frozen=True)
class _Free(Number):
    """A number among values of any sort: its bounds are those of what is driven."""

    bounds: tuple[float, float] = ANYTHING

    def make(self, _kind: type[Model]) -> NumberField:
        """Return a number field."""
        low, high = self.bounds
        return NumberField(self.unit, low=low, high=high, step=self.step, name=self.label)


def _rows_of_dial(dial: Dial) -> Sequence[Row]:
    """Return what is shown of a dial."""
    tip = "Value while nothing sets it"
    if dial.kind == "colour":
        return (NAME, Row("set to", Colour("colour", tip), width=WIDTH, undo="Dial"))
    if dial.kind == "toggle":
        return (NAME, Row("set to", _OnOff("value", tip, text="on"), width=WIDTH, undo="Dial"))
    if dial.kind == "choice":
        offered = [(name, float(number)) for number, name in enumerate(dial.options)]
        named = (
            Row(f"{number + 1}", Text(f"options.{number}", "Name of the option"), width=WIDTH, undo="Rename option")
            for number in range(len(dial.options))
        )
        return (NAME, Row("set to", Choice("value", tip, choices=offered), width=WIDTH, undo="Dial"), *named)
    return (
        NAME,
        Row(
            "set to",
            Number("value", f"{tip}; drag to try it", step=0.05, stretch=3),
            Number("low", "Its lowest", lead="from", step=0.1, stretch=4),
            Number("high", "Its highest", lead="to", step=0.1, stretch=4),
            width=WIDTH,
            undo="Dial",
        ),
    )


def _key_of_dial(dial: Dial) -> str:
    return " ".join(("dial", dial.kind, *dial.options))


class _Bindings(Tupled):
    """How what a dial drives is listed: where it is, and what the dial makes of it."""

    def __init__(self) -> None:
        super().__init__("bindings", lambda _binding: (), lambda binding: f"driven {binding.layer} {binding.path}")

    def entries(self, thing: Any) -> list[Entry]:
        """Return the entries, each under what it drives."""
        layers, dials = ({each.id: each for each in things} for things in (thing.layers, thing.dials))
        found = []
        for number, binding in enumerate(thing.bindings):
            layer, dial = layers.get(binding.layer), dials.get(binding.dial)
            named = layer.name if layer else "?", dial.name if dial else "?"
            text = f"{named[1]} drives {named[0]}: {_said(binding.path)}"
            rows = _rows_of_binding(binding, dial, layer) if dial is not None and layer is not None else ()
            options = dial.options if dial is not None else ()
            key = " ".join((binding.layer, binding.path, *options, str(len(rows))))
            found.append(Entry(key, f"bindings.{number}", binding, rows, text, "driven value"))
        return found


def _rows_of_binding(binding: Binding, dial: Dial, layer: Layer) -> Sequence[Row]:
    """Return what is shown of what a dial drives."""
    sort = next((field.sort for field in drivable_fields(layer) if field.path == binding.path), None)
    if dial.kind == "choice":
        rows = []
        for number, name in enumerate(dial.options[: len(binding.values)]):
            tip = f"What is driven, with {name}"
            rows.append(
                Row(name, _field_of(sort, f"values.{number}", tip, binding, layer), width=72, undo="Driven value")
            )
        return rows
    if dial.kind == "colour":
        return ()
    off, on = ("off", "on") if dial.kind == "toggle" else ("", "to")
    tips = ("off", "on") if dial.kind == "toggle" else ("at its lowest", "at its highest")
    if sort == "yes or no":
        yes = (("yes", 1.0), ("no", 0.0))
        low = Choice("low", f"What is driven, when the dial is {tips[0]}", lead=off, choices=yes)
        high = Choice("high", f"What is driven, when the dial is {tips[1]}", lead=on, choices=yes)
        return (Row("", low, high, undo="Driven value"),)
    first = Number("low", f"What is driven, when the dial is {tips[0]}", lead=off, step=0.05)
    last = Number("high", f"What is driven, when the dial is {tips[1]}", lead=on, step=0.05)
    return (Row("" if off else "from", first, last, width=WIDTH, undo="Driven value"),)


def _field_of(sort: str | None, path: str, tip: str, binding: Binding, layer: Layer) -> Field:
    """Return the field for a value that a choice puts at a place."""
    if sort == "colour":
        return Colour(path, tip)
    if sort == "yes or no":
        return Tick(path, tip, text="yes")
    if sort == "texture":
        return Choice(path, tip, choices=textures_or("none (built in)"))
    if sort == "words":
        kind = type(value_at(layer, binding.path))
        return Choice(path, tip, choices=[(str(word), word) for word in kind])
    return _Free(path, tip, step=0.05)


class _DialList(ListForm):
    """A list of dials; with one goes what it drives. A choice has buttons for more options and for fewer."""

    def remove(self, number: int) -> None:
        """Remove a dial; what it drove has the value that stands in the layer."""
        effect, dial = self._model, self._model.dials[number]
        rest = without_dial(effect, dial.id)
        self._session.edit(f"Remove {dial.name}", lambda p: with_effect(p, rest), final=True)

    def _made(self, entry: Entry) -> ListLine:
        line = super()._made(entry)
        if isinstance(entry.model, Dial) and entry.model.kind == "choice":
            row = QHBoxLayout()
            row.addStretch(1)
            row.addWidget(tool("minus", "Remove the last option", lambda: self.remove_option(line.number)))
            row.addWidget(tool("plus", "Add an option", lambda: self.add_option(line.number)))
            line.form.layout().addLayout(row)
        return line

    def add_option(self, number: int) -> None:
        """Add an option to a choice."""
        effect, dial = self._model, self._model.dials[number]
        wider = with_option(effect, dial.id, fresh_name("option", dial.options))
        self._session.edit("Add option", lambda p: with_effect(p, wider), final=True)

    def remove_option(self, number: int) -> None:
        """Remove the last option of a choice; one stays."""
        effect, dial = self._model, self._model.dials[number]
        if len(dial.options) > 1:
            rest = without_option(effect, dial.id, len(dial.options) - 1)
            self._session.edit("Remove option", lambda p: with_effect(p, rest), final=True)


class DialsEditor(QWidget):
    """Declares dials, and picks what they drive."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._effect: Effect | None = None
        self._listed = Tupled("dials", _rows_of_dial, _key_of_dial)
        self._bound = _Bindings()
        column = column_of(self)
        self._hint = soft("A dial is for triggers and games to set: it drives values of the layers with it.")
        self.dials = _DialList(session, "effect", self._listed.entries, self._listed.without)
        self.bindings = ListForm(session, "effect", self._bound.entries, self._bound.without)
        for widget in (self._hint, self.dials, self.bindings):
            column.addWidget(widget)
        self.add = Button(icon("plus"), "Add a dial")
        self.kinds = QMenu(self)
        for kind in DIAL_KINDS:
            self.kinds.addAction(MENU_TITLES[kind], partial(self.add_dial, kind))
        self.add.clicked.connect(lambda: self.kinds.popup(self.add.mapToGlobal(self.add.rect().bottomLeft())))
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

    def add_dial(self, kind: DialKind = "number") -> None:
        """Declare another dial."""
        effect = self._effect
        if effect is not None:
            name = fresh_name("dial" if kind == "number" else kind, (each.name for each in effect.dials))
            options = ("first", "second") if kind == "choice" else ()
            dial = Dial(name=name, kind=kind, value=0.5 if kind == "number" else 0.0, options=options)
            value = (*effect.dials, dial)
            self._session.set_value("effect", effect.id, "dials", value, f"Add {name}")

    def _ask(self) -> None:
        """Ask which dial drives what."""
        self.fill_menu()
        self.menu.popup(self.drive.mapToGlobal(self.drive.rect().bottomLeft()))

    def fill_menu(self) -> None:
        """List what dials may drive, layer by layer."""
        self.menu.clear()
        effect = self._effect
        for dial in effect.dials if effect else ():
            menu = self.menu if effect and len(effect.dials) == 1 else self.menu.addMenu(dial.name)
            for layer in effect.layers if effect else ():
                mine, parts = menu.addMenu(layer.name), dict[str, QMenu]()
                for path in drivable(layer, dial.kind):
                    part = path.partition(".")[0]
                    if part != path and part not in parts:
                        parts[part] = mine.addMenu(part)
                    parts.get(part, mine).addAction(_said(path), partial(self.bind, dial.id, layer.id, path))

    def bind(self, dial_id: str, layer: str, path: str) -> None:
        """Let a dial drive a value of a layer."""
        effect = self._effect
        found = self._session.project.layer(layer)
        dial = next((each for each in effect.dials if each.id == dial_id), None) if effect else None
        if effect is None or found is None or dial is None:
            return
        maximum = bounds_at(Layer, path).high if _plain(path) else float("inf")
        others = tuple(b for b in effect.bindings if (b.layer, b.path) != (layer, path))
        bound = effect.evolve(bindings=(*others, begun(dial, found[1], path, maximum)))
        self._session.edit(f"Drive {_said(path)}", lambda p: with_effect(p, bound), final=True)


def _plain(path: str) -> bool:
    """Return whether a path leads through fields of one kind only, to a number."""
    plain = ("emission.", *(f"{name}." for name in ("size", "speed", "lifetime", "opacity")))
    return path.startswith(plain) and not path.endswith((".disabled", ".full"))


def _said(path: str) -> str:
    """Return a path in words."""
    return path.replace(".birth", " at birth").replace(".", " ")
