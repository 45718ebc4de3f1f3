"""The pre-flight list of a rig to print: boxes to tick, readings to fill in, cautions."""

from dataclasses import dataclass

from blunt_ruler.core.records.hardware import TickState
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.compatibility import check_fit
from blunt_ruler.core.rigs.preflight import Reading, latest_ticks, steps_for
from blunt_ruler.core.text import capital
from blunt_ruler.exchange.documents.templates import render

BOXES = {None: "☐", TickState.DONE: "☑", TickState.SKIPPED: "☐ skipped"}


@dataclass(frozen=True, slots=True)
class _Row:
    box: str
    number: int
    do: str
    cautions: tuple[str, ...]
    reading: str
    expected: str


def _rows(contents: Contents, rig_id: str) -> list[_Row]:
    ticks = latest_ticks(contents, rig_id)
    rows = []
    for number, step in enumerate(steps_for(contents, rig_id), start=1):
        tick = ticks.get(step.key)
        unit = (
            ""
            if step.reading in (Reading.NONE, Reading.LINK, Reading.WORDS)
            else f" {step.reading}"
        )
        asks = step.reading is not Reading.NONE
        held = tick.reading if tick and tick.reading else "________"
        rows.append(
            _Row(
                box=BOXES[tick.state if tick else None],
                number=number,
                do=step.do,
                cautions=tuple(CAUTIONS[key].says for key in step.cautions),
                reading=f"{held}{unit}" if asks else "",
                expected=f"expected {step.expected}{unit}" if asks and step.expected else "",
            )
        )
    return rows


def _against(contents: Contents, rig_id: str) -> list[str]:
    return [
        f"{finding.severity}: {capital(finding.what)} {finding.do}."
        for finding in check_fit(contents, rig_id)
    ]


def preflight_html(contents: Contents, rig_id: str, printed_on: str) -> str:
    """The list as one page of HTML."""
    return render(
        "preflight.html.j2",
        name=contents.rigs[rig_id].name,
        printed_on=printed_on,
        against=_against(contents, rig_id),
        rows=_rows(contents, rig_id),
        defer=DEFER,
    )


def preflight_pdf(contents: Contents, rig_id: str, printed_on: str) -> bytes:
    """The list as PDF."""
    from reportlab.lib.colors import HexColor
    from reportlab.platypus import Spacer, Table

    from blunt_ruler.exchange.printing import pdf

    name = contents.rigs[rig_id].name
    body, small = pdf.style(9.5, 12.5), pdf.style(8, 10.5)
    bold, head = pdf.style(9.5, 12.5, pdf.SEMIBOLD), pdf.style(12, 17, pdf.BOLD, spaceBefore=8)
    flow = [pdf.text(f"Pre-flight: {name}", pdf.style(18, 24, pdf.BOLD))]
    flow.append(pdf.text("Fit and power", head))
    against = _against(contents, rig_id) or ["Nothing found against it."]
    flow += [pdf.text(words, body) for words in against]
    flow.append(pdf.text("Steps", head))
    cells = [[pdf.text(words, bold) for words in ("", "", "step", "reading")]]
    for row in _rows(contents, rig_id):
        step = [pdf.text(row.do, body), *(pdf.text(f"▲ {one}", small) for one in row.cautions)]
        reading = [pdf.text(row.reading, body), pdf.text(row.expected, small)]
        cells.append([pdf.text(row.box, body), pdf.text(str(row.number), body), step, reading])
    room = pdf.page_size("A4")[0] - 2 * 45.4
    table = Table(cells, colWidths=[room * s for s in (0.12, 0.05, 0.6, 0.23)], repeatRows=1)
    table.setStyle(
        [
            ("GRID", (0, 0), (-1, -1), 0.4, HexColor("#8A8A84")),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("TOPPADDING", (0, 0), (-1, -1), 3),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 5),
        ]
    )
    flow += [table, Spacer(1, 8), pdf.text(DEFER, bold)]
    return pdf.built(flow, f"Pre-flight: {name}", f"Pre-flight: {name}, {printed_on}")
