"""Synthetic tests on a Board of their own: overalls and parts, with gains, losses and intervals.

The sums are those of frame rates, repeat by repeat; where lower is better a score is turned over
first, so that a gain is always the better. Nothing of it enters a mean of games, and means are over
like parts of several tests: the graphics part alone is what compares cards.
"""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from blunt_ruler.core.board.board import Board, Row, how_of
from blunt_ruler.core.compare.comparability import CellStanding
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.like_for_like import standings
from blunt_ruler.core.compare.results import (
    CaseResult,
    How,
    Measurement,
    Pooled,
    RigMean,
    RigResult,
)
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import FROM_LOG, HowRead
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.records import Contents, Role, Run, TestPart, Title
from blunt_ruler.core.runs.score_parts import part_key, parts_of, scores_of, split_key
from blunt_ruler.core.runs.typed_cells import takes_scores

OVERALL = "overall"
SCORE_SPREAD = 0.01  # from pass to pass where nothing was repeated (common practice, no source)


@dataclass(frozen=True, slots=True)
class ScoreBoard:
    """A Board whose rows are overalls and parts; `means` are over like parts of several tests,
    `ratios` the same where there is one test; `work` is each test of other work by itself.
    """

    board: Board
    means: Mapping[str, Mapping[str, RigResult]] = field(default_factory=dict)
    ratios: Mapping[str, Mapping[str, RigResult]] = field(default_factory=dict)
    work: Mapping[str, Mapping[str, RigResult]] = field(default_factory=dict)

    @property
    def is_empty(self) -> bool:
        """Whether no test has a score."""
        return not self.board.cells

    def typical_mean(self, rig_id: str) -> tuple[str, RigResult, RigMean] | None:
        """What a rig's scores come to over several tests: of which parts, and the mean over the
        base; the graphics parts first, for they compare cards.
        """
        for name in ("graphics", *self.means):
            total = self.means.get(name, {}).get(rig_id)
            if total is not None and total.over_base is not None:
                what = "overalls" if name == OVERALL else f"{name} parts"
                return what, total, total.over_base
        return None


def _tests(contents: Contents, board: Board, of_case: Mapping[str, Sequence[Run]]) -> list[str]:
    """Cases told as scores: those of the review, then others that its rigs were measured on."""
    own = [row.case_id for row in board.rows if row.kind != "game"]
    others = [
        case_id
        for case_id, runs in of_case.items()
        if case_id in contents.cases
        and contents.titles[contents.cases[case_id].title_id].kind != "game"
        and any(run.typed is not None and (run.typed.score or run.typed.parts) for run in runs)
    ]
    found = [key for key in dict.fromkeys((*own, *others)) if key in contents.cases]
    return [key for key in found if takes_scores(contents, key)]


def _row(
    title: Title, case_label: str, key: str, part: TestPart | None, *, alone: bool = False
) -> Row:
    """The row of a part, or of an overall, which is not called so where it stands `alone`."""
    unit = (part.unit if part else "") or title.score_unit
    lower = part.lower_is_better if part else title.lower_is_better
    weight = f"weight {part.weight:g}" if part and part.weight is not None else ""
    said = [
        part.name if part else "" if alone and unit else OVERALL,
        unit,
        "lower is better" if lower else "",
        weight,
    ]
    return Row(
        case_id=key,
        label=f"{case_label}, {part.name}" if part else case_label,
        title=title.name,
        scene="",
        settings=" · ".join(one for one in said if one),
        kind="synthetic",
        unit=unit or "score",
        lower_is_better=lower,
    )


