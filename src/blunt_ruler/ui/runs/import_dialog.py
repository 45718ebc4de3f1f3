"""Import logs: what was found in each, where it belongs, and a look before it is taken in."""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import BrokenExecutor
from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.records.records import Contents, Review, Role, Trace
from blunt_ruler.core.runs.import_runs import (
    Arrival,
    known_name,
    parse_case,
    roles_by_rates,
)
from blunt_ruler.core.text import count_text
from blunt_ruler.core.types import Progress
from blunt_ruler.exchange.file_names import proposed
from blunt_ruler.exchange.logs.figures import Taken, read_each, read_with_figures
from blunt_ruler.exchange.logs.frame_logs import LogReading, arrival_of, bad_rows_text
from blunt_ruler.exchange.logs.words import LogMapping
from blunt_ruler.folders import told_apart, words_of
from blunt_ruler.processes import CHUNK, FEWEST, pool_of
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label
from blunt_ruler.ui.runs.import_rows import CASE, RIG, ROLE, LogRow, LogRows, LogTable
from blunt_ruler.ui.runs.log_preview import LogPreview

Remembered = Callable[[str], str | None]

CORES = os.cpu_count() or 1
SOON_MS = 30  # many logs come in at once: what is said of all is said once for some of them


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
        # Many logs are read in processes, which start while this is laid out: a thread of each
        # waits for it.
        self._pool = pool_of(CORES, read_each.__module__) if len(paths) >= FEWEST else None
        self.setWindowTitle("Import logs")
        self.resize(1080, 690)
        self._contents = contents
        self._review = review
        self._school = review.low_school if review else LowSchool.PERCENTILE
        self._remembered = remembered
        self._mappings: dict[str, LogMapping | None] = {}  # by header, as far as asked for
        cases = [contents.case_label(case) for case in contents.cases] if contents else []
        rigs = [rig.name for rig in contents.rigs.values()] if contents else []
        self._names = {RIG: rigs, ROLE: [str(role) for role in Role], CASE: cases}
        self._files = [
            LogRow(path, one) for path, one in zip(paths, told_apart(paths), strict=True)
        ]
        self.rows = LogRows(self._files, self._school)
        self._place_all()
        self._jobs = Jobs(threads=2 * CORES, parent=self)
        self._progress: dict[int, float] = {}  # by row, of what is still to be read
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._update)
        self._lay_out()
        rows = range(len(self._files))
        if self._pool is None:
            for row in rows:
                self._read(row)
        else:
            for start in rows[::CHUNK]:
                self._read_many(rows[start : start + CHUNK])
        self._update()
        self.table.selectRow(0)

    # Layout

    def _lay_out(self) -> None:
        self.blunt = label("", "blunt")
        self.blunt.setAccessibleName("Blunt line")
        case_row = QHBoxLayout()
        self.case_for_all = QComboBox()
        self.case_for_all.addItems(self._names[CASE])
        self.case_for_all.setEditable(True)
        self.case_for_all.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.case_for_all.setAccessibleName("Case for all logs")
        shared = {file.case for file in self._files}
        self.case_for_all.setCurrentText(shared.pop() if len(shared) == 1 else "")
        line = self.case_for_all.lineEdit()
        assert line is not None
        line.setPlaceholderText("Title / scene / 1080p / High")
        self.case_for_all.editTextChanged.connect(lambda words: self.rows.place_all(CASE, words))
        case_row.addWidget(label("Case for all logs", "quiet", wrap=False))
        case_row.addWidget(self.case_for_all, 1)
        self.table = LogTable(self.rows, self._names)
        self.table.row_chosen.connect(self._show_file)
        self.rows.placed.connect(self._on_placed)
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

    def _place_all(self) -> None:
        """Propose a rig and a case for every log from the names of the files."""
        for file, found in zip(
            self._files, proposed([file.shown for file in self._files]), strict=True
        ):
            name = words_of(file.shown)
            file.rig = known_name(name, self._names[RIG]) or found.rig
            file.case = known_name(name, self._names[CASE]) or found.case
        self._give_known_roles()

    def _on_placed(self, column: int) -> None:
        if column == RIG:
            self._give_known_roles()
        self._update()

    def _give_known_roles(self) -> None:
        """A rig that sits in the review already keeps its role."""
        if self._contents is None or self._review is None:
            return
        roles = {self._contents.rigs[seat.rig_id].name: seat.role for seat in self._review.seats}
        for row, file in enumerate(self._files):
            if file.rig in roles:
                self.rows.place(row, ROLE, str(roles[file.rig]))

    # Reading

    def _read(self, row: int) -> None:
        """Read one log, again where something was chosen for it."""
        file = self._files[row]
        chosen = file.chosen

        def work(step: Progress) -> list[Taken]:
            return [read_with_figures(file.path, chosen, self._known_mapping, step)]

        self._run([row], work)

    def _read_many(self, rows: Sequence[int]) -> None:
        """Read some of many logs, in a process."""
        paths = [self._files[row].path for row in rows]

        def work(step: Progress) -> list[Taken]:
            step("Reading", 0.1)
            assert self._pool is not None
            try:
                taken = self._pool.submit(read_each, paths).result()
            except BrokenExecutor:  # no process to be had
                taken = read_each(paths)
            return [self._as_remembered(path, one) for path, one in zip(paths, taken, strict=True)]

        self._run(rows, work)

    def _as_remembered(self, path: Path, taken: Taken) -> Taken:
        """What was read without what is remembered of such logs, or the log read with it."""
        if isinstance(taken, Exception):
            return taken
        known = self._known_mapping(taken[0].layout.signature)
        if known is None or known == taken[0].mapping:
            return taken
        return read_with_figures(path, known)

    def _run(self, rows: Sequence[int], work: Callable[[Progress], list[Taken]]) -> None:
        def take(row: int, one: Taken) -> None:
            file = self._files[row]
            file.error = ""
            if not isinstance(one, Exception):
                file.reading, file.figures = one
                return
            file.reading = file.figures = None
            fixable = isinstance(one, UserFixable)
            file.error = str(one) if fixable else f"{file.shown}: a fault: {one!r}"

        def done(taken: list[Taken]) -> None:
            for row, one in zip(rows, taken, strict=True):
                take(row, one)
            self._after(rows)

        def failed(error: Exception) -> None:
            for row in rows:
                take(row, error)
            self._after(rows)

        def cancelled() -> None:
            for row in rows:
                name = self._files[row].shown
                self._files[row].error = f"{name}: not read, because reading was stopped."
            self._after(rows)

        self._progress |= dict.fromkeys(rows, 0.0)
        job = self._jobs.run("Reading logs", work, done, failed, cancelled)
        job.progressed.connect(lambda _words, share: self._on_progress(rows, share))

    def _known_mapping(self, signature: str) -> LogMapping | None:
        if signature not in self._mappings:  # the logbook is opened for it
            body = self._remembered(signature)
            known = None if body is None else LogMapping.model_validate_json(body)
            self._mappings[signature] = known
        return self._mappings[signature]

    def _on_progress(self, rows: Sequence[int], share: float) -> None:
        self._progress |= {row: share for row in rows if row in self._progress}
        self._show_progress()

    def _after(self, rows: Sequence[int]) -> None:
        for row in rows:
            self._progress.pop(row, None)
        self.rows.show_rows(rows[0], rows[-1])
        if self.table.currentIndex().row() in rows:
            self._show_file(self.table.currentIndex().row())
        if not self._progress:
            self._propose_roles()
            self._update()
        elif not self._soon.isActive():
            self._soon.start()

    def _propose_roles(self) -> None:
        has_base = self._review is not None and self._review.rig_in(Role.BASE) is not None
        averages: dict[str, list[float]] = {}
        for file in self._files:
            if file.reading is not None:
                averages.setdefault(file.rig, []).append(file.reading.average_fps)
        if has_base or len(averages) < 2:
            return
        by_name = roles_by_rates(averages)
        for file in self._files:
            file.role = str(by_name.get(file.rig, Role.TESTED))
        self.rows.show_rows(0, len(self._files) - 1)

    def _show_file(self, row: int) -> None:
        if 0 <= row < len(self._files):
            file = self._files[row]
            self.preview.show_log(str(file.shown), file.reading, file.figures, file.error)

    def _on_mapping_chosen(self, mapping: LogMapping) -> None:
        row = self.table.currentIndex().row()
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
            name = self._files[row].shown
            reading = self._files[row].reading
            if reading is not None and reading.asks:
                several = reading.asks[0].mapping.rows_of
                what = "holds several sources" if several else "can be read in two ways"
                return f"{name} {what}: choose one beside its rows."
            if not self._files[row].rig.strip():
                return f"{name}: no rig is named for it."
            try:
                parse_case(self._files[row].case)
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
                file.rig,
                parse_case(file.case),
                role=Role(file.role),
            )
            arrivals.append((arrival, reading.trace))
        self.confirmed.emit(arrivals, mappings)
        self.accept()

    def done(self, result: int) -> None:
        """Closing in any way stops what is still being read."""
        self._stop_reading()
        super().done(result)

    def _stop_reading(self) -> None:
        self._soon.stop()
        self._jobs.cancel_all()
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
        self._jobs.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._stop_reading()
        super().closeEvent(event)
