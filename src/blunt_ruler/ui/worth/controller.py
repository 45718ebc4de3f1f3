"""Worth needs nothing but its edits."""

from blunt_ruler.ui.desk.controller import Controller
from blunt_ruler.ui.desk.stop import Stop


class WorthController(Controller):
    """Between Worth and the desk."""

    name = "Worth"

    def build(self) -> Stop:
        """The view."""
        from blunt_ruler.ui.worth.view import WorthStop

        return WorthStop()
