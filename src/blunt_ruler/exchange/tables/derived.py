"""Rows and columns that are worked out of others: means, totals, shares, differences and ranks."""

import re
from collections.abc import Mapping, Sequence

from blunt_ruler.core.text import list_text
from blunt_ruler.exchange.tables.arithmetic import Number, is_rank, means_of, shares_of
from blunt_ruler.exchange.tables.asking import Asked
from blunt_ruler.exchange.tables.lines import Line, are_runs, rates
from blunt_ruler.exchange.tables.words import SHARE, is_mean

# Digits that must agree beyond chance; of a line that is a rig or a case like the others, more.
ALONE, LIKE_OTHERS = 3.0, 5.0
A_MEAN, A_TITLE = "the mean of the others", "one of them"
_MARK = re.compile(
    r"^[+−–-]?\s*\d[\d.,\s]*%$|^[-−–]\s*\d"
)  # of a share or a difference: no rate has one


def worked_out(
    asked: Asked,
    lines: Sequence[Line],
    columns: Sequence[Line],
    numbers: Sequence[Sequence[Number]],
    body: Sequence[Sequence[str]],
) -> tuple[dict[int, str], dict[int, str]]:
    """Rows and columns that are means, shares or ranks, by their words, their marks or by
    arithmetic.
    """
    across = [*zip(*numbers, strict=True)]
    sides = ((lines, numbers, columns), (columns, across, lines))
    skips: tuple[dict[int, str], dict[int, str]] = ({}, {})
    for skip, (each, *_) in zip(skips, sides, strict=True):
        for n, line in enumerate(each):
            if is_mean(line.plain) and not line.said.statistic:
                skip[n] = "a mean or a total"
    is_marked = [[_MARK.search(cell) is not None for cell in row] for row in body]
    by_side = (
        [any(row) for row in is_marked],
        [any(of) for of in zip(*is_marked, strict=True)],
    )
    runs = are_runs(lines)
    for skip, (each, figures, others), marks in zip(skips, sides, by_side, strict=True):
        if not (runs and each is lines):
            among = {n: 0.0 for n, mark in enumerate(marks) if mark}
            _shares(asked, skip, each, figures, others, among)
    told = [line.said.measure == SHARE or n in skips[0] for n, line in enumerate(lines)]
    heads = [
        line.said.measure == SHARE or n in skips[1] or (runs and bool(line.said.statistic))
        for n, line in enumerate(columns)
    ]
    rest = [
        ["" if row or head else text for text, head in zip(texts, heads, strict=True)]
        for texts, row in zip(body, told, strict=True)
    ]
    for skip, marked in zip(skips, _marked(rest), strict=True):
        skip |= dict.fromkeys(marked, "percentages or differences of other figures")
    for skip, (each, figures, others) in zip(skips, sides, strict=True):
        kept = rates(each, skip)
        alone = len({line.plain for line in others if not line.said.is_other}) < 2
        if len({each[n].said.statistic for n in kept}) == 1:
            for at, mean in means_of([figures[n] for n in kept]).items():
                sure = mean.is_sure and not alone
                if _is_mean_of(asked, each[kept[at]], sure=sure):
                    skip[kept[at]] = f"{mean.words} of the others"
        if not (runs and each is lines):
            # A head that says a low or a median is believed, whatever its figures agree with.
            plain = {
                n: LIKE_OTHERS if one.said.resolution or one.said.preset or one.rig else ALONE
                for n, one in enumerate(each)
                if one.said.statistic in ("", "average")
            }
            _shares(asked, skip, each, figures, others, plain)
    for n in rates(columns, skips[1]):
        if len(columns) > 1 and is_rank(across[n]) and not columns[n].said.statistic:
            skips[1][n] = "a rank"
    return skips


def _shares(
    asked: Asked,
    skip: dict[int, str],
    each: Sequence[Line],
    figures: Sequence[Sequence[Number]],
    others: Sequence[Line],
    among: Mapping[int, float],
) -> None:
    """Find lines, `among` some, that are worked out of two others to so many digits. A low goes
    along with its average, and a pass with the passes before it: they are no evidence of their own.
    """
    first = {
        (line.plain, line.said.resolution, line.said.preset): n
        for n, line in reversed([*enumerate(others)])
        if line.said.statistic in ("", "average")
    }
    own = sorted(first.values())
    kept = rates(each, skip)
    rows = [[figures[n][m] for m in own] for n in kept]
    for at, share in shares_of(rows, [among.get(n) for n in kept]).items():
        line = each[kept[at]]
        of = list_text([each[kept[n]].call or str(n + 1) for n in share.of])
        words = f"the {share.words} of {of}"
        if share.is_sure or (among[kept[at]] < LIKE_OTHERS and _is_share(asked, line, words)):
            skip[kept[at]] = words


def _is_share(asked: Asked, line: Line, words: str) -> bool:
    """Whether a line that agrees with two others, as chance may have it, is worked out of them."""
    name = line.plain or line.call
    question = f"Is {name} {words}, or one of them?"
    return asked.ask(name, question, (words, A_TITLE), proposed=words) == words


def _is_mean_of(asked: Asked, line: Line, *, sure: bool) -> bool:
    """Whether a line that is a mean of others by arithmetic is one. Where chance can say so
    too, it is none if it is a case or a pass like the others, and asked about if not. A pass by its
    number is none: passes lie so close together that one of them often is the mean of the rest.
    """
    said = line.said
    if said.repeat or (line.plain and (said.resolution or said.preset)):
        return False
    if sure:
        return True
    if not line.plain or said.resolution or said.preset or line.rig:
        return False
    name = line.plain or line.call
    words = f"Is {name} the mean of the others, or one of them?"
    return asked.ask(name, words, (A_MEAN, A_TITLE), proposed=A_MEAN) == A_MEAN


def _marked(body: Sequence[Sequence[str]]) -> tuple[set[int], set[int]]:
    """Rows and columns of shares and differences: no rate has a percent sign or is below zero.

    A cell that shows it speaks for its column or its row, whichever has more of them; for neither
    where all cells do.
    """
    marks = [[_MARK.search(cell) is not None for cell in row] for row in body]
    if all(mark or not cell for row, of in zip(marks, body, strict=True)
           for mark, cell in zip(row, of, strict=True)):  # fmt: skip
        return set(), set()
    across = [*zip(*marks, strict=True)]
    rows = [sum(row) / max(1, sum(map(bool, of))) for row, of in zip(marks, body, strict=True)]
    columns = [sum(of) / max(1, sum(bool(row[at]) for row in body)) for at, of in enumerate(across)]
    rows[-1] += 0.5  # what is worked out stands last
    columns[-1] += 0.5
    found: tuple[set[int], set[int]] = (set(), set())
    for at, row in enumerate(marks):
        for place, mark in enumerate(row):
            if mark:
                found[rows[at] <= columns[place]].add(place if rows[at] <= columns[place] else at)
    return found
