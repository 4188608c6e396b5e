"""After an edit while paused, only the changed layers run again, and the show is what a fresh run would be."""

import random

import numpy as np
import pytest

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve
from wraithon.project.motion import Attraction, Drag, Gravity, Motion
from wraithon.project.project import Project
from wraithon.project.source import BoxSource, LineSource, Riding, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player
from wraithon.stage.rerun import changed_layers

MOMENT = 6.4
SWELL = Curve.through((0, 0.2), (0.5, 1), (1, 0.1))


def fresh(project, characters, moment=MOMENT):
    player = Player(project, characters)
    player.seek(moment)
    return player


def layers_of(project):
    return [layer for effect in project.effects for layer in effect.layers]


def changed(project, layer_id, change):
    effects = tuple(
        effect.evolve(layers=tuple(change(x) if x.id == layer_id else x for x in effect.layers))
        for effect in project.effects
    )
    return project.evolve(effects=effects)


CARRIED = Riding(share=0.5, keep=0.5)
EDITS = {
    "lifetime": lambda x: x.evolve(lifetime=Attribute.of(0.3, 0.9)),
    "longer": lambda x: x.evolve(lifetime=Attribute.of(2.5, 3.0), emission=x.emission.evolve(limit=50_000)),
    "rate": lambda x: x.evolve(emission=x.emission.evolve(rate=x.emission.rate * 1.5 + 3, limit=50_000)),
    "forces": lambda x: x.evolve(motion=Motion(forces=(Gravity(), Drag(rate=2)))),
    "muted": lambda x: x.evolve(disabled=True),
    "place": lambda x: x.evolve(source=SphereSource()),
    "carried": lambda x: x.evolve(source=BoxSource(riding=CARRIED)),
    "line": lambda x: x.evolve(source=LineSource(to="left-fan-tip", riding=CARRIED)),
    "course": lambda x: x.evolve(emission=x.emission.evolve(rate=40, length=5.0, curve=SWELL, limit=50_000)),
    "drawn in": lambda x: x.evolve(motion=Motion(forces=(Attraction(anchor="right-fan-tip", curve=SWELL),))),
}


def past_of(player):
    """Return what lived when, and each firing's course: what mending leaves to catching up."""
    return [a.tolist() for a in player.trace()], sorted(map(str, player.show.history()))


@pytest.fixture(scope="module")
def unedited(demo):
    """The digest of a fresh run of the demo as it is."""
    return fresh(demo.project, demo.characters).digest()


@pytest.fixture(scope="module")
def seasoned(demo):
    """A player of the demo that has come to the moment, for test after test."""
    return fresh(demo.project, demo.characters)


@pytest.mark.parametrize("edit", EDITS)
def test_a_mended_show_is_what_a_fresh_run_shows(demo, edit, unedited, seasoned):
    player = seasoned
    player.adopt(demo.project)
    player.seek(MOMENT)
    alive = {x.id for x in layers_of(demo.project) if x.id in player.show.pools and player.show.pools[x.id].count}
    assert len(alive) >= 3
    for number, layer in enumerate(sorted(alive)[:3]):
        project = changed(demo.project, layer, EDITS[edit])
        wanted = fresh(project, demo.characters)
        player.adopt(project)
        assert not player.pure
        assert player.mend()
        assert (player.pure, player.behind) == (True, True)
        assert player.digest() == wanted.digest()
        assert player.show.born == wanted.show.born
        if number == list(EDITS).index(edit) % 3:
            goes_on_as(player, wanted)
        player.adopt(demo.project)
        assert player.mend()
        assert player.digest() == unedited


def goes_on_as(player, wanted):
    """Tell that a mended player catches up with the past of a fresh run, and goes on as that does."""
    while not player.catch_up(100):
        pass
    assert not player.behind
    assert past_of(player) == past_of(wanted)
    player.step()
    wanted.step()
    assert player.digest() == wanted.digest()
    player.seek(MOMENT)


def test_only_what_could_still_live_is_run_again(demo, monkeypatch):
    player = fresh(demo.project, demo.characters)
    layer = next(x for x in layers_of(demo.project) if x.id in player.show.pools and player.show.pools[x.id].count)
    player.adopt(changed(demo.project, layer.id, lambda x: x.evolve(lifetime=Attribute.of(0.2, 0.4))))
    steps = []
    advance = type(player.show).advance

    def counted(show):
        steps.append(set(show.compiled.programs))
        advance(show)

    monkeypatch.setattr(type(player.show), "advance", counted)
    assert player.mend()
    assert len(steps) <= 0.4 * player.show.rate + 6
    assert all(programs == {layer.id} for programs in steps)


def steady(limit=10_000, **changes):
    layer = Layer(id="l", lifetime=Attribute.of(0.5, 1), emission=Emission(rate=40, limit=limit), **changes)
    effect = Effect(id="e", length=None, layers=(layer, layer.evolve(id="other")))
    start = Trigger(id="t", when=AtStart(), response=(StartEffect(effect="e"),))
    return Project(effects=(effect,), triggers=(start,))


def test_several_edits_before_it_is_mended_are_mended_together():
    player = fresh(steady(), {}, 3.0)
    player.adopt(changed(steady(), "l", EDITS["lifetime"]))
    project = changed(changed(steady(), "l", EDITS["rate"]), "other", EDITS["forces"])
    player.adopt(project)
    assert player.mend()
    assert player.digest() == fresh(project, {}, 3.0).digest()


