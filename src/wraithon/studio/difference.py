"""The difference of two projects' settings, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from wraithon.project.life import Curve, Gradient, Range

if TYPE_CHECKING:
    from collections.abc import Iterator

    from wraithon.project.project import Project


UNSEEN = frozenset({"view", "views"})
"""What of a project is no setting."""


def difference(before: Project, now: Project) -> list[str]:
    """Return what is set otherwise in `now`, one sentence each: where, what it was, and what it is."""
    return list(_models(before, now, ""))


def _models(one: BaseModel, two: BaseModel, where: str) -> Iterator[str]:
    if one == two:
        return
    if type(one) is not type(two):
        yield f"{where}{_kind(one)} → {_kind(two)}"
        return
    for name in type(one).model_fields:
        if name not in UNSEEN and name != "id":
            yield from _values(getattr(one, name), getattr(two, name), where, name.replace("_", " "))


def _kind(model: BaseModel) -> str:
    return str(getattr(model, "kind", type(model).__name__.lower()))


def _values(one: Any, two: Any, where: str, name: str) -> Iterator[str]:
    if one == two:
        return
    if _plain(one) or _plain(two):
        yield f"{where}{name} {_text(one)} → {_text(two)}"
    elif isinstance(one, BaseModel):
        yield from _models(one, two, f"{where}{name} ")
    elif any(hasattr(item, "id") for item in (*one, *two)):
        yield from _things(one, two, where, name)
    elif len(one) == len(two):
        for number, (a, b) in enumerate(zip(one, two, strict=True), 1):
            yield from _models(a, b, f"{where}{name} {number} ")
    else:
        yield f"{where}{name}: {len(one)} → {len(two)}"


def _plain(value: Any) -> bool:
    """Return whether a value is said in one go."""
    if isinstance(value, Range | Curve | Gradient) or not isinstance(value, BaseModel | tuple):
        return True
    return isinstance(value, tuple) and bool(value) and not isinstance(value[0], BaseModel)


def _things(one: tuple[Any, ...], two: tuple[Any, ...], where: str, name: str) -> Iterator[str]:
    """Yield what is otherwise in lists of things that have ids."""
    before, now = ({item.id: item for item in items} for items in (one, two))
    for key, item in before.items():
        if key not in now:
            yield f"{where}{_called(item, name)} is gone"
    for key, item in now.items():
        if key not in before:
            yield f"{where}{_called(item, name)} is new"
        else:
            yield from _models(before[key], item, f"{where}{_called(before[key], name)}: ")
    common = [key for key in before if key in now]
    if common != [key for key in now if key in before]:
        yield f"{where}{name} are in another order"


def _called(item: Any, name: str) -> str:
    return str(getattr(item, "name", "")) or name.removesuffix("s")


def _text(value: Any) -> str:
    if value is None or value in ("", ()):
        return "none"
    said = {bool: _switch, float: _number, Range: _range, Curve: _curve, Gradient: _gradient, tuple: _several}
    return said.get(type(value), str)(value)


def _switch(value: Any) -> str:
    return "on" if value else "off"


def _number(value: Any) -> str:
    return f"{value:.4g}"


def _range(value: Any) -> str:
    return _number(value.low) if value.low == value.high else f"{_number(value.low)} to {_number(value.high)}"


def _curve(value: Any) -> str:
    return "(" + ", ".join(f"{y:.3g} at {age:.3g}" for age, y in value.points) + ")"


def _gradient(value: Any) -> str:
    return f"a gradient of {len(value.stops)}"


def _several(value: Any) -> str:
    return "(" + ", ".join(_text(each) for each in value) + ")"
