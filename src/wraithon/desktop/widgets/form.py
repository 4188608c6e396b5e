"""Forms: a table of fields makes widgets, binds them both ways to a place in the project, and names the edits.

A field is one line of a table: where the value is in the frozen model, what it is called and means, how it
is shown, when it shows, and when it does nothing and why. Bounds are the model's own.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from wraithon.desktop.widgets.basics import labelled, set_idle
from wraithon.desktop.widgets.colours import ColourField
from wraithon.desktop.widgets.curve_editor import CurveEditor
from wraithon.desktop.widgets.fields import Check, ChoiceField, NumberField, TextField, Ticks
from wraithon.desktop.widgets.gradient_editor import GradientEditor
from wraithon.project.paths import bounds_at, label_at, quantity_at, value_at
from wraithon.project.quantities import Quantity

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.base import Model


Choices = Sequence[tuple[str, object]]
"""Words and the value they stand for."""


def _always(_model: Any) -> bool:
    return True


def _never(_model: Any) -> str:
    return ""


@dataclass(frozen=True)
class Field:
    """One value of a model, as a form shows it."""

    path: str
    """Where it is in the model; "" is the model itself."""
    label: str = ""
    """What it is, for the tool tip and for those who hear the window."""
    lead: str = ""
    """A short word in front of it, within its row."""
    undo: str = ""
    """What its edits are called; its row's label otherwise."""
    shows: Callable[[Any], bool] = _always
    """Whether it has a place in what the model is now."""
    idle: Callable[[Any], str] = _never
    """Why it does nothing, or nothing."""
    stretch: int = 1

    def of(self, kind: type[Model]) -> Field:
        """Return the field with what this kind of model says of it, where it says nothing itself."""
        said = label_at(kind, self.path) if self.path and not self.label else None
        return self if said is None else replace(self, label=said.label)

    def make(self, kind: type[Model]) -> Any:
        """Return the widget for a value of this kind of model: it has `set_value`, and signals `edited`."""
        raise NotImplementedError

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Show a value in the widget."""
        widget.set_value(value)

    def stored(self, value: Any) -> Any:
        """Return what the model holds for what the widget tells."""
        return value


@dataclass(frozen=True)
class Number(Field):
    """A number; its label, its unit and how it is edited are what its field says (`project.quantities`)."""

    unit: str | None = None
    """The shown unit; None here and below: as the field says."""
    step: float | None = None
    """What an arrow key adds."""
    decimals: int | None = None
    """Shown at most."""
    factor: float = 1.0
    """How many of the shown unit the model's own is: always what the field says."""
    late: bool = False
    """Whether only the end of a gesture counts, because each value means long work."""

    def of(self, kind: type[Model]) -> Number:
        """Return the field with what this kind of model says of it, where it says nothing itself."""
        said = quantity_at(kind, self.path) or Quantity(self.label)
        return replace(
            self,
            label=self.label or said.label,
            unit=said.symbol if self.unit is None else self.unit,
            factor=said.unit.factor,
            step=said.arrow_step if self.step is None else self.step,
            decimals=said.shown_decimals if self.decimals is None else self.decimals,
        )

    def make(self, kind: type[Model]) -> NumberField:
        """Return a number field with the model's own bounds."""
        bounds = bounds_at(kind, self.path)
        return NumberField(
            self.unit or "",
            low=bounds.low * self.factor,
            high=bounds.high * self.factor,
            step=self.step,
            decimals=0 if bounds.whole else self.decimals,
            name=self.label,
        )

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Show a number; none is shown as one that cannot be edited."""
        widget.setEnabled(value is not None)
        widget.set_value(round((value or 0) * self.factor, 6))

    def stored(self, value: Any) -> Any:
        """Return the number in the model's unit."""
        return value / self.factor if self.factor != 1 else value


@dataclass(frozen=True)
class Choice(Field):
    """One of several values; `choices` may be asked of the session each time."""

    choices: Choices | Callable[[Session], Choices] = ()
    icons: Callable[[Session, object], QIcon | None] | None = None

    def make(self, _kind: type[Model]) -> ChoiceField:
        """Return a list to pick from."""
        return ChoiceField(() if callable(self.choices) else self.choices, name=self.label)

    def show(self, widget: Any, value: Any, session: Session) -> None:
        """Show what may be picked now, and what is; something that is no longer offered is shown as missing."""
        offered = list(self.choices(session)) if callable(self.choices) else list(self.choices)
        if value and all(choice != value for _, choice in offered):
            offered.append((f"{value} (missing)", value))
        widget.set_choices(offered)
        if self.icons is not None:
            for k, (_, choice) in enumerate(offered):
                picture = self.icons(session, choice)
                if picture is not None:
                    widget.setItemIcon(k, picture)
        widget.set_value(value)


