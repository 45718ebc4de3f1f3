"""One column of a log, and what its numbers do."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from blunt_ruler.core.measure.frames import LONGEST_MS, SHORTEST_MS
from blunt_ruler.core.measure.robust_line import median_of
from blunt_ruler.core.types import FloatArray
from blunt_ruler.exchange.logs.words import MS_PER, Unit, header_words, to_ms

SAMPLE_ROWS = 6000  # what is enough to tell what a column is; sums and signs are over all rows
BLOCKS = 6


@dataclass(frozen=True)
class Column:
    """One column and what its numbers do. `values` shape (n,), NaN where a field is none."""

    name: str
    values: FloatArray

    @cached_property
    def sample(self) -> FloatArray:
        """Some thousand rows in runs of neighbours from all over the log; all of a short one."""
        size = self.values.size
        if size <= SAMPLE_ROWS:
            return self.values
        length = SAMPLE_ROWS // BLOCKS
        starts = np.linspace(0, size - length, BLOCKS).astype(int)
        # A NaN between the runs keeps their steps apart.
        return np.concatenate([np.append(self.values[at : at + length], np.nan) for at in starts])

    @cached_property
    def steps(self) -> FloatArray:
        """Differences of neighbours in the sample where both are numbers."""
        steps = np.diff(self.sample)
        return _finite(steps)

    @cached_property
    def finite(self) -> FloatArray:
        """The sample without blanks."""
        return _finite(self.sample)

    @cached_property
    def words(self) -> str:
        """The header in words."""
        return header_words(self.name)

    @cached_property
    def is_counter(self) -> bool:
        """Whole numbers that go up by one from row to row; a few jumps are allowed."""
        steps = self.steps
        if steps.size < 2 or np.count_nonzero(steps == 1) <= 0.9 * steps.size:
            return False
        return bool((self.finite == np.floor(self.finite)).all())

    @cached_property
    def rises(self) -> bool:
        """Whether it goes up nearly always, as a clock does."""
        steps = self.steps
        if steps.size < 2 or self.is_counter:
            return False
        up, down = np.count_nonzero(steps > 0), np.count_nonzero(steps < 0)
        return bool(up > 0.02 * steps.size and down <= 0.02 * steps.size and up > 20 * down)

    @cached_property
    def is_constant(self) -> bool:
        """Whether every number is the same."""
        return bool(self.finite.size and (self.finite == self.finite[0]).all())

    @cached_property
    def _total(self) -> float | None:
        """The sum of all rows, None where some cannot be frames whatever their unit."""
        if not self.values.size or self.values.min() <= 1e-3 or self.values.max() >= 1e6:
            return None
        total = float(self.values.sum())
        return total if np.isfinite(total) else None

    def average_fps(self, unit: Unit) -> float:
        """Frames over time of the rows that can be frames; 0 where none can."""
        if self._total is None:
            return average_of(self.values, unit)
        total_ms = (1000.0 / self.values).sum() if unit is Unit.FPS else self._total * MS_PER[unit]
        return float(1000.0 * self.values.size / total_ms)

    @cached_property
    def typical_step(self) -> float:
        """The mean of its steps up to ten times the median step: a coarse clock has many of 0."""
        steps = self.steps[self.steps >= 0]
        up = steps[steps > 0]
        if not up.size:
            return 0.0
        return float(steps[steps <= 10 * median_of(up)].mean())


def average_of(values: FloatArray, unit: Unit) -> float:
    """Frames over time of the rows that can be frames; 0 where none can."""
    times_ms = to_ms(values, unit)
    usable = times_ms[(times_ms >= SHORTEST_MS) & (times_ms <= LONGEST_MS)]
    return float(1000.0 * usable.size / usable.sum()) if usable.size else 0.0


def _finite(values: FloatArray) -> FloatArray:
    is_finite = np.isfinite(values)
    return values if is_finite.all() else values[is_finite]
