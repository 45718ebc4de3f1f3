"""Small tables of scores: a column of scores, with parts, weights, rigs and tests beside them.

Columns score (or value), and any of part, weight, unit, rig, test (or title), pass and lower. Where
rig and test are not told, the file's name tells them: "rig_test_1.csv", as `simulate` writes it.
"""

import re
from pathlib import Path

from blunt_ruler.core.runs.import_scores import OVERALL, ToldScore
from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.tables.rows import HandRow, hand_rows

WANTED = "score, and part, weight, unit, rig, test, pass as far as known"
NAMED = re.compile(r"(?P<rig>[^_]+)_(?P<test>[^_]+?)(?:_(?P<repeat>\d+))?$")
HEADS = {"part", "test", "title", "rig"}
MOST_HEAD = 400


def is_scores(path: Path) -> bool:
    """Whether a file begins as a table of scores does: a column of scores, and what of."""
    try:
        with path.open("rb") as file:
            head = file.read(MOST_HEAD).decode("utf-8", "replace").lower()
    except OSError:
        return False
    first = next(iter(head.lstrip("\ufeff").splitlines()), "")
    names = {name.strip().strip('"') for name in re.split(r"[,;\t]", first)}
    return bool("score" in names and names & HEADS)


def read_scores(path: Path) -> tuple[ToldScore, ...]:
    """The scores of a table. BadLog names the row or column that is wrong."""
    named = NAMED.match(path.stem)
    found = [_told(row, named, path) for row in hand_rows(path, ("score",), WANTED)]
    if not found:
        raise BadLog(path.name, "it has a header and no row", "Add a row for each score")
    return tuple(found)


def _told(row: HandRow, named: re.Match[str] | None, path: Path) -> ToldScore:
    rig = row.text("rig") or (named["rig"] if named else "")
    test = row.text("test") or row.text("title") or (named["test"] if named else "")
    if not rig or not test:
        missing = "rig" if not rig else "test"
        raise BadLog(
            row.where,
            f"neither a column nor the file's name tells the {missing}",
            f"Add the column {missing}, or name the file “rig_test_1{path.suffix}”",
        )
    score = row.number("score")
    if score is None:
        raise BadLog(row.where, "the score is blank", "Fill it in, or take the row out")
    weight = row.number("weight")
    if weight is not None and weight > 1:
        raise BadLog(row.where, f"a weight of {weight:g}", "Give a number above 0, at most 1")
    repeat = row.number("pass") or float((named["repeat"] if named else None) or 1)
    part = row.text("part")
    return ToldScore(
        rig=rig,
        test=test,
        repeat=int(repeat),
        part="" if part.lower() in OVERALL else part,
        score=score,
        weight=weight,
        unit=row.text("unit"),
        lower_is_better=row.text("lower").lower() in ("yes", "lower", "true", "1"),
    )
