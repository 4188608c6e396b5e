"""How a curve through life meets the value at birth: said once, for kernels, checks and what the window draws."""

from __future__ import annotations

from typing import Any

STEADY, SCALE, ADD, REPLACE = range(-1, 3)
"""Codes of the ways: no curve at all, then the places in `project.life.LifeMode`."""


def met(value: Any, curve: Any, mode: int) -> Any:
    """Return a value at birth met by its curve; both numbers or arrays. Compiled into kernels, too."""
    if mode < SCALE:
        return value
    if mode == SCALE:
        return value * curve
    return value + curve if mode == ADD else curve
