"""What is done with rigs: titles, cases, runs, reviews, and the contents of a logbook.

Immutable values like the parts. What a logbook file holds is exactly these and the parts, as JSON.
"""

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from datetime import datetime
from enum import StrEnum
from typing import Literal, TypeAlias

from pydantic import Field

from blunt_ruler.core.measure.composite_score import ScoreFormula
from blunt_ruler.core.measure.frames import FrameFigures, LowSchool
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.moments import moment_from
from blunt_ruler.core.measure.reading import FROM_LOG, HowRead
from blunt_ruler.core.measure.telemetry import Gauge, GaugeDigest
from blunt_ruler.core.measure.trace_summary import Observed
from blunt_ruler.core.records.alternatives import Alternative
from blunt_ruler.core.records.bench_notes import Change, OwnStep
from blunt_ruler.core.records.by_cell import (
    ByCell,
    ByRig,
    brought_up,
    by_rig,
    grouped,
    rigs_brought_up,
)
from blunt_ruler.core.records.diary import DiaryEntry
from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, Tick
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.pricing import Audience, Price, Readings, WorthSettings
from blunt_ruler.core.records.roles import Role as Role
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.records.typed_figures import Fps
from blunt_ruler.core.records.typed_figures import PartScore as PartScore
from blunt_ruler.core.records.typed_figures import TypedFigures as TypedFigures
from blunt_ruler.core.records.writeup_settings import WriteUp
from blunt_ruler.core.types import FloatArray
from blunt_ruler.core.values import Name, Value, Words, quantity, words


class TestPart(Value):
    """One part of a synthetic test: its weight in the whole where it has one, unit, direction."""

    __test__ = False  # of what is tested, not a test

    name: Name
    weight: float | None = Field(None, gt=0, le=1)
    unit: Words = ""
    lower_is_better: bool = False


TitleKind: TypeAlias = Literal["game", "synthetic", "work"]
"""Work is what a card does besides games: rendering, encoding, running a model. It is told like a
synthetic test, in a unit of its own, but no two such tests have a mean together.
"""


class Title(Value):
    """A game, a synthetic test or work, told in frames per second or as a score with parts."""

    id: str
    name: Name
    kind: TitleKind = Field("game", description="kind")
    tags: tuple[Name, ...] = Field((), description="tags")
    presets: tuple[Name, ...] = Field((), description="presets, slow to fast")
    target_fps: float | None = quantity("fps", "target of its own", above=0, most=2000)
    start_command: Words = words("start command")
    score_unit: Words = words("unit of its score")
    lower_is_better: bool = Field(False, description="lower is better")
    formula: ScoreFormula = Field(ScoreFormula.HARMONIC, description="overall from parts")
    parts: tuple[TestPart, ...] = Field((), description="parts and weights")
    notes: Words = words("notes on the title")


Method: TypeAlias = Literal["built-in benchmark", "scripted route", "fixed view", "live play"]


class Case(Value):
    """A title with everything that must stay the same between two rigs.

    What is unset is not written down: it is neither “off” nor “none”.
    """

    id: str
    title_id: str
    scene: Words = words("scene")
    resolution: Words = words("resolution")
    preset: Words = words("preset")
    method: Method | None = Field(None, description="method")
    graphics_api: Words = words("API")
    upscaler: Words = words("upscaling")
    ray_tracing: Words = words("ray tracing")
    frame_generation: Words = words("generated frames")
    frame_cap_fps: float | None = quantity("fps", "frame cap", above=0, most=2000)
    scene_has: tuple[Words, ...] = ()  # checks answered with “Part of the scene”


class Decision(StrEnum):
    """What the reviewer made of a run; only kept runs enter a figure."""

    KEEP = "keep"
    REDO = "redo"
    SET_ASIDE = "set aside"


class Origin(Value):
    """Where a run's figures come from, so that every number can be traced."""

    kind: Literal["log", "simulated", "typed", "recording"]
    file: Words = ""
    column: Words = ""
    unit: Words = ""
    rows_skipped: int = Field(0, ge=0)
    says: tuple[tuple[str, str], ...] = ()  # what the log says of itself: (name, words)


SecondFigure: TypeAlias = Literal["", "low", "minimum"]


