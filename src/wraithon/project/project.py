"""The project: all the artist made, frozen."""

from __future__ import annotations

import math
from functools import cached_property
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, Positive, Vec3, new_id
from wraithon.project.character import Anchor, CharacterUse, Event
from wraithon.project.effect import Effect, Layer
from wraithon.project.preset import Preset
from wraithon.project.quantities import DEGREES, METRES, SECONDS, TIMES, Label, Quantity
from wraithon.project.staging.driving import Signal
from wraithon.project.staging.ground import GROUND_WORDS, MAX_OWN, Block, GroundKind, OwnGround, Sky
from wraithon.project.trigger import Trigger

if TYPE_CHECKING:
    from collections.abc import Sequence


FORMAT = "wraithon project"
VERSION = 1
NEAREST, FARTHEST = 0.3, 1e5
"""Metres that the camera keeps off what it looks at, and that it can be away."""

MAX_TIMES = 1000
"""How often an entry of the running order is played at most."""


class ClipRun(Model):
    """One entry of the running order: a clip, played `times` over."""

    clip: str
    times: Annotated[int, Field(ge=1, le=MAX_TIMES)] = 1


class Stage(Model):
    """What the character plays, over and over: the running order, blended over `fade` seconds.

    `rest` is the pause, holding the last pose, after a clip that does not loop. `character` is who plays:
    the first of the project's when it names none of them. It plays on a `ground`, one of those there always are or of
    `grounds`, with `pieces` of others on it, before a `sky`. What is solid is lit by `light` times as much as usual,
    and what is bright glows by `bloom` times as much.
    """

    character: Id | None = None

    order: Annotated[tuple[ClipRun, ...], Field(max_length=256)] = ()
    fade: Annotated[float, Field(ge=0.0, le=5.0), Quantity("Clips blend over this time", SECONDS, step=0.01)] = 0.15
    rest: Annotated[float, Field(ge=0.0, le=60.0), Quantity("Pause after a clip that does not loop", SECONDS)] = 0.4
    ground: GroundKind = "slate"
    grounds: Annotated[tuple[OwnGround, ...], Field(max_length=MAX_OWN)] = ()
    pieces: Annotated[tuple[Block, ...], Field(max_length=256)] = ()
    sky: Sky = Sky()
    light: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.0, le=4.0),
        Quantity("Brightness of the stage light", TIMES),
    ] = 1.0
    bloom: Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=4.0), Quantity("Strength of the bloom", TIMES)] = (
        1.0
    )

    def ground_label(self, kind: str) -> str:
        """Return what a kind of ground is called."""
        own = {each.id: each.name for each in self.grounds}
        return GROUND_WORDS.get(kind) or own.get(kind, "a ground that is gone")

    @property
    def ground_kinds(self) -> dict[str, str]:
        """All kinds of ground there are, and what each is called."""
        return {**GROUND_WORDS, **{each.id: each.name for each in self.grounds}}

    @property
    def playing(self) -> tuple[object, ...]:
        """What of it the character's performance hangs on."""
        return self.order, self.fade, self.rest


class View(Model):
    """The camera: it looks at `target` (relative to the character while `follow`) from a distance.

    Angles are degrees: `azimuth` 0 stands in front of the character (+Z), 90 at its left (+X).
    """

    target: Vec3 = (0.0, 0.9, 0.0)
    azimuth: Finite = 28.0
    elevation: Annotated[float, Field(ge=-89.0, le=89.0)] = 10.0
    distance: Annotated[float, Field(ge=0.05, le=1e5), Quantity("Distance of the camera", METRES, step=0.1)] = 4.2
    fov: Annotated[float, Field(ge=5.0, le=120.0), Quantity("Angle of view from top to bottom", DEGREES)] = 36.0
    follow: bool = True

    @property
    def metres_high(self) -> float:
        """How many metres the picture is high at the target's distance."""
        return 2 * self.distance * math.tan(math.radians(self.fov / 2))

    def around(self, low: Sequence[float], high: Sequence[float], width: float = 1.0, minimum: float = 0.1) -> View:
        """Return a view that shows a box, turned as this one is.

        Parameters
        ----------
        low, high
            The box's corners in metres, from where the character stands.
        width
            How wide the picture is for its height.
        minimum
            Metres around the box's middle that are shown at least.
        """
        radius = max(math.dist(low, high) / 2, minimum)
        narrow = math.atan(math.tan(math.radians(self.fov / 2)) * min(1.0, width))
        distance = min(max(radius / math.sin(narrow) * 1.05, NEAREST), FARTHEST)
        x, y, z = (min(max((a + b) / 2, -FARTHEST), FARTHEST) for a, b in zip(low, high, strict=True))
        return self.evolve(target=(x, y, z), distance=distance, follow=True)


