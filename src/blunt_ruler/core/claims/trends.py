"""What resolution does: a loss that shrinks or grows with it, and a rig that overtakes another.

The means at each resolution are over the titles that both rigs have at all of them, so that one
set of titles is followed through.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import combinations, pairwise

from blunt_ruler.core.board.board import Column
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Part, Question, Scope
from blunt_ruler.core.claims.names import capital_subject, place_words, subject_words
from blunt_ruler.core.claims.pairings import Pairings
from blunt_ruler.core.claims.standing import Standing, arm, mean_standing
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.text import count_text, percent_text

TREND = 0.10  # a loss that differs by more between resolutions is told by resolution
Sizes = Mapping[str, frozenset[str]]
"""Ids of cases by resolution, from small to large."""


def trends(of: Pairings, losses: Iterable[Claim]) -> Iterator[Claim]:
    """What the losses of averages do with resolution."""
    for one in losses:
        is_loss = one.question is Question.LOSS and one.metric is Metric.AVERAGE
        if is_loss and (found := _trend(of, one)) is not None:
            yield found


def _trend(of: Pairings, claim: Claim) -> Claim | None:
    """What a loss does, where it changes by over ten points, one way, and beyond its errors."""
    assert claim.against is not None
    sized = _means(of, claim.subject.rig_id, claim.against.rig_id)
    if not sized:
        return None
    losses = [(size, 1.0 - mean.ratio) for size, mean in sized.items()]
    (small, first), (large, last) = losses[0], losses[-1]
    steady = all(
        (after - before) * (last - first) >= 0 for (_, before), (_, after) in pairwise(losses)
    )
    if abs(last - first) < TREND or not steady or min(first, last) < 0:
        return None
    if not _differ(sized[small], sized[large]):
        return None
    way = "shrinks" if last < first else "grows"
    whom = claim.against.name
    if claim.place:
        whom = f"the same card {place_words(claim.against, claim.place)}"
    titles = tuple(of.title(one.title) for one in sized[small].titles)
    over = _over_words(titles, of, claim.subject, claim.against)
    return replace(
        claim,
        kind=ClaimKind.TREND,
        scope=Scope(titles, _cases(sized.values()), f"{small} to {large}"),
        parts=tuple(Part(size, 1.0 - lost) for size, lost in losses),
        counts=None,
        says=f"{capital_subject(claim.subject, of.board.columns)} loses {percent_text(first)} at "
        f"{small} to {whom}{over}; that {way} to {percent_text(last)} at {large}.",
        weight=claim.weight + 0.5,
    )


def _over_words(titles: Sequence[str], of: Pairings, subject: Column, other: Column) -> str:
    """Over which titles, where these are not all that both rigs have; blank where they are."""
    theirs = of.board.parts[other.rig_id]
    every = {
        parts.title for case, parts in of.board.parts[subject.rig_id].items() if case in theirs
    }
    if len(titles) >= len(every):
        return ""
    if len(titles) == 1:
        return f" in {titles[0]}"
    return f" over the {count_text(len(titles), 'title')} measured at each size"


def _differ(one: RigMean, other: RigMean) -> bool:
    """Whether two means of a pair of rigs differ beyond the errors of both."""
    apart = abs(math.log(one.ratio) - math.log(other.ratio))
    reach = arm(min(one.these_freedom, other.these_freedom))
    return apart > reach * math.hypot(one.these_error, other.these_error)


def crossings(of: Pairings, subjects: Sequence[Column], margin: float) -> Iterator[Claim]:
    """From which resolution up one rig overtakes another: told where both ends are clear."""
    columns = [
        one
        for one in of.board.columns
        if one.rig_id in of.board.parts and not one.built_in and not one.source
    ]
    for pair in combinations(columns, 2):
        told = pair[0] in subjects or pair[1] in subjects
        if told and (found := _overtaking(of, *pair, margin)) is not None:
            yield from _crossing(of, *found, margin)


def _overtaking(
    of: Pairings, one: Column, other: Column, margin: float
) -> tuple[Column, Column] | None:
    """(who would overtake, whom) by the rates alone: to look closer takes a comparison."""
    sizes = [*_sizes(of, one.rig_id, other.rig_id).values()]
    if len(sizes) < 2:
        return None
    mine, theirs = of.board.parts[one.rig_id], of.board.parts[other.rig_id]
    first, last = (
        math.fsum(math.log(mine[case].average_fps / theirs[case].average_fps) for case in cases)
        / len(cases)
        for cases in (sizes[0], sizes[-1])
    )
    least = math.log1p(margin) / 2.0  # nothing below it is clear: beyond its error, and with it
    if first * last >= 0 or min(abs(first), abs(last)) < least:
        return None
    return (one, other) if last > 0 else (other, one)


def _crossing(of: Pairings, winner: Column, loser: Column, margin: float) -> Iterator[Claim]:
    sized = _means(of, winner.rig_id, loser.rig_id)
    sides = [_side(mean, margin) for mean in sized.values()]
    if not sides or sides[0] >= 0 or sides[-1] <= 0:
        return
    first_ahead = next(at for at in range(len(sides)) if min(sides[at:]) > 0)
    names = [*sized]
    start = names[first_ahead]
    behind = all(side < 0 for side in sides[:first_ahead])
    who, whom = (subject_words(rig, of.board.columns) for rig in (winner, loser))
    where = "below that" if behind else f"at {names[0]}"
    titles = tuple(of.title(one.title) for one in sized[start].titles)
    over = _over_words(titles, of, winner, loser)
    yield Claim(
        kind=ClaimKind.CROSSING,
        question=Question.LOSS,
        subject=winner,
        against=loser,
        metric=Metric.AVERAGE,
        scope=Scope(
            titles,
            _cases(sized.values()),
            f"from {start} up",
        ),
        standing=Standing.CLEAR,
        parts=tuple(
            Part(size, mean.ratio, mean_standing(mean, margin)) for size, mean in sized.items()
        ),
        says=f"From {start} up, {who} overtakes {whom}{over}; {where} it is behind.",
        weight=99.8,
    )


def _side(mean: RigMean, margin: float) -> int:
    """1 for clearly faster, −1 for clearly slower, 0 for anything else."""
    if mean_standing(mean, margin) is not Standing.CLEAR:
        return 0
    return 1 if mean.ratio > 1.0 else -1


def _means(of: Pairings, rig_id: str, other: str) -> dict[str, RigMean]:
    """The mean of a rig over another at each resolution, all over the same titles, from small to
    large; empty under two resolutions.
    """
    sizes = _sizes(of, rig_id, other)
    while len(sizes) > 1:
        means = {size: of.average_at(size, cases, rig_id, other) for size, cases in sizes.items()}
        found = {size: mean for size, mean in means.items() if mean is not None and mean.titles}
        titles = [{one.title for one in mean.titles} for mean in found.values()]
        common = set.intersection(*titles) if titles else set()
        if len(found) == len(sizes) and all(common == one for one in titles):
            return found
        of_title = of.board.parts[rig_id]
        sizes = {
            size: cases
            for size in found
            if (cases := frozenset(c for c in sizes[size] if of_title[c].title in common))
        }
    return {}


def _sizes(of: Pairings, rig_id: str, other: str) -> Sizes:
    """Cases that both rigs have figures of, of titles that they share at every resolution."""
    mine, theirs = of.board.parts.get(rig_id, {}), of.board.parts.get(other, {})
    found: dict[str, dict[str, str]] = {}
    for row in of.board.rows:
        one, two = mine.get(row.case_id), theirs.get(row.case_id)
        if not row.resolution or row.left_out is not None or one is None or two is None:
            continue
        if one.bound is Bound.POINT and two.bound is Bound.POINT:
            found.setdefault(row.resolution, {})[row.case_id] = one.title
    common = set.intersection(*(set(titles.values()) for titles in found.values())) if found else ()
    shared = {
        size: frozenset(case for case, title in found[size].items() if title in common)
        for size in sorted(found, key=_lines)
    }
    return shared if common else {}


def _cases(means: Iterable[RigMean]) -> tuple[str, ...]:
    return tuple(case for mean in means for case in mean.case_ids)


def _lines(resolution: str) -> tuple[float, str]:
    """Resolutions from small to large: by pixels where they are known."""
    return megapixels(resolution) or math.inf, resolution
