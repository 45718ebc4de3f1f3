"""Other people's figures as columns beside the Board: shown, compared, never in a mean."""

from dataclasses import replace

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.compare.comparability import CellStanding, Standing
from blunt_ruler.core.compare.compare import CaseResult, gain, loss
from blunt_ruler.core.records.records import Contents, PublishedFigure, Role
from blunt_ruler.core.runs.import_runs import parse_case

PUBLISHED = "published:"


def with_published(contents: Contents, board: Board) -> Board:
    """The Board with a column for each rig and source of the logbook's references.

    A reference belongs to the first case whose title, and whatever else it names, is the same.
    """
    columns: dict[str, Column] = {}
    cells = dict(board.cells)
    for one in contents.published.values():
        case_id = case_of(contents, board, one)
        if case_id is None:
            continue
        key = f"{PUBLISHED}{one.rig}|{one.source}"
        name = f"{one.rig}, {one.source}"
        columns[key] = Column(key, name, one.rig, one.source, "", Role.TESTED, False, None)
        cells[key, case_id] = _cell(board, case_id, one)
    return replace(board, columns=(*board.columns, *columns.values()), cells=cells)


def case_of(contents: Contents, board: Board, one: PublishedFigure) -> str | None:
    """The case of the Board that a reference is about; None where none fits."""
    named = parse_case(one.case)
    for row in board.rows:
        case = contents.cases.get(row.case_id)
        if case is None or row.title.lower() != named.title.lower():
            continue
        wanted = (named.scene, named.resolution, named.preset)
        has = (case.scene, case.resolution, case.preset)
        if all(not w or w.lower() == h.lower() for w, h in zip(wanted, has, strict=True)):
            return row.case_id
    return None


def _cell(board: Board, case_id: str, one: PublishedFigure) -> CaseResult:
    said = [f"published by {one.source}{f', {one.date}' if one.date else ''}"]
    said += [one.differs] if one.differs else []
    rates = [
        board.cells.get((other.rig_id, case_id)) if other else None
        for other in (board.base, board.reference)
    ]
    base, reference = rates
    return CaseResult(
        case=case_id,
        runs=1,
        average_fps=one.average_fps,
        low_1_fps=one.low_1_fps,
        gain=None if base is None else gain(one.average_fps, base.average_fps),
        loss=None if reference is None else loss(one.average_fps, reference.average_fps),
        standing=CellStanding(Standing.MIXED, Standing.MIXED, tuple(said)),
    )
