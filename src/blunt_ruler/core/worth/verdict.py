"""For whom a rig makes sense: a reviewer's lines against its figures."""

from collections.abc import Callable
from dataclasses import dataclass

from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.records.pricing import Audience
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.sentences import Figure
from blunt_ruler.core.text import amount, percent_text
from blunt_ruler.core.worth.answers import Answer, asked, known, unknown
from blunt_ruler.core.worth.figures import WorthFigure, money_text
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
            return "narrowly"
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
    "docking_at_most_min": "docking",
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

    def docking(row: WorthRow) -> tuple[Answer, str, str]:
        minutes = row.figures[WorthFigure.DOCKING].value
        what = f"the minutes that docking {row.column.name} takes"
        return asked(minutes, what), WorthFigure.DOCKING, ""

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
        "docking_at_most_min": ("docking", docking, True, in_unit("min")),
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
