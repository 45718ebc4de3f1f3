"""Write the manual page from the commands themselves, so that it names every command and option."""

import argparse
from pathlib import Path
from typing import Any

from typer.main import get_command

from blunt_ruler import __version__
from blunt_ruler.cli import app, bring_in

PAGE = Path(__file__).parents[1] / "packaging" / "blunt-ruler.1"
INTRODUCTION = """\
A logbook and analyst for graphics-card reviews: a computer's built-in graphics, then a card reached
over some link, and what was gained, what was lost, and what took it. Without a command the window
opens; with the path of a logbook (*.blunt), or of logs, it opens with these.
"""
FILES = (
    ("~/.config/blunt-ruler/settings.ini", "what the window remembers"),
    ("~/.local/share/blunt-ruler", "the user's own copy of the demo"),
    ("~/.local/state/blunt-ruler", "the log file, and logbooks whose file was gone"),
)


def escaped(text: str) -> str:
    """Words that troff takes as they are."""
    lines = " ".join((text or "").split()).replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{lines}" if lines[:1] in (".", "'") else lines


def options_of(command: Any) -> list[str]:
    """An entry for each option and argument of a command."""
    out = []
    for one in command.params:
        if one.param_type_name == "argument":
            names = one.name.upper().replace("_", "-")
        else:
            names = ", ".join([*one.opts, *one.secondary_opts])
        out += [".TP", f".B {escaped(names)}", escaped(getattr(one, "help", "") or "")]
    return out


def page() -> str:
    """The page as troff source."""
    bring_in()
    root = get_command(app)
    out = [
        f'.TH BLUNT\\-RULER 1 "" "Blunt Ruler {__version__}" "User Commands"',
        ".SH NAME",
        "blunt\\-ruler \\- what a graphics card gained, what it lost, and what took it",
        ".SH SYNOPSIS",
        ".B blunt\\-ruler",
        "[\\fIOPTIONS\\fR] [\\fICOMMAND\\fR [\\fIARGS\\fR]]",
        ".SH DESCRIPTION",
        INTRODUCTION.strip(),
        ".SH OPTIONS",
        *options_of(root),
        ".SH COMMANDS",
    ]
    for name, command in root.commands.items():
        out += [f".SS {escaped(name)}", escaped(command.help), *options_of(command)]
    out += [".SH EXIT STATUS", "0 on success; 2 with one line on stderr for bad input."]
    out += [".SH FILES"]
    for path, what in FILES:
        out += [".TP", f".I {escaped(path)}", escaped(what)]
    return "\n".join(line for line in out if line) + "\n"


def main() -> None:
    """Write the page, or say by the exit code whether it is as the commands are."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--check", action="store_true")
    if parser.parse_args().check:
        raise SystemExit(
            0 if PAGE.read_text("utf-8") == page() else "packaging/blunt-ruler.1 is old"
        )
    PAGE.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
