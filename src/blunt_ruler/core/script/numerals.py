"""Numbers in a sentence, in digits and in words: how much, of what unit, and how it is hedged.

Words are read by `text2num`; what it has no word for (twice, a third, two and a half times) is
read here.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from text_to_num import find_numbers


class Unit(StrEnum):
    """What a number counts."""

    PERCENT = "%"
    TIMES = "times"
    FPS = "fps"
    POINTS = "points"
    TITLES = "titles"
    CASES = "cases"
    RUNS = "runs"
    PASSES = "passes"
    RIGS = "rigs"
    TESTS = "tests"
    MONEY = "money"
    WATTS = "W"
    NOISE = "dB(A)"
    WEIGHT = "kg"
    VOLUME = "l"
    RATE = "GB/s"
    BITS = "Gb/s"
    MEMORY = "GB"
    LENGTH = "mm"
    HEAT = "°C"
    REFRESH = "Hz"
    TIME = "time"
    ENERGY = "kWh"
    LANES = "lanes"
    CORES = "cores"
    CABLES = "cables"
    NONE = ""


class Hedge(StrEnum):
    """How a number is softened."""

    NONE = ""
    ABOUT = "about"
    NEARLY = "nearly"
    GOOD = "a good"  # so much, and a little more
    OVER = "over"
    UNDER = "under"
    AT_LEAST = "at least"
    UP_TO = "up to"
    SMALLEST = "the smallest"
    LARGEST = "the largest"


@dataclass(frozen=True, slots=True)
class Number:
    """A number, or a range where `high` differs; `step` is the place of its last digit.

    `of` is what it is counted out of: five of seven. `sign` is that which stands before it.
    """

    start: int
    end: int
    low: float
    high: float
    step: float
    unit: Unit = Unit.NONE
    hedge: Hedge = Hedge.NONE
    of: int | None = None
    sign: int = 0
    is_word: bool = False  # a fraction or a multiple in words: half, twice

    @property
    def is_range(self) -> bool:
        """Whether it says from what to what."""
        return self.low != self.high


_UNITS: Sequence[tuple[Unit, str]] = (
    (Unit.PERCENT, r"%|per ?cent\b|percent(?:age points?)?\b|pct\b"),
    (Unit.FPS, r"fps\b|frames? (?:per|a|each|every) second\b|frames?/s(?:ec)?\b|frames?\b"),
    (Unit.TIMES, r"times\b|[x×](?![\w×])|-?fold\b"),
    (Unit.RATE, r"GB/s|GBps\b|gigabytes? (?:per|a) second\b"),
    (Unit.BITS, r"Gb/s|Gbps\b|Gbit/s|gigabits?(?: (?:per|a) second)?\b"),
    (Unit.MEMORY, r"GB\b|gigabytes?\b|gigs?\b"),
    (Unit.ENERGY, r"kWh\b|kilowatt[ -]hours?\b"),
    (Unit.WATTS, r"[Ww]\b|[Ww]atts?\b"),
    (Unit.NOISE, r"[dD][bB]\(?[aA]?\)?|decibels?\b"),
    (Unit.WEIGHT, r"kg\b|kilos?\b|kilograms?\b"),
    (Unit.LENGTH, r"mm\b|cm\b|millimet(?:re|er)s?\b|centimet(?:re|er)s?\b|met(?:re|er)s?\b|m\b"),
    (Unit.VOLUME, r"l\b|lit(?:re|er)s?\b"),
    (Unit.HEAT, r"°C|°|degrees?(?: celsius)?\b"),
    (Unit.REFRESH, r"hz\b|hertz\b"),
    (Unit.TIME, r"seconds?\b|secs?\b|s\b|minutes?\b|mins?\b|hours?\b|h\b|ms\b|milliseconds?\b|"
                r"days?\b|weeks?\b|months?\b|years?\b"),
    (Unit.LANES, r"lanes?\b"),
    (Unit.CORES, r"-?cores?\b"),
    (Unit.CABLES, r"cables\b|cords\b|leads\b"),
    (Unit.POINTS, r"points?\b|pts\b"),
    (Unit.TITLES, r"(?:\w+ )?(?:titles?|games?)\b"),
    (Unit.CASES, r"(?:\w+ )?cases?\b"),
    (Unit.RUNS, r"(?:\w+ )?runs?\b"),
    (Unit.PASSES, r"(?:\w+ )?pass(?:es)?\b"),
    (Unit.TESTS, r"(?:\w+ )?tests?\b|(?:\w+ )?benchmarks?\b"),
    (Unit.RIGS, r"(?:\w+ )?(?:rigs?|set-?ups?|machines?|configurations?)\b"),
)  # fmt: skip
_UNIT = re.compile(
    " ?-?(?:"
    + "|".join(f"(?P<u{place}>{pattern})" for place, (_, pattern) in enumerate(_UNITS))
    + ")"
)
COUNTED = (Unit.TITLES, Unit.CASES, Unit.RUNS, Unit.PASSES, Unit.TESTS, Unit.RIGS)
_CASED = (Unit.RATE, Unit.BITS, Unit.MEMORY)  # GB and Gb differ
_MONEY_BEFORE = re.compile(r"(?:[$€£¥]|\b(?:EUR|USD|GBP|CHF))\s?$", re.I)
_MONEY_AFTER = re.compile(
    r" ?(?:[$€£]|(?:euros?|eur|dollars?|usd|pounds?|gbp|quid|bucks|chf|francs?|cents?)\b)", re.I
)
_DIGITS = re.compile(
    r"(?<![\w.,])(?P<sign>[+-]|(?:\b(?:plus|minus) ))?"
    r"(?P<whole>\d{1,3}(?:[ ,]\d{3})+(?!\d)|\d{1,9})(?:[.,](?P<part>\d{1,4}))?(?![\d])",
    re.ASCII,
)
_CROSS = re.compile(r"[×x]\s?$")
_WORD = re.compile(r"[a-z]+", re.I)
_FRACTIONS = {"half": 2, "halves": 2, "third": 3, "quarter": 4, "fifth": 5, "sixth": 6,
              "seventh": 7, "eighth": 8, "tenth": 10}  # fmt: skip
_SMALL = {"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6,
          "seven": 7, "eight": 8, "nine": 9}  # fmt: skip
_FRACTION = re.compile(
    r"\b(?:(?P<count>an?|one|two|three|four|five|six|seven|eight|nine)[ -])?"
    r"(?P<part>half|halves|thirds?|quarters?|fifths?|sixths?|sevenths?|eighths?|tenths?)\b", re.I,
)  # fmt: skip
_MULTIPLE = re.compile(
    r"\b(?P<word>twice|thrice|doubl(?:e|es|ed|ing)|tripl(?:e|es|ed|ing)|quadrupl(?:e|es|ed|ing)|"
    r"halv(?:es|ed|ing))\b", re.I,
)  # fmt: skip
_MULTIPLES = {"tw": 2.0, "th": 3.0, "do": 2.0, "tr": 3.0, "qu": 4.0, "ha": 0.5}
_AND_PART = re.compile(r"\s+and (?:a |one |three )?(?P<part>half|third|quarter|quarters)\b", re.I)
_AND_PARTS = {"half": 0.5, "third": 1 / 3, "quarter": 0.25, "quarters": 0.75}
_OF = re.compile(
    r"\s+(?:(?:titles?|games?|tests?|cases?) )?(?:out )?of (?:the |these |those |all |our )?$", re.I
)
_TO = re.compile(r"\s?(?:%|per ?cent|percent|fps|x|×|times|frames(?: per second)?)?\s*"
                 r"(?:to|and|-|or)\s*$", re.I)  # fmt: skip
_BETWEEN = re.compile(r"\bbetween (?:about |around )?$", re.I)
_FROM = re.compile(r"\bfrom (?:about |around |just |only )?$", re.I)
_OR_MORE = re.compile(
    r"\s*(?:or (?:(?P<more>more|better|above|higher)|less|lower|fewer)|(?P<up>and up))\b", re.I
)
_MORE_OR_LESS = re.compile(r"\b(?:more or less|give or take|or thereabouts|roughly)\W*$", re.I)
HEDGES: Sequence[tuple[Hedge, str]] = (
    (Hedge.NEARLY, r"nearly|almost|close to|just under|not quite|just short of|just shy of"),
    (Hedge.AT_LEAST, r"at least|no less than|not less than"),
    (Hedge.UP_TO, r"up to|as much as|at most|at best|no more than|not more than"),
    (Hedge.OVER, r"(?:well |just |slightly |a little |a bit )?(?:over|above)|more than|upwards of"),
    (Hedge.UNDER, r"(?:well )?(?:under|below)|less than|fewer than"),
    (Hedge.GOOD, r"a (?:good|solid|cool)"),
    (Hedge.ABOUT, r"about|around|roughly|approximately|approx\.?|some|circa|~|≈|say|"
                  r"something like|in the region of"),
)  # fmt: skip
_HEDGE = re.compile(
    r"(?:^|[\s(])(?:"
    + "|".join(f"(?P<h{place}>{pattern})" for place, (_, pattern) in enumerate(HEDGES))
    + r")\s*(?:(?:a|an|the|by|only|just|its)\s)?\s*[$€£]?$",
    re.I,
)
_OR_SO = re.compile(r"^\s*(?:fps|%|per ?cent|percent|frames(?: per second)?|times)?\s*"
                    r"(?:or so|or thereabouts|give or take|-ish)\b", re.I)  # fmt: skip


def numbers(words: str) -> tuple[Number, ...]:
    """Every number of a sentence, in order; names and sizes are to be blanked out before."""
    found = [
        *_digits(words),
        *_spoken(words),
        *_written(words),
        *_fractions(words),
        *_multiples(words),
    ]
    found.sort(key=lambda one: (one.start, one.start - one.end))
    kept: list[Number] = []
    for one in found:
        if not kept or one.start >= kept[-1].end:
            kept.append(one)
    kept = [_with_part(words, one) for one in kept]
    kept = [one for place, one in enumerate(kept) if not place or one.start >= kept[place - 1].end]
    kept = [_with_unit(words, one) for one in kept]
    kept = [*_counted(words, kept)]
    kept = [*_ranges(words, kept)]
    kept = [_hedged(words, one) for one in kept]
    return tuple(one for one in kept if _is_number(words, one))


def _digits(words: str) -> Iterator[Number]:
    for one in _DIGITS.finditer(words):
        whole, part = one["whole"].replace(" ", "").replace(",", ""), one["part"]
        comma = part is not None and words[one.end() - len(part) - 1] == ","
        if comma and len(part) == 3:
            whole, part = whole + part, None
        value = float(f"{whole}.{part or 0}")
        sign = (one["sign"] or "").strip()
        yield Number(
            one.start(),
            one.end(),
            value,
            value,
            10.0 ** -len(part or ""),
            sign={"+": 1, "plus": 1, "-": -1, "minus": -1}.get(sign.lower(), 0),
        )


class _Token:
    """A word or a mark, as `text2num` wants it."""

    def __init__(self, words: str, start: int, end: int) -> None:
        self._words, self.start, self.end = words, start, end

    def text(self) -> str:
        """Its letters."""
        return self._words

    def nt_separated(self, _previous: "_Token") -> bool:
        """Whether something that is not text parts it from the one before."""
        return False

    def not_a_number_part(self) -> bool:
        """Whether it is known to be no number."""
        return False


_PIECE = re.compile(r"[A-Za-z]+|\S")


def _written(words: str) -> Iterator[Number]:
    """Numbers in words: “forty-one point five”."""
    tokens = [_Token(one[0].lower(), one.start(), one.end()) for one in _PIECE.finditer(words)]
    for one in find_numbers(tokens, "en", 0.0):
        if one.is_ordinal or any(char.isdigit() for char in tokens[one.start].text()):
            continue
        start, end = tokens[one.start].start, tokens[one.end - 1].end
        if words[start:end].lower() in ("a", "an", "o", "oh"):
            continue
        decimals = len(one.text.partition(".")[2])
        yield Number(start, end, one.value, one.value, 10.0**-decimals)


_DIGIT = "one two three four five six seven eight nine".split()
_TEEN = "ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen".split()
_TENS = "twenty thirty forty fifty sixty seventy eighty ninety".split()
_PRICES = re.compile(r"\b(?:euros?|cents?|costs?|prices?|pay(?:s|ing)?|money)\b", re.I)
# “Two twenty-four” is 224, “three oh five” 305; “that one thirty per cent faster” is none.
_SPOKEN = re.compile(
    rf"(?<!that )(?<!this )(?<!the )(?<!which )(?<!first )(?<!last )(?<!other )(?<!point )"
    r"(?<!each )(?<!every )(?<!no )(?<!any )"
    rf"\b(?P<hundreds>{'|'.join(_DIGIT)})[ -]"
    rf"(?:(?:oh|o)[ -](?P<units>{'|'.join(_DIGIT)})|(?P<teens>{'|'.join(_TEEN)})|"
    rf"(?P<tens>{'|'.join(_TENS)})(?:[ -](?P<ones>{'|'.join(_DIGIT)}))?)\b(?! (?:hundred|point))",
    re.I,
)


def _spoken(words: str) -> Iterator[Number]:
    """Hundreds as one says them: “two twenty-four”; of prices that may be 2.24 as well."""
    if _PRICES.search(words):
        return
    for one in _SPOKEN.finditer(words):
        said = {name: part.lower() for name, part in one.groupdict().items() if part}
        value = 100.0 * (1 + _DIGIT.index(said["hundreds"]))
        if "teens" in said:
            value += 10 + _TEEN.index(said["teens"])
        if "tens" in said:
            value += 20 + 10 * _TENS.index(said["tens"])
        value += sum(1 + _DIGIT.index(said[name]) for name in ("units", "ones") if name in said)
        yield Number(one.start(), one.end(), value, value, 1.0)


def _fractions(words: str) -> Iterator[Number]:
    """“a third”, “two thirds”, “half”: shares, as per cent."""
    for one in _FRACTION.finditer(words):
        part = one["part"].lower()
        below = _FRACTIONS[part if part in _FRACTIONS else part.rstrip("s")]
        if one["count"] is None and below != 2:
            continue  # “the third”, “third”: a place in a row
        share = _SMALL[(one["count"] or "a").lower()] / below * 100.0
        if share < 100.0:
            yield Number(one.start(), one.end(), share, share, 1.0, Unit.PERCENT, is_word=True)


def _multiples(words: str) -> Iterator[Number]:
    for one in _MULTIPLE.finditer(words):
        value = _MULTIPLES[one["word"].lower()[:2]]
        yield Number(one.start(), one.end(), value, value, 0.1, Unit.TIMES, is_word=True)


def _with_part(words: str, one: Number) -> Number:
    """“two and a half”."""
    after = _AND_PART.match(words, one.end)
    if after is None or one.unit is not Unit.NONE or one.step < 1.0:
        return one
    value = one.low + _AND_PARTS[after["part"].lower()]
    return replace(one, low=value, high=value, end=after.end(), step=0.1, is_word=True)


def _with_unit(words: str, one: Number) -> Number:
    if one.unit is not Unit.NONE:
        return one
    symbol = _MONEY_BEFORE.search(words, max(0, one.start - 5), one.start)
    if symbol is not None:
        return replace(one, unit=Unit.MONEY, start=symbol.start())
    if (after := _MONEY_AFTER.match(words, one.end)) is not None:
        return replace(one, unit=Unit.MONEY, end=after.end())
    if _CROSS.search(words, max(0, one.start - 2), one.start):
        return replace(one, unit=Unit.TIMES, start=one.start - 1)
    unit, length = _unit_at(words, one.end)
    return replace(one, unit=unit, end=one.end + (0 if unit in COUNTED else length))


def _unit_at(words: str, place: int) -> tuple[Unit, int]:
    """(unit, how many letters it takes) of what stands behind a number."""
    found = _UNIT.match(words[place : place + 40])
    if found is None:
        found = _UNIT.match(words[place : place + 40].lower())
        if found is None or _UNITS[_which(found)][0] in _CASED:
            return Unit.NONE, 0
    return _UNITS[_which(found)][0], found.end()


def _which(found: re.Match[str]) -> int:
    return next(int(name[1:]) for name, value in found.groupdict().items() if value is not None)


def _counted(words: str, found: Sequence[Number]) -> Iterator[Number]:
    """Two numbers that are one: “five of seven titles”."""
    place = 0
    while place < len(found):
        one = found[place]
        after = found[place + 1] if place + 1 < len(found) else None
        between = words[one.end : after.start] if after is not None else ""
        if (
            after is not None
            and (_OF.match(between) or between == "/")
            and one.step == after.step == 1.0
            and one.unit in (Unit.NONE, Unit.TITLES, Unit.TESTS, Unit.CASES)
            and after.unit in (Unit.NONE, Unit.TITLES, Unit.TESTS, Unit.CASES)
            and one.low <= after.low
            and (between != "/" or after.unit is not Unit.NONE)
        ):
            unit = after.unit or one.unit or Unit.TITLES
            yield replace(one, end=after.end, of=int(after.low), unit=unit)
            place += 2
        else:
            yield one
            place += 1


def _ranges(words: str, found: Sequence[Number]) -> Iterator[Number]:
    """“12 to 14 per cent”, “between 56 % and 249 %”; of rates only what “between” joins."""
    place = 0
    while place < len(found):
        one = found[place]
        after = found[place + 1] if place + 1 < len(found) else None
        between = words[one.end : after.start] if after is not None else ""
        joined = after is not None and _TO.fullmatch(between) is not None
        if after is not None and joined and (either := _either(one, after, between)) is not None:
            yield either
            place += 2
            continue
        enclosed = _BETWEEN.search(words[: one.start]) is not None
        if (
            joined
            and after is not None
            and one.of is None
            and one.unit in (Unit.NONE, after.unit)
            and after.unit not in (Unit.NONE, Unit.TITLES)
            and (enclosed or not re.search(r"\band\b", between, re.I))
            and not (_FROM.search(words[: one.start]) and after.unit is Unit.FPS)
            and (low := one.low * (one.sign or 1)) < (high := after.high * (after.sign or 1))
        ):
            yield replace(
                one,
                low=low,
                high=high,
                end=after.end,
                unit=after.unit,
                step=min(one.step, after.step),
            )
            place += 2
        else:
            if joined and after is not None and one.unit is Unit.NONE:
                one = replace(one, unit=after.unit)  # “from 28 to 69 fps”
            yield one
            place += 1


def _either(one: Number, after: Number, between: str) -> Number | None:
    """“3 or 4 per cent”, “69 or 70”: somewhere there; None for others, and for “60 or 120”."""
    apart = after.low - one.low
    if re.search(r"\bor\b", between, re.I) is None or one.of is not None or one.sign or after.sign:
        return None
    if one.unit not in (Unit.NONE, after.unit) or not 0 < apart <= max(one.step, 0.1 * one.low):
        return None
    if after.unit is Unit.NONE and apart > one.step:
        return None
    middle, step = (one.low + after.low) / 2.0, apart + min(one.step, after.step)
    return replace(one, low=middle, high=middle, end=after.end, unit=after.unit, step=step)


def _hedged(words: str, one: Number) -> Number:
    before = words[max(0, one.start - 30) : one.start]
    if (more := _OR_MORE.match(words[one.end : one.end + 20])) is not None:
        return replace(one, hedge=Hedge.AT_LEAST if more["more"] or more["up"] else Hedge.UP_TO)
    found = _HEDGE.search(before)
    if found is not None:
        return replace(one, hedge=HEDGES[_which(found)][0])
    if _OR_SO.match(words[one.end : one.end + 40]) or _MORE_OR_LESS.search(words, one.end):
        return replace(one, hedge=Hedge.ABOUT)
    return one


_ONE = re.compile(r"one", re.I)
_ORDINAL = re.compile(r"(?:st|nd|rd|th)\b", re.I)


def _is_number(words: str, one: Number) -> bool:
    """Whether it says how much: not “the one thing”, “no one”, “the 2nd”, “part 2”."""
    said = words[one.start : one.end]
    if _ORDINAL.match(words, one.end):
        return False
    if _ONE.fullmatch(said):
        return one.unit in (Unit.PERCENT, Unit.FPS, Unit.WATTS, Unit.TITLES, Unit.TESTS)
    return re.search(r"\b(?:part|chapter|episode|number|no\.|version|season)\s$",
                     words[: one.start], re.I) is None  # fmt: skip
