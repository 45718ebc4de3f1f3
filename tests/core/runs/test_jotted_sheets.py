"""Twenty sheets of figures as a person jots them down while watching a screen.

Written for this project; names and figures are made up. Each goes in by pasting, or line by line by
typing, without a refusal that this person would find silly, and with no figure misread.
"""

import pytest

from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.exchange.tables.cells import pasted_rows
from blunt_ruler.exchange.tables.reading import understand

# What is jotted; answers to what is asked; what it says: (rig, case) → (average, 1% low, min, max).
SHEETS = {
    "one rig, a line for each game": (
        "Tower\nTidewrack 107\nSkitter 305\nKite Run 45",
        {},
        {("Tower", "Tidewrack"): 107, ("Tower", "Skitter"): 305, ("Tower", "Kite Run"): 45},
    ),
    "averages and lows with a slash": (
        "Sluice dock\nTidewrack 69.5/57\nSkitter 200/140",
        {"second": "1% low"},
        {("Sluice dock", "Tidewrack"): (69.5, 57), ("Sluice dock", "Skitter"): (200, 140)},
    ),
    "colons": (
        "Dock, 1440p\nTidewrack: 52\nNinefold Siege: 28-30\nSkitter: ~90",
        {"rig": "Dock"},
        {
            ("Dock", "Tidewrack / 1440p"): 52,
            ("Dock", "Ninefold Siege / 1440p"): 29,
            ("Dock", "Skitter / 1440p"): 90,
        },
    ),
    "two columns with spaces": (
        "            Tower   Dock\nTidewrack   107     70\nSkitter     305     224",
        {},
        {("Tower", "Tidewrack"): 107, ("Dock", "Tidewrack"): 70, ("Tower", "Skitter"): 305,
         ("Dock", "Skitter"): 224},
    ),
    "a word for each column": (
        "Game Tower Dock\nTidewrack 107 70\nSkitter 305 224",
        {},
        {("Tower", "Tidewrack"): 107, ("Dock", "Tidewrack"): 70, ("Tower", "Skitter"): 305,
         ("Dock", "Skitter"): 224},
    ),
    "it crashed": (
        "Game\tTower\tDock\nTidewrack\t107\tcrashed after a minute\nSkitter\t305\t224",
        {},
        {("Tower", "Tidewrack"): 107, ("Tower", "Skitter"): 305, ("Dock", "Skitter"): 224},
    ),
    "named figures": (
        "Tower\nTidewrack avg 52 min 38 max 81\nSkitter 120 avg, 1% 88",
        {},
        {("Tower", "Tidewrack"): (52, None, 38, 81), ("Tower", "Skitter"): (120, 88)},
    ),
    "capped and below": (
        "Built-in\nTidewrack sub 30\nSkitter 60 locked\nKite Run mid 50s\nHarbour low 40s",
        {},
        {("Built-in", "Tidewrack"): 30, ("Built-in", "Skitter"): 60,
         ("Built-in", "Kite Run"): 55, ("Built-in", "Harbour"): 41.5},
    ),
    "scores among games": (
        "Game\tTower\tDock\nTidewrack\t107\t70\nLattice score\t4 433\t3 791",
        {},
        {("Tower", "Tidewrack"): 107, ("Dock", "Tidewrack"): 70,
         ("Tower", "Lattice"): 4433, ("Dock", "Lattice"): 3791},
    ),
    "scores without a word": (
        "\tTower\tDock\nLattice\t11,500\t9,800\nLoom\t12,300\t10,100",
        {"marks": "11500", "scores": "scores"},
        {("Tower", "Lattice"): 11500, ("Dock", "Lattice"): 9800, ("Tower", "Loom"): 12300,
         ("Dock", "Loom"): 10100},
    ),
    "passes beside each other": (
        "Tower\nTidewrack 107 108 106\nSkitter 305 301 307",
        {},
        {("Tower", "Tidewrack"): [107, 108, 106], ("Tower", "Skitter"): [305, 301, 307]},
    ),
    "watts at the end": (
        "Game\tTower FPS\tTower W\tDock FPS\tDock W\nTidewrack\t107\t310\t70\t260",
        {},
        {("Tower", "Tidewrack"): 107, ("Dock", "Tidewrack"): 70},
    ),
    "resolutions down": (
        "Tidewrack\tTower\tDock\n1080p\t107\t70\n1440p\t80\t60\n4K\t45\t41",
        {"case": "Tidewrack"},
        {("Tower", "Tidewrack / 1080p"): 107, ("Dock", "Tidewrack / 1080p"): 70,
         ("Tower", "Tidewrack / 1440p"): 80, ("Dock", "Tidewrack / 1440p"): 60,
         ("Tower", "Tidewrack / 4K"): 45, ("Dock", "Tidewrack / 4K"): 41},
    ),
    "with the gain worked out": (
        "Game\tDock\tTower\tgain\nTidewrack\t70\t107\t53%\nSkitter\t224\t305\t36%\naverage\t147\t206",
        {},
        {("Dock", "Tidewrack"): 70, ("Tower", "Tidewrack"): 107, ("Dock", "Skitter"): 224,
         ("Tower", "Skitter"): 305},
    ),
    "German": (
        "Spiel;Tower;Dock\nTidewrack;107,5;70,1\nSkitter;305,2;224,9\nSchnitt;206,35;147,5",
        {},
        {("Tower", "Tidewrack"): 107.5, ("Dock", "Tidewrack"): 70.1, ("Tower", "Skitter"): 305.2,
         ("Dock", "Skitter"): 224.9},
    ),
    "frame times": (
        "ms per frame\tTower\tDock\nTidewrack\t10\t20\nSkitter\t4\t5",
        {},
        {("Tower", "Tidewrack"): 100, ("Dock", "Tidewrack"): 50, ("Tower", "Skitter"): 250,
         ("Dock", "Skitter"): 200},
    ),
    "lows in brackets": (
        "Game\tTower\tDock\nTidewrack\t107 (80)\t70 (51)",
        {"second": "1% low"},
        {("Tower", "Tidewrack"): (107, 80), ("Dock", "Tidewrack"): (70, 51)},
    ),
    "three with slashes under a head": (
        "min/avg/max\tTower\tDock\nTidewrack\t71/107/140\t38/70/99",
        {},
        {("Tower", "Tidewrack"): (107, None, 71, 140), ("Dock", "Tidewrack"): (70, None, 38, 99)},
    ),
    "a table from a page": (
        "| Game | **Tower** | Dock* |\n|---|---|---|\n| Tidewrack (1080p, High) | **107** | 70 |\n"
        "| Skitter (1080p, Low) | **305** | 224 |\n\n* over the cable",
        {},
        {("Tower", "Tidewrack / 1080p / High"): 107, ("Dock", "Tidewrack / 1080p / High"): 70,
         ("Tower", "Skitter / 1080p / Low"): 305, ("Dock", "Skitter / 1080p / Low"): 224},
    ),
    "what the benchmark printed": (
        "Average FPS: 69.5\nMin FPS: 31\nMax FPS: 120\n1% Low: 57",
        {"rig": "Tower", "case": "Skitter / 1080p"},
        {("Tower", "Skitter / 1080p"): (69.5, 57, 31, 120)},
    ),
}  # fmt: skip


def figures(one):
    read = [one.score or one.average_fps, one.low_1_fps, one.minimum_fps, one.maximum_fps]
    while read[-1] is None:
        read.pop()
    return read[0] if len(read) == 1 else tuple(read)


def said(cell):
    passes = [figures(one) for one in parse_entry(cell.text, score=cell.score).passes]
    return passes[0] if len(passes) == 1 else passes


@pytest.mark.parametrize("name", SHEETS)
def test_a_jotted_sheet_goes_in_as_it_was_meant(name):
    text, answers, meant = SHEETS[name]
    first = understand(pasted_rows(text))
    assert {one.about for one in first.asked} <= {*answers, "Lattice", "Loom"}, first.asked
    sheet = understand(pasted_rows(text), answers=answers)
    assert sheet.is_sure, sheet.asked
    assert not [cell.wrong for cell in sheet.cells if cell.wrong]
    read = {
        (c.rig, c.case): said(c) for c in sheet.cells if parse_entry(c.text, score=c.score).passes
    }
    assert read == meant


def test_there_are_twenty():
    assert len(SHEETS) == 20
