"""Facts of records in the evidence column, each editable in place: one piece for all stops.

Fields come from the records' own declarations: a new one can be said as soon as it is there.
"""

from collections.abc import Sequence

from pydantic import BaseModel
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QToolButton, QWidget

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Meters, Run
from blunt_ruler.core.rigs.fields import field_text, fields_of
from blunt_ruler.ui.layouts import stacked
from blunt_ruler.ui.part_form import PartForm

BLANK = "not written"


class Facts(QWidget):
    """The facts of one record under a heading that folds; it says how many are not written down.

    Signals:
        changed(object, str): the record as it should be, and the words of the field.
    """

    changed = pyqtSignal(object, str)

    def __init__(self, heading: str, model: type[BaseModel]) -> None:
        super().__init__()
        self._heading, self._model = heading, model
        self.head = QToolButton()
        self.head.setObjectName("fold")
        self.head.setCheckable(True)
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.toggled.connect(self._on_folded)
        self.form = PartForm(model, blank=BLANK, of=heading, narrow=True)
        self.form.part_changed.connect(self.changed)
        self.form.hide()
        stacked(self.head, self.form, spacing=4, on=self)
        self._on_folded(False)

    def _on_folded(self, on: bool) -> None:
        self.head.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.form.setVisible(on)

    def show_record(self, record: BaseModel | None, key: str = "") -> None:
        """Show a record, or nothing; what is being typed into its form goes on."""
        self.setVisible(record is not None)
        self.form.show_part(record, key)
        if record is None:
            return
        names = [spec.name for spec in fields_of(self._model)]
        blank = sum(not field_text(getattr(record, name)) for name in names)
        self.head.setText(f"{self._heading} · {blank} open" if blank else self._heading)
        self.head.setAccessibleName(f"{self._heading}: {blank} of {len(names)} not written down")


BESIDE, RUN = "Read beside the run", "This run"


class FactsColumn(QWidget):
    """Facts of several records, one below the other.

    Signals:
        edited(Edit): this edit, please.
    """

    edited = pyqtSignal(object)

    def __init__(self, kinds: Sequence[tuple[str, type[BaseModel]]]) -> None:
        super().__init__()
        self.of = {heading: Facts(heading, model) for heading, model in kinds}
        column = stacked(spacing=4, margins=(16, 6, 16, 6), on=self)
        for facts in self.of.values():
            column.addWidget(facts)

    def ask_edit(self, label: str, *records: object) -> None:
        """Send an edit that puts records in place."""
        self.edited.emit(Edit(label[:200], tuple(records)))  # type: ignore[arg-type]


class RunFacts(FactsColumn):
    """What can be said of a run beside its figures: what was read, what happened, notes."""

    def __init__(self, kinds: Sequence[tuple[str, type[BaseModel]]] = ()) -> None:
        super().__init__([(BESIDE, Meters), (RUN, Run), *kinds])
        self._run: Run | None = None
        self.of[BESIDE].changed.connect(self._on_meters)
        self.of[RUN].changed.connect(
            lambda run, words: self.ask_edit(f"{words} of pass {run.repeat}", run)
        )

    def show_run(self, run: Run | None) -> None:
        """Show a run's facts, or nothing."""
        self._run = run
        self.of[RUN].show_record(run)
        meters = None if run is None else run.meters or Meters()
        self.of[BESIDE].show_record(meters, run.id if run is not None else "")

    def _on_meters(self, meters: Meters, words: str) -> None:
        run = self._run
        if run is not None:
            kept = None if meters.is_blank else meters
            made = run.model_copy(update={"meters": kept})
            self.ask_edit(f"{words} beside pass {run.repeat}", made)
