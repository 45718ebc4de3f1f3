"""Find out what the columns of a log are: counters, clocks, frame times, rates or gauges.

Decided over the whole table, by what the numbers do. A counter goes up by one; a clock rises;
frame times and rates scatter about a level and are each other's inverse. Columns that agree
(steps of a clock = frame times = 1000 / rate) confirm each other. Words of a header only break
ties and name units. Where two readings with different figures are left, nothing is chosen in
silence: both are given, with their figures.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from blunt_ruler.core.measure.robust_line import median_of, quantile_of
from blunt_ruler.core.types import BoolArray, FloatArray, IntArray
from blunt_ruler.exchange.logs.column import Column
from blunt_ruler.exchange.logs.words import (
    CLOCK,
    CLOCKS,
    COUNTS_FRAMES,
    FRAME_TIME,
    GAUGE,
    MS_PER,
    PART_OF_A_FRAME,
    RATE,
    SUMMED_UP,
    TICKS,
    UNIT_WORDS,
    LogMapping,
    Unit,
    header_words,
    to_ms,
    unit_said,
)

# Rates from 2 to 2,500 frames per second are what anyone would call a frame log.
PLAUSIBLE_MS = (0.4, 500.0)
KEPT = 4096
SOME, FEW = 500, 50
DAY_S = 86_400.0


@dataclass(frozen=True, slots=True)
class Guess:
    """A way to read a log: what speaks for it, how much, and the average that it gives."""

    mapping: LogMapping
    score: float
    why: str
    average_fps: float
    confirmed_by: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The reading and its figure: “frametime” as frame time in milliseconds: 58.3 fps."""
        mapping = self.mapping
        if mapping.rows_of:
            return f"“{mapping.rows_are}” of “{mapping.rows_of}”: {self.average_fps:.4g} fps"
        return f"“{mapping.column}” as {UNIT_WORDS[mapping.unit]}: {self.average_fps:.4g} fps"


def _plausible(frame_time_ms: float) -> bool:
    return PLAUSIBLE_MS[0] <= frame_time_ms <= PLAUSIBLE_MS[1]


@dataclass(frozen=True)
class Readings:
    """All ways to read a log, the best first, and what is known of its columns.

    `asks` holds the readings between which nobody but the reader can choose; empty where one
    stands out.
    """

    guesses: tuple[Guess, ...]
    asks: tuple[Guess, ...]
    clock: str | None  # the column that says when rows were written
    clock_unit: Unit | None
    counter: str | None

    @property
    def others(self) -> tuple[Guess, ...]:
        """Ways with another figure that come close to the best one."""
        best = self.guesses[0]
        return tuple(
            guess
            for guess in self.guesses[1:]
            if best.score - guess.score < 1.3 and not _same(guess, best)
        )[:3]


ASK_WITHIN = 0.55
FAR_APART = 0.2
MOST_FEW = 20  # steps that tell at what pace a clock runs beside frame times
ODD_PACE = (0.2, 5.0)  # of a clock against frame times; beyond it the rows are samples
NAMED = 1.5  # a header that speaks of frame times or rates by name


def read_columns(
    columns: Mapping[str, FloatArray], clocks_in_text: frozenset[str] = frozenset()
) -> Readings:
    """Every plausible reading. `columns` shape (n,) each; `clocks_in_text` are times of day, s."""
    known = [Column(name, values) for name, values in columns.items()]
    counter = next((one.name for one in known if one.is_counter), None)
    clocks = [
        one
        for one in known
        if one.name in clocks_in_text or (one.rises and not GAUGE.search(one.words))
    ]
    seconds = _counter_of_seconds(known)
    if seconds is not None:
        clocks.append(seconds)
    levels = [one for one in known if not one.is_counter and one.name not in clocks_in_text]
    steps = {
        (clock.name, unit): _steps_ms(clock, unit)
        for clock in clocks
        for unit in _clock_units(clock, clocks_in_text)
    }
    guesses: list[Guess] = []
    for column in levels:
        guesses.extend(_level_guesses(column, steps))
    guesses = _with_agreement_of_levels(guesses, {one.name: one for one in levels})
    for clock in clocks:
        if clock is not seconds:
            guesses.extend(_clock_guesses(clock, steps, clocks_in_text, guesses))
    guesses.sort(key=lambda guess: -guess.score)
    when, unit = _when(clocks, steps, guesses)
    asks = _asks(guesses) or _at_odds(guesses, {one.name: one for one in levels}, steps)
    return Readings(tuple(guesses), asks, when, unit, counter)


