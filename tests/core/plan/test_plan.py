"""Order, clock, short programme and repeats against enumeration, scipy and statsmodels."""

from itertools import combinations, pairwise, permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats as scipy_stats
from statsmodels.stats.power import tt_ind_solve_power

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.once import Handover
from blunt_ruler.core.plan import passes_taken
from blunt_ruler.core.plan.bench_order import Item, ItemKind, build_order, swap_minutes
from blunt_ruler.core.plan.bench_plan import derive_bench_plan, enough_line, plan_line, saved_words
from blunt_ruler.core.plan.matrix import CellState, learned, plan_cells
from blunt_ruler.core.plan.repeats_needed import (
    pooled_spread,
    power,
    repeats_needed,
    smallest_shown,
)
from blunt_ruler.core.plan.shorten import CELL_WORTH, shorten, triplets_kept
from blunt_ruler.core.plan.shortest_tour import _held_karp, _lower_bound, cheapest_path
from blunt_ruler.core.plan.timetable import timetable
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Rig, RigState
from blunt_ruler.core.records.plan_settings import Hours, Plan, TitleTimes
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Decision,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)

EMPTY = Contents.empty()


def review_of(rigs=3, titles=2, resolutions=2, runs=(), **plan_fields):
    """Rigs with distinct cards, titles at some resolutions; base first, reference last."""
    rig_list = [
        Rig(id=f"r{n}", name=f"Rig {n}", card_id=None, state=RigState(driver=f"d{n % 2}"))
        for n in range(rigs)
    ]
    title_list = [Title(id=f"t{n}", name=f"Title {n}") for n in range(titles)]
    cases = [
        Case(id=f"t{t}x{r}", title_id=f"t{t}", resolution=("1080p", "1440p", "2160p")[r])
        for t in range(titles)
        for r in range(resolutions)
    ]
    roles = {rigs - 1: Role.REFERENCE, 0: Role.BASE}
    review = Review(
        id="v",
        name="V",
        seats=tuple(
            ReviewRig(rig_id=rig.id, role=roles.get(n, Role.TESTED))
            for n, rig in enumerate(rig_list)
        ),
        case_ids=tuple(case.id for case in cases),
    )
    plan = Plan(id="v", **{"repeats": 2, **plan_fields})
    contents = EMPTY.with_records(
        {
            "rigs": {rig.id: rig for rig in rig_list},
            "titles": {title.id: title for title in title_list},
            "cases": {case.id: case for case in cases},
            "runs": {run.id: run for run in runs},
            "reviews": {"v": review},
            "plans": {"v": plan},
        }
    )
    return contents, review, plan


def a_run(rig, case, number=1, decision=Decision.KEEP, fps=50.0):
    return Run(
        id=f"{rig}{case}{number}",
        rig_id=rig,
        case_id=case,
        repeat=number,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=fps),
        decision=decision,
    )


# The tour


@settings(max_examples=40)
@given(st.integers(1, 6), st.integers(0, 1000), st.booleans())
def test_the_tour_is_the_best_of_all_orders(places, seed, comes_back):
    rng = np.random.default_rng(seed)
    costs = rng.integers(0, 60, (places + 1, places + 1)).astype(float)
    names = [str(number) for number in range(places)]
    back = names[0] if comes_back else None

    def cost(a, b):
        return costs[int(a), int(b)]

    def total(order):
        steps = sum(cost(a, b) for a, b in pairwise(order))
        return steps + (cost(order[-1], back) if back else 0.0)

    tour = cheapest_path(names, cost, back_to=back)
    assert tour.exact
    assert tour.cost == pytest.approx(min(map(total, permutations(names))))
    assert total(tour.order) == pytest.approx(tour.cost)
    assert sorted(tour.order) == names


def test_twelve_rigs_are_exact_and_more_state_their_gap():
    rng = np.random.default_rng(4)
    points = rng.uniform(0, 40, (15, 2))

    def cost(a, b):
        return float(np.hypot(*(points[int(a)] - points[int(b)])))

    twelve = cheapest_path([str(n) for n in range(12)], cost)
    assert (twelve.exact, twelve.gap) == (True, 0.0)
    fifteen = cheapest_path([str(n) for n in range(15)], cost)
    assert not fifteen.exact
    assert 0 <= fifteen.gap < 0.6
    assert sorted(map(int, fifteen.order)) == list(range(15))


