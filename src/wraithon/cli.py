"""The command line: open, render, inspect, check, play."""

from __future__ import annotations

import difflib
import json
import logging
import os
import sys
from collections.abc import Collection
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer
from typer.core import TyperGroup
from typer.exceptions import TyperException

import wraithon
from wraithon.cli_options import (
    LARGEST_SEED,
    JsonOption,
    ProjectArgument,
    SizeOption,
    print_data,
    report_progress,
    report_share,
    seconds_option,
    size_of,
    usage_text,
    within,
)
from wraithon.project.source import MAX_EVEN, Mode, Spacing
from wraithon.support.errors import CharacterError, ProjectError, WraithonError
from wraithon.support.interrupts import INTERRUPTED, came, raise_them
from wraithon.support.nearest import no_such
from wraithon.support.places import log_file, start_log

if TYPE_CHECKING:
    from wraithon.stage.loading import Loaded


log = logging.getLogger(__name__)


class _OpenByDefault(TyperGroup):
    """`wraithon PROJECT` is `wraithon open PROJECT`; without anything, an empty window opens."""

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        known = [*self.commands, "--help", "--version", "--install-completion", "--show-completion"]
        if not args or args[0] not in known:
            if args and not args[0].startswith("-"):
                _must_exist(args[0])
            args = ["open", *args]
        return super().parse_args(ctx, args)


app = typer.Typer(
    cls=_OpenByDefault,
    help="Particle effects emitted from skinned characters and fired from their animation.",
    no_args_is_help=False,
    add_completion=False,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"wraithon {wraithon.__version__}")
        raise typer.Exit


