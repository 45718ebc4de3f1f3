"""Checks that see a run among its repeats, or all runs of a bench day."""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from statistics import median

from blunt_ruler.core.checks.findings import Check, Finding, RunFacts
from blunt_ruler.core.checks.registry import AllRuns, Cell, Repeats, Scope, check
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.resolution import pixels
from blunt_ruler.core.text import count_text, fps_text, percent_text

MAD_TO_SD = 1.4826
# Croux and Rousseeuw's factors for few values, transcribed from memory.
SMALL_SAMPLE = {2: 1.196, 3: 1.495, 4: 1.363, 5: 1.206, 6: 1.2, 7: 1.14, 8: 1.129, 9: 1.107}
SMALLEST_SPREAD = 0.004
LIVE_SPREAD = 0.03  # no two passes of live play take the same way; common practice, no source
PICTURE_BYTES = 4
DAY_RUNS = 8
DAY_HOURS = 1.0


def rate_of(facts: RunFacts) -> float | None:
    """The rate or score that repeats are compared by."""
    if facts.run.average_fps is not None:
        return facts.run.average_fps
    return facts.run.typed.score if facts.run.typed else None


def _alike(facts: RunFacts, others: Sequence[RunFacts]) -> list[RunFacts]:
    """Those that tell the same quantity as a run: rates beside rates, scores beside scores."""
    has_rate = facts.run.average_fps is not None
    return [one for one in others if (one.run.average_fps is not None) == has_rate]


def by_cell(runs: Sequence[RunFacts]) -> dict[Cell, list[RunFacts]]:
    """Runs by rig and case."""
    cells: dict[Cell, list[RunFacts]] = defaultdict(list)
    for facts in runs:
        cells[facts.run.rig_id, facts.run.case_id].append(facts)
    return cells


def spread_by_title(sound: Mapping[Cell, Sequence[RunFacts]]) -> dict[str, float]:
    """Robust run-to-run spread of the log rate of each title: the median over its cells of the
    median absolute deviation, as a standard deviation. Titles without repeats are not in it.
    """
    of_title: dict[str, list[float]] = defaultdict(list)
    floors: dict[str, float] = {}
    for repeats in sound.values():
        alike = _alike(repeats[0], repeats)
        logs = [math.log(rate) for facts in alike if (rate := rate_of(facts))]
        case = repeats[0].case
        if case is None:
            continue
        live = case.method == "live play"
        floors[case.title_id] = LIVE_SPREAD if live else SMALLEST_SPREAD
        if len(logs) > 1:
            middle = median(logs)
            deviation = median(abs(one - middle) for one in logs)
            factor = MAD_TO_SD * SMALL_SAMPLE.get(len(logs), 1.0)
            of_title[case.title_id].append(factor * deviation)
    return {title: max(median(all_), floors[title]) for title, all_ in of_title.items()}


@check(Scope.REPEATS)
def disagreeing_repeat(cell: Repeats) -> Iterator[Finding]:
    """Passes of one cell that are further from its median than passes usually are.

    Of two passes alone nobody can say which is wrong: the later one is named.
    """
    for facts in cell.runs:
        rates = {one.run.id: rate for one in _alike(facts, cell.sound) if (rate := rate_of(one))}
        own = rate_of(facts)
        others = [rate for run_id, rate in rates.items() if run_id != facts.run.id]
        if own is None or not others:
            continue
        if len(others) == 1 and facts.run.id in rates and facts.run.id != list(rates)[-1]:
            continue
        middle = median(others)
        off = own / middle - 1.0
        allowed = max(
            cell.thresholds.repeat_spreads * cell.spread * math.sqrt(1.0 + 1.0 / len(others)),
            cell.thresholds.repeat_share,
        )
        if abs(math.log1p(off)) <= allowed:
            continue
        yield Finding(
            Check.DISAGREEING_REPEAT,
            Severity.CAUTION,
            facts.run.id,
            f"{fps_text(own)} is {percent_text(off, signed=True)} against the "
            f"{fps_text(middle)} of {count_text(len(others), 'other pass', 'other passes')}.",
            "Take it once more, and set aside the pass that stands alone.",
            {
                "rate": round(own, 2),
                "median_of_others": round(middle, 2),
                "off": round(off, 4),
                "allowed": round(allowed, 4),
                "others": float(len(others)),
            },
            tuple(run_id for run_id in rates if run_id != facts.run.id),
        )


