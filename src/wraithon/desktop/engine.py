"""The engine thread: owns the player and the renderer; the window sends it projects and takes pictures."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, Signal

from wraithon.character.fairness import Tally, density_heat, tallies
from wraithon.character.masks import joint_weights, unpack_mask
from wraithon.errors import Stopped, WraithonError
from wraithon.picture.camera import Camera, camera_of
from wraithon.picture.enlarging import enlarged
from wraithon.picture.raster import RasterRenderer
from wraithon.stage.player import Player
from wraithon.stage.sampler_shelf import SamplerShelf

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.picture.shipped import TextureShelf
    from wraithon.project.project import Project, View
    from wraithon.stage.firing import FiringRecord

__all__ = ["Engine", "Figures", "Overlay", "Pace", "Shot"]

log = logging.getLogger(__name__)

LONGEST_STEP = 0.1
"""Seconds of show a turn of the loop may take; a slower machine plays slower instead of skipping."""
FRAME = 1 / 60
KEEP_UP = 0.028
"""Seconds a frame may take before the picture gives up some of its sprites' sharpness."""
STAGES, FIRST_PICTURE = 5, 2
"""Stages of preparing, and those of them that a first picture needs: skin and picture."""
PATIENCE = 5.0
"""Seconds that the other stages wait for a first picture to be asked for."""
SEEK_SLICE = 20
"""Steps of a seek between looks at the mailbox."""


@dataclass(frozen=True)
class Figures:
    """What is said along the picture's lower edge."""

    frames_a_second: float
    alive: int
    refused: int
    step_ms: float
    draw_ms: float
    coarseness: int
    scale: float
    """Size of the live picture's sides as a share of the widget's."""


@dataclass(frozen=True)
class Overlay:
    """What colours the skin: "weights" of a joint by name, "density" of a layer's births or a "mask" by id."""

    kind: str = ""
    what: str = ""


@dataclass(frozen=True)
class Shot:
    """A finished picture and what goes with it."""

    pixels: NDArray[np.uint8]
    time: float
    playing: bool
    exact: bool
    """Whether this is what a fresh run to this moment shows."""
    camera: Camera
    places: dict[str, NDArray[np.float32]]
    """Anchor id to its world matrix (4, 4)."""
    joints: NDArray[np.float32]
    """(N, 3) world positions of all nodes."""
    figures: Figures
    records: tuple[FiringRecord, ...]
    trace: tuple[NDArray[np.float64], NDArray[np.int64]]
    """Seconds and particles alive, for the score."""
    problems: tuple[str, ...]
    exposure: float
    """The exposure it was drawn with."""
    heat: NDArray[np.float32] | None = None
    """What the skin was coloured by."""
    skin: NDArray[np.float32] | None = None
    """(V, 3) the posed skin's positions in the world."""
    births: tuple[list[Tally], list[Tally]] | None = None
    """Test births by part and by joint of the layer whose density is shown."""


@dataclass
class _Mail:
    """What the window wants; only the latest of each counts."""

    project: Project | None = None
    characters: dict[str, Character] | None = None
    shelf: TextureShelf | None = None
    view: View | None = None
    size: tuple[int, int] | None = None
    playing: bool | None = None
    seek: float | None = None
    steps: int = 0
    overlay: Overlay | None = None
    fire: list[tuple[str, str | None]] = field(default_factory=list)
    redraw: bool = False

    def any(self) -> bool:
        return (
            self.redraw
            or bool(self.steps)
            or bool(self.fire)
            or any(
                x is not None
                for x in (
                    self.project,
                    self.characters,
                    self.shelf,
                    self.view,
                    self.size,
                    self.playing,
                    self.seek,
                    self.overlay,
                )
            )
        )


