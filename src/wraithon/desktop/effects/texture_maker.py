"""The texture maker: a recipe's numbers, and what they paint, beside a look."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, image_of, labelled, soft
from wraithon.desktop.widgets.fields import ChoiceField, NumberField
from wraithon.picture.making.recipe import Outline, Recipe, as_png, painted, recipe_in
from wraithon.project.paths import bounds_at

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.picture.shipped import TextureLibrary


PREVIEW = 140
OUTLINES = (
    ("a puff of smoke", Outline.PUFF),
    ("a glow", Outline.GLOW),
    ("a ring", Outline.RING),
    ("a spark", Outline.SPARK),
    ("a ragged blot", Outline.BLOT),
    ("a feather", Outline.FEATHER),
    ("a splinter of stone", Outline.SPLINTER),
)
SIDES = (("32 pixels a frame", 32), ("64 pixels a frame", 64), ("128 pixels a frame", 128))
ROWS = (
    ("frames", (("columns", "Frames side by side", "columns", 1.0),
                ("rows", "Frames above each other", "rows", 1.0))),
    ("shape", (("width", "Size in its frame, or thickness", "%", 5.0),
               ("soft", "How gently it ends", "% soft", 5.0))),
    ("lumps", (("lumps", "Amount of noise", "%", 5.0),
               ("grain", "How large blotches are", "% of it", 1.0))),
    ("fades", (("fades", "Erosion of later frames", "%", 10.0),
               ("seed", "Seed of the noise", "seed", 1.0))),
)  # fmt: skip
"""Label, and the fields of a recipe: path, words, unit, step."""


class TextureMaker(QWidget):
    """Paints a texture by a recipe, live.

    Signals
    -------
    made
        The name of a texture that was kept, and its recipe.
    """

    made = Signal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.recipe = Recipe()
        self._library: TextureLibrary | None = None
        self._source = ""
        self.fields: dict[str, NumberField] = {}
        column = column_of(self)
        self.outline, self.side = (
            ChoiceField(OUTLINES, "What it shows"),
            ChoiceField(SIDES, "Size of a frame"),
        )
        self.outline.edited.connect(lambda value, _final: self._change(outline=value))
        self.side.edited.connect(lambda value, _final: self._change(side=value))
        column.addWidget(labelled("paints", self.outline, self.side, width=60))
        for label, fields in ROWS:
            column.addWidget(labelled(label, *(self._field(*each) for each in fields), width=60))
        self._preview = _Preview()
        self.use, roll = Button(icon("check"), "Use it"), Button(icon("dice-five"), "New seed")
        self.use.setToolTip("Stores it among the textures and puts it on the layer")
        roll.setToolTip("Paints it with another seed")
        self.use.clicked.connect(self._keep)
        roll.clicked.connect(lambda: self._change(seed=(self.recipe.seed + 1) % 1_000_000))
        side = QWidget()
        side.setObjectName("panel")
        buttons = column_of(side)
        for widget in (soft("White, to be tinted by the layer's colour. Its recipe goes with it."), roll, self.use):
            buttons.addWidget(widget)
        buttons.addStretch(1)
        row = QHBoxLayout()
        row.addWidget(self._preview)
        row.addWidget(side, 1)
        column.addLayout(row)
        self._show()

    def _field(self, path: str, text: str, unit: str, step: float) -> NumberField:
        bounds = bounds_at(Recipe, path)
        factor = 1 if bounds.whole else 100
        field = NumberField(
            unit, low=bounds.low * factor, high=bounds.high * factor, step=step, decimals=0, name=text
        )
        field.edited.connect(partial(self._edited, path, factor, bounds.whole))
        self.fields[path] = field
        return field

    def _edited(self, path: str, factor: int, whole: bool, value: float, _final: bool) -> None:
        self._change(**{path: round(value) if whole else value / factor})

    def _change(self, **changes: object) -> None:
        self.recipe = self.recipe.evolve(**changes)
        self._show()

    def show_texture(self, name: str, library: TextureLibrary) -> None:
        """Take up the recipe of a texture, where it has one."""
        if (name, library) == (self._source, self._library):
            return
        self._source, self._library = name, library
        path = library.path(name) if name else None
        found = recipe_in(path) if path is not None else None
        if found is not None:
            self.recipe = found
        self._show()

    def _show(self) -> None:
        self.outline.set_value(self.recipe.outline)
        self.side.set_value(self.recipe.side)
        for path, field in self.fields.items():
            value = getattr(self.recipe, path)
            field.set_value(float(value) if isinstance(value, int) else round(value * 100, 4))
        self._preview.show_picture(painted(self.recipe))

    def _keep(self) -> None:
        if self._library is not None:
            name = self._library.store(Path(f"{self.recipe.outline}.png"), as_png(self.recipe))
            self._source = name
            self.made.emit(name, self.recipe)


class _Preview(QWidget):
    """What is painted, on a dark ground."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(PREVIEW, PREVIEW)
        self._image = QImage()

    def show_picture(self, pixels: NDArray[np.uint8]) -> None:
        self._image = image_of(pixels)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.fillRect(self.rect(), QColor(GROUND))
            room = QRectF(self.rect()).adjusted(3, 3, -3, -3)
            share = min(room.width() / max(self._image.width(), 1), room.height() / max(self._image.height(), 1))
            width, height = self._image.width() * share, self._image.height() * share
            middle = room.center()
            painter.drawImage(QRectF(middle.x() - width / 2, middle.y() - height / 2, width, height), self._image)
