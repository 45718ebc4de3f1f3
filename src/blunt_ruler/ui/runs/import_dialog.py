"""Import logs: what was found in each, where it belongs, and a look before it is taken in."""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import BrokenExecutor
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QStringListModel, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.frames import FrameFigures, LowSchool, measure
from blunt_ruler.core.records.records import Contents, Review, Role, Trace
from blunt_ruler.core.runs.import_runs import (
    Arrival,
    known_name,
    parse_case,
    propose_names,
    propose_roles,
)
from blunt_ruler.core.text import count_text, fps_text
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.exchange.frame_logs import LogReading, arrival_of, bad_rows_text, read_log
from blunt_ruler.exchange.log_words import LogMapping
from blunt_ruler.processes import pool_of
from blunt_ruler.ui.jobs import Jobs
from blunt_ruler.ui.layouts import beside, stacked
from blunt_ruler.ui.runs.log_preview import LogPreview
from blunt_ruler.ui.widgets import allow, label

Remembered = Callable[[str], str | None]


@dataclass(slots=True)
class _File:
    """One log in the dialog."""

    path: Path
    reading: LogReading | None = None
    figures: FrameFigures | None = None
    error: str = ""
    chosen: LogMapping | None = None  # what the reviewer chose over what was found

    @property
    def stem(self) -> str:
        return self.path.name.removesuffix(".gz").rsplit(".", 1)[0]


MANY_LOGS = 60
ROWS_AT_ONCE, ROWS_AT_A_TIME = 40, 4  # the boxes of a row take milliseconds
NOT_FILLED = -1  # stands among the rows that are read while boxes are still to be made
Read = tuple[LogReading, FrameFigures | None]


def _read_log(
    path: Path,
    chosen: LogMapping | None,
    remembered: Callable[[str], LogMapping | None] | None = None,
    step: Progress = no_progress,
) -> Read:
    """A log as it is read, with its figures where it has single frames."""
    reading = read_log(
        path,
        column=chosen.column if chosen else None,
        unit=chosen.unit if chosen else None,
        remembered=remembered,
        step=step,
    )
    trace = reading.trace
    return reading, measure(trace.frame_times_ms, path.name) if trace else None


COLUMNS = ("Log", "Average", "1 % low", "Rig", "Role", "Case")