def score_board(contents: Contents, board: Board, handover: Handover | None = None) -> ScoreBoard:
    """The scores of a review's rigs, every test with its overall and its parts."""
    handover = handover or Handover()
    rows: list[Row] = []
    measured: list[Measurement] = []
    behind: dict[tuple[str, str], list[Run]] = {}
    names: dict[str, str] = {}
    work: list[str] = []
    of_case: dict[str, list[Run]] = defaultdict(list)
    rigs = {column.rig_id for column in board.columns}
    for (rig_id, case_id), of_cell in contents.by_cell.items():
        if rig_id in rigs:
            of_case[case_id].extend(of_cell)
    for case_id in _tests(contents, board, of_case):
        title = contents.titles[contents.cases[case_id].title_id]
        runs = of_case[case_id]
        counted = [run for run in runs if board.is_counted(run)]
        parts = parts_of(title, runs)
        told = {run.id: scores_of(title, parts, run.typed) for run in counted if run.typed}
        lower = {"": title.lower_is_better, **{one.name: one.lower_is_better for one in parts}}
        label = contents.case_label(case_id)
        has_overall = any("" in scores for scores in told.values()) or not parts
        if has_overall:
            rows.append(_row(title, label, case_id, None, alone=not parts))
        rows += [_row(title, label, part_key(case_id, one.name), one) for one in parts]
        for name in ["", *(one.name for one in parts)] if has_overall else [p.name for p in parts]:
            key = part_key(case_id, name)
            if title.kind == "work":
                work.append(key)
            else:
                names[key] = name
            for run in runs:
                behind.setdefault((run.rig_id, key), []).append(run)
            for run in counted:
                value = told.get(run.id, {}).get(name)
                if value is not None:
                    measured.append(_measurement(run, key, value, title, lower[name]))
    units = {row.case_id: row for row in rows}
    shown = replace(
        board,
        rows=tuple(rows),
        cells={},
        totals={},
        comparison=None,
        runs={key: tuple(runs) for key, runs in behind.items()},
        limits={},
    )
    if not measured:
        return ScoreBoard(shown)
    kept: dict[str, dict[str, Sequence[Run]]] = {}
    for rig_id, key in behind:
        if made_of := shown.counted(rig_id, key):
            kept.setdefault(rig_id, {})[key] = made_of
    standing = standings(contents, board.review, kept, {})
    if len({(one.rig, one.case) for one in measured}) == len(measured):  # nothing was repeated
        measured = [replace(one, spread=SCORE_SPREAD) for one in measured]
    every, _, pooled = _compared(shown, measured, standing, handover, "all")
    cells = {(rig, key): _as_told(cell, units[key]) for (rig, key), cell in every.items()}
    means, ratios = {}, {}
    measured_keys = {one.case for one in measured}
    for name in dict.fromkeys(names.values()):
        keys = [key for key in names if names[key] == name and key in measured_keys]
        if not keys:
            continue
        # Points, seconds and GB/s have no mean together: the unit that most tests are told in.
        of_unit = Counter(units[key].unit for key in keys).most_common(1)[0][0]
        keys = [key for key in keys if units[key].unit == of_unit]
        taken = [one for one in measured if one.case in keys]
        ratios[name or OVERALL] = _compared(shown, taken, standing, handover, name, pooled)[1]
        if len({split_key(key)[0] for key in keys}) > 1:
            means[name or OVERALL] = ratios[name or OVERALL]
    each = {
        key: _compared(shown, taken, standing, handover, f"work {key}", pooled)[1]
        for key in work
        if (taken := [one for one in measured if one.case == key])
    }
    return ScoreBoard(replace(shown, cells=cells), means, ratios, each)


def _measurement(run: Run, key: str, value: float, title: Title, lower: bool) -> Measurement:
    return Measurement(
        rig=run.rig_id,
        case=key,
        average_fps=1.0 / value if lower else value,
        title=title.id,
        how=_how(run, key, lower),
    )


def _how(run: Run, key: str, lower: bool) -> HowRead:
    """How a score was read: a test prints it, unless it was noted as a range, about or a bound."""
    how = run.typed.average_how if run.typed is not None and not split_key(key)[1] else FROM_LOG
    if how.kind not in (Kind.RANGE, Kind.ABOUT, Kind.AT_LEAST, Kind.AT_MOST):
        return FROM_LOG
    if not lower:
        return how
    if how.edges is not None:
        return how.model_copy(update={"edges": (1.0 / how.edges[1], 1.0 / how.edges[0])})
    turned = {Kind.AT_LEAST: Kind.AT_MOST, Kind.AT_MOST: Kind.AT_LEAST}.get(how.kind, how.kind)
    return how.model_copy(update={"kind": turned, "step": 0.0})


Compared = tuple[dict[tuple[str, str], CaseResult], dict[str, RigResult], Pooled | None]


def _compared(
    board: Board,
    measured: Sequence[Measurement],
    standing: Mapping[tuple[str, str], CellStanding],
    handover: Handover,
    rows: str,
    pooled: Pooled | None = None,
) -> Compared:
    """Cells and means of what was measured on some rows, and what their cells tell of any of them;
    most edits touch no score.
    """
    review = board.review
    base, reference = review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE)
    how = replace(how_of(review), weights={}, without=frozenset())
    reads = base, reference, review.low_school, how, tuple(measured), standing, pooled
    return handover.of(
        ("scores", review.id, rows),
        reads,
        lambda: _set_against(base, reference, review.low_school, how, measured, standing, pooled),
    )


def _set_against(
    base: str | None,
    reference: str | None,
    school: LowSchool,
    how: How,
    measured: Sequence[Measurement],
    standing: Mapping[tuple[str, str], CellStanding],
    pooled: Pooled | None,
) -> Compared:
    with_scores = {one.rig for one in measured}
    has_base = base in with_scores
    found = compare(
        measured,
        base if has_base and base else measured[0].rig,
        reference if reference in with_scores else None,
        school,
        how,
        standing,
        pooled,
    )
    cells = {}
    for rig in found.rigs:
        for case in rig.cases:
            cells[rig.rig, case.case] = case if has_base else _without_gain(case)
    return cells, {rig.rig: rig for rig in found.rigs} if has_base else {}, found.pooled


def _without_gain(case: CaseResult) -> CaseResult:
    return replace(case, gain=None, gain_low=None, gain_high=None, tie=False, runs_needed=None)


def _as_told(cell: CaseResult, row: Row) -> CaseResult:
    """A cell in the unit of its score; one that was turned over is turned back, ratios stay."""
    if not row.lower_is_better:
        return replace(cell, unit=row.unit)
    return replace(
        cell,
        unit=row.unit,
        average_fps=1.0 / cell.average_fps,
        rate_low=None if cell.rate_high is None else 1.0 / cell.rate_high,
        rate_high=None if cell.rate_low is None else 1.0 / cell.rate_low,
    )
