"""Commands on reviews: comparing, reporting, the demo, and opening the window."""

import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    app,
    print_json,
    read_logbook,
    rig_id,
)
from blunt_ruler.core.board import build_board
from blunt_ruler.core.compare import Comparison, compare
from blunt_ruler.core.models import Role
from blunt_ruler.core.text import loss_text, percent_text


@app.callback(invoke_without_command=True)
def _start(context: typer.Context) -> None:
    """Open the window when no command is named."""
    if context.invoked_subcommand is None:
        open_window(None)


@app.command("open")
def open_window(
    logbook: Annotated[Path | None, typer.Argument(help="The logbook to open.")] = None,
    demo: Annotated[bool, typer.Option(help="Open a fresh copy of the demo logbook.")] = False,
    quit_after: Annotated[
        float | None, typer.Option(min=0.0, help="Close by itself after so many seconds.")
    ] = None,
    picture: Annotated[
        Path | None, typer.Option(help="Save a picture of the window here once it is drawn.")
    ] = None,
) -> None:
    """Open the window."""
    from blunt_ruler.ui.app import run_app

    raise typer.Exit(run_app(logbook, demo=demo, quit_after_s=quit_after, picture=picture))


@app.command("compare")
def compare_command(
    logbook: Annotated[Path | None, typer.Argument(help="A logbook.")] = None,
    review: ReviewName = None,
    table: Annotated[Path | None, typer.Option(help="A table of results instead.")] = None,
    base: Annotated[str | None, typer.Option(help="Rig that gains are measured from.")] = None,
    reference: Annotated[
        str | None, typer.Option(help="Rig that losses are measured from.")
    ] = None,
    as_json: JsonFlag = False,
) -> None:
    """Gains over a base and losses against a reference."""
    if (logbook is None) == (table is None):
        raise BadOption(
            "LOGBOOK or --table",
            "exactly one of them is needed",
            "Give a logbook, or --table with a CSV file",
        )
    if table is not None:
        result, school, label = _compare_table(table, base, reference)
    else:
        assert logbook is not None
        result, school, label = _compare_logbook(logbook, review, base, reference)
    rigs = [
        {
            "rig": label(rig.rig),
            "mean_gain": rig.mean_gain,
            "mean_loss": rig.mean_loss,
            "gain_cases": rig.gain_cases,
            "loss_cases": rig.loss_cases,
            "cases": [
                {
                    "case": label(case.case),
                    "runs": case.runs,
                    "average_fps": case.average_fps,
                    "low_1_fps": case.low_1_fps,
                    "gain": case.gain,
                    "loss": case.loss,
                }
                for case in rig.cases
            ],
        }
        for rig in result.rigs
    ]
    base_name = label(result.base)
    reference_name = label(result.reference) if result.reference else None
    if as_json:
        print_json(
            {
                "low_school": school,
                "mean": result.mean,
                "base": base_name,
                "reference": reference_name,
                "rigs": rigs,
            }
        )
        return
    print(f"{result.mean} mean of ratios over shared cases; 1 % low by school: {school}")
    for rig in rigs:
        said = f"{rig['rig']}: gain {percent_text(rig['mean_gain'], signed=True)} over {base_name}"
        if reference_name is not None:
            said += f", change {loss_text(rig['mean_loss'])} against {reference_name}"
        print(said)


def _compare_table(
    table: Path, base: str | None, reference: str | None
) -> tuple[Comparison, str, Any]:
    from blunt_ruler.exchange.result_tables import read_results

    if base is None:
        raise BadOption("--base", "a table does not say which rig is the base", "Name it")
    # A table does not tell by which school its lows were computed.
    return compare(read_results(table), base, reference), "as given in the table", str


def _compare_logbook(
    logbook: Path, review_name: str | None, base: str | None, reference: str | None
) -> tuple[Comparison, str, Any]:
    contents, review = read_logbook(logbook, review_name)
    for name, role in ((base, Role.BASE), (reference, Role.REFERENCE)):
        if name is not None:
            review = review.with_role(rig_id(contents, review, name), role)
    board = build_board(contents, review)
    if board.comparison is None:
        raise BadOption(
            "--base",
            "no rig with kept runs is the base of this review",
            f"Name one of {', '.join(column.name for column in board.columns)}",
        )

    def label(key: str) -> str:
        return contents.rigs[key].name if key in contents.rigs else contents.case_label(key)

    return board.comparison, str(review.low_school), label


@app.command()
def demo(
    out: Annotated[Path, typer.Option(help="Where to put the logbook.")] = Path("demo.blunt"),
    rebuild: Annotated[
        bool, typer.Option(help="Play every run again instead of copying what is shipped.")
    ] = False,
) -> None:
    """Put the demo logbook somewhere."""
    from blunt_ruler.demo.builder import build_demo, copy_demo

    if rebuild:
        build_demo(out, step=lambda words, _share: print(words, file=sys.stderr))
    else:
        copy_demo(out)
    print(out)


@app.command()
def report(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    out: Annotated[Path, typer.Option(help="Folder for the files.")],
    review: ReviewName = None,
) -> None:
    """Write the Board as tidy CSV and Markdown."""
    from blunt_ruler.exchange.reports import write_report

    contents, chosen = read_logbook(logbook, review)
    for path in write_report(contents, build_board(contents, chosen), out):
        print(path)
