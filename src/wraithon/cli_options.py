"""What options and arguments of the command line share."""

from __future__ import annotations

import json
import math
from typing import Annotated, Any

import typer

__all__ = ["LARGEST_SEED", "JsonOption", "ProjectArgument", "SizeOption", "finite", "print_data", "seconds_option"]

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
