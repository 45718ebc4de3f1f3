"""Everything the Worth stop shows, worked out once, and its sentences."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.percentages import rig_meant
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.alternatives import Alternative
from blunt_ruler.core.records.pricing import Price
from blunt_ruler.core.records.records import Contents, Review, ReviewRig, Role
from blunt_ruler.core.worth import running
from blunt_ruler.core.worth.answers import Answer, asked, derive, known, total, unknown
from blunt_ruler.core.worth.costs import Line, cost, cost_then, in_currency, parts_list
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.core.worth.frames import (
    mean_beside,
    rates_over,
    shared_cases,
)
from blunt_ruler.core.worth.money import (
    efficient,
    energy_kwh_per_year,
    monthly,
)

Answers = Mapping[WorthFigure, Answer]


@dataclass(frozen=True, slots=True)
class WorthRow:
    """One rig: its parts list, its figures, and whether nothing is cheaper and faster.

    `efficient` is None while its price or its frames are unknown.
    """

    column: Column
    lines: tuple[Line, ...]
    figures: Answers
    efficient: bool | None
    then: Answer | None = None  # its cost on the day that the review sets beside

    @property
    def rig_id(self) -> str:
        """The rig."""
        return self.column.rig_id

    def value(self, figure: WorthFigure) -> float | None:
        """A figure's value, None while it is unknown."""
        return self.figures[figure].value


@dataclass(frozen=True, slots=True)
class AlternativeRow:
    """What one could buy instead, by the same sums as a rig; nobody benchmarked it.

    `least` and `most` are the ends of its frames where a range was given. `gained` and what each
    gained frame costs are None where it gains nothing over the base.
    """

    alternative: Alternative
    cost: Answer
    frames: Answer
    gained: Answer
    per_gained: Answer
    least: float | None = None
    most: float | None = None

    @property
    def name(self) -> str:
        """What it is called, and that its frames are not measured."""
        return f"{self.alternative.name} ({self.alternative.frames_are})"


