"""The notation in which figures are typed: one cell's passes, or why there are none.

| typed | means |
|---|---|
| `69.5` | one pass, its average |
| `69.5/57/31/120` | average, 1 % low, minimum, maximum |
| `69.5 70.1 68.8` | three passes |
| `(58 61 63 55)` | four looks at the counter in one pass |
| `45-50` | seen between |
| `~60` | about |
| `200+`, `<30`, `sub 30` | at least, at most |
| `60 locked` | held there by a cap: at least |
| `mid 50s`, `low to mid 40s`, `70s` | seen between 54 and 56, 40 and 46, 70 and 79 |
| `avg 52 min 38 max 81`, `52 avg, 1% 38, 0.1% 30` | figures by name, in any order |
| `-8 % of their tower`, `12 % behind the tower` | a change that is known without a rate |
| `no: artefacts after a minute` | it did not run, and why |

Decimal comma and point both serve. What is read is printed by `entry_text` in the same notation.
"""

import itertools
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.records.records import TypedFigures
from blunt_ruler.core.text import count_text

MOST_FPS, MOST_SCORE = 100_000.0, 1e9
MOST_PASSES = 200
LONGEST = 4000
TWO_NUMBERS = 20.0  # times apart: "1 234" is no two passes
ALIKE = 1.1  # times apart: “69,70” can be two passes
UNTOLD = "no reason given"
LOW = "low"  # the second figure of a pass where nothing else is said

_NUMBER = r"\d+(?:[.,]\d*)?|[.,]\d+"
_READING = re.compile(
    rf"(?P<about>~)?(?P<most><)?(?P<one>{_NUMBER})(?:-(?P<two>{_NUMBER})|(?P<least>\+))?", re.ASCII
)
# Tens in words: their lower, middle and upper digits (common practice, no source).
_TENS = re.compile(
    r"(?:\bin the |\bthe )?"
    r"(?:\b(low|lower|mid|middle|high|upper)(?:(?:\s*-\s*|\s+to\s+)(low|mid|high))?[\s-]+)?"
    r"(?<![\d.,])(\d{1,3})0'?s\b",
    re.IGNORECASE,
)
_DIGITS = {"l": (0, 3), "m": (4, 6), "h": (7, 9), "u": (7, 9)}
_LABELS = {
    "low_01": r"0[.,]1\s*%(?:\s*lows?)?",
    "low": r"1\s*%(?:\s*lows?)?|p1\b|99th(?: percentile)?",
    "average": r"(?:avg|average|mean)\b\.?",
    "minimum": r"min(?:imum)?\b\.?",
    "maximum": r"max(?:imum)?\b\.?",
}
_LABEL = re.compile(
    rf"(?<![\w.,])(?:{'|'.join(f'(?P<{name}>{words})' for name, words in _LABELS.items())})"
    r"\s*[:=]?",
    re.IGNORECASE,
)
_LOOKS = re.compile(r"\(([^()]*)\)")
# "-8 % of their tower", "8 % behind the tower": what is known without a rate.
_BEHIND = r"behind|slower\s+than|below|less\s+than"
_AHEAD = r"ahead\s+of|faster\s+than|above|more\s+than"
_CHANGE = re.compile(
    rf"(?:(?P<sign>[-+−–])\s*(?P<value>{_NUMBER})\s*%\s*(?:(?:of|against|than|over)\s+)?"
    rf"|(?P<share>{_NUMBER})\s*%\s*(?:(?P<behind>{_BEHIND})|{_AHEAD})\s+)(?P<of>.*)$",
    re.IGNORECASE,
)
_SHARE_OF = re.compile(rf"(?P<value>{_NUMBER})\s*%\s*of\s+(?P<of>.+)$", re.IGNORECASE)
_REFUSED = re.compile(r"no\s*(?::\s*(?P<why>.*))?$", re.IGNORECASE | re.DOTALL)


def _tens(found: re.Match[str]) -> str:
    """What some tens in words lie between, as "54-56"."""
    first, last, tens = found.groups()
    low = _DIGITS[first[0].lower()] if first else (0, 9)
    high = _DIGITS[last[0].lower()] if last else low
    return f"{tens}{low[0]}-{tens}{high[1]}"


