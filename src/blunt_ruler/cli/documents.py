"""The documents that commands print with `--json`, as types: `blunt-ruler schema NAME` prints them.

Each type is what a command builds, checked by mypy, and the source of its JSON Schema. Rates are in
frames per second, shares and gains are fractions (0.1 is 10 %), low and high are the ends of a 95 %
interval, `null` stands for what is not known. Keys are used by scripts: add some, rename none.
"""

import json
from collections.abc import Mapping
from typing import Annotated, Any, NotRequired

import typer
from pydantic import Field, TypeAdapter, create_model
from typing_extensions import TypedDict

from blunt_ruler.cli.common import FORMAT_VERSION, BadOption, app
from blunt_ruler.core.measure.metrics import METRICS
from blunt_ruler.core.rigs.compatibility import FitFinding
from blunt_ruler.core.rigs.machine_report import Machine
from blunt_ruler.exchange.documents.writeup.json_file import JsonReport

Value = float | None
Name = str | None


class ComparedCase(TypedDict):
    """One case of a rig against the base and the reference."""

    case: str
    runs: int
    kind: Annotated[str, Field(description="how the rate was read: log, samples, eye, …")]
    bound: Annotated[str, Field(description="point, at_least, at_most or open")]
    average_fps: float
    average_low_95: Value
    average_high_95: Value
    low_1_fps: Value
    gain_bound: str
    loss_bound: str
    gain: Annotated[Value, Field(description="a/b − 1 over the base")]
    gain_low: Value
    gain_high: Value
    loss: Annotated[Value, Field(description="1 − a/r against the reference")]
    loss_low: Value
    loss_high: Value
    standing: Annotated[str, Field(description="clean, mixed or not comparable")]
    differs: Annotated[list[str], Field(description="the facts that differ")]
    tie: bool
    runs_needed: int | None


class ComparedRig(TypedDict):
    """One rig over all its cases; the intervals of means are over these very titles."""

    rig: str
    mean_gain: Value
    mean_gain_low: Value
    mean_gain_high: Value
    mean_gain_other_low: Value
    mean_gain_other_high: Value
    mean_gain_bound: Name
    mean_loss: Value
    mean_loss_low: Value
    mean_loss_high: Value
    mean_loss_other_low: Value
    mean_loss_other_high: Value
    mean_loss_bound: Name
    kinds: list[str]
    bounds_left_out: list[str]
    gain_cases: int
    loss_cases: int
    gain_cases_missing: list[str]
    loss_cases_missing: list[str]
    moved_most_by: Name
    mean_gain_without_it: Value
    cases: list[ComparedCase]


class ComparedReference(TypedDict):
    """One rig against one reference, measured or published; 95 % over these very titles."""

    rig: str
    reference: str
    published_by: Name
    change: Value
    low: Value
    high: Value
    cases: int
    says: str


class ComparedScore(TypedDict):
    """One rig's score of a synthetic test, or of a part of it."""

    test: str
    rig: str
    score: float
    unit: str
    lower_is_better: bool
    runs: int
    gain: Value
    gain_low: Value
    gain_high: Value
    loss: Value


class GroupRig(TypedDict):
    """The means of one rig over a group of cases; intervals are over these very titles."""

    rig: str
    gain: Value
    gain_low: Value
    gain_high: Value
    gain_bound: Name
    loss: Value
    loss_low: Value
    loss_high: Value
    loss_bound: Name
    cases: int


class Group(TypedDict):
    """Means over the cases of one resolution, title or tag."""

    over: str
    rigs: list[GroupRig]


class PlayableSetting(TypedDict):
    """The best settings of a title that a rig can play."""

    rig: str
    title: str
    case: Name
    settings: str
    average_fps: Value
    low_1_fps: Value
    cap_fps: Value
    frame_generation: str
    gained: str


class ClaimCounts(TypedDict):
    """How many titles stand each way; they add up to all."""

    clearly_ahead: int
    ahead: int
    level: int
    behind: int
    clearly_behind: int
    open: int


class ClaimPart(TypedDict):
    """A named estimate in the same sentence, as a ratio; `of` names a title or a resolution."""

    name: str
    of: str
    value: float
    standing: str
    bound: str


