"""Build the demo logbook: play every run on the simulated bench, write its log as its recorder
would, and import that log through the same door as anyone's.
"""

import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path

from blunt_ruler.bench.log_files import HABITS, write_log
from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_tests, bench_titles
from blunt_ruler.bench.synthetics import play_test
from blunt_ruler.core.records.records import Decision, Origin, PartScore, Run, Trace, TypedFigures
from blunt_ruler.core.runs.import_runs import seen_in
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.demo import scenario
from blunt_ruler.demo.hardware import RIGS
from blunt_ruler.exchange.logs.frame_logs import origin_of, read_log
from blunt_ruler.logbook import Logbook

FIRST_RUN = datetime(2026, 10, 5, 18, 30, tzinfo=UTC)  # a Monday, after closing time
RUNS_PER_EVENING = 40
SWAP_S = 900.0
PACKED = 19  # the shipped logbook is packed once and copied often


@cache
def _ends_s() -> tuple[float, ...]:
    """Seconds from the start of its evening at which each run ended, as the plan's times go."""
    ends: list[float] = []
    now, last = 0.0, None
    for number, planned in enumerate(scenario.planned_runs()):
        title_id = next(c.title_id for c in scenario.CASES if c.id == planned.case_id)
        times = scenario.PLAN.times_of(title_id)
        if number % RUNS_PER_EVENING == 0:
            now, last = 0.0, None
        if last is None or last[0] != planned.rig_id:
            now += SWAP_S
        if last is None or last[:2] != (planned.rig_id, title_id):
            now += times.load_s + scenario.SECONDS  # and a pass that is not counted
        if last is None or last != (planned.rig_id, title_id, planned.case_id):
            now += times.settings_s
        now += scenario.SECONDS + scenario.PLAN.cool_down_s
        ends.append(now)
        last = planned.rig_id, title_id, planned.case_id
    return tuple(ends)


def taken_at(number: int) -> str:
    """When run `number` of the demo ended: evenings after closing time, one run after another."""
    ends = _ends_s()
    seconds = ends[number] if number < len(ends) else ends[-1] + 240.0
    evening = min(number, len(ends) - 1) // RUNS_PER_EVENING
    moment = FIRST_RUN + timedelta(days=evening, seconds=round(seconds))
    return moment.isoformat(timespec="seconds")


def take_run(
    planned: scenario.PlannedRun, number: int, folder: Path, seed: int = scenario.SEED
) -> tuple[Run, Trace]:
    """Play, log and import one run. `folder` receives the log."""
    rig = next(rig for rig in RIGS if rig.id == planned.rig_id)
    case = next(case for case in scenario.CASES if case.id == planned.case_id)
    title = next(title for title in scenario.TITLES if title.id == case.title_id)
    setting = Setting(bench_titles()[title.name], case.resolution, case.preset, scenario.SECONDS)
    played = play_run(bench_rigs()[rig.name], setting, seed, planned.repeat, planned.faults)
    habit = HABITS[scenario.RECORDER_HABITS[rig.id]]
    log = write_log(
        folder / f"{planned.rig_id}_{planned.case_id}_{planned.repeat}.csv", played, habit
    )
    reading = read_log(log)
    assert reading.trace is not None, log.name
    figures, observed = seen_in(reading.trace, log.name)
    run = Run(
        id=f"{planned.rig_id}_{planned.case_id}_{planned.repeat}",
        rig_id=planned.rig_id,
        case_id=planned.case_id,
        repeat=planned.repeat,
        taken_at=taken_at(number),
        origin=origin_of(reading, "simulated"),
        figures=figures,
        observed=observed,
        decision=Decision.SET_ASIDE if planned.reason else Decision.KEEP,
        reason=planned.reason,
    )
    return run, reading.trace


def typed_slip(number: int) -> Run:
    """The slip of the demo: 519 typed for 51.9, noticed and set aside."""
    return Run(
        id="built-in-ig-6_low-lantern-1080p_typed",
        rig_id="built-in-ig-6",
        case_id="low-lantern-1080p",
        repeat=4,
        taken_at=taken_at(number),
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=519.0, low_1_fps=44.1),
        decision=Decision.SET_ASIDE,
        reason="typed slip: 519 for 51.9",
    )


def score_runs() -> list[Run]:
    """One pass of every synthetic test on every rig, taken before the pre-flight lists were gone
    through; its parts as the bench told them.
    """
    before = (FIRST_RUN - timedelta(hours=3)).isoformat(timespec="seconds")
    runs = []
    for rig in RIGS:
        for case in scenario.TEST_CASES:
            title = next(one for one in scenario.TEST_TITLES if one.id == case.title_id)
            score = play_test(bench_rigs()[rig.name], bench_tests()[title.name], scenario.SEED)
            parts = tuple(
                PartScore(name=name, score=value, weight=score.weights.get(name))
                for name, value in score.parts.items()
            )
            whole = None if score.overall is None else round(score.overall, 2)
            runs.append(
                Run(
                    id=f"{rig.id}_{case.id}_1",
                    rig_id=rig.id,
                    case_id=case.id,
                    taken_at=before,
                    origin=Origin(kind="simulated"),
                    typed=TypedFigures(score=whole, parts=parts),
                )
            )
    return runs


def build_demo(out: Path, step: Progress = no_progress) -> None:
    """Build the whole demo logbook at `out`, which must not exist yet."""
    planned = scenario.planned_runs()
    moments = _clock()
    with (
        tempfile.TemporaryDirectory() as folder,
        Logbook.create(out, lambda: next(moments), session="") as book,
    ):
        book.commit("describe rigs, cases and reviews", put=scenario.described())
        book.commit(
            "go through pre-flight", put=scenario.ticked(FIRST_RUN.isoformat(timespec="seconds"))
        )
        runs: list[Run] = []
        for number, one in enumerate(planned):
            step(f"Playing run {number + 1} of {len(planned)}", number / len(planned))
            run, trace = take_run(one, number, Path(folder))
            runs.append(run.model_copy(update={"trace_sha256": book.add_trace(trace, PACKED)}))
        runs.append(typed_slip(len(planned)))
        runs.extend(score_runs())
        # Runs come in as kept; what the reviewer then noticed stands in the journal.
        taken = [run.model_copy(update={"decision": Decision.KEEP, "reason": ""}) for run in runs]
        book.commit(f"import {len(runs)} runs", put=taken)
        for run in runs:
            if run.reason:
                book.commit(f"{run.decision} pass {run.repeat}: {run.reason}", put=[run])
        book.compact(page_bytes=1024)


def _clock() -> Iterator[str]:
    """Fixed moments for the journal, so that the same scenario gives the same logbook."""
    moment = FIRST_RUN - timedelta(hours=2)
    while True:
        yield moment.isoformat(timespec="seconds")
        moment += timedelta(days=8) if moment < FIRST_RUN else timedelta(minutes=4)
