"""All that can be gone to in a project, by name: effects, layers, triggers, events, anchors, clips, parts, joints."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, NamedTuple

from wraithon.support.searching import found_by, words_of

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.project.project import Project


class Place(NamedTuple):
    """A thing that can be gone to."""

    kind: str
    what: str
    """Its id, or its name where it has none."""
    name: str
    where: str
    """What it is, and what it belongs to."""


def places_of(project: Project, character: Character | None) -> Iterator[Place]:
    """Yield all that can be gone to, in the order of the lists."""
    for effect in project.effects:
        yield Place("effect", effect.id, effect.name, "effect")
        for layer in effect.layers:
            yield Place("layer", layer.id, layer.name, f"layer of {effect.name}")
    for trigger in project.triggers:
        yield Place("trigger", trigger.id, trigger.name, "trigger")
    use = project.character
    if use is not None:
        yield from (Place("event", event.id, event.name, "event") for event in use.events)
        for anchor in use.anchors:
            yield Place("anchor", anchor.id, anchor.name, f"anchor on {anchor.joint}" if anchor.joint else "anchor")
        yield from (Place("mask", mask.id, mask.name, "mask") for mask in use.masks)
    if character is not None:
        yield from (Place("clip", clip.name, clip.name, f"clip, {clip.seconds:.2f} s") for clip in character.clips)
        yield from (Place("part", part.name, part.name, "part") for part in character.parts)
        yield from (Place("joint", joint, joint, "joint") for joint in character.skeleton.joint_names)


def best_first(text: str, names: Iterable[tuple[str, str]], maximum: int) -> list[int]:
    """Return the positions of what a text finds, those first whose name it begins, then by words of the name.

    Parameters
    ----------
    text
        What is typed.
    names
        The name of each, and what else it is found by.
    maximum
        How many at most.
    """
    typed, ranked = " ".join(text.casefold().split()), []
    for position, (name, more) in enumerate(names):
        if not found_by(text, (name, more)):
            continue
        plain = name.casefold()
        exact = not typed or plain == typed
        rank = 0 if exact else 1 if plain.startswith(typed) else 2 if found_by(text, (name,)) else 3
        ranked.append((rank, len(words_of(name)) if typed and rank < 3 else 0, position))
    return [position for _, _, position in sorted(ranked)[:maximum]]
