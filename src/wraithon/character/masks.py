"""How dense births are at each vertex: what the source's filters leave of the skin."""

from __future__ import annotations

import base64
import binascii
import zlib
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.numeric.arithmetic import smoothstep
from wraithon.project.source import FacingSide

if TYPE_CHECKING:
    from collections.abc import Collection

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.character import PaintedMask
    from wraithon.project.source import FacingMask, HeightMask, SkinSource


SIDES = {
    FacingSide.UP: (0, 1, 0),
    FacingSide.DOWN: (0, -1, 0),
    FacingSide.FRONT: (0, 0, 1),
    FacingSide.BACK: (0, 0, -1),
    FacingSide.LEFT: (1, 0, 0),
    FacingSide.RIGHT: (-1, 0, 0),
}


def vertex_densities(
    character: Character, source: SkinSource, painted: PaintedMask | None = None
) -> NDArray[np.float32]:
    """Return how dense births are at each vertex (V,), 0 to 1: all filters of the source but parts and texture.

    Parameters
    ----------
    character
        The character.
    source
        The source with its filters.
    painted
        The painted mask the source names; one made for another mesh is left out.
    """
    density = np.ones(len(character.mesh.positions), np.float32)
    if source.joints.names:
        of_joints = joint_weights(character, source.joints.names)
        soft = max(source.joints.falloff, 1e-3)
        density *= np.clip((of_joints - 0.5) / soft + 0.5, 0, 1)
    if source.height is not None:
        density *= _between_heights(character, source.height)
    if source.facing is not None:
        density *= _facing(character, source.facing)
    if painted is not None:
        values = unpack_mask(painted)
        if len(values) == len(density):
            density *= values
    return density


def joint_weights(character: Character, names: Collection[str]) -> NDArray[np.float32]:
    """Return how much of each vertex (V,) the named joints hold together, 0 to 1."""
    mesh, skeleton = character.mesh, character.skeleton
    chosen = np.array([name in names for name in skeleton.names])[skeleton.palette_nodes]
    total = (mesh.weights * chosen[mesh.joints]).sum(axis=1)
    return np.clip(total, 0, 1).astype(np.float32)


def _between_heights(character: Character, mask: HeightMask) -> NDArray[np.float32]:
    y = rest_skin(character).positions[:, 1]
    share = (y - y.min()) / max(float(np.ptp(y)), 1e-9)
    soft = max(mask.soft, 1e-6)
    low, high = min(mask.low, mask.high), max(mask.low, mask.high)
    inside = np.minimum((share - low) / soft, (high - share) / soft) + 1
    return np.clip(inside, 0, 1).astype(np.float32)


def _facing(character: Character, mask: FacingMask) -> NDArray[np.float32]:
    cosine = np.clip(rest_skin(character).normals @ np.array(SIDES[mask.side], np.float32), -1, 1)
    angle = np.degrees(np.arccos(cosine))
    return np.clip((mask.within - angle) / max(mask.soft, 1e-6) + 1, 0, 1).astype(np.float32)


# ---- painted masks --------------------------------------------------------------------------------


def unpack_mask(mask: PaintedMask) -> NDArray[np.float32]:
    """Return a painted mask's strengths (V,), 0 to 1; one that cannot be read is empty."""
    if not mask.values:
        return np.zeros(mask.vertices, np.float32)
    try:
        packed = base64.b64decode(mask.values, validate=True)
        raw = zlib.decompressobj().decompress(packed, mask.vertices + 1)
    except (binascii.Error, ValueError, zlib.error):
        return np.zeros(0, np.float32)
    if len(raw) != mask.vertices:
        return np.zeros(0, np.float32)
    return (np.frombuffer(raw, np.uint8) / np.float32(255)).astype(np.float32)


def pack_mask(mask: PaintedMask, strengths: NDArray[np.float32]) -> PaintedMask:
    """Return the mask with other strengths (V,)."""
    raw = np.round(np.clip(strengths, 0, 1) * 255).astype(np.uint8).tobytes()
    text = base64.b64encode(zlib.compress(raw, 6)).decode() if any(raw) else ""
    return mask.evolve(vertices=len(strengths), values=text)


def brush(
    strengths: NDArray[np.float32],
    points: NDArray[np.float32],
    spot: NDArray[np.float32],
    radius: float,
    strength: float,
) -> NDArray[np.float32]:
    """Return strengths (V,) after a dab of the brush.

    Parameters
    ----------
    strengths
        (V,) before.
    points
        (V, 3) where the vertices are, in the space of the dab.
    spot
        (3,) the middle of the dab.
    radius
        Metres; the dab fades out towards it.
    strength
        Added at the middle; negative wipes out.
    """
    away = np.linalg.norm(points - spot, axis=1) / max(radius, 1e-9)
    return np.clip(strengths + strength * smoothstep(1 - away), 0, 1).astype(np.float32)
