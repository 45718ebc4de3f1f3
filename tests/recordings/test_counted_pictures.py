"""Counted pictures: frame times that are known, sampled as a recorder samples them."""

import numpy as np
import pytest

from blunt_ruler.core.recordings.cuts import stretches
from blunt_ruler.core.recordings.pictures import CannotCount, count_pictures, is_new

PERIOD = 1 / 60


def sampled(rate_fps, spread=0.05, seconds=20.0, seed=1, freeze=None):
    """Moments of pictures, differences by band, whether each is new, and the true rate."""
    rng = np.random.default_rng(seed)
    times = np.exp(rng.normal(0, spread, int(rate_fps * seconds * 1.5))) / rate_fps
    if freeze is not None:
        times[int(rate_fps * seconds / 2)] = freeze
    ends = np.cumsum(times)
    at = np.arange(0.0, seconds, PERIOD)
    frame = np.searchsorted(ends, at, side="right")
    new = np.concatenate([[True], np.diff(frame) > 0])
    bands = np.where(
        new[:, None], rng.uniform(3, 9, (at.size, 12)), rng.uniform(0, 0.4, (at.size, 12))
    )
    bands[0] = np.nan
    return at, bands, new, float(np.searchsorted(ends, seconds) / seconds)


@pytest.mark.parametrize("rate", [12, 22, 30, 38, 45])
def test_new_pictures_are_told_from_repeats_and_counted(rate):
    at, bands, new, true = sampled(rate)
    assert np.array_equal(is_new(at, bands), new)
    assert count_pictures(at, bands, 60.0).average_fps == pytest.approx(true, rel=0.01)


@pytest.mark.parametrize(("rate", "spread"), [(58, 0.1), (62, 0.05), (90, 0.1), (144, 0.05)])
def test_what_is_as_fast_as_the_recording_is_refused(rate, spread):
    with pytest.raises(CannotCount, match="as fast as the recording"):
        count_pictures(*sampled(rate, spread)[:2], 60.0)


def test_an_uneven_pace_near_the_recordings_rate_is_refused():
    """At 50 of 60 fps with frame times that spread by 20 %, 2 % of the frames are never seen."""
    with pytest.raises(CannotCount, match="too uneven"):
        count_pictures(*sampled(50, 0.2)[:2], 60.0)


@pytest.mark.parametrize("seed", range(6))
def test_no_count_is_off_by_more_than_one_percent(seed):
    rng = np.random.default_rng(seed)
    for _ in range(12):
        rate, spread = float(np.exp(rng.uniform(2.9, 4.4))), float(rng.choice([0.02, 0.1, 0.2]))
        at, bands, _, true = sampled(rate, spread, seed=int(rng.integers(1e6)))
        try:
            counted = count_pictures(at, bands, 60.0)
        except CannotCount:
            continue
        assert counted.average_fps == pytest.approx(true, rel=0.01)


def test_a_freeze_is_found_to_one_period():
    counted = count_pictures(*sampled(40, freeze=0.35)[:2], 60.0)
    assert len(counted.freezes) == 1
    assert counted.freezes[0].ms == pytest.approx(350, abs=34)


def test_a_still_picture_has_nothing_to_count():
    at = np.arange(0.0, 10.0, PERIOD)
    with pytest.raises(CannotCount, match="Choose a stretch"):
        count_pictures(at, np.full((at.size, 12), 0.1), 60.0)


def test_torn_pictures_are_named():
    at, bands, new, _ = sampled(30, seconds=30.0)
    rng = np.random.default_rng(2)
    for place in np.flatnonzero(new)[1:]:
        bands[place, int(rng.integers(3, 9)) :] = 0.1
    assert any("torn" in note for note in count_pictures(at, bands, 60.0).notes)


def test_pictures_that_differ_less_in_turn_may_be_generated():
    at, bands, new, _ = sampled(30, spread=0.01, seconds=30.0)
    bands[np.flatnonzero(new)[1::2]] *= 0.3
    assert any("generated" in note for note in count_pictures(at, bands, 60.0).notes)


def test_menu_dark_screen_and_pass_are_told_apart():
    rng = np.random.default_rng(1)
    parts = [("menu", 3.0), ("dark", 2.0), ("ride", 10.0), ("dark", 2.0), ("ride", 10.0)]
    bands, thumbs = [], []
    ride = rng.integers(40, 220, (18, 32)).astype(np.uint8)
    for what, seconds in parts:
        for number in range(int(seconds * 30)):
            moving = what == "ride" and number
            bands.append(np.full(12, 6.0 if moving else 40.0 if number == 0 else 0.1))
            still = np.full((18, 32), 3) if what == "dark" else np.tile(np.arange(32) * 7, (18, 1))
            thumbs.append(np.roll(ride, number // 3, axis=1) if what == "ride" else still)
    at = np.arange(len(bands)) / 30
    found = stretches(at, np.array(bands), np.array(thumbs, dtype=np.uint8), float(at[-1] + 1 / 30))
    assert [(one.what, round(one.to_s - one.from_s)) for one in found] == [
        ("still picture", 3), ("dark screen", 2), ("pass", 10), ("dark screen", 2), ("pass", 10)
    ]  # fmt: skip
    assert [one.like for one in found if one.what == "pass"] == [None, 1]
