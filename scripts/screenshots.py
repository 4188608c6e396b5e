"""Takes the pictures in docs/screenshots from the demo project, each from the real window, drawn unseen."""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication  # after the platform is chosen

from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.app import prepare
from wraithon.desktop.engine import Engine
from wraithon.desktop.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.stage.loading import load

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
LONGEST = 120.0


class Photographer:
    """Drives the window to a moment and takes its picture."""

    def __init__(self, app: QApplication, window: Window) -> None:
        self._app, self._window = app, window

    def settle(self, moment: float) -> None:
        """Go to a moment of the show and wait until its picture is there."""
        self._window.seek(moment)
        end = time.perf_counter() + LONGEST
        rate = self._window.session.project.step_rate
        while time.perf_counter() < end:
            self._app.processEvents()
            shot = self._window.picture.shot
            if shot is not None and shot.exact and round(shot.time * rate) == round(moment * rate):
                break
            time.sleep(0.005)
        until = time.perf_counter() + 0.4
        while time.perf_counter() < until:
            self._app.processEvents()
            time.sleep(0.005)

    def take(self, name: str) -> None:
        """Save what the window shows."""
        OUT.mkdir(parents=True, exist_ok=True)
        self._window.grab().save(str(OUT / f"{name}.png"))
        sys.stdout.write(f"{OUT / name}.png\n")


def main() -> None:
    """Take one picture of each main view."""
    app = QApplication(sys.argv[:1])
    apply_theme(app)
    window = Window(load(DEMO_FOLDER), None, "screenshots", Engine(prepare()))
    window.resize(1280, 800)
    window.show()
    camera = Photographer(app, window)
    session = window.session
    window.station("effects")
    session.select("layer", "stamp-sparks")
    window.effects_sheet.life.pick("size")
    camera.settle(2.95)
    camera.take("effects")
    window.effects_sheet.life.pick("colour")
    session.select("layer", "plume-feathers")
    camera.settle(1.3)
    camera.take("effects-colour")
    window.effects_sheet.life.pick("colour")
    window.effects_sheet.scroll_to(window.effects_sheet.source)
    camera.settle(1.4)
    camera.take("effects-source")
    window.station("triggers")
    session.select("trigger", "on-strike")
    camera.settle(2.84)
    camera.take("triggers")
    session.select("mark", "strike-strike")
    camera.settle(2.5)
    camera.take("event")
    window.station("character")
    session.select("", "")
    camera.settle(5.1)
    camera.take("character")
    session.select("anchor", "right-fan-tip")
    camera.settle(1.2)
    camera.take("anchor")
    window.shut()


if __name__ == "__main__":
    main()
