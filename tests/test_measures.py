"""What the check-up measures, at exact values: areas, edges, heights, seams, slides, spans and bounds."""

import numpy as np
import pytest

from tests.bodies import body, clip_of
from tests.test_checkup import PLAYED, legs, sliding
from wraithon.character.bones import bone_frames, bones_of
from wraithon.character.checkup import check_clip, check_mesh, height_of, measure_clip
from wraithon.character.measures import edge_lengths, owners, triangle_areas, triangle_nodes, welded_vertices
from wraithon.character.model import Character
from wraithon.character.pose import rest_pose

FLOOR = [[0, 0, 0], [3, 0, 0], [3, 0, 4], [0, 0, 4]]


def test_areas_and_edges_are_those_of_a_3_4_5_triangle():
    points, triangles = np.array(FLOOR, np.float32), np.array([[0, 1, 2], [0, 2, 3]], np.int32)
    np.testing.assert_allclose(triangle_areas(points, triangles), [6, 6])
    rows, corners = np.zeros(3, np.int32), np.arange(3, dtype=np.int8)
    np.testing.assert_allclose(edge_lengths(points, triangles, rows, corners), [3, 4, 5])


def test_seams_are_one_place_and_neighbours_are_not():
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1e-8, 0, 0], [1e-4, 0, 0]])
    welded = welded_vertices(body(points, [[0, 1, 2], [3, 1, 4]]))
    assert welded[0] == welded[3]
    assert len(set(welded.tolist())) == 4


def test_a_joint_owns_all_below_it_that_has_no_row_of_its_own():
    made = body(np.eye(3), [[0, 1, 2]], parents=(-1, 0, 1, 1, 3), offsets=np.zeros((5, 3)))
    assert owners(made, ["j1", "j3"]).tolist() == [2, 0, 0, 1, 1]
    assert owners(made, []).tolist() == [0] * 5
    assert owners(made, ["j1", "j1"]).tolist() == [2, 0, 0, 0, 0]


def test_a_triangle_belongs_to_the_joint_that_holds_most_of_it():
    weights = [[0.6, 0.4], [0.6, 0.4], [0.0, 1.0]]
    made = body(
        np.eye(3), [[0, 1, 2]], parents=(-1, 0), offsets=[[0, 0, 0], [0, 1, 0]], joints=np.tile([0, 1], (3, 1)),
        weights=weights,
    )  # fmt: skip
    assert triangle_nodes(made).tolist() == [1]


def test_bones_run_from_joint_to_child_with_a_unit_vector_across():
    made = body(np.eye(3), [[0, 1, 2]], parents=(-1, 0, 1), offsets=[[0, 1, 0], [0, 2, 0], [1, 0, 0]])
    bones = bones_of(made)
    assert (bones.nodes.tolist(), bones.ends.tolist()) == ([0, 1], [1, 2])
    frames = bone_frames(bones, rest_pose(made))
    np.testing.assert_allclose(frames[:, 0], [[0, 1, 0], [0, 3, 0]], atol=1e-6)
    np.testing.assert_allclose(frames[:, 1], [[0, 3, 0], [1, 3, 0]], atol=1e-6)
    along = frames[:, 1] - frames[:, 0]
    np.testing.assert_allclose((frames[:, 2] * along).sum(axis=1), 0, atol=1e-6)
    np.testing.assert_allclose(np.linalg.norm(frames[:, 2], axis=1), 1, atol=1e-6)


def test_height_is_of_the_skin_or_of_the_joints_without_one():
    assert height_of(body(np.array(FLOOR) + [[0, 0, 0], [0, 2.5, 0], [0, 1, 0], [0, 0, 0]], [[0, 1, 2]])) == 2.5
    bare = body(np.zeros((0, 3)), np.zeros((0, 3)), parents=(-1, 0), offsets=[[0, 0.5, 0], [0, 1, 0]])
    assert height_of(bare) == pytest.approx(1.0)
    assert height_of(body(FLOOR, [[0, 1, 2]])) == 1e-6


# ---- mesh -----------------------------------------------------------------------------------------


def sliver(height):
    return body([[0, 0, 0], [1, 0, 0], [0.5, height, 0]], [[0, 1, 2]])


@pytest.mark.parametrize(("height", "flat"), [(0.0, True), (5e-11, True), (2e-10, False), (1.0, False)])
def test_a_triangle_is_flat_below_a_share_of_its_longest_side(height, flat):
    assert any("1 of 1 triangles have no area" in oddity.message for oddity in check_mesh(sliver(height))) == flat


@pytest.mark.parametrize(("turned", "said"), [(0, False), (1, False), (2, False), (3, True), (100, True)])
def test_normals_that_point_inwards_are_told_above_one_in_fifty(turned, said):
    from dataclasses import replace

    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 0, -1]])
    points = np.concatenate([corners + (2 * k, 0, 0) for k in range(100)])
    made = body(points, np.arange(300).reshape(-1, 3))
    normals = made.mesh.normals.copy()
    normals[: 3 * turned] *= -1
    made = replace(made, mesh=replace(made.mesh, normals=normals))
    found = [oddity.message for oddity in check_mesh(made) if "normals point into it" in oddity.message]
    assert len(found) == said
    assert not said or found[0].startswith(f"{turned} of 100 normals")


