"""The command that writes the charts of a video in running order."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    app,
    print_json,
    read_logbook,
)
from blunt_ruler.cli.long_work import shown_progress
from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.text import count_text
from blunt_ruler.core.writeup.shots import Shot, every_shot, running_order
from blunt_ruler.exchange.charts.sheet import CLEAR, SIZES, SVG_KIND

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import ChartInOrder


@app.command()
def charts(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    out: Annotated[
        Path | None, typer.Option(help="Folder for the charts; without it they are listed.")
    ] = None,
    review: ReviewName = None,
    size: Annotated[
        list[str] | None, typer.Option(help="1280x720, 1920x1080, svg or clear; repeatable.")
    ] = None,
    theme: Annotated[list[str] | None, typer.Option(help="paper or slate; repeatable.")] = None,
    every: Annotated[
        bool, typer.Option("--every", help="All there are, not those of the running order.")
    ] = False,
    as_json: JsonFlag = False,
) -> None:
    """Charts in running order, numbered, with chapters and what is said to each."""
    kinds, themes = tuple(size or ("1920x1080",)), tuple(theme or ("paper",))
    known = (*SIZES, SVG_KIND, CLEAR)
    if bad := next((one for one in kinds if one not in known), None):
        raise BadOption("--size", f"there is no “{bad}”", f"Choose one of {', '.join(known)}")
    if bad := next((one for one in themes if one not in ("paper", "slate")), None):
        raise BadOption("--theme", f"there is no “{bad}”", "Choose paper or slate")
    contents, chosen = read_logbook(logbook, review)
    with shown_progress() as step:
        analysis = analyse(contents, chosen, step)
        found = every_shot(analysis)
        shots = found if every else running_order(analysis, found)
        written: tuple[Path, ...] = ()
        if out is not None:
            from blunt_ruler.exchange.documents.writeup.running import write_shots

            written = write_shots(analysis, shots, out, kinds, themes, step)
    pace = analysis.review.writeup.style.pace
    if as_json:
        print_json([_document(one, pace) for one in shots])
        return
    if out is not None:
        print(f"{count_text(len(written), 'file')} written to {out}.")
        return
    for number, one in enumerate(shots, 1):
        print(f"{number:02d}  {one.seconds(pace):5.1f} s  {one.full_title}")


def _document(one: Shot, pace: int) -> "ChartInOrder":
    return {
        "key": one.key,
        "kind": str(one.kind),
        "title": one.title,
        "page": one.page,
        "pages": one.pages,
        "says": one.says,
        "lines": list(one.lines),
        "seconds": round(one.seconds(pace), 1),
    }
