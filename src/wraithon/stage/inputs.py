"""Inputs: what hands do, or a game tells, in a step of the show."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from wraithon.stage.triggering.moment import Hit

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.stage.show import Show


class Input(NamedTuple):
    """Something done by hand, or told by a game, of a kind of INPUTS."""

    kind: str
    what: str = ""
    anchor: str | None = None
    values: tuple[float, ...] = ()


def _fire(show: Show, given: Input) -> None:
    effect = show.compiled.effect(given.what)
    if effect is not None:
        show.start(effect, given.anchor, show.time)


def _try(show: Show, given: Input) -> None:
    trigger = show.compiled.project.trigger(given.what)
    if trigger is not None:
        show.respond(trigger, given.values[0], given.anchor or "")


def _steer(show: Show, given: Input) -> None:
    x, z, fast = given.values
    show.given = show.given._replace(steer=(x, z), fast=bool(fast))


def _act(show: Show, given: Input) -> None:
    show.given = show.given._replace(acts=(*show.given.acts, given.what))


def _key(show: Show, given: Input) -> None:
    show.keys.append(given.what)


def _hit(show: Show, given: Input) -> None:
    show.hit(Hit(given.what, given.anchor, given.values[0]))


def _signal(show: Show, given: Input) -> None:
    show.set_signal(given.what, given.values[0])


INPUTS: dict[str, Callable[[Show, Input], None]] = {
    "fire": _fire, "try": _try, "steer": _steer, "act": _act, "key": _key, "hit": _hit,
    "signal": _signal,
}  # fmt: skip
"""Kind of input to what it does to the show, before the step it is for."""
