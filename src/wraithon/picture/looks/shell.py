"""Shells on the picture: films around particles, or on the character, front and back."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.character.remembering import cached_by_content
from wraithon.picture.kernels import shell_kernels as v
from wraithon.picture.looks.drawer import Drawer, Layered, ShellMesh, bands_of
from wraithon.picture.shells.lattice import noise
from wraithon.picture.thinning import thinned
from wraithon.project.look import Blend, Figure, Ingredient, ShellSide

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.particles.looks.shell import ShellBatch
    from wraithon.picture.looks.drawer import SpriteTextures, Viewport
    from wraithon.project.look import NoiseField, ShellLook


AROUND, ABOVE = 48, 32
"""Corners of a figure around its axis, and from pole to pole."""
SHOWS = {
    Ingredient.ALL: v.ALL, Ingredient.FIRST: v.FIRST, Ingredient.SECOND: v.SECOND, Ingredient.MASK: v.MASK,
    Ingredient.RIM: v.RIM,
}  # fmt: skip


class _Figure(NamedTuple):
    """A closed mesh, 1 wide, that stands on the origin."""

    points: NDArray[np.float64]
    normals: NDArray[np.float64]
    uvs: NDArray[np.float32]
    triangles: NDArray[np.int32]
    fewer: NDArray[np.int32]
    """Those of every second corner, for pictures that have to be quick."""


@lru_cache(maxsize=32)
def figure_of(figure: Figure, tall: float) -> _Figure:
    """Return an ellipsoid or a capsule, 1 wide and `tall` high; what is seen from outside are its triangles' fronts.

    A capsule that would be lower than wide is an ellipsoid.
    """
    ring, row = np.linspace(0, 2 * np.pi, AROUND + 1), np.linspace(-np.pi / 2, np.pi / 2, ABOVE + 1)
    angle, up = np.meshgrid(ring, row)
    ball = np.stack([np.cos(up) * np.sin(angle), np.sin(up), np.cos(up) * np.cos(angle)], axis=-1)
    if figure is Figure.CAPSULE and tall > 1:
        normals = ball
        points = ball / 2 + np.sign(np.round(ball[..., 1:2], 9)) * (0, (tall - 1) / 2, 0)
    else:
        normals = ball / (1, tall, 1)
        points = ball * (0.5, tall / 2, 0.5)
    points = points + (0, tall / 2, 0)
    normals = normals / np.linalg.norm(normals, axis=-1, keepdims=True)
    uvs = np.stack([angle / (2 * np.pi), 1 - points[..., 1] / tall], axis=-1)
    at = np.arange((ABOVE + 1) * (AROUND + 1), dtype=np.int32).reshape(ABOVE + 1, AROUND + 1)
    return _Figure(
        points.reshape(-1, 3), normals.reshape(-1, 3), uvs.reshape(-1, 2).astype(np.float32),
        _spanned(at), _spanned(at[::2, ::2]),
    )  # fmt: skip


def _spanned(at: NDArray[np.int32]) -> NDArray[np.int32]:
    """Return the triangles (T, 3) between corners in rows."""
    a, b, c, d = at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]
    return np.stack([a, b, c, a, c, d], axis=-1).reshape(-1, 3)


@cached_by_content(maxsize=4)
def _heights(character: Character) -> NDArray[np.float32]:
    """Return how high points (V,) of a character at rest are, 0 to 1."""
    up = rest_skin(character).positions[:, 1]
    low, high = float(up.min()), float(up.max())
    return ((up - low) / max(high - low, 1e-6)).astype(np.float32)


class ShellDrawer(Drawer):
    """Places a layer's shells."""

    def layered(self, batch: ShellBatch, viewport: Viewport, textures: SpriteTextures) -> Layered:
        """Return one or two veils for each."""
        look = batch.look
        if look.figure is Figure.SKIN and batch.worn is None:
            return Layered()
        pictures = np.zeros((3, 2), np.int32)
        for row, name in enumerate((look.first.texture, look.second.texture, look.mask)):
            if name:
                pictures[row] = textures.find(name).levels[0]
        bands = bands_of(look.bands)
        shell_meshes = []
        for k in range(min(len(batch.ages), look.maximum)):
            if batch.drawn.sizes[k] > 0 and batch.drawn.colours[k, 3] > 0:
                mesh = _worn(batch, k) if look.figure is Figure.SKIN else _standing(batch, k)
                shader_parameters = _weave(batch, k, viewport, pictures)
                shell_meshes += _sides(look, mesh, shader_parameters, bands, pictures)
        return Layered(shell_meshes=tuple(shell_meshes))


class _Mesh(NamedTuple):
    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    uvs: NDArray[np.float32]
    heights: NDArray[np.float32]
    positions: NDArray[np.float32]
    triangles: NDArray[np.int32]
    fewer: NDArray[np.int32]


def _standing(batch: ShellBatch, k: int) -> _Mesh:
    """Return an ellipsoid or capsule that stands where a particle is."""
    look, drawn, size = batch.look, batch.drawn, float(batch.drawn.sizes[k])
    figure = figure_of(look.figure, look.tall)
    c, s = np.cos(float(drawn.turns[k])), np.sin(float(drawn.turns[k]))
    turn = np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]])
    positions, heights = figure.points * size, (figure.points[:, 1] / look.tall).astype(np.float32)
    swollen = positions + figure.normals * _swell(look, positions, heights, _time(batch, k))[:, None]
    points = swollen @ turn.T + drawn.positions[k]
    f32 = np.float32
    return _Mesh(
        points.astype(f32), (figure.normals @ turn.T).astype(f32), figure.uvs, heights, positions.astype(f32),
        figure.triangles, figure.fewer,
    )  # fmt: skip


