"""The Runs view: the sheet at work, hands free, all runs, what the checks found, thresholds."""

from blunt_ruler.ui.desk.stop import Stop
from blunt_ruler.ui.runs.findings_page import FindingsPage, ThresholdsPage
from blunt_ruler.ui.runs.hands_free_page import HandsFreePage
from blunt_ruler.ui.runs.list_page import ListPage
from blunt_ruler.ui.runs.work_page import WorkPage

AT_WORK, HANDS_FREE, LIST = "At work", "Hands free", "All runs"
FINDINGS, LINES = "Findings", "Thresholds"


class RunsStop(Stop):
    """Runs: taking, trimming, checking, deciding."""

    def __init__(self) -> None:
        super().__init__("Runs")
        self.add_page(AT_WORK, WorkPage)
        self.add_page(HANDS_FREE, HandsFreePage)
        self.add_page(LIST, ListPage)
        self.add_page(FINDINGS, FindingsPage)
        self.add_page(LINES, ThresholdsPage)
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)
        self.bar.buttons[LIST].setChecked(True)
        self.when_built(FINDINGS, lambda page: page.run_chosen.connect(self.show_run))

    def show_run(self, run_id: str) -> None:
        """Show one run in the list, whatever its filter hides."""
        self.show_page(LIST)
        page = self.page(LIST)
        assert isinstance(page, ListPage)
        page.choose(run_id)
