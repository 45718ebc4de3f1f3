"""A script as sentences with their places: plain text, Markdown, and subtitles.

What is not spoken (marks of Markdown, addresses, times of subtitles) is blanked out and never
taken away, so that a place in what is read here is the same place in the text itself.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass

LONGEST = 1500  # characters of a sentence: nobody says a longer one
SHORT_LINE = 60  # a line that ends before it without a full stop is a line of its own

UNPUNCTUATED = 60  # words for each full stop, from which on there are none to speak of
LONG_STRETCH = 300  # characters that are read together where there is no full stop

_TIME = r"(?:\d{1,3}:)?\d{1,2}:\d{2}[.,]\d{3}"
_CUE = re.compile(rf"^[ \t]*({_TIME})[ \t]*-->[ \t]*({_TIME})[^\n]*$", re.MULTILINE)
_CUE_NUMBER = re.compile(rf"^[ \t]*[\w .-]{{1,40}}[ \t]*\n(?=[ \t]*{_TIME}[ \t]*-->)", re.MULTILINE)
_CUE_HEADS = re.compile(r"\A\ufeff?WEBVTT[^\n]*|^(?:NOTE|STYLE|REGION)\b[^\n]*(?:\n[^\n]+)*",
                        re.MULTILINE)  # fmt: skip
_UNSPOKEN = re.compile(
    r"^```.*?(?:^```|\Z)"  # code
    r"|<!--.*?-->|</?[a-zA-Z][^<>\n]{0,200}>"  # tags
    r"|\{\\[^{}\n]{0,200}\}"  # marks inside subtitles
    r"|\]\([^()\n]{0,500}\)|!?\[(?=[^\[\]\n]{0,500}\]\()"  # links keep their words
    r"|https?://\S+"
    r"|^[ \t]*(?:[-*_][ \t]*){3,}$"  # rules
    r"|^[ \t]{0,8}(?:[-*+>]|\d{1,3}[.)])[ \t]+"  # items
    r"|(?<!\w)[*_~`]{1,3}(?=\S)|(?<=\S)[*_~`]{1,3}(?!\w)",
    re.MULTILINE | re.DOTALL,
)
_HEADING = re.compile(r"^[ \t]{0,3}#{1,6}[ \t]+([^\n]*)$", re.MULTILINE)
_ALIKE = str.maketrans(
    {
        "\u00a0": " ", "\u202f": " ", "\u2009": " ", "\t": " ", "\r": " ", "\ufeff": " ",
        "−": "-", "‐": "-", "\u2011": "-", "–": "-", "’": "'", "‘": "'", "“": '"', "”": '"',
    }
)  # fmt: skip
_ITEM = re.compile(r"^[ \t]{0,8}(?:[-*+]|\d{1,3}[.)])[ \t]+", re.MULTILINE)
_END = re.compile(r"[.!?…]+[\"')\]]*(?=\s|$)")
_SHORTENED = re.compile(r"\b(?:vs|e\.g|i\.e|approx|incl|excl|no|dr|mr|mrs|st|fig|max|min)\.$", re.I)
_TURN = re.compile(
    r"\s(?=(?:and then|and now|so now|but|so|now|then|next|while|whereas|okay|alright|right"
    r"|because)\s)|\n[ \t]*\n",
    re.I,
)


@dataclass(frozen=True, slots=True)
class Passage:
    """A sentence: where it stands in the text, and its words with what is unspoken blanked out.

    `at_s` is when a subtitle shows it; a heading is said to stand over what follows.
    """

    start: int
    end: int
    words: str
    paragraph: int
    is_heading: bool = False
    at_s: float | None = None


def passages(text: str) -> tuple[Passage, ...]:
    """The sentences of a text, in order."""
    return tuple(_passages(text))


def _passages(text: str) -> Iterator[Passage]:
    plain = text.translate(_ALIKE)
    cues = [(one.start(), _seconds(one[1])) for one in _CUE.finditer(plain)]
    if cues:
        plain = _blanked(_CUE_HEADS, _blanked(_CUE, _blanked(_CUE_NUMBER, plain)))
    heads = [one.start() for one in _HEADING.finditer(plain)]
    items = {one.start() for one in _ITEM.finditer(plain)}
    plain = re.sub(r"^[ \t]{0,3}#{1,6}(?=[ \t])", lambda one: " " * len(one[0]), plain, flags=re.M)
    plain = _blanked(_UNSPOKEN, plain)
    headings = set(heads)
    paragraph, cue = 0, 0
    for start, end, is_new in _stretches(plain, headings, items, bool(cues)):
        paragraph += is_new
        while cue < len(cues) and cues[cue][0] <= start:
            cue += 1
        line = plain.rfind("\n", 0, start) + 1
        yield Passage(
            start,
            end,
            plain[start:end].replace("\n", " "),
            paragraph,
            line in headings,
            cues[cue - 1][1] if cue else None,
        )


def _blanked(pattern: re.Pattern[str], text: str) -> str:
    """The text with every match as spaces; its lines stay."""
    return pattern.sub(lambda one: re.sub(r"[^\n]", " ", one[0]), text)


def _stretches(
    plain: str, headings: set[int], items: set[int], is_subtitles: bool
) -> Iterator[tuple[int, int, bool]]:
    """(start, end, whether it begins a paragraph) of each sentence."""
    place, is_new = 0, True
    if len(_END.findall(plain)) * UNPUNCTUATED < len(plain.split()):
        for one in _unpunctuated(plain, is_subtitles):
            yield (*one, is_new)
            is_new = False
        return
    breaks = [] if is_subtitles else [*_line_breaks(plain, headings, items)]
    for end, ends_paragraph in (*breaks, (len(plain), True)):
        for one in _sentences(plain, place, end):
            yield (*one, is_new)
            is_new = False
        place = end
        is_new = is_new or ends_paragraph


def _unpunctuated(plain: str, is_subtitles: bool) -> Iterator[tuple[int, int]]:
    """Stretches of a text that nobody put full stops into, as captions made by machine; between
    two subtitles nothing ends.
    """
    place = 0
    if is_subtitles:
        plain = plain.replace("\n", " ")
    for one in (*_TURN.finditer(plain), None):
        end = one.start() if one is not None else len(plain)
        while end - place > LONG_STRETCH:
            cut = plain.rfind("\n", place, place + LONG_STRETCH)
            cut = cut if cut > place else place + LONG_STRETCH
            yield from _stripped(plain, place, cut)
            place = cut
        yield from _stripped(plain, place, end)
        place = end


def _line_breaks(plain: str, headings: set[int], items: set[int]) -> Iterator[tuple[int, bool]]:
    """Where a line ends what is said, and whether a paragraph ends there too."""
    place = 0
    while (end := plain.find("\n", place)) >= 0:
        line, after = plain[place:end].strip(), end + 1
        rest = plain[after : after + 200].lstrip(" ")
        if (
            not rest.strip("\n")
            or rest.startswith("\n")
            or not line
            or place in headings
            or after in headings
        ):
            yield end, True
        elif (
            after in items
            or line[-1:] in ".!?…:"
            or (len(line) < SHORT_LINE and rest[:1].isupper())
        ):
            yield end, False
        place = after


def _sentences(plain: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    place = start
    for one in _END.finditer(plain, start, end):
        said = plain[max(place, one.start() - 12) : one.end()]
        after = plain[one.end() : one.end() + 4].lstrip()
        if _SHORTENED.search(said) or (after[:1].islower() and one[0].startswith(".")):
            continue
        yield from _stripped(plain, place, one.end())
        place = one.end()
    yield from _stripped(plain, place, end)


def _stripped(plain: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    said = plain[start:end]
    left = len(said) - len(said.lstrip())
    if words := said.strip():
        yield start + left, start + left + len(words)


def _seconds(words: str) -> float:
    *hours, minutes, seconds = words.replace(",", ".").split(":")
    return int(hours[0] if hours else 0) * 3600.0 + int(minutes) * 60.0 + float(seconds)


def line_and_column(text: str, place: int) -> tuple[int, int]:
    """Where a place is, both counted from one."""
    return text.count("\n", 0, place) + 1, place - text.rfind("\n", 0, place)
