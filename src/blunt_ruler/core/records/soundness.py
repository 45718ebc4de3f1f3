"""Records that refer to others which are not there: set apart, so that the rest can be used.

A damaged or foreign logbook may hold a run of a rig that nobody knows. Nothing is repaired or
deleted here; what cannot be used is left out of the contents and named.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from blunt_ruler.core.records.records import Contents, Review

# Table → (field of its records, table that the field refers to).
NEEDS = {
    "cases": (("title_id", "titles"),),
    "runs": (("rig_id", "rigs"), ("case_id", "cases")),
    "ticks": (("rig_id", "rigs"),),
    "prices": (("rig_id", "rigs"),),
    "readings": (("rig_id", "rigs"),),
}


def without_dangling(contents: Contents) -> tuple[Contents, tuple[str, ...]]:
    """The contents without records that need one which is not there, and what was left out."""
    said: list[str] = []
    tables: dict[str, Mapping[str, Any]] = {}
    for table, needs in NEEDS.items():
        known = {other: tables.get(other, getattr(contents, other)) for _, other in needs}
        kept = {}
        for key, record in getattr(contents, table).items():
            missing = [
                f"{field[:-3]} “{str(getattr(record, field))[:40]}”"
                for field, other in needs
                if getattr(record, field) is not None and getattr(record, field) not in known[other]
            ]
            if missing:
                said.append(f"{table[:-1]} “{key[:40]}” names a {missing[0]} that is not there")
            else:
                kept[key] = record
        if len(kept) != len(getattr(contents, table)):
            tables[table] = kept
    rigs = tables.get("rigs", contents.rigs)
    cases = tables.get("cases", contents.cases)
    reviews = {key: _pruned(review, rigs, cases, said) for key, review in contents.reviews.items()}
    if any(reviews[key] is not review for key, review in contents.reviews.items()):
        tables["reviews"] = reviews
    return (replace(contents, **tables) if tables else contents), tuple(said)


def _pruned(
    review: Review, rigs: Mapping[str, Any], cases: Mapping[str, Any], said: list[str]
) -> Review:
    """A review without rigs and cases that are not there."""
    update = {
        "seats": tuple(seat for seat in review.seats if seat.rig_id in rigs),
        "case_ids": tuple(case_id for case_id in review.case_ids if case_id in cases),
        "left_out": tuple(one for one in review.left_out if one.case_id in cases),
        "weights": tuple(one for one in review.weights if one.case_id in cases),
    }
    if all(len(value) == len(getattr(review, field)) for field, value in update.items()):
        return review
    said.append(f"the review “{review.name[:60]}” names rigs or cases that are not there")
    return review.model_copy(update=update)
