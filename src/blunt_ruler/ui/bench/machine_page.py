"""The machine page: a read-only look at this computer, compared with the rig, and a live strip."""

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.compatibility import check_fit, fit_line
from blunt_ruler.core.rigs.machine_report import (
    Machine,
    besides_line,
    card_seen,
    compare_with_rig,
    comparison_line,
    device_line,
    expected_link,
    path_of,
    watch_line,
)
from blunt_ruler.core.rigs.pasted import PLAIN, as_machine, read_pasted
from blunt_ruler.core.text import capital
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label

WATCH_EVERY_MS = 1000
NOT_READ = "Read the machine first"


class MachinePage(Page):
    """Reads a machine under a root path.

    Signals:
        look_requested(str): read the machine under this root.
        fill_requested(Machine): fill in the rig from what was read.
    """

    look_requested = pyqtSignal(str)
    fill_requested = pyqtSignal(object)

    def __init__(self, chosen: Chosen, stand_ins: tuple[str, ...]) -> None:
        super().__init__()
        self._chosen = chosen
        self._contents: Contents | None = None
        self._rig: Rig | None = None
        self._machine: Machine | None = None
        self.root = QLineEdit("/")
        self.root.setAccessibleName("Root of the device tree")
        self.stand_in = QComboBox()
        self.stand_in.addItems(["this machine", *stand_ins])
        self.stand_in.setAccessibleName("This machine, or one that is shipped as a stand-in")
        self.stand_in.currentIndexChanged.connect(
            lambda at: allow(self.root, "" if at == 0 else "A stand-in has a tree of its own")
        )
        self.look = QPushButton("Read it")
        self.look.setObjectName("primary")
        self.look.clicked.connect(self._on_look)
        self.watch = QPushButton("Watch it")
        self.watch.setCheckable(True)
        self.watch.toggled.connect(self._on_watch)
        self.paste = QPushButton("Paste readings")
        self.paste.setToolTip(
            "What another system shows: link speed and width, driver version, error codes"
        )
        self.paste.clicked.connect(self._on_paste)
        self.fill = QPushButton("Fill in this rig from it")
        allow(self.fill, NOT_READ)
        self.fill.clicked.connect(lambda: self.fill_requested.emit(self._machine))
        self.says = label("Nothing was read yet. Reading changes nothing on the machine.", "says")
        self.seen = label("", "quiet")
        self.strip = QPlainTextEdit()
        self.strip.setReadOnly(True)
        self.strip.setMaximumBlockCount(200)
        self.strip.setAccessibleName("What the link does while it is watched")
        self.strip.setPlaceholderText(
            "Watch the link while a load runs: it is flagged when it is narrower or slower than "
            "the rig says. A link that slows down at idle is normal."
        )
        self._timer = QTimer(self)
        self._timer.setInterval(WATCH_EVERY_MS)
        self._timer.timeout.connect(self._on_look)
        root = label("root", "quiet", wrap=False)
        row = beside(self.stand_in, root, (self.root, 1), self.look, self.watch, self.paste)
        stacked(
            row,
            self.says,
            self.seen,
            (self.fill, Qt.AlignmentFlag.AlignLeft),
            (self.strip, 1),
            on=self,
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Compare with the chosen rig from now on."""
        self._contents = snapshot.contents
        self._rig = snapshot.contents.rigs.get(self._chosen.rig)
        if self._rig is not None:
            self._line = fit_line(self._rig.name, check_fit(snapshot.contents, self._rig.id))
        if self._machine is not None:
            self.show_machine(self._machine)

    def wanted(self) -> str:
        """The root to read, or the name of the stand-in."""
        if self.stand_in.currentIndex() > 0:
            return self.stand_in.currentText()
        return self.root.text().strip() or "/"

    def _on_look(self) -> None:
        self.look_requested.emit(self.wanted())

    def _on_watch(self, on: bool) -> None:
        self.watch.setText("Stop watching" if on else "Watch it")
        if on:
            self._on_look()
            self._timer.start()
        else:
            self._timer.stop()

    def _on_paste(self) -> None:
        self.watch.setChecked(False)
        board = QApplication.clipboard()
        try:
            machine = as_machine(read_pasted(board.text() if board is not None else ""))
        except UserFixable as error:
            self.show_error(error)
        else:
            self.show_machine(machine)

    def show_error(self, error: Exception) -> None:
        """The machine could not be read."""
        self.watch.setChecked(False)
        self.says.setText(str(error))
        self.seen.setText("")

    def show_machine(self, machine: Machine) -> None:
        """Show a look, and how it compares."""
        self._machine = machine
        allow(self.fill, NOT_READ)
        if self._contents is None or self._rig is None:
            return
        try:
            device = card_seen(machine)
            mismatches = compare_with_rig(self._contents, self._rig.id, machine)
        except UserFixable as error:
            self.says.setText(str(error))
            self.seen.setText("")
            return
        allow(self.fill, "")
        is_pasted = machine.root == PLAIN
        who = "The system that was pasted" if is_pasted else "This machine"
        self.says.setText(comparison_line(self._rig.name, mismatches, who))
        above = [
            f"{one.address}: PCIe {one.generation}.0 x{one.lanes}"
            for one in path_of(device)[:-1]
            if one.generation and one.lanes
        ]
        besides = besides_line(machine)
        said = [capital(device_line(device)), *above, *([besides] if besides else [])]
        self.seen.setText("\n".join(said))
        if self.watch.isChecked():
            lanes, generation = expected_link(self._contents, self._rig)
            self.strip.appendPlainText(watch_line(device, lanes, generation))

    def hideEvent(self, a0: QHideEvent | None) -> None:
        """Nobody looks: the watching ends."""
        super().hideEvent(a0)
        self.watch.setChecked(False)
