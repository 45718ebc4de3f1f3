"""Everything the Worth stop shows, worked out once, and its sentences."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.board import Board, Column
from blunt_ruler.core.models import Contents, Review, Role, Seat
from blunt_ruler.core.text import capital, count_text, list_text, percent_text
from blunt_ruler.core.worth import running
from blunt_ruler.core.worth.answers import Answer, asked, known, total, unknown, worked
from blunt_ruler.core.worth.costs import Line, cost, parts_list
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, money_text
from blunt_ruler.core.worth.frames import (
    MEAN_RATE_WORDS,
    mean_rate,
    measured_rigs,
    rates_over,
    shared_cases,
)
from blunt_ruler.core.worth.money import (
    Sensitivity,
    efficient,
    energy_kwh_per_year,
    level_price,
    monthly,
    per_frame_at,
    sensitivity,
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

    @property
    def rig_id(self) -> str:
        """The rig."""
        return self.column.rig_id

    def value(self, figure: WorthFigure) -> float | None:
        """A figure's value, None while it is unknown."""
        return self.figures[figure].value


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
    return review.model_copy(update={"seats": (*review.seats, Seat(rig_id=other))})


def work_out_worth(contents: Contents, board: Board, review: Review | None = None) -> Worth:
    """Every figure of every rig of a Board, which may hold one rig more than the review."""
    rig_ids = measured_rigs(board)
    cases = shared_cases(board, rig_ids)
    base = board.base
    base_means = _means(board, base, cases) if base else None
    drafts = []
    for column in board.columns:
        lines = parts_list(contents, column.rig_id, board.review.worth)
        figures = _figures(contents, board, column, lines, cases, base_means)
        drafts.append((column, lines, figures))
    points = {
        column.rig_id: (price.value, frames.value)
        for column, _, figures in drafts
        if (price := figures[WorthFigure.COST]).value is not None
        and (frames := figures[WorthFigure.FRAMES]).value is not None
    }
    best = efficient(points)
    rows = tuple(
        WorthRow(column, lines, figures, column.rig_id in best if column.rig_id in points else None)
        for column, lines, figures in drafts
    )
    return Worth(review or board.review, board, cases, rows, _missing(rows))


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
    if (column.rig_id, cases[0] if cases else "") not in board.cells:
        measured = any(rig_id == column.rig_id for rig_id, _ in board.cells)
        why = "a case that all rigs share" if measured else f"a kept run of {column.name}"
        return (unknown(why),) * 3
    averages, lows, watts, weights = rates_over(board, column.rig_id, cases)
    school = board.review.mean
    sound = [low for low in lows if low is not None]
    drawn = [watt for watt in watts if watt is not None]
    return (
        known(mean_rate(school, averages, weights)),
        known(mean_rate(school, sound, weights))
        if len(sound) == len(lows)
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
    kwh = worked(
        energy_kwh_per_year,
        load,
        asked(settings.play_h_per_week, "the hours of play in a week"),
        idle,
        asked(settings.idle_h_per_week, "the idle hours in a week"),
    )
    tariff = asked(settings.tariff_per_kwh, "the energy tariff")
    energy = worked(lambda used, each: used * each, kwh, tariff)
    runs = running.kept_runs(contents, rig_id, cases)
    hottest = running.card_c(contents, rig_id, runs)
    return {
        WorthFigure.COST: price,
        WorthFigure.VALUE: total(line.worth for line in lines),
        WorthFigure.FRAMES: frames,
        WorthFigure.LOW: low,
        WorthFigure.GAINED: gained,
        WorthFigure.GAINED_LOW: gained_low,
        WorthFigure.PER_FRAME: _each(price, frames),
        WorthFigure.PER_LOW: _each(price, low),
        WorthFigure.PER_GAINED: _per_gained(price, gained, column),
        WorthFigure.PER_GAINED_LOW: _per_gained(price, gained_low, column),
        WorthFigure.MONTHLY: worked(
            lambda p, e: monthly(p, settings.years, settings.interest) + e / 12.0, price, energy
        ),
        WorthFigure.IDLE_W: idle,
        WorthFigure.LOAD_W: load,
        WorthFigure.PER_WATT: worked(lambda rate, watts: rate / watts, frames, load),
        WorthFigure.ENERGY_KWH: kwh,
        WorthFigure.ENERGY_COST: energy,
        WorthFigure.SUPPLY_FREE: running.supply_free(contents, rig_id, load),
        WorthFigure.CARD_C: hottest,
        WorthFigure.OVER_AMBIENT: running.over_ambient(contents, rig_id, hottest),
        WorthFigure.BELOW_THROTTLE: running.below_throttle(contents, rig_id, hottest),
        WorthFigure.SLOWED: running.slowed_runs(contents, rig_id, runs, board.review.thresholds),
        WorthFigure.NOISE: running.noise_dba(contents, rig_id, runs, settings.listener_m),
        WorthFigure.WEIGHT: running.weight_kg(contents, rig_id),
        WorthFigure.BESIDE: running.beside_kg(contents, rig_id),
        WorthFigure.VOLUME: running.volume_l(contents, rig_id),
        WorthFigure.CABLES: running.cables(contents, rig_id),
    }


def _gained(rate: Answer, base: Answer) -> Answer:
    return worked(lambda own, before: own - before, rate, base)


def _each(price: Answer, frames: Answer) -> Answer:
    return worked(lambda money, rate: money / rate, price, frames)


def _per_gained(price: Answer, gained: Answer, column: Column) -> Answer:
    if column.role is Role.BASE:
        return Answer(None)  # the base gains nothing over itself, and nothing is missing
    if gained.value is not None and gained.value <= 0:
        return Answer(None)  # no frame gained: it has no price
    return _each(price, gained)


# Sentences


def cheapest_gain(worth: Worth, but: str = "") -> WorthRow | None:
    """The rig whose gained frames cost least, `but` for one of them."""
    priced = [
        row
        for row in worth.rows
        if row.value(WorthFigure.PER_GAINED) is not None and row.rig_id != but
    ]
    return min(priced, key=lambda row: row.value(WorthFigure.PER_GAINED) or 0.0, default=None)


def worth_line(worth: Worth) -> str:
    """Which gained frame is the cheapest, or what is missing to say so."""
    best = cheapest_gain(worth)
    if best is None:
        if not worth.rows:
            return "No rig is in this review: choose rigs on the Bench."
        blocking = next(
            (one for one in worth.missing if WorthFigure.PER_GAINED in one.blocks), None
        )
        if blocking is None:
            return "No rig gains a frame over the base, so no gained frame has a price."
        return f"No gained frame has a price yet: {blocking.what} is not known."
    each = best.value(WorthFigure.PER_GAINED)
    assert each is not None
    said = (
        f"{best.column.name} gives the cheapest gained frame, {money_text(each, worth.currency)} "
        f"for each over {worth.board.base.name if worth.board.base else 'the base'}"
    )
    second = cheapest_gain(worth, but=best.rig_id)
    if second is not None:
        ratio = (second.value(WorthFigure.PER_GAINED) or 0.0) / each if each else 1.0
        said += f"; {second.column.name} asks {percent_text(ratio - 1.0)} more"
    unpriced = sum(bool(row.figures[WorthFigure.COST].missing) for row in worth.rows)
    if unpriced:
        verb = "is" if unpriced == 1 else "are"
        said += f"; {count_text(unpriced, 'rig')} {verb} not fully priced"
    return f"{said}."


def missing_words(one: Missing) -> str:
    """What is unknown and what it blocks."""
    names = [FIGURES[figure].short for figure in one.blocks]
    rigs = list(dict.fromkeys(rig for rigs in one.blocks.values() for rig in rigs))
    shown = list_text(names if len(names) < 5 else [*names[:3], f"{len(names) - 3} more"])
    of = list_text(rigs) if len(rigs) < 3 else count_text(len(rigs), "rig")
    return f"{capital(one.what)} is not known: blocks {shown} of {of}."


def basis_words(worth: Worth) -> str:
    """Over which cases frames are put together, and how."""
    return (
        f"{capital(MEAN_RATE_WORDS[worth.review.mean])} over "
        f"{count_text(len(worth.case_ids), 'shared case')}, "
        f"1 % low by the {worth.review.low_school} school, money in {worth.currency}"
    )


@dataclass(frozen=True, slots=True)
class Level:
    """Two rigs and the price at which the first costs as much for each frame as the second.

    `change` is what its present price would have to change by. `gains_nothing` names a rig
    whose frames of that kind are none, so that no price can be set against them.
    """

    first: WorthRow
    second: WorthRow
    frames: WorthFigure
    price: Answer
    change: Answer
    gains_nothing: str = ""


def draw_level(worth: Worth, first: str, second: str, frames: WorthFigure) -> Level | None:
    """The price at which one rig costs as much as another for each frame of a kind."""
    a, b = worth.row(first), worth.row(second)
    if a is None or b is None:
        return None
    rate_a, rate_b = a.figures[frames], b.figures[frames]
    for row, rate in ((a, rate_a), (b, rate_b)):
        if rate.value is not None and rate.value <= 0:
            return Level(a, b, frames, Answer(None), Answer(None), row.column.name)
    price = worked(level_price, rate_a, b.figures[WorthFigure.COST], rate_b)
    return Level(
        a,
        b,
        frames,
        price,
        worked(lambda at, now: at - now, price, a.figures[WorthFigure.COST]),
    )


EACH_WORDS = {
    WorthFigure.FRAMES: "frame",
    WorthFigure.LOW: "frame of the 1 % low",
    WorthFigure.GAINED: "gained frame",
    WorthFigure.GAINED_LOW: "gained frame of the 1 % low",
}


def level_words(worth: Worth, level: Level) -> str:
    """A level price in a sentence."""
    a, b = level.first.column.name, level.second.column.name
    kind = EACH_WORDS.get(level.frames, FIGURES[level.frames].words)
    if level.gains_nothing:
        return f"{level.gains_nothing} gains no frame, so no price draws it level with another."
    if level.price.value is None:
        return f"No price draws {a} level with {b}: {list_text(level.price.missing)} is not known."
    said = f"{a} costs as much as {b} per {kind} at {money_text(level.price.value, worth.currency)}"
    if level.change.value is None:
        return f"{said}; its price now is not known."
    if abs(level.change.value) < 0.005:
        return f"{said}, which it costs now."
    way = "more" if level.change.value > 0 else "less"
    return f"{said}, {money_text(abs(level.change.value), worth.currency)} {way} than now."


def moved_prices(worth: Worth) -> tuple[tuple[WorthRow, tuple[float, ...]], ...]:
    """Cost for each gained frame of every rig that has one, its price moved by PRICE_CHANGES."""
    points = worth.points(WorthFigure.GAINED)
    return tuple(
        (row, per_frame_at(*points[row.rig_id]))
        for row in worth.rows
        if row.rig_id in points and row.value(WorthFigure.PER_GAINED) is not None
    )


def moved_name(change: float) -> str:
    """The name of the figure at a price moved by a share: `cost_per_gained_frame_at_-30`."""
    return f"{WorthFigure.PER_GAINED}_at_{change * 100:+.0f}"


def price_turning(worth: Worth, rig_id: str) -> Sensitivity | None:
    """How far a rig's price may move before its place as the cheapest gained frame changes."""
    points = {key: point for key, point in worth.points(WorthFigure.GAINED).items() if point[1] > 0}
    return sensitivity(points, rig_id) if rig_id in points else None


def turning_words(worth: Worth, rig_id: str) -> str:
    """How much a rig's price may move, in a sentence; blank where it is not known."""
    found = price_turning(worth, rig_id)
    row = worth.row(rig_id)
    if found is None or row is None:
        return ""
    other = worth.row(found.other)
    name = other.column.name if other else found.other
    if found.rises_by is not None:
        return (
            f"{row.column.name} stays the cheapest gained frame until its price rises by "
            f"{percent_text(found.rises_by)}; then {name} is."
        )
    assert found.falls_by is not None
    return (
        f"{row.column.name} would have to fall by {percent_text(found.falls_by)} to give a gained "
        f"frame as cheap as {name}."
    )
