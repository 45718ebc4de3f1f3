"""What the window remembers between starts: recent logbooks, theme, size."""

import os
from contextlib import suppress
from enum import StrEnum
from pathlib import Path
from typing import TypeGuard

from PyQt6.QtCore import QByteArray, QSettings

from blunt_ruler import __version__
from blunt_ruler.files import make_private
from blunt_ruler.ui.kit.theme import ThemeName

MOST_RECENT = 8
MOST_LAYOUTS = 8  # of overlays, for recordings of one size
MOST_ANSWERS = 40  # about tables of one look
WIDEST = 10_000  # pixels
SIZES = (100, 125, 150)  # per cent


class Memory(StrEnum):
    """What is remembered and can be forgotten."""

    RECENT = "recent logbooks"
    ANSWERS = "answers about tables"
    LAYOUTS = "places of counters on recordings"
    RECORDINGS = "where recordings lie"
    COLUMNS = "column widths"


GROUPS = {
    Memory.RECENT: "recent",
    Memory.ANSWERS: "answers",
    Memory.LAYOUTS: "layouts",
    Memory.RECORDINGS: "recordings",
    Memory.COLUMNS: "columns",
}


class Settings:
    """Thin over QSettings, one property for each thing that is remembered."""

    def __init__(self) -> None:
        file = _private(config_folder() / "settings.ini")
        self._store = QSettings(str(file), QSettings.Format.IniFormat)
        self._store.remove("allowed")  # consents have a file of their own

    @property
    def recent(self) -> list[Path]:
        """Logbooks opened lately that are still there, the newest first."""
        return [path for path in map(Path, self._texts("recent")) if _is_file(path)]

    def add_recent(self, path: Path) -> None:
        """Put a logbook at the head of the recent ones."""
        kept = [path.resolve(), *(one for one in self.recent if one != path.resolve())]
        self._store.setValue("recent", [str(one) for one in kept[:MOST_RECENT]])

    @property
    def theme(self) -> ThemeName:
        """The pinned theme."""
        try:
            return ThemeName(self._text("theme"))
        except ValueError:
            return ThemeName.AUTO

    @theme.setter
    def theme(self, name: ThemeName) -> None:
        self._store.setValue("theme", str(name))

    @property
    def size(self) -> int:
        """How large everything is, per cent: one of `SIZES`."""
        said = self._text("size")
        return int(said) if said.isdecimal() and int(said) in SIZES else SIZES[0]

    @size.setter
    def size(self, percent: int) -> None:
        self._store.setValue("size", str(percent))

    @property
    def geometry(self) -> QByteArray | None:
        """Where the window was."""
        value = self._store.value("geometry")
        return value if isinstance(value, QByteArray) else None

    @geometry.setter
    def geometry(self, value: QByteArray) -> None:
        self._store.setValue("geometry", value)

    @property
    def stop(self) -> str:
        """The stop that was on screen at the last close; blank at the first start."""
        return self._text("stop")

    @stop.setter
    def stop(self, name: str) -> None:
        self._store.setValue("stop", name)

    @property
    def last_look(self) -> str:
        """What the picture of the last close is of; blank where there is none."""
        return self._text("last_look")

    @last_look.setter
    def last_look(self, mark: str) -> None:
        self._store.setValue("last_look", mark)

    def columns(self, table: str) -> list[int]:
        """Column widths of a table by its name, pixels; none where it was never changed."""
        kept = self._texts(f"columns/{table}")
        return [min(int(one), WIDEST) for one in kept if one.isdecimal() and len(one) < 9]

    def answers(self, look: str) -> dict[str, str]:
        """What was answered about tables of a look, by what it was about."""
        words = self._texts(f"answers/{look}")
        return dict(pair.split("\t", 1) for pair in words if pair.count("\t") == 1)

    def set_answers(self, look: str, answers: dict[str, str]) -> None:
        """Remember what was answered about tables of a look."""
        pairs = [f"{about}\t{answer}" for about, answer in answers.items() if "\t" not in about]
        self._store.setValue(f"answers/{look}", pairs[:MOST_ANSWERS])

    def recording(self, sha256: str) -> Path | None:
        """Where a recording that runs were read from lay; None where it is not there any more."""
        path = Path(self._text(f"recordings/{sha256[:16]}"))
        return path if _is_file(path) else None

    def set_recording(self, sha256: str, path: Path) -> None:
        """Remember where a recording lies: on this machine only, no logbook holds it."""
        self._store.setValue(f"recordings/{sha256[:16]}", str(path.resolve()))

    def layouts(self, size: str) -> list[str]:
        """Boxes of overlays that were read on recordings of a size, the newest first."""
        return self._texts(f"layouts/{size}")

    def add_layout(self, size: str, boxes: str) -> None:
        """Remember the boxes of an overlay."""
        others = [one for one in self.layouts(size) if one != boxes]
        self._store.setValue(f"layouts/{size}", [boxes, *others][:MOST_LAYOUTS])

    def count(self, memory: Memory) -> int:
        """How many of a kind are remembered."""
        if memory is Memory.RECENT:
            return len(self._texts(GROUPS[memory]))
        return sum(key.startswith(f"{GROUPS[memory]}/") for key in self._store.allKeys())

    def forget(self, memory: Memory) -> None:
        """Remember none of a kind any more."""
        self._store.remove(GROUPS[memory])

    def _texts(self, name: str) -> list[str]:
        """A list of texts, whatever somebody wrote there."""
        found = self._store.value(name)
        return [one for one in (found if isinstance(found, list) else [found]) if _is_text(one)]

    def _text(self, name: str) -> str:
        return "".join(self._texts(name)[:1])

    def set_columns(self, table: str, widths: list[int]) -> None:
        """Remember the column widths of a table."""
        self._store.setValue(f"columns/{table}", [str(one) for one in widths])


