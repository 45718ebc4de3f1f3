"""Runs before and after something changed: which count, which pairs are no longer alike."""

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.compare.comparability import Standing
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Decision,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)
from blunt_ruler.core.runs.changes import (
    BadDay,
    change_lines,
    changes_line,
    checked_day,
    counts,
    drop_change,
    note_change,
    parted_off,
    superseded,
)
from blunt_ruler.core.writeup.bundle import records_of


def run(rig, rate, at, repeat=1, decision=Decision.KEEP):
    return Run(
        id=f"{rig}{repeat}",
        rig_id=rig,
        case_id="c",
        repeat=repeat,
        taken_at=at,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=rate),
        decision=decision,
    )


def lab(*runs, changes=()):
    review = Review(
        id="v",
        name="v",
        seats=(ReviewRig(rig_id="a", role=Role.BASE), ReviewRig(rig_id="b")),
        case_ids=("c",),
    )
    return review, Contents.empty().with_records(
        {
            "rigs": {key: Rig(id=key, name=key.upper()) for key in "ab"},
            "titles": {"t": Title(id="t", name="Tidewrack")},
            "cases": {"c": Case(id="c", title_id="t")},
            "runs": {one.id: one for one in runs},
            "changes": {one.id: one for one in changes},
            "reviews": {"v": review},
        }
    )


DRIVER = Change(id="d", at="2026-10-03", what="driver 42", rig_ids=("b",))
EVERY = Change(id="d", at="2026-10-03", what="title updated")


def test_passes_from_before_a_change_do_not_count_once_the_cell_was_measured_again():
    runs = run("b", 60, "2026-10-01"), run("b", 66, "2026-10-04", 2), run("b", 67, "2026-10-04", 3)
    review, contents = lab(run("a", 30, "2026-10-01"), *runs, changes=[DRIVER])
    assert superseded(contents) == {"b1": DRIVER}
    past = superseded(contents)
    kept = [one.id for one in contents.runs.values() if counts(one, past)]
    assert kept == ["a1", "b2", "b3"]
    board = build_board(contents, review)
    # two passes of figures typed: the harmonic mean of 66 and 67, worked by hand
    assert board.cells["b", "c"].average_fps == pytest.approx(2 / (1 / 66 + 1 / 67))
    assert [one.id for one in board.counted("b", "c")] == ["b2", "b3"]
    assert len(board.runs["b", "c"]) == 3, "the earlier pass stays to be seen"
    assert parted_off(contents, DRIVER) == 1
    assert changes_line(contents) == "1 change: 1 earlier pass do not count."
    assert change_lines(contents, ["a", "b"]) == (
        "2026-10-03: driver 42 on B; 1 earlier pass not counted.",
    )
    assert change_lines(contents, ["a"]) == ()


@pytest.mark.parametrize(
    "runs",
    [
        [run("b", 60, "2026-10-01"), run("b", 61, "2026-10-02", 2)],  # all before
        [run("b", 60, "2026-10-03"), run("b", 61, "2026-10-04", 2)],  # all from the day on
        [run("b", 60, "2026-10-01"), run("b", 61, "2026-10-04", 2, Decision.SET_ASIDE)],
        [run("b", 60, ""), run("b", 61, "2026-10-04", 2)],  # nobody knows when
    ],
)
def test_without_a_kept_pass_on_both_sides_all_count(runs):
    _, contents = lab(*runs, changes=[DRIVER])
    assert "b1" not in superseded(contents)


def test_a_change_of_another_rig_parts_nothing():
    runs = run("a", 30, "2026-10-01"), run("a", 33, "2026-10-04", 2)
    _, contents = lab(*runs, changes=[DRIVER])
    assert not superseded(contents)
    _, contents = lab(*runs, changes=[EVERY])
    assert [*superseded(contents)] == ["a1"]


def test_a_time_of_day_parts_a_day():
    noon = DRIVER.model_copy(update={"at": "2026-10-04T12:00"})
    runs = run("b", 60, "2026-10-04T09:00+00:00"), run("b", 66, "2026-10-04T14:00+00:00", 2)
    _, contents = lab(*runs, changes=[noon])
    assert [*superseded(contents)] == ["b1"]


def test_a_pair_of_which_only_one_was_measured_after_is_mixed_and_says_why():
    review, contents = lab(run("a", 30, "2026-10-01"), run("b", 60, "2026-10-04"), changes=[EVERY])
    standing = build_board(contents, review).cells["b", "c"].standing
    assert standing.against_base is Standing.MIXED
    assert standing.differs == ("only one was measured after title updated (2026-10-03) against A",)
    review, both = lab(run("a", 30, "2026-10-05"), run("b", 60, "2026-10-04"), changes=[EVERY])
    assert build_board(both, review).cells["b", "c"].standing.worst is Standing.CLEAN
    review, own = lab(run("a", 30, "2026-10-01"), run("b", 60, "2026-10-04"), changes=[DRIVER])
    assert build_board(own, review).cells["b", "c"].standing.worst is Standing.CLEAN


def test_a_bundle_takes_along_what_changed_on_its_rigs_and_not_what_changed_elsewhere():
    review, contents = lab(run("a", 30, "2026-10-01"), changes=[EVERY])
    other = Rig(id="z", name="Z")
    both = Change(id="e", at="2026-10-05", what="heat", rig_ids=("a", "z"))
    elsewhere = Change(id="f", at="2026-10-06", what="fan", rig_ids=("z",))
    contents = contents.with_records({"rigs": {"z": other}, "changes": {"e": both, "f": elsewhere}})
    taken = {one.id: one for one in records_of(contents, review) if isinstance(one, Change)}
    assert set(taken) == {"d", "e"}
    assert taken["d"].rig_ids == ()
    assert taken["e"].rig_ids == ("a",)


def test_a_change_is_noted_and_taken_away():
    edit = note_change(["b"], "2026-10-03", "d")
    assert edit.put[0].rig_ids == ("b",)
    assert drop_change(DRIVER).drop == (DRIVER,)
    assert checked_day(" 2026-10-03 ") == "2026-10-03"
    assert checked_day("") == ""
    with pytest.raises(BadDay, match="2026-11-26"):
        checked_day("3.10.")
    undated = DRIVER.model_copy(update={"at": ""})
    _, contents = lab(run("b", 60, "2026-10-01"), changes=[undated])
    assert changes_line(contents) == "1 change; 1 without a date, which have no effect."
