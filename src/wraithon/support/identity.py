"""Telling whether something was made of the very same things."""

from __future__ import annotations


def same_objects(some: tuple[object, ...], others: tuple[object, ...]) -> bool:
    """Return whether both hold the same objects in the same order, not merely equal ones."""
    return len(some) == len(others) and all(a is b for a, b in zip(some, others, strict=True))
