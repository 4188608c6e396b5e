"""Gives the real window many random events: clicks, drags, wheels, keys, typed text, dropped files, stages, undo.

It tells faults, crashes, the longest events, and memory; and now and then it pauses and replays the kept inputs of
the show in a player of its own, whose digest must be the same. Run as
`QT_QPA_PLATFORM=offscreen .venv/bin/python scripts/random_hands.py [EVENTS] [SEED]`.
"""

from __future__ import annotations

import faulthandler
import os
import random
import shutil
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from PySide6.QtCore import QEventLoop, QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QFileDialog, QMenu, QWidget
from shiboken6 import isValid
from tests.glb_maker import skinned_strip

from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.catching import Catcher
from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.stations import STATIONS
from wraithon.desktop.theme.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.stage.loading import load
from wraithon.stage.player import Player

HOME = Path(tempfile.mkdtemp(prefix="hands-"))
KEY = Qt.Key
KEYS = [
    KEY.Key_W, KEY.Key_A, KEY.Key_S, KEY.Key_D, KEY.Key_Space, KEY.Key_Left, KEY.Key_Right, KEY.Key_Up, KEY.Key_Down,
    KEY.Key_Tab, KEY.Key_Return, KEY.Key_Escape, KEY.Key_Delete, KEY.Key_F2, KEY.Key_Home, KEY.Key_End, KEY.Key_1,
    KEY.Key_2, KEY.Key_F, KEY.Key_J, KEY.Key_Backspace,
]  # fmt: skip
CHORDS = [KEY.Key_Z, KEY.Key_Z, KEY.Key_Z, KEY.Key_Y, KEY.Key_D, KEY.Key_C, KEY.Key_V, KEY.Key_E, KEY.Key_F]
TEXTS = ["0.5", "1 m", "abc", "-3", "9e99", "1/0", "30 cm", "", "2 * 3", "nan", "x" * 300, "0", "100 %"]
BUTTONS = [Qt.MouseButton.LeftButton] * 8 + [Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton]
CHECK_EVERY = 1000
LONG = 60.0
"""Seconds after which an event has hung."""
AT_LEAST = 500
"""Steps of show that have passed when a replay is compared."""


def wait(milliseconds: int) -> None:
    """Let the window and the engine run."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def resident() -> float:
    """Return the memory of the program, in MB."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