# Words and signs that say the same, in the order in which they are looked for.
_SAME: tuple[tuple[re.Pattern[str], str | Callable[[re.Match[str]], str]], ...] = (
    (re.compile(r"\s*(?:fps|frames?/s|frames per second)\b", re.IGNORECASE), ""),
    (_TENS, _tens),
    (
        re.compile(rf"\b(?:locked|capped)\s*(?:at|to)?\s*({_NUMBER})(?![\d.,-])", re.IGNORECASE),
        r"\1+",
    ),
    (re.compile(rf"({_NUMBER})\s*\(?(?:locked|capped|cap)\b\)?", re.IGNORECASE), r"\1+"),
    (re.compile(r"\bsub[\s-]*(?=\d)", re.IGNORECASE), "<"),
    (re.compile(r"[–—‒−]"), "-"),
    (re.compile(r"(?:\babout|\baround|\bapprox\.?|\bca\.?|≈|~)\s*", re.IGNORECASE), "~"),
    (re.compile(r"(?:\bover|\babove|\bat least|\bmore than|≥|>=?)\s*(?=\d)", re.IGNORECASE), ">"),
    (
        re.compile(r"(?:\bunder|\bbelow|\bat most|\bless than|\bup to|≤|<=?)\s*(?=\d)", re.I),
        "<",
    ),
    (re.compile(rf">({_NUMBER})", re.ASCII), r"\1+"),
    (re.compile(r"(?<=\d)\s+\+"), "+"),
    (re.compile(r"(?<=\d)\s*-\s*(?=[\d.,])|(?<=\d)\s+to\s+(?=\d)", re.IGNORECASE), "-"),
    (re.compile(r"\s*/\s*"), "/"),
    (re.compile(r"(?<=[\d+)]),(?=\s)|;"), " "),
)


_IN_ORDER = ("average", "low", "minimum", "maximum")
_NAMES = {
    "average": "the average",
    "low": "the 1 % low",
    "low_01": "the 0.1 % low",
    "minimum": "the minimum",
    "maximum": "the maximum",
}


class BadEntry(UserFixable):
    """What was typed cannot be understood."""


@dataclass(frozen=True, slots=True)
class Entry:
    """What a cell was told: passes, or why there is none. Neither for an empty cell."""

    passes: tuple[TypedFigures, ...] = ()
    outcome: str = ""


@lru_cache(maxsize=1024)  # a table's cells are asked about before they are taken
def parse_entry(text: str, *, score: bool = False, second: str = LOW) -> Entry:
    """Read an entry, of frames per second or, with `score`, of scores.

    `second` is what a second figure without a name is: "low", the 1 % low, or "minimum". Raises
    BadEntry saying which part cannot be understood, and how to write it.
    """
    plain = " ".join(text.split())
    if not plain:
        return Entry()
    if len(plain) > LONGEST:
        raise BadEntry("entry", f"it has {len(plain)} characters", f"Make it {LONGEST} at most")
    if (refused := _REFUSED.match(plain)) is not None:
        return Entry(outcome=(refused["why"] or "").strip() or UNTOLD)
    if not score and (change := _CHANGE.match(plain)) is not None:
        return Entry((_change(change),))
    if not score and (share := _SHARE_OF.match(plain)) is not None:
        kept, whom = _number(share["value"])[0], share["of"]
        left = f"{kept - 100:+g}% of {whom}"
        raise BadEntry(
            "percentage",
            f"“{plain}” may be what it keeps or what it loses",
            f"Write “{left}” if its rate is {kept:g} % of that, else “-{kept:g}% of {whom}”",
        )
    if not score and _LABEL.search(plain) is not None:
        passes = [one for part in plain.split(";") if part.strip() for one in _labelled(part)]
        return Entry(_not_too_many(passes))
    words = _words(_in_signs(plain))
    _check_two_numbers(words)
    return Entry(_not_too_many([_score(word) if score else _pass(word, second) for word in words]))


def has_second(text: str) -> bool:
    """Whether an entry of frame rates holds a second figure whose name it does not say."""
    plain = " ".join(text.split())
    if _LABEL.search(plain) is not None or _REFUSED.match(plain) or _CHANGE.match(plain):
        return False
    return any("/" in word for word in _words(_in_signs(plain)))


def _in_signs(plain: str) -> str:
    """The notation without the words that say the same as its signs."""
    for found, put in _SAME:
        plain = found.sub(put, plain)
    return plain


