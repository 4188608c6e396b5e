"""Halcyon's colours and the sprites of her effects, painted by formula."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt, gaussian_filter

from wraithon.demo.sculpt import Piece

__all__ = ["paint_part", "sprites"]

Image = NDArray[np.uint8]
Points = NDArray[np.float64]

TEAL, DEEP, PALE = (0.10, 0.52, 0.55), (0.055, 0.13, 0.22), (0.75, 0.88, 0.86)
RUST, CREAM, INK = (0.80, 0.36, 0.16), (0.93, 0.86, 0.74), (0.07, 0.06, 0.09)
PLUM = (0.20, 0.11, 0.22)


def _mix(a: Points, b: object, share: Points) -> Points:
    return a + (np.asarray(b, float) - a) * np.clip(share, 0, 1)[..., None]


def _step(edge: float, width: float, x: Points) -> Points:
    t = np.clip((x - edge) / width + 0.5, 0, 1)
    return t * t * (3 - 2 * t)


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
    places, inside = _bake_places(piece, size)
    colours = painter(places.reshape(-1, 3)).reshape(size, size, 3)
    _, (iy, ix) = distance_transform_edt(~inside, return_indices=True)
    return _to_bytes(colours[iy, ix])


def _to_bytes(colours: Points) -> Image:
    return (np.clip(colours, 0, 1) * 255 + 0.5).astype(np.uint8)


def _uv_grid(size: int) -> tuple[Points, Points]:
    line = (np.arange(size) + 0.5) / size
    u, v = np.meshgrid(line, line)
    return u, v


def _bake_places(piece: Piece, size: int) -> tuple[Points, NDArray[np.bool_]]:
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


# ---- sprites --------------------------------------------------------------------------------------


def _disc(size: int) -> tuple[Points, Points, Points]:
    line = (np.arange(size) + 0.5) / size * 2 - 1
    x, y = np.meshgrid(line, line)
    return x, y, np.hypot(x, y)


def _noise(size: int, scale: float, rng: np.random.Generator) -> Points:
    field = gaussian_filter(rng.standard_normal((size, size)), scale, mode="wrap")
    return field / np.abs(field).max()


def _rgba(colour: Points | tuple[float, float, float], alpha: Points) -> Image:
    rgb = np.broadcast_to(np.asarray(colour, float), (*alpha.shape, 3))
    return _to_bytes(np.concatenate([rgb, alpha[..., None]], axis=-1))


def _glow(size: int) -> Image:
    _, _, r = _disc(size)
    fall = np.clip(1 - r, 0, 1)
    return _rgba((1.0, 1.0, 1.0), 0.75 * fall**2.4 + 0.25 * np.exp(-(r**2) * 60))


def _spark(size: int) -> Image:
    x, y, _ = _disc(size)
    core = np.exp(-((x / 0.16) ** 2)) * np.clip(1 - np.abs(y), 0, 1) ** 1.2
    return _rgba((1.0, 1.0, 1.0), np.clip(core * 1.2, 0, 1))


def _puffs(size: int, rng: np.random.Generator) -> Image:
    """Four different puffs of mist in a two by two sheet."""
    _x, y, r = _disc(size)
    frames = []
    for _ in range(4):
        lumps = 0.6 * _noise(size, size / 9, rng) + 0.4 * _noise(size, size / 20, rng)
        body = np.clip(1 - r * (1.05 - 0.45 * lumps), 0, 1)
        alpha = np.clip(body * 1.5, 0, 1) ** 1.5 * (0.75 + 0.35 * lumps) * _step(-0.94, 0.2, -r)
        shade = np.clip(0.82 - 0.18 * y + 0.35 * lumps, 0.4, 1)
        frames.append(_rgba(np.repeat(shade[..., None], 3, axis=-1), np.clip(alpha, 0, 1)))
    return np.vstack([np.hstack(frames[:2]), np.hstack(frames[2:])])


def _feathers(size: int) -> Image:
    """Four feathers of different width and curl in a two by two sheet; white, to be tinted."""
    x, y, _ = _disc(size)
    frames = []
    for wide, curl in ((0.34, 0.12), (0.26, -0.16), (0.4, 0.05), (0.3, 0.2)):
        bent = x - curl * (1 - y * y)
        profile = wide * np.clip(1 - ((y + 0.12) / 0.82) ** 2, 0, 1) ** 0.6
        ragged = profile * (1 - 0.12 * (np.sin(y * 41 + np.abs(bent) * 9) > 0.72))
        vane = _step(0.0, 0.05, ragged - np.abs(bent))
        quill = _step(-0.03, 0.02, -np.abs(bent)) * _step(-0.93, 0.04, -np.abs(y))
        barbs = 0.82 + 0.18 * np.sin((y * 1.0 - np.abs(bent) * 0.9) * 70)
        shade = np.clip(barbs * (0.75 + 0.35 * np.abs(bent) / np.maximum(profile, 0.05)), 0, 1)
        shade = np.where(quill > 0.5, 0.55, shade)
        frames.append(_rgba(np.repeat(shade[..., None], 3, axis=-1), np.clip(np.maximum(vane, quill), 0, 1)))
    return np.vstack([np.hstack(frames[:2]), np.hstack(frames[2:])])


def _chips(size: int, rng: np.random.Generator) -> Image:
    """Four splinters of slate in a two by two sheet."""
    x, y, _ = _disc(size)
    frames = []
    for _ in range(4):
        inside = np.full(x.shape, np.inf)
        for angle in np.sort(rng.uniform(0, 2 * np.pi, 6)):
            inside = np.minimum(inside, rng.uniform(0.35, 0.75) - (x * np.cos(angle) + y * np.sin(angle)))
        shade = np.clip(0.62 + 0.3 * _noise(size, size / 14, rng) - 0.3 * y, 0.2, 1)
        frames.append(_rgba(np.repeat(shade[..., None], 3, axis=-1), _step(0.0, 0.08, inside)))
    return np.vstack([np.hstack(frames[:2]), np.hstack(frames[2:])])


def _ring(size: int, rng: np.random.Generator) -> Image:
    _, _, r = _disc(size)
    rough = 0.05 * _noise(size, size / 16, rng)
    band = np.exp(-(((r + rough - 0.8) / 0.09) ** 2)) + 0.3 * np.clip(r / 0.8, 0, 1) ** 3 * (r < 0.8)
    return _rgba((1.0, 1.0, 1.0), np.clip(band, 0, 1) * _step(-0.97, 0.04, -r))


def _scorch(size: int, rng: np.random.Generator) -> Image:
    """Return a ragged blot with streaks outward, as something hot or wet leaves on stone."""
    x, y, r = _disc(size)
    angle = np.arctan2(y, x)
    streaks = sum(
        np.cos(angle * n + turn) / n for n, turn in zip((5, 9, 14, 23), rng.uniform(0, 6.28, 4), strict=True)
    )
    rough = _noise(size, size / 12, rng)
    edge = 0.62 + 0.22 * streaks + 0.18 * rough
    body = _step(0.0, 0.3, edge - r) * _step(-0.98, 0.08, -r)
    shade = np.clip(0.35 + 0.5 * rough * r, 0, 1)
    alpha = np.clip(body * (0.72 + 0.35 * rough), 0, 1)
    return _rgba(np.repeat(shade[..., None], 3, axis=-1), alpha)


def sprites() -> dict[str, Image]:
    """Return the demo's sprite textures by file name, RGBA uint8 with straight alpha."""
    rng = np.random.default_rng(11)
    return {
        "glow.png": _glow(64),
        "spark.png": _spark(64),
        "mist.png": _puffs(64, rng),
        "feather.png": _feathers(64),
        "chip.png": _chips(32, rng),
        "ring.png": _ring(128, rng),
        "scorch.png": _scorch(128, rng),
    }