def test_locked_rigs_stay_first():
    tour = cheapest_path(list("abcd"), lambda a, b: abs(ord(a) - ord(b)), first=("d", "b"))
    assert tour.order[:2] == ("d", "b")
    assert set(tour.order) == set("abcd")
    assert cheapest_path(["a"], lambda a, b: 1.0, first=("a",), back_to="b").cost == 1.0
    assert cheapest_path(["a"], lambda a, b: 1.0, first=("a",)).cost == 0.0
    assert cheapest_path([], lambda a, b: 1.0).order == ()


# The order


@settings(max_examples=40, deadline=None)
@given(
    st.integers(1, 4),
    st.integers(1, 3),
    st.integers(1, 3),
    st.integers(1, 4),
    st.integers(0, 50),
    st.booleans(),
)
def test_the_order_is_set_against_rig_by_rig_all_repeats_at_once(
    rigs, titles, sizes, repeats, seed, control
):
    contents, review, plan = review_of(rigs, titles, sizes, repeats=repeats, control=control)
    cells = plan_cells(contents, review, plan)
    at_once = build_order(
        contents, review, plan.model_copy(update={"spread_repeats": False}), cells, seed
    )
    assert at_once.minutes <= at_once.minutes_as_entered + 1e-6
    assert at_once.minutes_spread == 0
    order = build_order(contents, review, plan, cells, seed)
    assert order.minutes_at_once == at_once.minutes
    assert order.minutes_spread >= -1e-9
    if repeats == 1 or titles == sizes == 1:
        assert order.minutes_spread == pytest.approx(0)
    assert order.swaps <= order.swaps_as_entered
    passes = [
        (item.rig_id, item.case_id, item.repeat)
        for item in order.items
        if item.kind is ItemKind.PASS
    ]
    assert len(passes) == len(set(passes)) == rigs * titles * sizes * repeats
    controls = [item for item in order.items if item.kind is ItemKind.CONTROL]
    assert len(controls) == (1 if control else 0)
    if control:
        assert order.items[-1].kind is ItemKind.CONTROL
        assert order.items[-1].rig_id == "r0"


def test_repeats_are_spread_over_rounds_and_settings_are_grouped():
    contents, review, plan = review_of(1, 3, 2, repeats=3, control=False)
    order = build_order(contents, review, plan, plan_cells(contents, review, plan), 3)
    repeats = [item.repeat for item in order.items if item.kind is ItemKind.PASS]
    assert repeats == sorted(repeats)
    loads = [item for item in order.items if item.kind is ItemKind.LOAD]
    # Each title once a round, both its resolutions together; a title that ends one round and
    # begins the next is not loaded again.
    assert 3 * 3 - 2 <= len(loads) <= 3 * 3
    again = build_order(contents, review, plan, plan_cells(contents, review, plan), 3)
    assert again.items == order.items


def test_a_warm_up_pass_follows_each_loading_only_where_it_is_wanted():
    times = (TitleTimes(title_id="t0", warm_up=False),)
    contents, review, plan = review_of(1, 2, 1, repeats=1, control=False, title_times=times)
    order = build_order(contents, review, plan, plan_cells(contents, review, plan))
    warm = [item.case_id for item in order.items if item.kind is ItemKind.WARM_UP]
    assert warm == ["t1x0"]


def test_swaps_cost_what_differs_each_once():
    contents, _, plan = review_of(2)
    assert swap_minutes(contents, plan, "r0", "r0") == 0
    assert swap_minutes(contents, plan, "r0", "r1") == plan.swaps.driver
    other = contents.rigs["r1"].model_copy(update={"card_id": "c", "dock_id": "d"})
    changed = contents.with_records({"rigs": {"r1": other}})
    swaps = plan.swaps
    assert swap_minutes(changed, plan, "r0", "r1") == swaps.driver + swaps.card + swaps.dock


# The matrix


