"""Pages of the Board beside its cells: scaling, what is playable, scores, references."""

from dataclasses import dataclass
from functools import partial

from PyQt6.QtWidgets import QComboBox, QLineEdit

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.playable import (
    Playable,
    Target,
    gained_words,
    parse_target,
    playable,
    playable_line,
)
from blunt_ruler.core.board.references import (
    References,
    change_text,
    held_basis,
    reference_words,
)
from blunt_ruler.core.board.scaling import (
    losses_that_grow,
    scaling_line,
    series,
    series_words,
    size_names,
)
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.claims.headline import reference_headline, score_headline
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.drawing.references import draw_references, references_height
from blunt_ruler.core.drawing.scaling import draw_scaling
from blunt_ruler.core.drawing.scores import draw_scores, scores_height
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.text import MISSING, fps_text
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import card, label


class DrawnPage(Page):
    """A page drawn from a Board, with a line of its own."""

    def __init__(self) -> None:
        super().__init__()
        self._snapshot: Snapshot | None = None
        self.column = stacked(spacing=8, on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Take in what lies on the desk."""
        self._snapshot = snapshot
        if snapshot.board is not None:
            self.fill(snapshot.contents, snapshot.board)

    def fill(self, contents: Contents, board: Board) -> None:
        """Show the page for a Board."""
        raise NotImplementedError


class ScalingPage(DrawnPage):
    """Rate and loss against megapixels, one title at a time, and where losses grow."""

    def __init__(self) -> None:
        super().__init__()
        self.title = QComboBox()
        self.title.setAccessibleName("Title to show")
        self.title.setMinimumWidth(220)
        self.title.activated.connect(lambda _index: self._draw())
        self.rates = PictureView()
        self.rates.setAccessibleName("Rate against resolution")
        self.kept = PictureView()
        self.kept.setAccessibleName("Share kept against resolution")
        self.table = RowsTable(
            "Series",
            [
                Column("Series, from few pixels to many", lambda one: one[0]),
                Column("Note", lambda one: one[1], 210),
            ],
        )
        self.column.addLayout(beside(label("title", "quiet", wrap=False), self.title, STRETCH))
        self.column.addLayout(beside(self.rates, self.kept), 3)
        self.column.addWidget(self.table, 2)

    def fill(self, contents: Contents, board: Board) -> None:
        """Show the titles that were measured at two resolutions or more."""
        self._line = scaling_line(contents, board)
        found = series(contents, board)
        chosen = self.title.currentText()
        self.title.clear()
        self.title.addItems(list(dict.fromkeys(one.title for one in found)))
        self.title.setCurrentIndex(max(self.title.findText(chosen), 0))
        growing = {(one.rig_id, one.title) for one in losses_that_grow(contents, board)}
        self.table.show_rows(
            [
                (
                    series_words(contents, one),
                    "the loss grows" if (one.rig_id, one.title) in growing else "",
                )
                for one in found
            ]
        )
        self._draw()

    def _draw(self) -> None:
        """Draw the chosen title."""
        snapshot = self._snapshot
        if snapshot is None or snapshot.board is None:
            return
        contents, board = snapshot.contents, snapshot.board
        lines = [one for one in series(contents, board) if one.title == self.title.currentText()]
        names = {one.rig_id: contents.rigs[one.rig_id].name for one in lines}
        sizes, shades = size_names(board, lines), rig_shades(board, theme.current())
        for view, kept, says in (
            (self.rates, False, "frames per second"),
            (self.kept, True, "kept of the reference, %"),
        ):
            compose = partial(
                draw_scaling, lines=lines, names=names, sizes=sizes, kept=kept, says=says
            )
            view.show_picture(compose, shades)


@dataclass(frozen=True, slots=True)
class _Play:
    """What a rig plays of a title; the title stands on its first row."""

    one: Playable
    title: str
    rig: str
    gained: str

    @property
    def key(self) -> tuple[str, str]:
        """Title and rig."""
        return self.one.title, self.one.rig_id


def _faint(row: _Play) -> str:
    return "steel" if row.one.case_id is None else ""


PLAYABLE_COLUMNS = (
    Column("Title", lambda row: row.title, 126),
    Column("Rig", lambda row: row.rig, 164),
    Column("Best settings", lambda row: row.one.settings or MISSING, 140, colour=_faint),
    Column("Rate", lambda row: fps_text(row.one.average_fps), 60, figures=True, colour=_faint),
    Column("Low", lambda row: fps_text(row.one.low_fps), 60, figures=True, colour=_faint),
    Column(
        "Even cap",
        lambda row: MISSING if row.one.cap_fps is None else f"{row.one.cap_fps:g}",
        82,
        figures=True,
        colour=_faint,
    ),
    Column(
        "What is gained",
        lambda row: row.gained,
        tip=lambda row: f"Generated frames: {row.one.generation}",
        colour=_faint,
    ),
)


class PlayablePage(DrawnPage):
    """Each rig at the best settings it can play: its own comparison, in settings and words."""

    def __init__(self) -> None:
        super().__init__()
        self.target = QLineEdit("60/45")
        self.target.setAccessibleName("Target, average over low")
        self.target.setFixedWidth(90)
        self.target.editingFinished.connect(self._on_target)
        self.wrong = label("", "error")
        bar = beside(
            label("playable is average/low of", "quiet", wrap=False),
            self.target,
            label("frames per second", "quiet", wrap=False),
            (self.wrong, 1),
        )
        self.table = RowsTable("Playable settings", PLAYABLE_COLUMNS, key=lambda row: row.key)
        self.table.wrap_words()
        self.column.addLayout(bar)
        self.column.addWidget(self.table, 1)
        self.column.addWidget(
            label(
                "Rigs at different settings are not set against one another in frames. A cap near "
                "the low gives an even pace; made frames want a base rate of about 60 (common "
                "practice, no source).",
                "small",
            )
        )

    def _goal(self) -> Target | None:
        try:
            target = parse_target(self.target.text())
        except UserFixable as error:
            self.wrong.setText(str(error))
            return None
        self.wrong.setText("")
        return target

    def _on_target(self) -> None:
        if self._snapshot is not None:
            self.show_snapshot(self._snapshot)
            self.refreshed.emit()

    def fill(self, contents: Contents, board: Board) -> None:
        """Show what each rig plays."""
        target = self._goal()
        if target is None:
            return
        found = playable(contents, board, target)
        self._line = playable_line(board, target, found)
        base = {one.title: one for one in found if board.base and one.rig_id == board.base.rig_id}
        titles = [one.title for one in found]
        self.table.show_rows(
            [
                _Play(
                    one,
                    title if title != before else "",
                    contents.rigs[one.rig_id].name,
                    gained_words(contents, one, base.get(one.title)),
                )
                for one, title, before in zip(found, titles, ["", *titles], strict=False)
            ]
        )


class ScoresPage(DrawnPage):
    """Synthetic tests as one picture: every part of every test against the base."""

    def __init__(self) -> None:
        super().__init__()
        self.picture = PictureView()
        self.picture.setAccessibleName("Scores against the base, part by part")
        self.says = label(
            "Scores are typed on the Board, under its games: “score: test” makes a row, its parts "
            "and weights are facts of the title, and “=0.85” in a part's cell weighs it.",
            "quiet",
        )
        self.column.addWidget(card(self.picture))
        self.column.addWidget(self.says)
        self.column.addStretch(1)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show every kept score of the review's rigs."""
        scores = snapshot.analysis.scores if snapshot.analysis else None
        if scores is None or snapshot.analysis is None:
            return
        self._line = score_headline(snapshot.analysis.claims, scores)
        shades = rig_shades(scores.board, theme.current())
        heard = [
            f"{row.label}, {column.name}: {cell_line(scores.board, column.rig_id, row.case_id)}"
            for row in scores.board.rows
            for column in scores.board.columns
            if (column.rig_id, row.case_id) in scores.board.cells
        ]
        self.picture.setAccessibleDescription(" ".join(heard))
        self.picture.show_picture(
            lambda picture: draw_scores(picture, scores), shades, scores_height(scores)
        )


class ReferencesPage(DrawnPage):
    """Every rig under test against every reference: whom it behaves like, and what it lacks."""

    def __init__(self) -> None:
        super().__init__()
        self._found: References | None = None
        self.rig = QComboBox()
        self.rig.setAccessibleName("Rig to hold against the references")
        self.rig.setMinimumWidth(240)
        self.rig.activated.connect(lambda _index: self._on_rig())
        self.picture = PictureView()
        self.picture.setAccessibleName("Share of each reference that each rig reaches")
        self.basis = label("", "quiet")
        self.table = RowsTable(
            "Rigs against references",
            [
                Column("Rig", lambda one: one.rig.name),
                Column("Against", lambda one: reference_words(one.reference)),
                Column("Change, 95 %", change_text, 170, figures=True),
                Column(
                    "Cases",
                    lambda one: str(one.mean.cases) if one.mean else MISSING,
                    70,
                    figures=True,
                ),
            ],
            key=lambda one: (one.rig.rig_id, one.reference.rig_id),
        )
        self.column.addLayout(beside(label("rig", "quiet", wrap=False), self.rig, STRETCH))
        self.column.addWidget(card(self.picture))
        self.column.addWidget(self.basis)
        self.column.addWidget(self.table, 1)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the rigs of the review against its references."""
        self._snapshot = snapshot
        if snapshot.analysis is not None:
            self._show(snapshot.analysis.references)

    def _show(self, found: References) -> None:
        self._found = found
        chosen = self.rig.currentData()
        self.rig.clear()
        for rig in {one.rig.rig_id: one.rig for one in found.held}.values():
            self.rig.addItem(rig.name, rig.rig_id)
        at = self.rig.findData(chosen)
        if at < 0:
            tested = [one for one in found.held if one.rig.role is Role.TESTED and one.mean]
            at = self.rig.findData(tested[0].rig.rig_id) if tested else 0
        self.rig.setCurrentIndex(at)
        self.table.show_rows(found.held)
        self._draw()

    def _on_rig(self) -> None:
        self._draw()
        self.refreshed.emit()

    def _draw(self) -> None:
        found, chosen = self._found, str(self.rig.currentData() or "")
        if found is None or self._snapshot is None or self._snapshot.board is None:
            return
        self._line = reference_headline(found, chosen)
        self.basis.setText(held_basis(found, chosen))
        heard = [
            f"{one.rig.name} against {one.reference.name}: {change_text(one)}" for one in found.held
        ]
        self.picture.setAccessibleDescription("; ".join(heard))
        shades = rig_shades(self._snapshot.board, theme.current())
        self.picture.show_picture(
            lambda picture: draw_references(picture, found, chosen),
            shades,
            references_height(found),
        )
