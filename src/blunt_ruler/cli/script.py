"""The command that holds a script against a logbook."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import JsonFlag, ReviewName, app, print_json, read_logbook
from blunt_ruler.cli.long_work import shown_progress
from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.script.corrections import counts_line
from blunt_ruler.core.script.prose import line_and_column
from blunt_ruler.core.script.statements import Answer, Held
from blunt_ruler.core.text import count_text, duration_text

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import ScriptStatement


@app.command()
def script(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    text: Annotated[Path, typer.Argument(help="What will be said: text, Markdown, .srt or .vtt.")],
    review: ReviewName = None,
    as_json: JsonFlag = False,
) -> None:
    """Hold every figure and comparison of a script against the logbook."""
    from blunt_ruler.core.script.check import Checker
    from blunt_ruler.exchange.scripts import load_script

    said = load_script(text)
    contents, chosen = read_logbook(logbook, review)
    with shown_progress() as step:
        held = Checker(analyse(contents, chosen, step)).check(said, step)
    if as_json:
        print_json([_document(one, said) for one in held])
    else:
        _print(held, said)


def _document(one: Held, said: str) -> "ScriptStatement":
    line, column = line_and_column(said, one.start)
    return {
        "text": one.text,
        "line": line,
        "column": column,
        "at_s": one.at_s,
        "answer": str(one.answer),
        "figure": one.figure,
        "rig": one.rig,
        "case": one.case,
        "base": one.base,
        "value": one.value,
        "note": one.note,
        "true_sentence": one.true_sentence,
        "correction": one.repair,
        "readings": list(one.readings),
    }


def _print(held: Sequence[Held], said: str) -> None:
    for one in held:
        if one.answer is Answer.HOLDS:
            continue
        line, column = line_and_column(said, one.start)
        at = f" at {duration_text(one.at_s)}" if one.at_s is not None else ""
        words = [one.note, *(one.readings or (one.true_sentence,))]
        why = " ".join(word for word in words if word)
        print(f"{line}:{column}{at}  {one.answer}: “{one.text.strip()}”{f'. {why}' if why else ''}")
    told = counts_line(held)
    print(f"{count_text(len(held), 'statement')}{': ' if told else ' found'}{told}.")
