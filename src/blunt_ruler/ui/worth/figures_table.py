"""Rigs down, figures of Worth across; an unknown one is a dash and its tip says why."""

from collections.abc import Sequence

from PyQt6.QtCore import QModelIndex, QSize, pyqtSignal
from PyQt6.QtWidgets import QSizePolicy

from blunt_ruler.core.text import capital
from blunt_ruler.core.worth.answers import Answer, lacks_words
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_head, figure_number
from blunt_ruler.core.worth.report import Worth, WorthRow
from blunt_ruler.ui.kit.explained import explained
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.tips import plain_tip

BEST = "◆ "
MOST_ROWS = 8
LONG_NAME = 11  # letters that stand in one column
HEAD, COLUMN, ROW = 46, 88, 26  # pixels
NARROW = 640  # pixels
# What a narrow window gives up; the evidence has it.
LESSER = (WorthFigure.MONTHLY, WorthFigure.PER_GAINED_LOW, WorthFigure.PER_FRAME)


def two_lines(head: str) -> str:
    """A head over two lines: its unit below, or its last word and unit where it is long."""
    name, _, unit = head.partition(", ")
    if len(name) > LONG_NAME and " " in name:
        first, _, last = name.rpartition(" ")
        return f"{first}\n{last}{f', {unit}' if unit else ''}"
    return f"{name}\n{unit}" if unit else name


def _tip(figure: WorthFigure) -> str:
    """What a figure is in words, and how it is worked out."""
    said = FIGURES[figure]
    return f"{capital(said.words)}.<br>{explained(f'worth {said.short}')}"


class FiguresTable(RowsTable):
    """Figures of every rig.

    Signals:
        rig_chosen(str): this rig.
    """

    rig_chosen = pyqtSignal(str)

    def __init__(self, name: str, figures: Sequence[WorthFigure], marks: bool = False) -> None:
        self._figures, self._marks = tuple(figures), marks
        super().__init__(name, self._columns(""), key=lambda row: row.rig_id, head_height=HEAD)
        self.row_chosen.connect(lambda row: self.rig_chosen.emit(row.rig_id))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def _columns(self, currency: str) -> list[Column]:
        rig = Column("Rig", self._name, tip=self._says, says=self._says)
        return [
            rig,
            *(self._column(one, currency) for one in self._figures),
        ]

    def _column(self, figure: WorthFigure, currency: str) -> Column:
        return Column(
            two_lines(capital(figure_head(figure, currency))),
            lambda row: figure_number(row.figures[figure], figure),
            COLUMN,
            figures=True,
            gives_up=LESSER.index(figure) + 1 if figure in LESSER else 0,
            colour=lambda row: "caution" if row.figures[figure].missing else "",
            tip=lambda row: _unknown(row.figures[figure]),
            head_tip=_tip(figure),
        )

    def _name(self, row: WorthRow) -> str:
        return f"{BEST if self._marks and row.efficient else ''}{row.column.name}"

    def _says(self, row: WorthRow) -> str:
        best = ": nothing is cheaper and faster" if row.efficient and self._marks else ""
        return f"{row.column.name}, {row.column.role}{best}"

    def show_worth(self, worth: Worth, rig_id: str) -> None:
        """Show every rig with one of them chosen."""
        self.show_rows(worth.rows, self._columns(worth.currency))
        self.choose(rig_id)
        self.updateGeometry()

    def sizeHint(self) -> QSize:
        rows = min(max(len(self.rows_model.rows), 2), MOST_ROWS)
        return QSize(600, HEAD + ROW * rows + 4)


class FiguresGrid(RowsTable):
    """The same the other way round: figures down in full words, rigs across.

    Signals:
        rig_chosen(str): this rig.
    """

    rig_chosen = pyqtSignal(str)

    def __init__(self, name: str, figures: Sequence[WorthFigure]) -> None:
        super().__init__(name, [Column("Figure", str)], head_height=HEAD)
        self._figures = tuple(figures)
        self._rig_ids: list[str] = []
        self.clicked.connect(self._on_clicked)

    def show_worth(self, worth: Worth, rig_id: str) -> None:
        """Show every rig; the chosen one stands in bold."""
        self._rig_ids = [row.rig_id for row in worth.rows]

        def name(figure: WorthFigure, full: bool) -> str:
            known = FIGURES[figure]
            unit = figure_head(figure, worth.currency).removeprefix(known.short)
            return f"{capital(known.words if full else known.short)}{unit}"

        columns = [
            Column(
                "Figure",
                lambda figure: name(figure, self.width() >= NARROW),
                tip=lambda figure: name(figure, True),
            ),
            *(_rig_column(row, row.rig_id == rig_id) for row in worth.rows),
        ]
        self.show_rows(self._figures, columns)

    def _on_clicked(self, index: QModelIndex) -> None:
        if 0 < index.column() <= len(self._rig_ids):
            self.rig_chosen.emit(self._rig_ids[index.column() - 1])


def _rig_column(row: WorthRow, chosen: bool) -> Column:
    """A rig across; the chosen one in bold."""
    return Column(
        row.column.name.replace(" ", "\n", 1),
        lambda figure: (
            "unknown" if row.figures[figure].missing else figure_number(row.figures[figure], figure)
        ),
        COLUMN - 2,
        figures=True,
        head_tip=plain_tip(row.column.name),
        tip=lambda figure: _unknown(row.figures[figure]),
        colour=lambda figure: "caution" if row.figures[figure].missing else "",
        bold=lambda _figure: chosen,
    )


def _unknown(answer: Answer) -> str:
    """What keeps a figure unknown, in a sentence; blank where it is known."""
    return f"{capital(lacks_words(answer.missing, 'not known'))}." if answer.missing else ""
