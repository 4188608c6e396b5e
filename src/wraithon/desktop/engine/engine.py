"""The engine thread: owns the player and the renderer; the window sends it projects and takes pictures."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from wraithon.desktop.engine.background_tasks import BackgroundTasks
from wraithon.desktop.engine.mailbox import Mailbox
from wraithon.desktop.engine.rendered_frame import (
    Figures,
    FrameExtras,
    RenderedFrame,
    heard_of,
    living_of,
    rendered_of,
)
from wraithon.desktop.engine.side_simulations import SideSimulations
from wraithon.picture.enlarging import enlarged
from wraithon.picture.pace import Pace, Speed, Thrift
from wraithon.picture.raster import RasterRenderer
from wraithon.stage.overlays import Heat, Overlay
from wraithon.stage.player import Player
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.support.errors import Stopped, WraithonError

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.project.project import Project, View
    from wraithon.stage.frame import Frame


log = logging.getLogger(__name__)

LONGEST_STEP = 0.1
"""Seconds of show a turn of the loop may take; a slower machine plays slower instead of skipping."""
FRAME = 1 / 60
STAGES, FIRST_PICTURE = 6, 2
"""Stages of preparing, and those of them that a first picture needs: skin and picture."""
PATIENCE = 5.0
"""Seconds that the other stages wait for a first picture to be asked for."""
CATCH_UP_SLICE = 5
"""Steps of the past that are run while nothing else is asked for, between looks at the mailbox."""
SEEK_SLICE = 20
"""Steps of a seek between looks at the mailbox."""


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
    pictured
        A small picture that was asked for: its key, and its pixels.
    measured
        What the show costs (`studio.cost.Cost`), once it was asked for.
    surveyed
        What a firing of an effect does (`studio.survey.Survey`), once it was asked for.
    exporting
        How many of how many pictures are written.
    exported
        What came of writing pictures, and whether all is well.
    """

    frame_ready = Signal()
    busy = Signal(str, float)
    failed = Signal(str)
    measured = Signal(object)
    pictured = Signal(str, object)
    surveyed = Signal(object)
    exporting = Signal(int, int)
    exported = Signal(str, bool)

    def __init__(self, prepare: Callable[[], Iterator[str]] | None = None) -> None:
        super().__init__()
        self._mail = Mailbox()
        self._wake = threading.Condition()
        self._quit = False
        self._rendered: RenderedFrame | None = None
        self._announced = False
        self._prepare = prepare
        self._thread = threading.Thread(target=self._run, name="engine", daemon=True)
        self._player: Player | None = None
        self._renderer: Renderer | None = None
        self._samplers: SamplerCache | None = None
        self._side_simulations = SideSimulations()
        self._background_tasks = BackgroundTasks(
            self.busy.emit, self.measured.emit, self.pictured.emit, self.surveyed.emit, self.exporting.emit,
            self.exported.emit,
        )  # fmt: skip
        self._overlay = Overlay()
        self._heat = Heat()
        self._view: View | None = None
        self._characters: dict[str, Character] = {}
        self._size = (640, 480)
        self._playing, self._seen = False, True
        self._tempo = 1.0
        self._round = (0.0, 0.0)
        self._target: int | None = None
        self._edited = False
        """Whether the show is to be drawn as it is, and then made exact where it stands."""
        self._last = time.perf_counter()
        self._speed = Speed()
        self._pace = Pace()
        self._thrift = Thrift()
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

    def send(self, **changes: Any) -> None:
        """Leave changes in the mailbox: project, characters, library, view, size, playing, tempo, seek, round ..."""
        with self._wake:
            for name, value in changes.items():
                self._mail.wish(name, value)
            if "seek" in changes:
                self._mail.steps = 0
            if "library" in changes:
                self._rendered = None  # it is of the project before
            self._wake.notify()

    def step(self, count: int) -> None:
        """Step `count` steps on, or back when negative, and stay paused."""
        with self._wake:
            self._mail.steps += count
            self._wake.notify()

    def give(self, what: str, *values: Any, **named: Any) -> None:
        """Do something by hand (see `overrides.Given`)."""
        with self._wake:
            self._mail.given.append((what, values, named))
            self._wake.notify()

    def take(self) -> RenderedFrame | None:
        """Return the latest picture."""
        with self._wake:
            self._announced = False
            return self._rendered

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
                self._wake.wait_for(lambda: self._quit or self._mail.any() or self._rendered is not None, PATIENCE)
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
            mail, self._mail = self._mail, Mailbox()
        try:
            self._open_mail(mail)
            self._work()
        except Stopped:
            with self._wake:
                self._mail.restore(mail)
        except WraithonError as error:
            self.failed.emit(str(error))
            self._playing, self._target = False, None
        except Exception as error:
            log.exception("engine")
            self.failed.emit(f"Something unexpected happened while playing ({error}); the log says more")
            self._playing, self._target = False, None
        return True

    def _at_work(self) -> bool:
        player, moving = self._player, self._moving or self._target is not None
        if player is None or self._renderer is None:
            return False
        return self._has_tasks or (moving or self._edited or player.behind)

    @property
    def _has_tasks(self) -> bool:
        """Whether there is something to do besides the show; small pictures wait until somebody can see them."""
        return self._background_tasks.runs and (self._seen or self._background_tasks.measures)

    @property
    def _moving(self) -> bool:
        """Whether pictures follow one another: the show plays, or an effect shows itself while it rests."""
        return self._playing or (self._seen and self._side_simulations.runs)

    def _open_mail(self, mail: Mailbox) -> None:
        if mail.library is not None:  # another project altogether
            self._renderer = RasterRenderer(mail.library.read, mail.library.pieces.read)
            self._samplers = SamplerCache(mail.library.read, self._spacing)
            self._player, self._target = None, None
            self._side_simulations.restart(self._samplers)
            self._background_tasks.restart(mail.library, self._samplers)
        self._side_simulations.set_wanted(mail.audition, mail.crowd)
        if mail.project is not None:
            if self._renderer is not None:
                self._renderer.look_again()
            self._take_project(mail.project, mail.characters)
        self._background_tasks.ask(mail.pictures or {})
        if mail.survey is not None:
            self._background_tasks.survey(mail.survey)
        self._overlay = self._overlay if mail.overlay is None else mail.overlay
        self._view = self._view if mail.view is None else mail.view
        self._size = self._size if mail.size is None else mail.size
        if mail.seen is not None:
            self._seen = mail.seen
            self._side_simulations.note(time.perf_counter())
        if self._player is not None:
            self._go(self._player, mail)
            self._take_tasks(self._player, mail)
            if mail.audition is not None or mail.project is not None:
                self._side_simulations.take(self._player, self._characters, edited=mail.project is not None)
            if mail.crowd is not None:
                self._side_simulations.call(self._player)

    def _take_tasks(self, player: Player, mail: Mailbox) -> None:
        """Begin, or leave, measuring the cost and writing pictures; an edit ends measuring."""
        tasks = self._background_tasks
        if mail.measure is not None or (mail.project is not None and tasks.measures):
            tasks.measure(player, self._characters, mail.measure or 0.0, self._size)
        if mail.export is not None:
            tasks.export(mail.export, player.project, self._characters)

    def _take_project(self, project: Project, characters: dict[str, Character] | None) -> None:
        player = self._player
        self._characters = self._characters if characters is None else dict(characters)
        if player is None:
            self._player = Player(project, characters or {}, self._samplers, partial=True)
            return
        player.adopt(project, characters)
        self._edited = not self._playing and not player.pure and self._target is None

    def _go(self, player: Player, mail: Mailbox) -> None:
        """Play, pause, seek, step and do what hands do as the mail says."""
        if mail.drive is not None and mail.drive != player.driven:
            player.drive(driven=mail.drive)
            self._target, self._edited = None, False
        if mail.playing is not None:
            self._playing = mail.playing
            self._last = time.perf_counter()
            self._speed.reset()
            if not self._playing and not player.pure:
                self._target = player.show.step_number
        self._tempo = self._tempo if mail.tempo is None else mail.tempo
        self._round = self._round if mail.round is None else mail.round
        if mail.seek is not None:
            self._target = player.step_of(mail.seek)
        if mail.steps:
            base = self._target if self._target is not None else player.show.step_number
            self._playing = False
            self._target = max(0, base + mail.steps)
        for what, values, named in mail.given:
            try:
                getattr(player, what)(*values, **named)
            except WraithonError as error:  # of what was deleted meanwhile, say; the show goes on
                self.failed.emit(str(error))

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
        if self._has_tasks:
            resting, since = not self._playing and self._target is None, time.perf_counter()
            self._background_tasks.work(player, self._characters, renderer, resting=resting)
            if self._background_tasks.measures or resting:
                self._last = time.perf_counter()
                self._side_simulations.rest(self._last - since)
            if self._background_tasks.measures:
                return
        began = time.perf_counter()
        if self._edited:
            self._draw(player, renderer)
        if not self._mended(player):
            return
        if self._target is not None:
            if not self._sought(player, self._target):
                return  # the old picture stays until the moment is exact
        else:
            self._advance(player, began)
        self._side_simulations.note(began)
        self._show(player, renderer)
        if self._moving:
            self._keep_pace(renderer, began)

    def _advance(self, player: Player, began: float) -> None:
        """Advance the show, or the audition while it rests."""
        if self._playing:
            elapsed = min(began - self._last, LONGEST_STEP)
            self._last = began
            steps = player.advance(elapsed * self._tempo * player.tempo, self._side_simulations.advance_with)
            if steps:
                self._step_seconds = (time.perf_counter() - began) / steps
            self._go_round(player)
        else:
            self._side_simulations.advance(began, LONGEST_STEP, self._tempo, player.show)

    def _mended(self, player: Player) -> bool:
        """Make exact what an edit changed while paused, or learn a little of its past; return whether to draw."""
        edited, self._edited = self._edited, False
        if self._target is not None or self._playing:
            return True
        if edited and not player.mend():
            self._target = player.show.step_number
        return edited or not player.behind or player.catch_up(CATCH_UP_SLICE) or self._moving

    def _go_round(self, player: Player) -> None:
        """Seek to the beginning of the looped stretch once it is over."""
        start, end = map(player.step_of, self._round)
        if end > start and player.show.step_number >= end:
            self._target = start

    def _sought(self, player: Player, target: int) -> bool:
        """Advance some way towards a step; return whether there is something to show."""
        if player.seek_some(target, SEEK_SLICE):
            self._target = None
            self._last = time.perf_counter()
        elif not self._playing:
            ahead = abs(target - player.show.step_number)
            self.busy.emit("Working out this moment", 1 - min(1.0, ahead / max(1, target)))
            return False
        self.busy.emit("", 1.0)
        return True

    def _keep_pace(self, renderer: Renderer, began: float) -> None:
        """Make the live picture as sharp as there is time for, and wait for the next frame's turn."""
        took = time.perf_counter() - began
        renderer.keep_up(took, Pace.WANTED)
        self._pace.tick(took, may_shrink=renderer.gives_all)
        period = FRAME if self._playing else self._thrift.period(hurried=self._has_tasks)
        spare = period - (time.perf_counter() - began)
        if spare > 0:
            with self._wake:
                if not self._mail.any() and not self._quit:
                    self._wake.wait(spare)

    def _show(self, player: Player, renderer: Renderer) -> None:
        """Draw the moment; of a playing show that nobody sees, only its time and its sounds go on."""
        rendered = self._rendered
        if self._playing and not self._seen and rendered is not None:
            self._announce(heard_of(player, rendered))
        else:
            self._draw(player, renderer)

    def _draw(self, player: Player, renderer: Renderer) -> None:
        began = time.perf_counter()
        view = self._view
        assert view is not None  # _work has looked
        frame = self._coloured(player)
        scale = self._pace.scale if self._moving else 1.0
        width, height = (max(64, round(side * scale)) for side in self._size)
        picture = renderer.draw(frame, view, width, height, live=self._moving)
        # Made as large as it is shown here: the window has enough to do.
        pixels = enlarged(picture.pixels, *self._size)
        now = time.perf_counter()
        alive = player.show.alive + self._side_simulations.alive
        figures = Figures(
            self._speed.tick(now), alive, player.show.refused, self._step_seconds * 1000,
            (now - began) * 1000, picture.coarseness, scale,
        )  # fmt: skip
        living = living_of(player.show, self._side_simulations.show)
        problems = (*renderer.problems.values(), *player.problems())
        beside = FrameExtras(figures, self._playing, problems, self._heat.births, living)
        self._announce(rendered_of(player, frame, view, pixels, beside))

    def _coloured(self, player: Player) -> Frame:
        """Return the moment, with the skin coloured by the overlay."""
        frame = self._side_simulations.frame(player)
        heat = self._heat.of(player, self._overlay)
        if heat is None or frame.body is None:
            return frame
        ramp = "balance" if self._overlay.kind == "density" else "share"
        return replace(frame, body=replace(frame.body, heat=heat, ramp=ramp))

    def _announce(self, rendered: RenderedFrame) -> None:
        """Leave a picture for the window, which is told unless it was told already and has not taken one."""
        with self._wake:
            if self._mail.library is not None:
                return  # another project waits: this picture is of the one before
            self._rendered = rendered
            announce = not self._announced
            self._announced = True
        if announce:
            self.frame_ready.emit()