@dataclass(frozen=True)
class Tick(Field):
    """Yes or no."""

    text: str = ""

    def make(self, _kind: type[Model]) -> Check:
        """Return a tick."""
        return Check(self.text, self.label)


@dataclass(frozen=True)
class Switch(Tick):
    """A tick for whether there is a value at all: `on` when it is set, None when not (`inverted`: the other way)."""

    on: Any = 1.0
    inverted: bool = False

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Tick it when there is a value."""
        widget.set_value((value is None) == self.inverted)

    def stored(self, value: Any) -> Any:
        """Return a first value, or none."""
        return self.on if bool(value) != self.inverted else None


@dataclass(frozen=True)
class Text(Field):
    """A line of text."""

    def make(self, _kind: type[Model]) -> TextField:
        """Return a line to type in."""
        return TextField(self.label)


@dataclass(frozen=True)
class NameList(Text):
    """Several names in one line, with commas between them."""

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Show the names."""
        widget.set_value(", ".join(value))

    def stored(self, value: Any) -> Any:
        """Return each name once, in the order typed."""
        return tuple(dict.fromkeys(name.strip() for name in value.split(",") if name.strip()))


@dataclass(frozen=True)
class Names(Field):
    """A set of names, each with a tick."""

    choices: Callable[[Session], Choices] | Choices = ()
    columns: int = 2

    def make(self, _kind: type[Model]) -> Ticks:
        """Return ticks."""
        return Ticks(self.columns)

    def show(self, widget: Any, value: Any, session: Session) -> None:
        """Tick the names that are in."""
        widget.set_choices(self.choices(session) if callable(self.choices) else self.choices)
        widget.set_value(value)


@dataclass(frozen=True)
class Colour(Field):
    """A linear colour."""

    def make(self, _kind: type[Model]) -> ColourField:
        """Return a swatch that opens a picker."""
        return ColourField(self.label)


@dataclass(frozen=True)
class CurveField(Field):
    """A curve over the normalised age; `limits` are the lowest and highest value it may have."""

    limits: tuple[float, float] = (0.0, 10.0)

    def make(self, _kind: type[Model]) -> CurveEditor:
        """Return an editor of its points."""
        editor = CurveEditor()
        editor.plot.setAccessibleName(self.label)
        editor.set_measure("×", 1.0, 0.05, 3, self.limits)
        return editor

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Show the curve."""
        widget.set_curve(value)


@dataclass(frozen=True)
class Colours(Field):
    """A gradient."""

    def make(self, _kind: type[Model]) -> GradientEditor:
        """Return an editor of its stops."""
        return GradientEditor(self.label)

    def show(self, widget: Any, value: Any, _session: Session) -> None:
        """Show the gradient."""
        widget.set_gradient(value)


class Row:
    """Fields side by side behind a label."""

    def __init__(self, label: str, *fields: Field, width: int = 60, undo: str = "") -> None:
        self.label, self.width = label, width
        word = undo or label.capitalize()
        self.fields = tuple(field if field.undo else replace(field, undo=word) for field in fields)


class KindChoice(ChoiceField):
    """Picks the kind of a model that may be one of several; what both kinds share stays.

    What only the other kind has is put by, and is there again when that kind is picked once more.

    Parameters
    ----------
    session, thing
        As a form's.
    path
        Where the model is in the thing.
    kinds
        Kind to model.
    choices
        What each kind is called.
    name
        What is picked, in words.
    undo
        What a change is called.
    """

    def __init__(
        self,
        session: Session,
        thing: str,
        path: str,
        kinds: Mapping[str, type[Model]],
        choices: Choices,
        name: str,
        undo: str,
    ) -> None:
        super().__init__(choices, name)
        self._session, self._thing, self._path, self._kinds, self._undo = session, thing, path, kinds, undo
        self._model: Any = None
        self._what = ""
        self.edited.connect(self._picked)

    def show_model(self, model: Any, what: str) -> None:
        """Show a model's kind; nothing is edited."""
        self._model, self._what = model, what
        self.set_value(model.kind)

    def _picked(self, kind: str, _final: bool) -> None:
        if kind != self._model.kind:
            other = self._kinds[kind]
            shared: type[Model] = next(c for c in type(self._model).__mro__ if issubclass(other, c))
            common = {name: getattr(self._model, name) for name in shared.model_fields}
            here = (self._thing, self._what, self._path)
            self._session.earlier_models[*here, self._model.kind] = self._model
            earlier = self._session.earlier_models.get((*here, kind))
            made = earlier.evolve(**common) if isinstance(earlier, other) else other(**common)
            self._session.set_value(self._thing, self._what, self._path, made, self._undo)


