"""Sounds: where a project's come from, and their samples."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.library import FileLibrary
from wraithon.support.errors import RenderError
from wraithon.support.places import sound_folder
from wraithon.support.plain_files import read_plain

if TYPE_CHECKING:
    from numpy.typing import NDArray


SOUND_ENDINGS = frozenset({".wav"})
RATE, CHANNELS = 48_000, 2
"""Samples a second, and how many beside one another, that sounds are turned into."""
LARGEST, LONGEST = 32 * 2**20, 60.0
"""Bytes of a file, and seconds of a sound, at most."""


class SoundLibrary(FileLibrary):
    """The sounds a project may use, by file name.

    Parameters
    ----------
    folder
        The project's folder; None for one that is not saved yet.
    """

    def __init__(self, folder: Path | None) -> None:
        super().__init__([*([folder / "sounds"] if folder else []), sound_folder()], SOUND_ENDINGS)

    def keep(self, path: Path) -> str:
        """Copy a file into the user's own sounds; return its name there.

        Raises
        ------
        wraithon.support.errors.WraithonError
            When it cannot be read as a sound, or not be written.
        """
        data = _bytes_of(path)
        _samples(data, path.name)
        return self.store(path, data)

    def read(self, name: str) -> NDArray[np.float32]:
        """Return a sound's samples (n, CHANNELS), -1 to 1, RATE of them a second.

        Raises
        ------
        wraithon.support.errors.RenderError
            When there is none of that name, or it cannot be read.
        """
        path = self.file(name, "sound", "drop a .wav file on the window")
        return _samples(_bytes_of(path, path.parent.parent), name)


def _bytes_of(path: Path, within: Path | None = None) -> bytes:
    try:
        return read_plain(path, LARGEST, within)
    except OSError as error:
        raise RenderError(f"{path.name}: cannot be read ({error.strerror}); check the file") from error


def _samples(data: bytes, name: str) -> NDArray[np.float32]:
    import miniaudio  # it takes as long to import as the window to show

    try:
        info = miniaudio.wav_get_info(data)
    except miniaudio.MiniaudioError as error:
        raise RenderError(f"{name}: not a WAV file that can be read; save it as one with 16 bits") from error
    if not info.num_frames or info.duration > LONGEST:
        raise RenderError(f"{name}: {info.duration:.3g} s cannot be a sound here; use up to {LONGEST:g} s of it")
    try:
        made = miniaudio.decode(data, miniaudio.SampleFormat.FLOAT32, CHANNELS, RATE)
    except miniaudio.MiniaudioError as error:
        raise RenderError(f"{name}: not a WAV file that can be read; save it as one with 16 bits") from error
    samples = np.frombuffer(made.samples, np.float32).reshape(-1, CHANNELS)
    return np.clip(np.nan_to_num(samples), -1.0, 1.0).astype(np.float32)
