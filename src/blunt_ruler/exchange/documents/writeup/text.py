"""The write-up as Markdown, and the narration sheet."""

from collections.abc import Sequence

from blunt_ruler.core.sentences import Sentence, plain
from blunt_ruler.core.writeup.document import Bullets, Document, Grid, Paragraph
from blunt_ruler.core.writeup.narration import Cue
from blunt_ruler.exchange.documents.writeup.page import is_numeric


def markdown(document: Document) -> str:
    """Headings, sentences, tables; charts by their file beside it."""
    lines = [f"# {_plain(document.title)}", "", f"**{_plain(document.line)}**", ""]
    by = f"Tested by {document.byline}. " if document.byline else ""
    lines += [f"{_plain(by)}Figures as of {document.as_of}." if document.as_of else by, ""]
    for section in document.sections:
        lines += [f"## {_plain(section.title)}", ""]
        for block in section.blocks:
            if isinstance(block, Paragraph):
                lines += [" ".join(own_words(one) for one in block.sentences), ""]
            elif isinstance(block, Bullets):
                lines += [*(f"- {own_words(one)}" for one in block.sentences), ""]
            elif isinstance(block, Grid):
                lines += [f"{_plain(block.says)}:", "", *_grid(block), ""]
            else:
                lines += [f"![{_plain(block.says)}](charts/{block.key}.svg)", ""]
    return "\n".join(lines).rstrip() + "\n"


def own_words(one: Sentence) -> str:
    """A sentence, marked where it is the reviewer's."""
    if one.own is None:
        return _plain(one.computed)
    changed = " The figures have changed since." if one.stale else ""
    return f"{_plain(one.own)} *(the reviewer's words; computed: {_plain(one.computed)}{changed})*"


def _grid(grid: Grid) -> list[str]:
    rule = "---:" if is_numeric(grid) else "---"
    return [
        f"| {' | '.join(_cell(head) for head in grid.heads)} |",
        f"|---|{f'{rule}|' * (len(grid.heads) - 1)}",
        *(f"| {' | '.join(_cell(plain([cell])) for cell in row)} |" for row in grid.rows),
    ]


def _plain(words: str) -> str:
    """Words that Markdown must not take for its own marks, on one line."""
    words = words.replace("\r", " ").replace("\n", " ")
    for mark in ("\\", "*", "_", "<", "`", "["):
        words = words.replace(mark, f"\\{mark}")
    return words


def _cell(words: str) -> str:
    return _plain(words).replace("|", "\\|")


def narration_sheet(title: str, cues: Sequence[Cue]) -> str:
    """What to say aloud, section by section, with a box to tick."""
    lines = [f"# Narration: {_plain(title)}", ""]
    for cue in cues:
        lines += [
            f"## {_plain(cue.title)}",
            "",
            *(f"- [ ] {_plain(line)}" for line in cue.lines),
            "",
        ]
    return "\n".join(lines).rstrip() + "\n"
