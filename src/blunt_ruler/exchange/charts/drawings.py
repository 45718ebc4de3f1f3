"""The six charts of a write-up. Each takes its figures from core and names its marks by them."""

from collections.abc import Callable, Mapping

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.scaling import series
from blunt_ruler.core.drawing.palette import PAPER, Theme, rig_shades
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.report import PART_WORDS, split_rows
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.resolution import megapixels
from blunt_ruler.core.rigs.links import ladder_of_rig
from blunt_ruler.core.text import MINUS, fps_text, loss_text, percent_text
from blunt_ruler.core.worth.figures import WorthFigure, money_text
from blunt_ruler.core.writeup.document import ChartKey
from blunt_ruler.core.writeup.results import typical_case, waterfall_split
from blunt_ruler.exchange.charts.canvas import (
    BODY,
    BOLD,
    HEIGHT,
    MARGIN,
    SEMIBOLD,
    SMALL,
    WIDTH,
    ChartCanvas,
)

NAMES = 330.0  # room for the rigs' names, from the left margin
MOST_RIGS = 8
MOST_CASES = 10
BASE_HATCH = "///"


def draw(
    analysis: Analysis, key: ChartKey, title: str, says: str, theme: Theme = PAPER
) -> ChartCanvas:
    """One chart of a review."""
    return DRAWN[key](analysis, ChartCanvas(title, says, theme))


def _columns(board: Board) -> list[Column]:
    """The rigs a chart has room for: those under test first to go are the last ones."""
    if len(board.columns) <= MOST_RIGS:
        return list(board.columns)
    kept = [c for c in board.columns if c.role is not Role.TESTED]
    tested = [c for c in board.columns if c.role is Role.TESTED][: MOST_RIGS - len(kept)]
    return [c for c in board.columns if c in kept or c in tested]


def _basis(board: Board) -> str:
    base = board.base.name if board.base else "none"
    reference = board.reference.name if board.reference else "none"
    return f"Base {base} · reference {reference} · 1 % low by the {board.review.low_school} school"


def _hatch(column: Column) -> str:
    return BASE_HATCH if column.role is Role.BASE or column.built_in else ""


def ruler(analysis: Analysis, sheet: ChartCanvas) -> ChartCanvas:
    """One case on the rule: a bar from the low to the average, a thin stem from zero."""
    board, theme = analysis.board, sheet.theme
    row = typical_case(board)
    columns = _columns(board)
    if row is None:
        return sheet
    shades = rig_shades(board, theme)
    cells = {c.rig_id: board.cells.get((c.rig_id, row.case_id)) for c in columns}
    rates = [cell.average_fps for cell in cells.values() if cell]
    scale = scale_to(max([*rates, 10.0]) * 1.02, most_majors=8)
    left, right, top, bottom = MARGIN + NAMES, WIDTH - 130, 150.0, HEIGHT - 116
    step = (bottom - top) / max(len(columns), 1)
    thick = min(46.0, step * 0.62)

    def x(fps: float) -> float:
        return left + scale.share(fps) * (right - left)

    for target in board.review.target_fps:
        if target <= scale.end:
            sheet.line([(x(target), top - 16), (x(target), bottom)], theme.caution, 1.6, (6, 4))
            sheet.text(x(target) + 6, top - 20, f"{target:g}", SMALL, colour=theme.caution)
    for index, column in enumerate(columns):
        y = top + (index + 0.5) * step
        cell = cells[column.rig_id]
        change = _beside(board, column, cell.gain, cell.loss) if cell else ""
        sheet.text(MARGIN, y - 2, column.name, BODY, SEMIBOLD, most=NAMES - 16)
        sheet.text(MARGIN, y + 25, change, SMALL, colour=theme.steel, most=NAMES - 16)
        if cell is None:
            sheet.text(left + 8, y + 9, "no counted run", SMALL, colour=theme.steel)
            continue
        shade = shades[column.rig_id]
        low = cell.low_1_fps if cell.low_1_fps else cell.average_fps
        name = f"average_fps.{column.rig_id}.{row.case_id}"
        sheet.box(left, y - 3, x(low) - left, 6, shade)
        width = max(x(cell.average_fps) - x(low), 5.0)
        sheet.box(x(low), y - thick / 2, width, thick, shade, name, _hatch(column))
        sheet.figure(x(cell.average_fps) + 12, y + 10, fps_text(cell.average_fps))
    sheet.rule(left, right, bottom + 6, scale, "frames/s")
    sheet.foot(f"{_basis(board)} · bars run from the low to the average")
    return sheet


