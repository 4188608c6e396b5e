"""Master values: what is put into layers, and what is played of effects that are started with them."""

from __future__ import annotations

import typing

import numpy as np
import pytest
from pydantic import BaseModel, ValidationError

from wraithon.project.binding import Masters
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import MAX_LIVING, Burst, Emission
from wraithon.project.life import Attribute, Curve, Gradient, LifeMode, Tint, WeightedChoice, Wobble
from wraithon.project.look import RibbonLook, ShellLook, SpriteLook
from wraithon.project.motion import Curl, Drag, Gravity, Hold, Motion, Vortex, Wind
from wraithon.project.quantities import quantities_of
from wraithon.project.resolving.mastering import mastered
from wraithon.project.resolving.variants import MAX_VARIANTS, variants_of
from wraithon.project.source import Aim, OffspringSource, RingSource, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player
from wraithon.stage.triggering.strengths import startable

LAYER = Layer(
    id="l", emission=Emission(rate=100, bursts=(Burst(time=0.2, count=10),), limit=500),
    source=SphereSource(radius=0.2), lifetime=Attribute.of(0.5), speed=Attribute.of(1.0, 3.0),
    motion=Motion(forces=(Gravity(pull=4.0), Drag(rate=1.5))), size=Attribute.of(0.04, 0.08),
)  # fmt: skip
EFFECT = Effect(id="e", name="e", length=1.0, layers=(LAYER,))


def layer_of(masters, layer=LAYER):
    return mastered(EFFECT.evolve(layers=(layer,)), masters).layers[0]


def test_neutral_ones_change_nothing():
    assert mastered(EFFECT, Masters()) is EFFECT
    assert Masters().neutral
    assert not Masters(tint=(1, 1, 0.5)).neutral


def test_twice_the_size_is_twice_every_length_and_no_time():
    now = layer_of(Masters(size=2.0))
    assert now.source.radius == 0.4
    assert now.speed.ends == (2.0, 6.0)
    assert now.size.ends == (0.08, 0.16)
    assert now.motion.forces[0].pull == 8.0
    assert now.motion.forces[1].rate == 1.5
    assert now.lifetime.ends == LAYER.lifetime.ends
    assert now.emission == LAYER.emission
    assert now.look.soft == 0.1


def test_twice_the_tempo_is_half_of_every_time():
    effect = mastered(EFFECT, Masters(tempo=2.0))
    now = effect.layers[0]
    assert effect.length == 0.5
    assert now.lifetime.ends == (0.25, 0.25)
    assert now.speed.ends == (2.0, 6.0)
    assert now.motion.forces[0].pull == 16.0
    assert now.motion.forces[1].rate == 3.0
    assert (now.emission.rate, now.emission.bursts[0].time) == (200, 0.1)
    assert now.size.ends == LAYER.size.ends
    assert mastered(EFFECT.evolve(length=None), Masters(tempo=2.0)).length is None


@pytest.mark.parametrize(
    ("masters", "along", "when"), [(Masters(size=3.0), 3.0, 1.0), (Masters(tempo=2.0), 1.0, 2.0)]
)
def test_what_is_played_keeps_its_shape(demo, masters, along, when):
    """A firing in empty space is the same one, larger or sooner: positions agree to what floats can tell."""

    def positions(effect, rate):
        trigger = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
        project = demo.project.evolve(characters=(), effects=(effect,), triggers=(trigger,), step_rate=rate)
        player = Player(project, {})
        for _ in range(40):
            player.step()
        pool = player.show.pools["l"]
        return pool.columns.state[:3, : pool.count], pool.columns.identity[: pool.count]

    forces = (Gravity(pull=4.0), Drag(rate=1.5), Curl(scale=0.4, strength=3.0), Vortex(reach=0.4))
    layer = LAYER.evolve(motion=Motion(forces=forces), emission=Emission(rate=100))
    # The amount a second is what tempo changes: so many of both have been born at the same step.
    plain, ids = positions(EFFECT.evolve(layers=(layer,)), 60)
    other, others = positions(EFFECT.evolve(layers=(layer,), masters=masters), round(60 * when))
    assert np.array_equal(ids, others)
    assert len(ids) > 25
    assert np.abs(other / along - plain).max() < 2e-4


