"""Frames against link: the curve against rates played at its widths, knee, half, planted faults."""

from dataclasses import replace

import numpy as np
import pytest

from blunt_ruler.core.drawing.link_curve import draw_link_curve
from blunt_ruler.core.drawing.palette import PAPER
from blunt_ruler.core.drawing.picture import Mark, Picture, Words
from blunt_ruler.core.limits import link_curve as curves
from blunt_ruler.core.limits.fit import fit_limits


@pytest.fixture(scope="module")
def curve(demo_analysis):
    return curve_of(demo_analysis)


def curve_of(analysis, fit=None, title=""):
    contents, fit = analysis.contents, fit or analysis.limits.fit
    names = {contents.cards[key].name: key for key in curves.cards_of(fit, contents)}
    return curves.link_curve(contents, analysis.board, fit, names["Marram 12"], title)


@pytest.mark.parametrize("width", ["d", pytest.param("e", marks=pytest.mark.deep)])
def test_a_width_that_was_left_out_is_where_the_bench_plays_it(lab, width):
    whole = lab.measured()
    fit = fit_limits(lab.measured(keep=lambda _h, _c, link, *_rest: link != width))
    played = [c for c in whole.cells if (c.host, c.card, c.link) == ("mobile", "middle", width)]
    asked = [replace(one, link="b") for one in played]
    middle, low, high = curves._mean_at(fit, asked, whole.links[width].gb_per_s)
    truth = np.mean(np.log([one.average_fps for one in played]))
    assert abs(middle - truth) < 0.03
    assert low < middle < high


def test_the_curve_rises_and_its_marks_are_where_their_words_say(curve):
    assert (np.diff(curve.fps) > -1e-9).all()
    assert (curve.low < curve.fps).all() and (curve.fps < curve.high).all()

    def at(width):
        return float(np.interp(np.log(width), np.log(curve.gb_per_s), curve.fps))

    knee = curve.knee_gb_per_s
    assert at(2 * knee) / at(knee) < 1.03 <= at(1.8 * knee) / at(0.9 * knee)
    start = at(curve.points[0].gb_per_s)
    assert at(curve.half_gb_per_s) == pytest.approx((start + curve.fps[-1]) / 2, rel=0.002)
    gains = [one.gain for one in curve.doublings]
    assert gains == sorted(gains, reverse=True)
    assert at(4) / at(2) - 1 == pytest.approx(gains[1], abs=1e-3)
    assert curve.kept(curve.gb_per_s[-1]) == 1.0


def test_a_point_is_the_geometric_mean_of_its_rig_over_the_shared_cases(curve, demo_analysis):
    for point in curve.points:
        rates = [demo_analysis.board.cells[point.rig_id, key].average_fps for key in curve.case_ids]
        assert point.fps == pytest.approx(np.exp(np.mean(np.log(rates))), rel=1e-9)
        assert point.low < point.fps < point.high


def slowed(analysis, rig, by):
    """The curve where a rig gives less than it was measured at, and that rig's point."""
    fit = analysis.limits.fit
    slow = next(one.id for one in analysis.contents.rigs.values() if one.name == rig)
    cells = tuple(
        replace(one, average_fps=one.average_fps * (by if one.rig == slow else 1.0))
        for one in fit.measured.cells
    )
    found = curve_of(analysis, replace(fit, measured=replace(fit.measured, cells=cells)))
    return found, next(one for one in found.points if one.rig_id == slow)


def test_a_tunnel_below_its_width_is_not_called_a_fault(demo_analysis, curve):
    assert not [one for one in curve.points if one.is_below]
    assert "below the curve" not in curves.curve_line(curve)
    assert "4.0 x8" in curves.curve_line(curve)
    slower, tunnel = slowed(demo_analysis, "Sluice Marram 12", 0.975)
    assert tunnel.is_below and tunnel.is_explained
    assert "not to blame" in curves.below_words(tunnel, slower)
    assert "as host, delay and screen path explain" in curves.curve_line(slower)


