"""What prices say: the cheapest gained frame, what draws two rigs level, how far a price may move.

Every figure in a sentence knows of which rig it is.
"""

from blunt_ruler.core.sentences import Figure, Sentence, Span, sentence
from blunt_ruler.core.text import count_text, list_text, percent_text
from blunt_ruler.core.worth.answers import lacks_words
from blunt_ruler.core.worth.comparing import Level, cheapest_gain, price_turning
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, money_text
from blunt_ruler.core.worth.report import Worth

EACH_WORDS = {
    WorthFigure.FRAMES: "frame",
    WorthFigure.LOW: "frame of the 1 % low",
    WorthFigure.GAINED: "gained frame",
    WorthFigure.GAINED_LOW: "gained frame of the 1 % low",
}
VALUE_PER_GAINED = "value_per_gained_frame"
LEVEL_PRICE = "level_price"
RISES_BY, FALLS_BY = "price_may_rise_by", "price_must_fall_by"


def worth_sentence(worth: Worth) -> Sentence:
    """Which gained frame is the cheapest, or what is missing to say so."""
    key, best = "worth.line", cheapest_gain(worth)
    if best is None:
        return sentence(key, _why_no_price(worth))
    each = best.value(WorthFigure.PER_GAINED)
    assert each is not None
    if each == 0:
        return _owned_sentence(worth)
    base = worth.board.base.name if worth.board.base else "the base"
    text = money_text(each, worth.currency)
    said: list[Span] = [
        f"{best.column.name} gives the cheapest gained frame, ",
        Figure(text, WorthFigure.PER_GAINED, best.rig_id, value=each, base=base),
        f" for each over {base}",
    ]
    second = cheapest_gain(worth, but=best.rig_id)
    if second is not None:
        ratio = (second.value(WorthFigure.PER_GAINED) or 0.0) / each if each else 1.0
        said.append(f"; {second.column.name} asks {percent_text(ratio - 1.0)} more")
    unpriced = sum(bool(row.figures[WorthFigure.COST].missing) for row in worth.rows)
    if unpriced:
        verb = "is" if unpriced == 1 else "are"
        said.append(f"; {count_text(unpriced, 'rig')} {verb} not fully priced")
    return sentence(key, said, ".")


def value_per_gained(worth: Worth) -> dict[str, float]:
    """What all parts of a rig are worth for each frame it gains, by rig id, cheapest first."""
    found = {
        row.rig_id: value / gained
        for row in worth.rows
        if (value := row.value(WorthFigure.VALUE)) is not None
        and (gained := row.value(WorthFigure.GAINED)) is not None
        and gained > 0
    }
    return dict(sorted(found.items(), key=lambda one: one[1]))


def _owned_sentence(worth: Worth) -> Sentence:
    """Rigs that are owned through: their gained frames cost nothing more, so value compares."""
    owned = [row.column.name for row in worth.rows if row.value(WorthFigure.PER_GAINED) == 0]
    verb, their = ("is", "its") if len(owned) == 1 else ("are", "their")
    said: list[Span] = [
        f"{list_text(owned)} {verb} owned already, so {their} gained frames cost nothing more"
    ]
    by_value = list(value_per_gained(worth).items())
    if by_value:
        (rig_id, each), *rest = by_value
        column, base = worth.board.column(rig_id), worth.board.base
        text = money_text(each, worth.currency)
        said += [
            f"; by what all parts are worth {column.name if column else rig_id} gives the "
            "cheapest, ",
            Figure(text, VALUE_PER_GAINED, rig_id, value=each, base=base.name if base else ""),
            f" for each over {base.name if base else 'the base'}",
        ]
        if rest:
            second = worth.board.column(rest[0][0])
            more = percent_text(rest[0][1] / each - 1.0)
            said.append(f"; {second.name if second else rest[0][0]} asks {more} more")
    return sentence("worth.line", said, ".")


def worth_line(worth: Worth) -> str:
    """The same as plain words."""
    return worth_sentence(worth).computed


def _why_no_price(worth: Worth) -> str:
    if not worth.rows:
        return "No rig is in this review: choose rigs on the Bench."
    blocking = next((one for one in worth.missing if WorthFigure.PER_GAINED in one.blocks), None)
    runs = [run for of_cell in worth.board.runs.values() for run in of_cell]
    if not worth.board.cells and any(run.typed and run.typed.score for run in runs):
        return "Only scores were measured: a price per gained frame needs frame rates."
    if blocking is None:
        return "No rig gains a frame over the base, so no gained frame has a price."
    return f"No gained frame has a price yet: {lacks_words([blocking.what])}."


def level_sentence(worth: Worth, level: Level) -> Sentence:
    """A level price."""
    key = "worth.level"
    a, b = level.first.column.name, level.second.column.name
    kind = EACH_WORDS.get(level.frames, FIGURES[level.frames].words)
    if level.gains_nothing:
        words = f"{level.gains_nothing} gains no frame, so no price draws it level with another."
        return sentence(key, words)
    if level.price.value is None:
        missing = lacks_words(level.price.missing)
        return sentence(key, f"No price draws {a} level with {b}: {missing}.")
    text = money_text(level.price.value, worth.currency)
    said = f"{a} costs as much as {b} per {kind} at "
    price = Figure(text, LEVEL_PRICE, level.first.rig_id, value=level.price.value, base=b)
    if level.change.value is None:
        return sentence(key, said, price, "; its price now is not known.")
    if abs(level.change.value) < 0.005:
        return sentence(key, said, price, ", which it costs now.")
    way = "more" if level.change.value > 0 else "less"
    change = money_text(abs(level.change.value), worth.currency)
    return sentence(key, said, price, f", {change} {way} than now.")


def turning_sentence(worth: Worth, rig_id: str) -> Sentence | None:
    """How much a rig's price may move; None where it is not known."""
    found, row = price_turning(worth, rig_id), worth.row(rig_id)
    if found is None or row is None:
        return None
    key, name = "worth.turning", row.column.name
    other = worth.row(found.other)
    other_name = other.column.name if other else found.other
    if found.rises_by is not None:
        share = Figure(percent_text(found.rises_by), RISES_BY, rig_id, value=found.rises_by)
        said = f"{name} stays the cheapest gained frame until its price rises by "
        return sentence(key, said, share, f"; then {other_name} is.")
    assert found.falls_by is not None
    share = Figure(percent_text(found.falls_by), FALLS_BY, rig_id, value=found.falls_by)
    return sentence(
        key,
        f"The price of {name} would have to fall by ",
        share,
        f" to give a gained frame as cheap as {other_name}.",
    )
