"""Chance without hidden state: every random number is a hash of what it is for.

The hash is the finaliser of SplitMix64 (Steele, Lea and Flood 2014, "Fast splittable pseudorandom
number generators"), applied to a counter.
"""

from __future__ import annotations

import hashlib

import numpy as np

from wraithon.numeric.compiled import inlined

_A, _B = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)
_GOLDEN, _CHANNEL = np.uint64(0x9E3779B97F4A7C15), np.uint64(0xD1342543DE82EF95)
_S30, _S27, _S31, _S40 = np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(40)
_UNIT = np.float32(2.0**-24)

# What a particle draws its numbers for. New ones go at the end: a number is a channel for good.
LIFETIME, SPEED, AIM_TURN, AIM_STRAY, SIZE, COLOUR, INTENSITY, OPACITY, TURN, SPIN, SHEET = range(11)
PLACE_A, PLACE_B, PLACE_C, PLACE_D = range(11, 15)
FELT, WAFT_A, WAFT_B = range(15, 18)
STRETCH, AXIS_A, AXIS_B, AXIS_C, WOBBLE = range(18, 23)
"""WOBBLE: the first of six, one for each of what is drawn."""
RETRIES = 64
"""First of the channels for places that a mask turned down; four to a try."""


@inlined
def mix(x):  # type: ignore[no-untyped-def]
    """Scramble a 64-bit number."""
    x = (x ^ (x >> _S30)) * _A
    x = (x ^ (x >> _S27)) * _B
    return x ^ (x >> _S31)


@inlined
def identity_of(key, serial):  # type: ignore[no-untyped-def]
    """Return the identity of the particle number `serial` (uint64) of a firing's layer."""
    return mix(key + serial * _GOLDEN)


@inlined
def uniform(identity, channel):  # type: ignore[no-untyped-def]
    """Return a float32 in [0, 1) that belongs to one particle and one channel."""
    return np.float32(mix(identity + np.uint64(channel) * _CHANNEL) >> _S40) * _UNIT


def layer_key(seed: int, effect: str, layer: str) -> int:
    """Return 64 bits that stand for a layer of an effect under a project's seed."""
    text = f"{seed}\0{effect}\0{layer}".encode()
    return int.from_bytes(hashlib.blake2b(text, digest_size=8).digest(), "little")


def firing_key(key: int, number: int) -> np.uint64:
    """Return 64 bits that stand for the firing `number` of a layer's effect."""
    return np.uint64((key + (number + 1) * 0xA0761D6478BD642F) & 0xFFFFFFFFFFFFFFFF)
