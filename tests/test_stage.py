"""The stage: events fire once, the same inputs give the same bytes, seeking is exact, edits are taken up."""

import numba
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from wraithon.character.pose import Pose
from wraithon.project.base import new_id
from wraithon.project.character import Anchor, CharacterUse, ClipUse, Mark
from wraithon.project.dissolve import Dissolve
from wraithon.project.edit import with_clip, with_layer, with_mark
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.project import ClipRun, Project, Stage
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, OnEvent
from wraithon.project.trigger import Trigger
from wraithon.stage.anchors import anchorage_of
from wraithon.stage.loading import Loaded
from wraithon.stage.player import Player
from wraithon.stage.trial import TEST_BURST


def staged(demo: Loaded, *clip_runs: ClipRun, **changes) -> Project:
    return demo.project.evolve(stage=demo.project.stage.evolve(order=clip_runs), **changes)


def starts(player, effect):
    return sorted(r.start for r in player.show.history() if r.effect == effect)


# ---- performance ----------------------------------------------------------------------------------


def test_travel_is_continuous_across_clips_and_rounds(demo):
    player = Player(demo.project, demo.characters)
    performance = player.compiled.performance
    times = np.arange(0, performance.period * 2.5, 1 / 60)
    positions = np.array([performance.position_at(t) for t in times])
    assert np.abs(np.diff(positions, axis=0)).max() < 3.6 / 60
    assert positions[-1, 2] > 10


def test_poses_are_continuous_where_clips_meet(demo):
    performance = Player(demo.project, demo.characters).compiled.performance
    times = np.arange(0, performance.period * 1.2, 1 / 240)
    hips = performance.character.skeleton.index["hips"]
    path = np.array([performance.pose_at(t).matrices[hips, :3, 3] for t in times])
    assert np.linalg.norm(np.diff(path, axis=0), axis=1).max() * 240 < 8.0


def test_in_place_keeps_the_character_where_it_is(demo):
    project = staged(demo, ClipRun(clip="walk", times=3))
    project = with_clip(project, project.character.clip("walk").evolve(in_place=("x", "z")))
    performance = Player(project, demo.characters).compiled.performance
    root = performance.character.skeleton.index["root"]
    for t in (0.0, 0.4, 1.7, 6.0):
        assert np.abs(performance.pose_at(t).matrices[root, :3, 3]).max() < 1e-5


