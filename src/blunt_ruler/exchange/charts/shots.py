"""Charts in the running order of a video: covers, bars over as many sheets as needed, the rest."""

from collections.abc import Iterator, Sequence

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board
from blunt_ruler.core.drawing.bars import DrawnBar, draw_bars
from blunt_ruler.core.drawing.palette import PAPER, Theme, rig_shades
from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Measure, Picture
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.writeup.shots import Shot, ShotKind, top_values
from blunt_ruler.exchange.charts.sheet import HEIGHT, MARGIN, WIDTH, ChartSheet

TOP, BOTTOM = 86.0, HEIGHT - 56
TITLE, SAYS, LINE = 64.0, 34.0, 46.0  # of a cover, pixels


def draw_shot(
    analysis: Analysis, shot: Shot, measure: Measure, theme: Theme = PAPER, top_value: float = 0.0
) -> ChartSheet:
    """One chart of the running order; `top_value` is the largest figure of all its sheets."""
    if shot.chart is not None:
        from blunt_ruler.exchange.charts.drawings import draw

        return draw(analysis, shot.chart, shot.title, shot.says, theme, measure)
    sheet = ChartSheet(shot.full_title, shot.says, measure, theme)
    if shot.kind in (ShotKind.COVER, ShotKind.CLOSING):
        _cover(sheet, shot, analysis)
        return sheet
    sheet.head()
    board = analysis.board
    picture = _picture(sheet, board)
    groups = [
        (
            group.label,
            [
                DrawnBar(one.rig_id, one.name, one.value, one.text, one.low, one.low_text,
                         f"{shot.unit}.{one.rig_id}.{group.label}")
                for one in group.bars
            ],
        )
        for group in shot.groups
    ]  # fmt: skip
    largest = max((bar.value for _, bars in groups for bar in bars), default=1.0)
    hatched = {one.rig_id for one in board.columns if one.role is Role.BASE or one.built_in}
    draw_bars(picture, groups, hatched, max(largest, top_value))
    sheet.paint(picture, MARGIN, TOP)
    sheet.foot(_foot(shot, analysis))
    return sheet


def _picture(sheet: ChartSheet, board: Board) -> Picture:
    shades = rig_shades(board, sheet.theme)
    return Picture(sheet.theme, WIDTH - 2 * MARGIN, BOTTOM - TOP, sheet.measure, shades)


def _foot(shot: Shot, analysis: Analysis) -> str:
    board = analysis.board
    if shot.kind is ShotKind.TEST:
        unit = "" if shot.unit == "score" else f", {shot.unit}"
        rows = [row for row in analysis.scores.board.rows if row.title == shot.title]
        lower = "; lower is better" if rows and all(row.lower_is_better for row in rows) else ""
        return f"Scores{unit}{lower}"
    low = f", thick from the 1% low ({board.review.low_school})"
    lows = any(bar.low is not None for group in shot.groups for bar in group.bars)
    return f"Bars: average frames per second{low if lows else ''}"


def _cover(sheet: ChartSheet, shot: Shot, analysis: Analysis) -> None:
    """The name of the review and its finding."""
    theme, writeup = sheet.theme, analysis.review.writeup
    picture = Picture(theme, WIDTH - 2 * MARGIN, HEIGHT, sheet.measure, {})
    y = 190.0
    for words in wrapped(shot.title, picture.width, TITLE, BOLD, sheet.measure)[:2]:
        picture.words(0.0, y, words, size=TITLE, weight=BOLD)
        y += TITLE * 1.2
    picture.box(0.0, y - 18, 160.0, 6.0, theme.brass)
    y += 50.0
    for words in wrapped(shot.says, picture.width, SAYS, SEMIBOLD, sheet.measure):
        picture.words(0.0, y, words, size=SAYS, weight=SEMIBOLD)
        y += LINE
    if writeup.byline:
        picture.words(0.0, HEIGHT - 60, writeup.byline, size=24.0, colour=theme.steel)
    sheet.paint(picture, MARGIN, 0.0)


def wrapped(words: str, width: float, size: float, weight: int, measure: Measure) -> list[str]:
    """Words on lines that are no wider than `width`."""
    lines: list[str] = []
    for word in words.split(" "):
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and measure(longer, size, weight) <= width:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def sheets(
    analysis: Analysis, shots: Sequence[Shot], measure: Measure, theme: Theme = PAPER
) -> Iterator[ChartSheet]:
    """Charts one after the other; the sheets of one chart have one scale."""
    tops = top_values(shots)
    for one in shots:
        yield draw_shot(analysis, one, measure, theme, tops[one.title])