def _beside(board: Board, column: Column, gain: float | None, loss: float | None) -> str:
    if column.role is Role.BASE:
        return "base"
    if column.role is Role.REFERENCE:
        return "reference"
    parts = []
    if gain is not None and board.base:
        parts.append(f"{percent_text(gain, signed=True)} base")
    if loss is not None and board.reference:
        parts.append(f"{loss_text(loss)} ref.")
    return ", ".join(parts)


def board(analysis: Analysis, sheet: ChartCanvas) -> ChartCanvas:
    """Every case and rig: the rate in figures, the share of the reference as a bar under it."""
    shown, theme = analysis.board, sheet.theme
    columns, rows = _columns(shown), shown.rows[:MOST_CASES]
    shades = rig_shades(shown, theme)
    left, top, bottom = MARGIN + 310, 164.0, HEIGHT - 66
    each = (WIDTH - MARGIN - left) / max(len(columns), 1)
    step = (bottom - top) / max(len(rows), 1)
    for index, column in enumerate(columns):
        x = left + index * each
        sheet.box(x, 92, 7, 50, shades[column.rig_id], hatch=_hatch(column))
        two = (column.card, column.link or column.host) if len(columns) > 3 else (column.name, "")
        sheet.text(x + 16, 112, two[0], SMALL, SEMIBOLD, most=each - 24)
        sheet.text(x + 16, 139, two[1], 18, colour=theme.steel, most=each - 24)
    for line, row in enumerate(rows):
        y = top + line * step
        sheet.line([(MARGIN, y), (WIDTH - MARGIN, y)], theme.line, 1.2)
        sheet.text(MARGIN, y + step * 0.62, row.title, SMALL, SEMIBOLD, most=180)
        sheet.text(
            left - 20,
            y + step * 0.62,
            row.settings,
            19,
            colour=theme.steel,
            align="right",
            most=120,
        )
        for index, column in enumerate(columns):
            cell = shown.cells.get((column.rig_id, row.case_id))
            x, room = left + index * each + 16, each - 36
            if cell is None:
                sheet.text(x, y + step * 0.62, "–", BODY, colour=theme.steel)
                continue
            name = f"average_fps.{column.rig_id}.{row.case_id}"
            sheet.text(x, y + step * 0.6, fps_text(cell.average_fps), BODY, BOLD, name=name)
            kept = shown.kept_of_reference(column.rig_id, row.case_id)
            if kept is not None:
                sheet.box(x, y + step - 13, room, 5, theme.rule)
                sheet.box(x, y + step - 13, room * min(kept, 1.0), 5, shades[column.rig_id])
    more = len(shown.rows) - len(rows)
    rest = f" · {more} more cases in the table" if more > 0 else ""
    sheet.foot(f"Average frames per second; bars: share of the reference kept{rest}")
    return sheet