@pytest.mark.parametrize(
    ("rig", "says"), [("Groyne Marram 12", "negotiated lanes"), ("Workbench Marram 12", "host")]
)
def test_a_planted_fault_is_named_with_the_check_that_settles_it(demo_analysis, rig, says):
    found, point = slowed(demo_analysis, rig, 0.8)
    assert point.is_below and not point.is_explained
    assert says in curves.below_words(point, found)
    assert rig in curves.curve_line(found)


def test_one_title_alone_has_its_own_curve(demo_analysis, curve):
    one = curve_of(demo_analysis, title="Ninefold Siege")
    assert 0 < len(one.case_ids) < len(curve.case_ids)
    assert one.fps[0] / one.fps[-1] != pytest.approx(curve.fps[0] / curve.fps[-1], abs=0.01)
    assert curve_of(demo_analysis, title="No such title") is None


def test_the_picture_has_every_rig_by_name_and_names_stand_clear(curve):
    picture = Picture(PAPER, 1000, 480, lambda text, size, _weight: 0.5 * size * len(text), {})
    draw_link_curve(picture, curve)
    marks = [one for one in picture.items if type(one) is Mark]
    assert len(marks) == len(curve.points)
    written = [one for one in picture.items if type(one) is Words]
    for point in curve.points:
        assert any(one.text.startswith(point.name) for one in written)
    names = [one for one in written if any(one.text.startswith(p.name) for p in curve.points)]
    for place, one in enumerate(names):
        for other in names[place + 1 :]:
            assert abs(one.baseline - other.baseline) > 10 or abs(one.x - other.x) > 60


def test_a_width_that_the_data_leave_open_is_said_as_a_span_and_has_no_mark(demo_analysis, curve):
    assert set(curve.told) == {"half", "enough"}
    low, high = curve.knee_span
    assert low < curve.knee_gb_per_s < high
    fit = demo_analysis.limits.fit
    vague = curve_of(demo_analysis, replace(fit, covariance=25.0 * fit.covariance))
    assert vague.knee_gb_per_s == curve.knee_gb_per_s
    assert vague.knee_span[0] < low and vague.knee_span[1] > high
    assert "enough" not in vague.told
    ends = [f"{end:.1f}" for end in vague.knee_span]
    assert ends == [f"{end:.1f}" for end in curves.knee_ends(vague)]
    assert f"needs {ends[0]} to {ends[1]}" in curves.curve_line(vague)
    lost = replace(curve, knee_span=(5.0, np.inf))
    assert curves.knee_ends(lost) is None
    assert "needs is open: 5.0\u202fGB/s or more" in curves.curve_line(lost)


def test_a_knee_that_nobody_measured_around_is_said_to_be_predicted(demo_analysis, curve):
    assert "predicted" not in curves.curve_line(curve)
    fit = demo_analysis.limits.fit
    names = {one.id: one.name for one in demo_analysis.contents.rigs.values()}
    narrow = tuple(
        one
        for one in fit.measured.cells
        if names[one.rig] in ("Sluice Marram 12", "Groyne Marram 12")
    )
    found = curve_of(demo_analysis, replace(fit, measured=replace(fit.measured, cells=narrow)))
    assert found.knee_gb_per_s > found.points[-1].gb_per_s
    assert "predicted outside what was measured" in curves.curve_line(found)


@pytest.mark.parametrize(
    ("moves", "name"),
    [
        (6.46, "PCIe 4.0 x4"),
        (6.6, "PCIe 4.0 x4"),  # 3 % more is the same
        (6.7, "PCIe 4.0 x8"),
        (3.3, "PCIe 3.0 x4"),
        (60.0, ""),
    ],
)
def test_a_width_is_named_by_the_narrowest_usual_link_that_moves_as_much(moves, name):
    assert curves.usual_name(moves) == name
