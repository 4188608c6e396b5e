"""Pieces of ground that are put on the stage: patches, blocks, ledges and ramps."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, new_id

__all__ = ["GROUND_KINDS", "HIGHEST", "GroundKind", "GroundPiece"]

GroundKind = Literal["slate", "moss", "puddle", "plain"]
GROUND_KINDS: tuple[GroundKind, ...] = get_args(GroundKind)
HIGHEST = 10.0
"""Metres that a piece of ground is high at most."""
Side = Annotated[float, Field(allow_inf_nan=False, ge=0.1, le=60.0)]
Height = Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=HIGHEST)]


class GroundPiece(Model):
    """A piece of ground on the stage; where several lie over one another, the highest counts, and of those the last.

    Its middle is at `place` (x and z, metres), it is `size` wide and deep and turned by `turn` degrees about the
    vertical. Its top is `height` metres above the stage where it begins (towards -Z before it is turned), and `rise`
    more where it ends; at 0 it is a patch of another kind of ground.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "patch"
    kind: GroundKind = "moss"
    round: bool = False
    place: tuple[Finite, Finite] = (0.0, 2.0)
    size: tuple[Side, Side] = (1.5, 1.5)
    turn: Finite = 0.0
    height: Height = 0.0
    rise: Height = 0.0