def scaling(analysis: Analysis, sheet: ChartCanvas) -> ChartCanvas:
    """Rate over resolution of the title with the most sizes, one line a rig."""
    shown, theme = analysis.board, sheet.theme
    found = series(analysis.contents, shown)
    if not found:
        return sheet
    longest = max(found, key=lambda one: len(one.megapixels))
    lines = [one for one in found if (one.title, one.preset) == (longest.title, longest.preset)]
    shades = rig_shades(shown, theme)
    names = {column.rig_id: column for column in _columns(shown)}
    lines = [one for one in lines if one.rig_id in names]
    left, right, top, bottom = MARGIN + 76, WIDTH - 330, 130.0, HEIGHT - 116
    sizes = sorted({size for one in lines for size in one.megapixels})
    scale = scale_to(max(rate for one in lines for rate in one.rates_fps) * 1.03, most_majors=6)

    def place(size: float, fps: float) -> tuple[float, float]:
        across = sizes.index(size) / max(len(sizes) - 1, 1)
        return left + 30 + across * (right - left - 60), bottom - scale.share(fps) * (bottom - top)

    for value in scale.majors():
        y = place(sizes[0], value)[1]
        sheet.line([(left, y), (right, y)], theme.line, 1.2)
        sheet.text(left - 12, y + 8, f"{value:g}", SMALL, align="right", colour=theme.steel)
    resolutions = {
        size: row.resolution
        for row in shown.rows
        if row.title == longest.title
        for size in sizes
        if megapixels(row.resolution) == size
    }
    for size in sizes:
        words = resolutions.get(size, f"{size:.1f} megapixels")
        sheet.text(place(size, 0)[0], bottom + 40, words, BODY, SEMIBOLD, align="center")
    ends = sorted((place(one.megapixels[0], one.rates_fps[0])[1], one.rig_id) for one in lines)
    label_y = dict(zip((rig for _, rig in ends), _apart([y for y, _ in ends], 34.0), strict=True))
    for number, one in enumerate(lines):
        shade = shades[one.rig_id]
        points = [place(size, fps) for size, fps in zip(one.megapixels, one.rates_fps, strict=True)]
        sheet.line(points, shade, 4.0, name=f"series.{one.rig_id}")
        for (x, y), fps in zip(points, one.rates_fps, strict=True):
            sheet.mark(x, y, number, shade)
            if one in (lines[0], lines[-1]):
                sheet.text(x, y - 22, fps_text(fps), SMALL, SEMIBOLD, align="center")
        y = min(max(label_y[one.rig_id], top + 12), bottom)
        sheet.mark(right + 24, y - 7, number, shade)
        words = f"{names[one.rig_id].name}"
        sheet.text(right + 46, y, words, SMALL, SEMIBOLD, most=WIDTH - right - 60)
    sheet.foot(f"{longest.title} {longest.preset}, average frames per second by resolution")
    return sheet


def _apart(places: list[float], least: float) -> list[float]:
    """Rising places pushed down until they stand at least so far apart."""
    spread: list[float] = []
    for place in places:
        spread.append(max(place, spread[-1] + least) if spread else place)
    return spread


