"""What the engine does besides the show: measuring cost and reach, and small pictures, a slice at a time."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from wraithon.desktop.engine.exporter import Exporter
from wraithon.desktop.engine.gallery import Gallery
from wraithon.desktop.engine.meter import CostMeter
from wraithon.desktop.engine.surveyor import Surveyor

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from wraithon.character.model import Character
    from wraithon.desktop.engine.exporter import ExportWish
    from wraithon.picture.renderer import Renderer
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache


class BackgroundTasks:
    """Work that is asked for now and then.

    Parameters
    ----------
    busy
        Hears how far long work is.
    measured, pictured, surveyed
        Take what was found: a cost, the key and pixels of a small picture, and a survey.
    exporting, exported
        Hear how many of how many pictures are written, and what came of it.
    """

    def __init__(
        self,
        busy: Callable[[str, float], object],
        measured: Callable[[object], object],
        pictured: Callable[[str, object], object],
        surveyed: Callable[[object], object],
        exporting: Callable[[int, int], object],
        exported: Callable[[str, bool], object],
    ) -> None:
        self._exporter = Exporter(exporting, exported)
        self._meter, self._gallery, self._surveyor = CostMeter(busy), Gallery(), Surveyor()
        self._measured, self._pictured, self._surveyed = measured, pictured, surveyed
        self._from: tuple[TextureLibrary, SamplerCache] | None = None

    @property
    def runs(self) -> bool:
        """Whether anything is still to be done."""
        return self._meter.runs or self._gallery.runs or self._surveyor.runs or self._exporter.runs

    @property
    def measures(self) -> bool:
        """Whether a cost is being measured, or pictures are written: the show waits for that."""
        return self._meter.runs or self._exporter.runs

    def restart(self, library: TextureLibrary, samplers: SamplerCache) -> None:
        """Work for another project from now on; what was asked for is still done."""
        self._from = library, samplers
        self._meter.stop()
        self._exporter.stop()
        self._surveyor.restart()

    def ask(self, wanted: Mapping[str, Effect]) -> None:
        """Ask for small pictures of effects."""
        self._gallery.ask(wanted)

    def survey(self, effect: Effect) -> None:
        """Ask for a survey of an effect."""
        self._surveyor.ask(effect)

    def measure(
        self, player: Player, characters: Mapping[str, Character], until: float, size: tuple[int, int]
    ) -> None:
        """Begin to measure what the show costs up to a moment; 0 ends it."""
        self._meter.stop()
        if until > 0 and self._from is not None:
            self._meter.begin(player.project, characters, *self._from, until, size)

    def export(
        self, wish: ExportWish | Literal[False], project: Project, characters: Mapping[str, Character]
    ) -> None:
        """Begin to write pictures of a project's show; False leaves the rest."""
        self._exporter.stop()
        if wish and self._from is not None:
            self._exporter.begin(wish, project, characters, *self._from)

    def work(self, player: Player, characters: Mapping[str, Character], renderer: Renderer, *, resting: bool) -> None:
        """Work for a slice of time on what is asked for; all but costs only while the show is `resting`."""
        if self._exporter.runs:
            self._exporter.work()
        elif self._meter.runs:
            cost = self._meter.work()
            if cost is not None:
                self._measured(cost)
        elif self._surveyor.runs and resting and self._from is not None:
            found = self._surveyor.work(player, characters, self._from[1], renderer)
            if found is not None:
                self._surveyed(found)
        elif self._gallery.runs and resting and self._from is not None:
            made = self._gallery.make_one(player, characters, self._from[1], renderer)
            if made is not None:
                self._pictured(*made)
