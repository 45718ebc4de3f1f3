"""Find out which column of a log holds the frame times, and in which unit.

The strongest evidence is agreement: a column whose values are the steps of a running clock is
the frame time, whatever it is called. Next come words of the header, then the size of the
values, then their skew: frame times trail off to the long side, rates to the low side.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from pydantic import BaseModel, ConfigDict

from blunt_ruler.core.types import FloatArray
from blunt_ruler.exchange.log_layout import BadLog


class Unit(StrEnum):
    """What a column's numbers mean as frame times."""

    MS = "ms"
    S = "s"
    US = "us"
    FPS = "fps"
    CLOCK_S = "clock-s"
    CLOCK_MS = "clock-ms"

    @property
    def is_clock(self) -> bool:
        """Whether frame times are the differences between rows."""
        return self in (Unit.CLOCK_S, Unit.CLOCK_MS)


UNIT_WORDS = {
    Unit.MS: "frame time in milliseconds",
    Unit.S: "frame time in seconds",
    Unit.US: "frame time in microseconds",
    Unit.FPS: "frames per second",
    Unit.CLOCK_S: "running clock in seconds",
    Unit.CLOCK_MS: "running clock in milliseconds",
}
MS_PER = {Unit.MS: 1.0, Unit.S: 1000.0, Unit.US: 0.001, Unit.CLOCK_S: 1000.0, Unit.CLOCK_MS: 1.0}

# Rates from 2 to 2,500 frames per second are what anyone would call a frame log.
PLAUSIBLE_MS = (0.4, 500.0)

SOUNDS_LIKE_FRAME = re.compile(r"frame|between|interval|delta|\bdt\b|present", re.IGNORECASE)
SOUNDS_LIKE_RATE = re.compile(r"\bfps\b|frames? ?(per|/) ?s|frame ?rate|\brate\b", re.IGNORECASE)
SOUNDS_LIKE_CLOCK = re.compile(r"time|elapsed|stamp|since|second", re.IGNORECASE)
SOUNDS_LIKE_GAUGE = re.compile(
    r"temp|power|watt|\bmhz\b|mem|usage|load|busy|util|fan|noise|volt|wall|core|traffic|%|latency",
    re.IGNORECASE,
)
UNIT_IN_NAME = (
    (re.compile(r"(?<![a-z])(us|µs|μs|usec|microsec\w*)(?![a-z])|\w(US|Us)$", re.ASCII), Unit.US),
    (re.compile(r"(?<![a-z])(ms|msec|millisec\w*)(?![a-z])|\wMs$", re.ASCII), Unit.MS),
    (re.compile(r"(?<![a-z])(s|sec|secs|seconds?)(?![a-z])", re.ASCII), Unit.S),
)


