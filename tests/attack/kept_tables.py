"""Tables of results as people keep them, made from a description, with what they say.

Rigs × titles × figures → a layout → marks, means and other quantities about them. Layouts and words
are common practice, no source; names are made up.
"""

import random
import statistics
from dataclasses import dataclass, field

RIGS = ("Built-in", "Sluice dock", "Tower", "iG-6", "Marram 12 (40 Gb/s)", "Groyne x4", "Weir")
TITLES = ("Tidewrack", "Ninefold Siege", "Copper Meridian", "Skitter", "Kite Run", "Harbour 2")
SETTINGS = ("1080p", "1440p", "4K", "2160p", "1080p / High", "1440p / Ultra", "")
NAMES = {"average": "avg", "low": "1% low", "minimum": "min", "maximum": "max"}
MEANS = ("Average", "Mean", "Ø", "Durchschnitt", "All", "Overall", "Zusammen")
OTHERS = ("Power (W)", "Watts", "Power draw", "Temp (°C)", "GPU temperature", "Price (€)", "Year")
SHARES = ("Gain", "Δ %", "Difference", "vs Tower", "Improvement", "% of Tower")
SCORES = ("Lattice score", "Lattice", "Loom points")


@dataclass
class KeptTable:
    """The text of a table, and (rig, case) → its figures by name."""

    text: str
    figures: dict[tuple[str, str], dict[str, float]] = field(default_factory=dict)


def kept_table(seed: int) -> KeptTable:
    """One table."""
    r = random.Random(seed)
    rigs = r.sample(RIGS, r.randint(2, 4))
    titles = r.sample(TITLES, r.randint(3, 6))
    settings, joined = r.choice(SETTINGS), r.random() < 0.5
    comma, decimals = r.random() < 0.2, r.choice([0, 1, 1, 2])
    kinds = r.choice([("average",)] * 3 + [("average", "low"), ("average", "minimum", "maximum")])
    mark = r.choice(["", "", "", " fps", "*", "**", " ± 2"])
    extra = r.choice(["", "", "mean", "sum", "share", "other", "score"])
    shares = {"average": 1.0, "low": 0.7, "minimum": 0.6, "maximum": 1.4}

    def said(value: float) -> str:
        text = f"{value:.{decimals}f}"
        return text.replace(".", ",") if comma else text

    def cell(value: float) -> str:
        return f"**{said(value)}**" if mark == "**" else f"{said(value)}{mark}"

    def case(title: str) -> str:
        parted = f"{title} {settings.replace(' / ', ' ')}" if joined else f"{title} / {settings}"
        return parted if settings else title

    figures = {}
    for title in titles:
        for rig in rigs:
            average = r.uniform(15, 300)
            figures[rig, case(title)] = {
                kind: round(average * shares[kind], decimals) for kind in kinds
            }
    if r.random() < 0.3:
        rows = [["rig", "game", *("fps" if kind == "average" else NAMES[kind] for kind in kinds)]]
        rows += [[*key, *map(cell, each.values())] for key, each in figures.items()]
        return KeptTable("\n".join(map("\t".join, rows)), figures)
    heads = [(rig, kind) for rig in rigs for kind in kinds]
    rows = [["Game", *(f"{rig} {NAMES[kind]}" if len(kinds) > 1 else rig for rig, kind in heads)]]
    rows += [
        [case(title), *(cell(figures[rig, case(title)][kind]) for rig, kind in heads)]
        for title in titles
    ]
    if extra in ("mean", "sum"):
        of = r.choice([statistics.fmean, statistics.geometric_mean]) if extra == "mean" else sum
        each = [[figures[rig, case(title)][kind] for title in titles] for rig, kind in heads]
        rows.append([r.choice(MEANS), *(said(of(one)) for one in each)])
    elif extra == "score":
        rows.append([r.choice(SCORES), *(str(r.randint(1500, 9000)) for _ in heads)])
    elif extra:
        name = r.choice(OTHERS if extra == "other" else SHARES)
        if r.random() < 0.5:
            rows.append([name, *(str(r.randint(40, 600)) for _ in heads)])
        else:
            rows = [[*row, str(r.randint(40, 600)) if n else name] for n, row in enumerate(rows)]
    if r.random() < 0.4:
        rows = [list(row) for row in zip(*rows, strict=True)]
        rows[0][0] = r.choice(["", "Rig", "System"])
    return KeptTable("\n".join(map("\t".join, rows)), figures)
