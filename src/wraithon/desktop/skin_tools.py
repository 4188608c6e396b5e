"""What the picture shows of the skin, and what the mouse does to it, as the selection asks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from wraithon.desktop.engine import Overlay
from wraithon.desktop.hands import JointHand

if TYPE_CHECKING:
    from wraithon.desktop.engine import Shot
    from wraithon.desktop.window import Window

__all__ = ["SkinTools"]

LEGENDS = {
    "weights": ("share", "held a little", "held alone"),
    "density": ("balance", "fewer births than fair", "more"),
    "mask": ("share", "not painted", "painted"),
}


class SkinTools(QObject):
    """Keeps overlays and hands in step with station and selection."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._density = self._picking = False
        self.joints = JointHand()
        self.joints.picked.connect(self._joint_picked)
        window.picture.hands = [self.joints]
        source = window.effects_sheet.source
        source.density_wanted.connect(self._density_wanted)
        source.picking.connect(self._picking_wanted)
        window.session.selected.connect(lambda _kind, _what: self.refresh())
        window.session.changed.connect(self.refresh)
        window.session.loaded.connect(self.refresh)
        window.station_changed.connect(self.refresh)
        self.refresh()

    def _density_wanted(self, on: bool) -> None:
        self._density = on
        self.refresh()

    def _picking_wanted(self, on: bool) -> None:
        self._picking = on
        self.refresh()

    def refresh(self) -> None:
        """Show what station and selection ask for."""
        window = self._window
        kind, what = window.session.selection
        overlay = Overlay()
        at_character, at_effects = window.at == "character", window.at == "effects"
        if at_character and kind == "joint":
            overlay = Overlay("weights", what)
        elif at_effects and kind == "layer" and self._density:
            overlay = Overlay("density", what)
        window.engine.send(overlay=overlay, redraw=True)
        window.picture.legend = LEGENDS.get(overlay.kind)
        picking = at_effects and kind == "layer" and self._picking
        self.joints.character = window.session.character
        self.joints.shown = picking or (at_character and kind == "joint")
        self.joints.chosen = self._chosen_joints(kind, what) if picking else frozenset({what})
        window.picture.update()

    def _chosen_joints(self, kind: str, what: str) -> frozenset[str]:
        found = self._window.session.project.layer(what) if kind == "layer" else None
        table = getattr(found[1].source, "table", ()) if found else ()
        return frozenset(row.joint for row in table)

    def _joint_picked(self, joint: str) -> None:
        if self._picking and self._window.at == "effects":
            self._window.effects_sheet.source.table.toggle(joint)
        else:
            self._window.session.select("joint", joint)

    def show_shot(self, shot: Shot) -> None:
        """Pass on what the engine worked out."""
        self._window.effects_sheet.source.show_births(shot.births)
