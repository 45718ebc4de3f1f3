"""What is missing on this machine, and how to get it; and files to try the program with."""

import os
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
from importlib.util import find_spec
from pathlib import Path
from typing import Annotated

import typer

from blunt_ruler import __version__
from blunt_ruler.cli.common import JsonFlag, app, print_json
from blunt_ruler.cli.long_work import shown_progress
from blunt_ruler.core.text import list_text

NEEDED_MB = 200  # for logbooks and what is made of them
IMPORT_S = 30
PACKAGES = {
    "libEGL.so.1": "libegl1",
    "libGL.so.1": "libgl1",
    "libxkbcommon.so.0": "libxkbcommon0",
    "libdbus-1.so.3": "libdbus-1-3",
    "libfontconfig.so.1": "libfontconfig1",
    "libpulse.so.0": "libpulse0",
    "libxcb-cursor.so.0": "libxcb-cursor0",
}
"""Debian's packages of shared libraries that Qt needs."""
RECORDING = ("av", "onnxruntime", "PIL", "rapidocr")


@dataclass(frozen=True, slots=True)
class Examined:
    """One thing that was looked at.

    `state` is “ok”, “missing” where the program cannot work without it, or “without” where it
    works without, less well. `do` is how to get it.
    """

    what: str
    state: str
    says: str
    do: str = ""


def _qt(module: str) -> str:
    """Why a module of Qt cannot be imported; blank where it can. In a process of its own, since a
    missing library may end it.
    """
    command = [sys.executable, "-c", f"import PyQt6.{module}"]
    try:
        done = subprocess.run(command, capture_output=True, text=True, timeout=IMPORT_S)
    except subprocess.TimeoutExpired:
        return f"it did not load within {IMPORT_S} s"
    if done.returncode == 0:
        return ""
    last = (done.stderr.strip().splitlines() or ["it ended at once"])[-1]
    missing = next((word for word in last.split() if word.rstrip(":").find(".so") > 0), None)
    return f"{missing.rstrip(':')} is missing" if missing else last


def _how_to_get(why: str) -> str:
    package = next((name for file, name in PACKAGES.items() if file in why), None)
    return f"sudo apt install {package}" if package else "Reinstall Blunt Ruler with its packages"


def _screen(environment: Mapping[str, str]) -> Examined:
    shown = environment.get("WAYLAND_DISPLAY") or environment.get("DISPLAY")
    platform = environment.get("QT_QPA_PLATFORM")
    if shown or platform:
        return Examined("screen", "ok", f"display {shown}" if shown else f"Qt platform {platform}")
    return Examined(
        "screen",
        "without",
        "no display: commands work, the window does not open",
        "Start it from a desktop session, or under xvfb-run",
    )


def _folder(what: str, folder: Path) -> Examined:
    there = next(one for one in (folder, *folder.parents) if one.exists())
    if not os.access(there, os.W_OK | os.X_OK):
        return Examined(what, "missing", f"{there} cannot be written", f"chmod u+rwx {there}")
    free_mb = shutil.disk_usage(there).free / 1e6
    if free_mb < NEEDED_MB:
        do = "Make room, or keep logbooks elsewhere"
        return Examined(what, "missing", f"{free_mb:.0f} MB are free at {there}", do)
    return Examined(what, "ok", f"{folder}, {free_mb / 1000:.0f} GB free")


def _telemetry(root: Path) -> Iterator[Examined]:
    cards = sorted(root.glob("sys/class/drm/card[0-9]/device"))
    if cards:
        readable = [one for one in cards if any(one.glob("hwmon/*/temp*_input"))]
        says = f"{len(cards)} graphics devices, {len(readable)} with readable sensors"
        yield Examined("graphics devices", "ok" if readable else "without", says)
    else:
        do = "Nothing is needed to work with logs, tables and typed figures"
        yield Examined("graphics devices", "without", "the system shows none here", do)
    meters = sorted(root.glob("sys/class/powercap/*/energy_uj"))
    closed = [one for one in meters if not os.access(one, os.R_OK)]
    if not meters:
        yield Examined("CPU power", "without", "this machine has no energy meter to read")
    elif closed:
        do = f"sudo chmod a+r {closed[0]} (until the next start)"
        yield Examined("CPU power", "without", "only root may read the energy meter", do)
    else:
        yield Examined("CPU power", "ok", f"{len(meters)} energy meters")


def examine(root: Path, environment: Mapping[str, str]) -> Iterator[Examined]:
    """Look at everything the program needs or can use."""
    from platformdirs import user_documents_path, user_state_path

    from blunt_ruler.files import shipped

    yield Examined("version", "ok", f"Blunt Ruler {__version__}, Python {sys.version.split()[0]}")
    if why := _qt("QtWidgets"):
        yield Examined("window (Qt)", "missing", why, _how_to_get(why))
    else:
        yield Examined("window (Qt)", "ok", "Qt loads")
    yield _screen(environment)
    fonts = list(shipped("resources", "fonts").glob("*.ttf"))
    do = "Reinstall Blunt Ruler"
    yield Examined(
        "type", "ok" if fonts else "missing", f"{len(fonts)} shipped fonts", "" if fonts else do
    )
    if why := _qt("QtMultimedia"):
        yield Examined(
            "sound", "without", f"{why}; the system's bell is used instead", _how_to_get(why)
        )
    else:
        yield Examined("sound", "ok", "Qt plays it")
    absent = [name for name in RECORDING if find_spec(name) is None]
    if absent:
        says = f"{list_text(absent)} missing; recordings of the screen cannot be read"
        yield Examined("recordings", "without", says, "pip install 'blunt-ruler[recording]'")
    else:
        yield Examined("recordings", "ok", "all packages are there")
    yield Examined("logbook file", "ok", f"SQLite {sqlite3.sqlite_version}")
    yield _folder("logbooks", user_documents_path() / "Blunt Ruler")
    yield _folder("settings and faults", user_state_path("blunt-ruler"))
    yield from _telemetry(root)


@app.command()
def doctor(
    root: Annotated[Path, typer.Option(help="Root of the device tree.")] = Path("/"),
    as_json: JsonFlag = False,
) -> None:
    """What is missing on this machine, and how to get it; ends with 1 where something needed is."""
    found = list(examine(root, os.environ))
    if as_json:
        print_json([asdict(one) for one in found])
    else:
        for one in found:
            print(f"{one.state:<8} {one.what:<20} {one.says}")
            if one.do:
                print(f"{'':<30}{one.do}")
    raise typer.Exit(1 if any(one.state == "missing" for one in found) else 0)


@app.command()
def samples(
    folder: Annotated[Path, typer.Argument(help="An empty folder, or one that is made.")],
    as_json: JsonFlag = False,
) -> None:
    """Files to try the program with: logs, one faulty, a spreadsheet, a script, a report."""
    from blunt_ruler.demo.samples import write_samples

    with shown_progress() as step:
        paths = write_samples(folder, step)
    if as_json:
        print_json([str(path) for path in paths])
    else:
        print(f"{len(paths)} files are in {folder}; READ ME.txt says what each is for")
