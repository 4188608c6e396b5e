"""Rules at their bounds, with exact values: tests of tendencies do not see a sign or a comparison change."""

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated

import numpy as np
import pytest
from pydantic import Field
from scipy import stats

from tests.pools import DT, PLAIN, born
from wraithon.character.model import Material
from wraithon.character.reading import gltf_motions
from wraithon.character.reading.gltf_motions import motions_of
from wraithon.particles.looks.light import GOLDEN, flickering
from wraithon.particles.pool import Pool
from wraithon.picture.camera import Camera
from wraithon.picture.pace import Backlog, Pace
from wraithon.picture.solid.material_table import material_table
from wraithon.picture.textures import _soft_disc
from wraithon.project.base import Model
from wraithon.project.effect import Layer
from wraithon.project.history import History
from wraithon.project.look import LightLook
from wraithon.project.paths import NumberBounds, bounds_at
from wraithon.project.project import Project
from wraithon.project.source import OffspringSource
from wraithon.project.staging.actions import WaitFor
from wraithon.stage.births import _counts
from wraithon.stage.driving.feet import _stands
from wraithon.stage.firing import Firing
from wraithon.stage.player import Player
from wraithon.stage.rerun import _max_alive
from wraithon.stage.triggering.screen_effects import ScreenEffects
from wraithon.stage.triggering.signals import measured
from wraithon.stage.triggering.triggers import crossed
from wraithon.support.errors import CharacterError


@pytest.mark.parametrize(
    ("before", "after", "rises", "falls"),
    [
        (0.4, 0.5, True, False),  # reaching it counts
        (0.5, 0.6, False, False),  # it was there already
        (0.6, 0.5, False, True),
        (0.5, 0.4, False, False),
        (0.5, 0.5, False, False),
        (0.4, 0.6, True, False),
        (0.6, 0.4, False, True),
    ],
)
def test_a_signal_crosses_its_value_when_it_reaches_it(before, after, rises, falls):
    wait = WaitFor(signal="rage", value=0.5)
    assert crossed(wait, {"rage": before}, {"rage": after}) is rises
    assert crossed(wait.evolve(falls=True), {"rage": before}, {"rage": after}) is falls


def test_what_does_not_follow_the_character_goes_on_when_the_rest_is_stopped(demo):
    show = Player(demo.project, demo.characters).show
    free, following, over = (
        Firing("e", number, "", 0.0, None, follow, None, until=until)
        for number, (follow, until) in enumerate(((False, 9.0), (True, 9.0), (True, 1.0)))
    )
    show.firings.update({firing.number: firing for firing in (free, following, over)})
    stopped = show.stopped
    show.stop_following(2.0)
    assert (free.until, following.until, over.until) == (9.0, 2.0, 1.0)
    assert show.stopped == stopped + 1


@pytest.mark.parametrize("left", [1.0, 0.5, 0.1])
def test_a_shake_decays_with_the_square_of_what_is_left(left):
    screen = ScreenEffects().with_("shakes", 2.0, 4.0, (3.0,))
    gone = 4.0 * (1 - left)
    across, up = screen.shake_at(2.0 + gone)
    assert across == pytest.approx(3 * left**2 * math.sin(2 * math.pi * 11.3 * gone), abs=1e-12)
    assert up == pytest.approx(3 * left**2 * math.cos(2 * math.pi * 14.9 * gone), abs=1e-12)
    assert screen.shake_at(6.0) == (0.0, 0.0)


def test_where_there_is_no_room_for_all_the_youngest_join():
    first, program = born(Layer(id="one", **PLAIN), 2, emission_offsets=np.zeros(2, np.float32))
    other, _ = born(Layer(id="one", **PLAIN), 5, emission_offsets=np.zeros(5, np.float32), serial=10)
    youngest = other.columns.identity[3:5].tolist()
    assert first.join(other, program, 2, DT, 0.25 * DT) == 2
    assert (first.count, first.refused, first.born) == (4, 3, 7)
    assert first.columns.identity[2:4].tolist() == youngest
    np.testing.assert_array_equal(first.columns.state[0, 2:4], other.columns.state[0, 3:5])
    assert Pool().join(other, program, 0, DT, 0.0) == 0


def test_flicker_is_two_waves_with_a_phase_of_its_own():
    look = LightLook(flicker=0.8, pace=2.0)
    identity = np.array([0, 1 << 63, 3 << 62], np.uint64)
    own, age = np.array([0.0, 0.5, 0.75]), 0.35
    waves = np.sin(2 * np.pi * (2 * age + own)) + np.sin(2 * np.pi * (GOLDEN * 2 * age + own / GOLDEN))
    found = flickering(look, identity, np.full(3, age, np.float32))
    np.testing.assert_allclose(found, 1 - 0.8 * (0.5 + 0.25 * waves), atol=1e-6)


def test_a_camera_shaken_across_looks_to_its_right_and_up_looks_up():
    camera = Camera(np.zeros(3, np.float32), np.array([(1, 0, 0), (0, 1, 0), (0, 0, -1)], np.float32), 1.0)
    right = camera.shaken(90.0, 0.0).basis
    np.testing.assert_allclose(right, [(0, 0, 1), (0, 1, 0), (1, 0, 0)], atol=1e-6)
    up = camera.shaken(0.0, 30.0).basis
    np.testing.assert_allclose(up[2], [0, 0.5, -math.cos(math.radians(30))], atol=1e-6)
    np.testing.assert_allclose(up[0], [1, 0, 0], atol=1e-6)


