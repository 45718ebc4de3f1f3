"""Composite scores: the overall of a synthetic test from its parts, and a part from the overall.

Three formulas, weights summing to 1: weighted harmonic 1 / Σ(wᵢ/sᵢ), geometric Π sᵢ^wᵢ, and
arithmetic Σ wᵢ·sᵢ. Each is a sum of w·f(s) under an f of its own, which is how parts and weights
are found again. Cards alone are compared by the graphics part: the overall of the same card
changes with the host.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from enum import StrEnum

import numpy as np

from blunt_ruler.core.errors import BadFigure

# Published weights are rounded to two or three decimals, so a sum is taken as 1 within this.
SUM_TOLERANCE = 0.006


class ScoreFormula(StrEnum):
    """How parts make an overall."""

    HARMONIC = "weighted harmonic mean"
    GEOMETRIC = "weighted geometric mean"
    ARITHMETIC = "weighted arithmetic mean"


# Formula → f and its inverse: f(overall) = Σ w·f(part).
_SCALES: dict[ScoreFormula, tuple[Callable[[float], float], Callable[[float], float]]] = {
    ScoreFormula.HARMONIC: (lambda score: 1.0 / score, lambda mean: 1.0 / mean),
    ScoreFormula.GEOMETRIC: (math.log, math.exp),
    ScoreFormula.ARITHMETIC: (lambda score: score, lambda mean: mean),
}


def overall_score(
    parts: Mapping[str, float],
    weights: Mapping[str, float],
    formula: ScoreFormula = ScoreFormula.HARMONIC,
) -> float:
    """f⁻¹(Σw·f(p) / Σw): the weighted mean of part scores p, all above 0.

    BadFigure names what is not.
    """
    _check(weights)
    for name in weights:
        if name not in parts:
            raise BadFigure("parts", f"no score for “{name}”", "Give every weighted part a score")
    to, back = _SCALES[formula]
    total = math.fsum(weight * to(_positive(name, parts[name])) for name, weight in weights.items())
    return back(total / math.fsum(weights.values()))


def missing_part(
    parts: Mapping[str, float],
    weights: Mapping[str, float],
    overall: float,
    formula: ScoreFormula = ScoreFormula.HARMONIC,
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
    to, back = _SCALES[formula]
    others = [other for other in weights if other != name]
    known = math.fsum(weights[other] * to(_positive(other, parts[other])) for other in others)
    left = math.fsum(weights.values()) * to(_positive("overall", overall)) - known
    try:
        found = back(left / weights[name])
    except (ZeroDivisionError, OverflowError):
        found = math.inf
    if not (math.isfinite(found) and found > 0):
        raise BadFigure(
            "overall",
            f"no score of “{name}” gives an overall of {overall:g}",
            "Check the overall, the weights and the other parts",
        )
    return name, found


def fitting_weights(
    results: Sequence[tuple[Mapping[str, float], float]],
    formula: ScoreFormula = ScoreFormula.HARMONIC,
) -> dict[str, float]:
    """The weights that lead from parts to their known overalls: results are (parts, overall).

    Least squares of Σw·f(p)/f(overall) = 1 with weights from 0 to 1 that sum to 1. BadFigure where
    there are too few results, their parts differ, or no weights fit within 2 %.
    """
    from scipy.optimize import lsq_linear  # slow to import; the window starts without

    names = list(results[0][0]) if results else []
    if len(names) < 2 or any(list(parts) != names for parts, _ in results):
        raise BadFigure(
            "results",
            "they do not share the same two or more parts",
            "Give results with the same parts",
        )
    if len(results) < len(names) - 1:
        short = len(names) - 1
        raise BadFigure(
            "results", f"{len(results)} of them do not determine the weights", f"Give {short}"
        )
    to, back = _SCALES[formula]
    rows = [
        [to(_positive(name, parts[name])) / to(_positive("overall", overall)) for name in names]
        for parts, overall in results
    ]
    if not np.isfinite(rows).all():
        raise BadFigure("results", "an overall of 1 has no logarithm to divide by", "Scale them")
    tight = 1e4  # the sum to 1 is exact, the rest is rounded
    a = np.array([*rows, [tight] * len(names)])
    b = np.array([1.0] * len(rows) + [tight])
    weights = lsq_linear(a, b, bounds=(0.0, 1.0)).x
    found = dict(zip(names, (weights / weights.sum()).tolist(), strict=True))
    for parts, overall in results:
        made = back(math.fsum(found[name] * to(parts[name]) for name in names))
        if abs(made / overall - 1.0) > 0.02:
            raise BadFigure(
                "overall",
                f"no weights of these parts give {overall:g}",
                "Check the formula, the parts and the overalls",
            )
    return found


def parse_known(words: str) -> tuple[dict[str, float], float]:
    """Read "graphics=4920; cpu=8000; overall=5200" as (parts, overall), numbers above 0."""
    parts: dict[str, float] = {}
    for piece in words.split(";"):
        name, equals, number = (one.strip() for one in piece.partition("="))
        try:
            value = float(number)
        except ValueError:
            value = math.nan
        if not (name and equals and math.isfinite(value) and value > 0) or name in parts:
            raise BadFigure(
                "--known", f"“{piece.strip()}” is not a score", "Write graphics=4920; overall=5200"
            )
        parts[name] = value
    if "overall" not in parts:
        raise BadFigure("--known", f"“{words}” has no overall", "Write graphics=4920; overall=5200")
    overall = parts.pop("overall")
    return parts, overall


def _check(weights: Mapping[str, float]) -> None:
    if not weights:
        raise BadFigure("weights", "there are no parts", "Give at least one part with a weight")
    for name, weight in weights.items():
        if not (math.isfinite(weight) and weight > 0):
            raise BadFigure(f"weight of {name}", f"{weight} is not a weight", "Give one above 0")
    total = math.fsum(weights.values())
    if abs(total - 1.0) > SUM_TOLERANCE:
        raise BadFigure("weights", f"the weights sum to {total:g}", "Give weights that sum to 1")


def _positive(name: str, score: float) -> float:
    if not (math.isfinite(score) and score > 0):
        raise BadFigure(f"score of {name}", f"{score} is not a score", "Give a number above 0")
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
            "--part", f"“{words}” is not a part", "Write it as graphics=4920:0.85"
        ) from None
