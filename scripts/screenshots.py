"""Takes the pictures in docs/screenshots from the demo project, each from the real window, drawn unseen."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QPoint, Qt  # after the platform is chosen
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.app import prepare
from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.theme.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.project.edit import play_only, with_layer
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
            rendered = self._window.picture.rendered
            if rendered is not None and rendered.exact and round(rendered.time * rate) == round(moment * rate):
                break
            time.sleep(0.005)
        until = time.perf_counter() + 0.4
        while time.perf_counter() < until:
            self._app.processEvents()
            time.sleep(0.005)

    def wait_for(self, there: Callable[[], bool]) -> None:
        """Wait until something is there."""
        end = time.perf_counter() + LONGEST
        while not there() and time.perf_counter() < end:
            self._app.processEvents()
            time.sleep(0.005)

    def take(self, name: str) -> None:
        """Save what the window shows."""
        self.take_of(self._window, name)

    def take_of(self, widget: QWidget, name: str) -> None:
        """Save what a widget shows."""
        OUT.mkdir(parents=True, exist_ok=True)
        widget.grab().save(str(OUT / f"{name}.png"))
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
    window.auditioning.on = False
    window.station("effects")
    session.select("layer", "stamp-sparks")
    window.sheet("effects").life.pick("size")
    for moment in (2.9, 2.95):  # the first picture of all reads textures: its figures are not usual ones
        camera.settle(moment)
    camera.take("effects")
    window.sheet("effects").life.pick("colour")
    session.select("layer", "plume-feathers")
    camera.settle(1.3)
    camera.take("effects-colour")
    window.sheet("effects").life.pick("colour")
    camera.settle(1.4)
    window.sheet("effects").scroll_to(window.sheet("effects").source)
    camera.settle(1.4)
    camera.take("effects-source")
    looks(camera, window)
    making(camera, window)
    window.station("triggers")
    session.select("trigger", "on-strike")
    camera.settle(2.84)
    camera.take("triggers")
    session.select("mark", "strike-strike")
    camera.settle(2.5)
    camera.take("event")
    character_station(camera, window)
    fairness(camera, window)
    rehearsing(camera, window)
    session.history.mark_saved()
    window.shut()


def rehearsing(camera: Photographer, window: Window) -> None:
    """Take the picture of the dancer driven over the moss."""
    window.picture.look_from(205, 15)
    window.picture.near(1.25)
    window.station("rehearse")
    camera.wait_for(lambda: window.picture.rendered is not None and window.picture.rendered.driven)
    window.engine.give("steer", -0.72, 0.7, fast=False)
    camera.wait_for(lambda: window.picture.rendered is not None and window.picture.rendered.centre[2] > 1.9)
    window.set_playing(False)
    camera.wait_for(lambda: window.picture.rendered is not None and not window.picture.rendered.playing)
    camera.take("rehearse")


def looks(camera: Photographer, window: Window) -> None:
    """Take the pictures of a shell with its fields, and of a texture that is made."""
    sheet = window.sheet("effects")
    window.session.select("layer", "veil-outer")
    camera.settle(2.55)
    sheet.scroll_to(sheet.look)
    camera.settle(2.55)
    camera.take("effects-shell")
    window.session.select("layer", "stamp-shock")
    sheet.look.make.click()
    camera.settle(2.9)
    sheet.scroll_to(sheet.look.maker)
    camera.settle(2.9)
    camera.take("texture-maker")
    sheet.look.make.click()


def making(camera: Photographer, window: Window) -> None:
    """Take the pictures of an effect's mixer with its cost, of the presets, and of comparing."""
    session, sheet, index = window.session, window.sheet("effects"), window.index("effects")
    session.select("effect", "thunder-stamp")
    camera.settle(2.9)
    window.measure_cost()
    camera.wait_for(lambda: bool(sheet.cost.parts))
    camera.wait_for(lambda: len(sheet.mixer.pictures) >= len(session.project.effect("thunder-stamp").layers))
    camera.settle(2.95)
    camera.take("effects-mixer")
    library = index.presets
    library.open_at(QPoint(0, 0))
    camera.wait_for(lambda: library.pictured >= library.listed.count())
    camera.take_of(library, "presets")
    library.hide()
    window.keep_picture()
    before = session.project
    session.select("layer", "stamp-sparks")
    session.set_value("layer", "stamp-sparks", "size.birth.high", 0.06, "Size")
    session.set_value("layer", "stamp-sparks", "emission.rate", 400.0, "Rate")
    camera.settle(2.95)
    window.compare()
    camera.settle(2.95)
    camera.take("comparing")
    window.picture.comparing.clear()
    window.transport.show_message("", "fine")
    session.edit("Back", lambda _project: before)


def character_station(camera: Photographer, window: Window) -> None:
    """Take the Character station's pictures: weights, a clip, an anchor, a mask, the dissolve."""
    session = window.session
    window.station("character")
    session.select("anchor", "right-fan-tip")
    camera.settle(1.2)
    camera.take("anchor")
    session.select("joint", "left forearm")
    camera.settle(1.3)
    camera.take("weights")
    session.select("clip", "walk")
    camera.settle(1.3)
    camera.take("clip")
    window.index("character").add_mask()
    camera.settle(0.0)
    picture, index = window.picture, session.character.skeleton.index
    positions = picture.project(picture.rendered.joints)
    for name in ("head", "chest", "left upper arm"):
        start = QPoint(int(positions[index[name], 0]), int(positions[index[name], 1]))
        QTest.mousePress(picture, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
        for k in range(12):
            QTest.mouseMove(picture, start + QPoint(k * 2, k * 4))
            QApplication.processEvents()
        QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    camera.settle(0.0)
    camera.take("mask")
    session.edit("Play fall", lambda p: play_only(p, "fall"))
    session.select("", "")
    camera.settle(1.25)
    camera.take("character")


def fairness(camera: Photographer, window: Window) -> None:
    """Take the pictures of how births fall, and of the joint table."""
    session, source = window.session, window.sheet("effects").source
    session.edit("Play walk", lambda p: play_only(p, "walk"))
    window.station("effects")
    session.select("layer", "plume-glints")
    source.density.setChecked(True)
    for mode in ("surface", "vertices"):
        found = session.project.layer("plume-glints")
        changed = found[1].evolve(source=found[1].source.evolve(mode=mode))
        session.edit("Mode", lambda p, found=found, changed=changed: with_layer(p, found[0].id, changed))
        camera.settle(1.4)
        window.sheet("effects").scroll_to(source.table)
        camera.settle(1.4)
        camera.take(f"density-{mode}")
    source.density.setChecked(False)
    source.table.fill("head and hands")
    source.table.pick.setChecked(True)
    window.sheet("effects").scroll_to(source.filters)
    camera.settle(1.4)
    camera.take("joint-table")


if __name__ == "__main__":
    main()
