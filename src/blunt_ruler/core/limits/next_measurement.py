"""Which test to take next: the one that narrows the open question most for each minute.

A linear-Gaussian update: a test with slope j and noise s takes (gᵀCj)²/(s² + jᵀCj) off the
variance gᵀCg of the question g.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from blunt_ruler.core.limits.cells import ASSUMED_SPREAD, MEASURED_SPREAD, Cell
from blunt_ruler.core.limits.fit import Fit
from blunt_ruler.core.limits.model import jacobian, link_slope, log_rate, times_of
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Record, Review
from blunt_ruler.core.types import FloatArray

SIZES = {"720p": 0.9216, "1080p": 2.0736, "1440p": 3.6864, "2160p": 8.2944}
SWEEP_MIN = 3.0
STEP = 1e-4


class Question(StrEnum):
    """What is to be made surer."""

    LINK = "what the link costs"
    HOST = "what the host costs"
    CELL = "the chosen cell's rate"


@dataclass(frozen=True, slots=True)
class NextTest:
    """A test that could be taken: what, on which rig, how long, and what it would narrow.

    `narrows` is the share it takes off the question's spread.
    """

    says: str
    rig: str
    case: str | None
    minutes: float
    narrows: float
    size: str = ""
    like: str = ""

    @property
    def per_minute(self) -> float:
        """What it narrows for each minute of bench time."""
        return self.narrows / self.minutes


Z_80 = 1.2815515655446004  # half the width of an 80 % interval of a normal, in deviations


def question_slope(fit: Fit, question: Question, cell: Cell, reference: Cell | None) -> FloatArray:
    """How the answer to a question moves with each unknown, shape (unknowns,)."""
    other = replace(cell)
    if question is Question.LINK and reference is not None:
        other = replace(cell, link=reference.link, sent_back_mb=reference.sent_back_mb)
    elif question is Question.HOST and reference is not None:
        other = replace(cell, host=reference.host)
    places, others = fit.places_for([cell], {}), fit.places_for([other], {})
    slope = jacobian(fit.x, places)[0]
    if question is not Question.CELL:
        slope = slope - jacobian(fit.x, others)[0]
    return np.asarray(slope)


def planned(
    contents: Contents, review: Review, test: NextTest, new_id: Callable[[], str]
) -> Edit | None:
    """A test sent to the plan; a new resolution becomes a case. None for one of the Bench."""
    if not test.like:
        return None
    case_id = test.case
    records: list[Record] = []
    if case_id is None:
        like = contents.cases[test.like]
        case = like.model_copy(update={"id": new_id(), "resolution": test.size})
        cases = (*review.case_ids, case.id)
        records = [case, review.model_copy(update={"case_ids": cases})]
        case_id = case.id
    plan = plan_of(contents, review).with_extra(test.rig, case_id, 1)
    return Edit(f"plan a test: {test.says}", (*records, plan), notice=f"Planned: {test.says}.")


def next_tests(
    fit: Fit,
    slope: FloatArray,
    minutes_of: Callable[[Cell], float],
    words_of: Callable[[Cell, str], str],
    sweep_words: Callable[[str], str],
    most: int = 6,
) -> tuple[NextTest, ...]:
    """Untested cells and unmeasured links, the most telling for each minute first."""
    spread = float(slope @ fit.covariance @ slope)
    if spread <= 0.0:
        return ()
    found = []
    untested = _untested(fit)
    likes = {cell.family: cell.case for cell in reversed(fit.measured.cells)}
    if untested:
        places = fit.places_for([cell for cell, _ in untested], {})
        slopes = jacobian(fit.x, places)
        off_by = fit.off_by(link_slope(times_of(fit.x, places)))
        noise = ASSUMED_SPREAD**2 / 3.0 + off_by
        narrowed = _narrowed(fit, slope, slopes, noise, spread)
        found = [
            NextTest(
                *(words_of(cell, size), cell.rig, cell.case or None, minutes_of(cell), by, size),
                likes[cell.family],
            )
            for (cell, size), by in zip(untested, narrowed.tolist(), strict=True)
        ]
    for link in fit.layout.links:
        known = fit.measured.links[link]
        if known.spread <= MEASURED_SPREAD or known.gb_per_s > 1e4:
            continue
        rig = next((cell.rig for cell in fit.measured.cells if cell.link == link), None)
        if rig is None:  # remembered, and not on the bench now
            continue
        j = np.zeros((1, fit.layout.size))
        j[0, fit.layout.link(link)] = 1.0
        by = float(_narrowed(fit, slope, j, MEASURED_SPREAD**2, spread)[0])
        found.append(NextTest(sweep_words(link), rig, None, SWEEP_MIN, by))
    found.sort(key=lambda test: test.per_minute, reverse=True)
    return tuple(found[:most])


def _narrowed(
    fit: Fit, slope: FloatArray, tests: FloatArray, noise: FloatArray | float, spread: float
) -> FloatArray:
    """What each of n tests, slopes of shape (n, unknowns), takes off the question's spread."""
    moved = tests @ fit.covariance
    left = spread - (moved @ slope) ** 2 / (noise + np.sum(moved * tests, axis=1))
    return np.asarray(1.0 - np.sqrt(np.maximum(left, 0.0) / spread))


def _untested(fit: Fit) -> list[tuple[Cell, str]]:
    """Every family of the data on every rig of the data at every usual size, where not measured.

    The case id is kept where another rig has the case already.
    """
    cells = fit.measured.cells
    rigs = {cell.rig: cell for cell in cells}
    cases = {(cell.family, round(cell.megapixels, 3)): cell.case for cell in cells}
    have = {(cell.rig, cell.family, round(cell.megapixels, 3)) for cell in cells}
    found = []
    for rig, like in rigs.items():
        for family in fit.measured.families():
            for size, mpx in SIZES.items():
                if (rig, family, round(mpx, 3)) in have:
                    continue
                case = cases.get((family, round(mpx, 3)), "")
                per_mpx = like.sent_back_mb / like.megapixels
                made = replace(
                    like, family=family, megapixels=mpx, case=case, sent_back_mb=per_mpx * mpx
                )
                found.append((made, size))
    return found


def expected(fit: Fit, cell: Cell) -> float:
    """The rate the fit expects of a cell, frames per second."""
    return float(np.exp(log_rate(fit.x, fit.places_for([cell], {}))[0]))


def question_spread(fit: Fit, slope: FloatArray) -> float:
    """The standard deviation of a question's answer, as a share of the rate."""
    return float(np.sqrt(max(float(slope @ fit.covariance @ slope), 0.0)))
