"""Textures that are made: painted by recipes that go with them, cleared and cut as they are brought in."""

import io

import numpy as np
import pytest
from PIL import Image
from pydantic import ValidationError
from scripts.demo_maker.paint import SPRITES

from wraithon.picture.making.importing import cleared, guessed_sheet
from wraithon.picture.making.recipe import Outline, Recipe, as_png, painted, recipe_in
from wraithon.picture.shipped import SHIPPED, TextureLibrary

# ---- recipes --------------------------------------------------------------------------------------


@pytest.mark.parametrize("outline", Outline)
@pytest.mark.parametrize(("width", "soft", "lumps"), [(0, 0, 0), (1, 1, 1), (0.5, 0.2, 1), (1, 0, 0.5)])
def test_every_recipe_paints_white_frames_that_keep_off_their_borders(outline, width, soft, lumps):
    recipe = Recipe(outline=outline, side=32, columns=3, rows=2, width=width, soft=soft, lumps=lumps)
    picture = painted(recipe)
    assert picture.shape == (64, 96, 4)
    assert (picture[..., :1] == picture[..., :3]).all()
    frames = picture.reshape(2, 32, 3, 32, 4).swapaxes(1, 2).reshape(6, 32, 32, 4)
    assert (frames[..., 3].max(axis=(1, 2)) > 60).all()
    border = np.concatenate([frames[:, 0], frames[:, -1], frames[:, :, 0], frames[:, :, -1]], axis=1)
    assert border[..., 3].max() <= 60


def test_a_recipe_paints_the_same_again_and_another_roll_otherwise():
    np.testing.assert_array_equal(painted(Recipe()), painted(Recipe()))
    assert np.abs(painted(Recipe(seed=2)).astype(int) - painted(Recipe())).max() > 50
    frames = painted(Recipe(columns=2, rows=1)).reshape(64, 2, 64, 4)
    assert np.abs(frames[:, 0].astype(int) - frames[:, 1]).max() > 50
    still = painted(Recipe(columns=2, rows=1, lumps=0)).reshape(64, 2, 64, 4)
    np.testing.assert_array_equal(still[:, 0], still[:, 1])


def test_a_glow_without_noise_falls_off_from_its_middle():
    line = painted(Recipe(outline=Outline.GLOW, columns=1, rows=1, lumps=0, side=64))[32, 32:, 3].astype(int)
    assert line[0] > 220
    assert (np.diff(line) <= 0).all()
    assert line[-1] == 0


def test_a_ring_is_hollow_and_thicker_when_told():
    thin, thick = (
        painted(Recipe(outline=Outline.RING, columns=1, rows=1, lumps=0, width=w))[..., 3].astype(int)
        for w in (0.1, 0.8)
    )
    assert thin[32, 32] < 20
    assert thick.sum() > 2 * thin.sum()


def test_later_frames_are_eaten_away():
    recipe = Recipe(columns=4, rows=2, fades=1.0, side=32)
    frames = painted(recipe)[..., 3].reshape(2, 32, 4, 32).swapaxes(1, 2).reshape(8, -1).sum(axis=1, dtype=int)
    assert (np.diff(frames[1:]) <= 0).all()
    assert frames[-1] < 0.05 * frames[0]


def test_a_recipe_goes_with_its_picture(tmp_path):
    recipe = Recipe(outline=Outline.SPARK, seed=77, grain=0.3)
    path = tmp_path / "spark.png"
    path.write_bytes(as_png(recipe))
    assert recipe_in(path) == recipe
    np.testing.assert_array_equal(np.array(Image.open(path)), painted(recipe))


@pytest.mark.parametrize("content", [b"", b"nothing", as_png(Recipe())[:80]])
def test_what_holds_no_recipe_gives_none(tmp_path, content):
    path = tmp_path / "x.png"
    path.write_bytes(content)
    assert recipe_in(path) is None
    assert recipe_in(tmp_path / "gone.png") is None
    plain = tmp_path / "plain.png"
    Image.new("RGBA", (8, 8)).save(plain)
    assert recipe_in(plain) is None


@pytest.mark.parametrize(
    "wrong", [{"side": 8}, {"side": 4096}, {"columns": 0}, {"grain": 0}, {"seed": -1}, {"lumps": 2}]
)
def test_recipes_beyond_what_can_be_painted_are_refused(wrong):
    with pytest.raises(ValidationError):
        Recipe(**wrong)


# ---- backgrounds ----------------------------------------------------------------------------------


def on_ground(ground, colour=(255, 120, 0)):
    """Return a soft blot of a colour on a plain ground, opaque, and how opaque the blot is."""
    line = np.linspace(-1, 1, 48)
    share = np.clip(1.2 - 1.6 * np.hypot(*np.meshgrid(line, line)), 0, 1)[..., None]
    mixed = share * np.array(colour, float) + (1 - share) * np.array(ground, float)
    return np.concatenate([mixed + 0.5, np.full_like(share, 255)], axis=-1).astype(np.uint8), share[..., 0]


