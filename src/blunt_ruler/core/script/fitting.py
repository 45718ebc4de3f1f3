"""When a spoken figure is the true one.

A figure fits where the true one, rounded as it was said, is that figure; “about”, “nearly” and
their like widen it as an editor would let them.
"""

from blunt_ruler.core.claims.speak import times_words
from blunt_ruler.core.script.numerals import Hedge, Number, Unit
from blunt_ruler.core.script.statements import Kind
from blunt_ruler.core.text import percent_text

ROUNDING = 0.55  # of the last digit: half of it, and what rounding twice adds (69.46, 69.5, 70)
WHOLE_TIMES = 0.1  # “four times” is not 3.5 times, though that rounds to it


def fits(number: Number, value: float, low: float | None = None, high: float | None = None) -> bool:
    """Whether a true value is what was said; `low` and `high` are the ends a range may have."""
    if number.is_range:
        ends = (value if low is None else low, value if high is None else high)
        return is_near(number, number.low, ends[0]) and is_near(number, number.high, ends[1])
    said = number.low
    slack = _slack(number)
    edge = min(ROUNDING * number.step, 0.02 * said)
    match number.hedge:
        case Hedge.NEARLY:
            return said - max(2.5 * slack, 0.07 * said) <= value < said + edge
        case Hedge.GOOD:
            more = 0.1 if number.step >= 1.0 else 0.01
            return said - edge <= value <= said * (1.0 + more) + edge
        case Hedge.OVER:
            return value >= said - edge
        case Hedge.AT_LEAST:
            return (value if low is None else low) >= said - edge
        case Hedge.UNDER:
            return 0.0 <= value < said + edge
        case Hedge.SMALLEST if low is not None:
            return abs(low - said) <= slack
        case Hedge.LARGEST if high is not None:
            return abs(high - said) <= slack
        case Hedge.UP_TO:
            top = value if high is None else high
            return top <= said + slack and top >= said - max(slack, 0.05 * said)
    return abs(value - said) <= slack


def is_near(number: Number, said: float, value: float) -> bool:
    """Whether an end of a range is the one that was said."""
    wide = number.hedge is Hedge.ABOUT
    return abs(value - said) <= max(ROUNDING * number.step, 0.05 * said if wide else 0.0)


def _slack(number: Number) -> float:
    """How far the truth may lie from what was said."""
    exact = ROUNDING * number.step
    if number.is_word:
        share = number.unit is Unit.PERCENT
        exact = (2.0 if number.low < 45.0 else 2.5) if share else 0.05 * number.low
    elif number.unit is Unit.TIMES and number.step >= 1.0:
        exact = min(exact, WHOLE_TIMES * number.low)
    if number.hedge is not Hedge.ABOUT:
        return exact
    if number.unit is Unit.PERCENT:
        tens = number.low % 10 == 0 and number.low >= 20
        return max(exact, 3.5 if tens else 1.6, 0.08 * number.low)
    return max(exact, 0.06 * number.low)


def value_in(kind: Kind, ratio: float) -> float:
    """A ratio as what is said of it: per cent for shares, times for multiples."""
    match kind:
        case Kind.MORE:
            return (ratio - 1.0) * 100.0
        case Kind.LESS:
            return (1.0 - ratio) * 100.0
        case Kind.KEPT:
            return ratio * 100.0
        case Kind.SLOWER_TIMES:
            return 1.0 / ratio
    return ratio


def figure_words(kind: Kind, ratio: float) -> str:
    """A ratio as it should be said: “25 %”, “2.7 times”."""
    match kind:
        case Kind.MORE | Kind.LESS:
            return percent_text(abs(ratio - 1.0))
        case Kind.KEPT:
            return percent_text(ratio)
        case Kind.SLOWER_TIMES:
            return f"{times_words(1.0 / ratio)} times"
    return f"{times_words(ratio)} times"
