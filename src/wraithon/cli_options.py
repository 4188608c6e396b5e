"""What options and arguments of the command line share."""

from __future__ import annotations

import json
import re
import sys
from typing import TYPE_CHECKING, Annotated, Any

import typer

from wraithon.support.errors import ProjectError

if TYPE_CHECKING:
    from collections.abc import Callable

    from typer.exceptions import TyperException


MAX_SECONDS = 86_400
"""A day: the latest moment of a show that can be asked for."""
LARGEST_SEED = 2**63 - 1


def within(low: float, high: float, unit: str = "") -> Callable[[float | None], float | None]:
    """Return what checks that an option's number is one, from `low` to `high`; it raises typer.BadParameter."""

    def check(value: float | None) -> float | None:
        if value is not None and not low <= value <= high:  # which no number that is none does
            came = value if isinstance(value, int) else f"{value:g}"
            raise typer.BadParameter(f"must be {low:,} to {high:,}{unit and f' {unit}'}, not {came}")
        return value

    return check


def seconds_option(text: str, *flags: str) -> Any:
    """Return an option for a moment or a time in seconds."""
    return typer.Option(*flags, help=text, callback=within(0, MAX_SECONDS, "s"))


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
    return "  ".join(f"{key} {_text(value)}" for key, value in item.items())


def _text(value: Any) -> str:
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
    width, height = int(sides[1]), int(sides[2])
    check_size(width, height)
    return width, height


def report_progress(done: int, total: int) -> bool:
    """Tell somebody who watches how far long work is; return whether to go on."""
    if sys.stderr.isatty():
        typer.echo(f"\r{done} of {total}", err=True, nl=done == total)
    return True


def report_share(share: float) -> None:
    """Tell somebody who watches which share of long work is done."""
    report_progress(round(share * 100), 100)


USAGE = (
    (r"Missing argument '(?P<what>.+?)'\.?", "{what} is missing{see}"),
    (r"Missing option '(?P<what>.+?)'( / '(?P<long>.+?)')?\.?", "{what} is missing{see}"),
    (r"Got unexpected extra argument(s|\(s\))? \((?P<what>.+)\)", '"{what}" is too much{see}'),
    (r"No such option:? '?(?P<what>-[^ '.]*)'?.*", "{what}: there is no such option{see}"),
    (r"Option '(?P<what>.+?)' requires an argument\.?", "{what}: its value is missing{see}"),
    (r"Invalid value for '(?P<what>.+?)'[^:]*: .*unable to parse string as a number.*", "{what}: give a number"),
    (
        r"Invalid value for '(?P<what>.+?)'[^:]*: .*unable to parse string as an integer.*",
        "{what}: give a whole number",
    ),
    (r"Invalid value for '(?P<what>.+?)'[^:]*: (Value error, )?(?P<why>.+?)\.?", "{what}: {why}"),
)
"""What the library for command lines says of a wrong one, to our words for it."""


def usage_text(error: TyperException) -> str:
    """Return in our words what is wrong with a command line."""
    context = getattr(error, "ctx", None)
    see = f"; see {context.command_path} --help" if context is not None else "; see wraithon --help"
    said = " ".join(error.format_message().split())
    for pattern, text in USAGE:
        found = re.fullmatch(pattern, said)
        if found is not None:
            return text.format(**found.groupdict(), see=see)
    return f"{said}{see}"
