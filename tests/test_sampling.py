"""Sampling is fair: statistics with a stated confidence, for every mode, filter and spacing."""

import tracemalloc

import numpy as np
import pytest
from scipy import stats
from scipy.spatial import cKDTree

from tests.bodies import body, random_mesh, sphere, swaying_pole
from wraithon.character.bones import bones_of
from wraithon.character.masks import brush, joint_weights, pack_mask, unpack_mask, vertex_densities
from wraithon.character.measures import owners, triangle_areas, triangle_nodes
from wraithon.character.pose import rest_skin
from wraithon.character.sampling import sampler_of
from wraithon.character.spacing import eliminated, positions_of
from wraithon.project.character import PaintedMask
from wraithon.project.source import (
    FacingMask,
    FacingSide,
    HeightMask,
    JointRow,
    JointSet,
    Mode,
    SkinSource,
    Spacing,
    TextureMask,
)

COUNT = 20_000


def chi_square(positions, measure, groups=40):
    """Return the p-value of births by row against a measure, with rows pooled from the smallest to the largest."""
    seen = np.bincount(positions.rows, minlength=len(measure))
    order = np.argsort(measure, kind="stable")
    edges = np.searchsorted(np.cumsum(measure[order]) / measure.sum(), np.linspace(0, 1, groups + 1)[1:-1])
    pooled = [g for g in np.split(order, edges) if len(g)]
    wanted = np.array([measure[g].sum() for g in pooled]) / measure.sum() * len(positions.rows)
    return stats.chisquare([seen[g].sum() for g in pooled], wanted).pvalue


# ---- modes ----------------------------------------------------------------------------------------


def test_surface_births_are_even_by_area_on_200_meshes_with_areas_over_four_decades():
    values = []
    for seed in range(200):
        rng = np.random.default_rng(seed)
        made = body(*random_mesh(rng, 120))
        areas = triangle_areas(made.mesh.positions, made.mesh.triangles)
        assert areas.max() / areas.min() > 1e4
        values.append(chi_square(sampler_of(made, SkinSource()).draw(COUNT, key=seed), areas))
    # Each test passes at 1 % by itself but for chance: of 200, 7 or more fail once in 200 tries.
    assert np.sum(np.array(values) < 0.01) <= 7
    # And all together they look like what chance gives.
    assert stats.kstest(values, "uniform").pvalue > 0.01


def test_surface_births_are_even_within_a_triangle():
    made = body([[0, 0, 0], [4, 0, 0], [0, 0, 1]], [[0, 1, 2]])
    positions = sampler_of(made, SkinSource()).draw(COUNT, key=5)
    b, c = positions.numbers[:, 0], positions.numbers[:, 1]
    assert stats.kstest((1 - b) ** 2, "uniform").pvalue > 0.01  # the area beyond b is (1 - b)²
    assert stats.kstest((1 - c) ** 2, "uniform").pvalue > 0.01
    assert (b + c <= 1 + 1e-6).all()


def test_edge_births_are_even_by_length_and_each_edge_counts_once():
    points, triangles = sphere(12, 24)
    made = body(points, triangles)
    sampler = sampler_of(made, SkinSource(mode=Mode.EDGES))
    welded = np.unique(np.round(points, 6) + 0.0, axis=0)
    # Euler: V - E + F = 2, the collapsed triangles at the poles left out.
    areas = triangle_areas(made.mesh.positions, made.mesh.triangles)
    faces = int((areas > 1e-9).sum())
    assert len(sampler.arrays.rows) == len(welded) + faces - 2
    positions = sampler.draw(COUNT, key=2)
    spots = positions_of(made, sampler, positions)
    tree = cKDTree(points)
    assert np.median(tree.query(spots)[0]) > 0.01  # along the edges, not only at their ends
    shares = positions.numbers[positions.numbers[:, 1] == 0][:, 0]
    assert 0.45 < shares.mean() < 0.55
    lengths = sampler.shares
    where = {
        (int(r), int(c)): k for k, (r, c) in enumerate(zip(sampler.arrays.rows, sampler.arrays.corners, strict=True))
    }
    b, c = positions.numbers[:, 0], positions.numbers[:, 1]
    corner = np.where(c == 0, 0, np.where(b == 0, 2, 1))
    edges = [where.get((int(r), int(k)), -1) for r, k in zip(positions.rows, corner, strict=True)]
    seen = np.bincount([e for e in edges if e >= 0], minlength=len(lengths))
    groups = np.array_split(np.argsort(lengths), 20)
    wanted = np.array([lengths[g].sum() for g in groups])
    observed = np.array([seen[g].sum() for g in groups])
    assert stats.chisquare(observed, wanted / wanted.sum() * observed.sum()).pvalue > 0.01


