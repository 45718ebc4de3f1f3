"""What somebody knows of one rig as a percentage of another: “my earlier test: 12 % behind”.

Such a percentage has no rate behind it, so it enters no mean of rates: what percentages say of a
pair stands beside what was measured. As rates of 100 and 100 · (1 + change) they go through the
comparison that all figures do, with the rounding of what was written, and the scatter from pass to
pass that is assumed of a pass alone.
"""

from collections.abc import Mapping

from blunt_ruler.core.board.board import Board, how_of
from blunt_ruler.core.board.percentages import rig_meant
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.results import Measurement, RigMean
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.records.records import Contents

OF_OTHER = 100.0  # the rate that stands for the other rig's
EXACTLY, AS_WRITTEN = HowRead(kind=Kind.STATED, step=1e-9), HowRead(kind=Kind.STATED)

Stated = Mapping[tuple[str, str], Mapping[str, tuple[float, ...]]]
"""(rig, whom it is held against) → case → changes, as shares of the other."""


def stated_changes(board: Board) -> Stated:
    """Every change that own entries of a Board state against one of its rigs."""
    own = {one.rig_id for one in board.columns if not one.source}
    found: dict[tuple[str, str], dict[str, tuple[float, ...]]] = {}
    for (rig_id, case_id), runs in board.runs.items():
        for run in runs:
            typed = run.typed
            if typed is None or typed.change is None or rig_id not in own:
                continue
            meant = rig_meant(typed.change_of, board.columns)
            if meant is not None and meant.rig_id != rig_id and board.is_counted(run):
                of_pair = found.setdefault((rig_id, meant.rig_id), {})
                of_pair[case_id] = (*of_pair.get(case_id, ()), typed.change)
    return found


def stated_mean(
    contents: Contents,
    board: Board,
    changes: Mapping[str, tuple[float, ...]],
    cases: frozenset[str] | None = None,
) -> RigMean | None:
    """The mean of what is stated of a pair, over some cases or over all; None where nothing is."""
    runs = []
    for case, said in changes.items():
        if cases is not None and case not in cases:
            continue
        title = contents.cases[case].title_id
        runs.append(Measurement("other", case, OF_OTHER, title=title, how=EXACTLY))
        for change in said:
            rate = OF_OTHER * (1.0 + change)
            runs.append(Measurement("rig", case, rate, title=title, how=AS_WRITTEN))
    if not runs:
        return None
    found = compare(runs, "other", how=how_of(board.review))
    return next(one.over_base for one in found.rigs if one.rig == "rig")
