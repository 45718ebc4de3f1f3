"""The words of a table: what a column of names holds, and what figures under a head are.

Words are common practice, no source; those of German, French and Spanish from memory.
"""

import re
import tomllib
from collections.abc import Container, Sequence
from dataclasses import dataclass, replace
from importlib import resources

from blunt_ruler.core.runs.import_runs import looks_like_resolution

_WORDS = tomllib.loads(
    (resources.files("blunt_ruler") / "resources/table_words.toml").read_text("utf-8")
)


def _any(alternatives: Sequence[str]) -> re.Pattern[str]:
    return re.compile("|".join(f"(?:{one})" for one in alternatives), re.IGNORECASE)


KINDS: dict[str, frozenset[str]] = {kind: frozenset(of) for kind, of in _WORDS["kinds"].items()}
BY_WORDS = frozenset(["source", "published by"])
MEAN_WORDS = frozenset(_WORDS["means"]["words"])
HARDWARE = re.compile(rf"\b(?:{'|'.join(_WORDS['names']['hardware'])})\b", re.IGNORECASE)
OUTCOME = _any(_WORDS["names"]["outcome"])
STATISTICS = tuple((name, _any(of)) for name, of in _WORDS["statistics"].items())
# Words that are statistics only beside others; they are presets and names too.
BARE = (
    ("low", re.compile(r"\blows?", re.I)),
    ("minimum", re.compile(r"\bmin(?:imum)?", re.I)),
    ("maximum", re.compile(r"\bmax(?:imum)?", re.I)),
)
_ENDS = (("minimum", re.compile(r"\blow", re.I)), ("maximum", re.compile(r"\bhigh", re.I)))
PRESET = re.compile(
    r"(?:(?:very|lowest|highest)\s+)?(?:low|medium|mid|normal|high|ultra|epic|extreme|max(?:imum)?|min"
    r"(?:imum)?|custom|cinematic|balanced)(?:\s+(?:preset|settings?|quality|details?))?",
    re.I,
)
_REPEAT = re.compile(r"(?:\b(?:run|pass|take|attempt|try|lauf)\s*#?|#)\s*(\d{1,2})$", re.I)

# What is measured. A frame rate has no entry: it is what a table without other words holds.
SCORE, TIME, SHARE = "score", "frame_time_ms", "percent"
_TIMES, _SCORES, _SHARES = (_any(_WORDS["measures"][name]) for name in (TIME, SCORE, SHARE))
_OTHER = tuple((meter, _any(of)) for meter, of in _WORDS["others"].items())
METERS = frozenset([*_WORDS["others"], "memory_mb"])
_NOUNS, _QUALIFIERS, _WITH_TIME = (
    frozenset(_WORDS["quantities"][name]) for name in ("nouns", "qualifiers", "with_time")
)
_EXACT = _any(_WORDS["quantities"]["exact"])
_UNIT = tuple((measure, _any(of)) for measure, of in _WORDS["units"].items())
_SECONDS, _THROUGHPUT, _WORK = (
    _any(_WORDS["tests"][name]) for name in ("seconds", "throughput", "work")
)
_ENCODING = re.compile(r"\b(?:(?:de|en|trans)cod|export)(?:e|er|es|ing)?\b", re.IGNORECASE)
_RATE = re.compile(r"fps|frame[ -]?rates?|bildrate|rates?", re.I)
_BRACKET = re.compile(r"\s*[(\[]([^()\[\]]*)[)\]]\s*$")
_REMARK = re.compile(
    r"\s*[,;–-]?\s*(?:higher|lower|more|less|bigger|smaller) (?:is|=) (?:better|worse)", re.I
)
_LOWER = re.compile(r"\b(?:lower|less|smaller) (?:is|=) better", re.I)


def plain_head(name: str) -> str:
    """A head in lower case without its colon."""
    return name.strip().lower().rstrip(":.").strip()


