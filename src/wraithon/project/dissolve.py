"""The dissolve of a character: a border that eats through its skin, and how that looks."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wraithon.project.base import Model, Positive, Share, Unsigned
from wraithon.project.quantities import CENTIMETRES, PERCENT, SECONDS, TIMES, Label, Quantity

Light = Annotated[float, Field(ge=0.0, le=1000.0)]


class Dissolve(Model):
    """How much of a character is gone, and the glow of its border.

    `amount` is the share that is gone: 0 is whole, 1 is nothing. With a `clip`, it grows from nothing to
    `amount` between two moments of that clip, in seconds, and is back when the clip is over. The border
    follows noise with blotches of `scale` metres of the rest pose; `width` is how much of the amount's
    range glows beside it, in linear `colour` times `intensity`. `materials` limits it to some (none named:
    all). `two_sided` shows the inside through the holes.
    """

    amount: Annotated[Share, Quantity("Share of the skin that is gone", PERCENT, step=1)] = 0.0
    clip: Annotated[str, Label("When it happens")] = ""
    begin: Annotated[Unsigned, Quantity("Begins at this moment of the clip", SECONDS)] = 0.0
    end: Annotated[Unsigned, Quantity("All is gone at this moment of the clip", SECONDS)] = 1.0
    scale: Annotated[Positive, Quantity("Size of the blotches", CENTIMETRES)] = 0.12
    width: Annotated[Share, Quantity("Width of the glowing border", PERCENT, step=1)] = 0.06
    colour: Annotated[tuple[Light, Light, Light], Label("Colour of the border")] = (1.0, 0.45, 0.12)
    intensity: Annotated[Unsigned, Quantity("Brightness of the border", TIMES, step=0.1, decimals=1)] = 4.0
    two_sided: Annotated[bool, Label("Shows the inside of the skin through the holes")] = True
    materials: Annotated[
        tuple[str, ...], Field(max_length=256), Label("Materials that dissolve; none ticked means all")
    ] = ()

    def gone(self, clip: str, time: float) -> float:
        """Return the share that is gone at a moment of a clip that plays, in seconds of it."""
        if not self.clip:
            return self.amount
        if clip != self.clip:
            return 0.0
        share = (time - self.begin) / max(self.end - self.begin, 1e-6)
        return self.amount * min(max(share, 0.0), 1.0)
