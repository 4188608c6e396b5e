"""Recipes that textures are painted by; each goes with its picture, so that it can be changed later."""

from __future__ import annotations

import io
from collections.abc import Callable
from enum import StrEnum
from typing import TYPE_CHECKING, Annotated, NamedTuple

import numpy as np
from PIL import Image, PngImagePlugin
from pydantic import Field, ValidationError

from wraithon.numeric.arithmetic import smoothstep
from wraithon.picture.textures import LARGEST_FILE
from wraithon.project.base import Model, Share
from wraithon.support.plain_files import read_plain

if TYPE_CHECKING:
    from pathlib import Path

    from numpy.typing import NDArray


NOTE = "wraithon recipe"
"""What a recipe is called among the texts of a PNG file."""


class Outline(StrEnum):
    """What a texture shows; sparks and feathers stand upright."""

    GLOW = "glow"
    PUFF = "puff"
    RING = "ring"
    SPARK = "spark"
    BLOT = "blot"
    FEATHER = "feather"
    SPLINTER = "splinter"


class Recipe(Model):
    """How a texture is painted, white on nothing, for effects to tint.

    Frames of `side` pixels stand `columns` by `rows`. `width` is how thick a ring or spark is, and how much of its
    frame anything else fills; `soft` how gently it ends. `lumps` says how much noise there is, of blotches of `grain`
    frames. Each frame has its own noise; with `fades` later ones are eaten by it. `seed` is another roll of all that.
    """

    outline: Outline = Outline.PUFF
    side: Annotated[int, Field(ge=16, le=128)] = 64
    columns: Annotated[int, Field(ge=1, le=8)] = 2
    rows: Annotated[int, Field(ge=1, le=8)] = 2
    width: Share = 0.8
    soft: Share = 0.6
    lumps: Share = 0.5
    grain: Annotated[float, Field(ge=0.02, le=0.5)] = 0.12
    fades: Share = 0.0
    seed: Annotated[int, Field(ge=0, le=999_999)] = 1


def painted(recipe: Recipe) -> NDArray[np.uint8]:
    """Return a recipe's texture (H, W, 4) sRGB with straight alpha."""
    count = recipe.columns * recipe.rows
    frames = [_frame(recipe, number, number / max(count - 1, 1)) for number in range(count)]
    rows = [np.hstack(frames[k * recipe.columns : (k + 1) * recipe.columns]) for k in range(recipe.rows)]
    return np.vstack(rows)


WHITE = 1.2
"""How bright what shines is, for the whole of it to be white."""


