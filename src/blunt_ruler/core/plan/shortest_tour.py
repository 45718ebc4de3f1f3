"""The shortest order of rigs: exact up to twelve, beyond that good and with its gap stated."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from blunt_ruler.core.types import FloatArray, IntArray

EXACT_UP_TO = 12
STEPS = 1200  # places times starts that are tried; the time goes with their square
FEWEST_STARTS = 3
ASCENTS, PATIENCE = 600, 15
PLACES_ASCENTS = 60_000  # places times ascents of the bound


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


def _two_opt(matrix: FloatArray, entry: FloatArray, leave: FloatArray) -> tuple[list[int], float]:
    """Nearest neighbour from some starts, then turning stretches round while that helps."""
    n = len(entry)
    starts = np.linspace(0, n - 1, max(FEWEST_STARTS, min(n, STEPS // n))).astype(int)
    found = (_turned(_nearest(matrix, int(start)), matrix, entry, leave) for start in starts)
    order, cost = min(found, key=lambda one: one[1])
    return [int(place) for place in order], cost


def _nearest(matrix: FloatArray, start: int) -> IntArray:
    """From a place always to the nearest that is left."""
    left = np.ones(len(matrix), dtype=bool)
    order = [start]
    left[start] = False
    while left.any():
        order.append(int(np.argmin(np.where(left, matrix[order[-1]], np.inf))))
        left[order[-1]] = False
    return np.array(order)


def _turned(
    order: IntArray, matrix: FloatArray, entry: FloatArray, leave: FloatArray
) -> tuple[IntArray, float]:
    """(an order in which no stretch is better the other way round, its cost).

    What turning the stretch from i to j changes are its two ends, and all steps inside where one
    way costs more than the other: sums over the steps so far say that for all j at once.
    """
    n = len(order)
    improved = True
    while improved:
        improved = False
        for i in range(n - 1):
            steps = np.append(0.0, np.cumsum(matrix[order[:-1], order[1:]]))
            back = np.append(0.0, np.cumsum(matrix[order[1:], order[:-1]]))
            ends, after = order[i + 1 :], order[i + 2 :]
            inside = (back[i + 1 :] - back[i]) - (steps[i + 1 :] - steps[i])
            into = matrix[order[i - 1]] if i else entry
            goes_on = np.append(matrix[order[i], after], leave[order[i]])
            went_on = np.append(matrix[ends[:-1], after], leave[order[-1]])
            change = into[ends] - into[order[i]] + inside + goes_on - went_on
            best = int(np.argmin(change))
            if change[best] < -1e-9:
                order[i : i + best + 2] = order[i : i + best + 2][::-1].copy()
                improved = True
    cost = entry[order[0]] + matrix[order[:-1], order[1:]].sum() + leave[order[-1]]
    return order, float(cost)


def _lower_bound(matrix: FloatArray, entry: FloatArray, leave: FloatArray, found: float) -> float:
    """No path is cheaper: the best of spanning trees with one way in and one way out, each place
    priced so that it is met twice (Held and Karp's 1-tree bound; subgradient ascent toward the
    path that was found, Polyak's step halved where it stalls).
    """
    both = np.minimum(matrix, matrix.T)
    prices = np.zeros(len(entry))
    best = -np.inf
    step, stalled = 1.0, 0
    for _ in range(min(ASCENTS, PLACES_ASCENTS // len(entry))):
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
