"""For whom a rig makes sense: a reviewer's lines against its figures, and the sentences of it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from blunt_ruler.core.board.lines import bound_words
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.records.pricing import Audience
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.sentences import Figure, Sentence, Span, joined, sentence
from blunt_ruler.core.text import amount, list_text, percent_text
from blunt_ruler.core.worth.answers import Answer, known, unknown
from blunt_ruler.core.worth.figures import WorthFigure, figure_text, money_text
from blunt_ruler.core.worth.report import Worth, WorthRow


@dataclass(frozen=True, slots=True)
class LineCheck:
    """One line of an audience against one rig. `holds` is None while the figure is unknown."""

    line: str
    says: str
    short: str
    limit: str
    at_most: bool
    answer: Answer
    figure: Figure
    holds: bool | None
    crosses: str = ""  # the figure's interval in words, where the line lies inside it


@dataclass(frozen=True, slots=True)
class Judgement:
    """One rig for one audience: yes where every line holds, no where one does not, else open."""

    row: WorthRow
    audience: Audience
    checks: tuple[LineCheck, ...]

    @property
    def makes_sense(self) -> bool | None:
        """Whether it makes sense for them; None while it is open."""
        if any(check.holds is False for check in self.checks):
            return False
        return None if any(check.holds is None for check in self.checks) else True

    @property
    def is_just(self) -> bool:
        """Whether it makes sense, and a figure's interval crosses its line."""
        return self.makes_sense is True and any(check.crosses for check in self.checks)

    @property
    def word(self) -> str:
        """The outcome in a word."""
        if self.is_just:
            return "just"
        return {True: "yes", False: "no", None: "open"}[self.makes_sense]


def judge(worth: Worth, row: WorthRow, audience: Audience) -> Judgement:
    """Hold every line that the audience draws against one rig."""
    checks = []
    for line, (says, answer_of, at_most, text_of) in _lines(worth).items():
        limit = getattr(audience, line)
        if limit is None:
            continue
        answer, name, base = answer_of(row)
        text = "unknown" if answer.value is None else text_of(answer.value)
        holds = None
        if answer.value is not None:
            holds = answer.value <= limit if at_most else answer.value >= limit
        figure = Figure(text, name, row.rig_id, value=answer.value, base=base)
        between = _interval(worth, row, line)
        crosses = ""
        if holds is not None and between and between[0] < limit < between[1]:
            crosses = f"{text_of(between[0])} to {text_of(between[1])}"
        drawn = text_of(limit).replace(".0\u202f", "\u202f")
        checks.append(
            LineCheck(line, says, SHORT[line], drawn, at_most, answer, figure, holds, crosses)
        )
    return Judgement(row, audience, tuple(checks))


SHORT = {
    "gain_at_least": "gain",
    "low_at_least_fps": "1 % low",
    "loss_at_most": "loss",
    "budget": "cost",
    "carry_at_most_kg": "weight",
    "noise_at_most_dba": "noise",
}
AnswerOf = Callable[[WorthRow], tuple[Answer, str, str]]


def _lines(worth: Worth) -> dict[str, tuple[str, AnswerOf, bool, Callable[[float], str]]]:
    """Each line: what it says, where its figure comes from, whether it is a most, how written."""
    currency = worth.currency
    base = worth.board.base.name if worth.board.base else "the base"
    reference = worth.board.reference.name if worth.board.reference else "the reference"

    def of(figure: WorthFigure) -> AnswerOf:
        return lambda row: (row.figures[figure], figure, "")

    def gain(row: WorthRow) -> tuple[Answer, str, str]:
        total = worth.board.totals.get(row.rig_id)
        return _mean(total.over_base if total else None, row, base, -1.0, 1.0), "mean_gain", base

    def loss(row: WorthRow) -> tuple[Answer, str, str]:
        total = worth.board.totals.get(row.rig_id)
        mean = total.of_reference if total else None
        return _mean(mean, row, reference, 1.0, -1.0), "mean_loss", reference

    def in_unit(unit: str) -> Callable[[float], str]:
        return lambda value: amount(value, unit, 1)

    return {
        "gain_at_least": (
            f"gain over {base}",
            gain,
            False,
            lambda value: percent_text(value, signed=True),
        ),
        "low_at_least_fps": ("mean 1 % low", of(WorthFigure.LOW), False, in_unit("fps")),
        "loss_at_most": (f"loss against {reference}", loss, True, percent_text),
        "budget": (
            "cost to buy",
            of(WorthFigure.COST),
            True,
            lambda value: money_text(value, currency),
        ),
        "carry_at_most_kg": ("weight", of(WorthFigure.WEIGHT), True, in_unit("kg")),
        "noise_at_most_dba": ("noise", of(WorthFigure.NOISE), True, in_unit("dB(A)")),
    }


