"""What the Plan does off the interface thread: shortening plans, writing run sheets."""

from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, cast

from blunt_ruler.ui.desk.controller import Controller
from blunt_ruler.ui.desk.jobs import Job

if TYPE_CHECKING:
    from blunt_ruler.core.plan.bench_plan import BenchPlan
    from blunt_ruler.core.types import Progress
    from blunt_ruler.ui.plan.view import PlanStop

SHEETS = "PDF (*.pdf);;HTML (*.html);;CSV (*.csv);;ODS (*.ods);;Calendar (*.ics)"


class PlanController(Controller):
    """Between the Plan and the desk."""

    name = "Plan"
    _deriving: Job | None = None

    def build(self) -> "PlanStop":
        """The view."""
        from blunt_ruler.ui.plan.view import PlanStop

        stop = PlanStop()
        stop.derive_requested.connect(self._on_derive)
        stop.sheet_requested.connect(
            lambda: self.ask_save("Run sheet", "run-sheet.pdf", SHEETS, self.write_sheet)
        )
        return stop

    def print_page(self) -> bool:
        """Ask where to put the run sheet."""
        self.view.sheet.click()
        return True

    @property
    def view(self) -> "PlanStop":
        """The view, as what it is."""
        return cast("PlanStop", self.stop)

    def _on_derive(self, hours_h: float | None, seed: int) -> None:
        """Derive a plan in the background; newer wishes take the place of older ones."""
        snapshot, review = self.snapshot, self.snapshot.review
        if review is None:
            return
        if self._deriving is not None:
            self._deriving.cancel()

        def work(step: "Progress") -> "BenchPlan":
            from blunt_ruler.core.plan.bench_plan import derive_bench_plan

            step("Working the plan out", 0.0)
            return derive_bench_plan(
                snapshot.contents, review, hours_h=hours_h, seed=seed, step=step
            )

        self._deriving = self.jobs.run(
            "Working the plan out",
            work,
            lambda plan: self.view.show_plan(snapshot, plan),
            self.view.say_wrong,
        )

    def write_sheet(self, path: Path) -> None:
        """Write the run sheet in the format of the name's ending."""
        contents, review, plan = self.snapshot.contents, self.snapshot.review, self.view.shown.plan
        if review is None or plan is None:
            return

        def work(_step: "Progress") -> Path:
            from blunt_ruler.exchange.documents.run_sheet import write_sheet

            return write_sheet(contents, review, plan.table, path, date.today().isoformat())

        self.run(
            f"Writing {path.name}",
            work,
            lambda written: self.banner.show_said(f"Written: {written}"),
        )
