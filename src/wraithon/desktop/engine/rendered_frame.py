"""A finished picture, and what goes with it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.picture.camera import camera_of
from wraithon.stage.triggering.triggers import Triggers

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from wraithon.character.fairness import Tally
    from wraithon.picture.camera import Camera
    from wraithon.project.project import View
    from wraithon.stage.copies import HeardSound
    from wraithon.stage.firing import FiringRecord
    from wraithon.stage.frame import Frame
    from wraithon.stage.player import Player
    from wraithon.stage.show import Show


@dataclass(frozen=True)
class Figures:
    """What is said along the picture's lower edge."""

    frames_a_second: float
    alive: int
    refused: int
    step_ms: float
    draw_ms: float
    coarseness: int
    scale: float
    """Size of the live picture's sides as a share of the widget's."""


@dataclass(frozen=True)
class RenderedFrame:
    """A finished picture and what goes with it."""

    pixels: NDArray[np.uint8]
    time: float
    playing: bool
    exact: bool
    """Whether this is what a fresh run to this moment shows."""
    camera: Camera
    positions: dict[str, NDArray[np.float32]]
    """Anchor id to its world matrix (4, 4)."""
    joints: NDArray[np.float32]
    """(N, 3) world positions of all nodes."""
    figures: Figures
    records: tuple[FiringRecord, ...]
    trace: tuple[NDArray[np.float64], NDArray[np.int64]]
    """Seconds and particles alive, for the timeline."""
    problems: tuple[str, ...]
    centre: tuple[float, float, float]
    """Where the character stands: the view's target is from there while it follows."""
    exposure: float
    """The exposure it was drawn with."""
    heat: NDArray[np.float32] | None = None
    """What the skin was coloured by."""
    skin: NDArray[np.float32] | None = None
    """(V, 3) the posed skin's positions in the world."""
    living: Mapping[str, tuple[int, int]] = field(default_factory=dict)
    """Layer id to how many of it live, and how many births its limit has refused."""
    triggers: Triggers = field(default_factory=Triggers)
    """What triggers remember: how often they have responded, and why they have not."""
    driven: bool = False
    """Whether the character is driven by hand."""
    state: str = ""
    """What the driven character is at."""
    signals: Mapping[str, float] = field(default_factory=dict)
    """All signals at the moment, by their keys."""
    log: tuple[tuple[float, str], ...] = ()
    """What responses wrote, and when."""
    sounds: tuple[HeardSound, ...] = ()
    """What was heard lately."""
    states: tuple[tuple[float, str], ...] = ()
    """What the driven character was at, from which moment on."""
    births: tuple[list[Tally], list[Tally]] | None = None
    """Test births by part and by joint of the layer whose density is shown."""


def living_of(show: Show, beside: Show | None) -> dict[str, tuple[int, int]]:
    """Return how many live of each layer and were refused; of layers that are `beside` the show, too, as there."""
    pools = {**show.pools, **(beside.pools if beside else {})}
    return {layer: (pool.count, pool.refused) for layer, pool in pools.items()}


def heard_of(player: Player, rendered: RenderedFrame) -> RenderedFrame:
    """Return the picture before with the time and the sounds of a player's moment: nobody sees it."""
    return replace(rendered, time=player.time, playing=True, exact=player.pure, sounds=tuple(player.show.sounds))


class FrameExtras(NamedTuple):
    """What goes with a picture besides the player's moment (see `RenderedFrame`)."""

    figures: Figures
    playing: bool
    problems: tuple[str, ...]
    births: tuple[list[Tally], list[Tally]] | None
    living: Mapping[str, tuple[int, int]]


def rendered_of(
    player: Player, frame: Frame, view: View, pixels: NDArray[np.uint8], beside: FrameExtras
) -> RenderedFrame:
    """Return a finished picture of a player's moment, with what goes with it."""
    show = player.show
    posed, stand = show.posed(show.step_number), show.actor.stand(show.time) if show.actor else None
    return RenderedFrame(
        pixels=pixels,
        time=player.time,
        playing=beside.playing,
        exact=player.pure,
        camera=camera_of(view, frame.centre),
        positions=player.anchors(),
        joints=posed[0].matrices[:, :3, 3].copy() if posed else np.zeros((0, 3), np.float32),
        figures=beside.figures,
        records=tuple(player.show.history()),
        trace=player.trace(),
        problems=beside.problems,
        centre=frame.centre,
        exposure=frame.exposure,
        heat=frame.body.heat if frame.body else None,
        skin=posed[1].positions if posed else None,
        triggers=show.triggers.copy(),
        driven=player.driven,
        state=stand.state if stand else "",
        signals=show.signals(show.step_number),
        log=tuple(show.log),
        sounds=tuple(show.sounds),
        states=show.actor.states if show.actor else (),
        births=beside.births,
        living=beside.living,
    )
