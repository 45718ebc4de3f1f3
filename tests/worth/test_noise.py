"""Sound levels against the standard formula and numpy's own logarithm of sums."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.worth.noise import (
    at_distance,
    mean_level,
    sum_levels,
    without_background,
)

levels = st.lists(st.floats(0.0, 120.0), min_size=1, max_size=12)


# 10·log₁₀ Σ 10^(L/10), the usual sum of levels; transcribed from memory.
@pytest.mark.parametrize(
    ("parts", "total"),
    [
        ([60, 60], 63.01),
        ([60] * 10, 70.0),
        ([60, 50], 60.41),
        ([60, 40], 60.04),
        ([34.0, 28.0, 31.0], 36.44),
        ([0, 0], 3.01),
    ],
)
def test_levels_add_as_powers(parts, total):
    assert sum_levels(parts) == pytest.approx(total, abs=0.005)


@given(levels)
def test_sums_are_those_of_numpy(parts):
    # numpy.logaddexp.reduce: an independent way to add powers.
    factor = math.log(10.0) / 10.0
    assert sum_levels(parts) == pytest.approx(
        np.logaddexp.reduce(np.array(parts) * factor) / factor, abs=1e-9
    )
    assert max(parts) <= sum_levels(parts) + 1e-9
    assert sum_levels(parts) == pytest.approx(sum_levels(parts[::-1]))


@given(levels)
def test_a_mean_lies_among_its_levels(parts):
    assert min(parts) - 1e-9 <= mean_level(parts) <= max(parts) + 1e-9
    assert mean_level([parts[0]] * 4) == pytest.approx(parts[0])


@given(st.floats(0.0, 120.0), st.floats(0.05, 20.0), st.floats(0.05, 20.0))
def test_twice_as_far_is_six_decibels_less(level, near, far):
    assert at_distance(level, near, 2 * near) == pytest.approx(level - 6.0206, abs=1e-3)
    back = at_distance(at_distance(level, near, far), far, near)
    assert back == pytest.approx(level)


@given(st.floats(20.0, 80.0), st.floats(20.0, 80.0))
def test_the_room_taken_out_and_put_back_is_the_same(rig, room):
    together = sum_levels([rig, room])
    alone = without_background(together, room)
    if together - room < 3.0:
        assert alone is None, "a rig within 3 dB of the room cannot be told from it"
    else:
        assert alone == pytest.approx(rig, abs=1e-6)


def test_without_a_reading_of_the_room_nothing_is_taken_out():
    assert without_background(40.0, None) == 40.0
    assert without_background(50.0, 40.0) == pytest.approx(49.54, abs=0.005)


@pytest.mark.parametrize("parts", [[], [math.nan], [math.inf, 30.0]])
def test_what_is_no_level_cannot_be_added(parts):
    with pytest.raises(BadFigure, match="no level"):
        sum_levels(parts)


@pytest.mark.parametrize(("near", "far"), [(0.0, 1.0), (1.0, 0.0), (-1.0, 1.0)])
def test_a_distance_has_to_be_above_zero(near, far):
    with pytest.raises(BadFigure, match="above 0"):
        at_distance(40.0, near, far)
