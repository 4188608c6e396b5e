"""Everything solid that is posed: the character and all pieces, put together for the opaque pass."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.picture.kernels.mesh_kernels import list_pieces, place_pieces
from wraithon.picture.solid.blocks import STANDING, blocks_of
from wraithon.picture.solid.body import body_arrays
from wraithon.picture.solid.material_table import DEEPEST, FLAT, MaterialTable
from wraithon.picture.solid.shapes import lesser, shipped_shape
from wraithon.support.errors import RenderError

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import Batch
    from wraithon.particles.looks.piece import MeshBatch
    from wraithon.picture.looks.drawer import Viewport
    from wraithon.picture.renderer import Buffers
    from wraithon.picture.solid.body import BodyArrays
    from wraithon.picture.solid.shapes import ParticleMesh, ShapeSource
    from wraithon.stage.frame import Frame


MAX_TABLES = 16
"""Coats that are kept together beside those of one picture."""
MAX_TRIANGLES = 2_000_000
"""Triangles of pieces that are drawn; the rest are left out."""
SMALL = 14.0
"""Pixels below which a piece is seen as small."""
NO_FIGURE = np.float32(-1)


class Shapes:
    """The shapes of pieces, read as they are first asked for."""

    def __init__(self, source: ShapeSource | None) -> None:
        self._source = source
        self._known: dict[str, ParticleMesh | None] = {}
        self.problems: dict[str, str] = {}
        """Shape name to what is wrong with it; such pieces are drawn as shards."""

    def find(self, name: str) -> ParticleMesh:
        """Return a shape; a shard where there is none of that name."""
        found = shipped_shape(name)
        if found is None and name not in self._known:
            self._known[name] = self._read(name)
        plain = shipped_shape("shard")
        assert plain is not None  # it comes with the program
        return found or self._known[name] or plain

    def _read(self, name: str) -> ParticleMesh | None:
        if self._source is None:
            self.problems[name] = f"{name}: there is no such mesh; pick another"
            return None
        try:
            return self._source(name)
        except RenderError as error:
            self.problems[name] = str(error)
            return None

    def look_again(self) -> None:
        """Try again to read what could not be read."""
        self.problems.clear()
        self._known = {name: shape for name, shape in self._known.items() if shape is not None}


class Solids(NamedTuple):
    """What the opaque pass draws."""

    body: BodyArrays
    throwing: NDArray[np.uint8]
    """(T,) which triangles throw a shadow, as `body.shown` says which show."""


class _Group(NamedTuple):
    """Pieces of a layer that have one shape."""

    batch: MeshBatch
    rows: NDArray[np.int64]
    shape: ParticleMesh


def solids_of(frame: Frame, shapes: Shapes, buffers: Buffers, viewport: Viewport | None = None) -> Solids:
    """Return the character and all meshes of a frame; in a `viewport` that has to be quick, small ones plainer."""
    body = body_arrays(frame.body, frame.others)
    groups = list(_groups(frame.batches, shapes))
    if viewport is not None:
        groups = [part for group in groups for part in _by_size(group, viewport)]
    standing = blocks_of(frame.pieces, frame.terrain)
    if standing is not None:
        groups.append(_Group(STANDING, np.zeros(1, np.int64), standing))
    if not groups:
        return Solids(body, body.shown)
    points, triangles = len(body.positions), len(body.triangles)
    total_points = points + sum(len(g.rows) * len(g.shape.points) for g in groups)
    total = triangles + sum(len(g.rows) * len(g.shape.triangles) for g in groups)
    points_of_all = buffers.lines("solid points", total_points, 3)
    normals = buffers.lines("solid normals", total_points, 3)
    uvs = buffers.lines("solid uvs", total_points, 2)
    faces = buffers.grown("solid triangles", 3 * total)[: 3 * total].reshape(-1, 3)
    parts = buffers.grown("solid materials", total)[:total]
    shown, throwing = np.empty(total, np.uint8), np.empty(total, np.uint8)
    tables = _joined(tuple(g.shape.tables for g in groups), body.materials, buffers)
    points_of_all[:points], normals[:points], uvs[:points] = body.positions, body.normals, body.uvs
    faces[:triangles], parts[:triangles] = body.triangles, body.materials.part_material
    shown[:triangles] = throwing[:triangles] = body.shown
    materials, levels = [body.materials.materials], [tables.levels[0]]
    point, triangle, material = points, triangles, len(body.materials.materials)
    for number, (batch, rows, shape) in enumerate(groups):
        many, corners = len(rows), len(shape.points)
        last, end = point + many * corners, triangle + many * len(shape.triangles)
        place_pieces(
            batch.positions[rows], batch.turns[rows], batch.sizes[rows], shape.points, shape.normals,
            points_of_all[point:last], normals[point:last],
        )  # fmt: skip
        own, deep = _tinted(batch, rows, shape), tables.levels[1 + number]
        list_pieces(
            many, point, corners, shape.triangles, shape.uvs, shape.tables.part_material, material, len(deep),
            shape.sides, faces[triangle:end], uvs[point:last], parts[triangle:end], shown[triangle:end],
        )  # fmt: skip
        materials.append(own)
        levels.append(np.tile(deep, (many, 1, 1)))
        throwing[triangle:end] = shown[triangle:end] if batch.look.shadow else 0
        point, triangle, material = last, end, material + len(own)
    together = MaterialTable(np.concatenate(materials), np.concatenate(levels), tables.texels, tables.details, parts)
    heat = body.heat
    if len(heat) == points:
        heat = np.concatenate([heat, np.full(total_points - points, NO_FIGURE, np.float32)])
    eaten = np.concatenate([body.dissolving, np.zeros(total - len(body.dissolving), np.uint8)])
    joined = replace(
        body, triangles=faces, positions=points_of_all, normals=normals, uvs=uvs, materials=together, shown=shown,
        heat=heat,
        dissolving=eaten,
    )  # fmt: skip
    return Solids(joined, throwing)


def _groups(batches: Iterable[Batch], shapes: Shapes) -> Iterable[_Group]:
    """Yield what pieces there are, shape by shape, as many as are drawn."""
    left = MAX_TRIANGLES
    for batch in batches:
        if batch.kind != "piece":
            continue
        pieces: MeshBatch = batch  # type: ignore[assignment]  # as its kind says
        for number, name in enumerate(pieces.look.shapes):
            rows, shape = np.flatnonzero(pieces.shapes == number), shapes.find(name)
            rows = rows[: left // len(shape.triangles)]
            left -= len(rows) * len(shape.triangles)
            if len(rows):
                yield _Group(pieces, rows, shape)


def _by_size(group: _Group, viewport: Viewport) -> Iterable[_Group]:
    """Yield pieces that are seen large, and those that are seen small in a plainer shape."""
    batch, rows, shape = group
    ahead = viewport.camera.ahead(batch.positions[rows])
    small = batch.sizes[rows] * viewport.focal < SMALL * ahead
    plainer = lesser(shape)
    if plainer is shape or not small.any():
        yield group
        return
    if not small.all():
        yield _Group(batch, rows[~small], shape)
    yield _Group(batch, rows[small], plainer)


def _tinted(batch: MeshBatch, rows: NDArray[np.int64], shape: ParticleMesh) -> NDArray[np.float32]:
    """Return a shape's materials (N * M, 10) once for each piece, in its colours."""
    look, many = batch.look, len(rows)
    own = np.tile(shape.tables.materials, (many, 1))
    tints = np.repeat(batch.colours[rows], len(shape.tables.materials), axis=0)
    shine = np.float32(look.glow) if look.lit else np.float32(1)
    own[:, 4:7] = own[:, 4:7] + own[:, :3] * tints * shine
    own[:, :3] *= np.minimum(tints, 1) * (1 - shine)
    return own


