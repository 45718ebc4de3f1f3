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


@dataclass(frozen=True, slots=True)
class Declared:
    """What is declared of a check.

    `words` name it on screen. `read_off`: a log, a tick or a typed figure says so; all other checks
    infer, by signs. `scene` says why the scene itself can make it, blank where it cannot; such a
    finding is weighed against other passes (sharing.py), unless it has two signs and
    `two_signs_stand`. `unlike`: a run it blocks is not comparable at all, rather than mixed.
    """

    words: str
    read_off: bool = False
    scene: str = ""
    two_signs_stand: bool = False
    unlike: bool = False


class Check(StrEnum):
    """Every check by its key, with what is declared of it; each has a section in help/checks.md."""

    declared: Declared

    def __new__(cls, key: str, declared: Declared) -> Self:
        """A check under its key, which is its value."""
        member = str.__new__(cls, key)
        member._value_ = key
        member.declared = declared
        return member

    @property
    def words(self) -> str:
        """Its name on screen."""
        return self.declared.words

    FRAME_CAP = (
        "frame_cap",
        Declared(
            "frame cap or refresh lock",
            scene="a still scene can hold one rate by itself; a cap holds it there",
            two_signs_stand=True,
        ),
    )
    MENU_LEFT_IN = (
        "menu_left_in",
        Declared(
            "menu or loading screen included",
            scene="a light or a heavy end may be the scene, or a menu kept each time",
        ),
    )
    FIRST_PASS_STUTTER = (
        "first_pass_stutter",
        Declared(
            "first-pass stutter",
            scene="the scene may load there, or shaders were compiled again each time",
        ),
    )
    DRIFT = (
        "drift",
        Declared("drift", scene="a scene that gets heavier slows all of them, and so does heat"),
    )
    TOO_SHORT = "too_short", Declared("too short", read_off=True)
    DISAGREEING_REPEAT = "disagreeing_repeat", Declared("repeat that disagrees")
    CUT_SHORT = "cut_short", Declared("pass cut short", read_off=True)
    SITTING_STEP = "sitting_step", Declared("step between sittings")
    RECORDER_ON = "recorder_on", Declared("recorder on", read_off=True)
    WRONG_DEVICE = "wrong_device", Declared("wrong device", read_off=True)
    NARROW_LINK = "narrow_link", Declared("narrow link", read_off=True)
    BUILT_IN_WORKING = "built_in_working", Declared("built-in graphics working", read_off=True)
    BELOW_POWER_LIMIT = "below_power_limit", Declared("card below its power limit")
    SAME_TRACE = "same_trace", Declared("same trace twice", read_off=True)
    IMPOSSIBLE_FIGURES = "impossible_figures", Declared("impossible figures", read_off=True)
    FASTER_AT_HIGHER_RESOLUTION = (
        "faster_at_higher_resolution",
        Declared("faster at higher resolution"),
    )
    LESSER_PART_WINS = "lesser_part_wins", Declared("lesser part wins")
    FLAT_OVER_RESOLUTION = "flat_over_resolution", Declared("same rate at every resolution")
    FREEZE = "freeze", Declared("freeze", scene="the title may stop there by itself")
    DYNAMIC_RESOLUTION = "dynamic_resolution", Declared("rate that does not follow the scene")
    SOMETHING_ELSE = "something_else", Declared("another program at work")
    HELD_FIGURE = "held_figure", Declared("figure on a refresh step")
    SAME_FIGURE = "same_figure", Declared("same figure in many cells")
    COLLAPSED_LOW = "collapsed_low", Declared("collapsed low")
    GENERATED_FRAMES = (
        "generated_frames",
        Declared(
            "generated frames",
            scene="the title may alternate unlike frames, or generation was on",
            unlike=True,
        ),
    )
    SETTINGS_CHANGED = (
        "settings_changed",
        Declared("settings changed", read_off=True, unlike=True),
    )
    SKIPPED_PREFLIGHT = "skipped_preflight", Declared("skipped pre-flight", read_off=True)


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
        if self.check.declared.read_off:
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
