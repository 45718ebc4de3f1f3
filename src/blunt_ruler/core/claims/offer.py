"""Every claim that the data of a review can carry."""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.lenses import by_eye
from blunt_ruler.core.board.lines import read_words
from blunt_ruler.core.board.scores import OVERALL, ScoreBoard, score_board
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Part, Question, Scope
from blunt_ruler.core.claims.names import base_words, place_words, subject_words
from blunt_ruler.core.claims.pairings import Pairings
from blunt_ruler.core.claims.standing import (
    LOW_MARGIN,
    MARGIN,
    Standing,
    arm,
    carried_by,
    counts_of,
    estimate_of,
    mean_standing,
    title_standing,
)
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.like_for_like import unnoted_facts
from blunt_ruler.core.compare.results import Comparison, Measurement, RigMean, TitleRatio
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.records.records import Contents, Review, ReviewRig, Role
from blunt_ruler.core.text import capital, count_text, list_text, percent_text

TREND = 0.10  # a loss that differs by more between resolutions is told by resolution
NOTABLE = 0.08  # lows that gain so much less than averages are told beside them
SCATTERED = math.log(1.5)  # titles that lie farther apart have their range told
SUFFIXES = {Metric.AVERAGE: "", Metric.LOW: "_low_1", Metric.SCORE: "_score"}
ORDER = [*Question]


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
            made = self._gains_and_losses(column, 100.0) if column and there else ()
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
        """Whether a rig has a counted run, or a score."""
        scored = any(column.rig_id in of_rig for of_rig in self._of.scores.ratios.values())
        return scored or column.rig_id in self._board.totals

    def focus(self, chosen: str | None) -> Column | None:
        """The rig a headline is about: the chosen one where it is under test and measured."""
        measured = self.subjects
        tested = [one for one in self._board.columns if one.role is Role.TESTED]
        own = [one for one in measured if one.rig_id == chosen]
        alone = [one for one in tested if one.rig_id == chosen]
        return next(iter((*own, *measured, *alone)), None)

    def _every(self) -> Iterator[Claim]:
        for place, subject in enumerate(self.subjects):
            for one in self.about(subject.rig_id):
                yield replace(one, weight=one.weight - place)
            for behind, (other, differ) in enumerate(self._of.lost_against(subject)[1:]):
                weight = 80.0 - 20.0 * min(behind, 1) - place
                yield from self._losses(subject, other, differ, weight)
        yield from self._alone()
        yield from self._crossings(self.subjects)
        yield from self._outcomes()
        yield from self._gaps(self.subjects)

    def _gains_and_losses(self, subject: Column, weight: float) -> Iterator[Claim]:
        base = self._board.base
        if base is not None and base.rig_id != subject.rig_id:
            yield from self._gains(subject, base, weight)
        for other, differ in self._of.lost_against(subject)[:1]:
            if self._lows or self._of.is_at_hand(other):
                yield from self._losses(subject, other, differ, weight)

    def _alone(self) -> Iterator[Claim]:
        """What lies between base and reference: the weightiest where nothing is under test."""
        base, reference = self._board.base, self._board.reference
        if base is None or reference is None:
            return
        weight = 20.0 if self.subjects else 100.0
        yield from self._gains(reference, base, weight)
        yield from self._losses(base, reference, self._of.differ(base, reference), weight)

    # Gains and losses

    def _gains(self, subject: Column, base: Column, weight: float) -> Iterator[Claim]:
        return self._compared(Question.GAIN, subject, base, "", weight)

    def _losses(self, subject: Column, other: Column, place: str, weight: float) -> Iterator[Claim]:
        return self._compared(Question.LOSS, subject, other, place, weight)

    def _compared(
        self, question: Question, subject: Column, other: Column, place: str, weight: float
    ) -> Iterator[Claim]:
        """Averages with their lows, lows, scores, and what a loss does with resolution."""
        one, two = subject.rig_id, other.rig_id
        lows = self._of.low(one, two) if self._lows else None
        low = self._claim(question, subject, other, lows, Metric.LOW, weight - 30.0, place)
        average = self._claim(
            question, subject, other, self._of.average(one, two), Metric.AVERAGE, weight, place
        )
        if average is not None:
            average = _with_low(average, low)
            trend = self._trend(average, weight + 0.5) if question is Question.LOSS else None
            yield from (claim for claim in (trend, average) if claim is not None)
        if low is not None:
            yield low
        if (scores := self._of.score(one, two)) is not None:
            part, mean = scores
            below = weight - (40.0 if average is not None else 0.0)
            named = "" if part == OVERALL else part
            made = self._claim(question, subject, other, mean, Metric.SCORE, below, place, named)
            if made is not None:
                yield made

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
        parts = [Part("margin", margin)]
        parts += [self._title_part(one, mean, margin) for one in titles]
        if (carrier := carried_by(mean, margin)) is not None:
            name, ratio, how = carrier
            parts.append(Part("carrier", ratio, how, of=self._title(name)))
        return Claim(
            kind=kind,
            question=question,
            subject=subject,
            against=other,
            metric=metric,
            scope=Scope(
                tuple(self._title(one.title) for one in points),
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

    def _title(self, key: str) -> str:
        """A title by its name; tables name it themselves."""
        title = self._contents.titles.get(key)
        return title.name if title is not None else key

    def _is_speed(self, mean: RigMean) -> bool:
        """Whether scores are times, of which less is better: they were turned into speeds."""
        rows = {row.case_id: row for row in self._of.scores.board.rows}
        cases = [case for one in mean.titles for case in one.cases]
        return all(case in rows and rows[case].lower_is_better for case in cases)

    def _title_part(self, one: TitleRatio, mean: RigMean, margin: float) -> Part:
        how = title_standing(one, mean.sittings.sigma, margin)
        return Part("title", math.exp(one.log_ratio), how, one.bound, self._title(one.title))

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
                 f"{self._title(one.title)}" for one in bounds if one.bound is not Bound.OPEN]
            ) or "one title with bounds on both sides left out"  # fmt: skip
        if mean.missing:
            yield f"over the {count_text(mean.cases, 'case')} both have"

    def evidence(self, claim: Claim) -> tuple[str, ...]:
        """Ids of the runs a claim rests on."""
        rigs = [claim.subject.rig_id, *([claim.against.rig_id] if claim.against else [])]
        return tuple(
            run.id
            for case in claim.scope.case_ids
            for rig in rigs
            for run in self._board.counted(rig, case)
        )

    # Trends and crossings

    def _by_resolution(self, rig_id: str, other: str) -> dict[str, dict[str, float]]:
        """Log ratios of a rig to another by resolution and title, of figures on clean cells."""
        found: dict[str, dict[str, list[float]]] = {}
        parts = self._board.parts
        for row in self._board.rows:
            mine = parts.get(rig_id, {}).get(row.case_id)
            theirs = parts.get(other, {}).get(row.case_id)
            if not row.resolution or row.left_out is not None or mine is None or theirs is None:
                continue
            if mine.bound is not Bound.POINT or theirs.bound is not Bound.POINT:
                continue
            of = found.setdefault(row.resolution, {}).setdefault(row.title, [])
            of.append(math.log(mine.average_fps / theirs.average_fps))
        return {
            size: {title: math.fsum(logs) / len(logs) for title, logs in titles.items()}
            for size, titles in found.items()
        }

    def _sized(self, rig_id: str, other: str) -> list[tuple[str, float, tuple[str, ...]]]:
        """(resolution, mean log ratio over the titles that all of them have, those titles), from
        small to large; empty under two resolutions.
        """
        by_size = self._by_resolution(rig_id, other)
        if len(by_size) < 2:
            return []
        common = set.intersection(*(set(titles) for titles in by_size.values()))
        if not common:
            return []
        sizes = sorted(by_size, key=_lines)
        names = tuple(sorted(common))
        return [
            (size, math.fsum(by_size[size][one] for one in names) / len(names), names)
            for size in sizes
        ]

    def _trend(self, claim: Claim, weight: float) -> Claim | None:
        """What a loss does with resolution, where it changes by over ten points."""
        assert claim.against is not None
        sized = self._sized(claim.subject.rig_id, claim.against.rig_id)
        if len(sized) < 2:
            return None
        losses = [(size, 1.0 - math.exp(log)) for size, log, _ in sized]
        (small, first), (large, last) = losses[0], losses[-1]
        steady = all(
            (after - before) * (last - first) >= 0 for (_, before), (_, after) in pairwise(losses)
        )
        if abs(last - first) < TREND or not steady or min(first, last) < 0:
            return None
        way = "shrinks" if last < first else "grows"
        whom = claim.against.name
        if claim.place:
            whom = f"the same card {place_words(claim.against, claim.place)}"
        subject = capital(subject_words(claim.subject, self._board.columns))
        says = (
            f"{subject} loses {percent_text(first)} at {small} to {whom}; that {way} to "
            f"{percent_text(last)} at {large}."
        )
        return replace(
            claim,
            kind=ClaimKind.TREND,
            scope=Scope(sized[0][2], claim.scope.case_ids, f"{small} to {large}"),
            parts=tuple(Part(size, 1.0 - lost) for size, lost in losses),
            counts=None,
            says=says,
            weight=weight,
        )

    def _crossings(self, subjects: Sequence[Column]) -> Iterator[Claim]:
        """From which resolution up one rig overtakes another, told where both ends are clear."""
        columns = [
            one
            for one in self._board.columns
            if one.rig_id in self._board.parts and not one.built_in and not one.source
        ]
        for place, one in enumerate(columns):
            for other in columns[place + 1 :]:
                if one not in subjects and other not in subjects:
                    continue
                sized = self._sized(one.rig_id, other.rig_id)
                if len(sized) < 2:
                    continue
                edge = math.log1p(self._margin)
                first, last = sized[0][1], sized[-1][1]
                if first * last >= 0 or min(abs(first), abs(last)) < edge:
                    continue
                winner, loser = (one, other) if last > 0 else (other, one)
                at = next(size for size, log, _ in sized if log * last > 0 and abs(log) >= edge)
                who = capital(subject_words(winner, self._board.columns))
                whom = subject_words(loser, self._board.columns)
                yield Claim(
                    kind=ClaimKind.CROSSING,
                    question=Question.LOSS,
                    subject=winner,
                    against=loser,
                    metric=Metric.AVERAGE,
                    scope=Scope(sized[0][2], group=f"from {at} up"),
                    standing=Standing.CLEAR,
                    parts=tuple(Part(size, math.exp(log)) for size, log, _ in sized),
                    says=f"From {at} up, {who[0].lower()}{who[1:]} overtakes {whom}; below that it "
                    "is behind.",
                    weight=99.8,
                )  # fmt: skip

    # Outcomes and gaps

    def _outcomes(self) -> Iterator[Claim]:
        """What crashed or did not run, without a figure beside it."""
        for column in self._board.columns:
            failed: dict[str, list[str]] = {}
            for row in self._board.rows:
                runs = self._board.runs.get((column.rig_id, row.case_id), ())
                told = [run.outcome for run in runs if run.outcome]
                if told and (column.rig_id, row.case_id) not in self._board.cells:
                    failed.setdefault(told[0], []).append(row.title)
            for why, titles in failed.items():
                names = list_text([*dict.fromkeys(titles)][:3])
                who = capital(subject_words(column, self._board.columns))
                yield Claim(
                    kind=ClaimKind.OUTCOME,
                    question=Question.GAIN,
                    subject=column,
                    against=None,
                    metric=Metric.OUTCOME,
                    scope=Scope(tuple(dict.fromkeys(titles))),
                    standing=Standing.CLEAR,
                    says=f"{who} did not run {names}: {why.rstrip('.')}.",
                    weight=50.0,
                )

    def _gaps(self, subjects: Sequence[Column]) -> Iterator[Claim]:
        """What is not told apart, or not measured, and what would settle it."""
        for subject in subjects:
            lost = [other for other, _ in self._of.lost_against(subject)[:1]]
            for other in (self._board.base, *lost):
                if other is None or other.rig_id == subject.rig_id:
                    continue
                mean = self._of.average(subject.rig_id, other.rig_id)
                who = capital(subject_words(subject, self._board.columns))
                if mean is None and self._of.score(subject.rig_id, other.rig_id) is not None:
                    continue  # they share a test
                if mean is None:
                    yield self._gap(
                        subject, other, f"{who} shares no measured case with {other.name}: "
                        f"{self._why_none(subject, other)}.",
                    )  # fmt: skip
                elif (
                    mean.bound is Bound.POINT and mean_standing(mean, self._margin) is Standing.OPEN
                ):
                    yield self._gap(subject, other, self._too_close(subject, other, mean))

    def _too_close(self, subject: Column, other: Column, mean: RigMean) -> str:
        """What would tell two rigs apart."""
        who = capital(subject_words(subject, self._board.columns))
        more = passes_to_settle(mean, self._margin, self._passes(subject))
        how = "too close to call by eye" if by_eye(mean.kinds) else "not told apart"
        if more is not None:
            needed = f"about {count_text(more, 'more pass', 'more passes')} of each case"
        elif by_eye(mean.kinds):
            needed = "frame logs of both"
        else:
            needed = "passes on other days, or other titles,"
        return f"{who} and {base_words(other)} are {how}: {needed} would settle it."

    def _gap(self, subject: Column, other: Column, says: str) -> Claim:
        return Claim(
            kind=ClaimKind.GAP,
            question=Question.OPEN,
            subject=subject,
            against=other,
            metric=Metric.AVERAGE,
            scope=Scope(()),
            says=says,
            weight=60.0,
        )

    def _why_none(self, subject: Column, other: Column) -> str:
        """Why two rigs share no case: a cap on both, unlike facts, or nothing measured."""
        mine = self._board.parts.get(subject.rig_id, {})
        theirs = self._board.parts.get(other.rig_id, {})
        both = [case for case in mine if case in theirs]
        if not both:
            return "measure the same case on both"
        if all(mine[case].bound is not Bound.POINT and theirs[case].bound is not Bound.POINT
               for case in both):  # fmt: skip
            return "both sit on a cap; remove it and repeat"
        for case in both:
            if (one := self._board.standings.get((subject.rig_id, case))) and one.differs:
                return one.differs[0]
        return "their cases are left out of the means"

    def _passes(self, subject: Column) -> int:
        counts = [one.runs for one in self._board.parts.get(subject.rig_id, {}).values()]
        return min(counts, default=1)


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


