"""Typing into the Board: entries over cells, over the ghost rig and over the ghost case."""

import re
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QModelIndex, QObject, pyqtSignal
from PyQt6.QtGui import QGuiApplication

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents, SecondFigure
from blunt_ruler.core.runs.completions import case_completions, rig_completions
from blunt_ruler.core.runs.entry import (
    LOW,
    BadEntry,
    Entry,
    entry_text,
    entry_words,
    has_second,
    parse_entry,
)
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.core.runs.published import rig_and_source
from blunt_ruler.core.runs.score_parts import (
    BadWeight,
    part_entry,
    read_weight,
    split_key,
    weigh_part,
)
from blunt_ruler.core.runs.typed_cells import (
    TypedCell,
    cell_hint,
    entry_of,
    join_case,
    join_rig,
    label_of,
    takes_scores,
    type_cells,
    typed_runs,
)
from blunt_ruler.core.text import count_text
from blunt_ruler.core.values import LONGEST_NAME
from blunt_ruler.exchange.tables.cells import BadSheet, bare_figures, pasted_rows
from blunt_ruler.exchange.tables.sheet import Sheet
from blunt_ruler.logbook.store import now_text
from blunt_ruler.ui.board.models import PENDING, SCORE, Draft, Place
from blunt_ruler.ui.board.sheet_dialog import SheetDialog
from blunt_ruler.ui.board.table import BoardTable
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.kit.grid_editor import GridEditor, Way

RIG_KEYS_SAY = "Enter or Tab: another rig · Esc: as it was"
_FIGURES = re.compile(r"[\d\s.,/+~<()%-]+")


