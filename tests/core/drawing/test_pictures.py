"""Pictures as values: one scale for all bars, parts that meet, words that do not lie on words."""

from dataclasses import replace

import pytest

from blunt_ruler.core.board.scaling import Series
from blunt_ruler.core.drawing.board import draw_board
from blunt_ruler.core.drawing.palette import CONTRAST, PAPER, SLATE, rig_shades
from blunt_ruler.core.drawing.picture import Box, Line, Mark, Picture, Words, apart, overlap
from blunt_ruler.core.drawing.ruler import draw_ruler, shown_columns
from blunt_ruler.core.drawing.scaling import draw_scaling
from blunt_ruler.core.drawing.waterfall import draw_waterfall
from blunt_ruler.core.drawing.worth import draw_worth
from blunt_ruler.core.writeup.results import typical_case, waterfall_split

SIZES = [(300.0, 160.0), (640.0, 300.0), (2400.0, 900.0)]
AVERAGE_ADVANCE = 0.5  # of the type size: near enough for a grotesque


def measure(words, size, weight):
    return AVERAGE_ADVANCE * size * len(words)


def sheet(board, width, height, theme=PAPER, unit=1.0):
    return Picture(theme, width, height, measure, rig_shades(board, theme), unit)


def of_kind(picture, kind, key=""):
    return [one for one in picture.items if isinstance(one, kind) and one.key.startswith(key)]


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_every_bar_of_the_ruler_ends_on_one_scale(demo_analysis, width, height):
    board = demo_analysis.board
    for row in board.rows:
        picture = sheet(board, width, height)
        draw_ruler(picture, board, row, board.columns[1].rig_id)
        bars = {one.key.split(".")[1]: one for one in of_kind(picture, Box, "average_fps.")}
        cells = {rig: board.cells[rig, row.case_id] for rig in bars}
        slow, *_, fast = sorted(bars, key=lambda rig: cells[rig].average_fps)
        ends = {rig: box.x + box.width for rig, box in bars.items()}
        step = (ends[fast] - ends[slow]) / (cells[fast].average_fps - cells[slow].average_fps)
        for rig, cell in cells.items():
            wanted = ends[slow] + (cell.average_fps - cells[slow].average_fps) * step
            assert ends[rig] == pytest.approx(wanted, abs=3.0)  # a bar is 3 pixels at least
            if bars[rig].width > 3.0:
                assert bars[rig].width == pytest.approx(
                    (cell.average_fps - cell.low_1_fps) * step, rel=0.02, abs=0.6
                )


def test_the_parts_of_a_loss_meet_and_lead_from_the_reference_to_the_rig(demo_analysis):
    split = waterfall_split(demo_analysis)
    picture = sheet(demo_analysis.board, 900.0, 420.0)
    draw_waterfall(picture, split, "Reference", "Rig")
    boxes = of_kind(picture, Box, "lost_")
    whole, *parts, rig = boxes
    scale = whole.width / split.reference_fps
    level = whole.x + whole.width
    for part in parts:
        name = part.key.removeprefix("lost_").split("_fps")[0]
        fps = split.parts[name].fps if name in split.parts else None
        if fps is not None and fps > 0:
            assert part.x + part.width == pytest.approx(level, abs=2.1)
            assert part.width == pytest.approx(max(fps * scale, 2.0), abs=0.01)
            level -= fps * scale
    assert rig.width == pytest.approx(split.average_fps * scale)
    assert {one.text for one in of_kind(picture, Words)} >= {"Reference", "Rig", "frames/s"}


@pytest.mark.parametrize(("width", "height"), SIZES[1:])
def test_names_on_the_plot_of_worth_stay_clear_of_one_another(demo_analysis, width, height):
    worth = demo_analysis.worth
    picture = sheet(demo_analysis.board, width, height)
    spots = draw_worth(picture, worth, worth.points())
    names = {row.column.name for row in worth.rows}
    labels = [one for one in of_kind(picture, Words) if one.text in names]
    assert len(labels) == len(spots) == len(of_kind(picture, Mark))
    rooms = [
        (one.x, one.baseline - one.size, one.x + measure(one.text, one.size, 0), one.baseline)
        for one in labels
    ]
    for number, room in enumerate(rooms):
        assert not any(overlap(room, other) for other in rooms[number + 1 :])
        assert room[2] <= width


def test_a_dearer_rig_stands_further_right_and_a_faster_one_higher(demo_analysis):
    points = demo_analysis.worth.points()
    spots = draw_worth(sheet(demo_analysis.board, 800.0, 400.0), demo_analysis.worth, points)
    assert sorted(spots, key=lambda rig: spots[rig][0]) == sorted(points, key=lambda r: points[r])
    assert sorted(spots, key=lambda rig: -spots[rig][1]) == sorted(
        points, key=lambda rig: points[rig][1]
    )


@pytest.mark.parametrize("theme", [PAPER, SLATE, CONTRAST], ids=["paper", "slate", "contrast"])
@pytest.mark.parametrize(("width", "height"), SIZES)
def test_nothing_is_drawn_outside_its_sheet(demo_analysis, theme, width, height):
    board = demo_analysis.board
    row = typical_case(board)
    pictures = [sheet(board, width, height, theme) for _ in range(4)]
    draw_ruler(pictures[0], board, row, board.columns[1].rig_id)
    draw_waterfall(pictures[1], waterfall_split(demo_analysis), "Reference", "Rig")
    draw_worth(pictures[2], demo_analysis.worth, demo_analysis.worth.points())
    draw_board(pictures[3], board, list(board.columns[:3]), 6)
    for picture in pictures:
        assert picture.items
        for one in of_kind(picture, Box):
            assert one.width >= 0
            assert one.height >= 0
            if one.key:
                assert -0.5 <= one.x <= one.x + one.width <= width + 0.5
                assert -0.5 <= one.y <= one.y + one.height <= height + 0.5


