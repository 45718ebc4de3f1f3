"""What is chosen on a stop, shared by its pages: a rig, a case, rigs set beside it."""

from PyQt6.QtCore import QObject, pyqtSignal


class Chosen(QObject):
    """A choice that every page of a stop follows.

    Signals:
        changed(): another rig or case.
    """

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.rig = ""
        self.case = ""
        self.beside: tuple[str, ...] = ()

    def choose(self, rig: str, case: str = "", beside: tuple[str, ...] = ()) -> None:
        """Choose; nothing happens where it is so already."""
        if (rig, case, beside) != (self.rig, self.case, self.beside):
            self.rig, self.case, self.beside = rig, case, beside
            self.changed.emit()
