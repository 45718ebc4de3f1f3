"""Other people's figures: a rig of theirs is a column that names its source.

Logbooks before format 8 kept such figures apart; `bring_up` makes columns of them.
"""

import re
from collections.abc import Callable, Mapping

from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Origin,
    PublishedFigure,
    Record,
    Run,
    TypedFigures,
)
from blunt_ruler.core.runs.import_runs import CaseName, Ledger, parse_case
from blunt_ruler.core.values import LONGEST_NAME

SAYS = re.compile(r"^(?P<rig>.+?),?\s+published by\s+(?P<source>.+)$", re.IGNORECASE)


def rig_and_source(text: str) -> tuple[str, str]:
    """(name, source) of a rig as it is typed: "Tower, published by S"; no source for one's own."""
    plain = " ".join(text.split())
    found = SAYS.match(plain)
    if found is None:
        return plain, ""
    return f"{found['rig']}, {found['source']}", found["source"]


def as_published(typed: TypedFigures) -> TypedFigures:
    """Typed figures as those of others; a range, an about and a bound stay what they are."""
    hows = {
        name: how.model_copy(update={"kind": Kind.PUBLISHED})
        for name in ("average_how", "low_1_how")
        if (how := getattr(typed, name)).kind is Kind.EYE
    }
    return typed.model_copy(update=hows)


def bring_up(contents: Contents, new_id: Callable[[], str]) -> Edit | None:
    """Figures that an earlier version kept apart as columns of their own; None where there are
    none. A rig joins every review that has one of its cases.
    """
    if not contents.published:
        return None
    ledger = Ledger(contents, new_id)
    reviews = dict(contents.reviews)
    made: dict[str, Record] = {}
    for one in contents.published.values():
        rig = ledger.rig(f"{one.rig}, {one.source}"[:LONGEST_NAME].strip())
        made[rig.id] = rig.model_copy(
            update={
                "source": one.source,
                "source_date": one.date or rig.source_date,
                "source_differs": one.differs or rig.source_differs,
            }
        )
        case = _case_of(ledger, one)
        how = HowRead(kind=Kind.PUBLISHED)
        made[one.id] = Run(
            id=one.id,
            rig_id=rig.id,
            case_id=case.id,
            origin=Origin(kind="typed"),
            typed=TypedFigures(
                average_fps=one.average_fps,
                average_how=how,
                low_1_fps=one.low_1_fps,
                low_1_how=how,
            ),
        )
        for key, review in reviews.items():
            if case.id in review.case_ids:
                reviews[key] = review.joined_by(rig.id, None)
    others = [record for record in ledger.made if not isinstance(record, Rig)]
    changed = [review for key, review in reviews.items() if review != contents.reviews[key]]
    put = (*others, *made.values(), *changed)
    return Edit("published figures become columns", put, tuple(contents.published.values()))


def _case_of(ledger: Ledger, one: PublishedFigure) -> Case:
    """The first case with the same title and whatever else the figure names; else a new one."""
    named = parse_case(one.case)
    for case in ledger.cases_by_id.values():
        if _fits(ledger.titles_by_id, case, named):
            return case
    return ledger.case(named)


def _fits(titles: Mapping[str, str], case: Case, named: CaseName) -> bool:
    wanted = (named.title, named.scene, named.resolution, named.preset)
    has = (titles[case.title_id], case.scene, case.resolution, case.preset)
    return all(not w or w.lower() == h.lower() for w, h in zip(wanted, has, strict=True))
