"""Measures the real window while it plays, and then while it is edited, too.

It tells frames a second, the parts of a frame, how long the window is ever blocked, and how soon an edit shows.

Run as `QT_QPA_PLATFORM=offscreen .venv/bin/python scripts/measure_window.py [LIVING] [SECONDS]`.
"""

from __future__ import annotations

import faulthandler
import gc
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
from demo_maker.crowd import crowded_demo
from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication

from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.app import prepare
from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.engine.rendered_frame import RenderedFrame
from wraithon.desktop.theme.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.stage.loading import load

SETTLE = 3.0
BEAT = 0.01
EVERY = 700
"""Milliseconds from one edit to the next."""


class Watch(QObject):
    """Counts rendered frames and the beats of the window's own loop."""

    def __init__(self, window: Window) -> None:
        super().__init__()
        self.window = window
        self.rendered_frames: list[tuple[float, RenderedFrame]] = []
        self.gaps: list[float] = []
        self.waits: list[float] = []
        self.began = _processor_time()
        self._last = time.perf_counter()
        self._edited = 0.0
        self._exposure = 1.0
        window.engine.frame_ready.connect(self._rendered, Qt.ConnectionType.QueuedConnection)
        self._timer = QTimer()
        self._timer.timeout.connect(self._beat)
        self._timer.start(int(BEAT * 1000))

    def _rendered(self) -> None:
        rendered = self.window.picture.rendered
        now = time.perf_counter()
        if rendered is None:
            return
        if self._edited and rendered.exposure == self._exposure:
            self.waits.append(now - self._edited)
            self._edited = 0.0
        self.rendered_frames.append((now, rendered))

    def _beat(self) -> None:
        now = time.perf_counter()
        self.gaps.append(now - self._last)
        self._last = now

    def forget(self) -> None:
        """Begin to count anew."""
        self.rendered_frames.clear()
        self.gaps.clear()
        self.waits.clear()
        self.began = _processor_time()

    def edit(self) -> None:
        """Edit the project and note when a picture shows it."""
        self._exposure = round(self._exposure + 0.01, 4)
        self._edited = time.perf_counter()
        self.window.session.edit("exposure", lambda p: p.evolve(exposure=self._exposure))


def _processor_time() -> tuple[int, int]:
    """Return the machine's processor time so far, all of it and what went to its neighbours, in ticks."""
    ticks = [int(word) for word in Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:9]]
    return sum(ticks), ticks[7]


def set_signal(what: str, watch: Watch) -> None:
    """Print what was measured since the watch forgot."""
    if len(watch.rendered_frames) < 2:
        sys.exit("hardly a picture came: the machine is too busy to measure on")
    total, stolen = (b - a for a, b in zip(watch.began, _processor_time(), strict=True))
    times = np.array([t for t, _ in watch.rendered_frames])
    figures = [s.figures for _, s in watch.rendered_frames]
    gaps = np.array(watch.gaps[1:]) * 1000
    print(
        f"{what}: {(len(times) - 1) / (times[-1] - times[0]):.1f} frames/s, "
        f"worst gap {np.diff(times).max() * 1000:.0f} ms, "
        f"coarseness {np.mean([f.coarseness for f in figures]):.2f}, "
        f"picture at {np.mean([f.scale for f in figures]):.0%}"
    )
    print(
        f"  alive {np.mean([f.alive for f in figures]):.0f}, step {np.median([f.step_ms for f in figures]):.2f} ms, "
        f"draw {np.median([f.draw_ms for f in figures]):.2f} ms; "
        f"window's loop: worst block {gaps.max():.0f} ms, 99th {np.percentile(gaps, 99):.0f}; "
        f"{stolen / max(total, 1):.0%} of the time the neighbours'"
    )


def main() -> None:
    """Play for a while and print what was measured."""
    living = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else 8.0
    sys.setswitchinterval(0.0001)
    faulthandler.dump_traceback_later(int(2 * seconds + 60), exit=True)
    app = QApplication(sys.argv[:1])
    apply_theme(app)
    demo = load(DEMO_FOLDER)
    window = Window(replace(demo, project=crowded_demo(living)), None, "measure", Engine(prepare()))
    window.resize(1280, 800)
    window.show()
    gc.collect()
    gc.freeze()
    watch = Watch(window)
    edits = QTimer()
    edits.timeout.connect(watch.edit)
    print(f"{living} particles" if living > 1 else "the demo")

    def over() -> None:
        set_signal("playing", watch)
        watch.forget()
        edits.start(EVERY)

    QTimer.singleShot(100, lambda: window.set_playing(True))
    QTimer.singleShot(int(SETTLE * 1000), watch.forget)
    QTimer.singleShot(int((SETTLE + seconds) * 1000), over)
    QTimer.singleShot(int((SETTLE + 2 * seconds) * 1000), lambda: app.exit(0))
    app.exec()
    set_signal("playing and edited", watch)
    if watch.waits:
        waits = np.array(watch.waits) * 1000
        print(
            f"edit to the picture that shows it: {np.median(waits):.0f} ms, worst {waits.max():.0f} of {len(waits)}"
        )
    window.session.history.mark_saved()
    window.shut()


if __name__ == "__main__":
    main()
