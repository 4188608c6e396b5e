"""Pools of particles made on the spot: the one way tests bear, move and draw particles."""

from __future__ import annotations

import numpy as np

from wraithon.character.pose import clip_locals, pose_of, skin_of
from wraithon.particles import columns as k
from wraithon.particles.emission import births_between
from wraithon.particles.looks.batch import drawn_of
from wraithon.particles.pool import Line, Pool
from wraithon.particles.program import compile_layer
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute

DT = 1 / 60
HOME = np.eye(4, dtype=np.float32)
PLAIN = {"speed": Attribute.of(0), "lifetime": Attribute.of(100)}


def births_of(*arguments):
    """Return the ages of all births within a span, none left out."""
    ages, total = births_between(*arguments)
    assert len(ages) == total
    return ages


def lift(matrix, metres):
    moved = matrix.copy()
    moved[1, 3] += metres
    return moved


def born(  # noqa: PLR0913, PLR0917  # every test says what it needs
    layer, count, sampler=None, around=None, anchors=(HOME, HOME), serial=0, key=7, emission_offsets=None, border=None
):
    """Return a pool with `count` births of a layer spread over one step, and the layer's program."""
    program = compile_layer(layer, "effect", 1, sampler, border=border)
    pool = Pool()
    emission_offsets = (
        np.linspace(0, DT * 0.99, count).astype(np.float32) if emission_offsets is None else emission_offsets
    )
    around = around or TickContext.empty()
    pool.emit(program, Line(np.uint64(key), serial, 0), emission_offsets, DT, around, AnchorPlaces.of(*anchors))
    return pool, program


def free(count, layer=None, seed=2):
    """Return a pool of particles anywhere, going anywhere, that live for ever, and a program that moves them."""
    layer = (layer or Layer()).evolve(emission=Emission(limit=max(count, 1)), **PLAIN)
    pool, program = born(layer, count, emission_offsets=np.zeros(count, np.float32))
    pool.columns.state[:6, :count] = np.random.default_rng(seed).normal(size=(6, count))
    pool.columns.state[k.LIFETIME, :count] = 1e6
    return pool, program


def positions(pool):
    return pool.columns.state[k.PX : k.PZ + 1, : pool.count].T.copy()


def velocities(pool):
    return pool.columns.state[k.VX : k.VZ + 1, : pool.count].T.copy()


def tick_context(character, before, now, clip="strike"):
    clip = character.clip(clip)
    poses = [pose_of(character, clip_locals(character, clip, t), HOME) for t in (before, now)]
    return TickContext.between(character, *((pose, skin_of(character, pose)) for pose in poses))


def drawn(layer, age=0.5, count=3000):
    """Return what particles of a layer look like at a share of their life."""
    pool, program = born(layer.evolve(lifetime=Attribute.of(1.0), emission=Emission(limit=count)), count)
    pool.columns.state[k.AGE, :count] = age
    return drawn_of(pool, program)
