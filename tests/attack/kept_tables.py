"""Tables of results as people keep them, built from a description, with what they say.

A review is described first: rigs, cases, passes, and the quantities that were written down. Then it
is laid out, each of its dimensions on a side of the table, and last it is written the way one
person writes: marks, units, captions, footnotes, blank rows. Nothing here knows how tables are
read. Layouts and words are common practice, no source; names are made up.
"""

import random
import statistics
from dataclasses import dataclass, field

RIGS = (
    *("Built-in iG-6", "Sluice dock", "Tower", "Marram 12 (40 Gb/s)", "Groyne x4", "Weir laptop"),
    *("Marram 16 OCuLink", "Fen desktop", "Rill", "Breck", "Cable rig 2"),
)
TITLES = (
    *("Tidewrack", "Ninefold Siege", "Copper Meridian", "Skitter", "Kite Run", "Harbour 2"),
    *("Glass Orchard: Redux", "Low Lantern", "Orchard 2077", "F1 Drift"),
)
TESTS = ("Lattice", "Loom", "Quern")
TIMED = (("Loom compile", "s"), ("Quern export", "seconds"), ("Copy up", "GB/s"), ("Disk", "MB/s"))
PARTS = ("overall", "graphics", "CPU")
RESOLUTIONS = ("1080p", "1440p", "2160p", "4K", "2560x1440")
PRESETS = ("Low", "Medium", "High", "Ultra")
WORDS = {
    "average": ("avg", "Average", "Avg FPS", "average_fps", "FPS"),
    "low": ("1% low", "1 % Low", "1% Lows", "low_1_fps", "1% low FPS"),
    "minimum": ("min", "Min FPS", "Minimum"),
    "maximum": ("max", "Max FPS", "Maximum"),
    "low_01": ("0.1% low", "0,1 % low"),
    "median": ("Median", "median FPS"),
}
OTHERS = {
    "W": ("Power (W)", "Watts", "Power draw", "Leistung (W)", "GPU power (W)", "Consumption, W"),
    "°C": ("Temp (°C)", "GPU temperature", "Temperature"),
    "dB": ("Noise (dBA)", "Noise, dB"),
    "€": ("Price (€)", "Price", "Cost ($)", "Preis"),
    "GB": ("VRAM (GB)", "VRAM", "Memory (GB)"),
    "s": ("Load time (s)", "Loading time"),
    "ms": ("Latency (ms)", "Input lag", "Ping"),
    "y": ("Release year", "Year"),
    "Hz": ("Refresh rate (Hz)", "Refresh rate"),
    "%": ("CPU usage (%)", "GPU usage", "CPU load"),
}
STATISTICS = {
    "average": "Average",
    "low_01": "0.1% low",
    "median": "Median",
    "minimum": "Minimum",
    "maximum": "Maximum",
}
SHARES = ("Gain", "Δ", "Difference", "vs Tower", "Improvement", "% of Tower", "Index (Tower = 100)")
MEANS = (
    "Average",
    "Mean",
    "Ø",
    "All games",
    "Durchschnitt",
    "Moyenne",
    "Gesamt",
    "Together",
    "Σ/n",
)


@dataclass
class KeptTable:
    """The text of a table; (rig, case) → passes of figures by name; which cases are scores, and
    whether a word of the table says so; the units of tests that are told in one.
    """

    text: str
    figures: dict[tuple[str, str], list[dict[str, float]]] = field(default_factory=dict)
    scores: set[str] = field(default_factory=set)
    units: dict[str, str] = field(default_factory=dict)
    plain: bool = True


