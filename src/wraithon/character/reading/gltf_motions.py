"""Motions for other characters: the clips of a glTF file as captures."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.bones import nearest_above
from wraithon.character.pose import world_matrices
from wraithon.character.reading.bvh import Capture
from wraithon.character.reading.gltf_clips import ClipReader
from wraithon.character.reading.gltf_file import GltfFile
from wraithon.character.reading.gltf_nodes import skeleton_of, tree_of
from wraithon.character.tracks import play_tracks
from wraithon.support.errors import CharacterError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from numpy.typing import NDArray

    from wraithon.character.model import Clip, Skeleton


RATE = 60
"""Moments a second that a clip is taken at."""
MAX_PLACED = 8_000_000
"""Joints times moments of a clip; longer ones are taken at fewer moments."""
MAX_JOINTS = 2000


def read_motions(
    path: Path, progress: Callable[[float], None] | None = None, within: Path | None = None
) -> dict[str, Capture]:
    """Return the clips of a .glb or .gltf file by their names; the file needs no mesh.

    `progress` is told the share done; links must not lead out of `within`.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When the file is missing, broken, or holds no clip that moves a joint.
    """
    path = Path(path)
    try:
        file = GltfFile(path, within)
        tree = tree_of(file)
        joints = [tree.row[n] for skin in file.items("skins") for n in skin.get("joints", []) if n in tree.row]
        skeleton = skeleton_of(file, tree, [], joints)
        clips = ClipReader(file, tree.row, {}, [], progress or (lambda _share: None)).read()
        clips = tuple(clip for clip in clips if len(clip.heads))
        if not clips:
            file.fail("animations", "there are no clips that move a joint; export the motion with it")
        return motions_of(skeleton, clips)
    except (ArithmeticError, AttributeError, LookupError, MemoryError, TypeError, ValueError) as error:
        raise CharacterError(f"{path.name}: damaged ({error}); export the file again") from error


def motions_of(skeleton: Skeleton, clips: Iterable[Clip]) -> dict[str, Capture]:
    """Return clips of a skeleton by their names, as motions that may be put on others.

    A motion's joints turn from where they stand at rest. Nodes that are no joints of a skin and that no clip
    moves are left out; what they do to those below them is kept.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When there are too many joints.
    """
    clips = tuple(clips)
    chosen = np.zeros(len(skeleton.names), np.bool_)
    for clip in clips:
        chosen[clip.heads[:, 0]] = True
    chosen |= skeleton.is_joint
    rows = np.flatnonzero(chosen)
    if len(rows) > MAX_JOINTS:
        raise CharacterError(f"there are more than {MAX_JOINTS} joints; export only those that move")
    number = {int(row): k for k, row in enumerate(rows)}
    parents = np.array([number.get(nearest_above(skeleton.parents, int(row), number), -1) for row in rows], np.int32)
    rest_positions, rest_turns = _placed(skeleton, None, np.zeros(1), rows)
    offsets = rest_positions[0].copy()
    offsets[parents >= 0] -= rest_positions[0][parents[parents >= 0]]
    names = tuple(skeleton.names[row] for row in rows)
    found = {}
    for clip in clips:
        frames = max(1, min(round(clip.seconds * RATE), MAX_PLACED // len(rows)))
        frame_time = clip.seconds / frames if clip.seconds > 0 else 1 / RATE
        points, turns = _placed(skeleton, clip, np.arange(frames + 1) * frame_time, rows)
        turns = turns @ np.swapaxes(rest_turns, -1, -2)
        positions, rotations = points.copy(), turns.copy()
        for k, parent in enumerate(parents):
            if parent >= 0:
                back = np.swapaxes(turns[:, parent], -1, -2)
                positions[:, k] = np.einsum("fij,fj->fi", back, points[:, k] - points[:, parent])
                rotations[:, k] = back @ turns[:, k]
        nowhere = np.full((len(rows), 3), np.nan)
        found[clip.name] = Capture(clip.name, names, parents, offsets, nowhere, positions, rotations, frame_time)
    return found


def _placed(
    skeleton: Skeleton, clip: Clip | None, times: NDArray[np.floating], rows: NDArray[np.int64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return world places (F, J, 3) and turns (F, J, 3, 3) of some nodes at some moments of a clip."""
    positions, turns = np.empty((len(times), len(rows), 3)), np.empty((len(times), len(rows), 3, 3))
    root, local = np.eye(4, dtype=np.float32), skeleton.rest.copy()
    for frame, time in enumerate(times):
        if clip is not None:
            play_tracks(clip, float(time), local)
        matrices = world_matrices(skeleton, local, root)[rows]
        positions[frame], turns[frame] = matrices[:, :3, 3], matrices[:, :3, :3]
    # Without the scale; a square of no size turns nothing.
    turns /= np.maximum(np.linalg.norm(turns, axis=-2, keepdims=True), 1e-12)
    return positions, turns
