"""What is so: any rig against any other in any measure, its rates, and what is described of it.

Comparisons are those of the claims, over all titles as the Board takes them, or over some cases.
"""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from pydantic import BaseModel

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Column, build_board
from blunt_ruler.core.claims.claim import Claim, Metric, Question
from blunt_ruler.core.claims.names import base_words, capital_subject
from blunt_ruler.core.claims.offer import Claims, claims_on
from blunt_ruler.core.claims.speak import WORDS, predicate, times_words
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.records.records import Decision, Role
from blunt_ruler.core.runs.score_parts import split_key
from blunt_ruler.core.script.mentions import LOW_01, Vocabulary
from blunt_ruler.core.script.named import Roles
from blunt_ruler.core.script.numerals import Unit
from blunt_ruler.core.script.statements import Kind, Reading
from blunt_ruler.core.sentences import plain
from blunt_ruler.core.text import count_text, fps_text, list_text, percent_text
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_text

_LISTED = 3


@dataclass(frozen=True, slots=True)
class Found:
    """A ratio of two rigs over a scope: its 95 % interval, and the least and most of its titles."""

    ratio: float
    standing: Standing
    low: float | None = None
    high: float | None = None
    least: float | None = None
    most: float | None = None
    claim: Claim | None = None


@dataclass(frozen=True, slots=True)
class Rate:
    """A cell's figure: of which case, and how it is bounded."""

    case: str
    value: float
    bound: Bound = Bound.POINT


@dataclass(frozen=True, slots=True)
class Fact:
    """Something that is described or reckoned of some rigs; none of them for all.

    `cues` are words that ask for just this, where several facts share a unit.
    """

    value: float
    unit: Unit
    words: str
    rigs: frozenset[str]
    cues: tuple[str, ...] = ()
    text: str = ""
    case: str = ""


WHOLE = "overall"
_PLAIN_PARTS = frozenset(
    """
    graphics cpu gpu memory card system disk core cores single multi overall total combined average
    mean score result test speed frames
    """.split()
)
"""Words that a sentence has for other reasons than to name a part of a test."""


def _part_of(case: str) -> str:
    """The part of a test that a row is of."""
    return split_key(case)[1].lower() or WHOLE