class Writer:
    """How one person writes figures."""

    def __init__(self, r: random.Random) -> None:
        self.comma = r.random() < 0.2
        self.decimals = r.choice([0, 0, 1, 1, 1, 2])
        self.unit = r.choice(["", "", "", "", " fps", " FPS"])
        self.mark = r.choice(["", "", "", "", "", "*", "**", " ± 2"])
        self.thousands = r.choice(["", "", " ", "\u202f", "'", ","])
        if self.comma and self.thousands == ",":
            self.thousands = "."
        self.r = r

    def rate(self, value: float) -> str:
        text = f"{value:.{self.decimals}f}"
        text = text.replace(".", ",") if self.comma else text
        if self.mark == "**":
            return f"**{text}{self.unit}**" if self.r.random() < 0.3 else f"{text}{self.unit}"
        spread = self.mark if self.mark != "*" or self.r.random() < 0.3 else ""
        return f"{text}{self.unit}{spread}"

    def whole(self, value: float) -> str:
        text = f"{value:.0f}"
        return f"{text[:-3]}{self.thousands}{text[-3:]}" if len(text) > 3 else text


@dataclass
class Review:
    """What somebody measured."""

    rigs: list[str]
    cases: list[tuple[str, str, str]]  # title, resolution, preset
    kinds: list[str]
    passes: int
    figures: dict[tuple[str, tuple[str, str, str]], list[dict[str, float]]]
    tests: dict[tuple[str, str], float]


def review(r: random.Random, decimals: int) -> Review:
    rigs = r.sample(RIGS, r.randint(1, 4))
    titles = r.sample(TITLES, r.randint(2, 6))
    resolutions = r.sample(RESOLUTIONS, r.choice([0, 1, 1, 2]))
    preset = r.choice(["", "", *PRESETS])
    cases = [(t, res, preset) for t in titles for res in (resolutions or [""])]
    kinds = r.choice(
        [
            *(["average"],) * 5,
            *(["average", "low"],) * 3,
            ["average", "minimum", "maximum"],
            ["average", "low", "low_01"],
            ["average", "median", "low"],
        ]
    )
    passes = r.choice([1, 1, 1, 1, 2, 3]) if kinds == ["average"] else 1
    share = {"low": 0.72, "minimum": 0.6, "maximum": 1.37, "low_01": 0.5, "median": 0.98}
    figures = {}
    for case in cases:
        pace = r.uniform(25, 220)
        for rig in rigs:
            each = []
            base = pace * r.uniform(0.3, 1.6)
            for _ in range(passes):
                average = max(12.0, base * r.uniform(0.97, 1.03))
                each.append({k: round(average * share.get(k, 1.0), decimals) for k in kinds})
            figures[rig, case] = each
    tests = {
        (rig, test): float(r.randint(1500, 19000)) for test in r.sample(TESTS, 2) for rig in rigs
    }
    return Review(rigs, cases, kinds, passes, figures, tests)


def kept_table(seed: int) -> KeptTable:
    """One table."""
    r = random.Random(seed)
    writer = Writer(r)
    of = review(r, writer.decimals)
    layout = r.choice(
        ["matrix"] * 5 + ["runs"] * 3 + ["tidy", "metric rows", "sections", "two heads", "stacked"]
    )
    if layout in ("metric rows", "two heads") and len(of.kinds) == 1 and layout == "metric rows":
        layout = "matrix"
    words = {kind: r.choice(WORDS[kind]) for kind in of.kinds}
    if len({*words.values()} & {"min", "max"}) and words["average"] == "FPS":
        words["average"] = "avg"
    table = KeptTable("")
    settings = r.choice(["joined", "slashes", "columns"])
    if settings == "columns" and not any(case[1] or case[2] for case in of.cases):
        settings = "joined"
    kept = ("average", "low", "low_01", "minimum", "maximum")
    for (rig, case), each in of.figures.items():
        table.figures[rig, label(case)] = [
            {k: v for k, v in one.items() if k in kept} for one in each
        ]
    rows = LAYOUTS[layout](r, of, writer, words, settings, table)
    rows = framed(r, rows, table)
    table.text = written(r, rows)
    return table


def label(case: tuple[str, str, str]) -> str:
    return " / ".join(part for part in case if part)


def heads(r, case_settings, of, settings):
    """The heads of the columns that name a case."""
    title = r.choice(["Game", "Title", "Benchmark", "Spiel"])
    if settings != "columns":
        return [title]
    found = [title]
    if any(case[1] for case in of.cases):
        found.append(r.choice(["Resolution", "Res"]))
    if any(case[2] for case in of.cases):
        found.append(r.choice(["Preset", "Settings", "Quality"]))
    return found


