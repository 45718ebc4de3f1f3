"""Composite scores: the overall of a synthetic test from its parts, and a part from the overall.

overall = 1 / Σ(wᵢ/sᵢ), the weighted harmonic mean, weights summing to 1. Cards alone are compared
by the graphics part: the overall of the same card changes with the host.
"""

import math
from collections.abc import Mapping

from blunt_ruler.core.errors import BadFigure

# Published weights are rounded to two or three decimals, so a sum is taken as 1 within this.
SUM_TOLERANCE = 0.006


def overall_score(parts: Mapping[str, float], weights: Mapping[str, float]) -> float:
    """Σw / Σ(w/p): the weighted harmonic mean of part scores p, all above 0.

    BadFigure names what is not.
    """
    _check(weights)
    for name in weights:
        if name not in parts:
            raise BadFigure("parts", f"no score for “{name}”", "Give every weighted part a score")
    total = math.fsum(weight / _positive(name, parts[name]) for name, weight in weights.items())
    return math.fsum(weights.values()) / total


def missing_part(
    parts: Mapping[str, float], weights: Mapping[str, float], overall: float
) -> tuple[str, float]:
    """The one part without a score, recovered from the overall score: its name and score.

    BadFigure where none or several are missing, or where no positive score leads to the overall.
    """
    _check(weights)
    missing = [name for name in weights if name not in parts]
    if len(missing) != 1:
        raise BadFigure(
            "parts", f"{len(missing)} parts have no score", "Leave out exactly one to recover it"
        )
    name = missing[0]
    known = math.fsum(weights[other] / _positive(other, parts[other]) for other in parts)
    left = math.fsum(weights.values()) / _positive("overall", overall) - known
    if left <= 0:
        raise BadFigure(
            "overall",
            f"no score of “{name}” leads to an overall of {overall:g}",
            "Check the overall, the weights and the other parts",
        )
    return name, weights[name] / left


def _check(weights: Mapping[str, float]) -> None:
    if not weights:
        raise BadFigure("weights", "there are no parts", "Give at least one part with a weight")
    for name, weight in weights.items():
        if not (math.isfinite(weight) and weight > 0):
            raise BadFigure(f"weight of {name}", f"{weight} is no weight", "Give one above 0")
    total = math.fsum(weights.values())
    if abs(total - 1.0) > SUM_TOLERANCE:
        raise BadFigure("weights", f"the weights sum to {total:g}", "Give weights that sum to 1")


def _positive(name: str, score: float) -> float:
    if not (math.isfinite(score) and score > 0):
        raise BadFigure(f"score of {name}", f"{score} is no score", "Give a number above 0")
    return score


def parse_part(words: str) -> tuple[str, float | None, float]:
    """Read "NAME=SCORE:WEIGHT" as (name, score or None where it is blank, weight)."""
    name, equals, rest = words.partition("=")
    score, colon, weight = rest.partition(":")
    try:
        if not (name.strip() and equals and colon):
            raise ValueError
        return name.strip(), float(score) if score.strip() else None, float(weight)
    except ValueError:
        raise BadFigure(
            "--part", f"“{words}” is no part", "Write it as graphics=4920:0.85"
        ) from None
