"""Other quantities and shares beside the rates: none of them is ever taken for a frame rate.

Words are common practice, no source. Each is tried in every place that a table has for it.
"""

import itertools

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.tables.cells import pasted_rows
from blunt_ruler.exchange.tables.reading import understand

RIGS, GAMES = ("Tower", "Sluice dock", "Built-in"), ("Tidewrack", "Skitter", "Kite Run")
RATES = dict(
    zip(itertools.product(RIGS, GAMES), (107, 305, 91, 70, 224, 44, 27, 60, 19), strict=True)
)
BESIDE = ("310", "262", "118", "97", "66", "141", "73", "58", "205")
WORDS = {
    "watts": ("Power (W)", "Watts", "Wattage", "Board power (W)", "W", "Wall power (W)"),
    "degrees": ("Temp", "GPU temp (°C)", "Core temperature", "Hotspot"),
    "noise": ("Noise (dBA)", "Loudness (dB)", "dBA"),
    "prices": ("Price", "Price in €", "Street price", "USD", "Preis"),
    "memory": ("VRAM (GB)", "GPU memory", "VRAM usage", "Memory (MB)"),
    "times": ("Load time", "Level load time", "Startup time", "Input lag", "Latency (ms)"),
    "years and ranks": ("Release year", "Year", "Rank", "Place", "Position"),
    "hertz": ("Refresh rate (Hz)", "Hz", "GPU clock", "MHz"),
    "usage": ("CPU usage (%)", "CPU %", "GPU utilization", "CPU load"),
    "per watt": ("FPS/W", "€/FPS", "Performance per dollar", "Cost per frame"),
    "shares": ("Gain", "Δ %", "% of Tower", "Improvement (%)", "Index (Tower = 100)", "vs Tower",
               "Difference", "Loss", "Speedup", "Delta (%)", "Ratio", "Vorsprung", "Index"),
}  # fmt: skip


def game_rows(figure=lambda rig, game: str(RATES[rig, game])):
    return [[game, *(figure(rig, game) for rig in RIGS)] for game in GAMES]


def beside(rig, game):
    return BESIDE[RIGS.index(rig) * 3 + GAMES.index(game)]


def pairs(rig, game):
    return [str(RATES[rig, game]), beside(rig, game)]


def layouts(name):
    """Every place of a table in which a quantity can stand."""
    head = ["Game", *RIGS]
    per_game = [[game, *itertools.chain(*(pairs(rig, game) for rig in RIGS))] for game in GAMES]
    per_rig = [[rig, *(str(RATES[rig, game]) for game in GAMES)] for rig in RIGS]
    blank = [""] * len(RIGS)
    yield "a row", [head, *game_rows(), [name, *BESIDE[:3]]]
    yield (
        "a column",
        [[*head, name], *([*row, b] for row, b in zip(game_rows(), BESIDE, strict=False))],
    )
    yield (
        "a column, rigs down",
        [
            ["Rig", *GAMES, name],
            *([*row, b] for row, b in zip(per_rig, BESIDE, strict=False)),
        ],
    )
    yield (
        "the first column",
        [
            ["Rig", name, *GAMES],
            *([row[0], b, *row[1:]] for row, b in zip(per_rig, BESIDE, strict=False)),
        ],
    )
    for words in ("{} FPS", "{}"):
        heads = itertools.chain(*((words.format(rig), f"{rig} {name}") for rig in RIGS))
        yield f"beside each rig, {words}", [["Game", *heads], *per_game]
    yield (
        "under each rig",
        [
            ["", *itertools.chain(*((rig, "") for rig in RIGS))],
            ["Game", *(["FPS", name] * 3)],
            *per_game,
        ],
    )
    runs = [[rig, game, *pairs(rig, game)] for rig, game in RATES]
    yield "one run a row", [["Rig", "Game", "FPS", name], *runs]
    yield (
        "one run a row, before",
        [
            ["Rig", "Game", name, "FPS"],
            *([rig, game, b, rate] for rig, game, rate, b in runs),
        ],
    )
    yield (
        "a row of each game",
        [
            ["Game", "Metric", *RIGS],
            *itertools.chain(
                *(
                    ([row[0], "FPS", *row[1:]], [row[0], name, *other[1:]])
                    for row, other in zip(game_rows(), game_rows(beside), strict=True)
                )
            ),
        ],
    )
    yield (
        "a metric",
        [
            ["Rig", "Game", "Metric", "Value"],
            *itertools.chain(
                *(([rig, game, "FPS", rate], [rig, game, name, b]) for rig, game, rate, b in runs)
            ),
        ],
    )
    yield "a section", [head, ["FPS", *blank], *game_rows(), [name, *blank], *game_rows(beside)]
    yield (
        "a second table",
        [
            *(["Average FPS", *blank], head, *game_rows(), ["", *blank]),
            *([name, *blank], head, *game_rows(beside)),
        ],
    )


