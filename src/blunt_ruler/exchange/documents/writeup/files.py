"""Write a write-up into a folder, in the formats that were asked for."""

from collections import deque
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from concurrent.futures import BrokenExecutor, Future
from contextlib import contextmanager, suppress
from enum import StrEnum
from pathlib import Path

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.drawing.palette import PAPER, Theme
from blunt_ruler.core.drawing.picture import Measure
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.core.writeup.document import Chart, ChartKey, Document
from blunt_ruler.core.writeup.narration import narration
from blunt_ruler.core.writeup.trace import TracedFigure, traced_figures
from blunt_ruler.exchange.charts.sheet import SIZES, SVG_KIND, ChartSheet
from blunt_ruler.exchange.documents.reports import board_csv
from blunt_ruler.exchange.documents.writeup.tables import figures_csv, workbook
from blunt_ruler.exchange.documents.writeup.text import markdown, narration_sheet
from blunt_ruler.files import staged, write_whole


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


PICTURES = {  # the kinds of pictures that a format is made of
    Format.HTML: (SVG_KIND,),
    Format.SVG: (SVG_KIND,),
    Format.PNG: tuple(SIZES),
}
FEWEST_PICTURES = 6  # fewer are drawn before another process has started


class Charts:
    """The charts of a document, each composed once and saved once in each kind.

    Kinds are those of `charts.sheet`: SVG, and sizes for PNG. `saving` has them saved
    elsewhere meanwhile.
    """

    def __init__(
        self,
        analysis: Analysis,
        document: Document,
        theme: Theme = PAPER,
        measure: Measure | None = None,
    ) -> None:
        """`measure` is that of whoever draws them; None for that of the pictures saved here."""
        self._analysis = analysis
        self._theme = theme
        self._measure = measure
        self._blocks = {
            block.key: block
            for section in document.sections
            for block in section.blocks
            if isinstance(block, Chart)
        }
        self._sheets: dict[ChartKey, ChartSheet] = {}
        self._saved: dict[ChartKey, dict[str, bytes]] = {}
        self._left: deque[ChartKey] = deque()  # that nobody draws yet
        self._coming: dict[ChartKey, Future[dict[str, bytes]]] = {}
        self._kinds: tuple[str, ...] = ()  # that are saved of every chart while it is at hand

    def keys(self) -> tuple[ChartKey, ...]:
        """The charts there are."""
        return tuple(self._blocks)

    def sheet(self, key: ChartKey) -> ChartSheet:
        """One chart, composed."""
        from blunt_ruler.exchange.charts.drawings import draw  # slow to import

        if key not in self._sheets:
            if self._measure is None:
                from blunt_ruler.exchange.charts.canvas import measure

                self._measure = measure
            said = self._blocks[key].title, self._blocks[key].says
            self._sheets[key] = draw(self._analysis, key, *said, self._theme, self._measure)
        return self._sheets[key]

    def sheets(self) -> dict[ChartKey, ChartSheet]:
        """Every chart, composed."""
        return {key: self.sheet(key) for key in self._blocks}

    @contextmanager
    def saving(self, kinds: Collection[str]) -> Iterator[None]:
        """Save charts in some kinds on the other cores, while this process does other work."""
        from blunt_ruler.processes import other_cores, workers

        count = min(other_cores(), len(self._blocks))
        if not count or len(self._blocks) * len(kinds) < FEWEST_PICTURES:
            yield
            return
        with workers(count, "blunt_ruler.exchange.charts.canvas") as pool:
            from blunt_ruler.exchange.charts.canvas import saved

            self._kinds, sheets = tuple(kinds), self.sheets()
            self._left.extend(sheets)

            def give(_done: object = None) -> None:
                """Give the next chart away: one at a time, so that this process can take others."""
                with suppress(IndexError, RuntimeError):  # none is left, or no process
                    key = self._left.popleft()
                    self._coming[key] = pool.submit(saved, sheets[key], self._kinds)
                    self._coming[key].add_done_callback(give)

            for _ in range(count):
                give()
            try:
                yield
            finally:
                self._left.clear()
                self._coming, self._kinds = {}, ()

    def image(self, key: ChartKey, kind: str) -> bytes:
        """One chart in one kind."""
        return self._images([key], kind)[key]

    def _images(self, keys: Iterable[ChartKey], kind: str) -> dict[ChartKey, bytes]:
        """Charts in one kind; what no other process has begun is drawn here, from the last on."""
        wanted = tuple(keys)
        for key in reversed(wanted):
            try:
                self._left.remove(key)
            except ValueError:  # drawn, or another process is at it
                continue
            self._save(key, kind)
        for key in wanted:
            if key in self._coming:
                with suppress(BrokenExecutor):  # no process to be had
                    self._saved.setdefault(key, {}).update(self._coming.pop(key).result())
            if kind not in self._saved.get(key, {}):
                self._save(key, kind)
        return {key: self._saved[key][kind] for key in wanted}

    def _save(self, key: ChartKey, kind: str) -> None:
        from blunt_ruler.exchange.charts.canvas import saved

        kinds = tuple(SIZES) if kind in SIZES else (kind,)  # one drawing does for every size
        kinds = self._kinds if kind in self._kinds else kinds
        self._saved.setdefault(key, {}).update(saved(self.sheet(key), kinds))

    def svg(self) -> dict[ChartKey, bytes]:
        """Every chart as SVG."""
        return self._images(self._blocks, SVG_KIND)

    def png(self, size: str = "1280x720") -> dict[ChartKey, bytes]:
        """Every chart as PNG at one of the sizes of `charts.sheet`."""
        return self._images(self._blocks, size)