def test_amount_is_of_rates_and_bursts_and_makes_room_for_them():
    now = layer_of(Masters(amount=2.5)).emission
    assert (now.rate, now.bursts[0].count, now.limit) == (250, 25, 1250)
    assert layer_of(Masters(amount=0.01)).emission.bursts[0].count == 1
    none = layer_of(Masters(amount=0.0)).emission
    assert (none.rate, none.bursts[0].count, none.limit) == (0, 0, 500)
    one = LAYER.evolve(look=ShellLook(), emission=Emission(bursts=(Burst(count=1),)))
    assert layer_of(Masters(amount=5.0), one).emission.bursts[0].count == 1
    many = LAYER.evolve(emission=Emission(bursts=(Burst(count=MAX_LIVING, most=MAX_LIVING),), limit=MAX_LIVING))
    full = layer_of(Masters(amount=100.0), many).emission
    assert (full.bursts[0].count, full.bursts[0].most, full.limit) == (MAX_LIVING, MAX_LIVING, MAX_LIVING)


def test_opacity_and_tint_reach_what_life_scales_adds_or_replaces():
    curve = Curve.through((0, 1), (1, 0.5))
    for mode, birth, end in ((LifeMode.SCALE, 0.4, 0.5), (LifeMode.REPLACE, 0.4, 0.25), (LifeMode.ADD, 0.4, 0.25)):
        layer = LAYER.evolve(opacity=Attribute.of(0.8, 0.8, curve).evolve(mode=mode))
        now = layer_of(Masters(opacity=0.5), layer).opacity
        assert (now.ends[0], now.life.points[-1][1]) == (birth, end)
    chosen = LAYER.evolve(opacity=Attribute(choices=(WeightedChoice(value=0.6), WeightedChoice(value=0.2))))
    assert layer_of(Masters(opacity=0.5), chosen).opacity.ends == (0.1, 0.3)
    gradient = Gradient.through((0, (1, 1, 1)), (1, (0.5, 0.5, 0.5)))
    for mode, wanted in ((LifeMode.SCALE, 0.5), (LifeMode.REPLACE, 0.25)):
        tint = Tint(first=(1, 0.5, 0.25), life=gradient, mode=mode)
        now = layer_of(Masters(tint=(0.5, 0.5, 1.0)), LAYER.evolve(colour=tint)).colour
        assert now.first == (0.5, 0.25, 0.25)
        assert now.life.stops[1].colour[0] == wanted


def test_what_would_leave_its_bounds_stays_at_them():
    layer = LAYER.evolve(
        motion=Motion(forces=(Curl(scale=900.0), Wind(push=(9e5, -9e5, 0)))), source=RingSource(radius=9e5)
    )
    now = layer_of(Masters(size=100.0), layer)
    assert now.motion.forces[0].scale == 1000.0
    assert now.motion.forces[1].push == (1e6, -1e6, 0)
    assert now.source.radius == 1e6
    tiny = LAYER.evolve(emission=Emission(loop=0.05, bursts=(Burst(interval=0.001),)))
    assert layer_of(Masters(tempo=100.0), tiny).emission.loop == 0.05
    with pytest.raises(ValidationError):
        Masters(size=0.0)


def numbers_of(kind, found=None):
    """Return (model, field) of every number in a kind of model and in the models it may hold."""
    found = {} if found is None else found
    for name, field in kind.model_fields.items():
        parts, ahead = [], [field.annotation]
        while ahead:
            part = ahead.pop()
            parts.append(part)
            ahead += typing.get_args(part)
        models = [part for part in parts if isinstance(part, type) and issubclass(part, BaseModel)]
        if float in parts and not models:
            found[kind, name] = quantities_of(kind).get(name)
        for model in models:
            if not any(known is model for known, _ in found):
                numbers_of(model, found)
    return found


UNSCALED = {
    ("Aim", "low"), ("Aim", "high"), ("Curve", "points"), ("Stop", "at"), ("Stop", "colour"),
    ("WeightedChoice", "value"), ("Tint", "first"),
    ("Tint", "second"), ("SpriteLook", "axis"), ("Range", "low"), ("Range", "high"),
}  # fmt: skip
"""Numbers that are shares, factors and directions, or take the unit of what holds them."""


