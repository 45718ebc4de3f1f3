"""Readings into figures: held against sequences made by hand, and against simulated counters."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from blunt_ruler.core.recordings.passes import figures_of, overlapping, pass_of, samples_of
from blunt_ruler.core.recordings.pictures import Counted
from blunt_ruler.core.recordings.quantities import (
    BadBox,
    Box,
    Quantity,
    figure_in,
    parse_box,
    quantity_of,
)
from blunt_ruler.core.recordings.second_look import WHY, Doubt, stood_out, to_look_at_closely
from blunt_ruler.core.recordings.series import (
    BRIEFLY,
    LEAPS,
    SLIP_AT,
    Held,
    Look,
    Series,
    average_of,
    renewal_s,
    series_of,
)

EVERY = 0.125


def looks(*texts, score=1.0, every=EVERY):
    return [Look(at * every, text, score) for at, text in enumerate(texts)]


def held(*texts, **more):
    return series_of(looks(*texts, **more), Quantity.FPS, more.get("every", EVERY)).held


@pytest.mark.parametrize(
    ("text", "quantity", "value"),
    [
        ("87", Quantity.FPS, 87.0),
        ("FPS 87", Quantity.FPS, 87.0),
        ("119,8 fps", Quantity.FPS, 119.8),
        ("1% LOW 61", Quantity.LOW_1, 61.0),
        ("98 %", Quantity.LOAD, 98.0),
        ("145W", Quantity.CARD_W, 145.0),
        ("7342 MB", Quantity.MEMORY, 7342 / 1024),
        ("61°C", Quantity.TEMPERATURE, 61.0),
        ("", Quantity.FPS, None),
        ("FPS", Quantity.FPS, None),
        ("87 91 W", Quantity.LOAD, None),
        ("30000", Quantity.FPS, None),
        ("104", Quantity.LOAD, None),
    ],
)
def test_a_text_is_a_figure_or_none(text, quantity, value):
    assert figure_in(text, quantity) == (None if value is None else pytest.approx(value))


@pytest.mark.parametrize(
    ("label", "quantity"),
    [
        ("FPS", Quantity.FPS),
        ("1% LOW", Quantity.LOW_1),
        ("CARD 8 W", Quantity.CARD_W),
        ("WALL 8 W", Quantity.WALL_W),
        ("LOAD", Quantity.LOAD),
        ("8 %", Quantity.LOAD),
        ("VRAM 8 GB", Quantity.MEMORY),
        ("CLOCK 8 MHz", Quantity.CLOCK),
        ("8 °C", Quantity.TEMPERATURE),
        ("CPU 8 %", Quantity.IGNORE),
        ("hello", None),
    ],
)
def test_labels_and_units_tell_what_is_counted(label, quantity):
    assert quantity_of(label) is quantity


def test_a_box_is_read_as_it_is_written():
    assert parse_box("10,20,80,24:card_w") == Box(10, 20, 80, 24, Quantity.CARD_W)
    for wrong in ("10,20,80:fps", "10,20,80,24", "10,20,80,24:speed", "0,0,2,2:fps", "a,b,c,d:fps"):
        with pytest.raises(BadBox):
            parse_box(wrong)
    with pytest.raises(BadBox, match="does not lie in the picture"):
        Box(600, 0, 80, 20, Quantity.FPS).checked(640, 360)


def test_equal_looks_are_one_figure():
    assert [(one.value, one.looks) for one in held(*["60"] * 8, *["61"] * 8)] == [(60, 8), (61, 8)]


@pytest.mark.parametrize("slip", ["8", "50", "600", "6O"])
def test_a_slip_in_one_picture_does_not_get_in(slip):
    found = held(*["60"] * 4, slip, *["60"] * 4, *["62"] * 8)
    assert {one.value for one in found if one.is_sure} == {60, 62}


def test_what_is_seen_otherwise_each_time_is_asked_about():
    found = held(*["60"] * 8, "63", "68", "63", "68", *["60"] * 8, *["61"] * 8)
    middle = [one for one in found if 0.9 < one.from_s < 1.45 and one.value is not None]
    assert middle and all(one.doubt for one in middle)


def test_what_was_never_clear_is_asked_about():
    series = series_of(looks(*["60"] * 8, score=0.6), Quantity.FPS, EVERY)
    assert series.asked and not series.sure


def test_a_lost_digit_is_asked_about():
    texts = ["117"] * 4 + ["118"] * 4 + ["17"] * 4 + ["116"] * 4 + ["118"] * 4
    lost = next(one for one in held(*texts) if one.value == 17)
    assert lost.doubt == "digits cannot follow each other so"


def test_a_real_drop_is_believed():
    found = held(*["118"] * 8, *["64"] * 8, *["117"] * 8)
    assert [one.value for one in found if one.is_sure] == [118, 64, 117]


def test_a_lost_point_is_no_figure():
    found = held(*["119.8"] * 6, "1198", "1198", *["120.4"] * 8)
    assert max(one.value for one in found if one.is_sure) == pytest.approx(120.4)


def test_a_counter_that_is_gone_for_a_while_has_no_figure_then():
    found = held(*["60"] * 8, *[""] * 16, *["61"] * 8)
    assert [one.value for one in found] == [60, None, 61]
    average = average_of(series_of(looks(*["60"] * 8, *[""] * 16, *["61"] * 8),
                                   Quantity.FPS, EVERY))  # fmt: skip
    assert average.average == pytest.approx(60.5) and average.read_share == pytest.approx(0.5)


def test_answers_settle_doubts_and_none_leaves_out():
    series = series_of(looks(*["60"] * 8, score=0.6), Quantity.FPS, EVERY)
    first = series.asked[0].from_s
    assert series.with_answers({first: 61.0}).sure[0].value == 61.0
    left = series.with_answers({first: None})
    assert not left.asked and not left.sure


def counter(rng, rate=80.0, renews=0.5, seconds=30.0, spread=0.04):
    """Texts of looks at a counter that averages its last interval, and what it showed."""
    shown = np.round(rate * np.exp(np.cumsum(rng.normal(0, spread / 2, int(seconds / renews) + 1))))
    at = np.arange(0.0, seconds, EVERY)
    figures = shown[(at / renews).astype(int)]
    return [f"{one:.0f}" for one in figures], figures


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.25, 0.5, 0.8, 1.0]))
def test_the_mean_of_what_a_counter_showed_is_found(seed, renews):
    texts, figures = counter(np.random.default_rng(seed), renews=renews)
    average = average_of(series_of(looks(*texts), Quantity.FPS, EVERY))
    assert average.average == pytest.approx(figures.mean(), rel=1e-9)
    assert average.low_95 <= figures.mean() <= average.high_95
    assert (average.minimum, average.maximum) == (figures.min(), figures.max())


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_slips_do_not_get_in(seed):
    rng = np.random.default_rng(seed)
    texts, figures = counter(rng, renews=0.75)
    told = []
    for text in texts:
        wrong = rng.random() < 0.03
        spoiled = str(rng.integers(0, 10)) + text[1:] if wrong else text
        told.append(Look(len(told) * EVERY, spoiled, float(rng.uniform(0.3, 0.99) if wrong else 1)))
    series = series_of(told, Quantity.FPS, EVERY)
    for one in series.sure:
        first, last = round(one.from_s / EVERY), round(one.to_s / EVERY)
        assert one.value in figures[first : last + 1]
    assert average_of(series).average == pytest.approx(figures.mean(), rel=0.005)


def test_how_often_it_renews_is_found():
    texts, _ = counter(np.random.default_rng(1), renews=0.5)
    assert renewal_s(series_of(looks(*texts), Quantity.FPS, EVERY)) == pytest.approx(0.5, abs=0.13)


def test_a_pass_is_cut_out_of_a_series():
    series = series_of(looks(*["60"] * 16, *["70"] * 16), Quantity.FPS, EVERY)
    figures = figures_of(pass_of([series], None, 2.0, 4.0))
    assert figures.average.average == pytest.approx(70.0)


@pytest.mark.parametrize(
    ("spans", "both"),
    [
        ([(0.0, 10.0)], None),
        ([(0.0, 10.0), (10.0, 20.0)], None),
        ([(10.0, 20.0), (0.0, 10.02)], None),
        ([(0.0, 10.0), (9.0, 20.0)], (0, 1)),
        ([(30.0, 40.0), (0.0, 10.0), (5.0, 6.0)], (1, 2)),
    ],
)
def test_passes_that_share_a_stretch_are_named(spans, both):
    assert overlapping(spans) == both


def test_the_gauges_of_a_pass_are_those_of_its_counters():
    shown = [
        series_of(looks(*[text] * 16), quantity, EVERY)
        for text, quantity in (
            ("60", Quantity.FPS),
            ("80", Quantity.LOAD),
            ("90", Quantity.LOAD),
            ("145", Quantity.CARD_W),
        )
    ]
    samples = samples_of(pass_of(shown, None, 0.0, 2.0))
    told = {name: set(values.tolist()) for name, values in samples.channels.items()}
    assert list(told.values()) == [{80.0}, {145.0}]  # of two the first; a rate is no gauge


def test_counted_pictures_tell_their_slowest_and_quickest_frame():
    starts = np.cumsum([0.0, 0.02, 0.05, 0.02, 0.01, *[0.02] * 60])
    average = figures_of(pass_of((), Counted(starts, 10.0, ()), 0.0, 2.0)).average
    assert (average.minimum, average.maximum) == (pytest.approx(20.0), pytest.approx(100.0))


def test_a_counter_that_stands_still_has_an_average():
    average = average_of(series_of(looks(*["60"] * 80), Quantity.FPS, EVERY))
    assert average.average == 60.0 and average.low_95 < 60.0 < average.high_95


def test_nothing_read_has_no_average():
    assert average_of(series_of(looks(*[""] * 80), Quantity.FPS, EVERY)) is None


def doubtful(why="not clear in any picture", value=87.0):
    return Doubt(Held(1.0, 1.5, value, 2, 4, why), (86.0, 88.0))


@pytest.mark.parametrize(
    ("reads", "mean", "score", "told"),
    [
        ([87.0] * 8, 87.0, 0.99, True),
        ([87.0] * 8, 87.0, 0.97, False),  # what moves behind it is gone, and it is not clear
        ([87.0] * 8, 37.0, 0.999, False),
        ([87.0] * 8, None, 0.0, False),
        ([87.0] * 2, 87.0, 0.99, False),  # too few pictures
        ([87.0] * 5 + [81.0] * 3, 87.0, 0.99, False),
        ([86.0, *[87.0] * 4, 88.0, 88.0], 87.0, 0.99, True),  # the figures beside it, at the ends
        ([87.0, 87.0, 88.0, 87.0, 87.0], 87.0, 0.99, False),  # and in its midst
        ([*[87.0] * 10, 81.0, None], 87.0, 0.99, True),  # a slip
        ([], 87.0, 1.0, False),
    ],
)
def test_every_picture_in_which_a_figure_stood_dispels_a_doubt(reads, mean, score, told):
    assert stood_out(doubtful(), reads, mean, score) is told


def test_digits_that_look_otherwise_need_a_clearer_mean():
    assert not stood_out(doubtful(WHY), [87.0] * 8, 87.0, 0.99)
    assert stood_out(doubtful(WHY), [87.0] * 8, 87.0, 0.999)


def test_only_what_pictures_can_tell_is_looked_at_closely():
    sure = [Held(at, at + 1.0, 80.0 + at, 8, 8) for at in range(20)]
    short = Held(20.0, 20.5, 87.0, 2, 4, "not clear in any picture")
    leap, long = (Held(21.0, 21.5, 8.0, 2, 4, LEAPS), Held(22.0, 40.0, 91.0, 2, 4, "seen"))
    series = Series(Quantity.FPS, (*sure, short, leap, long), EVERY)
    assert to_look_at_closely(series) == [Doubt(short, (99.0, 8.0))]
    long_lived = [Held(30.0 + at, 31.0 + at, 80.0, 8, 8) for at in range(1000)]
    doubts = [replace(short, from_s=2000.0 + at, to_s=2000.5 + at) for at in range(90)]
    longer = Series(Quantity.FPS, (*long_lived, *doubts), EVERY)
    assert len(to_look_at_closely(longer)) == 90  # a tenth of a long recording
    assert to_look_at_closely(replace(longer, held=longer.held[500:])) == []
    hard = Series(Quantity.FPS, (short,) * 3, EVERY)
    assert to_look_at_closely(hard) == []


def test_the_chance_of_a_slip_is_a_chance_and_falls_with_the_score():
    scores, chances = zip(*SLIP_AT, strict=True)
    assert list(scores) == sorted(scores) and (scores[0], scores[-1]) == (0.0, 1.0)
    assert all(0.0 < one < 1.0 for one in chances)
    assert list(chances) == sorted(chances, reverse=True)


@pytest.mark.parametrize(
    ("x", "y", "lies"),
    [
        (0, 0, True),
        (70, 40, True),
        (71, 40, False),
        (70, 41, False),
        (-1, 0, False),
        (100, 0, False),
    ],
)
def test_a_box_lies_in_the_picture_to_its_last_pixel(x, y, lies):
    box = Box(x, y, 30, 20, Quantity.FPS)
    if lies:
        assert box.checked(100, 60) is box
    else:
        with pytest.raises(BadBox, match="100 × 60"):
            box.checked(100, 60)


def test_a_part_has_what_stood_in_it_and_nothing_that_only_touches():
    held = tuple(Held(at, at + 0.5, 60.0 + at, 4, 4) for at in (0.0, 0.5, 1.0, 1.5))
    part = Series(Quantity.FPS, held, EVERY).between(0.5, 1.2)
    assert [(one.from_s, one.to_s) for one in part.held] == [(0.5, 1.0), (1.0, 1.2)]


@pytest.mark.parametrize(
    ("before", "brief", "after", "closely"),
    [
        (255.0, 252.0, 262.0, False),  # as it was seen: its last digit was written first
        (255.0, 258.0, 262.0, True),
        (99.0, 92.0, 102.0, True),
        (99.0, 99.5, 98.5, True),
    ],
)
def test_a_figure_that_is_but_half_changed_is_asked_about(before, brief, after, closely):
    held = [Held(at, at + 0.5, before if at < 5 else after, 4, 4) for at in np.arange(0, 10, 0.5)]
    held[10:10] = [Held(5.0, 5.1, brief, 1, 1, BRIEFLY)]
    assert bool(to_look_at_closely(Series(Quantity.CARD_W, tuple(held), 0.125))) is closely
