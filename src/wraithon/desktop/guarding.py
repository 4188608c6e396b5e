"""Handlers that Qt calls: what one raises ends in it, so that no other is drawn into it.

Qt calls handlers from C++, which knows no exceptions. What a handler raises is kept by the binding and raised again
in whatever calls Qt next: in another widget, or in the middle of an edit. So each handler of the window's own classes
is guarded as its class is made; what it raises goes to `sys.excepthook`, where `catching` takes it.
"""

from __future__ import annotations

import sys
from functools import wraps
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject

if TYPE_CHECKING:
    from collections.abc import Callable


OWN = "wraithon.desktop"
UNHANDLED: dict[str, object] = {"event": False, "eventFilter": False}
"""What a handler that has raised returns, where that is not nothing: the event goes its usual way."""


def is_handler(name: str) -> bool:
    """Return whether Qt calls methods of this name with an event."""
    return name in UNHANDLED or (name.endswith("Event") and name[0].islower())


def guarded(handler: Callable[..., Any], name: str) -> Callable[..., Any]:
    """Return a handler from which nothing comes but what it returns."""

    @wraps(handler)
    def call(*arguments: Any) -> Any:
        try:
            return handler(*arguments)
        except Exception:  # noqa: BLE001  # whatever it is, it is told in one place
            sys.excepthook(*sys.exc_info())
            return UNHANDLED.get(name)

    return call


def guard_classes() -> None:
    """Guard the handlers of all classes of the window that are made from now on, mixed-in ones, too."""

    def guard(kind: type, **_: object) -> None:
        for own in kind.__mro__:
            if own.__module__.startswith(OWN):
                for name, method in list(vars(own).items()):
                    if is_handler(name) and not hasattr(method, "__wrapped__"):
                        setattr(own, name, guarded(method, name))

    QObject.__init_subclass__ = classmethod(guard)  # type: ignore[assignment]  # as a class's own would be