def _not_too_many(passes: Sequence[TypedFigures]) -> tuple[TypedFigures, ...]:
    if len(passes) > MOST_PASSES:
        raise BadEntry("entry", f"it holds {len(passes)} passes", f"Give {MOST_PASSES} at most")
    return tuple(passes)


def _labelled(part: str) -> list[TypedFigures]:
    """One pass whose figures have names, each before or after its figure; the first may have none,
    and is the average. Passes without names are read as ever.
    """
    if _LABEL.search(part) is None:
        return [_pass(word) for word in _words(_in_signs(part))]
    named: dict[str, str] = {}
    for number, chunk in enumerate(re.split(r",\s+|,(?!\d)|\s*/\s*|\s\|\s", part)):
        for name, figure in _pairs(chunk.strip(" ,"), is_first=number == 0):
            if name in named:
                raise BadEntry(
                    f"“{part.strip()}”",
                    f"it names {_NAMES[name]} twice",
                    "Put a semicolon between two passes",
                )
            named[name] = figure
    if "average" not in named:
        raise BadEntry(
            f"“{part.strip()}”", "it has no average", "Write it like “avg 52, 1% 38, min 31”"
        )
    return [_figures(part.strip(), **named)]


def _pairs(chunk: str, is_first: bool) -> list[tuple[str, str]]:
    """(name, figure as written) of some words; BadEntry where they go together in no way, or in
    more than one.
    """
    tokens: list[tuple[str, str]] = []  # (name or blank, figure or blank)
    at = 0
    for found in [*_LABEL.finditer(chunk), None]:
        between = chunk[at : found.start() if found is not None else len(chunk)]
        tokens += [("", word) for word in _words(_in_signs(between.strip(" ,:=")))]
        if found is not None:
            tokens.append((str(found.lastgroup), ""))
            at = found.end()
    ways = list(_ways(tokens, is_first))
    if len(ways) != 1:
        raise BadEntry(
            f"“{chunk}”",
            "which figure has which name can be read in more than one way"
            if ways
            else "its names and figures do not go together",
            "Write it like “avg 52, 1% 38, min 31”",
        )
    return ways[0]


def _ways(tokens: Sequence[tuple[str, str]], is_first: bool) -> Iterator[list[tuple[str, str]]]:
    """All ways in which names and figures make pairs; a figure alone may be the first."""
    if not tokens:
        yield []
        return
    if is_first and tokens[0][1]:
        for rest in _ways(tokens[1:], is_first=False):
            yield [("average", tokens[0][1]), *rest]
    if len(tokens) > 1 and bool(tokens[0][0]) != bool(tokens[1][0]):
        (name, figure), (other, value) = tokens[:2]
        for rest in _ways(tokens[2:], is_first=False):
            yield [(name or other, figure or value), *rest]


def _change(found: re.Match[str]) -> TypedFigures:
    value, _ = _number(found["value"] or found["share"])
    less = found["behind"] or (found["sign"] or "+") in "-−–"
    share = (-value if less else value) / 100.0
    if share <= -1:
        raise BadEntry("percentage", "a loss of 100 % or more leaves no rate", "Look at it again")
    return TypedFigures(change=share, change_of=(found["of"] or "").strip()[:400])


def _words(plain: str) -> list[str]:
    """The passes of an entry: parted by spaces that are not within brackets."""
    return re.findall(r"\([^()]*\)\S*|\S+", plain)


def _check_two_numbers(words: Sequence[str]) -> None:
    for one, two in itertools.pairwise(words):
        if not re.fullmatch(r"\d{1,3}", one) or not re.fullmatch(r"\d{3}", two):
            continue
        if float(two) > TWO_NUMBERS * float(one) or float(one) > TWO_NUMBERS * float(two):
            raise BadEntry(
                f"“{one} {two}”",
                f"it can be {one}{two}, or two passes",
                f"Write {one}{two} without a space, or “{one}.0 {two}” for two passes",
            )


