"""The look: a warm dark room with a kingfisher's colours."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path

from PySide6.QtCore import QStandardPaths, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PySide6.QtWidgets import QApplication, QTreeWidgetItem

__all__ = [
    "BRICK",
    "GROUND",
    "INK",
    "LINE",
    "MOSS",
    "OCHRE",
    "PANEL",
    "RAISED",
    "ROW",
    "RUST",
    "SOFT",
    "TEAL",
]
__all__ += ["apply_theme", "figures_font", "icon", "put_icon", "text_font"]

GROUND, PANEL, RAISED, LINE = "#1f1a22", "#282129", "#332a35", "#4a3f4c"
INK, SOFT = "#f0e8dc", "#b9abb6"
TEAL, RUST, MOSS, OCHRE, BRICK = "#39b5a6", "#e07a4f", "#9dbb5c", "#e3b04b", "#d9534a"
ROW = 26
FONTS = Path(__file__).parent / "fonts"

SHEET = f"""
* {{ font-family: "Figtree"; font-size: 13px; color: {INK}; }}
QWidget {{ background: {GROUND}; }}
QToolTip {{ background: {RAISED}; color: {INK}; border: 1px solid {LINE}; padding: 4px; }}
QWidget#panel, QWidget#panel QLabel, QWidget#panel QCheckBox {{ background: {PANEL}; }}
QScrollArea, QScrollArea > QWidget > QWidget {{ background: {PANEL}; border: none; }}
QLabel#title {{ font-size: 15px; font-weight: 600; }}
QLabel#heading {{ font-weight: 600; padding-top: 2px; }}
QLabel {{ background: transparent; }}
QLabel#soft {{ color: {SOFT}; }}
QLabel#warning {{ color: {OCHRE}; }}
QLabel#error {{ color: #f08a80; }}
QFrame#line {{ background: {LINE}; max-height: 1px; min-height: 1px; border: none; }}
QPushButton {{ background: {RAISED}; border: 1px solid {LINE}; border-radius: 4px;
  padding: 3px 10px; min-height: 18px; }}
QPushButton:hover {{ border-color: {SOFT}; }}
QPushButton:pressed {{ background: {LINE}; }}
QPushButton:focus {{ border-color: {TEAL}; }}
QPushButton:disabled {{ color: #85788a; background: {PANEL}; }}
QPushButton:checked {{ background: #27544f; border-color: {TEAL}; }}
QPushButton#plain {{ background: transparent; border: 1px solid transparent; padding: 2px; min-height: 16px; }}
QPushButton#plain:hover {{ background: {RAISED}; }}
QPushButton#plain:focus {{ border-color: {TEAL}; }}
QPushButton#plain:checked {{ background: #27544f; }}
QLineEdit, QComboBox {{ background: {RAISED}; border: 1px solid {LINE}; border-radius: 4px; padding: 1px 6px;
  min-height: 20px; selection-background-color: {TEAL}; selection-color: {GROUND}; }}
QLineEdit:focus, QComboBox:focus {{ border-color: {TEAL}; }}
QLineEdit:disabled, QComboBox:disabled {{ color: #85788a; background: {PANEL}; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox::down-arrow {{ image: url("{{arrow}}"); width: 10px; height: 10px; }}
QComboBox QAbstractItemView {{ background: {RAISED}; border: 1px solid {LINE}; outline: none;
  selection-background-color: #27544f; selection-color: {INK}; }}
QCheckBox {{ spacing: 6px; }}
QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {SOFT}; border-radius: 3px;
  background: {RAISED}; }}
QCheckBox::indicator:checked {{ background: {TEAL}; border-color: {TEAL}; image: url("{{tick}}"); }}
QCheckBox:focus {{ color: {TEAL}; }}
QTreeWidget, QListWidget {{ background: {PANEL}; border: none; outline: none; }}
QTreeWidget::item, QListWidget::item {{ height: {ROW}px; border: none; padding-left: 2px; }}
QTreeWidget::item:hover, QListWidget::item:hover {{ background: {RAISED}; }}
QTreeWidget::item:selected, QListWidget::item:selected {{ background: #27544f; color: {INK}; }}
QTreeWidget::branch {{ background: {PANEL}; }}
QScrollBar:vertical {{ background: {PANEL}; width: 10px; margin: 0; }}
QScrollBar:horizontal {{ background: {PANEL}; height: 10px; margin: 0; }}
QScrollBar::handle {{ background: {LINE}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
QScrollBar::handle:hover {{ background: #65566a; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page,
  QScrollBar::sub-page {{ background: none; height: 0; width: 0; }}
QMenu {{ background: {RAISED}; border: 1px solid {LINE}; padding: 4px; }}
QMenu::item {{ padding: 4px 24px 4px 12px; border-radius: 3px; background: transparent; }}
QMenu::item:selected {{ background: #27544f; }}
QMenu::item:disabled {{ color: #85788a; }}
QMenu::separator {{ height: 1px; background: {LINE}; margin: 4px 6px; }}
QSplitter::handle {{ background: {GROUND}; }}
QSplitter::handle:hover {{ background: {TEAL}; }}
QProgressBar {{ background: {RAISED}; border: none; border-radius: 3px; height: 6px; text-align: center; }}
QProgressBar::chunk {{ background: {TEAL}; border-radius: 3px; }}
"""


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
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
    font = QFont(family)
    font.setPixelSize(round(size * 0.88))
    painter.setFont(font)
    painter.setPen(QColor(colour))
    painter.drawText(pixmap.rect(), Qt.AlignmentFlag.AlignCenter, chr(int(codes[name], 16)))
    painter.end()
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


def put_icon(item: QTreeWidgetItem, made: QIcon, column: int = 0) -> None:
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
    font = QFont("Figtree")
    font.setPixelSize(size)
    font.setWeight(weight)
    return font


def figures_font(size: int = 12) -> QFont:
    """Return the font for figures, in pixels."""
    font = QFont("JetBrains Mono")
    font.setPixelSize(size)
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
    style = SHEET.replace("{arrow}", _picture("caret-down", SOFT)).replace("{tick}", _picture("check-bold", GROUND))
    app.setStyleSheet(style)
