"""The plot of Worth: cost against frames; a click chooses the rig of the nearest mark."""

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, pyqtSignal
from PyQt6.QtGui import QMouseEvent

from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.drawing.picture import Picture
from blunt_ruler.core.drawing.worth import draw_worth
from blunt_ruler.core.text import fps_text
from blunt_ruler.core.worth.alternatives import alternative_sentence
from blunt_ruler.core.worth.figures import money_text
from blunt_ruler.core.worth.money import efficient
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.picture_view import PictureView, new_picture

HIT = 14.0  # pixels


class WorthPlot(PictureView):
    """Painted from points.

    Signals:
        rig_chosen(str): this rig.
    """

    rig_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__(framed=True)
        self._worth: Worth | None = None
        self._points: dict[str, tuple[float, float]] = {}
        self._rig_id = ""
        self.setMinimumHeight(150)
        self.setAccessibleName("Cost against frames")

    def show_points(
        self, worth: Worth, points: Mapping[str, tuple[float, float]], rig_id: str
    ) -> None:
        """Show (price, frames) of each rig by id, one of them chosen."""
        self._worth, self._points, self._rig_id = worth, dict(points), rig_id
        best = efficient(self._points)
        told = []
        for row in worth.rows:
            if row.rig_id in self._points:
                price, frames = self._points[row.rig_id]
                mark = ", nothing is cheaper and faster" if row.rig_id in best else ""
                told.append(
                    f"{row.column.name}: {money_text(price, worth.currency)}, "
                    f"{fps_text(frames)} frames per second{mark}"
                )
        told += [alternative_sentence(worth, one).computed for one in worth.alternatives]
        self.setAccessibleDescription("; ".join(told))
        self.show_picture(self._draw, rig_shades(worth.board, theme.current()))

    def _draw(self, picture: Picture) -> Mapping[str, tuple[float, float]]:
        if self._worth is None or not self._points:
            words = "No rig has both a price and frames yet."
            middle = picture.width / 2, picture.height / 2
            picture.words(*middle, words, colour=picture.theme.steel, align="center")
            return {}
        return draw_worth(picture, self._worth, self._points, self._rig_id)

    def place(self, rig_id: str) -> QPointF:
        """Where a rig's mark stands."""
        assert self._worth is not None
        shades = rig_shades(self._worth.board, theme.current())
        return QPointF(*self._draw(new_picture(self.width(), self.height(), shades))[rig_id])

    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None:
            return
        for rig_id in self._points:
            if (self.place(rig_id) - a0.position()).manhattanLength() <= HIT:
                self.rig_chosen.emit(rig_id)
                return