def names(case, settings, of):
    """The cells that name a case."""
    if settings == "columns":
        return [
            case[0],
            *([case[1]] if any(one[1] for one in of.cases) else []),
            *([case[2]] if any(one[2] for one in of.cases) else []),
        ]
    if settings == "joined" and (case[1] or not case[2]):
        return [" ".join(part for part in case if part)]
    return [label(case)]


def matrix(r, of, writer, words, settings, table):
    columns = [(rig, kind, n) for rig in of.rigs for kind in of.kinds for n in range(of.passes)]
    if of.passes > 1:
        head = [f"{rig} {r.choice(['run'])} {n + 1}" for rig, _, n in columns]
    elif len(of.kinds) > 1:
        join = r.choice([" ", ", ", " – "])
        head = [f"{rig}{join}{words[kind]}" for rig, kind, _ in columns]
    else:
        head = [rig for rig, *_ in columns]
    rows = [[*heads(r, settings, of, settings), *head]]
    left = len(rows[0]) - len(head)
    for case in of.cases:
        figures = [writer.rate(of.figures[rig, case][n][kind]) for rig, kind, n in columns]
        rows.append([*names(case, settings, of), *figures])
    extra = r.choice(
        ["", "", "", "mean", "sum", "share", "other", "score", "score by word", "timed"]
    )
    if extra in ("mean", "sum"):
        each = [[of.figures[rig, case][n][kind] for case in of.cases] for rig, kind, n in columns]
        how = {"mean": r.choice([statistics.fmean, statistics.geometric_mean]), "sum": sum}[extra]
        enough = len(columns) > 1 and len(of.cases) + len(columns) > 5
        name = r.choice(MEANS if enough else MEANS[:6])
        rows.append([name, *[""] * (left - 1), *(f"{how(one):.2f}" for one in each)])
        if writer.comma:
            rows[-1] = [cell.replace(".", ",") for cell in rows[-1]]
    elif extra.startswith("score") and of.passes == 1 and of.kinds == ["average"]:
        test = next(iter(of.tests))[1]
        name = f"{test} score" if extra == "score by word" else test
        rows.append(
            [name, *[""] * (left - 1), *(writer.whole(of.tests[rig, test]) for rig in of.rigs)]
        )
        table.plain = extra == "score by word" and not writer.thousands
        for rig in of.rigs:
            table.figures[rig, test] = [{"score": of.tests[rig, test]}]
        table.scores.add(test)
    elif extra == "timed" and of.passes == 1 and of.kinds == ["average"]:
        name, unit = r.choice(TIMED)
        form = r.choice(["{} ({})", "{}, {}", "{} {}", "{} [{}]", "in cells"])
        in_cells = form == "in cells"
        values = [round(r.uniform(2, 400), 1) for _ in of.rigs]
        cells = [f"{value} {unit}" if in_cells else f"{value}" for value in values]
        rows.append([name if in_cells else form.format(name, unit), *[""] * (left - 1), *cells])
        if writer.comma:
            rows[-1] = [*rows[-1][:left], *(cell.replace(".", ",") for cell in rows[-1][left:])]
        table.units[name] = "s" if unit == "seconds" else unit
        for rig, value in zip(of.rigs, values, strict=True):
            table.figures[rig, name] = [{"score": value}]
    elif extra == "other":
        add_other(r, rows, left, of, r.choice(["row", "column", "columns"]))
    elif extra == "share" and len(of.rigs) > 1 and of.kinds == ["average"] and of.passes == 1:
        one, two = of.rigs[:2]
        how = r.choice(["gain", "of", "difference"])
        named = r.choice(SHARES) if r.random() < 0.6 or len(of.cases) < 4 else "Extra"
        rows[0].append(named)
        for row, case in zip(rows[1:], of.cases, strict=True):
            a, b = (of.figures[rig, case][0]["average"] for rig in (one, two))
            value = {"gain": 100 * (a / b - 1), "of": 100 * a / b, "difference": a - b}[how]
            row.append(f"{value:.1f}" + ("%" if how != "difference" and r.random() < 0.5 else ""))
            row[-1] = row[-1].replace(".", ",") if writer.comma else row[-1]
    if left == 1 and r.random() < 0.35:
        rows = [list(row) for row in zip(*rows, strict=True)]
        rows[0][0] = r.choice(["Rig", "System", "Setup"])
    return rows


