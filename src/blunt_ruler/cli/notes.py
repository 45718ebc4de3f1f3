"""The command that notes facts of rigs, parts, titles and alternatives, or lists them."""

from pathlib import Path
from typing import Annotated

import typer

from blunt_ruler.cli.common import app, new_id, read_logbook
from blunt_ruler.core.rigs.fields import fields_of
from blunt_ruler.core.rigs.noting import MODELS, note_facts, noted_of
from blunt_ruler.core.text import MISSING


@app.command()
def note(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    kind: Annotated[str, typer.Argument(help=f"One of {', '.join(MODELS)}.")],
    name: Annotated[
        str,
        typer.Argument(help="Its name; a state is the rig's, worth the review's."),
    ],
    facts: Annotated[
        list[str] | None,
        typer.Argument(help="“restart at each docking: yes”; none lists all."),
    ] = None,
) -> None:
    """Note facts of a rig, a part, a title or an alternative, as the forms of the window do."""
    from blunt_ruler.logbook import Logbook

    if not facts:
        contents, _ = read_logbook(logbook, None)
        value = noted_of(contents, kind.lower(), name).value
        for spec in fields_of(type(value)):
            said = spec.text(getattr(value, spec.name)) or MISSING
            print(f"{spec.says}: {said}{f' {spec.typed_unit}' if spec.unit else ''}")
        return
    with Logbook.open(logbook) as book:
        edit = note_facts(book.contents(), kind.lower(), name, facts, new_id)
        book.commit(edit.label, edit.put, edit.drop)
    print(f"Noted: {edit.label}.")
