"""Comparisons without a figure against the logbook: faster, the same, playable, the cheapest."""

from collections.abc import Sequence
from dataclasses import replace

from blunt_ruler.core.claims.causes import cause_of
from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.script.statements import Kind, Reading
from blunt_ruler.core.script.truths import Found, Rate, Truths
from blunt_ruler.core.script.verdict import UNHEARD, Verdict
from blunt_ruler.core.text import count_text, list_text, percent_text
from blunt_ruler.core.worth.figures import WorthFigure, figure_text

AS_NEAR = 0.01


def way(reading: Reading, truths: Truths, negated: bool) -> Verdict:
    """Faster, slower or level: each title where it is said of every one."""
    found = truths.compared(reading)
    if found is None:
        return UNHEARD
    counts = found.claim.counts if found.claim is not None else None
    truth = truths.sentence(reading, found)
    sign = 1 if reading.kind is Kind.FASTER else -1
    if reading.every or reading.word:
        return _of_each(reading, truths, found, negated, truth)
    sure = found.standing.is_sure
    if reading.kind is Kind.LEVEL:
        right = found.standing is Standing.LEVEL
        if negated:
            right = sure
    else:
        right = sure and (found.ratio - 1.0) * sign > 0
        if negated:
            right = not right and found.standing is not Standing.OPEN
    note = (
        ""
        if counts is None
        else _counts_note(counts.every_ahead, counts.every_behind, counts.titles)
    )
    return Verdict(right, truth, "", found.ratio - 1.0, "" if right else note, "change")


def _counts_note(ahead: int, behind: int, n: int) -> str:
    return f"Faster in {ahead} of {n}, slower in {behind}." if ahead and behind else ""


def _of_each(reading: Reading, truths: Truths, found: Found, negated: bool, truth: str) -> Verdict:
    claim = found.claim
    if claim is None:
        return UNHEARD
    titles = [one for one in claim.titles if one.of not in reading.without]
    sign = 1 if reading.kind is Kind.FASTER else -1

    def goes(value: float, standing: Standing) -> bool:
        if reading.kind is Kind.LEVEL:
            return standing is Standing.LEVEL
        return standing.is_sure and (value - 1.0) * sign > 0

    way = [one for one in titles if goes(one.value, one.standing)]
    k, n = len(way), len(titles)
    if reading.word == "never":
        right = k == 0
    elif reading.word == "most":
        right = k > n / 2
    else:
        right = k == n and not negated
        if negated:
            right = k < n
    word = {Kind.FASTER: "faster than", Kind.SLOWER: "slower than"}.get(reading.kind, "level with")
    what = "test" if reading.metric == Metric.SCORE else "title"
    others = [one.of for one in titles if one not in way]
    but = f", not in {list_text(others)}" if 0 < len(others) <= 2 else ""
    lows = " in its 1% lows" if reading.metric == Metric.LOW else ""
    said = (
        f"{truths.subject(reading.rig)} is {word} {truths.name(reading.base)}{lows} "
        f"in {k or 'none'} of {count_text(n, what)}{but}."
    )
    return Verdict(right, said if n > 1 else truth, "", float(k), "", "titles")


def extreme(reading: Reading, truths: Truths) -> Verdict:
    """The title that a loss or a gain is largest or smallest in, to a per cent; where no rig is
    named, of each that is under test.
    """
    if reading.rig:
        return _extreme_of(reading, truths)
    roles = truths.roles
    is_loss = reading.word.endswith(Kind.LESS)
    bases = {rig: (roles.twins.get(rig) or ("",))[0] if is_loss else roles.base
             for rig in roles.tested}  # fmt: skip
    every = [_extreme_of(replace(reading, rig=rig, base=base), truths)
             for rig, base in bases.items() if base]  # fmt: skip
    known = [one for one in every if one.fits is not None]
    if not known:
        return UNHEARD
    if len({one.fits for one in known}) == 1:
        return known[0]
    both = " ".join(one.true_sentence for one in known[:2])
    return replace(known[0], fits=False, true_sentence=both, open_words=OF_WHICH)


