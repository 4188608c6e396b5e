"""Whether all of a character stands where it can be seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_pose, rest_skin
from wraithon.character.reading.gltf_file import FARTHEST

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.character.reading.gltf_file import GltfFile


def check_reach(character: Character, file: GltfFile, order: list[int]) -> None:
    """Refuse nodes and skins that stand nowhere, or farther away than anything can be seen.

    Parameters
    ----------
    character
        What was read.
    file
        From where.
    order
        The file's numbers of the character's nodes.

    Raises
    ------
    wraithon.support.errors.CharacterError
        With the place in the file.
    """
    matrices = rest_pose(character).matrices
    lost = ~(np.abs(matrices[:, :3]) <= FARTHEST).all(axis=(1, 2))
    if lost.any():
        row = int(lost.argmax())
        problem = f"it stands, or is scaled, beyond {FARTHEST:,.0f} m; reset its transform and export again"
        file.fail(f'nodes[{order[row]}] ("{character.skeleton.names[row]}")', problem)
    lost = ~(np.abs(rest_skin(character).positions) <= FARTHEST).all(axis=1)
    if lost.any():
        problem = f"vertex {int(lost.argmax())} stands beyond {FARTHEST:,.0f} m at rest; bind the skin again"
        file.fail("skins.inverseBindMatrices", problem)
