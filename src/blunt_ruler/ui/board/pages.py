"""The other pages of the Board: how it scales, what is playable, and scores of synthetic tests."""

from dataclasses import dataclass
from operator import itemgetter

import pyqtgraph as pg
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.playable import (
    Playable,
    Target,
    gained_words,
    parse_target,
    playable,
    playable_line,
)
from blunt_ruler.core.board.scaling import losses_that_grow, scaling_line, series, series_words
from blunt_ruler.core.board.scores import GRAPHICS_PART, RigScore, rig_scores
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import MISSING, fps_text, percent_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.rows import Column, RowsTable
from blunt_ruler.ui.snapshot import Snapshot
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import label


class _BoardPage(Page):
    """A page drawn from a Board, with a line of its own."""

    def __init__(self) -> None:
        super().__init__()
        self._snapshot: Snapshot | None = None
        self._line = ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)

    def line(self) -> str:
        """What the page found."""
        return self._line

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
        bar = QHBoxLayout()
        bar.addWidget(label("title", "quiet", wrap=False))
        bar.addWidget(self.title)
        bar.addStretch(1)
        self.rates = self._plot("frames per second", "Rate against megapixels")
        self.losses = self._plot("kept of the reference, %", "Share kept against megapixels")
        plots = QHBoxLayout()
        plots.addWidget(self.rates)
        plots.addWidget(self.losses)
        self.table = RowsTable(
            "Series",
            [
                Column("Series, from few pixels to many", lambda one: one[0]),
                Column("Note", lambda one: one[1], 210),
            ],
        )
        self.column.addLayout(bar)
        self.column.addLayout(plots, 3)
        self.column.addWidget(self.table, 2)

    def _plot(self, left: str, name: str) -> pg.PlotWidget:
        plot = pg.PlotWidget()
        plot.setAccessibleName(name)
        plot.setMenuEnabled(False)
        plot.hideButtons()
        plot.setMouseEnabled(x=False, y=False)
        plot.setFrameShape(pg.QtWidgets.QFrame.Shape.NoFrame)
        plot.setProperty("left", left)
        return plot

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
        board, colours = snapshot.board, theme.current()
        rig_colours = theme.rig_colours(board)
        for plot in (self.rates, self.losses):
            plot.clear()
            plot.setBackground(colours.card)
            for side in ("bottom", "left"):
                axis = plot.getAxis(side)
                axis.setPen(pg.mkPen(colours.line))
                axis.setTextPen(pg.mkPen(colours.steel))
                axis.setTickFont(theme.font(theme.SMALL))
            style = {"font-size": "12px", "color": colours.steel}
            plot.setLabel("bottom", "megapixels", **style)
            plot.setLabel("left", plot.property("left"), **style)
            plot.showGrid(y=True, alpha=0.12)
        legend = self.rates.addLegend(offset=(-8, 8), labelTextColor=colours.ink)
        legend.clear()
        for one in series(snapshot.contents, board):
            if one.title != self.title.currentText():
                continue
            colour = rig_colours.get(one.rig_id, QColor(colours.steel))
            dots = {
                "pen": pg.mkPen(colour, width=2),
                "symbol": "s",
                "symbolSize": 7,
                "symbolBrush": pg.mkBrush(colour),
                "symbolPen": None,
            }
            name = snapshot.contents.rigs[one.rig_id].name
            self.rates.plot(one.megapixels, one.rates_fps, name=name, **dots)
            kept = [None if loss is None else 100.0 * (1.0 - loss) for loss in one.losses]
            if None not in kept:
                self.losses.plot(one.megapixels, kept, **dots)
        for plot in (self.rates, self.losses):
            plot.enableAutoRange()
            plot.setYRange(0.0, plot.getViewBox().childrenBounds()[1][1] * 1.08, padding=0)


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
        bar = QHBoxLayout()
        bar.addWidget(label("playable is average/low of", "quiet", wrap=False))
        bar.addWidget(self.target)
        bar.addWidget(label("frames per second", "quiet", wrap=False))
        bar.addWidget(self.wrong, 1)
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
