"""The kernel that puts what is transparent in order."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import kernel

ZERO, ONE, ONE32 = np.float32(0), np.uint64(1), np.uint32(1)
DIGITS, DIGIT, HALF = 256, np.uint64(255), np.uint64(8)
LOWER_HALF = (1 << 32) - 1
MINIMUM = np.int32(0)
FINE, FARTHEST, MAXIMUM = np.uint32(12), np.int32((127 - 22) << 11), np.int32((1 << 16) - 1)
"""Bits of a float that are left out; its others at 2^-22, for 4,000 km; and how many there are from there on."""


@kernel
def far_to_near(nearness, blends, others, added, order, keys, between):  # type: ignore[no-untyped-def]
    """Write the rows of what is visible into `order`, far ones first; return how many.

    Visible is what has an inverse distance above 0: of `nearness` (N,), whose squares meet what is behind by `blends`
    (N,), and of `others` (M,), which come after them. The bits of a positive float sort as it does; sixteen of them
    tell distances of 0.05 % from each other, and are sorted in two passes (Knuth 1998, 5.2.5), so that equal ones
    stay as they are. So does all where every visible square is `added`, and there are no others: order says nothing.
    `order`, `keys` and `between` (64 bits) are memory for one whole number more than N + M each.
    """
    quads, plain = len(nearness), len(others) == 0
    low, high = np.zeros(DIGITS + 1, np.uint32), np.zeros(DIGITS + 1, np.uint32)
    # Counted without signs, so that no row is looked for from behind.
    count = np.uint64(0)
    for part in range(2):
        far = nearness if part == 0 else others
        bits = far.view(np.uint32)
        for row in range(np.uint64(len(far))):
            rank = np.int32(bits[row] >> FINE) - FARTHEST
            key = np.uint64(min(max(rank, MINIMUM), MAXIMUM))
            order[count], keys[count] = row + np.uint64(part * quads), key
            if far[row] > ZERO:
                low[(key & DIGIT) + ONE] += ONE32
                high[(key >> HALF) + ONE] += ONE32
                plain = plain and blends[row] == added
                count += ONE
    if plain:
        return count
    for position in range(np.uint64(DIGITS)):
        low[position + ONE] += low[position]
        high[position + ONE] += high[position]
    for position in range(count):
        lower, upper = np.uint64(keys[position]) & DIGIT, np.int64(keys[position]) >> 8
        # The rest of a key goes along: looking it up again would be slower than the sorting.
        between[np.uint64(low[lower])] = upper << 32 | np.int64(order[position])
        low[lower] += ONE32
    for position in range(count):
        digit = np.uint64(between[position] >> 32)
        order[np.uint64(high[digit])] = np.int32(between[position] & LOWER_HALF)
        high[digit] += ONE32
    return count
