"""Each operation on lanes against what NumPy makes of the same numbers."""

import numpy as np
import pytest

from wraithon.numeric.compiled import called
from wraithon.numeric.vector_memory import fetch, fetch_floats, read, read_exact, read_whole, write
from wraithon.numeric.vectors import (
    alike,
    alike_whole,
    any_of,
    at_least,
    beside,
    bits,
    chosen,
    counted,
    evens,
    exact8,
    exactly,
    floats,
    fused,
    greater,
    high_half,
    larger,
    largest,
    low_half,
    lowered,
    numbered,
    odds,
    root,
    shifted,
    smaller,
    smallest,
    spread4,
    spread8,
    twice,
    whole,
    zipped_high,
    zipped_low,
)

X = np.array([-2.5, -1, -0.25, 0, 0.75, 1, 3.5, np.nan], np.float32)
Y = np.array([1, -1, 4, 0.5, -0.75, 2, 3.5, 7], np.float32)
N = np.array([3, 70000, 65535, -1, 0, 131073, 2**31 - 1, -(2**31)], np.int32)


@called
def arithmetic(x, y, out):
    one = spread8(np.float32(1))
    a, b = read(one, x, np.uint64(0)), read(one, y, np.uint64(0))
    write(out, np.uint64(0), a + b)
    write(out, np.uint64(8), a - b)
    write(out, np.uint64(16), a * b)
    write(out, np.uint64(24), a / b)
    write(out, np.uint64(32), fused(a, b, one))
    write(out, np.uint64(40), lowered(a))
    write(out, np.uint64(48), root(b * b))
    write(out, np.uint64(56), smaller(a, b))
    write(out, np.uint64(64), larger(a, b))
    write(out, np.uint64(72), chosen(greater(a, b), a, alike(one, np.float32(9))))
    write(out, np.uint64(80), chosen(at_least(a, b), a, numbered(one)))
    return counted(one), counted(spread4(np.float32(0))), any_of(greater(a, b)), smallest(b), largest(b)


def test_arithmetic_is_that_of_single_numbers():
    out = np.empty((11, 8), np.float32)
    eight, four, anywhere, minimum, maximum = arithmetic(X, Y, out.reshape(-1))
    with np.errstate(all="ignore"):
        wanted = [
            X + Y, X - Y, X * Y, X / Y, X * Y + 1, np.floor(X), np.abs(Y),
            # Of what is no number, the second.
            np.where(X < Y, X, Y), np.where(X > Y, X, Y), np.where(X > Y, X, 9), np.where(X >= Y, X, np.arange(8)),
        ]  # fmt: skip
    np.testing.assert_allclose(out, np.array(wanted, np.float32), rtol=1e-6)
    assert (eight, four, anywhere) == (8, 4, True)
    assert (minimum, maximum) == (-1, 7)


@called
def exact(x, y, n, out):
    like = exact8(np.float32(0))
    a, b, ones = read_exact(like, x, np.uint64(0)), read_exact(like, y, np.uint64(0)), exact8(np.float32(1))
    write(out, np.uint64(0), a * b - ones)
    write(out, np.uint64(8), (a + b) - a)
    write(out, np.uint64(16), a / b)
    write(out, np.uint64(24), exactly(read_whole(like, n, np.uint64(0)) ^ alike_whole(like, np.int32(5))))
    write(out, np.uint64(32), lowered(smaller(a, b)))


def test_exact_floats_are_neither_fused_nor_regrouped():
    rng = np.random.default_rng(3)
    x = (1 + rng.random(8) * 2.0**-11).astype(np.float32)
    y, n = (1 / x).astype(np.float32), np.arange(8, dtype=np.int32) + 0x3F800000
    out = np.empty((5, 8), np.float32)
    exact(x, y, n, out.reshape(-1))
    wanted = [x * y - np.float32(1), (x + y) - x, x / y, (n ^ 5).view(np.float32), np.floor(np.minimum(x, y))]
    np.testing.assert_array_equal(out, wanted)
    fused_differently = (x.astype(float) * y - 1).astype(np.float32)
    assert (wanted[0] != fused_differently).any(), "these numbers tell a fused product from one that is not"
    assert (wanted[1] != y).any(), "and regrouped sums from those that are not"


@called
def of_whole_numbers(n, x, table, out, out_floats):
    one = spread8(np.float32(1))
    a = read_whole(one, n, np.uint64(0))
    write(out, np.uint64(0), a & alike_whole(one, np.int32(255)))
    write(out, np.uint64(8), a | alike_whole(one, np.int32(16)))
    write(out, np.uint64(16), shifted(a, np.int32(16)))
    write(out, np.uint64(24), whole(read(one, x, np.uint64(0))))
    write(out, np.uint64(32), bits(read(one, x, np.uint64(0))))
    positions = whole(numbered(one)) * alike_whole(one, np.int32(3))
    write(out, np.uint64(40), fetch(table, positions))
    write(out_floats, np.uint64(0), low_half(a))
    write(out_floats, np.uint64(8), high_half(a))
    write(out_floats, np.uint64(16), floats(a))
    write(out_floats, np.uint64(24), fetch_floats(x, whole(numbered(one))))


def test_whole_numbers_and_their_halves():
    x = np.nan_to_num(X) * 100
    table, out, out_floats = (
        np.arange(24, dtype=np.uint32) ** 2,
        np.empty((6, 8), np.int32),
        np.empty((4, 8), np.float32),
    )
    of_whole_numbers(N, x, table, out.reshape(-1), out_floats.reshape(-1))
    unsigned = N.view(np.uint32)
    wanted = [N & 255, N | 16, unsigned >> 16, np.trunc(x), x.view(np.int32), (np.arange(8) * 3) ** 2]
    np.testing.assert_array_equal(out, np.array([w.astype(np.int64) for w in wanted]).astype(np.int32))
    np.testing.assert_array_equal(out_floats, np.array([unsigned & 65535, unsigned >> 16, N, x], np.float32))


@called
def shuffles(a, out):
    one = spread8(np.float32(1))
    x, y = read(one, a, np.uint64(0)), read(one, a, np.uint64(8))
    write(out, np.uint64(0), zipped_low(x, y))
    write(out, np.uint64(8), zipped_high(x, y))
    write(out, np.uint64(16), evens(x, y))
    write(out, np.uint64(24), odds(x, y))
    write(out, np.uint64(32), twice(x))
    write(out, np.uint64(40), beside(x))


def test_lanes_change_places():
    out = np.empty((6, 8), np.float32)
    shuffles(np.arange(16, dtype=np.float32), out.reshape(-1))
    wanted = [
        [0, 8, 1, 9, 2, 10, 3, 11], [4, 12, 5, 13, 6, 14, 7, 15], list(range(0, 16, 2)), list(range(1, 16, 2)),
        [1, 1, 2, 2, 3, 3, 4, 4], [0, 2, 1, 3, 2, 4, 3, 5],
    ]  # fmt: skip
    assert out.tolist() == wanted


@pytest.mark.parametrize("start", [0, 1, 5])
def test_rows_are_read_from_any_place(start):
    @called
    def copied(a, out, at):
        write(out, np.uint64(at), read(spread4(np.float32(0)), a, np.uint64(at)))

    a, out = np.arange(12, dtype=np.float32), np.full(12, -1, np.float32)
    copied(a, out, start)
    assert out.tolist() == [k if start <= k < start + 4 else -1 for k in range(12)]
