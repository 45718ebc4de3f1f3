"""The ladder page: where the bandwidth of up to four rigs goes, step by step, on one scale."""

from dataclasses import dataclass

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QDoubleSpinBox,
    QFrame,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
)

from blunt_ruler.bench.specs import bench_rig
from blunt_ruler.core.drawing.ladder import (
    CURVE_HEIGHT,
    HEAD,
    draw_ladder,
    draw_sweep,
    ladder_height,
)
from blunt_ruler.core.drawing.picture import SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import Scale, scale_to
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.edits import put
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.rigs.fields import field_text, said, with_field
from blunt_ruler.core.rigs.links import Ladder, bench_line, ladder_or_why, why_below
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import allow, empty, label, scroll_column

MOST_RIGS = 4


@dataclass(frozen=True, slots=True)
class RigLadder:
    """A rig's ladder, or the sentence why it has none."""

    rig: Rig
    ladder: Ladder | None
    why_not: str = ""


class LadderDrawing(PictureView):
    """One rig's ladder: every rung a step, shorter than the one above it."""

    def __init__(self, of: RigLadder, scale: Scale, with_why: bool) -> None:
        super().__init__(height=round(ladder_height(of.ladder, with_why)))
        ladder = of.ladder
        self.setAccessibleName(f"Link ladder of {of.rig.name}")
        if ladder is None:
            self.show_picture(lambda picture: _say_why(picture, of), {})
            return
        told = [f"{rung.name} {rung.gb_per_s:.2f} GB/s" for rung in ladder.rungs]
        self.setAccessibleDescription("; ".join(told))
        self.setToolTip(plain_tip("\n".join(f"{rung.name}: {rung.why}" for rung in ladder.rungs)))
        self.show_picture(
            lambda picture: draw_ladder(picture, of.rig.name, ladder, scale, of.rig.id, with_why),
            {},
        )


def _say_why(picture: Picture, of: RigLadder) -> None:
    picture.words(0.0, 13.0, of.rig.name, size=picture.body, weight=SEMIBOLD)
    picture.words(0.0, HEAD + 12, of.why_not, colour=picture.theme.steel, most=picture.width)


