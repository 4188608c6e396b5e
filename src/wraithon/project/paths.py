"""Places within frozen models: what stands there, a model with something else there, and what may stand there.

A path is field names and numbers of tuples with dots between them, as in "aim.spread" or "push.0".
"""

from __future__ import annotations

import types
import typing
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, TypeVar

import annotated_types
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from wraithon.project.base import Model
from wraithon.project.quantities import Label, Quantity, labels_of

M = TypeVar("M", bound=Model)
ABOVE = 1e-6
"""Least number that is shown as above an open bound."""


@dataclass(frozen=True)
class NumberBounds:
    """What a number may be, ends included, and whether it is a whole one."""

    low: float = -1e6
    high: float = 1e6
    whole: bool = False


def value_at(model: Model, path: str) -> Any:
    """Return what stands at a path; what lies below nothing is None.

    Raises
    ------
    AttributeError, IndexError
        When the model has no such place.
    """
    here: Any = model
    for key in path.split("."):
        if here is None:
            return None
        here = here[int(key)] if isinstance(here, tuple) else getattr(here, key)
    return here


def has_place(model: Model, path: str) -> bool:
    """Tell whether a value can be set at a path of a model: a row may be gone, or another kind stand there."""
    parent, _, _ = path.rpartition(".")
    try:
        value_at(model, path)
        return not parent or value_at(model, parent) is not None
    except (AttributeError, IndexError):
        return False


def with_value_at(model: M, path: str, value: Any) -> M:
    """Return a checked copy of a model with `value` at a path; everything else is shared.

    Raises
    ------
    AttributeError, IndexError
        When the model has no such place.
    pydantic.ValidationError
        When the value may not stand there.
    """
    first, _, rest = path.partition(".")
    current = value_at(model, first)
    if not rest:
        return model.evolve(**{first: value})
    if isinstance(current, tuple):
        number, _, deeper = rest.partition(".")
        inner = with_value_at(current[int(number)], deeper, value) if deeper else value
        index = range(len(current))[int(number)]
        return model.evolve(**{first: (*current[:index], inner, *current[index + 1 :])})
    return model.evolve(**{first: with_value_at(current, rest, value)})


@lru_cache(maxsize=1024)
def bounds_at(kind: type[BaseModel], path: str) -> NumberBounds:
    """Return what a model of this kind lets a number at a path be, as its fields say.

    Raises
    ------
    KeyError
        When there is no number at the path.
    """
    found: tuple[Any, list[Any]] = (kind, [])
    for key in path.split("."):
        found = _inner(_plain(found[0], [])[0], key)
    kind_of_number, rules = _plain(*found)
    if kind_of_number not in {int, float}:
        raise KeyError(path)
    low, high = -1e6, 1e6
    for rule in rules:
        if isinstance(rule, annotated_types.Ge):
            low = float(typing.cast("float", rule.ge))
        elif isinstance(rule, annotated_types.Gt):
            low = float(typing.cast("float", rule.gt)) + (1 if kind_of_number is int else ABOVE)
        elif isinstance(rule, annotated_types.Le):
            high = float(typing.cast("float", rule.le))
        elif isinstance(rule, annotated_types.Lt):
            high = float(typing.cast("float", rule.lt)) - (1 if kind_of_number is int else ABOVE)
    return NumberBounds(low, high, kind_of_number is int)


def quantity_at(kind: type[BaseModel], path: str) -> Quantity | None:
    """Return what a number at a path measures, or None where its field does not say.

    A number of a tuple measures what the tuple's field says.

    Raises
    ------
    KeyError
        When there is nothing at the path.
    """
    found = label_at(kind, path)
    return found if isinstance(found, Quantity) else None


@lru_cache(maxsize=1024)
def label_at(kind: type[BaseModel], path: str) -> Label | None:
    """Return what the field at a path says that it is, or None where it does not say.

    Raises
    ------
    KeyError
        When there is nothing at the path.
    """
    here: Any = kind
    found = None
    for key in path.split("."):
        here = _plain(here, [])[0]
        if isinstance(here, type) and issubclass(here, BaseModel):
            found = labels_of(here).get(key)
        here, _ = _inner(here, key)
    return found


def _inner(kind: Any, key: str) -> tuple[Any, list[Any]]:
    """Return the type of a model's field or of a tuple's entry, and the rules it is held to."""
    if isinstance(kind, type) and issubclass(kind, BaseModel):
        info = kind.model_fields[key]
        return info.annotation, list(info.metadata)
    arguments = typing.get_args(kind)
    if typing.get_origin(kind) is not tuple or not key.lstrip("-").isdigit():
        raise KeyError(key)
    return (arguments[0] if arguments[-1:] == (...,) else arguments[int(key)]), []


def _plain(kind: Any, rules: list[Any]) -> tuple[Any, list[Any]]:
    """Return a type without its annotations and without None, and the rules the annotations hold."""
    origin = typing.get_origin(kind)
    if origin is typing.Annotated:
        inner, *notes = typing.get_args(kind)
        more = [rule for note in notes for rule in (note.metadata if isinstance(note, FieldInfo) else [note])]
        return _plain(inner, [*rules, *more])
    if origin in {typing.Union, types.UnionType}:
        others = [argument for argument in typing.get_args(kind) if argument is not type(None)]
        if len(others) == 1:
            return _plain(others[0], rules)
    return kind, rules
