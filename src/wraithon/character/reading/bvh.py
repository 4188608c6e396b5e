"""Reading .bvh motion files: a hierarchy of joints with offsets and channels, and frames of numbers."""

from __future__ import annotations

import re
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import numpy as np

from wraithon.support.errors import CharacterError
from wraithon.support.plain_files import read_plain

if TYPE_CHECKING:
    from numpy.typing import NDArray


LARGEST_FILE = 512 * 2**20
MAX_JOINTS, MAX_FRAMES = 2000, 1_000_000
CHANNELS = ("Xposition", "Yposition", "Zposition", "Xrotation", "Yrotation", "Zrotation")


@dataclass(frozen=True, eq=False)
class Capture:
    """What a motion file holds, in its own unit of length. Two are equal only when they are the same."""

    name: str
    joints: tuple[str, ...]
    parents: NDArray[np.int32]
    """(J,) parents before children, -1 for a root."""
    offsets: NDArray[np.float64]
    """(J, 3) from the parent at rest."""
    ends: NDArray[np.float64]
    """(J, 3) from a joint to its end site; NaN where it has none."""
    positions: NDArray[np.float64]
    """(F, J, 3) local translations."""
    rotations: NDArray[np.float64]
    """(F, J, 3, 3) local rotations."""
    frame_time: float

    @property
    def seconds(self) -> float:
        """Length from the first frame to the last."""
        return (len(self.positions) - 1) * self.frame_time

    def placed(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return world positions (F, J, 3) and rotations (F, J, 3, 3) of all frames."""
        positions, turns = self.positions.copy(), self.rotations.copy()
        for joint, parent in enumerate(self.parents):
            if parent >= 0:
                positions[:, joint] = positions[:, parent] + np.einsum(
                    "fij,fj->fi", turns[:, parent], self.positions[:, joint]
                )
                turns[:, joint] = turns[:, parent] @ self.rotations[:, joint]
        return positions, turns

    def rest_positions(self) -> NDArray[np.float64]:
        """Return where joints are at rest (J, 3)."""
        positions = self.offsets.copy()
        for joint, parent in enumerate(self.parents):
            if parent >= 0:
                positions[joint] += positions[parent]
        return positions


class _Words:
    """The file's words one after another, found as they are asked for."""

    WORD = re.compile(r"[{}]|[^\s{}]+")

    def __init__(self, name: str, text: str) -> None:
        self.name = name
        self._text = text
        self._end = 0
        self._back = 0
        """Where the word before the last begins, for messages."""
        self._ahead: re.Match[str] | None = None

    def fail(self, what: str) -> NoReturn:
        line = self._text.count("\n", 0, self._back) + 1
        raise CharacterError(f"{self.name}, line {line}: {what}; export the motion again")

    def _look(self) -> re.Match[str] | None:
        if self._ahead is None:
            self._ahead = self.WORD.search(self._text, self._end)
        return self._ahead

    def next(self) -> str:
        found = self._look()
        if found is None:
            self.fail("the file ends here, though more should follow")
        self._back, self._end, self._ahead = found.start(), found.end(), None
        return found.group()

    def peek(self) -> str:
        found = self._look()
        return found.group() if found else ""

    def expect(self, wanted: str) -> None:
        word = self.next()
        if word.upper().rstrip(":") != wanted.upper().rstrip(":"):
            self.fail(f'"{wanted}" is expected, not "{word[:40]}"')

    def number(self) -> float:
        word = self.next()
        try:
            value = float(word)
        except ValueError:
            self.fail(f'a number is expected, not "{word[:40]}"')
        if not np.isfinite(value) or abs(value) > 1e9:
            self.fail(f"{word[:40]} is no number a joint can have")
        return value

    def numbers(self, count: int) -> NDArray[np.float64]:
        """Return the next numbers; what follows them is not looked at."""
        rest = self._text[self._end :]
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("error", DeprecationWarning)
                values = np.fromstring(rest, np.float64, sep=" ")
        except (ValueError, DeprecationWarning):  # not all of it is numbers: word by word, then
            try:
                values = np.array(rest.split(None, count)[:count], np.float64)
            except ValueError:
                self.fail("the frames hold something that is no number")
        if len(values) < count:
            self.fail(f"{count} numbers are promised, but only {len(values)} numbers follow")
        return values[:count]


class _Hierarchy:
    def __init__(self, text: _Words) -> None:
        self.text = text
        self.joints: list[str] = []
        self.parents: list[int] = []
        self.offsets: list[list[float]] = []
        self.ends: list[list[float]] = []
        self.channels: list[list[int]] = []

    def read(self) -> None:
        """Read joints until the motion begins; a stack, because files may nest without end."""
        text, above = self.text, [-1]
        while text.peek().upper() in {"ROOT", "JOINT", "END", "}"}:
            word = text.next().upper()
            if word == "}":
                if len(above) == 1:
                    text.fail("one bracket too many is closed")
                above.pop()
            elif word == "END":
                text.next()
                text.expect("{")
                text.expect("OFFSET")
                self.ends[above[-1]] = [text.number() for _ in range(3)]
                text.expect("}")
            else:
                above.append(self._joint(above[-1]))
        if len(above) > 1:
            text.fail("a bracket is not closed")
        if not self.joints:
            text.fail("there are no joints")

    def _joint(self, parent: int) -> int:
        text = self.text
        if len(self.joints) >= MAX_JOINTS:
            text.fail(f"there are more than {MAX_JOINTS} joints")
        name = text.next()
        while text.peek() not in {"{", ""}:
            name += " " + text.next()
        text.expect("{")
        text.expect("OFFSET")
        self.joints.append(name)
        self.parents.append(parent)
        self.offsets.append([text.number() for _ in range(3)])
        self.ends.append([np.nan] * 3)
        channels: list[int] = []
        if text.peek().upper() == "CHANNELS":
            text.next()
            count = text.number()
            if not 0 <= count <= 6:
                text.fail("a joint has at most six channels")
            for _ in range(int(count)):
                word = text.next()
                known = [c.lower() for c in CHANNELS]
                if word.lower() not in known:
                    text.fail(f'"{word[:40]}" is no channel')
                channels.append(known.index(word.lower()))
        self.channels.append(channels)
        return len(self.joints) - 1


def read_bvh(path: Path, within: Path | None = None) -> Capture:
    """Read a .bvh file; links must not lead out of `within`, when that is given.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When the file is missing or broken; the text names the file and the line.
    """
    path = Path(path)
    try:
        text = read_plain(path, LARGEST_FILE, within).decode("utf-8", errors="replace")
    except OSError as error:
        raise CharacterError(f"{path}: cannot be read ({error.strerror}); choose another file") from error
    label = _Words(path.name, text)
    label.expect("HIERARCHY")
    tree = _Hierarchy(label)
    tree.read()
    label.expect("MOTION")
    label.expect("Frames")
    frames = label.number()
    if not 1 <= frames <= MAX_FRAMES:
        label.fail(f"there must be 1 to {MAX_FRAMES} frames")
    label.expect("Frame")
    label.expect("Time")
    frame_time = label.number()
    if frame_time <= 0:
        label.fail("the time of a frame must be above zero")
    return _capture(path, tree, _values(label, int(frames), sum(map(len, tree.channels))), frame_time)


def _values(text: _Words, frames: int, width: int) -> NDArray[np.float64]:
    values = text.numbers(frames * width).reshape(frames, width)
    if not np.isfinite(values).all() or np.abs(values).max(initial=0) > 1e9:
        text.fail("the frames hold a number that no joint can have")
    return values


def _capture(path: Path, tree: _Hierarchy, values: NDArray[np.float64], frame_time: float) -> Capture:
    frames, joints = len(values), len(tree.joints)
    offsets = np.array(tree.offsets)
    positions = np.broadcast_to(offsets, (frames, joints, 3)).copy()
    rotations = np.tile(np.eye(3), (frames, joints, 1, 1))
    column = 0
    for joint, channels in enumerate(tree.channels):
        for channel in channels:
            if channel < 3:
                # A moving joint's channels stand for its offset, not on top of it.
                positions[:, joint, channel] = values[:, column]
            else:
                rotations[:, joint] = rotations[:, joint] @ _about(channel - 3, values[:, column])
            column += 1
    return Capture(
        path.stem, tuple(tree.joints), np.array(tree.parents, np.int32), offsets, np.array(tree.ends), positions,
        rotations, frame_time,
    )  # fmt: skip


def _about(axis: int, degrees: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return rotations (F, 3, 3) about an axis."""
    cosine, sine = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    out = np.tile(np.eye(3), (len(degrees), 1, 1))
    one, two = (axis + 1) % 3, (axis + 2) % 3
    out[:, one, one] = out[:, two, two] = cosine
    out[:, two, one], out[:, one, two] = sine, -sine
    return out
