"""A pasted or dropped table before it is taken in: what every row and column becomes."""

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QComboBox,
    QDialog,
    QHeaderView,
    QLabel,
    QPushButton,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.runs.entry import entry_text
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.core.runs.typed_cells import entry_of
from blunt_ruler.core.text import capital, count_text, list_text
from blunt_ruler.exchange.tables.reading import understand
from blunt_ruler.exchange.tables.sheet import Known, Question, Sheet, SheetCell, sheet_words
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import BluntLine, label

CASE_WIDTH = 300
COLUMN_WIDTH = 150
QUESTIONS_HEIGHT = 150
READ_AT_ONCE = 250  # cells: they take under 50 ms


class SheetDialog(QDialog):
    """Shows one table, asks what it does not say, and takes it in as one edit.

    Signals:
        confirmed(Sheet): take these cells in.
    """

    confirmed = pyqtSignal(object)

    def __init__(
        self,
        where: str,
        tables: Sequence[tuple[str, list[list[str]]]],
        contents: Contents,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Take in a table")
        self.resize(980, 620)
        self._where, self._tables, self._contents = where, tables, contents
        self._settings = Settings()
        self._jobs = Jobs(threads=1, parent=self)
        self._sheet: Sheet | None = None
        self._answers: dict[str, str] = {}
        self.blunt = BluntLine()
        self.sheets = QComboBox()
        self.sheets.setAccessibleName("Sheet of the workbook")
        self.sheets.addItems([name or "the table" for name, _ in tables])
        self.sheets.setVisible(len(tables) > 1)
        self.sheets.activated.connect(lambda number: self._open(number))
        self.answers: dict[tuple[str, str], QPushButton] = {}
        self.questions = QScrollArea()
        self.questions.setAccessibleName("Questions about the table")
        self.questions.setWidgetResizable(True)
        self.questions.setMaximumHeight(QUESTIONS_HEIGHT)
        self.questions.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.questions.setFrameShape(QScrollArea.Shape.NoFrame)
        for number in range(1, 4):
            QShortcut(str(number), self, lambda at=number - 1: self._answer_first(at))
        self.table = QTableWidget()
        self.table.setAccessibleName("What the table becomes")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setShowGrid(False)
        self.notes = label("", "quiet")
        self.wrong = label("", "error")
        self.take = QPushButton("Take in")
        self.take.setObjectName("primary")
        self.take.clicked.connect(self._on_take)
        leave = QPushButton("Cancel")
        leave.clicked.connect(self.reject)
        stacked(
            self.blunt,
            beside(self.sheets, STRETCH),
            self.questions,
            (self.table, 1),
            self.notes,
            self.wrong,
            beside(STRETCH, leave, self.take, spacing=8),
            spacing=10,
            margins=(18, 14, 18, 14),
            on=self,
        )
        self._open(0, range(1, len(tables)))

    @property
    def _source(self) -> str:
        """What percentages without a rate are said to come from."""
        return self._where if "." in self._where else "the table that was pasted"

    def _read(
        self,
        number: int,
        done: Callable[[Sheet], None],
        failed: Callable[[UserFixable], None],
    ) -> None:
        """Read a table with the answers given so far: a small one at once, others on a thread."""
        rows, known, answers = self._tables[number][1], Known.of(self._contents), self._answers

        def work(_step: object) -> Sheet:
            return understand(rows, known, answers, self._source)

        if sum(map(len, rows)) > READ_AT_ONCE:
            self.blunt.say(f"{self._where}: reading {count_text(len(rows), 'row')} …")
            self.take.setEnabled(False)
            self._jobs.cancel_all()
            self._jobs.run("Reading the table", work, done, failed)  # type: ignore[arg-type]
            return
        try:
            sheet = work(None)
        except UserFixable as error:
            failed(error)
        else:
            done(sheet)

    def _open(self, number: int, others: Sequence[int] = ()) -> None:
        """Show a table, or else the first of some others that can be read."""
        self._answers = {}

        def done(sheet: Sheet) -> None:
            self.sheets.setCurrentIndex(number)
            self._answers = self._settings.answers(sheet.look)
            if self._answers:
                self._read(number, self._show, self._show_wrong)
            else:
                self._show(sheet)

        def failed(error: UserFixable) -> None:
            if others:
                self._open(others[0], others[1:])
            else:
                self._show_wrong(error)

        self._read(number, done, failed)

    def _show_wrong(self, error: UserFixable) -> None:
        """Say why a table cannot be read."""
        self._sheet = None
        self.table.setRowCount(0)
        self.table.setColumnCount(0)
        self.blunt.say(f"{self._where}: {error.what}. {error.fix}.")
        self._show_questions(())
        self._say(None)

    def answer(self, about: str, reading: str) -> None:
        """Answer a question; blank takes the answer back."""
        self._answer({about: reading})

    def _answer(self, said: Mapping[str, str]) -> None:
        before = self._answers
        self._answers = {**before, **said}

        def failed(error: UserFixable) -> None:
            self._answers = before
            self.wrong.setText(f"{error.what}. {error.fix}.")
            self.wrong.show()

        self._read(self.sheets.currentIndex(), self._show, failed)

    def _answer_first(self, at: int) -> None:
        """Give the first open question one of its readings, by its number."""
        asked = self._sheet.asked if self._sheet is not None else ()
        if asked and at < len(asked[0].readings):
            self.answer(asked[0].about, asked[0].readings[at])

    def _show(self, sheet: Sheet) -> None:
        self._sheet = sheet
        self._show_questions(sheet.questions)
        if sheet.asked:
            first = sheet.asked[0]
            more = len(sheet.asked) - 1
            after = f" {count_text(more, 'more question')} below." if more else ""
            self.blunt.say(f"{first.words}{after}")
        else:
            self.blunt.say(f"{self._where}: {sheet_words(sheet)}.")
        self._fill(sheet)
        self._say(sheet)
        self._first.setFocus()

    def _show_questions(self, questions: Sequence[Question]) -> None:
        """A line for each question, the open ones first, with a button for each reading."""
        self.answers = {}
        self._first: QWidget = self.take
        lines: list[QWidget] = []
        scores = [one for one in questions if one.cases]
        asked = sorted(questions, key=lambda one: not one.is_open)
        for number, question in enumerate(asked):
            lines.append(self._question_line(question, first=number == 0 and question.is_open))
        if len(scores) > 1 and any(one.is_open for one in scores):
            both = QWidget()
            buttons = []
            for reading in scores[0].readings:
                button = QPushButton(capital(reading))
                button.clicked.connect(
                    lambda _on, r=reading: self._answer({one.about: r for one in scores})
                )
                self.answers["all", reading] = button
                buttons.append(button)
            all_of = label("Both:" if len(scores) == 2 else f"All {len(scores)}:", wrap=False)
            beside(all_of, *buttons, STRETCH, spacing=6, margins=(0, 0, 0, 0), on=both)
            lines.insert(0, both)
        words = [one for line in lines for one in line.findChildren(QLabel)]
        widest = max((one.sizeHint().width() for one in words), default=0)
        for one in words:
            one.setMinimumWidth(widest)
        holder = QWidget()
        stacked(*lines, STRETCH, spacing=4, margins=(0, 0, 0, 0), on=holder)
        self.questions.setWidget(holder)
        height = holder.sizeHint().height() + 2
        self.questions.setFixedHeight(min(QUESTIONS_HEIGHT, height))
        self.questions.setVisible(bool(lines))

    def _question_line(self, question: Question, *, first: bool) -> QWidget:
        line = QWidget()
        group = QButtonGroup(line)
        words = label(question.words, "" if question.is_open else "quiet", wrap=False)
        buttons: list[QWidget] = []
        for number, reading in enumerate(question.readings, 1):
            button = QPushButton(f"{number}  {capital(reading)}" if first else capital(reading))
            button.setCheckable(True)
            button.setChecked(question.answer == reading)
            button.setAccessibleName(f"{question.words} {capital(reading)}")
            button.clicked.connect(lambda _on, r=reading: self.answer(question.about, r))
            group.addButton(button)
            self.answers[question.about, reading] = button
            buttons.append(button)
        if question.free:
            buttons.append(self._free(question))
        if first:
            self._first = buttons[-1] if question.free else buttons[0]
        beside(words, *buttons, STRETCH, spacing=6, margins=(0, 0, 0, 0), on=line)
        return line

    def _free(self, question: Question) -> QComboBox:
        """A line to type any answer, with the names of the logbook."""
        box = QComboBox()
        box.setEditable(True)
        box.setMinimumWidth(220)
        box.setAccessibleName(question.words)
        contents = self._contents
        of = contents.rigs if question.about == "rig" else contents.titles
        box.addItems([one.name for one in of.values()])
        box.setEditText(question.answer)
        line = box.lineEdit()
        assert line is not None
        line.setPlaceholderText("Name it, then Enter")
        line.returnPressed.connect(lambda: self.answer(question.about, box.currentText().strip()))
        box.activated.connect(lambda _at: self.answer(question.about, box.currentText().strip()))
        return box

    def _fill(self, sheet: Sheet) -> None:
        known = {rig.name.lower(): rig.id for rig in self._contents.rigs.values()}
        labels = {
            self._contents.case_label(case_id).lower(): case_id for case_id in self._contents.cases
        }
        rigs, cases = sheet.rigs, sheet.cases
        cells = {(cell.rig, cell.case): cell for cell in sheet.cells}
        wrong = {(cell.rig, cell.case) for cell in sheet.wrong}
        table = self.table
        table.clear()
        table.setColumnCount(len(rigs))
        table.setRowCount(len(cases))
        new = "\nnew"
        table.setHorizontalHeaderLabels([f"{n}{'' if n.lower() in known else new}" for n in rigs])
        units = {cell.case: f", {cell.unit or 'score'}" for cell in sheet.cells if cell.score}
        told = {n: units.get(n, "") for n in cases}
        table.setVerticalHeaderLabels(
            [f"{n}{told[n]}{'' if _label(n).lower() in labels else '  (new)'}" for n in cases]
        )
        side, head = table.verticalHeader(), table.horizontalHeader()
        if side is not None and head is not None:
            side.setMaximumWidth(CASE_WIDTH)
            head.setDefaultSectionSize(COLUMN_WIDTH)
            head.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        for row, case in enumerate(cases):
            case_id = labels.get(_label(case).lower())
            for column, rig in enumerate(rigs):
                cell = cells.get((rig, case))
                if cell is not None:
                    item = self._item(
                        cell, known.get(rig.lower()), case_id, is_wrong=(rig, case) in wrong
                    )
                    table.setItem(row, column, item)

    def _item(
        self, cell: SheetCell, rig_id: str | None, case_id: str | None, *, is_wrong: bool
    ) -> QTableWidgetItem:
        """A cell: what it becomes, what stood there, and why it cannot be taken."""
        stood = entry_text(entry_of(self._contents, rig_id, case_id)) if rig_id and case_id else ""
        item = QTableWidgetItem(f"{stood} → {cell.text}" if stood else cell.text)
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if is_wrong:
            item.setForeground(QColor(theme.current().loss))
            item.setToolTip(plain_tip(cell.wrong))
        elif cell.meters is not None:
            read = cell.meters.model_dump(exclude_none=True)
            item.setToolTip(
                plain_tip(", ".join(f"{name} {value:g}" for name, value in read.items()))
            )
        return item

    def _say(self, sheet: Sheet | None) -> None:
        wrong = sheet.wrong if sheet else ()
        remarks = sheet.remarks if sheet else ()
        self.notes.setText(capital("; ".join(remarks)))
        self.notes.setVisible(bool(remarks))
        first = wrong[0] if wrong else None
        self.wrong.setText(
            f"{first.rig}, {first.case}: {first.wrong} It stays red in its cell." if first else ""
        )
        self.wrong.setVisible(first is not None)
        count = len(sheet.sound) if sheet else 0
        self.take.setText(f"Take in {count_text(count, 'figure')}" if count else "Take in")
        why = ""
        if not count:
            why = "No cell can be taken in"
        elif sheet is not None and sheet.asked:
            why = f"Answer first: {list_text([one.words for one in sheet.asked[:2]])}"
        self.take.setEnabled(not why)
        self.take.setToolTip(plain_tip(why))

    def done(self, result: int) -> None:
        """Closing in any way ends what is still being read."""
        self._jobs.close()
        super().done(result)

    def _on_take(self) -> None:
        sheet = self._sheet
        if sheet is not None:
            free = {question.about for question in sheet.questions if question.free}
            kept = {about: said for about, said in self._answers.items() if about not in free}
            if kept:
                self._settings.set_answers(sheet.look, kept)
            self.confirmed.emit(sheet)
        self.accept()


def _label(case: str) -> str:
    """A case as the logbook calls it."""
    try:
        return parse_case(case).label
    except UserFixable:
        return case
