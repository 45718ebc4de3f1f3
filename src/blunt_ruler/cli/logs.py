"""Commands on frame logs: their figures, and making some."""

import sys
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Annotated, Any

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    SkipBadRows,
    app,
    choose,
    logs_in,
    pair_in,
    print_json,
)
from blunt_ruler.core.measure.frames import LowSchool, measure, part_between, why_no_low
from blunt_ruler.core.measure.metrics import METRICS
from blunt_ruler.core.text import count_text, fps_text
from blunt_ruler.files import make_folder

FEWEST_FOR_A_BAR = 20
RowsOption = Annotated[
    str | None,
    typer.Option(help="Only rows of one source, “column=value”, where a log holds several."),
]


@app.command()
def metrics(
    logs: Annotated[
        list[Path], typer.Argument(help="Frame logs, plain or packed, or folders of them.")
    ],
    column: Annotated[str | None, typer.Option(help="Column of the frame times.")] = None,
    unit: Annotated[
        str | None,
        typer.Option(help="ms, s, us, ns, fps; of a running clock clock-s, clock-ms …"),
    ] = None,
    school: Annotated[LowSchool, typer.Option(help="How lows are computed.")] = (
        LowSchool.PERCENTILE
    ),
    from_s: Annotated[float | None, typer.Option("--from", help="Start, in seconds.")] = None,
    to_s: Annotated[float | None, typer.Option("--to", help="End, in seconds.")] = None,
    rows: RowsOption = None,
    skip_bad_rows: SkipBadRows = False,
    as_json: JsonFlag = False,
) -> None:
    """Figures of frame logs."""
    one = partial(
        metrics_of,
        column=column,
        unit=unit,
        school=school,
        from_s=from_s,
        to_s=to_s,
        skip_bad_rows=skip_bad_rows,
        rows=rows_named(rows),
    )
    with logs_in(logs) as files:
        results = of_each(one, files)
    if as_json:
        print_json(results)
        return
    for result in results:
        low = result["low_1_fps"]
        if result["frames"] is None:
            print(
                f"{result['file']}: average {fps_text(result['average_fps'])} fps "
                f"({fps_text(result['average_low_95'])} to {fps_text(result['average_high_95'])}), "
                f"from {result['samples']} samples, no lows"
            )
        else:
            print(
                f"{result['file']}: average {fps_text(result['average_fps'])} fps, 1 % low "
                f"{fps_text(low)} ({school}), {result['frames']} frames in "
                f"{result['duration_s']:.1f} s"
            )
        for note in result["notes"]:
            print(f"  {note}")


def of_each(work: Callable[[Path], Any], logs: Sequence[Path]) -> list[Any]:
    """What is made of each log, on all cores where there are many, with a bar on a terminal."""
    from blunt_ruler.processes import spread_out

    results = spread_out(work, logs)
    if not sys.stderr.isatty() or len(logs) < FEWEST_FOR_A_BAR:
        return [*results]
    with typer.progressbar(results, length=len(logs), label="Reading", file=sys.stderr) as bar:
        return [*bar]


def metrics_of(
    log: Path,
    column: str | None,
    unit: str | None,
    school: LowSchool,
    from_s: float | None,
    to_s: float | None,
    skip_bad_rows: bool,
    rows: tuple[str, str] | None = None,
) -> dict[str, Any]:
    """The figures of a log, or of a part of it, by the names of `metrics --json`."""
    reading = read_sure(log, column, unit_named(unit), skip_bad_rows, rows)
    notes = [f"{reading.mapping.column}: {reading.mapping.unit} ({reading.why})", *reading.notes]
    if reading.trace is None:
        if from_s is not None or to_s is not None:
            raise BadOption("--from", f"{log.name} has no single frames to cut", "Leave it out")
        return _metrics_of_samples(log, reading, school, notes)
    times_ms = reading.trace.frame_times_ms
    if from_s is not None or to_s is not None:
        times_ms = times_ms[part_between(times_ms, from_s, to_s)]
    figures = measure(times_ms, log.name)
    notes += [why for share in (0.01, 0.001) if (why := why_no_low(figures.frames, share))]
    found = {one.key: one.of(figures, school) for one in METRICS}
    return _document(log, found, school, notes)


