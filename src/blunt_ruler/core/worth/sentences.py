"""What is said of a review's worth; every figure in a sentence knows of which rig it is."""

from collections.abc import Iterator

from blunt_ruler.core.sentences import Figure, Sentence, Span, sentence
from blunt_ruler.core.text import capital, count_text, list_text, percent_text
from blunt_ruler.core.worth.answers import lacks_words
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_text, money_text
from blunt_ruler.core.worth.frames import MEAN_RATE_WORDS
from blunt_ruler.core.worth.report import Missing, Worth


def missing_words(one: Missing) -> str:
    """What is unknown and what it blocks."""
    names = [FIGURES[figure].short for figure in one.blocks]
    rigs = list(dict.fromkeys(rig for rigs in one.blocks.values() for rig in rigs))
    shown = list_text(names if len(names) < 5 else [*names[:3], f"{len(names) - 3} more"])
    of = list_text(rigs) if len(rigs) < 3 else count_text(len(rigs), "rig")
    return f"{capital(lacks_words([one.what]))}: blocks {shown} of {of}."


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
    name = row.column.name
    said: list[str] = []
    for figure, first, further in (
        (WorthFigure.LOAD_W, f"{name} draws {{}} while playing", ""),
        (WorthFigure.IDLE_W, f"{name} draws {{}} idle", "{} idle"),
        (WorthFigure.CARD_C, f"the card of {name} reaches {{}}", "its card reaches {}"),
        (WorthFigure.NOISE, f"{name} is heard at {{}}", "it is heard at {}"),
    ):
        if row.value(figure) is not None:
            words = further if said else first
            said.append(words.format(figure_text(row.figures[figure], figure, worth.currency)))
    if not said:
        return f"Nothing was read of power, heat or noise of {name} yet."
    return f"{capital(list_text(said))}."


COST_THEN = "cost_then"
