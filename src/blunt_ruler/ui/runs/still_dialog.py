"""Read one picture: its figures with their labels, each confirmed or corrected, into one cell; or
the table that it shows, cell by cell, into the dialog that takes tables in.
"""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QImage, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.recordings.picture_table import PictureCell
from blunt_ruler.core.recordings.quantities import MEANINGS, Box, Quantity, figure_in
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.core.text import count_text
from blunt_ruler.core.types import Progress
from blunt_ruler.exchange.recordings.apart import in_own_process
from blunt_ruler.exchange.recordings.still import (
    StillFigure,
    StillReading,
    arriving_still,
    read_still,
)
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label
from blunt_ruler.ui.runs.picture_table import PictureTable
from blunt_ruler.ui.runs.read_into import known_names, place_boxes, quantity_box, why_not_into
from blunt_ruler.ui.runs.recording_picture import RecordingPicture

CROP_HEIGHT = 22


class _Row:
    """One figure: its picture, its label, what it is, and its value."""

    def __init__(self, figure: StillFigure, picture: QPixmap) -> None:
        self.figure = figure
        self.picture = QLabel()
        self.picture.setPixmap(picture)
        words = figure.label or "no label"
        self.label = label(
            words if figure.sure else f"{words}: in doubt", "" if figure.sure else "caution"
        )
        self.what = quantity_box(f"What {words} is")
        self.what.setCurrentIndex(self.what.findData(figure.box.quantity))
        self.value = QLineEdit("" if figure.value is None else f"{figure.value:.10g}")
        self.value.setAccessibleName(f"Value of {words}")
        self.value.setMaximumWidth(90)

    @property
    def quantity(self) -> Quantity:
        found: Quantity = self.what.currentData()
        return found

    @property
    def number(self) -> float | None:
        return figure_in(self.value.text(), self.quantity)