def _worn(batch: ShellBatch, k: int) -> _Mesh:
    """Return the character's skin, pushed outward."""
    assert batch.worn is not None  # the caller has looked
    character, skin = batch.worn
    positions, heights = rest_skin(character).positions, _heights(character)
    out = float(batch.drawn.sizes[k]) + _swell(batch.look, positions, heights, _time(batch, k))
    points = skin.positions + skin.normals * out[:, None].astype(np.float32)
    mesh = character.mesh
    return _Mesh(
        points.astype(np.float32), skin.normals, mesh.uvs, heights, positions, mesh.triangles, thinned(character)
    )


def _time(batch: ShellBatch, k: int) -> float:
    """Return for how many seconds a shell's fields have moved."""
    return 0.0 if batch.look.frozen else float(batch.ages[k])


def _swell(
    look: ShellLook, positions: NDArray[np.floating], heights: NDArray[np.float32], time: float
) -> NDArray[np.float64]:
    """Return how far points (V,) are pushed outward in metres: far where the first field is strong, but not below."""
    if look.swell == 0:
        return np.zeros(len(positions))
    strength = noise(positions / look.first.scale - np.array(look.first.drift) * (time / look.first.scale))
    rising = np.clip(heights / max(look.calm, 1e-6), 0, 1)
    risen: NDArray[np.float64] = look.swell * strength * rising * rising * (3 - 2 * rising)
    return risen


def _weave(batch: ShellBatch, k: int, viewport: Viewport, pictures: NDArray[np.int32]) -> NDArray[np.float32]:
    """Return a shell's numbers as `veil_kernels` reads them."""
    look, colour, time = batch.look, batch.drawn.colours[k], _time(batch, k)
    shader_parameters = np.zeros(v.WEAVE, np.float32)
    shader_parameters[0], shader_parameters[1:4], shader_parameters[4], shader_parameters[5] = (
        colour[3],
        colour[:3],
        look.fill,
        look.rim,
    )
    for field, noise_field in enumerate((look.first, look.second)):
        shader_parameters[6 + field] = noise_field.amount
        shader_parameters[8 + 2 * field : 10 + 2 * field], shader_parameters[12 + 3 * field : 15 + 3 * field] = (
            _moved(noise_field, time, batch, k, pictured=bool(pictures[field, 1]))
        )
    shader_parameters[18] = look.warp / look.first.scale
    shader_parameters[19:23], shader_parameters[23], shader_parameters[24] = (
        (*look.low, *look.high),
        look.contrast,
        1 / max(look.soft, 1e-4),
    )
    shader_parameters[19:21] = shader_parameters[19:21] if look.low[1] > 0 else (-1.0, 0.0)
    shader_parameters[21:23] = shader_parameters[21:23] if look.high[0] < 1 else (1.0, 2.0)
    far = float(np.linalg.norm(batch.drawn.positions[k] - viewport.camera.eye))
    shader_parameters[25] = look.bend * float(viewport.focal) / max(far, 0.1)
    shader_parameters[26], shader_parameters[27] = look.blend is Blend.ADDITIVE, SHOWS[look.shows]
    return shader_parameters


def _moved(
    field: NoiseField, time: float, batch: ShellBatch, k: int, *, pictured: bool
) -> tuple[tuple[float, float], tuple[float, float, float]]:
    """Return a field's blotches a metre (of a picture: tiles around and along), and how many of them it has moved."""
    x, y, z = field.drift
    if not pictured:
        return (1 / field.scale, 1 / field.scale), (
            x * time / field.scale,
            y * time / field.scale,
            z * time / field.scale,
        )
    size = float(batch.drawn.sizes[k])
    worn = batch.look.figure is Figure.SKIN
    # A picture has to meet itself all around.
    around = 1.0 if worn else max(1.0, round(np.pi * size / field.scale))
    along = 1.0 if worn else size * batch.look.tall / field.scale
    return (around, along), (x * time / field.scale, -y * time / field.scale, 0.0)


def _sides(
    look: ShellLook,
    mesh: _Mesh,
    shader_parameters: NDArray[np.float32],
    bands: NDArray[np.float32],
    pictures: NDArray[np.int32],
) -> list[ShellMesh]:
    """Return the veils of a closed mesh: what is behind, and what is before."""
    shell_meshes = []
    if look.side is not ShellSide.FRONT:
        behind = shader_parameters.copy()
        behind[25] = 0.0  # what is seen is bent once
        reversed_faces = mesh.triangles[:, ::-1].copy(), mesh.fewer[:, ::-1].copy()
        shell_meshes.append(ShellMesh(*mesh[:5], *reversed_faces, behind, pictures, bands, behind=True))
    if look.side is not ShellSide.BACK:
        shell_meshes.append(ShellMesh(*mesh, shader_parameters, pictures, bands, behind=False))
    return shell_meshes


DRAWER = ShellDrawer()
