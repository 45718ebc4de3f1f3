"""The charts of a write-up: pictures composed in core, on a sheet with a title and a foot."""

from collections.abc import Callable, Mapping

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.lines import focus_rig
from blunt_ruler.core.board.scaling import series, size_names
from blunt_ruler.core.drawing.board import draw_board
from blunt_ruler.core.drawing.ladder import draw_links
from blunt_ruler.core.drawing.link_curve import draw_link_curve
from blunt_ruler.core.drawing.palette import Theme, rig_shades
from blunt_ruler.core.drawing.picture import Measure, Picture
from blunt_ruler.core.drawing.references import draw_references
from blunt_ruler.core.drawing.ruler import draw_ruler, shown_columns
from blunt_ruler.core.drawing.scaling import draw_scaling
from blunt_ruler.core.drawing.scores import draw_scores
from blunt_ruler.core.drawing.strip import draw_strips
from blunt_ruler.core.drawing.waterfall import draw_waterfall
from blunt_ruler.core.drawing.worth import draw_worth
from blunt_ruler.core.limits.link_curve import first_curve
from blunt_ruler.core.rigs.links import Ladder, ladder_or_why
from blunt_ruler.core.rigs.strip import rig_strip
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.core.writeup.document import ChartKey
from blunt_ruler.core.writeup.results import typical_case, waterfall_split
from blunt_ruler.exchange.charts.sheet import HEIGHT, MARGIN, WIDTH, ChartSheet

MOST_RIGS, MOST_CASES, MOST_STRIPS = 8, 10, 6
TOP, BOTTOM = 86.0, HEIGHT - 62  # where the picture begins and ends
UNIT = 1.75  # a chart is seen from afar: everything is so much larger than in the window
FIGURE = 17.0


def draw(
    analysis: Analysis, key: ChartKey, title: str, says: str, theme: Theme, measure: Measure
) -> ChartSheet:
    """One chart of a review, laid out for whatever `measure` says of words."""
    sheet = ChartSheet(title, says, measure, theme)
    sheet.head()
    foot = DRAWN[key](analysis, sheet)
    if foot:
        sheet.foot(foot)
    return sheet


def _picture(sheet: ChartSheet, board: Board) -> Picture:
    shades = rig_shades(board, sheet.theme)
    width = WIDTH - 2 * MARGIN
    return Picture(sheet.theme, width, BOTTOM - TOP, sheet.measure, shades, UNIT, FIGURE)


def _paint(sheet: ChartSheet, picture: Picture) -> None:
    sheet.paint(picture, MARGIN, TOP)


def _basis(board: Board) -> str:
    base = board.base.name if board.base else "none"
    reference = board.reference.name if board.reference else "none"
    return f"Base {base} · reference {reference} · 1 % low ({board.review.low_school})"


def ruler(analysis: Analysis, sheet: ChartSheet) -> str:
    """One case on the rule."""
    board, row = analysis.board, typical_case(analysis.board)
    if row is None:
        return ""
    focus = focus_rig(board)
    picture = _picture(sheet, board)
    draw_ruler(picture, board, row, focus.rig_id if focus else "", MOST_RIGS)
    _paint(sheet, picture)
    return f"{_basis(board)} · bars run from the low to the average"


def board(analysis: Analysis, sheet: ChartSheet) -> str:
    """Every case and rig."""
    shown, picture = analysis.board, _picture(sheet, analysis.board)
    draw_board(picture, shown, shown_columns(shown, MOST_RIGS), MOST_CASES)
    _paint(sheet, picture)
    more = len(shown.rows) - MOST_CASES
    rest = f" · {more} more cases in the table" if more > 0 else ""
    return f"Average frames per second; bars: share of the reference kept{rest}"


def scaling(analysis: Analysis, sheet: ChartSheet) -> str:
    """Rate over resolution of the title with the most sizes, one line a rig."""
    shown = analysis.board
    found = series(analysis.contents, shown)
    if not found:
        return ""
    longest = max(found, key=lambda one: len(one.megapixels))
    names = {column.rig_id: column.name for column in shown_columns(shown, MOST_RIGS)}
    same = (longest.title, longest.preset)
    lines = [one for one in found if (one.title, one.preset) == same and one.rig_id in names]
    picture = _picture(sheet, shown)
    draw_scaling(picture, lines, names, size_names(shown, lines))
    _paint(sheet, picture)
    return f"{longest.title} {longest.preset}, average frames per second by resolution"


