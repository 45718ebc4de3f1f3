"""Runs before and after something changed: a part replaced, a driver updated.

Where a cell was measured again after a change, the passes from before it do not count; where only
one side of a pair was, the pair is not like for like and says so.
"""

from collections import Counter
from collections.abc import Container, Iterable, Mapping, Sequence
from datetime import UTC, datetime
from functools import lru_cache

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.moments import moment_from
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Decision, Run
from blunt_ruler.core.text import count_text


class BadDay(UserFixable):
    """A text that is no day."""


@lru_cache(maxsize=50_000)
def moment_of(text: str) -> datetime | None:
    """A day or a moment as ISO text, in UTC where it says no zone; None for anything else."""
    found = moment_from(text)
    return None if found is None else found if found.tzinfo else found.replace(tzinfo=UTC)


def checked_day(text: str) -> str:
    """A day as it is kept; BadDay says how to write one."""
    if text.strip() and moment_of(text) is None:
        raise BadDay("day", f"“{text.strip()[:40]}” is not a date", "Write it as 2026-11-26")
    return text.strip()


def _ordered(changes: Iterable[Change]) -> list[tuple[datetime, Change]]:
    dated = [(at, one) for one in changes if (at := moment_of(one.at)) is not None]
    return sorted(dated, key=lambda pair: pair[0])


def _passed(run: Run, changes: Sequence[tuple[datetime, Change]]) -> int | None:
    """How many changes a run came after; None where nobody knows when it was taken."""
    at = moment_of(run.taken_at)
    if at is None:
        return None
    return sum(when <= at for when, _ in changes)


def _of_rig(contents: Contents, rig_id: str) -> list[tuple[datetime, Change]]:
    every = contents.changes.values()
    return _ordered(one for one in every if not one.rig_ids or rig_id in one.rig_ids)


def superseded(contents: Contents, handover: Handover | None = None) -> Mapping[str, Change]:
    """Run → the change that it came before, of runs whose cell was kept again after it."""
    if not contents.changes:
        return {}
    return {
        run_id: change
        for of_rig in superseded_by_rig(contents, handover or Handover()).values()
        for run_id, change in of_rig.items()
    }


def superseded_by_rig(contents: Contents, handover: Handover) -> Mapping[str, Mapping[str, Change]]:
    """The same by rig, of rigs that something changed on; those without an edit are the same."""
    found = {}
    for rig_id, cells in contents.by_rig.items():
        if not (changes := _of_rig(contents, rig_id)):
            continue
        noted = tuple(one for _, one in changes)
        found[rig_id] = handover.of(
            ("superseded", rig_id),
            (cells, noted),
            lambda: _of_cells(rig_id, cells, noted, changes, handover),  # noqa: B023
        )
    return found


def _of_cells(
    rig_id: str,
    cells: Mapping[str, Sequence[Run]],
    noted: tuple[Change, ...],
    changes: Sequence[tuple[datetime, Change]],
    handover: Handover,
) -> dict[str, Change]:
    parted = handover.of_cells(
        ("superseded", rig_id),
        {(rig_id, case_id): (runs, noted) for case_id, runs in cells.items()},
        lambda cell: _parted(cells[cell[1]], changes),
    )
    return {run_id: change for of_cell in parted.values() for run_id, change in of_cell.items()}


def _parted(runs: Sequence[Run], changes: Sequence[tuple[datetime, Change]]) -> dict[str, Change]:
    """What `superseded` holds of the runs of one cell."""
    passed = {run.id: _passed(run, changes) for run in runs}
    kept = [passed[run.id] for run in runs if run.decision is Decision.KEEP]
    newest = max((one for one in kept if one is not None), default=0)
    return {
        run_id: changes[after][1]
        for run_id, after in passed.items()
        if after is not None and after < newest
    }


def counts(run: Run, past: Container[str]) -> bool:
    """Whether figures are made of a run: kept, and not of the `superseded`."""
    return run.decision is Decision.KEEP and run.id not in past


