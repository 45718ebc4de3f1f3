"""Checks that see a run among its repeats, or all runs of a bench day."""

import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from statistics import median

from blunt_ruler.core.checks.by_eye import read_by_eye
from blunt_ruler.core.checks.consensus import MAD_TO_SD, Expected, judge
from blunt_ruler.core.checks.findings import About, Check, Finding, RunFacts
from blunt_ruler.core.checks.registry import AllRuns, Repeats, Scope, check
from blunt_ruler.core.checks.told import Cells
from blunt_ruler.core.measure.kinds import Bound, bound_of
from blunt_ruler.core.measure.profile import places, same_recording
from blunt_ruler.core.measure.resolution import pixels
from blunt_ruler.core.measure.robust_line import theil_sen
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.once import Cell, Handover
from blunt_ruler.core.plan.repeats_needed import ASSUMED_SPREAD
from blunt_ruler.core.records.records import Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.text import count_text, fps_text, percent_text

# Croux and Rousseeuw's factors for few values, transcribed from memory; a test holds them against
# a simulation of normal values.
SMALL_SAMPLE = {2: 1.196, 3: 1.495, 4: 1.363, 5: 1.206, 6: 1.2, 7: 1.14, 8: 1.129, 9: 1.107}
SMALLEST_SPREAD = 0.004
LIVE_SPREAD = 0.03  # no two passes of live play take the same way; common practice, no source
PICTURE_BYTES = 4
PICTURE_APART = 0.35  # of a picture: what else a frame moves differs less from pass to pass
SLIP_SPREADS = 5.0
PRIOR_PASSES = 4
FEW_REPEATS = 3
ALIKE_PLACES = 3
TELLS = 3  # what a place tells against one of a stall
IN_ONE_STALL = 10  # frames between the first and the last of four
MOST_ALIKE = 50  # places that more runs share are a lock's, and tell nothing
DAY_RUNS = 8
DAY_HOURS = 1.0
STEP_CELLS, LEAST_STEP, STEP_ERRORS = 4, 0.015, 4.0  # cells, log rate, standard errors
STEP_EFFICIENCY = 1.2533  # √(π/2): a median's standard error over a mean's


def rate_of(facts: RunFacts) -> float | None:
    """The rate or score that repeats are compared by."""
    if facts.run.average_fps is not None:
        return facts.run.average_fps
    return facts.run.typed.score if facts.run.typed else None


def _alike(facts: RunFacts, others: Sequence[RunFacts]) -> list[RunFacts]:
    """Those that tell the same quantity as a run: rates beside rates, scores beside scores."""
    has_rate = facts.run.average_fps is not None
    return [one for one in others if (one.run.average_fps is not None) == has_rate]


def _is_bound(run: Run) -> bool:
    """Whether a run's rate is only what the true one lies above or below."""
    return run.average_fps is not None and bound_of([run.how_read.kind]) is not Bound.POINT


def _reading_error(run: Run) -> float:
    """Standard deviation of the log of a run's rate by the way it was read; 0 for scores."""
    rate = run.average_fps
    return 0.0 if rate is None else math.sqrt(run.how_read.error(rate)[0])


def by_cell(runs: Sequence[RunFacts]) -> dict[Cell, list[RunFacts]]:
    """Runs by rig and case."""
    cells: dict[Cell, list[RunFacts]] = defaultdict(list)
    for facts in runs:
        cells[facts.run.rig_id, facts.run.case_id].append(facts)
    return cells


def spread_by_title(sound: Mapping[str, Cells], handover: Handover) -> dict[str, float]:
    """Robust run-to-run spread of the log rate of each title, whose sound runs are given by cell:
    the median over its cells of the median absolute deviation, as a standard deviation, drawn
    toward the review's where it rests on few repeats. Titles without repeats are not in it.
    """
    every = {
        title: handover.of(
            ("spreads", title), (tuple(cells.values()),), partial(_spreads_of, cells)
        )
        for title, cells in sound.items()
    }
    everywhere = [
        one for of_cells, _, floor in every.values() if floor < LIVE_SPREAD for one in of_cells
    ]
    usual = median(everywhere) if len(everywhere) > PRIOR_PASSES else ASSUMED_SPREAD
    return {
        title: max(_drawn(median(of_cells), freedom, usual), floor)
        for title, (of_cells, freedom, floor) in every.items()
        if of_cells
    }


