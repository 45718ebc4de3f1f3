"""A board on one sheet: rates in figures, under each the share kept of the reference as a rule."""

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.lenses import rate_text
from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture
from blunt_ruler.core.records.records import Role

SIDE, HEAD = 178.0, 42.0  # units


def draw_board(picture: Picture, board: Board, columns: list[Column], most: int) -> None:
    """The first `most` cases, a row each, for some rigs."""
    u, theme = picture.unit, picture.theme
    rows = board.rows[:most]
    each = (picture.width - SIDE * u) / max(len(columns), 1)
    step = (picture.height - HEAD * u) / max(len(rows), 1)
    for index, column in enumerate(columns):
        x = SIDE * u + index * each
        base = column.role is Role.BASE or column.built_in
        picture.box(x, 2 * u, 4 * u, 30 * u, picture.shades[column.rig_id], hatched=base)
        first, second = column.card, column.link or column.host
        if len(columns) <= 3:
            first, second = column.name, ""
        room = each - 14 * u
        picture.words(x + 9 * u, 9 * u, first, weight=SEMIBOLD, most=room)
        picture.words(x + 9 * u, 25 * u, second, size=11 * u, colour=theme.steel, most=room)
    for number, row in enumerate(rows):
        top = HEAD * u + number * step
        middle = top + step * 0.44
        picture.line([(0.0, top), (picture.width, top)], theme.line)
        picture.words(0.0, middle, row.title, weight=SEMIBOLD, most=100 * u)
        words, room = row.settings, 70 * u
        picture.words(
            (SIDE - 10) * u,
            middle,
            picture.cut(words, 11 * u, 400, room),
            size=11 * u,
            colour=theme.steel,
            align="right",
        )
        for index, column in enumerate(columns):
            x = SIDE * u + index * each + 9 * u
            cell = board.cells.get((column.rig_id, row.case_id))
            if cell is None:
                picture.words(x, middle, "–", size=picture.body, colour=theme.steel)
                continue
            key = f"average_fps.{column.rig_id}.{row.case_id}"
            figure = rate_text(cell)
            picture.words(x, middle, figure, size=picture.body, weight=BOLD, key=key)
            kept = board.kept_of_reference(column.rig_id, row.case_id)
            if kept is not None:
                draw_share(picture, x, top + step - 6 * u, each - 20 * u, kept, column.rig_id)


def draw_share(
    picture: Picture, left: float, base: float, room: float, kept: float, rig_id: str
) -> None:
    """The share kept of the reference, on a small rule of its own."""
    u, theme = picture.unit, picture.theme
    for mark in range(11):
        x = left + room * mark / 10
        picture.line([(x, base - (5 if mark % 5 == 0 else 3) * u), (x, base)], theme.line)
    end = left + room * min(kept, 1.0)
    shade = picture.shades.get(rig_id, theme.steel)
    picture.box(left, base - u, max(end - left, 2.0 * u), 3 * u, shade)
    picture.box(end - 1.5 * u, base - 5 * u, 3 * u, 7 * u, theme.ink)
