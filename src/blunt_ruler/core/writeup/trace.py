"""Every figure of a review as a row, with the runs it rests on: what a reader checks against."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.groups import Totals, group_means
from blunt_ruler.core.board.references import References
from blunt_ruler.core.board.row_order import GroupBy
from blunt_ruler.core.claims.claim import Question
from blunt_ruler.core.claims.prices import (
    FALLS_BY,
    LEVEL_PRICE,
    RISES_BY,
    VALUE_PER_GAINED,
    value_per_gained,
)
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.worth.alternatives import (
    ALTERNATIVE,
    CARRIES_OVER,
    GAIN_TO_WIN,
    PATH,
    PRICE_TO_WIN,
    later,
    pairs_to_win,
)
from blunt_ruler.core.worth.comparing import (
    cheapest_gain,
    draw_level,
    moved_name,
    moved_prices,
    price_turning,
)
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure
from blunt_ruler.core.worth.money import PRICE_CHANGES
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import COST_THEN

DESCRIBED = frozenset(
    {
        WorthFigure.COST,
        WorthFigure.VALUE,
        WorthFigure.IDLE_W,
        WorthFigure.WEIGHT,
        WorthFigure.BESIDE,
        WorthFigure.VOLUME,
        WorthFigure.CABLES,
        WorthFigure.DOCKING,
    }
)
"""Figures that rest on what was written down, not on runs."""


PLAIN_WORDS = {
    "average_fps": "average",
    "low_1_fps": "1 % low",
    "gain": "gain",
    "loss": "loss",
    "mean_gain": "mean gain",
    "mean_loss": "mean loss",
    "mean_kept": "kept on average",
}


OF_CLAIMS = {
    "mean_gain": "mean gain",
    "mean_loss": "mean loss",
    "mean_kept": "kept on average",
    "kept_of": "kept on average",
    "change_of": "mean change",
}


def figure_words(name: str) -> str:
    """What a figure is called beside its value: "mean gain", "to buy", "loss to the link"."""
    if name in PLAIN_WORDS:
        return PLAIN_WORDS[name]
    for start, words in OF_CLAIMS.items():
        if name.startswith(start):
            what = {"_low_1": ", 1 % low", "_score": ", score"}
            return words + next((said for end, said in what.items() if name.endswith(end)), "")
    known = {str(one): said.short for one, said in FIGURES.items()}
    return known.get(name) or name.replace("loss_", "loss: ").replace("_", " ")


@dataclass(frozen=True, slots=True)
class TracedFigure:
    """One figure: name, rig and case (blank for a mean over the review, the words of `group_case`
    for one over a group), value, unit, base, bounds, runs.

    `value` is None for a figure that is not known; `missing` then says what would tell it.
    """

    figure: str
    rig: str
    case: str
    value: float | None
    unit: str
    base: str = ""
    low: float | None = None
    high: float | None = None
    runs: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()


def traced_figures(analysis: Analysis) -> tuple[TracedFigure, ...]:
    """Every figure of cells, means, limits and worth, with the kept runs behind it."""
    return (
        *_cells(analysis.board),
        *_means(analysis.board),
        *_group_means(analysis),
        *_scores(analysis.scores.board),
        *_references(analysis.references),
        *_claims(analysis),
        *_limits(analysis),
        *_worth(analysis),
    )


def kept_behind(board: Board, rig_id: str, case_ids: tuple[str, ...]) -> tuple[str, ...]:
    """Ids of the kept runs of a rig on some cases."""
    return tuple(run.id for case_id in case_ids for run in board.counted(rig_id, case_id))


def _cells(board: Board) -> Iterator[TracedFigure]:
    base, reference = board.base, board.reference
    for (rig, case), cell in board.cells.items():
        own = kept_behind(board, rig, (case,))
        yield TracedFigure(
            *("average_fps", rig, case, cell.average_fps, "fps", ""),
            low=cell.rate_low,
            high=cell.rate_high,
            runs=own,
        )
        yield TracedFigure("low_1_fps", rig, case, cell.low_1_fps, "fps", runs=own)
        if cell.wall_w is not None:
            yield TracedFigure("wall_w", rig, case, cell.wall_w, "W", runs=own)
        if cell.gain is not None and base is not None:
            yield TracedFigure(
                *("gain", rig, case, cell.gain, "of 1", base.name),
                low=cell.gain_low,
                high=cell.gain_high,
                runs=(*own, *kept_behind(board, base.rig_id, (case,))),
            )
        if cell.loss is not None and reference is not None:
            yield TracedFigure(
                *("loss", rig, case, cell.loss, "of 1", reference.name),
                low=cell.loss_low,
                high=cell.loss_high,
                runs=(*own, *kept_behind(board, reference.rig_id, (case,))),
            )


def _scores(board: Board) -> Iterator[TracedFigure]:
    base = board.base.name if board.base else ""
    reference = board.reference.name if board.reference else ""
    for (rig, key), cell in board.cells.items():
        own = kept_behind(board, rig, (key,))
        yield TracedFigure(
            *("score", rig, key, cell.average_fps, cell.unit, ""),
            low=cell.rate_low,
            high=cell.rate_high,
            runs=own,
        )
        for name, value, low, high, other, role in (
            ("score_gain", cell.gain, cell.gain_low, cell.gain_high, base, board.base),
            ("score_loss", cell.loss, cell.loss_low, cell.loss_high, reference, board.reference),
        ):
            if value is not None and role is not None:
                behind = (*own, *kept_behind(board, role.rig_id, (key,)))
                yield TracedFigure(
                    *(name, rig, key, value, "of 1", other), low=low, high=high, runs=behind
                )


def _references(found: References) -> Iterator[TracedFigure]:
    for one in found.held:
        mean = one.mean
        if mean is None or one.change is None:
            continue
        board = found.boards[one.reference.rig_id]
        ids = mean.case_ids
        low, high = (None if end is None else end - 1.0 for end in mean.these)
        yield TracedFigure(
            *(f"change_of.{one.reference.rig_id}", one.rig.rig_id, "", one.change, "of 1"),
            base=one.reference.name,
            low=low,
            high=high,
            runs=(
                *kept_behind(board, one.rig.rig_id, ids),
                *kept_behind(board, one.reference.rig_id, ids),
            ),
        )


def _claims(analysis: Analysis) -> Iterator[TracedFigure]:
    """What claims compare beside the means above: lows, scores, and twins that are no reference."""
    known = {f"change_of.{one.reference.rig_id}" for one in analysis.references.held}
    known |= {"mean_gain", "mean_loss"}
    seen: set[tuple[str, str]] = set()
    for one in analysis.claims.all():
        if one.value is None or one.says or (one.figure, one.subject.rig_id) in seen:
            continue
        seen.add((one.figure, one.subject.rig_id))
        low, high = one.value.low, one.value.high
        lost = one.figure.startswith("mean_loss")
        rigs = [one.subject.rig_id, *([one.against.rig_id] if one.against else [])]
        changes = [None if end is None else end - 1.0 for end in (low, high)]
        if lost:
            changes = [None if end is None else -end for end in reversed(changes)]
        told: list[tuple[str, float, float | None, float | None]] = []
        if one.figure not in known:
            told.append((one.figure, one.figure_value, changes[0], changes[1]))
        if one.question is Question.LOSS:
            told.append((one.kept_figure, one.value.ratio, low, high))
        for name, value, least, most in told:
            yield TracedFigure(
                *(name, one.subject.rig_id, "", value, "of 1"),
                base=one.against.name if one.against else "",
                low=least,
                high=most,
                runs=tuple(
                    run
                    for case in one.scope.case_ids
                    for rig in rigs
                    for run in kept_behind(analysis.board, rig, (case,))
                ),
            )


def group_case(by: GroupBy, words: str) -> str:
    """What stands for the case of a mean over a group: "resolution: 2560x1440"."""
    return f"{by}: {words}"


def _group_means(analysis: Analysis) -> Iterator[TracedFigure]:
    contents, board = analysis.contents, analysis.board
    unsound = unsound_words(analysis.checked)
    for by in (GroupBy.TITLE, GroupBy.RESOLUTION, GroupBy.TAG):
        means = group_means(contents, board, unsound, by, analysis.handover)
        for words, (_, totals) in means.items():
            yield from _mean_figures(board, totals, group_case(by, words))


def _means(board: Board) -> Iterator[TracedFigure]:
    return _mean_figures(board, board.totals, "")


def _mean_figures(board: Board, totals: Totals, case: str) -> Iterator[TracedFigure]:
    for rig, total in totals.items():
        for name, mean, other, sign in (
            ("mean_gain", total.over_base, board.base, 1.0),
            ("mean_loss", total.of_reference, board.reference, -1.0),
        ):
            if mean is None or other is None:
                continue
            bounds = [None if b is None else sign * (b - 1.0) for b in mean.these]
            low, high = bounds if sign > 0 else reversed(bounds)
            yield TracedFigure(
                *(name, rig, case, sign * (mean.ratio - 1.0), "of 1", other.name),
                low=low,
                high=high,
                runs=(
                    *kept_behind(board, rig, tuple(mean.case_ids)),
                    *kept_behind(board, other.rig_id, tuple(mean.case_ids)),
                ),
            )


def _limits(analysis: Analysis) -> Iterator[TracedFigure]:
    """Shares of a loss name the runs of both rigs; the model behind them rests on all cells."""
    board, report = analysis.board, analysis.limits
    if report.fit is None or board.reference is None:
        return
    other = board.reference.rig_id
    cases = tuple(dict.fromkeys(one.case for one in report.splits))

    def behind(rig: str, which: tuple[str, ...]) -> tuple[str, ...]:
        return (*kept_behind(board, rig, which), *kept_behind(board, other, which))

    for rig in dict.fromkeys(one.rig for one in report.splits):
        for part, share in report.lost_by_part(rig).items():
            yield TracedFigure(
                *(f"loss_{part}", rig, "", share, "of 1", board.reference.name),
                runs=behind(rig, cases),
            )
    for one in report.splits:
        for part, lost in one.parts.items():
            yield TracedFigure(
                *(f"lost_{part}_fps", one.rig, one.case, lost.fps, "fps", board.reference.name),
                low=lost.low_fps,
                high=lost.high_fps,
                runs=behind(one.rig, (one.case,)),
            )


def _worth(analysis: Analysis) -> Iterator[TracedFigure]:
    worth = analysis.worth
    behind = {
        row.rig_id: kept_behind(worth.board, row.rig_id, worth.case_ids) for row in worth.rows
    }
    for row in worth.rows:
        for figure, answer in row.figures.items():
            unit = FIGURES[figure].unit
            yield TracedFigure(
                *(str(figure), row.rig_id, "", answer.value),
                worth.currency if unit == "money" else "of 1" if unit == "share" else unit,
                runs=() if figure in DESCRIBED else behind[row.rig_id],
                missing=answer.missing,
            )
    for row, costs in moved_prices(worth):
        for change, each in zip(PRICE_CHANGES, costs, strict=True):
            name = moved_name(change)
            runs = behind[row.rig_id]
            yield TracedFigure(name, row.rig_id, "", each, worth.currency, runs=runs)
    base = worth.board.base.name if worth.board.base else ""
    for rig_id, each in value_per_gained(worth).items():
        runs = behind[rig_id]
        yield TracedFigure(VALUE_PER_GAINED, rig_id, "", each, worth.currency, base, runs=runs)
    yield from _prices(worth, behind)
    yield from _alternatives(analysis)


def _alternatives(analysis: Analysis) -> Iterator[TracedFigure]:
    """What one could buy instead, what rigs would need to win over it, and a path to a next host;
    frames of an alternative have no runs behind them.
    """
    worth = analysis.worth
    for one in worth.alternatives:
        for name, answer, unit in (
            ("cost", one.cost, worth.currency),
            ("fps", one.frames, "fps"),
            ("cost_per_gained_frame", one.per_gained, worth.currency),
        ):
            if answer.value is not None:
                key = one.alternative.id
                yield TracedFigure(f"{ALTERNATIVE}_{name}", key, "", answer.value, unit)
    for pair in pairs_to_win(worth):
        of = pair.other.alternative.id
        rig = pair.row.rig_id
        yield TracedFigure(f"{PRICE_TO_WIN}.{of}", rig, "", pair.price, worth.currency)
        yield TracedFigure(f"{GAIN_TO_WIN}.{of}", rig, "", pair.gain, "fps")
    for row in worth.rows:
        found = later(analysis.contents, worth, row)
        if found is None:
            continue
        for name, value in ((CARRIES_OVER, found.worth), (PATH, found.path)):
            if value is not None:
                yield TracedFigure(name, row.rig_id, "", value, worth.currency)


def _prices(worth: Worth, behind: Mapping[str, tuple[str, ...]]) -> Iterator[TracedFigure]:
    """Where prices turn, and the level price of every rig with the cheapest gained frame."""
    best = cheapest_gain(worth)
    for row in worth.rows:
        runs = behind[row.rig_id]
        turning = price_turning(worth, row.rig_id)
        if turning is not None:
            for name, share in ((RISES_BY, turning.rises_by), (FALLS_BY, turning.falls_by)):
                if share is not None:
                    yield TracedFigure(name, row.rig_id, "", share, "of 1", runs=runs)
        if row.then is not None and row.then.value is not None:
            yield TracedFigure(COST_THEN, row.rig_id, "", row.then.value, worth.currency)
        if best is None or row is best:
            continue
        level = draw_level(worth, row.rig_id, best.rig_id, WorthFigure.GAINED)
        if level is not None and level.price.value is not None:
            both = (*runs, *behind[best.rig_id])
            yield TracedFigure(
                *(LEVEL_PRICE, row.rig_id, "", level.price.value, worth.currency),
                base=best.column.name,
                runs=both,
            )
