"""How a layer is drawn: texture, sheet, blend, facing, soft edge."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.desktop.fields import Check, ChoiceField, NumberField, labelled
from wraithon.desktop.theme import BRICK, GROUND, LINE, text_font
from wraithon.errors import RenderError
from wraithon.picture.shipped import TextureShelf
from wraithon.project.look import Blend, Facing, SpriteLook

__all__ = ["LookEditor"]

THUMB = 22


class LookEditor(QWidget):
    """Edits a sprite look.

    Signals
    -------
    edited
        What changed in words, the look, and whether the gesture is over.
    """

    edited = Signal(str, object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._look = SpriteLook()
        self._shelf = TextureShelf(None)
        self._thumbs: dict[str, QIcon] = {}
        self._preview = _TexturePreview()
        self._texture = ChoiceField(name="Texture")
        self._texture.setIconSize(QSize(THUMB, THUMB))
        self._texture.chosen.connect(lambda v: self._change("Texture", True, texture=v))
        self._columns = NumberField(
            "wide", low=1, high=16, step=1, decimals=0, name="Frames side by side in the texture"
        )
        self._rows = NumberField(
            "high", low=1, high=16, step=1, decimals=0, name="Frames above each other in the texture"
        )
        self._columns.edited.connect(lambda v, f: self._sheet(f, columns=round(v)))
        self._rows.edited.connect(lambda v, f: self._sheet(f, rows=round(v)))
        self._blend = ChoiceField(
            (("alpha: covers", Blend.ALPHA), ("additive: adds light", Blend.ADDITIVE)), name="Blend"
        )
        self._blend.chosen.connect(lambda v: self._change("Blend", True, blend=v))
        self._facing = ChoiceField(
            (
                ("the camera", Facing.CAMERA),
                ("along its velocity", Facing.VELOCITY),
                ("along the skin's normal", Facing.NORMAL),
            ),
            name="What it faces",
        )
        self._facing.chosen.connect(lambda v: self._change("Facing", True, facing=v))
        self._stretch = NumberField(
            "ms", low=0, high=10_000, step=1, decimals=1, name="Lengthened by so much of its own way"
        )
        self._stretch.edited.connect(lambda v, f: self._change("Stretch", f, stretch=v / 1000))
        self._soft = NumberField(
            "cm", low=0, high=10_000, step=0.5, decimals=1, name="Fades this far before solid things"
        )
        self._soft.edited.connect(lambda v, f: self._change("Soft edge", f, soft=v / 100))
        side = QVBoxLayout()
        side.setSpacing(4)
        side.addWidget(labelled("texture", self._texture, width=60))
        side.addWidget(labelled("sheet", self._columns, self._rows, width=60))
        side.addWidget(labelled("blend", self._blend, width=60))
        top = QHBoxLayout()
        top.addWidget(self._preview, 0, Qt.AlignmentFlag.AlignTop)
        top.addLayout(side, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(top)
        layout.addWidget(labelled("faces", self._facing, width=60))
        self._stretch_row = labelled("stretch", self._stretch, width=60)
        layout.addWidget(self._stretch_row)
        layout.addWidget(labelled("soft edge", self._soft, width=60))
        self._lit = Check("dimmed like things in the storm's light")
        self._lit.setToolTip("For smoke and dust, which do not shine by themselves")
        self._lit.clicked.connect(lambda on: self._change("Lit", True, lit=on))
        layout.addWidget(self._lit)

    def show_look(self, look: SpriteLook, shelf: TextureShelf) -> None:
        """Show a look; nothing is signalled."""
        if shelf is not self._shelf:
            self._shelf = shelf
            self._thumbs = {}
        self._look = look
        names = shelf.names()
        missing = [look.texture] if look.texture and look.texture not in names else []
        choices = [("soft disc (built in)", ""), *((name, name) for name in names)]
        choices += [(f"{name} (missing)", name) for name in missing]
        self._texture.set_choices(choices)
        for k, (_, name) in enumerate(choices):
            if name and name not in missing:
                self._texture.setItemIcon(k, self._thumb(name))
        self._texture.set_value(look.texture)
        self._columns.set_value(look.sheet.columns)
        self._rows.set_value(look.sheet.rows)
        self._blend.set_value(look.blend)
        self._facing.set_value(look.facing)
        self._stretch.set_value(round(look.stretch * 1000, 3))
        self._stretch_row.setVisible(look.facing is Facing.VELOCITY)
        self._soft.set_value(round(look.soft * 100, 3))
        self._lit.setChecked(look.lit)
        self._preview.show_look(look, shelf)

    def _thumb(self, name: str) -> QIcon:
        if name not in self._thumbs:
            image = _image(self._shelf, name)
            pixmap = QPixmap(THUMB, THUMB)
            pixmap.fill(QColor(GROUND))
            if image is not None:
                painter = QPainter(pixmap)
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                painter.drawImage(QRectF(0, 0, THUMB, THUMB), image)
                painter.end()
            self._thumbs[name] = QIcon(pixmap)
        return self._thumbs[name]

    def _change(self, words: str, final: bool, **changes: object) -> None:
        self._look = self._look.but(**changes)
        self.edited.emit(words, self._look, final)

    def _sheet(self, final: bool, **changes: object) -> None:
        self._change("Sheet", final, sheet=self._look.sheet.but(**changes))


def _image(shelf: TextureShelf, name: str) -> QImage | None:
    try:
        pixels = shelf.read(name)
    except RenderError:
        return None
    high, wide = pixels.shape[:2]
    return QImage(pixels.tobytes(), wide, high, wide * 4, QImage.Format.Format_RGBA8888).copy()


class _TexturePreview(QWidget):
    """The texture on a dark ground, with the sheet's cuts."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(84, 84)
        self._look = SpriteLook()
        self._image: QImage | None = None
        self._key: tuple[object, str] | None = None

    def show_look(self, look: SpriteLook, shelf: TextureShelf) -> None:
        self._look = look
        if self._key != (shelf, look.texture):
            self._key = (shelf, look.texture)
            self._image = _image(shelf, look.texture) if look.texture else None
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(GROUND))
        box = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        if self._image is not None:
            painter.drawImage(box, self._image)
        elif self._look.texture:
            painter.setPen(QColor(BRICK))
            painter.setFont(text_font(11))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(box, flags, "missing or damaged")
        painter.setPen(QPen(QColor(LINE), 1))
        sheet = self._look.sheet
        for k in range(1, sheet.columns):
            x = box.left() + k * box.width() / sheet.columns
            painter.drawLine(int(x), int(box.top()), int(x), int(box.bottom()))
        for k in range(1, sheet.rows):
            y = box.top() + k * box.height() / sheet.rows
            painter.drawLine(int(box.left()), int(y), int(box.right()), int(y))
        painter.drawRect(box)
