"""Sampled places of a character as a table of points."""

from __future__ import annotations

import csv
import io
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.bones import bone_frames
from wraithon.character.measures import triangle_nodes
from wraithon.character.morphs import weights_at
from wraithon.character.pose import clip_locals, pose_of, skin_of
from wraithon.character.sampling_kernels import BONES
from wraithon.character.spacing import bone_points, skin_values
from wraithon.support.errors import CharacterError, RenderError
from wraithon.support.saving import replacing

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from wraithon.character.model import Character, Clip
    from wraithon.character.sampler import Sampler


COLUMNS = ("x", "y", "z", "nx", "ny", "nz", "u", "v", "part", "joint")


def sample_rows(
    character: Character, sampler: Sampler, count: int, *, seed: int, clip: Clip | None, time: float, radius: float
) -> Iterator[tuple[object, ...]]:
    """Yield a row of COLUMNS for each of `count` places, as the character stands in a clip at `time` seconds.

    Places are in metres, in the character's own space; bones have no part and no place in the UV.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When there is no number for where the skin is then.
    """
    positions = sampler.draw(count, seed)
    weights = weights_at(character.mesh, clip, time)
    pose = pose_of(character, clip_locals(character, clip, time), np.eye(4, dtype=np.float32), weights=weights)
    names = character.skeleton.names
    if sampler.arrays.kind == BONES:
        frames = bone_frames(sampler.bones, pose)
        points = bone_points(frames, positions, radius)
        middles = bone_points(frames, positions, 0.0)
        away = points - middles
        away /= np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-12)
        for position, normal, row in zip(points.tolist(), away.tolist(), positions.rows, strict=True):
            yield (*position, *normal, "", "", "", names[sampler.bones.nodes[row]])
        return
    skin = skin_of(character, pose)
    if not np.isfinite(skin.positions).all():
        raise CharacterError(f"at {time:g} s the clip takes the skin beyond all numbers; choose another moment")
    mesh = character.mesh
    values = np.concatenate([skin.positions, skin.normals, mesh.uvs], axis=1)
    out = skin_values(sampler, positions, values)
    out[:, 3:6] /= np.maximum(np.linalg.norm(out[:, 3:6], axis=1, keepdims=True), 1e-12)
    nodes = triangle_nodes(character)
    for numbers, row in zip(out.tolist(), positions.rows, strict=True):
        yield (*numbers, character.parts[mesh.part_of_triangle[row]].name, names[nodes[row]])


def write_samples(path: Path, rows: Iterator[tuple[object, ...]]) -> int:
    """Write rows under a heading as comma-separated values; return how many there were.

    Raises
    ------
    wraithon.support.errors.RenderError
        When the file cannot be written; nothing of it is left then.
    """
    count = 0
    try:
        with replacing(path) as file:
            text = io.TextIOWrapper(file, encoding="utf-8", newline="")
            out = csv.writer(text)
            out.writerow(COLUMNS)
            for row in rows:
                out.writerow([f"{value:.7g}" if isinstance(value, float) else value for value in row])
                count += 1
            text.detach()  # which writes what is left
    except OSError as error:
        raise RenderError(f"{path}: cannot be written ({error.strerror}); write it somewhere else") from error
    return count
