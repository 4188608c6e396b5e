"""The animations of a glTF file, as clips."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.model import Clip, Track
from wraithon.character.reading.gltf_file import FARTHEST, GltfFile
from wraithon.character.reading.gltf_nodes import with_unique_names

if TYPE_CHECKING:
    from numpy.typing import NDArray


MODES = {"STEP": 0, "LINEAR": 1, "CUBICSPLINE": 2}
LONGEST_CLIP = 86_400.0
PATHS = {"translation": 0, "rotation": 1, "scale": 2}
HEAVIEST = 1e4
"""What the weight of a morph target may be at most."""
MAX_SET = 40_000_000
"""Numbers that a channel of weights may hold, four to a weight."""

Sampled = tuple["NDArray[np.float32]", "NDArray[np.float32]", int]
"""Times (K,), values (K or 3 K, C) and mode of interpolation."""


class ClipReader:
    """Reads the clips of one file; what is left out goes into `notes`.

    Parameters
    ----------
    file
        The file.
    rows
        The row of each of the file's nodes.
    weighed
        The first weight and the number of weights of each of the file's nodes whose mesh has morph targets.
    notes, progress
        Told what is left out, and the share done.
    """

    def __init__(
        self,
        file: GltfFile,
        rows: Mapping[int, int],
        weighed: Mapping[int, tuple[int, int]],
        notes: list[str],
        progress: Callable[[float], None],
    ) -> None:
        self.file, self.rows, self.weighed = file, rows, weighed
        self.notes, self.progress = notes, progress
        self._cache: dict[tuple[int, str], Sampled] = {}

    def read(self) -> tuple[Clip, ...]:
        """Return the file's clips.

        Raises
        ------
        wraithon.support.errors.CharacterError
            With the place in the file.
        """
        animations = self.file.items("animations")
        names = with_unique_names([self.file.name(a, f"clip {i + 1}") for i, a in enumerate(animations)])
        clips = []
        for i, (name, animation) in enumerate(zip(names, animations, strict=True)):
            self.progress(0.6 + 0.3 * i / len(animations))
            location = f"animations[{i}]"
            samplers = self.file.items("samplers", animation, location)
            self._cache = {}
            tracks: list[Track] = []
            shaping: list[Track] = []
            for k, channel in enumerate(self.file.items("channels", animation, location)):
                self._channel(channel, samplers, f"{location}.channels[{k}]", location, tracks, shaping)
            if tracks or shaping:
                clips.append(Clip.pack(name, tracks, shaping))
            else:
                self.notes.append(f"{location}: it moves no joint and is left out")
        return tuple(clips)

    def _channel(
        self,
        channel: dict[str, Any],
        samplers: list[dict[str, Any]],
        here: str,
        location: str,
        tracks: list[Track],
        shaping: list[Track],
    ) -> None:
        """Add what a channel moves to `tracks`, or the weights that it sets to `shaping`."""
        target = channel.get("target")
        if not isinstance(target, dict):
            self.file.fail(f"{here}.target", "must be an object")
        word = target.get("path")
        if not isinstance(word, str) or word not in {*PATHS, "weights"} or "node" not in target:
            return  # a target an extension describes
        self.file.item("nodes", target["node"], f"{here}.target.node")
        number = channel.get("sampler")
        if not isinstance(number, int) or not 0 <= number < len(samplers):
            self.file.fail(f"{here}.sampler", f"refers to sampler {number}, but there are {len(samplers)}")
        if (number, word) not in self._cache:
            self._cache[number, word] = self._sampler(samplers[number], f"{location}.samplers[{number}]", word)
        times, values, mode = self._cache[number, word]
        if word != "weights":
            self._counted(values, len(times), mode, location)
            tracks.append(Track(self.rows[target["node"]], PATHS[word], mode, times, values))
            return
        first, count = self.weighed.get(target["node"], (0, 0))
        if not count:
            self.notes.append(f"{here}: it sets weights of a mesh without morph targets and is left out")
            return
        self._counted(values, len(times) * count, mode, location)
        if values.size > MAX_SET:
            self.file.fail(f"{here}", f"it sets weights at more than {MAX_SET // 4:,} places; export fewer keys")
        # Weights of one moment follow one another; with CUBICSPLINE in-tangents come first, then values, then out.
        apart = values[:, 0].reshape(len(times), 3 if mode == 2 else 1, count)
        for weight in range(count):
            column = np.zeros((apart.shape[0] * apart.shape[1], 4), np.float32)
            column[:, 0] = apart[:, :, weight].reshape(-1)
            shaping.append(Track(first + weight, 0, mode, times, column))

    def _counted(self, values: NDArray[np.float32], moments: int, mode: int, location: str) -> None:
        wanted = moments * (3 if mode == 2 else 1)
        if len(values) != wanted:
            self.file.fail(f"{location}.output", f"{len(values)} values where {wanted} are needed")

    def _sampler(self, sampler: dict[str, Any], location: str, target: str) -> Sampled:
        word = sampler.get("interpolation", "LINEAR")
        if not isinstance(word, str) or word not in MODES:
            self.file.fail(f"{location}.interpolation", f"{word!r} is not one of {', '.join(MODES)}")
        kind = {"rotation": "VEC4", "weights": "SCALAR"}.get(target, "VEC3")
        times = self.file.floats(sampler.get("input"), f"{location}.input", ("SCALAR",))[:, 0]
        values = self.file.floats(sampler.get("output"), f"{location}.output", (kind,))
        if not len(times):
            self.file.fail(f"{location}.input", "it has no keys")
        if (np.diff(times) <= 0).any() or times[0] < 0:
            self.file.fail(
                f"{location}.input", f"key {int((np.diff(times) <= 0).argmax()) + 1}: times must rise from 0"
            )
        if times[-1] > LONGEST_CLIP:
            self.file.fail(f"{location}.input", f"it ends after {times[-1]:g} s; a clip may last {LONGEST_CLIP:g} s")
        if target == "weights" and (np.abs(values) > HEAVIEST).any():
            self.file.fail(f"{location}.output", f"it weighs a morph target beyond {HEAVIEST:,.0f}; export it again")
        if (np.abs(values) > FARTHEST).any():
            self.file.fail(
                f"{location}.output", f"it moves or scales a joint beyond {FARTHEST:,.0f}; export it again"
            )
        padded = np.zeros((len(values), 4), np.float32)
        padded[:, : values.shape[1]] = values
        return np.ascontiguousarray(times), padded, MODES[word]
