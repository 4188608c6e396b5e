"""Writing pictures of the show to files, one at a time, on the engine's thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.interchange.pictures import MAX_PICTURES, numbered, write_picture
from wraithon.picture.raster import RasterRenderer
from wraithon.stage.player import Player
from wraithon.support.errors import RenderError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping

    from wraithon.character.model import Character
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.project import Project, View
    from wraithon.stage.sampler_cache import SamplerCache


SEEK_SLICE = 20
"""Steps of a seek between two looks at the mailbox."""


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
        self._work: Iterator[tuple[int, int]] | None = None
        self._written = 0

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
        self._written, self._work = 0, _writing(wish, player, renderer)

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
            self._written, count = next(work)
            self._progress(self._written, count)
        except StopIteration:
            self._work = None
            self._done("1 picture written" if self._written == 1 else f"{self._written} pictures written", True)
        except RenderError as error:
            self._work = None
            self._done(str(error), False)


def _writing(wish: ExportWish, player: Player, renderer: RasterRenderer) -> Iterator[tuple[int, int]]:
    """Yield how many of how many pictures are written, after each slice of the work."""
    count = wish.count
    if count > MAX_PICTURES:
        raise RenderError(f"{count:,} pictures are too many: {MAX_PICTURES:,} at most; shorten the span")
    for number in range(count):
        path = Path(wish.path) if count == 1 and "#" not in wish.path else numbered(wish.path, number)
        target = player.step_of(wish.start + number / wish.fps)
        while not player.seek_some(target, SEEK_SLICE):
            yield number, count
        write_picture(renderer.draw(player.frame(), wish.view, *wish.size).pixels, path)
        yield number + 1, count
