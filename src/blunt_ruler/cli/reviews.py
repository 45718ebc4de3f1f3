"""Commands on reviews: comparing, reporting, the demo, and opening the window."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from blunt_ruler import __version__, diary
from blunt_ruler.cli.common import ReviewName, app, choose, read_logbook


@app.callback(invoke_without_command=True)
def _start(
    context: typer.Context,
    version: Annotated[bool, typer.Option("--version", help="Print the version and exit.")] = False,
    debug: Annotated[
        bool,
        typer.Option(
            "--debug",
            envvar="BLUNT_RULER_DEBUG",
            help="Log what is opened, read and fitted to stderr.",
        ),
    ] = False,
) -> None:
    """Open the window when no command is named."""
    if version:
        print(f"Blunt Ruler {__version__}")
        raise typer.Exit
    if debug:
        context.with_resource(diary.kept(debug=True))
    if context.invoked_subcommand is None:
        open_window()


@app.command("open")
def open_window(
    files: Annotated[
        list[Path] | None,
        typer.Argument(help="A logbook to open, or logs to look at over that of last time."),
    ] = None,
    demo: Annotated[bool, typer.Option(help="Open a fresh copy of the demo logbook.")] = False,
    quit_after: Annotated[
        float | None, typer.Option(min=0.0, help="Quit after this many seconds.")
    ] = None,
    picture: Annotated[
        Path | None, typer.Option(help="Save a picture of the window here once it is drawn.")
    ] = None,
) -> None:
    """Open the window."""
    from blunt_ruler.ui.shell.app import run_app

    raise typer.Exit(run_app(files or [], demo=demo, quit_after_s=quit_after, picture=picture))


@app.command()
def demo(
    out: Annotated[Path, typer.Option(help="Where to put the logbook.")] = Path("demo.blunt"),
    rebuild: Annotated[
        bool, typer.Option(help="Play every run again instead of copying what is shipped.")
    ] = False,
) -> None:
    """Put the demo logbook somewhere."""
    from blunt_ruler.demo.builder import build_demo
    from blunt_ruler.demo.shipped import copy_demo

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
    formats: Annotated[
        str, typer.Option("--format", help="Formats, separated by commas; all by default.")
    ] = "",
    bundle: Annotated[
        bool,
        typer.Option(
            help="Add a logbook with the review's runs and traces, and all of it in one zip that "
            "others can open."
        ),
    ] = False,
) -> None:
    """Write the review up: page, print, text, tables, data and charts."""
    from blunt_ruler.core.analysis.analyse import analyse
    from blunt_ruler.core.types import no_progress
    from blunt_ruler.exchange.documents.writeup.files import Format, write_files
    from blunt_ruler.files import make_folder
    from blunt_ruler.logbook import Logbook

    known = {str(one): one for one in Format}
    names = [name.strip() for name in formats.split(",") if name.strip()] or list(known)
    wanted = [choose(known, "--format", name) for name in names]
    contents, chosen = read_logbook(logbook, review)
    make_folder(out)  # before what takes long: nobody waits to hear that it cannot be
    with Logbook.reading(logbook) as book:
        edits = book.edits()
    with diary.timed_stages(diary.log, no_progress) as step:
        told: list[str] = []
        analysis = analyse(contents, chosen, step)
        paths = write_files(analysis, edits, out, wanted, step, told.append)
    for line in told:
        print(line, file=sys.stderr)
    for path in paths:
        print(path)
    if bundle:
        from blunt_ruler.core.writeup.bundle import records_of
        from blunt_ruler.core.writeup.private_words import private_words
        from blunt_ruler.exchange.documents.data_package import PACKAGE_NAME, write_package
        from blunt_ruler.logbook.bundle import BUNDLE_NAME, write_bundle

        for one in private_words(records_of(contents, chosen)):
            print(f"The bundle holds a {one}. Change it in the logbook first.", file=sys.stderr)
        written = write_bundle(logbook, chosen.id, out / BUNDLE_NAME)
        for path in (*written, write_package(out / PACKAGE_NAME, analysis, edits, written[0])):
            print(path)
