"""Measures the real window while one look after another plays at its full count: frames a second, and how large.

Run as `QT_QPA_PLATFORM=offscreen .venv/bin/python scripts/measure_looks.py [SECONDS] [NAME ...]`.
"""

from __future__ import annotations

import faulthandler
import gc
import sys
import time
from dataclasses import replace

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication

from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.app import prepare
from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.theme.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission, Full
from wraithon.project.life import Attribute, Curve, Tint
from wraithon.project.look import AfterimageLook, Blend, MeshLook, RibbonLook, ShellLook, SpriteLook, Through
from wraithon.project.motion import Curl, Drag, Motion
from wraithon.project.project import Project
from wraithon.project.source import PointSource, Riding, SkinSource, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.loading import load

SETTLE = 3.0
SWIRL = Motion(forces=(Drag(rate=0.5), Curl(strength=1.5, scale=0.5)))
TEAL = Tint(first=(0.1, 0.6, 0.6), second=(0.2, 0.4, 0.8))
SPRITE = SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=0.01)


def _layer(count: int, **more: object) -> Layer:
    """Return a layer of so many particles that live for ever."""
    given = {
        "emission": Emission(bursts=(Burst(count=count),), limit=max(count, 1)), "lifetime": Attribute.of(1000),
        "speed": Attribute.of(0), "size": Attribute.of(0.02, 0.04), "colour": TEAL, "opacity": Attribute.of(0.4, 0.7),
    }  # fmt: skip
    return Layer(**(given | more))


def _crowds() -> dict[str, Layer]:
    every = Emission(bursts=(Burst(count=5000, repeats=10_000, interval=0.2),), limit=100_000)
    on_skin = SkinSource(riding=Riding(share=0.1))
    shell = ShellLook(bend=0.05)
    return {
        "nothing": _layer(1),
        "sprites 60,000": _layer(
            0, emission=every, source=on_skin, lifetime=Attribute.of(2, 3), speed=Attribute.of(0.2, 0.5),
            motion=SWIRL,
            look=SPRITE,
        ),
        "sprites 40,000": _layer(40_000, source=SphereSource(radius=1.0), motion=SWIRL, look=SPRITE),
        "ribbons 300 x 64": _layer(
            300, source=SphereSource(radius=1.0), motion=SWIRL, speed=Attribute.of(0.5),
            look=RibbonLook(through=Through.PAST, past=1.05, tail=0.8, soft=0.01),
        ),
        "pieces 2,000 x 100": _layer(
            2000, source=SphereSource(radius=1.0), motion=SWIRL, size=Attribute.of(0.04, 0.1),
            spin=Attribute.of(90), look=MeshLook(shapes=("ball",)),
        ),
        "shells 2": _layer(
            2, source=PointSource(riding=Riding(share=1)), size=Attribute.of(1.2, 1.5), look=shell,
        ),
        "afterimages 12": _layer(
            0, emission=Emission(rate=8, limit=12, full=Full.END_OLDEST), lifetime=Attribute.of(1.6),
            opacity=Attribute.of(0.4, 0.4, Curve.through((0, 1), (1, 0.1))), look=AfterimageLook(),
        ),
    }  # fmt: skip


def _project(demo: Project, layer: Layer) -> Project:
    effect = Effect(id="crowd", name="crowd", length=None, layers=(layer,))
    return demo.evolve(
        effects=(effect,), triggers=(Trigger(when=AtStart(), response=(StartEffect(effect="crowd"),)),)
    )


def main() -> None:
    """Play each for a while and print what was measured."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 6.0
    wanted = sys.argv[2:]
    sys.setswitchinterval(0.0001)
    app = QApplication(sys.argv[:1])
    apply_theme(app)
    demo = load(DEMO_FOLDER)
    crowds = {name: layer for name, layer in _crowds().items() if not wanted or name in wanted}
    faulthandler.dump_traceback_later(int((seconds + 20) * len(crowds) + 60), exit=True)
    for name, layer in crowds.items():
        window = Window(replace(demo, project=_project(demo.project, layer)), None, "measure", Engine(prepare()))
        window.resize(1280, 800)
        window.show()
        rendered_frames: list[tuple[float, object]] = []
        window.engine.frame_ready.connect(
            lambda w=window, s=rendered_frames: s.append((time.perf_counter(), w.picture.rendered)),
            Qt.ConnectionType.QueuedConnection,
        )
        QTimer.singleShot(100, lambda w=window: w.set_playing(True))
        QTimer.singleShot(int(SETTLE * 1000), rendered_frames.clear)
        QTimer.singleShot(int((SETTLE + seconds) * 1000), lambda: app.exit(0))
        gc.collect()
        app.exec()
        times = np.array([t for t, _ in rendered_frames])
        figures = [rendered.figures for _, rendered in rendered_frames if rendered is not None]
        gaps = np.diff(times) * 1000
        print(
            f"{name:20} {(len(times) - 1) / (times[-1] - times[0]):5.1f} frames/s, worst {gaps.max():.0f} ms, "
            f"alive {np.mean([f.alive for f in figures]):.0f}, "
            f"step {np.median([f.step_ms for f in figures]):.1f} ms, "
            f"draw {np.median([f.draw_ms for f in figures]):.1f} ms, "
            f"coarseness {np.mean([f.coarseness for f in figures]):.2f}, "
            f"picture at {np.mean([f.scale for f in figures]):.0%}",
            flush=True,
        )
        window.session.history.mark_saved()
        window.shut()


if __name__ == "__main__":
    main()