def kind_of(name: str) -> str:
    """What a column of words is by its head in lower case; blank where it does not say."""
    return next((kind for kind, words in KINDS.items() if name in words), "")


def is_mean(head: str) -> bool:
    """Whether a head is that of a mean over others."""
    first = plain_head(head).partition(" / ")[0]
    return first in MEAN_WORDS or re.sub(r"\s*\(?fps\)?$", "", first) in MEAN_WORDS


# Units that are words, or letters, which mean something else at the head of a column.
_AMBIGUOUS = frozenset(["min", "sec", "seconds", "minutes", "year", "ips"])
# After a figure, a unit belongs to it: "Dock 40 Gb/s" is a name.
_ENDS_IN_UNIT = re.compile(rf"\D\s+(?:{'|'.join(_WORDS['bare_units']['units'])})$")
_SHORT = _AMBIGUOUS | frozenset(["s", "h", "j", "g", "kg", "w"])


def unit_measure(text: str, unless: frozenset[str] = frozenset()) -> str:
    """What a unit measures: "fps", "percent", a meter, or "other:" and the unit; blank for none,
    and for words that mean something else where they stand.
    """
    plain = text.strip()
    if plain.lower().rstrip(".") in unless:
        return ""
    measure = next((measure for measure, words in _UNIT if words.fullmatch(plain)), "")
    return f"other:{plain}" if measure == "other" else measure


def is_other(measure: str) -> bool:
    """Whether a measure is another quantity than speed."""
    return measure in METERS or measure.startswith("other:")


def measured_in(measure: str) -> str:
    """The unit of a test that is told in seconds, in a throughput or in so many a second, as in
    "Copy GB/s" and "Model tokens per second"; blank for what is measured otherwise.
    """
    unit = measure.removeprefix("other:") if measure.startswith("other:") else ""
    if _SECONDS.fullmatch(unit):
        return "s"
    if _WORK.fullmatch(unit):
        return re.sub(r"(?:/sec| per second| a second)$", "/s", unit, flags=re.IGNORECASE)
    return unit if _THROUGHPUT.fullmatch(unit) else ""


def _other(head: str) -> str | None:
    """The meter of another quantity, "other:" for one without; None where a head names none."""
    for meter, words in _OTHER:
        if words.fullmatch(head):
            return str(meter)
    if _EXACT.fullmatch(head):
        return "other:"
    said = head.lower().replace("(", " ").replace(")", " ").split()
    if said and said[-1] in ("time", "times") and set(said[:-1]) & _WITH_TIME:
        return "other:" if set(said[:-1]) <= _WITH_TIME | _QUALIFIERS | _NOUNS else None
    is_quantity = bool(set(said) & _NOUNS) and set(said) <= _NOUNS | _QUALIFIERS
    return "other:" if is_quantity else None


@dataclass(frozen=True, slots=True)
class Said:
    """What one head says. `name` is what is left of it: of a rig, a title or a case.

    `measure` is blank where it does not say: "fps", "score", "frame_time_ms", "percent", the field
    of a meter, or "other:" and a unit.
    """

    name: str = ""
    measure: str = ""
    statistic: str = ""
    resolution: str = ""
    preset: str = ""
    repeat: int = 0
    head: str = ""
    order: tuple[str, ...] = ()  # of the statistics in each cell under it: "avg / 1% low"

    @property
    def is_other(self) -> bool:
        """Whether its figures are of another quantity than speed."""
        return is_other(self.measure)


