"""The first page: no logbook is open yet, and here is how to get one."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.widgets import Stop, label


class WelcomeStop(Stop):
    """Shown until a logbook is open.

    Signals:
        new_requested(), open_requested(), demo_requested(): the three ways in.
    """

    new_requested = pyqtSignal()
    open_requested = pyqtSignal()
    demo_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Welcome", evidence=False)
        self.say(
            "No logbook is open. Drop frame logs on this window to start one, or choose a way in."
        )
        row = QHBoxLayout()
        for words, signal, kind in (
            ("New logbook…", self.new_requested, "primary"),
            ("Open a logbook…", self.open_requested, ""),
            ("Look at the demo", self.demo_requested, ""),
        ):
            button = QPushButton(words)
            button.setObjectName(kind)
            button.clicked.connect(signal)
            row.addWidget(button)
        row.addStretch(1)
        self.body.addLayout(row)
        self.body.addSpacing(10)
        self.body.addWidget(
            label(
                "A logbook is one file that holds your reviews, every rig you ever described and "
                "every run you ever took. Each edit is written at once and can be undone.",
                "quiet",
            )
        )
        self.body.addStretch(1)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Nothing here depends on the logbook."""
