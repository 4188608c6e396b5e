"""Masks at exact values: height, facing, joints, painting and packing, and their mirror images."""

import base64
import zlib

import numpy as np
import pytest

from tests.bodies import body
from wraithon.character.masks import brush, joint_weights, pack_mask, unpack_mask, vertex_densities
from wraithon.project.character import PaintedMask
from wraithon.project.source import FacingMask, HeightMask, JointSet, SkinSource


def ladder(count=11, weights=None, joints=None):
    """Return a character of vertices one above the other, from 0 to 2 m, all in triangles of no matter."""
    points = np.zeros((count, 3))
    points[:, 1] = np.linspace(0, 2, count)
    rows = [[k, k + 1, k + 2] for k in range(count - 2)]
    return body(points, rows, parents=(-1, 0), offsets=[[0, 0, 0], [0, 1, 0]], weights=weights, joints=joints)


def densities(character, **filters):
    return vertex_densities(character, SkinSource(**filters))


def test_no_filter_leaves_all_alike():
    np.testing.assert_array_equal(densities(ladder()), 1)


@pytest.mark.parametrize(
    ("low", "high", "soft", "wanted"),
    [
        (0.3, 0.6, 0.0, [0, 0, 0, 1, 1, 1, 1, 0, 0, 0, 0]),
        (0.3, 0.6, 0.2, [0, 0, 0.5, 1, 1, 1, 1, 0.5, 0, 0, 0]),
        (0.6, 0.3, 0.2, [0, 0, 0.5, 1, 1, 1, 1, 0.5, 0, 0, 0]),
        (0.0, 1.0, 0.0, [1] * 11),
        (0.5, 2.0, 0.1, [0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1]),
    ],
)
def test_heights_are_shares_of_the_rest_pose_and_fade_outwards(low, high, soft, wanted):
    found = densities(ladder(), height=HeightMask(low=low, high=high, soft=soft))
    np.testing.assert_allclose(found, wanted, atol=1e-3)


def test_a_flat_character_has_no_heights_to_choose_between():
    flat = body(np.eye(3) * (1, 0, 1), [[0, 1, 2]])
    np.testing.assert_allclose(densities(flat, height=HeightMask(low=0.5, high=1.0, soft=0.0)), 0, atol=1e-6)


def facing(normal, **mask):
    """Return how dense births are on a triangle with this normal."""
    normal = np.asarray(normal, float) / np.linalg.norm(normal)
    across = np.cross(normal, [0.3, 0.5, 0.8])
    made = body([[0, 0, 0], across, np.cross(normal, across)], [[0, 1, 2]])
    return float(densities(made, facing=FacingMask(**mask))[0])


@pytest.mark.parametrize(
    ("side", "normal"),
    [("up", (0, 1, 0)), ("down", (0, -1, 0)), ("front", (0, 0, 1)), ("back", (0, 0, -1)), ("left", (1, 0, 0)),
     ("right", (-1, 0, 0))],
)  # fmt: skip
def test_each_side_is_its_own_direction_and_the_mirrored_one_is_not(side, normal):
    assert facing(normal, side=side, within=10, soft=0) == 1
    assert facing(-np.array(normal), side=side, within=10, soft=0) == 0


AXES = {"up": (0, 1, 0), "down": (0, -1, 0), "front": (0, 0, 1), "back": (0, 0, -1), "left": (1, 0, 0)}


@pytest.mark.parametrize("side", [*AXES, "right"])
@pytest.mark.parametrize(("angle", "wanted"), [(30, 1), (32.5, 0.5), (36, 0)])
def test_every_side_fades_beyond_the_same_angle(side, angle, wanted):
    """All directions are of one length: none lets more through than another."""
    axis = np.array(AXES.get(side, (-1, 0, 0)), float)
    across = np.roll(axis, 1)
    turned = np.cos(np.radians(angle)) * axis + np.sin(np.radians(angle)) * across
    assert facing(turned, side=side, within=30, soft=5) == pytest.approx(wanted, abs=4e-3)


@pytest.mark.parametrize(("angle", "wanted"), [(0, 1), (59, 1), (60, 1), (65, 0.5), (70, 0), (120, 0)])
def test_facing_fades_beyond_its_angle(angle, wanted):
    turned = (np.sin(np.radians(angle)), np.cos(np.radians(angle)), 0)
    assert facing(turned, side="up", within=60, soft=10) == pytest.approx(wanted, abs=2e-3)
    mirrored = (-turned[0], turned[1], 0)
    assert facing(mirrored, side="up", within=60, soft=10) == pytest.approx(wanted, abs=2e-3)


