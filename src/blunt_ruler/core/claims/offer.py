"""Every claim that the data of a review can carry."""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.lenses import by_eye
from blunt_ruler.core.board.lines import read_words
from blunt_ruler.core.board.scores import OVERALL, ScoreBoard, score_board
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Part, Question, Scope
from blunt_ruler.core.claims.gaps import gap, outcomes
from blunt_ruler.core.claims.pairings import Pairings
from blunt_ruler.core.claims.standing import (
    LOW_MARGIN,
    MARGIN,
    Standing,
    carried_by,
    counts_of,
    estimate_of,
    mean_standing,
    title_standing,
)
from blunt_ruler.core.claims.trends import crossings, trends
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.like_for_like import unnoted_facts
from blunt_ruler.core.compare.results import Comparison, Measurement, RigMean, TitleRatio
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.records.records import Contents, Review, ReviewRig, Role
from blunt_ruler.core.text import list_text, percent_text

SUFFIXES = {Metric.AVERAGE: "", Metric.LOW: "_low_1", Metric.SCORE: "_score"}
ORDER = [*Question]

SOUND_ON = "cases, those that are sound on"


class Claims:
    """The claims of one review, each made when it is first asked for.

    Without `lows` a rig's lows are left out, which is quicker.
    """

    def __init__(self, pairings: Pairings, margin: float = MARGIN, lows: bool = True) -> None:
        self._of, self._margin, self._lows = pairings, margin, lows
        self._board, self._contents = pairings.board, pairings.contents
        self._about: dict[str, tuple[Claim, ...]] = {}
        self._all: tuple[Claim, ...] | None = None

    @property
    def board(self) -> Board:
        """The Board they are about."""
        return self._board

    def about(self, rig_id: str) -> tuple[Claim, ...]:
        """What one rig gains over the base, and loses against its best twin or the reference."""
        if rig_id not in self._about:
            column = self._board.column(rig_id)
            there = column is not None and self.is_measured(column)
            made = self._gains_and_losses(column) if column and there else ()
            self._about[rig_id] = ranked(made)
        return self._about[rig_id]

    def all(self) -> tuple[Claim, ...]:
        """Every claim, the weightiest of each question first."""
        if self._all is None:
            self._all = ranked(self._every())
        return self._all

    @property
    def subjects(self) -> tuple[Column, ...]:
        """Who is spoken about: rigs under test that are measured."""
        measured = filter(self.is_measured, self._board.columns)
        return tuple(one for one in measured if one.role is Role.TESTED)

    def is_measured(self, column: Column) -> bool:
        """Whether a rig has a counted run, a score, or a percentage of another."""
        scores = self._of.scores
        told = (*scores.ratios.values(), *scores.work.values())
        scored = any(column.rig_id in of_rig for of_rig in told)
        measured = scored or column.rig_id in self._board.totals
        return measured or any(column.rig_id == rig for rig, _ in self._of.stated_of)

    def focus(self, chosen: str | None) -> Column | None:
        """The rig a headline is about: the chosen one where it is under test and measured."""
        measured = self.subjects
        tested = [one for one in self._board.columns if one.role is Role.TESTED]
        own = [one for one in measured if one.rig_id == chosen]
        alone = [one for one in tested if one.rig_id == chosen]
        return next(iter((*own, *measured, *alone)), None)

    def missing(self, subject: Column) -> Iterator[Claim]:
        """What has no figure of a rig: how its runs ended, then what is not told apart, the base
        first; each made when it is asked for.
        """
        yield from outcomes(self._board, [subject])
        yield from self._gaps([subject])

    @property
    def pairings(self) -> Pairings:
        """The comparisons behind them."""
        return self._of

    def compared(
        self,
        question: Question,
        subject: Column,
        other: Column,
        metric: Metric,
        cases: frozenset[str] | None = None,
        group: str = "",
    ) -> Claim | None:
        """One rig against any other, over some cases or over all; None where they share none."""
        pair = subject.rig_id, other.rig_id
        place, part = self._of.differ(subject, other), ""
        if metric is Metric.SCORE:
            part, mean = self._of.score(*pair) or ("", None)
        elif cases is None:
            mean = self._of.low(*pair) if metric is Metric.LOW else self._of.average(*pair)
        else:
            mean = self._of.over_cases(cases, *pair, of_lows=metric is Metric.LOW)
        if mean is None and metric is Metric.AVERAGE:
            mean = self._of.stated(*pair, cases)
        part = "" if part == OVERALL else part
        found = self._claim(question, subject, other, mean, metric, 0.0, place, part)
        return found and replace(found, scope=replace(found.scope, group=group))

    def _every(self) -> Iterator[Claim]:
        compared = [*self._comparisons(), *self._alone()]
        yield from compared
        yield from trends(self._of, compared)
        yield from crossings(self._of, self.subjects, self._margin)
        yield from outcomes(self._board, self._board.columns)
        yield from self._gaps(self.subjects)

    def _comparisons(self) -> Iterator[Claim]:
        for place, subject in enumerate(self.subjects):
            for one in self.about(subject.rig_id):
                yield replace(one, weight=one.weight - place)
            lost_against = self._of.lost_against(subject)
            for behind, (other, differ) in enumerate(lost_against[1:]):
                weight = 80.0 - 20.0 * min(behind, 1) - place
                yield from self._compared(Question.LOSS, subject, other, differ, weight)
            told = {self._board.base, *(other for other, _ in lost_against)}
            for other in self._board.columns:
                if other not in told and (subject.rig_id, other.rig_id) in self._of.stated_of:
                    differ = self._of.differ(subject, other)
                    yield from self._compared(Question.LOSS, subject, other, differ, 55.0 - place)

    def _gaps(self, subjects: Sequence[Column]) -> Iterator[Claim]:
        for subject in subjects:
            lost = [other for other, _ in self._of.lost_against(subject)[:1]]
            for other in (self._board.base, *lost):
                if other is None or other.rig_id == subject.rig_id:
                    continue
                if (subject.rig_id, other.rig_id) not in self._of.stated_of:
                    yield from gap(self._of, subject, other, self._margin)

    def _gains_and_losses(self, subject: Column) -> Iterator[Claim]:
        base = self._board.base
        if base is not None and base.rig_id != subject.rig_id:
            yield from self._compared(Question.GAIN, subject, base)
        for other, differ in self._of.lost_against(subject)[:1]:
            if self._lows or self._of.is_at_hand(other):
                yield from self._compared(Question.LOSS, subject, other, differ)

    def _alone(self) -> Iterator[Claim]:
        """What lies between base and reference: the weightiest where nothing is under test."""
        base, reference = self._board.base, self._board.reference
        if base is None or reference is None:
            return
        weight = 20.0 if self.subjects else 100.0
        differ = self._of.differ(base, reference)
        yield from self._compared(Question.GAIN, reference, base, weight=weight)
        yield from self._compared(Question.LOSS, base, reference, differ, weight)

    def _compared(
        self,
        question: Question,
        subject: Column,
        other: Column,
        place: str = "",
        weight: float = 100.0,
    ) -> Iterator[Claim]:
        """Averages with their lows, lows, and scores."""
        one, two = subject.rig_id, other.rig_id
        lows = self._of.low(one, two) if self._lows else None
        low = self._claim(question, subject, other, lows, Metric.LOW, weight - 30.0, place)
        average = self._claim(
            question, subject, other, self._of.average(one, two), Metric.AVERAGE, weight, place
        )
        if average is not None:
            yield _with_low(average, low)
        if low is not None:
            yield low
        below = weight - (45.0 if average is not None else 0.0)
        stated = self._of.stated(one, two)
        told = self._claim(question, subject, other, stated, Metric.AVERAGE, below, place)
        if told is not None:
            yield replace(told, figure=f"stated_change_of.{two}")
        if (scores := self._of.score(one, two)) is not None:
            part, mean = scores
            below = weight - (40.0 if average is not None else 0.0)
            named = "" if part == OVERALL else part
            made = self._claim(question, subject, other, mean, Metric.SCORE, below, place, named)
            if made is not None:
                yield made
        for place_of, (key, mean) in enumerate(self._of.work(one, two)):
            below = weight - (50.0 if average is not None else 5.0) - place_of
            made = self._claim(question, subject, other, mean, Metric.SCORE, below, place)
            if made is not None:
                name = "work_gain" if question is Question.GAIN else "work_change"
                speed = replace(made.scope, is_speed=True)
                yield replace(made, scope=speed, figure=f"{name}.{two}.{key}")

    def _claim(
        self,
        question: Question,
        subject: Column,
        other: Column,
        mean: RigMean | None,
        metric: Metric,
        weight: float,
        place: str = "",
        part: str = "",
    ) -> Claim | None:
        if mean is None or not mean.titles or subject.rig_id == other.rig_id:
            return None
        margin = LOW_MARGIN if metric is Metric.LOW else self._margin
        titles = [*mean.titles]
        points = [one for one in titles if one.bound is Bound.POINT] or titles
        standing = mean_standing(mean, margin)
        kind = ClaimKind.MEAN if len(points) > 1 else ClaimKind.TITLE
        if question is Question.LOSS and place:
            kind = ClaimKind.KEPT
        faster = mean.ratio > 1.0 and standing is Standing.CLEAR
        if kind is ClaimKind.KEPT and faster and _is_no_wider(subject, other):
            kind = ClaimKind.UNEXPLAINED
        parts = [self._title_part(one, mean, margin) for one in titles]
        if (carrier := carried_by(mean, margin)) is not None:
            name, ratio, how = carrier
            parts.append(Part("carrier", ratio, how, of=self._of.title(name)))
        return Claim(
            kind=kind,
            question=question,
            subject=subject,
            against=other,
            metric=metric,
            scope=Scope(
                tuple(self._of.title(one.title) for one in points),
                tuple(case for one in points for case in one.cases),
                part=part,
                is_speed=metric is Metric.SCORE and self._is_speed(mean),
            ),
            value=estimate_of(mean),
            bound=mean.bound,
            standing=standing,
            counts=counts_of(points, mean.sittings, margin),
            parts=tuple(parts),
            caveats=tuple(self._caveats(subject, other, mean, titles)),
            place=place,
            figure=self._figure(question, other, metric),
            by_eye=by_eye(mean.kinds),
            margin=margin,
            weight=weight,
        )

    def _figure(self, question: Question, other: Column, metric: Metric) -> str:
        """The name of a claim's figure: means over the base and against the reference have their
        own, others are a change of whom they are against.
        """
        reference = self._board.reference
        if question is Question.GAIN:
            name = "mean_gain"
        elif reference is not None and reference.rig_id == other.rig_id:
            name = "mean_loss"
        else:
            name = f"change_of.{other.rig_id}"
        return f"{name}{SUFFIXES[metric]}"

    def _is_speed(self, mean: RigMean) -> bool:
        """Whether scores are times, of which less is better: they were turned into speeds."""
        rows = {row.case_id: row for row in self._of.scores.board.rows}
        cases = [case for one in mean.titles for case in one.cases]
        return all(case in rows and rows[case].lower_is_better for case in cases)

    def _title_part(self, one: TitleRatio, mean: RigMean, margin: float) -> Part:
        how = title_standing(one, mean.sittings, margin)
        return Part("title", math.exp(one.log_ratio), how, one.bound, self._of.title(one.title))

    def _caveats(
        self, subject: Column, other: Column, mean: RigMean, titles: Sequence[TitleRatio]
    ) -> Iterator[str]:
        rigs, review = self._contents.rigs, self._board.review
        if subject.rig_id in rigs and other.rig_id in rigs:
            yield from unnoted_facts(
                self._contents, rigs[subject.rig_id], rigs[other.rig_id], review.varies
            )
        if read := read_words(mean.kinds):
            yield read
        bounds = [one for one in titles if one.bound is not Bound.POINT]
        if bounds and len(bounds) < len(titles):
            yield list_text(
                [f"{one.bound} {percent_text(math.exp(one.log_ratio) - 1.0, signed=True)} in "
                 f"{self._of.title(one.title)}" for one in bounds if one.bound is not Bound.OPEN]
            ) or "one title with bounds on both sides left out"  # fmt: skip
        if mean.missing:
            comparison = self._board.comparison
            of_all = comparison is not None and comparison.how.shared
            on = "every rig" if of_all else "both rigs"
            yield f"over {mean.cases} of {mean.of_cases} {SOUND_ON} {on}"

    def events(self) -> Iterator[Claim]:
        """What happened besides gains and losses: who overtakes whom, what did not run, and what
        the loss of each rig does with resolution, against its best twin alone.
        """
        told: set[tuple[str, str]] = set()
        for one in self.all():
            if one.kind in (ClaimKind.CROSSING, ClaimKind.OUTCOME, ClaimKind.TREND):
                is_trend = one.kind is ClaimKind.TREND
                what = one.kind, one.subject.rig_id if is_trend else one.says
                if what not in told:
                    told.add(what)
                    yield one


