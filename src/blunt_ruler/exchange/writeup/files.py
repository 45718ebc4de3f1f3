"""Write a write-up into a folder, in the formats that were asked for."""

from collections.abc import Iterable, Sequence
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.drawing.palette import PAPER, Theme
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.core.writeup.document import Chart, ChartKey, Document
from blunt_ruler.core.writeup.narration import narration
from blunt_ruler.core.writeup.trace import TracedFigure, traced_figures
from blunt_ruler.exchange.reports import board_csv
from blunt_ruler.exchange.writeup.tables import figures_csv, workbook
from blunt_ruler.exchange.writeup.text import markdown, narration_sheet
from blunt_ruler.files import write_whole

if TYPE_CHECKING:
    from blunt_ruler.exchange.charts.canvas import ChartCanvas


class Format(StrEnum):
    """A format a write-up can be written in."""

    HTML = "html"
    PDF = "pdf"
    MD = "md"
    CSV = "csv"
    ODS = "ods"
    JSON = "json"
    SVG = "svg"
    PNG = "png"


class Charts:
    """The charts of a document, each drawn and saved once, when first asked for."""

    def __init__(self, analysis: Analysis, document: Document, theme: Theme = PAPER) -> None:
        self._analysis = analysis
        self._theme = theme
        self._blocks = {
            block.key: block
            for section in document.sections
            for block in section.blocks
            if isinstance(block, Chart)
        }
        self._sheets: dict[ChartKey, ChartCanvas] = {}
        self._saved: dict[str, dict[ChartKey, bytes]] = {}  # by size, or "svg"

    def keys(self) -> tuple[ChartKey, ...]:
        """The charts there are."""
        return tuple(self._blocks)

    def sheet(self, key: ChartKey) -> "ChartCanvas":
        """One chart, drawn, to be saved in any format."""
        from blunt_ruler.exchange.charts.drawings import draw  # slow to import

        if key not in self._sheets:
            block = self._blocks[key]
            self._sheets[key] = draw(self._analysis, key, block.title, block.says, self._theme)
        return self._sheets[key]

    def svg(self) -> dict[ChartKey, bytes]:
        """Every chart as SVG."""
        if "svg" not in self._saved:
            self._saved["svg"] = {key: self.sheet(key).svg() for key in self._blocks}
        return self._saved["svg"]

    def png(self, size: str = "1280x720") -> dict[ChartKey, bytes]:
        """Every chart as PNG at one of the sizes of `charts.canvas`."""
        if size not in self._saved:
            self._saved[size] = {key: self.sheet(key).png(size) for key in self._blocks}
        return self._saved[size]


def write_files(
    analysis: Analysis,
    edits: Sequence[PastEdit],
    folder: Path,
    formats: Iterable[Format] = tuple(Format),
    step: Progress = no_progress,
) -> tuple[Path, ...]:
    """Write the wanted formats into a folder; the paths of all files.

    The same logbook gives the same bytes: nothing in them depends on the clock.
    """
    document = compose(analysis, edits)
    charts, figures = Charts(analysis, document), traced_figures(analysis)
    wanted = list(dict.fromkeys(formats))
    paths: list[Path] = []
    for number, format_ in enumerate(wanted):
        step(f"Writing {format_}", number / len(wanted))
        for name, body in _bodies(analysis, document, charts, figures, format_).items():
            paths.append(write_whole(folder / name, body))
    return tuple(paths)


def _bodies(
    analysis: Analysis,
    document: Document,
    charts: Charts,
    figures: Sequence[TracedFigure],
    format_: Format,
) -> dict[str, bytes | str]:
    contents = analysis.contents
    match format_:
        case Format.HTML:
            from blunt_ruler.exchange.writeup.page import html_page, inside

            return {"report.html": html_page(document, inside(charts.svg()))}
        case Format.PDF:
            from blunt_ruler.exchange.writeup.print_file import pdf

            return {"report.pdf": pdf(document, charts.png("1920x1080"))}
        case Format.MD:
            sheet = narration_sheet(document.title, narration(analysis))
            return {"report.md": markdown(document), "narration.md": sheet}
        case Format.CSV:
            return {
                "board.csv": board_csv(contents, analysis.board),
                "figures.csv": figures_csv(contents, figures),
            }
        case Format.ODS:
            return {"report.ods": workbook(contents, document, figures)}
        case Format.JSON:
            from blunt_ruler.exchange.writeup.json_file import report_json, report_schema

            body = report_json(analysis, document, figures, narration(analysis))
            return {"report.json": body, "report.schema.json": report_schema()}
        case Format.SVG:
            return {f"charts/{key}.svg": image for key, image in charts.svg().items()}
        case Format.PNG:
            return {
                f"charts/{key}-{size}.png": image
                for size in ("1280x720", "1920x1080")
                for key, image in charts.png(size).items()
            }
