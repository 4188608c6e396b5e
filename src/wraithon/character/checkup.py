"""Whether a character plays right: what is odd about its mesh, its weights, its clips and its feet.

Everything is measured on the poses themselves. Feet are found by where they stand: of each chain that
ends lowest in the rest pose, the lowest joint. A foot is in contact while it is low and its height
hardly changes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.measures import runs_of
from wraithon.character.morphs import weights_at
from wraithon.character.pose import chunks, clip_poses, rest_pose, rest_skin
from wraithon.character.remembering import cached_by_content

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip


SAMPLES = 60
"""Moments a second at which clips are looked at, at most MOST_SAMPLES in all."""
TURNED = 1e-3
"""What a turn's sine, or the weight of a morph target, changes by at least where a clip moves anything."""
MAX_SAMPLES = 600
FLAT = 1e-10
"""Twice a triangle's area over its longest side squared, below which it is degenerate."""
SLIDE, SINK, SEAM = 0.02, 0.02, 0.01
"""Shares of the character's height: a foot slides or sinks, and a loop jumps, beyond these."""


@dataclass(frozen=True)
class Oddity:
    """Something odd, in words that say what to do. `about` is the name of the joint, part or clip."""

    message: str
    about: str = ""
    raises: float = 0.0
    """Metres that the character would have to be raised by."""


@dataclass(frozen=True)
class FootReport:
    """A foot in one clip: the joint, its heights and its slide while in contact."""

    joint: str
    contact: tuple[tuple[float, float], ...]
    """Spans of the clip in seconds during which it stands."""
    slide: float
    """Metres it slides over the ground within one contact, at most."""
    height: float
    """Median metres between its sole and the ground while in contact; below it when negative."""


@dataclass(frozen=True)
class ClipFacts:
    """What was measured of a clip, unscaled and not raised."""

    travel: tuple[float, float, float]
    """Metres from start to end."""
    moves: bool
    """Whether it moves anything at all."""
    seam: float
    """Metres by which `seam_joint` jumps where the loop closes, travel taken out: no joint jumps farther."""
    seam_joint: str
    feet: tuple[FootReport, ...] = ()


@cached_by_content(maxsize=8)
def height_of(character: Character) -> float:
    """Return a character's height in metres, unscaled: of its skin in the rest pose, or of its joints."""
    points = (
        rest_skin(character).positions if len(character.mesh.positions) else rest_pose(character).matrices[:, :3, 3]
    )
    return max(float(np.ptp(points[:, 1])), 1e-6)


@cached_by_content(maxsize=8)
def check_mesh(character: Character) -> tuple[Oddity, ...]:
    """Return what is odd about a character's mesh and weights."""
    mesh, skeleton = character.mesh, character.skeleton
    found: list[Oddity] = []
    flat, inside_out = _odd_triangles(character)
    for number, part in enumerate(character.parts):
        own = mesh.part_of_triangle == number
        count = int(own.sum())
        if bad := int((flat & own).sum()):
            text = f"{bad} of {count} triangles have no area: they emit nothing; clean the mesh if they show"
            found.append(Oddity(text, part.name))
        rotated = int((inside_out & own & ~flat).sum())
        if rotated > 0.02 * count:
            text = f"{rotated} of {count} normals point into it: births set out inwards; turn them around"
            found.append(Oddity(text, part.name))
    idle = [name for name in skeleton.joint_names if name not in character.weighted_joints]
    ends = set(skeleton.parents.tolist())
    idle = [name for name in idle if skeleton.index[name] in ends or len(idle) < 4]
    anchor_transforms = {skeleton.names[node] for node in _ancestors(character)}
    idle = [name for name in idle if name not in anchor_transforms][:20]
    found += [Oddity("it holds no skin: births and weights on it come to nothing", name) for name in idle]
    return tuple(found)


