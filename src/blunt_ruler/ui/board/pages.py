"""Pages of the Board beside its cells: scaling, what is playable, scores, references."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from PyQt6.QtWidgets import QComboBox, QLineEdit

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.playable import (
    Against,
    Playable,
    Target,
    against,
    gained_words,
    parse_target,
    playable,
    playable_cell,
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
from blunt_ruler.core.text import MISSING, capital
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


RIG_WIDTH, MOST_STRETCHED = 158, 5  # of the columns of rigs


@dataclass(frozen=True, slots=True)
class _Plays:
    """What the rigs play of a title: the settings, how they stand to the base's, and in words."""

    title: str
    of: Mapping[str, tuple[Playable, Against, str]]


def _plays(rig_id: str, name: str, width: int) -> Column:
    """The column of a rig."""

    def tip(row: _Plays) -> str:
        if rig_id not in row.of:
            return ""
        one, _, gained = row.of[rig_id]
        cap = "" if one.cap_fps is None else f"An even cap is {one.cap_fps:g}."
        words = (f"{capital(gained)}." if gained else "", cap)
        return " ".join(filter(None, (*words, f"Generated frames: {one.generation}")))

    def text(row: _Plays) -> str:
        if rig_id not in row.of:
            return MISSING
        one, mark, _ = row.of[rig_id]
        return playable_cell(one, mark)

    def colour(row: _Plays) -> str:
        if rig_id not in row.of or row.of[rig_id][0].case_id is None:
            return "steel"
        return "gain" if row.of[rig_id][1] in (Against.NEW, Against.HIGHER) else ""

    def says(row: _Plays) -> str:
        return f"{text(row)}. {tip(row)}".replace("\n", ", ")

    return Column(name, text, width, colour=colour, tip=tip, says=says)


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
        self.table = RowsTable(
            "Playable settings", [Column("Title", str)], key=lambda row: row.title
        )
        self.table.wrap_words()
        self.column.addLayout(bar)
        self.column.addWidget(self.table, 1)
        self.column.addWidget(
            label(
                "✓: the base plays it at no tested setting; ▲ and ▼: at higher and lower settings "
                "than the base. Below: average and low. Rigs at different settings are not set "
                "against one another in frames. A cap near the low gives an even pace; made frames "
                "want a base rate of about 60 (common practice, no source).",
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
        rows: dict[str, dict[str, tuple[Playable, Against, str]]] = {}
        for one in found:
            mine = base.get(one.title)
            told = one, against(contents, one, mine), gained_words(contents, one, mine)
            rows.setdefault(one.title, {})[one.rig_id] = told
        rigs = dict.fromkeys(one.rig_id for one in found)
        width = 0 if len(rigs) <= MOST_STRETCHED else RIG_WIDTH
        self.table.show_rows(
            [_Plays(title, of) for title, of in rows.items()],
            [
                Column("Title", lambda row: row.title, 150, bold=lambda _row: True),
                *(_plays(rig_id, contents.rigs[rig_id].name, width) for rig_id in rigs),
            ],
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
