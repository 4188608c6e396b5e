"""Veils: films drawn by themselves into patches, which are then laid among sprites, and bend what is behind them."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.picture.kernels.columns import B_MEAN, BOX_COLUMNS, PATCH_COLUMNS
from wraithon.picture.kernels.patch_kernels import bend_picture, double_patch
from wraithon.picture.kernels.raster_kernels import GUARD, SAMPLES, band_order
from wraithon.picture.kernels.shell_kernels import draw_shell, span_of
from wraithon.picture.shells.lattice import lattice, whole_lanes
from wraithon.picture.triangles import listed_triangles, seen_points

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.picture.looks.drawer import ShellMesh, Viewport
    from wraithon.picture.renderer import Buffers
    from wraithon.picture.triangles import ProjectedPoints


LIGHT, BENT = 4, 6
"""Planes of a patch: light and what is covered; and how far what is behind is bent."""
BENDS = 25
"""Where a veil's numbers say that it bends."""
SPARE = 64
"""Floats after the last patch, which may be read but never count."""


class Patches(NamedTuple):
    """Drawn veils: all their floats end to end, where each is in there, and on the picture."""

    floats: NDArray[np.float32]
    table: NDArray[np.int32]
    """(N, PATCH_COLUMNS): where it begins, its first column and row, how many of each, and floats from row to row."""
    boxes: NDArray[np.float32]
    """(N, BOX_COLUMNS) as `prepare_sprites` takes them."""
    bends: tuple[float, ...]
    """By how many pixels each bends what is behind it at most; 0: not at all."""

    def planes(self, number: int) -> NDArray[np.float32]:
        """Return the planes (4 or 6, h, pitch) of a patch."""
        start, _, _, _, rows, pitch = self.table[number].tolist()
        count = BENT if self.bends[number] else LIGHT
        return self.floats[start : start + count * rows * pitch].reshape(count, rows, pitch)

    def reach(self, number: int) -> NDArray[np.int32]:
        """Return the first column and row (4,) of a patch, and the ends."""
        _, left, top, columns, rows, _ = self.table[number].tolist()
        return np.array([left, top, left + columns, top + rows], np.int32)


NO_PATCHES = Patches(
    np.zeros(SPARE, np.float32), np.zeros((0, PATCH_COLUMNS), np.int32), np.zeros((0, BOX_COLUMNS), np.float32), ()
)