class ClaimDocument(TypedDict):
    """One statement about a rig, with its truth; values are changes (ratio − 1)."""

    kind: str
    question: Annotated[str, Field(description="gain, loss, cause, worth or open")]
    subject: str
    against: Name
    metric: str
    scope: str
    titles: list[str]
    value: Annotated[Value, Field(description="the change: above 0 for more, below for less")]
    these_low: Annotated[Value, Field(description="95 % over these very titles")]
    these_high: Value
    like_low: Annotated[Value, Field(description="95 % over titles like these; from six on")]
    like_high: Value
    bound: str
    standing: Annotated[str, Field(description="clear, slight, level or open")]
    counts: ClaimCounts | None
    margin: Annotated[float, Field(description="within it is called level, as a share")]
    parts: list[ClaimPart]
    caveats: list[str]
    sentence: str


class Compared(TypedDict):
    """What `compare --json` prints."""

    claims: NotRequired[list[ClaimDocument]]

    low_school: str
    mean: str
    base: str
    reference: Name
    clean_only: bool
    shared_cases: bool
    seed: Annotated[int, Field(description="of earlier versions, always 0: nothing is drawn")]
    rigs: list[ComparedRig]
    references: NotRequired[list[ComparedReference]]
    scores: NotRequired[list[ComparedScore]]
    groups: NotRequired[list[Group]]
    playable: NotRequired[list[PlayableSetting]]


class Composite(TypedDict):
    """What `composite --json` prints: an overall from its parts, or the weights that fit."""

    mean: str
    weights: dict[str, float]
    overall: NotRequired[float]
    parts: NotRequired[dict[str, float]]
    recovered: NotRequired[Name]
    overall_given: NotRequired[float]


class Remembered(TypedDict):
    """Results of other reviews of the logbook that the fit learns from."""

    cells: int
    reviews: int


class CellName(TypedDict):
    """A rig and a case."""

    rig: str
    case: str


class FitSummary(TypedDict):
    """The fit as a whole; residuals are shares of the rate."""

    runs: int
    remembered: Remembered
    unknowns: int
    residual_median: float
    residual_p90: float
    exponent: float
    rests_on_prior: list[str]
    faulty: list[CellName]


class CappedCell(TypedDict):
    """A result that a cap holds, which the fit leaves out."""

    rig: str
    case: str
    average_fps: float
    why: str


class WithheldCell(TypedDict):
    """A result that the fit leaves out."""

    rig: str
    case: str
    kind: str
    why: str


class Shares(TypedDict):
    """Shares of a frame's time that each part sets."""

    card: float
    cpu: float
    link: float


class LimitCell(TypedDict):
    """What holds one result back."""

    rig: str
    case: str
    average_fps: float
    fitted_fps: float
    share: Shares
    limit: str


class LossSplit(TypedDict):
    """Where the loss of one result went, in frames per second."""

    rig: str
    case: str
    lost_fps: float
    link: float
    host: float
    screen: float
    card: float
    unexplained: float
    bounds_80: dict[str, list[float]]


class CeilingPoint(TypedDict):
    """From which card on a faster one stops paying on a host and link."""

    host: str
    link: str
    megapixels: float
    card_speed: Value
    card_speed_low_80: Value
    card_speed_high_80: Value
    yardstick: str
    cards: dict[str, float]
    wasted: list[str]
    open: list[str]
    narrowest_gb_per_s: dict[str, Value]


class Prediction(TypedDict):
    """What many passes would come to of a rate that was not measured, with its 80 % interval."""

    rig: str
    case: str
    link: str
    average_fps: float
    low_80: float
    high_80: float
    outside: Annotated[list[str], Field(description="what lies outside what was measured")]


class LeftOutInTurn(TypedDict):
    """How well the model predicts what it has not seen."""

    kind: str
    groups: int
    cells: int
    median_error: float
    p90_error: float
    interval_hits: float
    ratio_error: Value