class Truths:
    """What the logbook knows of one review, looked up reading by reading."""

    def __init__(self, analysis: Analysis) -> None:
        self.analysis, self.board = analysis, analysis.board
        self.claims, self.contents = analysis.claims, analysis.contents
        self.scores = analysis.scores.board
        self.vocabulary = Vocabulary(
            self.contents, self.board, self.scores.rows, self.telling_parts
        )
        self._found: dict[Reading, Found | None] = {}
        self._before: dict[str, Claims] = {}

    @cached_property
    def roles(self) -> Roles:
        """Who is base, reference and under test, and whom each one's loss is held to."""
        board, of = self.board, self.claims.pairings
        return Roles(
            base=board.base.rig_id if board.base else "",
            reference=board.reference.rig_id if board.reference else "",
            tested=tuple(one.rig_id for one in board.columns if one.role is Role.TESTED),
            twins={
                one.rig_id: tuple(other.rig_id for other, _ in of.lost_against(one))
                for one in board.columns
            },
            cards={one.rig_id: card for one in board.columns if (card := of.card(one))},
        )

    @cached_property
    def tests(self) -> frozenset[str]:
        """Titles that are synthetic tests."""
        return frozenset(row.title for row in self.scores.rows)

    @cached_property
    def parts(self) -> frozenset[str]:
        """What parts of synthetic tests are called, in small letters."""
        parts = {split_key(row.case_id)[1].lower() for row in self.scores.rows}
        return frozenset(parts - {""})

    @cached_property
    def telling_parts(self) -> dict[str, frozenset[str]]:
        """Parts whose names mean nothing else, each with the tests that have it."""
        found: dict[str, set[str]] = defaultdict(set)
        for row in self.scores.rows:
            found[split_key(row.case_id)[1].lower()].add(row.title)
        return {
            part: frozenset(tests)
            for part, tests in found.items()
            if part and not _PLAIN_PARTS & {*part.split()}
        }

    @cached_property
    def sizes(self) -> tuple[str, ...]:
        """The resolutions of the review."""
        return tuple(dict.fromkeys(row.resolution for row in self.board.rows if row.resolution))

    def column(self, rig_id: str) -> Column | None:
        """A rig of the review."""
        return self.board.column(rig_id)

    def name(self, rig_id: str) -> str:
        """A rig as a sentence calls it."""
        column = self.column(rig_id)
        return "" if column is None else base_words(column)

    def subject(self, rig_id: str) -> str:
        """A rig at the beginning of a sentence."""
        column = self.column(rig_id)
        return "" if column is None else capital_subject(column, self.board.columns)

    # Over what

    def cases(self, reading: Reading) -> frozenset[str] | None:
        """The cases that a reading is over; None for all, empty where there is none."""
        scope = (reading.titles, reading.size, reading.preset, reading.without, reading.part)
        if not any(scope):
            return None
        rows = self.scores.rows if reading.metric == Metric.SCORE else self.board.rows
        found = []
        for row in rows:
            preset = self.contents.cases[split_key(row.case_id)[0]].preset.strip().lower()
            if (
                (not reading.titles or row.title in reading.titles)
                and (not reading.size or row.resolution == reading.size)
                and (not reading.preset or preset == reading.preset)
                and row.title not in reading.without
                and (not reading.part or _part_of(row.case_id) == reading.part)
            ):
                found.append(row.case_id)
        return frozenset(found)

    def where(self, reading: Reading) -> str:
        """“ in Tidewrack at 1440p”, “ on average over 6 titles”; blank for nothing to add."""
        said = f" in {list_text(sorted(reading.titles))}" if reading.titles else ""
        if reading.part not in ("", WHOLE):
            said += f", {reading.part}"
        if reading.size:
            said += f" at {reading.size}"
        if reading.preset:
            said += f", {reading.preset}"
        return said

    # Comparisons

    def compared(self, reading: Reading) -> Found | None:
        """One rig over another, as a ratio; None where they share nothing of it."""
        key = Reading(Kind.MORE, reading.rig, reading.base, reading.metric, reading.titles,
                      reading.size, reading.preset, without=reading.without,
                      part=reading.part)  # fmt: skip
        if key not in self._found:
            self._found[key] = self._compared(key)
        return self._found[key]

    def _compared(self, r: Reading) -> Found | None:
        subject, other = self.column(r.rig), self.column(r.base)
        if subject is None or other is None or r.rig == r.base:
            return None
        if r.metric in _WORTH_RATIOS:
            return self._of_worth(r)
        cases = self.cases(r)
        if cases is not None and not cases:
            return None
        if r.metric == LOW_01 or (r.metric == Metric.SCORE and cases is not None):
            return self._of_cells(r, cases)
        if r.metric not in (Metric.AVERAGE, Metric.LOW, Metric.SCORE):
            return None
        gains = other.role is Role.BASE
        question = Question.GAIN if gains else Question.LOSS
        claim = self.claims.compared(question, subject, other, Metric(r.metric), cases, r.size)
        if claim is None or claim.value is None:
            return None
        ratios = [one.value for one in claim.titles if one.bound is Bound.POINT]
        if cases is not None and len(r.titles) == 1 and len(cases) > 1:
            ratios = [one.ratio for case in sorted(cases) if (one := self._one_case(r, case))]
        return Found(
            claim.value.ratio,
            claim.standing,
            claim.value.low,
            claim.value.high,
            min(ratios, default=None),
            max(ratios, default=None),
            claim,
        )

    def _of_worth(self, r: Reading) -> Found | None:
        """What one rig costs, draws or weighs over another."""
        rows = [self.analysis.worth.row(rig) for rig in (r.rig, r.base)]
        values = [row.value(WorthFigure(r.metric)) if row is not None else None for row in rows]
        if not values[0] or not values[1]:
            return None
        return Found(values[0] / values[1], Standing.CLEAR)

    def _one_case(self, r: Reading, case: str) -> Found | None:
        pair = [self._rate_of(rig, case, r.metric) for rig in (r.rig, r.base)]
        if pair[0] is None or pair[1] is None or not pair[1]:
            return None
        return Found(pair[0] / pair[1], Standing.CLEAR)

    def ends_by_case(self, r: Reading) -> tuple[float | None, float | None]:
        """The least and most ratio of a single case of a reading; None where there is none."""
        cases = self.cases(r)
        every = [row.case_id for row in self.board.rows if cases is None or row.case_id in cases]
        ratios = [one.ratio for case in every if (one := self._one_case(r, case)) is not None]
        return min(ratios, default=None), max(ratios, default=None)

    def ratio_of_all(self, r: Reading) -> float | None:
        """The ratio over all cases, those that are left out as unsound among them."""
        found = self._of_cells(r, self.cases(r))
        return found.ratio if found is not None else None

    def _of_cells(self, r: Reading, cases: frozenset[str] | None) -> Found | None:
        """Where there is no claim: the ratios of the cells, their geometric mean."""
        rows = self.scores.rows if r.metric == Metric.SCORE else self.board.rows
        every = [row.case_id for row in rows if cases is None or row.case_id in cases]
        if r.metric == Metric.SCORE:
            whole = [key for key in every if not split_key(key)[1]]
            every = whole or every
        lower = {row.case_id for row in rows if row.lower_is_better}
        logs = []
        for case in every:
            one, other = (self._rate_of(rig, case, r.metric) for rig in (r.rig, r.base))
            if one and other:
                logs.append(math.log(one / other) * (-1.0 if case in lower else 1.0))
        if not logs:
            return None
        ratio = math.exp(math.fsum(logs) / len(logs))
        how = Standing.CLEAR if abs(math.log(ratio)) > 0.02 else Standing.LEVEL
        return Found(ratio, how, least=math.exp(min(logs)), most=math.exp(max(logs)))

    def _rate_of(self, rig: str, case: str, metric: str) -> float | None:
        if metric == Metric.SCORE:
            cell = self.scores.cells.get((rig, case))
            return cell.average_fps if cell is not None else None
        cell = self.board.cells.get((rig, case))
        if cell is None:
            return None
        known: dict[str, float | None] = {
            Metric.AVERAGE: cell.average_fps,
            Metric.LOW: cell.low_1_fps,
            LOW_01: cell.low_01_fps,
        }
        return known.get(metric)

    def rates(self, reading: Reading) -> list[Rate]:
        """The figures of a rig's cells over a reading's cases."""
        cases = self.cases(reading)
        scored = reading.metric == Metric.SCORE
        board = self.scores if scored else self.board
        found = []
        for row in board.rows:
            if cases is not None and row.case_id not in cases:
                continue
            value = self._rate_of(reading.rig, row.case_id, reading.metric)
            if value is not None:
                cell = board.cells[reading.rig, row.case_id]
                bound = cell.low_bound if reading.metric == Metric.LOW else cell.bound
                found.append(Rate(row.case_id, value, bound))
        return found

    def case_words(self, case: str) -> str:
        """A case as a sentence names it: “in Tidewrack at 1080p”."""
        rows = {row.case_id: row for row in (*self.board.rows, *self.scores.rows)}
        row = rows[case]
        alike = {one.resolution for one in self.board.rows}
        size = f" at {row.resolution}" if row.resolution and len(alike) > 1 else ""
        same = [
            one
            for one in rows.values()
            if (one.title, one.resolution) == (row.title, row.resolution)
        ]
        settings = f", {row.settings}" if len(same) > 1 and row.unit == "" else ""
        part = f", {split_key(case)[1]}" if split_key(case)[1] else ""
        return f"in {row.title}{part}{size}{settings}"

    # In words

    def sentence(self, reading: Reading, found: Found) -> str:
        """The truth of a reading as a sentence, told the way it was said."""
        subject, other = self.subject(reading.rig), self.name(reading.base)
        if reading.metric in _WORTH_RATIOS:
            verb, more, less = _WORTH_RATIOS[reading.metric]
            way = more if found.ratio >= 1.0 else less
            return f"{subject} {verb} {percent_text(abs(found.ratio - 1.0))} {way} than {other}."
        metric = Metric(reading.metric) if reading.metric in [*Metric] else Metric.LOW
        claim, where = found.claim, self.where(reading)
        if claim is not None and len(claim.scope.titles) > 1 and not reading.titles:
            what = "test" if metric is Metric.SCORE else "title"
            where += f" on average over {count_text(len(claim.scope.titles), what)}"
        if claim is not None and (
            found.standing in (Standing.LEVEL, Standing.OPEN) or claim.bound is not Bound.POINT
        ):
            return f"{subject} {plain(predicate(claim))}{where}."
        more, less, times, verb = WORDS[metric]
        if reading.metric == LOW_01:
            verb = "has 0.1% lows"
        whom = f"those of {other}" if metric is Metric.LOW else other
        kept = {Metric.LOW: "1% lows", Metric.SCORE: "score"}.get(metric, "speed")
        match reading.kind:
            case Kind.KEPT if found.ratio < 1.0:
                said = f"keeps {percent_text(found.ratio)} of the {kept} of {other}"
            case Kind.TIMES | Kind.SLOWER_TIMES if found.ratio >= 1.0:
                said = f"{verb} {times_words(found.ratio)} times {times} {whom}"
            case _:
                way = more if found.ratio >= 1.0 else less
                said = f"{verb} {percent_text(abs(found.ratio - 1.0))} {way} than {whom}"
        return f"{subject} {said}{where}."

    def rate_sentence(self, reading: Reading, rates: Sequence[Rate]) -> str:
        """The rates of a reading as a sentence."""
        what = {Metric.LOW: "a 1% low of ", LOW_01: "a 0.1% low of ", Metric.SCORE: "a score of "}
        told = what.get(reading.metric, "an average of ")
        unit = "" if reading.metric == Metric.SCORE else " fps"
        values = [
            f"{self.rate_text(one.value, reading.metric)}{unit} {self.case_words(one.case)}"
            for one in rates[:_LISTED]
        ]
        more = f" and {len(rates) - _LISTED} more" if len(rates) > _LISTED else ""
        return f"{self.subject(reading.rig)} has {told}{list_text(values)}{more}."

    def cases_with_rates(self, rates: Sequence[Rate], metric: str) -> str:
        """Cases with their rates, the first three by name: “in Tidewrack at 1080p (68.9)”."""
        told = [f"{self.case_words(one.case)} ({self.rate_text(one.value, metric)})"
                for one in rates[:_LISTED]]  # fmt: skip
        more = f" and {len(rates) - _LISTED} more" if len(rates) > _LISTED else ""
        return f"{list_text(told)}{more}"

    @staticmethod
    def rate_text(value: float, metric: str) -> str:
        """A rate or a score without its unit."""
        if metric == Metric.SCORE:
            return f"{value:.0f}" if value >= 100 else f"{value:.1f}"
        return fps_text(value)

    # What is described

    @cached_property
    def facts(self) -> tuple[Fact, ...]:
        """Everything with a number that is described of a rig, or reckoned of it."""
        return (
            *self._worth_facts(),
            *self._wall_facts(),
            *self._described(),
            *self._prices(),
        )

    def _worth_facts(self) -> Iterator[Fact]:
        worth = self.analysis.worth
        for row in worth.rows:
            for figure, answer in row.figures.items():
                unit = _WORTH_UNITS.get(FIGURES[figure].unit)
                if answer.value is None or unit is None:
                    continue
                text = figure_text(answer, figure, worth.currency)
                yield Fact(answer.value, unit, FIGURES[figure].words, frozenset({row.rig_id}),
                           _CUES.get(figure, ()), text)  # fmt: skip

    def _wall_facts(self) -> Iterator[Fact]:
        for (rig, case), cell in self.board.cells.items():
            if cell.wall_w is not None:
                words = f"power at the wall {self.case_words(case)}"
                cues = ("wall", "playing", "load", "draw", "draws", "socket", "meter")
                yield Fact(cell.wall_w, Unit.WATTS, words, frozenset({rig}), cues, case=case)

    def _described(self) -> Iterator[Fact]:
        of = self.contents
        for column in self.board.columns:
            rig = of.rigs.get(column.rig_id)
            if rig is None:
                continue
            one = frozenset({column.rig_id})
            link = of.link_of(column.rig_id)
            records = (of.host_of(column.rig_id), of.card_of(column.rig_id),
                       of.dock_of(column.rig_id), link, rig, rig.state)  # fmt: skip
            for record in records:
                if record is not None:
                    yield from _quantities(record, one)
            for hop in link.hops if link is not None else ():
                for value, unit in ((hop.tunnel_gbps, Unit.BITS), (hop.lanes, Unit.LANES)):
                    if value is not None:
                        yield Fact(float(value), unit, f"{hop.name}", one)
            if column.link_gb_per_s is not None:
                yield Fact(column.link_gb_per_s, Unit.RATE, "what the link carries", one)
            if rig.screen is not None:
                yield Fact(rig.screen.refresh_hz, Unit.REFRESH, "refresh rate", one)

    def _prices(self) -> Iterator[Fact]:
        for price in self.contents.prices.values():
            if price.amount is not None:
                yield Fact(price.amount, Unit.MONEY, "a price that was noted", frozenset())

    @cached_property
    def counts(self) -> Mapping[Unit, frozenset[int]]:
        """How many there are of what is counted in words without a comparison."""
        rows = [row for row in self.board.rows if row.kind == "game"]
        titles = {row.title for row in rows}
        counted = sum(cell.runs for cell in self.board.cells.values())
        taken = sum(len(runs) for runs in self.board.runs.values())
        columns = self.board.columns
        shared = {
            len(titles)
            for total in self.board.totals.values()
            for mean in (total.over_base, total.of_reference)
            if mean is not None
            for titles in (mean.titles, mean.over_titles)
        }
        per_cell = {cell.runs for cell in self.board.cells.values()}
        tested = sum(one.role is Role.TESTED for one in columns)
        return {
            Unit.TITLES: frozenset({len(titles), *shared}),
            Unit.CASES: frozenset({len(self.board.rows), len(rows)}),
            Unit.RUNS: frozenset({counted, taken, *per_cell}),
            Unit.PASSES: frozenset({counted, taken, *per_cell}),
            Unit.RIGS: frozenset({len(columns), tested}),
            Unit.TESTS: frozenset({len(self.tests)}),
        }

    def set_aside(self, reading: Reading) -> list[str]:
        """Ids of runs of a reading's cells that were not kept."""
        cases = self.cases(reading)
        found = []
        for (rig, case), runs in self.board.runs.items():
            if rig in (reading.rig, reading.base) and (cases is None or case in cases):
                found += [run.id for run in runs if run.decision is not Decision.KEEP]
        return found

    def before_set_aside(self, run_id: str) -> Claims:
        """What could be claimed while a run that is set aside now still counted."""
        if run_id not in self._before:
            kept = self.contents.runs[run_id].model_copy(update={"decision": Decision.KEEP})
            contents = self.contents.with_records({"runs": {run_id: kept}})
            unsound = unsound_words(self.analysis.checked, self.analysis.handover)
            board = build_board(contents, self.analysis.review, unsound)
            self._before[run_id] = claims_on(contents, board, unsound)
        return self._before[run_id]


