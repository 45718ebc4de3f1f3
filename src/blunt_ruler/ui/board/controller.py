"""What the Board offers as actions, and its cells as a file."""

from collections.abc import Iterable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import list_text
from blunt_ruler.ui.desk.controller import Controller, Offer
from blunt_ruler.ui.desk.snapshot import new_id

if TYPE_CHECKING:
    from PyQt6.QtCore import QPoint

    from blunt_ruler.core.records.edits import Edit
    from blunt_ruler.core.records.records import Contents
    from blunt_ruler.core.types import Progress
    from blunt_ruler.exchange.tables.files import SheetFile
    from blunt_ruler.ui.board.page import BoardPage
    from blunt_ruler.ui.board.view import BoardStop


ANOTHER = "Logbooks and published reviews (*.blunt *.zip)"


class BoardController(Controller):
    """Between the Board and the desk."""

    name = "Board"

    def build(self) -> "BoardStop":
        """The view."""
        from blunt_ruler.ui.board import view

        stop = view.BoardStop()

        def when_built(page: "BoardPage") -> None:
            page.import_requested.connect(lambda: self.hub.import_logs(None))
            page.recording_requested.connect(self.hub.ask_recording)
            page.typing.second_asked.connect(self.banner.ask)

        stop.when_built(view.CELLS, when_built)
        return stop

    @property
    def view(self) -> "BoardStop":
        """The view, as what it is."""
        return cast("BoardStop", self.stop)

    def offers(self) -> Iterable[Offer]:
        """Lenses, roles and names, copies and the file."""
        for number, lens in enumerate(Lens, start=1):
            keys = f"Ctrl+{number}" if number < 10 else ""
            yield Offer(f"Lens: {lens}", partial(self.show_lens, lens), keys)
        for role, key in ((Role.BASE, "B"), (Role.REFERENCE, "R"), (Role.TESTED, "T")):
            yield Offer(
                f"Chosen rig: make it {role}",
                partial(self._give_role, role),
                f"Ctrl+Shift+{key}",
            )
        yield Offer("Chosen rig: rename", lambda: self.cells.rename_chosen(), "Shift+F2")
        yield Offer("Paste a table into the Board", self._paste)
        yield Offer("Copy the chosen cell", lambda: self.cells.copy_cell(), "Ctrl+Shift+C")
        for kind in ("text", "csv", "picture"):
            yield Offer(f"Copy the Board as {kind}", partial(self._copy, kind))
        yield Offer(
            "Bring in rigs of another logbook…",
            lambda: self.ask_open("Another logbook", ANOTHER, self.bring_in),
        )
        yield Offer(
            "Export the Board as CSV…",
            lambda: self.ask_save("Export the Board", "board.csv", "*.csv", self.export),
        )

    def bring_in(self, path: Path) -> None:
        """Bring the rigs of another logbook into the review; one of a name here is asked about.
        Those of a published review come as references.
        """

        def read(step: "Progress") -> "Contents":
            from tempfile import TemporaryDirectory

            from blunt_ruler.exchange.documents.data_package import is_package, take_logbook_out
            from blunt_ruler.logbook import Logbook

            with TemporaryDirectory() as folder:
                packed = is_package(path)
                target = Path(folder) / "package.blunt"
                with Logbook.reading(
                    take_logbook_out(path, target, step) if packed else path
                ) as book:
                    return book.contents()

        self.run(f"Reading {path.name}", read, partial(self._bring, path))

    def _bring(self, path: Path, other: "Contents") -> None:
        from blunt_ruler.core.errors import UserFixable
        from blunt_ruler.core.runs.bring_in import bring_in

        contents, review = self.snapshot.contents, self.snapshot.review
        if review is None:
            return
        try:
            bring = partial(
                bring_in,
                contents,
                review,
                other,
                path.stem,
                new_id,
                as_references=path.suffix.lower() == ".zip",
            )
            brought, same = bring(), bring(same_rigs=True)
        except UserFixable as error:
            self.say_wrong(error)
            return
        self.show_cells()
        self.desk.apply(brought.edit)
        if brought.same_names:
            verb = "is" if len(brought.same_names) == 1 else "are"
            self.banner.ask(
                f"{list_text(brought.same_names[:3])} {verb} named alike here and in {path.name}: "
                "taken as rigs of their own, marked with where they come from.",
                "They are the same rigs",
                partial(self._as_same, same.edit),
            )

    def _as_same(self, edit: "Edit") -> None:
        """They were one: what was brought in apart goes, and their runs join the rigs here."""
        self.desk.undo()
        self.desk.apply(edit)

    def _give_role(self, role: Role) -> None:
        rig_id = self.cells.chosen_rig()
        if rig_id is None:
            self.banner.show_said("Choose a rig first: a cell in its column.")
        else:
            self.cells.give_role(rig_id, role)

    def _paste(self) -> None:
        self.hub.go_to(self.name)
        self.cells.typing.paste()

    def begin_typing(self) -> None:
        """Name the first rig."""
        self.show_cells()
        self.cells.typing.open_rig("")

    def type_into(self, rig_id: str, case_id: str) -> None:
        """Open the cell of a rig and case."""
        self.show_cells()
        self.cells.type_into(rig_id, case_id)

    def cell_at(self, point: "QPoint") -> tuple[str, str] | None:
        """Ids of the rig and case of the cell at a point of the screen; None where none is."""
        return self.cells.cell_at(point)

    def stand_on(self, rig: str, case: str) -> None:
        """Stand on the cell of a rig and case, by their names, as soon as it is there."""
        self.cells.stand_on(rig, case)

    def take_table(self, path: Path) -> None:
        """Show what a table in a file becomes before it is taken in."""
        from blunt_ruler.exchange.tables.files import read_sheets

        def done(sheets: "tuple[SheetFile, ...]") -> None:
            self.show_tables(path.name, [(one.name, one.rows) for one in sheets])

        self.run(f"Reading {path.name}", lambda _step: read_sheets(path), done)

    def show_tables(self, name: str, tables: Sequence[tuple[str, list[list[str]]]]) -> None:
        """Show what the rows of tables, by their names, become before they are taken in."""
        self.show_cells()
        self.cells.typing.preview(name, tables)

    def take_scores(self, paths: Sequence[Path]) -> None:
        """Take in the scores of small tables, as one edit."""
        from blunt_ruler.core.runs.import_scores import ToldScore, take_scores
        from blunt_ruler.exchange.tables.scores import read_scores
        from blunt_ruler.logbook.store import now_text

        name = paths[0].name if len(paths) == 1 else f"{len(paths)} files"

        def work(_step: object) -> "tuple[ToldScore, ...]":
            return tuple(one for path in paths for one in read_scores(path))

        def done(told: "tuple[ToldScore, ...]") -> None:
            self.show_cells()
            moment = now_text()
            self.desk.make(
                f"Scores of {name}",
                lambda contents, review: take_scores(contents, review, told, name, new_id, moment),
            )

        self.run(f"Reading {name}", work, done)

    def _copy(self, kind: str) -> None:
        self.cells.copy_board(kind)

    @property
    def cells(self) -> "BoardPage":
        """The page of cells."""
        _ = self.stop
        return self.view.cells

    def show_lens(self, lens: Lens) -> None:
        """Show the Board through a lens."""
        self.show_cells()
        self.cells.show_lens(lens)

    def show_cells(self) -> None:
        """Look at the cells."""
        from blunt_ruler.ui.board.view import CELLS

        self.hub.go_to(self.name)
        self.view.show_page(CELLS)

    def export(self, path: Path) -> None:
        """Write the Board as tidy CSV."""
        from blunt_ruler.exchange.documents.reports import board_csv

        contents, board = self.snapshot.contents, self.snapshot.board
        if board is not None:
            self.write(path, lambda: board_csv(contents, board))
