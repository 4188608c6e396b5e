"""A layer, compiled into the flat numbers its kernels read."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from wraithon.character.pose import turn_matrices
from wraithon.numeric.chance import layer_key
from wraithon.particles import columns as c
from wraithon.particles import draw_kernels as k
from wraithon.particles.columns import FlightRules
from wraithon.particles.curves import choice_table, curve_table, gradient_table, integral_table
from wraithon.particles.forces import Forces, force_rows
from wraithon.particles.rules import BirthRules, DrawRules
from wraithon.project.emission import Full
from wraithon.project.ending import AtEnd
from wraithon.project.life import By, LifeMode, Over
from wraithon.project.look import FrameGrid, RibbonLook, SheetPlay, SpriteLook, Through
from wraithon.project.motion import Collision
from wraithon.project.resolving.overlapping import overlapping
from wraithon.project.source import (
    AimFrame,
    BoxSource,
    ConeSource,
    Heading,
    LineSource,
    OffspringSource,
    PictureSource,
    RingSource,
    SkinSource,
    SphereSource,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from wraithon.character.sampler import BorderSampler, Sampler
    from wraithon.ground.terrain import Terrain
    from wraithon.project.effect import Layer
    from wraithon.project.life import Attribute
    from wraithon.project.resolving.overlapping import Rate


HEADINGS = {Heading.OUTWARD: c.OUTWARD, Heading.UP: c.UP, Heading.FORWARD: c.FORWARD, Heading.AXES: c.AXES}
FRAMES = {AimFrame.WORLD: c.ALONG_WORLD, AimFrame.ANCHOR: c.ALONG_ANCHOR, AimFrame.OUTWARD: c.ALONG_NORMAL}
MAX_OFFSPRING = 20_000
"""Offspring that may live at once where no limit is set: what bears it cannot be foreseen."""
CONTACTS = {
    Collision.PASS: c.PASS,
    Collision.BOUNCE: c.BOUNCE,
    Collision.SLIDE: c.SLIDE,
    Collision.STICK: c.STICK,
    Collision.DIE: c.DIE,
}
PLAYS = {SheetPlay.CHANCE: k.CHANCE, SheetPlay.LIFE: k.LIFE, SheetPlay.LIFE_FROM_CHANCE: k.LIFE_FROM_CHANCE}
KINDS = {
    "point": c.POINT,
    "sphere": c.SPHERE,
    "ring": c.RING,
    "box": c.BOX,
    "cone": c.CONE,
    "picture": c.PICTURE,
    "line": c.LINE,
    "offspring": c.OFFSPRING,
}


class BirthImages(NamedTuple):
    """What of pictures and colours a layer's births hang on."""

    picture: NDArray[np.floating] | None = None
    """(H, W) how bright the cells of its source's picture are, 0 to 1; None: all alike."""
    skin: NDArray[np.float32] | None = None
    """(V, 3) the linear colours of the character's vertices."""
    ground: str = ""
    """The kind of ground that it stands on."""
    terrain: Terrain | None = None
    """What lies on that."""


NOTHING_SEEN = BirthImages()


def picture_cells(picture: NDArray[np.floating] | None, *, invert: bool) -> NDArray[np.float64]:
    """Return how much each cell (H, W) of a picture bears."""
    cells = np.ones((1, 1)) if picture is None else np.asarray(picture, np.float64)
    return 1 - cells if invert and picture is not None else cells