def waterfall(analysis: Analysis, sheet: ChartCanvas) -> ChartCanvas:
    """From the reference's rate down to the rig's, part by part."""
    theme = sheet.theme
    split = waterfall_split(analysis)
    reference = analysis.board.reference
    if split is None or reference is None:
        return sheet
    parts = [(name, fps) for name, fps in split_rows(split).items() if abs(fps) >= 0.05]
    colours = {
        "link": theme.blue,
        "host": theme.caution,
        "screen": theme.loss,
        "card": theme.steel,
        "unexplained": theme.line,
    }
    left, right, top, bottom = MARGIN + NAMES, WIDTH - 130, 120.0, HEIGHT - 116
    scale = scale_to(max(split.reference_fps, split.average_fps) * 1.04, most_majors=8)
    step = (bottom - top) / (len(parts) + 2)
    thick = min(52.0, step * 0.62)

    def x(fps: float) -> float:
        return left + scale.share(max(fps, 0.0)) * (right - left)

    rig = analysis.board.column(split.rig)
    level = split.reference_fps
    lines: list[tuple[str, float, float, str, str, str]] = [
        (reference.name, 0.0, level, theme.reference, fps_text(level), "reference")
    ]
    for name, fps in parts:
        sign = MINUS if fps > 0 else "+"
        words = f"{sign}{abs(fps):.1f}"
        lines.append((PART_WORDS[name], level - fps, level, colours[name], words, name))
        level -= fps
    shade = rig_shades(analysis.board, theme)[split.rig]
    words = fps_text(split.average_fps)
    lines.append((rig.name if rig else split.rig, 0.0, split.average_fps, shade, words, "rig"))
    for index, (name, low, high, colour, words, key) in enumerate(lines):
        y = top + (index + 0.5) * step
        sheet.text(MARGIN, y + 9, name, BODY, SEMIBOLD, most=NAMES - 16)
        low, high = sorted((low, high))
        box = f"lost_{key}_fps.{split.rig}.{split.case}"
        sheet.box(x(low), y - thick / 2, max(x(high) - x(low), 3.0), thick, colour, box)
        if 0 < index < len(lines) - 1:
            at = x(lines[index][2])
            sheet.line([(at, y - step + thick / 2), (at, y - thick / 2)], theme.line, 1.6)
        sheet.figure(x(high) + 12, y + 10, words)
    sheet.rule(left, right, bottom + 6, scale, "frames/s")
    sheet.foot(f"{analysis.contents.case_label(split.case)} · parts from the model of the limits")
    return sheet


def ladder(analysis: Analysis, sheet: ChartCanvas) -> ChartCanvas:
    """What each link leaves for the game: line rate after code, practice range, measured notch."""
    theme, contents = sheet.theme, analysis.contents
    seen: dict[str, Column] = {}
    for column in _columns(analysis.board):
        link = contents.link_of(column.rig_id)
        if link is not None:
            seen.setdefault(link.id, column)
    ladders = []
    for column in seen.values():
        rig = contents.rigs[column.rig_id]
        card = contents.card_of(column.rig_id)
        ladders.append((column, ladder_of_rig(rig, contents.link_of(column.rig_id), card), rig))
    reach = max([one.encoded_gb_per_s or one.left_gb_per_s for _, one, _ in ladders] or [1.0])
    scale = scale_to(reach * 1.3, most_majors=8)
    shades = rig_shades(analysis.board, theme)
    left, right, top, bottom = MARGIN + NAMES, WIDTH - 110, 120.0, HEIGHT - 116
    step = (bottom - top) / max(len(ladders), 1)
    thick = min(44.0, step * 0.4)

    def x(gb: float) -> float:
        return left + scale.share(gb) * (right - left)

    for index, (column, one, rig) in enumerate(ladders):
        y = top + (index + 0.5) * step
        sheet.text(MARGIN, y + 9, column.link, BODY, SEMIBOLD, most=NAMES - 16)
        shade = shades[column.rig_id]
        if one.encoded_gb_per_s is not None:
            sheet.box(left, y - thick / 2, x(one.encoded_gb_per_s) - left, thick, theme.rule)
        name = f"left_gb_per_s.{column.rig_id}"
        sheet.box(left, y - thick / 2, x(one.left_gb_per_s) - left, thick, shade, name)
        for gb in (one.practice_low_gb_per_s, one.practice_high_gb_per_s):
            sheet.line([(x(gb), y + thick / 2), (x(gb), y + thick / 2 + 10)], theme.steel, 2)
        across = [(x(one.practice_low_gb_per_s), y + thick / 2 + 10)]
        across.append((x(one.practice_high_gb_per_s), y + thick / 2 + 10))
        sheet.line(across, theme.steel, 2)
        how = "measured" if rig.measured_gb_per_s is not None else "reckoned"
        words = f"{one.left_gb_per_s:.1f} GB/s {how}"
        at = max(x(one.encoded_gb_per_s or 0.0), x(one.left_gb_per_s)) + 12
        sheet.text(at, y + 9, words, BODY, BOLD)
    sheet.rule(left, right, bottom + 6, scale, "GB/s")
    sheet.foot(
        "Pale: line rate after its code · full: what is left for the game · bracket: in practice"
    )
    return sheet