class _Canvas(NamedTuple):
    """A frame from -1 to 1, x to the right and y down: where its pixels are, and what noise they have."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    noise: NDArray[np.float64]
    rng: np.random.Generator

    @property
    def r(self) -> NDArray[np.float64]:
        """How far from the middle."""
        return np.hypot(self.x, self.y)


def _frame(recipe: Recipe, number: int, share: float) -> NDArray[np.uint8]:
    side = recipe.side
    line = (np.arange(side) + 0.5) / side * 2 - 1
    x, y = np.meshgrid(line, line)
    rng = np.random.default_rng([recipe.seed, number])
    noise = 0.65 * _noise(side, recipe.grain, rng) + 0.35 * _noise(side, recipe.grain / 2, rng)
    body, lit = OUTLINES[recipe.outline](recipe, _Canvas(x, y, noise, rng))
    if recipe.fades:
        eaten = recipe.fades * share
        body = body * smoothstep((noise / 2 + 0.5 - 1.3 * eaten + 0.15) / 0.15)
    # Nothing may reach its frame's border, or the next frame would show there.
    body = np.clip(body, 0, 1) * smoothstep((0.98 - np.maximum(np.abs(x), np.abs(y))) / 0.06)
    shade = np.clip((0.85 + 0.3 * recipe.lumps * noise - 0.12 * recipe.lumps * y) * lit, 0.2, 1)
    out = np.stack([shade, shade, shade, body], axis=-1)
    return (np.clip(out, 0, 1) * 255 + 0.5).astype(np.uint8)


def _full(recipe: Recipe) -> float:
    """Return how much of its frame a recipe fills."""
    return 0.15 + 0.83 * recipe.width


def _soft(recipe: Recipe) -> float:
    return 0.04 + 0.96 * recipe.soft


def _glow(recipe: Recipe, on: _Canvas) -> Drawn:
    away = on.r / _full(recipe)
    fall = np.clip(1 - away, 0, 1) ** (0.5 + 3 * recipe.soft)
    return (0.75 * fall + 0.25 * np.exp(-60 * away**2)) * (1 + recipe.lumps * on.noise), WHITE


def _puff(recipe: Recipe, on: _Canvas) -> Drawn:
    rough, full = recipe.lumps * on.noise, _full(recipe)
    return smoothstep((full - on.r + 0.45 * rough) / (_soft(recipe) * full)) * (0.8 + 0.6 * rough), 1.0


def _ring(recipe: Recipe, on: _Canvas) -> Drawn:
    rough, thick = recipe.lumps * on.noise, 0.03 + 0.3 * recipe.width
    at = 0.9 - thick
    band = np.exp(-(np.abs((on.r - at + 0.12 * rough) / thick) ** (6 - 4.5 * recipe.soft)))
    haze = 0.4 * recipe.soft * np.clip(on.r / at, 0, 1) ** 3 * (on.r < at)
    return (band + haze) * (1 + rough), WHITE


def _spark(recipe: Recipe, on: _Canvas) -> Drawn:
    thick = 0.03 + 0.35 * recipe.width
    core = np.exp(-(((on.x + 0.2 * recipe.lumps * on.noise) / thick) ** 2))
    return 1.2 * core * np.clip(1 - np.abs(on.y), 0, 1) ** (0.3 + 2 * recipe.soft), WHITE


def _blot(recipe: Recipe, on: _Canvas) -> Drawn:
    angle, full = np.arctan2(on.y, on.x), _full(recipe)
    streaks = sum(np.cos(angle * n + on.rng.uniform(0, 2 * np.pi)) / n for n in (5, 9, 14))
    ragged = full * 0.72 - on.r + recipe.lumps * (0.22 * streaks + 0.3 * on.noise)
    return smoothstep(ragged / (_soft(recipe) * full)) * (1 + recipe.lumps * on.noise), 0.6 + 0.4 * on.noise


def _feather(recipe: Recipe, on: _Canvas) -> Drawn:
    """Return a feather that stands upright, each with a curl and a width of its own, barbs, and a quill."""
    curl = on.rng.uniform(-0.4, 0.4) * (0.3 + recipe.lumps)
    bent = np.abs(on.x - curl * (1 - on.y**2))
    width = (0.1 + 0.45 * recipe.width) * on.rng.uniform(0.8, 1.2)
    vane = width * np.clip(1 - ((on.y + 0.12) / 0.82) ** 2, 0, 1) ** 0.6
    vane = vane * (1 - 0.25 * recipe.lumps * (np.sin(on.y * 41 + bent * 9) > 0.72))
    quill = smoothstep((0.03 - bent) / 0.02) * smoothstep((0.93 - np.abs(on.y)) / 0.04)
    barbs = (0.82 + 0.18 * np.sin((on.y - bent * 0.9) * 70)) * (0.75 + 0.35 * bent / np.maximum(vane, 0.05))
    body = np.maximum(smoothstep((vane - bent) / (0.02 + 0.1 * recipe.soft)), quill)
    return body, np.where(quill > 0.5, 0.6, 1.1 * barbs)


def _splinter(recipe: Recipe, on: _Canvas) -> Drawn:
    """Return a splinter of stone with straight edges, darker below."""
    inside, full = np.full(on.x.shape, np.inf), _full(recipe)
    for angle in np.sort(on.rng.uniform(0, 2 * np.pi, 6)):
        edge = on.rng.uniform(0.45, 0.95) * full - (on.x * np.cos(angle) + on.y * np.sin(angle))
        inside = np.minimum(inside, edge + 0.1 * recipe.lumps * on.noise)
    return smoothstep(inside / (0.03 + 0.2 * recipe.soft)), 0.75 + 0.5 * recipe.lumps * on.noise - 0.3 * on.y


Drawn = tuple["NDArray[np.float64]", "NDArray[np.float64] | float"]
"""How much of each pixel is covered, and how bright it is."""
OUTLINES: dict[Outline, Callable[[Recipe, _Canvas], Drawn]] = {
    Outline.GLOW: _glow,
    Outline.PUFF: _puff,
    Outline.RING: _ring,
    Outline.SPARK: _spark,
    Outline.BLOT: _blot,
    Outline.FEATHER: _feather,
    Outline.SPLINTER: _splinter,
}


def _noise(side: int, grain: float, rng: np.random.Generator) -> NDArray[np.float64]:
    """Return noise (side, side) from -1 to 1 that meets itself, of blotches of `grain` sides."""
    from scipy.ndimage import gaussian_filter  # half a second to import, for textures that are made anew

    field = gaussian_filter(rng.standard_normal((side, side)), max(grain * side / 2, 0.5), mode="wrap")
    return np.asarray(field / max(float(np.abs(field).max()), 1e-9), np.float64)


def as_png(recipe: Recipe) -> bytes:
    """Return a recipe's texture as a PNG file that holds the recipe, too."""
    note, out = PngImagePlugin.PngInfo(), io.BytesIO()
    note.add_text(NOTE, recipe.model_dump_json())
    Image.fromarray(painted(recipe)).save(out, "PNG", pnginfo=note, optimize=True)
    return out.getvalue()


def recipe_in(path: Path) -> Recipe | None:
    """Return the recipe that a picture was painted by; None where it holds none that can be read."""
    try:
        data = read_plain(path, LARGEST_FILE, path.parent.parent)
        with Image.open(io.BytesIO(data), formats=("PNG",)) as picture:
            text = picture.info.get(NOTE)
        return Recipe.model_validate_json(text) if isinstance(text, str) else None
    except (OSError, ValueError, SyntaxError, ValidationError):
        return None
