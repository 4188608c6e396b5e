"""The look: a warm dark room with a kingfisher's colours."""

from __future__ import annotations

import json
import re
from functools import cache, lru_cache
from importlib.util import find_spec
from pathlib import Path

from PySide6.QtCore import QStandardPaths, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PySide6.QtWidgets import QApplication, QTreeWidgetItem

from wraithon.desktop.theme import colours
from wraithon.desktop.theme.colours import GROUND, INK, PANEL, RAISED, SOFT, TEAL

FONTS = Path(__file__).parent / "fonts"


@lru_cache(maxsize=1)
def _glyphs() -> tuple[str, dict[str, str]]:
    """Return the icon font's family, and each icon's code point by name.

    The set is Phosphor, as qtawesome brings it along. Its files are read without importing the package,
    which would load half of Qt a second time at start.
    """
    package = find_spec("qtawesome")
    assert package is not None
    assert package.submodule_search_locations is not None
    folder = Path(package.submodule_search_locations[0]) / "fonts"
    number = QFontDatabase.addApplicationFont(str(next(folder.glob("phosphor-[0-9]*.ttf"))))
    codes = json.loads(next(folder.glob("phosphor-charmap*.json")).read_text())
    return QFontDatabase.applicationFontFamilies(number)[0], codes


def _glyph(name: str, colour: str, size: int = 48) -> QPixmap:
    family, codes = _glyphs()
    pixmap = QPixmap(size, size)
    pixmap.fill(QColor(0, 0, 0, 0))
    with QPainter(pixmap) as painter:
        painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        font = QFont(family)
        font.setPixelSize(round(size * 0.88))
        painter.setFont(font)
        painter.setPen(QColor(colour))
        painter.drawText(pixmap.rect(), Qt.AlignmentFlag.AlignCenter, chr(int(codes[name], 16)))
    return pixmap


@lru_cache(maxsize=256)
def icon(name: str, colour: str = SOFT, active: str = INK) -> QIcon:
    """Return an icon of the one icon set the program uses.

    Raises
    ------
    KeyError
        When the set has no icon of that name.
    """
    made = QIcon(_glyph(name, colour))
    made.addPixmap(_glyph(name, active), QIcon.Mode.Active)
    made.addPixmap(_glyph(name, active), QIcon.Mode.Selected)
    made.addPixmap(_glyph(name, "#65566a"), QIcon.Mode.Disabled)
    return made


def set_icon(item: QTreeWidgetItem, made: QIcon, column: int = 0) -> None:
    """Give a row of an index an icon, unless it has it: the list paints anew with every change."""
    if item.icon(column).cacheKey() != made.cacheKey():
        item.setIcon(column, made)


def _picture(name: str, colour: str) -> str:
    """Write a small icon for the style sheet, which can only name files; return its path."""
    folder = Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.TempLocation))
    path = folder / f"wraithon-{name}-{colour.strip('#')}.png"
    _glyph(name, colour, 24).save(str(path))
    return path.as_posix()


def text_font(size: int = 13, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Return the font for words, in pixels."""
    return QFont(_font("Figtree", size, weight))


def figures_font(size: int = 12) -> QFont:
    """Return the font for figures, in pixels."""
    return QFont(_font("JetBrains Mono", size, QFont.Weight.Normal))


@cache
def _font(family: str, size: int, weight: QFont.Weight) -> QFont:
    """Return a font that others are made of: what has been found out about it once is theirs, too."""
    font = QFont(family)
    font.setPixelSize(size)
    font.setWeight(weight)
    return font


def apply_theme(app: QApplication) -> None:
    """Load the fonts and dress the application."""
    for path in sorted(FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))
    app.setStyle("Fusion")
    app.setFont(text_font())
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, GROUND),
        (roles.Base, PANEL),
        (roles.AlternateBase, PANEL),
        (roles.Button, RAISED),
        (roles.WindowText, INK),
        (roles.Text, INK),
        (roles.ButtonText, INK),
        (roles.Highlight, TEAL),
        (roles.HighlightedText, GROUND),
        (roles.PlaceholderText, SOFT),
        (roles.ToolTipBase, RAISED),
        (roles.ToolTipText, INK),
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)
    app.setStyleSheet(_style())


def _style() -> str:
    """Return the style sheet with the tokens of the look put in."""
    names = {"arrow": _picture("caret-down", SOFT), "tick": _picture("check-bold", GROUND)}
    names |= {name.lower(): str(getattr(colours, name)) for name in colours.__all__}
    text = (FONTS.parent / "style.qss").read_text()
    return re.sub("@(" + "|".join(names) + ")", lambda match: names[match[1]], text)