def _number(text: str, most: float = MOST_FPS) -> tuple[float, float]:
    """(value, step of its last digit)."""
    whole, comma, decimals = text.replace(",", ".").partition(".")
    thousands = bool(comma) and len(decimals) == 3 and "," in text
    if most == MOST_SCORE:
        if "," in text and decimals == "000" and len(whole) < 4:  # no score has three noughts
            return float(f"{whole}000"), 1.0
        thousands = bool(comma) and len(decimals) == 3
    # 69,537 is no frame rate but with a decimal comma; 1,234 can be either.
    if thousands and 0 < int(whole or "0") < (1000 if most == MOST_SCORE else 10):
        raise BadEntry(
            f"“{text}”",
            f"it can be {whole}.{decimals} or {whole}{decimals}",
            f"Write {whole}{decimals}, or {whole}.{decimals[:2]}",
        )
    if "," in text and len(whole) == len(decimals) > 1 and _alike(whole, decimals):
        raise BadEntry(
            f"“{text}”",
            f"it can be {whole}.{decimals}, or two passes",
            f"Write {whole}.{decimals}, or “{whole} {decimals}”",
        )
    value = float(f"{whole or '0'}.{decimals or '0'}")
    if value <= 0:
        raise BadEntry(f"“{text}”", "it is not a rate", "Write “no: …” if it did not run")
    if value > most:
        raise BadEntry(f"“{text}”", "it is impossibly high", "Look at it again")
    return value, 10.0 ** -len(decimals)


def _alike(one: str, other: str) -> bool:
    """Whether two whole numbers could be two passes of one case."""
    low, high = sorted((int(one), int(other)))
    return 0 < high <= ALIKE * low


def _reading(word: str, most: float = MOST_FPS) -> tuple[float, HowRead]:
    """One figure, and how it was read."""
    looks = _LOOKS.fullmatch(word)
    if looks is not None:
        return _looks(word, looks[1])
    found = _READING.fullmatch(word)
    marks = (
        0 if found is None else sum(found[m] is not None for m in ("about", "most", "two", "least"))
    )
    if found is None or marks > 1:
        raise BadEntry(
            f"“{word}”",
            "it is not understood",
            "Write it like 4225, ~7400 or 5100-5300"
            if most == MOST_SCORE
            else "Write it like 69.5, 69.5/57, 45-50, ~60, 200+, (58 61 63) or “no: why”",
        )
    value, step = _number(found["one"], most)
    if found["two"] is not None:
        other, finer = _number(found["two"], most)
        low, high = sorted((value, other))
        if low == high:
            return value, HowRead(step=step)
        middle = round((low + high) / 2.0, 9)
        return middle, HowRead(kind=Kind.RANGE, step=min(step, finer), edges=(low, high))
    kind = Kind.EYE
    if found["about"]:
        kind = Kind.ABOUT
    elif found["most"]:
        kind = Kind.AT_MOST
    elif found["least"]:
        kind = Kind.AT_LEAST
    return value, HowRead(kind=kind, step=step)


def _looks(word: str, inside: str) -> tuple[float, HowRead]:
    said = [look for look in re.split(r"[\s]+", inside.strip()) if look]
    if not said or not all(re.fullmatch(_NUMBER, look, re.ASCII) for look in said):
        raise BadEntry(f"“{word}”", "looks must be numbers", "Write them like (58 61 63 55)")
    read = [_number(look) for look in said]
    looks = tuple(value for value, _ in read)
    step = min(step for _, step in read)
    if len(looks) == 1:
        return looks[0], HowRead(step=step)
    return sum(looks) / len(looks), HowRead(step=step, looks=looks)


def _pass(word: str, second: str = LOW) -> TypedFigures:
    """One pass: average, 1 % low and minimum; or average, the second figure, and the maximum where
    the third is above the average.
    """
    parts = word.split("/")
    if len(parts) > 4 or not all(parts):
        raise BadEntry(
            f"“{word}”", "it is not a pass", "Write average/1 % low/minimum, like 69.5/57/31"
        )
    if len(parts) == 3 and all(re.fullmatch(_NUMBER, part, re.ASCII) for part in parts):
        one, two, three = (float(part.replace(",", ".")) for part in parts)
        if two <= one < three:
            return _figures(word, **{"average": parts[0], second: parts[1], "maximum": parts[2]})
    names = _IN_ORDER if second == LOW else ("average", "minimum", "maximum")
    if len(parts) > len(names):
        raise BadEntry(f"“{word}”", "it is not a pass", "Write average/minimum/maximum")
    return _figures(word, **dict(zip(names, parts, strict=False)))


