"""How a picture lies on a mesh: which UV set it is looked up by, and how that is scaled, turned and moved."""

import base64
import io
import math

import numpy as np
import pytest
from PIL import Image

from tests.glb_maker import FLOAT, skinned_strip
from tests.test_gltf import read
from wraithon.support.errors import CharacterError

UVS = np.array([[0, 0], [1, 0], [0, 1], [1, 1], [0.25, 0.5], [2, -3]], "<f4")


def strip(info=None, *, sets=1, required=False):
    """Return a strip with a picture on it, `info` telling how it lies."""
    maker = skinned_strip()
    primitive = maker.json["meshes"][0]["primitives"][0]
    for k in range(sets):
        primitive["attributes"][f"TEXCOORD_{k}"] = maker.accessor(UVS + np.float32(10 * k), FLOAT, "VEC2")
    primitive["material"] = 0
    buffer = io.BytesIO()
    Image.new("RGB", (4, 4), (200, 100, 0)).save(buffer, "PNG")
    uri = "data:image/png;base64," + base64.b64encode(buffer.getvalue()).decode()
    maker.json["images"] = [{"uri": uri}]
    maker.json["textures"] = [{"source": 0}]
    maker.json["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0, **(info or {})}}}]
    if required:
        maker.json["extensionsRequired"] = ["KHR_texture_transform"]
    return maker


def moved(**told):
    return {"extensions": {"KHR_texture_transform": told}}


def uvs(tmp_path, maker):
    return read(tmp_path, maker).mesh.uvs


@pytest.mark.parametrize("info", [None, moved(), moved(scale=[1, 1], rotation=0, offset=[0, 0])])
def test_without_numbers_nothing_moves(tmp_path, info):
    np.testing.assert_array_equal(uvs(tmp_path, strip(info)), UVS)


def test_scaled_then_turned_then_moved(tmp_path):
    told = moved(scale=[2, 3], rotation=math.pi / 2, offset=[0.5, 0.25])
    # A quarter turn anticlockwise, v downwards: what points right then points up.
    expected = np.stack([3 * UVS[:, 1] + 0.5, -2 * UVS[:, 0] + 0.25], axis=1)
    np.testing.assert_allclose(uvs(tmp_path, strip(told, required=True)), expected, atol=1e-5)


def test_the_uv_set_a_picture_names_is_its_own(tmp_path):
    np.testing.assert_array_equal(uvs(tmp_path, strip({"texCoord": 1}, sets=2)), UVS + 10)
    # The extension's own number goes before.
    told = {"texCoord": 1, **moved(texCoord=0, offset=[1, 0])}
    np.testing.assert_allclose(uvs(tmp_path, strip(told, sets=2)), UVS + [1, 0])


def test_a_set_that_is_not_there_is_all_zeros(tmp_path):
    np.testing.assert_array_equal(uvs(tmp_path, strip({"texCoord": 5})), np.zeros((6, 2)))


@pytest.mark.parametrize(
    "info",
    [
        moved(scale=[1]), moved(scale=["a", 1]), moved(rotation="x"), moved(rotation=None), moved(offset=[1e300, 0]),
        moved(texCoord=-1), {"texCoord": "one"}, moved(offset=3),
    ],
)  # fmt: skip
def test_numbers_that_are_none_are_refused_in_words(tmp_path, info):
    with pytest.raises(CharacterError, match="must be"):
        read(tmp_path, strip(info))


@pytest.mark.parametrize("told", [moved(scale=[1e30, -1e30]), moved(rotation=1e30), moved(offset=[1e30, 1e30])])
def test_absurd_numbers_stay_finite(tmp_path, told):
    placed = uvs(tmp_path, strip(told))
    assert np.isfinite(placed).all()
    assert np.abs(placed).max() <= 1e6