def waterfall(analysis: Analysis, sheet: ChartSheet) -> str:
    """From the reference's rate down to the rig's, part by part."""
    split, reference = waterfall_split(analysis), analysis.board.reference
    if split is None or reference is None:
        return ""
    rig = analysis.board.column(split.rig)
    picture = _picture(sheet, analysis.board)
    draw_waterfall(picture, split, reference.name, rig.name if rig else split.rig)
    _paint(sheet, picture)
    return f"{analysis.contents.case_label(split.case)} · parts from the model of the limits"


def ladder(analysis: Analysis, sheet: ChartSheet) -> str:
    """What each link of the review leaves for the game."""
    contents = analysis.contents
    links: dict[str, tuple[str, Ladder, str]] = {}
    for column in shown_columns(analysis.board, MOST_RIGS):
        link = contents.link_of(column.rig_id)
        found, _ = ladder_or_why(contents, contents.rigs[column.rig_id])
        if link is not None and found is not None:
            links.setdefault(link.id, (column.link, found, column.rig_id))
    picture = _picture(sheet, analysis.board)
    draw_links(picture, [*links.values()])
    _paint(sheet, picture)
    return "Pale: line rate after its code · full: left for the game · bracket: in practice"


def scores(analysis: Analysis, sheet: ChartSheet) -> str:
    """Every part of every synthetic test over the base."""
    picture = _picture(sheet, analysis.board)
    draw_scores(picture, analysis.scores)
    _paint(sheet, picture)
    return f"{_basis(analysis.board)} · on the right the best score"


def references(analysis: Analysis, sheet: ChartSheet) -> str:
    """Every rig against every reference."""
    focus = focus_rig(analysis.board)
    picture = _picture(sheet, analysis.board)
    draw_references(picture, analysis.references, focus.rig_id if focus else "")
    _paint(sheet, picture)
    return "Share of each reference's rate, mean over the cases both have, 95 % intervals"


def strip(analysis: Analysis, sheet: ChartSheet) -> str:
    """Every rig as blocks, and what is left between them."""
    columns = [one for one in shown_columns(analysis.board, MOST_STRIPS) if not one.source]
    strips = [rig_strip(analysis.contents, column.rig_id) for column in columns]
    picture = _picture(sheet, analysis.board)
    draw_strips(picture, strips)
    _paint(sheet, picture)
    return "GB/s left behind each block · pale mouth: what the card could take · red: narrow place"


def link(analysis: Analysis, sheet: ChartSheet) -> str:
    """Frames against link, for the card most measured behind links."""
    curve = first_curve(analysis.contents, analysis.board, analysis.limits.fit)
    if curve is None:
        return ""
    picture = _picture(sheet, analysis.board)
    draw_link_curve(picture, curve)
    _paint(sheet, picture)
    return (
        f"Mean over {len(curve.case_ids)} cases, band 80 %, points 95 % · picture on the card and "
        "a slot's delay"
    )


def worth(analysis: Analysis, sheet: ChartSheet) -> str:
    """Cost against frames, with the stairs that nothing stands above and to the left of."""
    found = analysis.worth
    points = found.points()
    if not points:
        return ""
    picture = _picture(sheet, found.board)
    draw_worth(picture, found, points, prices=True)
    _paint(sheet, picture)
    unpriced = sum(row.value(WorthFigure.COST) is None for row in found.rows)
    rest = f" · {unpriced} not fully priced" if unpriced else ""
    return (
        f"Mean frames per second over {len(found.case_ids)} cases against what is still to buy"
        f"{rest}; along the brass line nothing is cheaper and faster"
    )


DRAWN: Mapping[ChartKey, Callable[[Analysis, ChartSheet], str]] = {
    ChartKey.RULER: ruler,
    ChartKey.BOARD: board,
    ChartKey.SCALING: scaling,
    ChartKey.WATERFALL: waterfall,
    ChartKey.LADDER: ladder,
    ChartKey.STRIP: strip,
    ChartKey.LINK: link,
    ChartKey.SCORES: scores,
    ChartKey.REFERENCES: references,
    ChartKey.WORTH: worth,
}