def add_other(r, rows, left, of, how):
    """Another quantity beside the rates."""
    unit = r.choice([*OTHERS])
    name = r.choice(OTHERS[unit])
    low, high = {"y": (2019, 2026), "GB": (4, 16), "%": (20, 99)}.get(unit, (30, 600))
    if how == "row":
        rows.append(
            [name, *[""] * (left - 1), *(str(r.randint(low, high)) for _ in rows[0][left:])]
        )
    elif how == "column":
        rows[0].append(name)
        for row in rows[1:]:
            row.append(str(r.randint(low, high)))
    else:
        for rig in of.rigs:
            rows[0].append(f"{rig} {name}")
            for row in rows[1:]:
                row.append(str(r.randint(low, high)))


def runs(r, of, writer, words, settings, table):
    rig = r.choice(["rig", "System", "GPU", "Setup"])
    rows = [[rig, *heads(r, settings, of, settings), *(words[kind] for kind in of.kinds)]]
    other = r.choice(["", "", *OTHERS])
    if other:
        rows[0].append(r.choice(OTHERS[other]))
    for (name, case), each in of.figures.items():
        for one in each:
            row = [name, *names(case, settings, of), *(writer.rate(one[k]) for k in of.kinds)]
            rows.append([*row, str(r.randint(2, 90))] if other else row)
    if r.random() < 0.3 and not other:
        rows[0].append("Notes")
        for row in rows[1:]:
            row.append(r.choice(["", "warm", "second evening"]))
    return rows


def tidy(r, of, writer, words, settings, table):
    rows = [["rig", *heads(r, settings, of, settings), "metric", "value", "unit"]]
    for (name, case), each in of.figures.items():
        for one in each:
            for kind in of.kinds:
                rows.append([name, *names(case, settings, of), words[kind]])
                rows[-1] += [writer.rate(one[kind]).replace(writer.unit, ""), "fps"]
            if r.random() < 0.3:
                rows.append(
                    [name, *names(case, settings, of), "Power", str(r.randint(60, 300)), "W"]
                )
    return rows


def metric_rows(r, of, writer, words, settings, table):
    rows = [[*heads(r, settings, of, settings), r.choice(["Metric", "Statistic"]), *of.rigs]]
    merged = r.random() < 0.5
    for case in of.cases:
        for at, kind in enumerate(of.kinds):
            named = names(case, settings, of)
            if merged and at:
                named = [""] * len(named)
            figures = [writer.rate(of.figures[rig, case][0][kind]) for rig in of.rigs]
            rows.append([*named, words[kind], *figures])
    return rows


def sections(r, of, writer, words, settings, table):
    rows = [[*heads(r, settings, of, settings), *of.rigs]]
    width = len(rows[0])
    titles = {kind: f"{words} FPS" for kind, words in STATISTICS.items()} | {"low": "1% lows"}
    for kind in of.kinds:
        rows.append([titles[kind], *[""] * (width - 1)])
        for case in of.cases:
            for n in range(of.passes):
                figures = [writer.rate(of.figures[rig, case][n][kind]) for rig in of.rigs]
                rows.append([*names(case, settings, of), *figures])
    if r.random() < 0.5:
        rows.append(
            [r.choice(["Power draw (W)", "Noise (dBA)", "Temperatures"]), *[""] * (width - 1)]
        )
        rows += [
            [*names(case, settings, of), *(str(r.randint(40, 300)) for _ in of.rigs)]
            for case in of.cases
        ]
    return rows


