"""Scores of synthetic tests over a logbook: by rig and test, repeats together."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from statistics import median

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.composite_score import SUM_TOLERANCE, missing_part, overall_score
from blunt_ruler.core.records.records import Contents, Decision, TypedFigures

GRAPHICS_PART = "graphics"


@dataclass(frozen=True, slots=True)
class RigScore:
    """One rig on one synthetic test: parts, overall, and which part was recovered, if any."""

    rig_id: str
    test: str
    runs: int
    parts: Mapping[str, float]
    weights: Mapping[str, float]
    overall: float | None
    recovered: str | None

    @property
    def graphics(self) -> float | None:
        """The part that compares cards; None where the test has none."""
        return self.parts.get(GRAPHICS_PART)


def rig_scores(contents: Contents) -> tuple[RigScore, ...]:
    """Kept scores of every rig and test, repeats by their median; a missing part is recovered
    where overall and weights allow it.
    """
    grouped: dict[tuple[str, str], list[TypedFigures]] = defaultdict(list)
    for run in contents.runs.values():
        if run.decision is Decision.KEEP and run.typed and (run.typed.score or run.typed.parts):
            case = contents.cases[run.case_id]
            grouped[contents.titles[case.title_id].name, run.rig_id].append(run.typed)
    return tuple(_score(rig_id, test, typed) for (test, rig_id), typed in sorted(grouped.items()))


def _score(rig_id: str, test: str, typed: list[TypedFigures]) -> RigScore:
    values: dict[str, list[float]] = defaultdict(list)
    weights: dict[str, float] = {}
    for one in typed:
        for part in one.parts:
            values[part.name].append(part.score)
            if part.weight is not None:
                weights[part.name] = part.weight
    parts = {name: median(scores) for name, scores in values.items()}
    overalls = [one.score for one in typed if one.score is not None]
    overall = median(overalls) if overalls else None
    recovered = None
    try:
        if weights and overall is None:
            overall = overall_score(parts, weights)
        elif overall is not None and 0 < sum(weights.values()) < 1 - SUM_TOLERANCE:
            rest = 1.0 - sum(weights.values())
            recovered, score = missing_part(parts, {**weights, "the rest": rest}, overall)
            parts, weights = {**parts, recovered: score}, {**weights, recovered: rest}
    except BadFigure:
        recovered = None
    return RigScore(rig_id, test, len(typed), parts, weights, overall, recovered)