OF_WHICH = "The rigs differ here: say which is meant."


def _extreme_of(reading: Reading, truths: Truths) -> Verdict:
    found = truths.compared(replace(reading, titles=frozenset()))
    parts = found.claim.titles if found is not None and found.claim is not None else ()
    values = {one.of: one.value for one in parts if one.bound is Bound.POINT}
    named = [values[one] for one in sorted(reading.titles) if one in values]
    if len(values) < 2 or not named:
        return UNHEARD
    lowest, highest = min(values, key=values.__getitem__), max(values, key=values.__getitem__)
    wants_low = reading.word in (f"most {Kind.LESS}", f"least {Kind.MORE}")
    end = values[lowest if wants_low else highest]
    right = any(abs(one / end - 1.0) <= AS_NEAR for one in named)
    low, high = (percent_text(values[one] - 1.0, signed=True) for one in (lowest, highest))
    where = f" at {reading.size}" if reading.size else ""
    truth = (f"{truths.subject(reading.rig)} against {truths.name(reading.base)}{where}: lowest in "
             f"{lowest} ({low}), highest in {highest} ({high}).")  # fmt: skip
    return Verdict(right, truth, "", end - 1.0, "", "change")


def playable(reading: Reading, truths: Truths, negated: bool) -> Verdict:
    """Playable is what keeps the lowest target of the review, on average."""
    targets = truths.analysis.review.target_fps
    rates = truths.rates(reading.rate_of(reading.rig, Metric.AVERAGE))
    if not targets or not rates:
        return UNHEARD
    target = min(targets)
    if reading.word.isdigit():
        return _playable_titles(reading, rates, target, truths, negated)
    reached = [one for one in rates if one.value >= target]
    wants = (reading.kind is Kind.PLAYABLE) != negated
    right = len(reached) == len(rates) if wants else not reached
    if negated and len(rates) > 1:
        right = len(reached) < len(rates)
    subject = truths.subject(reading.rig)
    if len(reached) == len(rates):
        many = "in every measured case" if len(rates) > 1 else truths.case_words(rates[0].case)
        truth = f"{subject} stays above {target:g} fps on average {many}."
    else:
        under = [one for one in rates if one.value < target]
        named = truths.cases_with_rates(under, Metric.AVERAGE)
        truth = f"{subject} stays under {target:g} fps {named}."
    return Verdict(
        right, truth, "", None, f"Playable means {target:g} fps on average here.", "playable"
    )


def _playable_titles(
    reading: Reading, rates: Sequence[Rate], target: float, truths: Truths, negated: bool
) -> Verdict:
    """In how many titles a rig keeps the target: in every case of them, or in some."""
    title_of = {row.case_id: row.title for row in truths.board.rows}
    under = {title_of[one.case] for one in rates if one.value < target}
    over = {title_of[one.case] for one in rates if one.value >= target}
    titles = under | over
    wants = (reading.kind is Kind.PLAYABLE) != negated
    counts = (len(titles - under), len(over)) if wants else (len(under), len(titles - over))
    subject, n = truths.subject(reading.rig), count_text(len(titles), "title")
    truth = f"{subject} stays above {target:g} fps on average in {len(titles - under)} of {n}"
    truth += f" at {reading.size}" if reading.size else ""
    truth += f", in some cases of {len(over)}." if counts[0] != counts[1] else "."
    right = int(reading.word) in counts
    note = f"Playable means {target:g} fps on average here."
    return Verdict(right, truth, "", float(counts[0]), note, "playable")


_LIMIT_NAMES = {"cpu": "CPU", "card": "card", "link": "link"}
_PART_OF = {"cpu": "host", "link": "link", "screen": "screen", "card": "card"}


