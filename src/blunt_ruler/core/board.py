"""The Board's values: a review's kept runs as rigs × cases, seen through a lens.

Built once from the logbook's contents and then only read, so that every view, report and
command shows the same figure for the same cell.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.compare import CaseResult, Comparison, Measurement, RigResult, compare
from blunt_ruler.core.frames import LowSchool
from blunt_ruler.core.links import link_gb_per_s
from blunt_ruler.core.models import Contents, Decision, Review, Role, Run
from blunt_ruler.core.text import MISSING, fps_text, loss_text, percent_text, times_text


class Lens(StrEnum):
    """What a cell of the Board shows."""

    RATE = "frame rate"
    LOW_1 = "1 % low"
    GAIN = "gain"
    LOSS = "loss"


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


@dataclass(frozen=True, slots=True)
class Row:
    """A case as the head of a row; `settings` is resolution and preset in words."""

    case_id: str
    label: str
    title: str
    scene: str
    settings: str


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

    def column(self, rig_id: str | None) -> Column | None:
        """The column of a rig, None where it is not in the review."""
        return next((column for column in self.columns if column.rig_id == rig_id), None)

    @property
    def base(self) -> Column | None:
        """The column every gain is measured from."""
        return self.column(self.review.rig_in(Role.BASE))

    @property
    def reference(self) -> Column | None:
        """The column every loss is measured from."""
        return self.column(self.review.rig_in(Role.REFERENCE))

    def kept_of_reference(self, rig_id: str, case_id: str) -> float | None:
        """Share of the reference's rate that a rig keeps on a case; 1 for the reference."""
        cell = self.cells.get((rig_id, case_id))
        return None if cell is None or cell.loss is None else 1.0 - cell.loss


def measurement_of(run: Run, school: LowSchool) -> Measurement | None:
    """A run as the comparison takes it; None for one without figures."""
    average_fps = run.average_fps
    if average_fps is None:
        return None
    return Measurement(
        rig=run.rig_id,
        case=run.case_id,
        average_fps=average_fps,
        low_1_fps=run.low_1_fps(school),
        frames=run.figures.frames if run.figures else None,
        duration_s=run.figures.duration_s if run.figures else None,
    )


def build_board(contents: Contents, review: Review) -> Board:
    """The Board of one review. Runs that are not kept stay listed behind their cell."""
    rig_ids = {seat.rig_id for seat in review.seats}
    case_ids = set(review.case_ids)
    behind: dict[tuple[str, str], list[Run]] = {}
    measured = []
    for run in contents.runs.values():
        if run.rig_id not in rig_ids or run.case_id not in case_ids:
            continue
        behind.setdefault((run.rig_id, run.case_id), []).append(run)
        if run.decision is Decision.KEEP:
            measurement = measurement_of(run, review.low_school)
            if measurement is not None:
                measured.append(measurement)
    with_runs = {measurement.rig for measurement in measured}
    base = review.rig_in(Role.BASE)
    reference = review.rig_in(Role.REFERENCE)
    comparison = (
        compare(
            measured,
            base,
            reference if reference in with_runs else None,
            review.low_school,
        )
        if base in with_runs and base is not None
        else None
    )
    # Without a base there are rates but no gains; any rig can lend its name to the sums.
    shown = comparison or (compare(measured, measured[0].rig, None) if measured else None)
    cells = {
        (rig.rig, case.case): case if comparison else _bare(case)
        for rig in (shown.rigs if shown else ())
        for case in rig.cases
    }
    return Board(
        review=review,
        columns=tuple(_column(contents, seat.rig_id, seat.role) for seat in review.seats),
        rows=tuple(_row(contents, case_id) for case_id in review.case_ids),
        cells=cells,
        totals={rig.rig: rig for rig in comparison.rigs} if comparison else {},
        runs={key: tuple(runs) for key, runs in behind.items()},
        comparison=comparison,
    )