@pytest.mark.parametrize("ground", [(0, 0, 0), (255, 255, 255), (0, 255, 0), (40, 40, 60)])
def test_a_plain_background_is_made_clear_and_laid_over_it_again_is_as_before(ground):
    picture, _ = on_ground(ground)
    made = cleared(picture).astype(float)
    assert made[0, 0, 3] == 0
    alpha = made[..., 3:] / 255
    again = made[..., :3] * alpha + np.array(ground) * (1 - alpha)
    assert np.abs(again - picture[..., :3]).max() < 12  # what is nearly the ground is taken for it


def test_on_black_the_blot_keeps_its_hue_and_its_softness():
    picture, share = on_ground((0, 0, 0))
    made = cleared(picture)
    np.testing.assert_allclose(made[..., 3] / 255, np.where(share * 255 > 10, share, 0), atol=0.02)
    seen = made[..., 3] > 40
    np.testing.assert_allclose(made[seen][:, :3], np.tile((255, 120, 0), (seen.sum(), 1)), atol=8)


def test_one_colour_alone_is_no_background():
    flat = np.full((8, 8, 4), 255, np.uint8)
    assert cleared(flat) is flat


def test_what_is_clear_already_or_has_no_plain_border_is_left_alone():
    picture, _ = on_ground((0, 0, 0))
    clear = picture.copy()
    clear[0, 0, 3] = 0
    assert cleared(clear) is clear
    framed = picture.copy()
    framed[0, :20, :3] = 200
    assert cleared(framed) is framed


def test_a_picture_that_is_brought_in_is_kept_cleared(tmp_path):
    picture, _ = on_ground((0, 0, 0))
    path = tmp_path / "blot.jpg"
    Image.fromarray(picture[..., :3]).save(path, quality=95)
    library = TextureLibrary(None)
    assert library.keep(path) == "blot.png"
    assert library.read("blot.png")[0, 0, 3] == 0
    clear = tmp_path / "clear.png"
    made = io.BytesIO()
    Image.fromarray(cleared(picture)).save(made, "PNG")
    clear.write_bytes(made.getvalue())
    library.keep(clear)
    assert library.path("clear.png").read_bytes() == made.getvalue()  # as it was


# ---- sheets ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(("columns", "rows"), [(1, 1), (2, 2), (4, 4), (4, 1), (1, 3), (8, 8), (3, 5)])
def test_a_sheets_frames_are_counted(columns, rows):
    recipe = Recipe(columns=columns, rows=rows, side=32, width=0.6)
    assert guessed_sheet(painted(recipe)) == (columns, rows)


def test_what_is_no_sheet_is_one_picture():
    opaque = np.full((64, 64, 4), 255, np.uint8)
    assert guessed_sheet(opaque) == (1, 1)
    assert guessed_sheet(np.zeros((64, 64, 4), np.uint8)) == (1, 1)
    assert guessed_sheet(np.zeros((2, 2, 4), np.uint8)) == (1, 1)
    wide = painted(Recipe(columns=1, rows=1))
    assert guessed_sheet(wide) == (1, 1)
    half = painted(Recipe(columns=2, rows=2, side=32, width=0.6))
    half[32:, 32:] = 0  # a frame that shows nothing: it may be anything
    assert guessed_sheet(half) == (1, 1)


@pytest.mark.parametrize("outline", [outline for outline in Outline if outline is not Outline.SPLINTER])
@pytest.mark.parametrize(("columns", "rows"), [(4, 4), (5, 5), (6, 6), (7, 7), (8, 8), (8, 4)])
@pytest.mark.parametrize("fades", [0.0, 0.8])
def test_a_sheet_whose_last_frames_fade_is_cut_as_it_was_painted(outline, columns, rows, fades):
    recipe = Recipe(outline=outline, columns=columns, rows=rows, side=32, width=0.6, fades=fades)
    assert guessed_sheet(painted(recipe)) == (columns, rows)


def test_a_picture_of_no_whole_frames_is_cut_by_its_lines():
    picture = painted(Recipe(columns=5, rows=5, side=32, width=0.5))
    odd = np.array(Image.fromarray(picture).resize((256, 256), Image.Resampling.BILINEAR))  # 51.2 pixels a frame
    assert guessed_sheet(odd) == (5, 5)


def test_how_one_of_our_own_is_cut_is_known_even_where_nothing_shows_it(tmp_path):
    recipe = Recipe(columns=2, rows=1, side=32, fades=1.0)
    (tmp_path / "textures").mkdir()
    (tmp_path / "textures" / "own.png").write_bytes(as_png(recipe))
    assert guessed_sheet(painted(recipe)) == (1, 1)
    assert TextureLibrary(tmp_path).frames("own.png") == (2, 1)


# ---- what comes with the program ------------------------------------------------------------------


@pytest.mark.parametrize("name", sorted(path.name for path in SHIPPED.glob("*.png")))
def test_each_texture_that_comes_with_the_program_is_painted_by_its_recipe(name):
    assert recipe_in(SHIPPED / name) == SPRITES[name]
    np.testing.assert_array_equal(np.array(Image.open(SHIPPED / name)), painted(SPRITES[name]))


def test_every_recipe_that_is_there_is_shipped():
    assert {path.name for path in SHIPPED.glob("*.png")} == set(SPRITES)
