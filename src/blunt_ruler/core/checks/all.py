"""All checks over a logbook or over loose logs, and what they come to."""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from operator import attrgetter
from typing import TypeVar

from blunt_ruler.core.checks import (  # noqa: F401 (they register)
    across,
    by_eye,
    one_run,
    passes,
    repeats,
)
from blunt_ruler.core.checks.consensus import Elsewhere, Expected
from blunt_ruler.core.checks.findings import (
    About,
    Check,
    FactsOf,
    Finding,
    RunFacts,
    named,
    speaks_of_rigs,
)
from blunt_ruler.core.checks.registry import AllRuns, Repeats, Scope, found_by
from blunt_ruler.core.checks.repeats import spread_by_title
from blunt_ruler.core.checks.sharing import weigh
from blunt_ruler.core.checks.told import Cells, Runs, Told
from blunt_ruler.core.once import Cell, Handover
from blunt_ruler.core.plan.repeats_needed import ASSUMED_SPREAD
from blunt_ruler.core.records.records import Contents, Decision, Review, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.runs.changes import superseded
from blunt_ruler.core.text import capital, count_text
from blunt_ruler.core.types import Progress, no_progress

IN_TITLES = (Scope.SLIP, Scope.COURSE, Scope.REPEATS)  # one after the other
OfTitle = TypeVar("OfTitle")


@dataclass(frozen=True, slots=True)
class Checked:
    """What the checks found over some runs: all findings, worst first, and by run."""

    findings: tuple[Finding, ...]
    by_run: Mapping[str, tuple[Finding, ...]]
    runs: tuple[Run, ...] = ()

    def worst(self, run_id: str) -> Severity | None:
        """The worst severity found against a run itself, None where nothing was."""
        found = self.by_run.get(run_id, ())
        return min((one.severity for one in found), key=attrgetter("rank"), default=None)

    def blocks(self, run: Run) -> bool:
        """Whether a run cannot be used as it stands."""
        return self.worst(run.id) is Severity.BLOCKING


NOTHING = Checked((), {})


def check_runs(
    contents: Contents,
    review: Review | None,
    thresholds: Thresholds | None = None,
    step: Progress = no_progress,
    handover: Handover | None = None,
) -> Checked:
    """Check every run of a logbook, or of one review's rigs and cases.

    Runs that were set aside are checked against the kept ones, so that their fault has a name.
    """
    thresholds = thresholds or (review.thresholds if review else Thresholds())
    return with_rig_names(find_faults(contents, thresholds, review, step, handover), contents)


def find_faults(
    contents: Contents,
    thresholds: Thresholds,
    review: Review | None = None,
    step: Progress = no_progress,
    handover: Handover | None = None,
) -> Checked:
    """What `check_runs` finds, its rigs still unnamed: see `with_rig_names`.

    Titles are looked at one by one, and what one shows is handed over with its runs and with what
    it is held against: an edit has only the titles checked anew that it touches, and of these only
    the cells.
    """
    handover = handover or Handover()
    gone = superseded(contents, handover)  # what came after a change is not held against it
    cells = FactsOf(contents, handover).cells(
        {
            key: left
            for key, all_ in contents.by_cell.items()
            if (review is None or _is_in(review, key))
            and (left := tuple(run for run in all_ if run.id not in gone) if gone else all_)
        }
    )
    titles = _alone(contents, cells, thresholds, step, handover)
    for scope in IN_TITLES:
        sound = {title_id: told.sound for title_id, told in titles.items()}
        spreads = spread_by_title(sound, handover)
        elsewhere = Elsewhere(partial(_sound, cells, contents, titles))
        titles = {
            title_id: _Later(
                scope, spreads.get(title_id, ASSUMED_SPREAD), thresholds, handover
            ).told(title_id, told, elsewhere)
            for title_id, told in _counted(titles, scope, step)
        }
    told = _joined(cells, contents, titles)
    runs = tuple(run for run_id, run in contents.runs.items() if run_id in told.cell_of)
    for scope in (Scope.TRACES, Scope.REVIEW):
        shown = AllRuns(contents, runs, told, spreads, thresholds, handover)
        told = told.and_(found_by(scope, shown))
    return _checked(told, runs)


Findings = tuple[Finding, ...]
Ask = Callable[[], Expected | None]
Said = tuple[tuple[Cell, Expected | None], ...]


def _counted(
    titles: Mapping[str, OfTitle], scope: Scope, step: Progress
) -> Iterator[tuple[str, OfTitle]]:
    """The titles one by one, with how far a scope has come."""
    stages = (Scope.RUN, *IN_TITLES)
    for number, found in enumerate(titles.items()):
        step("Checking the runs", (stages.index(scope) + number / len(titles)) / len(stages))
        yield found


