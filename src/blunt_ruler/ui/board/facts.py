"""The facts of the chosen cell: its newest kept pass, its case and its title."""

from blunt_ruler.core.records.records import Case, Contents, Decision, Run, Title
from blunt_ruler.ui.facts import RunFacts

CASE, TITLE = "This case", "This title"


class CellFacts(RunFacts):
    """Everything that can be said of a cell beside its figures."""

    def __init__(self) -> None:
        super().__init__([(CASE, Case), (TITLE, Title)])
        self._contents: Contents | None = None
        self.of[CASE].changed.connect(self._on_case)
        self.of[TITLE].changed.connect(
            lambda title, words: self.ask_edit(f"{words} of {title.name}", title)
        )

    def show_cell(self, contents: Contents, case_id: str | None, runs: tuple[Run, ...]) -> None:
        """Show a cell's facts; None for a ghost."""
        self._contents = contents
        case = contents.cases.get(case_id or "")
        kept = [run for run in runs if run.decision is Decision.KEEP]
        self.show_run(max(kept, key=lambda run: run.repeat, default=None))
        self.of[CASE].show_record(case)
        self.of[TITLE].show_record(contents.titles[case.title_id] if case is not None else None)

    def _on_case(self, case: Case, words: str) -> None:
        assert self._contents is not None
        self.ask_edit(f"{words} of {self._contents.case_label(case.id)}", case)
