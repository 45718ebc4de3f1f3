"""A score and its parts: what each run says of them, and the cells of parts one types into.

A part stands in a row of its own under its test; the row's key is the case's with the part behind.
"""

from collections.abc import Callable, Sequence

from blunt_ruler.core.errors import BadFigure, UserFixable
from blunt_ruler.core.measure.composite_score import SUM_TOLERANCE, missing_part, overall_score
from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import (
    Contents,
    Origin,
    PartScore,
    Record,
    Review,
    Run,
    TestPart,
    Title,
    TypedFigures,
)
from blunt_ruler.core.runs.entry import Entry

PART = "#"
NewId = Callable[[], str]


class BadWeight(UserFixable):
    """A weight that no part can have."""


def part_key(case_id: str, part: str) -> str:
    """The key of a part's row; that of the overall is the case itself."""
    return f"{case_id}{PART}{part}" if part else case_id


def split_key(key: str) -> tuple[str, str]:
    """(case, part) of a row; a blank part for the overall."""
    case_id, _, part = key.partition(PART)
    return case_id, part


def parts_of(title: Title, runs: Sequence[Run]) -> tuple[TestPart, ...]:
    """The parts of a test: as declared, then others that its runs have, with the runs' weights."""
    found = {one.name: one for one in title.parts}
    for run in runs:
        for part in run.typed.parts if run.typed else ():
            known = found.get(part.name)
            if known is None:
                found[part.name] = TestPart(name=part.name, weight=part.weight)
            elif known.weight is None and part.weight is not None:
                found[part.name] = known.model_copy(update={"weight": part.weight})
    return tuple(found.values())


def scores_of(title: Title, parts: Sequence[TestPart], typed: TypedFigures) -> dict[str, float]:
    """What one pass says: part → score, a blank part for the overall.

    An overall is worked out of its parts where their weights sum to 1, and the one part that was
    not told out of the overall; both by the formula of the test.
    """
    found = {one.name: one.score for one in typed.parts}
    weights = {one.name: one.weight for one in parts if one.weight is not None}
    whole = abs(sum(weights.values()) - 1.0) <= SUM_TOLERANCE
    overall = typed.score
    try:
        if overall is None and whole and weights.keys() <= found.keys():
            overall = overall_score(found, weights, title.formula)
        elif overall is not None and whole and len(weights.keys() - found.keys()) == 1:
            name, score = missing_part(
                {key: found[key] for key in weights if key in found},
                weights,
                overall,
                title.formula,
            )
            found[name] = score
    except BadFigure:
        pass  # the check “parts and overall” says what does not fit
    return found if overall is None else {"": overall, **found}


def is_recovered(typed: TypedFigures, part: str) -> bool:
    """Whether a score was worked out and not told."""
    if not part:
        return typed.score is None
    return all(one.name != part for one in typed.parts)


# Typing


def part_entry(runs: Sequence[Run], part: str) -> str:
    """What stands in a part's cell, as it would be typed; a dash for a pass without the part."""
    scores = [
        next((one.score for one in run.typed.parts if one.name == part), None)
        for run in runs
        if run.typed is not None
    ]
    return " ".join(f"{one:g}" for one in scores if one is not None)


def type_part(
    old: Sequence[Run],
    rig_id: str,
    case_id: str,
    part: TestPart,
    entry: Entry,
    new_id: NewId,
    repeat: int,
    taken_at: str = "",
) -> tuple[list[Run], list[Run]]:
    """Runs to put and to drop so that the typed passes of a cell say an entry of one part.

    The passes that are there take the scores in their order; more of them make new passes.
    """
    put, drop = [], []
    scores = [one.score for one in entry.passes]
    for place in range(max(len(old), len(scores))):
        score = scores[place] if place < len(scores) else None
        run = old[place] if place < len(old) else None
        typed = run.typed if run is not None else None
        others = tuple(one for one in (typed.parts if typed else ()) if one.name != part.name)
        weight = next(
            (o.weight for o in (typed.parts if typed else ()) if o.name == part.name), None
        )
        own = () if score is None else (PartScore(name=part.name, score=score, weight=weight),)
        parts = (*others, *own)
        if run is None:
            repeat += 1
            put.append(
                Run(
                    id=new_id(),
                    rig_id=rig_id,
                    case_id=case_id,
                    repeat=repeat,
                    taken_at=taken_at,
                    origin=Origin(kind="typed"),
                    typed=TypedFigures(parts=parts),
                )
            )
        elif typed is not None and not parts and typed.score is None:
            drop.append(run)  # it said nothing but this part
        elif typed is None or typed.parts != parts:
            again = (
                TypedFigures(parts=parts)
                if typed is None
                else typed.model_copy(update={"parts": parts})
            )
            put.append(run.model_copy(update={"typed": again, "outcome": ""}))
    return put, drop


def read_weight(text: str) -> float | None:
    """The weight in "=0.85"; None for a text that is none. BadWeight where it cannot be one."""
    if not text.strip().startswith("="):
        return None
    said = text.strip().removeprefix("=").strip()
    try:
        weight = number(said)
    except ValueError:
        raise BadWeight("weight", f"“{said}” is not a number", "Write “=0.85”") from None
    if not 0 < weight <= 1:
        raise BadWeight(
            "weight", f"there is no weight of {weight:g}", "Give a number above 0, at most 1"
        )
    return weight


def weigh_part(contents: Contents, review: Review, key: str, weight: float) -> Edit:
    """A weight for a part of a test, on every rig."""
    case_id, part = split_key(key)
    title = contents.titles[contents.cases[case_id].title_id]
    known = parts_of(title, [run for run in contents.runs.values() if run.case_id == case_id])
    names = [one.name for one in known]
    parts = [
        one.model_copy(update={"weight": weight}) if one.name == part else one for one in known
    ]
    if part not in names:
        parts.append(TestPart(name=part, weight=weight))
    made: tuple[Record, ...] = (title.model_copy(update={"parts": tuple(parts)}),)
    return Edit(f"weight of {part} in {title.name}", made)
