"""The speaker: what triggers play is heard while the show plays, where there is a device for it."""

from __future__ import annotations

import logging
import os
import threading
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from wraithon.sounds import CHANNELS, RATE
from wraithon.support.errors import WraithonError

if TYPE_CHECKING:
    from collections.abc import Generator, Iterable

    from numpy.typing import NDArray

    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.sounds import SoundLibrary


log = logging.getLogger(__name__)

MAX_AT_ONCE = 32
"""Sounds that are heard at once; the oldest end for newer ones."""
LATEST = 0.25
"""Seconds of the show that a picture may be behind a sound for that to be heard with it; after a leap it is not."""


class SoundMixer:
    """Sums up what sounds at once. Used from two threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._heard: list[tuple[NDArray[np.float32], int]] = []

    def add(self, samples: NDArray[np.float32], volume: float) -> None:
        """Play samples (n, CHANNELS) from now on."""
        with self._lock:
            self._heard = [*self._heard[-(MAX_AT_ONCE - 1) :], (samples * np.float32(volume), 0)]

    def hush(self) -> None:
        """Silence everything."""
        with self._lock:
            self._heard = []

    def take(self, frames: int) -> NDArray[np.float32]:
        """Return the next samples (frames, CHANNELS), from -1 to 1."""
        out = np.zeros((frames, CHANNELS), np.float32)
        with self._lock:
            left = []
            for samples, start in self._heard:
                part = samples[start : start + frames]
                out[: len(part)] += part
                if start + frames < len(samples):
                    left.append((samples, start + frames))
            self._heard = left
        return np.clip(out, -1.0, 1.0)


class Speaker(QObject):
    """Plays the sounds of pictures that follow one another.

    Signals
    -------
    failed
        Why a sound cannot be heard, in words.
    """

    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.mixer = SoundMixer()
        self._library: SoundLibrary | None = None
        self._known: dict[str, NDArray[np.float32] | str | None] = {}
        """What was read, by name; why it could not be, or None while it is not yet."""
        self._late: dict[str, float] = {}
        """How loud what was to be heard is while it is still read."""
        self._lost: set[str] = set()
        """Names of which there was no file."""
        self._last = 0.0
        self._device: object = None
        self._tried = False

    def take(self, library: SoundLibrary, names: Iterable[str] = ()) -> None:
        """Play the sounds of a shelf from now on, of which these are to be heard; those of another are forgotten."""
        if library is not self._library:
            self._library, self._known, self._late, self._lost = library, {}, {}, set()
        self.prepare(names)

    def prepare(self, names: Iterable[str]) -> None:
        """Read sounds that are to be heard later, beside the window: the library for it takes a while to import."""
        library = self._library
        if library is None:
            return
        for name in list(self._lost):  # another thread may find more
            if library.path(name) is not None:  # it was brought in meanwhile
                self._lost.discard(name)
                self._known.pop(name, None)
        missing = sorted(set(names) - self._known.keys())
        if missing:
            self._known.update(dict.fromkeys(missing))
            job = threading.Thread(
                target=self._read, args=(library, missing, self._known), name="sounds", daemon=True
            )  # fmt: skip
            job.start()

    def play(self, rendered: RenderedFrame) -> None:
        """Play what sounded since the picture before, if that was just now."""
        last, self._last = self._last, rendered.time
        if not rendered.playing:
            self.mixer.hush()
            return
        if not last < rendered.time < last + LATEST:
            return
        for heard in rendered.sounds:
            if last < heard.time <= rendered.time:
                self._play(heard.name, heard.volume)

    def _play(self, name: str, volume: float) -> None:
        if name in self._lost:
            self.prepare([name])
        known = self._known.get(name)
        if known is None:
            self._late[name] = volume  # it is heard as soon as it was read
            self.prepare([name])
        elif isinstance(known, str):
            if known:
                self._known[name] = ""  # once is enough
                self.failed.emit(known)
        else:
            self._open()
            self.mixer.add(known, volume)

    def _read(
        self, library: SoundLibrary, names: list[str], known: dict[str, NDArray[np.float32] | str | None]
    ) -> None:
        for name in names:
            try:
                known[name] = library.read(name)
            except WraithonError as error:
                known[name] = str(error)
                if known is self._known and library.path(name) is None:
                    self._lost.add(name)
            if known is not self._known:
                return  # another shelf's are played by now
            if name in self._late:
                self._play(name, self._late.pop(name))

    # ---- the device -----------------------------------------------------------------------------

    def _open(self) -> None:
        """Open a sound device on a thread of its own, once; without one all stays silent."""
        if not self._tried:
            self._tried = True
            threading.Thread(target=self._run, name="speaker", daemon=True).start()

    def _run(self) -> None:
        if not has_device():
            log.info("there is no sound device: sounds are silent")
            return
        import miniaudio  # it takes as long to import as the window to show

        try:
            device = miniaudio.PlaybackDevice(miniaudio.SampleFormat.FLOAT32, CHANNELS, RATE, buffersize_msec=40)
            stream = self._stream()
            next(stream)
            device.start(stream)
        except miniaudio.MiniaudioError as error:
            log.warning("sounds stay silent: %s", error)
            return
        self._device = device

    def _stream(self) -> Generator[bytes, int]:
        frames = yield b""
        while True:
            frames = yield self.mixer.take(frames).tobytes()

    def shut(self) -> None:
        """Close the device."""
        device, self._device = self._device, None
        if device is not None:
            device.close()  # type: ignore[attr-defined]  # miniaudio's, which is imported late


def has_device() -> bool:
    """Return whether there seems to be something to hear sounds with: asking a library that finds none is loud."""
    if os.environ.get("PULSE_SERVER"):
        return True
    run = Path(os.environ.get("XDG_RUNTIME_DIR", "/run/user/none"))
    return (run / "pulse" / "native").exists() or (run / "pipewire-0").exists() or Path("/dev/snd").is_dir()