class Trim(Value):
    """What is kept of a trace, in seconds from its start; None for an end that is not cut."""

    from_s: float | None = Field(None, ge=0)
    to_s: float | None = Field(None, gt=0)
    why: Words = ""


class Meters(Value):
    """Readings beside a run, of meters or off an overlay, where no log holds them."""

    wall_w: float | None = quantity("W", "wall", above=0, most=10_000)
    card_w: float | None = quantity("W", "card", above=0, most=2000)
    card_busy_pct: float | None = quantity("%", "card busy", most=100)
    core_busy_pct: float | None = quantity("%", "busiest core", most=100)
    card_c: float | None = quantity("°C", "card temperature", least=-40, most=150)
    memory_gb: float | None = quantity("GB", "card memory used", most=512)
    noise_dba: float | None = quantity("dB(A)", "noise", above=0, most=150)
    cpu_w: float | None = quantity("W", "CPU", above=0, most=2000)
    card_mhz: float | None = quantity("MHz", "card clock", above=0, most=10_000)
    memory_mhz: float | None = quantity("MHz", "card memory clock", above=0, most=50_000)

    @property
    def is_blank(self) -> bool:
        """Whether nothing was read."""
        return all(getattr(self, name) is None for name in type(self).model_fields)


METER_OF = {
    Gauge.CARD_BUSY: "card_busy_pct",
    Gauge.CARD_POWER: "card_w",
    Gauge.CPU_CORE: "core_busy_pct",
    Gauge.CARD_MEMORY: "memory_gb",
    Gauge.CARD_TEMPERATURE: "card_c",
    Gauge.WALL_POWER: "wall_w",
    Gauge.NOISE: "noise_dba",
    Gauge.CPU_POWER: "cpu_w",
    Gauge.CARD_CLOCK: "card_mhz",
}


def taken_moment(taken_at: str) -> datetime | None:
    """When a run was taken, as it says; None for what is not a moment."""
    return moment_from(taken_at)


class ReadBox(Value):
    """Where a figure stood in a recording's pictures, in their pixels, and what it is."""

    x: int = Field(ge=0, le=100_000)
    y: int = Field(ge=0, le=100_000)
    w: int = Field(gt=0, le=100_000)
    h: int = Field(gt=0, le=100_000)
    quantity: Words


class FromRecording(Value):
    """How a run was read from a recording of the screen, or from one picture of it.

    Attributes:
        sha256: of the file, whose name the origin holds.
        period_ms: in steps of which frame times come, where pictures were counted; else None.
        readings: figures of the frame rate that stood, `asked` of which a person settled or left.
        read_share: the share of the time for which a figure was sure.
        series_sha256: where the series of readings is kept: as a trace, with the time from look to
            look in place of frame times.
        pictures_sha256: where a picture of the boxes at five moments is kept.
    """

    sha256: str
    width: int = Field(gt=0)
    height: int = Field(gt=0)
    fps: float = Field(ge=0)
    from_s: float = Field(ge=0)
    to_s: float = Field(ge=0)
    boxes: tuple[ReadBox, ...] = ()
    period_ms: float | None = Field(None, gt=0)
    readings: int = Field(0, ge=0)
    asked: int = Field(0, ge=0)
    read_share: float = Field(1.0, ge=0, le=1)
    notes: tuple[Words, ...] = ()
    series_sha256: str | None = None
    pictures_sha256: str | None = None