@check(Scope.SLIP)
def sent_back(cell: Repeats) -> Iterator[Finding]:
    """More bytes per frame than the other passes, by about one picture: it left by the host."""
    per_frame = {
        facts.run.id: mb for facts in cell.sound if (mb := _mb_per_frame(facts)) is not None
    }
    for facts in cell.runs:
        own = _mb_per_frame(facts)
        others = [mb for run_id, mb in per_frame.items() if run_id != facts.run.id]
        size = pixels(facts.case.resolution) if facts.case else None
        if own is None or not others or size is None:
            continue
        picture_mb = size[0] * size[1] * PICTURE_BYTES / 1e6
        extra = own - median(others)
        if not 0.7 <= extra / picture_mb <= 1.4:
            continue
        yield Finding(
            Check.WRONG_DEVICE,
            Severity.BLOCKING,
            facts.run.id,
            f"each frame moves {extra:.1f}\u202fMB more over the link than in other passes, about "
            f"one picture ({picture_mb:.1f}\u202fMB): it goes out through the host.",
            "Plug the monitor into the card, and take it again.",
            {
                "extra_mb_per_frame": round(extra, 2),
                "picture_mb": round(picture_mb, 2),
                "others": float(len(others)),
            },
        )


def _mb_per_frame(facts: RunFacts) -> float | None:
    traffic, rate = facts.gauge(Gauge.LINK_TRAFFIC), facts.run.average_fps
    return None if traffic is None or not rate else 1000.0 * traffic.mean / rate


@check(Scope.SLIP)
def typed_misfit(cell: Repeats) -> Iterator[Finding]:
    """A typed figure that does not fit the passes beside it by far: a slip of the keys."""
    for facts in cell.runs:
        own = rate_of(facts)
        if facts.run.typed is None or own is None:
            continue
        alike = _alike(facts, cell.sound)
        others = [r for one in alike if one.run.id != facts.run.id and (r := rate_of(one))]
        if not others:
            continue
        middle = median(others)
        if max(own / middle, middle / own) < cell.thresholds.misfit:
            continue
        meant = min((own / 10.0, own / 100.0, own * 10.0), key=lambda m: abs(math.log(m / middle)))
        ask = f" Was {meant:g} meant?" if abs(meant / middle - 1.0) < 0.2 else ""
        yield Finding(
            Check.IMPOSSIBLE_FIGURES,
            Severity.BLOCKING,
            facts.run.id,
            f"{own:g} was typed where other passes have {fps_text(middle)}.",
            f"Look at the source of the figure and type it again.{ask}",
            {"typed": own, "median_of_others": round(middle, 2)},
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
        held = abs(figures.average_fps / median(rates) - 1.0) < 2.5 * cell.thresholds.level
        if own < cell.thresholds.collapsed * usual and held:
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
    """One trace behind two runs."""
    first: dict[str, RunFacts] = {}
    for facts in all_runs.runs:
        sha256 = facts.run.trace_sha256
        if sha256 is None:
            continue
        if sha256 not in first:
            first[sha256] = facts
            continue
        known = first[sha256]
        yield Finding(
            Check.SAME_TRACE,
            Severity.BLOCKING,
            facts.run.id,
            f"its trace is the one of {known.where or known.run.origin.file}.",
            "Set one of the two aside and import the log that was meant.",
            {"sha256": sha256[:12], "first": known.run.id},
            (known.run.id,),
        )


@check(Scope.REVIEW)
def day_drift(all_runs: AllRuns) -> Iterator[Finding]:
    """Rates of one rig that fall or rise over a bench day, each against its own cell."""
    from scipy.stats import theilslopes

    days: dict[tuple[str, str], list[tuple[float, float, RunFacts]]] = defaultdict(list)
    for repeats in all_runs.sound.values():
        rates = [rate for facts in repeats if (rate := facts.run.average_fps)]
        if len(rates) < 2:
            continue
        middle = median(rates)
        for facts in repeats:
            moment = facts.run.moment
            if moment is not None and facts.run.average_fps:
                key = (facts.run.rig_id, moment.date().isoformat())
                off = math.log(facts.run.average_fps / middle)
                days[key].append((moment.timestamp() / 3600.0, off, facts))
    for (_, day), points in days.items():
        hours = [point[0] for point in points]
        if len(points) < DAY_RUNS or max(hours) - min(hours) < DAY_HOURS:
            continue
        slope, _, low, high = theilslopes([point[1] for point in points], hours)
        change = float(slope) * (max(hours) - min(hours))
        if abs(change) < all_runs.thresholds.drift or low <= 0 <= high:
            continue
        last = max(points, key=lambda point: point[0])[2]
        yield Finding(
            Check.DRIFT,
            Severity.CAUTION,
            last.run.id,
            f"over {day} the rates of this rig moved by {percent_text(change, signed=True)}, each "
            "against its own case.",
            "Let the room and the rig settle, and take the control case again.",
            {"change": round(change, 4), "runs": float(len(points)), "day": day},
        )