def write_files(
    analysis: Analysis,
    edits: Sequence[PastEdit],
    folder: Path,
    formats: Iterable[Format] = tuple(Format),
    step: Progress = no_progress,
    tell: Callable[[str], None] = lambda _words: None,
) -> tuple[Path, ...]:
    """Write the wanted formats into a folder; the paths of all files.

    They are put in their places together when all are written: one that cannot be written leaves
    the folder as it was. `tell` hears of letters that charts and PDF cannot show. The same logbook
    gives the same bytes: nothing in them depends on the clock.
    """
    document = compose(analysis, edits)
    charts, figures = Charts(analysis, document), traced_figures(analysis)
    wanted = list(dict.fromkeys(formats))
    kinds = dict.fromkeys(kind for format_ in wanted for kind in PICTURES.get(format_, ()))
    paths: dict[Format, list[Path]] = {}
    with staged(folder) as part, charts.saving(kinds):
        # What needs pictures comes last: they are drawn meanwhile.
        for number, format_ in enumerate(sorted(wanted, key=PICTURES.__contains__)):
            step(f"Writing {format_}", number / len(wanted))
            bodies = _bodies(analysis, document, charts, figures, format_)
            for name, body in bodies.items():
                write_whole(part / name, body)
            paths[format_] = [folder / name for name in bodies]
    if (PICTURES.keys() | {Format.PDF}) & {*wanted}:
        from blunt_ruler.exchange.printing.letters import boxed_words

        if boxes := boxed_words(markdown(document)):
            tell(boxes)
    return tuple(path for format_ in wanted for path in paths[format_])


def bodies_of(
    analysis: Analysis, edits: Sequence[PastEdit], formats: Iterable[Format]
) -> dict[str, bytes | str]:
    """The files of some formats by their names, written nowhere."""
    document = compose(analysis, edits)
    charts, figures = Charts(analysis, document), traced_figures(analysis)
    bodies: dict[str, bytes | str] = {}
    for format_ in formats:
        bodies |= _bodies(analysis, document, charts, figures, format_)
    return bodies


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
            from blunt_ruler.exchange.documents.writeup.page import html_page, inside

            return {"report.html": html_page(document, inside(charts.svg()))}
        case Format.PDF:
            from blunt_ruler.exchange.documents.writeup.print_file import pdf

            return {"report.pdf": pdf(document, charts.sheets())}
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
            from blunt_ruler.exchange.documents.writeup.json_file import report_json, report_schema

            body = report_json(analysis, document, figures, narration(analysis))
            return {"report.json": body, "report.schema.json": report_schema()}
        case Format.SVG:
            return {f"charts/{key}.svg": image for key, image in charts.svg().items()}
        case Format.PNG:
            return {
                f"charts/{key}-{size}.png": image
                for size in SIZES
                for key, image in charts.png(size).items()
            }
