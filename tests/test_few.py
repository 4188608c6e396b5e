"""Many small pools are stepped in one call, and come out as each by itself does, to the bit."""

import numpy as np
import pytest

from tests.pools import DT, born, free, tick_context
from wraithon.character.sampling import sampler_of
from wraithon.numeric.compiled import FEW
from wraithon.particles import few
from wraithon.particles.emission import births_between, emits_nothing
from wraithon.particles.few import SmallPools, is_small
from wraithon.particles.pool import Pool
from wraithon.particles.rules import TickContext
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve, LifeMode, Range
from wraithon.project.motion import Collision, Curl, Drag, Gravity, GroundCollision, Motion, Vortex, Wind
from wraithon.project.project import Project
from wraithon.project.source import Mode, Riding, SkinSource, SphereSource
from wraithon.stage.player import Player

FORCES = Motion(
    forces=(Gravity(), Wind(push=(1, 0, 2)), Drag(rate=0.7), Curl(strength=2)),
    ground=GroundCollision(contact=Collision.BOUNCE),
)
SLOWING = Attribute(birth=Range.of(1, 3), mode=LifeMode.SCALE, life=Curve.through((0, 1), (1, 0)))
SOURCES = {
    "free": SphereSource(radius=0.2),
    "skin": SkinSource(riding=Riding(share=0.5)),
    "lifted": SkinSource(riding=Riding(share=1.0), lift=0.1),
    "bones": SkinSource(mode=Mode.BONES, radius=0.1, riding=Riding(share=0.7)),
}


def pools_of(halcyon, around):
    """Return pools of all kinds, each with its program: the same each time."""
    made = []
    for number, (name, source) in enumerate(SOURCES.items()):
        sampler = sampler_of(halcyon, source) if isinstance(source, SkinSource) else None
        for motion, speed in ((Motion(), Attribute.of(1, 2)), (FORCES, SLOWING)):
            layer = Layer(
                id=f"{name}{number}", source=source, motion=motion, speed=speed, emission=Emission(limit=2000),
                lifetime=Attribute.of(DT, (3 + 6 * number) * DT),
            )  # fmt: skip
            pool, program = born(layer, 40 + 30 * number, sampler, around, key=number)
            made.append((program, pool))
    return made


def bytes_of(pool):
    return [array.tobytes() for array in pool.columns.first(pool.count)], pool.count


def test_pools_of_every_kind_come_out_as_by_themselves(halcyon):
    around = tick_context(halcyon, 0.5, 0.5 + DT)
    together, alone = pools_of(halcyon, around), pools_of(halcyon, around)
    small = SmallPools()
    for step in range(12):
        small.step([pair for pair in together if pair[1].count], DT, step * DT, around)
        for program, pool in alone:
            pool.step(program, DT, step * DT, around, wants_moments=False)
        assert [bytes_of(pool) for _, pool in together] == [bytes_of(pool) for _, pool in alone]
    assert any(pool.count == 0 for _, pool in alone)  # some died out on the way, and their rows moved up
    assert any(pool.count for _, pool in alone)


def test_a_pool_that_grew_and_a_program_that_changed_are_told_anew():
    small, around = SmallPools(), TickContext.empty()
    pool, program = free(200)
    others = [free(5, seed=number)[::-1] for number in range(3)]
    small.step([(program, pool), *others], DT, 0.0, around)
    before = pool.columns
    pool._make_room(900)  # as births do
    assert pool.columns is not before
    before.state[:] = np.nan  # whoever still reads this is found out
    _, faster = free(200, Layer(motion=Motion(forces=(Gravity(),))))
    velocity = pool.columns.state[4, :200].copy()
    small.step([(faster, pool), *others], DT, DT, around)
    np.testing.assert_allclose(pool.columns.state[4, :200], velocity - 9.81 * DT, rtol=1e-4, atol=1e-4)


def test_only_small_pools_without_forces_that_have_a_place_go_together():
    pool, program = free(FEW)
    assert is_small(program, pool)
    assert not is_small(program, Pool())
    pool.count = FEW + 1
    assert not is_small(program, pool)
    pool, program = free(3, Layer(motion=Motion(forces=(Vortex(),))))
    assert not is_small(program, pool)


@pytest.mark.parametrize("minimum", [1, 10**9])
def test_a_show_is_the_same_either_way(minimum, monkeypatch):
    layers = tuple(
        Layer(id=f"l{k}", lifetime=Attribute.of(0.1, 0.5), motion=FORCES, emission=Emission(rate=30 + k))
        for k in range(8)
    )
    project = Project(effects=(Effect(id="e", layers=layers),))

    def digest():
        show = Player(project, {}).show
        show.start(show.compiled.effects["e"], None, 0.0)
        for _ in range(40):
            show.advance()
        return show.digest()

    wanted = digest()
    monkeypatch.setattr(few, "MINIMUM", minimum)
    monkeypatch.setattr("wraithon.stage.show.MINIMUM", minimum)
    assert digest() == wanted


@pytest.mark.parametrize("rate", [0.0, 0.3, 1, 30, 60, 1000])
@pytest.mark.parametrize("start", [0.0, 0.05])
@pytest.mark.parametrize("length", [None, 0.3])
def test_nothing_is_said_to_be_born_only_where_nothing_is(rate, start, length):
    emission = Emission(rate=rate, start=start, length=length)
    quick = 0
    for step in range(200):
        low, high = step / 60, (step + 1) / 60
        if emits_nothing(emission, low, high):
            quick += 1
            assert births_between(emission, None, low, high)[1] == 0
        else:
            assert births_between(emission, None, low, high)[1] > 0 or length is not None
    assert quick > 100 or rate >= 30
    assert not emits_nothing(emission.evolve(bursts=(Burst(count=1),)), 0, 1)
