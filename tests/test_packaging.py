"""What makes it one of a system's programs: version, manual, menu entry, file type, completion."""

import configparser
import json
import os
import re
import shutil
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


def test_all_that_is_measured_can_be_imported_together():
    where = {**os.environ, "PYTHONPATH": str(ROOT / "tools")}
    assert subprocess.run([sys.executable, "-c", "import measure"], env=where).returncode == 0


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


DESKTOP = [sys.executable, ROOT / "tools" / "desktop.py"]
OFFSCREEN = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}


def state_of(folder):
    """Every file below a folder with its bytes, and every folder."""
    return {
        str(path.relative_to(folder)): None if path.is_dir() else path.read_bytes()
        for path in folder.rglob("*")
    }


@pytest.fixture(scope="module")
def put(tmp_path_factory):
    """Everything a desktop looks for, put under a prefix; and that prefix."""
    prefix = tmp_path_factory.mktemp("a prefix")
    told = ["--command", COMMAND, "--made", prefix / "made.json"]
    subprocess.run([*DESKTOP, "put", prefix, *told], check=True, env=OFFSCREEN)
    return prefix


@pytest.mark.deep
@pytest.mark.parametrize("was_there", [True, False], ids=["beside others", "alone"])
def test_what_is_removed_leaves_the_tree_as_it_was(tmp_path, was_there):
    prefix = tmp_path / "prefix"
    prefix.mkdir()
    if was_there:
        for place in ("applications/other.desktop", "icons/hicolor/16x16/apps/other.png"):
            path = prefix / "share" / place
            path.parent.mkdir(parents=True)
            path.write_text("[Desktop Entry]\nType=Application\nName=Other\nExec=other\n")
        (prefix / "share" / "mime" / "packages").mkdir(parents=True)
        kinds = (PACKAGING / "blunt-ruler.xml").read_text("utf-8").replace("blunt", "other")
        (prefix / "share" / "mime" / "packages" / "other.xml").write_text(kinds)
        subprocess.run(["update-mime-database", prefix / "share" / "mime"], check=False)
    before = state_of(prefix)
    told = ["--command", COMMAND, "--made", tmp_path / "made.json"]
    subprocess.run([*DESKTOP, "put", prefix, *told], check=True, env=OFFSCREEN)
    subprocess.run([*DESKTOP, "put", prefix, *told], check=True, env=OFFSCREEN)  # once more
    assert state_of(prefix) != before
    subprocess.run([*DESKTOP, "remove", prefix, *told], check=True, env=OFFSCREEN)
    left = state_of(prefix)
    caches = {"share/icons/hicolor/icon-theme.cache", "share/applications/mimeinfo.cache"}
    assert {name: left[name] for name in left if name not in caches} == before
    if not was_there:
        assert not left


def test_the_menu_starts_the_command_of_its_own_prefix(put):
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str
    entry.read(put / "share" / "applications" / "blunt-ruler.desktop", "utf-8")
    assert entry["Desktop Entry"]["Exec"] == f'"{COMMAND}" open %F'
    assert os.access(COMMAND, os.X_OK)


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


IN_SHELLS = {
    "bash": """
source {share}/bash-completion/completions/blunt-ruler
COMP_WORDS=(blunt-ruler li); COMP_CWORD=1
$(complete -p blunt-ruler | sed 's/.*-F \\([^ ]*\\).*/\\1/') blunt-ruler
printf '%s\\n' "${{COMPREPLY[@]}}"
""",
    # As a terminal would: the line is typed into a shell of its own, and Tab is pressed.
    "zsh": """
zmodload zsh/zpty
zpty inner zsh -f -i
zpty -w inner "PS1=; fpath=({share}/zsh/site-functions \\$fpath)"
zpty -w inner "autoload -Uz compinit; compinit -u -D; echo rea''dy"
while zpty -r inner line; do [[ $line == *ready* ]] && break; done
zpty -n -w inner $'blunt-ruler li\\t\\t'
for i in {{1..100}}; do
  sleep 0.1
  while zpty -r -t inner line; do print -r -- $line; all+=$line; done
  [[ $all == *limits*link* ]] && break
done
zpty -d inner
""",
    "fish": """
source {share}/fish/vendor_completions.d/blunt-ruler.fish
complete --do-complete "blunt-ruler li"
""",
}


@pytest.mark.parametrize("shell", IN_SHELLS)
def test_shells_complete_its_commands_when_tab_is_pressed(put, shell, tmp_path):
    if shutil.which(shell) is None:
        pytest.skip(f"the package {shell} is not installed")
    script = IN_SHELLS[shell].format(share=f"'{put}/share'")
    asked = {**os.environ, "PATH": f"{COMMAND.parent}:{os.environ['PATH']}", "HOME": str(tmp_path)}
    found = subprocess.run(
        [shell, "-c", script], env=asked, capture_output=True, text=True, timeout=60, check=False
    )
    assert {"link", "limits"} <= set(re.split(r"[^a-z-]+", found.stdout)), found


def test_the_version_is_told_without_what_commands_need():
    code = (
        "import sys; from blunt_ruler.cli import bring_in; bring_in(['--version']); "
        "print('numpy' in sys.modules)"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "False"


def test_software_centres_find_what_they_look_for(put):
    metainfo = next((put / "share" / "metainfo").iterdir())
    found = ET.parse(metainfo).getroot()
    assert found.findtext("launchable") == "blunt-ruler.desktop"
    assert found.findtext("project_license") == "MIT"
    releases = [one.get("version") for one in found.iter("release")]
    assert releases[0] == __version__
    if shutil.which("appstreamcli") is None:
        pytest.skip("appstreamcli is not installed")
    checked = subprocess.run(
        ["appstreamcli", "validate", "--no-net", metainfo], capture_output=True, text=True
    )
    assert checked.returncode == 0, checked.stdout


def test_the_bill_of_materials_names_every_pin_with_its_hashes():
    sys.path.insert(0, str(ROOT / "tools"))
    from sbom import bill

    lock = (ROOT / "requirements.lock").read_text("utf-8")
    found = json.loads(bill(__version__, lock))
    pins = [line for line in lock.splitlines() if "==" in line and not line.startswith((" ", "#"))]
    assert len(found["components"]) == len(pins) > 20
    assert sum(len(one["hashes"]) for one in found["components"]) == lock.count("--hash=")
    assert all(one["hashes"] for one in found["components"])
    assert bill(__version__, lock) == bill(__version__, lock)
