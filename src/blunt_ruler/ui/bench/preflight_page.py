"""The pre-flight page: the steps of a rig in order, with cautions, readings and ticks."""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Rig, Tick, TickState
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.preflight import (
    OWN,
    Reading,
    Step,
    latest_ticks,
    preflight_line,
    reading_says,
    steps_for,
)
from blunt_ruler.core.rigs.rig_edits import drop_own_step, own_step, tick_step
from blunt_ruler.logbook.store import now_text
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.focus_ring import focus_last
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import empty, label, scroll_column


class _StepCard(QFrame):
    """One step.

    Signals:
        ticked(str, TickState, str): the step's key, what was done, and the reading.
        drop_requested(str): the id of a step of one's own that is to go.
    """

    ticked = pyqtSignal(str, object, str)
    drop_requested = pyqtSignal(str)

    def __init__(self, number: int, step: Step, tick: Tick | None) -> None:
        super().__init__()
        self.setObjectName("card")
        self.step = step
        self._number = label(f"{number}", "heading", wrap=False)
        self._number.setFixedWidth(20)
        words = stacked(label(step.do), spacing=2)
        for key in step.cautions:
            words.addWidget(label(f"▲ {CAUTIONS[key].says}", "caution"))
        self.reading = QLineEdit(tick.reading if tick else "")
        self.reading.setAccessibleName(f"Reading of step {number}")
        asks = "what happened" if step.reading is Reading.WORDS else str(step.reading)
        self.reading.setPlaceholderText(step.expected or asks)
        self.reading.setFixedWidth(320 if step.reading is Reading.WORDS else 86)
        self.reading.textEdited.connect(lambda _text: self._check())
        self.unit = label(step.reading.unit, "small", wrap=False)
        self.says = label("", "caution")
        self.done = QPushButton("Done")
        self.done.setCheckable(True)
        self.done.setAccessibleName(f"Step {number} is done")
        self.skip = QPushButton("Skip")
        self.skip.setCheckable(True)
        self.skip.setAccessibleName(f"Skip step {number}")
        self.done.setStyleSheet("padding-left: 9px; padding-right: 9px;")
        self.skip.setStyleSheet("padding-left: 9px; padding-right: 9px;")
        self.done.setChecked(tick is not None and tick.state is TickState.DONE)
        self.skip.setChecked(tick is not None and tick.state is TickState.SKIPPED)
        self.drop = QPushButton("Delete")
        self.drop.setAccessibleName(f"Delete step {number}, which is your own")
        self.drop.setStyleSheet("padding-left: 9px; padding-right: 9px;")
        self.drop.clicked.connect(lambda: self.drop_requested.emit(step.key.removeprefix(OWN)))
        self.done.clicked.connect(lambda: self._tick(TickState.DONE))
        self.skip.clicked.connect(lambda: self._tick(TickState.SKIPPED))
        self.when = label(tick.at.replace("T", " ")[5:16] if tick else "", "small", wrap=False)
        self.when.setToolTip(plain_tip(f"{tick.at} UTC") if tick else "")
        words.addWidget(self.says)
        words.addLayout(
            beside(
                self.reading,
                self.unit,
                self.when,
                STRETCH,
                self.drop,
                self.done,
                self.skip,
                spacing=6,
            )
        )
        beside(
            (self._number, Qt.AlignmentFlag.AlignTop),
            (words, 1),
            spacing=8,
            margins=(10, 7, 10, 7),
            on=self,
        )
        # Not before they have a parent: shown without one, each would be a window of its own.
        self.reading.setVisible(step.reading is not Reading.NONE)
        self.unit.setVisible(bool(self.unit.text()))
        self.drop.setVisible(step.key.startswith(OWN))
        self._check()

    def _check(self) -> bool:
        try:
            says = reading_says(self.step, self.reading.text())
        except UserFixable as error:
            self.says.setText(str(error))
            self.says.show()
            return False
        self.says.setText(
            f"It {says}." if says and says.startswith(("came", "reached")) else says or ""
        )
        self.says.setVisible(bool(says))
        return True

    def _tick(self, state: TickState) -> None:
        if not self._check():
            self.done.setChecked(False)
            self.skip.setChecked(False)
            return
        reading = self.reading.text().strip() if state is TickState.DONE else ""
        self.ticked.emit(self.step.key, state, reading)


class PreflightPage(Page):
    """The list.

    Signals:
        print_requested(str): print the list of a rig.
    """

    print_requested = pyqtSignal(str)

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self._rig: Rig | None = None
        self.cards: list[_StepCard] = []
        self.print = QPushButton("Print the list…")
        self.print.clicked.connect(lambda: self.print_requested.emit(self._chosen.rig))
        around = scroll_column(self)
        around.setSpacing(6)
        around.addLayout(
            beside((label(DEFER, "quiet"), 1), (self.print, Qt.AlignmentFlag.AlignTop))
        )
        self.column = QVBoxLayout()
        self.column.setSpacing(6)
        around.addLayout(self.column)
        self.own = QLineEdit()
        self.own.setPlaceholderText("A step of your own, for every rig")
        self.own.setAccessibleName("A pre-flight step of your own")
        self.own.setMaxLength(400)
        self.own.returnPressed.connect(self._on_own)
        self.ask = QCheckBox("ask what it showed")
        self.add = QPushButton("Add the step")
        self.add.clicked.connect(self._on_own)
        around.addLayout(beside((self.own, 1), self.ask, self.add, spacing=8))
        around.addStretch(1)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the steps of the chosen rig; the list stays where it is scrolled to."""
        contents = snapshot.contents
        rig = contents.rigs.get(self._chosen.rig)
        if rig is None:
            return
        self._line = preflight_line(contents, rig.id)
        area = self.findChild(QScrollArea)
        bar = area.verticalScrollBar() if area is not None else None
        place = bar.value() if bar is not None and self._rig and self._rig.id == rig.id else 0
        self._rig = rig
        empty(self.column)
        ticks = latest_ticks(contents, rig.id)
        self.cards = []
        for number, step in enumerate(steps_for(contents, rig.id), start=1):
            card = _StepCard(number, step, ticks.get(step.key))
            card.ticked.connect(
                lambda key, state, reading: self.edited.emit(
                    tick_step(rig, key, state, now_text(), reading, new_id)
                )
            )
            card.drop_requested.connect(partial(self._on_drop, contents))
            self.cards.append(card)
            self.column.addWidget(card)
        focus_last(self.own, self.ask, self.add)
        if bar is not None:
            bar.setValue(place)

    def _on_own(self) -> None:
        do = self.own.text().strip()
        if do:
            self.own.clear()
            self.edited.emit(own_step(do, self.ask.isChecked(), new_id()))

    def _on_drop(self, contents: Contents, step_id: str) -> None:
        if step_id in contents.own_steps:
            self.edited.emit(drop_own_step(contents.own_steps[step_id]))