def counted_changes(
    contents: Contents,
    kept: Mapping[str, Mapping[str, Sequence[Run]]],
    handover: Handover | None = None,
) -> dict[str, Mapping[str, frozenset[str]]]:
    """Rig → case → ids of the changes that its counted runs came after, of changes on several
    rigs.
    """
    handover = handover or Handover()
    shared = _ordered(one for one in contents.changes.values() if len(one.rig_ids) != 1)
    if not shared:
        return {}
    found: dict[str, Mapping[str, frozenset[str]]] = {}
    for rig_id, cells in kept.items():
        mine = [pair for pair in shared if not pair[1].rig_ids or rig_id in pair[1].rig_ids]
        found[rig_id] = handover.of(
            ("changes passed", rig_id),
            (cells, tuple(one for _, one in mine)),
            lambda: {
                case_id: ids
                for case_id, runs in cells.items()  # noqa: B023
                if (ids := _passed_by(runs, mine)) is not None  # noqa: B023
            },
        )
    return found


def _passed_by(
    runs: Sequence[Run], changes: Sequence[tuple[datetime, Change]]
) -> frozenset[str] | None:
    """Ids of the changes that the latest of some runs came after; None where none has a day."""
    passed = (_passed(run, changes) for run in runs)
    latest = max((one for one in passed if one is not None), default=None)
    return None if latest is None else frozenset(one.id for _, one in changes[:latest])


def change_words(change: Change) -> str:
    """A change with its day: "driver 42 (2026-10-03)"."""
    return f"{change.what or 'something changed'} ({change.at[:16]})"


def all_parted_off(contents: Contents) -> Counter[str]:
    """How many runs do not count because of each change, by its id."""
    return Counter(one.id for one in superseded(contents).values())


def parted_off(contents: Contents, change: Change) -> int:
    """How many runs do not count because of a change."""
    return all_parted_off(contents)[change.id]


def changes_line(contents: Contents) -> str:
    """What the changes of a logbook come to, in one sentence."""
    changes = contents.changes.values()
    if not changes:
        return "Nothing is noted to have changed while the test ran."
    gone = len(superseded(contents))
    undated = sum(moment_of(one.at) is None for one in changes)
    said = count_text(len(changes), "change")
    if undated:
        return f"{said}; {undated} without a date, which have no effect."
    if gone:
        return f"{said}: {count_text(gone, 'earlier pass', 'earlier passes')} do not count."
    return f"{said}; no cell was measured both before and after one."


def note_change(rig_ids: Sequence[str], at: str, change_id: str) -> Edit:
    """A change on some rigs, on all where none is named, still to be put into words."""
    made = Change(id=change_id, at=at, what="something changed", rig_ids=tuple(rig_ids))
    return Edit("note a change", (made,))


def drop_change(change: Change) -> Edit:
    """A change taken away: the runs before it count again."""
    return Edit(f"take away “{change.what[:60]}”", drop=(change,))


def change_lines(contents: Contents, rig_ids: Iterable[str]) -> tuple[str, ...]:
    """Every change of some rigs in a sentence: what, when, and how many runs it parts off."""
    wanted = set(rig_ids)
    gone = superseded(contents)
    said = []
    for _, one in _ordered(contents.changes.values()):
        rigs = [contents.rigs[key].name for key in one.rig_ids if key in contents.rigs]
        if one.rig_ids and not wanted & {*one.rig_ids}:
            continue
        before = sum(
            change.id == one.id and contents.runs[key].rig_id in wanted
            for key, change in gone.items()
        )
        whose = f" on {', '.join(rigs)}" if rigs else " on every rig"
        earlier = count_text(before, "earlier pass", "earlier passes")
        parts = f"; {earlier} not counted" if before else ""
        said.append(f"{one.at[:10]}: {one.what}{whose}{parts}.")
    return tuple(said)