def _spreads_of(cells: Cells) -> tuple[tuple[float, ...], int, float]:
    """(robust spreads of a title's cells, passes after the first of each, its least spread)."""
    found, freedom, floor = [], 0, SMALLEST_SPREAD
    for repeats in cells.values():
        case = repeats[0].case
        if case is not None:
            floor = LIVE_SPREAD if case.method == "live play" else SMALLEST_SPREAD
            spread, more = _spread_of_cell(repeats)
            if more:
                found.append(spread)
                freedom += more
    return tuple(found), freedom, floor


def _spread_of_cell(repeats: Sequence[RunFacts]) -> tuple[float, int]:
    """(robust spread of the log rate of a cell, passes after the first)."""
    points = [facts for facts in repeats if not _is_bound(facts.run)]
    alike = _alike(points[0], points) if points else []
    logs = [math.log(rate) for facts in alike if (rate := rate_of(facts))]
    if len(logs) < 2:
        return 0.0, 0
    middle = median(logs)
    deviation = median(abs(one - middle) for one in logs)
    return MAD_TO_SD * SMALL_SAMPLE.get(len(logs), 1.0) * deviation, len(logs) - 1


def _drawn(own: float, freedom: int, usual: float) -> float:
    """A title's spread drawn toward the review's, as if that were PRIOR_PASSES repeats more.

    With one or two repeats the spread may be an odd pass itself: it counts for twice the usual
    at most.
    """
    if freedom < FEW_REPEATS:
        own = min(own, 2.0 * usual)
    squares = freedom * own**2 + PRIOR_PASSES * usual**2
    return math.sqrt(squares / (freedom + PRIOR_PASSES))


def _expected(facts: RunFacts, cell: Repeats) -> Callable[[], Expected | None]:
    """What other cells expect of rates; of scores they say nothing."""
    return cell.expected if facts.run.average_fps is not None else lambda: None


@check(Scope.REPEATS)
def disagreeing_repeat(cell: Repeats) -> Iterator[Finding]:
    """Passes of one cell that stand apart from those that agree.

    Where no majority agrees and the plan's other cells do not tell either, the cell is named and
    no pass of it.
    """
    judged = {facts.run.id for facts in cell.runs}
    points = [facts for facts in cell.sound if not _is_bound(facts.run)]
    runs = _alike(points[0], points) if points else []
    rates = [(facts, rate) for facts in runs if (rate := rate_of(facts))]
    if len(rates) < 2:
        return
    agreeing = max(len(rates) - 1, 1)
    allowed = max(
        cell.thresholds.repeat_spreads * cell.spread * math.sqrt(1.0 + 1.0 / agreeing),
        math.log1p(cell.thresholds.repeat_share),
    )
    verdict = judge(
        [math.log(rate) for _, rate in rates],
        allowed,
        _expected(runs[0], cell),
        [cell.thresholds.repeat_spreads * _reading_error(facts.run) for facts, _ in rates],
    )
    ids = tuple(facts.run.id for facts, _ in rates)
    if verdict.undecided and any(run_id in judged for run_id in ids):
        said = ", ".join(f"{rate:.1f}" for _, rate in rates)
        yield Finding(
            Check.DISAGREEING_REPEAT,
            Severity.CAUTION,
            ids[0],
            f"{count_text(len(rates), 'pass', 'passes')} of this cell disagree ({said}), and "
            "nothing shows which is right.",
            "Run it again: two passes that agree will settle it.",
            {"allowed": round(allowed, 4), "passes": float(len(rates))},
            ids[1:],
            signs=("they do not agree",),
            about=About.CELL,
        )
    for index in verdict.odd:
        facts, own = rates[index]
        if facts.run.id not in judged:
            continue
        middle = math.exp(verdict.middle)
        off = own / middle - 1.0
        signs = [f"{count_text(verdict.agreeing, 'other pass', 'other passes')} without it agree"]
        if verdict.by_expected:
            signs = ["the plan's other cells expect the others"]
        yield Finding(
            Check.DISAGREEING_REPEAT,
            Severity.CAUTION,
            facts.run.id,
            f"{fps_text(own)} is {percent_text(off, signed=True)} against the "
            f"{fps_text(middle)} of {count_text(verdict.agreeing, 'other pass', 'other passes')}.",
            "Run it again, and set aside the odd pass.",
            {
                "rate": round(own, 2),
                "median_of_others": round(middle, 2),
                "off": round(off, 4),
                "allowed": round(allowed, 4),
                "others": float(verdict.agreeing),
            },
            tuple(run_id for run_id in ids if run_id != facts.run.id),
            signs=tuple(signs),
        )


