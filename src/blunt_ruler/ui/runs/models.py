"""The list of runs as a Qt table: thin over the logbook's contents."""

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QColor

from blunt_ruler.core.checks.all import NOTHING, Checked
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.records.records import Contents, Decision, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.text import fps_text
from blunt_ruler.ui import theme

SORT_ROLE = Qt.ItemDataRole.UserRole + 1
RUN_ROLE = Qt.ItemDataRole.UserRole + 2
FILTER_ROLE = Qt.ItemDataRole.UserRole + 3


@dataclass(frozen=True, slots=True)
class RunLine:
    """A run with the words it is shown by."""

    run: Run
    title: str
    settings: str
    rig: str
    average_fps: float | None
    low_fps: float | None
    finding: str = ""


@dataclass(frozen=True, slots=True)
class _Head:
    name: str
    text: Callable[[RunLine], str]
    sort: Callable[[RunLine], object]
    number: bool = False


HEADS = (
    _Head(
        "Case",
        lambda line: f"{line.title}, {line.settings}" if line.settings else line.title,
        lambda line: (line.title, line.settings),
    ),
    _Head("Rig", lambda line: line.rig, lambda line: line.rig),
    _Head("Pass", lambda line: str(line.run.repeat), lambda line: line.run.repeat, True),
    _Head(
        "Average", lambda line: fps_text(line.average_fps), lambda line: line.average_fps or 0, True
    ),
    _Head("1 % low", lambda line: fps_text(line.low_fps), lambda line: line.low_fps or 0, True),
    _Head("Finding", lambda line: line.finding, lambda line: line.finding),
    _Head("Decision", lambda line: str(line.run.decision), lambda line: str(line.run.decision)),
)


def run_lines(
    contents: Contents, school: LowSchool, checked: Checked = NOTHING
) -> tuple[RunLine, ...]:
    """Every run of the logbook, newest import last."""
    lines = []
    for run in contents.runs.values():
        case = contents.cases[run.case_id]
        found = [one for one in checked.by_run.get(run.id, ()) if one.severity is not Severity.NOTE]
        lines.append(
            RunLine(
                run=run,
                title=contents.titles[case.title_id].name,
                settings=" ".join(part for part in (case.resolution, case.preset) if part),
                rig=contents.rigs[run.rig_id].name,
                average_fps=run.average_fps,
                low_fps=run.low_1_fps(school),
                finding=found[0].check.words if found else "",
            )
        )
    return tuple(lines)


class RunsModel(QAbstractTableModel):
    """Rows are runs."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: tuple[RunLine, ...] = ()

    def show_lines(self, lines: tuple[RunLine, ...]) -> None:
        """Show other lines; the choice survives where only their values changed."""
        same = [a.run.id for a in lines] == [b.run.id for b in self.lines]
        if same and lines:
            self.lines = lines
            self.dataChanged.emit(self.index(0, 0), self.index(len(lines) - 1, len(HEADS) - 1))
            return
        self.beginResetModel()
        self.lines = lines
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.lines)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(HEADS)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid():
            return None
        line = self.lines[index.row()]
        head = HEADS[index.column()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return head.text(line)
            case Qt.ItemDataRole.ToolTipRole:
                return line.run.reason or line.run.origin.file or head.text(line)
            case Qt.ItemDataRole.TextAlignmentRole:
                side = Qt.AlignmentFlag.AlignRight if head.number else Qt.AlignmentFlag.AlignLeft
                return side | Qt.AlignmentFlag.AlignVCenter
            case Qt.ItemDataRole.ForegroundRole:
                colours = theme.current()
                if head.name == "Finding":
                    return QColor(colours.loss)
                if line.run.decision is Decision.KEEP:
                    return QColor(colours.ink)
                return QColor(colours.caution if head.name == "Decision" else colours.steel)
            case _ if role == SORT_ROLE:
                return head.sort(line)
            case _ if role == RUN_ROLE:
                return line.run
            case _ if role == FILTER_ROLE:
                return f"{line.title} {line.settings} {line.rig} {line.run.decision} {line.finding}"
        return None

    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> object:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return HEADS[section].name
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = (
                Qt.AlignmentFlag.AlignRight if HEADS[section].number else Qt.AlignmentFlag.AlignLeft
            )
            return side | Qt.AlignmentFlag.AlignVCenter
        return None
