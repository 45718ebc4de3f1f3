"""The other pages of the Board: how it scales, what is playable, and scores of synthetic tests."""

import pyqtgraph as pg
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.playable import (
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
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.tables import FIGURES, table
from blunt_ruler.ui.widgets import label


class _Page(QWidget):
    """A page that says one line.

    Signals:
        line_changed(str): what the blunt line is to say.
    """

    line_changed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._spread: Snapshot | None = None
        self.line = ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Take in what lies on the desk."""
        self._spread = spread
        if spread is not None and spread.board is not None:
            self.fill(spread.contents, spread.board)

    def fill(self, contents: Contents, board: Board) -> None:
        """Show the page for a Board."""
        raise NotImplementedError

    def say(self, line: str) -> None:
        """Give the blunt line of this page."""
        self.line = line
        self.line_changed.emit(line)


class ScalingPage(_Page):
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
        self.table = table("Series", ["Series, from few pixels to many", "Note"], [0, 210])
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
        self.say(scaling_line(contents, board))
        found = series(contents, board)
        chosen = self.title.currentText()
        self.title.clear()
        self.title.addItems(list(dict.fromkeys(one.title for one in found)))
        self.title.setCurrentIndex(max(self.title.findText(chosen), 0))
        growing = {(one.rig_id, one.title) for one in losses_that_grow(contents, board)}
        self.table.clear()
        for one in found:
            note = "the loss grows" if (one.rig_id, one.title) in growing else ""
            self.table.addTopLevelItem(QTreeWidgetItem([series_words(contents, one), note]))
        self._draw()

    def _draw(self) -> None:
        """Draw the chosen title."""
        spread = self._spread
        if spread is None or spread.board is None:
            return
        board, colours = spread.board, theme.current()
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
        for one in series(spread.contents, board):
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
            name = spread.contents.rigs[one.rig_id].name
            self.rates.plot(one.megapixels, one.rates_fps, name=name, **dots)
            kept = [None if loss is None else 100.0 * (1.0 - loss) for loss in one.losses]
            if None not in kept:
                self.losses.plot(one.megapixels, kept, **dots)
        for plot in (self.rates, self.losses):
            plot.enableAutoRange()
            plot.setYRange(0.0, plot.getViewBox().childrenBounds()[1][1] * 1.08, padding=0)

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        self._draw()


class PlayablePage(_Page):
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
        self.table = table(
            "Playable settings",
            ["Title", "Rig", "Best settings", "Rate", "Low", "Even cap", "What is gained"],
            [126, 164, 140, 60, 60, 82, 0],
            (3, 4, 5),
        )
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
        if self._spread is not None and self._spread.board is not None:
            self.fill(self._spread.contents, self._spread.board)

    def fill(self, contents: Contents, board: Board) -> None:
        """Show what each rig plays."""
        target = self._goal()
        if target is None:
            return
        self.say(playable_line(contents, board, target))
        found = playable(contents, board, target)
        base = {one.title: one for one in found if board.base and one.rig_id == board.base.rig_id}
        self.table.clear()
        colours = theme.current()
        last = ""
        for one in found:
            item = QTreeWidgetItem(
                [
                    one.title if one.title != last else "",
                    contents.rigs[one.rig_id].name,
                    one.settings or MISSING,
                    fps_text(one.average_fps),
                    fps_text(one.low_fps),
                    MISSING if one.cap_fps is None else f"{one.cap_fps:g}",
                    gained_words(contents, one, base.get(one.title)),
                ]
            )
            for place in (3, 4, 5):
                item.setTextAlignment(place, FIGURES)
            item.setToolTip(6, f"Generated frames: {one.generation}")
            if one.case_id is None:
                for place in range(2, 7):
                    item.setForeground(place, QColor(colours.steel))
            self.table.addTopLevelItem(item)
            last = one.title


class ScoresPage(_Page):
    """Synthetic tests: parts, weights and the overall; cards compared by the graphics part."""

    def __init__(self) -> None:
        super().__init__()
        self.table = table(
            "Scores",
            ["Test", "Rig", "Overall", "Graphics", "Against best", "Parts and weights"],
            [110, 190, 80, 80, 96, 0],
            (2, 3, 4),
        )
        self.column.addWidget(self.table, 1)

    def fill(self, contents: Contents, board: Board) -> None:
        """Show every kept score of the logbook."""
        scores = rig_scores(contents)
        self.table.clear()
        if not scores:
            self.say(
                "No scores yet. Type the score and parts of a synthetic test, or take one from "
                "the simulated bench."
            )
            return
        best: dict[str, float] = {}
        for one in scores:
            if one.graphics is not None:
                best[one.test] = max(best.get(one.test, 0.0), one.graphics)
        for one in scores:
            against = ""
            if one.graphics is not None:
                against = percent_text(one.graphics / best[one.test] - 1.0, signed=True)
            item = QTreeWidgetItem(
                [
                    one.test,
                    contents.rigs[one.rig_id].name,
                    _score_text(one.overall),
                    _score_text(one.graphics),
                    against,
                    _parts_words(one),
                ]
            )
            for place in (2, 3, 4):
                item.setTextAlignment(place, FIGURES)
            self.table.addTopLevelItem(item)
        rigs = len({one.rig_id for one in scores})
        self.say(
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
