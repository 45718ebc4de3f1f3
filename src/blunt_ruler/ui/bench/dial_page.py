"""The dial of a rig in a slot: states by generation and lanes, made into rigs in one action."""

from functools import partial

from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from blunt_ruler.core.rigs.dial import (
    STEPS,
    DialState,
    dial_line,
    dial_states,
    dialled,
    own_state,
    turn_dial,
    usual_states,
    why_no_dial,
)
from blunt_ruler.core.text import count_text
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import allow, card, empty, label, scrolling


class DialPage(Page):
    """States below the rig's own, to tick; those that are rigs already say so."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self._snapshot: Snapshot | None = None
        self._rig = ""
        self.boxes: dict[DialState, QPushButton] = {}
        self._grid_holder = QWidget()
        self._grid = QGridLayout(self._grid_holder)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(6)
        self.usual = QPushButton("Choose the few that tell you most")
        self.usual.clicked.connect(self._on_usual)
        self.make = QPushButton("Make them rigs")
        self.make.setObjectName("main")
        self.make.clicked.connect(self._on_make)
        self.says = label("", "quiet")
        rates = label("GB/s after line code, one way", "small")
        steps = [label(f"{place}. {words}", "small") for place, words in enumerate(STEPS, 1)]
        heading = label("IN THE FIRMWARE'S MENU", "heading")
        choice = beside(self.usual, self.make, STRETCH, spacing=6)
        inside = QWidget()
        cards = beside(
            (card(choice, self._grid_holder, rates, stretch=True), 1),
            (card(heading, *steps, stretch=True), 1),
            spacing=8,
        )
        stacked(self.says, cards, STRETCH, spacing=7, on=inside)
        stacked(scrolling(inside), on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Offer the states of the chosen rig; what was ticked on the same rig stays."""
        self._snapshot = snapshot
        contents, rig_id = snapshot.contents, self._chosen.rig
        ticked = self.ticked() if rig_id == self._rig else ()
        self._rig = rig_id
        self._line = dial_line(contents, rig_id)
        self.says.setText(self._line)
        self.says.setVisible(bool(why_no_dial(contents, rig_id)))
        empty(self._grid)
        self.boxes = {}
        states, own = dial_states(contents, rig_id), own_state(contents, rig_id)
        there = dialled(contents, rig_id) if states else {}
        shown = (*states, *((own,) if own and states else ()))
        lanes = sorted({one.lanes for one in shown}, reverse=True)
        rows = sorted({one.generation for one in shown}, reverse=True)
        for place, generation in enumerate(rows):
            self._grid.addWidget(label(f"{generation}.0", "quiet", wrap=False), place, 0)
        for state in shown:
            box = QPushButton(f"x{state.lanes} · {state.gb_per_s:.1f}")
            box.setMinimumWidth(72)
            box.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            box.setCheckable(True)
            box.setAccessibleName(f"State {state.name}")
            box.setChecked(state in ticked)
            why = "The rig stands there" if state == own else ""
            why = "It is a rig already" if state in there else why
            allow(box, why)
            box.toggled.connect(partial(self._on_ticked))
            self._grid.addWidget(box, rows.index(state.generation), lanes.index(state.lanes) + 1)
            self.boxes[state] = box
        why_not = why_no_dial(contents, rig_id)
        allow(self.usual, why_not)
        self._on_ticked()

    def ticked(self) -> tuple[DialState, ...]:
        """The states that are chosen, the widest first."""
        chosen = (key for key, box in self.boxes.items() if box.isChecked() and box.isEnabled())
        return tuple(sorted(chosen, reverse=True))

    def _on_ticked(self, _on: bool = False) -> None:
        count = len(self.ticked())
        self.make.setText(f"Make {count_text(count, 'rig')}" if count else "Make them rigs")
        allow(self.make, "" if count else "Choose at least one state")

    def _on_usual(self) -> None:
        if self._snapshot is not None:
            for state in usual_states(self._snapshot.contents, self._rig):
                self.boxes[state].setChecked(self.boxes[state].isEnabled())

    def _on_make(self) -> None:
        if self._snapshot is not None and self.ticked():
            contents, review = self._snapshot.contents, self._snapshot.review
            self.edited.emit(turn_dial(contents, review, self._rig, self.ticked(), new_id))
