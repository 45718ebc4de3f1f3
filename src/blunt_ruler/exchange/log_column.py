"""One column of a log, and what its numbers do."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from blunt_ruler.core.measure.robust_line import median_of
from blunt_ruler.core.types import FloatArray
from blunt_ruler.exchange.log_words import header_words

FEW = 50
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
        return steps[np.isfinite(steps)]

    @cached_property
    def finite(self) -> FloatArray:
        """The sample without blanks."""
        return self.sample[np.isfinite(self.sample)]

    @cached_property
    def words(self) -> str:
        """The header in words."""
        return header_words(self.name)

    @cached_property
    def is_counter(self) -> bool:
        """Whole numbers that go up by one from row to row; a few jumps are allowed."""
        steps = self.steps
        few = self.finite[:FEW]  # most columns show at once that they count nothing
        if steps.size < 2 or (few % 1 != 0).any() or (self.finite % 1 != 0).any():
            return False
        return bool(np.count_nonzero(steps == 1) > 0.9 * steps.size)

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
    def typical_step(self) -> float:
        """The mean of its steps up to ten times the median step: a coarse clock has many of 0."""
        steps = self.steps[self.steps >= 0]
        up = steps[steps > 0]
        if not up.size:
            return 0.0
        return float(steps[steps <= 10 * median_of(up)].mean())