class Limits(TypedDict):
    """What `limits --json` prints."""

    fit: FitSummary
    capped: list[CappedCell]
    withheld: list[WithheldCell]
    cells: list[LimitCell]
    loss: list[LossSplit]
    ceiling: list[CeilingPoint]
    predictions: list[Prediction]
    left_out: LeftOutInTurn | None


class PricedPart(TypedDict):
    """One line of what a rig costs."""

    part: str
    kind: str
    price: Value
    currency: Name
    count: int
    owned: bool
    bundle: str
    date: str


class WorthRig(TypedDict):
    """What one rig costs, draws and weighs; `figures` by the names of help/worth.md."""

    rig: str
    role: str
    efficient: bool | None
    parts: list[PricedPart]
    figures: dict[str, Value]
    missing: dict[str, list[str]]
    cost_then: Value
    price_may_rise_by: Value
    price_must_fall_by: Value


class MissingFact(TypedDict):
    """A fact that is not known, and the figures of which rigs it blocks."""

    what: str
    blocks: dict[str, list[str]]


class VerdictCheck(TypedDict):
    """One line of an audience against one rig."""

    line: str
    limit: Annotated[str, Field(description="as the audience writes it")]
    value: Value
    holds: bool | None
    missing: list[str]


class VerdictRig(TypedDict):
    """One rig for one audience."""

    rig: str
    makes_sense: bool | None
    checks: list[VerdictCheck]


class Verdict(TypedDict):
    """One audience."""

    audience: str
    rigs: list[VerdictRig]


class RigToWin(TypedDict):
    """What a rig would have to cost, or to gain, to gain frames as cheaply as an alternative."""

    rig: str
    price: float
    gain_fps: float
    wins: bool


class WorthAlternative(TypedDict):
    """What one could buy instead; its frames were not measured."""

    name: str
    kind: str
    frames_are: str
    source: str
    cost: float | None
    mean_fps: float | None
    least_fps: float | None
    most_fps: float | None
    gained_fps: float | None
    cost_per_gained_frame: float | None
    to_win: list[RigToWin]
    says: str


class WorthDocument(TypedDict):
    """What `worth --json` prints."""

    review: str
    currency: str
    cases: list[str]
    rigs: list[WorthRig]
    alternatives: list[WorthAlternative]
    missing: list[MissingFact]
    verdict: list[Verdict]
    says: list[str]


class PlannedCell(TypedDict):
    """One result the plan asks for."""

    rig: str
    case: str
    state: str
    done: int
    left: int
    minutes: float
    why: str


class PlannedStep(TypedDict):
    """One step at the bench; `starts` is local time."""

    rig: str
    case: Name
    repeat: int | None
    kind: str
    minutes: float
    starts: str


class DroppedCell(TypedDict):
    """One result the plan gives up."""

    rig: str
    case: str
    why: str


class PlanDocument(TypedDict):
    """What `plan --json` prints."""

    cells: list[PlannedCell]
    minutes: float
    swaps: int
    minutes_saved: float
    minutes_as_entered: float
    minutes_at_once: float
    spread_repeats: bool
    order: list[PlannedStep]
    dropped: list[DroppedCell]
    optimal: bool
    of_best: Value
    tour_exact: bool
    tour_gap: float
    finishes: Name
    slack_days: int | None
    seed: int


class SetBy(TypedDict):
    """Which hop sets a link's generation and lanes."""

    generation: str
    lanes: str


class Negotiated(TypedDict):
    """What the hops of a link agree on."""

    generation: int
    lanes: int
    set_by: SetBy


class LinkDocument(TypedDict):
    """What `link --json` prints: the ladder from the line rate to what is left for frames."""

    negotiated: Negotiated | None
    line_rate_gtps: Value
    encoded_gbps: Value
    encoded_gb_per_s: Value
    payload_bytes: int
    packet_efficiency: Value
    payload_gb_per_s: Value
    tunnel_gbps: Value
    practice_low_gb_per_s: float
    practice_high_gb_per_s: float
    measured_gb_per_s: Value
    return_gb_per_s: float
    left_gb_per_s: float
    least_left_gb_per_s: Value
    left_down_gb_per_s: float
    left_back_gb_per_s: float
    per_frame_mb: float


