"""The run sheet: what to do at the bench, in order, as PDF, HTML, CSV, ODS or calendar entries.

Swaps come with their cautions and pre-flight steps, cases with their settings written out, boxes
for the figures and room for notes. The same plan gives the same bytes.
"""

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from html import escape
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.bench_order import ItemKind
from blunt_ruler.core.plan.timetable import Timetable
from blunt_ruler.core.records.records import Case, Contents, Review
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.preflight import Reading, steps_for
from blunt_ruler.exchange.csv_text import delimited
from blunt_ruler.exchange.workbooks import workbook_of
from blunt_ruler.files import write_whole

COLUMNS = ("starts", "minutes", "kind", "rig", "case", "settings", "pass")
BOXES = ("average", "1 % low", "notes")
PAGE_SIZES = ("A4", "Letter")
SET_UPS = (ItemKind.SET_UP, ItemKind.SWAP)


@dataclass(frozen=True, slots=True)
class SheetRow:
    """One line of the sheet; `steps` are what a swap asks for, cautions included."""

    day: str
    starts: str
    minutes: float
    kind: str
    rig: str
    case: str
    settings: str
    number: str
    steps: tuple[str, ...]


def sheet_rows(contents: Contents, table: Timetable) -> tuple[SheetRow, ...]:
    """The lines of a timetable."""
    rows = []
    typed = {
        one.title_id
        for plan in contents.plans.values()
        for one in plan.title_times
        if one.typed_figures
    }
    for day in table.days:
        for timed in day.items:
            item = timed.item
            case = contents.cases[item.case_id] if item.case_id else None
            swap = item.kind in SET_UPS
            rows.append(
                SheetRow(
                    day=day.day,
                    starts=timed.starts[11:],
                    minutes=item.minutes,
                    kind=str(item.kind),
                    rig=contents.rigs[item.rig_id].name,
                    case=contents.case_label(item.case_id) if item.case_id else "",
                    settings=settings_words(case, case.title_id in typed) if case else "",
                    number="" if item.repeat is None else str(item.repeat),
                    steps=tuple(_steps(contents, item.rig_id)) if swap else (),
                )
            )
    return tuple(rows)


def settings_words(case: Case, typed: bool = False) -> str:
    """Every setting of a case that is said, written out."""
    parts = [case.method, case.resolution, case.preset]
    for name, value in (
        ("upscaler", case.upscaler),
        ("ray tracing", case.ray_tracing),
        ("frame generation", case.frame_generation),
        ("API", case.graphics_api),
    ):
        if value:
            parts.append(f"{name} {value}")
    if case.frame_cap_fps:
        parts.append(f"cap {case.frame_cap_fps:g} fps")
    if typed:
        parts.append("type the figures")
    return ", ".join(part for part in parts if part)


def _steps(contents: Contents, rig_id: str) -> Iterator[str]:
    """Pre-flight steps with their cautions, each caution once."""
    said: set[str] = set()
    for number, step in enumerate(steps_for(contents, rig_id), start=1):
        unit = "" if step.reading is Reading.LINK else f" {step.reading}"
        expected = f" (expected {step.expected}{unit})" if step.expected else ""
        yield f"{number}. {step.do}{expected}"
        for key in step.cautions:
            if key not in said:
                said.add(key)
                yield f"Caution: {CAUTIONS[key].says}"


def sheet_csv(rows: Sequence[SheetRow]) -> str:
    """The sheet as a table with empty columns for the figures."""
    return delimited(
        [("day", *COLUMNS, *BOXES)]
        + [(row.day, *_fields(row), *("" for _ in BOXES)) for row in rows]
    )


def _fields(row: SheetRow) -> tuple[str, ...]:
    return (
        row.starts,
        f"{row.minutes:.1f}",
        row.kind,
        row.rig,
        row.case,
        row.settings,
        row.number,
    )


