"""What a check found, and the facts that checks are given."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Self

from blunt_ruler.core.measure.telemetry import Gauge, GaugeDigest
from blunt_ruler.core.measure.trace_summary import Observed
from blunt_ruler.core.once import Cell, Handover
from blunt_ruler.core.records.by_cell import ByCell
from blunt_ruler.core.records.hardware import Card, Rig, Tick
from blunt_ruler.core.records.records import Case, Contents, Run, Title
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.links import BadLink, ladder_of_rig, rig_width


class Check(StrEnum):
    """Every check by its name, with what it finds in words; each has a section in the documents."""

    words: str

    def __new__(cls, key: str, words: str) -> Self:
        """A check's name, which is its value, and its words."""
        member = str.__new__(cls, key)
        member._value_ = key
        member.words = words
        return member

    FRAME_CAP = "frame_cap", "frame cap or refresh lock"
    MENU_LEFT_IN = "menu_left_in", "menu or loading left in"
    FIRST_PASS_STUTTER = "first_pass_stutter", "first-pass stutter"
    DRIFT = "drift", "drift"
    TOO_SHORT = "too_short", "too short"
    DISAGREEING_REPEAT = "disagreeing_repeat", "repeat that disagrees"
    RECORDER_ON = "recorder_on", "recorder on"
    WRONG_DEVICE = "wrong_device", "wrong device"
    NARROW_LINK = "narrow_link", "narrow link"
    BUILT_IN_WORKING = "built_in_working", "built-in graphics working"
    BELOW_POWER_LIMIT = "below_power_limit", "card below its power limit"
    SAME_TRACE = "same_trace", "same trace twice"
    IMPOSSIBLE_FIGURES = "impossible_figures", "figures that cannot be"
    FASTER_AT_HIGHER_RESOLUTION = "faster_at_higher_resolution", "faster at higher resolution"
    LESSER_PART_WINS = "lesser_part_wins", "lesser part wins"
    FLAT_OVER_RESOLUTION = "flat_over_resolution", "unmoved by resolution"
    FREEZE = "freeze", "freeze"
    DYNAMIC_RESOLUTION = "dynamic_resolution", "rate that does not follow the scene"
    SOMETHING_ELSE = "something_else", "something else at work"
    HELD_FIGURE = "held_figure", "figure on a refresh step"
    SAME_FIGURE = "same_figure", "same figure in many cells"
    COLLAPSED_LOW = "collapsed_low", "collapsed low"
    GENERATED_FRAMES = "generated_frames", "generated frames"
    SETTINGS_CHANGED = "settings_changed", "settings changed"
    SKIPPED_PREFLIGHT = "skipped_preflight", "skipped pre-flight"


# What is read off a log, a tick or a typed figure; all other checks infer, by signs.
READ_OFF = frozenset(
    {
        Check.TOO_SHORT,
        Check.RECORDER_ON,
        Check.WRONG_DEVICE,
        Check.NARROW_LINK,
        Check.BUILT_IN_WORKING,
        Check.SAME_TRACE,
        Check.IMPOSSIBLE_FIGURES,
        Check.SETTINGS_CHANGED,
        Check.SKIPPED_PREFLIGHT,
    }
)


class About(StrEnum):
    """Whom a finding accuses: one run, or all passes of a cell or a case alike."""

    RUN = "run"
    CELL = "cell"
    CASE = "case"


class Sure(StrEnum):
    """How sure a finding is."""

    READ = "read off"
    LIKELY = "several signs"
    POSSIBLE = "one sign"


Evidence = Mapping[str, float | str]


@dataclass(frozen=True, slots=True)
class Finding:
    """What a check noticed about a run, or about a pair of runs through the first of them.

    `signs` are independent of one another: what is inferred stops a run only on two of them.
    A finding `about` a cell or a case accuses none of its runs: `run_id` and `others` share it.
    """

    check: Check
    severity: Severity
    run_id: str
    says: str
    remedy: str
    evidence: Evidence
    others: tuple[str, ...] = ()
    signs: tuple[str, ...] = ()
    about: About = About.RUN

    @property
    def runs(self) -> tuple[str, ...]:
        """All runs it speaks of."""
        return (self.run_id, *self.others)

    @property
    def sure(self) -> Sure:
        """Read off, or inferred from one sign or from more."""
        if self.check in READ_OFF:
            return Sure.READ
        return Sure.LIKELY if len(self.signs) > 1 else Sure.POSSIBLE


