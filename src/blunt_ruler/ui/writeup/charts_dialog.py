"""Ask as what the charts of the running order are written, and where."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QWidget

from blunt_ruler.exchange.charts.sheet import CLEAR, SVG_KIND
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import label
from blunt_ruler.ui.writeup.folder_dialog import FolderDialog

KINDS = {
    "1920x1080": "PNG, 1920 × 1080",
    "1280x720": "PNG, 1280 × 720",
    CLEAR: "PNG without a background, to lay over a film",
    SVG_KIND: "SVG",
}
THEMES = {"paper": "light", "slate": "dark"}


class ChartsDialog(FolderDialog):
    """Kinds, themes and the folder.

    Signals:
        confirmed(list, list, Path): these kinds, these themes, into this folder.
    """

    confirmed = pyqtSignal(object, object, object)

    def __init__(self, folder: Path, parent: QWidget | None = None) -> None:
        buttons = ("Write the charts", "Cancel")
        super().__init__("Write the charts", "the charts", folder, buttons, parent)
        self.setMinimumWidth(560)
        self.kinds = {key: QCheckBox(words) for key, words in KINDS.items()}
        self.themes = {key: QCheckBox(words) for key, words in THEMES.items()}
        self.kinds["1920x1080"].setChecked(True)
        self.themes["paper"].setChecked(True)
        for box in (*self.kinds.values(), *self.themes.values()):
            box.toggled.connect(lambda _on: self._check())
        says = "Numbered in running order, with chapters.txt, chapters.vtt and narration.txt."
        stacked(
            label("Write the charts as", "head"),
            *self.kinds.values(),
            beside(label("in", "quiet", wrap=False), *self.themes.values(), STRETCH),
            label(says, "quiet"),
            self.folder_row(),
            self.problem,
            self.button_row(),
            spacing=8,
            margins=(20, 16, 20, 16),
            on=self,
        )
        self._check()

    def lacking(self) -> str:
        """Which of kinds and themes has no tick."""
        if not _ticked(self.kinds):
            return "No kind is ticked. Tick at least one."
        return "" if _ticked(self.themes) else "Neither light nor dark is ticked. Tick one."

    def confirm(self) -> None:
        """Tell the kinds, the themes and the folder."""
        self.confirmed.emit(_ticked(self.kinds), _ticked(self.themes), self.chosen_folder)
        self.accept()


def _ticked(boxes: dict[str, QCheckBox]) -> list[str]:
    return [key for key, box in boxes.items() if box.isChecked()]