class StillDialog(QDialog):
    """Reads a picture off the interface thread and hands on what the reviewer confirms.

    Signals:
        confirmed(list): one run on its way in, as `arriving_still` gives it.
        table_confirmed(str, list): the file's name and the rows of its table, to be taken in.
    """

    confirmed = pyqtSignal(object)
    table_confirmed = pyqtSignal(str, object)

    def __init__(
        self,
        path: Path,
        contents: Contents | None,
        review: Review | None,
        parent: QWidget | None = None,
        *,
        cell: tuple[str, str] = ("", ""),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Read a picture")
        self.resize(1080, 620)
        self._path = path
        self._reading: StillReading | None = None
        self.rows: list[_Row] = []
        self._jobs = Jobs(threads=1, parent=self)
        self._lay_out(*known_names(contents, review), cell)
        self._job: Job | None = self._jobs.run(
            "Reading the picture", self._work, self._on_read, self._on_failed
        )

    def _lay_out(self, rigs: list[str], cases: list[str], cell: tuple[str, str]) -> None:
        self.blunt = label(f"Reading {self._path.name} …", "blunt")
        self.picture = RecordingPicture()
        self.picture.setEnabled(False)  # its figures stand; they are told in the list
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(8)
        inside = QWidget()
        stacked(self.grid, STRETCH, on=inside)
        side = QScrollArea()
        side.setWidget(inside)
        side.setWidgetResizable(True)
        side.setFrameShape(QFrame.Shape.NoFrame)
        self.table = PictureTable()
        self.table.settled.connect(self._update)
        self.table.looked_at.connect(self._look_at)
        self.sides = QStackedWidget()
        self.sides.setMinimumWidth(460)
        self.sides.addWidget(side)
        self.sides.addWidget(self.table)
        self.other_way = QPushButton("Read it as a table")
        self.other_way.clicked.connect(lambda: self._show_as(table=not self.as_table))
        self.other_way.hide()
        self.rig, self.case = place_boxes(rigs, cases, cell, self._path.stem)
        for box in (self.rig, self.case):
            box.editTextChanged.connect(lambda _words: self._update())
        self.problem = label("", "error")
        leave = QPushButton("Cancel")
        leave.clicked.connect(self.reject)
        self.go = QPushButton("Take in")
        self.go.setObjectName("primary")
        self.go.setDefault(True)
        self.go.clicked.connect(self._confirm)
        foot: QHBoxLayout = beside((self.problem, 1), self.other_way, leave, self.go)
        self.where = QWidget()
        beside(
            label("of", "quiet", wrap=False), (self.rig, 2),
            label("in", "quiet", wrap=False), (self.case, 3), spacing=6, on=self.where,
        )  # fmt: skip
        around = stacked(self.blunt, spacing=10, margins=(18, 14, 18, 14), on=self)
        around.addLayout(beside((self.picture, 3), (self.sides, 2), spacing=16), 1)
        around.addWidget(self.where)
        around.addLayout(foot)
        self._update()

    def _work(self, step: Progress) -> StillReading:
        return in_own_process(self._path, read_still, (self._path,), step)

    def _on_failed(self, error: Exception) -> None:
        self._job = None
        words = str(error) if isinstance(error, UserFixable) else f"It cannot be read: {error}"
        self.blunt.setText("Nothing was read.")
        self.problem.setText(words)
        self.picture.show_words(words)
        self._update()

    def _on_read(self, reading: StillReading) -> None:
        self._job = None
        self._reading = reading
        self.picture.show_picture(reading.width, reading.height, reading.points)
        image = QImage(
            reading.points, reading.width, reading.height, 3 * reading.width,
            QImage.Format.Format_RGB888,
        )  # fmt: skip
        for at, figure in enumerate(reading.figures):
            box = figure.box
            part = QPixmap.fromImage(image.copy(box.x, box.y, box.w, box.h))
            row = _Row(
                figure,
                part.scaledToHeight(CROP_HEIGHT, Qt.TransformationMode.SmoothTransformation),
            )
            self.rows.append(row)
            for column, widget in enumerate((row.picture, row.label, row.what, row.value)):
                self.grid.addWidget(widget, at, column)
            row.what.activated.connect(lambda _at: self._on_changed())
            row.value.textChanged.connect(lambda _words: self._update())
        self.other_way.setVisible(bool(reading.rows))
        self._show_as(table=reading.is_table)

    @property
    def as_table(self) -> bool:
        """Whether the picture is read as a table, and not as the figures of one run."""
        return self.sides.currentWidget() is self.table

    def _show_as(self, *, table: bool) -> None:
        """Show a table, or figure by figure; what was corrected in either stays."""
        self.picture.tagged = not table
        if table:
            self.sides.setCurrentWidget(self.table)
            if not self.table.rowCount() and self._reading is not None:
                self.table.show_rows(self._reading.rows)
            self.table.setFocus()
        else:
            self.sides.setCurrentIndex(0)
            first = next((row for row in self.rows if not row.figure.sure), None)
            (first.value if first is not None else self.rig).setFocus()
            self._show_boxes()
        self.where.setVisible(not table)
        self.go.setText("Go on to the table" if table else "Take in")
        self.other_way.setText("Read it figure by figure" if table else "Read it as a table")
        self._update()

    def _look_at(self, cell: PictureCell) -> None:
        """Show where a cell of the table stands on the picture."""
        box = Box(cell.x, cell.y, max(cell.w, 1), max(cell.h, 1), Quantity.FPS)
        self.picture.show_boxes([box], 0)

    def _show_boxes(self) -> None:
        self.picture.show_boxes(
            [replace(row.figure.box, quantity=row.quantity) for row in self.rows]
        )

    def _on_changed(self) -> None:
        self._show_boxes()
        self._update()

    def figures(self) -> dict[Quantity, float]:
        """What is chosen, the first of each kind."""
        found: dict[Quantity, float] = {}
        for row in self.rows:
            number = row.number
            if row.quantity is not Quantity.IGNORE and number is not None:
                found.setdefault(row.quantity, number)
        return found

    def _figures_wrong(self) -> str:
        """What is wrong with the figures as chosen; blank for nothing."""
        wrong = next(
            (
                row
                for row in self.rows
                if row.quantity is not Quantity.IGNORE and row.number is None
            ),
            None,
        )
        if wrong is not None:
            return f"“{wrong.value.text()[:20]}” is not a figure"
        twice = [row.quantity for row in self.rows if row.quantity is not Quantity.IGNORE]
        double = next((one for one in twice if twice.count(one) > 1), None)
        if double is not None:
            return f"Two figures are {MEANINGS[double].words}: say which one is"
        if not {Quantity.FPS, Quantity.SCORE} & set(self.figures()):
            return "Say which figure is the average or the score"
        return ""

    def _why_not(self) -> str:
        if self._reading is None:
            return "Wait until it is read"
        if self.as_table:
            return self._table_wrong()
        if wrong := self._figures_wrong():
            return wrong
        return why_not_into(self.rig.currentText(), self.case.currentText())

    def _table_wrong(self) -> str:
        """Which cells are still in doubt; blank for none."""
        left = len(self.table.in_doubt)
        if not left:
            return ""
        return (
            f"{count_text(left, 'cell')} in doubt: Enter takes the chosen one as it stands, "
            "F2 corrects it"
        )

    def _update(self) -> None:
        if self._reading is not None and self.as_table:
            rows, columns = self.table.rowCount(), self.table.columnCount()
            self.blunt.setText(
                f"{self._path.name}: a table of {count_text(rows, 'row')} and "
                f"{count_text(columns, 'column')}"
            )
            self.problem.setText(self._table_wrong())
        elif self._reading is not None:
            chosen = len(self.figures())
            self.blunt.setText(
                f"{self._path.name}: {count_text(len(self.rows), 'figure')}, {chosen} to take in"
            )
            wrong = self._figures_wrong() if self.rows else "No figure was found on it."
            self.problem.setText(wrong)
        allow(self.go, self._why_not())

    def _confirm(self) -> None:
        if self._reading is None or self._why_not():
            return
        if self.as_table:
            self.table_confirmed.emit(self._path.name, self.table.rows())
            self.accept()
            return
        asked = sum(not row.figure.sure for row in self.rows)
        rig, case = self.rig.currentText().strip(), parse_case(self.case.currentText())
        figures = tuple(
            replace(row.figure, box=replace(row.figure.box, quantity=row.quantity))
            for row in self.rows
        )
        reading = replace(self._reading, figures=figures)
        try:
            one = arriving_still(reading, self.figures(), rig, case, asked=asked)
        except UserFixable as error:
            self.problem.setText(str(error))
            return
        self.confirmed.emit([one])
        self.accept()

    def done(self, a0: int) -> None:
        self._jobs.close()
        super().done(a0)

    def closeEvent(self, a0: QCloseEvent | None) -> None:
        self._jobs.close()
        super().closeEvent(a0)
