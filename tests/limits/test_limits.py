"""What is asked of the fit: slopes, splits, what-if, ceilings, next tests, and bad data."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import approx_fprime

from blunt_ruler.core.claims.causes import is_divided, limits_line
from blunt_ruler.core.compare.results import How, RigMean
from blunt_ruler.core.limits.cells import Cell, Measured, TooLittle
from blunt_ruler.core.limits.fit import fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, leave_out
from blunt_ruler.core.limits.model import jacobian, link_slope, log_rate, times_of
from blunt_ruler.core.limits.next_measurement import Question, next_tests, question_slope
from blunt_ruler.core.limits.split import PARTS, over_review, split_losses
from blunt_ruler.core.limits.whatif import MORE_CARD, PAYS, Change, ceiling, narrowest_link, what_if
from blunt_ruler.core.limits.words import part_span, told_shares
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.means import mean_ratio
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import MINUS, adding_up, percent_text

REFERENCE, RIG = "tower middle f", "mobile middle b"


@pytest.fixture(scope="module")
def fit(lab):
    return fit_limits(lab.measured())


def cell_of(fit, rig, case):
    return next(cell for cell in fit.measured.cells if (cell.rig, cell.case) == (rig, case))


def test_slopes_are_those_of_finite_differences(fit):
    rng = np.random.default_rng(1)
    x = fit.layout.prior.mean + rng.normal(0, 0.2, fit.layout.size)
    ours = jacobian(x, fit.places)
    rows = [0, 40, 100, 179]
    theirs = approx_fprime(x, lambda y: log_rate(y, fit.places)[rows], 1e-7)
    assert ours[rows] == pytest.approx(theirs, abs=2e-5)


def test_shares_sum_to_one_and_answer_to_the_parts(fit):
    shares = fit.times.limits
    assert shares.sum(axis=0) == pytest.approx(np.ones(shares.shape[1]))
    at = fit.layout.card("large")
    rows = [i for i, cell in enumerate(fit.measured.cells) if cell.card == "large"]
    slopes = jacobian(fit.x, fit.places)[rows, at]
    assert slopes == pytest.approx(shares[0, rows], abs=1e-9)  # d log rate / d log card speed


def test_parts_of_a_loss_and_the_unexplained_sum_to_it(fit):
    splits = split_losses(fit, REFERENCE)
    assert len(splits) == 9 * 18
    for one in splits:
        total = sum(part.fps for part in one.parts.values()) + one.unexplained_fps
        assert total == pytest.approx(one.lost_fps, abs=1e-6)
        for part in one.parts.values():
            assert part.low_fps <= part.fps <= part.high_fps


@pytest.mark.parametrize("school", MeanSchool)
def test_the_split_of_a_mean_is_a_split_of_that_mean(fit, school):
    splits = [one for one in split_losses(fit, REFERENCE) if one.rig == "mobile middle b"]
    cases = tuple(one.case for one in splits[:7])
    weights = {case: 1.0 + place for place, case in enumerate(cases)}
    tested, other = (
        [getattr(one, name) for one in splits[:7]] for name in ("average_fps", "reference_fps")
    )
    ratio = mean_ratio(school, tested, other, [*weights.values()])
    mean = RigMean(ratio, None, None, 7, None, None, cases)
    shares = over_review(splits, "mobile middle b", mean, How(school, weights))
    assert sum(shares.values()) == pytest.approx(1 - ratio)
    assert abs(shares["unexplained"]) < 0.02
    # What a case without a split lost is unexplained.
    fewer = over_review(splits[1:], "mobile middle b", mean, How(school, weights))
    assert sum(fewer.values()) == pytest.approx(1 - ratio)


@given(st.lists(st.floats(-0.3, 0.6), min_size=1, max_size=6))
def test_rounded_parts_add_up_to_the_rounded_whole(parts):
    rounded = adding_up(parts, sum(parts), 0.01)
    assert sum(rounded) == pytest.approx(round(sum(parts) / 0.01) * 0.01)
    assert all(abs(a - b) < 0.0101 for a, b in zip(rounded, parts, strict=True))


def test_what_the_board_and_limits_say_of_a_loss_is_one_number(demo_analysis):
    report, board = demo_analysis.limits, demo_analysis.board
    for column in board.columns:
        shares = report.lost_by_part(column.rig_id)
        if not shares:
            continue
        lost = 1 - board.totals[column.rig_id].of_reference.ratio
        assert sum(shares.values()) == pytest.approx(lost)
        told = [share for _, share in told_shares(shares)]
        assert sum(told) == pytest.approx(round(lost, 2), abs=1e-9)
        line = limits_line(report, column.rig_id)
        assert abs(lost) < 0.01 or f"loses {percent_text(lost)} against" in line
        assert abs(lost) < 0.01 or "unexplained" in line


@pytest.mark.parametrize(
    ("ratio", "error", "begins"),
    [
        (0.79, 0.004, "On average {} loses 21\u202f% against {}: "),
        (1.05, 0.004, "On average {} is 5\u202f% faster than {}: "),
        (0.995, 0.004, "On average {} is level with {} (within 3\u202f%)"),
        (0.97, 0.04, "On average {} is not told apart from {} (−10\u202f% to +5\u202f%)"),
    ],
)
def test_a_loss_is_named_as_the_board_has_it(demo_analysis, ratio, error, begins):
    report = demo_analysis.limits
    column = next(one for one in report.board.columns if one.role is Role.TESTED)
    total = report.board.totals[column.rig_id]
    mean = replace(total.of_reference, ratio=ratio, these_error=error)
    totals = {**report.board.totals, column.rig_id: replace(total, of_reference=mean)}
    other = replace(report, board=replace(report.board, totals=totals))
    names = column.name, report.board.reference.name
    assert limits_line(other, column.rig_id).startswith(begins.format(*names))


def test_bounds_are_at_least_as_wide_as_the_unexplained(fit):
    for one in split_losses(fit, REFERENCE):
        for part in one.parts.values():
            assert part.high_fps - part.low_fps >= 1.99 * abs(one.unexplained_fps) - 1e-6


def test_a_part_is_told_with_its_interval_either_way(fit):
    one = next(one for one in split_losses(fit, REFERENCE) if one.rig == RIG)
    part = one.parts["link"]
    ends = [f"{end:.1f}".replace("-", MINUS) for end in (part.low_fps, part.high_fps)]
    assert part_span(one, "link") == " to ".join(ends)
    turned = [f"{-end:.1f}".replace("-", MINUS) for end in (part.high_fps, part.low_fps)]
    assert part_span(one, "link", lost=False) == " to ".join(turned)
    assert part_span(one, "unexplained") == ""


def test_planted_causes_are_named(fit):
    over_cable = over_review(split_losses(fit, REFERENCE), "mobile middle b")
    assert over_cable["link"] > 0.12 > over_cable["host"] > 0.0
    assert abs(over_cable["card"]) < 1e-9
    over_edge = over_review(split_losses(fit, REFERENCE), "mobile middle e")
    assert over_edge["host"] > over_edge["link"]
    small = over_review(split_losses(fit, REFERENCE), "mobile small b")
    assert small["card"] > 0.1
    assert over_review((), "x") == {}


def test_losses_the_other_way_round_change_sign(fit):
    forth = {(s.rig, s.case): s for s in split_losses(fit, REFERENCE)}
    back = {(s.rig, s.case): s for s in split_losses(fit, "mobile middle b")}
    one, other = forth["mobile middle b", "Tidewrack 1080p"], back[REFERENCE, "Tidewrack 1080p"]
    assert one.lost_fps == pytest.approx(-other.lost_fps)
    for name in one.parts:
        assert one.parts[name].fps == pytest.approx(-other.parts[name].fps, abs=1e-6)


WIDTH = st.floats(0.6, 60.0)
SPEED = st.floats(0.4, 3.0)


@given(WIDTH, st.floats(1.01, 4.0))
def test_more_bandwidth_is_never_slower(fit, gb_per_s, more):
    cell = cell_of(fit, "mobile middle b", "Tidewrack 1080p")
    slow = what_if(fit, cell, Change(gb_per_s=gb_per_s))
    fast = what_if(fit, cell, Change(gb_per_s=gb_per_s * more))
    assert fast.average_fps >= slow.average_fps * (1 - 1e-9)


@given(SPEED, st.floats(1.01, 3.0))
def test_a_faster_card_or_cpu_is_never_slower(fit, speed, more):
    cell = cell_of(fit, "mobile middle d", "Ninefold Siege 1440p")
    for name in ("card_speed", "cpu_speed"):
        slow = what_if(fit, cell, Change(**{name: speed}))
        fast = what_if(fit, cell, Change(**{name: speed * more}))
        assert fast.average_fps >= slow.average_fps * (1 - 1e-9)
        assert slow.low_80 < slow.average_fps < slow.high_80


def test_nothing_changed_is_the_fit_and_more_pixels_are_slower(fit):
    cell = cell_of(fit, "mobile middle d", "Tidewrack 1080p")
    index = fit.measured.cells.index(cell)
    same = what_if(fit, cell, Change(), steadiness=0.8)
    assert same.average_fps == pytest.approx(np.exp(log_rate(fit.x, fit.places))[index])
    assert same.low_1_fps == pytest.approx(0.8 * same.average_fps)
    assert same.outside == ()
    assert what_if(fit, cell, Change(megapixels=8.2944)).average_fps < same.average_fps
    assert what_if(fit, cell, Change(sent_back=True)).average_fps < same.average_fps


def test_a_link_of_the_data_is_foreseen_from_another(fit, lab):
    cell = cell_of(fit, "mobile middle b", "Tidewrack 1080p")
    cord = what_if(fit, cell, Change(gb_per_s=6.4, latency_ms=0.02))
    assert cord.average_fps == pytest.approx(
        lab.rate(1, "mobile", "middle", "d", "Tidewrack", "1080p"), rel=0.08
    )


def test_beyond_the_range_is_said(fit):
    cell = cell_of(fit, "mobile middle b", "Tidewrack 1080p")
    found = what_if(fit, cell, Change(gb_per_s=60.0, megapixels=33.0, card_speed=3.0))
    assert len(found.outside) == 3
    assert "megapixels (measured 2.1 to 8.3)" in found.outside[0]


def test_ceilings_rise_with_pixels_and_with_the_link(fit):
    low = ceiling(fit, "mobile", "b", 2.0736)
    high = ceiling(fit, "mobile", "b", 8.2944)
    wide = ceiling(fit, "mobile", "d", 2.0736)
    assert low.card_speed < high.card_speed
    assert low.card_speed < wide.card_speed
    assert "large" in low.wasted
    assert "large" not in high.wasted
    assert ceiling(fit, "nobody", "b", 2.0) is None


def test_a_ceilings_interval_is_that_of_fits_the_data_leave_open(fit):
    """Against draws of the unknowns, each solved for its own ceiling."""
    found = ceiling(fit, "mobile", "b", 8.2944)
    assert found.low_80 < found.card_speed < found.high_80
    drawn = np.random.default_rng(4).multivariate_normal(fit.x, fit.covariance, 60)
    speeds = [ceiling(replace(fit, x=x), "mobile", "b", 8.2944).card_speed for x in drawn]
    wide = np.log(np.quantile(speeds, 0.9) / np.quantile(speeds, 0.1))
    assert np.log(found.high_80 / found.low_80) == pytest.approx(wide, rel=0.4)
    vague = ceiling(replace(fit, covariance=1000.0 * fit.covariance), "mobile", "b", 8.2944)
    assert vague.high_80 == np.inf
    assert vague.open and not vague.wasted


def test_at_a_ceiling_more_card_gives_just_what_it_must(fit):
    found = ceiling(fit, "mobile", "b", 2.0736)
    there = [c for c in fit.measured.cells if (c.host, c.link) == ("mobile", "b")]
    cells = {
        c.family: replace(c, card=fit.measured.card, megapixels=2.0736, sent_back_mb=0.0)
        for c in there
    }
    logs = [
        np.log(what_if(fit, cell, Change(card_speed=by * found.card_speed)).average_fps)
        for by in (1.0, MORE_CARD)
        for cell in cells.values()
    ]
    gained = np.mean(logs[len(cells) :]) - np.mean(logs[: len(cells)])
    assert np.expm1(gained) == pytest.approx(PAYS, rel=1e-5)


def test_the_narrowest_link_that_costs_little_grows_with_the_card(fit):
    small = narrowest_link(fit, "tower", "small", 8.2944)
    large = narrowest_link(fit, "tower", "large", 8.2944)
    assert 1.0 < small < large < 60.0


def test_the_next_test_narrows_what_it_says(fit):
    cell = cell_of(fit, "mobile middle b", "Tidewrack 1080p")
    other = cell_of(fit, REFERENCE, "Tidewrack 1080p")
    slope = question_slope(fit, Question.LINK, cell, other)
    tests = next_tests(fit, slope, lambda _c: 4.0, lambda c, s: f"{c.family} {s}", lambda r: r)
    assert tests
    assert [t.per_minute for t in tests] == sorted((t.per_minute for t in tests), reverse=True)
    assert all(0.0 <= test.narrows < 1.0 for test in tests)
    assert tests[0].says.startswith("Tidewrack 720p")
    # What one such test leaves is what a fit with that row left by hand would leave.
    untested = replace(cell, megapixels=0.9216, rig=tests[0].rig)
    like = next(c for c in fit.measured.cells if c.rig == tests[0].rig)
    untested = replace(like, family="Tidewrack", megapixels=0.9216)
    places = fit.places_for([untested], {})
    j = jacobian(fit.x, places)[0]
    felt = fit.scatter**2 * (1 + 25 * link_slope(times_of(fit.x, places))[0])
    noise = 0.02**2 / 3 + felt
    information = np.linalg.inv(fit.covariance) + np.outer(j, j) / noise
    left = slope @ np.linalg.inv(information) @ slope
    before = slope @ fit.covariance @ slope
    assert tests[0].narrows == pytest.approx(1 - np.sqrt(left / before), rel=1e-6)


# Data that cannot tell


def only(measured, keep):
    return measured.without([keep(cell) for cell in measured.cells])


@pytest.mark.parametrize(
    ("keep", "says"),
    [
        (lambda c: c.rig == REFERENCE, "all cells are of one rig"),
        (
            lambda c: (c.family, c.rig) in {("Skitter", REFERENCE), ("Tidewrack", RIG)},
            "no title was taken on two rigs",
        ),
        (lambda c: False, "there is no valid result"),
    ],
)
def test_data_that_cannot_tell_are_refused_with_what_would_unlock_them(lab, keep, says):
    with pytest.raises(TooLittle, match=says) as caught:
        fit_limits(only(lab.measured(), keep))
    assert "Take" in caught.value.fix
    assert leave_out(only(lab.measured(), lambda c: c.rig == REFERENCE), LeaveOut.LINK) is None


def test_unknowns_that_nothing_narrowed_rest_on_their_prior(lab):
    few = only(lab.measured(), lambda c: c.family == "Skitter" and c.link in "df")
    fit = fit_limits(few)
    assert "b of Skitter" not in fit.rests_on_prior or "a of Skitter" not in fit.rests_on_prior
    assert fit.rests_on_prior  # the CPU-bound title says little of the link


def test_equal_cells_and_extreme_rates_stay_finite():
    cells = tuple(
        Cell(f"r{r}", f"c{k}", f"f{k // 2}", 1.0 + k % 2, "h", f"g{r}", "l", rate, 0.01)
        for r in range(2)
        for k, rate in enumerate((0.5, 0.5, 900.0, 900.0))
    )
    link = fit_road()
    fit = fit_limits(Measured(cells, {"l": link}, "h", "g0", {}))
    assert np.isfinite(fit.x).all()
    assert np.isfinite(fit.covariance).all()


def fit_road():
    from blunt_ruler.core.limits.cells import FittedLink

    return FittedLink("l", 5.0, 0.03, 0.02)


@pytest.mark.parametrize(
    ("ratio", "link", "divided"),
    [(0.75, 0.25, True), (0.75, 0.0, True), (1.0, 0.05, True), (1.0, 0.004, False)],
)
def test_a_loss_is_divided_where_it_is_sure_or_its_parts_make_up_for_one_another(
    demo_analysis, ratio, link, divided
):
    report, rig = demo_analysis.limits, "sluice-marram-12"
    mean = replace(report.board.totals[rig].of_reference, ratio=ratio, low=ratio, high=ratio)
    total = replace(report.board.totals[rig], of_reference=mean)
    board = replace(report.board, totals={**report.board.totals, rig: total})
    shares = dict.fromkeys((*PARTS, "unexplained"), 0.0) | {"link": link, "host": -link}

    class Report:
        lost_by_part = staticmethod(lambda _rig: shares)

    told = Report()
    told.board = board
    assert is_divided(told, board.column(rig)) is divided
