"""Halcyon's colours, painted by formula, and the recipes of the textures that come with the program."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt

from wraithon.numeric.arithmetic import smoothstep
from wraithon.picture.making.recipe import Outline, Recipe

from .sculpt import Piece

Image = NDArray[np.uint8]
Points = NDArray[np.float64]

TEAL, DEEP, PALE = (0.10, 0.52, 0.55), (0.055, 0.13, 0.22), (0.75, 0.88, 0.86)
RUST, CREAM, INK = (0.80, 0.36, 0.16), (0.93, 0.86, 0.74), (0.07, 0.06, 0.09)
PLUM = (0.20, 0.11, 0.22)


def _mix(a: Points, b: object, share: Points) -> Points:
    return a + (np.asarray(b, float) - a) * np.clip(share, 0, 1)[..., None]


def _step(edge: float, width: float, x: Points) -> Points:
    return smoothstep((x - edge) / width + 0.5)


def _solid(colour: object, like: Points) -> Points:
    return np.broadcast_to(np.asarray(colour, float), (*like.shape, 3)).copy()


def _scales(u: Points, v: Points) -> Points:
    """Overlapping scallops, like a bird's small feathers: bright in the middle, dark at the rim."""
    best = np.full(u.shape, np.inf)
    for row in (0, 1):
        y = np.floor(v) + row
        x = np.round(u - 0.5 * (y % 2)) + 0.5 * (y % 2)
        best = np.where(v - y > -1, np.minimum(best, np.hypot((u - x) * 1.1, v - y + 0.35)), best)
    return np.clip(1.15 - best, 0, 1)


def paint_part(piece: Piece, size: int) -> Image:
    """Return the part's texture (size, size, 3) uint8 sRGB."""
    if piece.name == "rain skirt":
        return _to_bytes(_paint_skirt(*_uv_grid(size)))
    if piece.name.endswith("fan"):
        return _to_bytes(_paint_fan(*_uv_grid(size)))
    painter = _paint_body if piece.name == "body" else _paint_mask
    places, inside = _bake_positions(piece, size)
    colours = painter(places.reshape(-1, 3)).reshape(size, size, 3)
    _, (iy, ix) = distance_transform_edt(~inside, return_indices=True)
    return _to_bytes(colours[iy, ix])


def _to_bytes(colours: Points) -> Image:
    return (np.clip(colours, 0, 1) * 255 + 0.5).astype(np.uint8)


def _uv_grid(size: int) -> tuple[Points, Points]:
    line = (np.arange(size) + 0.5) / size
    u, v = np.meshgrid(line, line)
    return u, v


def _bake_positions(piece: Piece, size: int) -> tuple[Points, NDArray[np.bool_]]:
    """Return each texel's place on the part at rest (size, size, 3), and where there is any."""
    places = np.zeros((size, size, 3))
    inside = np.zeros((size, size), bool)
    for triangle in piece.triangles:
        uv, xyz = piece.uvs[triangle] * size - 0.5, piece.points[triangle]
        low = np.maximum(np.floor(uv.min(0)).astype(int), 0)
        high = np.minimum(np.ceil(uv.max(0)).astype(int) + 1, size)
        if (high <= low).any():
            continue
        x, y = np.meshgrid(np.arange(low[0], high[0]), np.arange(low[1], high[1]))
        edge_a, edge_b = uv[1] - uv[0], uv[2] - uv[0]
        area = edge_a[0] * edge_b[1] - edge_a[1] * edge_b[0]
        if abs(area) < 1e-9:
            continue
        px, py = x - uv[0, 0], y - uv[0, 1]
        b = (px * edge_b[1] - py * edge_b[0]) / area
        c = (edge_a[0] * py - edge_a[1] * px) / area
        hit = (b >= -0.02) & (c >= -0.02) & (b + c <= 1.02)
        here = xyz[0] + b[..., None] * (xyz[1] - xyz[0]) + c[..., None] * (xyz[2] - xyz[0])
        places[y[hit], x[hit]] = here[hit]
        inside[y[hit], x[hit]] = True
    return places, inside


def _paint_body(p: Points) -> Points:
    x, y, z = p.T
    around = np.arctan2(np.abs(x), z)
    colour = _solid(PLUM, x)
    scales = _scales(around * 9.0, y * 34)
    feathers = _mix(_solid(DEEP, x), TEAL, scales)
    belly = _mix(_solid(RUST, x), CREAM, 0.55 * _scales(x * 40, y * 30) * _step(1.33, 0.2, y))
    front = _step(0.035, 0.03, z) * _step(-0.085, 0.02, -np.abs(x)) * _step(1.06, 0.04, y)
    torso = _mix(feathers, belly, front)
    colour = _mix(colour, torso, _step(1.0, 0.02, y))
    colour = _mix(colour, CREAM, _step(1.475, 0.012, y))
    # Arms: bare to the wrist, wrapped in bands.
    arm = _step(0.2, 0.02, np.abs(x))
    along = np.abs(x) - y * 0.55
    skin = _mix(
        _solid((0.62, 0.42, 0.31), x),
        DEEP,
        _step(0.55, 0.3, np.sin(along * 95)) * _step(0.33, 0.02, np.abs(x)),
    )
    colour = _mix(colour, skin, arm)
    colour = _mix(colour, RUST, _step(0.205, 0.006, np.abs(x)) * _step(-0.235, 0.006, -np.abs(x)))
    colour = _mix(colour, INK, _step(0.515, 0.01, np.abs(x)))
    # Legs: dark, with teal wraps below the knee and rust ankles.
    leg = _step(-0.46, 0.02, -y)
    wraps = _step(0.35, 0.3, np.sin(y * 120 + around * 2))
    colour = _mix(colour, _mix(_solid(DEEP, x), TEAL, wraps), leg * _step(0.14, 0.01, y))
    colour = _mix(colour, RUST, _step(0.115, 0.008, y) * _step(-0.145, 0.008, -y))
    return _mix(colour, INK, _step(-0.018, 0.006, -y))


