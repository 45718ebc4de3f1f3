"""Scaling: a figure over resolution for one title, a line a rig, told apart by their marks."""

from collections.abc import Mapping, Sequence

from blunt_ruler.core.board.scaling import Series
from blunt_ruler.core.drawing.picture import SEMIBOLD, Picture, apart
from blunt_ruler.core.drawing.ticks import scale_to

LEFT, TOP, FOOT, NAMES = 44.0, 22.0, 30.0, 150.0  # units


def draw_scaling(
    picture: Picture,
    lines: Sequence[Series],
    names: Mapping[str, str],
    sizes: Mapping[float, str],
    *,
    kept: bool = False,
    says: str = "",
) -> None:
    """Rates over resolution, or with `kept` the share kept of the reference, in per cent.

    `names` are those of the rigs, `sizes` the words of the resolutions by megapixels.
    """
    u, theme = picture.unit, picture.theme
    values = {
        one.rig_id: [
            (size, 100.0 * (1.0 - loss) if kept and loss is not None else rate)
            for size, rate, loss in zip(one.megapixels, one.rates_fps, one.losses, strict=True)
            if not kept or loss is not None
        ]
        for one in lines
    }
    values = {rig_id: points for rig_id, points in values.items() if points}
    if not values:
        return
    left, right = LEFT * u, picture.width - NAMES * u
    top, bottom = TOP * u, picture.height - FOOT * u
    across = sorted({size for points in values.values() for size, _ in points})
    scale = scale_to(max(y for points in values.values() for _, y in points) * 1.03, most_majors=6)

    def place(size: float, value: float) -> tuple[float, float]:
        share = across.index(size) / max(len(across) - 1, 1)
        return (
            left + 20 * u + share * (right - left - 40 * u),
            bottom - scale.share(value) * (bottom - top),
        )

    picture.words(left, 8 * u, says, colour=theme.steel)
    for value in scale.majors():
        y = place(across[0], value)[1]
        picture.line([(left, y), (right, y)], theme.line)
        picture.words(left - 8 * u, y, f"{value:g}", colour=theme.steel, align="right")
    for size in across:
        words = sizes.get(size, f"{size:.1f} megapixels")
        picture.words(place(size, 0.0)[0], bottom + 16 * u, words, weight=SEMIBOLD, align="center")
    spots = {rig_id: [place(*point) for point in points] for rig_id, points in values.items()}
    order = sorted(spots, key=lambda rig_id: spots[rig_id][0][1])
    places = apart([spots[rig_id][0][1] for rig_id in order], 19.0 * u)
    beside = dict(zip(order, places, strict=True))
    for number, (rig_id, points) in enumerate(spots.items()):
        shade = picture.shades.get(rig_id, theme.steel)
        if len(points) > 1:
            picture.line(points, shade, 2.3, key="" if kept else f"series.{rig_id}")
        for (x, y), (_, value) in zip(points, values[rig_id], strict=True):
            picture.mark(x, y, number, shade, 5.0)
            if rig_id in (order[0], order[-1]):
                at = y - 12 * u if rig_id == order[0] else y + 13 * u
                picture.words(x, at, f"{value:.1f}", weight=SEMIBOLD, align="center")
        y = min(max(beside[rig_id], top + 7 * u), bottom)
        picture.mark(right + 14 * u, y, number, shade, 5.0)
        room = picture.width - right - 30 * u
        picture.words(right + 27 * u, y, names[rig_id], weight=SEMIBOLD, most=room)
