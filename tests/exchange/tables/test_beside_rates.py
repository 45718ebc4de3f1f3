"""Other quantities and shares beside the rates: none of them is ever taken for a frame rate.

Words are common practice, no source. Each is tried in every place that a table has for it.
"""

import itertools

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.exchange.tables.cells import pasted_rows
from blunt_ruler.exchange.tables.reading import understand
from blunt_ruler.exchange.tables.sheet import Known

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
    ("name", "unit"),
    [
        *(
            ("Copy GB/s", "GB/s"),
            ("Startup s", "s"),
            ("Load seconds", "s"),
            ("Read Gbit/s", "Gbit/s"),
        ),
        *(("Idle °C", ""), ("Fan rpm", "")),
    ],
)
def test_a_name_that_ends_in_a_unit_alone_has_no_frame_rates(name, unit):
    row = understand(pasted_rows(f"Title\tDock\tTower\nTidewrack\t61\t88\n{name}\t12.1\t38.3"))
    column = understand(pasted_rows(f"Title\tTower\t{name}\nTidewrack\t61\t88\nSkitter\t30\t38.3"))
    assert {cell.case for cell in row.cells if not cell.unit} == {"Tidewrack"}
    assert {cell.rig for cell in column.cells} == {"Tower"}
    assert name in column.left_out[0].where
    if unit:  # the result of a test, in a row of its own
        measured = [(cell.case, cell.text, cell.unit) for cell in row.cells if cell.unit]
        test = name.rpartition(" ")[0]
        assert measured == [(test, "12.1", unit), (test, "38.3", unit)]
        assert all(cell.score for cell in row.cells if cell.unit)
    else:
        assert name in row.left_out[0].where


HEAD = "Test\tDock\tTower\n"


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (f"{HEAD}Loom compile (s)\t61.2\t40.1\nTidewrack\t61\t88", {"Loom compile": "s"}),
        (f"{HEAD}Copy\t6.4 GB/s\t25 GB/s\nTidewrack\t61\t88", {"Copy": "GB/s"}),
        ("Rig\tTidewrack\tDisk, MB/s\nDock\t61\t640\nTower\t88\t2510", {"Disk": "MB/s"}),
        # A game's seconds are no test of their own.
        (f"{HEAD}Tidewrack\t61\t88\nTidewrack load (s)\t12\t11", {}),
        (f"{HEAD}Load time (s)\t12\t11\nTidewrack\t61\t88", {}),
        ("Game\tDock\tDock load (s)\nTidewrack\t61\t12\nSkitter\t31\t11", {}),
    ],
)
def test_what_a_test_is_told_in_is_kept_as_a_score_in_that_unit(text, told):
    sheet = understand(pasted_rows(text))
    assert sheet.is_sure
    assert {cell.case: cell.unit for cell in sheet.cells if cell.unit} == told
    assert all(cell.score == bool(cell.unit) for cell in sheet.cells)


def test_a_whole_table_in_seconds_is_asked_about():
    text = "Render times in seconds\n\tDock\tTower\nLattice\t61\t40\nLoom\t161\t140"
    sheet = understand(pasted_rows(text))
    assert [one.readings for one in sheet.asked] == [("tests", "another quantity")]
    tests = understand(pasted_rows(text), answers={"s": "tests"})
    assert {cell.unit for cell in tests.cells} == {"s"}
    with pytest.raises(UserFixable, match="left out"):
        understand(pasted_rows(text), answers={"s": "another quantity"})
    with pytest.raises(UserFixable, match="left out"):
        understand(pasted_rows(text), Known(games=frozenset({"lattice", "loom"})))


def test_a_known_test_takes_scores_without_a_question():
    rows = pasted_rows("Test\tDock\tTower\nLattice\t812\t1120")
    assert not understand(rows).scores
    known = understand(rows, Known(tests=frozenset({"lattice"})))
    assert (known.scores, known.is_sure) == (("Lattice",), True)
    by_head = pasted_rows("Rig\tTest\tFPS\nDock\tLattice\t81\nTower\tLattice\t112")
    assert not understand(by_head, Known(tests=frozenset({"lattice"}))).scores, (
        "the head says rates"
    )


def test_a_tenth_of_a_per_cent_is_kept_and_has_its_place():
    text = "Game\tDock avg\tDock 1% low\tDock 0.1% low\nTidewrack\t61\t44\t30.5"
    (cell,) = understand(pasted_rows(text)).cells
    assert cell.text == "avg 61 1% 44 0.1% 30.5"
    (one,) = parse_entry(cell.text).passes
    assert (one.average_fps, one.low_1_fps, one.low_01_fps) == (61, 44, 30.5)
    (wrong,) = understand(pasted_rows(text.replace("30.5", "50"))).cells
    assert "0.1 % low 50 is above the 1 % low 44" in wrong.wrong


@pytest.mark.parametrize("name", ["Dock 40 Gb/s", "Sluice S"])
def test_a_link_speed_or_a_letter_stays_in_a_name(name):
    sheet = understand(pasted_rows(f"Title\tTower\t{name}\nTidewrack\t61\t88\nSkitter\t30\t38.3"))
    assert {cell.rig for cell in sheet.cells} == {"Tower", name}


def test_what_a_head_says_is_believed_whatever_its_figures_agree_with():
    # The third pass is the mean of the others to its last digit; the low is 24 - 7 and 12 - 3.
    passes = "Game\tDock run 1\tDock run 2\tDock run 3\nF1 Drift\t50\t49\t50\nSkitter\t59\t59\t59"
    sheet = understand(pasted_rows(f"{passes}\nKite Run\t198\t193\t195"))
    assert [cell.text for cell in sheet.cells] == ["50 49 50", "59 59 59", "198 193 195"]
    lows = (
        "Game\tTower\tTower 1% low\tDock\tDock 1% low\nKite Run\t24\t17\t7\t5\nSkitter\t12\t9\t3\t2"
    )
    sheet = understand(pasted_rows(lows))
    assert {cell.text for cell in sheet.cells if cell.rig == "Tower"} == {"24/17", "12/9"}


@pytest.mark.parametrize("unit", ["W", "watts", "€", "$", "USD"])
def test_names_that_all_end_in_a_unit_alone_are_of_that_quantity(unit):
    with pytest.raises(UserFixable, match="another quantity"):
        understand(pasted_rows(f"Game\tTower {unit}\tDock {unit}\nTidewrack\t161\t215"))
    sheet = understand(pasted_rows(f"Game\tTower\tDock {unit}\nTidewrack\t61\t215\nSkitter\t9\t92"))
    assert {cell.rig for cell in sheet.cells} == {"Tower"}
    assert sheet.left_out[0].where == f"column Dock {unit}"


def test_milliseconds_of_one_name_alone_are_no_frame_times():
    every = understand(pasted_rows("Game\tTower ms\tDock ms\nTidewrack\t16.1\t21.5"))
    assert {cell.rig: cell.text for cell in every.cells} == {"Tower": "62.1", "Dock": "46.5"}
    one = understand(pasted_rows("Game\tTower\tDock\nTidewrack\t61\t21.5\nDraw call ms\t8.8\t9.2"))
    assert {cell.case for cell in one.cells} == {"Tidewrack"}
    assert one.left_out[0].where == "row Draw call ms"
