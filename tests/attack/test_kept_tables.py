"""Tables as people keep them: each figure is read right, asked about, or named as left out."""

import os
from collections import Counter

from kept_tables import kept_table

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.exchange.tables.cells import pasted_rows
from blunt_ruler.exchange.tables.reading import understand

TABLES = int(os.environ.get("ATTACK_TABLES", "100"))
FIRST = int(os.environ.get("ATTACK_SEED", "1"))
FIELDS = {
    "average": "average_fps",
    "low": "low_1_fps",
    "low_01": "low_01_fps",
    "minimum": "minimum_fps",
    "maximum": "maximum_fps",
    "score": "score",
}


def plain(name):
    return " ".join(name.replace("/", " ").split()).lower()


def verdict(table):
    """right, asked, or wrong without a question; with what is wrong."""
    try:
        sheet = understand(pasted_rows(table.text))
    except UserFixable as error:
        return "refused", error
    true = {(plain(rig), plain(case)): each for (rig, case), each in table.figures.items()}
    units = {plain(case): unit for case, unit in table.units.items()}
    doubtful = {case for question in sheet.asked for case in question.cases}
    asked = bool(sheet.asked) or any(cell.wrong for cell in sheet.cells)
    right = set()
    for cell in sheet.cells:
        key = plain(cell.rig), plain(cell.case)
        if cell.wrong or cell.case in doubtful:
            continue
        passes = parse_entry(cell.text, score=cell.score).passes
        said = [
            {name: getattr(one, of) for name, of in FIELDS.items() if getattr(one, of)}
            for one in passes
        ]
        if said != true.get(key) or cell.unit != units.get(key[1], ""):
            return ("asked", None) if sheet.asked else ("wrong", (cell, true.get(key)))
        right.add(key)
    if asked:
        return "asked", [question.words for question in sheet.asked] or next(
            cell.wrong for cell in sheet.cells if cell.wrong
        )
    return ("right", None) if right == true.keys() else ("wrong", set(true) - right)


def test_no_figure_of_a_table_is_wrong_without_a_question():
    found = Counter()
    for seed in range(FIRST, FIRST + TABLES):
        table = kept_table(seed)
        said, what = verdict(table)
        found[said] += 1
        assert said != "wrong", f"seed {seed}: {what}\n{table.text}"
    assert found["right"] >= 0.6 * TABLES, found