def test_cells_know_what_is_done_left_and_left_out():
    runs = [
        a_run("r0", "t0x0", 1),
        a_run("r0", "t0x0", 2),
        a_run("r1", "t0x0", 1),
        a_run("r2", "t0x0", 1, Decision.SET_ASIDE),
    ]
    contents, review, plan = review_of(runs=runs)
    plan = plan.with_exclusion("r0", "t1x0", "will not start")
    cells = {(c.rig_id, c.case_id): c for c in plan_cells(contents, review, plan)}
    assert cells["r0", "t0x0"].state is CellState.DONE
    assert (cells["r1", "t0x0"].state, cells["r1", "t0x0"].left) == (CellState.PARTLY, 1)
    assert cells["r2", "t0x0"].state is CellState.SET_ASIDE
    assert cells["r2", "t0x0"].left == 2
    assert cells["r0", "t1x0"].why == "will not start"
    assert cells["r1", "t1x0"].minutes == pytest.approx(2 * (60 + plan.cool_down_s) / 60)
    back = plan.with_exclusion("r0", "t1x0", None)
    assert back.exclusions == ()


def test_an_edit_has_only_its_own_cell_read_anew(monkeypatch):
    runs = [a_run(rig, case, 1) for rig in ("r0", "r1") for case in ("t0x0", "t1x0")]
    contents, review, plan = review_of(runs=runs)
    handover = Handover()
    plan_cells(contents, review, plan, handover)
    read = []
    real = passes_taken._passes
    monkeypatch.setattr(
        passes_taken, "_passes", lambda runs, gone: read.append(runs) or real(runs, gone)
    )
    aside = runs[1].model_copy(update={"decision": Decision.SET_ASIDE})
    after = contents.with_records({"runs": {aside.id: aside}})
    cells = plan_cells(after, review, plan, Handover(handover))
    assert read == [(aside,)]
    states = {(c.rig_id, c.case_id): c.state for c in cells}
    assert states["r0", "t1x0"] is CellState.SET_ASIDE
    assert states["r1", "t1x0"] is CellState.PARTLY


def test_what_came_before_a_change_is_still_to_be_measured():
    runs = [a_run("r0", "t0x0", 1), a_run("r0", "t0x0", 2)]
    dated = [
        run.model_copy(update={"taken_at": f"2026-10-0{day}T10:00:00"})
        for day, run in zip((1, 3), runs, strict=True)
    ]
    contents, review, plan = review_of(runs=dated)
    change = Change(id="new", at="2026-10-02", what="driver 42")
    cells = plan_cells(contents.with_records({"changes": {"new": change}}), review, plan)
    (own,) = [one for one in cells if (one.rig_id, one.case_id) == ("r0", "t0x0")]
    assert (own.done, own.left) == (1, plan.repeats - 1)
    assert [c.done for c in plan_cells(contents, review, plan) if c.done] == [2]


def test_pass_times_are_learned_from_traces(demo_book):
    from blunt_ruler.logbook import Logbook

    with Logbook.open(demo_book) as book:
        contents = book.contents()
    plan, titles = learned(contents, Plan(id="which-link"))
    assert "tidewrack" in titles
    assert plan.times_of("tidewrack").pass_s == pytest.approx(30, abs=0.5)
    # With the plan's own cool-down, settings and loading are learned from the moments of the runs.
    plan, _ = learned(contents, contents.plans["which-link"])
    assert plan.times_of("tidewrack").settings_s == pytest.approx(45, abs=2)
    assert plan.times_of("copper-meridian").load_s == pytest.approx(75, abs=3)
    assert plan.times_of("unknown").load_s == TitleTimes(title_id="x").load_s


def test_runs_that_bear_one_moment_tell_nothing_of_the_time_between():
    """Two titles in turn every four minutes, of which a pass takes one with its cool-down."""
    figures = measure(np.full(2400, 1000.0 / 60.0))  # 40 s

    def times_of_t0(*minutes):
        runs = [
            a_run("r0", f"t{number % 2}x0", number).model_copy(
                update={"taken_at": f"2026-10-05T10:{minute:02d}:00", "figures": figures}
            )
            for number, minute in enumerate(minutes, 1)
        ]
        contents, _, plan = review_of(runs=runs)
        return learned(contents, plan)[0].times_of("t0")

    assert times_of_t0(1, 5, 9, 13, 17, 21, 25).load_s == 180.0 - 45.0 - 40.0
    # Two were brought in at once: two times between are too few to learn from.
    assert times_of_t0(5, 5, 9, 13, 17, 21, 25).load_s == TitleTimes(title_id="t0").load_s


