"""Values worked out by hand, where a test of tendencies would not see a changed sign, count or bound."""

import math

import numpy as np
import pytest

from tests.pools import born
from wraithon.character.fairness import density_heat
from wraithon.character.sampling import sampler_of
from wraithon.ground.terrain import terrain_of
from wraithon.particles import columns as k
from wraithon.particles.particle_moments import MAX_PASSINGS, passings_of
from wraithon.particles.program import BirthImages, compile_layer
from wraithon.picture.pace import Thrift
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.project import Project
from wraithon.project.source import PictureSource, SkinSource
from wraithon.project.staging.actions import OnGroundKind, Scaling, StartEffect
from wraithon.project.staging.ground import Block
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.triggering.strengths import LEVELS, startable
from wraithon.studio.refusals import Refusals
from wraithon.support.places import state_of


def test_what_may_be_started_is_every_level_of_strength_on_every_kind_of_ground():
    action = StartEffect(effect="e", scalings=(Scaling(),), grounds=(OnGroundKind(ground="moss"),))
    found = list(startable([Trigger(when=AtStart(), response=(action,))]))
    assert len(found) == 2 * (LEVELS + 1)
    once = action.evolve(scalings=(), grounds=())
    assert len(list(startable([Trigger(when=AtStart(), response=(once,))]))) == 1


@pytest.mark.parametrize("bright", [1.0, 1e-3])
def test_a_dark_picture_emits_as_its_shades_are_to_each_other(bright):
    picture = np.zeros((64, 64), np.float32)
    picture[:, :32] = bright
    seen = BirthImages(picture)
    cells = compile_layer(Layer(source=PictureSource()), "e", 1, None, seen=seen).birth.cells
    assert cells[-1] == pytest.approx(1.0, abs=1e-5)


def test_a_state_of_files_is_sixteen_characters(tmp_path):
    file = tmp_path / "a"
    file.write_text("one")
    before = state_of([file], "1")
    assert len(before) == 16
    assert state_of([file], "2") != before
    file.write_text("two")
    assert state_of([file], "1") != before


def test_births_by_area_are_fair_everywhere(halcyon):
    sampler = sampler_of(halcyon, SkinSource())
    heat = density_heat(halcyon, sampler)
    assert heat[heat >= 0] == pytest.approx(0.5, abs=1e-5)


def test_a_block_that_is_turned_has_its_height_out_to_its_corners():
    block = Block(id="b", kind="slate", place=(0.0, 0.0), size=(2.0, 2.0), height=0.5, turn=45.0)
    terrain = terrain_of("slate", (block,))
    corner = math.sqrt(2) - 0.06
    assert [terrain.height(x, z) for x, z in ((corner, 0), (-corner, 0), (0, corner), (0, -corner))] == [0.5] * 4
    assert [terrain.height(x, z) for x, z in ((1.5, 0), (-1.5, 0), (0, 1.5), (0, -1.5))] == [0.0] * 4


def test_each_mark_of_a_way_is_passed_at_its_own_time():
    pool, _ = born(Layer(), 3, emission_offsets=np.zeros(3, np.float32))
    state = pool.columns.state
    state[k.PX : k.PZ + 1, :3] = 0.0
    state[k.PX, :3] = (0.05, 0.35, 0.25)
    state[k.AGE, :3], state[k.LIFETIME, :3], state[k.TRAVELLED, :3] = 1.0, 100.0, 0.0
    (found,) = passings_of(pool.columns, np.zeros((3, 3), np.float32), 0.1, 2.0, (0.1,))
    places = found.particles.state[k.PX]
    assert places == pytest.approx([0.1, 0.2, 0.3, 0.1, 0.2], abs=1e-6)
    went = np.array([0.35, 0.35, 0.35, 0.25, 0.25])
    assert found.moments == pytest.approx(2.0 - 0.1 * (1 - places / went), abs=1e-6)


def test_so_many_marks_are_passed_in_a_step_and_no_more():
    pool, _ = born(Layer(), 2, emission_offsets=np.zeros(2, np.float32))
    state = pool.columns.state
    state[k.PX, :2] = 2.0 * MAX_PASSINGS
    state[k.AGE, :2], state[k.LIFETIME, :2], state[k.TRAVELLED, :2] = 1.0, 100.0, 0.0
    (found,) = passings_of(pool.columns, np.zeros((3, 2), np.float32), 0.1, 2.0, (1.0,))
    assert len(found.moments) == MAX_PASSINGS


def test_the_first_refused_birth_is_told():
    project = Project(effects=(Effect(id="e", layers=(Layer(id="l", emission=Emission(limit=5)),)),))
    refusals = Refusals()
    refusals.count(project, {})
    assert refusals.count(project, {"l": 1})
    assert [finding.message for finding in refusals.findings(project)] == [
        "births refused so far: 1 (its limit is 5)"
    ]


def test_a_side_show_takes_its_share_of_what_frames_took_of_late():
    times = iter([0.0, 0.05, 0.1, 0.1])
    thrift = Thrift(lambda: next(times))
    assert thrift.period() == pytest.approx(0.2 * 0.05 / 0.28)
    assert thrift.period() == pytest.approx(0.2 * (0.05 + 0.8 * 0.05) / 0.28)
    assert thrift.period(hurried=True) == Thrift.OFTEN
