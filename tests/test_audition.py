"""Auditions beside the show, wishes that are no edits, and where new layers begin."""

from __future__ import annotations

import numpy as np
import pytest

from wraithon.picture.shipped import TextureLibrary
from wraithon.project.effect import Effect, Layer, Quality
from wraithon.project.emission import Burst, Emission
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.look import LOOKS
from wraithon.project.source import JointSet, OffspringSource, PointSource, RingSource, SkinSource
from wraithon.stage.player import Player
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.studio.audition import GAP, NOTHING, Audition, AuditionWish, period_of, position_of
from wraithon.studio.beginning import KINDS, begun_layer, begun_look
from wraithon.studio.view_overrides import ViewOverrides

SPARK = Layer(
    id="spark", name="spark", emission=Emission(bursts=(Burst(count=5),)), lifetime=Attribute.of(1.0),
    speed=Attribute.of(0.0),
)  # fmt: skip
POP = Effect(id="pop", name="pop", length=0.1, layers=(SPARK,))


@pytest.fixture
def player(demo):
    project = demo.project.evolve(effects=(*demo.project.effects, POP))
    return Player(project, demo.characters)


def audition(player, demo, effect="pop", anchor=None):
    made = Audition(SamplerCache())
    made.take(AuditionWish(effect, anchor), player, demo.characters)
    return made


def play(player, made, steps):
    for _ in range(steps):
        player.advance(1 / 60, made.advance_with)


def test_it_begins_at_once_and_again_after_its_last_particle_and_a_gap(player, demo):
    made = audition(player, demo)
    play(player, made, 1)
    assert made.alive == 5
    period = period_of(POP, made.show.compiled)
    assert period == pytest.approx(1.0 + GAP, abs=1e-6)
    began = [0]
    for step in range(1, 200):
        play(player, made, 1)
        if made.show.counts["pop"] > len(began):
            began.append(step)
    # The one second that they live, the tenth that it may last at most before the burst's end, and the gap.
    assert began == [0, 75, 150]


def test_the_show_does_not_hear_of_it(player, demo):
    made, alone = audition(player, demo, "thunder-stamp"), Player(player.project, demo.characters)
    play(player, made, 90)
    for _ in range(90):
        alone.step()
    assert made.alive > 0
    assert player.digest() == alone.digest()
    assert player.pure
    assert [r for r in player.show.history() if r.effect == "thunder-stamp"] == []


def test_while_the_show_rests_it_goes_on_at_the_pose_that_is_held(player, demo):
    player.seek(2.5)
    made, before = audition(player, demo, "plume-drift"), player.digest()
    for _ in range(60):
        made.advance(1 / 60, player.show)
    assert made.show.step_number == 60
    pose, skin = made.show.posed(made.show.step_number)
    held_pose, held_skin = player.show.posed(player.show.step_number)
    assert np.array_equal(pose.matrices, held_pose.matrices)
    assert np.array_equal(skin.positions, held_skin.positions)
    assert made.alive > 10
    assert player.digest() == before


def test_it_moves_with_the_character_that_plays_and_stays_with_it_over_a_seek(player, demo):
    made = audition(player, demo, "plume-drift")
    play(player, made, 30)
    player.seek(3.0)
    play(player, made, 2)
    here, there = made.show, player.show
    assert here.posed(here.step_number)[1] is there.posed(there.step_number)[1]
    assert here.step_number == 32


def test_a_picture_holds_it_in_the_place_of_the_effects_own_firings(player, demo):
    player.seek(3.2)
    own = {layer.id for layer in player.project.effect("thunder-stamp").layers}
    everything, others = player.frame(), player.frame(frozenset(own))
    assert len(others.batches) < len(everything.batches)
    made = audition(player, demo, "thunder-stamp")
    assert len(made.frame(player).batches) == len(others.batches)
    made.advance(1 / 60, player.show)
    assert len(made.frame(player).batches) > len(others.batches)


def test_an_edit_goes_on_with_what_lives_and_an_effect_that_goes_takes_it_along(player, demo):
    made = audition(player, demo)
    play(player, made, 10)
    bigger = player.project.effect("pop").evolve(layers=(SPARK.evolve(size=Attribute.of(0.5)),))
    effects = tuple(bigger if e.id == "pop" else e for e in player.project.effects)
    player.adopt(player.project.evolve(effects=effects))
    made.adopt(player, demo.characters)
    assert made.alive == 5
    assert made.show.compiled.programs["spark"].layer.size.ends == (0.5, 0.5)
    player.adopt(demo.project)
    made.adopt(player, demo.characters)
    assert not made.runs
    assert made.alive == 0
    assert len(made.frame(player).batches) == len(player.frame().batches)


def test_nothing_shows_itself_unless_it_is_wished_for(player, demo):
    made = audition(player, demo)
    made.take(NOTHING, player, demo.characters)
    play(player, made, 5)
    assert not made.runs


def test_one_without_an_end_begins_once(player, demo):
    endless = POP.evolve(id="rain", length=None, layers=(SPARK.evolve(id="drop", emission=Emission(rate=60)),))
    player.adopt(player.project.evolve(effects=(*player.project.effects, endless)))
    made = audition(player, demo, "rain")
    play(player, made, 300)
    assert made.show.counts["rain"] == 1
    assert 58 <= made.alive <= 62


