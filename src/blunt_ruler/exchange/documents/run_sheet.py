"""The run sheet: what to do at the bench, in order, as PDF, HTML, CSV, ODS or calendar entries.

Swaps come with their cautions and pre-flight steps, cases with their settings written out, boxes
for the figures and room for notes. The same plan gives the same bytes.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.bench_order import ItemKind
from blunt_ruler.core.plan.timetable import Timetable
from blunt_ruler.core.records.records import Case, Contents, Review
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.preflight import steps_for
from blunt_ruler.exchange.documents.templates import render
from blunt_ruler.exchange.tables.csv_text import delimited
from blunt_ruler.exchange.tables.workbooks import workbook_of
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

    @property
    def label(self) -> str:
        """What is done, with the number of the pass."""
        return f"{self.kind} {self.number}".strip()

    @property
    def sets_up(self) -> bool:
        """Whether a rig is set up, with its steps."""
        return self.kind in SET_UPS

    @property
    def boxed(self) -> bool:
        """Whether there are figures to write down."""
        return self.kind in (ItemKind.PASS, ItemKind.CONTROL)


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
        unit = f" {step.reading.unit}" if step.reading.unit else ""
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
    # The foot stands in a string of the style sheet: nothing in a name may end it.
    foot = "".join(letter for letter in f"{review.name}, {made_on}" if letter not in '"\\<\n')
    return render(
        "run_sheet.html.j2",
        name=review.name,
        foot=foot,
        page=page,
        made_on=made_on,
        heads=("time", "what", "case", "settings", *BOXES),
        rows=rows,
        defer=DEFER,
    )


def sheet_pdf(rows: Sequence[SheetRow], review: Review, made_on: str, page: str = "A4") -> bytes:
    """The sheet as PDF, with page number, review and date on every page."""
    from reportlab.lib.colors import HexColor
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, Table

    from blunt_ruler.exchange.printing import pdf

    small, bold = pdf.style(7.5, 9.2), pdf.style(7.5, 9.2, pdf.BOLD)

    def text(words: str, bold_too: bool = False) -> Paragraph:
        return pdf.text(words, bold if bold_too else small)

    table: list[list[object]] = [
        [text(head, True) for head in ("time", "what", "case", "settings", *BOXES)]
    ]
    spans: list[tuple[object, ...]] = []

    def band(first: int, colour: str, *cells: object) -> None:
        """A row that runs across from a column on, on a ground of its own."""
        here = len(table)
        spans.append(("SPAN", (first, here), (-1, here)))
        spans.append(("BACKGROUND", (first, here), (-1, here), HexColor(colour)))
        table.append([*cells, *[""] * (7 - len(cells))])

    day = None
    for row in rows:
        if row.day != day:
            day = row.day
            band(0, "#DDD8CC", text(day, True))
        if row.sets_up:
            band(
                1,
                "#F3EFE6",
                text(row.starts),
                text(f"Set up {row.rig} ({row.minutes:.0f} min)", True),
            )
            for one in row.steps:
                band(1, "#F3EFE6", "", text(one, one.startswith("Caution")))
            continue
        cells = (row.starts, row.label, row.case, row.settings)
        table.append([*map(text, cells), "", "", ""])
    width = pdf.page_size(page)[0] - 24 * mm
    shares = (0.07, 0.1, 0.25, 0.22, 0.09, 0.09, 0.18)
    laid = Table(table, colWidths=[share * width for share in shares], repeatRows=1)
    laid.setStyle(
        [
            ("GRID", (0, 0), (-1, -1), 0.4, HexColor("#8A8A84")),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("TOPPADDING", (0, 0), (-1, -1), 2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
            *spans,
        ]
    )
    title = f"Run sheet: {review.name}"
    head = pdf.text(title, pdf.style(14, 20, pdf.BOLD))
    return pdf.built(
        [head, laid, text(DEFER, True)], title, f"{review.name}, {made_on}", page, margin_mm=12.0
    )


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
    writers: dict[str, Callable[[], bytes | str]] = {
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
