"""The charts of a review as they are shown one after the other, each with what is said meanwhile.

There is one for the review itself, for each resolution, title, case and test, and the charts of the
write-up. What does not fit on one sheet goes on on the next: nothing is cut.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.lenses import rate_text
from blunt_ruler.core.claims.claim import Metric, Question
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.names import subject_words
from blunt_ruler.core.claims.speak import aloud, predicate
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.records.writeup_settings import SECTION_TITLES, SectionKey
from blunt_ruler.core.runs.score_parts import split_key
from blunt_ruler.core.sentences import plain
from blunt_ruler.core.text import capital, count_text, fps_text, list_text
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.document import Chart, ChartKey
from blunt_ruler.core.writeup.narration import narration
from blunt_ruler.core.writeup.spoken import seconds_of, styled

MOST_BARS = 13  # on a sheet that can be read at a third of its size


class ShotKind(StrEnum):
    """What a chart is of."""

    COVER = "cover"
    OVERVIEW = "resolution"
    TITLE = "title"
    CASE = "case"
    TEST = "test"
    CHART = "chart"
    CLOSING = "closing"


@dataclass(frozen=True, slots=True)
class Bar:
    """One rig's figures: `low` is its 1% low, None where there is none; texts as printed."""

    rig_id: str
    name: str
    value: float
    text: str
    low: float | None = None
    low_text: str = ""


@dataclass(frozen=True, slots=True)
class Group:
    """Bars under one heading."""

    label: str
    bars: tuple[Bar, ...]


@dataclass(frozen=True, slots=True)
class Shot:
    """A chart in the running order: its key, its title, what it shows, and what is said to it."""

    key: str
    kind: ShotKind
    title: str
    says: str = ""
    lines: tuple[str, ...] = ()
    groups: tuple[Group, ...] = ()
    unit: str = "fps"
    chart: ChartKey | None = None
    page: int = 1
    pages: int = 1

    @property
    def full_title(self) -> str:
        """Its title, and which sheet of several it is."""
        return self.title if self.pages == 1 else f"{self.title} ({self.page} of {self.pages})"

    @property
    def whole_key(self) -> str:
        """The key of the chart with all its sheets."""
        return self.key if self.pages == 1 else self.key.rpartition("#")[0]

    def seconds(self, pace: int) -> float:
        """How long its lines take to read out."""
        return sum(seconds_of(line, pace) for line in self.lines)


def every_shot(analysis: Analysis) -> tuple[Shot, ...]:
    """Every chart there can be, in the order in which one would show them."""
    style = analysis.review.writeup.style
    names = _names(analysis.board)
    return tuple(
        replace(one, lines=tuple(styled(line, style, names) for line in one.lines))
        for one in _every(analysis)
    )


def running_order(analysis: Analysis, shots: Sequence[Shot] | None = None) -> tuple[Shot, ...]:
    """The charts that were chosen in their order; without a choice all but single cases whose
    title has a chart of its own.
    """
    every = every_shot(analysis) if shots is None else shots
    chosen = analysis.review.writeup.charts
    if not chosen:
        return usual_order(every)
    pages: dict[str, list[Shot]] = {}
    for one in every:
        pages.setdefault(one.whole_key, []).append(one)
    return tuple(one for key in chosen for one in pages.get(key, ()))


def usual_order(every: Sequence[Shot]) -> tuple[Shot, ...]:
    """All charts but single cases, whose title has a chart of its own."""
    return tuple(one for one in every if one.kind is not ShotKind.CASE)


def whole_keys(shots: Sequence[Shot]) -> tuple[str, ...]:
    """The keys of charts, each once however many sheets it has."""
    return tuple(dict.fromkeys(one.whole_key for one in shots))


def top_values(shots: Sequence[Shot]) -> dict[str, float]:
    """The largest figure of each chart, by its title: all its sheets have one scale."""
    tops: dict[str, float] = {}
    for one in shots:
        values = [bar.value for group in one.groups for bar in group.bars]
        tops[one.title] = max([tops.get(one.title, 0.0), *values])
    return tops


def chapter_list(shots: Sequence[Shot], pace: int) -> tuple[tuple[float, float, str], ...]:
    """(from, to, title) of each chart, s from the first; sheets of one chart are one chapter."""
    found: list[tuple[float, float, str]] = []
    at = 0.0
    for one in shots:
        length = max(one.seconds(pace), LEAST_S)
        if found and found[-1][2] == one.title:
            found[-1] = found[-1][0], at + length, one.title
        else:
            found.append((at, at + length, one.title))
        at += length
    return tuple(found)


LEAST_S = 4.0  # a chart that nothing is said to is shown so long


def _names(board: Board) -> tuple[str, ...]:
    names = {row.title for row in board.rows}
    for column in board.columns:
        names |= {column.name, column.card, column.link, column.host} - {""}
    return tuple(names)


