"""Cost against frames on two rules, with the stairs that nothing is above and to the left of."""

from collections.abc import Mapping

from blunt_ruler.core.drawing.picture import MEDIUM, SEMIBOLD, Picture, overlap
from blunt_ruler.core.drawing.stacks import Piece, Stack
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.text import THIN
from blunt_ruler.core.worth.costs import BESIDE, CARD, DOCK, HOST, LINK
from blunt_ruler.core.worth.figures import WorthFigure, figure_text, money_text
from blunt_ruler.core.worth.money import efficient
from blunt_ruler.core.worth.report import Worth

LEFT, RIGHT, TOP, RULE = 50.0, 66.0, 24.0, 36.0  # units
Points = Mapping[str, tuple[float, float]]
Box = tuple[float, float, float, float]


def draw_worth(
    picture: Picture, worth: Worth, points: Points, chosen: str = "", prices: bool = False
) -> Mapping[str, tuple[float, float]]:
    """(price, frames) of every rig by id; gives where their marks stand. What one could buy
    instead is hollow, with its range, and not part of the stairs.

    With `prices` a rig's name is followed by its cost.

    The rule has room for the dearest price there is, so that it does not jump while one moves.
    """
    u, theme = picture.unit, picture.theme
    left, right = LEFT * u, picture.width - RIGHT * u
    top, bottom = TOP * u, picture.height - (RULE + 6) * u
    others = _others(worth)
    every = (*worth.points().values(), *points.values(), *others.values())
    dearest = max(price for price, _ in (*every, (1.0, 0.0)))
    ends = [one.most for one in worth.alternatives if one.most is not None]
    fastest = max([*(frames for _, frames in (*points.values(), *others.values())), *ends, 1.0])
    across, up = scale_to(dearest * 1.08), scale_to(fastest * 1.12, most_majors=7)
    spots = {
        rig_id: (
            left + across.share(price) * (right - left),
            bottom - up.share(frames) * (bottom - top),
        )
        for rig_id, (price, frames) in points.items()
    }
    for value in up.majors():
        y = bottom - up.share(value) * (bottom - top)
        picture.line([(left, y), (right, y)], theme.line)
        picture.words(left - 8 * u, y, f"{value:g}", colour=theme.steel, align="right")
    picture.words(left + 2 * u, 13 * u, "frames/s", colour=theme.steel)
    picture.rule(left, right, bottom + 6 * u, across, worth.currency)
    stairs: list[tuple[float, float]] = []
    for rig_id in sorted(efficient(dict(points)), key=lambda key: points[key]):
        x, y = spots[rig_id]
        if stairs:
            stairs.append((x, stairs[-1][1]))
        stairs.append((x, y))
    if stairs:
        picture.line([*stairs, (right, stairs[-1][1])], theme.brass, 3.0, key="efficient")
    size = 8.0 * u
    hollow = {
        key: (
            left + across.share(price) * (right - left),
            bottom - up.share(frames) * (bottom - top),
        )
        for key, (price, frames) in others.items()
    }
    marks = (*spots.values(), *hollow.values())
    taken: list[Box] = [(x - size, y - size, x + size, y + size) for x, y in marks]
    for number, row in enumerate(worth.rows):
        if row.rig_id not in spots:
            continue
        x, y = spots[row.rig_id]
        picked = row.rig_id == chosen
        shade = picture.shades[row.rig_id]
        edge = theme.ink if picked else theme.card
        picture.mark(x, y, number, shade, 7.0 if picked else 5.5, f"cost.{row.rig_id}", edge)
        words = row.column.name
        if prices:
            words += f",{THIN}{money_text(points[row.rig_id][0], worth.currency)}"
        weight = SEMIBOLD if picked or prices else MEDIUM
        spot = _free(picture, x, y, picture.measure(words, picture.small, weight), taken)
        taken.append(spot)
        colour = theme.ink if picked or prices else theme.steel
        middle = (spot[1] + spot[3]) / 2
        picture.words(spot[0], middle, words, weight=weight, colour=colour)
    for one in worth.alternatives:
        if one.alternative.id not in hollow:
            continue
        x, y = hollow[one.alternative.id]
        if one.least is not None and one.most is not None:
            span = [(x, bottom - up.share(end) * (bottom - top)) for end in (one.least, one.most)]
            picture.line(span, theme.steel, 1.5)
        corners = [(x, y - size), (x + size, y), (x, y + size), (x - size, y)]
        picture.area(corners, theme.card, theme.steel, key=f"alternative.{one.alternative.id}")
        spot = _free(picture, x, y, picture.measure(one.name, picture.small, MEDIUM), taken)
        taken.append(spot)
        picture.words(spot[0], (spot[1] + spot[3]) / 2, one.name, weight=MEDIUM, colour=theme.steel)
    return spots


def _others(worth: Worth) -> Points:
    """(price, frames) of every alternative that has both, by id."""
    return {
        one.alternative.id: (one.cost.value, one.frames.value)
        for one in worth.alternatives
        if one.cost.value is not None and one.frames.value is not None
    }


def _free(picture: Picture, x: float, y: float, width: float, taken: list[Box]) -> Box:
    """Where a label of a point may stand: clear of what is there, inside the picture."""
    u, high = picture.unit, 15.0 * picture.unit
    boxes = [
        (left, y + down * u, left + width, y + down * u + high)
        for down in (-20.0, 6.0, -36.0, 22.0, -52.0, 38.0)
        for left in (x + 9 * u, x - 9 * u - width, x - width / 2)
    ]
    inside = [box for box in boxes if box[0] > LEFT * u and box[2] < picture.width]
    free = [box for box in inside if not any(overlap(box, other) for other in taken)]
    return (free or inside or boxes)[0]


SHADE_OF = {CARD: 0, DOCK: 1, LINK: 2, BESIDE: 3, HOST: 3}


def cost_stacks(worth: Worth, chosen: str) -> tuple[Stack, ...]:
    """What each rig costs part by part; what is owned comes first, pale, and is not in the sum."""
    return tuple(
        Stack(
            row.column.name,
            tuple(
                Piece(line.what, line.worth.value or 0.0, SHADE_OF[line.kind], line.owned)
                for line in sorted(row.lines, key=lambda line: not line.owned)
            ),
            figure_text(row.figures[WorthFigure.COST], WorthFigure.COST, worth.currency),
            row.rig_id,
            row.rig_id == chosen,
        )
        for row in worth.rows
    )


def watt_stacks(worth: Worth, chosen: str) -> tuple[Stack, ...]:
    """What each rig draws at the wall: idle, and what play adds."""
    stacks = []
    for row in worth.rows:
        idle, load = row.value(WorthFigure.IDLE_W), row.value(WorthFigure.LOAD_W)
        pieces = [Piece("idle", idle or 0.0, 2)]
        if load is not None:
            pieces.append(Piece("and in play", load - (idle or 0.0), 0))
        shown = WorthFigure.LOAD_W if load is not None else WorthFigure.IDLE_W
        says = figure_text(row.figures[shown], shown, worth.currency)
        stacks.append(Stack(row.column.name, tuple(pieces), says, row.rig_id, row.rig_id == chosen))
    return tuple(stacks)
