"""Where a layer's particles are born, and which way they set out."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Finite, Model, Share, Unsigned

__all__ = ["Aim", "Heading", "PointSource", "Riding", "RingSource", "SkinSource", "Source", "SphereSource"]


class Heading(StrEnum):
    """The middle direction of the births, in the frame of what they are born on."""

    OUTWARD = "outward"
    UP = "up"
    FORWARD = "forward"


class Aim(Model):
    """A heading and how far births may stray from it: degrees of half-angle, 0 to 180.

    OUTWARD is away from the middle of a shape, or along the normal of skin; FORWARD is the anchor's
    own +Z; UP is the world's +Y.
    """

    heading: Heading = Heading.OUTWARD
    spread: Annotated[float, Field(ge=0.0, le=180.0)] = 20.0


class Riding(Model):
    """Sticking to the skin: for a share of the life, then let go with `keep` of the skin's velocity."""

    share: Share = 0.0
    keep: Annotated[float, Field(ge=-2.0, le=2.0)] = 1.0


class _Source(Model):
    aim: Aim = Aim()
    riding: Riding = Riding(keep=0.0)


class PointSource(_Source):
    """Births at the firing's anchor."""

    kind: Literal["point"] = "point"


class SphereSource(_Source):
    """Births in a ball of `radius` metres; a `shell` of 1 puts all of them on its surface."""

    kind: Literal["sphere"] = "sphere"
    radius: Unsigned = 0.1
    shell: Share = 0.0


class RingSource(_Source):
    """Births on a level ring of `radius` metres and a round cross-section of `thickness` metres."""

    kind: Literal["ring"] = "ring"
    radius: Unsigned = 0.3
    thickness: Unsigned = 0.02


class SkinSource(_Source):
    """Births on the character's skin, even by area, on the chosen parts (none chosen: all).

    `lift` is the distance from the skin along its normal, in metres.
    """

    kind: Literal["skin"] = "skin"
    parts: tuple[str, ...] = ()
    lift: Finite = 0.0


Source = Annotated[
    PointSource | SphereSource | RingSource | SkinSource,
    Field(discriminator="kind"),
]
