"""How a layer is drawn: the kind of look, its form, and a preview of its texture."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.effects.looks import called, rows_of
from wraithon.desktop.effects.looks.common import THUMB, texture_image
from wraithon.desktop.session.pictures import TEXTURED
from wraithon.desktop.theme.colours import BRICK, GROUND, LINE
from wraithon.desktop.theme.theme import icon, text_font
from wraithon.desktop.widgets.basics import Button, column_of
from wraithon.desktop.widgets.form import Form, KindChoice
from wraithon.desktop.widgets.on_demand import OnDemand
from wraithon.project.edit import with_layer
from wraithon.project.look import LOOKS, SheetPlay, SpriteLook
from wraithon.studio.beginning import begun_again, is_as_begun

if TYPE_CHECKING:
    from wraithon.desktop.effects.texture_maker import TextureMaker
    from wraithon.desktop.session.session import Session
    from wraithon.picture.making.recipe import Recipe
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.effect import Layer
    from wraithon.project.look import Look


BESIDE = 3
"""Rows that stand beside the preview."""


class LookChoice(KindChoice):
    """Picks a layer's look; to a layer that was not changed yet it brings what it is made for, too."""

    def _picked(self, kind: str, final: bool) -> None:
        found = self._session.project.layer(self._what)
        if found is None or kind == self._model.kind or not is_as_begun(found[1]):
            super()._picked(kind, final)
            return
        effect, layer = found
        begun = begun_again(self._session.project, layer, kind)
        self._session.edit(self._undo, lambda p: with_layer(p, effect.id, begun))


class LookEditor(QWidget):
    """Edits a layer's look."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = column_of(self)
        choices = [(called(kind), kind) for kind in LOOKS]
        self.kind = LookChoice(session, "layer", "look", LOOKS, choices, "How particles are drawn", "Look")
        column.addWidget(self.kind)
        self._preview = _TexturePreview()
        row = QHBoxLayout()
        row.addWidget(self._preview, 0, Qt.AlignmentFlag.AlignTop)
        column.addLayout(row)
        self.make = Button(icon("paint-brush"), "Make a texture")
        self.make.setCheckable(True)
        self.make.setToolTip("Paint a texture for the layer: smoke, glows, rings, sparks, blots, and sheets of them")
        self.make.toggled.connect(self._make_toggled)
        self.maker: TextureMaker | None = None
        self._look: Look = SpriteLook()
        self._layer = ""
        self.forms = OnDemand(self._forms_of)
        """Kind to the form beside the preview and the one below it."""
        column.addWidget(self.make)
        self._row, self._column = row, column

    def _forms_of(self, kind: str) -> tuple[Form, Form]:
        """Return the forms of a kind of look, unseen."""
        rows, model = rows_of(kind), LOOKS[kind]
        beside, below = (Form(self._session, "layer", "look", model, part) for part in (rows[:BESIDE], rows[BESIDE:]))
        if "texture" in beside.widgets:
            beside.widgets["texture"].setIconSize(QSize(THUMB, THUMB))
        for form in (beside, below):
            form.hide()
        self._row.addWidget(beside, 1)
        self._column.insertWidget(self._column.indexOf(self.make), below)
        return beside, below

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's look; nothing is edited."""
        self.kind.show_model(layer.look, layer.id)
        shown = self.forms[layer.look.kind]
        for kind, forms in self.forms.items():
            for form in forms:
                form.setVisible(kind == layer.look.kind)
                if kind == layer.look.kind:
                    form.show_model(layer.look, layer.id)
        self._preview.setVisible("texture" in shown[0].widgets)
        self._preview.show_look(layer.look, self._session.library)
        self._look, self._layer = layer.look, layer.id
        textured = layer.look.kind in TEXTURED
        self.make.setVisible(textured)
        if self.maker is not None:
            making = textured and self.make.isChecked()
            self.maker.setVisible(making)
            if making:
                self.maker.show_texture(layer.look.texture, self._session.library)

    def _make_toggled(self, on: bool) -> None:
        if self.maker is None:
            from wraithon.desktop.effects.texture_maker import TextureMaker  # what it paints with takes long to load

            self.maker = TextureMaker()
            self.maker.made.connect(self._made)
            self._column.addWidget(self.maker)
        self.maker.setVisible(on)
        self.maker.show_texture(self._look.texture, self._session.library)

    def _made(self, name: str, recipe: Recipe) -> None:
        """Draw the layer with a texture that was made."""
        position, look = TEXTURED[self._look.kind], self._look
        if isinstance(look, SpriteLook):
            sheet = look.sheet.evolve(columns=recipe.columns, rows=recipe.rows)
            if recipe.fades:  # it is meant to be gone through
                sheet = sheet.evolve(play=SheetPlay.LIFE, blended=True)
            self._session.set_value(
                "layer", self._layer, "look", look.evolve(texture=name, sheet=sheet), f"Texture {name}"
            )
        else:
            self._session.set_value("layer", self._layer, position, name, f"Texture {name}")


class _TexturePreview(QWidget):
    """The texture on a dark ground, with the sheet's cuts."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(84, 84)
        self._look: Look = SpriteLook()
        self._image: QImage | None = None
        self._key: tuple[object, str] | None = None

    def show_look(self, look: Look, library: TextureLibrary) -> None:
        self._look = look
        if self._key != (library, look.texture):
            self._key = (library, look.texture)
            self._image = texture_image(library, look.texture) if look.texture else None
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
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
            if not isinstance(self._look, SpriteLook):
                painter.drawRect(box)
                return
            sheet = self._look.sheet
            for k in range(1, sheet.columns):
                x = box.left() + k * box.width() / sheet.columns
                painter.drawLine(int(x), int(box.top()), int(x), int(box.bottom()))
            for k in range(1, sheet.rows):
                y = box.top() + k * box.height() / sheet.rows
                painter.drawLine(int(box.left()), int(y), int(box.right()), int(y))
            painter.drawRect(box)