# The clock


def items(*minutes):
    return [Item(ItemKind.PASS, "r0", "c", 1, float(one)) for one in minutes]


def test_days_break_and_end_and_skip_the_weekend():
    hours = Hours(first_day="2026-10-09", start="09:00", per_day_h=2, break_every_h=1, break_min=10)
    table = timetable(items(30, 30, 30, 30, 30), hours)  # the first day is a Friday
    assert [day.day for day in table.days] == ["2026-10-09", "2026-10-12"]
    assert table.days[0].starts == "2026-10-09T09:00"
    assert table.days[0].ends == "2026-10-09T11:10"
    assert table.days[0].breaks == 1
    assert table.finishes == "2026-10-12T09:30"


def test_the_deadline_gives_slack_or_names_what_is_late():
    hours = Hours(first_day="2026-10-05", per_day_h=1, deadline="2026-10-06")
    table = timetable(items(60, 60, 60), hours)
    assert table.slack_days == -1
    assert [timed.starts[:10] for timed in table.late] == ["2026-10-07"]
    early = timetable(items(60), hours)
    assert (early.slack_days, early.late) == (1, ())
    assert timetable([], hours).finishes is None


@given(st.lists(st.floats(0, 300), max_size=40), st.floats(0.5, 12), st.floats(0.5, 6))
def test_no_minute_is_lost_and_nothing_overlaps(minutes, per_day, break_every):
    hours = Hours(per_day_h=per_day, break_every_h=break_every)
    table = timetable(items(*minutes), hours)
    laid = [timed for day in table.days for timed in day.items]
    assert [timed.item.minutes for timed in laid] == minutes
    assert [timed.starts for timed in laid] == sorted(timed.starts for timed in laid)


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("first_day", "soon", "“soon” is not a date"),
        ("deadline", "2026-13-01", "is not a date"),
        ("weekdays", "Mon Feast", "“Feast” is not a weekday"),
        ("weekdays", "", "no weekday has hours"),
    ],
)
def test_hours_that_cannot_be_are_said(field, value, says):
    with pytest.raises(BadFigure, match=says):
        timetable(items(10), Hours(**{field: value}))


# Short of time


def worth(review, plan, cells):
    there = {(c.rig_id, c.case_id) for c in cells}
    base, reference = review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE)
    triplets = sum(
        plan.weight_of(case)
        for case in review.case_ids
        for seat in review.seats
        if seat.role is Role.TESTED
        and {(base, case), (seat.rig_id, case), (reference, case)} <= there
    )
    return triplets + CELL_WORTH * sum(plan.weight_of(c.case_id) for c in cells)


@pytest.mark.parametrize("minutes", [5.0, 14.0, 23.0, 33.0, 60.0])
@pytest.mark.parametrize("heavy", ["t0x0", "t1x0"])
def test_the_programme_finds_what_enumeration_finds(minutes, heavy):
    # Without swaps, loading and settings the cost of cells adds up, so all choices can be tried.
    free = {"load_s": 0, "settings_s": 0, "warm_up": False}
    times = tuple(TitleTimes(title_id=f"t{n}", **free) for n in range(2))
    contents, review, plan = review_of(
        3, 2, 1, title_times=times, question="gain", priorities=((heavy, 3.0),), repeats=3
    )
    same = {rig.id: rig.model_copy(update={"state": RigState()}) for rig in contents.rigs.values()}
    contents = contents.with_records({"rigs": same})
    cells = plan_cells(contents, review, plan)
    best = max(
        worth(review, plan, chosen)
        for size in range(len(cells) + 1)
        for chosen in combinations(cells, size)
        if sum(cell.minutes for cell in chosen) <= minutes
    )
    short = shorten(contents, review, plan, cells, minutes)
    assert short.optimal
    assert sum(cell.minutes for cell in short.cells) <= minutes + 1e-6
    assert worth(review, plan, short.cells) == pytest.approx(best)
    assert len(short.cells) + len(short.dropped) == len(cells)


