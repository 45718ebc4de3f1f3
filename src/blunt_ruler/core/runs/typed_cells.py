"""Figures typed into a cell: what stands there, and the edit that makes it say something else.

A cell holds its typed passes in the order of their repeats. A pass that is typed again stays the
same run, so that the journal holds the correction; runs of logs are never touched.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Decision,
    Meters,
    Origin,
    Record,
    Review,
    ReviewRig,
    Role,
    Run,
    SecondFigure,
    TestPart,
    Title,
    TypedFigures,
)
from blunt_ruler.core.runs.entry import BadEntry, Entry, entry_text, parse_entry
from blunt_ruler.core.runs.import_runs import (
    CaseName,
    Ledger,
    in_unit,
    is_throughput,
    kind_of_score,
    parse_case,
    propose_roles,
)
from blunt_ruler.core.runs.published import as_published, rig_and_source
from blunt_ruler.core.runs.score_parts import parts_of, split_key, type_part
from blunt_ruler.core.text import capital, count_text
from blunt_ruler.core.values import LONGEST_NAME

NewId = Callable[[], str]


class BadCell(UserFixable):
    """A cell that cannot be typed into."""


def typed_runs(contents: Contents, rig_id: str, case_id: str) -> tuple[Run, ...]:
    """The runs of a cell that a hand typed and that are kept, in the order of their repeats."""
    found = [
        run
        for run in contents.runs.values()
        if run.rig_id == rig_id
        and run.case_id == case_id
        and is_typed(run)
        and run.decision is Decision.KEEP
    ]
    return tuple(sorted(found, key=lambda run: run.repeat))


def is_typed(run: Run) -> bool:
    """Whether a hand typed it: no log, no trace, no file of samples."""
    by_hand = run.origin.kind == "typed" and not run.origin.file
    return by_hand and run.figures is None and bool(run.typed or run.outcome)


def entry_of(contents: Contents, rig_id: str, case_id: str) -> Entry:
    """What was typed into a cell."""
    runs = typed_runs(contents, rig_id, case_id)
    passes = tuple(run.typed for run in runs if run.typed is not None)
    outcome = next((run.outcome for run in runs if run.outcome), "")
    return Entry(passes) if passes else Entry(outcome=outcome)


def takes_scores(contents: Contents, case_id: str) -> bool:
    """Whether a case is typed as scores: one of a synthetic test that has no frame rates."""
    case_id, part = split_key(case_id)
    if part:
        return True
    if contents.titles[contents.cases[case_id].title_id].kind == "game":
        return False
    return not any(
        run.case_id == case_id and run.average_fps is not None for run in contents.runs.values()
    )


def type_cell(
    contents: Contents,
    review: Review,
    rig_id: str,
    case_id: str,
    entry: Entry,
    new_id: NewId,
    taken_at: str = "",
) -> Edit | None:
    """The edit that makes a cell say an entry; None where it says it already.

    Rig and case join the review, and roles are proposed until somebody chooses them.
    """
    old = typed_runs(contents, rig_id, case_id)
    put, drop = _reconciled(contents, old, rig_id, case_id, entry, new_id, taken_at)
    changed: list[Record] = list(put)
    after = contents.with_records(
        {"runs": {**{run.id: run for run in put}, **{run.id: None for run in drop}}}
    )
    joined = with_proposed_roles(after, review.joined_by(rig_id, case_id))
    if joined != review:
        changed.append(joined)
    if not changed and not drop:
        return None
    said = entry_text(entry)
    what = f"type {said[:40]}" if said else "clear"
    return Edit(
        f"{what} for {_where(contents, rig_id, case_id)}"[:200], tuple(changed), tuple(drop)
    )


def _where(contents: Contents, rig_id: str, case_id: str) -> str:
    return f"{contents.rigs[rig_id].name}, {contents.case_label(case_id)}"


def _reconciled(
    contents: Contents,
    old: Sequence[Run],
    rig_id: str,
    case_id: str,
    entry: Entry,
    new_id: NewId,
    taken_at: str,
) -> tuple[list[Run], list[Run]]:
    """Runs to put and to drop so that a cell's typed runs say an entry."""
    rig = contents.rigs[rig_id]
    others = bool(rig.source)
    if rig.origin:
        where = f"it was brought in from {rig.origin}"
        raise BadCell(rig.name, where, "Name a rig of your own for figures of your own")
    if not others and any(one.change is not None and not one.change_of for one in entry.passes):
        raise BadCell(
            rig.name,
            "it is not said of which rig this percentage is",
            "Write it like “-12% of the reference”, or type the rate",
        )
    wanted: list[tuple[TypedFigures | None, str]] = [
        (as_published(one) if others else one, "") for one in entry.passes
    ]
    if entry.outcome:
        wanted = [(None, entry.outcome)]
    put = []
    repeats = [
        run.repeat
        for run in contents.runs.values()
        if run.rig_id == rig_id and run.case_id == case_id
    ]
    last = max(repeats, default=0)
    for number, (typed, outcome) in enumerate(wanted):
        if number < len(old):
            run = old[number]
            again = None if typed is None else _with_kept(typed, run.typed)
            if (again, outcome) != (run.typed, run.outcome):
                put.append(run.model_copy(update={"typed": again, "outcome": outcome}))
            continue
        last += 1
        put.append(
            Run(
                id=new_id(),
                rig_id=rig_id,
                case_id=case_id,
                repeat=last,
                taken_at=taken_at,
                origin=Origin(kind="typed"),
                typed=typed,
                outcome=outcome,
            )
        )
    return put, list(old[len(wanted) :])


