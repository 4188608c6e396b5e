"""Reading and writing project folders: whatever can be read is kept, whatever cannot is listed."""

from __future__ import annotations

import json
import secrets
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from wraithon.project.checks.finding import Finding, Level
from wraithon.project.checks.remembering import PerEffect
from wraithon.project.effect import Effect
from wraithon.project.project import FORMAT, VERSION, Project
from wraithon.project.refusing import what_is_wrong
from wraithon.support.errors import ProjectError
from wraithon.support.plain_files import read_plain
from wraithon.support.saving import replacing, settle

PROJECT_FILE = "project.json"
LARGEST = 64 * 2**20
DEEPEST = 100
SET_ASIDE = "set_aside"


@dataclass(frozen=True)
class Opened:
    """A project that was read, and what was noticed while reading."""

    project: Project
    findings: tuple[Finding, ...] = ()


def to_text(project: Project) -> str:
    """Return the project as JSON: sorted keys, one value a line, ending in a newline.

    The text of each effect is kept while it is the same one: what an edit left alone is not written out again.
    """
    mark = secrets.token_hex(16)
    rest = _json({**project.model_dump(mode="json", exclude={"effects"}), "effects": mark})
    effects = [_texts.of(effect, (), partial(_effect_text, effect)) for effect in project.effects]
    listed = "[\n  " + ",\n  ".join(effects) + "\n ]" if effects else "[]"
    return rest.replace(f'"{mark}"', listed, 1) + "\n"


_texts: PerEffect[str] = PerEffect()


def _effect_text(effect: Effect) -> str:
    """Return an effect as JSON, as it stands within a project."""
    return _json(effect.model_dump(mode="json")).replace("\n", "\n  ")


def _json(data: object) -> str:
    return _whole(json.dumps(data, indent=1, sort_keys=True, ensure_ascii=False, allow_nan=False))


def write_atomic(path: Path, data: bytes, mode: int = 0o644) -> None:
    """Write `data` so that `path` holds either all of it or what it held before, even after a kill.

    Where the path is a link, what it leads to is written. `mode` says who may read it.

    Raises
    ------
    ProjectError
        When the folder cannot be written.
    """
    try:
        with replacing(path, mode) as file:
            file.write(data)
    except OSError as error:
        raise ProjectError(f"{path}: cannot be written ({error.strerror}); save somewhere else") from error


def save_project(project: Project, folder: Path) -> None:
    """Write `folder`/project.json atomically.

    Raises
    ------
    ProjectError
        When the folder cannot be written.
    """
    write_atomic(folder / PROJECT_FILE, to_text(project).encode())


def open_project(folder: Path) -> Opened:
    """Read a project folder (or its project.json).

    Raises
    ------
    ProjectError
        When there is no project, or nothing of it can be read.
    """
    path = folder if folder.name == PROJECT_FILE else folder / PROJECT_FILE
    settle(path.parent)
    try:
        raw = read_plain(path, LARGEST)
    except FileNotFoundError as error:
        raise ProjectError(f"{path}: there is no such project; check the path") from error
    except OSError as error:
        raise ProjectError(f"{path}: cannot be read ({error.strerror}); check the path") from error
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        raise ProjectError(f"{path}: byte {error.start} is not UTF-8, so it is not a project file") from error
    return from_text(text, str(path))


def from_text(text: str, name: str = PROJECT_FILE) -> Opened:
    """Read a project from JSON text; `name` is how messages call it.

    Raises
    ------
    ProjectError
        When the text is not JSON or not a Wraithon project.
    """
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except RecursionError as error:
        raise ProjectError(f"{name}: nested too deeply to be a project; restore an earlier version of it") from error
    except ValueError as error:
        raise ProjectError(f"{name}: not valid JSON: {error}; restore an earlier version of it") from error
    if _deeper_than(data, DEEPEST):
        raise ProjectError(f"{name}: nested too deeply to be a project; restore an earlier version of it")
    # An escape may stand for half of a character.
    data = json.loads(_whole(json.dumps(data, ensure_ascii=False))) if "\\u" in text else data
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise ProjectError(f'{name}: not a Wraithon project (its "format" should be "{FORMAT}")')
    findings: list[Finding] = []
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        message = (
            f"made by a newer Wraithon (format {version}, this one knows {VERSION}); what is not understood"
            " is kept when saving, but may not be shown"
        )
        findings.append(Finding(Level.WARNING, name, message))
    project = with_unique_names(_mend(data, name, findings), name, findings)
    findings += [Finding(Level.WARNING, f"{name}: {location}", _UNKNOWN) for location in _unknown(project, "")]
    return Opened(project, tuple(findings))


def with_unique_names(project: Project, name: str, findings: list[Finding]) -> Project:
    """Return a project in which no two things of a kind have one id; the later of two gets another."""
    apart = _Apart(name, findings)
    effects = tuple(
        apart.one("effect", effect).evolve(layers=tuple(apart.one("layer", layer) for layer in effect.layers))
        for effect in project.effects
    )
    triggers = tuple(apart.one("trigger", trigger) for trigger in project.triggers)
    uses = tuple(
        apart.one("character", use).evolve(
            **{
                field: tuple(apart.one(f"{use.id} {field}", thing) for thing in getattr(use, field))
                for field in ("anchors", "events", "masks")
            },
            clips=tuple(
                clip.evolve(marks=tuple(apart.one(f"{use.id} mark", mark) for mark in clip.marks))
                for clip in use.clips
            ),
        )
        for use in project.characters
    )
    return project.evolve(effects=effects, triggers=triggers, characters=uses) if apart.changed else project


