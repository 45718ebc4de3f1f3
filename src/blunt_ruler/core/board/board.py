"""The Board's values: a review's kept runs as rigs × cases. `lenses` says what a cell shows.

Built once from the logbook's contents and then only read, so that every view, report and
command shows the same figure for the same cell.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import TypeAlias

from blunt_ruler.core.compare.cell_grid import Standings
from blunt_ruler.core.compare.cell_parts import CellParts, low_parts_of, parts_of
from blunt_ruler.core.compare.comparability import CellStanding, Unsound
from blunt_ruler.core.compare.compare import compare_cells
from blunt_ruler.core.compare.like_for_like import standings
from blunt_ruler.core.compare.results import (
    CaseResult,
    Comparison,
    How,
    Measurement,
    Pooled,
    RigResult,
)
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.reading import FROM_LOG
from blunt_ruler.core.once import Handover, LazyMapping
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Card, Link, Rig
from blunt_ruler.core.records.records import Contents, Decision, Review, Role, Run
from blunt_ruler.core.rigs.links import link_gb_per_s
from blunt_ruler.core.runs.changes import counts, superseded_by_rig


@dataclass(frozen=True, slots=True)
class Column:
    """A rig as the head of a column."""

    rig_id: str
    name: str
    card: str
    link: str
    host: str
    role: Role
    built_in: bool
    link_gb_per_s: float | None
    source: str = ""  # who published it; blank for one's own


@dataclass(frozen=True, slots=True)
class Row:
    """A case as the head of a row; `settings` is resolution and preset in words."""

    case_id: str
    label: str
    title: str
    scene: str
    settings: str
    resolution: str = ""
    kind: str = "game"
    left_out: str | None = None  # why it is kept out of the means
    weight: float = 1.0
    unit: str = ""  # of a score; blank for frames per second
    lower_is_better: bool = False
    tags: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Board:
    """Rigs × cases of one review, each cell with its figures and the runs behind it.

    `comparison` is None until the base has a kept run; `bare` then still holds the rates.
    """

    review: Review
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    cells: Mapping[tuple[str, str], CaseResult]
    totals: Mapping[str, RigResult]
    runs: Mapping[tuple[str, str], tuple[Run, ...]]
    comparison: Comparison | None
    limits: Mapping[tuple[str, str], str] = field(default_factory=dict)
    subtotals: Mapping[str, Mapping[str, RigResult]] = field(default_factory=dict)
    over: str = ""  # what the means are over, where that is not the whole review
    past: frozenset[str] = frozenset()  # runs from before something changed: they do not count
    parts: Mapping[str, Mapping[str, CellParts]] = field(default_factory=dict)  # by rig and case
    low_parts: Mapping[str, Mapping[str, CellParts]] = field(default_factory=dict)  # 1% lows
    low_totals: Mapping[str, RigResult] = field(default_factory=dict)  # once an analysis settled
    standings: Mapping[tuple[str, str], CellStanding] = field(default_factory=dict)  # not clean

    def column(self, rig_id: str | None) -> Column | None:
        """The column of a rig, None where it is not in the review."""
        return next((column for column in self.columns if column.rig_id == rig_id), None)

    def is_counted(self, run: Run) -> bool:
        """Whether figures are made of a run: kept, and not from before a change."""
        return counts(run, self.past)

    def counted(self, rig_id: str, case_id: str) -> tuple[Run, ...]:
        """The runs that a cell's figures are made of."""
        return tuple(filter(self.is_counted, self.runs.get((rig_id, case_id), ())))

    def outcome(self, rig_id: str, case_id: str) -> str:
        """What happened where a counted run of a cell has no figure; blank with none."""
        told = (run.outcome for run in self.counted(rig_id, case_id) if run.outcome)
        return next(told, "").rstrip(".")

    @property
    def base(self) -> Column | None:
        """The column every gain is measured from."""
        return self.column(self.review.rig_in(Role.BASE))

    @property
    def reference(self) -> Column | None:
        """The column every loss is measured from."""
        return self.column(self.review.rig_in(Role.REFERENCE))

    @property
    def pooled(self) -> Pooled | None:
        """What all its cells tell of any of them; None where nothing is compared."""
        return self.comparison.pooled if self.comparison is not None else None

    def kept_of_reference(self, rig_id: str, case_id: str) -> float | None:
        """a/r = 1 − loss: share of the reference's rate that a rig keeps; 1 for the reference."""
        cell = self.cells.get((rig_id, case_id))
        return None if cell is None or cell.loss is None else 1.0 - cell.loss


