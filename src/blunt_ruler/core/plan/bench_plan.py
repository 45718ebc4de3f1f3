"""A review's plan worked out: cells, what is given up, order, timetable, and its sentence."""

from dataclasses import dataclass

from blunt_ruler.core.once import Handover
from blunt_ruler.core.plan.bench_order import Order, build_order
from blunt_ruler.core.plan.matrix import PlanCell, learned, plan_cells, plan_of
from blunt_ruler.core.plan.repeats_needed import (
    SpreadSeen,
    pooled_spread,
    rates_by_case,
    repeats_needed,
    smallest_shown,
    spread_of_case,
)
from blunt_ruler.core.plan.shorten import (
    Dropped,
    Shortened,
    most_possible,
    shorten,
    triplets_kept,
    worth_kept,
)
from blunt_ruler.core.plan.timetable import Timetable, timetable
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Review, Role
from blunt_ruler.core.text import amount, count_text, duration_text, list_text, percent_text
from blunt_ruler.core.types import Progress, no_progress

MOST_TRIES = 40  # comparisons that are tried on top of what the programme chose


@dataclass(frozen=True, slots=True)
class Enough:
    """Repeats of a case: what the spread asks for, and what the plan can show."""

    case_id: str
    spread: SpreadSeen
    needed: int
    shows: float


@dataclass(frozen=True, slots=True)
class BenchPlan:
    """Everything the Plan shows."""

    plan: Plan
    learned_titles: tuple[str, ...]
    cells: tuple[PlanCell, ...]
    kept: tuple[PlanCell, ...]
    dropped: tuple[Dropped, ...]
    optimal: bool  # proven by the order's own clock
    of_best: float  # weighted comparisons kept, as a share of what no choice can exceed
    order: Order
    table: Timetable
    triplets: int
    triplets_in_all: int
    enough: tuple[Enough, ...]


def derive_bench_plan(
    contents: Contents,
    review: Review,
    plan: Plan | None = None,
    hours_h: float | None = None,
    seed: int = 0,
    step: Progress = no_progress,
    handover: Handover | None = None,
) -> BenchPlan:
    """Work a plan out; with `hours_h` given, shortened to about so many hours."""
    handover = handover or Handover()
    known, titles = learned(contents, plan or plan_of(contents, review), handover)
    cells = plan_cells(contents, review, known, handover)
    short = Shortened(cells, (), True)
    of_best = 1.0
    order = build_order(contents, review, known, cells, seed)
    if hours_h is not None and order.minutes > hours_h * 60.0:
        short, order = _fitted(contents, review, known, cells, hours_h * 60.0, seed, step)
        most = most_possible(contents, review, known, cells, hours_h * 60.0)
        of_best = min(worth_kept(review, known, short.cells) / most, 1.0) if most > 0 else 1.0
    in_all = triplets_kept(review, cells)
    return BenchPlan(
        plan=known,
        learned_titles=titles,
        cells=cells,
        kept=short.cells,
        dropped=short.dropped,
        optimal=of_best >= 1.0 - 1e-6,
        of_best=of_best,
        order=order,
        table=timetable(order.items, known.hours),
        triplets=in_all if short.cells is cells else triplets_kept(review, short.cells),
        triplets_in_all=in_all,
        enough=tuple(_enough(contents, review, known, handover)),
    )


def _fitted(
    contents: Contents,
    review: Review,
    plan: Plan,
    cells: tuple[PlanCell, ...],
    minutes: float,
    seed: int,
    step: Progress,
) -> tuple[Shortened, Order]:
    """Shorten until the order itself fits: the programme counts swaps a little too low or high,
    so the minutes it may spend are found by halving."""
    low, high = 0.0, minutes * 1.3
    best: tuple[Shortened, Order] | None = None
    for number in range(6):
        allowed = minutes if number == 0 else (low + high) / 2.0
        step(f"Choosing what to keep, try {number + 1} of 6", number / 6.0)
        short = shorten(contents, review, plan, cells, allowed)
        order = build_order(contents, review, plan, short.cells, seed)
        if order.minutes <= minutes + 1e-6:
            low = allowed
            if best is None or triplets_kept(review, short.cells) >= triplets_kept(
                review, best[0].cells
            ):
                best = short, order
        else:
            high = allowed
    if best is None:
        nothing = shorten(contents, review, plan, cells, 0.0)
        best = nothing, build_order(contents, review, plan, nothing.cells, seed)
    return _filled(contents, review, plan, cells, minutes, seed, best)


def _filled(
    contents: Contents,
    review: Review,
    plan: Plan,
    cells: tuple[PlanCell, ...],
    minutes: float,
    seed: int,
    found: tuple[Shortened, Order],
) -> tuple[Shortened, Order]:
    """Comparisons put back as long as the order itself still fits, the heaviest first."""
    short, order = found
    by_key = {(cell.rig_id, cell.case_id): cell for cell in cells if cell.left > 0}
    ends = [rig for rig in (review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE)) if rig]
    tested = [seat.rig_id for seat in review.seats if seat.role is Role.TESTED]
    tries = 0
    for case_id in sorted(review.case_ids, key=plan.weight_of, reverse=True):
        for rig_id in tested:
            gone = {(one.rig_id, one.case_id) for one in short.dropped}
            back = [key for one in (*ends, rig_id) if (key := (one, case_id)) in gone]
            if not back or tries >= MOST_TRIES or order.minutes >= minutes:
                continue
            tries += 1
            there = {(cell.rig_id, cell.case_id) for cell in short.cells}.union(back)
            kept = tuple(
                cell for cell in cells if cell.left == 0 or (cell.rig_id, cell.case_id) in there
            )
            wider = build_order(contents, review, plan, kept, seed)
            if all(key in by_key for key in back) and wider.minutes <= minutes + 1e-6:
                dropped = tuple(
                    one for one in short.dropped if (one.rig_id, one.case_id) not in back
                )
                short, order = Shortened(kept, dropped, short.optimal), wider
    return short, order


