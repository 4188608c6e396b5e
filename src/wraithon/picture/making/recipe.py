"""Recipes that textures are painted by; each goes with its picture, so that it can be changed later."""

from __future__ import annotations

import io
from enum import StrEnum
from typing import TYPE_CHECKING, Annotated

import numpy as np
from PIL import Image, PngImagePlugin
from pydantic import Field, ValidationError
from scipy.ndimage import gaussian_filter

from wraithon.project.base import Model, Share

if TYPE_CHECKING:
    from pathlib import Path

    from numpy.typing import NDArray

__all__ = ["Outline", "Recipe", "as_png", "painted", "recipe_in"]

NOTE = "wraithon recipe"
"""What a recipe is called among the texts of a PNG file."""


class Outline(StrEnum):
    """What a texture shows: a glow, a puff of smoke, a ring, a spark that stands upright, or a ragged blot."""

    GLOW = "glow"
    PUFF = "puff"
    RING = "ring"
    SPARK = "spark"
    BLOT = "blot"


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


def _frame(recipe: Recipe, number: int, share: float) -> NDArray[np.uint8]:
    side = recipe.side
    line = (np.arange(side) + 0.5) / side * 2 - 1
    x, y = np.meshgrid(line, line)
    r = np.hypot(x, y)
    rng = np.random.default_rng([recipe.seed, number])
    noise = 0.65 * _noise(side, recipe.grain, rng) + 0.35 * _noise(side, recipe.grain / 2, rng)
    rough = recipe.lumps * noise
    full, soft = 0.15 + 0.83 * recipe.width, 0.04 + 0.96 * recipe.soft
    if recipe.outline is Outline.GLOW:
        body = np.clip(1 - r / full, 0, 1) ** (0.5 + 3 * recipe.soft) * (1 + rough)
    elif recipe.outline is Outline.PUFF:
        body = _ramp((full - r + 0.45 * rough) / (soft * full)) * (0.8 + 0.6 * rough)
    elif recipe.outline is Outline.RING:
        thick = 0.03 + 0.3 * recipe.width
        body = np.exp(-(np.abs((r - 0.9 + thick + 0.12 * rough) / thick) ** (6 - 4.5 * recipe.soft))) * (1 + rough)
    elif recipe.outline is Outline.SPARK:
        thick = 0.03 + 0.35 * recipe.width
        body = np.exp(-(((x + 0.2 * rough) / thick) ** 2)) * np.clip(1 - np.abs(y), 0, 1) ** (0.3 + 2 * recipe.soft)
    else:
        angle = np.arctan2(y, x)
        streaks = sum(np.cos(angle * n + rng.uniform(0, 2 * np.pi)) / n for n in (5, 9, 14))
        body = _ramp((full * 0.72 - r + recipe.lumps * (0.22 * streaks + 0.3 * noise)) / (soft * full)) * (1 + rough)
    if recipe.fades:
        eaten = recipe.fades * share
        body = body * _ramp((noise / 2 + 0.5 - 1.3 * eaten + 0.15) / 0.15)
    # Nothing may reach its frame's border, or the next frame would show there.
    body = np.clip(body, 0, 1) * _ramp((0.98 - np.maximum(np.abs(x), np.abs(y))) / 0.06)
    shade = np.clip(0.85 + 0.3 * rough - 0.12 * recipe.lumps * y, 0.3, 1)
    out = np.stack([shade, shade, shade, body], axis=-1)
    return (np.clip(out, 0, 1) * 255 + 0.5).astype(np.uint8)


def _ramp(x: NDArray[np.float64]) -> NDArray[np.float64]:
    x = np.clip(x, 0, 1)
    return x * x * (3 - 2 * x)


def _noise(side: int, grain: float, rng: np.random.Generator) -> NDArray[np.float64]:
    """Return noise (side, side) from -1 to 1 that meets itself, of blotches of `grain` sides."""
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
        with Image.open(path, formats=("PNG",)) as picture:
            words = picture.info.get(NOTE)
        return Recipe.model_validate_json(words) if isinstance(words, str) else None
    except (OSError, ValueError, SyntaxError, ValidationError):
        return None