def test_what_is_not_told_apart_is_drawn_dashed_and_grey_with_its_ends(demo_analysis):
    board, column = demo_analysis.board, demo_analysis.board.columns[1]
    row = typical_case(board)
    clear = sheet(board, 900.0, 240.0)
    draw_ruler(clear, board, row, column.rig_id)
    assert any(one.text.endswith("% base") for one in of_kind(clear, Words))
    key = column.rig_id, row.case_id
    cell = replace(board.cells[key], tie=True, loss_low=-0.02, loss_high=0.06)
    loose = sheet(board, 900.0, 240.0)
    draw_ruler(loose, replace(board, cells={**board.cells, key: cell}), row, column.rig_id)
    (said,) = [one for one in of_kind(loose, Words) if one.text.endswith("ref.")]
    assert said.text == "−6 to +2\u202f% ref."
    assert said.colour == PAPER.steel
    near = replace(board.cells[key], gain=0.01, gain_low=-0.03, gain_high=0.05, tie=True)
    base = replace(board.cells[board.base.rig_id, row.case_id], average_fps=near.average_fps * 0.99)
    both = sheet(board, 900.0, 240.0)
    cells = {**board.cells, key: near, (board.base.rig_id, row.case_id): base}
    draw_ruler(both, replace(board, cells=cells), row, column.rig_id)
    beside = next(one for one in of_kind(both, Words) if one.text == "−3 to +5\u202f% base")
    assert beside.x + measure(beside.text, beside.size, 0) < 900.0
    dashed = [one for one in of_kind(loose, Line) if one.dash and one.colour == PAPER.steel]
    assert dashed
    assert not [one for one in of_kind(clear, Line) if one.dash and one.colour == PAPER.steel]


def test_a_ruler_of_a_case_nobody_ran_says_so(demo_analysis):
    board = replace(demo_analysis.board, cells={})
    picture = sheet(board, 600.0, 200.0)
    draw_ruler(picture, board, board.rows[0], "")
    assert [one.text for one in of_kind(picture, Words)] == ["No kept run of this case."]


def test_when_there_is_no_room_base_and_reference_stay(demo_analysis):
    board = demo_analysis.board
    assert shown_columns(board, None) == list(board.columns)
    few = shown_columns(board, 3)
    assert few[0] is board.columns[0]
    assert few[-1] is board.columns[-1]
    assert len(few) == 3


def test_lines_of_scaling_pass_through_their_figures(demo_analysis):
    one = Series(
        rig_id="sluice-marram-12",
        title="Title",
        preset="High",
        megapixels=(2.0736, 3.6864, 8.2944),
        rates_fps=(120.0, 90.0, 45.0),
        losses=(0.2, 0.1, None),
    )
    picture = sheet(demo_analysis.board, 600.0, 300.0)
    draw_scaling(picture, [one], {one.rig_id: "Sluice"}, {2.0736: "1080p"})
    marks = of_kind(picture, Mark)
    assert len(marks) == 3 + 1, "and one beside the name"
    down = [mark.y for mark in marks[:3]]
    assert (down[1] - down[0]) / (down[2] - down[1]) == pytest.approx(30.0 / 45.0)
    kept = sheet(demo_analysis.board, 600.0, 300.0)
    draw_scaling(kept, [one], {one.rig_id: "Sluice"}, {}, kept=True)
    assert len(of_kind(kept, Mark)) == 2 + 1, "a loss that is not known is not drawn"
    empty = sheet(demo_analysis.board, 600.0, 300.0)
    draw_scaling(empty, [replace(one, losses=(None,) * 3)], {}, {}, kept=True)
    assert empty.items == []


def test_words_are_cut_to_their_room_and_a_figure_keeps_a_clear_ground():
    picture = Picture(PAPER, 200.0, 100.0, measure, {})
    assert picture.cut("Sluice", 12.0, 400, 36.0) == "Sluice"
    for room in range(8, 120):
        cut = picture.cut("A rig with a long name", 12.0, 400, float(room))
        assert measure(cut, 12.0, 400) <= max(room, 6.0)
    picture.figure(50.0, 20.0, "61.2")
    ground, words = picture.items
    assert isinstance(ground, Box)
    assert isinstance(words, Words)
    assert ground.x < words.x
    assert ground.x + ground.width > words.x + measure("61.2", words.size, 700)


def test_places_are_pushed_apart_and_boxes_that_touch_do_not_overlap():
    assert apart([0.0, 5.0, 50.0], 20.0) == [0.0, 20.0, 50.0]
    assert overlap((0, 0, 10, 10), (9, 9, 20, 20))
    assert not overlap((0, 0, 10, 10), (10, 0, 20, 10))


def test_a_unit_enlarges_lines_and_words_together():
    small, large = (Picture(PAPER, 100.0, 100.0, measure, {}, unit) for unit in (1.0, 2.0))
    for picture in (small, large):
        picture.line([(0, 0), (1, 1)], PAPER.ink, 1.5)
        picture.words(0.0, 10.0, "Sluice")
    (thin, text), (thick, big) = small.items, large.items
    assert isinstance(thin, Line)
    assert thick.width == 2 * thin.width
    assert big.size == 2 * text.size


def test_a_case_without_settings_is_headed_by_its_runs_alone(demo_analysis):
    board = demo_analysis.board
    row = replace(typical_case(board), settings="")
    picture = sheet(board, 900.0, 240.0)
    draw_ruler(picture, board, row, board.columns[1].rig_id)
    below = [one.text for one in of_kind(picture, Words) if one.text.endswith(" each")]
    assert len(below) == 1 and below[0][0].isdigit()