class Typing(QObject):
    """Opens entries, keeps what cannot be understood in its cell, and sends the rest on its way.

    Signals:
        made(str, MakeEdit): an edit made out of what the review then is, please, and its words.
        drafted(): what stands in a cell cannot be understood.
        second_asked(str, str, object): words, what to offer, and what it does.
        table_taken(): a whole table is on its way.
        notice_raised(str): something worth a line.
        error_raised(object): an exception to show.
    """

    made = pyqtSignal(str, object)
    drafted = pyqtSignal()
    second_asked = pyqtSignal(str, str, object)
    table_taken = pyqtSignal()
    notice_raised = pyqtSignal(str)
    error_raised = pyqtSignal(object)

    def __init__(self, table: BoardTable) -> None:
        super().__init__(table)
        self.table, self.model = table, table.grid
        self.editor: GridEditor | None = None
        self._asked = ""  # a name that may be a figure: given once more, it is meant
        self._snapshot: Snapshot | None = None
        self._taken: Sheet | None = None
        self.dialog: SheetDialog | None = None
        table.pasted.connect(self.paste)
        table.entry_wanted.connect(self.open_cell)
        table.rig_wanted.connect(self.open_rig)
        table.case_wanted.connect(self.open_case)
        table.cleared.connect(self._on_cleared)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Whose figures are typed; what was on its way has arrived."""
        self._snapshot = snapshot
        self.model.forget_sent()
        self._place_wrong()

    # Tables

    def paste(self) -> None:
        """Put the clipboard into the grid: figures where one stands, a table with heads by them."""
        clipboard = QGuiApplication.clipboard()
        try:
            rows = pasted_rows(clipboard.text() if clipboard else "")
            if bare_figures(rows):
                self._fill_from_here([row for row in rows if any(row)])
            else:
                self.preview("What was copied", [("", rows)])
        except UserFixable as error:
            self.error_raised.emit(error)

    def _fill_from_here(self, rows: Sequence[Sequence[str]]) -> None:
        """A rectangle of figures from the chosen cell to the right and down."""
        index, board = self.table.currentIndex(), self.model.board
        if board is None:
            return
        down, across = len(rows), len(rows[0])
        room = (len(board.rows) - index.row(), len(board.columns) - index.column())
        if not index.isValid() or down > room[0] or across > room[1]:
            raise BadSheet(
                "What was copied",
                f"it is {down} by {across} figures, and there is no room for them from here",
                "Choose the top left cell, or copy the heads too",
            )
        cells = []
        for row, texts in enumerate(rows):
            for column, text in enumerate(texts):
                place = self.model.place(
                    self.model.index(index.row() + row, index.column() + column)
                )
                if place is not None and text:
                    self.model.drafts.pop(place, None)
                    cells.append(TypedCell(_plain(place[0]), _plain(place[1]), text))
        self._send(cells)

    def _send(self, cells: Sequence[TypedCell]) -> None:
        moment = now_text()
        self.made.emit(
            f"Typing {count_text(len(cells), 'cell')}",
            lambda contents, review: type_cells(contents, review, cells, new_id, moment),
        )

    def preview(self, where: str, tables: Sequence[tuple[str, list[list[str]]]]) -> None:
        """Show what a table becomes before it is taken in."""
        if self._snapshot is None:
            return
        dialog = SheetDialog(where, tables, self._snapshot.contents, self.table.window())
        dialog.confirmed.connect(self._on_sheet)
        dialog.open()
        self.dialog = dialog

    def _on_sheet(self, sheet: Sheet) -> None:
        self._taken = sheet
        self.table_taken.emit()
        self._send(
            [
                TypedCell(
                    c.rig,
                    c.case,
                    None if c.wrong else c.text,
                    c.score,
                    c.meters,
                    sheet.kind,
                    c.unit,
                )
                for c in sheet.cells
                if c.text
            ]
        )

    def _place_wrong(self) -> None:
        """What a table held and nobody could understand stands red in its cell; what it held in
        place of such a draft takes that away.
        """
        board, sheet = self._snapshot.board if self._snapshot else None, self._taken
        if board is None or sheet is None:
            return
        self._taken = None
        rigs = {column.name.lower(): column.rig_id for column in board.columns}
        cases = {row.label.lower(): row.case_id for row in board.rows}
        for cell in sheet.cells:
            rig, case = rigs.get(cell.rig.lower()), cases.get(parse_case(cell.case).label.lower())
            if rig and case and cell.text:
                self.model.drafts.pop((rig, case), None)
                if cell.wrong:
                    self.model.drafts[rig, case] = Draft(cell.text, cell.wrong)

    # Cells

    def open_cell(self, index: QModelIndex, text: str | None) -> None:
        """Type into a cell, over what stands there or, for None, on from it."""
        place, snapshot, board = self.model.place(index), self._snapshot, self.model.board
        if place is None or snapshot is None or board is None:
            self.notice_raised.emit("Expand the title to edit its cases.")
            return
        stands = self._standing_text(snapshot.contents, place)
        scores = self._takes_scores(snapshot.contents, place[1])
        stays = ""
        if place[0] in snapshot.contents.rigs and place[1] in snapshot.contents.cases:
            stays = cell_hint(snapshot.contents, *place)

        def understand(typed: str) -> str:
            if split_key(place[1])[1] and (weight := read_weight(typed)) is not None:
                return f"a weight of {weight:g} in the whole test, on every rig"
            entry = parse_entry(typed, score=scores, second=self._second())
            said = entry_words(entry) if typed.strip() else ""
            return ". ".join(part for part in (said, stays) if part)

        self.table.scrollTo(index)
        column, row = board.columns[index.column()], board.rows[index.row()]
        viewport = self.table.viewport()
        assert viewport is not None
        self._begin(
            GridEditor(
                viewport,
                self.table.cell_place(index),
                f"{column.name}, {row.label}",
                stands if text is None else text,
                understand,
            ),
            lambda typed, way: self._on_typed(place, stands, typed, way),
        )

    def _standing_text(self, contents: Contents, place: Place) -> str:
        """What stands in a cell, as it would be typed."""
        draft = self.model.drafts.get(place)
        if draft is not None:
            return draft.text
        case_id, part = split_key(place[1])
        if part and case_id in contents.cases:
            return part_entry(typed_runs(contents, place[0], case_id), part)
        known = place[0] in contents.rigs and place[1] in contents.cases
        return entry_text(entry_of(contents, *place), self._second()) if known else ""

    def _takes_scores(self, contents: Contents, case_id: str) -> bool:
        if split_key(case_id)[0] in contents.cases:
            return takes_scores(contents, case_id)
        return _plain(case_id).lower().startswith(SCORE)

    def _on_typed(self, place: Place, stood: str, text: str, way: Way) -> None:
        assert self._snapshot is not None
        scores = self._takes_scores(self._snapshot.contents, place[1])
        try:
            if split_key(place[1])[1] and (weight := read_weight(text)) is not None:
                self._weigh(place[1], weight)
                self._go(way)
                return
            entry = parse_entry(text, score=scores, second=self._second())
        except (BadEntry, BadWeight) as error:
            self.model.put_draft(place, Draft(text.strip(), str(error)))
            self.drafted.emit()
            self._go(way)
            return
        asks = not scores and not self._said_second() and has_second(text)
        self._type(place, stood, entry, "low" if asks else "")
        if asks:
            self._ask_second(place, text)
        self._go(way)

    def _said_second(self) -> str:
        """What a second figure without a name is in this review; blank while nobody has said."""
        review = self._snapshot.review if self._snapshot is not None else None
        return review.second_figure if review is not None else ""

    def _second(self) -> str:
        return self._said_second() or LOW

    def _ask_second(self, place: Place, text: str) -> None:
        """Say once what the second figure is taken for, and offer the other reading."""
        figure = re.split(r"\s*/\s*", text.split()[0])[1]
        rig, case = _plain(place[0]), _plain(place[1])
        cell = TypedCell(rig, case, parse_entry(text, second="minimum"))
        moment = now_text()

        def as_minimum() -> None:
            self.made.emit(
                "Typing",
                lambda contents, review: type_cells(
                    contents, review, [cell], new_id, moment, second="minimum"
                ),
            )

        self.second_asked.emit(
            f"In “{text.strip()[:40]}” {figure} is taken as the 1% low, as in all of this review.",
            "It is the minimum",
            as_minimum,
        )

    def _type(
        self,
        place: Place,
        stood: str,
        entry: Entry,
        second: SecondFigure = "",
    ) -> None:
        """Send an entry on its way, unless the cell says it already."""
        said = entry_text(entry)
        was_wrong = bool(getattr(self.model.drafts.get(place), "wrong", ""))
        if said == stood and not was_wrong:
            return
        self.model.put_draft(place, Draft(said))
        rig, case = _plain(place[0]), _plain(place[1])
        scores = case.lower().startswith(SCORE)
        name = case[len(SCORE) :].strip() if scores else case
        cell = TypedCell(rig, name, entry, scores or None)
        moment = now_text()
        self.made.emit(
            "Typing",
            lambda contents, review: type_cells(
                contents, review, [cell], new_id, moment, second=second
            ),
        )

    def _weigh(self, key: str, weight: float) -> None:
        self.made.emit("Typing", lambda contents, review: weigh_part(contents, review, key, weight))

    def _on_cleared(self, index: QModelIndex) -> None:
        place = self.model.place(index)
        if place is None or self._snapshot is None:
            return
        stood = self._standing_text(self._snapshot.contents, place)
        if stood:
            self._type(place, stood, Entry())

    def _begin(self, editor: GridEditor, done: Callable[[str, Way], None]) -> None:
        """Let an entry be typed; the one before it is done."""
        before, self.editor = self.editor, editor
        if before is not None:
            before.finish(Way.STAY)

        def finished(text: str, way: Way) -> None:
            if self.editor is editor:
                self.editor = None
            done(text, way)

        def given_up() -> None:
            if self.editor is editor:
                self.editor = None
            self.table.setFocus()

        editor.left.connect(finished)
        editor.given_up.connect(given_up)

    def _go(self, way: Way) -> None:
        if way is not Way.STAY:
            self.table.go(way)
            self.table.setFocus()

    def place_editor(self) -> None:
        """Keep an open entry where its cell is now."""
        editor = self.editor
        if editor is None:
            return
        if editor.parent() is self.table.rigs:
            editor.setGeometry(self.table.rig_place())
        elif editor.parent() is self.table:
            editor.setGeometry(self.table.case_place())
        else:
            editor.setGeometry(self.table.cell_place(self.table.currentIndex()))

    # Rigs and cases

    def open_rig(self, text: str) -> None:
        """Name a rig: one of the logbook, or a new one."""
        snapshot = self._snapshot
        if snapshot is None or snapshot.review is None:
            return
        contents, review = snapshot.contents, snapshot.review
        known = {rig.name.lower() for rig in contents.rigs.values()}

        def understand(typed: str) -> str:
            name = typed.strip()
            if not name:
                return "Like “Built-in”, or “Tower, published by S”; a blank goes on to the cases"
            if _FIGURES.fullmatch(name) and name.lower() not in known:
                return _asks("rig", name)
            plain, source = rig_and_source(name)
            if plain.lower() in known:
                return "A rig of this logbook"
            return f"Figures that {source} published" if source else "A new rig"

        bar = self.table.horizontalScrollBar()
        if bar is not None:
            bar.setValue(bar.maximum())
        self._begin(
            GridEditor(
                self.table.rigs,
                self.table.rig_place(),
                "New rig",
                text,
                understand,
                lambda typed: rig_completions(contents, review, typed),
                RIG_KEYS_SAY,
            ),
            self._on_rig_named,
        )

    def _on_rig_named(self, text: str, way: Way) -> None:
        name = " ".join(text.split())[:LONGEST_NAME]
        if self._must_ask("rig", name, way):
            if way is not Way.STAY:
                self.open_rig(name)
            return
        if name:
            board = self.model.board
            there = [column.name.lower() for column in board.columns] if board else []
            plain, _ = rig_and_source(name)
            if plain.lower() not in there:
                self.model.add_pending(rig=plain)
                self.table.fit_columns()
                self.made.emit(
                    f"Naming {name}",
                    lambda contents, review: join_rig(contents, review, name, new_id)[0],
                )
            if way in (Way.DOWN, Way.RIGHT):  # rigs stand beside one another
                self.open_rig("")
                return
        if way is Way.STAY:
            return
        if self.model.ghost_row == 0:
            self.open_case("")
        else:
            self.table.go_to_first_empty()
            self.table.setFocus()

    def _must_ask(self, kind: str, name: str, way: Way) -> bool:
        """Whether a name looks like a figure and nobody has confirmed it yet."""
        board = self.model.board
        heads = (*board.columns, *board.rows) if board is not None else ()
        there = {getattr(head, "name", None) or getattr(head, "label", "") for head in heads}
        if not _FIGURES.fullmatch(name) or name in there or self._asked == f"{kind} {name}":
            self._asked = ""
            return False
        self._asked = f"{kind} {name}" if way is not Way.STAY else ""
        if way is Way.STAY:
            self.notice_raised.emit(f"“{name}” is not taken as a {kind}: it looks like a figure.")
        return True

    def open_case(self, text: str) -> None:
        """Name a case: one of the logbook, or a new one."""
        snapshot = self._snapshot
        if snapshot is None or snapshot.review is None:
            return
        contents, review = snapshot.contents, snapshot.review

        def understand(typed: str) -> str:
            words = typed.strip()
            if words.lower().startswith(SCORE):
                return "A synthetic test with scores, kept out of every mean of games"
            if not words:
                return "Title / scene / 1080p / High, or “score: test”; a blank goes to the cells"
            if _FIGURES.fullmatch(words):
                return _asks("case", words)
            named = parse_case(words)
            parts = (
                ("title", named.title),
                ("scene", named.scene),
                ("resolution", named.resolution),
                ("preset", named.preset),
            )
            return ", ".join(f"{what} {said}" for what, said in parts if said)

        self.table.scrollToBottom()
        self._begin(
            GridEditor(
                self.table,
                self.table.case_place(),
                "New case",
                text,
                understand,
                lambda typed: case_completions(contents, review, typed),
            ),
            self._on_case_named,
        )

    def _on_case_named(self, text: str, way: Way) -> None:
        words = " ".join(text.split())
        if self._must_ask("case", words, way):
            if way is not Way.STAY:
                self.open_case(words)
            return
        if words:
            scores = words.lower().startswith(SCORE)
            named = words[len(SCORE) :].strip() if scores else words
            contents = self._snapshot.contents if self._snapshot else Contents.empty()
            try:
                label = label_of(contents, named, scores=scores or None)
            except UserFixable as error:
                self.error_raised.emit(error)
                self.open_case(text)
                return
            board = self.model.board
            there = [row.label.lower() for row in board.rows] if board else []
            if label.lower() not in there:
                self.model.add_pending(case=f"{SCORE} {label}" if scores else label)
                self.made.emit(
                    f"Naming {label}",
                    lambda contents, review: join_case(
                        contents, review, named, new_id, scores=scores or None
                    )[0],
                )
            if way is Way.DOWN:
                self.open_case("")
                return
        if way is not Way.STAY:
            self.table.go_to_first_empty()
            self.table.setFocus()


def _asks(kind: str, name: str) -> str:
    return (
        f"“{name}” looks like a figure. Enter twice uses it as a {kind}; "
        "Esc leaves it, and a cell takes the figure"
    )


def _plain(key: str) -> str:
    """The name in a pending id, or the id."""
    return key.removeprefix(PENDING)
