"""Meshes as they are seen: their points on the picture, and which triangles each band of samples may show."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.picture.kernels.columns import VERTEX_COLUMNS
from wraithon.picture.kernels.raster_kernels import (
    BAND,
    LISTED,
    list_by_band,
    list_many_by_band,
    project_points,
    reach_triangles,
)

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import Buffers


class ProjectedPoints(NamedTuple):
    """Points of a mesh as they are seen."""

    screen: NDArray[np.float32]
    """(V, 3) sample x, sample y, and inverse distance, 0 behind."""
    vertices: NDArray[np.float32]
    """(V, 8) what is looked up at them: normal, UV, and a figure."""


class Listed(NamedTuple):
    """Which triangles each band of samples may show."""

    counts: NDArray[np.int32]
    """(bands + 1,) where each band begins in the list."""
    lists: NDArray[np.int32]
    columns: NDArray[np.int32]
    """(T, 2) the columns each triangle spans."""


def seen_points(
    mesh: tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]],
    camera: Camera,
    focal: float,
    size: tuple[float, float],
    buffers: Buffers,
    name: str = "",
) -> ProjectedPoints:
    """Return the points of a mesh as they are seen.

    Parameters
    ----------
    mesh
        Positions and normals (V, 3), UVs (V, 2), and figures (V,), or (1,) where there are none.
    camera, focal
        Where it is seen from, and how many samples one metre one metre ahead covers.
    size
        Height and width in samples.
    buffers, name
        Working memory, and what this is called in it.
    """
    many = len(mesh[0])
    screen, vertices = buffers.lines(f"{name}screen", many, 3), buffers.lines(f"{name}vertices", many, VERTEX_COLUMNS)
    height, width = size
    middle = np.float32(width / 2), np.float32(height / 2)
    project_points(*mesh, camera.eye, camera.basis, np.float32(focal), *middle, screen, vertices)
    return ProjectedPoints(screen, vertices)


def listed_triangles(
    screen: NDArray[np.float32],
    triangles: NDArray[np.int32],
    shown: NDArray[np.uint8],
    size: tuple[int, int],
    buffers: Buffers,
    name: str = "",
) -> Listed:
    """Return which triangles (T, 3) each band may show.

    `shown` (T,) says 0 not at all, 1 from the front, 2 from both sides. `size` is height and width in samples.
    """
    many, (tall, broad) = len(triangles), size
    counts = buffers.get(f"{name}triangle counts", (-(-tall // BAND) + 1,), np.int32)
    spans = buffers.grown(f"{name}triangle spans", 2 * many)[: 2 * many].reshape(-1, 2)
    columns = buffers.grown(f"{name}triangle columns", 2 * many)[: 2 * many].reshape(-1, 2)
    reach_triangles(screen, triangles, shown, np.float32(broad), np.float32(tall), spans, columns)
    return Listed(counts, listed(buffers, f"{name}triangle lists", spans, counts), columns)


def listed(buffers: Buffers, name: str, spans: NDArray[np.int32], counts: NDArray[np.int32]) -> NDArray[np.int32]:
    """Return the rows of `spans` that touch each band, one band after another, and write where each begins."""
    lists = buffers.grown(name, 0)
    needed = _list(spans, counts, lists)
    if needed > len(lists):
        lists = buffers.grown(name, needed)
        _list(spans, counts, lists)
    return lists


def _list(spans: NDArray[np.int32], counts: NDArray[np.int32], lists: NDArray[np.int32]) -> int:
    """List what touches each band, if there is room; return how much that is."""
    if len(spans) > LISTED:
        return int(list_many_by_band(spans, counts, lists))
    return int(list_by_band(spans, counts, lists))
