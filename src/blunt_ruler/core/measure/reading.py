"""How a figure was read, and how sure that makes it, before anything is said of the next pass.

A log counts frames; an eye sees a number jump. What that is worth is kept with the figure, as the
standard deviation of the log of the rate, so that it joins the run-to-run spread.
"""

import math
from collections.abc import Sequence

import numpy as np
from pydantic import Field, model_validator

from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.values import Value

NORMAL = 1.959964  # z at 0.975
ABOUT = 0.05  # “about” is taken as ± 5 %, 95 times in 100: assumed
GLANCE = 0.03  # a whole number is a look at a counter, ± 3 %: common practice, no source
OTHERS = 0.03  # nothing is known of how others measured: assumed alike
UNIFORM = math.sqrt(12.0)


class HowRead(Value):
    """How one figure was read.

    Attributes:
        step: the unit of its last digit as written, 0 where that is not known.
        edges: what it was seen between, or the 95 % interval of samples or of a recording.
        looks: the looks it is the mean of.
    """

    kind: Kind = Kind.EYE
    step: float = Field(0.0, ge=0, le=1e6)
    edges: tuple[float, float] | None = None
    looks: tuple[float, ...] = ()

    @model_validator(mode="after")
    def _is_possible(self) -> "HowRead":
        if self.edges is not None and not 0 <= self.edges[0] <= self.edges[1]:
            raise ValueError("the edges are not in order")
        has_edges = self.edges is not None and self.kind not in (Kind.SAMPLES, Kind.RECORDING)
        if (self.kind is Kind.RANGE) != has_edges:
            raise ValueError("a range has edges, and so have samples and recordings alone")
        if any(look <= 0 for look in self.looks):
            raise ValueError("a look is not above 0")
        return self

    def error(self, fps: float) -> tuple[float, float]:
        """(variance of the log of the rate as read, its degrees of freedom).

        Edges: (ln(high/low) / 2 / z)². Looks: Student's s²/(k·x̄²) on k − 1, from the rounding of
        the last digit up. About ± 5 %, one look at a whole number ± 3 %, a figure with decimals its
        rounding, others' figures ± 3 %; a bound its rounding alone: what is beyond it is not told.
        """
        rounding = (self.rounding(fps) / UNIFORM / fps) ** 2
        if self.edges is not None:
            low, high = self.edges
            width = math.log(high / low) / 2.0 if low > 0 else (high - low) / 2.0 / fps
            return max((width / NORMAL) ** 2, rounding), math.inf
        if len(self.looks) > 1:
            looks = np.asarray(self.looks)
            seen = float(looks.var(ddof=1)) / (looks.size * float(looks.mean()) ** 2)
            return (seen, looks.size - 1.0) if seen > rounding else (rounding, math.inf)
        match self.kind:
            case Kind.LOG:
                return 0.0, math.inf
            case Kind.ABOUT:
                return _variance(ABOUT), math.inf
            case Kind.PUBLISHED:
                return _variance(OTHERS), math.inf
            case Kind.EYE if self.rounding(fps) >= 1.0:
                return max(_variance(GLANCE), rounding), math.inf
            case _:
                return rounding, math.inf

    def rounding(self, fps: float) -> float:
        """The step of the figure: as it was written, else 1 of a whole number and 0.1 of others."""
        return self.step or (1.0 if fps == round(fps) else 0.1)


def _variance(width: float) -> float:
    """Of what is held to ± width, 95 times in 100."""
    return (math.log1p(width) / NORMAL) ** 2


def errors_together(errors: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """(Σv/n², freedom by Satterthwaite): the error of the mean of n figures read one by one."""
    whole = math.fsum(variance for variance, _ in errors)
    below = math.fsum(variance**2 / freedom for variance, freedom in errors)
    return whole / len(errors) ** 2, whole**2 / below if below > 0 else math.inf


FROM_LOG = HowRead(kind=Kind.LOG)
