"""What dials may drive, and an effect without one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from wraithon.project.life import Attribute

if TYPE_CHECKING:
    from collections.abc import Iterator

    from wraithon.project.effect import Effect, Layer

__all__ = ["drivable", "without_dial"]

PARTS = ("emission", "source", "motion", "look")


def drivable(layer: Layer) -> list[str]:
    """Return the paths of all numbers of a layer that a dial may drive."""
    found = []
    for name, field in type(layer).model_fields.items():
        if field.annotation is Attribute and not getattr(layer, name).choices:
            found += [f"{name}.birth.low", f"{name}.birth.high"]
    for part in PARTS:
        found += [f"{part}.{path}" for path in _numbers(getattr(layer, part))]
    return found


def _numbers(model: Any) -> Iterator[str]:
    """Yield the paths of the numbers in a model, and in the models it holds."""
    for name in type(model).model_fields:
        held = getattr(model, name)
        if _is_number(held):
            yield name
        elif isinstance(held, BaseModel):
            yield from (f"{name}.{path}" for path in _numbers(held))
        elif isinstance(held, tuple):
            for number, item in enumerate(held):
                if _is_number(item):
                    yield f"{name}.{number}"
                elif isinstance(item, BaseModel):
                    yield from (f"{name}.{number}.{path}" for path in _numbers(item))


def _is_number(held: Any) -> bool:
    return isinstance(held, int | float) and not isinstance(held, bool)


def without_dial(effect: Effect, dial: str) -> Effect:
    """Return an effect without a dial, and without what it drove."""
    dials = tuple(each for each in effect.dials if each.id != dial)
    return effect.but(dials=dials, bindings=tuple(b for b in effect.bindings if b.dial != dial))
