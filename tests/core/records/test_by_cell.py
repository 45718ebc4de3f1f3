"""Runs by cell, brought up from edit to edit, are what grouping them anew gives."""

from hypothesis import given, settings
from hypothesis import strategies as st

from blunt_ruler.core.records.records import Contents, Origin, Run

EDIT = st.tuples(
    st.sampled_from(("add", "replace", "move", "delete", "other")),
    st.integers(0, 30),
    st.integers(0, 2),
    st.integers(0, 2),
)


def run(number, rig, case, notes=""):
    return Run(
        id=f"run {number}",
        rig_id=f"rig {rig}",
        case_id=f"case {case}",
        origin=Origin(kind="typed"),
        reason=notes,
    )


def grouped(contents):
    found = {}
    for one in contents.runs.values():
        found.setdefault((one.rig_id, one.case_id), []).append(one)
    return {cell: tuple(runs) for cell, runs in found.items()}


@settings(max_examples=200)
@given(st.lists(EDIT, max_size=25))
def test_every_edit_leaves_the_cells_right(edits):
    contents, history = Contents.empty(), []
    for number, (kind, which, rig, case) in enumerate(edits):
        keys = [*contents.runs]
        key = keys[which % len(keys)] if keys else None
        if kind == "add" or key is None:
            made = run(number, rig, case)
            changed = {made.id: made}
        elif kind == "delete":
            changed = {key: None}
        elif kind == "move":
            moved = {"rig_id": f"rig {rig}", "case_id": f"case {case}"}
            changed = {key: contents.runs[key].model_copy(update=moved)}
        elif kind == "other" and history:
            contents, changed = history[which % len(history)], {}
        else:
            changed = {key: contents.runs[key].model_copy(update={"reason": f"{number}"})}
        contents = contents.with_records({"runs": changed})
        history.append(contents)
        before = contents.by_cell
        assert before == grouped(contents)
        for cell, runs in before.items():
            assert all(a is b for a, b in zip(runs, grouped(contents)[cell], strict=True))
        assert list(before) == list(grouped(contents))
        of_rigs = {
            (rig_id, case_id): runs
            for rig_id, cells in contents.by_rig.items()
            for case_id, runs in cells.items()
        }
        assert of_rigs == before


def test_untouched_cells_are_the_same_objects():
    runs = {one.id: one for one in (run(n, n % 3, n % 2) for n in range(12))}
    contents = Contents.empty().with_records({"runs": runs})
    before = contents.by_cell
    assert contents.by_cell is before
    edited = contents.with_records({"runs": {"run 0": run(0, 0, 0, "again")}})
    after = edited.by_cell
    same = [cell for cell in before if before[cell] is after[cell]]
    assert len(same) == len(before) - 1
    assert contents.by_cell is before, "each contents have their own"
    rigs, there = contents.by_rig, contents.with_records({"runs": {"run 0": run(0, 0, 0)}}).by_rig
    assert [rig for rig in rigs if rigs[rig] is there[rig]] == ["rig 1", "rig 2"]
