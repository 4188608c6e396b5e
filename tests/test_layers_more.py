"""A layer away from its anchor, what is switched off in it, and another roll of chance."""

from __future__ import annotations

import math

import numpy as np
import pytest

from wraithon.particles.rules import AnchorPlaces
from wraithon.project.binding import Masters
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.motion import Drag, Gravity, Motion
from wraithon.project.resolving.enabled import acting
from wraithon.project.resolving.mastering import mastered
from wraithon.project.source import (
    Aim,
    BoxSource,
    ConeSource,
    FacingMask,
    Heading,
    HeightMask,
    JointSet,
    LineSource,
    PointSource,
    Riding,
    SkinSource,
    TextureMask,
)
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

POP = Layer(
    id="l", emission=Emission(bursts=(Burst(count=200),)), speed=Attribute.of(0.0), lifetime=Attribute.of(5.0)
)


def played(demo, layer, steps=1, anchor="right-fan-tip", **changes):
    effect = Effect(id="e", layers=(layer,)).evolve(**changes)
    step = StartEffect(effect="e", anchor=anchor)
    trigger = Trigger(when=AtStart(), response=(step,))
    player = Player(demo.project.evolve(effects=(effect,), triggers=(trigger,)), demo.characters)
    for _ in range(steps):
        player.step()
    return player


def positions(player):
    pool = player.show.pools["l"]
    return pool.columns.state[:3, : pool.count].T.astype(np.float64)


# ---- away from the anchor -------------------------------------------------------------------------


def test_it_is_born_so_far_along_the_anchors_own_axes(demo):
    at, away = (played(demo, POP.evolve(source=PointSource(offset=way))) for way in ((0, 0, 0), (0.1, 0.2, -0.3)))
    matrix = at.show.anchor_at("right-fan-tip", 0)
    moved = positions(away)[0] - positions(at)[0]
    assert moved == pytest.approx(matrix[:3, :3] @ [0.1, 0.2, -0.3], abs=1e-3)
    assert np.ptp(positions(away), axis=0).max() < 1e-5


def test_a_turn_is_about_its_own_axes_and_turns_what_it_bears(demo):
    source = PointSource(turn=(0, 90, 0), aim=Aim(heading=Heading.FORWARD, spread=0))
    player = played(demo, POP.evolve(source=source, speed=Attribute.of(1.0)))
    pool = player.show.pools["l"]
    way = pool.columns.state[3:6, 0].astype(np.float64)
    # A turn of 90 degrees about Y brings Z to X.
    assert way / np.linalg.norm(way) == pytest.approx(player.show.anchor_at("right-fan-tip", 0)[:3, 0], abs=2e-2)


def test_a_box_is_turned_as_a_whole(demo):
    box = BoxSource(size=(2.0, 0.0, 0.0), turn=(0, 0, 90), offset=(0, 1, 0))
    player = played(demo, POP.evolve(source=box), anchor=None)
    here = positions(player)
    assert np.ptp(here, axis=0) == pytest.approx([0, 2, 0], abs=0.06)
    assert here[:, 1].mean() == pytest.approx(1.0, abs=0.1)


def test_what_rides_stays_there_as_the_anchor_moves(demo):
    source = PointSource(offset=(0.2, 0, 0), turn=(0, 0, 45), riding=Riding(share=1.0))
    player = played(demo, POP.evolve(source=source), steps=40)
    matrix = player.show.anchor_at("right-fan-tip", 40)
    assert positions(player)[0] == pytest.approx(matrix[:3, 3] + matrix[:3, :3] @ [0.2, 0, 0], abs=1e-3)


def test_a_line_moves_with_both_ends(demo):
    lines = (LineSource(to="left-fan-tip", offset=way) for way in ((0, 0, 0), (0, 0.5, 0)))
    at, away = (positions(played(demo, POP.evolve(source=line))) for line in lines)
    moved = away - at
    assert np.ptp(moved, axis=0).max() < 1e-4
    assert np.linalg.norm(moved[0]) == pytest.approx(0.5, abs=1e-3)


def test_what_is_born_on_the_character_has_no_anchor_to_be_away_from(demo):
    at, away = (positions(played(demo, POP.evolve(source=SkinSource(offset=way)))) for way in ((0, 0, 0), (3, 3, 3)))
    assert np.array_equal(at, away)