def _odd_triangles(character: Character) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Return which triangles (T,) have no area, and which have all their normals on the wrong side."""
    triangles, skin = character.mesh.triangles, rest_skin(character)
    flat, inside_out = np.zeros(len(triangles), np.bool_), np.zeros(len(triangles), np.bool_)
    for part in chunks(len(triangles)):
        corners = skin.positions[triangles[part]].astype(np.float64)
        sides = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
        faces = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        flat[part] = np.linalg.norm(faces, axis=1) <= FLAT * np.maximum(sides, 1e-30) ** 2
        inside_out[part] = (faces[:, None] * skin.normals[triangles[part]]).sum(axis=2).max(axis=1) < 0
    return flat, inside_out


def _ancestors(character: Character) -> set[int]:
    """Return the nodes above any joint that holds skin: they move it without holding it."""
    skeleton, above = character.skeleton, set()
    for name in character.weighted_joints:
        node = int(skeleton.parents[skeleton.index[name]])
        while node >= 0 and node not in above:
            above.add(node)
            node = int(skeleton.parents[node])
    return above


@cached_by_content(maxsize=8)
def feet_of(character: Character) -> tuple[str, ...]:
    """Return the lowest joint of each chain that ends near the ground in the rest pose, at most four."""
    skeleton = character.skeleton
    positions = rest_pose(character).matrices[:, :3, 3]
    joints = [skeleton.index[name] for name in skeleton.joint_names]
    inner = set(skeleton.parents[joints].tolist())
    low = float(positions[joints, 1].min())
    tall = height_of(character)
    ends = [j for j in joints if j not in inner and positions[j, 1] < low + 0.08 * tall]
    lowest: dict[int, int] = {}
    for end in ends:
        limb = end
        while skeleton.parents[limb] >= 0 and positions[skeleton.parents[limb], 1] < low + 0.2 * tall:
            limb = int(skeleton.parents[limb])
        if limb not in lowest or positions[end, 1] < positions[lowest[limb], 1]:
            lowest[limb] = end
    # The ball bends less than the toe's end, and its weight is what stands on the ground.
    feet = [e if limb in {e, int(skeleton.parents[e])} else int(skeleton.parents[e]) for limb, e in lowest.items()]
    return tuple(skeleton.names[f] for f in sorted(set(feet)))[:4]


@cached_by_content(maxsize=256)
def measure_clip(character: Character, clip: Clip) -> ClipFacts:
    """Return what was measured of a clip."""
    times = np.linspace(0, clip.seconds, int(np.clip(clip.seconds * SAMPLES, 2, MAX_SAMPLES)))
    poses = np.array(list(clip_poses(character, clip, times.tolist())), np.float64)
    names = character.skeleton.joint_names
    joints = poses[:, [character.skeleton.index[name] for name in names]]
    positions, turns = joints[..., :3, 3], joints[..., :3, :3]
    x, y, z = (poses[-1, character.root_node, :3, 3] - poses[0, character.root_node, :3, 3]).tolist()
    jump = np.linalg.norm(positions[-1] - (x, 0, z) - positions[0], axis=1)
    worst = int(jump.argmax())
    weights = np.array([weights_at(character.mesh, clip, float(t)) for t in times])
    swing = max(np.ptp(turns, axis=0).max(initial=0), np.ptp(weights, axis=0).max(initial=0))
    moves = bool(np.ptp(positions, axis=0).max(initial=0) > 1e-4 * height_of(character) or swing > TURNED)
    # Who lies on the ground does not stand on it.
    upright = positions[..., 1].mean(axis=1) > 0.8 * rest_pose(character).matrices[:, 1, 3].mean()
    feet = tuple(_foot(character, name, times, poses, upright) for name in feet_of(character))
    return ClipFacts((x, y, z), moves, float(jump[worst]), names[worst], feet)


def loops_well(character: Character, clip: Clip) -> bool:
    """Return whether a clip ends as it begins, its travel taken out."""
    return measure_clip(character, clip).seam <= SEAM * height_of(character)


def check_clip(character: Character, clip: Clip, *, loops: bool, scale: float, raised: float) -> list[Oddity]:
    """Return what is odd about a clip as it is played.

    Parameters
    ----------
    character, clip
        The character, and a clip of it.
    loops
        Whether it is played over and over: only then do its seam and its slides matter.
    scale, raised
        The character's scale, and how far it is raised above the ground in metres.
    """
    facts, tall = measure_clip(character, clip), height_of(character)
    if not facts.moves:
        return [Oddity("it moves nothing: check that its joints are named as in the file", clip.name)]
    found: list[Oddity] = []
    if loops and facts.seam > SEAM * tall:
        text = f"its loop jumps by {facts.seam * scale * 100:.1f} cm at {facts.seam_joint}"
        found.append(Oddity(f"{text}; let it end as it begins, or untick loops", clip.name))
    for foot in facts.feet:
        # A fall may well drag a foot along; what is played over and over is walked.
        sliding = loops and foot.slide > SLIDE * tall
        found += _foot_oddities(foot, clip, tall, scale, raised, sliding=sliding)
    return found


def _foot(
    character: Character,
    name: str,
    times: NDArray[np.float64],
    poses: NDArray[np.float64],
    upright: NDArray[np.bool_],
) -> FootReport:
    node = character.skeleton.index[name]
    position = poses[:, node, :3, 3]
    tall = height_of(character)
    # A joint sits above its sole by as much as it does at rest.
    sole = float(rest_pose(character).matrices[node, 1, 3]) - float(rest_skin(character).positions[:, 1].min())
    height = position[:, 1] - sole
    climb = np.gradient(position[:, 1], times) if len(times) > 2 and times[-1] > 0 else np.zeros(len(times))
    low = height < np.quantile(height, 0.15) + 0.025 * tall
    spans = _spans(low & (np.abs(climb) < 0.25 * tall) & upright, max(3, len(times) // 40))
    slide, level = 0.0, []
    for first, end in spans:
        level.append(float(np.median(height[first:end])))
        inner = position[first:end][:, [0, 2]]
        edge = max(1, (end - first) // 8)  # rolling on and off is no slide
        inner = inner[edge:-edge] if len(inner) > 2 * edge + 1 else inner
        slide = max(slide, float(np.linalg.norm(np.ptp(inner, axis=0))))
    contact = tuple((float(times[a]), float(times[b - 1])) for a, b in spans)
    return FootReport(name, contact, slide, float(np.median(level)) if level else 0.0)


def _spans(on: NDArray[np.bool_], minimum: int) -> list[tuple[int, int]]:
    return [(int(a), int(b)) for a, b in runs_of(on) if b - a >= minimum]


def _foot_oddities(
    foot: FootReport, clip: Clip, tall: float, scale: float, raised: float, *, sliding: bool
) -> list[Oddity]:
    if not foot.contact:
        return []
    found = []
    height = foot.height * scale + raised
    if sliding:
        when = max(foot.contact, key=lambda span: span[1] - span[0])[0]
        text = f"{foot.joint} slides by {foot.slide * scale * 100:.0f} cm while it stands (from {when:.2f} s)"
        found.append(Oddity(f"{text}: it does so in the file itself", clip.name))
    if height < -SINK * tall * scale:
        text = f"{foot.joint} stands {-height * 100:.1f} cm under the ground: raise the character by as much"
        found.append(Oddity(text, clip.name, -height))
    if height > SINK * tall * scale:
        text = f"{foot.joint} stands {height * 100:.1f} cm above the ground: lower the character by as much"
        found.append(Oddity(text, clip.name, -height))
    return found