Place = TypedDict(
    "Place",
    {"run": NotRequired[str], "rig": NotRequired[str], "case": NotRequired[str],
     "pass": NotRequired[int], "file": NotRequired[str]},
)  # fmt: skip
"""A run of a logbook, or the file of a loose log."""


class FindingDocument(Place):
    """One finding of `check --json`."""

    check: str
    severity: str
    about: Annotated[str, Field(description="run, cell or case: whom it accuses")]
    runs: list[str]
    passes: list[Place]
    sure: str
    signs: list[str]
    evidence: dict[str, float | str]
    remedy: str
    says: str


_METRICS: dict[str, Any] = {
    "file": str,
    **{one.key: (float | None, Field(description=one.words)) for one in METRICS},
    "low_school": str,
    "notes": list[str],
    "average_low_95": (Value, None),
    "average_high_95": (Value, None),
    "samples": (int | None, None),
}
MetricsDocument = create_model(
    "MetricsDocument",
    __doc__="The figures of one log; one of samples has an interval and no figures of frames.",
    **_METRICS,
)
ImportedLog = create_model(
    "ImportedLog",
    __base__=MetricsDocument,
    __doc__="A log that is imported, with where it goes.",
    rig=Name,
    case=Name,
)


class AskedQuestion(TypedDict):
    """Something a table leaves open, or what decided it."""

    about: str
    words: str
    readings: list[str]
    proposed: Name
    answer: Name


ImportedCell = TypedDict(
    "ImportedCell",
    {"rig": str, "case": str, "pass": int | None, "quantity": Name, "value": Value,
     "unit": Name, "how_read": Name, "text": NotRequired[str], "wrong": NotRequired[str]},
)  # fmt: skip
"""One figure of a table; `wrong` says why a cell cannot be read."""


class LeftOutCell(TypedDict):
    """What a table holds that is not kept, and why."""

    where: str
    why: str


class ImportedTable(TypedDict):
    """One table that is imported."""

    file: str
    layout: str
    questions: list[AskedQuestion]
    decided: NotRequired[list[AskedQuestion]]
    cells: list[ImportedCell]
    left_out: list[LeftOutCell]


class Imported(TypedDict):
    """What `import --json` prints."""

    tables: list[ImportedTable]
    logs: list[ImportedLog]
    recordings: NotRequired["list[ReadRecording]"]


class RecordingBox(TypedDict):
    """Where a figure stands in the pictures of a recording, in their pixels."""

    x: int
    y: int
    w: int
    h: int
    quantity: Annotated[str, Field(description="fps, low, card_w, wall_w, load, temperature, …")]


class RecordingReading(TypedDict):
    """A figure as a counter showed it from a moment on; what is not sure enters no average."""

    quantity: str
    at_s: float
    value: float
    sure: bool


class RecordingRun(TypedDict):
    """One pass of a recording; its average is the counter's, else of counted pictures."""

    from_s: float
    to_s: float
    average_fps: Value
    average_low_95: Value
    average_high_95: Value
    low_1_fps: Value
    minimum_fps: Value
    maximum_fps: Value
    from_pictures: bool
    readings: int
    asked: Annotated[int, Field(description="figures in doubt, left out")]
    series: list[RecordingReading]


class RecordingFreeze(TypedDict):
    """A picture that stood for over 100 ms."""

    at_s: float
    ms: float


class CountedPictures(TypedDict):
    """Frame times in steps of the recorder's period."""

    average_fps: float
    period_ms: float
    freezes: list[RecordingFreeze]


class TableCell(TypedDict):
    """A cell of a table on a picture."""

    text: str
    sure: bool


class ReadRecording(TypedDict):
    """What `read --json` prints."""

    file: str
    sha256: str
    recording_fps: float
    duration_s: float
    boxes: list[RecordingBox]
    runs: list[RecordingRun]
    counted: CountedPictures | None
    notes: list[str]
    table: NotRequired[
        Annotated[list[list[TableCell]], Field(description="of a picture: its table, by rows")]
    ]


