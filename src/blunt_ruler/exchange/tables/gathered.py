"""The cells of a sheet out of the figures that were found, rig by rig and case by case."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import median

from blunt_ruler.core.records.records import Meters
from blunt_ruler.core.runs.entry import BadEntry, entry_text, parse_entry
from blunt_ruler.exchange.tables.arithmetic import Number
from blunt_ruler.exchange.tables.asking import Asked
from blunt_ruler.exchange.tables.cells import Marks, is_outcome
from blunt_ruler.exchange.tables.lines import COUNTED
from blunt_ruler.exchange.tables.roles import NO_RIG, NO_TITLE
from blunt_ruler.exchange.tables.sheet import RATES, SCORES, SheetCell

MOST_RATE = 1000.0  # frames per second: beyond it a score is likelier (common practice, no source)
WEAK = frozenset(["overall", "total", "index"])  # at the end of a name: of a score, likely
PARTS = frozenset(["overall", "graphics", "cpu", "gpu", "physics", "combined", "total"])


@dataclass(slots=True)
class Found:
    """What was found for one rig and case."""

    score: bool = False
    percent: bool = False
    passes: list[dict[str, str]] = field(default_factory=list)
    meters: dict[str, float] = field(default_factory=dict)
    where: str = ""
    unit: str = ""  # of a score: blank for points
    is_rate: bool = False  # a head says so


class Gathered:
    """Figures by rig and case as they are found."""

    def __init__(self, asked: Asked, marks: Marks, source: str) -> None:
        self._asked, self._marks, self._source = asked, marks, source
        self._found: dict[tuple[str, str], Found] = {}
        self._measured: dict[tuple[str, str], Found] = {}
        self._seen: dict[tuple[str, str], None] = {}  # in the order of the table
        self._doubtful: dict[str, None] = {}

    def of(self, rig: str, case: str, where: str) -> Found:
        """What was found for a rig and case so far."""
        self._seen[rig, case] = None
        return self._found.setdefault((rig, case), Found(where=where))

    def put(
        self,
        cell: Found,
        statistic: str,
        text: str,
        counted: Sequence[tuple[str, str]],
        *,
        is_rate: bool,
    ) -> None:
        """One figure of a cell; another of its kind is another pass."""
        if not cell.passes or statistic in cell.passes[-1]:
            cell.passes.append(dict(counted))
        cell.passes[-1][statistic] = text
        cell.is_rate = cell.is_rate or is_rate
        if not cell.score:
            doubtful = [one for one in self._marks.doubtful if one in text]
            if is_rate:
                doubtful = [one for one in doubtful if self._marks.of_rate(one) == one]
            self._doubtful |= dict.fromkeys(doubtful)

    def measure(self, rig: str, case: str, where: str, text: str, unit: str) -> None:
        """A figure of a test that is told in a unit; another of its kind is another pass."""
        self._seen[rig, case] = None
        cell = self._measured.setdefault((rig, case), Found(True, where=where, unit=unit))
        cell.passes.append({"average": text})

    def _with_measured(self) -> dict[tuple[str, str], Found]:
        """All that was found: what has frame rates too is a game, and its seconds beside them."""
        rated = {title_of(case) for (_, case), found in self._found.items() if found.passes}
        kept = {}
        for key in self._seen:
            found = self._measured.get(key)
            if found is not None and title_of(key[1]) in rated:
                self._asked.leave(f"{key[1]} in {found.unit}", "another quantity")
                found = None
            if (either := found or self._found.get(key)) is not None:
                kept[key] = either
        return kept

    def cells(self) -> tuple[SheetCell, ...]:
        """The cells, each in the notation."""
        thousands = False
        if self._doubtful:
            first = next(iter(self._doubtful))
            joined, parted = re.sub(r"\D", "", first), first.replace(",", ".")
            words = f"Is “{first}” {joined}, or {parted}?"
            proposed = joined if "," in first else parted
            answer = self._asked.ask("marks", words, (joined, parted), proposed=proposed)
            thousands = answer == joined
        read = [self._cell(key, found, thousands) for key, found in self._with_measured().items()]
        return tuple(self._scores([cell for cell in read if cell is not None]))

    def _cell(self, key: tuple[str, str], found: Found, thousands: bool) -> SheetCell | None:
        rig, case = key
        if found.percent and "published by" not in rig.lower():
            rig = f"{rig}, published by {self._source}"
        meters = Meters(**found.meters) if found.meters else None
        start = SheetCell(
            rig, case, "", "", found.score, found.percent, (), meters, found.where, found.unit
        )
        passes = [
            {name: self._plain(text, found.score or thousands) for name, text in one.items()}
            for one in found.passes
        ]
        start = replace(start, passes=tuple(passes))
        nameless = NO_RIG in rig and "rig" not in self._asked.questions
        if nameless or (case == NO_TITLE and "case" not in self._asked.questions):
            text = next(iter(passes[0].values())) if passes else ""
            what = "rig" if nameless else "title"
            return replace(start, text=text, wrong=f"It names no {what}.")
        if not passes:
            return replace(start, wrong="It holds no frame rate.") if found.meters else None
        words = []
        for one in passes:
            what = self._percentile(one)
            if what:
                return replace(start, text=one["p99"], wrong=what)
            if "average" not in one:
                name, text = next((n, t) for n, t in one.items() if n not in COUNTED)
                name = {"low": "1% low", "low_01": "0.1% low"}.get(name, name)
                return replace(start, text=text, wrong=f"It has a {name} and no average.")
            words.append(_pass_text(one))
        named = any(word.startswith("avg") for word in words)
        text = "; ".join(words) if named else " ".join(words)
        return checked(replace(start, text=_shortest(text)))

    def _plain(self, text: str, thousands: bool) -> str:
        if is_outcome(text):
            return text if text.lower().startswith("no") and ":" in text else f"no: {text}"
        text = re.sub(r"\s*(?:points?|pts\.?|punkte|puntos)$", "", text, flags=re.I)
        return self._marks.plain(text, thousands)

    def _percentile(self, one: dict[str, str]) -> str:
        """A 99th percentile becomes the 1% low where it is below the average; else why not."""
        if "p99" not in one:
            return ""
        average, value = (
            number_in(self._marks, one.get("average", "")),
            number_in(self._marks, one["p99"]),
        )
        if average is None or value is None or value[0] > average[0]:
            return "Its 99th percentile is above its average: is it a frame time?"
        one.setdefault("low", one.pop("p99"))
        return ""

    def _scores(self, cells: list[SheetCell]) -> list[SheetCell]:
        """Figures that look like scores, asked about case by case."""
        figures: dict[str, list[float]] = {}
        for cell in cells:
            if not cell.score and not cell.percent and cell.passes:
                found = re.search(r"\d+(?:\.\d+)?", cell.passes[0].get("average", ""))
                figures.setdefault(cell.case, []).extend([float(found[0])] if found else [])
        ends: dict[str, set[str]] = {}
        parted = {case: _first_and_last(case) for case in figures}
        for first, last in parted.values():
            ends.setdefault(first, set()).add(last)
        by_word = {cell.case for cell in cells if cell.score} - figures.keys()
        rates = {case for (_, case), found in self._found.items() if found.is_rate}
        tests = self._asked.known.tests
        by_word |= {case for case in figures.keys() - rates if title_of(case) in tests}
        likely = [
            case
            for case, each in figures.items()
            if (each and median(each) > MOST_RATE)
            or (each and len(ends[parted[case][0]] & PARTS) > 1)
            or (parted[case][0] and parted[case][1] in WEAK)
        ]
        # Where half of a table may be scores, the rest may be scores below a thousand; a
        # resolution or a preset speaks for a game.
        rest = {case for case in figures if " / " not in case} if likely else set()
        asked = {*likely, *(rest if 2 * len(likely) >= len(figures) else ())}
        chosen = {cell.case for cell in cells if cell.unit}
        for case in dict.fromkeys(cell.case for cell in cells if not (cell.percent or cell.unit)):
            if case not in asked and case not in by_word:
                continue
            answer = self._asked.ask(
                case,
                f"Is {case} a score, or a frame rate? Scores join no mean of games.",
                (SCORES, RATES),
                sure=SCORES if case in by_word else "",
                proposed=SCORES,
                cases=[case],
                group="scores",
            )
            if answer == SCORES and not self._asked.is_open(case):
                chosen.add(case)
        return [
            checked(replace(cell, score=cell.case in chosen))
            if cell.passes and cell.score != (cell.case in chosen)
            else cell
            for cell in cells
        ]


_PLAIN = re.compile(r"[1-9]\d{0,3}(?:\.\d{1,2})?")  # an entry of one figure, in any notation


def checked(cell: SheetCell) -> SheetCell:
    """A cell with what is wrong with it."""
    if _PLAIN.fullmatch(cell.text):
        return replace(cell, wrong="") if cell.wrong else cell
    try:
        parse_entry(cell.text, score=cell.score)
    except BadEntry as error:
        return replace(cell, wrong=str(error))
    return replace(cell, wrong="")


def _pass_text(one: Mapping[str, str]) -> str:
    """One pass in the notation, by name where it has more than an average."""
    names = ("average", "low", "low_01", "minimum", "maximum")
    average, *others = (one.get(name, "") for name in names)
    if "/" in average or not any(others):
        return average
    named = zip(("avg", "1%", "0.1%", "min", "max"), (average, *others), strict=True)
    return " ".join(f"{name} {said}" for name, said in named if said)


def _shortest(text: str) -> str:
    """An entry without names where its figures need none."""
    try:
        return entry_text(parse_entry(text)) if "avg" in text else text
    except BadEntry:
        return text


def title_of(case: str) -> str:
    """The title of a case in lower case."""
    return case.partition(" / ")[0].lower()


def _first_and_last(case: str) -> tuple[str, str]:
    first, _, last = case.replace("/", " ").lower().strip().rpartition(" ")
    return first.strip(), last


def number_in(marks: Marks, text: str) -> Number:
    """A plain number and the step of its last digit; None for a cell that holds another."""
    text = re.sub(r"\s*(?:fps|ms|%|[x×])$", "", marks.plain(text, True), flags=re.I)
    text = text.replace("−", "-").replace("–", "-").lstrip("+x× ").replace(",", ".")
    if re.fullmatch(r"-?\d+(?:\.\d+)?", text) is None:
        return None
    return float(text), 10.0 ** -len(text.partition(".")[2])
