"""Writing pictures: one moment, or a numbered sequence."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from PIL import Image

from wraithon.project.files import write_atomic
from wraithon.support.errors import RenderError, WraithonError

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.picture.renderer import Renderer
    from wraithon.project.project import View
    from wraithon.stage.player import Player


MAX_PICTURES = 100_000
SEEK_SLICE = 20
"""Steps of a seek in one slice of the work."""

Report = Callable[[int, int], bool]
"""Told how many of how many are done; answers whether to go on."""


def write_picture(pixels: NDArray[np.uint8], path: Path) -> None:
    """Write pixels (H, W, 4) as a picture of the kind the name ends in: .png, .jpg or .webp.

    Raises
    ------
    wraithon.support.errors.RenderError
        When the ending is another, or the file cannot be written.
    """
    kinds = {".png": "PNG", ".jpg": "JPEG", ".jpeg": "JPEG", ".webp": "WEBP"}
    kind = kinds.get(path.suffix.lower())
    if kind is None:
        raise RenderError(f"{path}: name the picture .png, .jpg or .webp")
    data = io.BytesIO()
    # Packed harder, a picture would be a tenth smaller and take three times as long.
    Image.fromarray(pixels[..., :3]).save(data, kind, quality=95, compress_level=2)
    try:
        write_atomic(path, data.getvalue())
    except WraithonError as error:
        raise RenderError(str(error)) from error


def numbered(pattern: str, number: int) -> Path:
    """Return the pattern with its run of # replaced by the number, zero-padded.

    Raises
    ------
    wraithon.support.errors.RenderError
        When there is not exactly one run of #.
    """
    runs = re.findall(r"#+", pattern)
    if len(runs) != 1:
        raise RenderError(f"{pattern}: a sequence needs one run of # for the number, as in shot_####.png")
    return Path(pattern.replace(runs[0], str(number).zfill(len(runs[0]))))


def rendering(
    player: Player, renderer: Renderer, view: View, moments: Iterable[tuple[float, Path]], size: tuple[int, int]
) -> Iterator[int]:
    """Write pictures of moments, in seconds, as seen from a view, at `size` (width, height), a slice at a time.

    Yields
    ------
    int
        How many are written.
    """
    for number, (time, path) in enumerate(moments):
        target = player.step_of(time)
        while not player.seek_some(target, SEEK_SLICE):
            yield number
        write_picture(renderer.draw(player.frame(), view, *size).pixels, path)
        yield number + 1


def render_moment(player: Player, renderer: Renderer, time: float, size: tuple[int, int], path: Path) -> None:
    """Write the picture of one moment of the show, in seconds, at `size` (width, height)."""
    for _ in rendering(player, renderer, player.project.view, [(time, path)], size):
        pass


def sequence(pattern: str, start: float, fps: float, count: int) -> Iterator[tuple[float, Path]]:
    """Yield the moments of a sequence, in seconds, and where their pictures go."""
    for number in range(count):
        yield start + number / fps, numbered(pattern, number)


def render_sequence(
    player: Player,
    renderer: Renderer,
    span: tuple[float, float],
    fps: float,
    size: tuple[int, int],
    pattern: str,
    report: Report,
) -> int:
    """Write a picture for every 1 / fps seconds of [from, to); return how many were written.

    Raises
    ------
    wraithon.support.errors.RenderError
        When the span is empty, holds too many pictures, or the pattern has no number.
    """
    numbered(pattern, 0)
    count = round((span[1] - span[0]) * fps)
    if not 1 <= count <= MAX_PICTURES:
        raise RenderError(f"{span[0]:g} to {span[1]:g} s at {fps:g} a second makes {count} pictures; change the span")
    moments = sequence(pattern, span[0], fps, count)
    reported = 0
    for done in rendering(player, renderer, player.project.view, moments, size):
        if done > reported:
            reported = done
            if not report(done, count):
                break
    return reported