def config_folder() -> Path:
    """Where settings lie."""
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "blunt-ruler"


def _is_text(value: object) -> TypeGuard[str]:
    """Whether it is a text that is not blank."""
    return isinstance(value, str) and bool(value)


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except OSError:  # a name too long for any file
        return False


def _private(path: Path) -> Path:
    """A file that only the user may read and write; Qt keeps to the permissions it finds."""
    with suppress(OSError):
        make_private(path.parent)
        os.close(os.open(path, os.O_CREAT | os.O_NOFOLLOW, 0o600))
        path.chmod(0o600)
    return path


def demo_copy_path() -> Path:
    """Where the user's own copy of this version's demo lives."""
    from platformdirs import user_data_path

    return user_data_path("blunt-ruler") / f"demo-{__version__}.blunt"


def last_look_path() -> Path:
    """Where the picture of what was last on screen lies."""
    home = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    return home / "blunt-ruler" / "last-look.png"


def logbooks_folder() -> Path:
    """Where logbooks made without asking lie."""
    from platformdirs import user_documents_path

    return user_documents_path() / "Blunt Ruler"


def first_logbook_path() -> Path:
    """A free name for a logbook made without asking, in the documents folder."""
    return free_logbook_path("logbook")


def free_logbook_path(stem: str) -> Path:
    """A free name in the documents folder, as near to a stem as there is one."""
    folder = logbooks_folder()
    folder.mkdir(parents=True, exist_ok=True)
    stem = stem[:80]
    names = (f"{stem}.blunt", *(f"{stem} {number}.blunt" for number in range(2, 10_000)))
    return next(folder / name for name in names if not (folder / name).exists())


def rescue_folder() -> Path:
    """Where logbooks go on whose file is gone."""
    from platformdirs import user_state_path

    return user_state_path("blunt-ruler") / "rescued"


def rescue_path(path: Path) -> Path:
    """Where edits go on when a logbook's file is gone: a free name in the state folder."""
    folder = rescue_folder()
    folder.mkdir(parents=True, exist_ok=True)
    names = (f"{path.stem[:80]} {number}.blunt" for number in range(1, 10_000))
    return next(folder / name for name in names if not (folder / name).exists())