class Run(Value):
    """One pass of a case on a rig: a trace with its figures, or typed figures."""

    id: str
    rig_id: str
    case_id: str
    repeat: int = Field(1, ge=1, le=10_000)
    taken_at: str = ""
    origin: Origin
    trace_sha256: str | None = None
    figures: FrameFigures | None = None
    observed: Observed | None = None
    trim: Trim | None = None
    typed: TypedFigures | None = None
    meters: Meters | None = None
    sampled: tuple[GaugeDigest, ...] = ()  # what the machine said of itself meanwhile
    recording: FromRecording | None = None
    outcome: Words = words("what happened instead")  # where there is no figure
    decision: Decision = Decision.KEEP
    reason: Words = ""
    notes: Words = words("notes")

    @property
    def average_fps(self) -> float | None:
        """The rate of the trace, else the typed one; None for a run without either."""
        if self.figures is not None:
            return self.figures.average_fps
        return None if self.typed is None else self.typed.average_fps

    @property
    def how_read(self) -> HowRead:
        """How its average was read."""
        return (
            FROM_LOG if self.figures is not None or self.typed is None else self.typed.average_how
        )

    @property
    def moment(self) -> datetime | None:
        """When it was taken; None where nothing says so."""
        return taken_moment(self.taken_at)

    def without_evidence(self) -> "Run":
        """The same run without what is kept behind its figures: trace, readings, pictures."""
        read = self.recording
        gone = {"series_sha256": None, "pictures_sha256": None}
        return self.model_copy(
            update={
                "trace_sha256": None,
                "recording": None if read is None else read.model_copy(update=gone),
            }
        )

    @property
    def wall_w(self) -> float | None:
        """Power at the wall: as the meter read, else the mean of the log."""
        if self.meters is not None and self.meters.wall_w is not None:
            return self.meters.wall_w
        gauge = self.observed.gauge(Gauge.WALL_POWER) if self.observed else None
        return None if gauge is None else gauge.mean

    def gauge(self, gauge: Gauge) -> GaugeDigest | None:
        """A gauge of the log, else as the machine said it meanwhile; None where neither did."""
        logged = self.observed.gauge(gauge) if self.observed else None
        if logged is not None or not self.sampled:
            return logged
        return next((one for one in self.sampled if one.gauge is gauge), None)

    def reading(self, gauge: Gauge) -> float | None:
        """The mean of a gauge that was recorded, else as somebody read it beside the run."""
        recorded = self.gauge(gauge)
        if recorded is not None:
            return recorded.mean
        name = METER_OF.get(gauge)
        return None if self.meters is None or name is None else getattr(self.meters, name)

    def low_01_fps(self, school: LowSchool) -> float | None:
        """The 0.1 % low by a school, else the typed one, whose school nobody knows."""
        if self.figures is not None:
            return self.figures.low_01.by(school)
        return None if self.typed is None else self.typed.low_01_fps

    def low_1_fps(self, school: LowSchool) -> float | None:
        """The 1 % low by a school, else the typed one, whose school nobody knows."""
        if self.figures is not None:
            return self.figures.low_1.by(school)
        return None if self.typed is None else self.typed.low_1_fps


class ReviewRig(Value):
    """A rig's place in a review."""

    rig_id: str
    role: Role = Role.TESTED


class CaseWeight(Value):
    """How much a case counts in a mean, and why; 0 keeps it out."""

    case_id: str
    weight: float = Field(0.0, ge=0, le=1000)
    why: Words = ""