def test_for_a_link_a_title_keeps_two_resolutions_or_none():
    contents, review, plan = review_of(3, 2, 3, question="link", repeats=2)
    cells = plan_cells(contents, review, plan)
    for minutes in (40.0, 60.0, 90.0):
        kept = shorten(contents, review, plan, cells, minutes).cells
        counts = {}
        for cell in kept:
            key = cell.rig_id, contents.cases[cell.case_id].title_id
            counts[key] = counts.get(key, 0) + 1
        assert all(count >= 2 for count in counts.values())


def test_three_hours_of_the_demos_plan_keep_the_top_title_whole(demo_book):
    from blunt_ruler.logbook import Logbook

    with Logbook.open(demo_book) as book:
        contents = book.contents()
    review = contents.reviews["which-link"]
    whole = derive_bench_plan(contents, review)
    assert 6.3 < whole.order.minutes / 60 < 7.5
    short = derive_bench_plan(contents, review, hours_h=3.0)
    assert short.order.minutes <= 180
    kept = {(cell.rig_id, cell.case_id) for cell in short.kept}
    for case_id in review.case_ids:
        if contents.cases[case_id].title_id == "tidewrack":
            assert all((seat.rig_id, case_id) in kept for seat in review.seats)
    assert short.triplets < whole.triplets_in_all
    assert all(one.why for one in short.dropped)
    line = plan_line(contents, review, short)
    assert "given up" in line
    assert f"{short.triplets} of {whole.triplets_in_all} comparisons whole" in line
    assert "follow the shortest tour" in saved_words(whole)
    assert triplets_kept(review, whole.cells) == whole.triplets_in_all
    assert derive_bench_plan(contents, review, hours_h=0.01).kept is not None


def test_lines_for_an_empty_and_a_finished_plan():
    contents, review, _ = review_of(1, 1, 1, repeats=1, runs=[a_run("r0", "t0x0")])
    worked = derive_bench_plan(contents, review)
    assert plan_line(contents, review, worked).startswith("Nothing is left to measure")
    blank = review.model_copy(update={"case_ids": ()})
    assert "Nothing to plan yet" in plan_line(contents, blank, derive_bench_plan(contents, blank))


# Enough repeats


@pytest.mark.parametrize(("difference", "spread"), [(0.05, 0.02), (0.03, 0.02), (0.02, 0.02)])
def test_repeats_agree_with_the_power_of_the_t_test(difference, spread):
    exact = tt_ind_solve_power(effect_size=difference / spread, alpha=0.05, power=0.8)
    needed = repeats_needed(difference, spread)
    assert needed == np.ceil(exact)
    assert smallest_shown(needed, spread) <= difference
    assert smallest_shown(needed - 1, spread) > difference


@pytest.mark.parametrize(("effect", "needed"), [(2.5, 4), (1.5, 9), (1.0, 17)])
def test_repeats_are_those_of_the_exact_power(effect, needed):
    # statsmodels.stats.power.TTestIndPower at 5 %, two-sided: 4 (3.76), 9 (8.06), 17 (16.7).
    assert repeats_needed(effect * 0.02, 0.02) == needed
    assert power(3, 2.5) == pytest.approx(0.636, abs=5e-4)


def test_repeats_have_the_power_they_promise():
    rng = np.random.default_rng(4)
    for effect in (2.5, 1.5):
        count = repeats_needed(effect, 1.0)
        one, other = rng.normal(0, 1, (4000, count)), rng.normal(effect, 1, (4000, count))
        shown = scipy_stats.ttest_ind(one, other, axis=1).pvalue < 0.05
        assert 0.78 <= shown.mean() <= 0.90  # a whole number of runs lies above the promise


def test_the_pooled_spread_is_the_root_of_pooled_variances():
    rng = np.random.default_rng(2)
    cells = [np.exp(rng.normal(3, 0.02, size)).tolist() for size in (3, 4, 5)]
    seen = pooled_spread(cells)
    squares = sum(np.var(np.log(rates)) * len(rates) for rates in cells)
    assert seen.spread == pytest.approx(np.sqrt(squares / (2 + 3 + 4)))
    assert seen.freedom == 9
    assert pooled_spread([[50.0], [60.0]]).is_assumed
    # The same figure twice says how it was rounded, not how far passes lie apart.
    assert pooled_spread([[50.0, 50.0], [60.0, 60.0]]).is_assumed
    with pytest.raises(BadFigure):
        repeats_needed(0.0, 0.02)


