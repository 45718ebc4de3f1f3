"""The other pages of the Board: how it scales, what is playable, and scores of synthetic tests."""

from dataclasses import dataclass
from functools import partial
from operator import itemgetter

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
from blunt_ruler.core.board.scaling import (
    losses_that_grow,
    scaling_line,
    series,
    series_words,
    size_names,
)
from blunt_ruler.core.board.scores import GRAPHICS_PART, RigScore, rig_scores
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.drawing.scaling import draw_scaling
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import MISSING, fps_text, percent_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.picture_view import PictureView
from blunt_ruler.ui.rows import Column, RowsTable
from blunt_ruler.ui.snapshot import Snapshot
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import label


class _BoardPage(Page):
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


class ScalingPage(_BoardPage):
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


class PlayablePage(_BoardPage):
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
        self._line = playable_line(contents, board, target)
        found = playable(contents, board, target)
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


SCORE_COLUMNS = tuple(
    Column(head, itemgetter(place), width, figures=place in (2, 3, 4))
    for place, (head, width) in enumerate(
        (
            ("Test", 110),
            ("Rig", 190),
            ("Overall", 80),
            ("Graphics", 80),
            ("Against best", 96),
            ("Parts and weights", 0),
        )
    )
)


class ScoresPage(_BoardPage):
    """Synthetic tests: parts, weights and the overall; cards compared by the graphics part."""

    def __init__(self) -> None:
        super().__init__()
        self.table = RowsTable("Scores", SCORE_COLUMNS, key=lambda row: (row[0], row[1]))
        self.column.addWidget(self.table, 1)

    def fill(self, contents: Contents, board: Board) -> None:
        """Show every kept score of the logbook."""
        scores = rig_scores(contents)
        if not scores:
            self.table.show_rows([])
            self._line = (
                "No scores yet. Type the score and parts of a synthetic test, or take one from "
                "the simulated bench."
            )
            return
        best: dict[str, float] = {}
        for one in scores:
            if one.graphics is not None:
                best[one.test] = max(best.get(one.test, 0.0), one.graphics)
        self.table.show_rows(
            [
                (
                    one.test,
                    contents.rigs[one.rig_id].name,
                    _score_text(one.overall),
                    _score_text(one.graphics),
                    ""
                    if one.graphics is None
                    else percent_text(one.graphics / best[one.test] - 1.0, signed=True),
                    _parts_words(one),
                )
                for one in scores
            ]
        )
        rigs = len({one.rig_id for one in scores})
        self._line = (
            f"{len(scores)} scores on {rigs} rigs: cards are compared by the {GRAPHICS_PART} part, "
            "for the overall of one card changes with its host."
        )


def _score_text(score: float | None) -> str:
    if score is None:
        return MISSING
    return f"{score:.0f}" if score >= 100 else f"{score:.3g}"


def _parts_words(one: RigScore) -> str:
    said = []
    for name, score in one.parts.items():
        weight = one.weights.get(name)
        words = f"{name} {score:g}"
        words += "" if weight is None else f" at {weight:g}"
        said.append(f"{words} (recovered)" if name == one.recovered else words)
    return ", ".join(said)