def _bare(case: CaseResult) -> CaseResult:
    return CaseResult(case.case, case.runs, case.average_fps, case.low_1_fps, None, None)


def _column(contents: Contents, rig_id: str, role: Role) -> Column:
    rig = contents.rigs[rig_id]
    card = contents.card_of(rig_id)
    link = contents.link_of(rig_id)
    return Column(
        rig_id=rig_id,
        name=rig.name,
        card=card.name if card else rig.name,
        link=link.name if link else ("no link" if card and card.built_in else ""),
        host=contents.hosts[rig.host_id].name if rig.host_id else "",
        role=role,
        built_in=bool(card and card.built_in),
        link_gb_per_s=link_gb_per_s(link),
    )


def _row(contents: Contents, case_id: str) -> Row:
    case = contents.cases[case_id]
    return Row(
        case_id=case_id,
        label=contents.case_label(case_id),
        title=contents.titles[case.title_id].name,
        scene=case.scene,
        settings=" ".join(part for part in (case.resolution, case.preset) if part),
    )


def lens_value(cell: CaseResult | None, lens: Lens) -> float | None:
    """What a cell shows through a lens: frames per second, or a share for gain and loss."""
    if cell is None:
        return None
    match lens:
        case Lens.RATE:
            return cell.average_fps
        case Lens.LOW_1:
            return cell.low_1_fps
        case Lens.GAIN:
            return cell.gain
        case Lens.LOSS:
            return cell.loss


def value_text(value: float | None, lens: Lens) -> str:
    """A lens value in words; a missing one is an en dash."""
    if value is None:
        return MISSING
    match lens:
        case Lens.RATE | Lens.LOW_1:
            return fps_text(value)
        case Lens.GAIN:
            return percent_text(value, signed=True)
        case Lens.LOSS:
            return loss_text(value)


def beside_text(board: Board, rig_id: str, cell: CaseResult | None, lens: Lens) -> str:
    """The smaller figure beside a cell's value: what the value alone would leave unsaid."""
    if cell is None:
        return ""
    match lens:
        case Lens.RATE:
            if rig_id == board.review.rig_in(Role.BASE):
                return "base"
            return "" if cell.gain is None else times_text(cell.gain + 1.0)
        case Lens.LOW_1:
            if cell.low_1_fps is None:
                return ""
            return f"{percent_text(cell.low_1_fps / cell.average_fps)} of average"
        case Lens.GAIN | Lens.LOSS:
            return fps_text(cell.average_fps)


def mean_text(board: Board, rig_id: str, lens: Lens) -> str:
    """The foot of a column: the geometric mean over shared cases, as the lens says it."""
    total = board.totals.get(rig_id)
    if total is None:
        return ""
    match lens:
        case Lens.RATE:
            return "" if total.mean_gain is None else times_text(total.mean_gain + 1.0)
        case Lens.LOW_1:
            return ""
        case Lens.GAIN | Lens.LOSS:
            return value_text(mean_value(board, rig_id, lens), lens)


def lens_words(board: Board, lens: Lens) -> str:
    """What the lens shows and on which base, for the header and for every copied figure."""
    match lens:
        case Lens.RATE:
            return "average frames per second"
        case Lens.LOW_1:
            return f"1 % low, {board.review.low_school} school, frames per second"
        case Lens.GAIN:
            return f"gain over {board.base.name}" if board.base else "gain: choose a base rig first"
        case Lens.LOSS:
            return (
                f"change against {board.reference.name}"
                if board.reference
                else "loss: choose a reference rig first"
            )


def mean_value(board: Board, rig_id: str, lens: Lens) -> float | None:
    """The mean of a column for the gain and loss lenses (geometric, over shared cases)."""
    total = board.totals.get(rig_id)
    if total is None:
        return None
    match lens:
        case Lens.GAIN:
            return total.mean_gain
        case Lens.LOSS:
            return total.mean_loss
        case Lens.RATE | Lens.LOW_1:
            return None
