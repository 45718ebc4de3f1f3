"""Scores out of tables become runs: one pass a rig and test, with its parts and their weights."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import (
    Contents,
    Origin,
    PartScore,
    Record,
    Review,
    Run,
    TestPart,
    TypedFigures,
)
from blunt_ruler.core.runs.import_runs import CaseName, Ledger
from blunt_ruler.core.runs.typed_cells import with_proposed_roles
from blunt_ruler.core.text import count_text

OVERALL = ("overall", "total", "score", "")


@dataclass(frozen=True, slots=True)
class ToldScore:
    """One figure of a table: which rig, test and pass, which part (blank for the overall), its
    score, and its weight and unit where they are told.
    """

    rig: str
    test: str
    repeat: int
    part: str
    score: float
    weight: float | None = None
    unit: str = ""
    lower_is_better: bool = False


def take_scores(
    contents: Contents,
    review: Review,
    told: Sequence[ToldScore],
    file: str,
    new_id: Callable[[], str],
    taken_at: str = "",
) -> Edit:
    """The edit that takes scores in: rigs and tests by their names, made where they are new.

    A part that a test does not know yet is declared, with its weight and unit.
    """
    ledger = Ledger(contents, new_id)
    put: dict[str, Record] = {}
    runs: list[Run] = []
    passes: dict[tuple[str, str, int], list[ToldScore]] = {}
    for one in told:
        passes.setdefault((one.rig, one.test, one.repeat), []).append(one)
    for (rig_name, test, _), figures in passes.items():
        rig = ledger.rig(_known(rig_name, ledger.rigs))
        unit = next((one.unit for one in figures if not one.part), "")
        title_name = ledger.title_for(test, scores=True, unit=unit)
        case = ledger.case(CaseName(title_name), "synthetic")
        title = ledger.titles[title_name]
        parts = {one.name: one for one in title.parts}
        for one in figures:
            if one.part and one.part not in parts:
                parts[one.part] = TestPart(
                    name=one.part,
                    weight=one.weight,
                    unit=one.unit,
                    lower_is_better=one.lower_is_better,
                )
        unit = next((one.unit for one in figures if not one.part and one.unit), title.score_unit)
        lower = title.lower_is_better or any(o.lower_is_better for o in figures if not o.part)
        title = title.model_copy(
            update={"parts": tuple(parts.values()), "score_unit": unit, "lower_is_better": lower}
        )
        ledger.titles[title_name] = title
        put[title.id] = title
        key = (rig.id, case.id)
        ledger.repeats[key] = ledger.repeats.get(key, 0) + 1
        runs.append(
            Run(
                id=new_id(),
                rig_id=rig.id,
                case_id=case.id,
                repeat=ledger.repeats[key],
                taken_at=taken_at,
                origin=Origin(kind="typed", file=file),
                typed=TypedFigures(
                    score=next((one.score for one in figures if not one.part), None),
                    parts=tuple(
                        PartScore(name=one.part, score=one.score, weight=one.weight)
                        for one in figures
                        if one.part
                    ),
                ),
            )
        )
        review = review.joined_by(rig.id, case.id)
    made = [put.pop(record.id, record) for record in ledger.made]
    after = Edit("", (*made, *put.values(), *runs)).on(contents)
    review = with_proposed_roles(after, review)
    counted = count_text(len(runs), "pass", "passes")
    tests = count_text(len({run.case_id for run in runs}), "test")
    return Edit(
        f"scores of {file}"[:200],
        (*made, *put.values(), *runs, review),
        notice=f"{counted} of {tests} are in; their scores stand under the games.",
    )


def _known(name: str, known: Mapping[str, object]) -> str:
    """The name as it is known, whatever its case and dashes."""
    plain = _plain(name)
    return next((one for one in known if _plain(one) == plain), name)


def _plain(name: str) -> str:
    return " ".join(name.lower().replace("-", " ").replace("_", " ").split())