def limit(reading: Reading, truths: Truths, negated: bool) -> Verdict:
    """What holds a rig back: in cases as fitted, over the review what took most of its loss."""
    limits, board = truths.analysis.limits, truths.board
    if limits.fit is None:
        return UNHEARD
    subject = truths.subject(reading.rig)
    cases = truths.cases(reading)
    if cases is not None:
        named = [
            board.limits[reading.rig, case]
            for case in sorted(cases)
            if (reading.rig, case) in board.limits
        ]
        if not named:
            return UNHEARD
        right = all(one == _LIMIT_NAMES.get(reading.word) for one in named)
        if negated:
            right = all(
                one not in (_LIMIT_NAMES.get(reading.word), "open", "mixed") for one in named
            )
        what = {
            "CPU": "by the CPU",
            "card": "by the card",
            "link": "by the link",
            "mixed": "by several things together",
            "open": "by what the data leave open",
        }
        said = list_text([*dict.fromkeys(what.get(one, f"by {one}") for one in named)])
        return Verdict(
            right, f"{subject} is held back {said}{truths.where(reading)}.", "", None, "", "limit"
        )
    column = truths.column(reading.rig)
    cause = cause_of(limits, truths.claims, column) if column is not None else None
    if cause is None:
        return UNHEARD
    shares = limits.lost_by_part(reading.rig)
    main = max((one for one in shares if one != "unexplained"), key=shares.__getitem__)
    right = main == _PART_OF[reading.word]
    return Verdict(right != negated, cause.says, "", shares[main], "", f"loss_{main}")


_RANKED: dict[str, tuple[WorthFigure, bool]] = {
    "cheapest": (WorthFigure.COST, False),
    "most expensive": (WorthFigure.COST, True),
    "quietest": (WorthFigure.NOISE, False),
    "loudest": (WorthFigure.NOISE, True),
    "lightest": (WorthFigure.WEIGHT, False),
    "heaviest": (WorthFigure.WEIGHT, True),
    "best value": (WorthFigure.PER_GAINED, False),
    "most efficient": (WorthFigure.PER_WATT, True),
    "thirstiest": (WorthFigure.LOAD_W, True),
    "quickest": (WorthFigure.FRAMES, True),
    "fastest": (WorthFigure.FRAMES, True),
    "slowest": (WorthFigure.FRAMES, False),
}


def most(reading: Reading, truths: Truths) -> Verdict:
    """Whether a rig leads in what its word names, among all or among those under test."""
    figure, highest = _RANKED[reading.word]
    worth = truths.analysis.worth
    tested = set(truths.roles.tested)
    known = {row.rig_id: value for row in worth.rows if (value := row.value(figure)) is not None}
    of_buying = figure in (
        WorthFigure.COST,
        WorthFigure.PER_GAINED,
        WorthFigure.NOISE,
        WorthFigure.WEIGHT,
    )
    pool = {rig: value for rig, value in known.items() if not of_buying or rig != truths.roles.base}
    if reading.rig not in pool or len(pool) < 2:
        return UNHEARD
    pick = max if highest else min
    best = pick(pool, key=pool.__getitem__)
    among = {rig: value for rig, value in pool.items() if rig in tested}
    own_best = pick(among, key=among.__getitem__) if among else best
    right = reading.rig in (best, own_best)
    note = "" if reading.rig == best else "Of the rigs under test, that is."
    if figure is WorthFigure.FRAMES and right:
        others = [rig for rig in (pool if reading.rig == best else among) if rig != reading.rig]
        for other in others:
            found = truths.compared(Reading(Kind.FASTER, reading.rig, other, Metric.AVERAGE))
            if found is not None and not found.standing.is_sure:
                truth = truths.sentence(Reading(Kind.FASTER, reading.rig, other), found)
                return Verdict(False, truth, "", None, "The two are not told apart.", str(figure))
    row = worth.row(own_best if reading.rig in tested else best)
    assert row is not None
    text = figure_text(row.figures[figure], figure, worth.currency)
    truth = f"{truths.subject(row.rig_id)} is the {reading.word} ({text})."
    return Verdict(right, truth, "", row.value(figure), note if right else "", str(figure))
