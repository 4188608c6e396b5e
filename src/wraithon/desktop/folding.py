"""Folding: the list and the timeline shrink to their heads, so that the picture has the room."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.remembered import folds, keep_folds
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import tool

if TYPE_CHECKING:
    from PySide6.QtWidgets import QSplitter, QWidget

    from wraithon.desktop.timeline.timeline import Timeline
    from wraithon.desktop.transport import Transport


TIMELINE = 198
"""Pixels the timeline and the line above it begin with."""
UNBOUNDED = 16_777_215
"""What Qt takes for no greatest height."""


class Folding:
    """Folds the index and the timeline of a window, and hides all but the picture."""

    def __init__(
        self,
        indexes: QWidget,
        timeline: Timeline,
        transport: Transport,
        split: QSplitter,
        others: tuple[QWidget, ...],
    ) -> None:
        self._indexes, self._timeline, self._transport, self._split = indexes, timeline, transport, split
        self._others = others
        self._index_folded = False
        self._high = TIMELINE
        self.unfold = tool("caret-right", "Show the list (F7)", self.index)
        """What stands for the list while it is folded."""
        self.unfold.hide()

    def restore(self) -> None:
        """Fold what was folded the last time."""
        for fold, folded in zip((self.index, self.timeline), folds(), strict=True):
            if folded:
                fold()

    def remember(self) -> None:
        """Keep what is folded for the next time."""
        keep_folds(index=self._index_folded, timeline=self._timeline.isHidden())

    def index(self) -> None:
        """Fold the list to its head, or show it again."""
        self._index_folded = not self._index_folded
        self._indexes.setVisible(not self._index_folded)
        self.unfold.setVisible(self._index_folded)

    def timeline(self) -> None:
        """Fold the timeline to the line above it, or show it again."""
        fold, sizes, line = not self._timeline.isHidden(), self._split.sizes(), self._transport.height()
        self._timeline.setVisible(not fold)
        self._split.widget(1).setMaximumHeight(line if fold else UNBOUNDED)
        lower = line if fold else max(self._high, TIMELINE)
        self._high = sizes[1]
        self._split.setSizes([sum(sizes) - lower, lower])
        self._transport.fold.setIcon(icon("caret-up" if fold else "caret-down"))

    def everything(self) -> None:
        """Show only the picture, or all again."""
        hide = self._others[0].isVisible()
        for widget in self._others:
            widget.setVisible(not hide)
        self._indexes.setVisible(not hide and not self._index_folded)
        self.unfold.setVisible(not hide and self._index_folded)


class Folds:
    """A window with panels that fold."""

    folding: Folding

    def toggle_panels(self) -> None:
        """Show only the picture, or everything again."""
        self.folding.everything()

    def fold_index(self) -> None:
        """Fold the list to its head, or show it again."""
        self.folding.index()

    def fold_timeline(self) -> None:
        """Fold the timeline to the line above it, or show it again."""
        self.folding.timeline()
