"""Files that the window is given: which of them is a logbook, and which are to be looked at."""

from collections.abc import Sequence
from pathlib import Path

from blunt_ruler.files import SQLITE_MAGIC

LOGBOOK_FILTER = "Blunt Ruler logbooks (*.blunt)"
LOG_FILTER = (
    "Logs and tables (*.csv *.tsv *.txt *.log *.gz *.xz *.bz2 *.zip *.ods *.xlsx);;All files (*)"
)
RECORDING_FILTER = (
    "Recordings and pictures of the screen (*.mp4 *.mkv *.webm *.mov *.png *.jpg *.jpeg);;"
    "All files (*)"
)
ENDING = ".blunt"


def logbook_among(paths: Sequence[Path]) -> Path | None:
    """The first of some files that is a logbook, by its ending or by how it begins; one that is
    not there counts as one too, and is missed when it is opened.
    """
    return next((path for path in paths if _is_logbook(path)), None)


def _is_logbook(path: Path) -> bool:
    if path.suffix == ENDING or not path.exists():
        return True
    try:
        with path.open("rb") as file:
            return file.read(len(SQLITE_MAGIC)) == SQLITE_MAGIC
    except OSError:  # a folder of logs, or what nobody may read: looking at it tells
        return False


def with_ending(path: Path) -> Path:
    """A path that ends as logbooks do."""
    return path if path.suffix == ENDING else path.with_name(path.name + ENDING)
