"""What the character plays, at exact moments: segments, travel, axes in place, seams, fades, and marks passed."""

from itertools import pairwise

import numpy as np
import pytest

from tests.bodies import body, clip_of
from wraithon.project.character import CharacterUse, ClipUse, Mark
from wraithon.project.dissolve import Dissolve
from wraithon.project.project import ClipRun, Stage
from wraithon.stage.performance import SHORTEST, Performance

GO = ((0, 0, 0), (1.0, 0.5, 3.0))
"""The root's way in the clip "go", in one second: across, up, ahead."""


def hopper(*, height=0.0, scale=1.0, parent=None):
    """Return a character of two joints: "go" moves its root, "stay" turns its tip, "blink" takes no time."""
    clips = (
        clip_of("go", [0, 1], (0, 0, GO)),
        clip_of("stay", [0, 0.5], (1, 0, [[0, 1, 0], [0, 2, 0]])),
        clip_of("blink", [0, 0], (1, 0, [[0, 1, 0], [0, 1, 0]])),
    )
    return body(np.eye(3), [[0, 1, 2]], parents=(-1, 0), offsets=[[0, 0, 0], [0, 1, 0]], clips=clips)


def segments(made):
    return [made.segment(number) for number in range(len(made))]


def performance(*clip_runs, clips=(), fade=0.0, rest=0.5, **use):
    stage = Stage(order=tuple(ClipRun(clip=c) if isinstance(c, str) else c for c in clip_runs), fade=fade, rest=rest)
    return Performance(hopper(), CharacterUse(file="", clips=clips, **use), stage)


def root(made, time):
    return made.pose_at(time).matrices[0, :3, 3]


# ---- the order ------------------------------------------------------------------------------------


def test_segments_follow_one_another_and_rest_only_where_nothing_loops():
    made = performance("go", "stay", clips=(ClipUse(name="go", loop=False),))
    assert [(s.use.name, s.start, s.moving, s.length) for s in segments(made)] == [
        ("go", 0.0, 1.0, 1.5), ("stay", 1.5, 0.5, 0.5),
    ]  # fmt: skip
    assert made.period == 2.0


def test_a_clip_that_takes_no_time_still_takes_a_moment():
    made = performance("blink")
    assert made.segment(0).moving == SHORTEST == 1 / 480
    assert made.period == SHORTEST


def test_clips_that_are_not_there_are_left_out_and_without_any_it_rests():
    assert [s.use.name for s in segments(performance("gone", "stay"))] == ["stay"]
    nothing = performance("gone")
    assert (nothing.segment(0).clip, nothing.period) == (None, 1.0)
    assert nothing.passings(0, 100) == []
    np.testing.assert_allclose(nothing.position_at(7.3), 0)


@pytest.mark.parametrize(
    ("time", "expected"),
    [(0.0, (0, 0, 0.0)), (0.999, (0, 0, 0.999)), (1.0, (0, 1, 0.0)), (1.49, (0, 1, 0.49)), (1.5, (1, 0, 0.0)),
     (4.25, (2, 1, 0.25))],
)  # fmt: skip
def test_rounds_segments_and_the_time_inside(time, expected):
    turn, number, inside = performance("go", "stay").segment_at(time)
    assert (turn, number) == expected[:2]
    assert inside == pytest.approx(expected[2], abs=1e-9)


def test_after_its_end_a_clip_that_does_not_loop_holds():
    made = performance("stay", clips=(ClipUse(name="stay", loop=False),))
    segment, inside = made.clip_moment(0.8)
    assert (segment.use.name, inside) == ("stay", 0.5)
    np.testing.assert_allclose(made.pose_at(0.8).matrices, made.pose_at(0.5).matrices, atol=1e-6)


