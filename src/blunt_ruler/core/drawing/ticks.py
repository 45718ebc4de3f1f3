"""Graduations of a rule: where the marks of a scale stand.

One definition for the big ruler, the small rules under cells and every chart.
"""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Scale:
    """A scale from 0 to `end`, numbered every `major` and marked every `minor`."""

    end: float
    major: float
    minor: float

    def share(self, value: float) -> float:
        """Where a value stands, 0 at the start and 1 at the end; clipped to both."""
        return min(max(value / self.end, 0.0), 1.0)

    def majors(self) -> tuple[float, ...]:
        """Numbered marks, 0 included."""
        return tuple(index * self.major for index in range(round(self.end / self.major) + 1))

    def minors(self) -> tuple[float, ...]:
        """All marks, the numbered ones included."""
        return tuple(index * self.minor for index in range(round(self.end / self.minor) + 1))


def scale_to(largest: float, most_majors: int = 10) -> Scale:
    """The shortest scale with numbers 1, 2 or 5 × 10ⁿ apart that holds `largest`."""
    reach = max(largest, 1e-9)
    power = 10.0 ** math.floor(math.log10(reach / most_majors))
    for step in (1.0, 2.0, 5.0, 10.0):
        major = step * power
        if math.ceil(reach / major - 1e-9) <= most_majors:
            break
    end = math.ceil(reach / major - 1e-9) * major
    return Scale(end=end, major=major, minor=major / (4.0 if step == 2.0 else 5.0))
