"""The figures of a write-up as tidy CSV and as an OpenDocument workbook."""

from collections.abc import Iterable, Sequence

from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.sentences import Figure, plain
from blunt_ruler.core.writeup.document import Document, Grid
from blunt_ruler.core.writeup.trace import TracedFigure
from blunt_ruler.exchange.tables.csv_text import delimited
from blunt_ruler.exchange.tables.workbooks import workbook_of

FIGURE_COLUMNS = (
    "figure",
    "rig",
    "case",
    "value",
    "unit",
    "base",
    "low_95",
    "high_95",
    "runs",
    "missing",
    "rig_id",
    "case_id",
    "run_ids",
)


def figure_rows(
    contents: Contents, figures: Iterable[TracedFigure]
) -> list[tuple[str | float | int | None, ...]]:
    """One row for each figure, in the order of FIGURE_COLUMNS."""
    return [
        (
            one.figure,
            contents.rigs[one.rig].name if one.rig in contents.rigs else one.rig,
            contents.case_label(one.case) if one.case in contents.cases else one.case,
            one.value,
            one.unit,
            one.base,
            one.low,
            one.high,
            len(one.runs),
            "; ".join(one.missing),
            one.rig,
            one.case,
            " ".join(one.runs),
        )
        for one in figures
    ]


def figures_csv(contents: Contents, figures: Iterable[TracedFigure]) -> str:
    """Every figure with its unit, base, bounds and the runs behind it; shares are of 1."""
    return delimited([FIGURE_COLUMNS, *figure_rows(contents, figures)])


def workbook(contents: Contents, document: Document, figures: Sequence[TracedFigure]) -> bytes:
    """Every table of the write-up as a sheet with true numbers, and all figures on the last."""
    grids = [
        (section.title, block)
        for section in document.sections
        for block in section.blocks
        if isinstance(block, Grid)
    ]
    tables: dict[str, list[Sequence[object]]] = {}
    for number, (title, grid) in enumerate(grids, start=1):
        rows: list[Sequence[object]] = [(grid.says,), grid.heads]
        rows += [
            [cell.value if isinstance(cell, Figure) else plain([cell]) for cell in row]
            for row in grid.rows
        ]
        tables[f"{number} {title}"] = rows
    tables["figures"] = [FIGURE_COLUMNS, *figure_rows(contents, figures)]
    return workbook_of(tables)