def _figures(word: str, average: str, low: str = "", **ends: str) -> TypedFigures:
    """One pass out of its figures as they were written; `ends` are its 0.1 % low, its minimum and
    its maximum.
    """
    fps, how = _reading(average)
    low_fps, low_how = _reading(low) if low else (None, HowRead())
    read: dict[str, float] = {}
    for name, part in ends.items():
        if not re.fullmatch(_NUMBER, part, re.ASCII):
            what = _NAMES[name].removeprefix("the ")
            raise BadEntry(f"“{part}”", f"a {what} is one number", "Write it like 31")
        read[name], _ = _number(part)
    made = TypedFigures(
        average_fps=fps,
        average_how=how,
        low_1_fps=low_fps,
        low_1_how=low_how,
        low_01_fps=read.get("low_01"),
        minimum_fps=read.get("minimum"),
        maximum_fps=read.get("maximum"),
    )
    _check_order(word, made)
    return made


def _check_order(word: str, made: TypedFigures) -> None:
    """BadEntry where a figure of a pass contradicts another."""
    how, average = made.average_how, made.average_fps or 0.0
    bottom, top = how.edges or (average, average)
    most = made.maximum_fps
    if most is not None and most < bottom and how.kind is not Kind.AT_MOST:
        what = f"the maximum {most:g} is below the average {bottom:g}"
        raise BadEntry(f"“{word}”", what, "Write average/1 % low/minimum/maximum")
    over, above = "average", top
    for name, value in (
        ("1 % low", made.low_1_fps),
        ("0.1 % low", made.low_01_fps),
        ("minimum", made.minimum_fps),
    ):
        if value is None:
            continue
        if value > above and how.kind is not Kind.AT_LEAST:
            raise BadEntry(
                f"“{word}”",
                f"the {name} {value:g} is above the {over} {above:g}",
                "Write average/1 % low/minimum",
            )
        over, above = name, value


def _score(word: str) -> TypedFigures:
    if _LOOKS.fullmatch(word) or "/" in word:
        raise BadEntry(
            f"“{word}”", "it is not a score", "Write one number for each pass, like 4225"
        )
    value, how = _reading(word, MOST_SCORE)
    return TypedFigures(score=value, average_how=how)


# Printing


def entry_text(entry: Entry, second: str = LOW) -> str:
    """An entry in the notation; parsed again it is the same. Where a `second` figure without a name
    is a minimum, a 1 % low is printed with its name.
    """
    if entry.outcome:
        return f"no: {entry.outcome}" if entry.outcome != UNTOLD else "no"
    named = second != LOW and any(one.low_1_fps is not None for one in entry.passes)
    words = [pass_text(one, named=named) for one in entry.passes]
    if named or any(map(_by_name, entry.passes)):
        return "; ".join(words)
    try:
        _check_two_numbers(words)
    except BadEntry:
        return "; ".join(f"{word}.0" if word.isdigit() else word for word in words)
    return " ".join(words)


def pass_text(figures: TypedFigures, *, named: bool = False) -> str:
    """One pass in the notation, `named` with the names of its figures."""
    if figures.change is not None:
        of = f" of {figures.change_of}" if figures.change_of else ""
        return f"{figures.change * 100:+.6g}%{of}"
    if figures.average_fps is None:
        if figures.average_how.kind is not Kind.EYE:
            return reading_text(figures.score or 0.0, figures.average_how)
        said = _figure_text(figures.score or 0.0, figures.average_how.step)
        return f"{said}0" if len(said.partition(".")[2]) == 3 else said  # no thousands
    said = reading_text(figures.average_fps, figures.average_how)
    if _by_name(figures) or (named and figures.low_1_fps is not None):
        if figures.low_1_fps is not None:
            said += f" 1% {reading_text(figures.low_1_fps, figures.low_1_how)}"
        ends = (
            ("0.1%", figures.low_01_fps),
            ("min", figures.minimum_fps),
            ("max", figures.maximum_fps),
        )
        parts = [f"{name} {_figure_text(value)}" for name, value in ends if value is not None]
        return " ".join((f"avg {said}", *parts))
    if figures.low_1_fps is not None:
        said += f"/{reading_text(figures.low_1_fps, figures.low_1_how)}"
        if figures.minimum_fps is not None:
            said += f"/{_figure_text(figures.minimum_fps)}"
            if figures.maximum_fps is not None:
                said += f"/{_figure_text(figures.maximum_fps)}"
    return said