@pytest.mark.parametrize("kind", WORDS)
def test_only_the_rates_are_rates(kind):
    for name in WORDS[kind]:
        for where, rows in layouts(name):
            try:
                sheet = understand(rows)
            except UserFixable as error:
                pytest.fail(f"{name} as {where}: {error}")
            read = {
                (cell.rig, cell.case): cell.text
                for cell in sheet.cells
                if not cell.wrong and not cell.score
            }
            assert read == {key: str(rate) for key, rate in RATES.items()}, f"{name} as {where}"
            assert sheet.is_sure, f"{name} as {where}: {sheet.asked}"


@pytest.mark.parametrize("word", ["score", "(points)", "[pts]", "marks"])
def test_scores_by_a_word_are_scores_wherever_they_stand(word):
    scores = {"Tower": "880", "Sluice dock": "790", "Built-in": "310"}
    name = f"Lattice {word}"
    head, blank = ["Game", *RIGS], [""] * len(RIGS)
    for rows in (
        [head, *game_rows(), [name, *scores.values()]],
        [["Rig", *GAMES, name], *([rig, *(str(RATES[rig, g]) for g in GAMES), scores[rig]]
                                  for rig in RIGS)],
        [head, *game_rows(), [f"Synthetic {word}", *blank], ["Lattice", *scores.values()]],
        [["Rig", "Game", "Metric", "Value"],
         *([rig, game, "FPS", str(rate)] for (rig, game), rate in RATES.items()),
         *([rig, "Lattice", word.strip("()[]"), one] for rig, one in scores.items())],
    ):  # fmt: skip
        sheet = understand(rows)
        assert sheet.is_sure, rows
        assert sheet.scores == ("Lattice",)
        assert {cell.rig: cell.text for cell in sheet.cells if cell.score} == scores
        assert sum(not cell.score for cell in sheet.cells) == len(RATES)


@pytest.mark.parametrize(
    "name", ["Copy GB/s", "Startup s", "Load seconds", "Read Gbit/s", "Idle °C", "Fan rpm"]
)
def test_a_name_that_ends_in_a_unit_alone_is_no_title_and_no_rig(name):
    row = understand(pasted_rows(f"Title\tDock\tTower\nTidewrack\t61\t88\n{name}\t12.1\t38.3"))
    column = understand(pasted_rows(f"Title\tTower\t{name}\nTidewrack\t61\t88\nSkitter\t30\t38.3"))
    assert {cell.case for cell in row.cells} == {"Tidewrack"}
    assert {cell.rig for cell in column.cells} == {"Tower"}
    assert name in row.left_out[0].where
    assert name in column.left_out[0].where


@pytest.mark.parametrize("name", ["Dock 40 Gb/s", "Sluice S"])
def test_a_link_speed_or_a_letter_stays_in_a_name(name):
    sheet = understand(pasted_rows(f"Title\tTower\t{name}\nTidewrack\t61\t88\nSkitter\t30\t38.3"))
    assert {cell.rig for cell in sheet.cells} == {"Tower", name}