@check(Scope.SLIP)
def sent_back(cell: Repeats) -> Iterator[Finding]:
    """More bytes per frame than the other passes, by about one picture: it left by the host."""
    beside = {facts.run.id: facts for facts in (*cell.sound, *cell.runs)}
    per_frame = [
        (facts, mb) for facts in beside.values() if (mb := _mb_per_frame(facts)) is not None
    ]
    size = pixels(per_frame[0][0].case.resolution) if per_frame and per_frame[0][0].case else None
    if size is None:
        return
    judged = {facts.run.id for facts in cell.runs}
    picture_mb = size[0] * size[1] * PICTURE_BYTES / 1e6
    verdict = judge([mb for _, mb in per_frame], PICTURE_APART * picture_mb)
    odd: Sequence[int] = verdict.odd
    middle = verdict.middle
    if verdict.undecided and len(per_frame) == 2:  # a picture is never less than none
        middle = min(mb for _, mb in per_frame)
        odd = (max(range(2), key=lambda i: per_frame[i][1]),)
    for index in odd:
        facts, own = per_frame[index]
        extra = own - middle
        if facts.run.id not in judged or not 0.7 <= extra / picture_mb <= 1.4:
            continue
        yield Finding(
            Check.WRONG_DEVICE,
            Severity.BLOCKING,
            facts.run.id,
            f"each frame moves {extra:.1f}\u202fMB more over the link than in other passes, about "
            f"one picture ({picture_mb:.1f}\u202fMB): it goes out through the host.",
            "Plug the monitor into the card, then repeat the run.",
            {
                "extra_mb_per_frame": round(extra, 2),
                "picture_mb": round(picture_mb, 2),
                "others": float(len(per_frame) - 1),
            },
        )


def _mb_per_frame(facts: RunFacts) -> float | None:
    traffic, rate = facts.gauge(Gauge.LINK_TRAFFIC), facts.run.average_fps
    return None if traffic is None or not rate else 1000.0 * traffic.mean / rate


@check(Scope.SLIP)
def typed_misfit(cell: Repeats) -> Iterator[Finding]:
    """A typed figure that does not fit the passes beside it by far: a slip of the keys.

    A figure alone is asked after where the plan's other cells expect another by far.
    """
    beside = {facts.run.id: facts for facts in (*cell.sound, *cell.runs)}
    runs = _alike(next(iter(beside.values())), list(beside.values())) if beside else []
    rates = [(facts, rate) for facts in runs if (rate := rate_of(facts))]
    judged = {facts.run.id for facts in cell.runs if facts.run.typed is not None}
    if not any(facts.run.id in judged for facts, _ in rates):
        return
    far = math.log(cell.thresholds.misfit)
    if len(rates) == 1:
        facts, own = rates[0]
        expected = cell.expected()
        if expected is None or facts.run.average_fps is None:
            return
        off = abs(math.log(own) - expected.log_rate)
        if off > max(far, SLIP_SPREADS * expected.spread):
            yield _misfit(
                facts, own, math.exp(expected.log_rate), "the plan's other cells expect", False
            )
        return
    verdict = judge([math.log(rate) for _, rate in rates], far, _expected(runs[0], cell))
    ids = tuple(facts.run.id for facts, _ in rates)
    if verdict.undecided:
        said = ", ".join(f"{rate:g}" for _, rate in rates)
        yield Finding(
            Check.IMPOSSIBLE_FIGURES,
            Severity.BLOCKING,
            ids[0],
            f"{said} are in one cell: one of them is a slip, and nothing shows which.",
            "Look at the source of the figures and type them again.",
            {"passes": float(len(rates))},
            ids[1:],
            about=About.CELL,
        )
    for index in verdict.odd:
        facts, own = rates[index]
        if facts.run.id in judged:
            yield _misfit(facts, own, math.exp(verdict.middle), "other passes have", True)


def _misfit(facts: RunFacts, own: float, usual: float, who: str, stops: bool) -> Finding:
    meant = min((own / 10.0, own / 100.0, own * 10.0), key=lambda m: abs(math.log(m / usual)))
    near = 0.2 if stops else 0.6  # other cells tell the size of a figure, not the figure
    ask = f" Was {meant:g} meant?" if abs(meant / usual - 1.0) < near else ""
    return Finding(
        Check.IMPOSSIBLE_FIGURES,
        Severity.BLOCKING if stops else Severity.CAUTION,
        facts.run.id,
        f"{own:g} was typed where {who} {fps_text(usual)}{'' if stops else ' or so'}.",
        f"Look at the source of the figure and type it again.{ask}",
        {"typed": own, "median_of_others": round(usual, 2)},
    )


