"""The first page: no logbook is open yet, and here is how to get one."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from blunt_ruler.ui.layouts import STRETCH, stacked
from blunt_ruler.ui.stop import BluntLine
from blunt_ruler.ui.widgets import label


class Welcome(QWidget):
    """Shown until a logbook is open.

    Signals:
        new_requested(), open_requested(), demo_requested(): the three ways in.
    """

    new_requested = pyqtSignal()
    open_requested = pyqtSignal()
    demo_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("view")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Welcome")
        self.blunt = BluntLine()
        self.blunt.say(
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
        stacked(
            (self.blunt, Qt.AlignmentFlag.AlignTop),
            row,
            10,
            label(
                "A logbook is one file that holds your reviews, every rig you ever described and "
                "every run you ever took. Each edit is written at once and can be undone.",
                "quiet",
            ),
            STRETCH,
            spacing=8,
            margins=(18, 13, 16, 14),
            on=self,
        )
