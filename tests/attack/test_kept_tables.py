"""Tables as people keep them: each figure is read right, asked about, or named as left out."""

import os
from collections import Counter

from kept_tables import kept_table

from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.core.runs.sheet_cells import pasted_rows
from blunt_ruler.core.runs.sheets import understand

TABLES = int(os.environ.get("ATTACK_TABLES", "400"))
FIRST = int(os.environ.get("ATTACK_SEED", "1"))
FIELDS = {
    "average": "average_fps",
    "low": "low_1_fps",
    "minimum": "minimum_fps",
    "maximum": "maximum_fps",
}


def plain(name):
    return " ".join(name.replace("/", " ").split()).lower()


def verdict(table):
    """right, asked, or wrong without a question; with what is wrong."""
    sheet = understand(pasted_rows(table.text))
    true = {(plain(rig), plain(case)): each for (rig, case), each in table.figures.items()}
    right = set()
    asked = not sheet.sure or bool(sheet.may_score) or any(cell.wrong for cell in sheet.cells)
    for cell in sheet.cells:
        key = plain(cell.rig), plain(cell.case)
        if cell.wrong or cell.case in sheet.may_score:
            continue
        if cell.score:
            if key in true:
                return "wrong", cell
            continue
        (one,) = parse_entry(cell.text).passes
        said = {name: getattr(one, of) for name, of in FIELDS.items() if getattr(one, of)}
        if key not in true or said != true[key]:
            return ("asked", None) if not sheet.sure else ("wrong", cell)
        right.add(key)
    if right != true.keys():
        return ("asked", None) if asked else ("wrong", set(true) - right)
    return ("asked", None) if asked else ("right", None)


def test_no_figure_of_a_table_is_wrong_without_a_question():
    found = Counter()
    for seed in range(FIRST, FIRST + TABLES):
        table = kept_table(seed)
        said, what = verdict(table)
        found[said] += 1
        assert said != "wrong", f"seed {seed}: {what}\n{table.text}"
    assert found["right"] >= 0.85 * TABLES, found
