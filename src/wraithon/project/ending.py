"""What becomes of living particles when their firing ends."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from wraithon.project.base import Model, Unsigned
from wraithon.project.quantities import SECONDS, Label, Quantity


class AtEnd(StrEnum):
    """What becomes of living particles when their firing is stopped, or over."""

    LIVE_OUT = "live out"
    RELEASE = "release"
    FADE = "fade"
    KILL = "kill"


class Ending(Model):
    """What becomes of living particles when their firing ends, at its duration or where it is stopped.

    They live out their time; are released from what they are attached to, and live out their time; fade out within
    `seconds`; or are killed at once.
    """

    what: Annotated[AtEnd, Label("What becomes of living particles when the firing ends")] = AtEnd.LIVE_OUT
    seconds: Annotated[Unsigned, Quantity("Time of fading out", SECONDS)] = 0.5
