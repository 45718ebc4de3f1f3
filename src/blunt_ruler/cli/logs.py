"""Commands on frame logs: their figures, taking them into a logbook, and making some."""

import sys
import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Annotated, Any

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    SkipBadRows,
    app,
    choose,
    logs_in,
    print_json,
)
from blunt_ruler.core.measure.frames import LowSchool, measure, part_between, why_no_low
from blunt_ruler.core.records.records import Contents, Review, Role
from blunt_ruler.core.text import fps_text
from blunt_ruler.core.values import LONGEST_NAME
from blunt_ruler.files import make_folder

FEWEST_FOR_A_BAR = 20


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
    skip_bad_rows: SkipBadRows = False,
    as_json: JsonFlag = False,
) -> None:
    """Figures of frame logs."""
    one = partial(
        _metrics_of,
        column=column,
        unit=unit,
        school=school,
        from_s=from_s,
        to_s=to_s,
        skip_bad_rows=skip_bad_rows,
    )
    with logs_in(logs) as files:
        results = _of_each(one, files)
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


def _of_each(work: Callable[[Path], Any], logs: Sequence[Path]) -> list[Any]:
    """What is made of each log, on all cores where there are many, with a bar on a terminal."""
    from blunt_ruler.processes import spread_out

    results = spread_out(work, logs)
    if not sys.stderr.isatty() or len(logs) < FEWEST_FOR_A_BAR:
        return [*results]
    with typer.progressbar(results, length=len(logs), label="Reading", file=sys.stderr) as bar:
        return [*bar]


def _metrics_of(
    log: Path,
    column: str | None,
    unit: str | None,
    school: LowSchool,
    from_s: float | None,
    to_s: float | None,
    skip_bad_rows: bool,
) -> dict[str, Any]:
    reading = read_sure(log, column, _unit(unit), skip_bad_rows)
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
    return {
        "file": str(log),
        "frames": figures.frames,
        "duration_s": figures.duration_s,
        "average_fps": figures.average_fps,
        "median_fps": figures.median_fps,
        "low_1_fps": figures.low_1.by(school),
        "low_01_fps": figures.low_01.by(school),
        "low_school": str(school),
        "minimum_fps": figures.minimum_fps,
        "maximum_fps": figures.maximum_fps,
        "steadiness": figures.steadiness(school),
        "stutters_per_min": figures.stutters_per_min,
        "stutter_time_share": figures.stutter_time_share,
        "notes": notes,
    }


def _metrics_of_samples(
    log: Path, reading: Any, school: LowSchool, notes: list[str]
) -> dict[str, Any]:
    """A log of samples has an average with its interval, and nothing that needs single frames."""
    nothing = ("frames", "duration_s", "median_fps", "low_1_fps", "low_01_fps", "minimum_fps",
               "maximum_fps", "steadiness", "stutters_per_min", "stutter_time_share")  # fmt: skip
    return {
        "file": str(log),
        **dict.fromkeys(nothing),
        "average_fps": reading.sampled.average_fps,
        "average_low_95": reading.sampled.low_95,
        "average_high_95": reading.sampled.high_95,
        "samples": reading.sampled.samples,
        "low_school": str(school),
        "notes": notes,
    }