def take_apart(names: Sequence[str], known: Container[str] = ()) -> list[Said]:
    """The heads of one row or column of heads, each taken apart; they are read together, because a
    word like "low" or "max" is a preset, a name or a statistic by the company it keeps. What is
    `known`, in lower case, is a name.
    """
    different = [*dict.fromkeys(names)]
    if len(different) < len(names):
        apart = dict(zip(different, take_apart(different, known), strict=True))
        return [apart[name] for name in names]
    first = [Said(name, head=name) if name.lower() in known else _measured(name) for name in names]
    split = _statistics(
        [f"{said.name} fps".strip() if said.measure == "fps" else said.name for said in first]
    )
    found = [
        replace(said, name=name, statistic=statistic) if statistic else said
        for said, (name, statistic) in zip(first, split, strict=True)
    ]
    whole = [parted(said) for said in _tails(found)]
    if any(said.name for said in whole):  # beside names, a preset alone is a name
        return [
            replace(said, name=said.preset, preset="")
            if said.preset and not (said.name or said.resolution)
            else said
            for said in whole
        ]
    return whole


def of_table(text: str, known: Container[str] = ()) -> Said:
    """What a line over a table or a section says: as a head, with a statistic anywhere in it."""
    (said,) = take_apart([text], known)
    if said.statistic or said.order or said.measure not in ("", "fps"):
        return said
    for statistic, words in STATISTICS:
        if (found := words.search(text)) is not None:
            rest = take_apart([(text[: found.start()] + text[found.end() :]).strip(" ,:–-")])[0]
            name = re.sub(r"\b(?:fps|at|in|of|@)\b", "", rest.name, flags=re.I).strip(" ,:–-@")
            return replace(rest, name=name, statistic=statistic, head=text)
    return said


def _tails(heads: Sequence[Said]) -> list[Said]:
    """Heads that end in a quantity or a statistic after a name that comes again with another, or
    alone: "Tower FPS" and "Tower W", "Tower" and "Tower power". Milliseconds of one name alone are
    no frame times: "Draw call ms".
    """
    cut = [_tail(said) for said in heads]
    all_in_ms = all(one.measure == TIME for one in cut if one.name)
    seen: dict[str, list[Said]] = {}
    for said, one in zip(heads, cut, strict=True):
        for each in {said, one}:
            name = _REPEAT.sub("", each.name.lower()).strip(" ,:/-–(")
            seen.setdefault(name, []).append(each)
    found = []
    for said, one in zip(heads, cut, strict=True):
        alike = seen.get(one.name.lower(), [])
        by_measure = len({each.measure for each in alike}) > 1
        by_statistic = len({each.statistic for each in alike}) > 1
        again = by_measure if one.measure != said.measure else by_statistic
        has_unit = _ENDS_IN_UNIT.search(said.name) is not None
        if has_unit and one.measure == TIME and one.name and not (again or all_in_ms):
            one = replace(one, measure="other:ms")
        sure = has_unit and (one.is_other or one.measure == TIME)
        found.append(one if one.name and (again or sure) else said)
    return found


def _tail(said: Said) -> Said:
    """A head without the quantity or the statistic at its end, where there is one."""
    if said.measure and said.statistic:
        return said
    words = said.name.split()
    unless = _AMBIGUOUS - {"sec", "seconds"} if _ENDS_IN_UNIT.search(said.name) else _AMBIGUOUS
    for at in range(1, len(words)):
        name, rest = " ".join(words[:at]).rstrip(" ,:/-–"), " ".join(words[at:])
        measure = _other(rest) or (SHARE if _is_share_word(rest) else "")
        measure = measure or ("" if said.measure else unit_measure(rest, unless))
        if measure and name and measure != "fps":
            return replace(said, name=name, measure=measure)
    name, statistic = _split(said.name, STATISTICS)
    if statistic and name and not said.statistic:
        return replace(said, name=name, statistic=statistic)
    return said


