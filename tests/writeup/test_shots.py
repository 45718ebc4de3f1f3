"""Charts in running order: none is cut, each can be read, and all that is said to them holds."""

import io
import re
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from PIL import Image

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.records.narration_style import MoneyStyle, NumberStyle, Spelling, Style
from blunt_ruler.core.records.records import ReviewRig
from blunt_ruler.core.script.check import Checker
from blunt_ruler.core.script.statements import Answer
from blunt_ruler.core.writeup.shots import (
    MOST_BARS,
    ShotKind,
    chapter_list,
    every_shot,
    running_order,
    whole_keys,
)
from blunt_ruler.core.writeup.spoken import seconds_of, styled
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.exchange.charts.sheet import CLEAR, HEIGHT, SVG_KIND, WIDTH
from blunt_ruler.exchange.documents.writeup.running import (
    chapters_text,
    chapters_vtt,
    narration_text,
    slug,
    write_shots,
)
from blunt_ruler.logbook import Logbook


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    path = copy_demo(tmp_path_factory.mktemp("shots") / "demo.blunt")
    with Logbook.reading(path) as book:
        contents = book.contents()
    return analyse(contents, next(iter(contents.reviews.values())))


@pytest.fixture(scope="module")
def shots(demo):
    return every_shot(demo)


def test_there_is_one_for_every_case_title_resolution_and_test(demo, shots):
    keys = {one.rpartition("#")[0] or one for one in (shot.key for shot in shots)}
    board = demo.board
    assert {f"title.{row.title}" for row in board.rows} <= keys
    assert {f"overview.{size}" for size in ("1080p", "1440p", "2160p")} <= keys
    assert {f"test.{row.title}" for row in demo.scores.board.rows} <= keys
    several = [row for row in board.rows if [r.title for r in board.rows].count(row.title) > 1]
    assert {f"case.{row.case_id}" for row in several} <= keys
    assert {"cover", "closing", "chart.link", "chart.worth"} <= keys


def test_every_measured_figure_is_on_exactly_the_sheets_it_belongs_to(demo, shots):
    for title in {row.title for row in demo.board.rows}:
        bars = [
            (group.label.removesuffix(" (continued)"), bar.rig_id)
            for shot in shots
            if shot.kind is ShotKind.TITLE and shot.title == title
            for group in shot.groups
            for bar in group.bars
        ]
        wanted = {
            (row.settings, rig)
            for (rig, case) in demo.board.cells
            for row in demo.board.rows
            if row.case_id == case and row.title == title
        }
        assert len(bars) == len(set(bars)) and set(bars) == wanted
    for shot in shots:
        assert sum(len(group.bars) for group in shot.groups) <= MOST_BARS


def test_thirty_rigs_go_on_on_the_next_sheet(demo):
    contents, review = demo.contents, demo.review
    rig, case = "sluice-marram-12", "skitter-1080p"
    run = demo.board.counted(rig, case)[0]
    rigs, runs = {}, {}
    for number in range(30):
        key = f"r{number}"
        rigs[key] = contents.rigs[rig].model_copy(update={"id": key, "name": f"Box {number}"})
        runs[key] = run.model_copy(update={"id": f"{key}-run", "rig_id": key})
    seats = (*review.seats, *(ReviewRig(rig_id=key) for key in rigs))
    wide = review.model_copy(update={"seats": seats})
    more = contents.with_records(
        {"rigs": rigs, "runs": {one.id: one for one in runs.values()}, "reviews": {wide.id: wide}}
    )
    sheets = [one for one in every_shot(analyse(more, wide)) if one.title == "Skitter"]
    names = [bar.name for one in sheets for group in one.groups for bar in group.bars]
    assert len(sheets) == 3
    assert {f"Box {number}" for number in range(30)} <= set(names)
    assert sheets[1].groups[0].label.endswith("(continued)")
    assert sheets[1].full_title == "Skitter (2 of 3)"


def test_all_that_is_said_holds(demo, shots):
    checker = Checker(demo)
    for shot in shots:
        wrong = [
            one for one in checker.check(" ".join(shot.lines)) if one.answer is not Answer.HOLDS
        ]
        assert wrong == [], shot.title


def test_the_order_is_the_reviewers(demo, shots):
    usual = running_order(demo, shots)
    assert usual[0].kind is ShotKind.COVER
    assert not any(one.kind is ShotKind.CASE for one in usual)
    chosen = ("closing", "title.Tidewrack", "cover", "gone.long.ago")
    writeup = demo.review.writeup.model_copy(update={"charts": chosen})
    other = replace(demo, review=demo.review.model_copy(update={"writeup": writeup}))
    order = running_order(other, shots)
    assert whole_keys(order) == ("closing", "title.Tidewrack", "cover")
    assert len(order) == 4, "both sheets of Tidewrack"


def test_chapters_follow_the_narration(shots):
    order = running_order_of(shots)
    chapters = chapter_list(order, 150)
    assert chapters[0][0] == 0.0
    assert all(a[1] == b[0] for a, b in pairwise(chapters))
    whole = sum(max(one.seconds(150), 4.0) for one in order)
    assert chapters[-1][1] == pytest.approx(whole)
    text = chapters_text(order, 150)
    assert text.startswith("0:00 Which link\n")
    assert len(text.splitlines()) == len({one.title for one in order})
    vtt = chapters_vtt(order, 150)
    assert vtt.startswith("WEBVTT\n\n1\n00:00:00.000 --> 00:00:")
    assert re.search(r"^ +\d+\.\d s  In Tidewrack", narration_text(order, 150), re.M)


