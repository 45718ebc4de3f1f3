"""The ruler under the Board: one case, and the brackets of the chosen rig."""

from functools import partial

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.board.lines import cell_line
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.drawing.ruler import HEAD, RULE, draw_ruler
from blunt_ruler.ui import theme
from blunt_ruler.ui.picture_view import PictureView

FEWEST, MOST, STEP = 2, 9, 20  # rigs, and pixels for each


class Ruler(PictureView):
    """Painted from a Board; it holds no figure of its own."""

    def __init__(self) -> None:
        super().__init__(height=1)

    def show_case(self, board: Board, row: Row, rig_id: str) -> None:
        """Show a case, with brackets about a rig."""
        self.setAccessibleName(f"Ruler for {row.label}")
        self.setAccessibleDescription(
            " ".join(
                f"{column.name}: {cell_line(board, column.rig_id, row.case_id)}"
                for column in board.columns
            )
        )
        height = HEAD + min(max(len(board.columns), FEWEST), MOST) * STEP + RULE + 6
        compose = partial(draw_ruler, board=board, row=row, rig_id=rig_id)
        self.show_picture(compose, rig_shades(board, theme.current()), height)
