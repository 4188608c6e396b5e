"""The brush: paints a mask onto the skin in the picture."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from wraithon.character.masks import brush, pack_mask, unpack_mask
from wraithon.character.picking import Hit, hit_skin
from wraithon.character.pose import rest_skin
from wraithon.desktop.picture.picture_tools import PictureTool
from wraithon.desktop.theme.colours import INK, RUST

if TYPE_CHECKING:
    from PySide6.QtGui import QMouseEvent

    from wraithon.character.model import Character
    from wraithon.desktop.picture.canvas import Canvas
    from wraithon.project.character import PaintedMask


STEP = 0.3
"""Share of the radius between dabs of a stroke."""


class BrushTool(PictureTool):
    """Paints with the left button; Alt wipes out; Shift and the right button still move the camera.

    Signals
    -------
    painted
        The mask as it is now, and whether the stroke is over.
    """

    painted = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.character: Character | None = None
        self.mask: PaintedMask | None = None
        self.hidden: frozenset[str] = frozenset()
        self.radius, self.strength, self.wiping = 0.06, 0.6, False
        """Metres of the rest pose, the share a dab adds, and whether it takes away instead."""
        self._strengths: np.ndarray | None = None
        self._last: np.ndarray | None = None
        self._at: QPointF | None = None

    def set_brush(self, radius: float, strength: float, wiping: bool) -> None:
        """Take another brush: metres, the share a dab adds, and whether it takes away instead."""
        self.radius, self.strength, self.wiping = radius, strength, wiping

    def _hit(self, picture: Canvas, at: QPointF) -> Hit | None:
        rendered, character = picture.rendered, self.character
        if self.mask is None or rendered is None or rendered.skin is None or character is None:
            return None
        if len(rendered.skin) != len(character.mesh.positions):
            return None
        direction = rendered.camera.ray(at.x(), at.y(), picture.width(), picture.height())
        shown = np.array([part.name not in self.hidden for part in character.parts])
        triangles = character.mesh.triangles
        return hit_skin(
            rendered.camera.eye, direction, rendered.skin, triangles, shown[character.mesh.part_of_triangle]
        )

    def press(self, picture: Canvas, event: QMouseEvent) -> bool:
        if event.button() != Qt.MouseButton.LeftButton or self.mask is None or self.character is None:
            return False
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            return False
        hit = self._hit(picture, event.position())
        if hit is None:
            return False
        densities = unpack_mask(self.mask)
        count = len(self.character.mesh.positions)
        self._strengths = densities if len(densities) == count else np.zeros(count, np.float32)
        self._last = None
        self._dab(hit, event)
        return True

    def move(self, picture: Canvas, event: QMouseEvent) -> None:
        self._at = event.position()
        hit = self._hit(picture, event.position())
        if hit is not None:
            self._dab(hit, event)
        picture.update()

    def release(self, _picture: Canvas, _event: QMouseEvent) -> None:
        if self._strengths is not None and self.mask is not None:
            self.painted.emit(pack_mask(self.mask, self._strengths), True)
        self._strengths = None

    def _dab(self, hit: Hit, event: QMouseEvent) -> None:
        """Paint where the stroke has come, evenly whatever the mouse's speed."""
        if self.character is None or self._strengths is None or self.mask is None:
            return
        row, b, c = hit
        skin = rest_skin(self.character)
        corners = self.character.mesh.triangles[row]
        shares = np.array([1 - b - c, b, c])
        spot = shares @ skin.positions[corners].astype(np.float64)
        normal = shares @ skin.normals[corners].astype(np.float64)
        if self._last is not None and np.linalg.norm(spot - self._last) < STEP * self.radius:
            return
        self._last = spot
        wipe = self.wiping or bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        strength = -self.strength if wipe else self.strength
        painted = brush(self._strengths, skin.positions, spot, self.radius, strength)
        # The other side of a thin part lies near, too, but looks away.
        seen = skin.normals @ normal > -0.1
        self._strengths = np.where(seen, painted, self._strengths)
        self.painted.emit(pack_mask(self.mask, self._strengths), False)

    def hover(self, _picture: Canvas, at: QPointF) -> bool:
        self._at = at
        return self.mask is not None

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        rendered = picture.rendered
        if self.mask is None or self._at is None or rendered is None:
            return
        far = float(
            np.linalg.norm(
                rendered.camera.eye - (picture.view.target if not len(rendered.joints) else rendered.joints.mean(0))
            )
        )
        pixels = self.radius * rendered.camera.lens * picture.height() / max(far, 0.05)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(RUST if self.wiping else INK), 1.4))
        painter.drawEllipse(self._at, pixels, pixels)