def running_order_of(shots):
    return [one for one in shots if one.kind is not ShotKind.CASE]


def test_files_are_numbered_and_pictures_are_what_they_say(demo, shots, tmp_path):
    some = [one for one in shots if one.key in ("cover", "title.Skitter", "chart.worth")]
    kinds = ("1280x720", "1920x1080", CLEAR, SVG_KIND)
    paths = write_shots(demo, some, tmp_path / "out", kinds, ("paper", "slate"))
    names = sorted(one.name for one in paths)
    assert "02-skitter-paper-1920x1080.png" in names
    assert "03-cost-against-frames-slate.svg" in names
    assert {"chapters.txt", "chapters.vtt", "narration.txt"} <= set(names)
    assert len(names) == 3 * 2 * 4 + 3
    with Image.open(tmp_path / "out" / "02-skitter-paper-1280x720.png") as picture:
        assert picture.size == (WIDTH, HEIGHT) and picture.mode == "RGB"
    with Image.open(tmp_path / "out" / "02-skitter-paper-clear.png") as picture:
        assert picture.size == (1920, 1080) and picture.mode == "RGBA"
        alpha = np.asarray(picture)[..., 3]
        assert alpha[5, 5] == 0 and alpha.max() == 255
    light, dark = (
        np.asarray(Image.open(tmp_path / "out" / f"02-skitter-{one}-1280x720.png"))[2, 2].mean()
        for one in ("paper", "slate")
    )
    assert light > 200 > 80 > dark


def test_words_on_a_sheet_are_large_enough_for_a_third_of_it_and_lie_inside(demo, shots):
    from blunt_ruler.core.drawing.picture import Words
    from blunt_ruler.exchange.charts.canvas import measure
    from blunt_ruler.exchange.charts.shots import draw_shot

    for shot in shots:
        if shot.chart is not None:
            continue
        sheet = draw_shot(demo, shot, measure)
        for item, dx, dy in sheet.items:
            if isinstance(item, Words):
                assert item.size >= 17.0, (shot.title, item.text)
                right = item.x + dx + measure(item.text, item.size, item.weight)
                assert item.x + dx >= 0 and right <= WIDTH, (shot.title, item.text)
                assert 0 < item.baseline + dy <= HEIGHT


def test_bars_are_as_long_as_their_figures(demo, shots):
    from blunt_ruler.core.drawing.picture import Box
    from blunt_ruler.exchange.charts.canvas import measure
    from blunt_ruler.exchange.charts.shots import draw_shot

    shot = next(one for one in shots if one.key == "title.Skitter")
    sheet = draw_shot(demo, shot, measure)
    boxes = [(item, dx) for item, dx, _ in sheet.items if isinstance(item, Box) and item.key]
    ends = np.array([box.x + box.width + dx for box, dx in boxes])
    values = np.array([bar.value for group in shot.groups for bar in group.bars])
    left = 262.0 + 48.0
    scale = (ends - left) / values
    assert scale.std() / scale.mean() < 1e-6


# Styles


def test_styles_change_words_and_no_name():
    american = Style(spelling=Spelling.AMERICAN, money=MoneyStyle.SYMBOL)
    line = "It keeps 75 per cent and costs 1\u202f240 EUR in Harbour Lights."
    assert styled(line, american, ("Harbour Lights",)) == (
        "It keeps 75 percent and costs €1\u202f240 in Harbour Lights."
    )
    words = Style(money=MoneyStyle.WORDS, numbers=NumberStyle.WORDS)
    line = "The Marram 12 is 2.7 times as fast at 1080p and costs 755 EUR."
    assert styled(line, words, ("Marram 12",)) == (
        "The Marram 12 is two point seven times as fast at 1080p and costs seven hundred and "
        "fifty-five euros."
    )


def test_styled_lines_still_hold(demo):
    style = Style(
        spelling=Spelling.AMERICAN, money=MoneyStyle.WORDS, numbers=NumberStyle.WORDS, pace=120
    )
    writeup = demo.review.writeup.model_copy(update={"style": style})
    other = replace(demo, review=demo.review.model_copy(update={"writeup": writeup}))
    checker = Checker(demo)
    for shot in every_shot(other):
        if shot.kind in (ShotKind.TITLE, ShotKind.OVERVIEW):
            held = checker.check(" ".join(shot.lines))
            assert [one for one in held if one.answer is Answer.FAILS] == [], shot.lines


def test_a_line_takes_as_long_as_its_words():
    assert seconds_of("one two three four five", 150) == pytest.approx(2.0)
    assert seconds_of("It does 69.5 frames per second", 150) > seconds_of("It does frames", 150)


def test_names_of_files_are_plain():
    assert slug("Øystad: „Längs“ / 1080p (1 of 2)") == "ystad-langs-1080p-1-of-2"
    assert slug("霧") == "chart"


def test_a_picture_opens(demo, shots):
    from blunt_ruler.exchange.charts.canvas import measure, saved
    from blunt_ruler.exchange.charts.shots import draw_shot

    body = saved(draw_shot(demo, shots[0], measure), ("1280x720",))["1280x720"]
    with Image.open(io.BytesIO(body)) as picture:
        assert picture.info["Title"] == "Which link"
