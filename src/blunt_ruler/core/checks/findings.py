"""What a check found, and the facts that checks are given."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from blunt_ruler.core.measure.telemetry import Gauge, GaugeDigest
from blunt_ruler.core.measure.trace_summary import Observed
from blunt_ruler.core.records.hardware import Card, Rig
from blunt_ruler.core.records.records import Case, Contents, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.links import BadLink, ladder_of_rig


class Check(StrEnum):
    """Every check by its name; each has a page in the documents."""

    FRAME_CAP = "frame_cap"
    MENU_LEFT_IN = "menu_left_in"
    FIRST_PASS_STUTTER = "first_pass_stutter"
    DRIFT = "drift"
    TOO_SHORT = "too_short"
    DISAGREEING_REPEAT = "disagreeing_repeat"
    RECORDER_ON = "recorder_on"
    WRONG_DEVICE = "wrong_device"
    NARROW_LINK = "narrow_link"
    BUILT_IN_WORKING = "built_in_working"
    BELOW_POWER_LIMIT = "below_power_limit"
    SAME_TRACE = "same_trace"
    IMPOSSIBLE_FIGURES = "impossible_figures"
    FASTER_AT_HIGHER_RESOLUTION = "faster_at_higher_resolution"
    LESSER_PART_WINS = "lesser_part_wins"
    FLAT_OVER_RESOLUTION = "flat_over_resolution"
    COLLAPSED_LOW = "collapsed_low"
    GENERATED_FRAMES = "generated_frames"
    SETTINGS_CHANGED = "settings_changed"
    SKIPPED_PREFLIGHT = "skipped_preflight"


CHECK_WORDS: Mapping[Check, str] = {
    Check.FRAME_CAP: "frame cap or refresh lock",
    Check.MENU_LEFT_IN: "menu or loading left in",
    Check.FIRST_PASS_STUTTER: "first-pass stutter",
    Check.DRIFT: "drift",
    Check.TOO_SHORT: "too short",
    Check.DISAGREEING_REPEAT: "repeat that disagrees",
    Check.RECORDER_ON: "recorder on",
    Check.WRONG_DEVICE: "wrong device",
    Check.NARROW_LINK: "narrow link",
    Check.BUILT_IN_WORKING: "built-in graphics working",
    Check.BELOW_POWER_LIMIT: "card below its power limit",
    Check.SAME_TRACE: "same trace twice",
    Check.IMPOSSIBLE_FIGURES: "figures that cannot be",
    Check.FASTER_AT_HIGHER_RESOLUTION: "faster at higher resolution",
    Check.LESSER_PART_WINS: "lesser part wins",
    Check.FLAT_OVER_RESOLUTION: "unmoved by resolution",
    Check.COLLAPSED_LOW: "collapsed low",
    Check.GENERATED_FRAMES: "generated frames",
    Check.SETTINGS_CHANGED: "settings changed",
    Check.SKIPPED_PREFLIGHT: "skipped pre-flight",
}

Evidence = Mapping[str, float | str]


@dataclass(frozen=True, slots=True)
class Finding:
    """What a check noticed about a run, or about a pair of runs through the first of them."""

    check: Check
    severity: Severity
    run_id: str
    says: str
    remedy: str
    evidence: Evidence
    others: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class RunFacts:
    """A run with what is known of its rig and case; None where nothing is described."""

    run: Run
    observed: Observed | None
    rig: Rig | None = None
    card: Card | None = None
    case: Case | None = None
    where: str = ""
    expected_lanes: int | None = None
    expected_generation: int | None = None
    refresh_hz: float | None = None
    link_reading: str | None = None  # what pre-flight read before this run
    memory_reading: str | None = None
    found: list[Finding] = field(default_factory=list)

    def gauge(self, gauge: Gauge) -> GaugeDigest | None:
        """The digest of one gauge, None where the log did not hold it."""
        return None if self.observed is None else self.observed.gauge(gauge)

    @property
    def duration_s(self) -> float:
        """Length of what is kept of the trace."""
        return self.run.figures.duration_s if self.run.figures else 0.0

    @property
    def add_in(self) -> bool:
        """Whether the run was taken on a card outside the host's own graphics."""
        return self.card is not None and not self.card.built_in


class FactsOf:
    """Gives runs of a logbook with everything known about them, each rig worked out once."""

    def __init__(self, contents: Contents) -> None:
        self._contents = contents
        self._agreed: dict[str, tuple[int | None, int | None]] = {}

    def __call__(self, run: Run) -> RunFacts:
        """The facts of one run."""
        contents = self._contents
        rig = contents.rigs[run.rig_id]
        if rig.id not in self._agreed:
            self._agreed[rig.id] = self._link_of(rig)
        lanes, generation = self._agreed[rig.id]
        return RunFacts(
            run=run,
            observed=run.observed,
            rig=rig,
            card=contents.card_of(rig.id),
            case=contents.cases[run.case_id],
            where=f"{rig.name}, {contents.case_label(run.case_id)}, pass {run.repeat}",
            expected_lanes=lanes,
            expected_generation=generation,
            refresh_hz=rig.screen.refresh_hz if rig.screen else None,
            link_reading=_reading(contents, run, "link_under_load"),
            memory_reading=_reading(contents, run, "memory"),
        )

    def _link_of(self, rig: Rig) -> tuple[int | None, int | None]:
        contents = self._contents
        try:
            ladder = ladder_of_rig(rig, contents.link_of(rig.id), contents.card_of(rig.id))
        except BadLink:
            return None, None
        agreed = ladder.negotiated
        return (None, None) if agreed is None else (agreed.lanes, agreed.generation)


def _reading(contents: Contents, run: Run, step: str) -> str | None:
    """The newest reading of a pre-flight step before a run."""
    before = [
        tick
        for tick in contents.ticks.values()
        if tick.rig_id == run.rig_id
        and tick.step == step
        and tick.reading
        and (not run.taken_at or tick.at <= run.taken_at)
    ]
    return max(before, key=lambda tick: tick.at).reading if before else None
