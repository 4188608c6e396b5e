"""Measures the real window while it plays: frames a second, the parts of a frame, and how long it is ever blocked.

Run as `QT_QPA_PLATFORM=offscreen .venv/bin/python scripts/measure_window.py [LIVING] [SECONDS]`.
"""

from __future__ import annotations

import sys
import time

import numpy as np
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from wraithon.demo import DEMO_FOLDER
from wraithon.demo.crowd import crowded_demo
from wraithon.desktop.app import prepare
from wraithon.desktop.engine import Engine
from wraithon.desktop.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.stage.loading import Loaded, load


def main() -> None:
    """Play for a while and print what was measured."""
    living = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else 8.0
    sys.setswitchinterval(0.0005)
    app = QApplication(sys.argv[:1])
    apply_theme(app)
    demo = load(DEMO_FOLDER)
    loaded = Loaded(crowded_demo(living), demo.folder, demo.characters)
    window = Window(loaded, None, "measure", Engine(prepare()))
    window.resize(1280, 800)
    window.show()
    began = time.perf_counter()
    while window.picture.shot is None and time.perf_counter() - began < 120:
        app.processEvents()
        time.sleep(0.002)
    print(f"first picture after {time.perf_counter() - began:.2f} s")
    window.engine.send(seek=3.0, playing=True)
    window.set_playing(True)
    gaps: list[float] = []
    state = {"last": time.perf_counter()}

    def beat() -> None:
        now = time.perf_counter()
        gaps.append(now - state["last"])
        state["last"] = now

    timer = QTimer()
    timer.timeout.connect(beat)
    timer.start(1)
    shots: list[tuple[float, float, float, int, int]] = []
    seen = None
    end = time.perf_counter() + seconds + 2
    settle = time.perf_counter() + 2
    edit_waits: list[float] = []
    while time.perf_counter() < end:
        app.processEvents()
        shot = window.picture.shot
        if shot is not None and shot is not seen and time.perf_counter() > settle:
            f = shot.figures
            shots.append((time.perf_counter(), f.step_ms, f.draw_ms, f.alive, f.coarseness))
            seen = shot
        time.sleep(0.0005)
    for k in range(10):  # an edit: how long until a picture that was drawn after it
        began = time.perf_counter()
        window.session.edit("exposure", lambda p, k=k: p.but(exposure=1.0 + 0.01 * k))
        before = window.picture.shot
        count = 0
        while count < 2 and time.perf_counter() - began < 2:
            app.processEvents()
            if window.picture.shot is not before:
                before = window.picture.shot
                count += 1
        edit_waits.append(time.perf_counter() - began)
    times = np.array([s[0] for s in shots])
    gaps_ms = np.array(gaps) * 1000
    print(f"frames/s {(len(times) - 1) / (times[-1] - times[0]):.1f}  worst gap {np.diff(times).max() * 1000:.0f} ms")
    print(f"alive {np.mean([s[3] for s in shots]):.0f}  step {np.mean([s[1] for s in shots]):.2f} ms")
    print(f"draw {np.mean([s[2] for s in shots]):.2f} ms  coarseness {np.mean([s[4] for s in shots]):.2f}")
    print(f"window loop: worst block {gaps_ms.max():.0f} ms, 99th {np.percentile(gaps_ms, 99):.0f} ms")
    print(f"edit to second next picture: worst {max(edit_waits) * 1000:.0f} ms")
    window.shut()


if __name__ == "__main__":
    main()