class Review(Value):
    """One comparison: chosen rigs with roles, chosen cases, settings for the analysis."""

    id: str
    name: Name
    seats: tuple[ReviewRig, ...] = ()
    case_ids: tuple[str, ...] = ()
    low_school: LowSchool = LowSchool.PERCENTILE
    target_fps: tuple[float, ...] = (30.0, 60.0)
    thresholds: Thresholds = Thresholds()
    mean: MeanSchool = MeanSchool.GEOMETRIC
    clean_only: bool = True
    shared_cases: bool = True
    each_title_once: bool = False  # the cases of a title count as one in a mean
    left_out: tuple[CaseWeight, ...] = ()  # cases kept out of the means, with the reason
    weights: tuple[CaseWeight, ...] = ()  # cases that do not count once
    second_figure: SecondFigure = ""  # in "52/38", once somebody has said
    roles_proposed: bool = False  # by the rates; nobody has chosen yet
    varies: tuple[str, ...] = ()  # facts that the review varies on purpose
    remembers: bool = True  # limits learn from the sound cells of the other reviews
    worth: WorthSettings = WorthSettings()
    audiences: tuple[Audience, ...] = ()
    writeup: WriteUp = WriteUp()
    notes: Words = words("notes on the review")

    def rig_in(self, role: Role) -> str | None:
        """Id of the first rig in a role, None where the role is empty."""
        return next((seat.rig_id for seat in self.seats if seat.role is role), None)

    def with_role(self, rig_id: str, role: Role) -> "Review":
        """The same review with one rig in a role; base and reference pass from their holder."""
        seats = []
        for seat in self.seats:
            if seat.rig_id == rig_id:
                seats.append(ReviewRig(rig_id=rig_id, role=role))
            elif role is not Role.TESTED and seat.role is role:
                seats.append(ReviewRig(rig_id=seat.rig_id, role=Role.TESTED))
            else:
                seats.append(seat)
        return self.model_copy(update={"seats": tuple(seats), "roles_proposed": False})

    @property
    def references(self) -> tuple[str, ...]:
        """Ids of all reference rigs; the first is the one that every loss of a cell is against."""
        return tuple(seat.rig_id for seat in self.seats if seat.role is Role.REFERENCE)

    def with_one_more_reference(self, rig_id: str) -> "Review":
        """The same review with a further reference, behind those it has."""
        others = [seat for seat in self.seats if seat.rig_id != rig_id]
        last = max(
            (place for place, seat in enumerate(others) if seat.role is Role.REFERENCE),
            default=len(others) - 1,
        )
        others.insert(last + 1, ReviewRig(rig_id=rig_id, role=Role.REFERENCE))
        return self.model_copy(update={"seats": tuple(others), "roles_proposed": False})

    def against(self, reference: str) -> "Review":
        """The same review with one of its references as the only one."""
        seats = tuple(
            seat
            if seat.role is not Role.REFERENCE or seat.rig_id == reference
            else ReviewRig(rig_id=seat.rig_id, role=Role.TESTED)
            for seat in self.seats
        )
        return self.model_copy(update={"seats": seats})

    def with_case_left_out(self, case_id: str, why: str | None) -> "Review":
        """The same review with a case kept out of its means, or let in again for None."""
        others = tuple(one for one in self.left_out if one.case_id != case_id)
        added = () if why is None else (CaseWeight(case_id=case_id, why=why),)
        return self.model_copy(update={"left_out": (*others, *added)})

    def with_weight(self, case_id: str, weight: float) -> "Review":
        """The same review with a case counting otherwise; 1 is the default."""
        others = tuple(one for one in self.weights if one.case_id != case_id)
        added = () if weight == 1.0 else (CaseWeight(case_id=case_id, weight=weight),)
        return self.model_copy(update={"weights": (*others, *added)})

    def joined_by(self, rig_id: str | None, case_id: str | None) -> "Review":
        """The same review with a rig and a case in it, each added once, at the end."""
        seats = self.seats
        if rig_id is not None and all(seat.rig_id != rig_id for seat in seats):
            seats = (*seats, ReviewRig(rig_id=rig_id))
        new_case = case_id is not None and case_id not in self.case_ids
        cases = (*self.case_ids, case_id) if new_case and case_id else self.case_ids
        return self.model_copy(update={"seats": seats, "case_ids": cases})


class PublishedFigure(Value):
    """A figure someone else published: shown beside own runs, never mixed with them."""

    id: str
    rig: Name
    case: Name
    average_fps: Fps
    low_1_fps: Fps | None = None
    source: Name
    date: Words = ""
    differs: Words = Field("", description="what is known to differ")


Record: TypeAlias = (
    Host
    | Card
    | Dock
    | Link
    | Rig
    | Title
    | Case
    | Run
    | Review
    | Tick
    | Plan
    | PublishedFigure
    | Price
    | Readings
    | Change
    | OwnStep
    | DiaryEntry
    | Alternative
)


TABLES: dict[str, type[Record]] = {
    "hosts": Host,
    "cards": Card,
    "docks": Dock,
    "links": Link,
    "rigs": Rig,
    "titles": Title,
    "cases": Case,
    "runs": Run,
    "reviews": Review,
    "ticks": Tick,
    "plans": Plan,
    "published": PublishedFigure,  # REFERENCES is a word of SQL
    "prices": Price,
    "readings": Readings,
    "changes": Change,
    "own_steps": OwnStep,
    "diary": DiaryEntry,
    "alternatives": Alternative,
}
TABLE_OF: dict[type[Record], str] = {model: table for table, model in TABLES.items()}