def _alone(
    contents: Contents, cells: Cells, thresholds: Thresholds, step: Progress, handover: Handover
) -> dict[str, Told]:
    """What runs show by themselves, weighed against the other passes, by title."""
    title_of = {case.id: case.title_id for case in contents.cases.values()}
    of_title: dict[str, dict[Cell, Runs]] = {}
    for key, all_ in cells.items():
        of_title.setdefault(title_of[key[1]], {})[key] = all_
    return {
        title_id: handover.of(
            ("weighed", title_id),
            (thresholds, tuple(own.items())),
            partial(_weighed, own, thresholds, handover),
        )
        for title_id, own in _counted(of_title, Scope.RUN, step)
    }


def _weighed(cells: Cells, thresholds: Thresholds, handover: Handover) -> Told:
    """Look at every run by itself, and set what it shows against the other passes."""
    nothing = Told.nothing_of(cells)
    shown = nothing.and_(
        finding
        for key, all_ in cells.items()
        for finding in handover.of(
            ("alone", key), (all_, thresholds), partial(_each_alone, all_, thresholds)
        )
    )
    every = [facts for all_ in cells.values() for facts in all_]
    return nothing.and_(weigh(shown.by_run, every))


def _sound(cells: Cells, contents: Contents, titles: Mapping[str, Told]) -> dict[Cell, Runs]:
    """The sound runs of all titles, the cells in their own order."""
    of_title = ((key, titles[contents.cases[key[1]].title_id]) for key in cells)
    return {key: sound for key, told in of_title if (sound := told.sound.get(key))}


def _joined(cells: Cells, contents: Contents, titles: Mapping[str, Told]) -> Told:
    """What is told of all titles."""
    cell_of: dict[str, Cell] = {}
    by_run: dict[str, Findings] = {}
    for told in titles.values():
        cell_of.update(told.cell_of)
        by_run.update(told.by_run)
    return Told(cells, cell_of, by_run, _sound(cells, contents, titles))


@dataclass(frozen=True, slots=True)
class _Later:
    """One scope after the first, for the cells of one title."""

    scope: Scope
    spread: float
    thresholds: Thresholds
    handover: Handover

    def told(self, title_id: str, told: Told, elsewhere: Elsewhere) -> Told:
        """What is told of the title after the scope; what other titles expect is read if asked."""

        def look() -> tuple[Told, Said]:
            said: dict[Cell, Expected | None] = {}

            def ask(key: Cell) -> Expected | None:
                return said.setdefault(key, elsewhere.expected(*key))

            found = told.and_(
                finding
                for key in told.cells
                for finding in self._of_cell(
                    key, told.unexplained(key), told.sound.get(key, ()), partial(ask, key)
                )
            )
            return found, tuple(said.items())

        place = ("later", title_id, self.scope)
        reads = (told, self.spread, self.thresholds)
        found, said = self.handover.of(place, reads, look)
        now = tuple((key, elsewhere.expected(*key)) for key, _ in said)
        if now == said:
            return found
        return self.handover.of((*place, "again"), (*reads, now), look)[0]

    def _of_cell(self, key: Cell, runs: Runs, sound: Runs, expected: Ask) -> Findings:
        """What the checks find in one cell; what other cells expect is read if asked."""

        def find() -> tuple[Findings, tuple[Expected | None, ...]]:
            said: list[Expected | None] = []

            def ask() -> Expected | None:
                said[:] = said or [expected()]
                return said[0]

            shown = Repeats(runs, sound, self.spread, self.thresholds, ask)
            return tuple(found_by(self.scope, shown)), tuple(said)

        reads = runs, sound, self.spread, self.thresholds
        found, said = self.handover.of(("together", key, self.scope), reads, find)
        return found if not said or said == (expected(),) else find()[0]


def with_rig_names(checked: Checked, contents: Contents) -> Checked:
    """Findings with the names that the rigs they speak of have now."""
    speaking = tuple(filter(speaks_of_rigs, checked.findings))
    if not speaking:
        return checked
    now = {id(one): named(one, contents) for one in speaking}

    def renamed(findings: tuple[Finding, ...]) -> tuple[Finding, ...]:
        if not any(id(one) in now for one in findings):
            return findings
        return tuple(now.get(id(one), one) for one in findings)

    by_run = {run_id: renamed(found) for run_id, found in checked.by_run.items()}
    return Checked(renamed(checked.findings), by_run, checked.runs)


def check_logs(runs: Sequence[Run], refresh_hz: float | None, thresholds: Thresholds) -> Checked:
    """Check loose logs: what one run alone tells, and whether two are the same."""
    # Loose logs have neither rig nor case: each is a cell by itself.
    alike = Counter(run.origin.file for run in runs)
    cells = {}
    for place, run in enumerate(runs):
        where = run.origin.file if alike[run.origin.file] == 1 else run.id
        facts = RunFacts(run, run.observed, where=where, refresh_hz=refresh_hz)
        cells["", str(place)] = (facts,)
    told = _weighed(cells, thresholds, Handover())
    shown = AllRuns(None, runs, told, {}, thresholds, Handover())
    return _checked(told.and_(found_by(Scope.TRACES, shown)), runs)