def _paint_mask(p: Points) -> Points:
    x, y, z = np.abs(p[:, 0]), p[:, 1], p[:, 2]
    speckle = _scales(np.arctan2(x, y - 1.6) * 7, z * 34)
    crown = _mix(_solid((0.05, 0.24, 0.36), x), (0.2, 0.72, 0.74), speckle)
    cheek = _mix(_solid(RUST, x), (0.95, 0.55, 0.22), _step(0.02, 0.1, z))
    colour = _mix(crown, cheek, _step(-1.655, 0.014, -(y - 0.12 * (z - 0.05))) * _step(-0.06, 0.02, z))
    colour = _mix(colour, CREAM, _step(-1.572, 0.02, -y) * _step(-0.03, 0.03, z))
    patch = np.hypot((z + 0.045) / 0.04, (y - 1.615) / 0.032)
    colour = _mix(colour, CREAM, _step(-1.0, 0.2, -patch))
    eye = np.hypot(y - 1.66, z - 0.085)
    colour = _mix(colour, INK, _step(-0.033, 0.004, -eye))
    colour = _mix(colour, (0.95, 0.75, 0.2), _step(-0.024, 0.003, -eye))
    colour = _mix(colour, INK, _step(-0.017, 0.003, -eye))
    beak = _step(0.135, 0.012, z + 0.35 * (1.61 - y))
    colour = _mix(colour, _mix(_solid(INK, x), (0.3, 0.26, 0.26), _step(1.6, 0.03, y)), beak)
    return _mix(colour, RUST, beak * _step(-1.587, 0.006, -(y + 0.14 * (z - 0.13))) * _step(-0.26, 0.08, -z))


def _paint_skirt(u: Points, v: Points) -> Points:
    colour = _mix(_solid((0.05, 0.09, 0.17), u), (0.07, 0.36, 0.42), _step(0.6, 0.8, v))
    rain = np.abs(np.modf(u * 48 + 0.6 * np.sin(v * 9) * 0.1)[0] - 0.5)
    length = np.modf(v * 3 + np.sin(np.floor(u * 48) * 12.9898) * 43.7585)[0]
    colour = _mix(
        colour, PALE, 0.42 * _step(0.43, 0.06, rain) * _step(0.45, 0.5, np.abs(length)) * _step(0.12, 0.1, v)
    )
    colour = _mix(colour, RUST, _step(0.93, 0.012, v))
    colour = _mix(colour, CREAM, _step(0.975, 0.008, v))
    return _mix(colour, RUST, _step(-0.07, 0.01, -v))


def _paint_fan(u: Points, v: Points) -> Points:
    blade = np.modf(u * 13)[0]
    across = np.abs(blade - 0.5) * 2
    barbs = 0.5 + 0.5 * np.sin((v * 60 - across * 8) * 2)
    colour = _mix(_solid((0.07, 0.34, 0.45), u), (0.22, 0.75, 0.72), _step(0.4, 0.7, v))
    colour = _mix(colour, RUST, _step(0.78, 0.05, v + 0.06 * across))
    colour = _mix(colour, INK, _step(0.9, 0.02, v + 0.06 * across))
    colour = colour * (0.8 + 0.2 * barbs)[..., None]
    eye = np.hypot(across * 0.12, v - 0.68)
    colour = _mix(colour, CREAM, _step(-0.06, 0.01, -eye))
    colour = _mix(colour, DEEP, _step(-0.038, 0.01, -eye))
    return _mix(colour, CREAM, _step(-0.14, 0.05, -across) * _step(-0.97, 0.02, -v))


SPRITES = {
    "glow.png": Recipe(outline=Outline.GLOW, columns=1, rows=1, width=1.0, soft=0.63, lumps=0.0),
    "spark.png": Recipe(outline=Outline.SPARK, columns=1, rows=1, width=0.37, soft=0.45, lumps=0.0),
    "mist.png": Recipe(outline=Outline.PUFF, width=0.85, soft=0.95, lumps=0.55, grain=0.18, seed=6),
    "feather.png": Recipe(outline=Outline.FEATHER, width=0.5, soft=0.3, lumps=0.45, seed=4),
    "chip.png": Recipe(outline=Outline.SPLINTER, side=32, width=0.75, soft=0.2, lumps=0.5, grain=0.1, seed=8),
    "ring.png": Recipe(outline=Outline.RING, side=128, columns=1, rows=1, width=0.2, soft=0.85, lumps=0.4, grain=0.1),
    "scorch.png": Recipe(outline=Outline.BLOT, side=128, columns=1, rows=1, width=0.9, soft=0.3, lumps=0.7, seed=2),
}
"""The textures that come with the program, by file name: each can be taken up and changed in the texture maker."""