def _with_kept(typed: TypedFigures, old: TypedFigures | None) -> TypedFigures:
    """Figures typed again, with what the notation does not hold of those before."""
    if old is None:
        return typed
    most = old.maximum_fps
    fits = most is not None and typed.average_fps is not None and typed.average_fps <= most
    return typed.model_copy(update={"maximum_fps": most if fits else None, "parts": old.parts})


# Roles


def with_proposed_roles(contents: Contents, review: Review) -> Review:
    """The review with base and reference proposed by its rates, until somebody chooses them: the
    slowest is the base, from three rigs on the fastest the reference.
    """
    if review.rig_in(Role.BASE) is not None and not review.roles_proposed:
        return review
    rates = _rates(contents, review)
    names = [seat.rig_id for seat in review.seats if seat.rig_id in rates]
    roles = dict(zip(names, propose_roles([rates[one] for one in names], False), strict=True))
    if Role.BASE not in roles.values():
        return review
    seats = tuple(
        ReviewRig(rig_id=seat.rig_id, role=roles.get(seat.rig_id, Role.TESTED))
        for seat in review.seats
    )
    return review.model_copy(update={"seats": seats, "roles_proposed": True})


def _rates(contents: Contents, review: Review) -> dict[str, float]:
    """One rate for each rig of a review, as a logarithm: over the cases that all measured ones
    share, if any. Where nothing has a rate, scores take its place.
    """
    logs: dict[str, dict[str, list[float]]] = {}
    kept = [
        run
        for run in contents.runs.values()
        if run.decision is Decision.KEEP and run.case_id in review.case_ids
    ]
    rated = any(run.average_fps is not None for run in kept)
    if not rated:  # what a link moves says nothing of the rig, where there is more
        kept = [run for run in kept if not is_throughput(_title(contents, run).score_unit)] or kept
    for run in kept:
        speed = run.average_fps if rated else _score(contents, run)
        if speed is not None:
            logs.setdefault(run.rig_id, {}).setdefault(run.case_id, []).append(math.log(speed))
    seated = {seat.rig_id: logs[seat.rig_id] for seat in review.seats if seat.rig_id in logs}
    shared = set.intersection(*(set(cases) for cases in seated.values())) if seated else set()

    def rate(cases: dict[str, list[float]]) -> float:
        over = [cases[one] for one in (shared or cases)]
        return sum(sum(one) / len(one) for one in over) / len(over)

    return {rig_id: rate(cases) for rig_id, cases in seated.items()}


def _score(contents: Contents, run: Run) -> float | None:
    """A run's score, or that of its first part, as a speed: higher is better."""
    if run.typed is None:
        return None
    score = run.typed.score or next((part.score for part in run.typed.parts), None)
    if not score:
        return None
    return 1.0 / score if _title(contents, run).lower_is_better else score


def _title(contents: Contents, run: Run) -> Title:
    return contents.titles[contents.cases[run.case_id].title_id]


# Rigs and cases by their names


def join_rig(contents: Contents, review: Review, name: str, new_id: NewId) -> tuple[Edit, str]:
    """A rig in a review by its name, made where the logbook has none; the edit and its id."""
    ledger = Ledger(contents, new_id)
    rig = _rig_named(ledger, name)
    seated = review.joined_by(rig.id, None)
    made = [rig if record.id == rig.id else record for record in ledger.made]
    return Edit(f"rig {rig.name}", (*made, seated)), rig.id


def _rig_named(ledger: Ledger, name: str) -> Rig:
    """A rig by its name; “…, published by S” is one of others."""
    plain, source = rig_and_source(_checked(name, "rig"))
    known = next((rig for rig in ledger.rigs.values() if rig.name.lower() == plain.lower()), None)
    return known or ledger.rig(plain).model_copy(update={"source": source})