class Hands:
    """Does things at random."""

    def __init__(self, window: Window, chance: random.Random) -> None:
        self.window, self.chance = window, chance
        self.files = self._files()
        self.longest: list[tuple[float, str]] = []
        self.did = "nothing"
        self.asked = QTimer()
        self.asked.timeout.connect(self.answer)
        self.asked.start(20)
        self.ways = {
            self.click: 30, self.drag: 12, self.wheel: 4, self.press: 14, self.chord: 8, self.type: 8, self.move: 5,
            self.drop: 1, self.swap: 1, self.stand: 6, self.undo_many: 1, self.size: 1, self.drive: 9, self.seek: 3,
        }  # fmt: skip

    def _files(self) -> list[Path]:
        strip = HOME / "strip.glb"
        strip.write_bytes(skinned_strip().glb())
        own = next((DEMO_FOLDER / "characters").glob("*.glb"))
        other = Path(shutil.copy(own, HOME / "other.glb"))
        broken = HOME / "broken.glb"
        broken.write_bytes(own.read_bytes()[:4000])
        text = HOME / "notes.txt"
        text.write_text("nothing to see", encoding="utf-8")
        return [strip, other, broken, text]

    def target(self) -> tuple[QWidget, QPoint]:
        """Return any widget that can be seen, and a place in it."""
        there = [w for w in self.window.findChildren(QWidget) if w.isVisible() and not w.visibleRegion().isEmpty()]
        widget = self.chance.choice(there or [self.window])
        box = widget.visibleRegion().boundingRect()
        return widget, QPoint(
            self.chance.randint(box.left(), max(box.left(), box.right())),
            self.chance.randint(box.top(), max(box.top(), box.bottom())),
        )

    def named(self, widget: QWidget, act: str) -> None:
        """Note what is done, for messages."""
        text = widget.text()[:30] if isinstance(widget, QAbstractButton) else widget.accessibleName()[:30]
        self.did = f"{act} {type(widget).__name__} {text!r} in {self.window.at}"

    def click(self) -> None:
        """Click, sometimes twice, sometimes with a modifier."""
        widget, position = self.target()
        self.named(widget, "click")
        button = self.chance.choice(BUTTONS)
        held = self.chance.choice([Qt.KeyboardModifier.NoModifier] * 6 + [Qt.KeyboardModifier.ControlModifier])
        (QTest.mouseDClick if self.chance.random() < 0.1 else QTest.mouseClick)(widget, button, held, position)

    def drag(self) -> None:
        """Press, move and let go somewhere else."""
        widget, position = self.target()
        self.named(widget, "drag")
        button = self.chance.choice(BUTTONS)
        QTest.mousePress(widget, button, Qt.KeyboardModifier.NoModifier, position)
        for _ in range(self.chance.randint(1, 6)):
            position += QPoint(self.chance.randint(-60, 60), self.chance.randint(-60, 60))
            QTest.mouseMove(widget, position)
            QApplication.processEvents()
            if not isValid(widget):
                return  # the list that it was in is another one now
        QTest.mouseRelease(widget, button, Qt.KeyboardModifier.NoModifier, position)

    def move(self) -> None:
        """Move the mouse."""
        widget, position = self.target()
        self.named(widget, "move over")
        QTest.mouseMove(widget, position)

    def wheel(self) -> None:
        """Turn the wheel."""
        widget, position = self.target()
        self.named(widget, "wheel")
        turn = QPoint(0, self.chance.choice([-240, -120, 120, 240]))
        held, phase = Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
        there = QPointF(widget.mapToGlobal(position))
        QApplication.sendEvent(
            widget,
            QWheelEvent(QPointF(position), there, QPoint(), turn, Qt.MouseButton.NoButton, held, phase, False),  # noqa: FBT003
        )

    def focused(self) -> QWidget:
        """Return what has the keys."""
        return QApplication.focusWidget() or self.window

    def press(self) -> None:
        """Press a key."""
        key = self.chance.choice(KEYS)
        self.named(self.focused(), f"key {key.name} in")
        QTest.keyClick(self.focused(), key)

    def chord(self) -> None:
        """Press a key with Control."""
        key = self.chance.choice(CHORDS)
        self.named(self.focused(), f"Ctrl+{key.name} in")
        held = Qt.KeyboardModifier.ControlModifier
        if self.chance.random() < 0.3:
            held |= Qt.KeyboardModifier.ShiftModifier
        QTest.keyClick(self.focused(), key, held)

    def type(self) -> None:
        """Type into what has the keys, and accept it."""
        widget, text = self.focused(), self.chance.choice(TEXTS)
        self.named(widget, f"type {text[:12]!r} in")
        QTest.keyClicks(widget, text)
        QTest.keyClick(self.focused(), KEY.Key_Return)

    def drop(self) -> None:
        """Drop files on the window."""
        self.did = "drop"
        data = QMimeData()
        chosen = self.chance.sample(self.files, self.chance.randint(1, 3))
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in chosen])
        none, left = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
        self.window.dropEvent(QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, left, none))

    def swap(self) -> None:
        """Put another file in the place of the character's."""
        self.did = "swap"
        if self.window.session.project.characters:
            self.window.keeper.bringing.replace(self.chance.choice(self.files[:2]))

    def stand(self) -> None:
        """Go to a station."""
        key = self.chance.choice(STATIONS).key
        self.did = f"station {key}"
        self.window.station(key)

    def undo_many(self) -> None:
        """Undo much, and redo some."""
        self.did = "undo many"
        for _ in range(self.chance.randint(3, 20)):
            self.window.session.undo()
        for _ in range(self.chance.randint(0, 8)):
            self.window.session.redo()

    def size(self) -> None:
        """Give the window another size, or hide it for a while."""
        self.did = "size"
        if self.chance.random() < 0.4:
            self.window.hide()
            wait(30)
            self.window.show()
        self.window.resize(self.chance.randint(960, 1920), self.chance.randint(600, 1080))

    def drive(self) -> None:
        """Drive the character, and do to it what hands do."""
        self.did = "drive"
        give = self.window.engine.give
        self.chance.choice(
            [
                lambda: give("steer", self.chance.uniform(-1, 1), self.chance.uniform(-1, 1), fast=True),
                lambda: give("steer", 0.0, 0.0),
                lambda: give("act", "jump"),
                lambda: give("key", self.chance.choice("123EQ")),
                lambda: give("signal", "health", self.chance.uniform(-0.2, 1.0)),
                lambda: self.window.set_playing(self.chance.random() < 0.7),
            ]
        )()

    def seek(self) -> None:
        """Go to another time."""
        self.did = "seek"
        self.window.seek(self.chance.uniform(0, 8))

    def answer(self) -> None:
        """Answer what asks: menus by a click in them, questions by one of their buttons, choosers of files by No."""
        menu, asked = QApplication.activePopupWidget(), QApplication.activeModalWidget()
        if menu is not None:
            if isinstance(menu, QMenu) and menu.actions() and self.chance.random() < 0.6:
                action = self.chance.choice(menu.actions())
                if not set(action.text().lower().split()) & {"quit", "close"}:
                    QTimer.singleShot(0, action.trigger)  # in its own turn: this timer rests while it answers
            menu.close()
        elif isinstance(asked, QFileDialog):
            asked.reject()
        elif asked is not None:
            buttons = [b for b in asked.findChildren(QAbstractButton) if b.isVisible()]
            QTimer.singleShot(0, self.chance.choice(buttons).click if buttons else asked.close)

    def do(self) -> None:
        """Do one thing, and time how long the window's thread was taken by it."""
        way = self.chance.choices(list(self.ways), list(self.ways.values()))[0]
        began = time.thread_time()
        way()
        QApplication.processEvents()
        self.longest = sorted([*self.longest, (time.thread_time() - began, self.did)], reverse=True)[:25]


