"""What the window remembers from one time to the next: where its panels and it were."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QSettings

from wraithon.support.places import config_folder

if TYPE_CHECKING:
    from PySide6.QtWidgets import QSplitter, QWidget


def _settings() -> QSettings:
    return QSettings(str(config_folder() / "window.ini"), QSettings.Format.IniFormat)


def remember(window: QWidget, **splitters: QSplitter) -> None:
    """Keep where a window and its splitters are."""
    settings = _settings()
    settings.setValue("geometry", window.saveGeometry())
    for key, splitter in splitters.items():
        settings.setValue(key, splitter.saveState())


def keep_folds(*, index: bool, timeline: bool) -> None:
    """Keep whether index and timeline are folded."""
    settings = _settings()
    settings.setValue("index folded", int(index))
    settings.setValue("timeline folded", int(timeline))


def folds() -> tuple[bool, bool]:
    """Return whether index and timeline were folded."""
    settings = _settings()
    return tuple(str(settings.value(f"{key} folded", 0)) == "1" for key in ("index", "timeline"))  # type: ignore[return-value]


def store_value(key: str, value: object) -> None:
    """Keep a value for the next time."""
    _settings().setValue(key, value)


def stored_value(key: str, otherwise: float | str) -> float | str:
    """Return a value that was kept, where it is of the kind of another; else that."""
    value = _settings().value(key, otherwise)
    try:
        return type(otherwise)(value)
    except (TypeError, ValueError):
        return otherwise


def restore(window: QWidget, **splitters: QSplitter) -> None:
    """Put a window and its splitters where they were, as far as that is known."""
    settings = _settings()
    for key, restore in (("geometry", window.restoreGeometry), *((k, s.restoreState) for k, s in splitters.items())):
        value = settings.value(key)
        if isinstance(value, QByteArray):
            restore(value)