def _by_name(figures: TypedFigures) -> bool:
    """Whether a figure is left out before one that is there, or a 0.1 % low is there, so that each
    needs its name.
    """
    if figures.low_01_fps is not None:
        return True
    there = [
        one is not None for one in (figures.low_1_fps, figures.minimum_fps, figures.maximum_fps)
    ]
    return figures.average_fps is not None and there != sorted(there, reverse=True)


def reading_text(value: float, how: HowRead) -> str:
    """One figure in the notation."""
    if len(how.looks) > 1:
        return f"({' '.join(_figure_text(look, how.step) for look in how.looks)})"
    if how.kind is Kind.RANGE and how.edges is not None:
        return "-".join(_figure_text(edge, how.step) for edge in how.edges)
    said = _figure_text(value, how.step)
    match how.kind:
        case Kind.ABOUT:
            return f"~{said}"
        case Kind.AT_LEAST:
            return f"{said}+"
        case Kind.AT_MOST:
            return f"<{said}"
        case _:
            return said


def _figure_text(value: float, step: float = 0.0) -> str:
    """As many decimals as were written, or as the value needs."""
    decimals = 0
    while decimals < 9 and (10.0**-decimals > step * 1.5 > 0 or round(value, decimals) != value):
        decimals += 1
    return f"{value:.{decimals}f}"


# Saying


def entry_words(entry: Entry) -> str:
    """What was understood, in words, for the hint under a cell: "3 passes: 70.2 on average"."""
    if entry.outcome:
        return f"It did not run: {entry.outcome}"
    if not entry.passes:
        return "Nothing: what was typed here is removed"
    if entry.passes[0].score is not None:
        read = [
            _read_words(one.score, one.average_how) for one in entry.passes if one.score is not None
        ]
        return f"{count_text(len(read), 'score')}: {', '.join(read)}"
    change = entry.passes[0].change
    if change is not None:
        of = entry.passes[0].change_of or "what they compared it with"
        return f"{change * 100:+.6g} % of {of}, without a rate; in no mean of rates"
    from blunt_ruler.core.measure.means import harmonic_mean

    averages = [one.average_fps for one in entry.passes if one.average_fps is not None]
    hows = [one.average_how for one in entry.passes]
    if len(entry.passes) == 1:
        said = f"1 pass: {_read_words(averages[0], hows[0])}"
    else:
        counted = count_text(len(averages), "pass", "passes")
        said = f"{counted}: {harmonic_mean(averages):.1f} on average"
        odd = [how for how in hows if how.kind is not Kind.EYE or how.looks]
        said += "".join(f", one {_kind_words(how)}" for how in odd[:2])
        said += f", {len(odd) - 2} more not sharp" if len(odd) > 2 else ""
    lows = [one.low_1_fps for one in entry.passes if one.low_1_fps is not None]
    if lows:
        times = {1: " once", 2: " twice"}.get(len(lows), f" {len(lows)} times")
        often = times if len(entry.passes) > 1 else ""
        said += (
            f"; 1 % low {harmonic_mean(lows):g}{often}"
            if len(lows) == 1
            else (f"; 1 % low {harmonic_mean(lows):.1f}{often}")
        )
    rarest = [one.low_01_fps for one in entry.passes if one.low_01_fps is not None]
    said += f"; 0.1 % low {harmonic_mean(rarest):g}" if rarest else ""
    minima = [one.minimum_fps for one in entry.passes if one.minimum_fps is not None]
    maxima = [one.maximum_fps for one in entry.passes if one.maximum_fps is not None]
    said += f"; minimum {min(minima):g}" if minima else ""
    return said + (f"; maximum {max(maxima):g}" if maxima else "")


def _kind_words(how: HowRead) -> str:
    if how.looks:
        return f"of {len(how.looks)} looks"
    return {
        Kind.RANGE: "seen between",
        Kind.ABOUT: "about",
        Kind.AT_LEAST: "at least",
        Kind.AT_MOST: "at most",
    }.get(how.kind, "by eye")


def _read_words(value: float, how: HowRead) -> str:
    if how.looks:
        least, most = min(how.looks), max(how.looks)
        return f"{value:.1f} on {len(how.looks)} looks, {least:g} to {most:g}"
    if how.edges is not None:
        return f"between {how.edges[0]:g} and {how.edges[1]:g}, middle {value:g}"
    said = f"{value:.10g}"
    return said if how.kind is Kind.EYE else f"{_kind_words(how)} {said}"