@dataclass(frozen=True, slots=True)
class Missing:
    """Something that is not known, and the figures it blocks: figure → rigs."""

    what: str
    blocks: Mapping[WorthFigure, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Worth:
    """The worth of every rig of a review over the cases they share."""

    review: Review
    board: Board
    case_ids: tuple[str, ...]
    rows: tuple[WorthRow, ...]
    missing: tuple[Missing, ...]
    alternatives: tuple["AlternativeRow", ...] = ()

    @property
    def currency(self) -> str:
        """The currency all money is in."""
        return self.review.worth.currency

    def row(self, rig_id: str | None) -> WorthRow | None:
        """The row of a rig."""
        return next((row for row in self.rows if row.rig_id == rig_id), None)

    def points(self, frames: WorthFigure = WorthFigure.FRAMES) -> dict[str, tuple[float, float]]:
        """(price, frames) of every rig that has both, by rig id."""
        return {
            row.rig_id: (price, rate)
            for row in self.rows
            if (price := row.value(WorthFigure.COST)) is not None
            and (rate := row.value(frames)) is not None
        }


def review_against(contents: Contents, review: Review) -> Review:
    """The review with the rig it is set against, where that is another one of the logbook."""
    other = review.worth.against
    if other not in contents.rigs or any(seat.rig_id == other for seat in review.seats):
        return review
    return review.model_copy(update={"seats": (*review.seats, ReviewRig(rig_id=other))})


def derive_worth(
    contents: Contents,
    board: Board,
    review: Review | None = None,
    handover: Handover | None = None,
) -> Worth:
    """Every figure of every rig of a Board, which may hold one rig more than the review."""
    cases = shared_cases(board)
    base = board.base
    base_means = _means(board, base, cases) if base else None
    drafts = []
    for column in board.columns:
        lines = parts_list(contents, column.rig_id, board.review.worth)
        figures = _figures(contents, board, column, lines, cases, base_means, handover)
        drafts.append((column, lines, figures))
    points = {
        column.rig_id: (price.value, frames.value)
        for column, _, figures in drafts
        if (price := figures[WorthFigure.COST]).value is not None
        and (frames := figures[WorthFigure.FRAMES]).value is not None
    }
    best = efficient(points)
    rows = tuple(
        WorthRow(
            column,
            lines,
            figures,
            column.rig_id in best if column.rig_id in points else None,
            cost_then(contents, column.rig_id, board.review.worth),
        )
        for column, lines, figures in drafts
    )
    chosen = review or board.review
    others = alternative_rows(contents, board, chosen, {row.rig_id: row.figures for row in rows})
    return Worth(chosen, board, cases, rows, _missing(rows), others)


def alternative_rows(
    contents: Contents, board: Board, review: Review, of_rigs: Mapping[str, Answers]
) -> tuple[AlternativeRow, ...]:
    """Every alternative of the logbook, its frames over the base as those of a rig."""
    base = of_rigs[board.base.rig_id][WorthFigure.FRAMES] if board.base else None
    found = []
    for one in contents.alternatives.values():
        price = Price(id=one.id, amount=one.amount, currency=one.currency)
        cost_of = in_currency(price, one.name, review.worth)
        frames, least, most = _frames_of(one, board, of_rigs)
        gained = _gained(frames, base) if base else unknown("the base rig of the review")
        nothing = gained.value is not None and gained.value <= 0
        each = Answer(None) if nothing else _each(cost_of, gained)
        found.append(AlternativeRow(one, cost_of, frames, gained, each, least, most))
    return tuple(found)


def _frames_of(
    one: Alternative, board: Board, of_rigs: Mapping[str, Answers]
) -> tuple[Answer, float | None, float | None]:
    """(mean frames, the least, the most) of an alternative; the ends where it has a range."""
    typed = one.frames
    if typed is None or (typed.average_fps is None and typed.change is None):
        return unknown(f"the frames of {one.name}"), None, None
    if typed.change is None:
        edges = typed.average_how.edges or (None, None)
        return known(typed.average_fps or 0.0), *edges
    whose = rig_meant(typed.change_of, board.columns)
    if whose is None:
        return unknown(f"the rig that “{typed.change_of}” names"), None, None
    rate = of_rigs[whose.rig_id][WorthFigure.FRAMES]
    return derive(lambda fps: fps * (1.0 + (typed.change or 0.0)), rate), None, None


def _missing(rows: Sequence[WorthRow]) -> tuple[Missing, ...]:
    found: dict[str, dict[WorthFigure, list[str]]] = {}
    for row in rows:
        for figure, answer in row.figures.items():
            for what in answer.missing:
                found.setdefault(what, {}).setdefault(figure, []).append(row.column.name)
    return tuple(
        Missing(what, {figure: tuple(names) for figure, names in blocks.items()})
        for what, blocks in found.items()
    )


def _means(board: Board, column: Column, cases: Sequence[str]) -> tuple[Answer, Answer, Answer]:
    """(mean rate, mean low, mean watts at the wall) of a rig over some cases."""
    if not cases or any((column.rig_id, case) not in board.cells for case in cases):
        measured = any(rig_id == column.rig_id for rig_id, _ in board.cells)
        why = "a case that all rigs share" if not cases else f"{column.name} in every shared case"
        return (unknown(why if measured else f"a kept run of {column.name}"),) * 3
    parts = board.parts[column.rig_id]
    if any(parts[case].bound is not Bound.POINT for case in cases):
        return (unknown(f"a figure, not a bound, of {column.name} in every shared case"),) * 3
    averages, lows, watts, weights = rates_over(board, column.rig_id, cases)
    school, base = board.review.mean, board.base
    base_averages: Sequence[float] | None = None
    base_lows: Sequence[float] | None = None
    if base is not None and all((base.rig_id, case) in board.cells for case in cases):
        base_averages, found, _, _ = rates_over(board, base.rig_id, cases)
        base_lows = [low for low in found if low is not None]
    sound = [low for low in lows if low is not None]
    drawn = [watt for watt in watts if watt is not None]
    has_lows = len(sound) == len(lows) and (base_lows is None or len(base_lows) == len(lows))
    return (
        known(mean_beside(school, averages, base_averages, weights)),
        known(mean_beside(school, sound, base_lows, weights))
        if has_lows
        else unknown(f"a 1 % low of {column.name} in every shared case"),
        known(sum(drawn) / len(drawn))
        if len(drawn) == len(watts)
        else unknown(f"the wall power of {column.name} in every shared case"),
    )


def _figures(
    contents: Contents,
    board: Board,
    column: Column,
    lines: tuple[Line, ...],
    cases: Sequence[str],
    base_means: tuple[Answer, Answer, Answer] | None,
    handover: Handover | None,
) -> Answers:
    rig_id, settings = column.rig_id, board.review.worth
    frames, low, load = _means(board, column, cases)
    price = cost(lines, column.name)
    gained, gained_low = (
        (_gained(frames, base_means[0]), _gained(low, base_means[1]))
        if base_means
        else (unknown("the base rig of the review"),) * 2
    )
    idle = running.idle_w(contents, rig_id)
    kwh = derive(
        energy_kwh_per_year,
        load,
        asked(settings.play_h_per_week, "the hours of play in a week"),
        idle,
        asked(settings.idle_h_per_week, "the idle hours in a week"),
    )
    tariff = asked(settings.tariff_per_kwh, "the energy tariff")
    energy = derive(lambda used, each: used * each, kwh, tariff)
    shown = running.shown_over(board, rig_id, cases, handover)
    hottest = running.card_c(contents, rig_id, shown)
    return {
        WorthFigure.COST: price,
        WorthFigure.VALUE: total(line.worth for line in lines) if lines else price,
        WorthFigure.FRAMES: frames,
        WorthFigure.LOW: low,
        WorthFigure.GAINED: gained,
        WorthFigure.GAINED_LOW: gained_low,
        WorthFigure.PER_FRAME: _each(price, frames),
        WorthFigure.PER_LOW: _each(price, low),
        WorthFigure.PER_GAINED: _per_gained(price, gained, column),
        WorthFigure.PER_GAINED_LOW: _per_gained(price, gained_low, column),
        WorthFigure.MONTHLY: derive(
            lambda p, e: monthly(p, settings.years, settings.interest) + e / 12.0, price, energy
        ),
        WorthFigure.IDLE_W: idle,
        WorthFigure.LOAD_W: load,
        WorthFigure.PER_WATT: derive(lambda rate, watts: rate / watts, frames, load),
        WorthFigure.ENERGY_KWH: kwh,
        WorthFigure.ENERGY_COST: energy,
        WorthFigure.SUPPLY_FREE: running.supply_free(contents, rig_id, load),
        WorthFigure.CARD_C: hottest,
        WorthFigure.OVER_AMBIENT: running.over_ambient(contents, rig_id, hottest),
        WorthFigure.BELOW_THROTTLE: running.below_throttle(contents, rig_id, hottest),
        WorthFigure.SLOWED: running.slowed_runs(contents, rig_id, shown, board.review.thresholds),
        WorthFigure.NOISE: running.noise_dba(contents, rig_id, shown, settings.listener_m),
        WorthFigure.WEIGHT: running.weight_kg(contents, rig_id),
        WorthFigure.BESIDE: running.beside_kg(contents, rig_id),
        WorthFigure.VOLUME: running.volume_l(contents, rig_id),
        WorthFigure.CABLES: running.cables(contents, rig_id),
        WorthFigure.DOCKING: running.docking_min(contents, rig_id),
    }


def _gained(rate: Answer, base: Answer) -> Answer:
    return derive(lambda own, before: own - before, rate, base)


def _each(price: Answer, frames: Answer) -> Answer:
    return derive(lambda money, rate: money / rate, price, frames)


def _per_gained(price: Answer, gained: Answer, column: Column) -> Answer:
    if column.role is Role.BASE:
        return Answer(None)  # the base gains nothing over itself, and nothing is missing
    if gained.value is not None and gained.value <= 0:
        return Answer(None)  # no frame gained: it has no price
    return _each(price, gained)
