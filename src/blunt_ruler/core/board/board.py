"""The Board's values: a review's kept runs as rigs × cases. `lenses` says what a cell shows.

Built once from the logbook's contents and then only read, so that every view, report and
command shows the same figure for the same cell.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.like_for_like import standings
from blunt_ruler.core.compare.results import CaseResult, Comparison, How, Measurement, RigResult
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.reading import FROM_LOG
from blunt_ruler.core.records.hardware import Card, Link, Rig
from blunt_ruler.core.records.records import Contents, Decision, Review, Role, Run
from blunt_ruler.core.rigs.links import link_gb_per_s
from blunt_ruler.core.runs.changes import superseded


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

    def column(self, rig_id: str | None) -> Column | None:
        """The column of a rig, None where it is not in the review."""
        return next((column for column in self.columns if column.rig_id == rig_id), None)

    def is_counted(self, run: Run) -> bool:
        """Whether figures are made of a run: kept, and not from before a change."""
        return run.decision is Decision.KEEP and run.id not in self.past

    def counted(self, rig_id: str, case_id: str) -> tuple[Run, ...]:
        """The runs that a cell's figures are made of."""
        return tuple(run for run in self.runs.get((rig_id, case_id), ()) if self.is_counted(run))

    @property
    def base(self) -> Column | None:
        """The column every gain is measured from."""
        return self.column(self.review.rig_in(Role.BASE))

    @property
    def reference(self) -> Column | None:
        """The column every loss is measured from."""
        return self.column(self.review.rig_in(Role.REFERENCE))

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
) -> Board:
    """The Board of one review. Runs that are not kept stay listed behind their cell.

    `unsound` holds kept runs that a check stops, as `like_for_like.unsound_words` gives them:
    their cells are mixed at best.
    """
    rig_ids = {seat.rig_id for seat in review.seats}
    case_ids = set(review.case_ids)
    behind: dict[tuple[str, str], list[Run]] = {}
    kept: dict[tuple[str, str], list[Run]] = {}
    measured = []
    before_changes = superseded(contents)
    for run in contents.runs.values():
        if run.rig_id not in rig_ids or run.case_id not in case_ids:
            continue
        behind.setdefault((run.rig_id, run.case_id), []).append(run)
        if run.decision is Decision.KEEP and run.id not in before_changes:
            title_id = contents.cases[run.case_id].title_id
            spread = contents.rigs[run.rig_id].source_spread
            measurement = measurement_of(run, review.low_school, title_id, spread)
            if measurement is not None:
                measured.append(measurement)
                kept.setdefault((run.rig_id, run.case_id), []).append(run)
    with_runs = {measurement.rig for measurement in measured}
    base = review.rig_in(Role.BASE)
    reference = review.rig_in(Role.REFERENCE)
    standing = standings(contents, review, kept, unsound or {})
    how = how_of(review)
    synthetic = frozenset(
        key for key in case_ids if contents.titles[contents.cases[key].title_id].kind != "game"
    )
    how = replace(how, without=how.without | synthetic)  # a mean is over games
    comparison = (
        compare(
            measured,
            base,
            reference if reference in with_runs else None,
            review.low_school,
            how,
            standing,
        )
        if base in with_runs and base is not None
        else None
    )
    # Without a base there are rates but no gains; any rig can lend its name to the sums.
    shown = comparison or (
        compare(measured, measured[0].rig, None, review.low_school, how, standing)
        if measured
        else None
    )
    cells = {
        (rig.rig, case.case): case if comparison else _bare(case)
        for rig in (shown.rigs if shown else ())
        for case in rig.cases
    }
    return Board(
        review=review,
        columns=tuple(_column(contents, seat.rig_id, seat.role) for seat in review.seats),
        rows=tuple(_row(contents, review, case_id) for case_id in review.case_ids),
        cells=cells,
        totals={rig.rig: rig for rig in comparison.rigs} if comparison else {},
        runs={key: tuple(runs) for key, runs in behind.items()},
        comparison=comparison,
        past=frozenset(before_changes),
    )


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
