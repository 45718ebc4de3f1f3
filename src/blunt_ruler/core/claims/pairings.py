"""Any rig of a review against any other: averages, lows and scores, and who is whose twin."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property

from blunt_ruler.core.board.board import Board, Column, build_board
from blunt_ruler.core.board.scores import ScoreBoard
from blunt_ruler.core.claims.names import is_full_slot, named_card
from blunt_ruler.core.claims.stated import Stated, stated_changes, stated_mean
from blunt_ruler.core.compare.cell_grid import Cells
from blunt_ruler.core.compare.cell_parts import CellParts, low_parts_of
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.compare import compare_cells
from blunt_ruler.core.compare.results import (
    Comparison,
    Measurement,
    Pooled,
    RigMean,
    RigResult,
)
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.records import Contents, Role

QUICK = 600  # cells that are compared in a few milliseconds
MOST_TWINS = 5  # each is a comparison of its own
LOW_SPREAD = 0.04  # of a low from pass to pass where nothing was repeated (common practice)


class Pairings:
    """The comparisons of one review, each made when it is first asked for."""

    def __init__(
        self,
        contents: Contents,
        board: Board,
        unsound: Unsound,
        scores: ScoreBoard,
        handover: Handover | None = None,
        measured: Sequence[Measurement] = (),
    ) -> None:
        self._measured = measured  # of a table, which has no runs behind its cells
        self.contents, self.board, self.scores = contents, board, scores
        self._unsound, self._handover = unsound, handover or Handover()
        shown = tuple(row.case_id for row in board.rows if not row.unit and row.kind == "game")
        # A Board that shows some of its rows is compared over these alone.
        self.review = (
            board.review.model_copy(update={"case_ids": shown}) if board.over else board.review
        )
        self._boards: dict[str, Board] = {}
        self._lows: dict[str, Comparison | None] = {}
        self._some: dict[tuple[str, frozenset[str]], Mapping[str, RigResult]] = {}

    def title(self, key: str) -> str:
        """A title by its name; tables name it themselves."""
        title = self.contents.titles.get(key)
        return title.name if title is not None else key

    def average(self, rig_id: str, other: str) -> RigMean | None:
        """The mean of a rig's averages over another's."""
        return self._over(self._against(other).totals.get(rig_id), other)

    def average_at(
        self, size: str, cases: frozenset[str], rig_id: str, other: str
    ) -> RigMean | None:
        """The same over some cases of one resolution, as its row of the means by resolution."""
        if (other, cases) not in self._some:
            board = self._against(other)
            of_rigs = {
                rig: {case: parts for case, parts in of_rig.items() if case in cases}
                for rig, of_rig in board.parts.items()
            }
            some = {rig: of_rig for rig, of_rig in of_rigs.items() if of_rig}
            found = self._compared(board, other, some, f"{size} ", self.board.pooled)
            self._some[other, cases] = _by_rig(found)
        return self._over(self._some[other, cases].get(rig_id), other)

    def over_cases(
        self, cases: frozenset[str], rig_id: str, other: str, of_lows: bool = False
    ) -> RigMean | None:
        """The mean over some cases, of averages or of 1% lows, as the Board would take it; where
        it would take none of them, over those that these two have, mixed ones too.
        """
        board, pooled = self._against(other), self.board.pooled
        every = board.parts
        if of_lows:
            every, lows = self._low_cells(board), self._lows_against(other)
            pooled = lows.pooled if lows is not None else None
        cells = {
            rig: {case: parts for case, parts in of_rig.items() if case in cases}
            for rig, of_rig in every.items()
        }
        what = f"{'low ' if of_lows else ''}of {sorted(cases)} "
        there = {rig: of_rig for rig, of_rig in cells.items() if of_rig}
        found = _by_rig(self._compared(board, other, there, what, pooled))
        mean = self._over(found.get(rig_id), other)
        if mean is not None and mean.titles:
            return mean
        pair = {rig: there[rig] for rig in (other, rig_id) if rig in there}
        anyhow = replace(board, comparison=_anyhow(board))
        found = _by_rig(self._compared(anyhow, other, pair, f"{what}anyhow ", pooled))
        return self._over(found.get(rig_id), other)

    def stated(
        self, rig_id: str, other: str, cases: frozenset[str] | None = None
    ) -> RigMean | None:
        """The mean of what is known as percentages alone; None where nothing is."""
        changes = self.stated_of.get((rig_id, other), {})
        return stated_mean(self.contents, self.board, changes, cases)

    @cached_property
    def stated_of(self) -> Stated:
        """All that is known as percentages alone."""
        return stated_changes(self.board)

    def low(self, rig_id: str, other: str) -> RigMean | None:
        """The mean of a rig's 1% lows over another's; None where either has none."""
        return self._over(self.lows(other).get(rig_id), other)

    def lows(self, other: str) -> Mapping[str, RigResult]:
        """The 1% lows compared against another rig, by rig; empty where it has none."""
        return _by_rig(self._lows_against(other))

    def _lows_against(self, other: str) -> Comparison | None:
        if other not in self._lows:
            board = self._against(other)
            self._lows[other] = self._compared(board, other, self._low_cells(board), "low ")
        return self._lows[other]

    def score(self, rig_id: str, other: str) -> tuple[str, RigMean] | None:
        """What a rig's scores come to over another's, and of which parts: those that most tests
        have, graphics before others, for they compare cards.
        """
        reference = self.board.review.rig_in(Role.REFERENCE)
        if not self._is_base(other) and other != reference:
            return None
        found = []
        for name in dict.fromkeys(("graphics", *self.scores.ratios)):
            total = self.scores.ratios.get(name, {}).get(rig_id)
            if total is None:
                continue
            mean = total.over_base if self._is_base(other) else total.of_reference
            if mean is not None:
                found.append((name, mean))
        return max(found, key=lambda one: len(one[1].titles), default=None)

    def work(self, rig_id: str, other: str) -> Iterator[tuple[str, RigMean]]:
        """What each test of other work comes to over the base or the reference, by its case."""
        for key, of_rig in self.scores.work.items():
            total = of_rig.get(rig_id)
            if total is None:
                continue
            if self._is_base(other):
                mean = total.over_base
            elif other == self.board.review.rig_in(Role.REFERENCE):
                mean = total.of_reference
            else:
                mean = None
            if mean is not None:
                yield key, mean

    def is_at_hand(self, other: Column) -> bool:
        """Whether a comparison with another rig takes no time: it is there already, or small."""
        known = (self.board.review.rig_in(Role.BASE), self.board.review.rig_in(Role.REFERENCE))
        return other.rig_id in (*known, *self._boards) or self.are_quick

    @property
    def are_quick(self) -> bool:
        """Whether all comparisons together take no time that anyone notices."""
        return sum(len(of_rig) for of_rig in self.board.parts.values()) <= QUICK

    def _is_base(self, other: str) -> bool:
        return other == self.board.review.rig_in(Role.BASE)

    def _against(self, other: str) -> Board:
        """The Board with a rig as its reference; its own where it is one, or the base."""
        if self._is_base(other) or other == self.board.review.rig_in(Role.REFERENCE):
            return self.board
        if other not in self._boards:
            review = self.review.with_role(other, Role.REFERENCE).against(other)
            self._boards[other] = build_board(
                self.contents, review, self._unsound, self._handover, self.board.pooled
            )
        return self._boards[other]

    def _over(self, total: RigResult | None, other: str) -> RigMean | None:
        """The mean over another rig, which is base or reference of the comparison it is in."""
        if total is None:
            return None
        return total.over_base if self._is_base(other) else total.of_reference

    def _compared(
        self, board: Board, other: str, cells: Cells, what: str, pooled: Pooled | None = None
    ) -> Comparison | None:
        """Some cells of a Board compared over again; None where the other has none.

        Where the base has none the other takes its place, and nothing is read off as a gain.
        """
        if board.comparison is None or other not in cells:
            return None
        base, reference = board.comparison.base, board.comparison.reference
        base = base if base in cells else other
        reference = reference if reference in cells else None
        how, school, standings = board.comparison.how, board.review.low_school, board.standings
        count = len({case for of_rig in cells.values() for case in of_rig})
        return self._handover.of(
            (what, board.review.id, base, reference, count),
            (tuple(cells.items()), how, standings, pooled),
            lambda: compare_cells(
                cells, base, reference, school, how, standings, self._handover, what, pooled
            ),
        )

    def _low_cells(self, board: Board) -> Cells:
        if self._measured:
            return _assumed_where_single(_low_parts(self._measured))
        return _assumed_where_single(board.low_parts)

    def twins(self, column: Column) -> list[Column]:
        """The same card elsewhere, where it does best first: the reference, then rigs whose link
        carries more than this one's. Empty for a card that stands nowhere else.
        """
        card = self.card(column)
        if card is None or column.built_in or column.source:
            return []
        own = column.link_gb_per_s or 0.0
        same = [
            one
            for one in self.board.columns
            if one.rig_id != column.rig_id
            and not one.source
            and self.card(one) == card
            and one.rig_id in self.board.totals
        ]
        found = [
            one
            for one in same
            if one.role is Role.REFERENCE
            or (one.link_gb_per_s or 0.0) > own
            or (_is_full_slot(one) and not _is_full_slot(column))
        ]
        reference = self.board.review.rig_in(Role.REFERENCE)
        return sorted(found, key=lambda one: (one.rig_id != reference, -(one.link_gb_per_s or 0.0)))

    def differ(self, one: Column, other: Column) -> str:
        """By what two rigs of the same card differ: "host", else "link"; blank for other cards."""
        if self.card(one) is None or self.card(one) != self.card(other):
            return ""
        return "host" if one.host != other.host else "link"

    def card(self, column: Column) -> str | None:
        """Its card as described, else as its name names it."""
        rig = self.contents.rigs.get(column.rig_id)  # a table describes none
        if rig is not None and rig.card_id:
            return rig.card_id
        named = named_card(column.name)
        return self._card_ids.get(named, named) or None

    @cached_property
    def _card_ids(self) -> Mapping[str, str]:
        """The described cards by their names in small letters."""
        return {card.name.lower(): key for key, card in self.contents.cards.items()}

    def lost_against(self, column: Column) -> list[tuple[Column, str]]:
        """Whom a rig's loss is measured against, and how they differ: its twins, the best first,
        and the review's reference.
        """
        reference = self.board.reference
        others = self.twins(column)[:MOST_TWINS]
        if reference is not None and reference.rig_id not in (
            column.rig_id,
            *(one.rig_id for one in others),
        ):
            others.append(reference)
        return [(one, self.differ(column, one)) for one in others]


def _is_full_slot(column: Column) -> bool:
    """Whether nobody described its link, and its name says that there is none in between."""
    return not column.link and is_full_slot(column.name)


def _by_rig(found: Comparison | None) -> Mapping[str, RigResult]:
    return {one.rig: one for one in found.rigs} if found is not None else {}


def _anyhow(board: Board) -> Comparison | None:
    """How a Board compares, with what it leaves out of its means."""
    if board.comparison is None:
        return None
    how = replace(board.comparison.how, without=frozenset(), clean_only=False)
    return replace(board.comparison, how=how)


def _low_parts(measured: Sequence[Measurement]) -> dict[str, dict[str, CellParts]]:
    """The lows of measurements, by rig and case."""
    grouped: dict[str, dict[str, list[Measurement]]] = {}
    for one in measured:
        grouped.setdefault(one.rig, {}).setdefault(one.case, []).append(one)
    made = {
        rig: {case: low_parts_of(repeats) for case, repeats in cases.items()}
        for rig, cases in grouped.items()
    }
    return {
        rig: {case: parts for case, parts in cases.items() if parts is not None}
        for rig, cases in made.items()
        if any(cases.values())
    }


def _assumed_where_single(cells: Cells) -> Cells:
    """Lows with the assumed spread, where nothing was repeated that would show one."""
    if any(parts.runs > 1 for of_rig in cells.values() for parts in of_rig.values()):
        return cells
    return {
        rig: {case: replace(parts, assumed=LOW_SPREAD) for case, parts in of_rig.items()}
        for rig, of_rig in cells.items()
    }