def replayed(window: Window) -> str:
    """Pause, and play the kept inputs again in a player of their own; return what differs, or "" for nothing."""
    window.set_playing(False)
    player = None
    for _ in range(600):
        wait(50)
        player = window.engine._player
        if player is not None and not window.engine._at_work() and not window.engine._mail.any():
            break
    if player is None or not player.pure:
        return "not exact after half a minute of rest"
    step = player.show.step_number
    again = Player(player.project, player._characters, driven=player.driven)
    again._inputs = {number: list(given) for number, given in player._inputs.items() if number < step}
    again.seek(player.time)
    if again.show.step_number != step:
        return f"at step {again.show.step_number} instead of {step}"
    ended = "the same" if again.digest() == player.digest() else "ANOTHER"
    sys.stdout.write(f"  replayed {step} steps, {len(again._inputs)} with inputs: {ended}\n")
    return "" if ended == "the same" else f"another digest at step {step}"


def main(count: int, seed: int) -> int:
    """Give `count` events by a seed; return how many things went wrong."""
    faulthandler.enable()
    os.chdir(HOME)
    homes = {"HOME": HOME, "XDG_STATE_HOME": HOME / "state", "XDG_CONFIG_HOME": HOME / "config"}
    os.environ.update({name: str(folder) for name, folder in homes.items()})
    sys.setswitchinterval(0.0001)
    app = QApplication([])
    apply_theme(app)
    wrong: list[str] = []
    window = Window(load(DEMO_FOLDER), None, "hands", Engine())
    catcher = Catcher(window)
    window.resize(1280, 800)
    window.show()
    while window.picture.rendered is None:
        wait(100)
    hands = Hands(window, random.Random(seed))
    catcher.fault_found.connect(lambda text: wrong.append(f"{hands.did}: {text}"))
    catcher.install()
    window.engine.failed.connect(lambda text: "unexpected" in text and wrong.append(f"{hands.did}: {text}"))
    began = resident()
    for number in range(1, count + 1):
        faulthandler.dump_traceback_later(LONG, exit=True)  # whatever takes that long has hung
        hands.do()
        if number % 10 == 0:
            wait(15)
        if number % 200 == 0 and not window.session.project.effects:
            window.session.history.mark_saved()
            window.keeper.open_path(DEMO_FOLDER)
        faulthandler.cancel_dump_traceback_later()
        if number % CHECK_EVERY == 0:
            window.station("rehearse" if (number // CHECK_EVERY) % 2 else "triggers")
            window.set_playing(True)
            for _ in range(300):
                wait(100)
                hands.drive()
                window.set_playing(True)
                rendered = window.picture.rendered
                if rendered is not None and rendered.time * window.session.project.step_rate >= AT_LEAST:
                    break
            difference = replayed(window)
            wrong += [difference] if difference else []
            sys.stdout.write(f"{number} events, {len(wrong)} wrong, {resident():.0f} MB\n")
            sys.stdout.flush()
    window.session.history.mark_saved()
    hands.asked.stop()
    window.shut()
    for seconds, did in hands.longest:
        sys.stdout.write(f"{seconds * 1000:6.0f} ms  {did}\n")
    sys.stdout.write("".join(f"{text}\n" for text in wrong))
    sys.stdout.write(f"{count} events, {len(wrong)} wrong; memory {began:.0f} -> {resident():.0f} MB\n")
    sys.stdout.flush()
    shutil.rmtree(HOME, ignore_errors=True)
    return len(wrong)


if __name__ == "__main__":
    numbers = [int(word) for word in sys.argv[1:]]
    os._exit(min(main(*(numbers + [2000, 1][len(numbers) :])), 1))