class ShellDraw(NamedTuple):
    """What veils are drawn with."""

    viewport: Viewport
    """Where they are seen from."""
    depth: NDArray[np.float32]
    """(H, W) inverse distances of what is solid."""
    planes: NDArray[np.uint32]
    """The texels of the fields that are pictures."""
    coarse: int
    """How many pixels wide one of the patches is."""
    buffers: Buffers
    live: bool = False
    """Whether it has to be quick: then films are drawn at half the patches' height and width."""

    @property
    def step(self) -> int:
        """How many pixels of the picture wide one of those is that films are drawn in."""
        return self.coarse * 2 if self.live else self.coarse

    @property
    def fine(self) -> int:
        """Samples along each side of one of those: what is doubled is smooth with one, as outlines come in softly."""
        return 1 if self.live else SAMPLES

    @property
    def size(self) -> tuple[int, int]:
        """Height and width in the pixels that films are drawn in."""
        return -(-self.viewport.height // self.step), -(-self.viewport.width // self.step)


class _Placed(NamedTuple):
    """A veil as it is seen."""

    shell_mesh: ShellMesh
    reach: list[int]
    """First column and row, and the ends."""
    box: list[float]
    """As `prepare_sprites` takes it."""
    seen: ProjectedPoints


def drawn_shells(shell_meshes: Sequence[ShellMesh], draw: ShellDraw) -> Patches:
    """Return veils as they are seen, those that are."""
    placed = [
        found
        for n, shell_mesh in enumerate(shell_meshes)
        if (found := _placed(shell_mesh, draw, f"veil {n} ")) is not None
    ]
    starts, total = [], 0
    larger = 2 if draw.live else 1
    for shell_mesh, reach, *_ in placed:
        left, top, right, bottom = (larger * side for side in reach)
        pitch = whole_lanes(right - left)
        starts.append((total, left, top, right - left, bottom - top, pitch))
        total += (BENT if shell_mesh.shader_parameters[BENDS] > 0 else LIGHT) * (bottom - top) * pitch
    floats: NDArray[np.float32] = draw.buffers.grown("veils", total + SPARE).view(np.float32)
    patches = Patches(
        floats,
        np.array(starts, np.int32).reshape(-1, PATCH_COLUMNS),
        np.array([one.box for one in placed], np.float32).reshape(-1, BOX_COLUMNS),
        tuple(float(one.shell_mesh.shader_parameters[BENDS]) for one in placed),
    )
    for number, one in enumerate(placed):
        box, patch = np.array(one.reach, np.int32), patches.planes(number)
        if draw.live:
            shape = len(patch), int(box[3] - box[1]), whole_lanes(int(box[2] - box[0]))
            count = math.prod(shape)
            half = draw.buffers.grown("half a veil", count).view(np.float32)[:count].reshape(shape)
            _draw(one, box, half, draw)
            double_patch(half, patch)
        else:
            _draw(one, box, patch, draw)
    return patches


def _placed(shell_mesh: ShellMesh, draw: ShellDraw, name: str) -> _Placed | None:
    """Return a veil as it is seen; None when it is not."""
    viewport, (high, width) = draw.viewport, draw.size
    scale, mesh = draw.fine / draw.step, (shell_mesh.points, shell_mesh.normals, shell_mesh.uvs, shell_mesh.heights)
    size = viewport.height * scale, viewport.width * scale
    seen = seen_points(mesh, viewport.camera, float(viewport.focal) * scale, size, draw.buffers, name)
    span = np.empty(BOX_COLUMNS, np.float32)
    span_of(seen.screen, span)
    far, near = float(span[4]), float(span[5])
    if near <= 0:
        return None
    low, maximum = span[0:4:2] / draw.fine, span[1:4:2] / draw.fine
    reach = [
        int(max(0, math.floor(low[0]))), int(max(0, math.floor(low[1]))),
        int(min(width, math.ceil(maximum[0]) + 1)), int(min(high, math.ceil(maximum[1]) + 1)),
    ]  # fmt: skip
    if reach[0] >= reach[2] or reach[1] >= reach[3]:
        return None
    # Amid its near half, or its far one.
    key = (near + 3 * far) / 4 if shell_mesh.behind else (3 * near + far) / 4
    left, top, right, bottom = (float(side * draw.step) for side in reach)
    return _Placed(shell_mesh, reach, [left, right, top, bottom, near, key], seen)


def _draw(placed: _Placed, reach: NDArray[np.int32], patch: NDArray[np.float32], draw: ShellDraw) -> None:
    shell_mesh, seen, (height, width) = placed.shell_mesh, placed.seen, draw.size
    tall, broad = height * draw.fine, width * draw.fine
    triangles = shell_mesh.fewer if draw.live else shell_mesh.triangles
    shown = np.ones(len(triangles), np.uint8)
    at = listed_triangles(seen.screen, triangles, shown, (tall, broad), draw.buffers, "veil ")
    samples = draw.buffers.get("veil samples", (tall, broad + GUARD))
    ids = draw.buffers.get("veil ids", (tall, broad + GUARD), np.int32)
    extents = draw.buffers.get("veil extents", (len(at.counts) - 1, 2), np.int32)
    shader_parameters = shell_mesh.shader_parameters.copy()
    shader_parameters[BENDS] /= draw.coarse
    draw_shell(
        band_order(len(extents)), at.counts, at.lists, at.columns, seen.screen, triangles, seen.vertices,
        shell_mesh.field_positions,
        shader_parameters, shell_mesh.pictures, draw.planes, lattice(), shell_mesh.bands, _lens(draw.viewport,
        draw.step), draw.depth,
        np.float32(draw.step), draw.fine, broad, samples, ids, extents, reach, patch,
    )  # fmt: skip


def _lens(viewport: Viewport, coarse: int) -> NDArray[np.float32]:
    """Return rays as `draw_shell` takes them: the middle, the way ahead, and what a pixel right and down adds."""
    basis = viewport.camera.basis
    pixel = np.float32(coarse) / viewport.focal
    middle = [0.0, 0.0, 0.0, viewport.width / 2 / coarse, viewport.height / 2 / coarse]
    return np.concatenate([middle, basis[2], basis[0] * pixel, -basis[1] * pixel, [pixel]]).astype(np.float32)


def bent(patches: Patches, coarse: int, light: NDArray[np.float32], buffers: Buffers) -> None:
    """Bend the light (3, H, W) where patches, far ones first, say so."""
    height, width = light.shape[1:]
    for number in np.argsort(patches.boxes[:, B_MEAN], kind="stable").tolist():
        maximum = patches.bends[number]
        if not maximum:
            continue
        reach, margin = patches.reach(number), math.ceil(maximum) + 2
        left, top = (max(0, int(side) * coarse - margin) for side in reach[:2])
        right, bottom = min(int(reach[2]) * coarse + margin, width), min(int(reach[3]) * coarse + margin, height)
        shape = 3, bottom - top, right - left
        count = math.prod(shape)
        source = buffers.grown("what is bent", count).view(np.float32)[:count].reshape(shape)
        bend_picture(
            source, np.array([left, top], np.int32), patches.planes(number), reach, coarse, light
        )  # fmt: skip