def measurement_of(
    run: Run, school: LowSchool, title: str, spread: float | None = None
) -> Measurement | None:
    """A run of a title as the comparison takes it; None for one without figures."""
    average_fps = run.average_fps
    if average_fps is None:
        return None
    return Measurement(
        rig=run.rig_id,
        case=run.case_id,
        average_fps=average_fps,
        low_1_fps=run.low_1_fps(school),
        low_01_fps=run.low_01_fps(school),
        wall_w=run.wall_w,
        frames=run.figures.frames if run.figures else None,
        duration_s=run.figures.duration_s if run.figures else None,
        title=title,
        how=run.how_read,
        low_how=run.typed.low_1_how if run.typed and not run.figures else FROM_LOG,
        spread=spread,
        sitting=run.taken_at[:10],
    )


def how_of(review: Review) -> How:
    """How a review puts cases together."""
    return How(
        mean=review.mean,
        weights={one.case_id: one.weight for one in review.weights},
        without=frozenset(one.case_id for one in review.left_out),
        clean_only=review.clean_only,
        shared=review.shared_cases,
        each_title_once=review.each_title_once,
    )


def build_board(
    contents: Contents,
    review: Review,
    unsound: Unsound | None = None,
    handover: Handover | None = None,
    pooled: Pooled | None = None,
) -> Board:
    """The Board of one review. Runs that are not kept stay listed behind their cell.

    `unsound` holds kept runs that a check stops, as `like_for_like.unsound_words` gives them:
    their cells are mixed at best. Some cases of a review take what is `pooled` over all of them.
    """
    rig_ids = {seat.rig_id for seat in review.seats}
    case_ids = set(review.case_ids)
    handover = handover or Handover()
    past = superseded_by_rig(contents, handover)
    behind = {
        cell: runs
        for cell, runs in contents.by_cell.items()
        if cell[0] in rig_ids and cell[1] in case_ids
    }
    of_rigs = {
        rig_id: _rig_cells(contents, review, rig_id, past.get(rig_id, {}), handover)
        for rig_id in contents.by_rig
        if rig_id in rig_ids
    }
    kept = {rig_id: found.kept for rig_id, found in of_rigs.items() if found.kept}
    measured = {rig_id: found.averages for rig_id, found in of_rigs.items() if found.averages}
    lows = {rig_id: found.lows for rig_id, found in of_rigs.items() if found.lows}
    base = review.rig_in(Role.BASE)
    reference = review.rig_in(Role.REFERENCE)
    standing = standings(contents, review, kept, unsound or {}, handover)
    how = how_of(review)
    synthetic = frozenset(
        key for key in case_ids if contents.titles[contents.cases[key].title_id].kind != "game"
    )
    how = replace(how, without=how.without | synthetic)  # a mean is over games
    compared = partial(
        _compared,
        measured,
        school=review.low_school,
        how=how,
        standing=standing,
        handover=handover,
        of=(review.id, len(case_ids)),
        pooled=pooled,
    )
    comparison = (
        compared(base, reference if reference in measured else None)
        if base in measured and base is not None
        else None
    )
    # Without a base there are rates but no gains; any rig can lend its name to the sums.
    shown = comparison or (compared(next(iter(measured)), None) if measured else None)
    cells = LazyMapping(*_cells_of(measured, shown, bare=comparison is None))
    return Board(
        review=review,
        columns=tuple(_column(contents, seat.rig_id, seat.role) for seat in review.seats),
        rows=tuple(_row(contents, review, case_id) for case_id in review.case_ids),
        cells=cells,
        totals={rig.rig: rig for rig in comparison.rigs} if comparison else {},
        runs=behind,
        comparison=comparison,
        past=frozenset(run_id for of_rig in past.values() for run_id in of_rig),
        parts=measured,
        low_parts=lows,
        standings=standing,
    )


def _compared(
    measured: Mapping[str, Mapping[str, CellParts]],
    base: str,
    reference: str | None,
    *,
    school: LowSchool,
    how: How,
    standing: Standings,
    handover: Handover,
    of: tuple[str, int],
    pooled: Pooled | None,
) -> Comparison:
    """The cells against base and reference; the same as before where they read the same, as after
    a rig got another name.
    """
    return handover.of(
        ("comparison", base, reference, *of),
        (tuple(measured.items()), school, how, standing, pooled),
        lambda: compare_cells(
            measured, base, reference, school, how, standing, handover, pooled=pooled
        ),
    )


Counted: TypeAlias = tuple[tuple[Run, ...], CellParts | None, CellParts | None]


@dataclass(frozen=True, slots=True)
class _RigCells:
    """What counts in a rig's cells, by case."""

    kept: dict[str, tuple[Run, ...]]
    averages: dict[str, CellParts]
    lows: dict[str, CellParts]