class ImportDialog(QDialog):
    """Reads logs off the interface thread and hands on what the reviewer confirms.

    Signals:
        confirmed(list, dict): arrivals with their traces, and mappings by header to remember.
    """

    confirmed = pyqtSignal(object, object)

    def __init__(
        self,
        paths: Sequence[Path],
        contents: Contents | None,
        review: Review | None,
        remembered: Remembered,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Import logs")
        self.resize(1080, 690)
        self._contents = contents
        self._review = review
        self._school = review.low_school if review else LowSchool.PERCENTILE
        self._remembered = remembered
        self._files = [_File(path) for path in paths]
        # Many logs are read in processes: a thread of each waits for it.
        self._pool = pool_of(os.cpu_count() or 1) if len(paths) >= MANY_LOGS else None
        self._jobs = Jobs(threads=2 * (os.cpu_count() or 1), parent=self)
        self._progress: dict[int, float] = {}  # by row, of what is still to be read
        # One list for the boxes of all rows: with hundreds of logs, a list each takes seconds.
        cases = [contents.case_label(case) for case in contents.cases] if contents else []
        rigs = [rig.name for rig in contents.rigs.values()] if contents else []
        self._case_names = QStringListModel(cases, self)
        self._rig_names = QStringListModel(rigs, self)
        self._role_names = QStringListModel([str(role) for role in Role], self)
        self._lay_out()
        self._fill_places()
        self._progress |= dict.fromkeys(range(len(self._files)), 0.0)
        for index in range(len(self._files)):
            self._read(index)
        self._update()
        self.table.selectRow(0)

    # Layout

    def _lay_out(self) -> None:
        self.blunt = label("", "blunt")
        self.blunt.setAccessibleName("Blunt line")
        case_row = QHBoxLayout()
        self.case_for_all = self._case_box()
        self.case_for_all.setAccessibleName("Case for all logs")
        line = self.case_for_all.lineEdit()
        assert line is not None
        line.setPlaceholderText("Title / scene / 1080p / High")
        self.case_for_all.editTextChanged.connect(self._on_case_for_all)
        case_row.addWidget(label("Case for all logs", "quiet", wrap=False))
        case_row.addWidget(self.case_for_all, 1)
        self.table = QTableWidget(len(self._files), len(COLUMNS))
        self.table.setAccessibleName("Logs to import")
        self.table.setHorizontalHeaderLabels(COLUMNS)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.setWordWrap(False)
        side, head = self.table.verticalHeader(), self.table.horizontalHeader()
        assert side is not None
        assert head is not None
        side.hide()
        side.setDefaultSectionSize(36)
        head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setObjectName("boxes")
        for column, width in ((0, 240), (1, 72), (2, 72), (3, 210), (4, 130)):
            head.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            head.resizeSection(column, width)
        self.table.currentCellChanged.connect(lambda row, *_: self._show_file(row))
        self.table.setMinimumHeight(36 * min(len(self._files), 5) + 36)
        around = stacked(
            self.blunt, case_row, (self.table, 1), spacing=10, margins=(18, 14, 18, 14), on=self
        )
        self.preview = LogPreview(self._school)
        self.preview.mapping_chosen.connect(self._on_mapping_chosen)
        self.skip_bad = QCheckBox("Use the rows that can be used")
        self.skip_bad.toggled.connect(lambda _on: self._update())
        around.addWidget(self.preview, 2)
        around.addWidget(self.skip_bad)
        around.addLayout(self._lay_out_foot())

    def _lay_out_foot(self) -> QHBoxLayout:
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.stop_reading = QPushButton("Stop reading")
        self.stop_reading.clicked.connect(self._jobs.cancel_all)
        self.problem = label("", "error")
        leave = QPushButton("Cancel")
        leave.clicked.connect(self.reject)
        self.go = QPushButton("Import")
        self.go.setObjectName("primary")
        self.go.setDefault(True)
        self.go.clicked.connect(self._confirm)
        return beside((self.bar, 1), self.stop_reading, (self.problem, 3), leave, self.go)

    def _case_box(self) -> QComboBox:
        box = QComboBox()
        box.setEditable(True)
        box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        box.setModel(self._case_names)
        box.setCurrentIndex(-1)
        return box

    def _fill_places(self) -> None:
        """Propose a rig and a case for every log from the names of the files; where there are
        many, those out of sight while the window is there already.
        """
        self.rig_boxes: list[QComboBox] = []
        self.role_boxes: list[QComboBox] = []
        self.case_boxes: list[QComboBox] = []
        self._names = propose_names([file.stem for file in self._files])
        self._filling = QTimer(self)
        self._filling.timeout.connect(lambda: self._fill_rows(ROWS_AT_A_TIME))
        self._fill_rows(ROWS_AT_ONCE)

    def _fill_rows(self, most: int) -> None:
        """The boxes of the next rows."""
        first = len(self.rig_boxes)
        rows = range(first, min(first + most, len(self._files)))
        for row in rows:
            self._fill_row(row, *self._names[row])
        if rows.stop < len(self._files):
            self._progress[NOT_FILLED] = 0.0
            self._filling.start(0)
            return
        self._filling.stop()
        shared = {box.currentText() for box in self.case_boxes}
        if len(shared) == 1:
            self.case_for_all.setCurrentText(shared.pop())
        self._show_known_roles()
        if self._progress.pop(NOT_FILLED, None) is not None:
            if not self._progress:
                self._propose_roles()
            self._update()

    def _fill_row(self, row: int, rig: str, title: str) -> None:
        file = self._files[row]
        item = QTableWidgetItem(file.error or file.path.name)
        item.setToolTip(file.error or str(file.path))
        self.table.setItem(row, 0, item)
        rig_box = QComboBox()
        rig_box.setEditable(True)
        rig_box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        rig_box.setModel(self._rig_names)
        rig_box.setCurrentText(known_name(file.stem, self._rig_names.stringList()) or rig)
        role_box = QComboBox()
        role_box.setModel(self._role_names)
        role_box.setCurrentText(str(Role.TESTED))
        case_box = self._case_box()
        case_box.setCurrentText(known_name(file.stem, self._case_names.stringList()) or title)
        for column, box, words in (
            (3, rig_box, "Rig"),
            (4, role_box, "Role"),
            (5, case_box, "Case"),
        ):
            box.setAccessibleName(f"{words} of {file.path.name}")
            self.table.setCellWidget(row, column, box)
        rig_box.editTextChanged.connect(lambda _text: self._on_rig_changed())
        case_box.editTextChanged.connect(lambda _text: self._update())
        self.rig_boxes.append(rig_box)
        self.role_boxes.append(role_box)
        self.case_boxes.append(case_box)

    def _on_rig_changed(self) -> None:
        self._show_known_roles()
        self._update()

    def _show_known_roles(self) -> None:
        """A rig that sits in the review already keeps its role."""
        if self._contents is None or self._review is None:
            return
        roles = {self._contents.rigs[seat.rig_id].name: seat.role for seat in self._review.seats}
        for rig_box, role_box in zip(self.rig_boxes, self.role_boxes, strict=True):
            if rig_box.currentText() in roles:
                role_box.setCurrentText(str(roles[rig_box.currentText()]))

    def _on_case_for_all(self, words: str) -> None:
        for box in self.case_boxes:
            box.setCurrentText(words)
            if (line := box.lineEdit()) is not None:
                line.setCursorPosition(0)  # the title is the end worth seeing

    # Reading

    def _read(self, row: int) -> None:
        file = self._files[row]
        chosen = file.chosen

        def work(step: Progress) -> Read:
            if self._pool is None:
                return _read_log(file.path, chosen, self._known_mapping, step)
            step("Reading", 0.1)
            try:
                read = self._pool.submit(_read_log, file.path, chosen).result()
            except BrokenExecutor:  # no process to be had
                return _read_log(file.path, chosen, self._known_mapping, step)
            known = None if chosen else self._known_mapping(read[0].layout.signature)
            if known is None or known == read[0].mapping:
                return read
            return _read_log(file.path, known, None, step)

        def done(result: Read) -> None:
            file.reading, file.figures = result
            file.error = ""
            self._after(row)

        def failed(error: Exception) -> None:
            file.reading = file.figures = None
            file.error = (
                str(error)
                if isinstance(error, UserFixable)
                else f"{file.path.name}: a fault: {error!r}"
            )
            self._after(row)

        def cancelled() -> None:
            file.error = f"{file.path.name}: not read, because reading was stopped."
            self._after(row)

        self._progress[row] = 0.0
        job = self._jobs.run(f"Reading {file.path.name}", work, done, failed, cancelled)
        job.progressed.connect(lambda _words, share: self._on_progress(row, share))

    def _known_mapping(self, signature: str) -> LogMapping | None:
        body = self._remembered(signature)
        return None if body is None else LogMapping.model_validate_json(body)

    def _on_progress(self, row: int, share: float) -> None:
        if row in self._progress:
            self._progress[row] = share
            self._show_progress()

    def _after(self, row: int) -> None:
        file = self._files[row]
        self._progress.pop(row, None)
        figures = file.figures
        item = self.table.item(row, 0)
        if item is not None:
            item.setText(file.error or file.path.name)
            item.setToolTip(file.error or str(file.path))
        low = figures.low_1.by(self._school) if figures else None
        for column, text in (
            (1, fps_text(file.reading.average_fps if file.reading else None)),
            (2, fps_text(low)),
        ):
            cell = QTableWidgetItem(text)
            cell.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.table.setItem(row, column, cell)
        if not self._progress:
            self._propose_roles()
        if row == self.table.currentRow():
            self._show_file(row)
        self._update()

    def _propose_roles(self) -> None:
        has_base = self._review is not None and self._review.rig_in(Role.BASE) is not None
        averages: dict[str, list[float]] = {}
        for file, box in zip(self._files, self.rig_boxes, strict=True):
            if file.reading is not None:
                averages.setdefault(box.currentText(), []).append(file.reading.average_fps)
        if has_base or len(averages) < 2:
            return
        names = list(averages)
        roles = propose_roles([min(averages[name]) for name in names], has_base)
        by_name = dict(zip(names, roles, strict=True))
        for rig_box, role_box in zip(self.rig_boxes, self.role_boxes, strict=True):
            role_box.setCurrentText(str(by_name.get(rig_box.currentText(), Role.TESTED)))

    def _show_file(self, row: int) -> None:
        if 0 <= row < len(self._files):
            file = self._files[row]
            self.preview.show_log(file.path.name, file.reading, file.figures, file.error)

    def _on_mapping_chosen(self, mapping: LogMapping) -> None:
        row = self.table.currentRow()
        if 0 <= row < len(self._files):
            self._files[row].chosen = mapping
            self._read(row)
            self._update()

    # Confirming

    def _ready(self) -> list[int]:
        return [row for row, file in enumerate(self._files) if file.reading is not None]

    def _update(self) -> None:
        ready = self._ready()
        self._show_progress()
        bad = [self._files[row].reading for row in ready]
        with_bad = [reading for reading in bad if reading is not None and reading.bad_rows]
        self.skip_bad.setVisible(bool(with_bad))
        failed = sum(bool(file.error) for file in self._files)
        self.go.setText(f"Import {count_text(len(ready), 'log')}" if ready else "Import")
        problem = self._problem(ready, with_bad)
        self.problem.setText(problem)
        reading = "Wait until the logs are read" if self._progress else ""
        allow(self.go, reading or problem or ("" if ready else "No log could be read"))
        if self._progress:
            done = len(self._files) - len(self._progress)
            self.blunt.setText(f"Reading logs: {done} of {len(self._files)} done.")
        elif failed:
            self.blunt.setText(
                f"{count_text(len(ready), 'log')} can be imported, {failed} cannot: see below."
            )
        else:
            self.blunt.setText(
                f"{count_text(len(ready), 'log')} read. Check what was found, say where each "
                "belongs, and import."
            )

    def _problem(self, ready: list[int], with_bad: list[LogReading]) -> str:
        if self._progress or not ready:
            return ""
        if with_bad and not self.skip_bad.isChecked():
            said = bad_rows_text(with_bad[0].bad_rows, with_bad[0].usable)
            return f"{with_bad[0].path.name}: {said}. Mend the log, or use the rows that can be."
        for row in ready:
            name = self._files[row].path.name
            reading = self._files[row].reading
            if reading is not None and reading.asks:
                return f"{name} can be read in two ways: choose one beside its rows."
            if not self.rig_boxes[row].currentText().strip():
                return f"{name}: no rig is named for it."
            try:
                parse_case(self.case_boxes[row].currentText())
            except UserFixable as error:
                return f"{name}: {error.what}. {error.fix}."
        return ""

    def _show_progress(self) -> None:
        reading = bool(self._progress)
        self.bar.setVisible(reading)
        self.stop_reading.setVisible(reading)
        done = len(self._files) - len(self._progress) + sum(self._progress.values())
        self.bar.setValue(round(1000 * done / max(len(self._files), 1)))

    def _confirm(self) -> None:
        arrivals: list[tuple[Arrival, Trace | None]] = []
        mappings: dict[str, str] = {}
        for row in self._ready():
            file = self._files[row]
            reading = file.reading
            assert reading is not None
            mappings[reading.layout.signature] = reading.mapping.model_dump_json()
            arrival = arrival_of(
                reading,
                self.rig_boxes[row].currentText(),
                parse_case(self.case_boxes[row].currentText()),
                role=Role(self.role_boxes[row].currentText()),
            )
            arrivals.append((arrival, reading.trace))
        self.confirmed.emit(arrivals, mappings)
        self.accept()

    def done(self, result: int) -> None:
        """Closing in any way stops what is still being read."""
        self._stop_reading()
        super().done(result)

    def _stop_reading(self) -> None:
        self._filling.stop()
        self._jobs.cancel_all()
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
        self._jobs.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._stop_reading()
        super().closeEvent(event)