class _Apart:
    """Gives things whose id was seen before one of their own."""

    def __init__(self, name: str, findings: list[Finding]) -> None:
        self._name, self._findings = name, findings
        self._seen: set[tuple[str, str]] = set()
        self.changed = False

    def one(self, kind: str, thing: Any) -> Any:
        """Return a thing whose id no other of its kind had before."""
        own, number = thing.id, 2
        while (kind, own) in self._seen:
            own = f"{thing.id[:56]}-{number}"
            number += 1
        self._seen.add((kind, own))
        if own == thing.id:
            return thing
        self.changed = True
        called = f'{kind.rsplit(" ", 1)[-1]} "{getattr(thing, "name", thing.id)}"'
        message = f'another has the id "{thing.id}", too; this one is called "{own}" from now on'
        self._findings.append(Finding(Level.WARNING, f"{self._name}: {called}", message, own))
        return thing.evolve(id=own)


def _whole(text: str) -> str:
    """Return a text without halves of characters, which nothing can show or save."""
    return text.encode("utf-16", "surrogatepass").decode("utf-16", "replace")


def _deeper_than(data: Any, maximum: int) -> bool:
    """Return whether lists and objects are nested more than so many times."""
    level = [data] if isinstance(data, dict | list) else []
    for _ in range(maximum):
        level = [
            child
            for item in level
            for child in (item.values() if isinstance(item, dict) else item)
            if isinstance(child, dict | list)
        ]
        if not level:
            return False
    return True


_UNKNOWN = "this version does not know this field; it is kept as it is when saving"


def _refuse_constant(word: str) -> None:
    msg = f"{word} is not a number a project may hold"
    raise ValueError(msg)


def _mend(data: dict[str, Any], name: str, findings: list[Finding]) -> Project:
    """Validate `data`, setting aside what is wrong until the rest stands."""
    aside: list[dict[str, Any]] = list(data.get(SET_ASIDE, [])) if isinstance(data.get(SET_ASIDE), list) else []
    right = _right_effects(data)
    for _ in range(200):
        try:
            project = Project.model_validate(_with_read(data, right))
        except ValidationError as error:
            for problem in _outermost_last(error):
                location, value = _cut(data, problem["loc"])
                aside.append({"place": location, "value": value})
                what = f"{what_is_wrong(problem)} (it says {_short(value)})"
                message = f"{what}; the usual value is used, yours is kept aside"
                findings.append(Finding(Level.ERROR, f"{name}: {location}", message))
                break
            continue
        return project.evolve(**{SET_ASIDE: aside}) if aside else project
    raise ProjectError(f"{name}: more than 200 values are wrong; restore an earlier version of it")


def _right_effects(data: dict[str, Any]) -> dict[int, Effect]:
    """Read the effects that are right one by one, so that others may go on meanwhile; by where their data is."""
    effects: Any = data.get("effects")
    found = {}
    for effect in effects if isinstance(effects, list) else ():
        with suppress(ValidationError):
            found[id(effect)] = Effect.model_validate(effect)
    return found


def _with_read(data: dict[str, Any], right: dict[int, Effect]) -> dict[str, Any]:
    """Return data with the effects that were read already; the data itself stays as it was in the file."""
    effects: Any = data.get("effects")
    return {**data, "effects": [right.get(id(e), e) for e in effects]} if isinstance(effects, list) else data


def _outermost_last(error: ValidationError) -> list[Any]:
    return sorted(error.errors(include_url=False), key=lambda e: -len(e["loc"]))


def _short(value: Any) -> str:
    text = json.dumps(value, ensure_ascii=False, default=str)
    return text if len(text) <= 60 else text[:57] + "..."


def _cut(data: dict[str, Any], loc: tuple[Any, ...]) -> tuple[str, Any]:
    """Take the value at `loc` out of `data`; in a list, the whole entry; return its place and value."""
    keys: list[tuple[Any, Any]] = []
    here: Any = data
    for key in loc:
        if (isinstance(here, dict) and key in here) or (
            isinstance(here, list) and isinstance(key, int) and key < len(here)
        ):
            keys.append((here, key))
            here = here[key]
        # Anything else is pydantic's own tag of a union, or a field that is missing.
    while keys and isinstance(keys[-1][0], list) and len(keys) > 1 and _is_plain(keys[-1][0]):
        keys.pop()  # a number of a tuple is no entry of its own: the tuple goes
    if not keys:
        raise ProjectError(f"the project itself is wrong: {loc}")
    owner, key = keys[-1]
    value = owner.pop(key)
    return _location([k for _, k in keys]), value


def _is_plain(items: list[Any]) -> bool:
    return not any(isinstance(x, dict) for x in items)


def _location(keys: list[Any]) -> str:
    text = ""
    for key in keys:
        text += f"[{key}]" if isinstance(key, int) else f".{key}" if text else str(key)
    return text


def _unknown(model: Any, location: str) -> list[str]:
    """List the places of fields that no model of this version knows."""
    found: list[str] = []
    extra = getattr(model, "model_extra", None) or {}
    found += [f"{location}.{key}".lstrip(".") for key in extra if key != SET_ASIDE or location]
    for name, field in getattr(type(model), "model_fields", {}).items():
        key, value = field.alias or name, getattr(model, name)
        children = enumerate(value) if isinstance(value, tuple) else [(None, value)]
        for index, child in children:
            if hasattr(child, "model_fields_set"):
                here = f"{location}.{key}" + ("" if index is None else f"[{index}]")
                found += _unknown(child, here.lstrip("."))
    return found
