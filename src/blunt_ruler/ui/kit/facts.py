"""Facts of records in the evidence column, each editable in place: one piece for all stops.

Fields come from the records' own declarations: a new one can be said as soon as it is there.
"""

from collections.abc import Mapping, Sequence

from pydantic import BaseModel
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Meters, Record, Run
from blunt_ruler.core.rigs.fields import field_text
from blunt_ruler.core.text import count_text
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.widgets import Fold

BLANK = "not written"


class Facts(QWidget):
    """The facts of a record under a heading that folds; it says how many are not noted.

    Several records of a kind are edited together: what is typed is said of them all.

    Signals:
        changed(object, str): the records as they should be, a tuple, and the words of the field.
    """

    changed = pyqtSignal(object, str)

    def __init__(self, heading: str, model: type[BaseModel], only: Sequence[str] = ()) -> None:
        super().__init__()
        self._heading = heading
        self._shown: tuple[object, ...] = ()
        self.head = Fold()
        self.form = PartForm(model, blank=BLANK, of=heading, narrow=True, only=only)
        self.form.parts_changed.connect(self.changed)
        self.form.hide()
        self.head.toggled.connect(self.form.setVisible)
        stacked(self.head, self.form, spacing=4, on=self)

    def show_records(self, records: Sequence[BaseModel], key: str = "") -> None:
        """Show some records, or nothing; what is being typed into the form goes on."""
        if records and (*records, key) == self._shown:
            return
        self._shown = (*records, key)
        self.setVisible(bool(records))
        self.form.show_parts(records, key)
        names = list(self.form.fields)
        blank = sum(all(not field_text(getattr(one, name)) for one in records) for name in names)
        several = f" of {len(records)}" if len(records) > 1 else ""
        self.head.setText(f"{self._heading}{several}{f' · {blank} open' if blank else ''}")
        self.head.setAccessibleName(f"{self._heading}{several}: {blank} of {len(names)} not noted")


BESIDE, RUN = "Read beside the run", "This run"


class FactsColumn(QWidget):
    """Facts of several kinds of records, one below the other.

    Signals:
        edited(Edit): this edit, please.
    """

    edited = pyqtSignal(object)

    def __init__(self, facts: Mapping[str, Facts]) -> None:
        super().__init__()
        self.of = dict(facts)
        column = stacked(spacing=4, margins=(16, 6, 16, 6), on=self)
        for one in self.of.values():
            column.addWidget(one)

    def ask_edit(self, label: str, records: Sequence[Record]) -> None:
        """Send an edit that puts records in place."""
        self.edited.emit(Edit(label[:200], tuple(records)))


def facts_of(kinds: Mapping[str, type[BaseModel]]) -> dict[str, Facts]:
    """Facts of some kinds of records, by their headings."""
    return {heading: Facts(heading, model) for heading, model in kinds.items()}


class RunFacts(FactsColumn):
    """What can be said of runs beside their figures: what was read, what happened, notes."""

    def __init__(self, kinds: Mapping[str, type[BaseModel]] | None = None) -> None:
        super().__init__(facts_of({BESIDE: Meters, RUN: Run, **(kinds or {})}))
        self._runs: tuple[Run, ...] = ()
        self.of[BESIDE].changed.connect(self._on_meters)
        self.of[RUN].changed.connect(
            lambda runs, words: self.ask_edit(f"{words} of {_passes(runs)}", runs)
        )

    def show_runs(self, runs: Sequence[Run]) -> None:
        """Show the facts of some runs, or nothing."""
        self._runs = tuple(runs)
        self.of[RUN].show_records(runs)
        meters = [run.meters or Meters() for run in runs]
        self.of[BESIDE].show_records(meters, " ".join(run.id for run in runs))

    def _on_meters(self, meters: Sequence[Meters], words: str) -> None:
        made = [
            run.model_copy(update={"meters": None if read.is_blank else read})
            for run, read in zip(self._runs, meters, strict=True)
        ]
        self.ask_edit(f"{words} beside {_passes(made)}", made)


def _passes(runs: Sequence[Run]) -> str:
    return f"pass {runs[0].repeat}" if len(runs) == 1 else count_text(len(runs), "pass", "passes")
