"""The ruler under the Board: one case, and the brackets of the chosen rig."""

from functools import partial

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.drawing.ruler import HEAD, RULE, draw_ruler
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.picture_view import PictureView

FEWEST, MOST, STEP, ROOMY_STEP = 2, 9, 20, 64  # rigs, and pixels for each


class Ruler(PictureView):
    """Painted from a Board; it holds no figure of its own."""

    def __init__(self) -> None:
        super().__init__(height=1)
        self._least = self._most = 1

    def take_room(self, spare: int) -> None:
        """Grow by spare pixels, or give some back, between its least and its roomy height."""
        height = min(max(self._height + spare, self._least), self._most)
        if height != self._height:
            self._height = height
            self.updateGeometry()
            self.update()

    def show_case(self, board: Board, row: Row, rig_id: str) -> None:
        """Show a case, with brackets about a rig."""
        self.setAccessibleName(f"Ruler for {row.label}")
        self.setAccessibleDescription(
            " ".join(
                f"{column.name}: {cell_line(board, column.rig_id, row.case_id)}"
                for column in board.columns
            )
        )
        count = min(max(len(board.columns), FEWEST), MOST)
        self._least = round(HEAD + count * STEP + RULE + 6)
        self._most = round(HEAD + count * ROOMY_STEP + RULE + 6)
        height = min(max(self._height, self._least), self._most)
        compose = partial(draw_ruler, board=board, row=row, rig_id=rig_id)
        self.show_picture(compose, rig_shades(board, theme.current()), height)