def test_only_what_differs_from_before_fades_in():
    fades = [s.fades for s in segments(performance(ClipRun(clip="go", times=2), "stay", "go"))]
    assert fades == [False, False, True, True]
    assert [s.fades for s in segments(performance("stay", "go"))] == [True, True]
    assert [s.fades for s in segments(performance("go"))] == [False]
    once = (ClipUse(name="go", loop=False),)
    assert [s.fades for s in segments(performance(ClipRun(clip="go", times=2), clips=once))] == [True, True]


# ---- travel ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("time", [0.0, 0.25, 1.0, 1.75, 5.5])
def test_a_looping_clip_carries_the_character_on_and_on(time):
    made = performance("go")
    np.testing.assert_allclose(made.position_at(time), [1.0 * time, 0, 3.0 * time], atol=1e-6)
    height = 0.5 * (time % 1.0)
    np.testing.assert_allclose(root(made, time), [1.0 * time, height, 3.0 * time], atol=1e-5)


@pytest.mark.parametrize(
    ("axes", "carried"),
    [((), (1, 1, 1)), (("x",), (0, 1, 1)), (("z",), (1, 1, 0)), (("y",), (1, 0, 1)), (("x", "y", "z"), (0, 0, 0))],
)
def test_each_axis_in_place_takes_out_its_own_travel_and_no_other(axes, carried):
    made = performance("go", clips=(ClipUse(name="go", in_place=axes),))
    wanted = np.array(GO[1]) * 0.5 * carried
    np.testing.assert_allclose(root(made, 0.5), wanted, atol=1e-5)
    np.testing.assert_allclose(made.position_at(1.5), np.array(GO[1]) * 1.5 * carried * (1, 0, 1), atol=1e-5)


def test_scale_stretches_the_way_and_height_raises_it():
    made = performance("go", scale=2.0, height=0.25)
    np.testing.assert_allclose(made.position_at(1.5), [3.0, 0, 9.0], atol=1e-5)
    np.testing.assert_allclose(root(made, 0.5), [1.0, 0.25 + 0.5, 3.0], atol=1e-5)


def test_the_way_goes_on_where_the_clip_before_has_led():
    made = performance("go", "stay")
    np.testing.assert_allclose(made.position_at(1.2), [1, 0, 3], atol=1e-6)
    np.testing.assert_allclose(made.position_at(1.5 + 0.5), [1.5, 0, 4.5], atol=1e-6)
    np.testing.assert_allclose(made.segment(1).offset, [1, 0, 3], atol=1e-6)


# ---- fading ---------------------------------------------------------------------------------------


def tip(made, time):
    return float(made.pose_at(time).matrices[1, 1, 3] - made.pose_at(time).matrices[0, 1, 3])


@pytest.mark.parametrize(("inside", "share"), [(0.0, 1.0), (0.05, 1 - 0.15625), (0.1, 0.5), (0.2, 0.0), (0.3, 0.0)])
def test_a_fade_eases_from_the_clip_before(inside, share):
    """At its own start "go" has the tip 1 above the root; "stay" held its end, 2 above, when it was over."""
    made = performance("stay", "go", clips=(ClipUse(name="stay", loop=False),), fade=0.2, rest=0.0)
    assert tip(made, 0.5 + inside) == pytest.approx(1.0 + share, abs=1e-4)


def test_the_clip_before_goes_on_looping_while_it_fades_out():
    made = performance("stay", "go", fade=0.4)
    assert tip(made, 0.5 + 1e-6) == pytest.approx(1.0, abs=1e-3)  # it has begun anew
    assert tip(made, 0.5 + 0.2) == pytest.approx(1 + 0.5 * 0.4, abs=1e-3)


def test_the_very_first_moment_fades_from_nothing():
    made = performance("stay", "go", fade=0.2)
    assert tip(made, 0.1) == pytest.approx(1.2, abs=1e-5)
    assert tip(made, made.period + 0.1) != pytest.approx(1.2, abs=1e-3)


