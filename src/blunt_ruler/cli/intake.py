"""Commands that take logs, tables and typed figures into a logbook."""

import sys
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeAlias

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    SkipBadRows,
    app,
    new_id,
    pair_in,
    print_json,
)
from blunt_ruler.cli.logs import RowsOption, metrics_of, of_each, read_sure, rows_named, unit_named
from blunt_ruler.cli.recordings import (
    Boxes,
    Count,
    Cut,
    FromS,
    ToS,
    asked_for,
    document_of,
    lines_of,
    read_file,
    still_document,
    still_lines,
    still_of,
    still_values,
)
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.records.records import Contents, Review, Role
from blunt_ruler.core.text import count_text, list_text
from blunt_ruler.core.values import LONGEST_NAME
from blunt_ruler.exchange.logs.text import BadLog

if TYPE_CHECKING:
    from blunt_ruler.core.runs.import_runs import CaseName
    from blunt_ruler.exchange.recordings.still import StillReading
    from blunt_ruler.exchange.tables.files import SheetFile

Placed: TypeAlias = "tuple[str, CaseName]"  # rig and case of a log


def _arriving(
    log: Path, read: Callable[[Path], Any], placed: Mapping[Path, Placed], role: Role | None
) -> tuple[Any, Any]:
    """A log on its way in, with its trace as it is stored and what that shows."""
    from blunt_ruler.exchange.logs.frame_logs import arrival_of
    from blunt_ruler.logbook.intake import ready

    reading = read(log)
    arrival = arrival_of(reading, *placed[log], role=role, taken_at="")
    return ready((arrival, reading.trace))


@app.command("import")
def import_command(
    logbook: Annotated[Path, typer.Argument(help="The logbook; made if it is not there.")],
    files: Annotated[
        list[Path],
        typer.Argument(help="Frame logs or recordings of one rig and case, tables, or folders."),
    ],
    rig: Annotated[str | None, typer.Option(help="The rig that logs were taken on.")] = None,
    case: Annotated[
        str | None, typer.Option(help="Their case, “Title / scene / 1080p / High”.")
    ] = None,
    by_name: Annotated[
        bool,
        typer.Option("--by-name", help="Take rig and case of each log from the files' names."),
    ] = False,
    role: Annotated[Role | None, typer.Option(help="The rig's role in the review.")] = None,
    review: ReviewName = None,
    column: Annotated[str | None, typer.Option(help="Column of the frame times.")] = None,
    unit: Annotated[str | None, typer.Option(help="What its numbers are, as for metrics.")] = None,
    rows: RowsOption = None,
    answer: Annotated[
        list[str] | None,
        typer.Option(help="Answer a question about a table: “about=reading”."),
    ] = None,
    box: Boxes = None,
    from_s: FromS = None,
    to_s: ToS = None,
    count: Count = False,
    cut: Cut = False,
    skip_bad_rows: SkipBadRows = False,
    dry_run: Annotated[bool, typer.Option(help="Read, and write nothing.")] = False,
    as_json: JsonFlag = False,
) -> None:
    """Import logs as runs of a rig and case, and tables of results as typed figures."""
    from blunt_ruler.core.runs.import_runs import parse_case
    from blunt_ruler.exchange.given_files import sorted_out
    from blunt_ruler.exchange.tables.files import read_sheets

    given = sorted_out(files)
    _check_names(("--rig", rig or "x"), ("--review", review or "x"))
    placed = _placed(given.logs, rig, case) if by_name else {}
    unnamed = (*(() if by_name else given.logs), *given.recordings)
    _refuse_unnamed(unnamed, rig, case, frames=bool(given.logs))
    stills = [(path, still_of(path)) for path in given.pictures]
    pictures = [(path, still) for path, still in stills if not still.is_table]
    _refuse_unnamed([path for path, _ in pictures], rig, case)
    shown = {path: _shown_table(still) for path, still in stills if still.is_table}
    named = parse_case(case) if case else None
    if named is not None and rig and not by_name:
        placed = dict.fromkeys(given.logs, (rig, named))
    with _contents_of(logbook) as contents:
        own = {about: said for about, said in (("rig", rig), ("case", case)) if said}
        said = _answers(answer or ())
        parts = {path: read_sheets(path) for path in given.tables} | shown
        tables = _tables(parts, contents, {**own, **said}, skip_bad_rows)
    _say_unasked(said, tables)
    scores = _scores(given.scores)
    asked = asked_for(box, from_s, to_s, count=count, cut=cut, keep_pictures=True)
    recordings = [(path, read_file(path, asked)) for path in given.recordings]
    read = partial(
        read_sure,
        column=column,
        unit=unit_named(unit),
        skip_bad_rows=skip_bad_rows,
        rows=rows_named(rows),
    )
    if as_json:
        one = partial(metrics_of, column=column, unit=unit_named(unit),
                      school=LowSchool.PERCENTILE, from_s=None, to_s=None, rows=rows_named(rows),
                      skip_bad_rows=skip_bad_rows)  # fmt: skip
        measured = zip(placed.values(), of_each(one, [*placed]), strict=True)
        logs = [{"rig": of, "case": its.label, **log} for (of, its), log in measured]
        read_out = [document_of(path, found) for path, found in recordings]
        read_out += [still_document(path, still) for path, still in pictures]
        printed = {"tables": [part.json for part in (*tables, *scores)], "logs": logs}
        print_json({**printed, "recordings": read_out} if read_out else printed)
    _refuse_open(tables)
    if dry_run:
        of_each(read, () if as_json else given.logs)
    else:
        with _opened(logbook) as book:
            _take(book, review, tables, scores)
            if placed:
                arriving = partial(_arriving, read=read, placed=placed, role=role)
                _take_logs(book, review, of_each(arriving, given.logs), propose=by_name)
            if named is not None and rig:
                for passes in _passes_read(recordings, pictures, rig, named, role):
                    _take_read(book, review, passes)
    if not as_json:
        _say(placed, tables, scores, logbook, dry_run)
        for _, found in recordings:
            print("\n".join(lines_of(found)))
        for _, still in pictures:
            print("\n".join(still_lines(still)))
    if given.left:
        print(given.left, file=sys.stderr)


