"""Poses of a driven character: what plays, laid over one another, turned and put where it stands."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.morphs import weights_at
from wraithon.character.pose import Pose, mixed, pose_of, root_matrix
from wraithon.numeric.arithmetic import eased
from wraithon.stage.driving.driven_pose import GOING, ORDER
from wraithon.stage.driving.feet import planted

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.stage.driving.driven_pose import DrivenPose, PlayingClip
    from wraithon.stage.driving.driver import Driver

    Played = tuple[NDArray[np.float32], float, NDArray[np.float32]]


REACH = 0.2
"""Share of its height by which a character's feet go up or down to the ground under them."""


def plain_pose(driver: Driver, stand: DrivenPose) -> Pose:
    """Return a pose as the clips have it."""
    performance, use = driver.performance, driver.performance.use
    local, height, weights = _played(driver, stand, stand.parts[0])
    for part in stand.parts[1:]:
        share = eased((stand.time - part.begun) / part.fade) if part.fade > 0 else 1.0
        over, high, shaped = _played(driver, stand, part)
        local = mixed(over, local, 1.0 - share)
        height += share * (high - height)
        weights = weights + np.float32(share) * (shaped - weights)
    x, y, z = stand.position
    root = root_matrix(use.scale, (x, y + use.height + height, z))
    sine, cosine = math.sin(stand.heading), math.cos(stand.heading)
    root[:3, :3] = np.array([[cosine, 0, sine], [0, 1, 0], [-sine, 0, cosine]], np.float32) @ root[:3, :3]
    return pose_of(performance.character, local, root, weights)


def pose_of_stand(driver: Driver, stand: DrivenPose) -> Pose:
    """Return a pose with its feet where they are held and on the ground."""
    pose, performance = plain_pose(driver, stand), driver.performance
    reach = REACH * driver.tall
    return Pose(planted(performance.character, pose.matrices, stand, driver.terrain, reach), pose.weights)


def _played(driver: Driver, stand: DrivenPose, part: PlayingClip) -> Played:
    """Return local transforms (N, 10), height and morph weights of something that plays."""
    if part.what == ORDER:
        return driver.performance.locals_at(part.time)
    return _going(driver, stand) if part.what == GOING else _clip(driver, part.what, part.time)


def _clip(driver: Driver, name: str, time: float) -> Played:
    performance, play = driver.performance, driver.named(name)
    if play is None:
        return performance.character.skeleton.rest, 0.0, performance.character.mesh.morphs.rest
    length = play.clip.seconds
    time = time % length if play.use.loop and length > 0 else min(max(time, 0.0), length)
    weights = weights_at(performance.character.mesh, play.clip, time)
    return performance.settled(play.clip, play.use, time), play.use.height, weights


def _going(driver: Driver, stand: DrivenPose) -> Played:
    """Return what standing, walking and running make together at a speed; feet come down at the same time in all."""
    moves = driver.moves
    idle = moves.idle
    still = _clip(driver, idle.clip.name, stand.time) if idle else None
    if moves.walk is None or moves.run is None:
        return still or _clip(driver, "", 0.0)
    if stand.ease > 0.999 and still is not None:
        return still
    share = driver.running(stand.speed)
    gaits = [gait for gait, part in ((moves.walk, 1 - share), (moves.run, share)) if part > 0]
    played = [_clip(driver, gait.clip.name, (stand.phase + gait.first) % 1.0 * gait.clip.seconds) for gait in gaits]
    local, height, weights = played[0]
    if len(played) > 1:
        local = mixed(local, played[1][0], share)
        height += share * (played[1][1] - height)
        weights = weights + np.float32(share) * (played[1][2] - weights)
    if still is not None and stand.ease > 0.001:
        local = mixed(local, still[0], stand.ease)
        height += stand.ease * (still[1] - height)
        weights = weights + np.float32(stand.ease) * (still[2] - weights)
    return local, height, weights
