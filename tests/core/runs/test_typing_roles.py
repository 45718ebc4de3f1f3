"""Roles proposed by scores, where nothing has a frame rate."""

from itertools import count

from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.records.review_edits import first_review
from blunt_ruler.core.runs.import_scores import ToldScore, take_scores


def test_scores_alone_propose_base_and_reference():
    ids = map(str, count())
    told = [
        ToldScore(rig=rig, test="Loom", repeat=1, part="", score=score, weight=None)
        for rig, score in (("Dock", 5000.0), ("Tower", 5400.0), ("Box", 2000.0))
    ]
    edit = take_scores(Contents.empty(), first_review(lambda: next(ids)), told, "t", ids.__next__)
    contents = edit.on(Contents.empty())
    (review,) = contents.reviews.values()
    names = {role: contents.rigs[review.rig_in(role)].name for role in (Role.BASE, Role.REFERENCE)}
    assert names == {Role.BASE: "Box", Role.REFERENCE: "Tower"}
