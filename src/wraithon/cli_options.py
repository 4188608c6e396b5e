"""What options and arguments of the command line share."""

from __future__ import annotations

import json
import math
import re
import sys
from typing import Annotated, Any

import typer

from wraithon.errors import ProjectError

__all__ = [
    "LARGEST_SEED",
    "JsonOption",
    "ProjectArgument",
    "SizeOption",
    "finite",
    "print_data",
    "seconds_option",
    "size_of",
    "tell_progress",
    "tell_share",
]

MOST_SECONDS = 86_400.0
"""A day: the latest moment of a show that can be asked for."""
LARGEST_SEED = 2**63 - 1


def finite(value: float | None) -> float | None:
    """Return a number that is one, or none.

    Raises
    ------
    typer.BadParameter
        When it is infinite, or no number.
    """
    if value is not None and not math.isfinite(value):
        raise typer.BadParameter(f"{value} is no moment")
    return value


def seconds_option(words: str, *flags: str) -> Any:
    """Return an option for a moment or a time in seconds."""
    return typer.Option(*flags, help=words, min=0, max=MOST_SECONDS, callback=finite)


ProjectArgument = Annotated[
    str, typer.Argument(metavar="PROJECT", help="A project folder, a .glb or .gltf character, or: demo")
]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON instead of words.")]
SizeOption = Annotated[str, typer.Option(help="Width x height in pixels.")]


def print_data(data: dict[str, Any], *, as_json: bool) -> None:
    """Print data as JSON or in words."""
    if as_json:
        typer.echo(json.dumps(data, indent=1, ensure_ascii=False))
        return
    for key, value in data.items():
        if isinstance(value, list):
            typer.echo(f"{key}: {len(value)}")
            for item in value:
                typer.echo("  " + (_line(item) if isinstance(item, dict) else str(item)))
        else:
            typer.echo(f"{key}: {value}")


def _line(item: dict[str, Any]) -> str:
    return "  ".join(f"{key} {_words(value)}" for key, value in item.items())


def _words(value: Any) -> str:
    if isinstance(value, list):
        plain = all(isinstance(x, str) for x in value)
        return ", ".join(value) if plain and len(value) <= 12 else str(len(value))
    return str(value)


def size_of(text: str) -> tuple[int, int]:
    """Return width and height in pixels, from text as in 1280x720.

    Raises
    ------
    ProjectError
        When the text says something else.
    RenderError
        When the size is out of range.
    """
    from wraithon.picture.renderer import check_size

    sides = re.fullmatch(r"([0-9]{1,6})x([0-9]{1,6})", text.lower())
    if sides is None:
        raise ProjectError(f"--size {text}: give width x height in pixels, as in 1280x720")
    wide, high = int(sides[1]), int(sides[2])
    check_size(wide, high)
    return wide, high


def tell_progress(done: int, total: int) -> bool:
    """Tell somebody who watches how far long work is; return whether to go on."""
    if sys.stderr.isatty():
        typer.echo(f"\r{done} of {total}", err=True, nl=done == total)
    return True


def tell_share(share: float) -> None:
    """Tell somebody who watches which share of long work is done."""
    tell_progress(round(share * 100), 100)