WEIGHTS = np.linspace(0, 1, 11)


def weighted():
    return ladder(weights=np.stack([1 - WEIGHTS, WEIGHTS], 1), joints=np.tile([0, 1], (11, 1)))


def test_weights_of_joints_add_up():
    np.testing.assert_allclose(joint_weights(weighted(), {"j1"}), WEIGHTS, atol=1e-6)
    np.testing.assert_allclose(joint_weights(weighted(), {"j0", "j1"}), 1, atol=1e-6)
    np.testing.assert_allclose(joint_weights(weighted(), {"gone"}), 0)


@pytest.mark.parametrize(
    ("falloff", "wanted"),
    [(1.0, WEIGHTS), (0.5, np.clip((WEIGHTS - 0.5) / 0.5 + 0.5, 0, 1)), (0.0, np.where(WEIGHTS > 0.51, 1, 0))],
)
def test_falloff_thins_out_around_half_the_weight(falloff, wanted):
    found = densities(weighted(), joints=JointSet(names=("j1",), falloff=falloff))
    sure = np.abs(WEIGHTS - 0.5) > 1e-3  # on half itself a falloff of nothing may go either way
    np.testing.assert_allclose(found[sure], wanted[sure], atol=1e-5)


def test_filters_multiply():
    both = densities(
        weighted(), joints=JointSet(names=("j1",), falloff=1.0), height=HeightMask(low=0.0, high=0.6, soft=0.0)
    )
    np.testing.assert_allclose(both, np.where(WEIGHTS < 0.65, WEIGHTS, 0), atol=1e-5)


# ---- painting -------------------------------------------------------------------------------------


def test_packing_keeps_256_strengths():
    strengths = np.linspace(-0.5, 1.5, 1001).astype(np.float32)
    mask = pack_mask(PaintedMask(), strengths)
    assert mask.vertices == 1001
    np.testing.assert_allclose(unpack_mask(mask), np.clip(strengths, 0, 1), atol=0.5 / 255 + 1e-6)
    again = pack_mask(mask, unpack_mask(mask))
    assert again.values == mask.values


def test_nothing_painted_is_an_empty_text():
    assert pack_mask(PaintedMask(), np.zeros(7, np.float32)).values == ""
    np.testing.assert_array_equal(unpack_mask(PaintedMask(vertices=7)), np.zeros(7))


def packed(raw):
    return base64.b64encode(zlib.compress(raw)).decode()


@pytest.mark.parametrize(
    "values", ["!", "AAAA", packed(b"123"), packed(b"12345"), packed(b"1" * 10_000), base64.b64encode(b"x").decode()]
)
def test_a_mask_that_cannot_be_read_is_empty(values):
    assert len(unpack_mask(PaintedMask(vertices=4, values=values))) == 0


def test_a_mask_that_fits_gates_and_another_is_left_out():
    half = np.linspace(0, 1, 11).astype(np.float32)
    source = SkinSource(painted="m")
    found = vertex_densities(ladder(), source, pack_mask(PaintedMask(), half))
    np.testing.assert_allclose(found, half, atol=1 / 255)
    other = vertex_densities(ladder(), source, pack_mask(PaintedMask(), half[:5]))
    np.testing.assert_array_equal(other, 1)


@pytest.mark.parametrize(("away", "added"), [(0.0, 0.8), (0.05, 0.4), (0.025, 0.8 * 0.84375), (0.1, 0.0), (0.2, 0.0)])
def test_a_dab_is_strongest_in_its_middle_and_smooth_to_its_radius(away, added):
    after = brush(np.full(1, 0.1, np.float32), np.array([[away, 0, 0]], np.float32), np.zeros(3), 0.1, 0.8)
    assert after[0] == pytest.approx(0.1 + added, abs=1e-5)


def test_dabs_stay_between_nothing_and_full():
    spot = np.zeros((1, 3), np.float32)
    assert brush(np.full(1, 0.9, np.float32), spot, np.zeros(3), 0.1, 0.8)[0] == 1
    assert brush(np.full(1, 0.1, np.float32), spot, np.zeros(3), 0.1, -0.8)[0] == 0
    assert brush(np.full(1, 0.1, np.float32), spot + 1, np.zeros(3), 0.0, 0.8)[0] == pytest.approx(0.1)


def test_weights_that_add_up_to_more_than_one_count_as_one():
    made = ladder(3, weights=[[0.9, 0.9]] * 3, joints=[[0, 1]] * 3)
    np.testing.assert_array_equal(joint_weights(made, ["j0", "j1"]), 1)
