"""Starting the window, with a display or without one."""

from __future__ import annotations

import gc
import logging
import os
import signal
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wraithon.support.errors import RenderError
from wraithon.support.preferences import load_preferences

if TYPE_CHECKING:
    from wraithon.desktop.catching import Catcher
    from wraithon.desktop.window import Window
    from wraithon.stage.loading import Loaded
    from wraithon.support.preferences import Preferences


log = logging.getLogger(__name__)

UNWRITTEN = 3
"""What the program ends with when a picture of the window could not be written."""

OFTEN = 700
"""New things after which to look for what nothing uses: a little at a time makes no pauses."""


def has_display() -> bool:
    """Return whether a window could be seen."""
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if chosen:
        return not chosen.startswith(("offscreen", "minimal"))
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def run(path: Path | None, picture: Path | None = None) -> int:
    """Open the window and run until it is closed; return the exit code.

    Parameters
    ----------
    path
        A project folder or a character file; None begins with nothing.
    picture
        Play for a moment, save a picture of the window here, and quit.

    Raises
    ------
    wraithon.support.errors.WraithonError
        When the project cannot be opened, or the picture not written.
    """
    began = time.perf_counter() - time.process_time()  # what importing took was mostly processor time
    gc.disable()  # nothing made while starting is garbage
    if not has_display():
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    prefer(load_preferences())
    # The engine thread and the window share the interpreter: hand it over often.
    sys.setswitchinterval(0.0001)
    from PySide6.QtCore import QEvent, QTimer
    from PySide6.QtWidgets import QApplication

    from wraithon.demo import DEMO_FOLDER
    from wraithon.desktop.catching import crashed_before, stop_watching, watch_for_crashes
    from wraithon.desktop.engine.engine import Engine
    from wraithon.stage.loading import load

    crash_reported, crash_log = crashed_before(), watch_for_crashes()
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)  # a core application would not do
    app.setApplicationName("Wraithon")
    app.setDesktopFileName("wraithon")
    app.setWindowIcon(_icon())
    loaded = load(path) if path is not None else None
    save_folder = loaded.folder if loaded and path != DEMO_FOLDER else None
    # Kernels are fetched from their cache on the engine's thread while the window is imported and built.
    engine = Engine(prepare(loaded if path == DEMO_FOLDER else None))
    engine.start()
    from wraithon.desktop.theme.theme import apply_theme
    from wraithon.desktop.window import Window

    apply_theme(app)
    window = Window(loaded, save_folder, str(path or ""), engine)
    catcher = _catching(window, crash_reported)
    window.began = began
    if not has_display():
        # No window manager would place it: give it the size the layout is made for.
        window.resize(1280, 800)
    window.show()
    _settle()
    log.info("window shown after %.2f s", time.perf_counter() - began)
    # Python must get a turn now and then for Ctrl+C to be heard.
    signal.signal(signal.SIGINT, lambda *_: app.exit(130))
    ticker = QTimer()
    ticker.start(300)
    ticker.timeout.connect(lambda: None)
    if picture is not None:
        _take_picture(window, app, picture)
    elif path == DEMO_FOLDER:
        window.set_playing(True)
    code = app.exec()
    window.shut()
    catcher.remove()
    # While there is still a program to be taken down in: the interpreter's own end comes in any order.
    window.deleteLater()
    app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    stop_watching(crash_log)
    if code == UNWRITTEN:
        raise RenderError(f"{picture}: cannot be written; name a .png in a folder that can be")
    return code


def prefer(preferences: Preferences) -> None:
    """Set what has to be set before anything is loaded: size and threads; what the environment says goes before."""
    if preferences.size != 100:
        os.environ.setdefault("QT_SCALE_FACTOR", str(preferences.size / 100))
    if preferences.threads:
        os.environ.setdefault("NUMBA_NUM_THREADS", str(min(preferences.threads, os.cpu_count() or 1)))


def _settle() -> None:
    """Leave alone what was made so far: it stays, and collecting it again and again would only make pauses."""
    gc.freeze()
    gc.set_threshold(OFTEN)
    gc.enable()


def _catching(window: Window, crashed: str) -> Catcher:
    """Tell a window's faults in it, and where it is written how the program crashed before."""
    from wraithon.desktop.catching import Catcher

    catcher = Catcher(window)
    catcher.fault_found.connect(window.report_fault)
    catcher.install()
    if crashed:
        window.report_fault(f"Wraithon crashed the last time; how is written in {crashed}")
    return catcher


def prepare(demo: Loaded | None = None) -> Callable[[], Iterator[str]]:
    """Return the engine's first task: fetch or compile all kernels, stage by stage.

    `demo` is the demo, when it has been read already.
    """

    def task() -> Iterator[str]:
        from wraithon.demo.warm import warm_up
        from wraithon.desktop.engine.spare import give_back
        from wraithon.ground.ground import forget_stones

        yield from warm_up(demo)
        forget_stones()
        give_back()

    return task


def _icon() -> Any:
    from PySide6.QtGui import QIcon

    return QIcon(str(Path(__file__).parent / "theme" / "icons" / "wraithon.svg"))


def _saved(window: Window, picture: Path) -> bool:
    """Save what a window shows; return whether that worked."""
    try:
        picture.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        log.warning("%s: %s", picture, error)
        return False
    return window.grab().save(str(picture))


def _take_picture(window: object, app: object, picture: Path) -> None:
    """Play to a telling moment, then save what the window shows, and quit."""
    from PySide6.QtCore import QTimer

    from wraithon.desktop.window import Window

    assert isinstance(window, Window)
    state = {"playing": False, "since": time.perf_counter()}

    def look() -> None:
        rendered = window.picture.rendered
        late = time.perf_counter() - state["since"] > 300
        if rendered is None and not late:
            return
        if not state["playing"]:
            state["playing"] = True
            window.set_playing(True)
        elif window.playing and not late:
            if rendered is not None and rendered.time >= 2.95:
                window.set_playing(False)  # a paused picture is drawn in full
        elif late or (rendered is not None and not rendered.playing):
            timer.stop()
            app.exit(0 if _saved(window, picture) else UNWRITTEN)  # type: ignore[attr-defined]

    timer = QTimer(window)
    timer.timeout.connect(look)
    timer.start(30)
