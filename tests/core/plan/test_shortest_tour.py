"""Orders of many rigs: whole, at the cost that is said, and near the best."""

from itertools import pairwise

import numpy as np
import pytest

from blunt_ruler.core.plan.shortest_tour import _held_karp, _two_opt, cheapest_path


def random_costs(rng, places, kind):
    match kind:
        case "a plane":
            points = rng.random((places, 2))
            costs = np.abs(points[:, None] - points[None]).sum(axis=2) * 30.0
        case "few sizes":
            costs = rng.integers(0, 4, (places, places)) * 5.0
            costs = costs + costs.T
        case _:
            costs = rng.random((places, places)) * 20.0
    np.fill_diagonal(costs, 0.0)
    return costs, rng.random(places) * 5.0, rng.random(places) * 5.0


@pytest.mark.parametrize("kind", ["a plane", "few sizes", "another cost each way"])
def test_ten_places_are_within_a_few_percent_of_the_best(kind):
    rng = np.random.default_rng(5)
    apart = []
    for _ in range(8):
        costs, entry, leave = random_costs(rng, 10, kind)
        order, found = _two_opt(costs, entry, leave)
        assert sorted(order) == list(range(10))
        walked = entry[order[0]] + sum(costs[a, b] for a, b in pairwise(order)) + leave[order[-1]]
        assert found == pytest.approx(walked)
        _, best = _held_karp(costs, entry, leave)
        assert found >= best - 1e-9
        apart.append(found / best - 1.0)
    assert np.mean(apart) < (
        0.3 if kind == "another cost each way" else 0.05
    )  # swaps cost the same back


def test_hundreds_of_places_come_with_their_gap():
    rng = np.random.default_rng(2)
    costs, _, _ = random_costs(rng, 300, "a plane")
    tour = cheapest_path(range(300), lambda a, b: float(costs[a, b]))
    assert sorted(tour.order) == list(range(300))
    assert tour.cost == pytest.approx(sum(costs[a, b] for a, b in pairwise(tour.order)))
    assert not tour.exact
    assert 0.0 < tour.gap < 0.12
    assert tour.cost < 0.1 * sum(costs[a, b] for a, b in pairwise(range(300)))
