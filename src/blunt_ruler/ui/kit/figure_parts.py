"""The figures a sentence rests on, for an evidence column."""

from collections.abc import Mapping

from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.text import count_text
from blunt_ruler.core.writeup.trace import TracedFigure, figure_words
from blunt_ruler.ui.kit.widgets import Parts, figure_row, label

Traced = Mapping[tuple[str, str, str], TracedFigure]


def figure_parts(said: Sentence, contents: Contents, traced: Traced | None = None) -> Parts:
    """Each figure with its rig, its base and, where it is traced, how many runs it rests on."""
    if not said.figures:
        return [8, label("It states no measured figure.", "quiet")]
    parts: Parts = [8, label("RESTS ON", "heading")]
    for figure in said.figures:
        rig = contents.rigs.get(figure.rig)
        parts.append(figure_row(figure_words(figure.figure), figure.text))
        words = rig.name if rig else "all rigs"
        if figure.base:
            words += f", against {figure.base}"
        found = traced.get((figure.figure, figure.rig, figure.case)) if traced else None
        if found is not None:
            words += f" · {count_text(len(found.runs), 'run')}" if found.runs else " · as described"
        parts.append(label(words, "small"))
    return parts
