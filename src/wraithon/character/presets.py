"""Sets of joints that are often wanted together, found by name and by place in the skeleton."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_pose

if TYPE_CHECKING:
    from wraithon.character.model import Character


PRESETS = ("head and hands", "limbs", "spine")
_WORDS = {
    "head and hands": (("head",), ("hand", "wrist")),
    "limbs": (("upperarm", "uparm", "arm", "shoulder"), ("thigh", "upperleg", "upleg", "leg")),
    "spine": (("spine", "hips", "pelvis", "chest", "ribs", "torso", "neck"),),
}
_SIDES = (("left", "right"), ("l", "r"))


def preset_joints(character: Character, preset: str) -> tuple[str, ...]:
    """Return the joints of a preset that a character has; none where its names tell nothing.

    Of joints in a chain that match the same word, the uppermost stands for all, but for the spine,
    whose joints are all listed.
    """
    skeleton = character.skeleton
    plain = {name: re.sub(r"[^a-z]", "", name.lower()) for name in skeleton.joint_names}
    found: list[str] = []
    for label in _WORDS[preset]:
        for word in label:
            hits = [name for name, text in plain.items() if text.removesuffix("l").removesuffix("r").endswith(word)]
            hits = hits or [name for name, text in plain.items() if word in text]
            if hits:
                found += hits if preset == "spine" else _uppermost(character, hits)
                if preset != "spine":
                    break
    return tuple(dict.fromkeys(found))


def _uppermost(character: Character, names: list[str]) -> list[str]:
    skeleton, chosen = character.skeleton, set(names)

    def covered(name: str) -> bool:
        node = int(skeleton.parents[skeleton.index[name]])
        while node >= 0:
            if skeleton.names[node] in chosen:
                return True
            node = int(skeleton.parents[node])
        return False

    return [name for name in names if not covered(name)]


def mirrored_name(character: Character, joint: str) -> str | None:
    """Return the joint on the other side, by its name; None where there is none.

    Left and right are told by the words "left" and "right", or by an l or r set apart by a mark or by
    capitals, whatever their case.
    """
    names = set(character.skeleton.names)
    for left, right in _SIDES:
        for one, other in ((left, right), (right, left)):
            for match in re.finditer(rf"(?i)(?<![a-z]){one}(?![a-z])|(?i:{one})(?=[A-Z_.\- ]|$)", joint):
                word = match.group()
                swap = other.upper() if word.isupper() else other.capitalize() if word[0].isupper() else other
                twin = joint[: match.start()] + swap + joint[match.end() :]
                if twin in names and twin != joint:
                    return twin
    return None


def mirror_turn(character: Character, joint: str, twin: str) -> np.ndarray:
    """Return how the axes of `twin` stand to the mirror image of the axes of `joint` in the rest pose (3, 3).

    Mirrored is the world's X; used to carry an anchor's offset and turn over to the other side.
    """
    matrices, index = rest_pose(character).matrices.astype(np.float64), character.skeleton.index
    flip = np.diag([-1.0, 1.0, 1.0])
    axes = []
    for name in (joint, twin):
        turn = matrices[index[name], :3, :3]
        axes.append(turn / np.maximum(np.linalg.norm(turn, axis=0), 1e-12))
    return axes[1].T @ flip @ axes[0]