class _Joined(NamedTuple):
    """Texels of several coats end to end, and each one's levels."""

    levels: list[NDArray[np.int32]]
    texels: NDArray[np.uint8]
    details: NDArray[np.uint8]


class _MaterialTables:
    """What coats are together, of all that were seen beside one character: pieces come and go with every strike."""

    def __init__(self) -> None:
        self._seen: dict[int, MaterialTable] = {}  # they are held, so that no other can have the same number
        self._joined = _Joined([], np.zeros((0, 4), np.uint8), np.zeros((0, 4), np.uint8))

    def joined(self, tables: Sequence[MaterialTable]) -> _Joined:
        """Return the texels of all, with the levels of these in order."""
        wanted = {id(table.texels): table for table in tables}
        if not wanted.keys() <= self._seen.keys():
            if len(self._seen) + len(wanted) > MAX_TABLES:
                self._seen = {}
            self._seen |= wanted
            self._joined = _join(list(self._seen.values()))
        levels = dict(zip(self._seen, self._joined.levels, strict=True))
        found = self._joined._replace(levels=[levels[id(table.texels)] for table in tables])
        # How a picture is lit must not hang on what was seen before.
        return found if any(len(table.details) > 1 for table in tables) else found._replace(details=tables[0].details)


def _joined(pieces: Sequence[MaterialTable], body: MaterialTable, buffers: Buffers) -> _Joined:
    """Return the texels of the character and of all pieces in one; kept as long as the character is the same."""
    rack: _MaterialTables = buffers.stored("tables", id(body.texels), _MaterialTables)
    return rack.joined((body, *pieces))


def _join(tables: Sequence[MaterialTable]) -> _Joined:
    detailed = any(len(table.details) > 1 for table in tables)
    levels, texels, details, first = [], [], [], 0
    for table in tables:
        deep = np.zeros((len(table.materials), DEEPEST, 4), np.int32)
        deep[:, : table.levels.shape[1]] = table.levels
        deep[..., 0] += first
        levels.append(deep)
        texels.append(table.texels)
        detail = table.details
        if detailed and len(detail) != len(table.texels):
            detail = np.full((len(table.texels), 4), FLAT, np.uint8)
            detail[:, 2:] = 160, 0
        details.append(detail)
        first += len(table.texels)
    return _Joined(levels, np.concatenate(texels), np.concatenate(details if detailed else details[:1]))