def test_vertex_births_are_even_by_vertex_and_seams_count_once():
    points, triangles = sphere(12, 24)
    split = points[triangles.reshape(-1)]  # every triangle with vertices of its own
    made = body(split, np.arange(len(split)).reshape(-1, 3))
    sampler = sampler_of(made, SkinSource(mode=Mode.VERTICES))
    assert len(sampler.arrays.rows) == len(np.unique(np.round(split, 6) + 0.0, axis=0))
    positions = sampler.draw(COUNT, key=3)
    spots = positions_of(made, sampler, positions)
    _, counts = np.unique(np.round(spots, 5) + np.float32(0), axis=0, return_counts=True)
    assert stats.chisquare(counts).pvalue > 0.01


def test_bone_births_are_even_by_length_and_fill_the_radius():
    made = body(
        [[0, 0, 0], [1, 0, 0], [0, 1, 0]],
        [[0, 1, 2]],
        parents=(-1, 0, 1, 1),
        offsets=[[0, 0, 0], [0, 1, 0], [0, 3, 0], [2, 0, 0]],
    )
    bones = bones_of(made)
    assert bones.nodes.tolist() == [0, 1, 1]
    sampler = sampler_of(made, SkinSource(mode=Mode.BONES))
    positions = sampler.draw(COUNT, key=4)
    assert stats.chisquare(np.bincount(positions.rows), np.array([1, 3, 2]) / 6 * COUNT).pvalue > 0.01
    spots = positions_of(made, sampler, positions, radius=0.2)
    second = spots[positions.rows == 1]
    away = np.hypot(second[:, 0], second[:, 2])
    assert stats.kstest((away / 0.2) ** 2, "uniform").pvalue > 0.01
    assert stats.kstest((second[:, 1] - 1) / 3, "uniform").pvalue > 0.01


def test_a_sphere_is_covered_evenly_whatever_its_triangles():
    sampler = sampler_of(made := body(*sphere()), SkinSource())
    spots = positions_of(made, sampler, sampler.draw(COUNT, key=6))
    # Archimedes: height on a sphere is uniform.
    assert stats.kstest((spots[:, 1] + 1) / 2, "uniform").pvalue > 0.01
    # Nearest neighbours of random places follow the Poisson law (Clark and Evans 1954).
    near = cKDTree(spots).query(spots, k=2)[0][:, 1]
    ratio = near.mean() * 2 * np.sqrt(COUNT / (4 * np.pi))
    assert ratio == pytest.approx(1, abs=3 * 0.5227 / np.sqrt(COUNT))


# ---- spacing --------------------------------------------------------------------------------------


def largest_distance(area, count):
    """Return the distance that hexagonal packing gives `count` points on an area."""
    return np.sqrt(2 * area / (np.sqrt(3) * count))


def test_even_spacing_keeps_seven_tenths_of_the_largest_distance():
    made = body(*sphere())
    for seed in range(3):
        sampler = sampler_of(made, SkinSource(spacing=Spacing.EVEN, pieces=1000), key=seed)
        spots = positions_of(made, sampler, sampler.draw(1000))
        minimum = cKDTree(spots).query(spots, k=2)[0][:, 1].min()
        assert minimum >= 0.70 * largest_distance(4 * np.pi, 1000)


