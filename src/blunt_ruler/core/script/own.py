"""The program's own sentences: a script that takes one of them says nothing else."""

import re

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.claims.causes import every_claim
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.speak import aloud, speak
from blunt_ruler.core.script.prose import passages
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.narration import narration


def own_sentences(analysis: Analysis) -> frozenset[str]:
    """Every sentence of report, narration and claims, as `plain_words` writes it."""
    said = [one.computed for part in compose(analysis, ()).sections for one in part.sentences]
    said += [line for cue in narration(analysis) for line in cue.lines]
    claims = every_claim(analysis.claims, analysis.limits, analysis.worth)
    spoken = [speak(one, analysis.board.columns).words for one in claims]
    said += spoken
    said += [aloud(one) for one in spoken]
    said.append(board_headline(analysis.claims))
    found = set()
    for words in said:
        found.add(plain_words(words))
        found.update(plain_words(one.words) for one in passages(words))
    return frozenset(found - {""})


def plain_words(words: str) -> str:
    """Words without what is only dress: case, spaces, signs written out, the full stop."""
    plain = re.sub(r"\s+", " ", words.translate(_SIGNS)).strip().lower()
    plain = re.sub(r"\bper ?cent\b", "%", plain)
    plain = re.sub(r"\b(plus|minus) (?=\d)", lambda one: "+" if one[1] == "plus" else "-", plain)
    plain = re.sub(r"\bone % low", "1% low", plain)
    plain = re.sub(r"(?<=\d) (?=%|\d{3}\b)", "", plain)
    return plain.rstrip(".!?… ")


_SIGNS = str.maketrans({"−": "-", "–": "-", "\u202f": " ", "\u00a0": " ", "\u2009": " ",
                        "’": "'", "‘": "'", "“": '"', "”": '"', "*": " ", "_": " "})  # fmt: skip
