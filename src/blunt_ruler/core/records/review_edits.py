"""Edits of reviews as wholes: new, rename, duplicate, delete. A logbook always has one."""

from collections.abc import Callable

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.edits import Edit, checked_name, free_name
from blunt_ruler.core.records.records import Contents, Record, Review

NewId = Callable[[], str]
FIRST = "First review"


class BadName(UserFixable):
    """A name that no review can have."""


def first_review(new_id: NewId) -> Review:
    """The review that every logbook begins with."""
    return Review(id=new_id(), name=FIRST)


def _checked(contents: Contents, name: str, but: str = "") -> str:
    taken = [one.name for one in contents.reviews.values() if one.id != but]
    return checked_name(name, taken, "review", "one's", BadName)


def suggested_name(contents: Contents, like: Review | None = None) -> str:
    """A name that no review has yet."""
    taken = [one.name for one in contents.reviews.values()]
    return free_name(like.name if like else "New review", taken)


def new_review(contents: Contents, name: str, review_id: str) -> Edit:
    """An empty review."""
    name = _checked(contents, name)
    return Edit(f"new review {name}", (Review(id=review_id, name=name),))


def rename_review(contents: Contents, review: Review, name: str) -> Edit:
    """Another name for a review."""
    name = _checked(contents, name, but=review.id)
    return Edit(f"rename {review.name} to {name}", (review.model_copy(update={"name": name}),))


def duplicate_review(contents: Contents, review: Review, name: str, review_id: str) -> Edit:
    """A review with the same rigs, cases, settings and plan; runs belong to no review."""
    name = _checked(contents, name)
    made: list[Record] = [review.model_copy(update={"id": review_id, "name": name})]
    plan = contents.plans.get(review.id)
    if plan is not None:
        made.append(plan.model_copy(update={"id": review_id}))
    return Edit(f"duplicate {review.name}", tuple(made))


def learn_from_others(review: Review, learns: bool) -> Edit:
    """Let the limits of a review learn from the other reviews of the logbook, or not."""
    words = "learn from the other reviews" if learns else "fit this review alone"
    return Edit(words, (review.model_copy(update={"remembers": learns}),))


def delete_review(contents: Contents, review: Review, new_id: NewId) -> Edit:
    """A review and its plan taken away, not its rigs and runs. An empty one follows the last."""
    plan = contents.plans.get(review.id)
    gone: tuple[Record, ...] = (review,) if plan is None else (review, plan)
    next_one = (first_review(new_id),) if len(contents.reviews) == 1 else ()
    return Edit(f"delete {review.name}", next_one, gone)