def join_case(
    contents: Contents,
    review: Review,
    words: str,
    new_id: NewId,
    *,
    scores: bool | None = None,
    unit: str = "",
) -> tuple[Edit, str]:
    """A case in a review by its words, made where the logbook has none; the edit and its id.

    With `scores` it is of a title that takes them, in a unit, and without of one that takes frame
    rates: where the title of that name takes the other, one is made beside it. None takes any.
    """
    ledger = Ledger(contents, new_id)
    case = _case_named(ledger, words, scores, unit)
    joined = review.joined_by(None, case.id)
    label = _label_of(ledger, case)
    return Edit(f"case {label}"[:200], (*ledger.made, joined)), case.id


def label_of(contents: Contents, words: str, *, scores: bool | None = None) -> str:
    """What `join_case` would call a case."""
    ledger = Ledger(contents, lambda: "new")
    return _label_of(ledger, _case_named(ledger, words, scores))


def _case_named(ledger: Ledger, words: str, scores: bool | None, unit: str = "") -> Case:
    if scores and not unit:
        words, unit = in_unit(words)
    named = parse_case(words)
    _checked(named.title, "title")
    if scores is not None:
        named = replace(named, title=ledger.title_for(named.title, scores=scores, unit=unit))
    for label, case in ledger.cases.items():
        if label.lower() == named.label.lower():
            return case
    known = next((one for one in ledger.titles if one.lower() == named.title.lower()), None)
    named = CaseName(known or named.title, named.scene, named.resolution, named.preset)
    return ledger.case(named, kind_of_score(unit) if scores else "game", unit)


def _label_of(ledger: Ledger, case: Case) -> str:
    return next(label for label, one in ledger.cases.items() if one.id == case.id)


def _checked(name: str, what: str) -> str:
    plain = " ".join(name.split())
    if not plain:
        raise BadCell(what, "it has no name", f"Name the {what}")
    if len(plain) > LONGEST_NAME:
        raise BadCell(what, f"it has {len(plain)} letters", f"Give at most {LONGEST_NAME}")
    return plain


@dataclass(frozen=True, slots=True)
class TypedCell:
    """One cell and what is typed for it: rig and case by id where they are known, else by name.

    `said` is what is typed, or what it was understood as. Without it, rig and case join the review
    and what stands in the cell stays.
    """

    rig: str
    case: str
    said: str | Entry | None
    scores: bool | None = None  # of a case by name: scores, or frame rates; None: as it takes
    meters: Meters | None = None  # read beside its first pass
    kind: Kind = Kind.EYE  # how its figures were read, where the notation does not say
    unit: str = ""  # of its scores: blank for points


def type_cells(
    contents: Contents,
    review: Review,
    cells: Sequence[TypedCell],
    new_id: NewId,
    taken_at: str = "",
    *,
    add: bool = False,
    second: SecondFigure = "",
) -> Edit:
    """Many cells as one edit, rigs and cases made where they are new.

    `second` says from now on what a second figure without a name is in this review.

    With `add` passes join what is typed in a cell already, otherwise they take its place. Raises
    BadEntry or BadCell naming the first cell that cannot be understood.
    """
    if second:
        review = review.model_copy(update={"second_figure": second})
    now, seated = contents, review
    put: dict[str, dict[str, Record | None]] = {}
    if second:
        put["reviews"] = {review.id: review}

    def take(edit: Edit | None) -> None:
        nonlocal now, seated
        if edit is None:
            return
        changed: dict[str, dict[str, Record | None]] = {}
        for record in edit.put:
            changed.setdefault(_table_of(record), {})[record.id] = record
        for record in edit.drop:
            changed.setdefault(_table_of(record), {})[record.id] = None
        now = now.with_records(changed)
        seated = now.reviews[review.id]
        for table, records in changed.items():
            put.setdefault(table, {}).update(records)

    now = now.with_records({"reviews": {review.id: review}})
    for cell in cells:
        rig = cell.rig
        case, part = split_key(cell.case) if cell.case not in now.cases else (cell.case, "")
        if case not in now.cases:
            case, part = cell.case, ""  # a name that has the mark in it
        if rig not in now.rigs:
            edit, rig = join_rig(now, seated, rig, new_id)
            take(edit)
        if case not in now.cases:
            edit, case = join_case(now, seated, case, new_id, scores=cell.scores, unit=cell.unit)
            take(edit)
        if cell.said is None:
            seen = seated.joined_by(rig, case)
            take(Edit("join", (seen,)) if seen != seated else None)
            continue
        entry = _understood(now, rig, case, part, cell.said)
        if part:
            take(_part_edit(now, seated, rig, case, part, entry, new_id, taken_at))
            continue
        entry = _of_kind(entry, cell.kind)
        if add:
            entry = Entry((*entry_of(now, rig, case).passes, *entry.passes), entry.outcome)
        take(type_cell(now, seated, rig, case, entry, new_id, taken_at))
        if cell.meters is not None:
            take(_metered(now, rig, case, cell.meters))
    made = [
        record
        for table, records in put.items()
        for key, record in records.items()
        if record is not None and getattr(contents, table).get(key) != record
    ]
    gone = [
        getattr(contents, table)[key]
        for table, records in put.items()
        for key, record in records.items()
        if record is None and key in getattr(contents, table)
    ]
    counted = count_text(sum(cell.said is not None for cell in cells), "cell")
    label = f"type {counted}"
    if len(cells) == 1:
        typed = cells[0].said or ""
        said = " ".join((entry_text(typed) if isinstance(typed, Entry) else typed).split())[:40]
        label = f"{f'type {said}' if said else 'clear'} for {_where(now, rig, case)}"[:200]
    return Edit(label, tuple(made), tuple(gone))