def twigs(count):
    """Return a body with `count` end joints that hold no skin."""
    parents = (-1, *([0] * count))
    return body(np.eye(3), [[0, 1, 2]], parents=parents, offsets=np.zeros((count + 1, 3)))


@pytest.mark.parametrize(("count", "told"), [(1, 1), (3, 3), (4, 0), (30, 0)])
def test_a_few_idle_ends_are_told_and_many_are_meant(count, told):
    assert len([o for o in check_mesh(twigs(count)) if "holds no skin" in o.message]) == told


# ---- clips ----------------------------------------------------------------------------------------


def test_travel_and_seam_are_measured_to_the_millimetre():
    made = legs(
        clip_of("go", [0, 1], (0, 0, [[0, 1, 0], [0.2, 1.0, 1.5]]), (1, 0, [[0.1, -0.9, 0], [0.1, -0.9, 0.03]]))
    )
    facts = measure_clip(made, made.clips[0])
    assert facts.travel == pytest.approx((0.2, 0.0, 1.5), abs=1e-6)
    assert facts.seam == pytest.approx(0.03, abs=1e-6)
    assert facts.seam_joint in {"j1", "j2"}  # the ankle takes the ball along
    assert facts.moves


@pytest.mark.parametrize(("jump", "told"), [(0.008, False), (0.0099, False), (0.0101, True)])
def test_a_seam_is_told_above_a_hundredth_of_the_height(jump, told):
    made = legs(clip_of("go", [0, 0.5, 1], (0, 0, [[0, 1, 0], [0, 1.01, 0], [0, 1, 0]]),
                        (3, 0, [[-0.1, -0.9, 0], [-0.1, -0.9, 0], [-0.1, -0.9, jump]])))  # fmt: skip
    assert height_of(made) == pytest.approx(1.0)
    found = [o.message for o in check_clip(made, made.clips[0], **PLAYED) if "jumps by" in o.message]
    assert bool(found) == told
    assert not told or f"{jump * 100:.1f} cm at j3" in found[0] or "at j4" in found[0]


@pytest.mark.parametrize(("way", "moves"), [(0.5e-4, False), (2e-4, True)])
def test_a_clip_moves_above_a_ten_thousandth_of_the_height(way, moves):
    made = legs(clip_of("still", [0, 1], (0, 0, [[0, 1, 0], [0, 1, way]])))
    assert measure_clip(made, made.clips[0]).moves == moves


@pytest.mark.parametrize(
    ("raised", "scale", "text"),
    [
        (0.019, 1.0, ""), (0.021, 1.0, "stands 2.1 cm above the ground: lower"),
        (-0.019, 1.0, ""), (-0.021, 1.0, "stands 2.1 cm under the ground: raise"),
        (0.03, 2.0, ""), (0.05, 2.0, "stands 5.0 cm above"), (-0.05, 2.0, "stands 5.0 cm under"),
    ],
)  # fmt: skip
def test_feet_off_the_ground_are_told_above_a_fiftieth_of_the_scaled_height(raised, scale, text):
    found = " / ".join(
        o.message
        for o in check_clip(sliding_walker(), sliding_walker().clips[0], loops=True, scale=scale, raised=raised)
    )
    assert (text in found) if text else ("ground" not in found)


def sliding_walker(distance=0.0, held={}):  # noqa: B006  # one walker a distance is enough
    if distance not in held:
        held[distance] = legs(sliding(distance))
    return held[distance]


@pytest.mark.parametrize(("distance", "told"), [(0.02, False), (0.06, True)])
def test_a_slide_is_told_above_a_fiftieth_of_the_height(distance, told):
    made = sliding_walker(distance)
    found = [o.message for o in check_clip(made, made.clips[0], **PLAYED) if "slides by" in o.message]
    assert bool(found) == told
    assert not told or "while it stands (from 0.00 s)" in found[0]


def test_feet_stand_while_they_are_low_and_hardly_rise():
    """The left foot steps up between 0.4 and 0.6 s, by 30 cm."""
    times = np.linspace(0, 1, 61)
    lift = np.where((times > 0.4) & (times < 0.6), 0.3 * np.sin((times - 0.4) / 0.2 * np.pi), 0)
    ankle = np.column_stack([np.full(61, 0.1), -0.9 + lift, np.zeros(61)])
    made = legs(clip_of("step", times, (1, 0, ankle)))
    left, right = measure_clip(made, made.clips[0]).feet
    assert [tuple(round(t, 1) for t in span) for span in left.contact] == [(0.0, 0.4), (0.6, 1.0)]
    assert [tuple(round(t, 1) for t in span) for span in right.contact] == [(0.0, 1.0)]
    assert left.height == pytest.approx(0.0, abs=1e-3)
    assert isinstance(made, Character)
