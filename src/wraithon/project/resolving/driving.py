"""What dials may drive, how that begins, and an effect without a dial."""

from __future__ import annotations

from enum import StrEnum
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from pydantic import BaseModel

from wraithon.project.binding import Binding
from wraithon.project.edit import replace_by_id
from wraithon.project.life import Attribute, Colour
from wraithon.project.paths import value_at

if TYPE_CHECKING:
    from collections.abc import Iterator

    from wraithon.project.binding import Dial, DialKind
    from wraithon.project.effect import Effect, Layer


Sort = Literal["number", "colour", "yes or no", "words", "texture"]
PARTS = ("emission", "source", "motion", "look")
TEXTURES = frozenset({"texture", "mask"})
"""Fields that name a picture."""
AWAY = frozenset({"disabled"})
"""Fields that take away what they stand at."""
DRIVES: dict[DialKind, frozenset[Sort]] = {
    "number": frozenset({"number"}),
    "colour": frozenset({"colour"}),
    "toggle": frozenset({"number", "yes or no"}),
    "choice": frozenset({"number", "colour", "yes or no", "words", "texture"}),
}
"""Kind of dial to what it may drive."""


class DrivableField(NamedTuple):
    """Where something stands in a layer that may be driven, and of what sort it is."""

    path: str
    sort: Sort


def drivable(layer: Layer, kind: DialKind = "number") -> list[str]:
    """Return the paths of all values of a layer that a dial of a kind may drive."""
    return [field.path for field in drivable_fields(layer) if field.sort in DRIVES[kind]]


def drivable_fields(layer: Layer) -> list[DrivableField]:
    """Return the fields of a layer that dials may drive."""
    found = [DrivableField("disabled", "yes or no")]
    for name, field in type(layer).model_fields.items():
        if field.annotation is Attribute and not getattr(layer, name).choices:
            found += [DrivableField(f"{name}.birth.low", "number"), DrivableField(f"{name}.birth.high", "number")]
    found += [field for field in _within(layer.colour, "colour.") if not field.path.endswith(".at")]
    for part in PARTS:
        found += _within(getattr(layer, part), f"{part}.")
    return found


def _within(model: Any, base: str) -> Iterator[DrivableField]:
    """Yield the drivable fields of a model, and in the models it holds."""
    for name, field in type(model).model_fields.items():
        value = getattr(model, name)
        sort = _sort(name, field.annotation, value)
        if sort is not None:
            yield DrivableField(f"{base}{name}", sort)
        elif isinstance(value, BaseModel):
            yield from _within(value, f"{base}{name}.")
        elif isinstance(value, tuple):
            for number, item in enumerate(value):
                if _is_number(item):
                    yield DrivableField(f"{base}{name}.{number}", "number")
                elif isinstance(item, BaseModel):
                    yield from _within(item, f"{base}{name}.{number}.")


def _sort(name: str, annotation: Any, value: Any) -> Sort | None:
    if isinstance(value, bool):
        return "yes or no"
    if _is_number(value):
        return "number"
    if isinstance(value, StrEnum):
        return "words"
    if name in TEXTURES and isinstance(value, str):
        return "texture"
    return "colour" if annotation == Colour else None


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def begun(dial: Dial, layer: Layer, path: str, maximum: float = float("inf")) -> Binding:
    """Return how a dial begins to drive a place: so that what is there now can still be had.

    A number goes from nothing to twice what it is now, `maximum` at most; a toggle from nothing to that, and what is
    yes or no to yes, where it stands for something there to be.
    """
    value = value_at(layer, path)
    low, high, values = 0.0, 1.0, ()
    if dial.kind == "choice":
        values = tuple(value for _ in dial.options)
    elif isinstance(value, bool):
        low, high = (1.0, 0.0) if path.rpartition(".")[2] in AWAY else (0.0, 1.0)
    elif dial.kind == "toggle":
        high = float(value) if value else 1.0
    elif dial.kind == "number":
        high = min(2.0 * value if value else 1.0, maximum)
    return Binding(dial=dial.id, layer=layer.id, path=path, low=low, high=high, values=values)


def with_option(effect: Effect, dial_id: str, name: str) -> Effect:
    """Return an effect with another option of a choice; what it drives is for it as for the one before."""
    layers = {layer.id: layer for layer in effect.layers}

    def longer(binding: Binding) -> Binding:
        if binding.dial != dial_id or binding.layer not in layers:
            return binding
        last = binding.values[-1:] or (value_at(layers[binding.layer], binding.path),)
        return binding.evolve(values=(*binding.values, *last))

    dial = _dial(effect, dial_id)
    dial = dial.evolve(options=(*dial.options, name))
    return effect.evolve(dials=replace_by_id(effect.dials, dial), bindings=tuple(map(longer, effect.bindings)))


def without_option(effect: Effect, dial_id: str, number: int) -> Effect:
    """Return an effect without an option of a choice, and without what was driven for it."""
    dial = _dial(effect, dial_id)
    options = (*dial.options[:number], *dial.options[number + 1 :])
    later = dial.value > number or dial.value >= len(options)
    value = max(dial.value - 1, 0.0) if later else dial.value
    dial = dial.evolve(options=options, value=value)
    bindings = tuple(
        each.evolve(values=(*each.values[:number], *each.values[number + 1 :])) if each.dial == dial_id else each
        for each in effect.bindings
    )
    return effect.evolve(dials=replace_by_id(effect.dials, dial), bindings=bindings)


def _dial(effect: Effect, dial_id: str) -> Dial:
    return next(each for each in effect.dials if each.id == dial_id)


def without_dial(effect: Effect, dial: str) -> Effect:
    """Return an effect without a dial, and without what it drove."""
    dials = tuple(each for each in effect.dials if each.id != dial)
    return effect.evolve(dials=dials, bindings=tuple(b for b in effect.bindings if b.dial != dial))
