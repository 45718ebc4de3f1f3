"""Scores against the base: a row for each part of each test, a mark for each rig on one rule."""

from blunt_ruler.core.board.lenses import rate_text
from blunt_ruler.core.board.scores import ScoreBoard
from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import scale_to

NAME, RIGHT, HEAD, RULE = 214.0, 96.0, 26.0, 36.0  # units
ROW = 30.0


def scores_height(scores: ScoreBoard) -> float:
    """How high the picture wants to be, in units."""
    return HEAD + max(len(scores.board.rows), 1) * ROW + RULE


def draw_scores(picture: Picture, scores: ScoreBoard) -> None:
    """Each rig's score over the base's, with its interval; a line where the base stands."""
    board, u, theme = scores.board, picture.unit, picture.theme
    ratios = {key: 1.0 + cell.gain for key, cell in board.cells.items() if cell.gain is not None}
    if not ratios:
        words = "No score stands beside one of the base yet."
        picture.words(8 * u, HEAD * u, words, colour=theme.steel, most=picture.width)
        return
    scale = scale_to(max(ratios.values()) * 1.06, most_majors=10)
    left, right = NAME * u, picture.width - RIGHT * u
    step = min(ROW * u, (picture.height - (HEAD + RULE) * u) / len(board.rows))
    bottom = HEAD * u + step * len(board.rows)

    def x(ratio: float) -> float:
        return left + scale.share(ratio) * (right - left)

    _legend(picture, scores)
    one = round(x(1.0)) + 0.5
    picture.line([(one, HEAD * u), (one, bottom)], theme.steel, 1.0, 4.0)
    before = ""
    for index, row in enumerate(board.rows):
        middle = HEAD * u + (index + 0.5) * step
        if row.title != before:
            picture.line([(0.0, middle - step / 2), (right, middle - step / 2)], theme.line)
            picture.words(0.0, middle, row.title, weight=BOLD, most=84 * u)
        before = row.title
        picture.words(88 * u, middle, row.settings, weight=SEMIBOLD, most=(NAME - 96) * u)
        best = ""
        for place, column in enumerate(board.columns):
            cell = board.cells.get((column.rig_id, row.case_id))
            ratio = ratios.get((column.rig_id, row.case_id))
            if cell is None or ratio is None:
                continue
            shade = picture.shades.get(column.rig_id, theme.wide)
            if cell.gain_low is not None and cell.gain_high is not None:
                ends = x(1.0 + cell.gain_low), x(1.0 + cell.gain_high)
                picture.line([(ends[0], middle), (ends[1], middle)], shade, 1.5)
            key = f"score_gain.{column.rig_id}.{row.case_id}"
            picture.mark(x(ratio), middle, place, shade, 4.5, key)
            if ratio == max(ratios.get((one.rig_id, row.case_id), 0.0) for one in board.columns):
                best = f"{rate_text(cell)} {row.unit if row.unit != 'score' else ''}".strip()
        picture.words(picture.width, middle, best, align="right", colour=theme.steel)
    picture.rule(left, right, bottom + 4 * u, scale, "× base")


def _legend(picture: Picture, scores: ScoreBoard) -> None:
    """Names of the rigs beside their marks, in one line."""
    u, theme = picture.unit, picture.theme
    told = {rig for rig, _ in scores.board.cells}
    columns = [(place, one) for place, one in enumerate(scores.board.columns) if one.rig_id in told]
    at = 4.0 * u
    for place, column in columns:
        shade = picture.shades.get(column.rig_id, theme.wide)
        picture.mark(at, 10 * u, place, shade, 4.5)
        room = (picture.width - 10 * u) / len(columns) - 24 * u
        at += 10 * u + picture.words(at + 10 * u, 10 * u, column.name, most=room) + 22 * u
