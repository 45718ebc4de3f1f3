"""Put beside an installed Blunt Ruler what a desktop looks for, or take it away again: icons at all
sizes, the desktop entry and its description, the type of logbooks, the manual page, completion for
three shells.
"""

import argparse
import gzip
import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
PACKAGING = Path(__file__).parents[1] / "packaging"
SIZES = (16, 22, 24, 32, 48, 64, 96, 128, 256, 512)
SHELLS = {
    "bash": "bash-completion/completions/blunt-ruler",
    "zsh": "zsh/site-functions/_blunt-ruler",
    "fish": "fish/vendor_completions.d/blunt-ruler.fish",
}
METAINFO = "metainfo/invalid.blunt_ruler.BluntRuler.metainfo.xml"
CACHES = (
    ("update-desktop-database", "applications", "*.desktop"),
    ("update-mime-database", "mime", "packages/*.xml"),
    ("gtk-update-icon-cache", "icons/hicolor", "*/apps/*"),
)


def icon(size: int) -> bytes:
    """The icon as a PNG of a size."""
    from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, Qt
    from PyQt6.QtGui import QGuiApplication, QImage, QPainter
    from PyQt6.QtSvg import QSvgRenderer

    app = QGuiApplication.instance() or QGuiApplication([])
    image = QImage(size, size, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    QSvgRenderer(str(PACKAGING / "blunt-ruler.svg")).render(painter, QRectF(0, 0, size, size))
    painter.end()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    assert app is not None
    return bytes(data.data())


def completion(command: Path, shell: str) -> bytes:
    """What a shell reads to complete the command.

    zsh looks for `#compdef` on the first line, and loads the file as a function when it is first
    wanted: it must complete then, not only register.
    """
    asked = {**os.environ, "_BLUNT_RULER_COMPLETE": f"source_{shell}"}
    found = subprocess.run([command], env=asked, check=True, capture_output=True).stdout
    registers = b"compdef _blunt_ruler_completion blunt-ruler"
    return found.strip().replace(registers, b'_blunt_ruler_completion "$@"') + b"\n"


def entry(command: Path) -> str:
    """The desktop entry; a command that is not on the usual path is named in full."""
    text = (PACKAGING / "blunt-ruler.desktop").read_text("utf-8")
    if command.parent in (Path("/usr/bin"), Path("/usr/local/bin")):
        return text
    named = str(command)
    for letter in '\\"`$':  # as the desktop entry specification quotes them
        named = named.replace(letter, f"\\{letter}")
    named = named.replace("%", "%%")
    return text.replace("Exec=blunt-ruler", f'Exec="{named}"')


def files(command: Path, starts: Path) -> Iterator[tuple[str, bytes]]:
    """Every file, by its place under share."""
    yield "applications/blunt-ruler.desktop", entry(starts).encode()
    yield "mime/packages/blunt-ruler.xml", (PACKAGING / "blunt-ruler.xml").read_bytes()
    yield METAINFO, (PACKAGING / "blunt-ruler.metainfo.xml").read_bytes()
    manual = (PACKAGING / "blunt-ruler.1").read_bytes()
    yield "man/man1/blunt-ruler.1.gz", gzip.compress(manual, mtime=0)
    svg = (PACKAGING / "blunt-ruler.svg").read_bytes()
    yield "icons/hicolor/scalable/apps/blunt-ruler.svg", svg
    for size in SIZES:
        yield f"icons/hicolor/{size}x{size}/apps/blunt-ruler.png", icon(size)
    for shell, place in SHELLS.items():
        yield place, completion(command, shell)


def renew(share: Path) -> None:
    """Tell the desktop, where it keeps lists of its own."""
    for program, folder, _ in CACHES:
        if shutil.which(program) and (share / folder).is_dir():
            subprocess.run([program, str(share / folder)], check=False, capture_output=True)


def under(folder: Path) -> set[str]:
    """Everything below a folder, the folder included, by its place in its parent."""
    if not folder.exists():
        return set()
    return {"."} | {str(path.relative_to(folder)) for path in folder.rglob("*")}


def put(share: Path, command: Path, starts: Path, made: Path) -> None:
    """Put every file in place, and keep in `made` what was not there before."""
    known = set(json.loads(made.read_text("utf-8"))) if made.exists() else set()
    before = under(share)
    for place, content in files(command, starts):
        path = share / place
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
    renew(share)
    made.write_text(json.dumps(sorted(known | (under(share) - before)), indent=0), "utf-8")


def remove(share: Path, made: Path) -> None:
    """Take away what was put, and what the desktop made of it where nothing else needs that."""
    places = [f"icons/hicolor/{size}x{size}/apps/blunt-ruler.png" for size in SIZES]
    places += ["applications/blunt-ruler.desktop", "mime/packages/blunt-ruler.xml"]
    places += ["icons/hicolor/scalable/apps/blunt-ruler.svg", "man/man1/blunt-ruler.1.gz", METAINFO]
    for place in (*places, *SHELLS.values()):
        (share / place).unlink(missing_ok=True)
    renew(share)
    ours = json.loads(made.read_text("utf-8")) if made.exists() else []
    for place in sorted(ours, key=len, reverse=True):  # what lies in a folder before the folder
        path = share / place
        if path.is_dir():
            with suppress(OSError):  # something else is in it by now
                path.rmdir()
        elif path.exists() and _is_unused(share, place):
            path.unlink()


def _is_unused(share: Path, place: str) -> bool:
    """Whether a list of the desktop's was made of our files alone."""
    for _, folder, sources in CACHES:
        if place.startswith(f"{folder}/"):
            return not any((share / folder).glob(sources))
    return True


def main() -> None:
    """Put the files under PREFIX/share, or take them away."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=("put", "remove"))
    parser.add_argument("prefix", type=Path)
    parser.add_argument("--command", type=Path, default=Path(sys.executable).parent / "blunt-ruler")
    parser.add_argument("--starts", type=Path, help="what the menu starts, where it is another")
    parser.add_argument("--made", type=Path, required=True, help="list of what was made")
    options = parser.parse_args()
    share, made = options.prefix / "share", options.made
    if options.what == "put":
        put(share, options.command, options.starts or options.command, made)
    else:
        remove(share, made)


if __name__ == "__main__":
    main()
