"""Keeping pace: how late frames are, the live picture's size, and how many frames a second there are."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable


class Backlog:
    """How far frames have fallen behind, in seconds; time that frames leave over pays it back.

    So a moment that is a little too slow passes as it is, and one that is much too slow is heard of soon.

    Parameters
    ----------
    limit
        Seconds at which something has to change.
    """

    def __init__(self, limit: float) -> None:
        self._limit, self._owed = limit, 0.0

    def tick(self, seconds: float, wanted: float) -> bool:
        """Take how long a frame took and was to take; return whether it came late with the limit reached."""
        late = min(seconds, 2 * wanted) - wanted  # one frame that stalls says little
        self._owed = min(max(0.0, self._owed + late), self._limit)
        return late > 0 and self._owed >= self._limit

    def reset(self) -> None:
        """Forget what is owed."""
        self._owed = 0.0


class Pace:
    """Makes the live picture smaller when even coarse sprites do not make it quick enough.

    It shrinks one size at a time, no sooner than the last change has shown its effect, and grows again when there is
    plenty of time. With some time to spare it tries a larger size now and then, since the size is not all that
    costs; what did not go well is tried again after twice as long.
    """

    SIZES = (1.0, 0.85, 0.72, 0.6)
    WANTED = 1 / 30
    """Seconds a frame may take on average, what the window takes away from it included."""
    PATIENCE, CAUTION = 25, 120
    HOPE, LONGEST = 180, 1440
    """Frames after which a larger size is tried, at first and at most."""
    LATE = 0.43
    """Seconds frames may fall behind before the picture shrinks."""

    def __init__(self) -> None:
        self._backlog = Backlog(self.LATE)
        self._size, self._since, self._mean = 0, 0, 0.0
        self._hope, self._trying = self.HOPE, False

    @property
    def scale(self) -> float:
        """Sides of the picture as a share of full size."""
        return self.SIZES[self._size]

    def tick(self, seconds: float, *, may_shrink: bool) -> None:
        """Take how long a frame took; `may_shrink` when sprites are as coarse as they may get."""
        late = self._backlog.tick(seconds, self.WANTED)
        seconds = min(seconds, 2 * self.WANTED)
        self._mean = seconds if not self._mean else self._mean + 0.15 * (seconds - self._mean)
        self._since += 1
        if self._trying and self._since > 2 * self.CAUTION:
            self._hope, self._trying = self.HOPE, False  # it went well
        if late and may_shrink and self._since > self.PATIENCE:
            if self._trying:
                self._hope, self._trying = min(2 * self._hope, self.LONGEST), False
            self._change(min(self._size + 1, len(self.SIZES) - 1))
        elif self._size and self._mean < self.WANTED * 0.74 and self._since > self.CAUTION:
            self._change(self._size - 1)
        elif self._size and self._mean < self.WANTED * 0.92 and self._since > self._hope:
            self._trying = True
            self._change(self._size - 1)

    def _change(self, size: int) -> None:
        if size != self._size:
            self._size, self._since, self._mean = size, 0, 0.0
            self._backlog.reset()


class Thrift:
    """Spaces frames that may be fewer so that the program takes a share of one processor, not all of it.

    What shows itself while all else rests is looked at beside other work. On a quick machine frames come as often as
    half the screens show them; a slow one has fewer of them.

    Parameters
    ----------
    clock
        Returns the processor time that the program has taken, in seconds.
    """

    SHARE = 0.28
    OFTEN, SELDOM = 1 / 30, 1 / 9
    """Seconds from one frame to the next at least, and at most."""

    def __init__(self, clock: Callable[[], float] = time.process_time) -> None:
        self._clock, self._before, self._mean = clock, clock(), 0.0

    def period(self, *, hurried: bool = False) -> float:
        """Take note that a frame was drawn; return the seconds there are to be from its beginning to the next one's.

        While there is more to do than to show, and somebody waits for it, the program is `hurried`.
        """
        now = self._clock()
        took, self._before = min(now - self._before, self.SELDOM), now
        self._mean += 0.2 * (took - self._mean)
        return self.OFTEN if hurried else min(max(self.OFTEN, self._mean / self.SHARE), self.SELDOM)


class Speed:
    """Frames a second, smoothed over about half a second."""

    def __init__(self) -> None:
        self._last = 0.0
        self._mean = 0.0

    def reset(self) -> None:
        """Begin anew."""
        self._last = 0.0
        self._mean = 0.0

    def tick(self, now: float) -> float:
        """Count a frame; return frames a second, 0 before the second one."""
        if self._last:
            gap = now - self._last
            self._mean = gap if not self._mean else self._mean + (gap - self._mean) * min(1.0, gap / 0.5)
        self._last = now
        return 1 / self._mean if self._mean else 0.0