@dataclass(frozen=True, slots=True)
class Trace:
    """Frame times in ms, shape (n,), and telemetry beside them, each channel shape (n,).

    A telemetry value is NaN where the log had none. Channels keep the log's own names.
    """

    frame_times_ms: FloatArray
    telemetry: Mapping[str, FloatArray]


class _Grouped:
    """Where contents keep their runs by cell, once that was asked for: it is no field of theirs."""

    __slots__ = ("_cells", "_rigs")
    _cells: "ByCell[Run]"  # both are set when they are first asked for
    _rigs: "ByRig[Run]"


@dataclass(frozen=True, slots=True)
class Contents(_Grouped):
    """Everything a logbook holds but its traces, by id, in the order it was added."""

    hosts: Mapping[str, Host]
    cards: Mapping[str, Card]
    docks: Mapping[str, Dock]
    links: Mapping[str, Link]
    rigs: Mapping[str, Rig]
    titles: Mapping[str, Title]
    cases: Mapping[str, Case]
    runs: Mapping[str, Run]
    reviews: Mapping[str, Review]
    ticks: Mapping[str, Tick]
    plans: Mapping[str, Plan]
    published: Mapping[str, PublishedFigure]
    prices: Mapping[str, Price]
    readings: Mapping[str, Readings]
    changes: Mapping[str, Change]
    own_steps: Mapping[str, OwnStep]
    diary: Mapping[str, DiaryEntry]
    alternatives: Mapping[str, Alternative]

    @classmethod
    def empty(cls) -> "Contents":
        """What a new logbook holds."""
        return cls(*({} for _ in fields(cls)))

    def with_records(self, changed: Mapping[str, Mapping[str, Record | None]]) -> "Contents":
        """The same contents with some records put in place, or taken away for None.

        Given as table name → id → record.
        """
        tables = {}
        for table, records in changed.items():
            merged = {**getattr(self, table), **records}
            tables[table] = {key: record for key, record in merged.items() if record is not None}
        made = replace(self, **tables)
        runs: Mapping[str, Run | None] = changed.get("runs", {})  # type: ignore[assignment]
        cells = brought_up(self._cells, self.runs, runs) if hasattr(self, "_cells") else None
        if cells is not None:
            object.__setattr__(made, "_cells", cells)
            if hasattr(self, "_rigs"):
                there = ((run.rig_id, run.case_id) for run in runs.values() if run is not None)
                object.__setattr__(made, "_rigs", rigs_brought_up(self._rigs, cells, there))
        return made

    @property
    def by_cell(self) -> "ByCell[Run]":
        """The runs by rig and case; after an edit cells without a change are the same tuples."""
        if not hasattr(self, "_cells"):
            object.__setattr__(self, "_cells", grouped(self.runs.values()))
        return self._cells

    @property
    def by_rig(self) -> "ByRig[Run]":
        """The runs by rig, then by case; after an edit rigs without a change are the same."""
        if not hasattr(self, "_rigs"):
            object.__setattr__(self, "_rigs", by_rig(self.by_cell))
        return self._rigs

    def case_label(self, case_id: str) -> str:
        """A case in words: "Tidewrack / coast run / 1080p / High"."""
        case = self.cases[case_id]
        return case_label(self.titles[case.title_id].name, case.scene, case.resolution, case.preset)

    def host_of(self, rig_id: str) -> Host | None:
        """The host of a rig, where one is described."""
        host_id = self.rigs[rig_id].host_id
        return self.hosts.get(host_id) if host_id else None

    def dock_of(self, rig_id: str) -> Dock | None:
        """The dock of a rig, where it has one."""
        dock_id = self.rigs[rig_id].dock_id
        return self.docks.get(dock_id) if dock_id else None

    def card_of(self, rig_id: str) -> Card | None:
        """The card of a rig, where one is described."""
        card_id = self.rigs[rig_id].card_id
        return self.cards.get(card_id) if card_id else None

    def link_of(self, rig_id: str) -> Link | None:
        """The link of a rig, where one is described."""
        link_id = self.rigs[rig_id].link_id
        return self.links.get(link_id) if link_id else None


def case_label(title: str, scene: str = "", resolution: str = "", preset: str = "") -> str:
    """What a case is called wherever one string must name it."""
    return " / ".join(part for part in (title, scene, resolution, preset) if part)
