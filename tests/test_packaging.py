"""What makes it one of a system's programs: version, manual, menu entry, file type, completion."""

import configparser
import os
import re
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from blunt_ruler import __version__
from blunt_ruler.logbook.schema import APPLICATION_ID

ROOT = Path(__file__).parents[1]
PACKAGING = ROOT / "packaging"
COMMAND = Path(sys.executable).parent / "blunt-ruler"
NAMES = {"x": "http://www.freedesktop.org/standards/shared-mime-info"}


def test_it_says_its_version():
    said = subprocess.run([COMMAND, "--version"], capture_output=True, text=True, check=True)
    assert said.stdout == f"Blunt Ruler {__version__}\n"
    assert f'version = "{__version__}"' in (ROOT / "pyproject.toml").read_text()


def test_the_manual_is_as_the_commands_are():
    assert subprocess.run([sys.executable, ROOT / "tools" / "man.py", "--check"]).returncode == 0
    page = (PACKAGING / "blunt-ruler.1").read_text("utf-8")
    assert ".SS limits" in page
    assert "\\-\\-alone" in page


def test_a_logbook_is_known_by_its_content_as_by_its_name(demo_copy):
    """The rule of the shared MIME database, against a file."""
    root = ET.parse(PACKAGING / "blunt-ruler.xml").getroot()
    kind = root.find("x:mime-type", NAMES)
    head = demo_copy.read_bytes()[:100]
    outer = kind.find("x:magic/x:match", NAMES)
    assert outer.get("value") == "SQLite format 3\\000"
    assert head.startswith(b"SQLite format 3\0")
    inner = outer.find("x:match", NAMES)
    at = int(inner.get("offset"))
    assert int(inner.get("value"), 16) == APPLICATION_ID
    assert int.from_bytes(head[at : at + 4], "big") == APPLICATION_ID
    assert kind.find("x:glob", NAMES).get("pattern") == "*.blunt"


def test_the_menu_entry_opens_such_a_file():
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str
    entry.read(PACKAGING / "blunt-ruler.desktop", "utf-8")
    one = entry["Desktop Entry"]
    assert one["Exec"] == "blunt-ruler open %F"
    kinds = one["MimeType"].split(";")
    assert kinds == ["application/x-blunt-ruler", "text/csv", "text/tab-separated-values", ""]
    assert one["Icon"] == "blunt-ruler"


@pytest.fixture(scope="module")
def put(tmp_path_factory):
    """Everything a desktop looks for, put under a prefix; and that prefix."""
    prefix = tmp_path_factory.mktemp("prefix")
    tool = [sys.executable, ROOT / "tools" / "desktop.py"]
    asked = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    subprocess.run([*tool, "put", prefix, "--command", COMMAND], check=True, env=asked)
    yield prefix
    subprocess.run([*tool, "remove", prefix], check=True, env=asked)
    left = [path for path in prefix.rglob("*blunt*") if path.is_file() and "mime" not in path.parts]
    assert not left, "what was put is taken away whole"


def test_icons_stand_at_all_sizes(put):
    sizes = set()
    for path in put.rglob("apps/blunt-ruler.png"):
        head = path.read_bytes()[:24]  # PNG: width and height stand in its first chunk
        width, height = int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")
        assert path.parts[-3] == f"{width}x{height}"
        sizes.add(width)
    assert {16, 32, 48, 256, 512} <= sizes


@pytest.mark.parametrize(
    ("place", "says"),
    [
        ("bash-completion/completions/blunt-ruler", "complete "),
        ("zsh/site-functions/_blunt-ruler", "#compdef blunt-ruler"),
        ("fish/vendor_completions.d/blunt-ruler.fish", "complete "),
    ],
)
def test_shells_complete_its_commands(put, place, says):
    assert says in (put / "share" / place).read_text()


def test_a_half_typed_command_is_completed():
    asked = {"COMP_WORDS": "blunt-ruler li", "COMP_CWORD": "1"}
    asked = {**os.environ, **asked, "_BLUNT_RULER_COMPLETE": "complete_bash"}
    found = subprocess.run([COMMAND], env=asked, capture_output=True, text=True)
    assert {"link", "limits"} <= set(re.split(r"\s+", found.stdout))


def test_the_version_is_told_without_what_commands_need():
    code = (
        "import sys; from blunt_ruler.cli import bring_in; bring_in(['--version']); "
        "print('numpy' in sys.modules)"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "False"
