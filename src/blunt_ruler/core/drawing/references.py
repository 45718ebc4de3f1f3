"""Rigs against several references: a row for each reference, a mark for each rig, one rule."""

from blunt_ruler.core.board.references import References, change_text
from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import Scale, scale_to

NAME, RIGHT, HEAD, RULE, ROW = 196.0, 190.0, 26.0, 34.0, 44.0  # units


def references_height(found: References) -> float:
    """How high the picture wants to be, in units."""
    return HEAD + max(len(found.boards), 1) * ROW + RULE


def _reach(found: References) -> float:
    ends = [one.mean.high or one.mean.ratio for one in found.held if one.mean is not None]
    return max([1.0, *ends]) * 1.05


def draw_references(picture: Picture, found: References, chosen: str) -> None:
    """Shares of each reference that each rig reaches, with intervals; the chosen rig in words."""
    u, theme = picture.unit, picture.theme
    rigs = list({one.rig.rig_id: one.rig for one in found.held}.values())
    scale: Scale = scale_to(100.0 * _reach(found), most_majors=8)
    left, right = NAME * u, picture.width - RIGHT * u
    step = ROW * u
    bottom = HEAD * u + step * len(found.boards)

    def x(ratio: float) -> float:
        return left + scale.share(100.0 * ratio) * (right - left)

    at = left
    for place, rig in enumerate(rigs):
        weight = BOLD if rig.rig_id == chosen else SEMIBOLD
        shade = picture.shades.get(rig.rig_id, theme.wide)
        picture.mark(at + 4 * u, 10 * u, place, shade, 4.5)
        at += 14 * u + picture.words(at + 14 * u, 10 * u, rig.name, weight=weight) + 16 * u
    one = round(x(1.0)) + 0.5
    picture.line([(one, HEAD * u), (one, bottom)], theme.steel, 1.0, 4.0)
    for index, (reference, board) in enumerate(found.boards.items()):
        middle = HEAD * u + (index + 0.5) * step
        column = board.column(reference)
        if column is None:
            continue
        name = f"{column.name}, {column.source}" if column.source else column.name
        picture.words(0.0, middle, name, weight=SEMIBOLD, most=left - 12 * u)
        held = [one for one in found.held if one.reference.rig_id == reference]
        for one_held in held:
            mean = one_held.mean
            if mean is None:
                continue
            place = next(i for i, rig in enumerate(rigs) if rig.rig_id == one_held.rig.rig_id)
            shade = picture.shades.get(one_held.rig.rig_id, theme.wide)
            y = middle + (place - (len(rigs) - 1) / 2) * min(9 * u, step / (len(rigs) + 1))
            low, high = mean.these
            if low is not None and high is not None:
                picture.line([(x(low), y), (x(high), y)], shade, 1.5)
            key = f"of_reference.{one_held.rig.rig_id}.{reference}"
            picture.mark(x(mean.ratio), y, place, shade, 4.5, key)
        said = next((one for one in held if one.rig.rig_id == chosen), None)
        if said is not None:
            words = change_text(said)
            picture.words(picture.width, middle, words, weight=BOLD, align="right")
    picture.rule(left, right, bottom + 2 * u, scale, "% of it")
