"""The script: what will be said, each figure and comparison of it held against the logbook."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QKeySequence, QShortcut, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHeaderView,
    QPlainTextEdit,
    QPushButton,
    QTextEdit,
    QTreeWidget,
    QTreeWidgetItem,
)

from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.records.writeup_settings import LONGEST_SCRIPT
from blunt_ruler.core.script.corrections import (
    counts_line,
    in_style,
    script_line,
    still_said,
    why_not_put_in,
    with_figure,
    with_truth,
)
from blunt_ruler.core.script.prose import line_and_column
from blunt_ruler.core.script.statements import Answer, Held
from blunt_ruler.core.text import duration_text
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import Parts, allow, label

CHECK_AFTER_MS = 150  # of the last key
KEEP_AFTER_MS = 10_000
FILES = "Scripts (*.txt *.md *.markdown *.srt *.vtt);;All files (*)"
MARKS = {Answer.HOLDS: "=", Answer.FAILS: "≠", Answer.UNKNOWN: "–", Answer.UNCLEAR: "?"}


class ScriptPage(Page):
    """A sheet to write on, what was found under it, and the truth of the chosen statement.

    Signals:
        check_wanted(str): hold this text against the logbook.
        file_chosen(Path): read this script.
        save_wanted(Path, str): write the script here.
        narration_wanted(): begin with what the program would say.
    """

    check_wanted = pyqtSignal(str)
    file_chosen = pyqtSignal(object)
    save_wanted = pyqtSignal(object, str)
    narration_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._review: Review | None = None
        self._held: tuple[Held, ...] = ()
        self._checked = ""
        self._inserted: tuple[str, ...] = ()
        self._chosen: Held | None = None
        self.sheet = QPlainTextEdit()
        self.sheet.setAccessibleName("Script: what will be said")
        self.sheet.setPlaceholderText(
            "Paste or write what will be said.\n\n"
            "“In Tidewrack the dock is two and a half times as fast, but its lows …”"
        )
        self.sheet.setTabChangesFocus(True)
        self.sheet.textChanged.connect(self._on_typed)
        self.sheet.cursorPositionChanged.connect(self._on_moved)
        self.sheet.installEventFilter(self)
        self.found = QTreeWidget()
        self.found.setAccessibleName("Statements of the script and how they stand")
        self.found.setHeaderLabels(["", "answer", "line", "said", "why, or what is true"])
        self.found.setRootIsDecorated(False)
        self.found.setUniformRowHeights(True)
        self.found.setAllColumnsShowFocus(True)
        self.found.currentItemChanged.connect(lambda item, _old: self._on_row(item))
        self.found.itemActivated.connect(lambda _item, _column: self.put_in())
        self._size_columns()
        self.every = QCheckBox("Show what holds, too")
        self.every.toggled.connect(lambda _on: self._list())
        self.counts = label("", "quiet", wrap=False)
        self.open = QPushButton("Open a text…")
        self.open.clicked.connect(self._on_open)
        self.begin = QPushButton("Begin with the narration")
        self.begin.setToolTip("Puts what the program would say on the sheet")
        self.begin.clicked.connect(self.narration_wanted)
        self.save = QPushButton("Save as…")
        self.save.clicked.connect(self._on_save)
        self.truth = QPushButton("Put the true sentence in")
        self.truth.setToolTip("Ctrl+Return")
        self.truth.clicked.connect(self.put_in)
        self.figure = QPushButton("Correct the figure")
        self.figure.setToolTip("Ctrl+Shift+Return")
        self.figure.clicked.connect(self.correct)
        for keys, slot in (
            ("Ctrl+Return", self.put_in),
            ("Ctrl+Shift+Return", self.correct),
            ("F8", lambda: self.step(1)),
            ("Shift+F8", lambda: self.step(-1)),
        ):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(slot)
        stacked(
            beside(self.open, self.begin, self.save, STRETCH, spacing=6),
            (self.sheet, 3),
            beside((self.counts, 1), self.every, spacing=10),
            (self.found, 2),
            beside(
                label("F8 goes to the next that does not hold.", "quiet", wrap=False),
                STRETCH,
                self.figure,
                self.truth,
                spacing=6,
            ),
            spacing=7,
            on=self,
        )
        self._waiting = self._timer(CHECK_AFTER_MS, self._check)
        self._keeping = self._timer(KEEP_AFTER_MS, self.keep)
        self._tell()

    def _timer(self, after_ms: int, slot: Callable[[], None]) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(after_ms)
        timer.timeout.connect(slot)
        return timer

    def _size_columns(self) -> None:
        header = self.found.header()
        assert header is not None
        header.setStretchLastSection(True)
        for column, width in enumerate((26, 138, 46, 172)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Interactive)
            header.resizeSection(column, width)

    # What comes from elsewhere

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the review's script; a sheet that is being written on stays as it is."""
        review = snapshot.review
        other = self._review is None or review is None or review.id != self._review.id
        self._review = review
        if review is None:
            return
        writeup = review.writeup
        if other or not (self.sheet.hasFocus() or self._keeping.isActive()):
            self._inserted = writeup.inserted
            if self.sheet.toPlainText() != writeup.script:
                self.sheet.setPlainText(writeup.script)
                self._keeping.stop()
        self._check()

    def show_text(self, text: str) -> None:
        """Put a text on the sheet; what stood there can be brought back by undo."""
        cut = text[:LONGEST_SCRIPT]
        cursor = QTextCursor(self.sheet.document())
        cursor.select(QTextCursor.SelectionType.Document)
        cursor.insertText(cut)
        self.sheet.moveCursor(QTextCursor.MoveOperation.Start)
        self.keep()
        if len(text) > LONGEST_SCRIPT:
            self.notice_raised.emit(
                f"The script was cut after {LONGEST_SCRIPT} letters: check the rest by command."
            )

    def show_held(self, text: str, held: Sequence[Held]) -> None:
        """Show how the statements of a text stand, where it still is what is on the sheet."""
        if text != self.sheet.toPlainText():
            return
        self._held, self._checked = tuple(held), text
        self._underline()
        self._list()
        self._choose_at(self.sheet.textCursor().position())

    @property
    def inserted(self) -> tuple[str, ...]:
        """Sentences of the script that came from the logbook."""
        return self._inserted

    def apply_theme(self) -> None:
        """The marks take the colours of the theme."""
        self._underline()

    # The sheet

    def _on_typed(self) -> None:
        self._waiting.start()
        self._keeping.start()

    def _check(self) -> None:
        self._waiting.stop()
        text = self.sheet.toPlainText()
        if text.strip():
            self.check_wanted.emit(text)
        else:
            self.show_held(text, ())

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """The sheet is kept when the focus leaves it."""
        if a1 is not None and a1.type() == QEvent.Type.FocusOut:
            self.keep()
        return super().eventFilter(a0, a1)

    def keep(self) -> None:
        """Put what is on the sheet into the review, where it is another."""
        self._keeping.stop()
        review = self._review
        if review is None:
            return
        text = self.sheet.toPlainText()
        if len(text) > LONGEST_SCRIPT:
            return
        said = still_said(text, self._inserted)
        if text == review.writeup.script and said == review.writeup.inserted:
            return
        writeup = review.writeup.model_copy(update={"script": text, "inserted": said})
        self._review = review.model_copy(update={"writeup": writeup})
        self.edited.emit(change_review(review, "write the script", writeup=writeup))

    def _underline(self) -> None:
        colours = theme.current()
        styles = {
            Answer.FAILS: (QTextCharFormat.UnderlineStyle.SingleUnderline, colours.loss),
            Answer.UNCLEAR: (QTextCharFormat.UnderlineStyle.DashUnderline, colours.caution),
        }
        marks = []
        document = self.sheet.document()
        for one in self._held:
            if one.answer not in styles or document is None:
                continue
            style, colour = styles[one.answer]
            mark = QTextEdit.ExtraSelection()
            mark.cursor = _selecting(self.sheet, one.start, one.end)
            mark.format.setUnderlineStyle(style)
            mark.format.setUnderlineColor(QColor(colour))
            if one.answer is Answer.FAILS:
                tint = QColor(colour)
                tint.setAlpha(38)
                mark.format.setBackground(tint)
            marks.append(mark)
        self.sheet.setExtraSelections(marks)

    def _on_moved(self) -> None:
        if self._checked == self.sheet.toPlainText():
            self._choose_at(self.sheet.textCursor().position())

    def _choose_at(self, place: int) -> None:
        """The statement at a place of the sheet, else the next one of its sentence."""
        inside = [one for one in self._held if one.start <= place <= one.end]
        beside_it = [one for one in self._held if one.sentence_start <= place <= one.sentence_end]
        wrong = [one for one in beside_it if one.answer is not Answer.HOLDS]
        self._choose(next(iter((*inside, *wrong, *beside_it)), None))

    # The list

    def _list(self) -> None:
        self.found.blockSignals(True)
        self.found.clear()
        colours = theme.current()
        tints = {Answer.FAILS: colours.loss, Answer.UNCLEAR: colours.caution}
        for number, one in enumerate(self._held):
            if one.answer is Answer.HOLDS and not self.every.isChecked():
                continue
            line, _ = line_and_column(self._checked, one.start)
            truth = one.note if one.answer is Answer.FAILS and one.note else one.true_sentence
            words = [MARKS[one.answer], str(one.answer), str(line),
                     " ".join(one.text.split()), truth or one.note]  # fmt: skip
            item = QTreeWidgetItem(words)
            item.setData(0, Qt.ItemDataRole.UserRole, number)
            item.setTextAlignment(2, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            item.setToolTip(4, " ".join(word for word in (one.note, one.true_sentence) if word))
            if one.answer in tints:
                for column in (0, 1):
                    item.setForeground(column, QColor(tints[one.answer]))
            self.found.addTopLevelItem(item)
        self.found.blockSignals(False)
        self._tell()

    def _on_row(self, item: QTreeWidgetItem | None) -> None:
        if item is None:
            return
        one = self._held[item.data(0, Qt.ItemDataRole.UserRole)]
        self._choose(one)
        self._show_place(one)

    def _show_place(self, one: Held) -> None:
        self.sheet.blockSignals(True)
        cursor = self.sheet.textCursor()
        cursor.setPosition(_in_qt(self._checked, one.end))
        self.sheet.setTextCursor(cursor)
        self.sheet.blockSignals(False)
        self.sheet.ensureCursorVisible()

    def _choose(self, one: Held | None) -> None:
        if one is self._chosen and one is not None:
            return
        self._chosen = one
        self._tell()

    def step(self, by: int) -> None:
        """Go to the next statement that does not hold or is unclear, or to the one before."""
        open_ones = [one for one in self._held if one.answer in (Answer.FAILS, Answer.UNCLEAR)]
        if not open_ones:
            self.notice_raised.emit("Nothing in the script is wrong or unclear.")
            return
        place = self._chosen.start if self._chosen is not None else -1
        if by > 0:
            after = [one for one in open_ones if one.start > place]
            one = after[0] if after else open_ones[0]
        else:
            before = [one for one in open_ones if one.start < place]
            one = before[-1] if before else open_ones[-1]
        self._choose(one)
        self._show_place(one)
        self.sheet.setFocus()

    # The truth

    def put_in(self) -> None:
        """Put the true sentence in place of the chosen one."""
        one = self._chosen
        if one is None or why_not_put_in(self._checked, one):
            return
        self._inserted = (*self._inserted, one.true_sentence)
        self._replace(with_truth(self._checked, one), one.sentence_start, one.sentence_end)

    def correct(self) -> None:
        """Correct nothing but the chosen figure."""
        one = self._chosen
        if one is None or not one.repair:
            return
        text = with_figure(self._checked, one)
        grown = len(text) - len(self._checked)
        said = text[one.sentence_start : one.sentence_end + grown]
        self._inserted = (*self._inserted, said)
        self._replace(text, one.start, one.end)

    def _replace(self, text: str, start: int, end: int) -> None:
        """Put new words in place of old ones; the sheet's own undo takes them back."""
        words = text[start : len(text) - (len(self._checked) - end)]
        cursor = _selecting(self.sheet, start, end)
        cursor.insertText(words)
        self.sheet.setTextCursor(cursor)
        self.sheet.setFocus()
        self.keep()
        self._check()

    def _tell(self) -> None:
        one = self._chosen if self._chosen in self._held else None
        self.counts.setText(counts_line(self._held))
        self._line = script_line(self._held, self.sheet.toPlainText())
        choose = "Choose a statement first"
        allow(self.truth, choose if one is None else why_not_put_in(self._checked, one))
        fix = choose if one is None else "" if one.repair else "No single figure would put it right"
        allow(self.figure, fix)
        allow(self.save, "" if self.sheet.toPlainText().strip() else "Nothing is written yet")
        self.refreshed.emit()

    def evidence(self) -> Parts | None:
        """The chosen statement: how it stands, and what is true."""
        one = self._chosen if self._chosen in self._held else None
        parts: Parts = [label("THE CHOSEN STATEMENT", "heading")]
        if one is None:
            return [*parts, label("Put the cursor into a sentence, or press F8.", "quiet")]
        kinds = {Answer.FAILS: "error", Answer.UNCLEAR: "coming"}
        stands = label(f"{MARKS[one.answer]} {one.answer}", kinds.get(one.answer, ""))
        parts += [label(f"“{' '.join(one.text.split())}”", "says"), stands]
        if one.note:
            parts.append(label(one.note))
        if one.readings:
            parts += [8, label("IT CAN BE READ AS", "heading")]
            parts += [label(words) for words in one.readings]
        elif one.true_sentence:
            parts += [8, label("WHAT IS TRUE", "heading"), label(one.true_sentence)]
        if one.repair:
            fixed = in_style(self._checked[one.start : one.end], one.repair)
            parts.append(label(f"The figure alone: {fixed}", "quiet"))
        facts = [
            ("Rig:", one.rig),
            ("Measured from:", one.base),
            ("Said at:", duration_text(one.at_s) if one.at_s is not None else ""),
        ]
        parts += [6, *(label(f"{name} {value}", "quiet") for name, value in facts if value)]
        return parts

    # Files

    def _on_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a script", "", FILES)
        if name:
            self.file_chosen.emit(Path(name))

    def _on_save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the script", "script.txt", FILES)
        if name:
            self.save_wanted.emit(Path(name), self.sheet.toPlainText())


def _in_qt(text: str, place: int) -> int:
    """A place of a Python text as Qt counts it: letters beyond 16 bits are two."""
    return place + sum(ord(letter) > 0xFFFF for letter in text[:place])


def _selecting(sheet: QPlainTextEdit, start: int, end: int) -> QTextCursor:
    text = sheet.toPlainText()
    cursor = QTextCursor(sheet.document())
    cursor.setPosition(_in_qt(text, start))
    cursor.setPosition(_in_qt(text, end), QTextCursor.MoveMode.KeepAnchor)
    return cursor