def read_sure(log: Path, column: str | None, unit: Any, skip_bad_rows: bool) -> Any:
    """A reading that needs no more answers; BadOption asks for the one that is missing."""
    from blunt_ruler.exchange.frame_logs import read_log

    reading = read_log(log, column=column, unit=unit)
    if reading.asks:
        raise BadOption(
            log.name,
            f"it can be read two ways: {reading.question}",
            "Choose one with --column and --unit",
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


def _unit(word: str | None) -> Any:
    from blunt_ruler.exchange.log_words import Unit

    if word is None:
        return None
    try:
        return Unit(word)
    except ValueError:
        raise BadOption(
            "--unit", f"“{word}” is not a unit", f"Choose one of {', '.join(Unit)}"
        ) from None


def _arriving(
    log: Path, read: Callable[[Path], Any], rig: str, named: Any, role: Role | None
) -> tuple[Any, Any]:
    """A log on its way in, with its trace as it is stored and what that shows."""
    from blunt_ruler.exchange.frame_logs import arrival_of
    from blunt_ruler.logbook.intake import ready

    reading = read(log)
    return ready((arrival_of(reading, rig, named, role=role, taken_at=""), reading.trace))


@app.command("import")
def import_command(
    logbook: Annotated[Path, typer.Argument(help="The logbook; made if it is not there.")],
    logs: Annotated[
        list[Path], typer.Argument(help="Frame logs of one rig and case, or a folder of them.")
    ],
    rig: Annotated[str, typer.Option(help="The rig they were taken on.")],
    case: Annotated[str, typer.Option(help="“Title / scene / 1080p / High”.")],
    role: Annotated[Role | None, typer.Option(help="The rig's role in the review.")] = None,
    review: ReviewName = None,
    column: Annotated[str | None, typer.Option(help="Column of the frame times.")] = None,
    unit: Annotated[str | None, typer.Option(help="What its numbers are, as for metrics.")] = None,
    skip_bad_rows: SkipBadRows = False,
) -> None:
    """Import logs as runs of a rig and case."""
    from blunt_ruler.core.runs.import_runs import parse_case
    from blunt_ruler.logbook.intake import bring_in

    named = parse_case(case)
    _check_names(("--rig", rig), ("--review", review or "x"))
    read = partial(read_sure, column=column, unit=_unit(unit), skip_bad_rows=skip_bad_rows)
    one = partial(_arriving, read=read, rig=rig, named=named, role=role)
    with logs_in(logs) as files:
        arrivals = _of_each(one, files)
        with _opened(logbook) as book:
            contents = book.contents()
            chosen = _named_review(contents, review)
            edit = bring_in(book, contents, chosen, arrivals, lambda: uuid.uuid4().hex)
            book.commit(edit.label, edit.put)
    print(f"{len(arrivals)} runs of {named.label} on {rig} are in {logbook}")


@app.command("import-scores")
def import_scores_command(
    logbook: Annotated[Path, typer.Argument(help="The logbook; made if it is not there.")],
    tables: Annotated[list[Path], typer.Argument(help="Tables of scores.")],
    review: ReviewName = None,
) -> None:
    """Take in tables of scores, as `simulate` writes them or with columns rig and test."""
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.core.runs.import_scores import take_scores
    from blunt_ruler.exchange.tables.scores import read_scores

    told = [one for table in tables for one in read_scores(table)]
    with _opened(logbook) as book:
        contents = book.contents()
        chosen = _named_review(contents, review) or first_review(lambda: uuid.uuid4().hex)
        name = tables[0].name if len(tables) == 1 else f"{len(tables)} files"
        edit = take_scores(contents, chosen, told, name, lambda: uuid.uuid4().hex)
        book.commit(edit.label, edit.put)
    print(edit.notice)


def _check_names(*options: tuple[str, str]) -> None:
    for option, words in options:
        if not words.strip() or len(words.strip()) > LONGEST_NAME:
            raise BadOption(
                option,
                "it is blank" if not words.strip() else f"it has {len(words)} characters",
                f"Give a name of 1 to {LONGEST_NAME} characters",
            )


@app.command("type")
def type_command(
    logbook: Annotated[Path, typer.Argument(help="The logbook; made if it is not there.")],
    entry: Annotated[
        str, typer.Argument(help="“69.5/57”, “45-50”, “~60”, “200+”, “(58 61)”, “no: why”.")
    ],
    rig: Annotated[str, typer.Option(help="The rig it was read on.")],
    case: Annotated[str, typer.Option(help="“Title / scene / 1080p / High”.")],
    review: ReviewName = None,
    scores: Annotated[
        bool, typer.Option("--score", help="A new title is a synthetic test, with scores.")
    ] = False,
    add: Annotated[
        bool, typer.Option("--add", help="Beside what is typed there, not in its place.")
    ] = False,
) -> None:
    """Write what was read by eye into one cell; it takes the place of what was typed there."""
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.core.runs.entry import entry_words, parse_entry
    from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells
    from blunt_ruler.logbook.store import now_text

    _check_names(("--rig", rig), ("--case", case), ("--review", review or "x"))
    with _opened(logbook) as book:
        contents = book.contents()
        chosen = _named_review(contents, review) or first_review(lambda: uuid.uuid4().hex)
        cell = TypedCell(rig, case, entry, scores)
        edit = type_cells(contents, chosen, [cell], lambda: uuid.uuid4().hex, now_text(), add=add)
        if edit.put or edit.drop:
            book.commit(edit.label, edit.put, edit.drop)
    said = entry_words(parse_entry(entry, score=scores))
    print(f"{rig}, {case}: {said}")


@contextmanager
def _opened(path: Path) -> Iterator[Any]:
    """The logbook, made if it is not there; one that was made for nothing is removed again."""
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.logbook import Logbook

    made = not path.exists()
    try:
        review = first_review(lambda: uuid.uuid4().hex)
        with Logbook.create(path, review=review) if made else Logbook.open(path) as book:
            yield book
    except BaseException:
        if made:
            path.unlink(missing_ok=True)
        raise


def _named_review(contents: Contents, name: str | None) -> Review | None:
    reviews = list(contents.reviews.values())
    if name is None:
        return reviews[0] if reviews else None
    return next((one for one in reviews if one.name.lower() == name.lower()), None) or Review(
        id=uuid.uuid4().hex, name=name
    )


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
    as_json: JsonFlag = False,
) -> None:
    """Play runs on the simulated bench and write their logs; a synthetic test gives scores."""
    from blunt_ruler.bench.log_files import HABITS, write_log, write_scores
    from blunt_ruler.bench.simulator import Setting, parse_faults, play_run
    from blunt_ruler.bench.specs import bench_rigs, bench_tests, bench_titles
    from blunt_ruler.bench.synthetics import play_test
    from blunt_ruler.core.runs.import_runs import parse_case

    rigs = [choose(bench_rigs(), "--rig", name) for name in rig or bench_rigs()]
    faults = parse_faults(fault or [])
    how = choose(HABITS, "--habit", habit)
    known = {**bench_titles(), **bench_tests()}
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
    paths = [
        write_log(out / name, result, how)
        if hasattr(result, "frame_times_ms")
        else write_scores(out / name, result)
        for name, result in played
    ]
    if as_json:
        print_json([str(path) for path in paths])
    else:
        print(f"{len(paths)} logs are in {out}")