def _enough(contents: Contents, review: Review, plan: Plan, handover: Handover) -> list[Enough]:
    of_case = rates_by_case(contents, review, handover)
    pooled = pooled_spread([rates for of_rigs in of_case.values() for rates in of_rigs])
    if pooled.is_assumed:
        pooled = SpreadSeen(plan.spread, 0)
    found = []
    for case_id in review.case_ids:
        spread = spread_of_case(of_case.get(case_id, []), pooled)
        found.append(
            Enough(
                case_id,
                spread,
                repeats_needed(plan.difference, spread.spread),
                smallest_shown(plan.repeats, spread.spread),
            )
        )
    return found


def plan_line(contents: Contents, review: Review, bench_plan: BenchPlan) -> str:
    """What the plan comes to, in one sentence."""
    if not review.seats or not review.case_ids:
        return (
            "Nothing to plan yet: the review needs rigs and cases. Describe them or import a log."
        )
    left = sum(cell.left for cell in bench_plan.kept)
    if not left and not bench_plan.dropped:
        return "Nothing is left to measure: every planned pass is done."
    order = bench_plan.order
    said = (
        f"{count_text(left, 'pass', 'passes')} left in {duration_text(order.minutes * 60)} with "
        f"{count_text(order.swaps, 'swap')}"
    )
    if bench_plan.dropped:
        said += (
            f"; {count_text(len(bench_plan.dropped), 'cell')} given up, {bench_plan.triplets} of "
            f"{bench_plan.triplets_in_all} comparisons whole"
        )
        if bench_plan.optimal:
            said += ", and no choice in this time has more"
        else:
            said += f", at least {percent_text(bench_plan.of_best)} of what any choice could have"
        return f"{said}."
    if order.minutes_spread > 1:
        said += (
            "; spreading the repeats costs "
            f"{duration_text(round(order.minutes_spread) * 60)} of it, and shows a drift"
        )
    if order.minutes_saved > 1:
        said += f", {duration_text(order.minutes_saved * 60)} less than rig by rig as entered"
    if bench_plan.table.late:
        said += f"; {count_text(len(bench_plan.table.late), 'step')} would come after the deadline"
    return f"{said}."


def enough_line(contents: Contents, bench_plan: BenchPlan) -> str:
    """Whether the repeats can show what the review asks, in one sentence."""
    plan = bench_plan.plan
    short = [one for one in bench_plan.enough if one.needed > plan.repeats]
    spare = [one for one in bench_plan.enough if one.needed < plan.repeats]
    want = percent_text(plan.difference)
    if not bench_plan.enough:
        needed = repeats_needed(plan.difference, plan.spread)
        return (
            f"At a spread of {percent_text(plan.spread)} from run to run it takes "
            f"{count_text(needed, 'repeat')} to show a difference of {want}."
        )
    if short:
        names = list_text([contents.case_label(one.case_id) for one in short[:2]])
        more = f" and {count_text(len(short) - 2, 'other')}" if len(short) > 2 else ""
        most = max(one.needed for one in short)
        return (
            f"{count_text(plan.repeats, 'repeat')} cannot show a difference of {want} on {names}"
            f"{more}: that takes up to {most}."
        )
    if spare:
        return (
            f"{count_text(plan.repeats, 'repeat')} show a difference of {want}; on "
            f"{count_text(len(spare), 'case')} fewer would do."
        )
    return f"{count_text(plan.repeats, 'repeat')} are just enough to show a difference of {want}."


def enough_words(one: Enough) -> str:
    """A case's spread, what it asks for, and what the planned repeats can show."""
    spread = percent_text(one.spread.spread, decimals=1)
    on = "assumed" if one.spread.is_assumed else f"from {count_text(one.spread.freedom, 'repeat')}"
    return (
        f"run-to-run spread {spread} ({on}): {count_text(one.needed, 'repeat')} needed; the plan "
        f"shows differences from {percent_text(one.shows, decimals=1)} up"
    )


def saved_words(bench_plan: BenchPlan) -> str:
    """What the order saves, and how sure it is to be the shortest."""
    order = bench_plan.order
    if not order.items:
        return "Nothing is planned, so there is no order yet."
    tour = order.tour
    sure = (
        "its swaps follow the shortest tour"
        if tour.exact
        else f"its swaps take at most {percent_text(tour.gap)} longer than the shortest tour"
    )
    spread = order.minutes_spread
    said = f"Rig by rig as entered, all repeats at once, takes {_hours(order.minutes_as_entered)}; "
    said += f"this order {_hours(order.minutes)}; {sure}."
    if bench_plan.plan.spread_repeats and spread > 1:
        said += (
            f" Spreading the repeats over rounds costs {duration_text(round(spread) * 60)}: a rig "
            "that heats up or slows down then shows, instead of passing for the title that came "
            "last."
        )
    elif not bench_plan.plan.spread_repeats:
        said += " All repeats of a case come at once, so a drift may pass for the title."
    return said


def _hours(minutes: float) -> str:
    return amount(round(minutes / 60, 1), "h")
