"""A claim: a typed statement about a review with its truth. Words come from `speak`."""

import math
from dataclasses import dataclass, field
from enum import StrEnum

from blunt_ruler.core.board.board import Column
from blunt_ruler.core.claims.standing import MARGIN, Counts, Estimate, Standing
from blunt_ruler.core.measure.kinds import Bound

NOTABLE = 0.08  # in logs: lows that differ by so much from the averages are told beside them
SCATTERED = math.log(1.5)  # titles that lie farther apart have their range told


class Question(StrEnum):
    """What a claim answers."""

    GAIN = "gain"
    LOSS = "loss"
    CAUSE = "cause"
    WORTH = "worth"
    OPEN = "open"


class ClaimKind(StrEnum):
    """What a claim states."""

    MEAN = "mean over titles"
    TITLE = "comparison of one title"
    KEPT = "kept of the twin"
    TREND = "trend"
    CROSSING = "crossing"
    UNEXPLAINED = "unexplained result"
    SPLIT = "loss split"
    VALUE = "value"
    OUTCOME = "outcome without a figure"
    GAP = "gap"


class Metric(StrEnum):
    """What is compared."""

    AVERAGE = "average"
    LOW = "1% low"
    SCORE = "score"
    PRICE = "price"
    OUTCOME = "outcome"


@dataclass(frozen=True, slots=True)
class Scope:
    """Over what a claim is: the names of its titles, their cases by id, and of what group."""

    titles: tuple[str, ...]
    case_ids: tuple[str, ...] = ()
    group: str = ""  # a resolution; blank for all
    part: str = ""  # of a score: which parts of the tests; blank for whole results
    is_speed: bool = False  # scores that are times, compared as speeds

    @property
    def words(self) -> str:
        """The scope for other programs: a title's name, or how many titles."""
        if self.group:
            return self.group
        return self.titles[0] if len(self.titles) == 1 else f"{len(self.titles)} titles"


@dataclass(frozen=True, slots=True)
class Part:
    """A named estimate that belongs in the same sentence: a ratio, or a share of a loss in its
    split; of a title, `of` names which.
    """

    name: str
    value: float
    standing: Standing = Standing.CLEAR
    bound: Bound = Bound.POINT
    of: str = ""


@dataclass(frozen=True, slots=True)
class Claim:
    """One statement: who, against whom, in what, over what, by how much and how sure.

    `value` holds ratios: over the base for a gain, to the twin or the reference for what is kept.
    `place` says how a rig and its twin differ: by "host", "link", or "" for another card.
    `says` is the sentence of a kind that is no comparison.
    """

    kind: ClaimKind
    question: Question
    subject: Column
    against: Column | None
    metric: Metric
    scope: Scope
    value: Estimate | None = None
    bound: Bound = Bound.POINT
    standing: Standing = Standing.OPEN
    counts: Counts | None = None
    parts: tuple[Part, ...] = ()
    caveats: tuple[str, ...] = ()
    place: str = ""
    says: str = ""
    figure: str = ""  # its name among the traced figures
    by_eye: bool = False  # some of its figures were neither counted nor sampled by a machine
    margin: float = MARGIN  # what is called level lies within it
    weight: float = field(default=0.0, compare=False)  # of its rank beside others of its question

    @property
    def change(self) -> float:
        """The ratio less one: above zero for a gain, below for a loss."""
        return 0.0 if self.value is None else self.value.ratio - 1.0

    @property
    def spoken_as(self) -> Metric:
        """Whose words it is spoken with: scores that are times compare speeds, as averages do."""
        return Metric.AVERAGE if self.scope.is_speed else self.metric

    @property
    def is_notable(self) -> bool:
        """Whether its lows tell another story than its averages: told beside them."""
        low = self.part("low")
        if low is None or low.bound is not Bound.POINT or self.value is None:
            return False
        apart = math.log(self.value.ratio) - math.log(low.value)
        return abs(apart) >= NOTABLE or self.standing.is_sure != low.standing.is_sure

    @property
    def is_scattered(self) -> bool:
        """Whether its titles lie so far apart that the mean alone says little."""
        logs = [math.log(one.value) for one in self.titles if one.bound is Bound.POINT]
        return len(logs) > 1 and max(logs) - min(logs) >= SCATTERED

    @property
    def titles(self) -> tuple[Part, ...]:
        """Its titles, each with its own ratio and standing."""
        return tuple(one for one in self.parts if one.name == "title")

    @property
    def figure_value(self) -> float:
        """What stands under its name: a loss is told as a loss."""
        return -self.change if self.figure.startswith("mean_loss") else self.change

    @property
    def kept_figure(self) -> str:
        """The name of the share that is kept, beside that of the loss or the change."""
        return self.figure.replace("mean_loss", "mean_kept").replace("change_", "kept_")

    def part(self, name: str) -> Part | None:
        """A part by its name."""
        return next((one for one in self.parts if one.name == name), None)