def _mean(mean: RigMean | None, row: WorthRow, other: str, offset: float, sign: float) -> Answer:
    if mean is None:
        return unknown(f"a case that {row.column.name} shares with {other}")
    if mean.bound is not Bound.POINT:
        return unknown(f"figures, not bounds, of {row.column.name} and {other}")
    return known(offset + sign * mean.ratio)


def _interval(worth: Worth, row: WorthRow, line: str) -> tuple[float, float] | None:
    """The 95 % interval of the figure that a line is held against; None where it has none."""
    total = worth.board.totals.get(row.rig_id)
    if total is None or line not in ("gain_at_least", "loss_at_most"):
        return None
    mean = total.over_base if line == "gain_at_least" else total.of_reference
    if mean is None or mean.low is None or mean.high is None:
        return None
    if line == "gain_at_least":
        return mean.low - 1.0, mean.high - 1.0
    return 1.0 - mean.high, 1.0 - mean.low


def judged_rows(worth: Worth) -> tuple[WorthRow, ...]:
    """The rigs a verdict is given on: those under test and, at the end, base and reference."""
    tested = [row for row in worth.rows if row.column.role is Role.TESTED]
    return (*tested, *(row for row in worth.rows if row.column.role is not Role.TESTED))


def judgements(worth: Worth, audience: Audience) -> tuple[Judgement, ...]:
    """Every rig for one audience."""
    return tuple(judge(worth, row, audience) for row in judged_rows(worth))


def verdict_sentences(worth: Worth) -> tuple[Sentence, ...]:
    """The verdict: what the rig in focus gives, then for whom which rig makes sense."""
    said = [*_headline(worth)]
    for place, audience in enumerate(worth.review.audiences):
        said.extend(_audience_sentences(worth, audience, f"verdict.{place}"))
    if not worth.review.audiences:
        said.append(
            sentence(
                "verdict.none",
                "No line is drawn for anyone yet, so no rig is recommended or advised against.",
            )
        )
    return tuple(said)


def _headline(worth: Worth) -> tuple[Sentence, ...]:
    found = []
    for row in worth.rows:
        total = worth.board.totals.get(row.rig_id)
        if row.column.role is not Role.TESTED or total is None:
            continue
        parts: list[tuple[Span, ...]] = []
        base, reference = worth.board.base, worth.board.reference
        if total.over_base is not None and base is not None:
            gain = total.over_base.ratio - 1.0
            figure = _change(gain, "mean_gain", row.rig_id, gain, base.name)
            bound = bound_words(total.over_base.bound)
            tie = (f"shows no difference from {base.name}",)
            parts.append(tie if total.over_base.is_tie else (bound, figure, f" over {base.name}"))
        if total.of_reference is not None and reference is not None:
            lost = 1.0 - total.of_reference.ratio
            figure = _change(-lost, "mean_loss", row.rig_id, lost, reference.name)
            bound = bound_words(total.of_reference.bound)
            tie = (f"level with {reference.name}",)
            parts.append(
                tie if total.of_reference.is_tie else (bound, figure, f" against {reference.name}")
            )
        price = row.figures[WorthFigure.COST]
        if price.value is not None:
            text = figure_text(price, WorthFigure.COST, worth.currency)
            parts.append(
                (Figure(text, WorthFigure.COST, row.rig_id, value=price.value), " still to buy")
            )
        if parts:
            found.append(
                sentence(f"verdict.rig.{row.rig_id}", f"{row.column.name}: ", joined(parts), ".")
            )
    return tuple(found)


def _change(change: float, figure: str, rig_id: str, value: float, base: str) -> Figure:
    return Figure(percent_text(change, signed=True), figure, rig_id, value=value, base=base)


def _called(audience: Audience) -> str:
    """An audience inside a sentence: names further on keep their letters."""
    return audience.name[:1].lower() + audience.name[1:]