@dataclass(frozen=True, slots=True)
class RunFacts:
    """A run with what is known of its rig and case; None where nothing is described."""

    run: Run
    observed: Observed | None
    rig: Rig | None = None
    card: Card | None = None
    case: Case | None = None
    title: Title | None = None
    where: str = ""
    expected_lanes: int | None = None
    expected_generation: int | None = None
    refresh_hz: float | None = None
    link_gb_per_s: float | None = None
    link_reading: str | None = None  # what pre-flight read before this run
    memory_reading: str | None = None

    def gauge(self, gauge: Gauge) -> GaugeDigest | None:
        """The digest of one gauge, None where neither log nor machine told it."""
        return self.run.gauge(gauge)

    @property
    def duration_s(self) -> float:
        """Length of what is kept of the trace."""
        return self.run.figures.duration_s if self.run.figures else 0.0

    @property
    def add_in(self) -> bool:
        """Whether the run was taken on a card outside the host's own graphics."""
        return self.card is not None and not self.card.built_in


_RIG = re.compile("\x02([^\x03]*)\x03")


def rig_mark(rig_id: str) -> str:
    """Stands for a rig's name in a finding until `named` puts it in: names change, faults stay."""
    return f"\x02{rig_id}\x03"


def speaks_of_rigs(finding: Finding) -> bool:
    """Whether rigs stand in the words of a finding, whose names can change."""
    return any(_RIG.search(words) for words in (finding.says, finding.remedy))


def named(finding: Finding, contents: Contents) -> Finding:
    """A finding with the names its rigs have now."""

    def name(mark: re.Match[str]) -> str:
        return contents.rigs[mark[1]].name

    return replace(
        finding, says=_RIG.sub(name, finding.says), remedy=_RIG.sub(name, finding.remedy)
    )


class FactsOf:
    """Gives runs of a logbook with everything known about them, each rig worked out once."""

    def __init__(self, contents: Contents, handover: Handover) -> None:
        self._contents, self._handover = contents, handover
        self._agreed: dict[str, tuple[int | None, int | None]] = {}
        self._width: dict[str, float | None] = {}
        self._ticks: dict[tuple[str, str], list[Tick]] = {}
        self._rigs = {
            rig.id: (rig, contents.card_of(rig.id), contents.link_of(rig.id))
            for rig in contents.rigs.values()
        }
        self._cases = {
            case.id: (case, contents.titles[case.title_id]) for case in contents.cases.values()
        }
        for tick in contents.ticks.values():
            if tick.reading:
                self._ticks.setdefault((tick.rig_id, tick.step), []).append(tick)

    def cells(self, runs: ByCell[Run]) -> dict[Cell, tuple[RunFacts, ...]]:
        """The facts of the runs of some cells."""
        reads = {
            (rig_id, case_id): (*self._rigs[rig_id], *self._cases[case_id], own, self._read(own))
            for (rig_id, case_id), own in runs.items()
        }
        return self._handover.of_cells(("facts",), reads, lambda cell: tuple(map(self, runs[cell])))

    def _read(self, runs: Sequence[Run]) -> tuple[str | None, ...]:
        """All that pre-flight read before some runs."""
        if not self._ticks:
            return ()
        steps = ("link_under_load", "memory")
        return tuple(self._reading(run, step) for run in runs for step in steps)

    def __call__(self, run: Run) -> RunFacts:
        """The facts of one run."""
        contents = self._contents
        rig = contents.rigs[run.rig_id]
        if rig.id not in self._agreed:
            self._agreed[rig.id] = self._link_of(rig)
            width = rig_width(contents, rig)
            self._width[rig.id] = width.least if width else None
        lanes, generation = self._agreed[rig.id]
        return RunFacts(
            run=run,
            observed=run.observed,
            rig=rig,
            card=contents.card_of(rig.id),
            case=contents.cases[run.case_id],
            title=contents.titles[contents.cases[run.case_id].title_id],
            where=f"{rig_mark(rig.id)}, {contents.case_label(run.case_id)}, pass {run.repeat}",
            expected_lanes=lanes,
            expected_generation=generation,
            refresh_hz=rig.screen.refresh_hz if rig.screen else None,
            link_gb_per_s=self._width[rig.id],
            link_reading=self._reading(run, "link_under_load"),
            memory_reading=self._reading(run, "memory"),
        )

    def _link_of(self, rig: Rig) -> tuple[int | None, int | None]:
        contents = self._contents
        try:
            ladder = ladder_of_rig(rig, contents.link_of(rig.id), contents.card_of(rig.id))
        except BadLink:
            return None, None
        agreed = ladder.should_come_up
        return (None, None) if agreed is None else (agreed.lanes, agreed.generation)

    def _reading(self, run: Run, step: str) -> str | None:
        """The newest reading of a pre-flight step before a run."""
        ticks = self._ticks.get((run.rig_id, step), ())
        before = [one for one in ticks if not run.taken_at or one.at <= run.taken_at]
        return max(before, key=lambda tick: tick.at).reading if before else None
