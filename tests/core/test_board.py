"""The Board's values and its sentences, from small reviews made by hand."""

from dataclasses import replace

import pytest

from blunt_ruler.core.blunt_lines import (
    board_line,
    cell_line,
    cell_next,
    runs_line,
    stop_states,
    writeup_line,
)
from blunt_ruler.core.board import (
    Lens,
    beside_text,
    build_board,
    lens_value,
    lens_words,
    mean_text,
    value_text,
)
from blunt_ruler.core.models import (
    Case,
    Contents,
    Decision,
    Origin,
    Review,
    Role,
    Run,
    Seat,
    Title,
    TypedFigures,
)
from blunt_ruler.core.parts import Card, Host, Link, Rig

FPS = {"igpu": 20.0, "cable": 50.0, "tower": 80.0}


def a_run(rig, case, fps, low=None, repeat=1, decision=Decision.KEEP):
    return Run(
        id=f"{rig}-{case}-{repeat}",
        rig_id=rig,
        case_id=case,
        repeat=repeat,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=fps, low_1_fps=low),
        decision=decision,
    )


def contents_of(runs, roles=("base", "under test", "reference")):
    rigs = (
        Rig(id="igpu", name="Built-in iG-6", host_id="h", card_id="ig6"),
        Rig(id="cable", name="Sluice Marram 12", host_id="h", card_id="m12", link_id="l"),
        Rig(id="tower", name="Workbench Marram 12", host_id="w", card_id="m12"),
    )
    review = Review(
        id="v",
        name="V",
        seats=tuple(
            Seat(rig_id=rig.id, role=Role(role)) for rig, role in zip(rigs, roles, strict=True)
        ),
        case_ids=("x", "y"),
    )
    contents = replace(
        Contents.empty(),
        hosts={
            "h": Host(id="h", name="Quillon 24"),
            "w": Host(id="w", name="Workbench tower"),
        },
        cards={
            "ig6": Card(id="ig6", name="iG-6", built_in=True),
            "m12": Card(id="m12", name="Marram 12"),
        },
        links={"l": Link(id="l", name="40 Gb/s cable")},
        rigs={rig.id: rig for rig in rigs},
        titles={"t": Title(id="t", name="Tidewrack")},
        cases={
            "x": Case(id="x", title_id="t", scene="coast", resolution="1080p", preset="High"),
            "y": Case(id="y", title_id="t", scene="coast", resolution="1440p", preset="High"),
        },
        runs={run.id: run for run in runs},
        reviews={"v": review},
    )
    return contents, review


def a_board(runs=None, roles=("base", "under test", "reference")):
    if runs is None:
        runs = [a_run(rig, "x", fps, fps * 0.8) for rig, fps in FPS.items()]
    contents, review = contents_of(runs, roles)
    return build_board(contents, review)


def test_each_lens_shows_its_figure_with_its_base():
    board = a_board()
    cell = board.cells["cable", "x"]
    shown = {lens: value_text(lens_value(cell, lens), lens) for lens in Lens}
    assert shown == {
        Lens.RATE: "50.0",
        Lens.LOW_1: "40.0",
        Lens.GAIN: "+150\u202f%",
        Lens.LOSS: "−38\u202f%",
    }
    assert "Built-in iG-6" in lens_words(board, Lens.GAIN)
    assert "Workbench Marram 12" in lens_words(board, Lens.LOSS)
    assert "percentile" in lens_words(board, Lens.LOW_1)
    assert beside_text(board, "cable", cell, Lens.RATE) == "×2.50"
    assert beside_text(board, "igpu", board.cells["igpu", "x"], Lens.RATE) == "base"
    assert mean_text(board, "cable", Lens.RATE) == "×2.50"
    assert mean_text(board, "cable", Lens.LOSS) == "−38\u202f%"
    assert board.kept_of_reference("cable", "x") == pytest.approx(50 / 80)


def test_only_kept_runs_count_and_the_others_stay_listed():
    runs = [a_run(rig, "x", fps) for rig, fps in FPS.items()]
    runs.append(a_run("cable", "x", 500.0, repeat=2, decision=Decision.SET_ASIDE))
    board = a_board(runs)
    assert board.cells["cable", "x"].average_fps == pytest.approx(50.0)
    assert len(board.runs["cable", "x"]) == 2
    assert "1 run of this cell is not counted" in cell_next(
        a_board([*runs, a_run("cable", "x", 50.0, repeat=3)]), "cable", "x"
    )