class Engine(QObject):
    """Runs the show on its own thread. The window's thread never waits for it.

    Signals
    -------
    shot_ready
        A new picture can be taken with `take`.
    busy
        Long work: words, and a share done from 0 to 1; empty words when it is over.
    failed
        Something went wrong that the user should hear of.
    """

    shot_ready = Signal()
    busy = Signal(str, float)
    failed = Signal(str)

    def __init__(self, prepare: Callable[[], Iterator[str]] | None = None) -> None:
        super().__init__()
        self._mail = _Mail()
        self._wake = threading.Condition()
        self._quit = False
        self._shot: Shot | None = None
        self._announced = False
        self._prepare = prepare
        self._thread = threading.Thread(target=self._run, name="engine", daemon=True)
        self._player: Player | None = None
        self._renderer: RasterRenderer | None = None
        self._samplers: SamplerShelf | None = None
        self._overlay = Overlay()
        self._heat: tuple[tuple[object, ...], NDArray[np.float32] | None] = ((), None)
        self._births: tuple[list[Tally], list[Tally]] | None = None
        self._view: View | None = None
        self._size = (640, 480)
        self._playing = False
        self._target: int | None = None
        self._glance = False
        """Draw once as things are before working out what exactly they should be."""
        self._last = time.perf_counter()
        self._speed = _Speed()
        self._pace = Pace()
        self._step_seconds = 0.0

    # ---- the window's side ----------------------------------------------------------------------

    def start(self) -> None:
        """Begin, if it has not begun yet."""
        if self._thread.ident is None:
            self._thread.start()

    def stop(self) -> None:
        """End, and wait until the thread has."""
        with self._wake:
            self._quit = True
            self._wake.notify()
        if self._thread.is_alive():
            self._thread.join(timeout=30)

    def send(self, **wishes: Any) -> None:
        """Leave wishes in the mailbox: project, characters, shelf, view, size, playing, seek, redraw."""
        with self._wake:
            for name, value in wishes.items():
                setattr(self._mail, name, value)
            if "seek" in wishes:
                self._mail.steps = 0
            self._wake.notify()

    def step(self, count: int) -> None:
        """Go `count` steps on, or back when negative, and stay paused."""
        with self._wake:
            self._mail.steps += count
            self._wake.notify()

    def fire(self, effect: str, anchor: str | None) -> None:
        """Start an effect now."""
        with self._wake:
            self._mail.fire.append((effect, anchor))
            self._wake.notify()

    def take(self) -> Shot | None:
        """Return the latest picture."""
        with self._wake:
            self._announced = False
            return self._shot

    # ---- the thread's side ----------------------------------------------------------------------

    def _run(self) -> None:
        try:
            self._get_ready()
        except Exception:
            log.exception("preparing")
            self.failed.emit("The drawing code could not be prepared; the log says why")
        while self._turn():
            pass

    def _get_ready(self) -> None:
        """Go through the stages of preparing; the first picture is drawn as soon as its own are done.

        The later ones wait for it: they would hold up the window, which is being built meanwhile.
        """
        for number, name in enumerate(self._prepare() if self._prepare else ()):
            self.busy.emit(f"Getting ready: {name}", number / STAGES)
            if number < FIRST_PICTURE:
                continue
            with self._wake:
                self._wake.wait_for(lambda: self._quit or self._mail.any() or self._shot is not None, PATIENCE)
                asked = self._mail.project is not None and not self._quit
            if asked:
                self._turn()
        if self._prepare:
            self.busy.emit("", 1.0)

    def _turn(self) -> bool:
        """One turn of the loop; False to end."""
        with self._wake:
            while not self._quit and not self._mail.any() and not self._at_work():
                self._wake.wait()
            if self._quit:
                return False
            mail, self._mail = self._mail, _Mail()
        try:
            self._open_mail(mail)
            self._work()
        except Stopped:
            self._keep_mail(mail)
        except WraithonError as error:
            self.failed.emit(str(error))
            self._playing, self._target = False, None
        except Exception as error:
            log.exception("engine")
            self.failed.emit(f"Something unexpected happened while playing ({error}); the log says more")
            self._playing, self._target = False, None
        return True

    def _keep_mail(self, mail: _Mail) -> None:
        """Put back what was not done; what came since goes before it."""
        with self._wake:
            for name in ("characters", "shelf", "project", "view", "size", "playing", "seek", "overlay"):
                if getattr(self._mail, name) is None:
                    setattr(self._mail, name, getattr(mail, name))
            self._mail.fire = [*mail.fire, *self._mail.fire]
            self._mail.steps += mail.steps

    def _at_work(self) -> bool:
        return self._player is not None and self._renderer is not None and (self._playing or self._target is not None)

    def _open_mail(self, mail: _Mail) -> None:
        if mail.shelf is not None:
            self._renderer = RasterRenderer(mail.shelf.read)
            self._samplers = SamplerShelf(mail.shelf.read, self._spacing)
        if mail.shelf is not None:  # another project altogether
            self._player, self._target = None, None
        if mail.project is not None:
            if self._player is None:
                self._player = Player(mail.project, mail.characters or {}, self._samplers)
            else:
                self._player.adopt(mail.project, mail.characters)
                if not self._playing and not self._player.pure and self._target is None:
                    self._target = self._player.show.step_number
                    self._glance = True
        if mail.overlay is not None:
            self._overlay = mail.overlay
        if mail.view is not None:
            self._view = mail.view
        if mail.size is not None:
            self._size = mail.size
        player = self._player
        if player is None:
            return
        if mail.playing is not None:
            self._playing = mail.playing
            self._last = time.perf_counter()
            self._speed.reset()
            if not self._playing and not player.pure:
                self._target = player.show.step_number
        if mail.seek is not None:
            self._target = player.step_of(mail.seek)
        if mail.steps:
            base = self._target if self._target is not None else player.show.step_number
            self._playing = False
            self._target = max(0, base + mail.steps)
        for effect_id, anchor in mail.fire:
            effect = player.cast.effect(effect_id)
            if effect is not None:
                player.fire(effect, anchor)

    def _spacing(self, share: float) -> None:
        """Tell how far even spacing is; a newer project or the end of the program ends it."""
        self.busy.emit("Spacing places evenly", share)
        with self._wake:
            if self._quit or self._mail.project is not None:
                raise Stopped

    def _work(self) -> None:
        player, renderer = self._player, self._renderer
        if player is None or renderer is None or self._view is None:
            return
        began = time.perf_counter()
        if self._glance:
            self._glance = False
            self._draw(player, renderer)
        if self._target is not None:
            if player.seek_some(self._target, SEEK_SLICE):
                self._target = None
                self._last = time.perf_counter()
            elif not self._playing:
                ahead = abs(self._target - player.show.step_number)
                self.busy.emit("Working out this moment", 1 - min(1.0, ahead / max(1, self._target)))
                # The old picture stays until the moment is exact.
                return
            self.busy.emit("", 1.0)
        elif self._playing:
            elapsed = min(began - self._last, LONGEST_STEP)
            self._last = began
            steps = player.advance(elapsed)
            if steps:
                self._step_seconds = (time.perf_counter() - began) / steps
        self._draw(player, renderer)
        if self._playing:
            took = time.perf_counter() - began
            renderer.keep_up(took, KEEP_UP)
            self._pace.tick(took, may_shrink=renderer.gives_all)
            spare = FRAME - (time.perf_counter() - began)
            if spare > 0:
                with self._wake:
                    if not self._mail.any() and not self._quit:
                        self._wake.wait(spare)

    def _heat_of(self, player: Player) -> NDArray[np.float32] | None:
        """Return what colours the skin (V,), worked out anew only when something it hangs on has changed."""
        performance, wanted = player.cast.performance, self._overlay
        if performance is None or not wanted.kind:
            self._heat, self._births = ((), None), None
            return None
        program = player.cast.programs.get(wanted.what)
        sampler = program.sampler if program else None
        mask = next((m for m in performance.use.masks if m.id == wanted.what), None)
        key = (wanted, performance.character, sampler, mask)
        if self._heat[0] != key:
            heat = None
            if wanted.kind == "weights":
                heat = joint_weights(performance.character, {wanted.what})
                heat = np.where(heat > 0, heat, -1).astype(np.float32)
            elif wanted.kind == "density" and sampler is not None:
                heat = density_heat(performance.character, sampler)
            elif wanted.kind == "mask" and mask is not None:
                heat = unpack_mask(mask)
            if heat is not None and len(heat) != len(performance.character.mesh.positions):
                heat = None
            self._heat = (key, heat)
            shown = wanted.kind == "density" and sampler is not None
            self._births = tallies(performance.character, sampler) if shown and sampler else None
        return self._heat[1]

    def _draw(self, player: Player, renderer: Renderer) -> None:
        began = time.perf_counter()
        frame = player.frame()
        heat = self._heat_of(player)
        if heat is not None and frame.body is not None:
            ramp = "balance" if self._overlay.kind == "density" else "share"
            frame = replace(frame, body=replace(frame.body, heat=heat, ramp=ramp))
        view = self._view
        assert view is not None  # _work has looked
        scale = self._pace.scale if self._playing else 1.0
        width, height = (max(64, round(side * scale)) for side in self._size)
        picture = renderer.draw(frame, view, width, height, live=self._playing)
        # Made as large as it is shown here: the window has enough to do.
        pixels = enlarged(picture.pixels, *self._size)
        now = time.perf_counter()
        show = player.show
        posed = show.posed(show.step_number)
        shot = Shot(
            pixels=pixels,
            time=player.time,
            playing=self._playing,
            exact=player.pure,
            camera=camera_of(view, frame.centre),
            places=player.anchors(),
            joints=posed[0].matrices[:, :3, 3].copy() if posed else np.zeros((0, 3), np.float32),
            figures=Figures(
                self._speed.tick(now),
                show.alive,
                show.refused,
                self._step_seconds * 1000,
                (now - began) * 1000,
                picture.coarseness,
                self._pace.scale if self._playing else 1.0,
            ),
            records=tuple(show.history()),
            trace=player.trace(),
            problems=(*renderer.problems.values(), *player.problems()),
            exposure=frame.exposure,
            heat=heat,
            skin=posed[1].positions if posed else None,
            births=self._births,
        )
        with self._wake:
            self._shot = shot
            announce = not self._announced
            self._announced = True
        if announce:
            self.shot_ready.emit()


