"""Ticks for a tuple of models, each told by one of its fields: ticking adds one, and what was set of others stays."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wraithon.desktop.widgets.fields import Ticks
from wraithon.desktop.widgets.form import Field

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from wraithon.desktop.session.session import Session
    from wraithon.project.base import Model


class ModelTicks(Ticks):
    """A tick for each model there may be."""

    def __init__(self, columns: int, name: str, make: Callable[[str], Model], nothing: str = "") -> None:
        super().__init__(columns, nothing)
        self._name, self._make = name, make
        self._models: dict[str, Model] = {}

    def set_value(self, names: Sequence[Any]) -> None:
        """Tick what is there."""
        self._models = {getattr(model, self._name): model for model in names}
        super().set_value(tuple(self._models))

    def _clicked(self, *_on: bool) -> None:
        ticked = [name for name, check in self.checks.items() if check.isChecked()]
        self.edited.emit(tuple(self._models.get(name) or self._make(name) for name in ticked), True)


@dataclass(frozen=True)
class Models(Field):
    """A tuple of models, of which each of `choices` may be one; `name` is the field that tells them apart."""

    name: str = "name"
    made: Callable[[str], Any] = str
    choices: Sequence[tuple[str, object]] | Callable[[Session], Sequence[tuple[str, object]]] = ()
    columns: int = 3
    nothing: str = ""
    """What is said where there is nothing to tick."""

    def make(self, _kind: type[Model]) -> ModelTicks:
        """Return ticks."""
        return ModelTicks(self.columns, self.name, self.made, self.nothing)

    def show(self, widget: Any, value: Any, session: Session) -> None:
        """Tick what is in."""
        widget.set_choices(self.choices(session) if callable(self.choices) else self.choices)
        widget.set_value(value)