def _rig_cells(
    contents: Contents,
    review: Review,
    rig_id: str,
    past: Mapping[str, Change],
    handover: Handover,
) -> _RigCells:
    """A rig's cells in a review, without the runs of the `past`; all of them as before where
    neither its runs nor the cases were edited, else each that was not.
    """
    cells, spread = contents.by_rig[rig_id], contents.rigs[rig_id].source_spread
    school, case_ids = review.low_school, {*review.case_ids}

    def count() -> _RigCells:
        reads = {}
        for case_id in filter(case_ids.__contains__, cells):
            left = tuple(run for run in cells[case_id] if run.id not in past)
            case = contents.cases[case_id]
            reads[rig_id, case_id] = left, case.title_id, spread, case.frame_cap_fps
        found = _RigCells({}, {}, {})
        counted = handover.of_cells(
            ("counted", school, rig_id), reads, lambda cell: _counted(school, *reads[cell])
        )
        for (_, case_id), (kept, parts, low) in counted.items():
            if parts is not None:
                found.kept[case_id] = kept
                found.averages[case_id] = parts
            if low is not None:
                found.lows[case_id] = low
        return found

    return handover.of(
        ("rig's cells", rig_id, school, review.id),
        (cells, past, contents.cases, review.case_ids, spread),
        count,
    )


def _counted(
    school: LowSchool,
    runs: tuple[Run, ...],
    title_id: str,
    spread: float | None,
    cap_fps: float | None,
) -> Counted:
    """The runs of a cell that count, and what their averages and lows come to; None where none
    does.
    """
    counted = tuple(
        run for run in runs if run.decision is Decision.KEEP and run.average_fps is not None
    )
    each = (measurement_of(run, school, title_id, spread) for run in counted)
    there = [one for one in each if one is not None]
    if not counted:
        return counted, None, None
    return counted, parts_of(there, cap_fps), low_parts_of(there, cap_fps)


def _cells_of(
    measured: Mapping[str, Mapping[str, CellParts]], shown: Comparison | None, bare: bool
) -> tuple[list[tuple[str, str]], Callable[[tuple[str, str]], CaseResult]]:
    """The cells there are, and how each is worked out when it is looked at."""
    keys = [(rig_id, case_id) for rig_id, cases in measured.items() for case_id in cases]
    places: dict[str, dict[str, int]] = {}
    of_rig = {rig.rig: rig.cases for rig in (shown.rigs if shown else ())}

    def make(key: tuple[str, str]) -> CaseResult:
        rig_id, case_id = key
        if rig_id not in places:
            places[rig_id] = {case: place for place, case in enumerate(measured[rig_id])}
        cell = of_rig[rig_id][places[rig_id][case_id]]
        return _bare(cell) if bare else cell

    return keys, make


def _bare(case: CaseResult) -> CaseResult:
    return replace(
        case,
        gain=None,
        loss=None,
        gain_low=None,
        gain_high=None,
        loss_low=None,
        loss_high=None,
        tie=False,
        runs_needed=None,
        over_bound=Bound.POINT,
        of_bound=Bound.POINT,
    )


def _column(contents: Contents, rig_id: str, role: Role) -> Column:
    rig = contents.rigs[rig_id]
    card = contents.card_of(rig_id)
    link = contents.link_of(rig_id)
    return Column(
        rig_id=rig_id,
        name=rig.name,
        card=card.name if card else rig.name,
        link=_link_words(rig, link, card) + (f" · {rig.origin}" if rig.origin else ""),
        host=contents.hosts[rig.host_id].name if rig.host_id else "",
        role=role,
        built_in=bool(card and card.built_in),
        link_gb_per_s=link_gb_per_s(link),
        source=rig.source,
    )


def _link_words(rig: Rig, link: Link | None, card: Card | None) -> str:
    if rig.source:
        return "published"
    return link.name if link else ("no link" if card and card.built_in else "")


def _row(contents: Contents, review: Review, case_id: str) -> Row:
    case = contents.cases[case_id]
    left_out = next((one.why for one in review.left_out if one.case_id == case_id), None)
    return Row(
        case_id=case_id,
        label=contents.case_label(case_id),
        title=contents.titles[case.title_id].name,
        scene=case.scene,
        settings=" ".join(part for part in (case.resolution, case.preset) if part),
        resolution=case.resolution,
        kind=contents.titles[case.title_id].kind,
        tags=contents.titles[case.title_id].tags,
        left_out=left_out,
        weight=next((one.weight for one in review.weights if one.case_id == case_id), 1.0),
    )
