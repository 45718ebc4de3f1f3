"""What the truth looks like in the script: the figure alone, or the whole sentence."""

import re
from collections import Counter
from collections.abc import Sequence

from blunt_ruler.core.script.prose import line_and_column
from blunt_ruler.core.script.statements import Answer, Held
from blunt_ruler.core.text import count_text, list_text

BY_HAND = "The sentence runs over several subtitles: correct it by hand"
_DIGITS = re.compile(
    r"(?P<before>\D*?)(?P<number>[+−-]?\s?\d[\d.,\u202f ]*\d|\d)(?P<after>.*)", re.S
)
_UNIT = re.compile(
    r"\s*(?:%|per ?cent|percent|fps|frames(?: (?:per|a) second)?|times|[x×])\s*$", re.I
)
_COUNTED = {
    Answer.HOLDS: ("holds", "hold"),
    Answer.FAILS: ("does not hold", "do not hold"),
    Answer.UNKNOWN: ("is not in the logbook", "are not in the logbook"),
    Answer.UNCLEAR: ("is unclear", "are unclear"),
}


def in_style(said: str, figure: str) -> str:
    """A figure written the way another was said: “33 per cent” and “25 %” make “25 per cent”."""
    plain = figure.replace("\u202f", " ")
    new = _DIGITS.fullmatch(plain)
    if new is None:
        return plain
    old = _DIGITS.fullmatch(said)
    if old is not None:
        sign = old["number"][:1] if old["number"][:1] in "+−-" else ""
        return f"{old['before']}{sign}{new['number'].strip()}{old['after'] or new['after']}"
    unit = _UNIT.search(said)  # it was said in words
    return f"{new['number'].strip()}{unit[0] if unit is not None else new['after']}"


def why_not_put_in(text: str, one: Held) -> str:
    """Why the true sentence cannot take the place of what was said; blank where it can."""
    if not one.true_sentence:
        return "The logbook has no sentence for it"
    if one.answer not in (Answer.FAILS, Answer.UNCLEAR):
        return "It holds" if one.answer is Answer.HOLDS else "The logbook has no sentence for it"
    return BY_HAND if "-->" in text[one.sentence_start : one.sentence_end] else ""


def with_truth(text: str, one: Held) -> str:
    """The script with the true sentence in place of the one that was said."""
    return text[: one.sentence_start] + one.true_sentence + text[one.sentence_end :]


def with_figure(text: str, one: Held) -> str:
    """The script with nothing but the figure put right."""
    return text[: one.start] + in_style(text[one.start : one.end], one.repair) + text[one.end :]


def still_said(text: str, inserted: Sequence[str]) -> tuple[str, ...]:
    """Those of some sentences that still stand in a script, each once."""
    return tuple(dict.fromkeys(one for one in inserted if one and one in text))


def counts_line(held: Sequence[Held]) -> str:
    """“6 hold, 1 does not hold and 1 is unclear”; blank for no statement."""
    counts = Counter(one.answer for one in held)
    told = [f"{counts[one]} {_COUNTED[one][counts[one] > 1]}" for one in Answer if counts[one]]
    return list_text(told)


def script_line(held: Sequence[Held], text: str) -> str:
    """How a script stands, in one sentence."""
    if not text.strip():
        return "Paste or write what will be said: every figure in it is held against the logbook."
    if not held:
        return "It holds no figure and no comparison yet."
    wrong = [one for one in held if one.answer is Answer.FAILS]
    if not wrong:
        if all(one.answer is Answer.HOLDS for one in held):
            if len(held) == 1:
                return "Its one statement holds."
            return f"All {count_text(len(held), 'statement')} hold."
        return f"Nothing in it is wrong: {counts_line(held)}."
    first = wrong[0]
    verb = "does" if len(wrong) == 1 else "do"
    line, _ = line_and_column(text, first.start)
    why = first.note or first.true_sentence
    return (
        f"{len(wrong)} of {count_text(len(held), 'statement')} {verb} not hold. Line {line}: {why}"
    )
