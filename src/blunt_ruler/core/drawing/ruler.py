"""The ruler: rates of one case along a graduated rule, with gain and loss as brackets."""

from collections.abc import Callable

from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.lenses import (
    BOUND_MARKS,
    Lens,
    is_open,
    open_change,
    rate_text,
)
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.drawing.picture import MEDIUM, SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import count_text, loss_text, percent_text

Place = Callable[[float], float]
LEFT, RIGHT, HEAD, RULE = 178.0, 78.0, 38.0, 30.0  # units
WHISKER_ROOM = 60.0
LOOSE = 3.0  # length of a dash, where a change is not told apart from none
TWO_LINES = 44.0  # a rig with so much room says its change below its name


def draw_ruler(
    picture: Picture, board: Board, row: Row, rig_id: str, most: int | None = None
) -> None:
    """One case: a bar from the low to the average, a thin stem from zero; brackets for a rig.

    `most` is how many rigs there is room for; those under test that come last give way.
    """
    u, theme = picture.unit, picture.theme
    columns = shown_columns(board, most)
    cells = {
        column.rig_id: cell
        for column in columns
        if (cell := board.cells.get((column.rig_id, row.case_id)))
    }
    if not cells:
        words = "No kept run of this case."
        picture.words(
            picture.width / 2, picture.height / 2, words, colour=theme.steel, align="center"
        )
        return
    reach = max(cell.average_fps for cell in cells.values()) * 1.04
    scale = scale_to(reach if row.unit else max(reach, 10.0), most_majors=10)
    left, right = LEFT * u, picture.width - RIGHT * u
    bottom = picture.height - RULE * u

    def x(fps: float) -> float:
        return left + scale.share(fps) * (right - left)

    _title(picture, row, list(cells.values()))
    picture.rule(left, right, bottom, scale, row.unit or "frames/s")
    for target in board.review.target_fps if not row.unit else ():
        if target <= scale.end:
            at = round(x(target)) + 0.5  # on a pixel, so that the dashes are crisp
            picture.line([(at, (HEAD - 16) * u), (at, bottom)], theme.caution, 1.0, 4.0)
            picture.words(at + 3 * u, (HEAD - 12) * u, f"{target:g}", colour=theme.caution)
    step = (bottom - (HEAD + 4) * u) / len(columns)
    for index, column in enumerate(columns):
        y = HEAD * u + (index + 0.5) * step
        _bar(picture, x, y, step, column, cells.get(column.rig_id), row, rig_id, board)
    cell = cells.get(rig_id)
    if cell is not None:
        _brackets(picture, x, board, row, rig_id, cell)


def shown_columns(board: Board, most: int | None) -> list[Column]:
    """The rigs there is room for: base and reference stay, the last under test give way."""
    if most is None or len(board.columns) <= most:
        return list(board.columns)
    kept = [column for column in board.columns if column.role is not Role.TESTED]
    tested = [column for column in board.columns if column.role is Role.TESTED]
    tested = tested[: most - len(kept)]
    return [column for column in board.columns if column in kept or column in tested]


def _title(picture: Picture, row: Row, cells: list[CaseResult]) -> None:
    u = picture.unit
    fewest, most = min(cell.runs for cell in cells), max(cell.runs for cell in cells)
    each = f"{count_text(most, 'run') if fewest == most else f'{fewest} to {most} runs'} each"
    room = (LEFT - 16) * u
    picture.words(12 * u, 14 * u, row.title, size=picture.body, weight=SEMIBOLD, most=room)
    below = " · ".join(filter(None, (row.settings, each)))
    picture.words(12 * u, 31 * u, below, colour=picture.theme.steel, most=room)


