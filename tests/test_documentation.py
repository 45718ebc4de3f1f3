"""What README, docs and help tell people to type: it runs, and its options are there."""

import os
import re
import subprocess
import sys
from pathlib import Path

import pytest
from typer.testing import CliRunner

import blunt_ruler
from blunt_ruler.cli import app, bring_in

ROOT = Path(__file__).parents[1]
HELP = Path(blunt_ruler.__file__).parent / "help"
PAGES = (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *ROOT.glob("docs/*.md"), *HELP.glob("*.md"))
BIN = Path(sys.executable).parent
LONG = ("README.md", "first-review.md")  # half a minute each


def blocks():
    """Every fenced block with a command of ours, by the page it stands on."""
    for page in PAGES:
        for body in re.findall(r"```\w*\n(.*?)```", page.read_text("utf-8"), re.DOTALL):
            if re.search(r"^blunt-ruler ", body, re.MULTILINE):
                long = [pytest.mark.deep] if page.name in LONG else []
                yield pytest.param(body, id=page.name, marks=long)


@pytest.mark.parametrize("body", list(blocks()))
def test_commands_run_as_they_are_written_from_an_empty_folder(body, tmp_path):
    for line in filter(None, body.splitlines()):
        done = subprocess.run(
            ["bash", "-c", line],
            cwd=tmp_path,
            env={**os.environ, "PATH": f"{BIN}:{os.environ['PATH']}"},
            capture_output=True,
            text=True,
            check=False,
        )
        assert done.returncode == 0, f"{line}\n{done.stderr}"


def test_commands_in_the_text_have_the_options_that_are_named():
    seen, runner = 0, CliRunner()
    bring_in()
    for page in PAGES:
        for said in re.findall(r"`blunt-ruler ([a-z][\w-]*)([^`]*)`", page.read_text("utf-8")):
            command, rest = said
            done = runner.invoke(app, [command, "--help"])
            assert done.exit_code == 0, f"{page.name}: blunt-ruler {command}"
            for option in re.findall(r"--[\w-]+", rest):
                assert option in done.stdout, f"{page.name}: blunt-ruler {command} {option}"
            seen += 1
    assert seen >= 4


def test_targets_of_make_that_are_named_are_there():
    targets = set(re.findall(r"^([\w/.-]+):", (ROOT / "Makefile").read_text(), re.MULTILINE))
    for page in PAGES:
        for target in re.findall(r"`make ([\w-]+)", page.read_text("utf-8")):
            assert target in targets, f"{page.name}: make {target}"
