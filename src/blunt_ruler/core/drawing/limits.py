"""Ceilings and tests as pictures: how far card speed pays on each link, what each test narrows."""

from collections.abc import Sequence

from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture, apart
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.next_measurement import NextTest
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.limits.whatif import card_speeds
from blunt_ruler.core.limits.words import size_words
from blunt_ruler.core.text import list_text, percent_text

NAME, RIGHT, RULE, TOP = 230.0, 60.0, 34.0, 18.0  # units
ROW, BAR = 27.0, 13.0
FIGURES = 190.0


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
        (x(speed), contents.cards[card].name)
        for card, speed in speeds.items()
        if not contents.cards[card].built_in
    )
    places = apart([at for at, _ in added], 66 * u)
    for (at, name), place in zip(added, places, strict=True):
        picture.line([(at, TOP * u), (at, bottom)], theme.line, 1.0)
        picture.words(place, 8 * u, name, colour=theme.steel, align="center")
    before = ""
    for index, one in enumerate(report.ceilings):
        middle = TOP * u + (index + 0.5) * step
        whose = f"{one.link} · {contents.hosts[one.host].name}"
        if whose != before:
            picture.words(0.0, middle, whose, weight=SEMIBOLD, most=(NAME - 62) * u)
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
        end = picture.width
        picture.words(end, middle, f"{one.card_speed:.2f}", weight=BOLD, align="right")
    picture.rule(left, right, bottom, scale, "")


def ceilings_heard(report: LimitsReport) -> str:
    """The same for a screen reader."""
    contents = report.contents
    return "; ".join(
        f"{one.link}, {size_words(one.megapixels)}: pays to {one.card_speed:.2f}"
        + (
            f", {list_text([contents.cards[card].name for card in one.wasted])} beyond"
            if one.wasted
            else ""
        )
        for one in report.ceilings
    )


def draw_tests(picture: Picture, tests: Sequence[NextTest], chosen: int) -> None:
    """Tests with a bar each: how much of the open question it takes away in a minute."""
    if not tests:
        return
    u, theme = picture.unit, picture.theme
    reach = max(test.per_minute for test in tests) * 100.0 or 1.0
    scale = scale_to(reach, most_majors=6)
    left, right = 0.44 * picture.width, picture.width - FIGURES * u
    step = min(ROW * u, (picture.height - RULE * u) / len(tests))

    def x(percent: float) -> float:
        return left + scale.share(percent) * (right - left)

    for index, test in enumerate(tests):
        middle = (index + 0.5) * step
        if index == chosen:
            picture.box(0.0, middle - step / 2, picture.width, step, theme.selected)
        weight = BOLD if index == chosen else SEMIBOLD
        picture.words(6 * u, middle, test.says, weight=weight, most=left - 14 * u)
        width = x(test.per_minute * 100.0) - left
        shade = theme.wide if index == chosen else theme.middle
        picture.box(left, middle - BAR * u / 2, max(width, u), BAR * u, shade)
        said = f"{percent_text(test.narrows, decimals=1)} in {test.minutes:.0f} min"
        picture.words(picture.width - 6 * u, middle, said, align="right")
    picture.rule(left, right, step * len(tests), scale, "% a minute")


def tests_height(count: int) -> float:
    """How high the picture of some tests wants to be, in units."""
    return max(count, 1) * ROW + RULE
