"""Put a write-up together: the sections in the reviewer's order, with the reviewer's own words."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.records.writeup_settings import SECTION_TITLES, OwnWords, SectionKey
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.text import count_text
from blunt_ruler.core.writeup import closing, opening, results, worth_section
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.core.writeup.document import Block, Bullets, Document, Paragraph, Section

SECTIONS: Mapping[SectionKey, Callable[[Analysis], tuple[Block, ...]]] = {
    SectionKey.VERDICT: opening.verdict,
    SectionKey.TESTED: opening.tested,
    SectionKey.METHOD: opening.method,
    SectionKey.RESULTS: results.results,
    SectionKey.LIMITS: results.limits,
    SectionKey.WORTH: worth_section.worth,
    SectionKey.FOR_AND_AGAINST: closing.for_and_against,
    SectionKey.WENT_WRONG: closing.went_wrong,
    SectionKey.NOT_TESTED: closing.not_tested,
    SectionKey.CAUTIONS: closing.cautions,
    SectionKey.DISCLOSURES: closing.disclosures,
}


def compose(analysis: Analysis, edits: Sequence[PastEdit] = ()) -> Document:
    """The write-up of a review. `edits` are the journal's, oldest first."""
    writeup = analysis.review.writeup
    own = {one.key: one for one in writeup.own_words}
    sections = []
    for key in writeup.sections():
        if key is SectionKey.CORRECTIONS:
            blocks = closing.corrections(analysis, edits)
        else:
            blocks = SECTIONS[key](analysis)
            if not blocks:
                continue  # nothing was said for it
        said = tuple(_in_own_words(block, own) for block in blocks)
        sections.append(Section(key, SECTION_TITLES[key], said))
    return Document(
        title=analysis.review.name,
        line=board_headline(analysis.claims),
        byline=writeup.byline,
        as_of=_as_of(analysis, edits),
        sections=tuple(sections),
    )


def _in_own_words(block: Block, own: Mapping[str, OwnWords]) -> Block:
    if not isinstance(block, Paragraph | Bullets):
        return block
    return replace(block, sentences=tuple(_reworded(one, own) for one in block.sentences))


def _reworded(said: Sentence, own: Mapping[str, OwnWords]) -> Sentence:
    words = own.get(said.key)
    if words is None:
        return said
    return replace(said, own=words.says, stale=words.instead_of != said.computed)


def _as_of(analysis: Analysis, edits: Sequence[PastEdit]) -> str:
    """The day of the newest run or edit: the same inputs always give the same day."""
    moments = [run.taken_at for run in analysis.contents.runs.values() if run.taken_at]
    moments += [edit.at for edit in edits]
    return max(moments, default="")[:10]


def writeup_line(board: Board, scores: Board | None = None) -> str:
    """What can be exported now: frame rates, or scores alone."""
    if not board.cells and scores is not None and scores.cells:
        board = replace(scores, review=board.review)
    if not board.cells:
        return "Nothing to write up yet: the Board has no figures. Import logs first."
    said = (
        f"{count_text(len(board.cells), 'cell')} over {count_text(len(board.columns), 'rig')} and "
        f"{count_text(len(board.rows), 'case')} are ready to export"
    )
    if not board.review.writeup.disclosures:
        return f"{said}; where the tested things came from is not stated yet."
    return f"{said}."
