"""What the window wants of the engine: a mailbox where the latest of each wish counts, and of pictures each."""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from typing import TYPE_CHECKING, Any, Literal

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.desktop.engine.exporter import ExportWish
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project, View
    from wraithon.stage.overlays import Overlay
    from wraithon.studio.audition import AuditionWish


Given = tuple[str, tuple[Any, ...], dict[str, Any]]
"""The player's method that is called, and with what: fire, respond, steer, act, key, signal, begin_anew."""


@dataclass
class Mailbox:
    """Wishes that were not opened yet; None where there is none."""

    project: Project | None = None
    characters: dict[str, Character] | None = None
    library: TextureLibrary | None = None
    view: View | None = None
    size: tuple[int, int] | None = None
    playing: bool | None = None
    seen: bool | None = None
    """Whether the window can be seen: what nobody sees is not drawn."""
    tempo: float | None = None
    seek: float | None = None
    round: tuple[float, float] | None = None
    """Show seconds between which playing goes round; nowhere when the end is not after the start."""
    overlay: Overlay | None = None
    audition: AuditionWish | None = None
    crowd: int | None = None
    """How many more of the character are to stand on the stage."""
    measure: float | None = None
    """Seconds of the show whose cost is to be measured; 0 ends measuring."""
    pictures: dict[str, Effect] | None = None
    """Effects that small pictures are wanted of, by keys of the window's own."""
    survey: Effect | None = None
    """An effect whose reach is to be measured."""
    export: ExportWish | Literal[False] | None = None
    """Pictures that are to be written; False leaves the rest."""
    steps: int = 0
    drive: bool | None = None
    """Whether the character is driven by hand; either begins the show anew."""
    given: list[Given] = field(default_factory=list)
    """What hands do, in its order."""
    redraw: bool = False

    def any(self) -> bool:
        """Return whether anything is wished for."""
        wished = any(getattr(self, wish) is not None for wish in LATEST)
        return wished or bool(self.redraw or self.steps or self.given)

    def wish(self, name: str, value: Any) -> None:
        """Wish for something; pictures come on top of those that are wished for already."""
        if name == "pictures" and self.pictures is not None and value is not None:
            value = self.pictures | value
        setattr(self, name, value)

    def restore(self, earlier: Mailbox) -> None:
        """Take back what was not done; what came since goes before it."""
        if self.pictures is not None and earlier.pictures is not None:
            self.pictures = earlier.pictures | self.pictures
        for wish in LATEST:
            if getattr(self, wish) is None:
                setattr(self, wish, getattr(earlier, wish))
        self.given = [*earlier.given, *self.given]
        self.steps += earlier.steps


LATEST = tuple(wish.name for wish in fields(Mailbox) if wish.default is None)
"""The wishes of which only the latest counts."""