@dataclass(frozen=True)
class LayerProgram:
    """All numbers of a layer that kernels need, in the kernels' own units (radians, float32)."""

    layer: Layer
    key: int
    limit: int
    birth: BirthRules
    flight: FlightRules
    forces: Forces
    drawn: DrawRules
    sampler: Sampler | None
    border: BorderSampler | None
    """Where births keep to the border of a dissolve."""
    wants_moments: bool = False
    """Whether others are born by what happens to its particles."""
    seen: BirthImages = NOTHING_SEEN
    """What its births take colours from."""
    spacings: tuple[float, ...] = ()
    """Metres between what is born along its particles' ways, ascending, each once."""

    @property
    def kind(self) -> int:
        """What kind of source it has."""
        return self.birth.kind

    @cached_property
    def plain(self) -> bool:
        """Whether its particles' steps ask for nothing of their own: no anchors, past or body, nobody's heed."""
        anchored = any(anchor is not None for anchor in self.forces.anchors)
        own = self.carried or self.past or self.wants_moments or self.bodily or anchored
        return not (own or self.ends_with_firing)

    @cached_property
    def ends_with_firing(self) -> bool:
        """Whether the life of its particles hangs on that of their firing."""
        return self.layer.hold is not None or self.layer.ending.what is not AtEnd.LIVE_OUT

    @cached_property
    def carried(self) -> bool:
        """Whether its particles ride on the anchors of their firings."""
        return bool(self.birth.ride > 0) and c.OFFSPRING < self.birth.kind < c.SKIN

    @cached_property
    def bodily(self) -> bool:
        """Whether its particles meet the character, or are drawn to it."""
        return self.flight.body != c.PASS or self.forces.near_skin

    @cached_property
    def placing(self) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
        """How far (3,) it is from its anchor, and how it is turned (3, 3); None where it is at it."""
        source = self.layer.source
        if not source.away or isinstance(source, SkinSource | OffspringSource):
            return None
        turn = turn_matrices(np.array([source.turn], np.float64))[0]
        return np.array(source.offset, np.float32), turn.astype(np.float32)

    @cached_property
    def ends_oldest(self) -> bool:
        """Whether births beyond the limit end those that have lived longest."""
        return self.layer.emission.full is Full.END_OLDEST

    @cached_property
    def past(self) -> float:
        """Seconds of their own past that are drawn of particles."""
        look = self.layer.look
        return look.past if isinstance(look, RibbonLook) and look.through is Through.PAST else 0.0

    @cached_property
    def line_end(self) -> str | None:
        """The anchor that its line of births ends at."""
        source = self.layer.source
        return source.to if isinstance(source, LineSource) else None


