"""Ceilings as a picture: how far card speed pays on each link."""

from blunt_ruler.core.drawing.picture import BOLD, REGULAR, SEMIBOLD, Picture, apart
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.limits.whatif import card_speeds
from blunt_ruler.core.limits.words import ceiling_text, ceiling_words, size_words
from blunt_ruler.core.text import capital

NAME, RIGHT, RULE, TOP = 200.0, 196.0, 34.0, 34.0  # units
ROW, BAR = 38.0, 13.0


def ceilings_height(report: LimitsReport) -> float:
    """How high the picture of the ceilings wants to be, in units."""
    return TOP + max(len(report.ceilings), 1) * ROW + RULE


def draw_ceilings(picture: Picture, report: LimitsReport) -> None:
    """A bar to the ceiling for each host, link and size, and a mark for each card measured there:
    a square where it pays, a red triangle beyond, another mark where that is open.
    """
    fit = report.fit
    if fit is None or not report.ceilings:
        return
    u, theme, contents = picture.unit, picture.theme, report.contents
    speeds = card_speeds(fit)
    reach = max([one.card_speed for one in report.ceilings] + list(speeds.values()))
    scale = scale_to(reach * 1.02, most_majors=8)
    left, right = NAME * u, picture.width - RIGHT * u
    step = min(ROW * u, (picture.height - (TOP + RULE) * u) / len(report.ceilings))

    def x(speed: float) -> float:
        return left + scale.share(speed) * (right - left)

    bottom = TOP * u + step * len(report.ceilings)
    added = sorted(
        (x(speed), f"{contents.cards[card].name} · {speed:.2f}")
        for card, speed in speeds.items()
        if not contents.cards[card].built_in
    )
    for row, some in enumerate((added[::2], added[1::2])):
        places = apart([at for at, _ in some], 92 * u)
        for (at, name), place in zip(some, places, strict=True):
            picture.line([(at, (16 * row + 14) * u), (at, bottom)], theme.line, 1.0)
            picture.words(place, (16 * row + 7) * u, name, colour=theme.steel, align="center")
    before = None
    for index, one in enumerate(report.ceilings):
        middle = TOP * u + (index + 0.5) * step
        whose = one.link, contents.hosts[one.host].name
        if whose != before:
            for at, name, weight in ((-8, whose[0], SEMIBOLD), (8, whose[1], REGULAR)):
                picture.words(0.0, middle + at * u, name, weight=weight, most=(NAME - 62) * u)
        before = whose
        size = size_words(one.megapixels)
        picture.words((NAME - 12) * u, middle, size, colour=theme.steel, align="right")
        ends = x(one.card_speed)
        shade = theme.loss if one.wasted else theme.middle
        picture.box(left, middle - BAR * u / 2, ends - left, BAR * u, theme.rule)
        picture.box(ends - 3 * u, middle - BAR * u / 2 - 2 * u, 3 * u, (BAR + 4) * u, shade)
        far = min(one.high_80, scale.end)
        picture.line([(x(one.low_80), middle), (x(far), middle)], shade, 1.5)
        for card in one.fitting:
            picture.mark(x(speeds[card]), middle, 0, theme.wide, 4.5)
        for card in one.open:
            picture.mark(x(speeds[card]), middle, 1, theme.caution, 4.5)
        for card in one.wasted:
            picture.mark(x(speeds[card]), middle, 2, theme.loss, 5.0)
        beside, most = picture.width - (RIGHT - 14) * u, (RIGHT - 14) * u
        picture.words(beside, middle - 8 * u, ceiling_text(one), weight=BOLD, most=most)
        verdict, colour = (
            capital(ceiling_words(report, one)),
            theme.loss if one.wasted else theme.ink,
        )
        picture.words(beside, middle + 8 * u, verdict, colour=colour, most=most)
    picture.rule(left, right, bottom, scale, "")


def ceilings_heard(report: LimitsReport) -> str:
    """The same for a screen reader."""
    return "; ".join(
        f"{one.link}, {size_words(one.megapixels)}: {ceiling_text(one)}, "
        f"{ceiling_words(report, one)}"
        for one in report.ceilings
    )