def test_placed_is_exact():
    rng = np.random.default_rng(3)
    rows = rng.normal(size=(2, 5, 3)).astype(np.float32)
    turn = np.array([[0, -1, 0], [1, 0, 0], [0, 0, 1]], np.float32)
    now = AnchorPlaces(rows[0], rows[1]).placed(np.array([1, 2, 3], np.float32), turn)
    for before, after in zip(rows, now, strict=True):
        way = before[1] + 2 * before[2] + 3 * before[3]
        assert after[0] == pytest.approx(before[0] + way, abs=1e-5)
        assert after[1:4] == pytest.approx(np.stack([before[2], -before[1], before[3]]), abs=1e-6)
        assert after[4] == pytest.approx(before[4] + way, abs=1e-5)


def test_a_larger_effect_is_further_from_its_anchor():
    layer = POP.evolve(source=ConeSource(offset=(0.1, 0, -0.2), turn=(10, 0, 0)))
    now = mastered(Effect(layers=(layer,)), Masters(size=3.0)).layers[0].source
    assert now.offset == pytest.approx((0.3, 0, -0.6))
    assert now.turn == (10, 0, 0)


# ---- switched off ---------------------------------------------------------------------------------


def test_forces_and_bursts_that_are_off_do_nothing_and_are_not_lost(demo):
    forces = (Gravity(pull=9.0, disabled=True), Drag(rate=2.0))
    bursts = (Burst(count=7), Burst(count=90, disabled=True))
    layer = POP.evolve(motion=Motion(forces=forces), emission=Emission(bursts=bursts), speed=Attribute.of(1.0))
    without = layer.evolve(motion=Motion(forces=forces[1:]), emission=Emission(bursts=bursts[:1]))
    one, two = (played(demo, each, steps=20) for each in (layer, without))
    assert np.array_equal(positions(one), positions(two))
    assert len(positions(one)) == 7
    assert one.project.effects[0].layers[0].motion.forces == forces
    effect = Effect(layers=(without,))
    assert acting(effect) is effect
    assert layer.emission.max_alive(1.0, 1.0) == 7


# ---- another roll ---------------------------------------------------------------------------------


def test_another_roll_is_another_chance_and_the_first_is_as_ever(demo):
    layer = POP.evolve(speed=Attribute.of(0.0, 2.0))
    plain, first, second, again = (
        positions(played(demo, layer, 5, **r)) for r in ({}, {"roll": 0}, {"roll": 1}, {"roll": 1})
    )
    assert np.array_equal(plain, first)
    assert np.array_equal(second, again)
    assert np.abs(first - second).max() > 0.01


def test_an_edit_of_the_roll_is_played_at_once(demo):
    player = played(demo, POP.evolve(speed=Attribute.of(0.0, 2.0)), 5)
    effect = player.project.effects[0].evolve(roll=3)
    player.adopt(player.project.evolve(effects=(effect,)))
    if not player.mend():
        player.seek(5 / 60)
    fresh = played(demo, effect.layers[0], 5, roll=3)
    assert player.digest() == fresh.digest()


def test_an_offset_that_is_edited_is_played_at_once(demo):
    player = played(demo, POP, 5)
    layer = POP.evolve(source=PointSource(offset=(0, math.pi, 0)))
    player.adopt(player.project.evolve(effects=(player.project.effects[0].evolve(layers=(layer,)),)))
    assert not player.pure
    if not player.mend():
        player.seek(5 / 60)
    assert player.digest() == played(demo, layer, 5).digest()


def test_filters_that_are_off_let_everything_through_and_are_kept(demo):
    filters = {
        "joints": JointSet(names=("head",)), "height": HeightMask(low=0.9), "facing": FacingMask(),
        "texture": TextureMask(texture="glow.png"),
    }  # fmt: skip
    plain = SkinSource()
    on = plain.evolve(**filters)
    off = plain.evolve(**{name: held.evolve(disabled=True) for name, held in filters.items()})
    (layer,) = acting(Effect(layers=(POP.evolve(source=off),))).layers
    assert layer.source == plain
    (layer,) = acting(Effect(layers=(POP.evolve(source=on),))).layers
    assert layer.source == on
    one, two = (positions(played(demo, POP.evolve(source=source))) for source in (plain, off))
    assert np.array_equal(one, two)