@dataclass(frozen=True, slots=True)
class _Table:
    """A table that was read: where it is from, what it says, and both as JSON."""

    where: str
    sheet: Any
    json: dict[str, Any]


def _answers(said: Sequence[str]) -> dict[str, str]:
    """Answers by what they are about."""
    return dict(pair_in("--answer", one, "is not an answer", "about=reading") for one in said)


def _placed(logs: Sequence[Path], rig: str | None, case: str | None) -> dict[Path, Placed]:
    """Rig and case of each log by the names of all; BadOption for one that does not tell."""
    from blunt_ruler.core.runs.import_runs import parse_case
    from blunt_ruler.exchange.file_names import proposed
    from blunt_ruler.folders import told_apart

    found = dict(zip(logs, proposed(told_apart(logs)), strict=True))
    for path, one in found.items():
        told = {"rig": rig or one.rig, "case": case or one.case}
        if lacking := [name for name, said in told.items() if not said]:
            options = list_text([f"--{name}" for name in lacking])
            what = f"the name of {path.name} does not tell its {list_text(lacking)}"
            raise BadOption("--by-name", what, f"Rename it, or give {options}")
    return {path: (rig or one.rig, parse_case(case or one.case)) for path, one in found.items()}


def _in_roles(arrivals: Sequence[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
    """Logs with roles proposed for their rigs by their rates, as where one types."""
    from blunt_ruler.core.runs.import_runs import roles_by_rates

    rates: dict[str, list[float]] = {}
    for one, _ in arrivals:
        rates.setdefault(one.rig, []).append(one.figures.average_fps)
    roles = roles_by_rates(rates)
    return [(replace(one, role=one.role or roles[one.rig]), trace) for one, trace in arrivals]


def _refuse_unnamed(
    paths: Sequence[Path], rig: str | None, case: str | None, *, frames: bool = False
) -> None:
    """BadOption where files hold runs of one rig and case, and one of these is not given."""
    if not paths or (rig and case):
        return
    kind = "a frame log" if frames else "a recording"
    by_name = ", or --by-name where the files' names tell them" if frames else ""
    raise BadOption(
        "--case" if rig else "--rig",
        f"{paths[0].name} is not a table of results, and {kind} needs its rig and case",
        f"Add --rig and --case{by_name}",
    )


def _shown_table(still: "StillReading") -> "tuple[SheetFile, ...]":
    """The table that a picture shows; BadLog where a cell of it is in doubt."""
    from blunt_ruler.exchange.tables.files import SheetFile

    doubts = [
        f"row {at} “{cell.text}”" if cell.text else f"row {at}, a blank one"
        for at, row in enumerate(still.rows, 1)
        for cell in row
        if not cell.sure
    ]
    if doubts:
        raise BadLog(
            still.path.name,
            f"{count_text(len(doubts), 'cell')} of its table in doubt, as {doubts[0]}",
            "Drop it on the window, where each is settled with a key",
        )
    return (SheetFile("", [[cell.text for cell in row] for row in still.rows]),)


def _tables(
    files: Mapping[Path, Sequence[Any]],
    contents: Contents | None,
    answers: dict[str, str],
    skip_bad: bool,
) -> list[_Table]:
    """The tables of files, by their sheets; of a workbook, all sheets that hold one."""
    from blunt_ruler.exchange.tables.cells import BadSheet
    from blunt_ruler.exchange.tables.reading import understand
    from blunt_ruler.exchange.tables.sheet import Known, sheet_json

    known = Known.of(contents) if contents is not None else Known()
    found: list[_Table] = []
    for path, parts in files.items():
        wrong: BadSheet | None = None
        before = len(found)
        for part in parts:
            where = part.where(path)
            try:
                sheet = understand(part.rows, known, answers, path.name)
            except BadSheet as error:
                wrong = wrong or BadSheet(where, error.what, error.fix)
                continue
            bad = next((cell for cell in sheet.cells if cell.wrong), None)
            if bad is not None and sheet.is_sure and not skip_bad:
                raise BadLog(
                    f"{where}, {bad.where}",
                    bad.wrong.rstrip("."),
                    "Correct the cell, or add --skip-bad-rows to leave it out",
                )
            found.append(_Table(where, sheet, sheet_json(str(path), sheet)))
        if len(found) == before and wrong is not None:
            raise wrong
    return found


def _scores(paths: Sequence[Path]) -> list[_Table]:
    """Small tables of scores, with their parts."""
    from blunt_ruler.exchange.tables.scores import read_scores

    found = []
    for path in paths:
        told = read_scores(path)
        cells = [
            {"rig": one.rig, "case": f"{one.test}{f' / {one.part}' if one.part else ''}",
             "pass": one.repeat, "quantity": "part_score" if one.part else "score",
             "value": one.score, "unit": one.unit, "how_read": "by eye"}
            for one in told
        ]  # fmt: skip
        layout = {"file": str(path), "layout": "scores", "questions": [], "left_out": []}
        found.append(_Table(path.name, told, {**layout, "cells": cells}))
    return found


def _say_unasked(said: dict[str, str], tables: Sequence[_Table]) -> None:
    """A line on stderr for answers to what no table asks."""
    asked = {one.about.lower() for table in tables for one in table.sheet.questions} | {"scores"}
    for about in said:
        if about.lower() not in asked:
            print(f"No table asks about “{about}”; the answer is not used.", file=sys.stderr)


def _refuse_open(tables: Sequence[_Table]) -> None:
    """BadOption that names every question nobody has answered."""
    for table in tables:
        asked = table.sheet.asked
        if asked:
            ways = [
                f"{one.words} --answer '{one.about}={one.readings[0] if one.readings else '…'}'"
                + "".join(f" or '{one.about}={other}'" for other in one.readings[1:])
                for one in asked
            ]
            raise BadOption(table.where, "it can be read in more than one way", "; ".join(ways))


def _take(
    book: Any, review: str | None, tables: Sequence[_Table], scores: Sequence[_Table]
) -> None:
    """Take tables into an open logbook, each as one edit."""
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.core.runs.import_scores import take_scores
    from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells
    from blunt_ruler.logbook.store import now_text

    for table in tables:
        contents = book.contents()
        chosen = _named_review(contents, review) or first_review(new_id)
        cells = [
            TypedCell(
                one.rig, one.case, one.text, one.score, one.meters, table.sheet.kind, one.unit
            )
            for one in table.sheet.sound
        ]
        edit = type_cells(contents, chosen, cells, new_id, now_text())
        if edit.put or edit.drop:
            book.commit(edit.label, edit.put, edit.drop)
    for table in scores:
        contents = book.contents()
        chosen = _named_review(contents, review) or first_review(new_id)
        edit = take_scores(contents, chosen, table.sheet, table.where, new_id)
        book.commit(edit.label, edit.put)


def _take_logs(book: Any, review: str | None, arrivals: Sequence[Any], *, propose: bool) -> None:
    """Take logs in as one edit; `propose` gives their rigs roles, where there is no base yet."""
    from blunt_ruler.logbook.intake import bring_in

    contents = book.contents()
    chosen = _named_review(contents, review)
    if propose and (chosen is None or chosen.rig_in(Role.BASE) is None):
        arrivals = _in_roles(arrivals)
    edit = bring_in(book, contents, chosen, arrivals, new_id)
    book.commit(edit.label, edit.put)


def _passes_read(
    recordings: Sequence[tuple[Path, Any]],
    pictures: Sequence[tuple[Path, Any]],
    rig: str,
    case: Any,
    role: Role | None,
) -> Iterator[list[Any]]:
    """What was read of each recording and picture, as runs on their way in."""
    from blunt_ruler.exchange.recordings.still import arriving_still
    from blunt_ruler.exchange.recordings.whole import arriving_passes

    for path, found in recordings:
        yield arriving_passes(path, found, [(rig, case)] * len(found.passes), role=role)
    for _, still in pictures:
        yield [arriving_still(still, still_values(still), rig, case)]


def _take_read(book: Any, review: str | None, passes: Sequence[Any]) -> None:
    """Take passes of one recording, or one picture, into a review in one edit."""
    from blunt_ruler.logbook.recordings import ArrivingPass, bring_in_passes

    contents = book.contents()
    chosen = _named_review(contents, review)
    arriving = [ArrivingPass(*one) for one in passes]
    edit = bring_in_passes(book, contents, chosen, arriving, new_id)
    book.commit(edit.label, edit.put)


def _say(
    placed: Mapping[Path, Placed],
    tables: Sequence[_Table],
    scores: Sequence[_Table],
    logbook: Path,
    dry_run: bool,
) -> None:
    """What was taken in, a line for each kind of file."""
    from blunt_ruler.exchange.tables.sheet import sheet_words

    done = "would be" if dry_run else "are"
    for (rig, named), count in Counter(placed.values()).items():
        is_there = "is" if count == 1 and not dry_run else done
        print(f"{count_text(count, 'run')} of {rig}, {named.label} {is_there} in {logbook}")
    for table in tables:
        print(f"{table.where}: {sheet_words(table.sheet)}; they {done} in {logbook}")
        for remark in table.sheet.remarks:
            print(f"  {remark}")
    for table in scores:
        print(f"{table.where}: {count_text(len(table.sheet), 'score')}; they {done} in {logbook}")


@contextmanager
def _contents_of(path: Path) -> Iterator[Contents | None]:
    """What a logbook holds; None where there is none yet."""
    from blunt_ruler.logbook import Logbook

    if not path.exists():
        yield None
        return
    with Logbook.reading(path) as book:
        yield book.contents()


@app.command("import-scores", hidden=True)
def import_scores_command(
    logbook: Annotated[Path, typer.Argument(help="The logbook; made if it is not there.")],
    tables: Annotated[list[Path], typer.Argument(help="Tables of scores.")],
    review: ReviewName = None,
) -> None:
    """`import` for files that are all tables of scores; kept for scripts."""
    scores = _scores(tables)
    with _opened(logbook) as book:
        _take(book, review, (), scores)
    _say({}, (), scores, logbook, dry_run=False)


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
        str,
        typer.Argument(help="“69.5/57”, “45-50”, “~60”, “(58 61)”, “12% behind X”, “no: why”."),
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
    from blunt_ruler.core.records.records import Run
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.core.runs.entry import entry_words
    from blunt_ruler.core.runs.typed_cells import TypedCell, entry_of, type_cells
    from blunt_ruler.logbook.store import now_text

    _check_names(("--rig", rig), ("--case", case), ("--review", review or "x"))
    with _opened(logbook) as book:
        contents = book.contents()
        chosen = _named_review(contents, review) or first_review(new_id)
        cell = TypedCell(rig, case, entry, scores or None)
        edit = type_cells(contents, chosen, [cell], new_id, now_text(), add=add)
        if edit.put or edit.drop:
            book.commit(edit.label, edit.put, edit.drop)
        changed = next((one for one in (*edit.put, *edit.drop) if isinstance(one, Run)), None)
        if changed is None:
            said = "it says so already"
        else:
            said = entry_words(entry_of(book.contents(), changed.rig_id, changed.case_id))
    print(f"{rig}, {case}: {said}")


@contextmanager
def _opened(path: Path) -> Iterator[Any]:
    """The logbook, made if it is not there; one that was made for nothing is removed again."""
    from blunt_ruler.core.records.review_edits import first_review
    from blunt_ruler.logbook import Logbook

    made = not path.exists()
    try:
        review = first_review(new_id)
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
        id=new_id(), name=name
    )
