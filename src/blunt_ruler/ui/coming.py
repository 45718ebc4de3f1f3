"""A stop that is not built yet: says in one line what it will do, plainly marked as coming."""

from blunt_ruler.core.blunt_lines import COMING
from blunt_ruler.ui.desk import Spread
from blunt_ruler.ui.parts import Stop, label


class ComingStop(Stop):
    """The page of a stop that is still to be built."""

    def __init__(self, name: str) -> None:
        super().__init__(name, evidence=False)
        self.say(COMING[name])
        self.body.addWidget(label("Coming: this stop is not built yet.", "coming"))
        self.body.addStretch(1)

    def show_spread(self, spread: Spread | None) -> None:
        """Nothing here depends on the logbook yet."""