def sheet_html(rows: Sequence[SheetRow], review: Review, made_on: str, page: str = "A4") -> str:
    """The sheet as one page of HTML with the page size, page numbers and footer for printing."""
    name = escape(review.name)
    body = []
    day = None
    for row in rows:
        if row.day != day:
            day = row.day
            body.append(f"<tr class='day'><th colspan='7'>{day}</th></tr>")
        if row.kind in SET_UPS:
            steps = "".join(
                f"<li class='{'caution' if one.startswith('Caution') else 'step'}'>"
                f"{escape(one)}</li>"
                for one in row.steps
            )
            body.append(
                f"<tr class='swap'><td>{row.starts}</td><td colspan='6'><b>Set up "
                f"{escape(row.rig)}</b> ({row.minutes:.0f} min)<ul>{steps}</ul></td></tr>"
            )
            continue
        boxed = row.kind in (ItemKind.PASS, ItemKind.CONTROL)
        box = "<td class='box'></td>" * 3 if boxed else "<td colspan='3'></td>"
        label = f"{row.kind} {row.number}".strip()
        body.append(
            f"<tr><td>{row.starts}</td><td>{label}</td><td>{escape(row.case)}</td>"
            f"<td>{escape(row.settings)}</td>{box}</tr>"
        )
    style = (
        f"@page{{size:{page};margin:14mm;@bottom-right{{content:counter(page)}}"
        f"@bottom-left{{content:'{name}, {made_on}'}}}}"
        "body{font:11px sans-serif}table{border-collapse:collapse;width:100%}"
        "td,th{border:1px solid #999;padding:3px 5px;text-align:left;vertical-align:top}"
        "tr{break-inside:avoid}.swap{background:#eee}.box{width:17mm;height:7mm}"
        ".caution{font-weight:bold;list-style:'▲ '}"
    )
    heads = "".join(f"<th>{head}</th>" for head in ("time", "what", "case", "settings", *BOXES))
    return (
        f"<!DOCTYPE html><html lang='en'><head><meta charset='utf-8'><title>Run sheet: {name}"
        f"</title><style>{style}</style></head><body><h1>Run sheet: {name}</h1><p>{made_on}</p>"
        f"<table><thead><tr>{heads}</tr></thead><tbody>{''.join(body)}</tbody></table>"
        f"<p><b>{escape(DEFER)}</b></p></body></html>"
    )


def sheet_pdf(rows: Sequence[SheetRow], review: Review, made_on: str, page: str = "A4") -> bytes:
    """The sheet as PDF, with page number, review and date on every page."""
    from reportlab.lib import pagesizes
    from reportlab.lib.colors import HexColor
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Table, TableStyle

    size = pagesizes.A4 if page == "A4" else pagesizes.LETTER
    out = io.BytesIO()
    small = ParagraphStyle("small", fontName="Helvetica", fontSize=7.5, leading=9.2)
    bold = ParagraphStyle("bold", parent=small, fontName="Helvetica-Bold")
    title = ParagraphStyle("title", fontName="Helvetica-Bold", fontSize=14, leading=20)

    def text(words: str, style: ParagraphStyle = small) -> Paragraph:
        # The built-in fonts of PDF hold Latin-1 only.
        return Paragraph(escape(words.replace("→", "to")).replace("\u202f", "\u00a0"), style)

    table = [[text(head, bold) for head in ("time", "what", "case", "settings", *BOXES)]]
    spans = []
    day = None
    for row in rows:
        if row.day != day:
            day = row.day
            spans.append(("SPAN", (0, len(table)), (-1, len(table))))
            spans.append(("BACKGROUND", (0, len(table)), (-1, len(table)), HexColor("#DDD8CC")))
            table.append([text(day, bold), *[""] * 6])
        if row.kind in SET_UPS:
            lines = [text(f"Set up {row.rig} ({row.minutes:.0f} min)", bold)]
            lines += [text(one, bold if one.startswith("Caution") else small) for one in row.steps]
            for number, line in enumerate(lines):
                spans.append(("SPAN", (1, len(table)), (-1, len(table))))
                spans.append(("BACKGROUND", (0, len(table)), (-1, len(table)), HexColor("#F3EFE6")))
                table.append([text(row.starts if number == 0 else ""), line, *[""] * 5])
            continue
        label = f"{row.kind} {row.number}".strip()
        table.append(
            [text(row.starts), text(label), text(row.case), text(row.settings), "", "", ""]
        )
    width = size[0] - 24 * mm
    shares = (0.07, 0.1, 0.25, 0.22, 0.09, 0.09, 0.18)
    laid = Table(table, colWidths=[share * width for share in shares], repeatRows=1)
    laid.setStyle(
        TableStyle(
            [
                ("GRID", (0, 0), (-1, -1), 0.4, HexColor("#8A8A84")),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
                *spans,
            ]
        )
    )

    def footer(canvas: object, document: object) -> None:
        canvas.saveState()  # type: ignore[attr-defined]
        canvas.setFont("Helvetica", 8)  # type: ignore[attr-defined]
        canvas.drawString(12 * mm, 8 * mm, f"{review.name}, {made_on}")  # type: ignore[attr-defined]
        canvas.drawRightString(  # type: ignore[attr-defined]
            size[0] - 12 * mm,
            8 * mm,
            f"page {document.page}",  # type: ignore[attr-defined]
        )
        canvas.restoreState()  # type: ignore[attr-defined]

    document = SimpleDocTemplate(
        out,
        pagesize=size,
        leftMargin=12 * mm,
        rightMargin=12 * mm,
        topMargin=12 * mm,
        bottomMargin=15 * mm,
        title=f"Run sheet: {review.name}",
        invariant=True,
    )
    document.build(
        [text(f"Run sheet: {review.name}", title), laid, text(DEFER, bold)],
        onFirstPage=footer,
        onLaterPages=footer,
    )
    return out.getvalue()