@check(Scope.REPEATS)
def collapsed_low(cell: Repeats) -> Iterator[Finding]:
    """The 1 % low fell and the average did not: something stalls now and then."""
    steadiness = {
        facts.run.id: low / facts.run.figures.average_fps
        for facts in cell.sound
        if facts.run.figures and (low := facts.run.figures.low_1.percentile)
    }
    averages = {facts.run.id: rate for facts in cell.sound if (rate := facts.run.average_fps)}
    for facts in cell.runs:
        figures = facts.run.figures
        others = [value for run_id, value in steadiness.items() if run_id != facts.run.id]
        rates = [value for run_id, value in averages.items() if run_id != facts.run.id]
        low = figures.low_1.percentile if figures else None
        if figures is None or low is None or not others:
            continue
        own, usual = low / figures.average_fps, median(others)
        lower = sum(own < cell.thresholds.collapsed * other for other in others)
        held = abs(figures.average_fps / median(rates) - 1.0) < 2.5 * cell.thresholds.level
        if 2 * lower > len(others) and held:
            yield Finding(
                Check.COLLAPSED_LOW,
                Severity.CAUTION,
                facts.run.id,
                f"the 1 % low is {percent_text(own)} of the average, in other passes "
                f"{percent_text(usual)}, and the average holds.",
                "Look for a full memory, a program in the way or a cord that stalls; take it "
                "again.",
                {"steadiness": round(own, 4), "steadiness_of_others": round(usual, 4)},
            )


@check(Scope.TRACES)
def same_trace(all_runs: AllRuns) -> Iterator[Finding]:
    """One trace behind two runs, byte for byte or saved anew: rounded, converted, cut."""
    traced = [(run, address) for run in all_runs.runs if (address := run.trace_sha256) is not None]
    addresses = tuple(address for _, address in traced)
    peaks = tuple(_peaks(run) for run, _ in traced)
    # Edits seldom touch a trace, and all are held against all.
    copies = all_runs.handover.of(
        ("copies",), (addresses, peaks), lambda: _copies(addresses, peaks)
    )
    for at, of, is_anew in copies:
        (run, _), (known, _), words = traced[at], traced[of], ""
        if is_anew:
            words = ", saved again: its longest frames are in the same places"
            if _frames(known) < _frames(run):  # the copy is the one that is cut
                known, run = run, known
        yield Finding(
            Check.SAME_TRACE,
            Severity.BLOCKING,
            run.id,
            f"its trace is the one of {all_runs.told.facts(known.id).where}{words}.",
            "Set one of the two aside and import the log that was meant.",
            {"sha256": (run.trace_sha256 or "")[:12], "first": known.id},
            (known.id,),
        )


def _peaks(run: Run) -> str:
    return run.observed.peaks if run.observed else ""


def _frames(run: Run) -> int:
    return run.figures.frames if run.figures else 0


def _copies(
    addresses: tuple[str, ...], peaks: tuple[str, ...]
) -> tuple[tuple[int, int, bool], ...]:
    """(trace, an earlier one of the same recording, whether it was saved anew) of all that are no
    firsts, by their places among the traces.
    """
    first: dict[str, int] = {}
    by_place: dict[tuple[int, int, int], list[int]] = defaultdict(list)
    found = []
    for at, address in enumerate(addresses):
        known = first.setdefault(address, at)
        if known != at:
            found.append((at, known, False))
            continue
        here = places(peaks[at])
        again = _saved_anew(at, here, by_place, peaks)
        for place in here:
            by_place[place].append(at)
        if again is not None:
            found.append((at, again, True))
    return tuple(found)


def _saved_anew(
    at: int,
    here: Sequence[tuple[int, int, int]],
    by_place: Mapping[tuple[int, int, int], Sequence[int]],
    peaks: Sequence[str],
) -> int | None:
    """An earlier trace of the same recording; None where there is none."""
    met: dict[int, int] = defaultdict(int)
    for place in here:
        # Four in a row of one stall stand the same way in many recordings: such tell less.
        tells = 1 if sum(place) <= IN_ONE_STALL else TELLS
        for known in by_place.get(place, ())[:MOST_ALIKE]:
            before = met[known]
            met[known] = now = before + tells
            if before < ALIKE_PLACES * TELLS <= now and same_recording(peaks[at], peaks[known]):
                return known
    return None


@check(Scope.REVIEW)
def sitting_step(all_runs: AllRuns) -> Iterator[Finding]:
    """Cells of one rig that all move one way from one day to the next: a driver, another cable,
    the heat of the room.
    """
    for rig_id, cells in all_runs.of_rig.items():
        yield from all_runs.handover.of(
            ("sittings", rig_id), (tuple(cells),), partial(_steps, cells)
        )