@pytest.mark.parametrize("count", [60, 250, 500])
def test_the_first_of_evenly_spaced_places_are_spaced_evenly_too(count):
    sampler = sampler_of(made := body(*sphere()), SkinSource(spacing=Spacing.EVEN, pieces=1000))
    spots = positions_of(made, sampler, sampler.draw(count))
    minimum = cKDTree(spots).query(spots, k=2)[0][:, 1].min()
    by_chance = 0.5 / np.sqrt(count / (4 * np.pi)) / np.sqrt(count)
    assert minimum > 0.45 * largest_distance(4 * np.pi, count) > 5 * by_chance / 2


def test_evenly_spaced_places_are_each_taken_once_before_any_is_taken_again():
    sampler = sampler_of(body(*sphere()), SkinSource(spacing=Spacing.EVEN, pieces=300))
    first, again = sampler.draw(300), sampler.draw(300, first=300)
    assert len(np.unique(np.column_stack([first.rows, first.numbers]), axis=0)) == 300
    np.testing.assert_array_equal(first.numbers, again.numbers)


def test_points_heaped_on_one_spot_are_thinned_out_all_the_same():
    assert len(eliminated(np.zeros((500, 3), np.float32), 20)) == 20


# ---- filters --------------------------------------------------------------------------------------


def test_a_height_mask_thins_births_out_over_its_soft_edge():
    made = body(*sphere())
    sampler = sampler_of(made, SkinSource(height=HeightMask(low=0.5, high=1.0, soft=0.2)))
    y = positions_of(made, sampler, sampler.draw(COUNT, key=8))[:, 1] / 2 + 0.5
    assert y.min() > 0.28
    full, half = np.mean((y > 0.6) & (y < 0.7)), np.mean((y > 0.35) & (y < 0.45))
    assert half / full == pytest.approx(0.5, abs=0.08)


def test_facing_keeps_to_its_side():
    made = body(*sphere())
    sampler = sampler_of(made, SkinSource(facing=FacingMask(side=FacingSide.FRONT, within=30, soft=0)))
    spots = positions_of(made, sampler, sampler.draw(4000, key=9))
    assert np.degrees(np.arccos(np.clip(spots[:, 2], -1, 1))).max() < 36


def two_boned():
    points, triangles = sphere(16, 32)
    upper = np.clip(points[:, 1] * 2 + 0.5, 0, 1)
    return body(
        points, triangles, parents=(-1, 0), offsets=[[0, -1, 0], [0, 1, 0]],
        joints=np.tile([0, 1], (len(points), 1)), weights=np.stack([1 - upper, upper], axis=1),
    )  # fmt: skip


def test_a_joint_set_takes_what_its_joints_hold():
    made = two_boned()
    held = joint_weights(made, {"j1"})
    np.testing.assert_allclose(held, np.clip(made.mesh.positions[:, 1] * 2 + 0.5, 0, 1), atol=1e-6)
    soft = vertex_densities(made, SkinSource(joints=JointSet(names=("j1",), falloff=1.0)))
    np.testing.assert_allclose(soft, held, atol=1e-6)
    hard = vertex_densities(made, SkinSource(joints=JointSet(names=("j1",), falloff=0.0)))
    assert set(np.unique(np.round(hard, 3))) <= {0.0, 0.5, 1.0}


def test_a_texture_mask_lets_births_through_where_it_is_bright():
    points, triangles = [[0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1]], [[0, 1, 2], [0, 2, 3]]
    made = body(points, triangles, uvs=[[0, 0], [1, 0], [1, 1], [0, 1]])
    picture = np.zeros((64, 64, 4), np.uint8)
    picture[..., 3] = 255
    picture[:, 32:, :3] = 255
    for invert in (False, True):
        sampler = sampler_of(made, SkinSource(texture=TextureMask(texture="x", invert=invert)), image=picture)
        x = positions_of(made, sampler, sampler.draw(5000, key=1))[:, 0]
        assert ((x < 0.5) == invert).mean() > 0.999
        assert stats.kstest(x * 2 % 1, "uniform").pvalue > 0.01