def _audience_sentences(worth: Worth, audience: Audience, key: str) -> tuple[Sentence, ...]:
    judged = judgements(worth, audience)
    if not any(one.checks for one in judged):
        words = f"For {_called(audience)} no line is drawn, so nothing is recommended."
        return (sentence(f"{key}.none", words),)
    name = _called(audience)
    found = []
    yes = [one for one in judged if one.makes_sense is True]
    if yes:
        only = yes[0]
        held = (f"{only.row.column.name} (", joined([_held(c) for c in only.checks], ", "), ")")
        names = held if len(yes) == 1 else (list_text([one.row.column.name for one in yes]),)
        verb = " makes sense" if len(yes) == 1 else " make sense"
        found.append(sentence(f"{key}.yes", f"For {name} ", *names, f"{verb}."))
        for one in yes if len(yes) > 1 else ():
            if one.is_just:
                crossing = joined([_held(check) for check in one.checks if check.crosses], "; ")
                place = f"{key}.just.{one.row.rig_id}"
                found.append(sentence(place, f"{one.row.column.name}: ", crossing, "."))
        if len(yes) > 1:
            found.append(_extremes(worth, yes, f"{key}.best"))
    else:
        found.append(sentence(f"{key}.yes", f"For {name} no rig holds every line."))
    for one in judged:
        if one.makes_sense is False:
            failed = [check for check in one.checks if check.holds is False]
            found.append(
                sentence(
                    f"{key}.{one.row.rig_id}",
                    f"Not {one.row.column.name}: ",
                    joined([_failed(check) for check in failed], "; "),
                    ".",
                )
            )
        elif one.makes_sense is None:
            missing = dict.fromkeys(
                what for c in one.checks if c.holds is None for what in c.answer.missing
            )
            found.append(
                sentence(
                    f"{key}.{one.row.rig_id}",
                    f"{one.row.column.name} stays open: ",
                    joined([(what,) for what in missing] or [("a figure",)]),
                    " is not known.",
                )
            )
    return tuple(found)


def _extremes(worth: Worth, yes: Sequence[Judgement], key: str) -> Sentence:
    """Of several that make sense: which costs least and which gives most."""
    rows = [one.row for one in yes]
    cheap = min(rows, key=lambda row: _or(row.value(WorthFigure.COST), float("inf")))
    fast = max(rows, key=lambda row: _or(row.value(WorthFigure.FRAMES), 0.0))
    parts = []
    for row, says, figure in (
        (cheap, " costs least (", WorthFigure.COST),
        (fast, " is the fastest (", WorthFigure.FRAMES),
    ):
        answer = row.figures[figure]
        if answer.value is not None:
            text = figure_text(answer, figure, worth.currency)
            parts.append(
                (row.column.name, says, Figure(text, figure, row.rig_id, value=answer.value), ")")
            )
    if not parts:
        return sentence(key, "Neither price nor speed of these is known.")
    return sentence(key, "Of these ", joined(parts, " and "), ".")


def _or(value: float | None, otherwise: float) -> float:
    return otherwise if value is None else value


def _held(check: LineCheck) -> tuple[Span, ...]:
    if check.crosses:
        return (
            f"{check.says} just held, ",
            check.figure,
            f" (95\u202f% {check.crosses}) where {check.limit} is asked",
        )
    return (f"{check.says} ", check.figure)


def _failed(check: LineCheck) -> tuple[Span, ...]:
    way = "over" if check.at_most else "under"
    if check.crosses:
        way = f"just {way}"
        return (
            f"{check.says} ",
            check.figure,
            f" (95\u202f% {check.crosses}), {way} the {check.limit} asked",
        )
    return (f"{check.says} ", check.figure, f", {way} the {check.limit} asked")


def verdict_line(worth: Worth) -> str:
    """For whom what makes sense, in one line."""
    if not worth.review.audiences:
        return "Say where your lines lie, for whom, and each rig is held against them."
    audience = worth.review.audiences[0]
    judged = judgements(worth, audience)
    yes = [f"{one.row.column.name}{' (just)' * one.is_just}" for one in judged if one.makes_sense]
    still_open = [one.row.column.name for one in judged if one.makes_sense is None]
    name = _called(audience)
    if yes:
        said = f"For {name} {list_text(yes)} {'makes' if len(yes) == 1 else 'make'} sense"
    else:
        said = f"For {name} no rig holds every line"
    if still_open:
        said += f"; {list_text(still_open)} {'stays' if len(still_open) == 1 else 'stay'} open"
    return f"{said}."
