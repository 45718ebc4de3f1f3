"""Checks that lay the passes of a cell beside one another, window by window."""

from collections.abc import Iterator
from statistics import median

from blunt_ruler.core.checks.findings import Check, Finding, RunFacts
from blunt_ruler.core.checks.registry import Repeats, Scope, check
from blunt_ruler.core.measure.courses import Course, courses
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.text import THIN, count_text, list_text, percent_text

STILL = 0.5  # frames this much calmer than elsewhere: a picture that stands
MOVES = 0.03  # log rate: a scene that moves less cannot be followed
AGREE = 0.7
TREND_OVER_USUAL = 3.0
MOST_BURSTS = 0.5  # of the run: beyond that the pass is another level, not a burst


@check(Scope.COURSE)
def leaves_the_course(cell: Repeats) -> Iterator[Finding]:
    """A pass that leaves the course which the others of its cell keep."""
    beside = {facts.run.id: facts for facts in (*cell.sound, *cell.runs)}
    profiles = tuple(facts.observed.profile if facts.observed else "" for facts in beside.values())
    seen = dict(zip(beside, courses(profiles), strict=True))
    for facts in cell.runs:
        course = seen[facts.run.id]
        if course is not None:
            others = len(beside) - 1
            found = (
                _extra_start(facts, course, others)
                or _not_following(facts, course, others, cell.thresholds)
                or _still_inside(facts, course, others)
                or _slower_at_times(facts, course, others)
                or _falling(facts, course, others, cell.thresholds)
                or _rising(facts, course, others, cell.thresholds)
            )
            if found is not None:
                yield found


@check(Scope.COURSE)
def cut_short(cell: Repeats) -> Iterator[Finding]:
    """A pass that ends before the others: it leaves out a part of the scene that they count."""
    beside = {facts.run.id: facts for facts in (*cell.sound, *cell.runs) if facts.duration_s}
    if len(beside) < 2:
        return
    usual = median(facts.duration_s for facts in beside.values())
    for facts in cell.runs:
        live = facts.case is not None and facts.case.method == "live play"
        if live or not 0 < facts.duration_s < (1.0 - cell.thresholds.length) * usual:
            continue
        yield _finding(
            facts,
            Check.CUT_SHORT,
            f"it lasts {facts.duration_s:.0f}{THIN}s, the others of its cell about {usual:.0f}: "
            "it does not count the same scene.",
            "Run it again to the end, or trim the others to the same part.",
            {"duration_s": round(facts.duration_s, 3), "usual_s": round(usual, 3)},
            (f"it is {percent_text(1.0 - facts.duration_s / usual)} shorter",),
        )


def _finding(
    facts: RunFacts,
    check: Check,
    says: str,
    remedy: str,
    evidence: dict[str, float | str],
    signs: tuple[str, ...],
) -> Finding:
    severity = Severity.BLOCKING if len(signs) > 1 else Severity.CAUTION
    return Finding(check, severity, facts.run.id, says, remedy, evidence, signs=signs)


def _others_words(others: int) -> str:
    return count_text(others, "other pass", "other passes")


def _extra_start(facts: RunFacts, course: Course, others: int) -> Finding | None:
    """More before the scene than the others have: a menu of like rate, or an early start."""
    if course.early_s < 2.0:
        return None
    signs: tuple[str, ...] = ("the scene comes later than in the other passes",)
    if course.early_restless <= STILL:
        signs += ("frames before it hardly change",)
    return _finding(
        facts,
        Check.MENU_LEFT_IN,
        f"the scene comes {course.early_s:.1f}{THIN}s later than in the {_others_words(others)}: "
        "something else before it is counted.",
        f"Trim it to {course.early_s:.2f}–{facts.duration_s:.2f}{THIN}s; the whole trace stays.",
        {
            "head_s": course.early_s,
            "keep_from_s": course.early_s,
            "keep_to_s": round(facts.duration_s, 3),
        },
        signs,
    )