def test_too_few_repeats_are_said_and_so_are_too_many():
    contents, review, _ = review_of(repeats=2, difference=0.01)
    assert "cannot show a difference of 1" in enough_line(
        contents, derive_bench_plan(contents, review)
    )
    contents, review, _ = review_of(repeats=9, difference=0.05)
    assert "fewer would do" in enough_line(contents, derive_bench_plan(contents, review))


def test_the_gap_of_a_long_tour_is_what_it_lies_above_a_sound_bound():
    """Two heaps of seven: 1 minute inside a heap, 10 between; the best path takes 6 + 10 + 6."""
    names = [f"{heap}{number}" for heap in "ab" for number in range(7)]

    def cost(a, b):
        return 1.0 if a[0] == b[0] else 10.0

    tour = cheapest_path(names, cost)
    assert (tour.exact, tour.cost) == (False, 22.0)
    assert tour.gap == pytest.approx(0.0, abs=0.01)  # a tree has to cross between heaps too


def test_coming_from_and_going_to_a_rig_enter_the_bound_at_their_cheapest():
    names = [f"a{number:02}" for number in range(14)]

    def cost(a, b):
        if "z" in (a, b):
            return 5.0 if "a03" in (a, b) else 9.0 if "a04" in (a, b) else 30.0
        return 2.0

    tour = cheapest_path([*names, "z"], cost, first=("z",), back_to="z")
    assert tour.cost == pytest.approx(5.0 + 13 * 2.0 + 9.0)
    assert tour.gap == pytest.approx(0.0, abs=0.01)  # no rig is both the first and the last


@given(st.integers(0, 10_000), st.integers(2, 9))
@settings(max_examples=30, deadline=None)
def test_the_bound_lies_below_the_best_tour_and_close(seed, size):
    rng = np.random.default_rng(seed)
    places = rng.random((size, 2)) * 20
    matrix = np.abs(places[:, None] - places[None]).sum(axis=2)
    entry, leave = rng.random(size) * 10, rng.random(size) * 10
    best = _held_karp(matrix, entry, leave)[1]
    bound = _lower_bound(matrix, entry, leave, best)
    assert bound <= best + 1e-6
    assert bound >= 0.9 * best


def test_of_a_short_plan_nothing_is_proven_that_its_own_clock_does_not_prove():
    contents, review, _ = review_of(3, 3, 2, repeats=2, question="gain")
    whole = derive_bench_plan(contents, review)
    for share in (0.35, 0.55, 0.75):
        hours = whole.order.minutes * share / 60
        short = derive_bench_plan(contents, review, hours_h=hours)
        assert short.order.minutes <= hours * 60 + 1e-6
        assert 0.4 < short.of_best <= 1.0
        assert short.optimal is (short.of_best == 1.0)
        # No choice of whole cases does better by the order's own clock.
        tested = [seat.rig_id for seat in review.seats]
        for count in range(len(review.case_ids), 0, -1):
            if count * (len(tested) - 2) <= short.triplets:
                break
            for cases in combinations(review.case_ids, count):
                kept = [cell for cell in whole.cells if cell.case_id in cases]
                if build_order(contents, review, whole.plan, kept).minutes <= hours * 60:
                    found = triplets_kept(review, kept)
                    assert found <= short.triplets / short.of_best + 1e-6


def test_a_plan_of_nothing_promises_nothing():
    contents, review, _ = review_of(1, 1, 1, repeats=3)
    empty = derive_bench_plan(contents, review.model_copy(update={"case_ids": ()}))
    assert saved_words(empty) == "Nothing is planned, so there is no order yet."
    assert "it takes 4 repeats to show a difference of 5" in enough_line(contents, empty)


def test_a_break_stands_before_the_item_that_would_not_fit():
    hours = Hours(first_day="2026-10-09", start="09:00", break_every_h=2, break_min=15)
    (day,) = timetable(items(50, 50, 50), hours).days
    assert [one.starts[-5:] for one in day.items] == ["09:00", "09:50", "10:55"]
    assert day.ends[-5:] == "11:45"