def two_heads(r, of, writer, words, settings, table):
    columns = [(rig, kind) for rig in of.rigs for kind in of.kinds]
    resolutions = list(dict.fromkeys(case[1] for case in of.cases))
    if len(of.kinds) == 1 and len(resolutions) > 1:
        columns = [(rig, res) for rig in of.rigs for res in resolutions]
        titles = list(dict.fromkeys((case[0], case[2]) for case in of.cases))
        top = [
            rig if at == 0 or columns[at - 1][0] != rig else ""
            for at, (rig, _) in enumerate(columns)
        ]
        rows = [["", *top], [r.choice(["Game", "Title"]), *(res for _, res in columns)]]
        kind = of.kinds[0]
        for title, preset in titles:
            figures = [
                " ".join(writer.rate(one[kind]) for one in of.figures[rig, (title, res, preset)])
                for rig, res in columns
            ]
            rows.append([f"{title} / {preset}" if preset else title, *figures])
        return rows
    if len(of.kinds) == 1:
        return matrix(r, of, writer, words, settings, table)
    top = [
        rig if at == 0 or columns[at - 1][0] != rig else "" for at, (rig, _) in enumerate(columns)
    ]
    left = heads(r, settings, of, settings)
    rows = [[*[""] * len(left), *top], [*left, *(words[kind] for _, kind in columns)]]
    for case in of.cases:
        figures = [writer.rate(of.figures[rig, case][0][kind]) for rig, kind in columns]
        rows.append([*names(case, settings, of), *figures])
    return rows


def stacked(r, of, writer, words, settings, table):
    """Two tables under each other, with other rigs."""
    cut = max(1, len(of.rigs) // 2)
    found = []
    for rigs in (of.rigs[:cut], of.rigs[cut:]):
        if rigs:
            part = Review(rigs, of.cases, of.kinds, of.passes, of.figures, of.tests)
            rows = two_heads(r, part, writer, words, "joined", table) if len(of.kinds) > 1 else None
            if rows is None:
                rows = [[r.choice(["Game", "Title"]), *rigs]]
                for case in of.cases:
                    figures = [
                        " ".join(writer.rate(one["average"]) for one in of.figures[rig, case])
                        for rig in rigs
                    ]
                    rows.append([*names(case, "joined", of), *figures])
            found += ([[""]] if found and r.random() < 0.7 else []) + rows
    return found


LAYOUTS = {
    "matrix": matrix,
    "runs": runs,
    "tidy": tidy,
    "metric rows": metric_rows,
    "sections": sections,
    "two heads": two_heads,
    "stacked": stacked,
}


def framed(r, rows, table):
    """Captions, footnotes, blank rows and columns about a table."""
    width = max(map(len, rows))
    rows = [[*row, *[""] * (width - len(row))] for row in rows]
    if r.random() < 0.2:
        caption = r.choice(
            ["My evening with the dock", "Results", "Average FPS", "FPS, higher is better"]
        )
        rows = [
            [caption, *[""] * (width - 1)],
            *([[""] * width] if r.random() < 0.5 else []),
            *rows,
        ]
    if r.random() < 0.1:
        note = r.choice(
            ["* on the short cable", "Note: two evenings", "All results are means of three passes."]
        )
        rows.append([note, *[""] * (width - 1)])
    if r.random() < 0.1:
        rows = [["", *row] for row in rows]
    return rows


def written(r, rows):
    """The rows as text."""
    how = r.choice(["tabs", "tabs", "semicolons", "commas", "markdown", "gaps"])
    cells = [cell for row in rows for cell in row]
    if how == "commas" and any("," in cell for cell in cells):
        how = "tabs"
    if how == "semicolons" and any(";" in cell for cell in cells):
        how = "tabs"
    if how == "gaps" and any(not row[0] and len([c for c in row if c]) > 0 for row in rows[1:]):
        how = "tabs"
    if how == "markdown":
        lines = ["| " + " | ".join(row) + " |" for row in rows]
        lines.insert(1, "|" + "---|" * len(rows[0]))
        return "\n".join(lines)
    if how == "gaps":
        wide = [max(len(row[place]) for row in rows) + 3 for place in range(len(rows[0]))]
        lines = ["".join(c.ljust(w) for c, w in zip(row, wide, strict=True)) for row in rows]
        return "\n".join(line.rstrip() for line in lines)
    mark = {"tabs": "\t", "semicolons": ";", "commas": ","}[how]
    return "\n".join(mark.join(row) for row in rows)
