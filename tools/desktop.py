"""Put beside an installed Blunt Ruler what a desktop looks for, or take it away again: icons at all
sizes, the desktop entry, the type of logbooks, the manual page, completion for three shells.
"""

import argparse
import gzip
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
PACKAGING = Path(__file__).parents[1] / "packaging"
SIZES = (16, 22, 24, 32, 48, 64, 96, 128, 256, 512)
SHELLS = {
    "bash": "bash-completion/completions/blunt-ruler",
    "zsh": "zsh/site-functions/_blunt-ruler",
    "fish": "fish/vendor_completions.d/blunt-ruler.fish",
}
CACHES = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
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
    """What a shell reads to complete the command."""
    asked = {**os.environ, "_BLUNT_RULER_COMPLETE": f"source_{shell}"}
    found = subprocess.run([command], env=asked, check=True, capture_output=True)
    return found.stdout


def files(command: Path) -> Iterator[tuple[str, bytes]]:
    """Every file, by its place under share."""
    entry = (PACKAGING / "blunt-ruler.desktop").read_text("utf-8")
    yield "applications/blunt-ruler.desktop", entry.encode()
    yield "mime/packages/blunt-ruler.xml", (PACKAGING / "blunt-ruler.xml").read_bytes()
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
    for program, folder in CACHES:
        if shutil.which(program) and (share / folder).is_dir():
            subprocess.run([program, str(share / folder)], check=False, capture_output=True)


def main() -> None:
    """Put the files under PREFIX/share, or take them away."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=("put", "remove"))
    parser.add_argument("prefix", type=Path)
    parser.add_argument("--command", type=Path, default=Path(sys.executable).parent / "blunt-ruler")
    options = parser.parse_args()
    share = options.prefix / "share"
    if options.what == "put":
        for place, content in files(options.command):
            path = share / place
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(content)
    else:
        places = [f"icons/hicolor/{size}x{size}/apps/blunt-ruler.png" for size in SIZES]
        places += ["applications/blunt-ruler.desktop", "mime/packages/blunt-ruler.xml"]
        places += ["icons/hicolor/scalable/apps/blunt-ruler.svg", "man/man1/blunt-ruler.1.gz"]
        for place in (*places, *SHELLS.values()):
            (share / place).unlink(missing_ok=True)
    renew(share)


if __name__ == "__main__":
    main()
