"""Files of any kind as they come: which are logs, which tables of results or of scores."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from blunt_ruler.exchange.recordings.decoding import is_recording
from blunt_ruler.exchange.recordings.still import is_picture
from blunt_ruler.exchange.tables.files import TEXTS, WORKBOOKS, is_table
from blunt_ruler.exchange.tables.scores import is_scores
from blunt_ruler.folders import LOG_ENDINGS, files_in

# Of a folder's own files; JSON is looked at where it is given by name, for folders hold much of it.
ENDINGS = (*LOG_ENDINGS, *sorted((TEXTS | WORKBOOKS).difference(LOG_ENDINGS, [".json"])))


@dataclass(frozen=True, slots=True)
class Given:
    """Files by what they hold, and what was left of their folders, in a sentence."""

    logs: tuple[Path, ...] = ()
    tables: tuple[Path, ...] = ()
    scores: tuple[Path, ...] = ()
    recordings: tuple[Path, ...] = ()
    pictures: tuple[Path, ...] = ()
    left: str = ""


def sorted_out(paths: Sequence[Path]) -> Given:
    """Files, and those of folders, by how they begin. BadFolder says what is wrong with one."""
    found = files_in(paths, ENDINGS)
    files = found.files
    recordings = {path for path in files if is_recording(path)}
    pictures = {path for path in files if is_picture(path)}
    others = [path for path in files if path not in recordings and path not in pictures]
    scores = {path for path in others if is_scores(path)}
    tables = {path for path in others if path not in scores and is_table(path)}
    return Given(
        logs=tuple(path for path in others if path not in scores and path not in tables),
        recordings=tuple(filter(recordings.__contains__, files)),
        pictures=tuple(filter(pictures.__contains__, files)),
        tables=tuple(filter(tables.__contains__, files)),
        scores=tuple(filter(scores.__contains__, files)),
        left=found.left_words,
    )
