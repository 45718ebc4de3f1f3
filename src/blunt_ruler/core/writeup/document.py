"""The pieces a write-up is made of. Whatever prints one (page, table, narration) reads these."""

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TypeAlias

from blunt_ruler.core.records.writeup_settings import SectionKey
from blunt_ruler.core.sentences import Figure, Sentence, Span
from blunt_ruler.core.text import count_text


class ChartKey(StrEnum):
    """The charts of a write-up."""

    RULER = "ruler"
    BOARD = "board"
    SCALING = "scaling"
    WATERFALL = "waterfall"
    LADDER = "ladder"
    STRIP = "strip"
    LINK = "link"
    SCORES = "scores"
    REFERENCES = "references"
    WORTH = "worth"


@dataclass(frozen=True, slots=True)
class Paragraph:
    """Sentences that stand together."""

    sentences: tuple[Sentence, ...]


@dataclass(frozen=True, slots=True)
class Bullets:
    """Sentences one below the other."""

    sentences: tuple[Sentence, ...]


@dataclass(frozen=True, slots=True)
class Grid:
    """A table: what it shows, its heads, and rows whose first cell names the row."""

    says: str
    heads: tuple[str, ...]
    rows: tuple[tuple[Span, ...], ...]


@dataclass(frozen=True, slots=True)
class Chart:
    """A chart, and what it shows in words for those who do not see it."""

    key: ChartKey
    title: str
    says: str


Block: TypeAlias = Paragraph | Bullets | Grid | Chart


@dataclass(frozen=True, slots=True)
class Section:
    """One section with its blocks."""

    key: SectionKey
    title: str
    blocks: tuple[Block, ...]

    @property
    def sentences(self) -> tuple[Sentence, ...]:
        """All its sentences, in order."""
        return tuple(
            one
            for block in self.blocks
            if isinstance(block, Paragraph | Bullets)
            for one in block.sentences
        )


@dataclass(frozen=True, slots=True)
class Document:
    """A whole write-up. `as_of` is when the newest run or edit behind it was made."""

    title: str
    line: str
    byline: str
    as_of: str
    sections: tuple[Section, ...]

    def shortened(self, most_rows: int) -> "Document":
        """The same with its long tables cut to so many rows, which say how many more there are;
        for a preview, where nobody scrolls through thousands.
        """

        def cut(block: Block) -> Block:
            if not isinstance(block, Grid) or len(block.rows) <= most_rows:
                return block
            more = count_text(len(block.rows) - most_rows, "more row")
            says = f"{block.says} ({more} in the report)"
            return replace(block, says=says, rows=block.rows[:most_rows])

        sections = (replace(one, blocks=tuple(map(cut, one.blocks))) for one in self.sections)
        return replace(self, sections=tuple(sections))

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every figure printed in sentences and tables, in order."""
        found: list[Figure] = []
        for section in self.sections:
            for block in section.blocks:
                if isinstance(block, Paragraph | Bullets):
                    for one in block.sentences:
                        found.extend(one.figures if one.own is None else ())
                elif isinstance(block, Grid):
                    found.extend(
                        cell for row in block.rows for cell in row if isinstance(cell, Figure)
                    )
        return tuple(found)

    @property
    def charts(self) -> tuple[ChartKey, ...]:
        """The charts it shows."""
        return tuple(
            block.key
            for section in self.sections
            for block in section.blocks
            if isinstance(block, Chart)
        )