class ChartInOrder(TypedDict):
    """One chart of the running order, and what is said to it."""

    key: str
    kind: Annotated[str, Field(description="cover, resolution, title, case, test, chart, closing")]
    title: str
    page: Annotated[int, Field(description="which sheet of several")]
    pages: int
    says: Annotated[str, Field(description="what it shows, in words")]
    lines: list[str]
    seconds: Annotated[float, Field(description="to read its lines at the review's pace")]


class ScriptStatement(TypedDict):
    """One figure or comparison of a script, and how it stands with the logbook."""

    text: str
    line: Annotated[int, Field(description="in the file, counted from 1")]
    column: int
    at_s: Annotated[Value, Field(description="when a subtitle shows it")]
    answer: Annotated[
        str, Field(description="holds, does not hold, not in the logbook, or unclear")
    ]
    figure: Annotated[str, Field(description="what it is a figure of; blank where unknown")]
    rig: str
    case: Annotated[str, Field(description="id of the case; blank for several")]
    base: Annotated[str, Field(description="the rig it is measured from")]
    value: Annotated[Value, Field(description="the true figure; shares as fractions")]
    note: Annotated[str, Field(description="what was mixed up")]
    true_sentence: str
    correction: Annotated[str, Field(description="the figure that belongs there")]
    readings: Annotated[list[str], Field(description="where unclear: each way to read it")]


class RankedCause(TypedDict):
    """One cause of a trouble, and how likely it is."""

    cause: str
    says: str
    share: Annotated[float, Field(description="its probability; all add up to 1")]
    cure: str


class ProposedTest(TypedDict):
    """One test that is left, the best for its minutes first."""

    test: str
    do: str
    asks: str
    minutes: float
    bits: Annotated[float, Field(description="the information it is expected to give")]


class TroubleDocument(TypedDict):
    """What `trouble --json` prints."""

    rig: str
    symptoms: list[str]
    when: str
    tried: dict[str, bool]
    traits: Annotated[list[str], Field(description="what the rig is, as far as it matters")]
    causes: list[RankedCause]
    tests: list[ProposedTest]
    to_be_sure: Annotated[list[str], Field(description="tests that would make the first sure")]
    sure_minutes: float


class ExaminedThing(TypedDict):
    """One thing that `doctor --json` looked at."""

    what: str
    state: Annotated[str, Field(description="ok, missing, or without: it works, less well")]
    says: str
    do: Annotated[str, Field(description="how to get it; blank where nothing need be done")]


DOCUMENTS: Mapping[str, Any] = {
    "charts": list[ChartInOrder],
    "check": list[FindingDocument],
    "compare": Compared,
    "composite": Composite,
    "doctor": list[ExaminedThing],
    "fit-check": list[FitFinding],
    "import": Imported,
    "limits": Limits,
    "link": LinkDocument,
    "metrics": list[MetricsDocument],
    "plan": PlanDocument,
    "probe": Machine,
    "read": ReadRecording,
    "report": JsonReport,
    "samples": list[str],
    "script": list[ScriptStatement],
    "simulate": list[str],
    "trouble": TroubleDocument,
    "worth": WorthDocument,
}
"""Every JSON document by the command that writes it."""


def schema_of(name: str) -> dict[str, Any]:
    """JSON Schema 2020-12 of a document; BadOption lists the names there are."""
    if name not in DOCUMENTS:
        raise BadOption("NAME", f"there is no “{name}”", f"Choose one of {', '.join(DOCUMENTS)}")
    found = TypeAdapter(DOCUMENTS[name]).json_schema()
    kinds = found.get("$defs", {})
    for kind in (found, *kinds.values()):
        if "properties" in kind:
            kind["additionalProperties"] = False
    if "properties" in found:
        found["properties"]["format_version"] = {"const": FORMAT_VERSION}
        found["required"] = sorted({*found.get("required", ()), "format_version"})
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **found,
        "title": f"blunt-ruler {name}, format {FORMAT_VERSION}",
    }


@app.command()
def schema(
    name: Annotated[
        str | None, typer.Argument(help="A document; without one, their names are listed.")
    ] = None,
) -> None:
    """Print the JSON Schema of what a command prints with --json."""
    print("\n".join(DOCUMENTS) if name is None else json.dumps(schema_of(name), indent=2))
