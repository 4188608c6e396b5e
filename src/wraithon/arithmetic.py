"""Arithmetic that is typed: + - * / and brackets; numbers as words count them, soft shares, angles in one turn."""

from __future__ import annotations

import ast
import math
import operator

__all__ = ["added", "eased", "evaluate", "measured", "ordinal", "wrapped"]

_BINARY = {ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv}
LONGEST = 100
FAMILIES = ({"mm": 0.001, "cm": 0.01, "m": 1.0}, {"ms": 0.001, "s": 1.0}, {"×": 1.0, "x": 1.0})
"""Units that stand for one another, and how much each is."""


def eased(share: float) -> float:
    """Return a share from 0 to 1 that sets off and arrives softly: 3 s² - 2 s³."""
    share = min(max(share, 0.0), 1.0)
    return share * share * (3 - 2 * share)


def wrapped(angle: float) -> float:
    """Return an angle in radians within half a turn either way."""
    return (angle + math.pi) % (2 * math.pi) - math.pi


def added(one: float, two: float) -> float:
    """Return a sum as it is with decimal numbers: ten times 0.1 less than 1 is 0."""
    return round(one + two, 12)


def ordinal(number: int) -> str:
    """Return a number as which one it is: 1st, 2nd, 3rd, 4th ..."""
    ending = "th" if number % 100 in {11, 12, 13} else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"


def evaluate(text: str) -> float | None:
    """Return what an expression comes to, or None when it is not one; a decimal comma is a point."""
    if len(text) > LONGEST:
        return None
    try:
        value = _value(ast.parse(text.strip().replace(",", "."), mode="eval").body)
    except (SyntaxError, ValueError, ZeroDivisionError, OverflowError, RecursionError, MemoryError):
        return None
    return value if math.isfinite(value) else None


def measured(text: str, unit: str) -> float | None:
    """Return what is typed where numbers have a unit, or None when it is no number.

    The unit may be typed, too, or another that stands for it: "3 cm" is 0.03 where metres are meant.
    """
    typed, own = text.strip(), unit.strip()
    family = next((units for units in FAMILIES if own in units), {own: 1.0} if own else {})
    for told in sorted(family, key=len, reverse=True):
        if typed.lower().endswith(told.lower()):
            number = evaluate(typed[: -len(told)])
            if number is not None:
                return number if told == own else number * family[told] / family[own]
    return evaluate(typed)


def _value(node: ast.expr) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        return float(node.value)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.UAdd | ast.USub):
        value = _value(node.operand)
        return value if isinstance(node.op, ast.UAdd) else -value
    if isinstance(node, ast.BinOp) and type(node.op) in _BINARY:
        return float(_BINARY[type(node.op)](_value(node.left), _value(node.right)))
    msg = "not arithmetic"
    raise ValueError(msg)