def _understood(
    contents: Contents, rig_id: str, case_id: str, part: str, said: str | Entry
) -> Entry:
    """What a cell is told, by what its case takes; BadEntry names the cell."""
    if isinstance(said, Entry):
        return said
    try:
        return parse_entry(said, score=bool(part) or takes_scores(contents, case_id))
    except BadEntry as error:
        where = f"{_where(contents, rig_id, case_id)}: {error.where}"
        raise BadEntry(where, error.what, error.fix) from None


def _of_kind(entry: Entry, kind: Kind) -> Entry:
    """An entry whose plain figures were read so; ranges, abouts and bounds stay what they are."""
    if kind is Kind.EYE:
        return entry

    def read(how: HowRead) -> HowRead:
        plain = how.kind is Kind.EYE and not how.looks
        return how.model_copy(update={"kind": kind}) if plain else how

    passes = tuple(
        one.model_copy(
            update={"average_how": read(one.average_how), "low_1_how": read(one.low_1_how)}
        )
        for one in entry.passes
    )
    return Entry(passes, entry.outcome)


def _metered(contents: Contents, rig_id: str, case_id: str, meters: Meters) -> Edit | None:
    """The edit that gives a cell's first typed run readings of meters, beside those it has."""
    runs = typed_runs(contents, rig_id, case_id)
    if not runs:
        return None
    read = meters.model_dump(exclude_none=True)
    run = runs[0].model_copy(
        update={"meters": (runs[0].meters or Meters()).model_copy(update=read)}
    )
    return Edit("meters", (run,)) if run != runs[0] else None


def _part_edit(
    contents: Contents,
    review: Review,
    rig_id: str,
    case_id: str,
    part: str,
    entry: Entry,
    new_id: NewId,
    taken_at: str,
) -> Edit | None:
    """The edit that makes a part's cell say an entry; rig and case join the review."""
    if entry.outcome:
        raise BadCell(part, "a part did not run by itself", "Say it in the row of the whole test")
    title = contents.titles[contents.cases[case_id].title_id]
    of_case = [run for run in contents.runs.values() if run.case_id == case_id]
    known = {one.name: one for one in parts_of(title, of_case)}
    last = max((run.repeat for run in of_case if run.rig_id == rig_id), default=0)
    put, drop = type_part(
        typed_runs(contents, rig_id, case_id),
        rig_id,
        case_id,
        known.get(part) or TestPart(name=part),
        entry,
        new_id,
        last,
        taken_at,
    )
    joined = review.joined_by(rig_id, case_id)
    records: tuple[Record, ...] = (*put, *((joined,) if joined != review else ()))
    where = _where(contents, rig_id, case_id)
    return Edit(f"{part} of {where}"[:200], records, tuple(drop)) if records or drop else None


TABLES = {"Rig": "rigs", "Title": "titles", "Case": "cases", "Run": "runs", "Review": "reviews"}


def _table_of(record: Record) -> str:
    return TABLES[type(record).__name__]


def cell_hint(contents: Contents, rig_id: str, case_id: str) -> str:
    """What typing into a cell leaves as it is, blank for nothing."""
    others = sum(
        run.rig_id == rig_id and run.case_id == case_id and not is_typed(run)
        for run in contents.runs.values()
    )
    if not others:
        return ""
    return f"{capital(count_text(others, 'run'))} from logs {'stays' if others == 1 else 'stay'}"