def test_painted_masks_survive_packing_and_gate_births():
    made = body(*sphere())
    strengths = brush(
        np.zeros(len(made.mesh.positions), np.float32), made.mesh.positions, np.array([0, 1, 0]), 0.8, 1.0
    )
    mask = pack_mask(PaintedMask(), strengths)
    np.testing.assert_allclose(unpack_mask(mask), strengths, atol=1 / 500)
    sampler = sampler_of(made, SkinSource(painted=mask.id), painted=mask)
    spots = positions_of(made, sampler, sampler.draw(4000, key=2))
    assert np.linalg.norm(spots - [0, 1, 0], axis=1).max() < 0.95
    assert sampler_of(
        made, SkinSource(painted=mask.id), painted=PaintedMask(id=mask.id, vertices=len(strengths))
    ).empty


@pytest.mark.parametrize("values", ["not base64!", "AAAA", "eJwLTyxKBQAF"])
def test_a_spoilt_painted_mask_is_left_out(values):
    made = body(*sphere(4, 8))
    spoilt = PaintedMask(vertices=len(made.mesh.positions), values=values)
    assert len(unpack_mask(spoilt)) == 0
    assert not sampler_of(made, SkinSource(painted=spoilt.id), painted=spoilt).empty


def test_a_mask_that_inflates_without_end_does_not_fill_the_memory():
    import base64
    import zlib

    bomb = base64.b64encode(zlib.compress(bytes(50_000_000))).decode()
    assert len(unpack_mask(PaintedMask(vertices=10, values=bomb))) == 0


# ---- joint table ----------------------------------------------------------------------------------


@pytest.mark.parametrize("spacing", list(Spacing))
def test_the_joint_table_gives_each_joint_its_share(spacing):
    made = two_boned()
    rows = (JointRow(joint="j0", share=3), JointRow(joint="j1", share=1))
    sampler = sampler_of(made, SkinSource(table=rows, spacing=spacing, pieces=1000))
    count = 1000 if spacing is Spacing.EVEN else COUNT
    positions = sampler.draw(count, key=3)
    seen = np.bincount(owners(made, ["j0", "j1"])[triangle_nodes(made)[positions.rows]], minlength=2)
    assert stats.chisquare(seen, np.array([0.75, 0.25]) * count).pvalue > 0.01


def test_a_row_of_the_table_stands_for_what_is_below_its_joint(halcyon):
    names = halcyon.skeleton.names
    claimed = owners(halcyon, ["hips", "head"])
    below = [n for n in range(len(names)) if names[n] == "head" or "head" in _above(halcyon, n)]
    assert {names[n] for n in np.flatnonzero(claimed == 1)} == {names[n] for n in below}


def _above(character, node):
    parents, names = character.skeleton.parents, character.skeleton.names
    while parents[node] >= 0:
        node = int(parents[node])
        yield names[node]


def test_only_joints_of_the_table_give_birth():
    made = two_boned()
    sampler = sampler_of(made, SkinSource(table=(JointRow(joint="j1"),)))
    nodes = triangle_nodes(made)[sampler.draw(2000).rows]
    assert set(nodes.tolist()) == {1}


def test_what_is_not_there_gives_no_birth(halcyon):
    assert sampler_of(halcyon, SkinSource(parts=("no such part",))).empty
    assert sampler_of(halcyon, SkinSource(table=(JointRow(joint="no such joint"),))).empty
    assert sampler_of(halcyon, SkinSource(joints=JointSet(names=("no such joint",)))).empty
    flat = body([[0, 0, 0], [0, 0, 0], [0, 0, 0]], [[0, 1, 2]])
    assert sampler_of(flat, SkinSource()).empty
    assert len(sampler_of(flat, SkinSource(spacing=Spacing.EVEN)).draw(5).rows) == 0


@pytest.mark.parametrize("mode", [Mode.SURFACE, Mode.EDGES, Mode.VERTICES])
def test_sampling_a_large_mesh_takes_no_more_than_four_times_its_memory(mode):
    made = swaying_pole(60, 900)
    mesh = made.mesh
    held = sum(a.nbytes for a in (mesh.positions, mesh.normals, mesh.uvs, mesh.triangles, mesh.joints, mesh.weights))
    rest_skin(made)
    sampler_of(swaying_pole(4, 6), SkinSource(mode=mode))  # kernels are there
    tracemalloc.start()
    try:
        sampler_of(made, SkinSource(mode=mode))
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert held + peak <= 4 * held
