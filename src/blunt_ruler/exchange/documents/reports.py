"""The Board as files: a tidy CSV for other tools, and what a lens shows for the clipboard.

Every figure stands beside its base, so that a number copied out of either still says what it is
a share of.
"""

from collections.abc import Sequence

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.lenses import Lens, cell_text, lens_words, mean_text, mean_words
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import capital
from blunt_ruler.exchange.tables.csv_text import delimited

TIDY_COLUMNS = (
    "review",
    "rig",
    "role",
    "card",
    "link",
    "title",
    "scene",
    "resolution",
    "preset",
    "runs",
    "average_fps",
    "low_1_fps",
    "low_school",
    "gain",
    "gain_base",
    "loss",
    "loss_reference",
    "gain_low",
    "gain_high",
    "loss_low",
    "loss_high",
    "standing",
    "differs",
    "kind",
    "average_low_95",
    "average_high_95",
    "gain_bound",
    "loss_bound",
)


def board_csv(contents: Contents, board: Board) -> str:
    """One row per cell; gains and losses as fractions; blank where there is no figure."""
    rows: list[Sequence[object]] = [TIDY_COLUMNS]
    base = board.base.name if board.base else ""
    reference = board.reference.name if board.reference else ""
    for row in board.rows:
        case = contents.cases[row.case_id]
        for column in board.columns:
            cell = board.cells.get((column.rig_id, row.case_id))
            if cell is None:
                continue
            rows.append(
                [
                    board.review.name,
                    column.name,
                    column.role,
                    column.card,
                    column.link,
                    row.title,
                    case.scene,
                    case.resolution,
                    case.preset,
                    cell.runs,
                    _figure(cell.average_fps, 3),
                    _figure(cell.low_1_fps, 3),
                    board.review.low_school,
                    _figure(cell.gain, 5),
                    base if cell.gain is not None else "",
                    _figure(cell.loss, 5),
                    reference if cell.loss is not None else "",
                    *(_figure(bound, 5) for bound in _bounds(cell)),
                    cell.standing.worst,
                    "; ".join(cell.standing.differs),
                    cell.kind,
                    _figure(cell.rate_low, 3),
                    _figure(cell.rate_high, 3),
                    cell.over_bound if cell.gain is not None else "",
                    cell.of_bound.turned() if cell.loss is not None else "",
                ]
            )
    return delimited(rows)


def _bounds(cell: CaseResult) -> tuple[float | None, ...]:
    return cell.gain_low, cell.gain_high, cell.loss_low, cell.loss_high


def _figure(value: float | None, decimals: int) -> str:
    return "" if value is None else f"{value:.{decimals}f}"


def shown_table(board: Board, lens: Lens, kind: str) -> str:
    """The Board as it is shown through one lens, its base in the first line: "text" or "csv"."""
    heads = ["case", *(column.name for column in board.columns)]
    rows: list[Sequence[object]] = [[capital(lens_words(board, lens))], heads]
    for row in board.rows:
        texts = [cell_text(board, column.rig_id, row.case_id, lens) for column in board.columns]
        rows.append([row.label, *texts])
    means = [mean_text(board, column.rig_id, lens) for column in board.columns]
    if any(means):
        rows.append([mean_words(board), *means])
    return delimited(rows, "," if kind == "csv" else "\t")
