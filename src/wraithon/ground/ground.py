"""The ground, made by formula: wet slate in courses, moss, puddles, a plain floor; or of the artist's own kinds."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from wraithon.numeric.srgb import linear_light
from wraithon.project.staging.ground import GROUND_KINDS
from wraithon.support.array_cache import cached_array

if TYPE_CHECKING:
    from wraithon.project.staging.ground import OwnGround


METRES = 4.0
"""Metres after which the ground repeats."""
SIZE = 512
"""How many squares it is made of along each side."""

SOURCES = (__file__,)
"""What decides how grounds look."""

Plane = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Floor:
    """A kind of ground of the artist's own, as it looks: by its id, (SIZE, SIZE, 4) as `ground` has it."""

    kind: str
    picture: NDArray[np.float64]


def floor_of(own: OwnGround, image: NDArray[np.uint8] | None) -> Floor:
    """Return how a kind of ground of the artist's own looks, with the picture (H, W, 4) of its texture, if any.

    The picture repeats a whole number of times within METRES; where it is clear the colour alone shows.
    """
    colour = np.broadcast_to(np.array(own.colour), (SIZE, SIZE, 3))
    if image is not None:
        side = SIZE // max(1, round(METRES / own.across))
        small = Image.fromarray(image).resize((side, side), Image.Resampling.LANCZOS)
        pixels = np.asarray(small)
        seen = 1 + pixels[..., 3:] / 255 * (linear_light(pixels[..., :3]) - 1.0)
        every = np.arange(SIZE) * max(1, round(METRES / own.across)) * side // SIZE % side
        colour = colour * seen[every[:, None], every[None, :]]
    picture = np.empty((SIZE, SIZE, 4))
    picture[..., :3], picture[..., 3] = colour, own.gloss
    picture.flags.writeable = False
    return Floor(own.id, picture)


class _Stones(NamedTuple):
    """What all grounds are made of: noise (SIZE, SIZE) of three kinds, and slate: its colours, and how wet it is."""

    fine: Plane
    middle: Plane
    broad: Plane
    slate: Plane
    wet: Plane


def ground(kind: str, *, patch: bool = False) -> NDArray[np.float64]:
    """Return a ground (SIZE, SIZE, 4), z down and x across: linear colour, and gloss.

    Of a `patch` of moss or water nearly all is that, where a stage of it has it here and there. It is made anew
    at each call, of what is kept until `forget_stones`.
    """
    return _make(kind, patch and kind in {"moss", "puddle"})


@lru_cache(maxsize=8)
def ground_colour(kind: str, *, patch: bool = False) -> NDArray[np.float32]:
    """Return the linear colour alone of a ground, (SIZE, SIZE, 3), kept."""
    name = cache_name("ground-colour", kind, patch=patch)
    made = cached_array(name, SOURCES, lambda: ground(kind, patch=patch)[..., :3].astype(np.float32))
    made.flags.writeable = False
    return made


def cache_name(what: str, kind: str, *, patch: bool) -> str:
    """Return a name for a ground's cached arrays; one that the program does not know looks like the first."""
    return f"{what}-{kind if kind in GROUND_KINDS else GROUND_KINDS[0]}{'-patch' if patch else ''}"


def forget_stones() -> None:
    """Free what grounds are made of: a stage has all of its grounds once it has been drawn."""
    _stones.cache_clear()


def _noise(rng: np.random.Generator, scale: float) -> Plane:
    """Return noise (SIZE, SIZE) in -1..1, smoothed by a Gaussian of `scale` texels that wraps around."""
    blur = np.exp(-2 * (np.pi * scale * np.fft.fftfreq(SIZE)) ** 2)
    waves = np.fft.rfft2(rng.standard_normal((SIZE, SIZE))) * blur[:, None] * blur[: SIZE // 2 + 1]
    field = np.fft.irfft2(waves, s=(SIZE, SIZE))
    return field / np.abs(field).max()


@lru_cache(maxsize=1)
def _stones() -> _Stones:
    rng = np.random.default_rng(5)
    fine, middle, broad = _noise(rng, 1.2), _noise(rng, 6), _noise(rng, 36)
    return _Stones(fine, middle, broad, *_slate(*_places(), rng, fine, middle))


def _places() -> tuple[Plane, Plane]:
    line = (np.arange(SIZE) + 0.5) / SIZE * METRES
    x, z = np.meshgrid(line, line)
    return x, z


def _make(kind: str, full: bool) -> Plane:  # noqa: FBT001  # as it is told apart above
    fine, middle, broad, slate, wet = _stones()
    if kind == "plain":
        x, z = _places()
        grid = np.minimum(np.abs((x + 0.5) % 1 - 0.5), np.abs((z + 0.5) % 1 - 0.5))
        shade = 0.10 + 0.05 * (grid < 0.012) + 0.004 * fine
        return np.stack([shade, shade * 0.94, shade * 1.02, np.full_like(shade, 0.1)], axis=-1)
    minimum = -1.0 if full else 0.1 if kind == "moss" else 0.42
    moss = np.clip((broad + 0.25 * middle - (2.0 if full and kind != "moss" else minimum)) * 5, 0, 1)
    green = np.stack([0.035 + 0.02 * fine, 0.055 + 0.03 * fine, 0.016 + 0.01 * fine], axis=-1)
    colour = slate + (green - slate) * moss[..., None]
    minimum = -1.0 if full else 0.0 if kind == "puddle" else 0.45
    pools = np.clip((-broad + 0.15 * middle - (2.0 if full and kind != "puddle" else minimum)) * 6, 0, 1)
    colour = colour * (1 - 0.55 * pools[..., None])
    gloss = np.clip(wet * (1 - moss) * 0.45 + pools, 0, 1)
    if full:
        gloss *= 0.62 + 0.3 * middle
    return np.concatenate([colour, gloss[..., None]], axis=-1)


def _slate(x: Plane, z: Plane, rng: np.random.Generator, fine: Plane, middle: Plane) -> tuple[Plane, Plane]:
    """Courses of slates, each course shifted, each slate with its own tint, tilt and groove."""
    depth, courses = 0.4, round(METRES / 0.4)
    course = np.floor(z / depth).astype(int) % courses
    shift = rng.uniform(0, 1, courses)[course]
    along = x / 0.5 + shift
    tile = np.floor(along).astype(int) % 8
    tint = rng.uniform(-1, 1, (courses, 8))[course, tile]
    warm = rng.uniform(0, 1, (courses, 8))[course, tile]
    edge = np.minimum(np.abs(along - np.round(along)) * 0.5, np.abs(z / depth - np.round(z / depth)) * depth)
    groove = np.clip(edge / 0.012, 0, 1)
    grain = 0.10 * fine + 0.10 * middle
    shade = (0.115 + 0.022 * tint) * (1 + grain * 2.2) * (0.25 + 0.75 * groove)
    base = np.stack([shade * (0.98 + 0.14 * warm), shade, shade * (1.12 - 0.12 * warm)], axis=-1)
    return base, np.clip(0.55 + 1.2 * middle + 0.3 * tint, 0.05, 1) * groove
