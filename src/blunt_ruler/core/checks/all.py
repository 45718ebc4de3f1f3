"""All checks over a logbook or over loose logs, and what they come to."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.checks import across, repeats
from blunt_ruler.core.checks.findings import Check, FactsOf, Finding, RunFacts
from blunt_ruler.core.checks.one_run import ONE_RUN
from blunt_ruler.core.plan.repeats_needed import ASSUMED_SPREAD
from blunt_ruler.core.records.records import Contents, Decision, Review, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.text import capital, count_text


@dataclass(frozen=True, slots=True)
class Checked:
    """What the checks found over some runs: all findings, worst first, and by run."""

    findings: tuple[Finding, ...]
    by_run: Mapping[str, tuple[Finding, ...]]
    runs: tuple[Run, ...] = ()

    def worst(self, run_id: str) -> Severity | None:
        """The worst severity found against a run itself, None where nothing was."""
        found = self.by_run.get(run_id, ())
        return min((one.severity for one in found), key=list(Severity).index, default=None)

    def blocks(self, run: Run) -> bool:
        """Whether a run cannot be used as it stands."""
        return self.worst(run.id) is Severity.BLOCKING


NOTHING = Checked((), {})


def check_runs(
    contents: Contents, review: Review | None, thresholds: Thresholds | None = None
) -> Checked:
    """Check every run of a logbook, or of one review's rigs and cases.

    Runs that were set aside are checked against the kept ones, so that their fault has a name.
    """
    thresholds = thresholds or (review.thresholds if review else Thresholds())
    runs = [run for run in contents.runs.values() if review is None or _in(review, run)]
    facts_of = FactsOf(contents)
    facts = [facts_of(run) for run in runs]
    by_id = {one.run.id: one for one in facts}
    for one in facts:
        _alone(one, thresholds)
    cells = repeats.by_cell(facts)
    sound = _sound(cells)
    for key, all_ in cells.items():
        for check in (
            repeats.typed_misfit(all_, sound.get(key, ()), thresholds),
            repeats.sent_back(all_, sound.get(key, ())),
        ):
            _put(check, by_id)
    sound = _sound(cells)
    spreads = repeats.spread_by_title(sound)
    for key, all_ in cells.items():
        title_id = contents.cases[key[1]].title_id
        spread = spreads.get(title_id, ASSUMED_SPREAD)
        kept = sound.get(key, ())
        _put(repeats.collapsed_low(all_, kept, thresholds), by_id)
        _put(repeats.disagreeing_repeat(all_, kept, spread, thresholds), by_id)
    _put(repeats.same_trace(facts), by_id)
    _put(repeats.day_drift(sound, thresholds), by_id)
    sound = _sound(cells)
    for check in (
        across.over_resolution(contents, sound, spreads, thresholds),
        across.lesser_part_wins(contents, sound, spreads, thresholds),
        across.settings_changed(contents, sound, thresholds),
        across.below_power_limit(contents, sound, thresholds),
        across.skipped_preflight(contents, [run for run in runs if run.figures or run.typed]),
    ):
        _put(check, by_id)
    return _checked(facts)


def check_logs(runs: Sequence[Run], refresh_hz: float | None, thresholds: Thresholds) -> Checked:
    """Check loose logs: what one run alone tells, and whether two are the same."""
    facts = [RunFacts(run, run.observed, refresh_hz=refresh_hz) for run in runs]
    by_id = {one.run.id: one for one in facts}
    for one in facts:
        _alone(one, thresholds)
    _put(repeats.same_trace(facts), by_id)
    return _checked(facts)


def _in(review: Review, run: Run) -> bool:
    return run.case_id in review.case_ids and any(
        seat.rig_id == run.rig_id for seat in review.seats
    )


def _alone(facts: RunFacts, thresholds: Thresholds) -> None:
    for check in ONE_RUN:
        facts.found.extend(check(facts, thresholds))


def _put(found: Iterable[Finding], by_id: Mapping[str, RunFacts]) -> None:
    for finding in found:
        by_id[finding.run_id].found.append(finding)


def _sound(cells: Mapping[repeats.Cell, Sequence[RunFacts]]) -> dict[repeats.Cell, list[RunFacts]]:
    """Kept runs that nothing blocks, by cell."""
    sound = {}
    for key, all_ in cells.items():
        kept = [
            one
            for one in all_
            if one.run.decision is Decision.KEEP
            and not any(found.severity is Severity.BLOCKING for found in one.found)
        ]
        if kept:
            sound[key] = kept
    return sound


def _checked(facts: Sequence[RunFacts]) -> Checked:
    order = list(Severity)
    by_run = {
        one.run.id: tuple(sorted(one.found, key=lambda finding: order.index(finding.severity)))
        for one in facts
        if one.found
    }
    findings = sorted(
        (finding for found in by_run.values() for finding in found),
        key=lambda finding: order.index(finding.severity),
    )
    return Checked(tuple(findings), by_run, tuple(one.run for one in facts))


def to_redo(checked: Checked) -> tuple[Run, ...]:
    """Runs that are kept, were not answered with a reason, and cannot be used as they stand."""
    return tuple(
        run
        for run in checked.runs
        if run.decision is Decision.KEEP and not run.reason and checked.blocks(run)
    )


def checks_line(checked: Checked) -> str:
    """How many runs are sound and what must be redone, as a part of a sentence."""
    kept = [run for run in checked.runs if run.decision is Decision.KEEP]
    wrong = to_redo(checked)
    sound = len(kept) - len(wrong)
    said = f"{sound} of {count_text(len(kept), 'kept run')} {'is' if sound == 1 else 'are'} sound"
    trims = sum(
        any(one.check is Check.MENU_LEFT_IN for one in checked.by_run[run.id]) for run in wrong
    )
    if len(wrong) - trims:
        said += f"; {count_text(len(wrong) - trims, 'run')} must be taken again"
    if trims:
        said += f"; {trims} must be trimmed"
    return said


def runs_line(contents: Contents, review: Review | None, checked: Checked | None = None) -> str:
    """How many runs there are, how many are sound, and what to do next."""
    runs = list(contents.runs.values())
    if not runs:
        return "No runs yet. Drop frame logs on this window, or choose Import logs."
    kept = sum(run.decision is Decision.KEEP for run in runs)
    redo = sum(run.decision is Decision.REDO for run in runs)
    aside = sum(run.decision is Decision.SET_ASIDE for run in runs)
    said = f"{count_text(len(runs), 'run')}: {kept} kept"
    if redo:
        said += f", {redo} to redo"
    if aside:
        said += f", {aside} set aside"
    if checked is not None and checked.runs:
        return f"{said}. {capital(checks_line(checked))}."
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