@pytest.mark.parametrize(("roughness", "squarings"), [(0.0, 7), (0.2, 6), (0.4, 5), (0.9, 2), (1.0, 2), (3.0, 2)])
def test_rough_materials_have_wide_highlights(halcyon, roughness, squarings):
    plain = Material(name="m", colour=(1.0, 1.0, 1.0, 1.0), roughness=roughness)
    made = replace(halcyon, materials=(plain,) * len(halcyon.materials))
    assert material_table(made).materials[0, 3] == squarings


def test_a_picture_shrinks_once_it_is_late_by_the_limit_and_not_before():
    backlog = Backlog(0.4)
    assert [backlog.tick(0.2, 0.1) for _ in range(5)] == [False, False, False, True, True]
    assert not backlog.tick(0.1, 0.1), "it is in time"
    assert backlog.tick(0.2, 0.1)
    assert [Backlog(0.4).tick(9.0, 0.1)] == [False], "one frame that stalls counts as late by its own time"
    pace, frames = Pace(), 0
    while pace.scale == 1.0:
        pace.tick(2 * Pace.WANTED, may_shrink=True)
        frames += 1
    assert frames == max(math.ceil(Pace.LATE / Pace.WANTED), Pace.PATIENCE + 1)
    assert pace.scale == 0.85


def test_a_run_of_edits_keeps_the_note_it_began_with():
    history = History(Project(seed=1))
    history.record(Project(seed=2), "Seed", "seed", note="first")
    history.record(Project(seed=3), "Seed", "seed", note="second")
    history.undo()
    assert history.redo_note == "first"


class Numbers(Model):
    """Fields with every kind of bound."""

    above: Annotated[int, Field(gt=3, lt=9)] = 4
    within: Annotated[int, Field(ge=3, le=9)] = 4
    open: Annotated[float, Field(gt=0.0, lt=1.0)] = 0.5


def test_open_bounds_of_whole_numbers_are_the_next_ones():
    assert bounds_at(Numbers, "above") == NumberBounds(4, 8, whole=True)
    assert bounds_at(Numbers, "within") == NumberBounds(3, 9, whole=True)
    assert bounds_at(Numbers, "open") == NumberBounds(1e-6, 1 - 1e-6)


@pytest.mark.parametrize(
    ("births", "longest", "alive"),
    [([], 1.0, 0), ([0.0], 1.0, 1), ([0.0, 0.5, 1.0], 1.0, 3), ([0.0, 0.5, 1.01], 1.0, 2), ([0.0, 2.0, 4.0], 1.0, 1)],
)
def test_so_many_may_live_at_once(births, longest, alive):
    assert _max_alive(np.array(births), longest) == alive


def test_how_many_offspring_there_are_does_not_hang_on_whether_there_are_any():
    """Both are drawn from one hash, each from bits of its own."""
    happened = SimpleNamespace(
        identities=np.arange(5000, dtype=np.uint64) * np.uint64(7919), moments=np.linspace(0, 9, 5000)
    )
    always, half = (
        _counts(OffspringSource(count=0, most=999, chance=chance), happened).astype(float) for chance in (1.0, 0.5)
    )
    born_at_all = half > 0
    assert born_at_all.mean() == pytest.approx(0.5, abs=0.03)
    assert stats.kstest(always / 1000, "uniform").pvalue > 0.01
    assert stats.ks_2samp(always[born_at_all], always[~born_at_all]).pvalue > 0.01
    np.testing.assert_array_equal(half[born_at_all], always[born_at_all])


@pytest.mark.parametrize(
    ("share", "stands"),
    [(0.1, True), (0.0, True), (0.19, True), (0.2, False), (0.89, False), (0.9, True), (0.99, True)],
)
def test_a_foot_that_stands_over_the_loops_end_stands_at_its_beginning(share, stands):
    assert _stands(((0.9, 1.2),), share) is stands


def test_as_many_joints_as_may_move_are_read_and_not_one_more(halcyon, monkeypatch):
    many = len(motions_of(halcyon.skeleton, halcyon.clips[:1])[halcyon.clips[0].name].joints)
    monkeypatch.setattr(gltf_motions, "MAX_JOINTS", many)
    assert motions_of(halcyon.skeleton, halcyon.clips[:1])
    monkeypatch.setattr(gltf_motions, "MAX_JOINTS", many - 1)
    with pytest.raises(CharacterError, match=f"there are more than {many - 1} joints; export only those that move"):
        motions_of(halcyon.skeleton, halcyon.clips[:1])


def test_the_soft_disc_is_round_white_and_clear_at_its_rim():
    disc = _soft_disc()
    assert disc.shape == (64, 64, 4)
    assert (disc[..., :3] == 255).all()
    for turned in (disc[::-1], disc[:, ::-1], disc.transpose(1, 0, 2)):
        np.testing.assert_array_equal(turned, disc)
    assert disc[31, 31, 3] > 240
    assert disc[0].max(axis=0)[3] == 0


@pytest.mark.parametrize(("climb", "rising", "falling"), [(1.5, 1.5, 0.0), (-2.5, 0.0, 2.5), (0.0, 0.0, 0.0)])
def test_who_comes_down_falls_and_who_goes_up_rises(climb, rising, falling):
    pose = SimpleNamespace(
        grounded=False, off=1.0, speed=2.0, climb=climb, way=3.0, spin=-math.pi / 2, heading=math.pi / 4
    )
    signals = measured(SimpleNamespace(stand=lambda _time: pose), 1.75)
    assert (signals["rising speed"], signals["falling speed"]) == (rising, falling)
    assert (signals["air time"], signals["on ground"], signals["distance"]) == (0.75, 0.0, 3.0)
    assert (signals["turn rate"], signals["facing"]) == (90.0, 45.0)