def _metrics_of_samples(
    log: Path, reading: Any, school: LowSchool, notes: list[str]
) -> dict[str, Any]:
    """A log of samples has an average with its interval, and nothing that needs single frames."""
    sampled = reading.sampled
    found = {**dict.fromkeys(one.key for one in METRICS), "average_fps": sampled.average_fps}
    return {
        **_document(log, found, school, notes),
        "average_low_95": sampled.low_95,
        "average_high_95": sampled.high_95,
        "samples": sampled.samples,
    }


def _document(
    log: Path, found: Mapping[str, float | None], school: LowSchool, notes: list[str]
) -> dict[str, Any]:
    """The figures of a log by their keys; the definition of the lows stands after them."""
    lows = [*found].index("low_01_fps") + 1
    before, after = [*found.items()][:lows], [*found.items()][lows:]
    return {"file": str(log), **dict(before), "low_school": str(school), **dict(after),
            "notes": notes}  # fmt: skip


def rows_named(words: str | None) -> tuple[str, str] | None:
    """The rows to take, “column=value”, None for all; BadOption where it is not such a pair."""
    return None if words is None else pair_in("--rows", words, "names no rows", "column=value")


def read_sure(
    log: Path,
    column: str | None,
    unit: Any,
    skip_bad_rows: bool,
    rows: tuple[str, str] | None = None,
) -> Any:
    """A reading that needs no more answers; BadOption asks for the one that is missing."""
    from blunt_ruler.exchange.logs.frame_logs import read_log

    reading = read_log(log, column=column, unit=unit, rows=rows)
    if reading.asks:
        raise BadOption(
            log.name,
            f"it can be read two ways: {reading.question}",
            "Choose one with --rows “column=value”"
            if reading.asks[0].mapping.rows_of
            else "Choose one with --column and --unit",
        )
    if reading.bad_rows and not skip_bad_rows:
        first = reading.bad_rows[0]
        raise BadOption(
            f"{log.name}, row {first.line}",
            first.why,
            f"Mend it, or add --skip-bad-rows to use the other "
            f"{reading.usable} frames ({len(reading.bad_rows)} bad in all)",
        )
    return reading


def unit_named(word: str | None) -> Any:
    """A unit by its word, None for none; BadOption names those there are."""
    from blunt_ruler.exchange.logs.words import Unit

    if word is None:
        return None
    try:
        return Unit(word)
    except ValueError:
        raise BadOption(
            "--unit", f"“{word}” is not a unit", f"Choose one of {', '.join(Unit)}"
        ) from None


