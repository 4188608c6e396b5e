"""What the picture shows of the skin, and what the mouse does to it, as the selection asks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from wraithon.desktop.anchor_hand import AnchorHand
from wraithon.desktop.brush_hand import BrushHand
from wraithon.desktop.engine import Overlay
from wraithon.desktop.hands import JointHand
from wraithon.desktop.mask_sheet import put_mask
from wraithon.stage.trial import TEST_BURST

if TYPE_CHECKING:
    from wraithon.desktop.engine import Shot
    from wraithon.desktop.window import Window
    from wraithon.project.character import PaintedMask

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
        self._overlay = Overlay()
        self.joints = JointHand()
        self.joints.picked.connect(self._joint_picked)
        self.anchor, self.brush = AnchorHand(), BrushHand()
        sheet = window.character_sheet
        self.anchor.changed.connect(sheet.anchor.put)
        self.brush.painted.connect(self._painted)
        sheet.painting.brush.connect(self._brush_set)
        sheet.anchor.tried.connect(self._try_anchor)
        window.picture.hands = [self.anchor, self.brush, self.joints]
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
        elif at_character and kind == "mask":
            overlay = Overlay("mask", what)
        if overlay != self._overlay:
            self._overlay = overlay
            window.engine.send(overlay=overlay, redraw=True)
        self._hold(kind if at_character else "", what)
        window.picture.legend = LEGENDS.get(overlay.kind)
        picking = at_effects and kind == "layer" and self._picking
        self.joints.character = window.session.character
        self.joints.shown = picking or (at_character and kind == "joint")
        self.joints.chosen = self._chosen_joints(kind, what) if picking else frozenset({what})
        window.picture.update()

    def _hold(self, kind: str, what: str) -> None:
        """Give the anchor and the brush what is selected."""
        session = self._window.session
        use = session.project.character
        self.anchor.anchor = session.project.anchor(what) if kind == "anchor" else None
        self.anchor.scale = use.scale if use else 1.0
        self.brush.character = session.character
        self.brush.hidden = frozenset(use.hidden_parts) if use else frozenset()
        masks = use.masks if use and kind == "mask" else ()
        self.brush.mask = next((mask for mask in masks if mask.id == what), None)

    def _painted(self, mask: PaintedMask, final: bool) -> None:
        put_mask(self._window.session, "Paint", mask, final=final, merge=f"paint {mask.id}")

    def _brush_set(self, radius: float, strength: float, wiping: bool) -> None:
        self.brush.radius, self.brush.strength, self.brush.wiping = radius, strength, wiping

    def _try_anchor(self, anchor: str) -> None:
        self._window.engine.fire(TEST_BURST.id, anchor)
        if not self._window.playing:
            self._window.set_playing(True)

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
