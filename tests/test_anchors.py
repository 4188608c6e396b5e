"""Anchors: moved, turned, snapped and mirrored, on joints and on the ground; rays that meet the skin."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.bodies import body, sphere
from wraithon.character.anchoring import (
    degrees_of,
    mirrored_anchor,
    moved,
    offset_in,
    on_whole_centimetres,
    other_side,
    rotated,
)
from wraithon.character.picking import hit_skin
from wraithon.character.pose import rest_pose
from wraithon.project.character import Anchor, CharacterUse
from wraithon.project.source import PointSource
from wraithon.stage.anchors import anchorage_of


def placed(character, *anchors, scale=1.0, pose=None):
    use = CharacterUse(file="", anchors=anchors, scale=scale)
    return anchorage_of(character, use).matrices(pose or rest_pose(character))


@pytest.mark.parametrize("turn", [(0, 0, 0), (30, -40, 75)])
@pytest.mark.parametrize("scale", [1.0, 2.5])
def test_moving_goes_the_way_it_was_dragged(halcyon, turn, scale):
    anchor = Anchor(joint="left forearm", offset=(0.1, 0.0, 0.05), turn=turn)
    (before,) = placed(halcyon, anchor, scale=scale)
    way = np.array([0.1, -0.05, 0.2])
    (after,) = placed(halcyon, moved(anchor, before, way, scale), scale=scale)
    np.testing.assert_allclose(after[:3, 3] - before[:3, 3], way, atol=2e-5)
    np.testing.assert_allclose(after[:3, :3], before[:3, :3], atol=1e-6)


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_turning_is_about_the_anchors_own_axis(halcyon, axis):
    anchor = Anchor(joint="head", turn=(20, 30, -50))
    before, after = placed(halcyon, anchor, rotated(anchor, axis, 25))
    np.testing.assert_allclose(before[:3, axis], after[:3, axis], atol=1e-5)
    between = Rotation.from_matrix(before[:3, :3].T @ after[:3, :3])
    assert np.degrees(between.magnitude()) == pytest.approx(25, abs=1e-3)


def test_degrees_and_rotations_are_each_others_opposite():
    degrees = (12.0, -34.0, 56.0)
    assert degrees_of(Rotation.from_euler("XYZ", degrees, degrees=True).as_matrix()) == pytest.approx(
        degrees, abs=1e-3
    )


@pytest.mark.parametrize("scale", [1.0, 0.5])
def test_what_is_placed_from_an_anchor_moves_as_it_is_dragged(halcyon, scale):
    (anchor,) = placed(halcyon, Anchor(joint="left forearm", turn=(10, 20, 30)))
    source = PointSource(offset=(0.1, 0.0, 0.2), turn=(30, -40, 75))
    before = offset_in(source, anchor, scale)
    np.testing.assert_allclose(before[:3, 3] - anchor[:3, 3], anchor[:3, :3] @ source.offset * scale, atol=1e-5)
    way = np.array([0.1, -0.05, 0.2])
    after = offset_in(moved(source, before, way, scale), anchor, scale)
    np.testing.assert_allclose(after[:3, 3] - before[:3, 3], way, atol=2e-5)
    about = offset_in(rotated(source, 1, 25), anchor, scale)
    np.testing.assert_allclose(about[:3, 1], before[:3, 1], atol=1e-5)


def test_whole_centimetres_leave_the_turn_alone():
    held = on_whole_centimetres(Anchor(offset=(0.0149, -0.006, 0.0), turn=(8, 7, -23)))
    assert held.offset == pytest.approx((0.01, -0.01, 0.0))
    assert held.turn == (8, 7, -23)


@pytest.mark.parametrize("degrees", [(12, -34, 56), (170, 10, -170), (-90, 0, 45), (20, 90, 0), (-30, -90, 0)])
def test_degrees_are_those_of_the_library(degrees):
    turn = Rotation.from_euler("XYZ", degrees, degrees=True).as_matrix()
    again = Rotation.from_euler("XYZ", degrees_of(turn), degrees=True).as_matrix()
    np.testing.assert_allclose(again, turn, atol=1e-5)


@pytest.mark.parametrize("joint", ["left hand", "left fan", "left ball", "head"])
def test_a_mirrored_anchor_is_the_mirror_image_in_the_rest_pose(halcyon, joint):
    anchor = Anchor(name="left thing", joint=joint, offset=(0.03, 0.1, -0.02), turn=(10, 35, -20))
    one, other = placed(halcyon, anchor, mirrored_anchor(halcyon, anchor))
    np.testing.assert_allclose(other[:3, 3], one[:3, 3] * (-1, 1, 1), atol=2e-3)
    # Forward and up are mirrored; right becomes left.
    np.testing.assert_allclose(other[:3, 2], one[:3, 2] * (-1, 1, 1), atol=2e-2)
    np.testing.assert_allclose(other[:3, 1], one[:3, 1] * (-1, 1, 1), atol=2e-2)
    assert np.linalg.det(other[:3, :3]) == pytest.approx(1, abs=1e-3)


def test_mirroring_twice_comes_back(halcyon):
    anchor = Anchor(name="left tip", joint="left hand", offset=(0.1, 0.02, 0.0), turn=(5, 10, 15))
    again = mirrored_anchor(halcyon, mirrored_anchor(halcyon, anchor))
    assert (again.joint, again.name) == ("left hand", "left tip")
    np.testing.assert_allclose(again.offset, anchor.offset, atol=1e-4)
    np.testing.assert_allclose(again.turn, anchor.turn, atol=1e-2)


def test_an_anchor_on_the_ground_lies_under_its_joint(halcyon):
    on_joint, on_ground = placed(
        halcyon, Anchor(joint="left hand"), Anchor(joint="left hand", on_ground=True, turn=(0, 90, 0))
    )
    np.testing.assert_allclose(on_ground[:3, 3], on_joint[:3, 3] * (1, 0, 1), atol=1e-6)
    np.testing.assert_allclose(on_ground[:3, 2], [1, 0, 0], atol=1e-6)


# ---- rays -----------------------------------------------------------------------------------------


def test_a_ray_meets_the_nearest_skin():
    made = body(*sphere())
    points, triangles = made.mesh.positions, made.mesh.triangles
    row, b, c = hit_skin(np.array([0.1, 0.2, 5]), np.array([0, 0, -1.0]), points, triangles)
    corners = points[triangles[row]]
    spot = corners[0] * (1 - b - c) + corners[1] * b + corners[2] * c
    np.testing.assert_allclose(spot, [0.1, 0.2, np.sqrt(1 - 0.05)], atol=3e-3)


def test_a_ray_that_misses_or_looks_away_meets_nothing():
    made = body(*sphere())
    points, triangles = made.mesh.positions, made.mesh.triangles
    assert hit_skin(np.array([3.0, 0, 5]), np.array([0, 0, -1.0]), points, triangles) is None
    assert hit_skin(np.array([0, 0, 5.0]), np.array([0, 0, 1.0]), points, triangles) is None
    hidden = np.zeros(len(triangles), np.bool_)
    assert hit_skin(np.array([0, 0, 5.0]), np.array([0, 0, -1.0]), points, triangles, hidden) is None


@pytest.mark.parametrize(
    ("name", "other"),
    [
        ("left step", "right step"), ("Right hand", "Left hand"), ("LeftFoot", "RightFoot"),
        ("toe_left", "toe_right"), ("bright light", "bright light mirrored"), ("cleft", "cleft mirrored"),
        ("burst", "burst mirrored"),
    ],
)  # fmt: skip
def test_names_of_the_other_side(name, other):
    assert other_side(name) == other
