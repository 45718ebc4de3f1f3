"""Count how often claims are wrong, on titles made up here: the bars of the Truth table.

A rig's log rate in a title is its true one, plus what its sitting does to all its titles, plus what
each pass does. Nothing here shares code with `core/claims`.
"""

import numpy as np

from blunt_ruler.core.claims.claim import Metric, Question
from blunt_ruler.core.claims.offer import table_claims
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.results import Measurement
from figures import rate

PASS, SITTING, PASSES = 0.01, 0.005, 3


def reviewed(rng, differences, sitting=SITTING, passes=PASSES, spread=PASS):
    """The claim that rig b gains over rig a by the given log differences, one for each title."""
    days = rng.normal(0.0, sitting, 2)
    levels = rng.uniform(3.5, 5.0, len(differences))
    runs = [
        Measurement(rig, f"c{title}", float(np.exp(level + off + rng.normal(0.0, spread))),
                    title=f"t{title}", sitting="day one")
        for title, (level, difference) in enumerate(zip(levels, differences, strict=True))
        for rig, off in (("a", days[0]), ("b", days[1] + difference))
        for _ in range(passes)
    ]  # fmt: skip
    claims = table_claims(compare(runs, "a"), runs)
    return next(
        one
        for one in claims.about("b")
        if one.question is Question.GAIN and one.metric is Metric.AVERAGE
    )


def claims(trials: int = 1000) -> None:
    """Error rates of what is said of equal rigs, of rigs at the margin, and of means."""
    rng = np.random.default_rng(23)
    for titles in (3, 6, 12):
        for sitting in (0.0, SITTING, 2 * SITTING):
            told = every = held = 0
            for _ in range(trials):
                claim = reviewed(rng, np.zeros(titles), sitting)
                told += claim.counts is not None
                if claim.counts is not None:
                    every += titles in (claim.counts.every_ahead, claim.counts.every_behind)
                held += claim.value.low <= 1.0 <= claim.value.high
            name = f"equal rigs, {titles} titles, a sitting shifts {sitting * 100:g} %"
            bars = {} if sitting > SITTING else {"most": 5.0}
            rate(f"{name}: counts told", told, trials, **bars)
            bars = {} if sitting > SITTING else {"most": 2.5}
            rate(f"{name}: “in all {titles}”", every, trials, **bars)
            bars = {"least": 93.0, "most": 97.0} if sitting == SITTING else {}
            rate(f"{name}: the mean's interval holds", held, trials, **bars)
    for titles in (1, 3, 6):
        level = 0
        for _ in range(trials):
            edge = np.full(titles, np.log(1.03))
            level += reviewed(rng, edge).standing is Standing.LEVEL
        rate(f"“level” at the margin, {titles} titles", level, trials, most=5.0)
    for titles in (6, 12):
        held = 0
        for _ in range(trials):
            value = reviewed(rng, 0.1 + rng.normal(0.0, 0.15, titles)).value
            held += value.like_low <= np.exp(0.1) <= value.like_high
        rate(f"titles like these, {titles}: 95 % intervals hold", held, trials,
             least=93.0, most=97.5)  # fmt: skip
    weaker = 0
    order = [Standing.OPEN, Standing.SLIGHT, Standing.CLEAR]
    for _ in range(trials // 4):
        differences = rng.uniform(0.05, 0.5, 6)
        seed = int(rng.integers(1 << 30))
        few = reviewed(np.random.default_rng(seed), differences[:3]).standing
        more = reviewed(np.random.default_rng(seed), differences).standing
        weaker += order.index(more) < order.index(few) if Standing.LEVEL not in (few, more) else 1
    rate("a title that agrees weakens the standing", weaker, trials // 4, most=0.0)


if __name__ == "__main__":
    claims()
