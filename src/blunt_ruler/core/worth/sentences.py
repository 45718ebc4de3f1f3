"""What is said of a review's worth; every figure in a sentence knows of which rig it is."""

from collections.abc import Iterator

from blunt_ruler.core.sentences import Figure, Sentence, Span, sentence
from blunt_ruler.core.text import capital, count_text, list_text, percent_text
from blunt_ruler.core.worth.comparing import Level, cheapest_gain, price_turning
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_text, money_text
from blunt_ruler.core.worth.frames import MEAN_RATE_WORDS
from blunt_ruler.core.worth.report import Missing, Worth

EACH_WORDS = {
    WorthFigure.FRAMES: "frame",
    WorthFigure.LOW: "frame of the 1 % low",
    WorthFigure.GAINED: "gained frame",
    WorthFigure.GAINED_LOW: "gained frame of the 1 % low",
}


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


VALUE_PER_GAINED = "value_per_gained_frame"


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
    if blocking is None:
        return "No rig gains a frame over the base, so no gained frame has a price."
    verb = "are" if blocking.what.startswith("the parts") else "is"
    return f"No gained frame has a price yet: {blocking.what} {verb} missing."


def missing_words(one: Missing) -> str:
    """What is unknown and what it blocks."""
    names = [FIGURES[figure].short for figure in one.blocks]
    rigs = list(dict.fromkeys(rig for rigs in one.blocks.values() for rig in rigs))
    shown = list_text(names if len(names) < 5 else [*names[:3], f"{len(names) - 3} more"])
    of = list_text(rigs) if len(rigs) < 3 else count_text(len(rigs), "rig")
    verb = "are" if one.what.startswith("the parts") else "is"
    return f"{capital(one.what)} {verb} missing: blocks {shown} of {of}."


def basis_words(worth: Worth) -> str:
    """Over which cases frames are put together, and how."""
    return (
        f"{capital(MEAN_RATE_WORDS[worth.review.mean])} over "
        f"{count_text(len(worth.case_ids), 'shared case')}, "
        f"1 % low by the {worth.review.low_school} definition, money in {worth.currency}"
    )


def then_sentences(worth: Worth) -> Iterator[Sentence]:
    """What each rig cost on the day that is set beside, and how it moved since."""
    day = worth.review.worth.then
    for row in worth.rows:
        then, now = row.then, row.figures[WorthFigure.COST]
        if then is None:
            continue
        key, name = f"worth.then.{row.rig_id}", row.column.name
        if then.value is None:
            missing = list_text(then.missing)
            yield sentence(key, f"What {name} cost on {day} is not known: {missing}.")
            continue
        text = money_text(then.value, worth.currency)
        said: list[Span] = [f"{name} cost ", Figure(text, COST_THEN, row.rig_id, "", then.value)]
        said.append(f" on {day}")
        if now.value is not None and then.value > 0:
            text = money_text(now.value, worth.currency)
            moved = percent_text(now.value / then.value - 1.0, signed=True)
            said += [" and costs ", Figure(text, WorthFigure.COST, row.rig_id, "", now.value)]
            said.append(f" now ({moved})")
        yield sentence(key, said, ".")


def prices_line(worth: Worth, rig_id: str) -> str:
    """What a rig costs and what makes most of it, in one sentence."""
    row = worth.row(rig_id)
    if row is None or not row.lines:
        return "No part of this rig is described yet: describe it on the Bench."
    name, cost = row.column.name, row.figures[WorthFigure.COST]
    if cost.value is None:
        return f"What {name} costs is not known: {list_text(cost.missing)}."
    bought = [(line.comes_to.value or 0.0, line.what) for line in row.lines]
    most, what = max(bought)
    said = f"{name} asks for {money_text(cost.value, worth.currency)}"
    if cost.value == 0:
        return f"Nothing of {name} is still to be bought."
    if most < cost.value:
        said += f", {money_text(most, worth.currency)} of it for {what}"
    if row.then is not None and row.then.value:
        moved = percent_text(cost.value / row.then.value - 1.0, signed=True)
        said += f"; {moved} since {worth.review.worth.then}"
    return f"{said}."


def running_line(worth: Worth, rig_id: str) -> str:
    """What a rig draws, and how loud it is, in one sentence."""
    row = worth.row(rig_id)
    if row is None:
        return ""
    said = []
    for figure, words in (
        (WorthFigure.LOAD_W, "draws {} while playing"),
        (WorthFigure.IDLE_W, "{} idle"),
        (WorthFigure.CARD_C, "its card reaches {}"),
        (WorthFigure.NOISE, "it is heard at {}"),
    ):
        if row.value(figure) is not None:
            said.append(words.format(figure_text(row.figures[figure], figure, worth.currency)))
    if not said:
        return f"Nothing was read of power, heat or noise of {row.column.name} yet."
    return f"{row.column.name} {list_text(said)}."


COST_THEN = "cost_then"
LEVEL_PRICE = "level_price"
RISES_BY, FALLS_BY = "price_may_rise_by", "price_must_fall_by"


def level_sentence(worth: Worth, level: Level) -> Sentence:
    """A level price."""
    key = "worth.level"
    a, b = level.first.column.name, level.second.column.name
    kind = EACH_WORDS.get(level.frames, FIGURES[level.frames].words)
    if level.gains_nothing:
        words = f"{level.gains_nothing} gains no frame, so no price draws it level with another."
        return sentence(key, words)
    if level.price.value is None:
        missing = list_text(level.price.missing)
        return sentence(key, f"No price draws {a} level with {b}: {missing} is not known.")
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
        f"{name} would have to fall by ",
        share,
        f" to give a gained frame as cheap as {other_name}.",
    )
