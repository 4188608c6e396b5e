"""Projects whose numbers stand at the bounds that their fields give, several at a time, by a seed."""

from __future__ import annotations

import random
import types
import typing
from enum import Enum

import annotated_types as limits
from pydantic import BaseModel


def choices_of(annotation, metadata=()):
    """Return what a field may hold at its ends: both bounds of a number, both truths, all words; else nothing."""
    origin = typing.get_origin(annotation)
    if origin is typing.Annotated:
        inner, *more = typing.get_args(annotation)
        flat = [each for one in more for each in (getattr(one, "metadata", None) or [one])]
        return choices_of(inner, [*metadata, *flat])
    if origin in {typing.Union, types.UnionType}:
        found = [choice for each in typing.get_args(annotation) for choice in choices_of(each, metadata)]
        return [*found, None] if found and type(None) in typing.get_args(annotation) else found
    if origin is typing.Literal:
        return list(typing.get_args(annotation))
    if annotation is bool:
        return [False, True]
    if isinstance(annotation, type) and issubclass(annotation, Enum):
        return [each.value for each in annotation]
    return _ends(annotation, metadata) if annotation in {int, float} else []


def _ends(annotation, metadata):
    small = 1 if annotation is int else 1e-6
    ends = []
    for each in metadata:
        if isinstance(each, limits.Ge):
            ends.append(each.ge)
        elif isinstance(each, limits.Le):
            ends.append(each.le)
        elif isinstance(each, limits.Gt):
            ends.append(each.gt + small)
        elif isinstance(each, limits.Lt):
            ends.append(each.lt - small)
    return ends


def positions_of(model, data, found):
    """List all places of a dumped model that have choices: the container, the key, the choices."""
    for name, field in type(model).model_fields.items():
        held, key = getattr(model, name), field.alias or name
        if name == "kind":
            continue  # another kind has other fields
        choices = choices_of(field.annotation, field.metadata)
        if choices:
            found.append((data, key, choices))
        elif isinstance(held, BaseModel):
            positions_of(held, data[key], found)
        elif isinstance(held, tuple):
            kinds = [each for each in typing.get_args(field.annotation) if each is not Ellipsis]
            for k, each in enumerate(held):
                if isinstance(each, BaseModel):
                    positions_of(each, data[key][k], found)
                elif kinds and (choices := choices_of(kinds[min(k, len(kinds) - 1)])):
                    found.append((data[key], k, choices))
    return found


def at_bounds(project, seed):
    """Return a project's data with one to five values put to an end of what they may be."""
    chance = random.Random(seed)
    data = project.model_dump(mode="json")
    positions = positions_of(type(project).model_validate(data), data, [])
    for owner, key, choices in chance.sample(positions, chance.randint(1, 5)):
        owner[key] = chance.choice(choices)
    return data
