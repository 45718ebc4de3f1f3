"""What a script states, how it can be read, and how it stands with the logbook."""

from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.script.numerals import Number


class Answer(StrEnum):
    """How a statement stands with the logbook."""

    HOLDS = "holds"
    FAILS = "does not hold"
    UNKNOWN = "not in the logbook"
    UNCLEAR = "unclear"


class Kind(StrEnum):
    """What is stated."""

    MORE = "more"  # per cent faster
    LESS = "less"  # per cent slower, lost
    KEPT = "kept"  # per cent of
    TIMES = "times"  # times as fast
    SLOWER_TIMES = "times slower"
    RATE = "rate"  # frames per second
    GAINED = "gained"  # frames per second more
    SCORE = "score"  # points
    COUNT = "count"  # in so many titles
    SHARE = "share"  # of a loss, that a part takes
    KEEPS = "keeps"  # a frame rate: “holds 60”
    FASTER = "faster"
    SLOWER = "slower"
    LEVEL = "level"
    PLAYABLE = "playable"
    UNPLAYABLE = "not playable"
    LIMIT = "limit"
    MOST = "most"  # the fastest, the cheapest
    EXTREME = "extreme"  # the title that a loss or a gain is largest or smallest in
    FACT = "fact"  # what is described: watts, prices, sizes


@dataclass(frozen=True, slots=True)
class Reading:
    """One way to read a statement: who, against whom, in what, over what.

    `titles` are names, empty for all; `size` and `preset` are blank where none was said.
    `word` is the cause or the superlative that is named, or what a count says of titles. Readings
    that are not `as_said` are what the words leave open.
    """

    kind: Kind
    rig: str = ""
    base: str = ""
    metric: str = Metric.AVERAGE
    titles: frozenset[str] = frozenset()
    size: str = ""
    preset: str = ""
    word: str = ""
    every: bool = False  # said of each title
    without: frozenset[str] = frozenset()
    as_said: bool = True
    part: str = ""  # of a synthetic test

    def rate_of(self, rig: str, metric: str) -> "Reading":
        """A rig's rates over the same titles, at the same size and preset."""
        return Reading(
            Kind.RATE, rig, "", metric, self.titles, self.size, self.preset, part=self.part
        )


NOT_A_FACT = "not stated as a fact"  # why a statement has no readings, and needs no answer


@dataclass(frozen=True, slots=True)
class Statement:
    """Something in a sentence that can be held against the logbook, with the ways to read it.

    `start` and `end` are places in the sentence. The first reading is the likeliest; `negated`
    statements say that it is not so. `vague` says why it may be of somebody else: then it is wrong
    only where the mistake is known. Where the words tie a figure to nobody firmly, `loose` are
    all other readings of what is named: one that fits makes it unclear, not wrong.
    """

    start: int
    end: int
    readings: tuple[Reading, ...]
    number: Number | None = None
    negated: bool = False
    why_unclear: str = ""
    vague: str = ""
    together: bool = False  # said of all rigs in its readings
    is_against: bool = False  # whom its rigs are held against is named
    is_inherited: bool = False  # the sentence names no rig, nor points to one by “it”
    is_tied: bool = True  # the words say whose the figure is
    loose: tuple[Reading, ...] = ()


@dataclass(frozen=True, slots=True)
class Held:
    """A statement with its answer: which figure it is of, and what is true instead.

    `start` and `end` are places in the whole text, `sentence_start` and `sentence_end` those of
    its sentence. `value` is in the unit of what was said, a share as a share; `note` says what
    was mixed up, `repair` is what should stand in place of its words.
    """

    start: int
    end: int
    sentence_start: int
    sentence_end: int
    text: str
    answer: Answer
    figure: str = ""
    rig: str = ""
    case: str = ""
    base: str = ""
    value: float | None = None
    note: str = ""
    true_sentence: str = ""
    repair: str = ""
    at_s: float | None = None
    readings: tuple[str, ...] = ()
