"""Trouble on the chosen rig: what is seen, what it can be, the next test, and the diary."""

from collections.abc import Sequence
from datetime import datetime

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QComboBox, QPushButton, QSizePolicy, QWidget

from blunt_ruler.core.records.diary import DiaryEntry
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.trouble.diagnosis import Diagnosis, Ranked
from blunt_ruler.core.trouble.diary import (
    diagnosis_of,
    drop_entry,
    entries_of,
    note_answer,
    note_cure,
    note_symptom,
    open_trouble,
    taken_as,
    trouble_line,
)
from blunt_ruler.core.trouble.knowledge import Knowledge, Trial
from blunt_ruler.exchange.trouble import knowledge
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import Parts, allow, label

SHOWN, ROW = 6, 26  # causes in sight, and pixels for each


class CausesView(QWidget):
    """The likeliest causes as bars, with their shares in figures."""

    def __init__(self) -> None:
        super().__init__()
        self._causes: Sequence[Ranked] = ()
        self.setFixedHeight(SHOWN * ROW + 4)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Likely causes")

    def show_causes(self, causes: Sequence[Ranked]) -> None:
        """Show the likeliest of some causes."""
        self._causes = causes[:SHOWN]
        told = [f"{one.share * 100:.0f} per cent: {one.words}" for one in self._causes]
        self.setAccessibleDescription("; ".join(told))
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setFont(theme.font(theme.BODY))
        for place, one in enumerate(self._causes):
            y = place * ROW
            width = (self.width() - 60) * one.share
            painter.fillRect(QRectF(52, y + ROW - 6, max(width, 1.0), 3), QColor(colours.blue))
            painter.setPen(QColor(colours.ink))
            row = QRectF(0, y, 44, ROW - 6)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(row, int(right), f"{one.share * 100:.0f}\u202f%")
            words = painter.fontMetrics().elidedText(
                one.words, Qt.TextElideMode.ElideRight, self.width() - 56
            )
            left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(52, y, self.width() - 52, ROW - 6), int(left), words)