def passes_to_settle(mean: RigMean, margin: float, passes: int) -> int | None:
    """How many more passes of every case would make an open mean level or different; None where
    the days alone leave it open, or for over 20.
    """
    edge, d = math.log1p(margin), abs(math.log(mean.ratio))
    wanted = max((edge - d) / arm(math.inf, 0.90), d / arm(math.inf))
    n = len(mean.titles)
    own = math.fsum(one.variance for one in mean.titles) / n**2
    shared = max(mean.these_error**2 - own, 0.0)
    if wanted <= 0 or wanted**2 <= shared or own <= 0:
        return None
    more = math.ceil(passes * own / (wanted**2 - shared)) - passes
    return more if 1 <= more <= 20 else None


def _is_no_wider(subject: Column, other: Column) -> bool:
    """Whether a rig's link is known to carry no more than another's."""
    own, theirs = subject.link_gb_per_s, other.link_gb_per_s
    return own is not None and theirs is not None and own <= theirs


def is_scattered(claim: Claim) -> bool:
    """Whether its titles lie so far apart that the mean alone says little: by half and more."""
    logs = [math.log(one.value) for one in claim.titles if one.bound is Bound.POINT]
    return len(logs) > 1 and max(logs) - min(logs) >= SCATTERED


def is_notable(claim: Claim) -> bool:
    """Whether lows tell another story than the averages: told beside them."""
    low = claim.part("low")
    if low is None or claim.value is None:
        return False
    apart = math.log(claim.value.ratio) - math.log(low.value)
    clear = (Standing.CLEAR, Standing.SLIGHT)
    return abs(apart) >= NOTABLE or (claim.standing in clear) != (low.standing in clear)


def _lines(resolution: str) -> tuple[float, str]:
    """Resolutions from small to large: by pixels where they are known."""
    return megapixels(resolution) or math.inf, resolution