def sheet_ods(rows: Sequence[SheetRow]) -> bytes:
    """The sheet as an OpenDocument table."""
    lines: list[Sequence[object]] = [("day", *COLUMNS, *BOXES)]
    for row in rows:
        starts, minutes, *rest = _fields(row)
        lines.append((row.day, starts, float(minutes), *rest, *("" for _ in BOXES)))
    return workbook_of({"run sheet": lines})


def sheet_ics(contents: Contents, review: Review, table: Timetable) -> bytes:
    """Bench days as calendar entries in floating local time: one for each rig on each day."""
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Blunt Ruler//run sheet//EN")
    calendar.add("version", "2.0")
    for day in table.days:
        blocks: list[tuple[str, datetime, datetime]] = []
        for timed in day.items:
            starts = datetime.fromisoformat(timed.starts)
            ends = starts + timedelta(minutes=timed.item.minutes)
            if blocks and blocks[-1][0] == timed.item.rig_id:
                blocks[-1] = (blocks[-1][0], blocks[-1][1], ends)
            else:
                blocks.append((timed.item.rig_id, starts, ends))
        for number, (rig_id, starts, ends) in enumerate(blocks):
            event = Event()
            event.add("uid", f"{review.id}-{day.day}-{number}@blunt-ruler")
            event.add("dtstamp", starts)
            event.add("dtstart", starts)
            event.add("dtend", ends)
            event.add("summary", f"Bench: {contents.rigs[rig_id].name}")
            event.add("description", f"{review.name}")
            calendar.add_component(event)
    return bytes(calendar.to_ical())


def write_sheet(
    contents: Contents,
    review: Review,
    table: Timetable,
    path: Path,
    made_on: str,
    page: str = "A4",
) -> Path:
    """Write the sheet in the format that the name's ending says."""
    if page not in PAGE_SIZES:
        raise UserFixable("page", f"there is no size “{page}”", "Give A4 or Letter")
    rows = sheet_rows(contents, table)
    ending = path.suffix.lower()
    writers = {
        ".csv": lambda: sheet_csv(rows),
        ".html": lambda: sheet_html(rows, review, made_on, page),
        ".pdf": lambda: sheet_pdf(rows, review, made_on, page),
        ".ods": lambda: sheet_ods(rows),
        ".ics": lambda: sheet_ics(contents, review, table),
    }
    if ending not in writers:
        raise UserFixable(
            str(path), f"a sheet cannot be “{ending}”", f"End the name in {', '.join(writers)}"
        )
    return write_whole(path, writers[ending]())