def claims_on(
    contents: Contents, board: Board, unsound: Unsound | None = None, margin: float = MARGIN
) -> Claims:
    """The claims of a Board by itself, as commands and tests have it."""
    scores = score_board(contents, board)
    return Claims(Pairings(contents, board, unsound or {}, scores), margin)


def table_claims(
    result: Comparison, measured: Sequence[Measurement], margin: float = MARGIN
) -> Claims:
    """The claims of a table of results, whose rigs are names alone."""
    roles = {result.base: Role.BASE, result.reference: Role.REFERENCE}
    seats = tuple(
        ReviewRig(rig_id=rig.rig, role=roles.get(rig.rig, Role.TESTED)) for rig in result.rigs
    )
    columns = tuple(
        Column(seat.rig_id, seat.rig_id, seat.rig_id, "", "", seat.role, False, None)
        for seat in seats
    )
    board = Board(
        review=Review(id="table", name="table", seats=seats),
        columns=columns,
        rows=(),
        cells={},
        totals={rig.rig: rig for rig in result.rigs},
        runs={},
        comparison=result,
    )
    pairings = Pairings(Contents.empty(), board, {}, ScoreBoard(board), None, measured)
    return Claims(pairings, margin)


def ranked(claims: Iterable[Claim]) -> tuple[Claim, ...]:
    """By question, the weightiest first."""
    return tuple(sorted(claims, key=lambda one: (ORDER.index(one.question), -one.weight)))


def _with_low(claim: Claim, low: Claim | None) -> Claim:
    """An average with what its lows do, for the same sentence."""
    if low is None or low.value is None:
        return claim
    return replace(
        claim, parts=(*claim.parts, Part("low", low.value.ratio, low.standing, low.bound))
    )


def _is_no_wider(subject: Column, other: Column) -> bool:
    """Whether a rig's link is known to carry no more than another's."""
    own, theirs = subject.link_gb_per_s, other.link_gb_per_s
    return own is not None and theirs is not None and own <= theirs
