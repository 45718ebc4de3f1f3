"""Which of a few passes is the odd one, by what the others and the plan's other cells say."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from blunt_ruler.core.checks.findings import RunFacts

MAD_TO_SD = 1.4826
LEAST_SPREAD = 0.08  # log rate: no rig is the same multiple of another over all cases
FEWEST_SHARED = 2
AGREE = 1.2  # the ends of a group lie this many times what is allowed from its middle apart
NEAR, FARTHER = 3.0, 3.0  # spreads: a cluster is expected within, and the next is beyond by


@dataclass(frozen=True, slots=True)
class Expected:
    """What the plan's other cells would have in a cell: the log of its rate, and the spread."""

    log_rate: float
    spread: float


class Elsewhere:
    """What sound cells say of one another: a rig is about the same multiple of another over the
    cases that both have. Nothing is worked out before it is asked.
    """

    def __init__(self, sound: Callable[[], Mapping[tuple[str, str], Sequence[RunFacts]]]) -> None:
        """`sound` gives the sound runs of cells by (rig, case)."""
        self._sound = sound
        self._of_rig: dict[str, dict[str, float]] = {}  # log rates by case
        self._pairs: dict[tuple[str, str], list[tuple[str, float]]] = {}

    def expected(self, rig_id: str, case_id: str) -> Expected | None:
        """What a cell would have by the other rigs' rates of its case; None where too few cells
        are shared.
        """
        said: list[float] = []
        spreads: list[float] = []
        for other_id, rates in self._log_rates().items():
            log_rate = rates.get(case_id)
            if log_rate is None or other_id == rig_id:
                continue
            apart = [off for case, off in self._apart(rig_id, other_id) if case != case_id]
            if len(apart) < FEWEST_SHARED:
                continue
            middle = median(apart)
            said.append(log_rate + middle)
            spreads.append(MAD_TO_SD * median(abs(off - middle) for off in apart))
        if not said:
            return None
        return Expected(median(said), max(LEAST_SPREAD, median(spreads)))

    def _log_rates(self) -> dict[str, dict[str, float]]:
        if not self._of_rig:
            for (rig_id, case_id), repeats in self._sound().items():
                logs = [math.log(rate) for one in repeats if (rate := one.run.average_fps)]
                if logs:
                    self._of_rig.setdefault(rig_id, {})[case_id] = median(logs)
        return self._of_rig

    def _apart(self, one: str, other: str) -> list[tuple[str, float]]:
        if (one, other) not in self._pairs:
            theirs = self._log_rates().get(other, {})
            self._pairs[one, other] = [
                (case, log_rate - theirs[case])
                for case, log_rate in self._log_rates().get(one, {}).items()
                if case in theirs
            ]
        return self._pairs[one, other]


@dataclass(frozen=True, slots=True)
class Verdict:
    """`odd` are the indices of passes that stand apart, `middle` what the others agree on.

    Undecided: they do not agree and nothing tells which is right; then nobody is odd.
    """

    odd: tuple[int, ...] = ()
    middle: float = 0.0
    agreeing: int = 0
    undecided: bool = False
    by_expected: bool = False


def judge(
    values: Sequence[float],
    allowed: float,
    expected: Callable[[], Expected | None] = lambda: None,
    reading: Sequence[float] = (),
) -> Verdict:
    """Who is odd among values that should lie within `allowed` of one another.

    `reading` is how far each may be off by the way it was read; two values may differ by
    √(allowed² + reading₁² + reading₂²). A majority that agrees is right; without one, what is
    expected decides, where it can.
    """
    if len(values) < 2:
        return Verdict()
    room = _Room(values, allowed, reading or (0.0,) * len(values))
    clusters = _clusters(room)
    largest = max(clusters, key=len)
    if 2 * len(largest) > len(values):
        return _without(room, largest)
    said = expected()
    if said is None:
        return Verdict(undecided=True)
    ranked = sorted(
        (abs(median(values[i] for i in one) - said.log_rate) / said.spread, one) for one in clusters
    )
    if ranked[0][0] > NEAR or (len(ranked) > 1 and ranked[1][0] < ranked[0][0] + FARTHER):
        return Verdict(undecided=True)
    verdict = _without(room, ranked[0][1])
    return Verdict(verdict.odd, verdict.middle, verdict.agreeing, by_expected=True)


@dataclass(frozen=True, slots=True)
class _Room:
    """Values, how far they may lie apart, and how far each may be off by its reading."""

    values: Sequence[float]
    allowed: float
    reading: Sequence[float]

    def agree(self, low: int, high: int) -> bool:
        """Whether two values agree, the lower first."""
        apart = self.values[high] - self.values[low]
        reading = math.hypot(self.reading[low], self.reading[high])
        return apart <= math.hypot(AGREE * self.allowed, reading)

    def is_odd(self, index: int, middle: float, agreeing: Sequence[int]) -> bool:
        """Whether a value lies too far from the middle of those that agree."""
        theirs = math.hypot(*(self.reading[i] for i in agreeing)) / len(agreeing)
        off = abs(self.values[index] - middle)
        return off > math.hypot(self.allowed, self.reading[index], theirs)


def _clusters(room: _Room) -> list[tuple[int, ...]]:
    """Groups of values that agree, the largest and of these the densest taken first."""
    values = room.values
    left = sorted(range(len(values)), key=lambda i: values[i])
    found = []
    while left:
        groups = [
            tuple(left[first:last])
            for first in range(len(left))
            for last in range(first + 1, len(left) + 1)
            if room.agree(left[first], left[last - 1])
        ]
        best = max(groups, key=lambda one: (len(one), values[one[0]] - values[one[-1]]))
        found.append(best)
        left = [i for i in left if i not in best]
    return found


def _without(room: _Room, agreeing: Sequence[int]) -> Verdict:
    middle = median(room.values[i] for i in agreeing)
    count = len(room.values)
    odd = tuple(i for i in range(count) if room.is_odd(i, middle, agreeing))
    return Verdict(odd, middle, count - len(odd))
