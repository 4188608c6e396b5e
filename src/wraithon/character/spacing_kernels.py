"""Kernels that thin out candidates until what is left is evenly spaced."""

from __future__ import annotations

from wraithon.numeric.compiled import inlined, kernel


@inlined
def pair_weight(distance, reach):  # type: ignore[no-untyped-def]
    """Return how much a neighbour at a distance speaks against a candidate (Yuksel 2015, equation 3)."""
    share = 1.0 - min(distance, reach) / reach
    share = share * share
    share = share * share
    return share * share


@kernel
def neighbour_lists(pairs, distances, reach, starts, others, lengths, weights, totals):  # type: ignore[no-untyped-def]
    """Turn pairs (P, 2) into lists: `starts` (N + 1,), `others`, `lengths`, `weights` (2 P,), and the sums (N,)."""
    starts[:] = 0
    totals[:] = 0.0
    for p in range(len(pairs)):
        starts[pairs[p, 0] + 1] += 1
        starts[pairs[p, 1] + 1] += 1
    for i in range(len(starts) - 1):
        starts[i + 1] += starts[i]
    position = starts[:-1].copy()
    for p in range(len(pairs)):
        weight = pair_weight(distances[p], reach)
        i, j = pairs[p, 0], pairs[p, 1]
        others[position[i]], others[position[j]] = j, i
        lengths[position[i]], lengths[position[j]] = distances[p], distances[p]
        weights[position[i]], weights[position[j]] = weight, weight
        position[i] += 1
        position[j] += 1
        totals[i] += weight
        totals[j] += weight


@inlined
def _above(totals, i, j):  # type: ignore[no-untyped-def]
    """Tell whether candidate i goes before j: the heavier, and of equals the later one."""
    return totals[i] > totals[j] or (totals[i] == totals[j] and i > j)


@inlined
def _sink(heap, positions, totals, at, count):  # type: ignore[no-untyped-def]
    """Let the entry `at` sink to where it belongs."""
    while True:
        best = at
        left = 2 * at + 1
        if left < count and _above(totals, heap[left], heap[best]):
            best = left
        if left + 1 < count and _above(totals, heap[left + 1], heap[best]):
            best = left + 1
        if best == at:
            break
        heap[at], heap[best] = heap[best], heap[at]
        positions[heap[at]], positions[heap[best]] = at, best
        at = best


@kernel
def build_heap(totals, heap, positions):  # type: ignore[no-untyped-def]
    """Make `heap` (N,) a heap with the heaviest candidate on top; `positions` (N,) say where each stands in it."""
    count = len(heap)
    for i in range(count):
        heap[i], positions[i] = i, i
    for at in range(count // 2 - 1, -1, -1):
        _sink(heap, positions, totals, at, count)


@kernel
def eliminate(heap, positions, totals, starts, others, weights, count, wanted, out):  # type: ignore[no-untyped-def]
    """Take the heaviest of `count` candidates away until `wanted` are left; write those that went, in order."""
    gone = 0
    while count > wanted:
        top = heap[0]
        out[gone] = top
        gone += 1
        count -= 1
        heap[0] = heap[count]
        positions[heap[0]], positions[top] = 0, -1
        _sink(heap, positions, totals, 0, count)
        for k in range(starts[top], starts[top + 1]):
            other = others[k]
            at = positions[other]
            if at < 0:
                continue
            # A neighbour gone makes it lighter.
            totals[other] = max(totals[other] - weights[k], 0.0)
            _sink(heap, positions, totals, at, count)
    return count


@inlined
def _nearest_chosen(starts, others, lengths, chosen, i, reach):  # type: ignore[no-untyped-def]
    """Return how far a candidate is from the nearest other one that is kept, `reach` at most."""
    minimum = reach
    for k in range(starts[i], starts[i + 1]):
        if chosen[others[k]] and lengths[k] < minimum:
            minimum = lengths[k]
    return minimum


@kernel
def gaps(starts, others, lengths, chosen, reach, away):  # type: ignore[no-untyped-def]
    """Write how far each candidate is from the nearest other one that is kept, `reach` at most, into `away` (N,)."""
    for i in range(len(chosen)):
        away[i] = _nearest_chosen(starts, others, lengths, chosen, i, reach)


@kernel
def spread_out(starts, others, lengths, chosen, away, order, reach, goal):  # type: ignore[no-untyped-def]
    """Move kept candidates that stand nearer than `goal` to another into wide gaps; return how many moved.

    Farthest-point optimisation (Schlömer, Heck and Deussen 2011) among the candidates. `kept` (N,) says
    which are kept, `away` (N,) is what `gaps` wrote, `order` (N,) lists candidates from the widest gap.
    """
    moved, turn = 0, 0
    was = away.copy()
    for i in range(len(chosen)):
        if not chosen[i]:
            continue
        here = _nearest_chosen(starts, others, lengths, chosen, i, reach)
        if here >= goal:
            continue
        # Nearby first: going itself opens a gap.
        chosen[i] = False
        best, widest = i, here
        for k in range(starts[i], starts[i + 1]):
            j = others[k]
            if not chosen[j]:
                gap = _nearest_chosen(starts, others, lengths, chosen, j, reach)
                if gap > widest:
                    best, widest = j, gap
        # A gap that got narrower since the round began waits for the next one.
        while turn < len(order) and (chosen[order[turn]] or away[order[turn]] < was[order[turn]]):
            turn += 1
        if turn < len(order) and away[order[turn]] > widest:
            best = order[turn]
        chosen[best] = True
        if best == i:
            continue
        for k in range(starts[best], starts[best + 1]):
            away[others[k]] = min(away[others[k]], lengths[k])
        moved += 1
    return moved