def _each_alone(all_: Sequence[RunFacts], thresholds: Thresholds) -> Findings:
    return tuple(one for facts in all_ for one in found_by(Scope.RUN, facts, thresholds))


def _is_in(review: Review, cell: Cell) -> bool:
    return cell[1] in review.case_ids and any(seat.rig_id == cell[0] for seat in review.seats)


def _checked(told: Told, runs: Sequence[Run]) -> Checked:
    """All that is told of some runs, the worst first."""
    worst_first = attrgetter("severity.rank")
    by_run = {
        run.id: tuple(sorted(found, key=worst_first))
        for run in runs
        if (found := told.by_run.get(run.id))
    }
    every = {id(finding): finding for found in by_run.values() for finding in found}
    findings = sorted(every.values(), key=worst_first)
    return Checked(tuple(findings), by_run, tuple(runs))


def to_redo(checked: Checked) -> tuple[Run, ...]:
    """Runs that are kept, were not answered with a reason, and cannot be used as they stand."""
    found = checked.by_run
    return tuple(
        run
        for run in checked.runs
        if run.id in found
        and run.decision is Decision.KEEP
        and not run.reason
        and checked.blocks(run)
    )


def checks_line(checked: Checked) -> str:
    """How many runs are sound and what must be redone, as a part of a sentence."""
    kept = [run for run in checked.runs if run.decision is Decision.KEEP]
    wrong = to_redo(checked)
    bare = {run.id for run in kept if run.figures is None and run.average_fps is not None}
    ended = sum(bool(run.outcome) for run in kept)
    others = len(kept) - len(bare) - ended
    said = f"{len(kept)} kept"
    if bare:
        said += "; none has a trace, so caps and menus cannot be seen"
    if any(run.figures is not None for run in kept) or not kept:
        sound = others - sum(run.id not in bare for run in wrong)
        said = f"{sound} of {count_text(others, 'kept run')} {'is' if sound == 1 else 'are'} valid"
        if bare:
            said += f"; {len(bare)} more without a trace, where caps and menus cannot be seen"
    if ended:
        said += f"; {ended} did not run to the end"
    for finding in checked.findings:
        if finding.check is Check.HELD_FIGURE:
            sit = "sits" if len(finding.runs) == 1 else "sit"
            said += f"; {len(finding.runs)} {sit} on {finding.evidence['step']:g}"
    trims = sum(
        any(one.check is Check.MENU_LEFT_IN for one in checked.by_run[run.id]) for run in wrong
    )
    if len(wrong) - trims:
        said += f"; {count_text(len(wrong) - trims, 'run')} must be taken again"
    if trims:
        said += f"; {trims} must be trimmed"
    asked = sum(one.about is not About.RUN for one in checked.findings)
    if asked:
        said += f"; {count_text(asked, 'finding')} about all passes of a case or cell to answer"
    return said


def runs_line(contents: Contents, review: Review | None, checked: Checked | None = None) -> str:
    """How many runs there are, how many are sound, and what to do next."""
    runs = list(contents.runs.values())
    if not runs:
        return "No runs yet. Drop frame logs on this window, or choose Import logs."
    decided = Counter(run.decision for run in runs)
    redo, aside = decided[Decision.REDO], decided[Decision.SET_ASIDE]
    said = f"{count_text(len(runs), 'run')}: {decided[Decision.KEEP]} kept"
    if redo:
        said += f", {redo} to redo"
    if aside:
        said += f", {aside} set aside"
    if checked is not None and checked.runs:
        line, kept = checks_line(checked), f"{decided[Decision.KEEP]} kept"
        if line.partition(";")[0] == kept and said.endswith(kept):  # said once
            return f"{said}{line.removeprefix(kept)}."
        sound, *rest = line.split("; ")
        if len(runs) > 1 and sound == f"{len(runs)} of {len(runs)} kept runs are valid":
            return f"{'; '.join((f'{len(runs)} runs, all kept and valid', *rest))}."
        return f"{said}. {capital(line)}."
    single = _cells_of_one(contents, review)
    if single:
        return f"{said}. {count_text(single, 'cell')} of the Board rest on a single kept run."
    return f"{said}. Every measured cell of the Board rests on at least two kept runs."


def _cells_of_one(contents: Contents, review: Review | None) -> int:
    if review is None:
        return 0
    rig_ids = {seat.rig_id for seat in review.seats}
    counts: dict[tuple[str, str], int] = {}
    for run in contents.runs.values():
        if run.decision is Decision.KEEP and run.rig_id in rig_ids:
            key = (run.rig_id, run.case_id)
            counts[key] = counts.get(key, 0) + 1
    return sum(count == 1 for count in counts.values())