_WORTH_RATIOS = {
    "cost": ("costs", "more", "less"),
    "load_w": ("draws", "more at the wall", "less at the wall"),
    "weight_kg": ("weighs", "more", "less"),
}
_WORTH_UNITS = {
    "money": Unit.MONEY, "W": Unit.WATTS, "dB(A)": Unit.NOISE, "kg": Unit.WEIGHT, "l": Unit.VOLUME,
    "°C": Unit.HEAT, "kWh": Unit.ENERGY, "cables": Unit.CABLES,
}  # fmt: skip
_CUES = {
    WorthFigure.COST: ("cost", "costs", "buy", "bought", "price", "for", "spend", "pay",
                       "set you back", "sets you back", "set me back", "asks"),
    WorthFigure.VALUE: ("all parts", "altogether", "with what", "owned"),
    WorthFigure.PER_FRAME: ("per frame", "each frame per second", "a frame"),
    WorthFigure.PER_LOW: ("low frame",),
    WorthFigure.PER_GAINED: ("gained frame", "each gained", "per gained", "frame gained",
                             "extra frame", "frame it gains", "frame you gain", "frame you win",
                             "frame you get on top", "additional frame", "a frame", "per frame",
                             "every frame"),
    WorthFigure.PER_GAINED_LOW: ("gained low",),
    WorthFigure.MONTHLY: ("a month", "per month", "monthly"),
    WorthFigure.ENERGY_COST: ("energy", "electricity"),
    WorthFigure.IDLE_W: ("idle", "idles", "idling"),
    WorthFigure.LOAD_W: ("wall", "playing", "load", "draws", "draw", "socket"),
    WorthFigure.NOISE: ("noise", "loud", "quiet", "decibel", "sit"),
    WorthFigure.WEIGHT: ("weigh", "weighs", "all of it"),
    WorthFigure.BESIDE: ("beside", "without the host", "on top", "adds"),
}  # fmt: skip
_RECORD_UNITS = {
    "W": Unit.WATTS, "GB": Unit.MEMORY, "kg": Unit.WEIGHT, "l": Unit.VOLUME, "mm": Unit.LENGTH,
    "°C": Unit.HEAT, "GB/s": Unit.RATE, "dB(A)": Unit.NOISE,
}  # fmt: skip
_RECORD_CUES = {
    "board power": ("board power", "card draws", "rated"),
    "memory": ("memory", "vram", "ram"),
    "supply": ("supply", "psu"),
}


def _quantities(record: BaseModel, rigs: frozenset[str]) -> Iterator[Fact]:
    """The quantities of a described part, with their units."""
    for name, field in type(record).model_fields.items():
        extra = field.json_schema_extra
        value = getattr(record, name)
        if not isinstance(extra, dict) or not isinstance(value, int | float):
            continue
        unit = _RECORD_UNITS.get(str(extra.get("unit", "")))
        if unit is not None:
            words = field.description or name.replace("_", " ")
            named = getattr(record, "name", "")
            told = f"{words} of {named}" if named else words
            text = f"{value:g} {extra.get('unit', '')}"
            yield Fact(float(value), unit, told, rigs, _RECORD_CUES.get(words, ()), text)
    cores = getattr(record, "cores", None)
    if cores is not None:
        yield Fact(float(cores), Unit.CORES, f"cores of {getattr(record, 'name', '')}", rigs)