def test_the_line_gives_both_bases():
    assert board_line(a_board()) == (
        "Through the 40 Gb/s cable, the Marram 12 runs 2.5 times as fast as the built-in iG-6 and "
        "keeps 62\u202f% of its speed in the Workbench tower."
    )


def test_a_small_gain_is_a_percentage_and_a_loss_of_speed_is_not_called_a_gain_without_sign():
    runs = [a_run("igpu", "x", 50.0), a_run("cable", "x", 55.0), a_run("tower", "x", 60.0)]
    assert "gains +10\u202f% over the built-in iG-6" in board_line(a_board(runs))
    runs[1] = a_run("cable", "x", 45.0)
    assert "−10\u202f%" in board_line(a_board(runs))


def test_what_is_missing_is_said_with_what_to_do():
    assert "No runs yet" in board_line(a_board([]))
    no_base = a_board(roles=("under test", "under test", "reference"))
    assert board_line(no_base).startswith("No base rig chosen")
    assert no_base.comparison is None
    assert no_base.cells["cable", "x"].gain is None
    base_empty = a_board([a_run("cable", "x", 50.0)])
    assert "has no kept run" in board_line(base_empty)
    no_reference = a_board(roles=("base", "under test", "under test"))
    assert "No reference rig is chosen" in board_line(no_reference)
    apart = a_board([a_run("igpu", "x", 20.0), a_run("cable", "x", 50.0), a_run("tower", "y", 80)])
    assert "shares no measured case with the reference" in board_line(apart)
    only_base = a_board([a_run("igpu", "x", 20.0)])
    assert "import a run of the rig under test" in board_line(only_base)
    only_ends = a_board([a_run("igpu", "x", 20.0), a_run("tower", "x", 80.0)])
    assert "no rig is under test" in board_line(only_ends)


def test_another_card_is_not_said_to_keep_its_own_speed():
    contents, review = contents_of([a_run(rig, "x", fps) for rig, fps in FPS.items()])
    cards = {**contents.cards, "m16": Card(id="m16", name="Marram 16")}
    tower = contents.rigs["tower"].model_copy(update={"card_id": "m16"})
    rigs = {**contents.rigs, "tower": tower}
    changed = contents.with_records({"cards": cards, "rigs": rigs})
    line = board_line(build_board(changed, review))
    assert "reaches 62\u202f% of Workbench Marram 12" in line
    assert "its speed" not in line


def test_a_cell_is_said_with_its_bases_and_what_it_lacks():
    board = a_board()
    assert cell_line(board, "cable", "x") == (
        "50.0 frames per second: +150\u202f% over Built-in iG-6 and −38\u202f% against "
        "Workbench Marram 12."
    )
    assert cell_line(board, "igpu", "x") == (
        "20.0 frames per second: −75\u202f% against Workbench Marram 12."
    )
    assert "no kept run" in cell_line(board, "cable", "y")
    assert "Take it once more" in cell_next(board, "cable", "x")
    assert "Take a run of this case" in cell_next(board, "cable", "y")
    lonely = a_board([*board.runs["igpu", "x"], a_run("cable", "y", 50.0)])
    assert "Built-in iG-6" in cell_next(lonely, "cable", "y")


def test_runs_and_writeup_lines_count():
    runs = [a_run(rig, "x", fps) for rig, fps in FPS.items()]
    runs.append(a_run("cable", "x", 49.0, repeat=2, decision=Decision.REDO))
    contents, review = contents_of(runs)
    line = runs_line(contents, review)
    assert line.startswith("4 runs: 3 kept, 1 to redo.")
    assert "3 cells of the Board rest on a single kept run" in line
    assert "3 cells" in writeup_line(build_board(contents, review))
    assert "Nothing to export" in writeup_line(a_board([]))
    states = stop_states(contents, build_board(contents, review))
    assert states["Runs"].words == "4 runs · 1 to redo"
    assert states["Runs"].share == pytest.approx(3 / 6)
    assert states["Limits"].words == "coming"
    assert stop_states(None, None)["Board"].words == ""
