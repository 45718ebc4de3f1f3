"""The Board as files: a tidy CSV for other tools and Markdown for a page.

Every figure stands beside its base, so that a number copied out of either still says what it is
a share of.
"""

import csv
import io
from pathlib import Path

from blunt_ruler.core.blunt_lines import board_basis, board_line
from blunt_ruler.core.board import Board
from blunt_ruler.core.compare import CaseResult
from blunt_ruler.core.lenses import Lens, cell_text, lens_words, mean_text, mean_words
from blunt_ruler.core.models import Contents
from blunt_ruler.core.standing import Standing, cell_standing_words
from blunt_ruler.core.text import capital
from blunt_ruler.exchange.files import write_whole

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
)


REPORTED = (Lens.RATE, Lens.LOW_1, Lens.GAIN, Lens.LOSS)


def board_csv(contents: Contents, board: Board) -> str:
    """One row per cell; gains and losses as fractions; blank where there is no figure."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(TIDY_COLUMNS)
    base = board.base.name if board.base else ""
    reference = board.reference.name if board.reference else ""
    for row in board.rows:
        case = contents.cases[row.case_id]
        for column in board.columns:
            cell = board.cells.get((column.rig_id, row.case_id))
            if cell is None:
                continue
            writer.writerow(
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
                ]
            )
    return out.getvalue()


def _bounds(cell: CaseResult) -> tuple[float | None, ...]:
    return cell.gain_low, cell.gain_high, cell.loss_low, cell.loss_high


def _figure(value: float | None, decimals: int) -> str:
    return "" if value is None else f"{value:.{decimals}f}"


def board_markdown(board: Board) -> str:
    """The blunt line, what it rests on, and one table for each lens."""
    lines = [
        f"# {board.review.name}",
        "",
        f"**{board_line(board)}**",
        "",
        f"{board_basis(board, None)}.",
    ]
    for lens in REPORTED:
        if lens is Lens.GAIN and board.base is None:
            continue
        if lens is Lens.LOSS and board.reference is None:
            continue
        lines += ["", f"## {capital(lens)}", "", f"{capital(lens_words(board, lens))}.", ""]
        lines += _table(board, lens)
    for one in board.review.left_out:
        row = next((row for row in board.rows if row.case_id == one.case_id), None)
        if row is not None:
            lines += ["", f"{row.label} is kept out of the means: {one.why or 'no reason given'}."]
    for (rig_id, case_id), cell in board.cells.items():
        if cell.standing.worst is not Standing.CLEAN:
            column = board.column(rig_id)
            label = next(row.label for row in board.rows if row.case_id == case_id)
            name = column.name if column else rig_id
            lines += ["", f"{name}, {label}: {cell_standing_words(cell.standing)}."]
    lines += ["", "Only kept runs are counted. Repeats are put together by total frames over total"]
    lines += ["time; lows of repeats by their harmonic mean."]
    return "\n".join(lines) + "\n"


def shown_table(board: Board, lens: Lens, kind: str) -> str:
    """The Board as it is shown through one lens, its base in the first line: "text" or "csv"."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n", delimiter="," if kind == "csv" else "\t")
    writer.writerow([capital(lens_words(board, lens))])
    writer.writerow(["case", *(column.name for column in board.columns)])
    for row in board.rows:
        texts = [cell_text(board, column.rig_id, row.case_id, lens) for column in board.columns]
        writer.writerow([row.label, *texts])
    means = [mean_text(board, column.rig_id, lens) for column in board.columns]
    if any(means):
        writer.writerow([mean_words(board), *means])
    return out.getvalue()


def _table(board: Board, lens: Lens) -> list[str]:
    heads = [
        f"{_cell(column.name)} ({column.role})"
        if column.role != "under test"
        else _cell(column.name)
        for column in board.columns
    ]
    lines = [
        "| case | " + " | ".join(heads) + " |",
        "|---|" + "---:|" * len(heads),
    ]
    for row in board.rows:
        figures = [cell_text(board, column.rig_id, row.case_id, lens) for column in board.columns]
        lines.append(f"| {_cell(row.label)} | " + " | ".join(figures) + " |")
    means = [mean_text(board, column.rig_id, lens) for column in board.columns]
    if any(means):
        lines.append(f"| **{mean_words(board)}** | " + " | ".join(means) + " |")
    return lines


def _cell(text: str) -> str:
    return text.replace("|", "\\|")


def write_report(contents: Contents, board: Board, out: Path) -> tuple[Path, ...]:
    """Write board.csv and board.md into a folder; their paths."""
    return (
        write_whole(out / "board.csv", board_csv(contents, board)),
        write_whole(out / "board.md", board_markdown(board)),
    )