class Form(QWidget):
    """Shows a model by a table of rows, and edits it where it is in the project.

    Parameters
    ----------
    session
        Whose project is edited.
    thing
        The kind of thing that holds the model, as `project.things` knows it.
    base
        The path of the model within the thing; "" is the thing itself.
    kind
        The model's type, for its bounds.
    rows
        What it shows.
    tail
        A widget at the end of the first row.
    """

    def __init__(
        self,
        session: Session,
        thing: str,
        base: str,
        kind: type[Model],
        rows: Sequence[Row],
        tail: QWidget | None = None,
    ) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._session, self._thing, self.base = session, thing, base
        self._what = ""
        self.widgets: dict[str, Any] = {}
        """Path (for a second field of one path, with the field's kind) to the widget that edits it."""
        self._parts: list[tuple[QWidget, list[tuple[Field, Any, QWidget]]]] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for number, row in enumerate(rows):
            column.addWidget(self._made(row, kind, tail if not number else None))

    def _made(self, row: Row, kind: type[Model], tail: QWidget | None) -> QWidget:
        cells = []
        for field in (field.of(kind) for field in row.fields):
            widget = field.make(kind)
            name = field.path if field.path not in self.widgets else f"{field.path} {type(field).__name__.lower()}"
            self.widgets[name] = widget
            named = (row.label or field.undo.lower(), field.lead or getattr(field, "text", ""))
            widget.setProperty("label", " ".join(filter(None, named)))
            widget.edited.connect(
                lambda value, final, field=field, widget=widget: self._edited(field, widget, value, final)
            )
            cells.append((field, widget, labelled(field.lead, widget, width=28) if field.lead else widget))
        box = QWidget()
        line = QHBoxLayout(box)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6 if row.label else 4)
        if row.label:
            line.addWidget(labelled(row.label, width=row.width))
        for field, _, cell in cells:
            line.addWidget(cell, field.stretch)
        if tail is not None:
            line.addWidget(tail)
        box.setObjectName("panel")
        self._parts.append((box, cells))
        return box

    def show_model(self, model: Model, what: str = "") -> None:
        """Show a model of the thing with this id; nothing is edited."""
        self._what = what
        for box, cells in self._parts:
            for field, widget, cell in cells:
                shows = field.shows(model)
                cell.setVisible(shows)
                if shows:
                    field.show(widget, value_at(model, field.path), self._session)
                    set_idle(widget, field.idle(model))
            box.setVisible(any(field.shows(model) for field, _, _ in cells))

    def set_label(self, text: str) -> None:
        """Call the first row something else."""
        label = self._parts[0][0].findChild(QLabel)
        label.setText(text)
        label.setToolTip(text)

    def _edited(self, field: Field, widget: QWidget, value: object, final: bool) -> None:
        if final or not (isinstance(field, Number) and field.late):
            path = f"{self.base}.{field.path}" if self.base else field.path
            self._session.set_value(
                self._thing, self._what, path, field.stored(value), field.undo, final=final,
                each=_each(field, widget) if isinstance(field, Number) else None,
            )  # fmt: skip


def _each(field: Number, widget: QWidget) -> Callable[[Any], Any] | None:
    """Return what the same change makes of others' numbers; None where a number was typed that all take."""
    by = widget.changed_by if isinstance(widget, NumberField) else None
    if by is None or not isinstance(widget, NumberField):
        return None

    def changed(own: Any) -> Any:
        return own if own is None else field.stored(widget.within(by.of(own * field.factor)))

    return changed
