"""The section on what each rig is worth: cost, frames, watts, heat, noise, and prices moved."""

from collections.abc import Iterator

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.claims.prices import level_sentence, turning_sentence, worth_sentence
from blunt_ruler.core.rigs.daily import daily_lines
from blunt_ruler.core.sentences import Figure, Sentence, Span, sentence
from blunt_ruler.core.text import percent_text
from blunt_ruler.core.worth.alternatives import (
    alternative_sentence,
    later_sentences,
    pairs_to_win,
    to_win_sentence,
)
from blunt_ruler.core.worth.comparing import (
    cheapest_gain,
    draw_level,
    moved_name,
    moved_prices,
)
from blunt_ruler.core.worth.figures import (
    RUNNING_FIGURES,
    VALUE_FIGURES,
    WorthFigure,
    figure_head,
    figure_number,
    money_number,
)
from blunt_ruler.core.worth.money import PRICE_CHANGES
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import basis_words, missing_words, then_sentences
from blunt_ruler.core.writeup.document import Block, Bullets, Chart, ChartKey, Grid, Paragraph


def worth(analysis: Analysis) -> tuple[Block, ...]:
    """What each rig costs, draws and weighs."""
    found = analysis.worth
    blocks: list[Block] = [
        Paragraph(
            (
                worth_sentence(found),
                sentence("worth.basis", f"{basis_words(found)}."),
            )
        )
    ]
    if found.points():
        blocks.append(Chart(ChartKey.WORTH, "Cost against frames", _worth_says(found)))
    blocks.append(_grid(found, "Money", VALUE_FIGURES))
    half = RUNNING_FIGURES.index(WorthFigure.OVER_AMBIENT)  # a table of both is wider than a page
    blocks.append(_grid(found, "Power at the wall", RUNNING_FIGURES[:half]))
    blocks.append(_grid(found, "Heat, noise and what there is to carry", RUNNING_FIGURES[half:]))
    if moved_prices(found):
        blocks.append(_price_grid(found))
    said = [
        *then_sentences(found),
        *_prices_say(found),
        *later_sentences(analysis.contents, found),
        *_daily(analysis),
    ]
    said.append(
        sentence(
            "worth.noise",
            f"Noise is reckoned for {found.review.worth.listener_m:g}\u202fm as if in the open; a "
            "room gives back more.",
        )
    )
    blocks.append(Paragraph(tuple(said)))
    if found.alternatives:
        blocks.append(Bullets(tuple(_alternatives(found))))
    if found.missing:
        blocks.append(
            Bullets(
                tuple(
                    sentence(f"worth.missing.{place}", missing_words(one))
                    for place, one in enumerate(found.missing)
                )
            )
        )
    return tuple(blocks)


def _alternatives(found: Worth) -> Iterator[Sentence]:
    """What one could buy instead, then what each rig would need to win over it."""
    for one in found.alternatives:
        yield alternative_sentence(found, one)
    for pair in pairs_to_win(found):
        yield to_win_sentence(found, pair)


def _daily(analysis: Analysis) -> Iterator[Sentence]:
    """What living with each rig was said to be like."""
    for column in analysis.board.columns:
        rig = analysis.contents.rigs[column.rig_id]
        if lines := [*daily_lines(rig)]:
            yield sentence(f"worth.daily.{column.rig_id}", f"{column.name}: {' '.join(lines)}")


def _price_grid(found: Worth) -> Grid:
    """Cost for each gained frame, with the price of each rig moved either way."""
    rows: list[tuple[Span, ...]] = []
    for row, costs in moved_prices(found):
        cells: list[Span] = [row.column.name]
        cells += [
            Figure(money_number(each), moved_name(change), row.rig_id, "", each)
            for change, each in zip(PRICE_CHANGES, costs, strict=True)
        ]
        rows.append(tuple(cells))
    heads = ("rig", *(_change_words(change) for change in PRICE_CHANGES))
    says = f"{found.currency} for each gained frame, if a rig's price moved"
    return Grid(says, heads, tuple(rows))


def _change_words(change: float) -> str:
    return "as priced" if change == 0 else percent_text(change, signed=True)


def _prices_say(found: Worth) -> Iterator[Sentence]:
    best = cheapest_gain(found)
    if best is None:
        return
    turning = turning_sentence(found, best.rig_id)
    if turning is not None:
        yield turning
    reference = found.board.reference
    if reference is not None and reference.rig_id != best.rig_id:
        level = draw_level(found, reference.rig_id, best.rig_id, WorthFigure.GAINED)
        if level is not None:
            yield level_sentence(found, level)


def _grid(found: Worth, says: str, figures: tuple[WorthFigure, ...]) -> Grid:
    """Rigs down, figures across; unknown ones are an en dash."""
    rows: list[tuple[Span, ...]] = []
    for row in found.rows:
        cells: list[Span] = [row.column.name]
        for figure in figures:
            answer = row.figures[figure]
            text = figure_number(answer, figure)
            cells.append(
                text
                if answer.value is None
                else Figure(text, str(figure), row.rig_id, "", answer.value)
            )
        rows.append(tuple(cells))
    heads = ("rig", *(figure_head(figure, found.currency) for figure in figures))
    return Grid(says, heads, tuple(rows))


def _worth_says(found: Worth) -> str:
    best = [row.column.name for row in found.rows if row.efficient]
    return (
        f"Each rig by what is still to be bought and its mean frame rate. Nothing is cheaper and "
        f"faster than {', '.join(best)}."
    )
