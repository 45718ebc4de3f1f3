"""The shortest order of rigs: exact up to twelve, beyond that good and with its gap stated."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from blunt_ruler.core.types import FloatArray

EXACT_UP_TO = 12
ASCENTS, PATIENCE = 600, 15


@dataclass(frozen=True, slots=True)
class Tour:
    """An order of places, what its changes cost, and how far from the best it may be.

    `gap` is the most by which the best could be cheaper, as a share; 0 where it is exact.
    """

    order: tuple[str, ...]
    cost: float
    exact: bool
    gap: float


def cheapest_path(
    places: Sequence[str],
    cost: Callable[[str, str], float],
    first: Sequence[str] = (),
    back_to: str | None = None,
) -> Tour:
    """Visit every place once at the least cost of changes.

    Args:
        places: what is to be visited.
        cost: minutes from one place to another.
        first: places that come first, in this order.
        back_to: where to return to at the end, for a control run.
    """
    places = list(dict.fromkeys(places))
    locked = [place for place in first if place in places]
    free = [place for place in places if place not in locked]
    head = sum(cost(a, b) for a, b in pairwise(locked))
    entry = [cost(locked[-1], place) if locked else 0.0 for place in free]
    leave = [cost(place, back_to) if back_to else 0.0 for place in free]
    matrix = np.array([[cost(a, b) if a != b else 0.0 for b in free] for a in free])
    if not free:
        tail = cost(locked[-1], back_to) if locked and back_to else 0.0
        return Tour(tuple(locked), head + tail, True, 0.0)
    if len(free) <= EXACT_UP_TO:
        order, total = _held_karp(matrix, np.array(entry), np.array(leave))
        return Tour((*locked, *(free[i] for i in order)), head + total, True, 0.0)
    order, total = _two_opt(matrix, np.array(entry), np.array(leave))
    bound = _lower_bound(matrix, np.array(entry), np.array(leave), total)
    gap = 0.0 if total <= 0 else max(total - bound, 0.0) / total
    return Tour((*locked, *(free[i] for i in order)), head + total, False, gap)


def _held_karp(matrix: FloatArray, entry: FloatArray, leave: FloatArray) -> tuple[list[int], float]:
    """Dynamic programme over subsets (Held and Karp 1962): best cost to be at `last`, having
    visited `subset`."""
    n = len(entry)
    best = np.full((1 << n, n), np.inf)
    came = np.full((1 << n, n), -1)
    for place in range(n):
        best[1 << place, place] = entry[place]
    for subset in range(1, 1 << n):
        lasts = [i for i in range(n) if subset >> i & 1 and np.isfinite(best[subset, i])]
        outside = [i for i in range(n) if not subset >> i & 1]
        if not lasts or not outside:
            continue
        through = best[subset, lasts][:, None] + matrix[np.ix_(lasts, outside)]
        choice = through.argmin(axis=0)
        for column, place in enumerate(outside):
            bigger = subset | 1 << place
            value = through[choice[column], column]
            if value < best[bigger, place]:
                best[bigger, place] = value
                came[bigger, place] = lasts[choice[column]]
    subset = (1 << n) - 1
    last = int((best[subset] + leave).argmin())
    total = float(best[subset, last] + leave[last])
    order = []
    while last >= 0:
        order.append(last)
        subset, last = subset ^ 1 << last, int(came[subset, last])
    return order[::-1], total


def _path_cost(
    order: Sequence[int], matrix: FloatArray, entry: FloatArray, leave: FloatArray
) -> float:
    steps = sum(float(matrix[a, b]) for a, b in pairwise(order))
    return float(entry[order[0]]) + steps + float(leave[order[-1]])


def _two_opt(matrix: FloatArray, entry: FloatArray, leave: FloatArray) -> tuple[list[int], float]:
    """Nearest neighbour from every start, then turning stretches round while that helps."""
    n = len(entry)
    best: list[int] = list(range(n))
    best_cost = _path_cost(best, matrix, entry, leave)
    for start in range(n):
        order = [start]
        while len(order) < n:
            rest = [i for i in range(n) if i not in order]
            order.append(min(rest, key=lambda i: float(matrix[order[-1], i])))
        improved = True
        while improved:
            improved = False
            now = _path_cost(order, matrix, entry, leave)
            for i in range(n - 1):
                for j in range(i + 1, n):
                    turned = [*order[:i], *order[i : j + 1][::-1], *order[j + 1 :]]
                    if (value := _path_cost(turned, matrix, entry, leave)) < now - 1e-9:
                        order, now, improved = turned, value, True
        if now < best_cost:
            best, best_cost = order, now
    return best, best_cost


def _lower_bound(matrix: FloatArray, entry: FloatArray, leave: FloatArray, found: float) -> float:
    """No path is cheaper: the best of spanning trees with one way in and one way out, each place
    priced so that it is met twice (Held and Karp's 1-tree bound; subgradient ascent toward the
    path that was found, Polyak's step halved where it stalls).
    """
    both = np.minimum(matrix, matrix.T)
    prices = np.zeros(len(entry))
    best = -np.inf
    step, stalled = 1.0, 0
    for _ in range(ASCENTS):
        priced = both + prices[:, None] + prices[None, :]
        tree, met = _spanning_tree(priced)
        comes, goes = int(np.argmin(entry + prices)), int(np.argmin(leave + prices))
        met[comes] += 1
        met[goes] += 1
        bound = tree + float(entry[comes] + prices[comes] + leave[goes] + prices[goes])
        bound -= 2.0 * float(prices.sum())
        stalled = 0 if bound > best + 1e-9 else stalled + 1
        best = max(best, bound)
        if stalled == PATIENCE:
            step, stalled = step / 2.0, 0
        off = met - 2.0
        if not off.any() or best >= found - 1e-9:
            break
        prices = prices + step * (found - bound) * off / float(off @ off)
    return float(min(best, found))


def _spanning_tree(cost: FloatArray) -> tuple[float, FloatArray]:
    """(cost of the cheapest tree over all places, how often each is met), by Prim."""
    n = len(cost)
    met, inside = np.zeros(n), np.zeros(n, dtype=bool)
    inside[0] = True
    reach, by = cost[0].copy(), np.zeros(n, dtype=int)
    total = 0.0
    for _ in range(n - 1):
        nearest = int(np.argmin(np.where(inside, np.inf, reach)))
        total += float(reach[nearest])
        met[nearest] += 1
        met[by[nearest]] += 1
        inside[nearest] = True
        closer = cost[nearest] < reach
        reach[closer], by[closer] = cost[nearest][closer], nearest
    return total, met
