"""What a comparison takes in and gives out: runs, cells, means, and how cases are put together."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from blunt_ruler.core.compare.comparability import CLEAN, CellStanding
from blunt_ruler.core.compare.intervals import Prior, quantile_of
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import Bound, Kind, MeanSchool
from blunt_ruler.core.measure.reading import FROM_LOG, HowRead


@dataclass(frozen=True, slots=True)
class Measurement:
    """One sound run as the comparison needs it: which rig, which case, and its rates."""

    rig: str
    case: str
    average_fps: float
    low_1_fps: float | None = None
    frames: int | None = None
    duration_s: float | None = None
    low_01_fps: float | None = None
    wall_w: float | None = None
    title: str = ""
    how: HowRead = FROM_LOG
    low_how: HowRead = FROM_LOG
    spread: float | None = None  # assumed of it from pass to pass, where somebody says so
    sitting: str = ""  # the day it was taken on, blank where nobody noted it


@dataclass(frozen=True, slots=True)
class CaseResult:
    """One rig on one case, its repeats put together.

    `kind` is that of its least sure run, `kinds` are all of them, `how` is that of a single run;
    `bound` says whether the rate is
    a figure or what the true one is above or below, `over_bound` and `of_bound` the same of its
    ratio to the base and to the reference. A ratio whose bound is open is None.

    `gain` and its bounds are None where the base has no run of the case, `loss` and its bounds
    where the reference has none. `rate_low` and `rate_high` bound the rate itself (Student, 95 %).
    `spread` is the standard deviation of the log rate of repeats,
    None for a single run. `tie` says that the gain's interval covers zero (the loss's, for the
    base); `runs_needed` is how many more repeats would show a difference of this size.
    """

    case: str
    runs: int
    average_fps: float
    low_1_fps: float | None
    gain: float | None
    loss: float | None
    gain_low: float | None = None
    gain_high: float | None = None
    loss_low: float | None = None
    loss_high: float | None = None
    low_01_fps: float | None = None
    spread: float | None = None
    wall_w: float | None = None
    standing: CellStanding = CLEAN
    tie: bool = False
    runs_needed: int | None = None
    rate_low: float | None = None
    rate_high: float | None = None
    kind: Kind = Kind.LOG
    kinds: frozenset[Kind] = frozenset({Kind.LOG})
    how: HowRead | None = None
    bound: Bound = Bound.POINT
    low_bound: Bound = Bound.POINT
    over_bound: Bound = Bound.POINT
    of_bound: Bound = Bound.POINT
    unit: str = ""  # of a score; blank for frames per second

    @property
    def is_capped(self) -> bool:
        """Whether the frame cap of its case holds its rate."""
        return self.bound is Bound.AT_LEAST and Kind.AT_LEAST not in self.kinds

    @property
    def faster_by(self) -> float | None:
        """How much faster the reference is than this rig: r/a − 1."""
        return None if self.loss is None else 1.0 / (1.0 - self.loss) - 1.0


@dataclass(frozen=True, slots=True)
class TitleRatio:
    """One title of one rig against another, on the log of the ratio.

    `variance` is that of passes and reading of both rigs, with its freedom; what a sitting does to
    all its titles is not in it: `sittings` and `other_sittings` say which share of each rig's
    passes was taken on which day. A `bound` says what the true ratio is above or below.
    """

    title: str
    cases: tuple[str, ...]
    log_ratio: float
    variance: float
    freedom: float
    bound: Bound = Bound.POINT
    sittings: tuple[tuple[str, float], ...] = ()
    other_sittings: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Sittings:
    """What a day does to a rig: σ of the log rate, from `told` pairs of sittings; assumed of 0."""

    sigma: float
    told: int = 0


@dataclass(frozen=True, slots=True)
class Pooled:
    """What all cells of a review tell of any of them: how passes spread that were counted, and
    those read by eye, and what a day does. Means over some of the cells rest on the same.
    """

    counted: Prior
    by_eye: Prior
    sittings: Sittings


@dataclass(frozen=True, slots=True)
class RigMean:
    """A mean over the cases shared with one other rig: ratio, bounds, and what moves it most.

    `case_moved` names the case that moves it most and `ratio_without` is the mean without it;
    `case_ids` are the cases it is over, `missing` those it could be over besides: another rig's
    mean is, or both have them, and a figure in doubt keeps them out.
    A mean is over figures; bounds beside them are `bounds_out` of it. A mean of bounds alone is a
    bound, and has no end on its open side. `kinds` are how the figures behind it were read.

    `low` and `high` say what another choice of titles could give. `these_error` is the standard
    error of the log of the mean over these very titles, with its `these_freedom`: what passes,
    reading and sittings leave open, whatever other titles would do.
    """

    ratio: float
    low: float | None
    high: float | None
    cases: int
    case_moved: str | None
    ratio_without: float | None
    case_ids: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    bound: Bound = Bound.POINT
    kinds: frozenset[Kind] = frozenset({Kind.LOG})
    bounds_out: tuple[str, ...] = ()
    these_error: float = 0.0
    these_freedom: float = math.inf
    titles: Sequence[TitleRatio] = ()
    sittings: Sittings = Sittings(0.0)

    @property
    def these(self) -> tuple[float | None, float | None]:
        """95 % over these very titles; None for the end that a bound leaves open, and for a rig
        against itself.
        """
        if self.these_error == 0.0:
            return None, None
        half = quantile_of(self.these_freedom) * self.these_error
        low, high = self.ratio * math.exp(-half), self.ratio * math.exp(half)
        return (
            low if self.bound in (Bound.POINT, Bound.AT_LEAST) else None,
            high if self.bound in (Bound.POINT, Bound.AT_MOST) else None,
        )

    @property
    def over_titles(self) -> Sequence[TitleRatio]:
        """The titles that the mean is over: of `titles` without those known as bounds alone,
        unless it is a bound itself.
        """
        if self.bound is not Bound.POINT:
            return self.titles
        return [one for one in self.titles if one.bound is Bound.POINT]

    @property
    def of_cases(self) -> int:
        """How many cases it is over, with those that it could be over."""
        return self.cases + len(self.missing)


@dataclass(frozen=True, slots=True)
class RigResult:
    """One rig over all its cases; means only over the sound cases it shares with the other."""

    rig: str
    over_base: RigMean | None
    of_reference: RigMean | None
    cases: Sequence[CaseResult]

    @property
    def mean_gain(self) -> float | None:
        """Mean gain over the base."""
        return None if self.over_base is None else self.over_base.ratio - 1.0

    @property
    def mean_loss(self) -> float | None:
        """Mean loss against the reference."""
        return None if self.of_reference is None else 1.0 - self.of_reference.ratio

    @property
    def gain_cases(self) -> int:
        """How many cases the mean gain rests on."""
        return 0 if self.over_base is None else self.over_base.cases

    @property
    def loss_cases(self) -> int:
        """How many cases the mean loss rests on."""
        return 0 if self.of_reference is None else self.of_reference.cases


@dataclass(frozen=True, slots=True)
class How:
    """How cases are put together: school, weights by case, cases left out.

    With `clean_only` a mean takes no case whose standing is mixed; cases that are not comparable
    never enter one. With `each_title_once` the cases of a title count as one. With `shared` all
    means are over the cases that every measured rig has.
    """

    mean: MeanSchool = MeanSchool.GEOMETRIC
    weights: Mapping[str, float] = field(default_factory=dict)
    without: frozenset[str] = frozenset()
    clean_only: bool = True
    shared: bool = True
    each_title_once: bool = False


@dataclass(frozen=True, slots=True)
class Comparison:
    """Every rig against one base and, where there is one, one reference."""

    base: str
    reference: str | None
    low_school: LowSchool
    how: How
    rigs: tuple[RigResult, ...]
    pooled: Pooled | None = None

    @property
    def mean(self) -> str:
        """The school of the means."""
        return str(self.how.mean)