def _every(analysis: Analysis) -> Iterator[Shot]:
    board = analysis.board
    spoken = {cue.title: cue.lines for cue in narration(analysis)}
    yield _cover(analysis, spoken)
    sizes = sorted({row.resolution for row in _games(board) if row.resolution},
                   key=lambda size: megapixels(size) or 0.0)  # fmt: skip
    for size in sizes if len(sizes) > 1 else [""]:
        yield from _overview(analysis, size)
    for title in dict.fromkeys(row.title for row in _games(board)):
        yield from _title(analysis, title)
    for title in dict.fromkeys(row.title for row in analysis.scores.board.rows):
        yield from _test(analysis, title)
    yield from _charts(analysis, spoken)
    yield _closing(analysis, spoken)
    several = [row.title for row in _games(board)]
    for row in _games(board):
        if several.count(row.title) > 1:
            yield from _sheets(
                f"case.{row.case_id}", ShotKind.CASE, row.label, [_group(board, row, "")]
            )


def _games(board: Board) -> list[Row]:
    return [row for row in board.rows if not row.unit and row.kind == "game"]


def _cover(analysis: Analysis, spoken: dict[str, tuple[str, ...]]) -> Shot:
    says = board_headline(analysis.claims)
    tested = spoken.get(SECTION_TITLES[SectionKey.TESTED], ())
    return Shot("cover", ShotKind.COVER, analysis.review.name, says, tested)


def _closing(analysis: Analysis, spoken: dict[str, tuple[str, ...]]) -> Shot:
    lines = (
        *spoken.get(SECTION_TITLES[SectionKey.VERDICT], ()),
        *spoken.get(SECTION_TITLES[SectionKey.DISCLOSURES], ()),
    )
    return Shot("closing", ShotKind.CLOSING, "Verdict", board_headline(analysis.claims), lines)


def _overview(analysis: Analysis, size: str) -> Iterator[Shot]:
    """Every title at one resolution."""
    board = analysis.board
    rows = [row for row in _games(board) if row.resolution == size or not size]
    groups = [_group(board, row, row.title) for row in rows]
    title = f"All titles at {size}" if size else "All titles"
    cases = frozenset(row.case_id for row in rows) if size else None
    lines = tuple(_compared(analysis, cases, f"At {size}, " if size else ""))
    yield from _sheets(f"overview.{size}", ShotKind.OVERVIEW, title, groups, lines)


def _title(analysis: Analysis, title: str) -> Iterator[Shot]:
    """One title at every resolution, averages and lows together."""
    board = analysis.board
    rows = [row for row in _games(board) if row.title == title]
    groups = [_group(board, row, row.settings or row.label) for row in rows]
    lines = [*_rates(board, rows)]
    cases = frozenset(row.case_id for row in rows)
    over = " over all its resolutions" if len(rows) > 1 else ""
    lines += _compared(analysis, cases, f"In {title}{over}, ")
    yield from _sheets(f"title.{title}", ShotKind.TITLE, title, groups, tuple(lines))


def _test(analysis: Analysis, title: str) -> Iterator[Shot]:
    """A synthetic test with its parts."""
    board = analysis.scores.board
    rows = [row for row in board.rows if row.title == title]
    groups = [
        _group(board, row, split_key(row.case_id)[1] or row.settings or title) for row in rows
    ]
    unit = rows[0].unit if rows else "score"
    yield from _sheets(f"test.{title}", ShotKind.TEST, title, groups, (), unit)


def _charts(analysis: Analysis, spoken: dict[str, tuple[str, ...]]) -> Iterator[Shot]:
    """The charts of the write-up that show more than rates."""
    said = {
        ChartKey.WATERFALL: spoken.get(SECTION_TITLES[SectionKey.LIMITS], ()),
        ChartKey.WORTH: spoken.get(SECTION_TITLES[SectionKey.WORTH], ()),
    }
    for section in compose(analysis, ()).sections:
        for block in section.blocks:
            if isinstance(block, Chart) and block.key not in (ChartKey.BOARD, ChartKey.RULER):
                yield Shot(f"chart.{block.key}", ShotKind.CHART, block.title, block.says,
                           said.get(block.key, ()), chart=block.key)  # fmt: skip


def _group(board: Board, row: Row, label: str) -> Group:
    """The bars of one case, every rig that has a figure of it."""
    bars = []
    for column in board.columns:
        cell = board.cells.get((column.rig_id, row.case_id))
        if cell is not None:
            bars.append(_bar(column, cell, row))
    return Group(label, tuple(bars))


def _bar(column: Column, cell: CaseResult, row: Row) -> Bar:
    low = None if row.unit else cell.low_1_fps
    return Bar(
        column.rig_id,
        column.name,
        cell.average_fps,
        rate_text(cell),
        low,
        "" if low is None else fps_text(low),
    )