def _measured(head: str) -> Said:
    """A head without its unit, or without all of it where it is nothing but a quantity."""
    text = re.sub(r"\s*[(\[]\s*[)\]]", "", _REMARK.sub("", head)).strip()
    name, order = _order(text)
    if order:
        return Said(name, head=head, order=order)
    plain = text.rstrip(":").strip()
    unit_after = re.search(r"\s+in\s+(\S+)$", plain)
    if unit_after is not None and unit_measure(unit_after[1], _AMBIGUOUS):
        return _measured(f"{plain[: unit_after.start()]} ({unit_after[1]})")
    if plain.lower() in KINDS["value"]:
        return Said(head=head)
    if (other := _other(_BRACKET.sub("", plain).partition(",")[0].strip())) is not None:
        unit = _BRACKET.search(plain)
        return Said("", _with_unit(other, unit[1] if unit else plain.partition(",")[2]), head=head)
    bracket = _BRACKET.search(text)
    if bracket is not None and (measure := unit_measure(bracket[1])):
        inner = _measured(text[: bracket.start()].strip())
        if inner.measure and inner.measure != measure and not inner.is_other:
            measure = inner.measure if measure == SHARE else measure
        measure = inner.measure if inner.is_other else _of_work(inner.name, measure)
        return Said(inner.name, measure, head=head)
    tail = re.search(r",\s*([^,\s]+)$", text)
    if tail is not None and (measure := unit_measure(tail[1], _AMBIGUOUS)):
        name = _measured(text[: tail.start()]).name
        return Said(name, _of_work(name, measure), head=head)
    if measure := unit_measure(plain, _SHORT) or ("fps" if _RATE.fullmatch(plain) else ""):
        return Said("", measure, head=head)
    if is_share(plain):
        return Said("", SHARE, head=head)
    if _TIMES.search(plain):
        rest = _TIMES.sub("", text).strip(" ,:;(–-[/")
        return Said(re.sub(r"\s*[,(\[]?\s*\bms\b[)\]]?$", "", rest).strip(), TIME, head=head)
    if _SCORES.search(plain):
        rest = _SCORES.sub("", text).strip(" ,:;–-/()")
        return Said(rest if rest else "", SCORE, head=head)
    return Said(text, "other:" if _LOWER.search(head) else "", head=head)


def _of_work(name: str, measure: str) -> str:
    """What a unit measures beside a name: pictures encoded in a second are no frame rate."""
    return "other:fps" if measure == "fps" and _ENCODING.search(name) else measure


def _order(head: str) -> tuple[str, tuple[str, ...]]:
    """(the head without them, the statistics that it lists in their order): "Tower (avg / 1%)"."""
    bracket = _BRACKET.search(head)
    before, listed = (head[: bracket.start()], bracket[1]) if bracket is not None else ("", head)
    parts = [part.strip() for part in listed.split("/")]
    if len(parts) < 2:
        return head, ()
    name, first = _split(parts[0], (*STATISTICS, *BARE))
    rest = [_split(part, (*STATISTICS, *BARE)) for part in parts[1:]]
    if not first or any(name or not statistic for name, statistic in rest):
        return head, ()
    return f"{before} {name}".strip(" :-–/"), (first, *(statistic for _, statistic in rest))


def _with_unit(measure: str, unit: str) -> str:
    """A quantity with the unit that its head names: memory in MB, a temperature in °F."""
    unit = unit.strip(" )]")
    if measure == "memory_gb" and re.fullmatch(r"m(?:i)?b", unit, re.I):
        return "memory_mb"
    if measure == "card_c" and "f" in unit.lower():
        return "other:°F"
    return f"{measure}{unit}" if measure == "other:" else measure


def _is_share_word(words: str) -> bool:
    """Whether words are nothing but those of a share."""
    return _SHARES.fullmatch(words) is not None or words.lower() == "delta"


def begins_as_share(title: str) -> bool:
    """Whether a line over a table says that it holds shares: "Gain over built-in", "Relative …"."""
    says = re.search(r"%|percent|=\s*100|\brelative\b", title, re.I) is not None
    first = re.sub(r"^(?:perf(?:ormance)?\.?|fps|speed|average|x|%)\s+", "", title, flags=re.I)
    return says or _SHARES.match(first) is not None


