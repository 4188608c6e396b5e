"""Master values: an effect that is quicker, larger, more, fainter or of another tint, as a whole.

What a number measures, and so how it scales, its field says (`project.quantities`). Twice the size is twice every
length: positions, speeds, accelerations, distances and eddies, so that all keeps its shape. Twice the tempo is half
of every time. Numbers without either (angles, shares, colours) stay.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from wraithon.project import life
from wraithon.project.binding import Masters
from wraithon.project.effect import Layer
from wraithon.project.emission import MAX_LIVING, Emission
from wraithon.project.life import Attribute, Curve, LifeMode, Tint
from wraithon.project.look import ShellLook
from wraithon.project.paths import bounds_at
from wraithon.project.quantities import quantities_of

if TYPE_CHECKING:
    from wraithon.project.base import Model
    from wraithon.project.effect import Effect


def mastered(effect: Effect, masters: Masters) -> Effect:
    """Return an effect with master values put into its layers; itself where they change nothing.

    What would leave its bounds stays at them. Births of shells stay as many as they are, however much there is to be:
    a second one would lie on the first. So do those that other particles bear, since there are more of these.
    """
    if masters.neutral:
        return effect
    layers = tuple(_layer(layer, masters) for layer in effect.layers)
    length = None if effect.length is None else _within(type(effect), "length", effect.length / masters.tempo)
    warm_up = _within(type(effect), "warm_up", effect.warm_up / masters.tempo)
    return effect.evolve(layers=layers, length=length, warm_up=warm_up)


def traded(layer: Layer, share: float) -> Layer:
    """Return a layer with a share of its births, larger so that they cover as much."""
    now = layer.evolve(emission=_more(layer.emission, share))
    return now.evolve(size=_valued(now.size, 1 / math.sqrt(share)))


def _layer(layer: Layer, masters: Masters) -> Layer:
    factors = masters.size, masters.tempo
    changes: dict[str, Any] = {
        name: _scaled(getattr(layer, name), *factors) for name in ("emission", "source", "motion", "look")
    }
    for name, field in type(layer).model_fields.items():
        if field.annotation is Attribute:
            attribute = _scaled(getattr(layer, name), *factors)
            changes[name] = _valued(attribute, quantities_of(Layer)[name].scale(*factors))
    if masters.opacity != 1:
        changes["opacity"] = _valued(changes["opacity"], masters.opacity)
    if masters.tint != (1.0, 1.0, 1.0):
        changes["colour"] = _tinted(layer.colour, masters.tint)
    if masters.amount != 1 and not isinstance(layer.look, ShellLook):
        changes["emission"] = _more(changes["emission"], masters.amount)
    return layer.evolve(**changes)


def _scaled(model: Any, size: float, tempo: float) -> Any:
    """Return a model with all of its numbers that have a unit, and those of the models in it, scaled."""
    kind: type[BaseModel] = type(model)
    quantities = quantities_of(kind)
    changes = {}
    for name in kind.model_fields:
        value = getattr(model, name)
        if name in quantities:
            now = _number(kind, name, value, quantities[name].scale(size, tempo))
        elif isinstance(value, BaseModel) and not isinstance(value, Curve):
            now = _scaled(value, size, tempo)
        elif isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
            now = tuple(_scaled(each, size, tempo) for each in value)
        else:
            continue
        if now != value:
            changes[name] = now
    return model.evolve(**changes) if changes else model


def _number(kind: type[BaseModel], name: str, number: Any, factor: float) -> Any:
    if number is None or factor == 1:
        return number
    if isinstance(number, tuple):
        return tuple(_within(kind, f"{name}.{k}", value * factor) for k, value in enumerate(number))
    return _within(kind, name, number * factor)


def _within(kind: type[BaseModel], path: str, value: float) -> float:
    """Return a number kept to what a field may be."""
    bounds = bounds_at(kind, path)
    return min(max(value, bounds.low), bounds.high)


def _valued(attribute: Attribute, factor: float) -> Attribute:
    """Return an attribute whose values are `factor` times as much, all through life."""
    if factor == 1:
        return attribute
    low, high = (_within(life.Range, "low", value * factor) for value in (attribute.birth.low, attribute.birth.high))
    choices = tuple(
        c.evolve(value=_within(life.WeightedChoice, "value", c.value * factor)) for c in attribute.choices
    )
    curve = attribute.life
    if curve is not None and attribute.mode is not LifeMode.SCALE:
        curve = Curve(points=tuple((age, _within(life.Range, "low", y * factor)) for age, y in curve.points))
    birth = attribute.birth.evolve(low=min(low, high), high=max(low, high))
    return attribute.evolve(birth=birth, choices=choices, life=curve)


def _tinted(tint: Tint, by: tuple[float, float, float]) -> Tint:
    def times(colour: tuple[float, float, float]) -> tuple[float, ...]:
        return tuple(min(a * b, 1e6) for a, b in zip(colour, by, strict=True))

    gradient = tint.life
    if gradient is not None and tint.mode is LifeMode.REPLACE:
        gradient = gradient.evolve(stops=tuple(stop.evolve(colour=times(stop.colour)) for stop in gradient.stops))
    return tint.evolve(first=times(tint.first), second=times(tint.second), life=gradient)


def _more(births: Emission, amount: float) -> Emission:
    """Return an emission of `amount` times as many; a burst that there is stays one of at least one, if any."""

    def many(count: int) -> int:
        return min(MAX_LIVING, max(1, round(count * amount))) if count and amount else 0

    bursts: tuple[Model, ...] = tuple(
        burst.evolve(count=many(burst.count), most=None if burst.most is None else many(burst.most))
        for burst in births.bursts
    )
    limit = births.limit
    if limit is not None and amount > 1:
        limit = min(MAX_LIVING, math.ceil(limit * amount))
    rate = _within(Emission, "rate", births.rate * amount)
    per_metre = _within(Emission, "per_metre", births.per_metre * amount)
    return births.evolve(rate=rate, per_metre=per_metre, bursts=bursts, limit=limit)
