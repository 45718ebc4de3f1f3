"""What the Limits wish: tests for the plan."""

from typing import TYPE_CHECKING

from blunt_ruler.ui.desk.controller import Controller
from blunt_ruler.ui.desk.snapshot import new_id
from blunt_ruler.ui.desk.stop import Stop

if TYPE_CHECKING:
    from blunt_ruler.core.limits.next_measurement import NextTest


class LimitsController(Controller):
    """Between the Limits and the desk."""

    name = "Limits"

    def build(self) -> Stop:
        """The view."""
        from blunt_ruler.ui.limits import view

        stop = view.LimitsStop()
        stop.when_built(view.NEXT, lambda page: page.test_requested.connect(self._on_test))
        return stop

    def _on_test(self, test: "NextTest") -> None:
        from blunt_ruler.core.limits.next_measurement import planned

        contents, review = self.snapshot.contents, self.snapshot.review
        edit = planned(contents, review, test, new_id) if review is not None else None
        if edit is None:
            self.banner.show_said(f"{test.says}: take it on the Bench, page Ladder.")
        self.desk.apply(edit)
