"""Which cause is how likely, and which test tells most for its minutes.

Plain Bayes over causes that exclude one another: a cause's weight times how often it shows what was
seen, when it was seen, and how each test was answered. The next test is the one with the largest
expected gain of information for each minute, safe ones first.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from blunt_ruler.core.trouble.knowledge import Cause, Knowledge, Trial

OTHER = "other"
OTHER_WORDS = "something that is not in the list"
OTHER_PRIOR, OTHER_SHOWS = 4.0, 0.12
RISKS = (1.0, 0.7, 0.35)  # how much a test counts that needs hands inside, or can do harm
SURE = 0.9
SEEN_BEFORE = 1.0  # each cure of the kind in this logbook adds the prior once more
MOST_STEPS = 8


@dataclass(frozen=True, slots=True)
class Seen:
    """What is known of a trouble: symptoms, when, answers to tests, and cures of earlier ones."""

    symptoms: tuple[str, ...] = ()
    time: str = ""
    answers: Mapping[str, bool] = field(default_factory=dict)
    traits: frozenset[str] = frozenset()
    cured_before: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Ranked:
    """A cause and how likely it is; None stands for anything else."""

    cause: Cause | None
    share: float

    @property
    def key(self) -> str:
        """Its key."""
        return self.cause.key if self.cause is not None else OTHER

    @property
    def words(self) -> str:
        """It in words."""
        return self.cause.words if self.cause is not None else OTHER_WORDS


@dataclass(frozen=True, slots=True)
class Proposed:
    """A test that is worth its minutes: the information it gives, in bits."""

    test: Trial
    bits: float
    worth: float


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """The causes, the likeliest first; the tests, the best first; and what it takes to be sure."""

    causes: tuple[Ranked, ...]
    tests: tuple[Proposed, ...]
    to_be_sure: tuple[Trial, ...]
    sure_minutes: float

    @property
    def first(self) -> Ranked:
        """The likeliest cause."""
        return self.causes[0]


def diagnose(knowledge: Knowledge, seen: Seen) -> Diagnosis:
    """Everything that is said of a trouble."""
    shares = posterior(knowledge, seen)
    by_key = {one.key: one for one in knowledge.causes}
    causes = sorted(
        (Ranked(by_key.get(key), share) for key, share in shares.items()),
        key=lambda one: -one.share,
    )
    tests = proposals(knowledge, shares, seen.answers)
    path, minutes = _to_be_sure(knowledge, shares, dict(seen.answers))
    return Diagnosis(tuple(causes), tests, path, minutes)


def posterior(knowledge: Knowledge, seen: Seen) -> dict[str, float]:
    """P(cause | all that is known), by key; they add up to 1."""
    weights = {}
    for cause in knowledge.causes:
        weight = cause.prior * (1.0 + SEEN_BEFORE * seen.cured_before.get(cause.key, 0))
        for trait, factor in cause.factors.items():
            weight *= factor if trait in seen.traits else 1.0
        for symptom in seen.symptoms:
            weight *= cause.shows(symptom)
        if seen.time:
            weight *= cause.at(seen.time)
        weights[cause.key] = weight
    weights[OTHER] = OTHER_PRIOR * OTHER_SHOWS ** len(seen.symptoms) * (0.3 if seen.time else 1.0)
    for key, yes in seen.answers.items():
        test = knowledge.test(key)
        if test is not None:
            weights = _weighed(weights, test, yes)
    return _normalised(weights)


def _weighed(weights: Mapping[str, float], test: Trial, yes: bool) -> dict[str, float]:
    return {
        key: weight * (test.says_yes(key) if yes else 1.0 - test.says_yes(key))
        for key, weight in weights.items()
    }


def _normalised(weights: Mapping[str, float]) -> dict[str, float]:
    total = math.fsum(weights.values())
    if total <= 0.0:
        return {key: 1.0 / len(weights) for key in weights}
    return {key: weight / total for key, weight in weights.items()}


def updated(shares: Mapping[str, float], test: Trial, yes: bool) -> dict[str, float]:
    """The shares after one more answer."""
    return _normalised(_weighed(shares, test, yes))


def entropy(shares: Mapping[str, float]) -> float:
    """How open it is, in bits."""
    return -math.fsum(one * math.log2(one) for one in shares.values() if one > 0.0)


def gain(shares: Mapping[str, float], test: Trial) -> float:
    """The information that a test is expected to give, in bits."""
    yes = math.fsum(share * test.says_yes(key) for key, share in shares.items())
    after = 0.0
    for chance, answer in ((yes, True), (1.0 - yes, False)):
        if chance > 0.0:
            after += chance * entropy(updated(shares, test, answer))
    return entropy(shares) - after


def proposals(
    knowledge: Knowledge, shares: Mapping[str, float], answers: Mapping[str, bool]
) -> tuple[Proposed, ...]:
    """The tests that are left, the best for its minutes first."""
    found = []
    for test in knowledge.tests:
        if test.key not in answers:
            bits = gain(shares, test)
            if bits > 1e-3:
                found.append(Proposed(test, bits, RISKS[test.risk] * bits / (test.minutes + 1.0)))
    return tuple(sorted(found, key=lambda one: -one.worth))


def _to_be_sure(
    knowledge: Knowledge, shares: dict[str, float], answers: dict[str, bool]
) -> tuple[tuple[Trial, ...], float]:
    """The tests that would make the likeliest cause sure, were it the one, and their minutes."""
    lead = max(shares, key=shares.__getitem__)
    path: list[Trial] = []
    while shares[lead] < SURE and len(path) < MOST_STEPS:
        left = proposals(knowledge, shares, answers)
        if not left:
            break
        test = left[0].test
        yes = test.says_yes(lead) >= 0.5
        answers = {**answers, test.key: yes}
        shares = updated(shares, test, yes)
        path.append(test)
    return tuple(path), math.fsum(one.minutes for one in path)