def test_every_number_of_a_layer_says_what_it_measures():
    """Else size and tempo would leave it as it is, and its form would show no unit."""
    silent = {(kind.__name__, name) for (kind, name), said in numbers_of(Layer).items() if said is None}
    assert silent - UNSCALED == set()


@pytest.mark.parametrize(
    ("kind", "name", "grown"),
    [
        (Gravity, "pull", 2 * 3**2), (Drag, "rate", 3), (Curl, "scale", 2), (Curl, "speed", 6), (Hold, "radius", 2),
        (Emission, "rate", 3), (Emission, "per_metre", 1 / 2), (Emission, "loop", 1 / 3), (Burst, "interval", 1 / 3),
        (Attribute, "far", 2), (Attribute, "top", 6), (Wobble, "pace", 3), (RibbonLook, "past", 1 / 3),
        (SpriteLook, "soft", 2),
        (SpriteLook, "stretch", 1 / 3), (Layer, "size", 2), (Layer, "speed", 6), (Layer, "lifetime", 1 / 3),
        (Layer, "spin", 3), (Layer, "opacity", 1), (Aim, "spread", 1), (Burst, "count", 1),
    ],
)  # fmt: skip
def test_twice_the_size_and_three_times_the_tempo(kind, name, grown):
    assert quantities_of(kind)[name].scale(2.0, 3.0) == pytest.approx(grown, rel=1e-12)


def test_all_of_the_demo_stands_any_master_values(demo):
    for effect in demo.project.effects:
        maximum, minimum = (
            Masters(size=100, tempo=0.01, amount=100),
            Masters(size=0.01, tempo=100, amount=0, opacity=0),
        )
        for masters in (maximum, minimum):
            assert len(mastered(effect, masters).layers) == len(effect.layers)


# ---- where an effect is started -------------------------------------------------------------------


def started(*masters):
    steps = tuple(StartEffect(effect="e", masters=each) for each in masters)
    return (Trigger(id="t", when=AtStart(), response=steps),)


def test_steps_start_variants_of_their_own_which_show_as_the_effect(demo):
    child = LAYER.evolve(id="c", source=OffspringSource(layer="l"))
    effect = EFFECT.evolve(layers=(LAYER, child), masters=Masters(size=2.0))
    project = demo.project.evolve(effects=(effect,), triggers=started(Masters(), Masters(size=3.0)))
    player = Player(project, demo.characters)
    player.step()
    assert len(player.show.pools) == 2
    assert player.compiled.effect("e").layers[0].size.ends == pytest.approx((0.08, 0.16))
    names = [record.shown for record in player.show.history()]
    assert names == ["e", "e"]
    (variant,) = player.compiled.variants.values()
    assert variant.layers[0].size.ends == pytest.approx((0.24, 0.48))
    assert variant.layers[1].source.layer == variant.layers[0].id
    held = player.show.copy()
    player.show.restore(held)
    assert [record.shown for record in player.show.history()] == ["e", "e"]


def test_variants_are_the_same_for_the_same_values_and_not_more_than_there_may_be():
    effects = {"e": EFFECT}
    assert len(variants_of(startable(started(Masters(size=2), Masters(size=2))), effects)) == 1
    assert variants_of(startable(started(Masters())), effects) == {}
    one, again = (variants_of(startable(started(Masters(size=2))), effects) for _ in range(2))
    assert [v.id for v in one.values()] == [v.id for v in again.values()]
    triggers = [t for k in range(10) for t in started(*(Masters(size=1 + (60 * k + j) / 1000) for j in range(1, 61)))]
    assert len(variants_of(startable(triggers), effects)) == MAX_VARIANTS
    long = EFFECT.evolve(id="e" * 64, layers=(LAYER.evolve(id="l" * 64),))
    triggers = (Trigger(when=AtStart(), response=(StartEffect(effect=long.id, masters=Masters(size=2)),)),)
    (variant,) = variants_of(startable(triggers), {long.id: long}).values()
    assert len(variant.id) <= 64
