"""The rows that all looks share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap

from wraithon.desktop.theme.colours import GROUND
from wraithon.desktop.widgets.basics import image_of
from wraithon.desktop.widgets.form import Choice, Number, Row, Tick
from wraithon.desktop.widgets.offers import textures_or
from wraithon.project.life import Curve, Gradient
from wraithon.project.look import Blend
from wraithon.support.errors import RenderError

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.picture.shipped import TextureLibrary


THUMB = 22
_thumbs: dict[tuple[TextureLibrary, str], QIcon] = {}


def texture_image(library: TextureLibrary, name: str) -> QImage | None:
    """Return a texture as an image, or None when it cannot be read."""
    try:
        return image_of(library.read(name))
    except RenderError:
        return None


def _thumb(session: Session, name: object) -> QIcon | None:
    """Return a small picture of a texture; one shelf's are kept."""
    library = session.library
    if not isinstance(name, str) or not name:
        return None
    if not _thumbs or next(iter(_thumbs))[0] is not library:
        _thumbs.clear()
    if (library, name) not in _thumbs:
        image = texture_image(library, name)
        pixmap = QPixmap(THUMB, THUMB)
        pixmap.fill(QColor(GROUND))
        if image is not None:
            with QPainter(pixmap) as painter:
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                painter.drawImage(QRectF(0, 0, THUMB, THUMB), image)
        _thumbs[library, name] = QIcon(pixmap)
    return _thumbs[library, name]


def texture_row() -> Row:
    """Return the row that picks a texture."""
    return Row(
        "texture", Choice("texture", choices=textures_or("soft disc (built in)"), icons=_thumb)
    )  # fmt: skip


BLEND = Row(
    "blend",
    Choice(
        "blend",
        choices=(
            ("alpha: covers", Blend.ALPHA),
            ("additive: adds light", Blend.ADDITIVE),
            ("multiply: darkens", Blend.MULTIPLY),
        ),
    ),
)
FILM_BLEND = Row(
    "blend",
    Choice("blend", choices=(("additive: adds light", Blend.ADDITIVE), ("alpha: covers", Blend.ALPHA))),
)
"""For films, which do not darken."""
SOFT_EDGE = Row(
    "soft edge",
    Number("soft"),
)
FULL = Curve.through((0, 1), (1, 1))
WHITE = Gradient.through((0, (1, 1, 1)), (1, (1, 1, 1)))


def film_row() -> Row:
    """Return the row of what is seen of a film, face on and from the side."""
    return Row(
        "front",
        Number("fill"),
        Number("rim", lead="rim"),
    )


LIT = Row(
    "",
    Tick(
        "lit",
        "Lit by the stage, for smoke and dust that do not glow",
        text="lit by the stage",
        undo="Lit",
    ),
)