class StoredView(Model):
    """A view under a name: where the camera stands, how it follows the character, and its lens."""

    id: Id = Field(default_factory=new_id)
    name: Name = "view"
    view: View = View()


class Project(Model):
    """Everything that is saved. References are ids of things elsewhere in the same project.

    The `budget` is how many milliseconds of a picture all layers together are to take at the most expensive frame.
    """

    format: Literal["wraithon project"] = "wraithon project"
    version: Annotated[int, Field(ge=1)] = VERSION
    name: Annotated[Name, Label("Name of the project")] = "Untitled"
    seed: Annotated[int, Field(ge=0, lt=2**63)] = 1
    step_rate: Annotated[int, Field(ge=10, le=480)] = 60
    exposure: Annotated[Positive, Quantity("Exposure of the picture", TIMES)] = 1.0
    budget: Annotated[float, Field(allow_inf_nan=False, ge=0.1, le=1000.0)] = 12.0
    characters: Annotated[tuple[CharacterUse, ...], Field(max_length=64)] = ()
    effects: Annotated[tuple[Effect, ...], Field(max_length=1000)] = ()
    presets: Annotated[tuple[Preset, ...], Field(max_length=1000)] = ()
    triggers: Annotated[tuple[Trigger, ...], Field(max_length=10_000)] = ()
    signals: Annotated[tuple[Signal, ...], Field(max_length=256)] = ()
    stage: Stage = Stage()
    view: View = View()
    views: Annotated[tuple[StoredView, ...], Field(max_length=64)] = ()

    @property
    def character(self) -> CharacterUse | None:
        """The character on stage."""
        first = self.characters[0] if self.characters else None
        return next((use for use in self.characters if use.id == self.stage.character), first)

    def effect(self, effect_id: str | None) -> Effect | None:
        """Return the effect with this id, or None."""
        return self._effects_by_id.get(effect_id or "")

    @cached_property
    def _effects_by_id(self) -> dict[str, Effect]:
        return {effect.id: effect for effect in reversed(self.effects)}

    @cached_property
    def _triggers_by_id(self) -> dict[str, Trigger]:
        return {trigger.id: trigger for trigger in reversed(self.triggers)}

    def trigger(self, trigger_id: str | None) -> Trigger | None:
        """Return the trigger with this id, or None."""
        return self._triggers_by_id.get(trigger_id or "")

    def layer(self, layer_id: str | None) -> tuple[Effect, Layer] | None:
        """Return the layer with this id and its effect, or None."""
        for effect in self.effects:  # each knows its own: an edit makes but one of them anew
            layer = effect.layer(layer_id)
            if layer is not None:
                return effect, layer
        return None

    def anchor(self, anchor_id: str | None) -> Anchor | None:
        """Return the anchor of the character on stage with this id, or None."""
        anchors = self.character.anchors if self.character else ()
        return next((a for a in anchors if a.id == anchor_id), None)

    def event(self, event_id: str | None) -> Event | None:
        """Return the event of the character on stage with this id, or None."""
        events = self.character.events if self.character else ()
        return next((e for e in events if e.id == event_id), None)
