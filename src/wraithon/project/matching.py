"""Names a project uses that a character file no longer has, and putting others in their place."""

from __future__ import annotations

import difflib
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wraithon.project.character import ClipUse
from wraithon.project.edit import replaced_clip, with_character, with_clip
from wraithon.project.source import SkinSource

if TYPE_CHECKING:
    from wraithon.project.character import CharacterUse
    from wraithon.project.effect import Layer
    from wraithon.project.findings import CharacterFacts
    from wraithon.project.project import Project


NEAREST = 5


@dataclass(frozen=True)
class Missing:
    """A name that is used but not in the file."""

    kind: str
    """ "joint", "part" or "clip"."""
    name: str
    users: tuple[str, ...]
    """What uses it, in words."""
    nearest: tuple[str, ...]
    """Names of the file that are most like it, the nearest first."""


def nearest_names(name: str, there: Collection[str], maximum: int = NEAREST) -> tuple[str, ...]:
    """Return the names most like `name`, whatever their case and marks, the nearest first."""
    plain: dict[str, str] = {}
    for other in there:
        plain.setdefault(_plain(other), other)
    found = difflib.get_close_matches(_plain(name), list(plain), maximum, 0.3)
    return tuple(plain[key] for key in found)


def _plain(name: str) -> str:
    """Return a name without marks, spaces and what programs put before a colon."""
    return "".join(c for c in name.rpartition(":")[2].lower() if c.isalnum())


def missing_names(project: Project, use: CharacterUse, facts: CharacterFacts) -> list[Missing]:
    """Return every joint, part and clip that is used and not in the character's file."""
    kinds = {"joint": facts.joints, "part": facts.parts, "clip": frozenset(facts.clips)}
    users: dict[tuple[str, str], list[str]] = {}
    for kind, name, user in _used(project, use):
        if name and name not in kinds[kind]:
            users.setdefault((kind, name), []).append(user)
    return [
        Missing(kind, name, tuple(dict.fromkeys(who)), nearest_names(name, kinds[kind]))
        for (kind, name), who in users.items()
    ]


def _used(project: Project, use: CharacterUse) -> Iterator[tuple[str, str, str]]:
    for anchor in use.anchors:
        yield "joint", anchor.joint, f"anchor {anchor.name}"
    for part in use.hidden_parts:
        yield "part", part, "hidden parts"
    for clip in use.clips:
        if clip != ClipUse(name=clip.name):
            yield "clip", clip.name, f"{len(clip.marks)} marks" if clip.marks else "how it is played"
    yield "clip", use.dissolve.clip, "when it dissolves"
    if use is not project.character:
        return
    for clip_run in project.stage.order:
        yield "clip", clip_run.clip, "the running order"
    for effect in project.effects:
        for layer in effect.layers:
            if isinstance(layer.source, SkinSource):
                where = f"layer {layer.name}"
                yield from (("part", part, where) for part in layer.source.parts)
                yield from (("joint", joint, where) for joint in layer.source.joints.names)
                yield from (("joint", row.joint, where) for row in layer.source.table)


def rename(project: Project, use_id: str, kind: str, old: str, new: str) -> Project:
    """Return the project with `new` wherever a character's joint, part or clip was called `old`."""
    use = next((u for u in project.characters if u.id == use_id), None)
    if use is None:
        return project
    on_stage = use is project.character
    changed = _renamed_use(use, kind, old, new)
    project = project.evolve(characters=tuple(changed if u is use else u for u in project.characters))
    if not on_stage:
        return project
    if kind == "clip":
        order = tuple(
            clip_run.evolve(clip=new) if clip_run.clip == old else clip_run for clip_run in project.stage.order
        )
        return project.evolve(stage=project.stage.evolve(order=order))
    effects = tuple(
        effect.evolve(layers=tuple(_renamed_layer(layer, kind, old, new) for layer in effect.layers))
        for effect in project.effects
    )
    return project.evolve(effects=effects)


def rename_clip(project: Project, old: str, new: str) -> Project:
    """Return the project with a clip of the character on stage called otherwise, wherever it is named.

    A clip of the character's own file keeps the file's name beside its own; `new` must be free.
    """
    use = project.character
    if use is None or old == new:
        return project
    motion = next((capture for capture in use.captures if capture.name == old), None)
    of_file = "" if motion else use.clip(old).file_name or old
    project = rename(with_clip(project, use.clip(old)), use.id, "clip", old, new)

    def change(use: CharacterUse) -> CharacterUse:
        clip = use.clip(new).evolve(file_name="" if of_file == new else of_file)
        captures = tuple(m.evolve(name=new) if m is motion else m for m in use.captures)
        return use.evolve(clips=replaced_clip(use.clips, clip), captures=captures)

    return with_character(project, change)


def _swap(names: tuple[str, ...], old: str, new: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(new if name == old else name for name in names))


def _renamed_use(use: CharacterUse, kind: str, old: str, new: str) -> CharacterUse:
    if kind == "joint":
        return use.evolve(anchors=tuple(a.evolve(joint=new) if a.joint == old else a for a in use.anchors))
    if kind == "part":
        return use.evolve(hidden_parts=_swap(use.hidden_parts, old, new))
    existing = use.clip(new)
    clips = []
    for clip in use.clips:
        if clip.name == old:
            marks = tuple(sorted((*existing.marks, *clip.marks), key=lambda mark: mark.time))
            clips.append(clip.evolve(name=new, file_name=existing.file_name, marks=marks))
        elif clip.name != new:
            clips.append(clip)
    dissolve = use.dissolve.evolve(clip=new) if use.dissolve.clip == old else use.dissolve
    return use.evolve(clips=tuple(clips), dissolve=dissolve)


def _renamed_layer(layer: Layer, kind: str, old: str, new: str) -> Layer:
    source = layer.source
    if not isinstance(source, SkinSource):
        return layer
    if kind == "part":
        changed = source.evolve(parts=_swap(source.parts, old, new))
    else:
        joints = source.joints.evolve(names=_swap(source.joints.names, old, new))
        table = tuple(row.evolve(joint=new) if row.joint == old else row for row in source.table)
        changed = source.evolve(joints=joints, table=table)
    return layer.evolve(source=changed) if changed != source else layer
