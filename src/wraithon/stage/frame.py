"""Frame: what a renderer needs of one moment, and no more."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wraithon.particles.looks import batch_of
from wraithon.particles.looks.batch import ShowMoment
from wraithon.project.staging.ground import Sky

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.ground.terrain import Terrain
    from wraithon.particles.looks.batch import Batch
    from wraithon.project.dissolve import Dissolve
    from wraithon.project.staging.ground import Block
    from wraithon.stage.show import Show


DUSK = Sky()


@dataclass(frozen=True)
class PosedBody:
    """A posed character: skinned positions and normals (V, 3) in world space, and which parts show."""

    character: Character
    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    hidden_parts: frozenset[str]
    heat: NDArray[np.float32] | None = None
    """(V,) a figure from 0 to 1 to colour the skin by, below 0 for none; None shows the skin itself."""
    dissolved: float = 0.0
    """Share of the character that is gone."""
    dissolve: Dissolve | None = None
    """How its border looks."""
    ramp: str = "share"
    """The colours of the heat: from none to all, or to either side of the middle."""


@dataclass(frozen=True)
class Frame:
    """One moment, ready to be drawn from any side."""

    time: float
    body: PosedBody | None
    centre: tuple[float, float, float]
    """Where the character stands on the ground; the camera follows it."""
    batches: tuple[Batch, ...]
    """What layers draw, each in its own kind of list."""
    ground: str
    exposure: float
    terrain: Terrain | None = None
    """The stage's ground; None: flat, of the kind of `ground`."""
    pieces: tuple[Block, ...] = ()
    """What lies and stands on the stage."""
    sky: Sky = DUSK
    """What is behind all."""
    shake: tuple[float, float] = (0.0, 0.0)
    """Degrees that the camera is off across and up."""
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)
    """What the picture's light is multiplied by."""
    light: float = 1.0
    """Brightness of the stage light."""
    bloom: float = 1.0
    """Strength of the bloom, likewise."""
    others: tuple[PosedBody, ...] = ()
    """Further characters, posed as they are."""


def batches_of(show: Show, without: frozenset[str] = frozenset()) -> tuple[Batch, ...]:
    """Return what a show's layers draw, but for those `without`."""
    compiled, moment = show.compiled, ShowMoment(show.time, show.skin_before)
    return tuple(
        batch_of(show.pools[layer.id], compiled.programs[layer.id], moment)
        for effect in compiled.effects.values()
        for layer in effect.layers
        if layer.id in show.pools and layer.id in compiled.programs and show.pools[layer.id].count
        if layer.id not in without
    )


def frame_of(show: Show, without: frozenset[str] = frozenset()) -> Frame:
    """Return a show's moment, ready to be drawn; layers `without` are left out."""
    project, position = show.compiled.project, show.position(show.step_number)
    return Frame(
        time=show.time,
        body=_body_of(show),
        centre=(float(position[0]), float(position[1]), float(position[2])),
        batches=batches_of(show, without),
        ground=project.stage.ground,
        exposure=project.exposure,
        terrain=show.compiled.terrain,
        pieces=project.stage.pieces,
        sky=project.stage.sky,
        light=project.stage.light,
        bloom=project.stage.bloom,
        shake=show.screen.shake_at(show.time),
        tint=show.screen.tint_at(show.time),
    )


def _body_of(show: Show) -> PosedBody | None:
    actor, posed = show.actor, show.posed(show.step_number)
    if actor is None or posed is None:
        return None
    stand, gone = actor.stand(show.time), actor.dissolved_at(show.time)
    if stand is not None and stand.hidden:
        return None
    return PosedBody(
        actor.character, posed[1].positions, posed[1].normals, frozenset(actor.use.hidden_parts),
        dissolved=gone, dissolve=actor.use.dissolve if gone > 0 else None,
    )  # fmt: skip