def _steps(cells: Sequence[Sequence[RunFacts]]) -> tuple[Finding, ...]:
    moved: dict[tuple[str, str], list[tuple[float, list[Run]]]] = defaultdict(list)
    for repeats in cells:
        days: dict[str, list[Run]] = defaultdict(list)
        for facts in repeats:
            if facts.run.moment is not None and facts.run.average_fps:
                days[facts.run.moment.date().isoformat()].append(facts.run)
        for (before, earlier), (after, later) in itertools.pairwise(sorted(days.items())):
            moved[before, after].append((_mean_log(later) - _mean_log(earlier), later))
    return tuple(
        found
        for (before, after), steps in sorted(moved.items())
        if (found := _step_found(before, after, steps)) is not None
    )


def _mean_log(runs: Sequence[Run]) -> float:
    logs = [math.log(run.average_fps) for run in runs if run.average_fps]
    return math.fsum(logs) / len(logs)


def _step_found(
    before: str, after: str, steps: Sequence[tuple[float, list[Run]]]
) -> Finding | None:
    """A step that all cells share: beyond STEP_ERRORS of its own error, and LEAST_STEP."""
    if len(steps) < STEP_CELLS:
        return None
    by = [step for step, _ in steps]
    middle = median(by)
    off = MAD_TO_SD * median(abs(one - middle) for one in by)
    error = max(off, SMALLEST_SPREAD) * STEP_EFFICIENCY / math.sqrt(len(by))
    same_way = sum(one * middle > 0 for one in by)
    if abs(middle) < max(LEAST_STEP, STEP_ERRORS * error) or same_way < len(by):
        return None
    ids = [run.id for _, runs in steps for run in runs]
    return Finding(
        Check.SITTING_STEP,
        Severity.CAUTION,
        ids[0],
        f"from {before} to {after} all {len(by)} cells of this rig that have both days moved by "
        f"{percent_text(math.expm1(middle), signed=True)}: something else changed.",
        "See what did (a driver, a cable, the room), and note it as a Change.",
        {"change": round(math.expm1(middle), 4), "cells": float(len(by)), "day": after},
        tuple(ids[1:]),
        signs=(f"{count_text(len(by), 'cell')} moved one way",),
        about=About.CASE,
    )


@check(Scope.REVIEW)
def day_drift(all_runs: AllRuns) -> Iterator[Finding]:
    """Rates of one rig that fall or rise over a bench day, each against its own cell."""
    thresholds = all_runs.thresholds
    for rig_id, cells in all_runs.of_rig.items():
        yield from all_runs.handover.of(
            ("drifts", rig_id),
            (thresholds, tuple(cells)),
            partial(_drifts, cells, thresholds, all_runs.handover),
        )


Point = tuple[float, float, str]
"""(hour it was taken, log of its rate against the middle of its cell, its id)."""


def _points(repeats: Sequence[RunFacts]) -> tuple[tuple[str, Point], ...]:
    """The passes of a cell as points of their days."""
    counted = [facts.run for facts in repeats if not read_by_eye(facts.run)]
    rates = [rate for run in counted if (rate := run.average_fps)]
    if len(rates) < 2:
        return ()
    middle = median(rates)
    return tuple(
        (moment.date().isoformat(), (moment.timestamp() / 3600.0, math.log(rate / middle), run.id))
        for run in counted
        if (rate := run.average_fps) and (moment := run.moment) is not None
    )


def _drifts(
    cells: Sequence[Sequence[RunFacts]], thresholds: Thresholds, handover: Handover
) -> tuple[Finding, ...]:
    days: dict[str, list[Point]] = defaultdict(list)
    found = []
    for repeats in cells:
        run = repeats[0].run
        place = ("points", run.rig_id, run.case_id)
        for day, point in handover.of(place, (tuple(repeats),), partial(_points, repeats)):
            days[day].append(point)
    for day, points in days.items():
        hours = [point[0] for point in points]
        if len(points) < DAY_RUNS or max(hours) - min(hours) < DAY_HOURS:
            continue
        slope, low, high = theil_sen([point[1] for point in points], hours)
        change = slope * (max(hours) - min(hours))
        if abs(change) < thresholds.drift or low <= 0 <= high:
            continue
        _, _, last_id = max(points, key=lambda point: point[0])
        found.append(
            Finding(
                Check.DRIFT,
                Severity.CAUTION,
                last_id,
                f"over {day} the rates of this rig moved by "
                f"{percent_text(change, signed=True)}, each against its own case.",
                "Let the room and the rig settle, and take the control case again.",
                {"change": round(change, 4), "runs": float(len(points)), "day": day},
            )
        )
    return tuple(found)
