"""Tables of results with names that are meant to be mistaken, in layouts of every kind.

The generator shares nothing with the reader: what it wrote is known, and a table that is taken in
without a question must say just that.
"""

import os
import random

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.exchange.tables.cells import pasted_rows
from blunt_ruler.exchange.tables.reading import understand

TABLES = int(os.environ.get("ATTACK_INPUTS", "120"))
SEED = int(os.environ.get("ATTACK_SEED", "1"))
RIGS = (
    *("Built-in", "Sluice", "Tower", "Rig 2", "Groyne x4", "My tower 16 GB", "iG-6", "Low box"),
    *("Marram 12 (OCuLink)", "Marram 12, cable", "Max", "P1", "Dock/eGPU 1", "4x board"),
)
TITLES = (
    *("Tidewrack", "Ninefold Siege", "Skitter", "Orchard 2077", "Low Lantern", "1942 Skies"),
    *("Glass Orchard: Redux", "Max Thrust", "Average Joe", "F1 Drift", "Min Maxer"),
)
RESOLUTIONS = ("1080p", "1440p", "2160p", "1920x1080", "2560×1440", "4K")
PRESETS = ("Low", "High", "Max", "Ultra", "Min", "Medium, ray tracing", "")
METRICS = (("avg", "1% low"), ("Average", "1 % low"), ("avg fps", "1% low fps"))


def figure(r, comma):
    rate = r.uniform(15, 250)
    said = r.choice(
        (
            *(f"{rate:.0f}", f"{rate:.1f}", f"{rate:.2f}", f"~{rate:.0f}", f"{rate:.0f}+"),
            f"{rate:.0f}-{rate * 1.1 + 2:.0f}",
        )
    )
    return said.replace(".", ",") if comma else said


def words(case):
    return " / ".join(part for part in case if part)


def table(r):
    """(text, what it says)."""
    rigs = r.sample(RIGS, r.randint(1, 5))
    cases = list({(r.choice(TITLES), r.choice(RESOLUTIONS), r.choice(PRESETS)) for _ in range(5)})
    comma = r.random() < 0.4
    rates = {(rig, case): figure(r, comma) for rig in rigs for case in cases}
    lows = {key: f"{r.randint(4, 12)}" for key in rates}
    layout = r.choice(["across", "with lows", "columns", "down", "two heads", "runs"])
    with_lows = layout == "with lows" or (layout == "runs" and r.random() < 0.5)
    average, low = r.choice(METRICS)
    match layout:
        case "across":
            rows = [["Game", *rigs]]
            rows += [[words(case), *(rates[rig, case] for rig in rigs)] for case in cases]
        case "with lows":
            rows = [["Title", *(f"{rig} {name}" for rig in rigs for name in (average, low))]]
            rows += [
                [words(case), *(of[rig, case] for rig in rigs for of in (rates, lows))]
                for case in cases
            ]
        case "columns":
            rows = [["Title", "Resolution", "Preset", *rigs]]
            rows += [[*case, *(rates[rig, case] for rig in rigs)] for case in cases]
        case "down":
            rows = [["Rig", *(words(case) for case in cases)]]
            rows += [[rig, *(rates[rig, case] for case in cases)] for rig in rigs]
        case "two heads":
            rows = [["", *(case[0] for case in cases)]]
            rows += [["Rig", *(" ".join(case[1:]).strip() for case in cases)]]
            rows += [[rig, *(rates[rig, case] for case in cases)] for rig in rigs]
        case _:
            rows = [["rig", "title", "resolution", "preset", "average_fps"]]
            rows[0] += ["low_1_fps"] if with_lows else []
            for rig, case in rates:
                rows.append([rig, *case, rates[rig, case]])
                rows[-1] += [lows[rig, case]] if with_lows else []
    text = "\n".join("\t".join(row) for row in rows)
    said = {
        (rig, parse_case(words(case)).label): (
            rate + (f"/{lows[rig, case]}" if with_lows else "")
        ).replace(",", ".")
        for (rig, case), rate in rates.items()
    }
    return text, said


def test_what_is_taken_in_unasked_is_what_the_table_says():
    asked = 0
    for number in range(TABLES):
        text, said = table(random.Random(SEED * 1_000_003 + number))
        try:
            sheet = understand(pasted_rows(text))
        except UserFixable:
            asked += 1
            continue
        read = {
            (cell.rig, parse_case(cell.case).label): cell.text.replace(",", ".")
            for cell in sheet.cells
        }
        if sheet.is_sure:
            assert read == said, text
        else:
            asked += 1
    assert asked <= 0.05 * TABLES