class LogMapping(BaseModel):
    """Which column holds the frame times and what its numbers mean."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    column: str
    unit: Unit


@dataclass(frozen=True, slots=True)
class Guess:
    """A mapping with what speaks for it, in words, and how much."""

    mapping: LogMapping
    score: float
    why: str


def to_ms(values: FloatArray, unit: Unit) -> FloatArray:
    """Frame times in ms, shape (n,), or (n − 1,) from a clock. No check of their sign."""
    if unit is Unit.FPS:
        with np.errstate(divide="ignore", invalid="ignore"):
            return 1000.0 / values
    if unit.is_clock:
        return np.diff(values) * MS_PER[unit]
    return values * MS_PER[unit]


def guess_mapping(columns: Mapping[str, FloatArray], where: str) -> tuple[Guess, ...]:
    """Every plausible mapping, best first. `columns` hold the first rows, NaN where blank.

    Raises BadLog where no column could be frame times.
    """
    clocks = _clock_steps(columns)
    guesses = [
        guess
        for name, values in columns.items()
        for guess in (*_direct(name, values, clocks), *_from_clock(name, clocks))
    ]
    if not guesses:
        raise BadLog(
            where,
            "no column could be frame times, rates or a running clock",
            "Name the column and its unit",
        )
    return tuple(sorted(guesses, key=lambda guess: -guess.score))


def _clock_steps(columns: Mapping[str, FloatArray]) -> dict[str, dict[Unit, FloatArray]]:
    """Steps in ms of every column that only rises, under each unit that makes them plausible."""
    found: dict[str, dict[Unit, FloatArray]] = {}
    for name, values in columns.items():
        steps = np.diff(values)
        if steps.size == 0 or not np.isfinite(steps).all() or not (steps > 0).all():
            continue
        whole = bool((steps == steps[0]).all() and steps[0] == 1)  # a row counter, not a clock
        units = {
            unit: steps * MS_PER[unit]
            for unit in (Unit.CLOCK_S, Unit.CLOCK_MS)
            if _plausible(steps * MS_PER[unit]) and not whole
        }
        if units:
            found[name] = units
    return found


def _plausible(frame_times_ms: FloatArray) -> bool:
    finite = frame_times_ms[np.isfinite(frame_times_ms)]
    return bool(finite.size and PLAUSIBLE_MS[0] <= np.median(finite) <= PLAUSIBLE_MS[1])


def _direct(
    name: str, values: FloatArray, clocks: Mapping[str, Mapping[Unit, FloatArray]]
) -> list[Guess]:
    """Guesses that take the column's values themselves as times or rates."""
    finite = values[np.isfinite(values) & (values > 0)]
    if finite.size < max(1, values.size // 2) or name in clocks:
        return []
    guesses = []
    for unit in (Unit.MS, Unit.S, Unit.US, Unit.FPS):
        times_ms = to_ms(values, unit)
        if not _plausible(times_ms):
            continue
        score, reasons = _name_score(name, unit)
        agreeing = next(
            (clock for clock, units in clocks.items() if _agree(times_ms, units.values())), None
        )
        if agreeing is not None:
            score += 4.0
            reasons.append(f"it matches the steps of “{agreeing}”")
        skew = _skew(finite)
        if (skew < 0) == (unit is Unit.FPS):
            score += 0.4
        score += {Unit.MS: 0.2, Unit.FPS: 0.1, Unit.US: 0.05, Unit.S: 0.05}[unit]
        reasons.append(f"the median would be {np.median(1000.0 / to_ms(finite, unit)):.1f} fps")
        guesses.append(Guess(LogMapping(column=name, unit=unit), score, "; ".join(reasons)))
    return guesses


def _from_clock(name: str, clocks: Mapping[str, Mapping[Unit, FloatArray]]) -> list[Guess]:
    guesses = []
    for unit, steps_ms in clocks.get(name, {}).items():
        score = 0.3
        said = _unit_said(name)
        plain = {Unit.CLOCK_S: Unit.S, Unit.CLOCK_MS: Unit.MS}[unit]
        if said is not None:
            score += 1.0 if said is plain else -1.5
        if SOUNDS_LIKE_CLOCK.search(name):
            score += 0.6
        if SOUNDS_LIKE_GAUGE.search(name):
            score -= 1.5
        why = f"it only rises, by {np.median(steps_ms):.1f} ms a row"
        guesses.append(Guess(LogMapping(column=name, unit=unit), score, why))
    return guesses


def _unit_said(name: str) -> Unit | None:
    return next((unit for pattern, unit in UNIT_IN_NAME if pattern.search(name)), None)


def _name_score(name: str, unit: Unit) -> tuple[float, list[str]]:
    """How well a header fits a unit, with the reason where it does."""
    score = 0.0
    reasons = []
    said = _unit_said(name)
    if SOUNDS_LIKE_GAUGE.search(name):
        score -= 2.0
    if unit is Unit.FPS:
        if SOUNDS_LIKE_RATE.search(name):
            score += 2.0
            reasons.append("the header speaks of a rate")
        elif said is not None:
            score -= 1.5
        return score, reasons
    if SOUNDS_LIKE_RATE.search(name):
        score -= 1.5
    elif SOUNDS_LIKE_FRAME.search(name):
        score += 2.2  # of a time and a rate in one log, the time is the measurement
        reasons.append("the header speaks of frames")
    if said is not None:
        score += 0.8 if said is unit else -1.0
    return score, reasons


def _agree(times_ms: FloatArray, clock_steps_ms: Sequence[FloatArray] | object) -> bool:
    """Whether times are the steps of a clock: each row's time ended, or began, at that row."""
    for steps in clock_steps_ms:  # type: ignore[attr-defined]
        for aligned in (times_ms[1:], times_ms[:-1]):
            off = np.abs(aligned - steps) / steps
            if off.size >= 3 and np.isfinite(off).all() and np.median(off) < 0.02:
                return True
    return False


def _skew(values: FloatArray) -> float:
    spread = float(values.std())
    return 0.0 if spread == 0 else float(((values - values.mean()) ** 3).mean() / spread**3)


def samples_not_frames(columns: Mapping[str, FloatArray], mapping: LogMapping) -> str | None:
    """A warning where rows are much further apart than the times they hold.

    Such a log samples an overlay; its lows are lows of samples, not of frames.
    """
    if mapping.unit.is_clock:
        return None
    times_ms = to_ms(columns[mapping.column], mapping.unit)
    for clock, units in _clock_steps(columns).items():
        unit = _unit_said(clock)
        steps = units.get(Unit.CLOCK_MS if unit is Unit.MS else Unit.CLOCK_S)
        if steps is None or clock == mapping.column:
            continue
        apart, held = float(np.median(steps)), float(np.nanmedian(times_ms))
        if apart > 3.0 * held:
            return (
                f"rows are {apart:.0f} ms apart by “{clock}” but hold {held:.1f} ms each: "
                "these are samples, not frames, so the lows are not lows of frames"
            )
    return None
