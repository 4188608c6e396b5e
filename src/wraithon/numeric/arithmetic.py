"""Arithmetic that is typed: + - * / and brackets; numbers as words count them, soft shares, angles in one turn."""

from __future__ import annotations

import ast
import math
import operator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

_BINARY = {ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv}
LONGEST = 100
FAMILIES: tuple[dict[str, float], ...] = (
    {"mm": 0.001, "cm": 0.01, "m": 1.0, "km": 1000.0},
    {"ms": 0.001, "s": 1.0, "min": 60.0},
    {"×": 1.0, "x": 1.0},
    {"°": 1.0, "deg": 1.0, "rad": math.degrees(1)},
    {"cm/s": 0.01, "m/s": 1.0, "km/h": 1 / 3.6},
    {"cm/s²": 0.01, "m/s²": 1.0, "m/s2": 1.0},
    {"°/s": 1.0, "deg/s": 1.0, "rad/s": math.degrees(1)},
    {"/s": 1.0, "1/s": 1.0, "Hz": 1.0, "/min": 1 / 60},
    {"/m": 1.0, "1/m": 1.0, "/cm": 100.0},
)
"""Units that stand for one another, and how much each is."""


def eased(share: float) -> float:
    """Return a share from 0 to 1 that sets off and arrives softly: 3 s² - 2 s³."""
    share = min(max(share, 0.0), 1.0)
    return share * share * (3 - 2 * share)


def smoothstep(shares: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return shares, kept to 0..1, eased in and out: 3 s² - 2 s³."""
    shares = np.clip(shares, 0, 1)
    return shares * shares * (3 - 2 * shares)


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
    try:
        return _reckoned(text)
    except (SyntaxError, ValueError, ArithmeticError, RecursionError, MemoryError):
        return None


def _reckoned(text: str) -> float:
    if len(text) > LONGEST:
        raise ValueError(text)
    value = _value(ast.parse(text.strip().replace(",", "."), mode="eval").body)
    if not math.isfinite(value):
        raise OverflowError(text)
    return value


def measured(text: str, unit: str) -> float | None:
    """Return what is typed where numbers have a unit, or None when it is no number.

    The unit may be typed, too, or another that stands for it: "3 cm" is 0.03 where metres are meant.
    """
    typed, own = text.strip(), _plain(unit)
    family = _family(own)
    for name in sorted(family, key=len, reverse=True):
        if typed.lower().endswith(name.lower()):
            number = evaluate(typed[: -len(name)])
            if number is not None:
                return number if name == own else number * family[name] / family[own]
    return evaluate(typed)


class RelativeChange(NamedTuple):
    """What is typed to change a number by: `*0.5`, `/ 2`, `+2 cm`, `+-2 cm`."""

    operation: str
    """One of `*`, `/` and `+`."""
    amount: float
    """In the number's own unit where it is added."""

    def of(self, value: float) -> float:
        """Return what a value becomes."""
        if self.operation == "+":
            return added(value, self.amount)
        return value * self.amount if self.operation == "*" else value / self.amount


def relative(text: str, unit: str) -> RelativeChange | None:
    """Return by what a number in a unit is changed where that is typed, or None where it is not."""
    operation, rest = text.strip()[:1], text.strip()[1:]
    if operation == "+":
        amount = measured(rest, unit)
    elif operation in {"*", "/"}:
        amount = evaluate(rest)
    else:
        return None
    if amount is None or (operation == "/" and amount == 0):
        return None
    return RelativeChange(operation, amount)


def why_not(text: str, unit: str) -> str:
    """Return why what is typed where numbers have a unit is none (see `measured`), and what would be."""
    typed = text.strip()
    if not typed:
        return "type a number"
    if len(typed) > LONGEST:
        return f"too long: {LONGEST} characters at most"
    end = max((k + 1 for k, letter in enumerate(typed) if letter.isdigit() or letter == ")"), default=0)
    number, rest = typed[:end], typed[end:].strip()
    try:
        _reckoned(f"1{number}" if typed[0] in "*/" and number else number)
    except ZeroDivisionError:
        return f"{typed} divides by 0"
    except OverflowError:
        return f"{typed} is more than any number here"
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        rest = ""
    if rest:
        known = " or ".join(_family(_plain(unit))) or "a plain number"
        return f"a factor has no unit: type {number}" if typed[0] in "*/" else f"{rest} is no unit here: type {known}"
    return f"{typed} is no number, and nothing that comes to one, as 2 * 3.5 does"


def _plain(unit: str) -> str:
    """Return a unit without the axis that is named before it."""
    return unit.rsplit(maxsplit=1)[-1] if unit.strip() else ""


def _family(unit: str) -> dict[str, float]:
    return next((units for units in FAMILIES if unit in units), {unit: 1.0} if unit else {})


def _value(node: ast.expr) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        return float(node.value)
    signed = isinstance(node, ast.UnaryOp) and not isinstance(node.operand, ast.UnaryOp)  # two signs are a slip
    if signed and isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.UAdd | ast.USub):
        value = _value(node.operand)
        return value if isinstance(node.op, ast.UAdd) else -value
    if isinstance(node, ast.BinOp) and type(node.op) in _BINARY:
        return float(_BINARY[type(node.op)](_value(node.left), _value(node.right)))
    msg = "not arithmetic"
    raise ValueError(msg)
