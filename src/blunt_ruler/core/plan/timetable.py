"""The clock of a plan: bench days with start and end, slack before the deadline, what overflows."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.moments import day_from
from blunt_ruler.core.plan.bench_order import Item
from blunt_ruler.core.records.plan_settings import Hours

MOST_DAYS = 1000
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


@dataclass(frozen=True, slots=True)
class Timed:
    """An item with the moment it starts, ISO local time."""

    item: Item
    starts: str


@dataclass(frozen=True, slots=True)
class BenchDay:
    """One day at the bench."""

    day: str
    starts: str
    ends: str
    items: tuple[Timed, ...]
    breaks: int


@dataclass(frozen=True, slots=True)
class Timetable:
    """All days of a plan. `late` are items that start after the deadline's day."""

    days: tuple[BenchDay, ...]
    finishes: str | None
    slack_days: int | None
    late: tuple[Timed, ...]


def timetable(items: Sequence[Item], hours: Hours) -> Timetable:
    """Lay items out over working days; no item is cut, a long one makes a day end later.

    Raises BadFigure where the first day or the deadline is not a date, or no weekday has hours.
    """
    day = _date(hours.first_day, "first day")
    deadline = _date(hours.deadline, "deadline") if hours.deadline else None
    weekdays = _weekdays(hours.weekdays)
    starts_at = time.fromisoformat(hours.start)
    days: list[BenchDay] = []
    today: list[Timed] = []
    breaks = 0
    now = datetime.combine(_working(day, weekdays), starts_at)
    since_break_h = worked_h = 0.0
    for item in items:
        item_h = item.minutes / 60.0
        if today and worked_h + item_h > hours.per_day_h:
            days.append(_close(today, now, breaks))
            next_day = _working(now.date() + timedelta(days=1), weekdays)
            now = datetime.combine(next_day, starts_at)
            today, breaks, since_break_h, worked_h = [], 0, 0.0, 0.0
            if len(days) > MOST_DAYS:
                raise BadFigure("hours", "the plan takes years", "Give more hours a day")
        if today and hours.break_min > 0 and since_break_h + item_h > hours.break_every_h:
            now += timedelta(minutes=hours.break_min)
            breaks += 1
            since_break_h = 0.0
        today.append(Timed(item, now.isoformat(timespec="minutes")))
        now += timedelta(minutes=item.minutes)
        since_break_h += item_h
        worked_h += item_h
    if today:
        days.append(_close(today, now, breaks))
    late = tuple(
        timed
        for one in days
        for timed in one.items
        if deadline is not None and date.fromisoformat(one.day) > deadline
    )
    slack = None
    if deadline is not None and days:
        slack = (deadline - date.fromisoformat(days[-1].day)).days
    return Timetable(tuple(days), days[-1].ends if days else None, slack, late)


def _date(text: str, what: str) -> date:
    found = day_from(text)
    if found is None:
        raise BadFigure(what, f"“{text[:40]}” is not a date", "Write it as 2026-10-05")
    return found


def _weekdays(words: str) -> set[int]:
    """Weekdays by their first three letters; BadFigure where a word is none or none is there."""
    names = words.replace(",", " ").split()
    wrong = [name for name in names if name[:3].capitalize() not in WEEKDAYS]
    if wrong or not names:
        what = f"“{wrong[0]}” is not a weekday" if wrong else "no weekday has hours"
        raise BadFigure("weekdays", what, f"Write them as {' '.join(WEEKDAYS[:5])}")
    return {WEEKDAYS.index(name[:3].capitalize()) for name in names}


def _working(day: date, weekdays: set[int]) -> date:
    """The day, or the next one that has hours."""
    while day.weekday() not in weekdays:
        day += timedelta(days=1)
    return day


def _close(items: list[Timed], ends: datetime, breaks: int) -> BenchDay:
    return BenchDay(
        day=items[0].starts[:10],
        starts=items[0].starts,
        ends=ends.isoformat(timespec="minutes"),
        items=tuple(items),
        breaks=breaks,
    )