def _bar(
    picture: Picture,
    x: Place,
    y: float,
    step: float,
    column: Column,
    cell: CaseResult | None,
    row: Row,
    chosen: str,
    board: Board,
) -> None:
    u, theme = picture.unit, picture.theme
    is_chosen = column.rig_id == chosen
    ink = theme.ink if is_chosen else theme.steel
    weight = SEMIBOLD if is_chosen else MEDIUM
    room = (LEFT - 22) * u
    change = _beside(board, column, cell) if cell is not None and step >= TWO_LINES * u else ""
    lift = 8 * u if change else 0.0
    size = picture.body if step >= TWO_LINES * u else picture.small
    picture.words(12 * u, y - lift, column.name, size=size, weight=weight, colour=ink, most=room)
    if change:
        picture.words(12 * u, y + lift, change, colour=theme.steel, most=room)
    if cell is None:
        is_ended = bool(board.outcome(column.rig_id, row.case_id))
        said = "did not run" if is_ended else "no kept run"
        picture.words((LEFT + 6) * u, y, said, colour=theme.steel)
        return
    shade, thick = picture.shades[column.rig_id], min(26.0 * u, step * 0.66)
    end = x(cell.average_fps)
    start = x(cell.low_1_fps if cell.low_1_fps else cell.average_fps)
    if cell.unit:  # a score has no low: one whole bar
        start = LEFT * u
    picture.box(LEFT * u, y - 1.5 * u, start - LEFT * u, 3 * u, shade)
    base = column.role is Role.BASE or (column.built_in and column.role is not Role.REFERENCE)
    picture.box(
        start,
        y - thick / 2,
        max(end - start, 3.0 * u),
        thick,
        shade,
        key=f"average_fps.{column.rig_id}.{row.case_id}",
        hatched=base,
    )
    if column.role is Role.REFERENCE:  # a second end: told without colour
        picture.box(end - 5 * u, y - thick / 2, 2 * u, thick, theme.card)
    if cell.rate_low is not None and cell.rate_high is not None:
        low, high = x(cell.rate_low), x(cell.rate_high)
        if high - low >= 3.0 * u:
            picture.line([(low, y), (high, y)], theme.ink)
            for at in (low, high):
                picture.line([(at, y - 3 * u), (at, y + 3 * u)], theme.ink)
        end = max(end, min(high, end + WHISKER_ROOM * u))
    picture.figure(end + 7 * u, y, rate_text(cell))


def _gain_text(cell: CaseResult) -> str:
    if is_open(cell, Lens.GAIN):
        return open_change(cell, Lens.GAIN)
    return f"{BOUND_MARKS[cell.over_bound]}{percent_text(cell.gain, signed=True)}"


def _change_text(cell: CaseResult) -> str:
    if is_open(cell, Lens.LOSS):
        return open_change(cell, Lens.LOSS)
    return f"{BOUND_MARKS[cell.of_bound]}{loss_text(cell.loss)}"


def _beside(board: Board, column: Column, cell: CaseResult) -> str:
    """The change of a rig against base and reference, in few words."""
    if column.role is not Role.TESTED:
        return str(column.role)
    parts = []
    if cell.gain is not None and board.base:
        parts.append(f"{_gain_text(cell)} base")
    if cell.loss is not None and board.reference:
        parts.append(f"{_change_text(cell)} ref.")
    return ", ".join(parts)


def _brackets(
    picture: Picture,
    x: Place,
    board: Board,
    row: Row,
    rig_id: str,
    cell: CaseResult,
) -> None:
    """What a rig gains and loses; dashed and grey where it is not told apart from none."""
    theme = picture.theme
    for other, share, lens, words, better, worse in (
        (board.base, cell.gain, Lens.GAIN, _gain_text(cell), theme.gain, theme.loss),
        (board.reference, cell.loss, Lens.LOSS, _change_text(cell), theme.loss, theme.gain),
    ):
        if other is None or share is None or other.rig_id == rig_id:
            continue
        far = board.cells[other.rig_id, row.case_id].average_fps
        ends = sorted((x(far), x(cell.average_fps)))
        side = "base" if other is board.base else "ref."
        loose = is_open(cell, lens)
        colour = theme.steel if loose else worse if share < 0 else better
        _bracket(picture, ends[0], ends[1], f"{words} {side}", colour, loose, other is board.base)


def _bracket(
    picture: Picture,
    left: float,
    right: float,
    words: str,
    colour: str,
    is_loose: bool,
    leftward: bool,
) -> None:
    """One change with its ends; a short one has its words beside it, where there is room on the
    left if `leftward`, so that two short ones do not lie on each other.
    """
    dash = LOOSE if is_loose else 0.0
    u, y = picture.unit, 12.0 * picture.unit
    room = picture.measure(words, picture.small, SEMIBOLD) + 10 * u
    for at in (left, right):
        picture.line([(at, y - 5 * u), (at, y + 5 * u)], colour, 1.5)
    middle = (left + right) / 2
    if right - left > room + 12 * u:
        picture.line([(left, y), (middle - room / 2, y)], colour, 1.5, dash)
        picture.line([(middle + room / 2, y), (right, y)], colour, 1.5, dash)
    else:
        picture.line([(left, y), (right, y)], colour, 1.5, dash)
        middle = right + 5 * u + room / 2
        if leftward and left - 5 * u - room > LEFT * u:
            middle = left - 5 * u - room / 2
    picture.words(middle, y, words, weight=SEMIBOLD, colour=colour, align="center")
