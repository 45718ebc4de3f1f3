"""Tables as reviewers keep them, drawn by chance: every figure is taken, none is taken for a mean
or a share of others because it happens to agree.
"""

import random

import pytest

from blunt_ruler.exchange.tables.reading import understand

RIGS = ("iGPU", "Laptop", "M.2 dock", "OCuLink x4", "Desktop x16", "Cord 4x4", "Cord 3x4", "Box A")
GAMES = ("Tidewrack", "Quarry 9", "Ashen Court", "Low Lantern", "Racer 24", "2048 Runs", "Lap 60")
SIZES = {"1080p": 1.0, "1440p": 0.7, "4K": 0.4}
TABLES = 150


def table(rng):
    """(rows, {(rig, case): figure}): games at some sizes, on rigs that may lie close together or be
    held at 60, rigs across, rigs down, or one run a row.
    """
    rigs = rng.sample(RIGS, rng.randint(1, 5))
    games, digits = rng.sample(GAMES, rng.randint(1, 6)), rng.choice([0, 0, 1, 1, 2])
    cases = [(game, size) for game in games for size in rng.choice([[""], list(SIZES)])]
    cap = rng.choice([None, None, 60.0])
    apart = rng.choice([0.01, 0.6])
    speed = {rig: rng.uniform(1.0 - apart, 1.0 + apart) for rig in rigs}
    load = {game: rng.uniform(20.0, 160.0) for game in games}

    def figure(rig, case):
        rate = speed[rig] * load[case[0]] * SIZES.get(case[1], 1.0) * rng.uniform(0.98, 1.02)
        return f"{rate if cap is None else min(rate, cap):.{digits}f}"

    told = {(rig, case): figure(rig, case) for rig in rigs for case in cases}
    match rng.choice(["across", "down", "long"]):
        case "across":
            rows = [["Game", "Resolution", *rigs]]
            rows += [[*case, *(told[rig, case] for rig in rigs)] for case in cases]
        case "down":
            rows = [["Rig", *(" ".join(case).strip() for case in cases)]]
            rows += [[rig, *(told[rig, case] for case in cases)] for rig in rigs]
        case _:
            rows = [["Rig", "Game", "Resolution", "Average fps"]]
            rows += [[rig, *case, figure] for (rig, case), figure in told.items()]
    return rows, {(rig, " / ".join(filter(None, case))): text for (rig, case), text in told.items()}


@pytest.mark.parametrize("seed", range(3))
def test_every_figure_of_an_ordinary_table_is_taken(seed):
    rng, asked = random.Random(seed), 0
    for _ in range(TABLES // 3):
        rows, wanted = table(rng)
        sheet = understand(rows)
        asked += bool(sheet.asked)
        found = {(cell.rig, cell.case): cell.text for cell in sheet.sound}
        assert sheet.asked or found == wanted, rows
    assert asked <= 2


def with_delta(*rows):
    return [["Game", "Cord", "Tower", "Delta"],
            *([f"Game {n}", str(a), str(b), str(round(100 * a / b, 1))]
              for n, (a, b) in enumerate(rows))]  # fmt: skip


def test_a_share_that_no_word_or_mark_tells_is_still_told_by_its_figures():
    sheet = understand(with_delta((61.4, 92.7), (30.2, 33.9), (44.1, 88.0)))
    assert sheet.rigs == ("Cord", "Tower")
    assert [one.why for one in sheet.left_out] == ["the percentage of Cord and Tower"]


def test_one_that_chance_could_have_made_is_asked_about():
    sheet = understand(with_delta((60, 60), (30, 30), (44, 44.1)))
    (asked,) = sheet.asked
    assert asked.words == "Is Delta the percentage of Cord and Tower, or one of them?"
    assert understand(
        with_delta((60, 60), (30, 30), (44, 44.1)), answers={asked.about: "one of them"}
    ).rigs == ("Cord", "Tower", "Delta")