@app.command()
def simulate(
    out: Annotated[Path, typer.Option(help="Folder for the logs.")],
    seed: Annotated[int, typer.Option(min=0, help="The same seed gives the same bytes.")],
    rig: Annotated[list[str] | None, typer.Option(help="Rigs to play; all by default.")] = None,
    case: Annotated[
        list[str] | None, typer.Option(help="“Title / 1080p / High”; all titles by default.")
    ] = None,
    repeats: Annotated[int, typer.Option(min=1, max=100)] = 1,
    seconds: Annotated[float, typer.Option(min=2.0, max=3600.0)] = 60.0,
    habit: Annotated[str, typer.Option(help="How the recorder writes.")] = "plain",
    fault: Annotated[
        list[str] | None,
        typer.Option(help="A fault to play, as name or name=value: cap_fps=60, recorder_on."),
    ] = None,
    flow: Annotated[
        str | None,
        typer.Option(
            help="Who waits for transfers: queued, waited for, serial, overlapped or "
            "unpacked; as each title says by default."
        ),
    ] = None,
    recording: Annotated[
        bool, typer.Option("--recording", help="Recordings of the screen in place of logs.")
    ] = False,
    overlay: Annotated[str, typer.Option(help="How the counters on it look.")] = "plain",
    picture: Annotated[str, typer.Option(help="Its size and rate.")] = "1280x720@30",
    kbit: Annotated[float, typer.Option(min=50, max=100_000, help="Its kbit/s.")] = 2000.0,
    as_json: JsonFlag = False,
) -> None:
    """Play runs on the simulated bench and write their logs; a synthetic test gives scores."""
    from blunt_ruler.bench.log_files import HABITS, write_log, write_scores
    from blunt_ruler.bench.pipeline import Flow
    from blunt_ruler.bench.simulator import Setting, parse_faults, play_run
    from blunt_ruler.bench.specs import bench_rigs, bench_tests, bench_titles
    from blunt_ruler.bench.synthetics import play_test
    from blunt_ruler.core.runs.import_runs import parse_case

    rigs = [choose(bench_rigs(), "--rig", name) for name in rig or bench_rigs()]
    faults = parse_faults(fault or [])
    how = choose(HABITS, "--habit", habit)
    titles = bench_titles()
    if flow is not None:
        wanted = choose({str(one): one for one in Flow}, "--flow", flow)
        titles = {name: one.model_copy(update={"flow": wanted}) for name, one in titles.items()}
    known = {**titles, **bench_tests()}
    played: list[tuple[str, Any]] = []
    for words in case or bench_titles():
        named = parse_case(words)
        title = choose(known, "--case", named.title)
        for one in rigs:
            for repeat in range(1, repeats + 1):
                if title.name in bench_tests():
                    parts = [one.name, title.name]
                    result: Any = play_test(one, title, seed, repeat, faults)
                else:
                    setting = Setting(
                        title, named.resolution or "1080p", named.preset or "High", seconds
                    )
                    parts = [one.name, title.name, setting.resolution, setting.preset]
                    result = play_run(one, setting, seed, repeat, faults)
                stem = "_".join(part.lower().replace(" ", "-") for part in parts)
                played.append((f"{stem}_{repeat}.csv", result))
    make_folder(out)
    if recording:
        _say_written(_filmed(out, played, overlay, picture, kbit, seed), "recording", out, as_json)
        return
    paths = [
        write_log(out / name, result, how)
        if hasattr(result, "frame_times_ms")
        else write_scores(out / name, result)
        for name, result in played
    ]
    _say_written(paths, "log", out, as_json)


def _say_written(paths: Sequence[Path], what: str, out: Path, as_json: bool) -> None:
    if as_json:
        print_json([str(path) for path in paths])
    else:
        print(f"{count_text(len(paths), what)} in {out}")


def _filmed(
    out: Path,
    played: Sequence[tuple[str, Any]],
    overlay: str,
    picture: str,
    kbit: float,
    seed: int,
) -> list[Path]:
    """A recording for each rig and case, with its passes one after the other."""
    try:
        from blunt_ruler.bench.recordings.film import film_passes, parse_camera
        from blunt_ruler.bench.recordings.overlays import STYLES
    except ImportError as error:
        raise BadOption(
            "--recording", "its packages are missing", "pip install 'blunt-ruler[recording]'"
        ) from error

    style, camera = choose(STYLES, "--overlay", overlay), parse_camera(picture, kbit)
    passes: dict[str, list[Any]] = {}
    for name, result in played:
        if not hasattr(result, "frame_times_ms"):
            raise BadOption("--recording", "a synthetic test draws no counter", "Name a title")
        passes.setdefault(name.rpartition("_")[0], []).append(result)
    return [
        film_passes(out / f"{stem}.mp4", traces, style, camera, seed).path
        for stem, traces in passes.items()
    ]
