"""Read a recording: look at it, box its counters, mark its passes, settle doubts, take runs in."""

import time
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QListWidget,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.recordings.passes import figures_of, overlapping, pass_of
from blunt_ruler.core.recordings.quantities import (
    MEANINGS,
    RATES,
    Box,
    Quantity,
    box_words,
    parse_box,
)
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.core.text import count_text
from blunt_ruler.core.types import Progress
from blunt_ruler.exchange.recordings.apart import in_own_process
from blunt_ruler.exchange.recordings.decoding import RecordingFacts
from blunt_ruler.exchange.recordings.evidence import pictures_of_each
from blunt_ruler.exchange.recordings.shown import ShownPicture, facts_apart, picture_apart
from blunt_ruler.exchange.recordings.whole import (
    Asked,
    WholeReading,
    arriving_passes,
    look_at,
    read_whole,
)
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label
from blunt_ruler.ui.runs.read_into import known_names, place_boxes, quantity_box, why_not_into
from blunt_ruler.ui.runs.recording_doubts import Doubt, Doubts
from blunt_ruler.ui.runs.recording_picture import RecordingPicture
from blunt_ruler.ui.runs.recording_strip import RecordingStrip, Span

SOON_MS = 40  # while one scrubs, only the last moment is decoded
MOST_DOUBTS = 200


