"""Writing pictures of the show to files, one at a time, on the engine's thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.interchange.pictures import MAX_PICTURES, rendering, sequence
from wraithon.picture.raster import RasterRenderer
from wraithon.stage.player import Player
from wraithon.support.errors import RenderError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping

    from wraithon.character.model import Character
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.project import Project, View
    from wraithon.stage.sampler_cache import SamplerCache


@dataclass(frozen=True)
class ExportWish:
    """What is written: one moment, or a numbered sequence, as it is seen from a view."""

    path: str
    """The picture, or a pattern with a run of # for the number."""
    start: float
    end: float
    """Seconds of the show: pictures are of [start, end); one picture where they are equal."""
    fps: float
    size: tuple[int, int]
    view: View

    @property
    def count(self) -> int:
        """How many pictures there are."""
        return 1 if self.end <= self.start else max(1, round((self.end - self.start) * self.fps))


class Exporter:
    """Writes pictures.

    Parameters
    ----------
    progress
        Hears how many of how many are written.
    done
        Hears what was written, or why it was not, and whether all is well.
    """

    def __init__(self, progress: Callable[[int, int], object], done: Callable[[str, bool], object]) -> None:
        self._progress, self._done = progress, done
        self._work: Iterator[int] | None = None
        self._written = self._count = 0

    @property
    def runs(self) -> bool:
        """Whether something is still to be written."""
        return self._work is not None

    def begin(
        self,
        wish: ExportWish,
        project: Project,
        characters: Mapping[str, Character],
        library: TextureLibrary,
        samplers: SamplerCache,
    ) -> None:
        """Begin to write pictures of a project's show, from its beginning."""
        renderer = RasterRenderer(library.read, library.pieces.read)
        player = Player(project, characters, samplers, partial=True)
        self._written, self._count = 0, wish.count
        self._work = rendering(player, renderer, wish.view, _moments(wish), wish.size)

    def stop(self) -> None:
        """Leave the rest; what is written stays."""
        if self._work is not None:
            self._work = None
            self._done(f"Stopped: {self._written} pictures are written", False)

    def work(self) -> None:
        """Work for a slice of time."""
        work = self._work
        if work is None:
            return
        try:
            self._written = next(work)
            self._progress(self._written, self._count)
        except StopIteration:
            self._work = None
            self._done("1 picture written" if self._written == 1 else f"{self._written} pictures written", True)
        except RenderError as error:
            self._work = None
            self._done(str(error), False)


def _moments(wish: ExportWish) -> Iterator[tuple[float, Path]]:
    """Yield the moments that are pictured, and where their pictures go."""
    if wish.count > MAX_PICTURES:
        raise RenderError(f"{wish.count:,} pictures are too many: {MAX_PICTURES:,} at most; shorten the span")
    if wish.count == 1 and "#" not in wish.path:
        yield wish.start, Path(wish.path)
    else:
        yield from sequence(wish.path, wish.start, wish.fps, wish.count)