def test_it_is_where_its_trigger_would_fire_it(demo):
    project = demo.project
    stamp = next(s for t in project.triggers for s in t.response if s.effect == "thunder-stamp")
    anchor, follow = position_of(project, AuditionWish("thunder-stamp", "elsewhere"))
    assert follow == stamp.follow
    assert anchor is not None
    assert anchor != "elsewhere"
    assert position_of(project, AuditionWish("pop", "elsewhere")) == ("elsewhere", True)


# ---- wishes ---------------------------------------------------------------------------------------

TWO = Effect(id="two", layers=(Layer(id="a"), Layer(id="b"), Layer(id="c", disabled=True)))


def heard(overrides, project):
    return [layer.id for layer in overrides.played(project).effects[0].layers if not layer.disabled]


@pytest.mark.parametrize(
    ("overrides", "wanted"),
    [
        (ViewOverrides(), ["a", "b"]),
        (ViewOverrides().muting(["a"]), ["b"]),
        (ViewOverrides().muting(["a", "b"]), []),
        (ViewOverrides().muting(["a"]).muting(["a", "b"]), []),
        (ViewOverrides().muting(["a", "b"]).muting(["a", "b"]), ["a", "b"]),
        (ViewOverrides().soloing(TWO, ["b"]), ["b"]),
        (ViewOverrides().soloing(TWO, ["b"]).soloing(TWO, ["b"]), ["a", "b"]),
        (ViewOverrides().soloing(TWO, ["b"]).soloing(TWO, ["a"]), ["a"]),
        (ViewOverrides().muting(["a"]).soloing(TWO, ["a"]), ["a"]),
        (ViewOverrides().muting(["gone"]).soloing(TWO, ["gone"]), ["a", "b"]),
        (ViewOverrides().soloing(TWO, ["c"]), []),
    ],
)
def test_wishes_say_what_is_seen_and_never_bring_in_what_is_left_out(demo, overrides, wanted):
    assert heard(overrides, demo.project.evolve(effects=(TWO,))) == wanted


def test_a_project_without_wishes_is_played_as_it_is(demo):
    assert ViewOverrides().played(demo.project) is demo.project
    assert ViewOverrides(muted=frozenset({"nowhere"})).played(demo.project) is demo.project


# ---- where new layers begin -----------------------------------------------------------------------


@pytest.mark.parametrize(
    ("picked", "neighbour", "source", "where"),
    [
        (("part", "rain skirt"), None, SkinSource(parts=("rain skirt",)), "rain skirt"),
        (("joint", "head"), SPARK, SkinSource(joints=JointSet(names=("head",))), "head"),
        (("", ""), SPARK.evolve(source=RingSource()), RingSource(), 'the same as "spark"'),
        (("clip", "walk"), SPARK.evolve(source=OffspringSource()), SkinSource(), "the whole character"),
        (("anchor", "gone"), None, SkinSource(), "the whole character"),
    ],
)
def test_a_new_layer_is_born_on_what_is_picked_or_like_its_neighbour(demo, picked, neighbour, source, where):
    layer, told = begun_layer(demo.project, "new", picked, neighbour)
    assert (layer.source, told) == (source, where)
    assert layer.emission.rate > 0


def test_an_anchor_that_is_picked_is_where_it_is_born_and_without_a_character_its_own_is(demo):
    anchor = demo.project.character.anchors[0]
    assert begun_layer(demo.project, "new", ("anchor", anchor.id), SPARK)[0].source == PointSource()
    assert begun_layer(demo.project.evolve(characters=()), "new", ("part", "body"), None)[0].source == PointSource()


@pytest.mark.parametrize("kind", KINDS)
def test_a_new_layer_of_any_look_lives_at_once_and_has_no_findings(demo, kind):
    layer, _ = begun_layer(demo.project, "new", ("", ""), None)
    layer = begun_look(layer, kind)
    assert layer.look.kind == kind
    effect = Effect(id="new", name="new", length=1.0, layers=(layer,))
    project = demo.project.evolve(effects=(effect,), triggers=())
    told = [f.message for f in check(project, demo.facts, frozenset(TextureLibrary(None).names()))]
    assert told == []
    player = Player(project, demo.characters)
    made = audition(player, demo, "new")
    play(player, made, 30)
    assert made.alive > 0
    assert len(made.frame(player).batches) == 1


def test_there_is_a_new_layer_of_every_look():
    assert set(KINDS) == set(LOOKS)


def test_a_layer_that_is_added_is_seen_at_once(player, demo):
    made = audition(player, demo)
    play(player, made, 30)
    assert made.show.counts["pop"] == 1
    more = SPARK.evolve(id="more", emission=Emission(bursts=(Burst(count=3),)))
    effects = tuple(e.evolve(layers=(SPARK, more)) if e.id == "pop" else e for e in player.project.effects)
    player.adopt(player.project.evolve(effects=effects))
    made.adopt(player, demo.characters)
    play(player, made, 1)
    assert made.show.pools["more"].count == 3


def test_a_level_of_quality_bears_less_and_leaves_looks_out(demo):
    spark = SPARK.evolve(emission=Emission(rate=40, bursts=(Burst(count=10),)))
    light = SPARK.evolve(id="light", look=LOOKS["light"]())
    effect = POP.evolve(layers=(spark, light), qualities=(Quality(name="low", amount=0.25, without=("light",)),))
    project = demo.project.evolve(effects=(effect, TWO))
    played = ViewOverrides(quality="low").played(project)
    here, there = played.effects[0].layers
    assert (here.emission.rate, here.emission.bursts[0].count) == (10, 2)
    assert (here.disabled, there.disabled) == (False, True)
    assert played.effects[1] is TWO
    assert ViewOverrides(quality="high").played(project).effects[0] is effect