def worth(analysis: Analysis, sheet: ChartCanvas) -> ChartCanvas:
    """Cost against frames, with the stairs that nothing stands above and to the left of."""
    theme, found = sheet.theme, analysis.worth
    points = found.points()
    if not points:
        return sheet
    left, right, top, bottom = MARGIN + 76, WIDTH - 90, 130.0, HEIGHT - 130
    across = scale_to(max([price for price, _ in points.values()] + [1.0]) * 1.05, most_majors=8)
    up = scale_to(max(frames for _, frames in points.values()) * 1.1, most_majors=6)

    def place(price: float, frames: float) -> tuple[float, float]:
        return (
            left + across.share(price) * (right - left),
            bottom - up.share(frames) * (bottom - top),
        )

    for value in up.majors():
        y = place(0, value)[1]
        sheet.line([(left, y), (right, y)], theme.line, 1.2)
        sheet.text(left - 12, y + 8, f"{value:g}", SMALL, align="right", colour=theme.steel)
    stairs: list[tuple[float, float]] = []
    for rig_id in sorted(
        (row.rig_id for row in found.rows if row.efficient), key=lambda key: points[key]
    ):
        x, y = place(*points[rig_id])
        if stairs:
            stairs.append((x, stairs[-1][1]))
        stairs.append((x, y))
    if stairs:
        stairs.append((right, stairs[-1][1]))
        sheet.line(stairs, theme.brass, 5.0, name="efficient")
    shades = rig_shades(found.board, theme)
    spots = {key: place(*point) for key, point in points.items()}
    taken = [(x - 14, y - 14, x + 14, y + 14) for x, y in spots.values()]
    for number, row in enumerate(row for row in found.rows if row.rig_id in points):
        x, y = spots[row.rig_id]
        sheet.mark(x, y, number, shades[row.rig_id], f"cost.{row.rig_id}")
        words = f"{row.column.name}, {money_text(points[row.rig_id][0], found.currency)}"
        label = _free_spot(x, y, sheet.width_of(words, SMALL, SEMIBOLD), taken)
        taken.append(label)
        sheet.text(label[0], label[3] - 6, words, SMALL, SEMIBOLD)
    sheet.rule(left, right, bottom + 8, across, found.currency)
    unpriced = sum(row.value(WorthFigure.COST) is None for row in found.rows)
    rest = f" · {unpriced} not fully priced" if unpriced else ""
    sheet.foot(
        f"Mean frames per second over {len(found.case_ids)} cases against what is still to buy"
        f"{rest}; along the brass line nothing is cheaper and faster"
    )
    return sheet


Box = tuple[float, float, float, float]


def _free_spot(x: float, y: float, width: float, taken: list[Box]) -> Box:
    """Where a label of a point may stand: (left, top, right, bottom), clear of what is there."""
    high = 28.0
    spots = [
        (left, y + down)
        for down in (-high - 10, 12, -high - 42, 44, -high - 74, 76)
        for left in (x + 16, x - 16 - width, x - width / 2)
    ]
    boxes = [(left, top, left + width, top + high) for left, top in spots]
    inside = [box for box in boxes if box[0] > MARGIN + 80 and box[2] < WIDTH - 20]
    for box in inside:
        if not any(
            box[0] < b[2] and b[0] < box[2] and box[1] < b[3] and b[1] < box[3] for b in taken
        ):
            return box
    return (inside or boxes)[0]


DRAWN: Mapping[ChartKey, Callable[[Analysis, ChartCanvas], ChartCanvas]] = {
    ChartKey.RULER: ruler,
    ChartKey.BOARD: board,
    ChartKey.SCALING: scaling,
    ChartKey.WATERFALL: waterfall,
    ChartKey.LADDER: ladder,
    ChartKey.WORTH: worth,
}