class TroublePage(Page):
    """One trouble of the chosen rig at a time; its diary below."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self._contents: Contents | None = None
        self._known: Knowledge = knowledge()
        self._found: Diagnosis | None = None
        self._skipped: set[str] = set()
        self.seen = QComboBox()
        self.seen.setEditable(True)
        self.seen.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.seen.addItems([*self._known.symptoms.values()])
        self.seen.setCurrentText("")
        self.seen.setAccessibleName("What is seen: choose, or type")
        edit = self.seen.lineEdit()
        assert edit is not None
        edit.setPlaceholderText("What is seen? Choose, or type")
        edit.returnPressed.connect(self.note)
        self.when = QComboBox()
        self.when.addItems(["when?", *self._known.times.values()])
        self.when.setAccessibleName("When it shows")
        self.add = QPushButton("Note it")
        self.add.clicked.connect(self.note)
        self.causes = CausesView()
        self.do = label("", "head")
        self.asks = label("")
        for words in (self.do, self.asks):
            words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.cautions = label("", "coming")
        self.yes, self.no = QPushButton("&Yes"), QPushButton("&No")
        self.yes.clicked.connect(lambda: self.answer(True))
        self.no.clicked.connect(lambda: self.answer(False))
        self.other = QPushButton("Another &test")
        self.other.setToolTip("Leave this one out for now")
        self.other.clicked.connect(self._on_other)
        self.was = QComboBox()
        self.was.setAccessibleName("What it was")
        self.cured = QPushButton("&Cured: it was this")
        self.cured.clicked.connect(self._on_cured)
        self.table = RowsTable("Diary of the rig", self._columns(), lambda one: one.id)
        self.table.wrap_words()
        self.drop = QPushButton("Delete entry")
        self.drop.clicked.connect(self._on_drop)
        stacked(
            beside((self.seen, 2), (self.when, 1), self.add, spacing=6),
            beside(
                (self.causes, 1),
                (
                    stacked(
                        label("NEXT TEST", "heading"),
                        self.do,
                        self.asks,
                        self.cautions,
                        beside(self.yes, self.no, self.other, STRETCH, spacing=6),
                        STRETCH,
                        spacing=5,
                    ),
                    1,
                ),
                spacing=18,
            ),
            beside(self.cured, (self.was, 1), self.drop, spacing=6),
            (self.table, 1),
            spacing=7,
            on=self,
        )
        self._tell()

    def _columns(self) -> tuple[Column, ...]:
        return (
            Column("When", lambda one: one.at.replace("T", " ")[:16], 134),
            Column("What", _kind_of, 62),
            Column("In words", self._in_words, tip=self._in_words),
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the trouble of the chosen rig."""
        contents = self._contents = snapshot.contents
        rig = self._chosen.rig
        there = rig in contents.rigs
        self._found = diagnosis_of(contents, rig, self._known) if there else None
        if not there or not open_trouble(contents, rig):
            self._skipped.clear()
        entries = entries_of(contents, rig) if there else ()
        is_longer = len(entries) > len(self.table.rows_model.rows)
        self.table.show_rows(entries)
        if is_longer:  # the latest is in sight
            self.table.scrollToBottom()
        self._tell()

    def _in_words(self, entry: DiaryEntry) -> str:
        taken = taken_as(entry, self._known)
        return f"{entry.says} (taken as: {taken})" if taken else entry.says

    # What one does

    @property
    def _now(self) -> str:
        return datetime.now().isoformat(timespec="minutes")

    @property
    def proposed(self) -> Trial | None:
        """The test that is shown."""
        tests = self._found.tests if self._found is not None else ()
        return next((one.test for one in tests if one.test.key not in self._skipped), None)

    def note(self) -> None:
        """Note what is seen, and when."""
        words = self.seen.currentText().strip()
        rig = self._chosen.rig
        if not words or self._contents is None or rig not in self._contents.rigs:
            return
        keys = {says: key for key, says in self._known.symptoms.items()}
        times = {says: key for key, says in self._known.times.items()}
        symptom = keys.get(words, words)
        time = times.get(self.when.currentText(), "")
        self.seen.setCurrentText("")
        self.when.setCurrentIndex(0)
        self.edited.emit(note_symptom(rig, self._now, symptom, time, self._known, new_id))

    def answer(self, yes: bool) -> None:
        """Note the answer to the test that is shown."""
        test = self.proposed
        if test is not None:
            rig = self._chosen.rig
            self.edited.emit(note_answer(rig, self._now, test.key, yes, self._known, new_id))

    def _on_other(self) -> None:
        if (test := self.proposed) is not None:
            self._skipped.add(test.key)
            if self.proposed is None:
                self._skipped.clear()
            self._tell()

    def _on_cured(self) -> None:
        rig = self._chosen.rig
        cause = str(self.was.currentData() or "")
        self.edited.emit(note_cure(rig, self._now, cause, "", self._known, new_id))

    def _on_drop(self) -> None:
        entry = self.table.chosen()
        if isinstance(entry, DiaryEntry):
            self.edited.emit(drop_entry(entry))

    # What is shown

    def _tell(self) -> None:
        contents, rig = self._contents, self._chosen.rig
        there = contents is not None and rig in contents.rigs
        name = contents.rigs[rig].name if contents is not None and there else ""
        found = self._found
        for widget in (self.seen, self.when, self.add):
            allow(widget, "" if there else "No rig is chosen")
        causes = found.causes if found is not None else ()
        self.causes.show_causes(causes)
        self.was.clear()
        for one in causes:
            self.was.addItem(f"{one.words} ({one.share * 100:.0f}\u202f%)", one.key)
        test = self.proposed
        self.do.setText(f"{test.do} ({test.minutes:g} min)" if test is not None else "")
        self.asks.setText(test.asks if test is not None else self._no_test())
        cautions = [self._known.cautions[key] for key in (test.cautions if test else ())]
        self.cautions.setText(" ".join(cautions))
        self.cautions.setVisible(bool(cautions))
        why = "" if test is not None else "No test is proposed"
        for button in (self.yes, self.no, self.other):
            allow(button, why)
        allow(self.cured, "" if found is not None else "Nothing is seen yet")
        allow(self.drop, "" if there and self.table.rows_model.rows else "No entry yet")
        self._line = trouble_line(found, name)
        self.refreshed.emit()

    def _no_test(self) -> str:
        if self._found is None:
            return "Tests are proposed when something is seen."
        return "No test on the list tells more. Ask the maker, or try a part at a time."

    def evidence(self) -> Parts | None:
        """What it would take to be sure, and where the likelihoods come from."""
        found = self._found
        parts: Parts = [label("TO BE SURE", "heading")]
        if found is None:
            says = "Note what is seen and when. Each answer ranks the causes again."
            parts.append(label(says, "quiet"))
        elif not found.to_be_sure:
            cause = found.first.cause
            parts.append(label(cause.cure if cause is not None else "Nothing on the list."))
        else:
            parts += [
                label(f"{place}. {one.do} {one.minutes:g} min")
                for place, one in enumerate(found.to_be_sure, 1)
            ]
        parts += [
            10,
            label("Common practice, no source; cures in this logbook count.", "quiet"),
            label(self._known.cautions["supply"], "quiet"),
            label(self._known.cautions["maker"], "quiet"),
        ]
        return parts


def _kind_of(entry: DiaryEntry) -> str:
    if entry.cures:
        return "cured"
    return "tried" if entry.test else "seen"
