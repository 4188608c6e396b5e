"""What joints' names mean: which bone of a body, and on which side."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

Meaning = tuple[str, str]
"""A bone and a side ("left", "right" or ""); the bone is empty where the name tells nothing."""

_WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")
_SIDES = {"left": "left", "l": "left", "lft": "left", "right": "right", "r": "right", "rgt": "right"}
_COMMON = 0.8
"""Share of all names from which on what they begin with tells nothing."""
_FAMILIES = {
    "hips": ("hips", "pelvis", "root", "hip", "cog"),
    "spine": ("spine", "abdomen", "waist", "lowerback", "back", "torso", "belly"),
    "chest": ("chest", "thorax", "ribs", "ribcage", "upperback", "upperchest", "breast"),
    "neck": ("neck",),
    "head": ("head", "skull"),
    "collar": ("collar", "clavicle", "shoulder"),
    "upperarm": ("upperarm", "uparm", "arm", "humerus", "bicep"),
    "forearm": ("forearm", "lowerarm", "lowarm", "elbow", "ulna"),
    "hand": ("hand", "wrist", "palm"),
    "thigh": ("thigh", "upperleg", "upleg", "femur"),
    "shin": ("shin", "lowerleg", "lowleg", "leg", "knee", "calf", "shank", "tibia"),
    "foot": ("foot", "ankle"),
    "toe": ("toebase", "toe", "toes", "ball"),
}
_BONES = {word: bone for bone, text in _FAMILIES.items() for word in text}


def meanings(names: Sequence[str], parents: Sequence[int]) -> list[Meaning]:
    """Return what each joint's name means among all of a skeleton.

    Parameters
    ----------
    names
        The joints', parents before children.
    parents
        The number of each one's parent, -1 for none.
    """
    text = _without_common([_text(name) for name in names])
    found = [_meaning(own) for own in text]
    _settle_limbs(found)
    _raise_chest(found, parents)
    return _each_once(found, [_rank(own) for own in text])


def _text(name: str) -> list[str]:
    return [word.lower() for word in _WORD.findall(name.rpartition(":")[2])]


def _without_common(text: list[list[str]]) -> list[list[str]]:
    """Take off what nearly all names begin with: a maker's or a rig's own mark."""
    while len(text) > 2:
        firsts = [own[0] for own in text if len(own) > 1]
        first = max(set(firsts), key=firsts.count, default="")
        if not first or first in _SIDES or first in _BONES or firsts.count(first) < _COMMON * len(text):
            break
        text = [own[1:] if len(own) > 1 and own[0] == first else own for own in text]
    return text


def _rank(text: Iterable[str]) -> int:
    """Return how usual a word is for its bone: 0 is the most usual one."""
    plain = "".join(word for word in text if word not in _SIDES and not word.isdigit())
    family = _FAMILIES.get(_BONES.get(plain, ""), ())
    return family.index(plain) if plain in family else len(family)


def _meaning(text: Iterable[str]) -> Meaning:
    side, rest = "", []
    for word in text:
        if word in _SIDES and not side:
            side = _SIDES[word]
        elif not word.isdigit():
            rest.append(word)
    bone = _BONES.get("".join(rest), "")
    if bone == "hips" and side and "hip" in rest:
        bone = "thigh"
    return bone, side


def _settle_limbs(found: list[Meaning]) -> None:
    """Decide what words mean that name different bones in different rigs, by what else a side has."""
    for side in ("left", "right"):
        there = {bone for bone, own in found if own == side}
        swaps = {}
        if "collar" in there and "upperarm" not in there and "forearm" in there:
            swaps["collar"] = "upperarm"  # shoulder, elbow, wrist
        if "shin" in there and "thigh" not in there and "foot" in there:
            swaps["shin"] = "thigh"  # one bone from hip to ankle at least starts at the hip
        for number, (bone, own) in enumerate(found):
            if own == side and bone in swaps:
                found[number] = (swaps[bone], side)


def _raise_chest(found: list[Meaning], parents: Sequence[int]) -> None:
    """Call the uppermost of several joints of the back the chest, where none is called so."""
    back = [number for number, (bone, _) in enumerate(found) if bone == "spine"]
    if len(back) > 1 and ("chest", "") not in found:
        found[max(back, key=lambda number: _depth(parents, number))] = ("chest", "")


def _each_once(found: list[Meaning], ranks: list[int]) -> list[Meaning]:
    """Leave each meaning to one joint: the one with the most usual word, and of those the first."""
    best: dict[Meaning, int] = {}
    for number, meaning in enumerate(found):
        better = best.get(meaning)
        if meaning[0] and (better is None or ranks[number] < ranks[better]):
            best[meaning] = number
    return [m if not m[0] or best[m] == number else ("", m[1]) for number, m in enumerate(found)]


def _depth(parents: Sequence[int], number: int) -> int:
    depth = 0
    while (number := parents[number]) >= 0:
        depth += 1
    return depth