class RecordingDialog(QDialog):
    """Reads one recording off the interface thread and hands on what the reviewer confirms.

    Signals:
        confirmed(list): passes on their way in, as `arriving_passes` gives them.
    """

    confirmed = pyqtSignal(object)

    def __init__(
        self,
        path: Path,
        contents: Contents | None,
        review: Review | None,
        settings: Settings | None = None,
        parent: QWidget | None = None,
        *,
        cell: tuple[str, str] = ("", ""),
        at_s: float = 0.0,
        boxes: tuple[Box, ...] | None = None,
    ) -> None:
        """`cell` is the rig and the case, by name, that a recording was dropped on; `at_s` where
        to look first; `boxes` are sought where none are given.
        """
        super().__init__(parent)
        self.setWindowTitle("Read a recording")
        self.resize(1180, 720)
        self._path = path
        self._facts: RecordingFacts | None = None
        self._found: WholeReading | None = None
        self._warned = self._recognised = False
        self._cell = cell
        self._starts_at_s, self._given = at_s, boxes
        self._settings = settings
        self._names = known_names(contents, review)
        self._jobs = Jobs(threads=2, parent=self)
        self._job: Job | None = None
        self._began = 0.0
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._fetch)
        self._fetching = False
        self._lay_out()
        self._say(f"Opening {path.name} …")
        self._jobs.run("Opening", lambda _step: facts_apart(path), self._on_facts, self._on_failed)

    # Layout

    def _lay_out(self) -> None:
        self.blunt = label("", "blunt")
        self.blunt.setAccessibleName("Blunt line")
        self.picture = RecordingPicture()
        self.picture.boxes_changed.connect(self._on_boxes)
        self.picture.box_chosen.connect(lambda at: self.list.setCurrentRow(at))
        self.strip = RecordingStrip()
        self.strip.moved.connect(lambda _s: self._soon.start())
        self.strip.span_changed.connect(self._on_span)
        left = stacked((self.picture, 1), self.strip, 4, self._lay_out_found(), spacing=6)
        inside = QWidget()
        stacked(
            *self._lay_out_counters(),
            10,
            *self._lay_out_passes(),
            STRETCH,
            spacing=6,
            margins=(2, 0, 8, 0),
            on=inside,
        )
        side = QScrollArea()
        side.setWidget(inside)
        side.setWidgetResizable(True)
        side.setFrameShape(QScrollArea.Shape.NoFrame)
        side.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is inside takes the keys
        side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side.setMinimumWidth(400)
        around: QVBoxLayout = stacked(self.blunt, spacing=10, margins=(18, 14, 18, 14), on=self)
        around.addLayout(beside((left, 5), (side, 3), spacing=16), 1)
        around.addLayout(self._lay_out_foot())

    def _lay_out_counters(self) -> list[QWidget | QHBoxLayout]:
        self.list = QListWidget()
        self.list.setAccessibleName("Counters")
        self.list.setMaximumHeight(108)
        self.list.currentRowChanged.connect(self._on_row)
        self.what = quantity_box("What the chosen box shows")
        self.what.activated.connect(self._on_what)
        remove = QPushButton("Remove")
        remove.clicked.connect(self.picture.remove_chosen)
        self.find_button = QPushButton("Find counters")
        self.find_button.clicked.connect(self._find)
        self.count = QCheckBox("Count the pictures that are new")
        self.count.setToolTip(
            "Frame times in steps of the recorder's period, where the game was slower than it"
        )
        return [
            label("COUNTERS", "heading"),
            label("Drag a box round each figure. Arrows move it, Delete takes it away.", "quiet"),
            self.list,
            beside((self.what, 1), remove, self.find_button, spacing=6),
            self.count,
        ]

    def _lay_out_passes(self) -> list[QWidget | QHBoxLayout]:
        self.passes = QListWidget()
        self.passes.setAccessibleName("Passes")
        self.passes.setMaximumHeight(84)
        self.passes.currentRowChanged.connect(self._on_pass)
        begin, end = QPushButton("Begin here"), QPushButton("End here")
        begin.clicked.connect(lambda: self.strip.put_end(self.strip.chosen, 0, self.strip.at_s))
        end.clicked.connect(lambda: self.strip.put_end(self.strip.chosen, 1, self.strip.at_s))
        self.add_pass, self.drop_pass = QPushButton("Add a pass"), QPushButton("Remove")
        self.add_pass.clicked.connect(self._add_pass)
        self.drop_pass.clicked.connect(self._drop_pass)
        self.rig, self.case = place_boxes(*self._names, self._cell, self._path.stem)
        self._placed: list[tuple[str, str] | None] = [None]
        for box in (self.rig, self.case):
            box.editTextChanged.connect(lambda _words: self._on_placed())
        return [
            label("PASSES", "heading"),
            self.passes,
            beside(begin, end, self.add_pass, self.drop_pass, STRETCH, spacing=6),
            beside(label("of", "quiet", wrap=False), (self.rig, 2), spacing=6),
            beside(label("in", "quiet", wrap=False), (self.case, 2), spacing=6),
        ]

    def _lay_out_found(self) -> QWidget:
        self.doubts = Doubts()
        self.doubts.settled.connect(self._on_settled)
        self.doubts.looked_at.connect(self.strip.look_at)
        self.doubts.ended.connect(self._show_found)
        self.figures = label("", "says")
        self.notes = label("", "quiet")
        said = stacked(self.figures, self.notes, STRETCH, spacing=4)
        found = QWidget()
        beside((said, 1), (self.doubts, 1), spacing=16, on=found)
        return found

    def _lay_out_foot(self) -> QHBoxLayout:
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setVisible(False)
        self.stop = QPushButton("Stop reading")
        self.stop.clicked.connect(self._stop)
        self.stop.setVisible(False)
        self.speed = label("", "quiet", wrap=False)
        self.problem = label("", "error")
        leave = QPushButton("Cancel")
        leave.clicked.connect(self.reject)
        self.read = QPushButton("Read")
        self.read.setToolTip("Read the boxes, and count pictures where that is ticked")
        self.read.clicked.connect(self._read)
        self.go = QPushButton("Take in")
        self.go.setObjectName("primary")
        self.go.clicked.connect(self._confirm)
        for button in (leave, self.read, self.go):
            button.setAutoDefault(False)
        return beside(
            (self.bar, 1), self.speed, self.stop, (self.problem, 3), leave, self.read, self.go
        )

    def _say(self, words: str) -> None:
        self.blunt.setText(words)

    # Opening, and pictures

    def _on_facts(self, facts: RecordingFacts) -> None:
        self._facts = facts
        self.strip.show_recording(facts.duration_s, facts.fps)
        self._put_spans([(0.0, facts.duration_s)], 0)
        self.strip.look_at(self._starts_at_s or facts.duration_s / 2)
        if self._given is None:
            self._find()
        else:
            self._on_boxes_found((facts, self._given, False))

    def _on_failed(self, error: Exception) -> None:
        self._job = None
        words = str(error) if isinstance(error, UserFixable) else f"It cannot be read: {error}"
        self._say("Nothing was read." if self._facts is None else self._line())
        self.problem.setText(words)
        if self._facts is None:
            self.picture.show_words(words)
        self._show_work(False)

    def _fetch(self) -> None:
        """Decode the picture one looks at; one at a time, the last one wanted."""
        if self._facts is None or self._fetching:
            return
        facts, second = self._facts, self.strip.at_s
        self._fetching = True

        def done(picture: ShownPicture) -> None:
            self._fetching = False
            self.picture.show_picture(picture.width, picture.height, picture.points)
            if abs(self.strip.at_s - second) > 1e-6:
                self._fetch()

        def failed(error: Exception) -> None:
            self._fetching = False
            self.picture.show_words(str(error))

        self._jobs.run("Decoding", lambda _step: picture_apart(facts, second), done, failed)

    # Boxes

    def _find(self) -> None:
        """Look for counters, in a process of its own."""
        if self._facts is None or self._job is not None:
            return
        path, known = self._path, self._known_layouts()

        def work(step: Progress) -> tuple[RecordingFacts, tuple[Box, ...], bool]:
            return in_own_process(path, look_at, (path, known), step)

        self._begin("Looking for counters", work, self._on_boxes_found)

    def _size(self) -> str:
        assert self._facts is not None
        return f"{self._facts.width}x{self._facts.height}"

    def _known_layouts(self) -> list[tuple[Box, ...]]:
        """The boxes of overlays read before, on recordings of this size."""
        found = []
        for words in self._settings.layouts(self._size()) if self._settings is not None else ():
            with suppress(UserFixable):  # somebody may have written there
                found.append(tuple(parse_box(one) for one in words.split()))
        return found

    def _on_boxes_found(self, found: tuple[RecordingFacts, tuple[Box, ...], bool]) -> None:
        self._job = None
        _, boxes, self._recognised = found
        self.picture.show_boxes(boxes, 0 if boxes else -1)
        if not boxes:
            self.count.setChecked(True)
        self._on_boxes()
        self._show_work(False)
        self.picture.setFocus()

    def _on_boxes(self) -> None:
        """Boxes changed: what was read of others is no longer shown."""
        self._found = None
        self._list_boxes()
        self._show_found()

    def _list_boxes(self) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for box in self.picture.boxes:
            words = MEANINGS[box.quantity].words
            self.list.addItem(f"{words}   {box.w} × {box.h} at {box.x}, {box.y}")
        self.list.setCurrentRow(self.picture.chosen)
        self.list.blockSignals(False)
        self._show_what()

    def _on_row(self, row: int) -> None:
        self.picture.show_boxes(self.picture.boxes, row)
        self._show_what()

    def _show_what(self) -> None:
        at = self.picture.chosen
        there = 0 <= at < len(self.picture.boxes)
        allow(self.what, "" if there else "Choose a box first")
        if there:
            self.what.setCurrentIndex(self.what.findData(self.picture.boxes[at].quantity))

    def _on_what(self, index: int) -> None:
        at = self.picture.chosen
        if 0 <= at < len(self.picture.boxes):
            boxes = list(self.picture.boxes)
            boxes[at] = replace(boxes[at], quantity=self.what.itemData(index))
            self.picture.show_boxes(boxes, at)
            self._on_boxes()

    # Passes

    def _place(self, at: int) -> tuple[str, str]:
        """Rig and case of a pass, by name: its own, else those of the pass before."""
        own = [one for one in self._placed[: at + 1] if one is not None]
        return own[-1] if own else (self.rig.currentText(), self.case.currentText())

    def _on_placed(self) -> None:
        """What is written holds for the chosen pass, and for those behind that have none."""
        at = min(max(self.strip.chosen, 0), len(self._placed) - 1)
        self._placed[at] = (self.rig.currentText(), self.case.currentText())
        self._update()

    def _show_place(self, at: int) -> None:
        for box, words in zip((self.rig, self.case), self._place(at), strict=True):
            box.blockSignals(True)
            box.setEditText(words)
            box.blockSignals(False)

    def _put_spans(self, spans: Sequence[Span], chosen: int) -> None:
        more: list[tuple[str, str] | None] = [None] * len(spans)
        self._placed = [*self._placed, *more][: len(spans)]
        self.strip.show_spans(spans, chosen)
        self.passes.blockSignals(True)
        self.passes.clear()
        for at, (from_s, to_s) in enumerate(spans, start=1):
            self.passes.addItem(f"pass {at}   {from_s:.2f} to {to_s:.2f} s, {to_s - from_s:.1f} s")
        self.passes.setCurrentRow(chosen)
        self.passes.blockSignals(False)
        self._show_found()

    def _on_span(self, at: int, _from_s: float, _to_s: float) -> None:
        self._put_spans(self.strip.spans, at)

    def _on_pass(self, row: int) -> None:
        if 0 <= row < len(self.strip.spans):
            self.strip.show_spans(self.strip.spans, row)
            self._show_place(row)
            self.strip.look_at(self.strip.spans[row][0])

    def _add_pass(self) -> None:
        if self._facts is None:
            return
        start = self.strip.at_s
        end = min(start + 30.0, self._facts.duration_s)
        self._put_spans([*self.strip.spans, (max(min(start, end - 0.5), 0.0), end)],
                        len(self.strip.spans))  # fmt: skip

    def _drop_pass(self) -> None:
        spans = self.strip.spans
        if len(spans) > 1:
            del spans[self.strip.chosen]
            del self._placed[self.strip.chosen]
            self._put_spans(spans, min(self.strip.chosen, len(spans) - 1))

    # Reading

    def _read(self) -> None:
        if self._facts is None or self._job is not None:
            return
        path = self._path
        asked = Asked(tuple(self.picture.boxes), count=self.count.isChecked(), cut=True)

        def work(step: Progress) -> WholeReading:
            return in_own_process(path, read_whole, (path, asked), step)

        self._begin("Reading", work, self._on_read)

    def _begin(self, words: str, work: object, done: object) -> None:
        self.problem.setText("")
        self._began = time.monotonic()
        self._job = self._jobs.run(words, work, done, self._on_failed, self._on_stopped)  # type: ignore[arg-type]
        self._job.progressed.connect(self._on_progress)
        self._show_work(True)

    def _on_progress(self, words: str, share: float) -> None:
        self.bar.setValue(round(1000 * share))
        took = time.monotonic() - self._began
        said = words
        if words == "Reading" and self._facts is not None and share > 0.05:
            said = f"{words}, {share * self._facts.duration_s / max(took, 0.1):.1f} × real time"
        self.speed.setText(said)

    def _stop(self) -> None:
        if self._job is not None:
            self._job.cancel()

    def _on_stopped(self) -> None:
        self._job = None
        self._show_work(False)

    def _show_work(self, going: bool) -> None:
        for widget in (self.bar, self.stop):
            widget.setVisible(going)
        self.problem.setVisible(not going)
        if going:
            self.bar.setValue(0)
            self.speed.setText("")
        self._update()

    def _on_read(self, found: WholeReading) -> None:
        self._job = None
        self._found = found
        self.strip.stretches = found.stretches
        whole = [(0.0, found.facts.duration_s)]
        spans = [(one.from_s, one.to_s) for one in found.passes]
        # Proposed passes stand where nobody has marked any.
        self._put_spans(spans if self.strip.spans == whole and spans else self.strip.spans, 0)
        self._show_work(False)
        self.doubts.ask(self._all_doubts())
        self._show_found()

    def _all_doubts(self) -> list[Doubt]:
        """What is asked about inside the passes, frame rates first."""
        assert self._found is not None
        read = self._found.read
        doubts = [
            Doubt(at, series.quantity, held, crops.get(held.from_s))
            for at, (series, crops) in enumerate(zip(read.series, read.crops, strict=True))
            for held in series.asked
            if any(from_s < held.to_s and held.from_s < to_s for from_s, to_s in self.strip.spans)
        ]
        return sorted(doubts, key=lambda one: one.quantity not in RATES)[:MOST_DOUBTS]

    def _on_settled(self, doubt: Doubt, value: float | None) -> None:
        if self._found is None:
            return
        read = self._found.read
        series = list(read.series)
        series[doubt.series] = series[doubt.series].with_answers({doubt.held.from_s: value})
        self._found = replace(self._found, read=replace(read, series=tuple(series)))
        self._show_found()

    # What was found

    def _read_passes(self) -> WholeReading | None:
        """The reading cut to the passes as they stand now."""
        if self._found is None:
            return None
        passes = tuple(
            pass_of(self._found.read.series, self._found.counted, *span)
            for span in self.strip.spans
        )
        return replace(self._found, passes=passes)

    def _show_found(self) -> None:
        now = self._read_passes()
        if now is None:
            self.doubts.setVisible(False)
            self.figures.setText("")
            self.notes.setText("")
            self._update()
            return
        lines, notes = [], []
        for at, one in enumerate(now.passes, start=1):
            figures = figures_of(one)
            average = figures.average
            if average is None:
                lines.append(f"Pass {at}: no frame rate is sure")
            else:
                low = f", 1% low {figures.low_1_fps:.1f}" if figures.low_1_fps else ""
                lines.append(
                    f"Pass {at}: {average.average:.1f} fps "
                    f"({average.low_95:.1f} to {average.high_95:.1f}){low}"
                )
            notes += [note for note in figures.notes if note not in notes]
        if now.why_not_counted:
            notes.append(f"the pictures cannot be counted: {now.why_not_counted}")
        asked = sum(one.asked for one in now.passes)
        if asked:
            notes.append(f"{count_text(asked, 'figure')} in doubt stay out until they are settled")
        self.figures.setText("\n".join(lines))
        self.notes.setText("\n".join(f"{note[0].upper()}{note[1:]}." for note in notes))
        self._update()

    def _line(self) -> str:
        facts = self._facts
        if facts is None:
            return f"Opening {self._path.name} …"
        said = (
            f"{facts.path.name}: {facts.duration_s:.1f} s of {facts.width} × {facts.height} at "
            f"{facts.fps:.4g} fps"
        )
        if self._job is not None:
            return said
        counters = sum(box.quantity is not Quantity.IGNORE for box in self.picture.boxes)
        if not counters:
            return f"{said}, no counter"
        again = ", as read before" if self._recognised else ""
        return f"{said}, {count_text(counters, 'counter')}{again}"

    def _why_not(self) -> str:
        """Why the runs cannot be taken in yet; blank when they can."""
        if self._job is not None:
            return "Wait until it is read"
        now = self._read_passes()
        if now is None:
            return "Read it first"
        for at, one in enumerate(now.passes, 1):
            if figures_of(one).average is None:
                return f"Pass {at} has no frame rate that is sure"
        if (both := overlapping(self.strip.spans)) is not None:
            return f"Passes {both[0] + 1} and {both[1] + 1} overlap: move an end of one"
        for at in range(len(self.strip.spans)):
            which = f" of pass {at + 1}" if len(self.strip.spans) > 1 else ""
            if why := why_not_into(*self._place(at), which):
                return why
        return ""

    def _update(self) -> None:
        self._say(self._line())
        going = self._job is not None
        has_work = bool(self.picture.boxes) or self.count.isChecked()
        ready = self._facts is not None and not going
        allow(self.read, "" if ready and has_work else "Draw a box, or tick counting")
        allow(self.find_button, "" if ready else "Wait until it is read")
        allow(self.drop_pass, "" if len(self.strip.spans) > 1 else "One pass stays")
        why = self._why_not()
        allow(self.go, why)
        if not going:
            self.speed.setText(f"{why}." if why and self._found is not None else "")
        self.go.setText(f"Take in {count_text(len(self.strip.spans), 'run')}")

    def _confirm(self) -> None:
        now = self._read_passes()
        if now is None or self._why_not() or self._facts is None:
            return
        path, facts, spans = self._path, self._facts, list(self.strip.spans)
        named = [self._place(at) for at in range(len(spans))]
        places = [(rig.strip(), parse_case(case)) for rig, case in named]

        def work(step: Progress) -> list[object]:
            shown = (facts, now.read.boxes, spans)
            kept = replace(now, pictures=in_own_process(path, pictures_of_each, shown, step))
            return list(arriving_passes(path, kept, places))

        def done(arriving: list[object]) -> None:
            self._job = None
            if self._settings is not None:
                self._settings.set_recording(now.sha256, path)
                words = " ".join(box_words(box) for box in now.read.boxes)
                if words:
                    self._settings.add_layout(self._size(), words)
            self.confirmed.emit(arriving)
            self.accept()

        self._begin("Keeping pictures", work, done)

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        busy = self._job is not None or self._found is not None
        escape = a0 is not None and a0.key() == Qt.Key.Key_Escape
        if escape and busy and not self._warned:
            self._warned = True
            self.problem.setText("Nothing is taken in yet. Esc once more closes it.")
            return
        super().keyPressEvent(a0)

    def done(self, a0: int) -> None:
        self._jobs.close()
        super().done(a0)

    def closeEvent(self, a0: QCloseEvent | None) -> None:
        self._jobs.close()
        super().closeEvent(a0)