def is_share(head: str) -> bool:
    """Whether figures under a head are shares, gains or losses."""
    lows = r"(?<![\d.,])(?:99[.,]9|99|0[.,]\d|[1-9])\s?%(?=\s*(?:lows?\b|fps|$|\)))"
    head = re.sub(lows, "", head, flags=re.I)
    return bool(_SHARES.search(head))


def parted(said: Said) -> Said:
    """A head without the number of a pass, its resolution, and the preset after one."""
    name, repeat = said.name, 0
    found = _REPEAT.search(name)
    if found is not None:
        name, repeat = name[: found.start()].rstrip(" ,:/(–-["), int(found[1])
    if PRESET.fullmatch(name):
        return replace(said, name="", preset=name, repeat=repeat)
    if name in ("720", "900", "1080", "1440", "1600", "2160"):
        return replace(said, name="", resolution=f"{name}p", repeat=repeat)
    parts = [part.strip() for part in name.split(" / ")]
    for number, part in enumerate(parts):
        words = re.finditer(r"[^\s,;()@]+", part)
        hit = next((word for word in words if looks_like_resolution(word.group())), None)
        if hit is None:
            continue
        before = part[: hit.start()].strip(" ,;(@-–")
        after = part[hit.end() :].strip(" ,;)-–")
        if number == 0 and not before and after and not _is_preset(after):
            before, after = after, ""
        rest = [one for one in (after, *parts[number + 1 :]) if one]
        return replace(
            said,
            name=" / ".join(one for one in (*parts[:number], before) if one),
            resolution=hit.group(),
            preset=" / ".join(rest),
            repeat=repeat,
        )
    if len(parts) > 1 and PRESET.fullmatch(parts[-1]):
        return replace(said, name=" / ".join(parts[:-1]), preset=parts[-1], repeat=repeat)
    return replace(said, name=name, repeat=repeat)


def _is_preset(words: str) -> bool:
    """Whether words begin with a preset, and go on as one does: "Medium, ray tracing"."""
    found = PRESET.match(words)
    return found is not None and words[found.end() : found.end() + 2].strip(" ")[:1] in "+,;("


def _statistics(names: Sequence[str]) -> list[tuple[str, str]]:
    """(name, statistic) of each.

    A statistic stands at the end of a head, or makes it up. They are taken for statistics where
    all heads that are nothing else hold one, or where names come again with another.
    """
    told = [_split(name, STATISTICS) for name in names]
    last = {name.lower().rpartition(" ")[2] for name in names}
    ends = _ENDS if {"low", "high"} <= last else BARE
    bare = [one if one[1] else _split(one[0], ends) for one in told]
    for found in (bare, told):
        measured = [one for one in found if one[1]]
        kinds: dict[str, set[str]] = {}
        for name, statistic in measured:
            kinds.setdefault(name, set()).add(statistic)
        again = all(len(each) > 1 and each & {"average", "median"} for each in kinds.values())
        same = {statistic for _, statistic in measured} in ({"minimum"}, {"maximum"})
        every = len(measured) == sum(bool(name) for name in names)
        whole = every and (found is told or (same and len(measured) > 1))
        if measured and (again or whole):
            return found
    return [(name, "") for name in names]


def _split(head: str, statistics: Sequence[tuple[str, re.Pattern[str]]]) -> tuple[str, str]:
    """A head without the statistic at its end or its start, where there is one."""
    plain = head.rstrip(" .:)]")
    for statistic, words in statistics:
        for found in words.finditer(plain):
            if found.end() == len(plain):
                rest = plain[: found.start()].rstrip(" /,:;(–-[")
                return "" if _RATE.fullmatch(rest) else rest, statistic
    return head, ""


def names_runs(line: str) -> bool:
    """Whether a line is the head of a table of one run a row: it names rig and title."""
    kinds = {kind_of(plain_head(name.strip('" '))) for name in re.split(r"[\t;,|]", line)}
    return "rig" in kinds and bool(kinds & {"title", "case"})