class Pace:
    """Makes the live picture smaller when even coarse sprites do not make it quick enough.

    It shrinks one size at a time, no sooner than the last change has shown its effect, and grows again
    only when there is plenty of time.
    """

    SIZES = (1.0, 0.85, 0.72, 0.6)
    WANTED = 1 / 33
    """Seconds a frame may take on average; the window's own share is to leave 30 frames a second."""
    PATIENCE, CAUTION = 25, 120

    def __init__(self) -> None:
        self._size, self._since, self._mean = 0, 0, 0.0

    @property
    def scale(self) -> float:
        """Sides of the picture as a share of full size."""
        return self.SIZES[self._size]

    def tick(self, seconds: float, *, may_shrink: bool) -> None:
        """Hear what a frame took; `may_shrink` when sprites are as coarse as they may get."""
        self._mean = seconds if not self._mean else self._mean + 0.15 * (seconds - self._mean)
        self._since += 1
        if self._mean > self.WANTED and may_shrink and self._since > self.PATIENCE:
            self._change(min(self._size + 1, len(self.SIZES) - 1))
        elif self._mean < self.WANTED * 0.74 and self._since > self.CAUTION:
            self._change(max(self._size - 1, 0))

    def _change(self, size: int) -> None:
        if size != self._size:
            self._size, self._since, self._mean = size, 0, 0.0


class _Speed:
    """Frames a second, smoothed over about half a second."""

    def __init__(self) -> None:
        self._last = 0.0
        self._mean = 0.0

    def reset(self) -> None:
        self._last = 0.0
        self._mean = 0.0

    def tick(self, now: float) -> float:
        """Count a frame; return frames a second, 0 before the second one."""
        if self._last:
            gap = now - self._last
            self._mean = gap if not self._mean else self._mean + (gap - self._mean) * min(1.0, gap / 0.5)
        self._last = now
        return 1 / self._mean if self._mean else 0.0
