"""Findings about sheets: frames that the picture does not hold."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.picture.making.importing import EMPTY
from wraithon.project.checks.finding import Finding, Level, layer_remedy
from wraithon.project.checks.remembering import PerEffect
from wraithon.project.look import SheetPlay, SpriteLook
from wraithon.support.errors import WraithonError

if TYPE_CHECKING:
    from pathlib import Path

    from numpy.typing import NDArray

    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.checks.finding import Remedy
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project


def empty_frames(picture: NDArray[np.uint8], columns: int, rows: int) -> int:
    """Return how many of a sheet's frames show nothing; of a picture without clear places there is no telling."""
    opacity = picture[..., 3] / 255.0
    if opacity.min() > EMPTY:
        return 0
    height, width = opacity.shape
    across, down = (np.linspace(0, size, many + 1).astype(int) for size, many in ((width, columns), (height, rows)))
    return sum(
        not opacity[down[row] : down[row + 1], across[column] : across[column + 1]].size
        or float(opacity[down[row] : down[row + 1], across[column] : across[column + 1]].max()) <= EMPTY
        for row in range(rows)
        for column in range(columns)
    )


def _cut(layer: str, columns: int, rows: int) -> Remedy:
    changes = {"look__sheet__columns": columns, "look__sheet__rows": rows}
    return layer_remedy(f"Cut it into {columns} × {rows}", layer, **changes)


def _cut_layers(effect: Effect) -> tuple[tuple[Layer, SpriteLook], ...]:
    """Return an effect's layers whose picture is cut into frames, with their looks."""
    looks = ((layer, layer.look) for layer in effect.layers)
    return tuple(
        (layer, look) for layer, look in looks if isinstance(look, SpriteLook) and look.frames > 1 and look.texture
    )


class Sheets:
    """Looks at the pictures that layers cut into frames; what was looked at is kept while the file is the same."""

    def __init__(self) -> None:
        self._cut: PerEffect[tuple[tuple[Layer, SpriteLook], ...]] = PerEffect()
        self._findings: PerEffect[tuple[Finding, ...]] = PerEffect()
        self._seen: dict[tuple[_File, int, int], tuple[int, tuple[int, int]]] = {}

    def findings(self, project: Project, library: TextureLibrary) -> list[Finding]:
        """Return where layers show frames that are empty."""
        files: dict[str, _File | None] = {}
        found: list[Finding] = []
        for effect in project.effects:
            cut = self._cut.of(effect, (), partial(_cut_layers, effect))
            for name in {look.texture for _, look in cut} - files.keys():
                files[name] = _file_of(library, name)
            there = tuple(files[look.texture] for _, look in cut)
            found += self._findings.of(
                effect, there, partial(self._found, effect, tuple(zip(cut, there, strict=True)), library)
            )
        return found

    def _found(
        self, effect: Effect, cut: tuple[tuple[tuple[Layer, SpriteLook], _File | None], ...], library: TextureLibrary
    ) -> tuple[Finding, ...]:
        found = []
        for (layer, look), file in cut:
            if file is None:
                continue  # that it cannot be read is told elsewhere
            sheet = look.sheet
            empty, (columns, rows) = self._of(file, library, look.texture, sheet.columns, sheet.rows)
            right = (columns, rows) == (sheet.columns, sheet.rows)
            if not empty or (right and sheet.play is not SheetPlay.CHANCE):
                continue  # where its last frames have faded, that is how it ends
            text = f"{empty} of its {look.frames} frames are empty: particles that show one are not seen"
            remedy = None if right or columns * rows == 1 else _cut(layer.id, columns, rows)
            position = f'effect "{effect.name}", layer "{layer.name}"'
            found.append(Finding(Level.WARNING, position, text, layer.id, remedy))
        return tuple(found)

    def _of(
        self, file: _File, library: TextureLibrary, name: str, columns: int, rows: int
    ) -> tuple[int, tuple[int, int]]:
        key = file, columns, rows
        try:
            if key not in self._seen:
                self._seen[key] = empty_frames(library.read(name), columns, rows), library.frames(name)
        except (OSError, WraithonError):
            return 0, (1, 1)
        return self._seen[key]


class _File(NamedTuple):
    """A file as it is now."""

    path: Path
    changed: int


def _file_of(library: TextureLibrary, name: str) -> _File | None:
    path = library.path(name)
    try:
        return None if path is None else _File(path, path.stat().st_mtime_ns)
    except OSError:
        return None
