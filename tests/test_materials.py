"""Pictures of normals, roughness, metal and occlusion: read from files, made ready, and seen."""

import base64
import io

import numpy as np
import pytest
from PIL import Image

from tests.glb_maker import FLOAT, skinned_strip
from tests.test_gltf import read
from wraithon.character.model import Material
from wraithon.picture.solid.material_table import material_table
from wraithon.support.errors import CharacterError

UVS = np.array([[0, 0], [1, 0], [0, 1], [1, 1], [0.25, 0.5], [1, 1]], "<f4")
SURFACE, NORMAL = (0, 64, 192), (200, 100, 230)


def picture(colour, size=(8, 8)):
    buffer = io.BytesIO()
    Image.new("RGB", size, colour).save(buffer, "PNG")
    return {"uri": "data:image/png;base64," + base64.b64encode(buffer.getvalue()).decode()}


def strip(surface=None, **material):
    """Return a strip whose material has pictures 0 (base colour), 1 (surface), 2 (normals) and 3 (occlusion)."""
    maker = skinned_strip()
    primitive = maker.json["meshes"][0]["primitives"][0]
    for k in range(2):
        primitive["attributes"][f"TEXCOORD_{k}"] = maker.accessor(UVS, FLOAT, "VEC2")
    primitive["material"] = 0
    maker.json["images"] = [
        picture((200, 100, 0), (16, 8)), picture(SURFACE), picture(NORMAL, (16, 16)), picture((51, 0, 0))
    ]  # fmt: skip
    maker.json["textures"] = [{"source": k} for k in range(4)]
    maker.json["materials"] = [{"pbrMetallicRoughness": surface or {}, **material}]
    return maker


def material_of(tmp_path, maker):
    return read(tmp_path, maker).materials[1]


def test_every_picture_is_read_with_its_factor(tmp_path):
    maker = strip(
        {"metallicRoughnessTexture": {"index": 1}, "metallicFactor": 0.5, "roughnessFactor": 0.25},
        normalTexture={"index": 2, "scale": 0.5},
        occlusionTexture={"index": 3, "strength": 0.75},
    )
    material = material_of(tmp_path, maker)
    assert (material.metal, material.roughness) == (0.5, 0.25)
    assert (material.normal_scale, material.occlusion_strength) == (0.5, 0.75)
    assert material.texture is None
    assert material.surface[0, 0].tolist() == [*SURFACE, 255]
    assert material.normal[0, 0].tolist() == [*NORMAL, 255]
    assert material.occlusion[0, 0, 0] == 51
    assert read(tmp_path, maker).notes == ()


@pytest.mark.parametrize(
    ("maker", "metal"),
    [
        (strip({"baseColorFactor": [1, 1, 1, 1]}), 1.0),  # the format's own default
        (strip({"metallicFactor": 0.25}), 0.25),
        (strip({"metallicFactor": 7}), 1.0),
        (strip(), 0.0),  # no such surface
        (strip({"baseColorFactor": [1, 1, 1, 1]}, extensions={"KHR_materials_unlit": {}}), 0.0),
    ],
)
def test_how_metal_a_material_is(tmp_path, maker, metal):
    assert material_of(tmp_path, maker).metal == metal


def test_a_picture_that_lies_otherwise_is_left_out_and_told(tmp_path):
    maker = strip({"baseColorTexture": {"index": 0}}, normalTexture={"index": 2, "texCoord": 1})
    character = read(tmp_path, maker)
    assert character.materials[1].normal is None
    assert any("normalTexture: it lies otherwise" in note for note in character.notes)
    maker = strip(normalTexture={"index": 2, "texCoord": 1})  # alone it decides
    assert material_of(tmp_path, maker).normal is not None


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"normalTexture": 3}, "must be an object"),
        ({"normalTexture": {"index": 9}}, "refers to textures"),
        ({"normalTexture": {"index": 2, "scale": "x"}}, "must be 1 numbers"),
        ({"occlusionTexture": {"index": 3, "strength": None}}, "must be 1 numbers"),
        ({"surface": {"metallicFactor": []}}, "must be 2 numbers"),
    ],
)
def test_what_is_wrong_is_said(tmp_path, changes, said):
    with pytest.raises(CharacterError, match=said):
        read(tmp_path, strip(**changes))


# ---- made ready -------------------------------------------------------------------------------------


def with_material(character, **changes):
    from dataclasses import replace

    return replace(character, materials=(Material("x", **changes),) * len(character.materials))


def flat(colour, height=8, width=8):
    return np.full((height, width, 4), (*colour, 255), np.uint8)


def test_without_details_there_are_none(halcyon):
    assert material_table(halcyon).details.shape == (1, 4)


def test_bytes_of_a_texel(halcyon):
    character = with_material(
        halcyon, texture=flat((255, 0, 188)), surface=flat((9, 100, 200)), normal=flat((228, 28, 255)),
        occlusion=flat((51, 9, 9)), metal=0.5, roughness=0.5, normal_scale=0.5, occlusion_strength=0.5,
    )  # fmt: skip
    tables = material_table(character)
    assert tables.levels[0, 0].tolist() == [1, 8, 8, 8 | 8 << 16]
    assert tables.materials[0, 9] == 2
    # The root of linear light; of occlusion half of what is missing is taken away: 1 - (1 - 0.2) / 2.
    assert tables.texels[1].tolist() == [255, 0, round(255 * 0.5029**0.5), round(255 * 0.6)]
    assert tables.details[1].tolist() == [178, 78, 50, 100]


def test_pictures_of_several_sizes_take_the_largest_and_factors_stand_in(halcyon):
    character = with_material(
        halcyon, texture=flat((255, 255, 255), 4, 4), occlusion=flat((255, 0, 0), 16, 8), metal=1.0
    )
    tables = material_table(character)
    assert tables.levels[0, 0, 1:3].tolist() == [8, 16]
    assert tables.details[1].tolist() == [128, 128, round(0.8 * 255), 255]
    assert tables.texels[1].tolist() == [255] * 4


def test_metal_without_a_picture_has_one_texel(halcyon):
    tables = material_table(with_material(halcyon, metal=0.5, roughness=0.2))
    assert tables.levels[0, 0].tolist() == [1, 1, 1, 1 | 1 << 16]
    assert tables.details[1].tolist() == [128, 128, 51, 128]
