"""The command that says what each rig costs, draws and weighs, and for whom it makes sense."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import JsonFlag, ReviewName, app, print_json, read_logbook, rig_id
from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.claims.prices import worth_line
from blunt_ruler.core.claims.verdict import verdict_sentences
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.types import no_progress
from blunt_ruler.core.worth.alternatives import (
    alternative_sentence,
    later_sentences,
    pairs_to_win,
    to_win_sentence,
)
from blunt_ruler.core.worth.comparing import price_turning
from blunt_ruler.core.worth.figures import FIGURES, VALUE_FIGURES, figure_text
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import missing_words
from blunt_ruler.core.worth.verdict import judgements
from blunt_ruler.diary import log, timed_stages

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import WorthDocument


@app.command()
def worth(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    review: ReviewName = None,
    against: Annotated[
        str | None, typer.Option(help="Another rig of the logbook to set beside them.")
    ] = None,
    as_json: JsonFlag = False,
) -> None:
    """What each rig costs, draws and weighs, and for whom it makes sense."""
    contents, chosen = read_logbook(logbook, review)
    if against is not None:
        other = rig_id(contents, chosen, against, anywhere=True)
        settings = chosen.worth.model_copy(update={"against": other})
        chosen = chosen.model_copy(update={"worth": settings})
    with timed_stages(log, no_progress) as step:
        analysis = analyse(contents, chosen, step)
    verdict = verdict_sentences(analysis.worth, analysis.claims)
    if as_json:
        print_json(_value(analysis.worth, verdict))
    else:
        _print(analysis.worth, verdict)
        for one in later_sentences(contents, analysis.worth):
            print(one.words)


def _value(found: Worth, verdict: Sequence[Sentence]) -> "WorthDocument":
    return {
        "review": found.review.name,
        "currency": found.currency,
        "cases": list(found.case_ids),
        "rigs": [
            {
                "rig": row.column.name,
                "role": str(row.column.role),
                "efficient": row.efficient,
                "parts": [
                    {
                        "part": line.what,
                        "kind": line.kind,
                        "price": None if line.price is None else line.price.amount,
                        "currency": None if line.price is None else line.price.currency,
                        "count": 1 if line.price is None else line.price.count,
                        "owned": line.owned,
                        "bundle": line.bundle,
                        "date": "" if line.price is None else line.price.date,
                    }
                    for line in row.lines
                ],
                "figures": {str(figure): answer.value for figure, answer in row.figures.items()},
                "missing": {
                    str(figure): list(answer.missing)
                    for figure, answer in row.figures.items()
                    if answer.missing
                },
                "cost_then": None if row.then is None else row.then.value,
                "price_may_rise_by": None
                if (turn := price_turning(found, row.rig_id)) is None
                else turn.rises_by,
                "price_must_fall_by": None if turn is None else turn.falls_by,
            }
            for row in found.rows
        ],
        "alternatives": [
            {
                "name": one.alternative.name,
                "kind": str(one.alternative.kind),
                "frames_are": str(one.alternative.frames_are),
                "source": one.alternative.source,
                "cost": one.cost.value,
                "mean_fps": one.frames.value,
                "least_fps": one.least,
                "most_fps": one.most,
                "gained_fps": one.gained.value,
                "cost_per_gained_frame": one.per_gained.value,
                "to_win": [
                    {
                        "rig": pair.row.column.name,
                        "price": pair.price,
                        "gain_fps": pair.gain,
                        "wins": pair.wins,
                    }
                    for pair in pairs_to_win(found)
                    if pair.other is one
                ],
                "says": alternative_sentence(found, one).computed,
            }
            for one in found.alternatives
        ],
        "missing": [
            {"what": one.what, "blocks": {str(key): list(rigs) for key, rigs in one.blocks.items()}}
            for one in found.missing
        ],
        "verdict": [
            {
                "audience": audience.name,
                "rigs": [
                    {
                        "rig": one.row.column.name,
                        "makes_sense": one.makes_sense,
                        "checks": [
                            {
                                "line": check.line,
                                "limit": check.limit,
                                "value": check.answer.value,
                                "holds": check.holds,
                                "missing": list(check.answer.missing),
                            }
                            for check in one.checks
                        ],
                    }
                    for one in judgements(found, audience)
                ],
            }
            for audience in found.review.audiences
        ],
        "says": [one.computed for one in verdict],
    }


def _print(found: Worth, verdict: Sequence[Sentence]) -> None:
    print(worth_line(found))
    for row in found.rows:
        figures = ", ".join(
            f"{FIGURES[figure].short} {figure_text(row.figures[figure], figure, found.currency)}"
            for figure in VALUE_FIGURES
        )
        best = ", nothing is cheaper and faster" if row.efficient else ""
        print(f"{row.column.name}: {figures}{best}")
    for other in found.alternatives:
        print(alternative_sentence(found, other).words)
    for pair in pairs_to_win(found):
        print(to_win_sentence(found, pair).words)
    for missing in found.missing:
        print(missing_words(missing))
    for one in verdict:
        print(one.words)
