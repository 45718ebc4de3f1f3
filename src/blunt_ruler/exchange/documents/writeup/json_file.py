"""The write-up as JSON with its schema: every figure, sentence and table for other programs."""

import json
from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict, Field

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.sentences import Figure, Span, plain
from blunt_ruler.core.writeup.document import Block, Bullets, Document, Grid, Paragraph
from blunt_ruler.core.writeup.narration import Cue
from blunt_ruler.core.writeup.trace import TracedFigure

FORMAT = "blunt-ruler-report-1"


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class JsonFigure(_Strict):
    """A figure; rig and case are names of `rigs` and `cases`, blank for a mean."""

    figure: str = Field(description="its name, as in src/blunt_ruler/help/figures.md")
    rig: str
    case: str
    value: float | None = Field(description="None where it is not known")
    unit: str
    base: str = Field(description="the rig it is a share of, blank where it is of none")
    low_95: float | None
    high_95: float | None
    runs: list[str] = Field(description="ids of the kept runs it rests on")
    missing: list[str] = Field(description="what would have to be known")


class JsonSentence(_Strict):
    """A sentence; `own` says that it is the reviewer's and not the computed one."""

    key: str
    says: str
    computed: str
    own: bool
    stale: bool
    figures: list[str] = Field(description="figure|rig|case of what it rests on")


class JsonTable(_Strict):
    """A table as printed, and the same cells as numbers."""

    says: str
    heads: list[str]
    rows: list[list[str]]
    values: list[list[float | None]]


class JsonSection(_Strict):
    """One section, its sentences and tables in order; charts by name."""

    key: str
    title: str
    sentences: list[JsonSentence]
    tables: list[JsonTable]
    charts: list[str]


class JsonCue(_Strict):
    """What to say aloud for one section."""

    title: str
    lines: list[str]


class JsonReport(_Strict):
    """A whole write-up."""

    format: str = FORMAT
    format_version: int = 1
    title: str
    line: str
    byline: str
    as_of: str
    low_school: str
    mean_school: str
    currency: str
    rigs: dict[str, str] = Field(description="id → name")
    cases: dict[str, str] = Field(description="id → name")
    sections: list[JsonSection]
    figures: list[JsonFigure]
    narration: list[JsonCue]


def report_json(
    analysis: Analysis,
    document: Document,
    figures: Sequence[TracedFigure],
    cues: Sequence[Cue],
) -> str:
    """The write-up as JSON text."""
    contents, review = analysis.contents, analysis.review
    report = JsonReport(
        title=document.title,
        line=document.line,
        byline=document.byline,
        as_of=document.as_of,
        low_school=str(review.low_school),
        mean_school=str(review.mean),
        currency=analysis.worth.currency,
        rigs={seat.rig_id: contents.rigs[seat.rig_id].name for seat in review.seats},
        cases={
            **{case_id: contents.case_label(case_id) for case_id in review.case_ids},
            **{row.case_id: row.label for row in analysis.scores.board.rows},
        },
        sections=[
            JsonSection(
                key=section.key,
                title=section.title,
                sentences=[
                    JsonSentence(
                        key=one.key,
                        says=one.words,
                        computed=one.computed,
                        own=one.own is not None,
                        stale=one.stale,
                        figures=[f"{f.figure}|{f.rig}|{f.case}" for f in one.figures],
                    )
                    for one in section.sentences
                ],
                tables=[_table(block) for block in section.blocks if isinstance(block, Grid)],
                charts=[str(key) for key in _charts(section.blocks)],
            )
            for section in document.sections
        ],
        figures=[
            JsonFigure(
                figure=one.figure,
                rig=one.rig,
                case=one.case,
                value=one.value,
                unit=one.unit,
                base=one.base,
                low_95=one.low,
                high_95=one.high,
                runs=list(one.runs),
                missing=list(one.missing),
            )
            for one in figures
        ],
        narration=[JsonCue(title=cue.title, lines=list(cue.lines)) for cue in cues],
    )
    return report.model_dump_json(indent=1) + "\n"


def report_schema() -> str:
    """JSON Schema of what `report_json` writes."""
    return json.dumps(JsonReport.model_json_schema(), indent=1) + "\n"


def _charts(blocks: Sequence[Block]) -> list[str]:
    return [str(b.key) for b in blocks if not isinstance(b, Paragraph | Bullets | Grid)]


def _table(grid: Grid) -> JsonTable:
    def value(cell: Span) -> float | None:
        return cell.value if isinstance(cell, Figure) else None

    return JsonTable(
        says=grid.says,
        heads=list(grid.heads),
        rows=[[plain([cell]) for cell in row] for row in grid.rows],
        values=[[value(cell) for cell in row] for row in grid.rows],
    )