@pytest.mark.parametrize("axis", [0, 2])
def test_one_axis_in_place_leaves_the_other(demo, axis):
    project = staged(demo, ClipRun(clip="walk"))
    project = with_clip(project, project.character.clip("walk").evolve(in_place=("xz"[axis // 2],)))
    performance = Player(project, demo.characters).compiled.performance
    gone = performance.position_at(2.0)
    assert (abs(gone[2]) < 1e-6) == (axis == 2)


def test_a_plain_yes_of_older_projects_means_both_axes():
    assert ClipUse.model_validate({"name": "walk", "in_place": True}).in_place == ("x", "z")
    assert ClipUse.model_validate({"name": "walk", "in_place": False}).in_place == ()


def test_taking_the_height_out_keeps_the_root_level(demo):
    project = staged(demo, ClipRun(clip="leap"))
    project = with_clip(project, project.character.clip("leap").evolve(in_place=("x", "y", "z")))
    performance = Player(project, demo.characters).compiled.performance
    root = performance.character.root_node
    heights = [performance.pose_at(t).matrices[root, 1, 3] for t in np.linspace(0, 1.5, 9)]
    assert np.ptp(heights) < 1e-5


def test_the_dissolve_follows_its_clip_and_is_back_afterwards(demo):
    dissolve = Dissolve(amount=0.8, clip="walk", begin=0.25, end=0.75)
    use = demo.project.character.evolve(dissolve=dissolve)
    project = staged(demo, ClipRun(clip="walk"), ClipRun(clip="idle"), characters=(use,))
    performance = Player(project, demo.characters).compiled.performance
    seen = [performance.dissolved_at(t) for t in (0.0, 0.25, 0.5, 0.75, 0.95, 1.5)]
    np.testing.assert_allclose(seen, [0, 0, 0.4, 0.8, 0.8, 0], atol=1e-9)


def test_only_the_one_on_stage_plays(demo):
    other = demo.project.character.evolve(id="other", name="other", scale=2.0)
    project = demo.project.evolve(characters=(demo.project.character, other))
    both = {"halcyon": demo.characters["halcyon"], "other": demo.characters["halcyon"]}
    assert Player(project, both).compiled.performance.use.scale == 1.0
    staged_other = project.evolve(stage=project.stage.evolve(character="other"))
    assert Player(staged_other, both).compiled.performance.use.scale == 2.0
    gone = project.evolve(stage=project.stage.evolve(character="nobody"))
    assert gone.character.id == "halcyon"


def test_births_do_not_depend_on_what_is_shown(demo):
    use = demo.project.character
    hidden = use.evolve(hidden_parts=tuple(part.name for part in demo.characters["halcyon"].parts))
    shown, unseen = (
        Player(demo.project, demo.characters),
        Player(demo.project.evolve(characters=(hidden,)), demo.characters),
    )
    shown.seek(0.6)
    unseen.seek(0.6)
    assert shown.digest() == unseen.digest()


def test_the_test_burst_can_be_fired_in_any_project(demo):
    player = Player(demo.project, demo.characters)
    player.fire(TEST_BURST, "right-fan-tip")
    player.seek(0.1)
    burst = [record for record in player.show.history() if record.effect == TEST_BURST.id]
    assert len(burst) == 1
    assert burst[0].peak == 60
    assert any(batch.look == TEST_BURST.layers[0].look for batch in player.frame().batches)


def test_scale_and_height_move_the_whole_character(demo):
    use = demo.project.character
    tall = demo.project.evolve(characters=(use.evolve(scale=2.0, height=0.5),))
    small = Player(demo.project, demo.characters).show.posed(0)[0].matrices[:, :3, 3]
    large = Player(tall, demo.characters).show.posed(0)[0].matrices[:, :3, 3]
    np.testing.assert_allclose(large, small * 2 + (0, 0.5, 0), atol=1e-5)


@pytest.mark.parametrize("turn", [(0, 0, 0), (30, 0, 0), (10, 20, 30), (-170, 85, 240)])
def test_anchors_turn_about_x_then_y_then_z(halcyon, turn):
    joint = halcyon.skeleton.names[3]
    use = CharacterUse(file="", scale=2.0, anchors=(Anchor(joint=joint, turn=turn, offset=(0.1, 0.2, 0.3)),))
    pose = Pose(np.tile(np.diag([2, 2, 2, 1]).astype(np.float32), (60, 1, 1)))
    (matrix,) = anchorage_of(halcyon, use).matrices(pose)
    expected = Rotation.from_euler("XYZ", turn, degrees=True).as_matrix()
    np.testing.assert_allclose(matrix[:3, :3], expected, atol=1e-6)
    np.testing.assert_allclose(matrix[:3, 3], [0.2, 0.4, 0.6], atol=1e-6)


# ---- events ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("rate", [10, 24, 60, 144, 480])
def test_each_pass_of_an_event_fires_once_at_any_step_length(demo, rate):
    project = staged(demo, ClipRun(clip="walk"), step_rate=rate)
    player = Player(project, demo.characters)
    player.seek(4.0)
    marks = {m.event: m.time for m in project.character.clip("walk").marks}
    expected = sorted(n + t for n in range(4) for t in marks.values())
    np.testing.assert_allclose(starts(player, "tread"), expected, atol=1e-6)


@pytest.mark.parametrize("time", [0.0, 1 / 60, 0.5, 0.999])
def test_marks_on_step_borders_and_clip_ends_fire_once_a_pass(demo, time):
    project = staged(demo, ClipRun(clip="walk"))
    clip = project.character.clip("walk").evolve(marks=(Mark(event="left-step", time=time),))
    player = Player(with_clip(project, clip), demo.characters)
    player.seek(5.0)
    np.testing.assert_allclose(starts(player, "tread"), np.arange(5) + time, atol=1e-6)


def test_events_fire_once_across_seeks(demo):
    player = Player(demo.project, demo.characters)
    player.seek(4.0)
    whole = starts(player, "tread")
    for moment in (1.0, 0.3, 2.0, 1.58, 1.6, 4.0):
        player.seek(moment)
    assert starts(player, "tread") == whole
    assert len(starts(player, "thunder-stamp")) == 1


def test_a_mark_past_the_clips_end_never_fires(demo):
    project = with_mark(staged(demo, ClipRun(clip="idle")), "idle", Mark(event="strike", time=3.5))
    player = Player(project, demo.characters)
    player.seek(7.0)
    assert starts(player, "thunder-stamp") == []


def test_the_burst_goes_off_at_the_fan_tip(demo):
    player = Player(demo.project, demo.characters)
    player.seek(2.82 + 1 / 60)
    tip = player.anchors()["right-fan-tip"][:3, 3]
    pool = player.show.pools["stamp-flash"]
    assert pool.count == 2
    assert np.linalg.norm(pool.columns.state[:3, :2].T - tip, axis=1).max() < 0.15


def test_after_delays_a_step(demo):
    trigger = demo.project.trigger("on-strike")
    late = trigger.evolve(response=(trigger.response[0].evolve(after=0.25),))
    player = Player(demo.project.evolve(triggers=(late,)), demo.characters)
    player.seek(3.5)
    assert starts(player, "thunder-stamp") == [pytest.approx(2.82 + 0.25)]


def test_firings_end_with_their_last_particle(demo):
    player = Player(demo.project, demo.characters)
    player.seek(3.9)
    treads = [r for r in player.show.history() if r.effect == "tread" and r.start < 1.2]
    assert treads
    assert all(r.end is not None and 1.8 < r.end - r.start < 2.45 for r in treads)
    assert {f.effect for f in player.show.firings.values()} <= {
        *("plume-drift", "drizzle", "thunder-stamp"),
        *("fan-streamers", "skipping-spark"),
    }


def test_nothing_lives_on_in_an_effect_without_particles(demo):
    trigger = Trigger(when=OnEvent(event="left-step"), response=(StartEffect(effect="empty"),))
    project = staged(demo, ClipRun(clip="run"), effects=(Effect(id="empty", length=0.1),), triggers=(trigger,))
    player = Player(project, demo.characters)
    player.seek(3.0)
    assert len(starts(player, "empty")) == 5
    assert player.show.firings == {}


# ---- repeatable -----------------------------------------------------------------------------------


def test_digest_is_equal_across_thread_counts(demo):
    digests = set()
    threads = numba.get_num_threads()
    try:
        for count in sorted({1, threads}):
            numba.set_num_threads(count)
            player = Player(demo.project, demo.characters)
            player.seek(3.2)
            digests.add(player.digest())
    finally:
        numba.set_num_threads(threads)
    assert len(digests) == 1


def test_digest_is_equal_after_seeks_both_ways(demo):
    straight, wandering = Player(demo.project, demo.characters), Player(demo.project, demo.characters)
    straight.seek(3.0)
    for moment in (1.0, 3.5, 0.2, 2.9, 3.0):
        wandering.seek(moment)
    assert straight.digest() == wandering.digest()


def test_advance_in_any_pieces_takes_the_same_steps(demo):
    one, many = Player(demo.project, demo.characters), Player(demo.project, demo.characters)
    one.advance(1.5)
    for _ in range(90):
        many.advance(1 / 60)
    assert one.show.step_number == many.show.step_number == 90
    assert one.digest() == many.digest()


def test_another_seed_gives_other_particles(demo):
    a = Player(demo.project, demo.characters)
    b = Player(demo.project.evolve(seed=1), demo.characters)
    for player in (a, b):
        player.seek(0.5)
    assert a.show.alive > 0
    assert a.digest() != b.digest()


def test_adding_a_layer_leaves_the_others_alone(demo):
    extra = Layer(id="extra", emission=Emission(rate=50))
    project = with_layer(demo.project, "thunder-stamp", extra)
    a, b = Player(demo.project, demo.characters), Player(project, demo.characters)
    for player in (a, b):
        player.seek(3.0)
    for layer in ("stamp-sparks", "plume-feathers"):
        n = a.show.pools[layer].count
        np.testing.assert_array_equal(
            a.show.pools[layer].columns.state[:, :n], b.show.pools[layer].columns.state[:, :n]
        )


# ---- edits ----------------------------------------------------------------------------------------


def changed_layer(project, layer_id, **changes):
    effect, layer = project.layer(layer_id)
    return with_layer(project, effect.id, layer.evolve(**changes))


def test_an_edit_of_the_look_keeps_the_show_as_it_is(demo):
    player = Player(demo.project, demo.characters)
    player.seek(1.0)
    before = player.digest()
    player.adopt(changed_layer(demo.project, "plume-feathers", size=Attribute.of(1.0)))
    assert player.pure
    assert player.digest() == before
    batch = next(b for b in player.frame().batches if b.look.texture == "feather.png")
    assert batch.drawn.sizes.max() == pytest.approx(1.0)


def test_an_edit_of_the_course_is_exact_after_seeking_to_the_same_moment(demo):
    project = changed_layer(demo.project, "plume-feathers", lifetime=Attribute.of(0.5))
    player = Player(demo.project, demo.characters)
    player.seek(1.0)
    player.adopt(project)
    assert not player.pure
    assert player.show.pools["plume-feathers"].count > 0
    player.seek(1.0)
    fresh = Player(project, demo.characters)
    fresh.seek(1.0)
    assert player.pure
    assert player.digest() == fresh.digest()


def test_living_particles_go_on_under_an_edit_while_playing(demo):
    player = Player(demo.project, demo.characters)
    player.seek(1.0)
    player.adopt(changed_layer(demo.project, "plume-feathers", lifetime=Attribute.of(9.0)))
    before = player.show.pools["plume-feathers"].count
    player.advance(0.5)
    assert player.show.pools["plume-feathers"].count > before
    assert player.time == pytest.approx(1.5)


def test_muting_a_layer_removes_its_particles_at_once(demo):
    player = Player(demo.project, demo.characters)
    player.seek(1.0)
    player.adopt(changed_layer(demo.project, "plume-glints", disabled=True))
    assert "plume-glints" not in player.show.pools


def test_a_changed_step_rate_keeps_the_time(demo):
    player = Player(demo.project, demo.characters)
    player.seek(1.0)
    player.adopt(demo.project.evolve(step_rate=120))
    assert player.time == pytest.approx(1.0, abs=0.01)


def test_removing_the_character_lets_riders_go(demo):
    player = Player(demo.project, demo.characters)
    player.seek(1.0)
    player.adopt(demo.project.evolve(characters=()), {})
    player.advance(0.5)
    assert player.frame().body is None


def test_firing_by_hand_is_played_again_on_the_way_back_to_it(demo):
    player = Player(demo.project, demo.characters)
    player.seek(0.5)
    player.fire(demo.project.effect("thunder-stamp"), "heart")
    player.advance(0.5)
    digest = player.digest()
    assert len(starts(player, "thunder-stamp")) == 1
    player.seek(0.8)
    player.seek(1.0)
    assert player.digest() == digest
    player.seek(0.2)
    player.seek(1.0)
    assert starts(player, "thunder-stamp") == []


# ---- thousands, and nothing -----------------------------------------------------------------------


def test_an_empty_project_plays():
    player = Player(Project(), {})
    player.seek(1.0)
    frame = player.frame()
    assert frame.body is None
    assert frame.batches == ()


def test_thousands_of_firings_are_held_in_check():
    burst = Layer(emission=Emission(bursts=(Burst(count=1),)), lifetime=Attribute.of(60))
    effect = Effect(id="e", layers=(burst,))
    steps = tuple(StartEffect(effect="e") for _ in range(64))
    triggers = tuple(Trigger(id=new_id(), when=AtStart(), response=steps) for _ in range(20))
    player = Player(Project(effects=(effect,), triggers=triggers), {})
    player.seek(0.1)
    assert player.show.refused_firings == 64 * 20 - 512
    assert player.show.alive == 512


def test_copies_stay_within_their_memory(demo, monkeypatch):
    monkeypatch.setattr(Player, "copy_bytes", 400_000)
    player = Player(demo.project, demo.characters)
    player.seek(8.0)
    held = sum(c.size for c in player._copies.values())
    assert held <= 400_000 or len(player._copies) <= 2
    digest = player.digest()
    player.seek(3.0)
    player.seek(8.0)
    assert player.digest() == digest


def test_a_stage_that_names_no_clip_shows_the_rest_pose(demo):
    project = demo.project.evolve(stage=Stage(order=(ClipRun(clip="nothing"),)))
    player = Player(project, demo.characters)
    player.seek(1.0)
    assert player.frame().body is not None


@pytest.mark.parametrize("start", [0.0, 0.82, 1.087, 2.82, 3.3, 10.1])
@pytest.mark.parametrize("time", [0.05, 0.08, 0.1, 1 / 3])
def test_a_last_burst_happens_wherever_it_falls_between_two_steps(start, time):
    """Where a firing began and when the burst comes need not add up to a step's very end."""
    layer = Layer(emission=Emission(bursts=(Burst(count=1), Burst(time=time, count=2))), lifetime=Attribute.of(50))
    show = Player(Project(effects=(Effect(id="e", layers=(layer,), length=1.0),)), {}).show
    for rate_free_offset in (0.0, 1e-12, -1e-12):
        show.pools.clear()
        show.step_number = int(start * 60)
        show.start(show.compiled.effects["e"], None, start + rate_free_offset)
        for _ in range(40):
            show.advance()
        assert show.alive == 3
        show.firings.clear()


def test_skins_that_are_over_follow_an_edit_of_the_character(demo):
    player = Player(demo.project, demo.characters)
    player.advance(0.5)
    before = player.show.skin_before(0.25)[1].positions.copy()
    use = demo.project.character
    edited = demo.project.evolve(characters=(use.evolve(scale=use.scale * 2), *demo.project.characters[1:]))
    player.adopt(edited)
    fresh = Player(edited, demo.characters)
    fresh.seek(player.time)
    after = player.show.skin_before(0.25)[1].positions
    assert not np.allclose(after, before, atol=0.1)
    assert np.allclose(after, fresh.show.skin_before(0.25)[1].positions, atol=1e-5)