def compile_layer(
    layer: Layer,
    effect_id: str,
    seed: int,
    sampler: Sampler | None,
    scale: float = 1.0,
    border: BorderSampler | None = None,
    length: float | None = None,
    seen: BirthImages = NOTHING_SEEN,
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
        The character's scale; what a layer is away from its skin or bones grows with it.
    border
        Where it is born when its births keep to the border of a dissolve.
    length
        Seconds that a firing of its effect gives birth; None: until it is stopped.
    seen
        What of pictures and of the character's colours its births hang on.
    """
    key = layer_key(seed, effect_id, layer.id)
    birth = _birth(layer, scale, seen.picture)
    return LayerProgram(
        layer=layer,
        key=key,
        limit=layer_limit(layer, length),
        birth=birth,
        flight=_flight(layer, birth),
        forces=force_rows(layer.motion.forces, key),
        drawn=_drawn(layer, sampler),
        sampler=sampler,
        border=border,
        seen=seen if layer.colour.beneath > 0 else NOTHING_SEEN,
    )


def runs_alike(one: LayerProgram, two: LayerProgram) -> bool:
    """Return whether two programs of a layer emit and move the same particles: only what is drawn may differ."""
    if one is two:
        return True
    if (one.key, one.limit, one.forces.anchors) != (two.key, two.limit, two.forces.anchors):
        return False
    if one.sampler is not two.sampler or (one.border is None) != (two.border is None):
        return False
    if one.border is not None and two.border is not None and one.border.blotches != two.border.blotches:
        return False
    if (
        (one.wants_moments, one.spacings) != (two.wants_moments, two.spacings)
        or not _emit_alike(one.layer, two.layer)
        or one.line_end != two.line_end
        or (one.layer.source.offset, one.layer.source.turn) != (two.layer.source.offset, two.layer.source.turn)
        or one.past != two.past
        or one.seen.skin is not two.seen.skin
        or one.seen.ground != two.seen.ground
        or one.seen.terrain is not two.seen.terrain
        or one.layer.colour.beneath != two.layer.colour.beneath
        or (one.layer.hold, one.layer.ending) != (two.layer.hold, two.layer.ending)
    ):
        return False
    before: tuple[Any, ...] = (*one.birth, *one.flight, *one.forces.rows)
    after: tuple[Any, ...] = (*two.birth, *two.flight, *two.forces.rows)
    return all(np.array_equal(a, b) for a, b in zip(before, after, strict=True))


def _emit_alike(one: Layer, two: Layer) -> bool:
    """Return whether two layers are born at the same occasions."""
    if one.emission != two.emission:
        return False
    both = one.source, two.source
    return not any(isinstance(source, OffspringSource) for source in both) or both[0] == both[1]


def _birth(layer: Layer, scale: float, picture: NDArray[np.floating] | None) -> BirthRules:
    source = layer.source
    cells = picture_cells(picture, invert=isinstance(source, PictureSource) and source.invert)
    skin = source if isinstance(source, SkinSource) else None
    return BirthRules(
        kind=_kind(layer),
        shape=_shape(layer),
        cells=np.cumsum(cells.ravel() / max(float(cells.sum()), 1e-9)).astype(np.float32),
        width=cells.shape[1],
        heading=HEADINGS[source.aim.heading],
        spread=np.float32(math.radians(source.aim.spread)),
        keep=np.float32(source.riding.keep),
        ride=np.float32(0.0 if isinstance(source, OffspringSource) else source.riding.share),
        turning=source.riding.turning,
        sweeping=_through(layer) is Through.SWEEP and isinstance(source, LineSource),
        lift=np.float32(skin.lift * scale if skin else 0.0),
        radius=np.float32(skin.radius * scale if skin else 0.0),
        lifetime=_range(layer.lifetime),
        speed=_range(layer.speed),
        measured=any(a.by is By.DISTANCE for a in (*_drawn_attributes(layer), layer.lifetime, layer.speed)),
        nearness=_nearness(layer.lifetime, layer.speed),
        axes=np.array([source.aim.low, source.aim.high], np.float32),
        frame=FRAMES[source.aim.frame],
    )


def _flight(layer: Layer, birth: BirthRules) -> FlightRules:
    ground, body = layer.motion.ground, layer.motion.body
    return FlightRules(
        kind=birth.kind,
        keep=birth.keep,
        lift=birth.lift,
        radius=birth.radius,
        turning=birth.turning,
        upright=layer.look.by_normal
        or bool(birth.lift != 0)
        or any(force.by_normal for force in layer.motion.forces),
        contact=CONTACTS[ground.contact],
        bounce=np.float32(ground.bounce),
        grip=np.float32(ground.grip),
        speed_mode=layer.speed.code,
        speed_table=curve_table(layer.speed.life),
        body=CONTACTS[body.contact],
        rebound=np.float32(body.bounce),
        rub=np.float32(body.grip),
    )


def _drawn(layer: Layer, sampler: Sampler | None) -> DrawRules:
    sheet = layer.look.sheet if isinstance(layer.look, SpriteLook) else FrameGrid()
    drawn = _drawn_attributes(layer)
    degrees = np.array([1, 1, 1, math.pi / 180, math.pi / 180, 1])
    births = np.array([[a.birth.low, a.birth.high] for a in drawn]) * degrees[:, None]
    choices = np.stack([choice_table(a.choices) for a in drawn]) * degrees[:, None]
    tables = np.stack([curve_table(a.life) for a in drawn])
    tables[3:5] *= _curve_scale(layer.turn), _curve_scale(layer.spin)
    wobbles = np.array([[a.wobble.size, a.wobble.pace] for a in drawn])
    wobbles[3, 0] *= math.pi / 180
    return DrawRules(
        births=births.astype(np.float32),
        choosing=np.array([bool(a.choices) for a in drawn]),
        choices=choices.astype(np.float32),
        nearness=_nearness(*drawn),
        modes=np.array([a.code for a in drawn], np.int32),
        tables=tables.astype(np.float32),
        paces=np.array([1 / a.top if a.over is Over.SPEED else 0.0 for a in drawn], np.float32),
        wobbles=wobbles.astype(np.float32),
        tints=np.array([layer.colour.first, layer.colour.second], np.float32),
        tint_mode=layer.colour.code,
        tint_table=np.ascontiguousarray(gradient_table(layer.colour.life).T),
        spin_table=integral_table(layer.spin.life) * np.float32(_curve_scale(layer.spin)[0]),
        frames=layer.look.frames,
        play=PLAYS[sheet.play],
        pace=np.float32(sheet.times * layer.look.frames - (1.0 if sheet.fades else 0.0)),
        groups=sampler.arrays.groups if sampler else np.zeros(1, np.int32),
        factors=sampler.sizes if sampler else np.ones(1, np.float32),
        fades=np.array([layer.fade_in, layer.fade_out], np.float32),
    )


def _drawn_attributes(layer: Layer) -> tuple[Attribute, ...]:
    """Return the attributes that are worked out when they are drawn, in the kernel's order."""
    return layer.size, layer.intensity, layer.opacity, layer.turn, layer.spin, layer.stretch


def _nearness(*attributes: Attribute) -> NDArray[np.float32]:
    """Return 1 / the distance from the anchor at which each attribute's highest is drawn; 0 where that is chance."""
    return np.array([1 / a.far if a.by is By.DISTANCE else 0.0 for a in attributes], np.float32)


def layer_limit(layer: Layer, length: float | None, rates: tuple[Rate, ...] = ()) -> int:
    """Return how many particles of a layer may live at once, of an effect that is started so often."""
    if isinstance(layer.source, OffspringSource) and layer.emission.limit is None:
        return MAX_OFFSPRING
    lifetime = layer.longest_life(length)
    return layer.emission.bound(lifetime, length, overlapping(rates, layer.emission.lasts(lifetime, length)))


def _through(layer: Layer) -> Through | None:
    return layer.look.through if isinstance(layer.look, RibbonLook) else None


def _kind(layer: Layer) -> int:
    source = layer.source
    if isinstance(source, SkinSource):
        return c.BONE if source.mode == "bones" else c.SKIN
    return KINDS[source.kind]


def _range(attribute: Attribute) -> NDArray[np.float32]:
    if attribute.choices:
        return choice_table(attribute.choices).astype(np.float32)
    return np.array([attribute.birth.low, attribute.birth.high], np.float32)


def _curve_scale(attribute: Attribute) -> NDArray[np.float64]:
    """Degrees become radians where a curve is itself an angle; a curve that scales is a plain number."""
    return np.array([1.0 if attribute.mode is LifeMode.SCALE else math.pi / 180])


def _shape(layer: Layer) -> NDArray[np.float32]:
    source = layer.source
    shape = np.zeros(3, np.float32)
    measures = MEASURES.get(type(source), lambda _source: ())(source)
    shape[: len(measures)] = measures
    return shape


MEASURES: dict[type, Callable[[Any], tuple[float, ...]]] = {
    SphereSource: lambda source: (source.radius, source.shell),
    RingSource: lambda source: (source.radius, source.thickness),
    BoxSource: lambda source: source.size,
    PictureSource: lambda source: source.size,
    ConeSource: lambda source: (source.length, math.tan(math.radians(source.angle))),
    LineSource: lambda source: (source.thickness,),
}
"""Source to its measures, as the kernel of births reads them."""
