"""Playable settings: a title's own presets, upscaling, generated frames, a target of its own."""

from dataclasses import replace

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.playable import (
    Against,
    Target,
    against,
    frames_made,
    gained_words,
    playable,
    playable_cell,
    rank_of,
    target_of,
)
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)

TITLE = Title(id="t", name="Tidewrack", presets=("Spray", "Tide", "Calm"), target_fps=60)


def lab(rates, title=TITLE, **facts):
    """rates: rig → preset → rate."""
    presets = list(dict.fromkeys(preset for row in rates.values() for preset in row))
    cases = {
        preset: Case(id=preset, title_id="t", resolution="1080p", preset=preset, **facts)
        for preset in presets
    }
    runs = {
        f"{rig}{preset}": Run(
            id=f"{rig}{preset}",
            rig_id=rig,
            case_id=preset,
            origin=Origin(kind="typed"),
            typed=TypedFigures(average_fps=rate),
        )
        for rig, row in rates.items()
        for preset, rate in row.items()
    }
    review = Review(
        id="v",
        name="v",
        seats=tuple(
            ReviewRig(rig_id=rig, role=Role.BASE if rig == "a" else Role.TESTED) for rig in rates
        ),
        case_ids=tuple(presets),
    )
    contents = Contents.empty().with_records(
        {
            "rigs": {rig: Rig(id=rig, name=rig.upper()) for rig in rates},
            "titles": {"t": title},
            "cases": cases,
            "runs": runs,
            "reviews": {"v": review},
        }
    )
    return contents, build_board(contents, review)


RATES = {"a": {"Spray": 20, "Tide": 35, "Calm": 62}, "b": {"Spray": 61, "Tide": 80, "Calm": 120}}


def test_presets_stand_in_the_titles_own_order_and_frames_are_given_back_in_presets():
    contents, board = lab(RATES)
    found = {one.rig_id: one for one in playable(contents, board, Target(30, 20))}
    assert found["a"].case_id == "Calm"
    assert found["b"].case_id == "Spray", "the slowest that still meets the title's own 60"
    said = gained_words(contents, found["b"], found["a"])
    assert said == "2 presets higher at the same 60, from 1080p Calm"


@pytest.mark.parametrize(
    ("mine", "theirs", "mark", "cell"),
    [
        (80, 62, Against.NONE, "1080p Calm\n80.0"),
        (80, 20, Against.NEW, "✓ 1080p Calm\n80.0"),
        (20, 62, Against.NONE, "not playable\n20.0 at best"),
    ],
)
def test_a_cell_has_what_is_played_and_how_it_stands_to_the_base(mine, theirs, mark, cell):
    contents, board = lab({"a": {"Calm": theirs}, "b": {"Calm": mine}})
    found = {one.rig_id: one for one in playable(contents, board, Target(30, 20))}
    assert against(contents, found["b"], found["a"]) is mark
    assert playable_cell(found["b"], mark) == cell
    assert against(contents, found["a"], found["a"]) is Against.NONE


def test_higher_and_lower_settings_are_marked():
    contents, board = lab(RATES)
    found = {one.rig_id: one for one in playable(contents, board, Target(30, 20))}
    assert against(contents, found["b"], found["a"]) is Against.HIGHER
    turned = [replace(found[one], rig_id=other) for one, other in (("a", "b"), ("b", "a"))]
    assert against(contents, *turned) is Against.LOWER


def test_a_title_without_an_order_goes_by_the_usual_names():
    plain = Title(id="t", name="Tidewrack")
    assert rank_of(Case(id="c", title_id="t", preset="High"), plain) > rank_of(
        Case(id="c", title_id="t", preset="low"), plain
    )
    assert target_of(plain, Target(30, 20)) == Target(30, 20)
    assert target_of(TITLE, Target(30, 15)) == Target(60, 30)


def test_upscaled_looks_less_than_whole_at_the_same_size():
    whole = Case(id="c", title_id="t", resolution="1440p", preset="Tide")
    scaled = whole.model_copy(update={"upscaler": "quality"})
    assert rank_of(whole, TITLE) > rank_of(scaled, TITLE)
    small = whole.model_copy(update={"resolution": "1080p"})
    assert rank_of(scaled, TITLE) > rank_of(small, TITLE)


@pytest.mark.parametrize(
    ("said", "times"), [("", 1), ("off", 1), ("on", 2), ("×3", 3), ("4x", 4), ("x2 mode", 2)]
)
def test_generated_frames_are_counted_as_what_they_are(said, times):
    assert frames_made(Case(id="c", title_id="t", frame_generation=said)) == times


def test_only_drawn_frames_meet_a_target():
    contents, board = lab({"a": {"Tide": 30}, "b": {"Tide": 100}}, frame_generation="×2")
    found = {one.rig_id: one for one in playable(contents, board, Target(60, 45))}
    assert found["b"].case_id is None, "100 shown are 50 drawn"
    free = TITLE.model_copy(update={"target_fps": None})
    contents, board = lab({"a": {"Tide": 30}, "b": {"Tide": 100}}, free, frame_generation="×2")
    found = {one.rig_id: one for one in playable(contents, board, Target(10, 60))}
    assert found["b"].case_id is None, "nor does a low of shown frames"
    contents, board = lab({"a": {"Tide": 30}, "b": {"Tide": 130}}, frame_generation="×2")
    found = {one.rig_id: one for one in playable(contents, board, Target(60, 45))}
    assert found["b"].settings == "1080p Tide, generated frames ×2"
