"""The raster renderer: a Frame and a view become a picture, on any machine, the same bytes every time."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.picture.camera import camera_of
from wraithon.picture.finishing import finished
from wraithon.picture.looks import draw_on_solid
from wraithon.picture.looks.drawer import Scene, SpriteTextures, Viewport
from wraithon.picture.pace import Backlog
from wraithon.picture.renderer import Buffers, PassTimes, Picture, TextureSource, check_size
from wraithon.picture.solid.opaque import draw_opaque
from wraithon.picture.solid.opaque_cache import OpaqueCache
from wraithon.picture.solid.solids import Shapes, solids_of
from wraithon.picture.transparent import draw_transparent

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.solid.shapes import ShapeSource
    from wraithon.project.project import View
    from wraithon.stage.frame import Frame


LIVE_PIXELS = 3_500_000
"""Sprite pixels the live picture lays, at most, before it makes its transparent pass coarser."""
FEWEST_LIVE_PIXELS = 800_000
"""Fewer, at a coarser size, would hardly be quicker: then it is the number of sprites that counts."""
LATE = 0.19
"""Seconds live frames may fall behind before some sharpness is given up."""
SPARE = 0.9
"""Share of its time a live frame may take for sharpness to come back."""
CALM = 90
"""Frames after giving up sharpness before some is tried again, so that the picture does not flicker between two."""


class RasterRenderer:
    """Draws frames on the processor (see `Renderer`).

    Parameters
    ----------
    textures
        Returns a texture's picture by the name layers give it; may raise RenderError.
    shapes
        Returns the shape of pieces by the name layers give it; may raise RenderError. None: there are but those that
        come with the program.
    """

    def __init__(self, textures: TextureSource, shapes: ShapeSource | None = None) -> None:
        self._textures = SpriteTextures(textures)
        self._shapes = Shapes(shapes)
        self._buffers, self._standing = Buffers(), OpaqueCache()
        self._budget = float(LIVE_PIXELS)
        self._backlog = Backlog(LATE)
        self._mean, self._since = 0.0, CALM

    @property
    def problems(self) -> dict[str, str]:
        """Texture or piece name to what is wrong with it; such layers are drawn as plain discs, or shards."""
        return {**self._textures.problems, **self._shapes.problems}

    def look_again(self) -> None:
        """Try textures and pieces again that could not be read."""
        self._textures.problems.clear()
        self._shapes.look_again()

    @property
    def gives_all(self) -> bool:
        """Whether the live transparent pass is as coarse already as it may get."""
        return self._budget <= FEWEST_LIVE_PIXELS

    def keep_up(self, seconds: float, wanted: float) -> None:
        """Take how long a live frame took in all, and lay fewer or more sprite pixels in the next ones.

        Parameters
        ----------
        seconds
            What the last frame took, steps and all.
        wanted
            What it may take.
        """
        seconds = min(seconds, 2 * wanted)
        self._mean += 0.2 * (seconds - self._mean)
        self._since += 1
        if self._backlog.tick(seconds, wanted):
            less = self._budget * math.sqrt(wanted / seconds)
            self._budget, self._since = max(FEWEST_LIVE_PIXELS, less), 0
        elif self._mean < wanted * SPARE and self._since > CALM:
            self._budget = min(LIVE_PIXELS, self._budget * 1.04)

    def draw(self, frame: Frame, view: View, width: int, height: int, *, live: bool = False) -> Picture:
        """Return the picture of a frame.

        Parameters
        ----------
        frame
            The moment.
        view
            Where it is seen from.
        width, height
            Pixels, 8 to 8192 each.
        live
            Keep up with playing: the ground is worked out at half the width and height, and the transparent pass gets
            coarser when sprites cover very much.

        Raises
        ------
        wraithon.support.errors.RenderError
            When the size is out of range.
        """
        check_size(width, height)
        camera = camera_of(view, frame.centre).shaken(*frame.shake)
        buffers, clock = self._buffers, PassTimes()

        def opaque() -> tuple[NDArray[Any], NDArray[Any]]:
            solids = solids_of(frame, self._shapes, buffers, Viewport(camera, width, height) if live else None)
            clock.lap("pieces")
            return draw_opaque(frame, solids, camera, (width, height), buffers, clock, live=live)

        light, depth = self._standing.drawn(frame, camera, (width, height), opaque) if live else opaque()
        clock.lap("body")
        if frame.light != 1:
            light *= np.float32(frame.light)
        scene = Scene(camera, light, depth, self._textures, live)
        draw_on_solid(frame.batches, scene)
        clock.lap("decals and lights")
        budget = self._budget if live else math.inf
        coarse, coverage = draw_transparent(frame, scene, buffers, clock, budget)
        for channel, by in enumerate(frame.tint):
            if by != 1:
                light[channel] *= np.float32(by)
        pixels = finished(light, frame.exposure, buffers, frame.bloom)
        clock.lap("finish")
        return Picture(pixels, coarse, clock.seconds, coverage)