def _counter_of_seconds(known: Sequence[Column]) -> Column | None:
    """A column that counts 0, 1, 2 … and calls itself a time: one row a second."""
    for one in known:
        said = unit_said(one.name)
        is_time = said is Unit.S or (said is None and CLOCK.search(one.words))
        if one.is_counter and is_time and not COUNTS_FRAMES.search(one.words):
            return one
    return None


def _steps_ms(clock: Column, unit: Unit) -> FloatArray:
    return np.diff(clock.sample) * MS_PER[unit]


def _clock_units(clock: Column, clocks_in_text: frozenset[str]) -> tuple[Unit, ...]:
    """Units under which a clock could be one: the one its header names, else all that fit."""
    if clock.name in clocks_in_text:
        return (Unit.CLOCK_S,)
    said = unit_said(clock.name)
    of = {plain: unit for unit, plain in CLOCKS.items()}
    if said is not None:
        return (of[said],)
    # Rows lie between half a millisecond (frames) and some seconds (samples) apart.
    units = (*CLOCKS, *([Unit.CLOCK_TICKS] if _may_be_ticks(clock) else []))
    return tuple(
        unit for unit in units if PLAUSIBLE_MS[0] <= clock.typical_step * MS_PER[unit] <= 5000.0
    )


def _may_be_ticks(clock: Column) -> bool:
    """Whether a clock counts whole ticks of a counter whose frequency nothing tells."""
    whole = clock.finite[:200]
    return bool(TICKS.search(clock.words)) and bool((whole == np.round(whole)).all())