def test_a_layer_that_is_new_or_gone_is_mended():
    project = steady()
    effect = project.effects[0]
    more = project.evolve(effects=(effect.evolve(layers=(*effect.layers, effect.layers[0].evolve(id="third"))),))
    player = fresh(project, {}, 3.0)
    player.adopt(more)
    assert player.mend()
    assert player.digest() == fresh(more, {}, 3.0).digest()
    player.adopt(project)
    assert player.mend()
    assert player.digest() == fresh(project, {}, 3.0).digest()


def test_firings_that_were_over_live_again_when_their_particles_live_longer():
    burst = Layer(id="l", lifetime=Attribute.of(0.5), emission=Emission(rate=0, bursts=(Burst(count=9),)))
    project = Project(
        effects=(Effect(id="e", length=0.1, layers=(burst,)),),
        triggers=(Trigger(when=AtStart(), response=(StartEffect(effect="e"),)),),
    )
    player = fresh(project, {}, 2.0)
    assert not player.show.firings
    longer = changed(project, "l", lambda x: x.evolve(lifetime=Attribute.of(5)))
    player.adopt(longer)
    assert player.mend()
    assert [f.alive for f in player.show.firings.values()] == [9]
    assert player.digest() == fresh(longer, {}, 2.0).digest()
    player.adopt(project)
    assert player.mend()
    assert not player.show.firings
    assert player.digest() == fresh(project, {}, 2.0).digest()


@pytest.mark.parametrize(
    "project",
    [
        steady(limit=20),
        steady().evolve(seed=99),
        steady().evolve(step_rate=120),
        steady().evolve(triggers=()),
    ],
)
def test_what_hangs_on_more_than_the_layer_is_run_from_the_start(project):
    player = fresh(steady(), {}, 3.0)
    player.adopt(project)
    before = player.show.born
    mended = player.mend()
    if project.seed == 99:  # every layer is another then, and none hangs on another
        assert mended
    else:
        assert not mended
        assert (player.pure, player.show.born) == (False, before)
        player.seek(3.0)
    assert player.digest() == fresh(project, {}, 3.0).digest()


def test_a_limit_that_is_never_reached_refuses_nothing_and_one_that_is_needs_the_whole_run():
    reached = fresh(steady(limit=100_000), {}, 3.0).show.pools["l"].count
    player = fresh(steady(), {}, 3.0)
    player.adopt(steady(limit=reached + 25))
    assert player.mend()
    player.adopt(steady(limit=reached - 5))
    assert not player.mend()


def test_playing_on_after_an_edit_leaves_nothing_to_mend():
    player = fresh(steady(), {}, 3.0)
    player.adopt(changed(steady(), "l", EDITS["rate"]))
    player.step()
    assert not player.mend()
    assert not player.pure


def test_what_changed_is_told_layer_by_layer(demo):
    player = fresh(steady(), {}, 0.5)
    before = player.compiled
    for edit, wanted in (("rate", {"l"}), ("muted", {"l"})):
        player.adopt(changed(steady(), "l", EDITS[edit]))
        assert changed_layers(before, player.compiled) == wanted
    longer = steady().evolve(effects=(steady().effects[0].evolve(length=2.0),))
    player.adopt(longer)
    assert changed_layers(before, player.compiled) == {"l", "other"}
    assert np.isfinite(player.show.time)


def edited_somehow(project, rng):
    """Return a project after one edit of whatever kind, and of whichever layer."""
    layer, kind = (
        rng.choice(layers_of(project)),
        rng.choice(["life", "rate", "burst", "limit", "mute", "forces", "length", "order"]),
    )
    if kind == "length":
        mine = {e.id for e in project.effects if layer in e.layers}
        length = rng.choice([None, 0.2, 2.0])
        return project.evolve(effects=tuple(e.evolve(length=length) if e.id in mine else e for e in project.effects))
    if kind == "order":
        return project.evolve(effects=tuple(e.evolve(layers=e.layers[::-1]) for e in project.effects))
    emission = layer.emission
    repeats = Burst(count=rng.randint(1, 60), time=rng.uniform(0, 1), repeats=rng.randint(1, 4))
    edits = {
        "life": {"lifetime": Attribute.of(*sorted((rng.uniform(0.05, 4), rng.uniform(0.05, 4))))},
        "rate": {"emission": emission.evolve(rate=rng.uniform(0, 400))},
        "burst": {"emission": emission.evolve(bursts=(repeats,))},
        "limit": {"emission": emission.evolve(limit=rng.choice([5, 50, 5000]))},
        "mute": {"disabled": not layer.disabled},
        "forces": {"motion": Motion(forces=(Drag(rate=rng.uniform(0, 3)),))},
    }
    return changed(project, layer.id, lambda x: x.evolve(**edits[kind]))


@pytest.mark.parametrize("seed", range(8))
def test_whatever_is_edited_the_show_comes_out_as_a_fresh_run(demo, seed):
    rng = random.Random(seed)
    moment, project = rng.choice([0.9, 2.95, 4.6]), demo.project
    player = fresh(project, demo.characters, moment)
    for _ in range(rng.randint(1, 3)):
        project = edited_somehow(project, rng)
        player.adopt(project)
    if not player.pure and not player.mend():
        player.seek(moment)
    wanted = fresh(project, demo.characters, moment)
    assert player.digest() == wanted.digest()
    serials = [{position: firing.serials for position, firing in p.show.firings.items()} for p in (player, wanted)]
    assert serials[0] == serials[1]
    player.step()
    wanted.step()
    assert player.digest() == wanted.digest()
