"""The heads of the Board's columns: the role of a rig, its name, its place in the review."""

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QLineEdit, QMenu

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.records.edits import give_role, one_more_reference, rename_rig
from blunt_ruler.core.records.records import Contents, Review, Role
from blunt_ruler.core.rigs.rig_edits import join_or_leave
from blunt_ruler.ui.board.table import BoardTable
from blunt_ruler.ui.kit.tips import plain_tip


class Heads(QObject):
    """Menu and name of a column.

    Signals:
        edited(Edit): this edit, please.
    """

    edited = pyqtSignal(object)

    def __init__(self, table: BoardTable) -> None:
        super().__init__(table)
        self._table = table
        self._contents: Contents | None = None
        self._review: Review | None = None
        table.role_wanted.connect(self.menu)
        table.rigs.sectionDoubleClicked.connect(self.rename)
        table.rigs.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        table.rigs.customContextMenuRequested.connect(
            lambda point: self.menu(table.rigs.logicalIndexAt(point))
        )
        table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        table.customContextMenuRequested.connect(
            lambda _point: self.menu(table.currentIndex().column())
        )

    def show_review(self, contents: Contents, review: Review | None) -> None:
        """Whose rigs these are."""
        self._contents, self._review = contents, review

    def give_role(self, rig_id: str | None, role: Role) -> None:
        """Make a rig base, reference or under test."""
        contents, review = self._contents, self._review
        if contents is not None and review is not None and rig_id in contents.rigs and rig_id:
            self.edited.emit(give_role(contents, review, rig_id, role))

    def _column(self, section: int) -> Column | None:
        board: Board | None = self._table.grid.board
        if board is None or not 0 <= section < len(board.columns):
            return None
        return board.columns[section]

    def menu(self, section: int) -> None:
        """Role, name and place of a rig."""
        column, contents, review = self._column(section), self._contents, self._review
        if column is None or contents is None or review is None:
            return
        known = column.rig_id in contents.rigs
        menu = QMenu(self._table)
        menu.setToolTipsVisible(True)
        why = "" if known else f"{column.name} is on its way into the logbook"
        for role in Role:
            action = menu.addAction(
                f"Make it {role}" if role is Role.TESTED else f"Make it the {role}"
            )
            if action is not None:
                action.setEnabled(known and column.role is not role)
                action.setToolTip(
                    plain_tip(why) or (f"It is {role}" if column.role is role else "")
                )
                action.triggered.connect(
                    lambda _checked, role=role: self.give_role(column.rig_id, role)
                )
        more = menu.addAction("One more reference")
        if more is not None:
            there = column.role is Role.REFERENCE
            first = not review.references
            more.setEnabled(known and not there and not first)
            says = "Choose the first reference before" if first else ""
            more.setToolTip(plain_tip(why) or ("It is one" if there else says))
            more.triggered.connect(
                lambda: self.edited.emit(one_more_reference(contents, review, column.rig_id))
            )
        menu.addSeparator()
        rename = menu.addAction("Rename…")
        leave = menu.addAction("Take it out of the review")
        for action, slot in (
            (rename, lambda: self.rename(section)),
            (leave, lambda: self.edited.emit(join_or_leave(contents, review, column.rig_id))),
        ):
            if action is not None:
                action.setEnabled(known)
                action.setToolTip(plain_tip(why))
                action.triggered.connect(slot)
        rigs = self._table.rigs
        at = rigs.mapToGlobal(rigs.rect().bottomLeft())
        at.setX(at.x() + rigs.sectionViewportPosition(section))
        menu.popup(at)

    def rename(self, section: int) -> None:
        """Edit a rig's name where it stands; Enter keeps it, Escape leaves it."""
        column, contents = self._column(section), self._contents
        if column is None or contents is None or column.rig_id not in contents.rigs:
            return
        header = self._table.rigs
        editor = QLineEdit(column.name, header)
        editor.setAccessibleName(f"Name of {column.name}")
        editor.setMaxLength(120)
        left, width = header.sectionViewportPosition(section), header.sectionSize(section)
        editor.setGeometry(left + 2, 8, max(width, 180), 32)
        editor.selectAll()
        editor.show()
        editor.setFocus()

        def finish() -> None:
            name = editor.text().strip()
            editor.deleteLater()
            if name and name != column.name:
                self.edited.emit(rename_rig(contents, column.rig_id, name))

        editor.returnPressed.connect(editor.clearFocus)
        editor.editingFinished.connect(finish)