def _level_guesses(column: Column, steps: Mapping[tuple[str, Unit], FloatArray]) -> list[Guess]:
    """Guesses that take the column's values themselves as times or rates."""
    ascending = np.sort(column.finite)
    ascending = ascending[np.searchsorted(ascending, 0.0, side="right") :]
    if (
        ascending.size < max(1, column.finite.size // 2)
        or column.finite.size < column.sample.size / 2
    ):
        return []
    guesses = []
    median, skew = np.asarray(quantile_of(ascending, 0.5)), _skew(ascending)
    for unit in (Unit.MS, Unit.S, Unit.US, Unit.NS, Unit.FPS):
        typical_ms = float(to_ms(median, unit))
        if not _plausible(typical_ms):
            continue
        times_ms = to_ms(column.sample, unit)
        score, said = _name_score(column.name, unit)
        reasons = [*said]
        prior = _prior(typical_ms)
        score += prior if score < NAMED else 0.4 * prior
        if column.rises and score < NAMED:
            score -= 1.5  # a clock, rather
        if ascending.size > 10 and column.is_constant:
            score -= 0.4
        score += 0.25 * (skew if unit is not Unit.FPS else -skew)
        confirmed = tuple(
            dict.fromkeys(clock for (clock, _), step in steps.items() if _agree(times_ms, step))
        )
        if confirmed:
            score += 4.0
            reasons.append(f"it matches the steps of “{confirmed[0]}”")
        elif any(_same_sum(times_ms, step) for step in steps.values()):
            score += 1.2
        average = column.average_fps(unit)
        if not average:
            continue
        reasons.append(f"the average would be {average:.1f} fps")
        mapping = LogMapping(column=column.name, unit=unit)
        guesses.append(Guess(mapping, score, "; ".join(reasons), average, confirmed))
    return guesses


def _prior(frame_time_ms: float) -> float:
    """Rates near 70 are likelier than those far off: half a point for each factor of two and more.

    Weak on purpose: it decides only where header, agreement and shape are silent.
    """
    return -0.35 * (math.log(1000.0 / frame_time_ms / 70.0) / 0.6) ** 2 / 2


def _with_agreement_of_levels(guesses: list[Guess], columns: Mapping[str, Column]) -> list[Guess]:
    """Times and rates that are each other's inverse confirm each other, row by row or in all."""
    found = []
    for guess in guesses:
        column, unit = columns[guess.mapping.column], guess.mapping.unit
        bonus, partner = 0.0, None
        for other in guesses:
            theirs, their_unit = columns[other.mapping.column], other.mapping.unit
            same_kind = (unit is Unit.FPS) == (their_unit is Unit.FPS)
            if theirs is column or same_kind or GAUGE.search(theirs.words):
                continue
            if abs(guess.average_fps / other.average_fps - 1.0) > FAR_APART:
                continue  # no use in looking at the rows
            ours_ms, theirs_ms = to_ms(column.sample, unit), to_ms(theirs.sample, their_unit)
            both = np.isfinite(ours_ms) & np.isfinite(theirs_ms) & (ours_ms > 0) & (theirs_ms > 0)
            if both.sum() < 3:
                continue
            off = np.abs(ours_ms[both] / theirs_ms[both] - 1.0)
            if median_of(off) < 0.02 and not (column.is_constant and both.sum() > 10):
                bonus, partner = 3.0, other.mapping.column
                break
            if abs(guess.average_fps / other.average_fps - 1.0) < 0.05:
                bonus, partner = max(bonus, 1.0), other.mapping.column
        if partner is not None and not guess.confirmed_by:
            found.append(
                Guess(
                    guess.mapping,
                    guess.score + bonus,
                    f"{guess.why}; it agrees with “{partner}”",
                    guess.average_fps,
                    (*guess.confirmed_by, partner) if bonus == 3.0 else guess.confirmed_by,
                )
            )
        else:
            found.append(guess)
    return found


def _clock_guesses(
    clock: Column,
    steps: Mapping[tuple[str, Unit], FloatArray],
    clocks_in_text: frozenset[str],
    levels: Sequence[Guess],
) -> list[Guess]:
    guesses = []
    for unit in _clock_units(clock, clocks_in_text):
        typical_ms = clock.typical_step * MS_PER[unit]
        if not _plausible(typical_ms):
            continue
        up = np.sort(clock.steps[clock.steps > 0])
        steady = up.size > 0 and quantile_of(up, 0.9) < 1.001 * quantile_of(up, 0.1)
        score = (0.3 if steady else 1.5) + _prior(typical_ms)
        if unit_said(clock.name) is not None or clock.name in clocks_in_text:
            score += 0.8
        if CLOCK.search(clock.words):
            score += 0.6
        if unit is Unit.CLOCK_TICKS:
            score += 0.9
        if any(clock.name in guess.confirmed_by for guess in levels):
            score += 1.0
        if FRAME_TIME.search(clock.words) or RATE.search(clock.words):
            score -= 2.5
        held = (1000.0 / level.average_fps for level in levels if level.score > NAMED)
        if any(typical_ms > 3.0 * times_ms for times_ms in held):
            score -= 1.5  # it says when samples were taken
        average = 1000.0 / _mean_step_ms(clock, unit)
        why = f"it only rises, by {typical_ms:.1f} ms a row"
        guesses.append(Guess(LogMapping(column=clock.name, unit=unit), score, why, average))
    return guesses


def _mean_step_ms(clock: Column, unit: Unit) -> float:
    """Mean time between rows over the whole log, its pauses and steps back left out, ms."""
    span = float(clock.values[-1] - clock.values[0]) / (clock.values.size - 1)
    if clock.steps.min() >= 0 and abs(span / clock.typical_step - 1.0) < 0.02:
        return span * MS_PER[unit]  # no pause and no step back worth a look at every row
    steps = np.diff(clock.values)
    usable = steps[np.isfinite(steps) & (steps >= 0) & (steps * MS_PER[unit] < PAUSE_MS)]
    return float(usable.mean() * MS_PER[unit]) if usable.size and usable.any() else np.inf


PAUSE_MS = 4000.0  # a longer step of a clock is a pause of the recorder; shorter ones are frames


@lru_cache(maxsize=KEPT)
def _name_score(name: str, unit: Unit) -> tuple[float, tuple[str, ...]]:
    """How well a header fits a unit, with the reason where it does."""
    score = 0.0
    words, said = header_words(name), unit_said(name)
    speaks_of_rate = bool(RATE.search(words))
    if GAUGE.search(words):
        score -= 2.0
    if PART_OF_A_FRAME.search(words):
        score -= 2.0
    if SUMMED_UP.search(words):
        score -= 1.5
    if unit is Unit.FPS:
        if speaks_of_rate:
            return score + 2.0, ("the header speaks of a rate",)
        if said is not None or FRAME_TIME.search(words):
            score -= 2.5
        return score, ()
    if said is not None:
        score += 0.8 if said is unit else -2.5
    if speaks_of_rate:
        return score - 2.5, ()
    if FRAME_TIME.search(words):  # of a time and a rate in one log, the time is the measurement
        return score + 2.2, ("the header speaks of frames",)
    return score, ()


def _agree(times_ms: FloatArray, steps_ms: FloatArray) -> bool:
    """Whether times are the steps of a clock: each row's time ended, or began, at that row."""
    there = np.isfinite(steps_ms) & (steps_ms > 0)
    some = _spread(steps_ms.size) if steps_ms.size > 4 * SOME else None
    for aligned in (times_ms[1:], times_ms[:-1]):
        if some is not None and np.count_nonzero(_near(aligned[some], steps_ms[some])) < FEW:
            continue  # of so many rows that most agree, some do here
        both = there & np.isfinite(aligned)
        rows = np.count_nonzero(both)
        near = np.count_nonzero(_near(aligned, steps_ms) & both)
        if rows >= max(3, steps_ms.size / 2) and 2 * near > rows:  # the median is
            return True
    return False


@lru_cache(maxsize=64)
def _spread(size: int) -> IntArray:
    """Some places all over so many rows."""
    return np.linspace(0, size - 1, SOME).astype(int)


def _near(times_ms: FloatArray, steps_ms: FloatArray) -> BoolArray:
    return np.asarray(np.abs(times_ms - steps_ms) < 0.02 * steps_ms)


def _same_sum(times_ms: FloatArray, steps_ms: FloatArray) -> bool:
    """Whether times add up to what a coarse clock shows, within 3 %."""
    own = times_ms[1:]
    if not np.isfinite(own.sum() + steps_ms.sum()):  # some are missing
        both = np.isfinite(own) & np.isfinite(steps_ms)
        own, steps_ms = own[both], steps_ms[both]
    total = float(steps_ms.sum())
    return own.size >= 10 and total > 0 and abs(float(own.sum()) / total - 1.0) < 0.03


def _skew(ascending: FloatArray) -> float:
    """Which tail is longer, −1 to 1: from the median to the 1st and 99th percentile."""
    if ascending.size < 30:
        return 0.0
    low, middle, high = (
        float(ascending[round(at * (ascending.size - 1))]) for at in (0.01, 0.5, 0.99)
    )
    return float((high - middle) - (middle - low)) / float(high - low) if high > low else 0.0


def _same(one: Guess, other: Guess) -> bool:
    return abs(one.average_fps / other.average_fps - 1.0) < 0.02 if other.average_fps else False


def _asks(guesses: Sequence[Guess]) -> tuple[Guess, ...]:
    """Readings with different figures of which none stands out."""
    if not guesses:
        return ()
    best = guesses[0]
    if best.mapping.unit is Unit.CLOCK_TICKS or _is_tick_clock(best):
        column = best.mapping.column
        return tuple(one for one in guesses if one.mapping.column == column)[:3]
    if any(_same(best, other) and other.mapping.column in best.confirmed_by for other in guesses):
        return ()
    if best.mapping.unit.is_clock and not CLOCK.search(header_words(best.mapping.column)):
        # Rows sorted by frame time rise as a clock does.
        sorted_times = [
            guess
            for guess in guesses[1:]
            if guess.mapping.column == best.mapping.column and not guess.mapping.unit.is_clock
        ]
        if sorted_times and not any(best.mapping.column in one.confirmed_by for one in guesses):
            return (best, sorted_times[0])
    named = [guess for guess in guesses if _is_named(guess)]
    rivals = [
        guess
        for guess in guesses[1:]
        if not _same(guess, best)
        and (
            best.score - guess.score < ASK_WITHIN
            # Two columns that both call themselves frame times or rates, and do not agree.
            or (
                best in named
                and guess in named
                and guess.mapping.column != best.mapping.column
                and abs(guess.average_fps / best.average_fps - 1.0) > 0.05
                and not best.confirmed_by
            )
        )
    ]
    return (best, *rivals[:2]) if rivals else ()


def _at_odds(
    guesses: Sequence[Guess],
    columns: Mapping[str, Column],
    steps: Mapping[tuple[str, Unit], FloatArray],
) -> tuple[Guess, ...]:
    """Frame times and a clock that runs at another pace, row by row: twice as fast, say. Either
    can be the true one.
    """
    level = next((one for one in guesses if not one.mapping.unit.is_clock), None)
    if level is None or level.confirmed_by or level.mapping.unit is Unit.FPS:
        return ()
    times_ms = to_ms(columns[level.mapping.column].sample, level.mapping.unit)
    for guess in guesses:
        step = steps.get((guess.mapping.column, guess.mapping.unit))
        if step is not None and guess.mapping.unit.is_clock and _odd_pace(times_ms, step):
            return (level, guess)
    return ()


def _odd_pace(times_ms: FloatArray, steps_ms: FloatArray) -> bool:
    """Whether the steps of a clock are frame times at another pace, row by row."""
    for aligned in (times_ms[1:], times_ms[:-1]):
        with np.errstate(all="ignore"):
            pace = steps_ms / aligned
        pace = pace[np.isfinite(pace) & (pace > 0)]
        if pace.size < MOST_FEW:
            continue
        middle = median_of(pace)
        alike = float(np.mean(np.abs(pace / middle - 1.0) < 0.03))
        if alike > 0.8 and ODD_PACE[0] < middle < ODD_PACE[1] and abs(middle - 1.0) > 0.1:
            return True
    return False


def _is_tick_clock(guess: Guess) -> bool:
    """Whether a reading is that of a counter of ticks under some other unit that nothing tells."""
    mapping = guess.mapping
    return mapping.unit.is_clock and bool(
        TICKS.search(header_words(mapping.column)) and unit_said(mapping.column) is None
    )


def _is_named(guess: Guess) -> bool:
    return _name_score(guess.mapping.column, guess.mapping.unit)[0] >= NAMED


def _when(
    clocks: Sequence[Column],
    steps: Mapping[tuple[str, Unit], FloatArray],
    guesses: Sequence[Guess],
) -> tuple[str | None, Unit | None]:
    """The clock that says when rows were written, and its unit as far as anything tells it."""
    best = guesses[0] if guesses else None
    for clock in clocks:
        units = [unit for name, unit in steps if name == clock.name]
        named = FRAME_TIME.search(clock.words) or RATE.search(clock.words)
        taken = best is not None and best.mapping.column == clock.name
        if not units or named or (taken and best is not None and not best.mapping.unit.is_clock):
            continue
        if best is not None and clock.name in best.confirmed_by:
            times_ms = 1000.0 / best.average_fps
            units.sort(key=lambda unit: abs(np.log(clock.typical_step * MS_PER[unit] / times_ms)))
        return clock.name, units[0]
    return None, None
