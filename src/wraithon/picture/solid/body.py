"""The character as kernels of the opaque pass read it: what shows of it, and its dissolve."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.picture.solid.material_table import PLAIN, MaterialTable, material_table

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.stage.frame import PosedBody


@dataclass(frozen=True)
class BodyArrays:
    """A posed character: what is drawn of it, and how."""

    triangles: NDArray[np.int32]
    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    uvs: NDArray[np.float32]
    materials: MaterialTable
    shown: NDArray[np.uint8]
    """(T,) 0 hidden, 1 from its front, 2 from both sides."""
    rest: NDArray[np.float32]
    """(V, 3) the rest pose, where the dissolve's noise is looked up; (1, 3) while it is whole."""
    dissolving: NDArray[np.uint8]
    """(T,) which triangles the dissolve eats."""
    border: NDArray[np.float32]
    """(6,) share gone, blotches a metre, width, and linear colour of its glow."""
    heat: NDArray[np.float32]
    """(V,) figures to colour the skin by, or (1,)."""


def body_arrays(body: PosedBody | None, others: Sequence[PosedBody] = ()) -> BodyArrays:
    """Return a body as kernels read it, and others of the same character with it."""
    if body is None:
        return NO_BODY
    alike = [each for each in others if each.character is body.character]
    return _together(_alone(body), [_alone(each) for each in alike]) if alike else _alone(body)


def _together(body: BodyArrays, others: Sequence[BodyArrays]) -> BodyArrays:
    """Return several bodies of one character as one; figures are the first one's, the dissolve is the same."""
    all_of, points = (body, *others), len(body.positions)
    figured = len(body.heat) == points
    parts = np.tile(body.materials.part_material, len(all_of))
    return replace(
        body,
        triangles=np.concatenate([each.triangles + k * points for k, each in enumerate(all_of)]).astype(np.int32),
        positions=np.concatenate([each.positions for each in all_of]),
        normals=np.concatenate([each.normals for each in all_of]),
        uvs=np.tile(body.uvs, (len(all_of), 1)),
        materials=replace(body.materials, part_material=parts),
        shown=np.concatenate([each.shown for each in all_of]),
        rest=np.tile(body.rest, (len(all_of), 1)),
        dissolving=np.tile(body.dissolving, len(all_of)),
        heat=np.concatenate([body.heat, np.full(points * len(others), _NO_FIGURE)]) if figured else body.heat,
    )


def _alone(body: PosedBody) -> BodyArrays:
    mesh = body.character.mesh
    heat = body.heat if body.heat is not None else _COLD
    return BodyArrays(
        mesh.triangles, body.positions, body.normals, mesh.uvs, material_table(body.character), _shown(body),
        *_dissolve(body), heat,
    )  # fmt: skip


def _shown(body: PosedBody) -> NDArray[np.uint8]:
    character = body.character
    shown = np.zeros(len(character.mesh.triangles), np.uint8)
    for part in character.parts:
        if part.name not in body.hidden_parts:
            eaten = body.dissolve is not None and body.dissolve.two_sided and _eats(body, part.material)
            sides = 2 if eaten or character.materials[part.material].two_sided else 1
            shown[part.first_triangle : part.first_triangle + part.triangle_count] = sides
    return shown


def _eats(body: PosedBody, material: int) -> bool:
    """Return whether a body's dissolve eats a material."""
    named = body.dissolve.materials if body.dissolve else ()
    return not named or body.character.materials[material].name in named


def _dissolve(body: PosedBody) -> tuple[NDArray[np.float32], NDArray[np.uint8], NDArray[np.float32]]:
    """Return the rest pose, which triangles dissolve, and the border."""
    if body.dissolve is None or body.dissolved <= 0:
        return _WHOLE
    dissolve = body.dissolve
    parts = np.array([_eats(body, part.material) for part in body.character.parts], np.uint8)
    glow = np.array(dissolve.colour) * dissolve.intensity
    border = np.array([body.dissolved, 1 / dissolve.scale, dissolve.width, *glow], np.float32)
    mesh = body.character.mesh
    return rest_skin(body.character).positions, parts[mesh.part_of_triangle], border


_NO_FIGURE = np.float32(-1)
_COLD = np.zeros(1, np.float32)
_WHOLE = np.zeros((1, 3), np.float32), np.zeros(1, np.uint8), np.zeros(6, np.float32)
_NOWHERE = np.zeros((1, 3), np.float32)
NO_BODY = BodyArrays(
    np.zeros((1, 3), np.int32), _NOWHERE, _NOWHERE, np.zeros((1, 2), np.float32), PLAIN, np.zeros(1, np.uint8),
    *_WHOLE, _COLD,
)  # fmt: skip
"""What kernels read where nobody stands."""