class LadderPage(Page):
    """The ladders of the chosen rigs, the budget of a frame, and the measured figure.

    Signals:
        sweep_requested(str): play the bus sweep for a rig on the simulated bench.
        import_requested(str): read the measured bandwidth of a rig from a sweep's file.
    """

    sweep_requested = pyqtSignal(str)
    import_requested = pyqtSignal(str)

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self._ladders: tuple[RigLadder, ...] = ()
        self.rate = QDoubleSpinBox()
        self.rate.setRange(1.0, 1000.0)
        self.rate.setDecimals(0)
        self.rate.setValue(60.0)
        self.rate.setSuffix("\u202ffps")
        self.rate.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.rate.setFixedWidth(84)
        self.rate.setAccessibleName("Frame rate for the budget")
        self.rate.valueChanged.connect(lambda _value: self._show_budget())
        self.budget = label("", "says")
        self.measured = QLineEdit()
        self.measured.setFixedWidth(110)
        self.measured.setPlaceholderText("unknown")
        self.measured.setAccessibleName("Measured bandwidth, GB/s")
        self.measured.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.measured.editingFinished.connect(self._on_measured)
        self.sweep = QPushButton("Play the bus sweep")
        self.sweep.setToolTip("On the simulated bench, for rigs it knows by name")
        self.sweep.clicked.connect(lambda: self.sweep_requested.emit(self._chosen.rig))
        self.bring = QPushButton("Import a sweep…")
        self.bring.clicked.connect(lambda: self.import_requested.emit(self._chosen.rig))
        self.wrong = label("", "error")
        self.below = label("", "caution")
        self.drawings = QVBoxLayout()
        self.drawings.setSpacing(14)
        frame = QFrame()
        frame.setObjectName("card")
        stacked(self.drawings, margins=(16, 10, 16, 12), on=frame)
        typed = beside(
            label("measured, host to card", "quiet", wrap=False),
            self.measured,
            label("GB/s", "small", wrap=False),
            self.sweep,
            self.bring,
            STRETCH,
        )
        column = scroll_column(self)
        column.addWidget(frame)
        self.sweep_view = PictureView(height=round(CURVE_HEIGHT))
        self.sweep_view.setAccessibleName("Bus sweep of the chosen rig")
        self.sweep_frame = QFrame()
        self.sweep_frame.setObjectName("card")
        stacked(self.sweep_view, margins=(16, 8, 16, 8), on=self.sweep_frame)
        column.addWidget(self.sweep_frame)
        column.addLayout(beside(label("at", "quiet", wrap=False), self.rate, (self.budget, 1)))
        column.addLayout(typed)
        column.addWidget(self.wrong)
        column.addWidget(self.below)
        self.note = label(
            "The band is what such links move in practice. Hold Ctrl and choose up to four rigs "
            "on the left to see their ladders on one scale.",
            "quiet",
        )
        column.addWidget(self.note)
        column.addStretch(1)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the ladders of the chosen rigs, the first one's measured figure with them."""
        contents = snapshot.contents
        keys = (self._chosen.rig, *self._chosen.beside)
        rigs = [contents.rigs[key] for key in keys if key in contents.rigs][:MOST_RIGS]
        if not rigs:
            return
        self._ladders = tuple(RigLadder(rig, *ladder_or_why(contents, rig)) for rig in rigs)
        main = self._ladders[0]
        link = contents.link_of(main.rig.id)
        self._line = bench_line(main.rig, main.ladder, link) if main.ladder else main.why_not
        can_sweep = bench_rig(main.rig.name) is not None
        reach = max(
            (one.ladder.rungs[0].gb_per_s for one in self._ladders if one.ladder), default=1.0
        )
        scale = scale_to(reach, most_majors=8)
        empty(self.drawings)
        for ladder_of in self._ladders:
            self.drawings.addWidget(LadderDrawing(ladder_of, scale, len(self._ladders) == 1))
        first = self._ladders[0] if self._ladders else None
        allow(
            self.sweep,
            "" if can_sweep else "The simulated bench does not know this rig",
        )
        if first is not None and not self.wrong.text():
            self.measured.setText(field_text(first.rig.measured_gb_per_s))
        curve = main.rig.sweep
        self.sweep_frame.setVisible(bool(curve))
        heard = [f"{block:g} MB {rate:.2f} GB/s" for block, rate in curve]
        self.sweep_view.setAccessibleDescription("; ".join(heard))
        practice = main.ladder.practice_high_gb_per_s if main.ladder else 0.0
        self.sweep_view.show_picture(lambda picture: draw_sweep(picture, curve, practice), {})
        below = why_below(first.ladder) if first and first.ladder else None
        self.below.setText(below or "")
        self.below.setVisible(bool(below))
        self.wrong.setVisible(bool(self.wrong.text()))
        self._show_budget()

    def _show_budget(self) -> None:
        said_of = [
            f"{one.ladder.per_frame_words(self.rate.value())} a frame on {one.rig.name}"
            for one in self._ladders
            if one.ladder is not None
        ]
        self.budget.setText("; ".join(said_of))

    def _on_measured(self) -> None:
        if not self._ladders:
            return
        rig = self._ladders[0].rig
        text = self.measured.text().strip()
        if text == field_text(rig.measured_gb_per_s):
            self.wrong.setText("")
            self.wrong.hide()
            return
        try:
            changed = with_field(rig, "measured_gb_per_s", text)
        except UserFixable as error:
            self.wrong.setText(said(error))
            self.wrong.show()
            return
        self.wrong.setText("")
        self.wrong.hide()
        changed = changed.model_copy(update={"measured_how": "typed" if text else ""})
        self.edited.emit(put(f"measured bandwidth of {rig.name}", changed))