def _not_following(
    facts: RunFacts, course: Course, others: int, thresholds: Thresholds
) -> Finding | None:
    """The others rise and fall with the scene and this one does not."""
    if course.moves < MOVES or course.agree < AGREE or course.follows >= thresholds.follows:
        return None
    signs: tuple[str, ...] = ("it does not rise and fall with the other passes",)
    busy = facts.gauge(Gauge.CARD_BUSY)
    if busy is not None and busy.low >= 90.0:
        signs += ("the card works on at its end",)
    scale = facts.gauge(Gauge.RENDER_SCALE)
    if scale is not None and scale.low < 0.97 * scale.high:
        signs += ("the log's render scale moves",)
    return _finding(
        facts,
        Check.DYNAMIC_RESOLUTION,
        f"its rate follows {percent_text(max(course.follows, 0.0))} of the rise and fall that the "
        f"{_others_words(others)} agree on: a resolution that adapts, or a cap.",
        "Switch dynamic resolution and caps off, and take it again.",
        {"follows": round(course.follows, 3), "others_move": round(course.moves, 4)},
        signs,
    )


def _still_inside(facts: RunFacts, course: Course, others: int) -> Finding | None:
    """A stretch inside where the picture stands still and the others go on."""
    for stretch in course.stretches:
        if stretch.restless > STILL:
            continue
        return _finding(
            facts,
            Check.MENU_LEFT_IN,
            f"from {stretch.from_s:.1f} to {stretch.to_s:.1f}{THIN}s the picture stands still "
            f"where the {_others_words(others)} go on: a menu or a pause.",
            "See what was on the screen there, and take it again.",
            {
                "from_s": stretch.from_s,
                "middle_s": round(stretch.to_s - stretch.from_s, 3),
                "off": round(stretch.by, 4),
            },
            ("it leaves the course of the other passes", "frames there hardly change"),
        )
    return None


def _falling(
    facts: RunFacts, course: Course, others: int, thresholds: Thresholds
) -> Finding | None:
    """Against the others the rate falls from start to end."""
    least = max(1.2 * thresholds.drift, TREND_OVER_USUAL * course.trend_usual)
    if course.trend > -least:
        return None
    signs: tuple[str, ...] = ("it falls against the other passes",)
    clock, heat = facts.gauge(Gauge.CARD_CLOCK), facts.gauge(Gauge.CARD_TEMPERATURE)
    if clock is not None and clock.end < (1.0 - thresholds.clock_drift / 2.0) * clock.start:
        signs += ("the card's clock fell",)
    evidence: dict[str, float | str] = {"change": round(course.trend, 4)}
    if heat is not None:
        evidence |= {"card_c_start": heat.start, "card_c_end": heat.end}
    return _finding(
        facts,
        Check.DRIFT,
        f"against the {_others_words(others)} it falls by {percent_text(-course.trend)} from start "
        "to end.",
        "Let it cool, free its air, watch the clocks, and take it again.",
        evidence,
        signs,
    )


def _rising(facts: RunFacts, course: Course, others: int, thresholds: Thresholds) -> Finding | None:
    """Against the others the rate rises: something slowed its beginning."""
    if course.trend < max(1.2 * thresholds.drift, TREND_OVER_USUAL * course.trend_usual):
        return None
    return _finding(
        facts,
        Check.SOMETHING_ELSE,
        f"against the {_others_words(others)} it rises by {percent_text(course.trend)} from start "
        "to end: something else was at work at first.",
        "See what runs in the background (updates, a scan, a sync), and take it again.",
        {"change": round(course.trend, 4)},
        ("it rises against the other passes",),
    )


def _slower_at_times(facts: RunFacts, course: Course, others: int) -> Finding | None:
    """Slower than the others now and then: something else had the machine."""
    slow = [one for one in course.stretches if one.by < 0]
    lost_s = sum(one.to_s - one.from_s for one in slow)
    if not slow or lost_s > MOST_BURSTS * facts.duration_s:
        return None
    if len(slow) == 1 and slow[0].to_s > 0.9 * facts.duration_s:
        return None  # it falls, and stays there
    by = min(one.by for one in slow)
    where = list_text([f"{one.from_s:.0f}–{one.to_s:.0f}" for one in slow[:4]])
    return _finding(
        facts,
        Check.SOMETHING_ELSE,
        f"slower than the {_others_words(others)} at {where}{THIN}s, by up to "
        f"{percent_text(-by)}: something else was at work.",
        "See what runs in the background (updates, a scan, a sync), and take it again.",
        {"stretches": float(len(slow)), "seconds": round(lost_s, 2), "off": round(by, 4)},
        ("it is slower than the other passes in places",),
    )