def _sheets(
    key: str,
    kind: ShotKind,
    title: str,
    groups: Sequence[Group],
    lines: tuple[str, ...] = (),
    unit: str = "fps",
) -> Iterator[Shot]:
    """Groups on as many sheets as they need; what is said belongs to the first."""
    pages = _paged([one for one in groups if one.bars])
    for number, page in enumerate(pages, 1):
        bars = sum(len(one.bars) for one in page)
        says = f"{count_text(bars, 'bar')} of {title}: {_says(page, unit)}"
        yield Shot(
            key if len(pages) == 1 else f"{key}#{number}",
            kind,
            title,
            says,
            lines if number == 1 else (),
            tuple(page),
            unit,
            page=number,
            pages=len(pages),
        )


def _says(groups: Sequence[Group], unit: str) -> str:
    told = []
    for one in groups:
        of_rigs = [
            f"{bar.name} {bar.text}{f', low {bar.low_text}' if bar.low_text else ''}"
            for bar in one.bars
        ]
        told.append(f"{one.label}: {'; '.join(of_rigs)}" if one.label else "; ".join(of_rigs))
    return f"{'. '.join(told)} ({unit})."


def _paged(groups: Sequence[Group]) -> list[list[Group]]:
    """Groups in order on sheets of at most MOST_BARS bars; a larger group is continued."""
    pages: list[list[Group]] = []
    room = 0
    for group in groups:
        left = list(group.bars)
        label = group.label
        if len(left) <= MOST_BARS and len(left) > room:
            pages.append([])
            room = MOST_BARS
        while left:
            if room <= 0:
                pages.append([])
                room = MOST_BARS
            part, left = left[:room], left[room:]
            pages[-1].append(Group(label, tuple(part)))
            room -= len(part)
            label = f"{group.label} (continued)" if group.label else ""
    return pages


# What is said


def _told_rigs(board: Board) -> list[Column]:
    """Base, the first rig under test, and reference: more figures in a row nobody follows."""
    tested = [
        one for one in board.columns if one.role is Role.TESTED and one.rig_id in board.totals
    ]
    chosen = [board.base, *tested[:1], board.reference]
    return [one for one in chosen if one is not None]


def _spoken_name(column: Column, board: Board) -> str:
    """A rig as it is read out: the reference by where it stands, so that its name's number does not
    run into its figure.
    """
    alike = [one for one in board.columns if one.host == column.host]
    if column.role is Role.REFERENCE and column.host and len(alike) == 1:
        return f"the {column.host}"
    return subject_words(column, board.columns)


def _rates(board: Board, rows: Sequence[Row]) -> Iterator[str]:
    """“In Tidewrack at 1080p, the built-in iG-6 averages 27.5 frames per second, …”."""
    for place, row in enumerate(rows):
        told: list[str] = []
        lows: list[str] = []
        for column in _told_rigs(board):
            cell = board.cells.get((column.rig_id, row.case_id))
            if cell is None or cell.bound is not Bound.POINT:
                continue
            name = _spoken_name(column, board)
            verb, unit = (" averages", " frames per second") if not told else ("", "")
            told.append(f"{name}{verb} {fps_text(cell.average_fps)}{unit}")
            if not place and cell.low_1_fps is not None and column.role is Role.TESTED:
                low = fps_text(cell.low_1_fps)
                lows.append(f"The one per cent low of {name} is {low} frames per second there")
        if told:
            at = f" at {row.resolution}" if row.resolution else ""
            yield f"In {row.title}{at}, {list_text(told)}."
            yield from (f"{one}." for one in lows)


def _compared(analysis: Analysis, cases: frozenset[str] | None, lead: str) -> Iterator[str]:
    """What the first rig under test gains and loses over some cases, in one sentence."""
    claims = analysis.claims
    board = claims.board
    subject = claims.focus(None)
    if subject is None:
        return
    lost = claims.pairings.lost_against(subject)[:1]
    said: list[str] = []
    titles: tuple[str, ...] = ()
    for question, other in (
        (Question.GAIN, board.base),
        (Question.LOSS, lost[0][0] if lost else None),
    ):
        if other is None or other.rig_id == subject.rig_id:
            continue
        claim = claims.compared(question, subject, other, Metric.AVERAGE, cases)
        if claim is not None:
            said.append(plain(predicate(claim)))
            titles = claim.scope.titles
    if said:
        over = "" if lead.startswith("In ") else " on average"
        if over and len(titles) == 1:
            lead, over = f"{lead}in {titles[0]} alone, ", ""
        who = subject_words(subject, board.columns)
        yield aloud(f"{capital(f'{lead}{who} {list_text(said)}{over}')}.")
