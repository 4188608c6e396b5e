"""A layer, compiled into the flat numbers its kernels read."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.chance import layer_key
from wraithon.particles import kernels as k
from wraithon.particles.curves import curve_table, gradient_table, integral_table
from wraithon.project.life import LifeMode
from wraithon.project.look import Facing
from wraithon.project.motion import Contact, Curl, Drag, Gravity, Wind
from wraithon.project.source import Heading, RingSource, SkinSource, SphereSource

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.sampling import BorderSampler, Sampler
    from wraithon.project.effect import Layer
    from wraithon.project.life import Attribute

__all__ = ["LayerProgram", "compile_layer"]

MODES = {LifeMode.SCALE: k.SCALE, LifeMode.ADD: k.ADD, LifeMode.REPLACE: k.REPLACE}
HEADINGS = {Heading.OUTWARD: k.OUTWARD, Heading.UP: k.UP, Heading.FORWARD: k.FORWARD}
CONTACTS = {
    Contact.PASS: k.PASS,
    Contact.BOUNCE: k.BOUNCE,
    Contact.SLIDE: k.SLIDE,
    Contact.STICK: k.STICK,
    Contact.DIE: k.DIE,
}


@dataclass(frozen=True)
class LayerProgram:
    """All numbers of a layer that kernels need, in the kernels' own units (radians, float32)."""

    layer: Layer
    key: int
    kind: int
    shape: NDArray[np.float32]
    heading: int
    spread: np.float32
    keep: np.float32
    ride: np.float32
    lift: np.float32
    sampler: Sampler | None
    border: BorderSampler | None
    """Where births keep to the border of a dissolve."""
    radius: np.float32
    upright: bool
    """Whether riders' normals are wanted."""
    lifetime: NDArray[np.float32]
    speed: NDArray[np.float32]
    speed_mode: int
    speed_table: NDArray[np.float32]
    push: NDArray[np.float32]
    drag: np.float32
    curls: NDArray[np.float32]
    curl_seeds: NDArray[np.uint32]
    contact: int
    bounce: np.float32
    grip: np.float32
    births: NDArray[np.float32]
    modes: NDArray[np.int32]
    tables: NDArray[np.float32]
    tints: NDArray[np.float32]
    tint_mode: int
    tint_table: NDArray[np.float32]
    spin_table: NDArray[np.float32]
    sheet_frames: int


def compile_layer(
    layer: Layer,
    effect_id: str,
    seed: int,
    sampler: Sampler | None,
    scale: float = 1.0,
    border: BorderSampler | None = None,
) -> LayerProgram:
    """Return the program of a layer.

    Parameters
    ----------
    layer
        The layer.
    effect_id
        The effect it belongs to; with `seed`, what its chance is keyed by.
    seed
        The project's seed.
    sampler
        The places on the character it is born at; None when its source is not on it, or there is none.
    scale
        The character's scale; a layer born on her skin lifts with it.
    border
        Where it is born when its births keep to the border of a dissolve.
    """
    source, motion, look = layer.source, layer.motion, layer.look
    push, drag, curls = _forces(layer)
    lift = source.lift * scale if isinstance(source, SkinSource) else 0.0
    key = layer_key(seed, effect_id, layer.id)
    drawn = [layer.size, layer.intensity, layer.opacity, layer.turn, layer.spin]
    degrees = np.array([1, 1, 1, math.pi / 180, math.pi / 180])
    births = np.array([[a.birth.low, a.birth.high] for a in drawn]) * degrees[:, None]
    tables = np.stack([curve_table(a.life) for a in drawn])
    tables[3:] *= _course_scale(layer.turn), _course_scale(layer.spin)
    spin = integral_table(layer.spin.life) * np.float32(_course_scale(layer.spin)[0])
    return LayerProgram(
        layer=layer,
        key=key,
        kind=_kind(layer),
        shape=_shape(layer),
        heading=HEADINGS[source.aim.heading],
        spread=np.float32(math.radians(source.aim.spread)),
        keep=np.float32(source.riding.keep),
        ride=np.float32(source.riding.share if isinstance(source, SkinSource) else 0.0),
        lift=np.float32(lift),
        sampler=sampler,
        border=border,
        radius=np.float32(source.radius * scale if isinstance(source, SkinSource) else 0.0),
        upright=look.facing is Facing.NORMAL or lift != 0.0,
        lifetime=_range(layer.lifetime),
        speed=_range(layer.speed),
        speed_mode=_mode(layer.speed),
        speed_table=curve_table(layer.speed.life),
        push=push,
        drag=np.float32(drag),
        curls=curls,
        curl_seeds=np.array([(key >> 16) + 977 * n & 0xFFFFFFFF for n in range(len(curls))], np.uint32),
        contact=CONTACTS[motion.ground.contact],
        bounce=np.float32(motion.ground.bounce),
        grip=np.float32(motion.ground.grip),
        births=births.astype(np.float32),
        modes=np.array([_mode(a) for a in drawn], np.int32),
        tables=tables.astype(np.float32),
        tints=np.array([layer.colour.first, layer.colour.second], np.float32),
        tint_mode=MODES[layer.colour.mode] if layer.colour.life else -1,
        tint_table=np.ascontiguousarray(gradient_table(layer.colour.life).T),
        spin_table=spin,
        sheet_frames=look.sheet.columns * look.sheet.rows,
    )


def _kind(layer: Layer) -> int:
    source = layer.source
    if isinstance(source, SkinSource):
        return k.BONE if source.mode == "bones" else k.SKIN
    return {"point": k.POINT, "sphere": k.SPHERE, "ring": k.RING}[source.kind]


def _range(attribute: Attribute) -> NDArray[np.float32]:
    return np.array([attribute.birth.low, attribute.birth.high], np.float32)


def _mode(attribute: Attribute) -> int:
    return MODES[attribute.mode] if attribute.life else -1


def _course_scale(attribute: Attribute) -> NDArray[np.float64]:
    """Degrees become radians where a course is itself an angle; a course that scales is a plain number."""
    return np.array([1.0 if attribute.mode is LifeMode.SCALE else math.pi / 180])


def _shape(layer: Layer) -> NDArray[np.float32]:
    source = layer.source
    if isinstance(source, SphereSource):
        return np.array([source.radius, source.shell], np.float32)
    if isinstance(source, RingSource):
        return np.array([source.radius, source.thickness], np.float32)
    return np.zeros(2, np.float32)


def _forces(layer: Layer) -> tuple[NDArray[np.float32], float, NDArray[np.float32]]:
    """Sum the forces up: they act in any order."""
    push, drag, curls = np.zeros(3), 0.0, []
    for force in layer.motion.forces:
        if isinstance(force, Gravity):
            push[1] -= force.pull
        elif isinstance(force, Wind):
            push += force.push
        elif isinstance(force, Drag):
            drag += force.rate
        elif isinstance(force, Curl):
            curls.append((force.strength, 1 / force.scale, force.change))
    return push.astype(np.float32), drag, np.array(curls, np.float32).reshape(-1, 3)
