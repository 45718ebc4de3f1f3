"""Reviews to start from: a question, and the rigs that answer it. Common practice, no source."""

from collections.abc import Callable
from dataclasses import dataclass

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Contents, Record, Review
from blunt_ruler.core.records.review_edits import new_review
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.runs.typed_cells import join_rig

BUILT_IN, TOWER = ("Built-in", Role.BASE), ("Card in the tower", Role.REFERENCE)


@dataclass(frozen=True, slots=True)
class ReviewTemplate:
    """A question with its rigs: the base first, the reference last."""

    name: str
    rigs: tuple[tuple[str, Role], ...]


def _tested(*names: str) -> tuple[tuple[str, Role], ...]:
    return tuple((name, Role.TESTED) for name in names)


TEMPLATES = (
    ReviewTemplate("Is a dock worth it?", (BUILT_IN, *_tested("Card in the dock"), TOWER)),
    ReviewTemplate(
        "Which link?",
        (BUILT_IN, *_tested("Card on USB4", "Card on OCuLink", "Card on M.2"), TOWER),
    ),
    ReviewTemplate(
        "Which card in the dock?",
        (BUILT_IN, *_tested("Small card in the dock", "Big card in the dock"),
         ("Big card in the tower", Role.REFERENCE)),
    ),
)  # fmt: skip


def review_from(
    contents: Contents,
    template: ReviewTemplate,
    name: str,
    review_id: str,
    new_id: Callable[[], str],
) -> Edit:
    """A new review with the rigs of a template; rigs that the logbook has by name take part."""
    edit = new_review(contents, name, review_id)
    review = next(one for one in edit.put if isinstance(one, Review))
    rigs: dict[str, Record] = {}
    for rig, role in template.rigs:
        joined, rig_id = join_rig(contents, review, rig, new_id)
        rigs |= {one.id: one for one in joined.put if isinstance(one, Rig)}
        contents = contents.with_records({"rigs": dict(rigs)})
        review = review.joined_by(rig_id, None).with_role(rig_id, role)
    return Edit(edit.label, (*rigs.values(), review))