# ---- the dissolve ---------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("dissolve", "time", "gone"),
    [
        (Dissolve(amount=0.4), 0.7, 0.4),
        (Dissolve(amount=0.8, clip="go", begin=0.25, end=0.75), 0.2, 0.0),
        (Dissolve(amount=0.8, clip="go", begin=0.25, end=0.75), 0.5, 0.4),
        (Dissolve(amount=0.8, clip="go", begin=0.25, end=0.75), 0.9, 0.8),
        (Dissolve(amount=0.8, clip="go", begin=0.25, end=0.75), 1.2, 0.0),
        (Dissolve(amount=1.0, clip="go", begin=0.5, end=0.5), 0.49, 0.0),
        (Dissolve(amount=1.0, clip="go", begin=0.5, end=0.5), 0.51, 1.0),
    ],
)
def test_the_dissolve_at_a_moment(dissolve, time, gone):
    assert performance("go", "stay", dissolve=dissolve).dissolved_at(time) == pytest.approx(gone, abs=1e-6)


# ---- marks ----------------------------------------------------------------------------------------


def marked(*times, **more):
    marks = tuple(Mark(id=f"{t}", event="e", time=t) for t in times)
    return performance("go", "stay", clips=(ClipUse(name="go", marks=marks),), **more)


def passed(made, start, end):
    return [(round(p.time, 6), p.mark.id, p.clip) for p in made.passings(start, end)]


def test_marks_are_passed_in_order_of_time_once_a_round():
    made = marked(0.75, 0.25)
    assert passed(made, 0, 3.0) == [
        (0.25, "0.25", "go"), (0.75, "0.75", "go"), (1.75, "0.25", "go"), (2.25, "0.75", "go"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("start", "end", "count"), [(0, 0.25, 0), (0.25, 0.25, 0), (0.25, 0.26, 1), (0.2, 0.25001, 1)]
)
def test_a_span_holds_its_beginning_and_not_its_end(start, end, count):
    assert len(marked(0.25).passings(start, end)) == count


def test_spans_that_follow_one_another_pass_each_mark_once():
    made = marked(0.0, 1 / 3, 0.999)
    edges = np.linspace(0, 7.5, 137)
    parts = [p for a, b in pairwise(edges) for p in passed(made, a, b)]
    assert parts == passed(made, 0, 7.5)
    assert len(parts) == 15


def test_a_mark_at_or_past_the_clips_end_never_comes():
    assert passed(marked(1.0, 1.2), 0, 10) == []


def on_a_stand(turn=(0, 0, 0, 1), scale=1.0):
    """Return a performance in place of one whose moving root stands on a joint that is turned and scaled."""
    clips = (clip_of("go", [0, 1], (1, 0, GO)),)
    made = body(np.eye(3), [[0, 1, 2]], parents=(-1, 0, 1), offsets=[[0, 0, 0], [0, 0, 0], [0, 1, 0]], clips=clips)
    made.skeleton.rest[0, 3:7], made.skeleton.rest[0, 7:] = turn, scale
    use = CharacterUse(file="", clips=(ClipUse(name="go", in_place=("x", "y", "z")),))
    assert made.root_node == 1
    return Performance(made, use, Stage(order=(ClipRun(clip="go"),), fade=0.0))


@pytest.mark.parametrize(("turn", "scale"), [((0, 0, 0, 1), 1.0), ((0, 0.6, 0, 0.8), 1.0), ((0.6, 0, 0, 0.8), 2.0)])
def test_in_place_takes_the_travel_out_however_the_root_stands(turn, scale):
    made = on_a_stand(turn, scale)
    first = made.pose_at(0.0).matrices[1, :3, 3]
    for time in (0.25, 0.5, 0.9):
        np.testing.assert_allclose(made.pose_at(time).matrices[1, :3, 3], first, atol=1e-5)


def test_a_root_that_stands_on_nothing_of_size_goes_nowhere():
    made = on_a_stand(scale=0.0)
    assert np.isfinite(made.pose_at(0.5).matrices).all()
