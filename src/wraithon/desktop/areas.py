"""Going from area to area of the window by one key."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget


def focus_next(window: QWidget, areas: Sequence[QWidget]) -> None:
    """Move the focus to the area after the one that has it, or to the first thing in it that takes it."""
    focus = window.focusWidget()
    here = next((k for k, area in enumerate(areas) if area is focus or area.isAncestorOf(focus)), -1)
    area = areas[(here + 1) % len(areas)]
    taker: QWidget | None = area
    if not area.focusPolicy() & Qt.FocusPolicy.TabFocus:
        taker = area.nextInFocusChain()
        while taker is not None and taker is not area and not _takes(taker):
            taker = taker.nextInFocusChain()
    if taker is not None:
        taker.setFocus(Qt.FocusReason.ShortcutFocusReason)


def _takes(widget: QWidget) -> bool:
    return bool(widget.focusPolicy() & Qt.FocusPolicy.TabFocus) and widget.isVisible()
