"""The facts of the chosen cells: their newest kept passes, their cases and titles."""

from collections.abc import Iterable, Sequence

from blunt_ruler.core.records.records import Case, Contents, Decision, Review, Run, Title
from blunt_ruler.core.text import count_text
from blunt_ruler.ui.kit.facts import RunFacts

CASE, TITLE, REVIEW = "This case", "This title", "This review"


class CellFacts(RunFacts):
    """Everything that can be said of cells beside their figures."""

    def __init__(self) -> None:
        super().__init__({CASE: Case, TITLE: Title, REVIEW: Review})
        self._contents: Contents | None = None
        self.of[CASE].changed.connect(self._on_cases)
        self.of[REVIEW].changed.connect(
            lambda reviews, words: self.ask_edit(f"{words} of {reviews[0].name}", reviews)
        )
        self.of[TITLE].changed.connect(
            lambda titles, words: self.ask_edit(f"{words} of {_name(titles, 'title')}", titles)
        )

    def show_cells(
        self, contents: Contents, case_ids: Iterable[str], runs: Iterable[Sequence[Run]]
    ) -> None:
        """Show the facts of some cells: their cases, and the runs of each; nothing for a ghost."""
        self._contents = contents
        cases = [contents.cases[key] for key in dict.fromkeys(case_ids) if key in contents.cases]
        newest = []
        for of_cell in runs:
            kept = [run for run in of_cell if run.decision is Decision.KEEP]
            newest += [max(kept, key=lambda run: run.repeat)] if kept else []
        self.show_runs(newest)
        self.of[CASE].show_records(cases)
        titles = dict.fromkeys(case.title_id for case in cases)
        self.of[TITLE].show_records([contents.titles[key] for key in titles])

    def show_review(self, review: Review | None) -> None:
        """Show the facts of the review."""
        self.of[REVIEW].show_records((review,) if review is not None else ())

    def _on_cases(self, cases: Sequence[Case], words: str) -> None:
        assert self._contents is not None
        one = self._contents.case_label(cases[0].id)
        what = one if len(cases) == 1 else count_text(len(cases), "case")
        self.ask_edit(f"{words} of {what}", cases)


def _name(titles: Sequence[Title], noun: str) -> str:
    return titles[0].name if len(titles) == 1 else count_text(len(titles), noun)
