"""The edges of what checks allow: a step beyond is found, a step before is not.

Each edge is a figure of `help/checks.md`; a mutation that moves it is noticed here.
"""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from test_by_eye import found, typed

from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.checks.findings import Check
from blunt_ruler.core.measure.resolution import pixels
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.measure.trace_summary import observe
from blunt_ruler.core.records.hardware import Card, Host, Link, Rig
from blunt_ruler.core.rigs.links import rig_width

RIG, CASE, WIDE = "groyne-marram-12", "tidewrack-1080p", "tidewrack-1440p"


@pytest.mark.parametrize(("minutes", "drifts"), [(6, False), (20, True)])
def test_a_bench_day_is_an_hour_at_least(lab, minutes, drifts):
    start = datetime(2026, 10, 6, 10, tzinfo=UTC)
    for number in range(5):
        for case in ("tidewrack-1080p", "copper-meridian-1080p"):
            run = lab.take(RIG, case, 1, repeat=number + 1)
            rate = run.figures.average_fps * (1 - 0.02 * number)
            slower = run.figures.model_copy(update={"average_fps": rate})
            at = (start + timedelta(minutes=minutes * number)).isoformat()
            lab.put(run.model_copy(update={"figures": slower, "taken_at": at}))
    day = [
        one
        for one in check_runs(lab.contents, lab.review).findings
        if one.check is Check.DRIFT and "over 2026-10-06" in one.says
    ]
    assert bool(day) is drifts


def two_rigs(small, large, cards=None):
    """Two rigs that are alike but for their hosts, or for their cards on one host."""
    card = Card(id="c", name="Marram 12")
    rigs = [
        Rig(id="a", name="A", host_id="small", card_id="c", link_id="l", measured_gb_per_s=6),
        Rig(id="b", name="B", host_id="large", card_id="c", link_id="l", measured_gb_per_s=6),
    ]
    if cards:
        rigs = [
            one.model_copy(update={"host_id": "large", "card_id": key})
            for one, key in zip(rigs, ("c1", "c2"), strict=True)
        ]
    hosts = [Host(id="small", name="Quillon", **small), Host(id="large", name="Bench", **large)]
    made = [("cards", card), ("links", Link(id="l", name="Cord"))]
    made += [
        ("cards", Card(id=f"c{number}", name=f"Card {number}", board_power_w=watts))
        for number, watts in enumerate(cards or (), 1)
    ]
    return made + [("hosts", one) for one in hosts] + [("rigs", one) for one in rigs]


WON = [("A", "Tidewrack / 1080p", "91"), ("B", "Tidewrack / 1080p", "70")]


@pytest.mark.parametrize(("share", "named"), [(0.75, True), (0.9, False), (1.0, False)])
def test_a_host_is_the_lesser_below_four_fifths(share, named):
    large = {"cores": 20, "sustained_power_w": 100}
    small = {"cores": round(20 * share), "sustained_power_w": 100 * share}
    contents, _ = typed(*WON, records=two_rigs(small, large))
    assert bool(found(contents, Check.LESSER_PART_WINS)) is named


@pytest.mark.parametrize(("watts", "named"), [(161.0, True), (162.0, False), (170.0, False)])
def test_a_card_is_the_lesser_below_nine_tenths_of_the_watts(watts, named):
    contents, _ = typed(*WON, records=two_rigs({}, {}, (watts, 180.0)))
    assert bool(found(contents, Check.LESSER_PART_WINS)) is named


def with_gauges(run, **means):
    """A run whose gauges have some means, and highs beside them."""
    wanted = {Gauge[name]: value for name, value in means.items()}
    gauges = tuple(
        one._replace(mean=wanted[one.gauge], high=wanted[one.gauge]) if one.gauge in wanted else one
        for one in run.observed.gauges
    )
    return run.model_copy(update={"observed": run.observed.model_copy(update={"gauges": gauges})})


@pytest.mark.parametrize(("share", "named"), [(0.5, True), (0.8, False)])
def test_a_link_explains_a_flat_rate_from_seven_tenths_of_its_width(lab, share, named):
    width = rig_width(lab.contents, lab.contents.rigs[RIG]).least
    first, second = (lab.take(RIG, case, 1) for case in (CASE, WIDE))
    for run in (first, second):
        same = run.model_copy(update={"figures": first.figures})
        lab.put(with_gauges(same, CPU_CORE=50.0, CARD_BUSY=70.0, LINK_TRAFFIC=share * width))
    flat = [
        one
        for one in check_runs(lab.contents, lab.review).findings
        if one.check is Check.FLAT_OVER_RESOLUTION
    ]
    assert bool(flat) is named


@pytest.mark.parametrize(("pictures", "named"), [(0.5, False), (1.0, True), (2.0, False)])
def test_about_one_picture_more_is_sent_back(lab, pictures, named):
    width, height = pixels("1080p")
    picture_mb = width * height * 4 / 1e6
    for repeat in (1, 2, 3):
        run = lab.take(RIG, CASE, 1, repeat=repeat)
        extra = picture_mb * pictures if repeat == 3 else 0.0
        lab.put(with_gauges(run, LINK_TRAFFIC=(1.0 + extra) * run.average_fps / 1000.0))
    by_run = check_runs(lab.contents, lab.review).by_run
    odd = [
        one
        for one in by_run.get(f"{RIG}_{CASE}_3", ())
        if one.check is Check.WRONG_DEVICE and "picture" in one.says
    ]
    assert bool(odd) is named


@pytest.mark.parametrize(("second", "early"), [(15, True), (25, False)])
def test_what_stutters_in_the_first_twenty_seconds_is_early(second, early):
    times = np.full(12_000, 10.0)  # two minutes
    for one in range(3):
        times[second * 100 + 100 * one] = 60.0
    seen = observe(times, {})
    assert (seen.early_stutters_per_min > 0) is early
    assert (seen.late_stutters_per_min > 0) is not early


def test_what_a_scene_can_make_has_a_comparison_with_other_passes():
    from blunt_ruler.core.checks.sharing import SAME

    assert {check for check in Check if check.declared.scene} == set(SAME)
