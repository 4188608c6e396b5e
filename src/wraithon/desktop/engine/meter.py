"""Measuring the cost of a show, a slice at a time, on the engine's thread."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.picture.raster import RasterRenderer
from wraithon.studio.cost import measuring

if TYPE_CHECKING:
    from collections.abc import Callable, Generator, Mapping

    from wraithon.character.model import Character
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.project import Project
    from wraithon.stage.sampler_cache import SamplerCache
    from wraithon.studio.cost import Cost


LONGEST = 60.0
"""Seconds of the show whose cost is measured at most."""


class CostMeter:
    """Measures what a show costs.

    Parameters
    ----------
    busy
        Hears what is done, and the share of it from 0 to 1; empty words when it is over.
    """

    def __init__(self, busy: Callable[[str, float], object]) -> None:
        self._busy = busy
        self._work: Generator[float, None, Cost] | None = None

    @property
    def runs(self) -> bool:
        """Whether something is being measured."""
        return self._work is not None

    def begin(
        self,
        project: Project,
        characters: Mapping[str, Character],
        library: TextureLibrary,
        samplers: SamplerCache,
        until: float,
        size: tuple[int, int],
    ) -> None:
        """Begin with a project's show, up to `until` seconds of it, in pictures of a `size`."""
        renderer = RasterRenderer(library.read, library.pieces.read)
        self._work = measuring(project, characters, samplers, renderer, min(until, LONGEST), size)

    def stop(self) -> None:
        """Leave it."""
        if self._work is not None:
            self._work = None
            self._busy("", 1.0)

    def work(self) -> Cost | None:
        """Work for a slice of time; return what was found once it is done."""
        work = self._work
        if work is None:
            return None
        try:
            self._busy("Measuring the cost", next(work))
        except StopIteration as over:
            self.stop()
            found: Cost = over.value
            return found
        return None