@app.callback()
def _root(
    version: Annotated[  # its callback does the work
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    """Particle effects emitted from skinned characters and fired from their animation."""


@app.command("open", hidden=True)
def open_window(
    project: Annotated[str | None, typer.Argument(metavar="PROJECT")] = None,
    picture: Annotated[Path | None, typer.Option(help="Save a picture of the window here, then quit.")] = None,
) -> None:
    """Open the window with a project."""
    from wraithon.desktop.app import run

    if project is not None and project != "demo":
        _must_exist(project)
    raise typer.Exit(run(_path(project) if project else None, picture))


@app.command()
def demo(
    picture: Annotated[Path | None, typer.Option(help="Save a picture of the window here, then quit.")] = None,
) -> None:
    """Open the demo project; with no display, play it unseen and save a picture of the window."""
    from wraithon.desktop.app import has_display, run
    from wraithon.support.places import state_folder

    unseen = not has_display()
    if unseen and picture is None:
        picture = state_folder() / "demo.png"
    code = run(_path("demo"), picture)
    if picture is not None and not code:
        why = "There is no display: the demo was played unseen. " if unseen else ""
        typer.echo(f"{why}A picture of the window is in {picture}")
    raise typer.Exit(code)


@app.command()
def render(
    project: ProjectArgument,
    output: Annotated[str, typer.Option("-o", "--output", help="shot.png, or dir/shot_####.png for a sequence.")],
    at: Annotated[float, seconds_option("Moment of the show in seconds.")] = 0.0,
    size: SizeOption = "1280x720",
    start: Annotated[float | None, seconds_option("Sequence: first moment in seconds.", "--from")] = None,
    end: Annotated[float | None, seconds_option("Sequence: last moment in seconds.", "--to")] = None,
    fps: Annotated[float, typer.Option(help="Sequence: pictures a second.", callback=within(0.01, 1000))] = 30.0,
) -> None:
    """Write a picture of one moment, or a numbered sequence of pictures."""
    from wraithon.interchange.pictures import render_moment, render_sequence
    from wraithon.picture.raster import RasterRenderer
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache

    pixels = size_of(size)
    loaded = _load(project)
    library = TextureLibrary(loaded.folder)
    player = Player(loaded.project, loaded.characters, SamplerCache(library.read), partial=True)
    renderer = RasterRenderer(library.read, library.pieces.read)
    if start is None and end is None and "#" not in output:
        render_moment(player, renderer, at, pixels, Path(output))
        written = 1
    else:
        span = (start or 0.0, end if end is not None else (start or 0.0) + 1 / fps)
        written = render_sequence(player, renderer, span, fps, pixels, output, report_progress)
    for problem in renderer.problems.values():
        typer.echo(f"warning: {problem}", err=True)
    typer.echo(f"{written} {'picture' if written == 1 else 'pictures'} written to {output}")


@app.command()
def inspect(
    file: Annotated[str, typer.Argument(metavar="FILE", help="A .glb or .gltf character, a project, or: demo")],
    motion: Annotated[
        Path | None, typer.Option(help="Tell how this .bvh motion fits the character, instead.")
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Print what a character file or a project holds."""
    from wraithon.character.reading.bvh import read_bvh
    from wraithon.character.reading.gltf import read_gltf
    from wraithon.interchange.summary import summarise_character, summarise_fit, summarise_project
    from wraithon.stage.loading import CHARACTER_ENDINGS

    path = _path(file)
    if motion is not None:
        body = next(_path("demo").glob("characters/*.glb")) if file == "demo" else path
        print_data(summarise_fit(read_gltf(body), read_bvh(motion)), as_json=as_json)
        return
    if path.suffix.lower() in CHARACTER_ENDINGS:
        character = read_gltf(path)
        for note in character.notes:
            typer.echo(f"{path.name}: {note}", err=True)
        print_data(summarise_character(character), as_json=as_json)
        return
    loaded = _load(file)
    data = summarise_project(loaded.project)
    for entry, use in zip(data["characters"], loaded.project.characters, strict=True):
        if use.id in loaded.characters:
            entry.update(summarise_character(loaded.characters[use.id]))
    print_data(data, as_json=as_json)


@app.command()
def contacts(
    file: Annotated[str, typer.Argument(metavar="CHARACTER", help="A .glb or .gltf character, a project, or: demo")],
    clip: Annotated[str | None, typer.Option(help="Look at this clip alone.")] = None,
    motion: Annotated[Path | None, typer.Option(help="Look at this .bvh motion, put on the character.")] = None,
    as_json: JsonOption = False,
) -> None:
    """Print when feet stand on the ground in a character's clips."""
    from wraithon.interchange.footing import contacts_of, danced

    character, loops = danced(_path(file), motion)
    if clip is not None and character.clip(clip) is None:
        known = ", ".join(each.name for each in character.clips) or "none"
        raise ProjectError(f"--clip {clip}: there is no such clip; there are: {known}")
    found = [contact for each in character.clips if clip in {None, each.name} for contact in
             contacts_of(character, each, loops=loops.get(each.name))]  # fmt: skip
    if as_json:
        typer.echo(json.dumps(found, indent=1, ensure_ascii=False))
        return
    for contact in found:
        span = f"{contact['start']:.3f} to {contact['end']:.3f} s"
        typer.echo(f"{contact['clip']}: {contact['joint']} {span}, sure to {contact['confidence']:.0%}")
    if not found:
        typer.echo("no foot stands on the ground")


@app.command()
def check(project: ProjectArgument, as_json: JsonOption = False) -> None:
    """Print what in a project will not do what it seems to say; exit with 1 when something is an error."""
    from wraithon.interchange.summary import summarise_findings
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.checks.finding import Level
    from wraithon.studio.sheets import Sheets
    from wraithon.studio.survey import fired_findings

    loaded = _load(project)
    library = TextureLibrary(loaded.folder)
    textures, sounds = frozenset(library.names()), frozenset(library.sounds.names())
    findings = [*loaded.check(textures, sounds), *Sheets().findings(loaded.project, library)]
    findings += fired_findings(loaded.project, loaded.characters, library)
    if as_json:
        typer.echo(json.dumps({"findings": summarise_findings(findings)}, indent=1, ensure_ascii=False))
    else:
        for finding in findings:
            typer.echo(f"{finding.level}: {finding.location}: {finding.message}")
        if not findings:
            typer.echo("nothing found: everything does what it says")
    raise typer.Exit(int(any(f.level is Level.ERROR for f in findings)))


@app.command()
def play(
    project: ProjectArgument,
    until: Annotated[float, seconds_option("Seconds to play.")] = 5.0,
    as_json: JsonOption = False,
    digest: Annotated[bool, typer.Option("--digest", help="Add a fingerprint of the final state.")] = False,
) -> None:
    """Play a project without drawing it, and print what lived and what fired."""
    from wraithon.interchange.summary import summarise_run
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache

    loaded = _load(project)
    library = SamplerCache(TextureLibrary(loaded.folder).read)
    player = Player(loaded.project, loaded.characters, library, partial=True)
    player.seek(until)
    print_data(summarise_run(player, digest=digest), as_json=as_json)


@app.command()
def cost(
    project: ProjectArgument,
    until: Annotated[float, seconds_option("Seconds of the show to measure.")] = 10.0,
    size: SizeOption = "890x500",
    as_json: JsonOption = False,
) -> None:
    """Print what a project costs at its most expensive frame, layer by layer, and how quickly it plays live."""
    from wraithon.studio.cost import measured, summary

    pixels = size_of(size)
    loaded = _load(project)
    found = measured(loaded.project, loaded.characters, loaded.folder, until, pixels, report_share)
    print_data(summary(found, loaded.project), as_json=as_json)


@app.command()
def sample(
    character: Annotated[str, typer.Argument(metavar="CHARACTER", help="A .glb or .gltf character, or: demo")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The table to write, points.csv.")],
    mode: Annotated[Mode, typer.Option(help="What gives birth.")] = Mode.SURFACE,
    count: Annotated[int, typer.Option(help="How many places.", callback=within(1, 5_000_000))] = 1000,
    parts: Annotated[str, typer.Option(help="Only these parts: a,b.")] = "",
    joints: Annotated[str, typer.Option(help="Only what these joints hold: a,b.")] = "",
    spacing: Annotated[Spacing, typer.Option(help="By chance, or evenly spaced.")] = Spacing.RANDOM,
    clip: Annotated[str, typer.Option(help="Posed by this clip; the rest pose without it.")] = "",
    at: Annotated[float, seconds_option("Moment of the clip in seconds.")] = 0.0,
    radius: Annotated[
        float, typer.Option(help="Bones: births lie within this many metres.", callback=within(0, 1000, "m"))
    ] = 0.0,
    seed: Annotated[int, typer.Option(help="Another seed, other places.", callback=within(0, LARGEST_SEED))] = 1,
) -> None:
    """Write fairly sampled places of a character: x,y,z,nx,ny,nz,u,v,part,joint."""
    from wraithon.character.reading.gltf import read_gltf
    from wraithon.character.sampling import sampler_of
    from wraithon.interchange.samples import sample_rows, write_samples
    from wraithon.project.source import JointSet, SkinSource

    path = next(_path("demo").glob("characters/*.glb")) if character == "demo" else Path(character)
    body = read_gltf(path)
    chosen_parts, chosen_joints = _names(parts), _names(joints)
    _must_have(path, "part", chosen_parts, [part.name for part in body.parts])
    _must_have(path, "joint", chosen_joints, body.skeleton.names)
    _must_have(path, "clip", _names(clip)[:1], [c.name for c in body.clips])
    if spacing is Spacing.EVEN and count > MAX_EVEN:
        raise ProjectError(f"--count {count}: at most {MAX_EVEN} places can be spaced evenly")
    source = SkinSource(
        mode=mode,
        parts=chosen_parts,
        joints=JointSet(names=chosen_joints),
        spacing=spacing,
        pieces=min(count, MAX_EVEN),
        radius=radius,
    )
    sampler = sampler_of(body, source, key=seed, progress=report_share)
    if sampler.empty:
        raise CharacterError(f"{path}: nothing is left to emit from; choose other parts or joints")
    if spacing is Spacing.EVEN and len(sampler.arrays.even_rows) < count:
        typer.echo(f"warning: there are only {len(sampler.arrays.even_rows)} places to choose from", err=True)
        count = len(sampler.arrays.even_rows)
    rows = sample_rows(body, sampler, count, seed=seed, clip=body.clip(clip), time=at, radius=radius)
    typer.echo(f"{write_samples(output, rows)} places written to {output}")


def _names(text: str) -> tuple[str, ...]:
    return tuple(name.strip() for name in text.split(",") if name.strip())


def _must_have(path: Path, kind: str, wanted: tuple[str, ...], there: Collection[str]) -> None:
    for name in wanted:
        if name not in there:
            raise CharacterError(f"{path}: {no_such(kind, name, there)}")


@app.command(hidden=True)
def warm() -> None:
    """Compile all kernels, so that the first start is not a wait."""
    from wraithon.demo.warm import STAGES, warm_up_by_two
    from wraithon.numeric.compiled import all_compiled

    said = not all_compiled()
    if said:
        typer.echo("Setting up, 2 of 2: compiling kernels, once for this version (about three minutes)", err=True)
    for number, name in enumerate(warm_up_by_two()):
        if said:
            typer.echo(f"  {number + 1} of {len(STAGES)}: {name}", err=True)


def _path(name: str) -> Path:
    if name == "demo":
        from wraithon.demo import DEMO_FOLDER

        return DEMO_FOLDER
    return Path(name)


def _must_exist(name: str) -> None:
    if not _path(name).exists():
        near = difflib.get_close_matches(name, list(typer.main.get_group(app).commands), 1)
        hint = f'did you mean "wraithon {near[0]}"?' if near else "see wraithon --help"
        raise ProjectError(f"{name}: there is no such project or command; {hint}")


def _load(name: str) -> Loaded:
    from wraithon.stage.loading import load

    _must_exist(name)
    loaded = load(_path(name))
    for finding in (*loaded.findings, *loaded.unfit):
        log.info("%s: %s: %s", finding.level, finding.location, finding.message)
    return loaded


def main() -> None:
    """Run the command line; an error is one line on standard error and exit code 2."""
    try:
        raise_them()
        start_log()
        code = app(prog_name="wraithon", standalone_mode=False)
        sys.stdout.flush()
    except WraithonError as error:
        _fail(str(error))
    except TyperException as error:
        _fail(usage_text(error))
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        sys.exit(1)
    except (KeyboardInterrupt, typer.Abort):
        sys.exit(INTERRUPTED)
    except OSError as error:
        log.exception("unexpected")
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())  # what is left of it cannot be written either
        _fail(f"{error.filename or 'output'}: {error.strerror or error}")
    except Exception as error:
        log.exception("unexpected")
        _fail(f"something unexpected happened ({type(error).__name__}: {error}); details are in {log_file()}")
    sys.exit(code if isinstance(code, int) else 0)


def _fail(text: str) -> NoReturn:
    if came():  # whatever broke, that is why
        sys.exit(INTERRUPTED)
    sys.stderr.write(f"wraithon: {' '.join(text.split())}\n")
    sys.exit(2)
