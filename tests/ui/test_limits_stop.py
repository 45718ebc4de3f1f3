"""Limits, driven: cells, loss, sliders, ceilings, and a test sent to the plan."""

import pytest
from PyQt6.QtCore import Qt
from reach import stop

from blunt_ruler.core.board.lenses import Lens, cell_text

AT = "Limits"


@pytest.fixture
def limits(demo_window, settle, qtbot):
    settle(demo_window)
    demo_window.go_to("Limits")
    limits = stop(demo_window, "Limits")
    limits.chosen.choose("sluice-marram-12", "tidewrack-1080p")
    return limits


def texts(stop):
    from PyQt6.QtWidgets import QLabel

    return " ".join(one.text() for one in stop.evidence.findChildren(QLabel))


def test_the_line_and_the_evidence_name_the_cause(limits, demo_window):
    assert limits.blunt.text().startswith("On average Sluice Marram 12 loses 25")
    assert "link 17 to 24\u202f%, host 4\u202f%" in limits.blunt.text()
    said = texts(limits)
    assert "No single limit: link 52\u202f%, card 48\u202f%" in said
    assert "The card waits 5.7\u202fms of every" in said
    assert "Telemetry agrees" in said
    assert "80 % interval" in said
    assert "left out in turn" in said
    assert len(limits.cells.table.texts()) == 50
    assert demo_window.rail.stops["Limits"].state.words.startswith("50 cells")


def test_choosing_a_cell_moves_every_page(limits, qtbot):
    table = limits.cells.table
    wanted = ["Ninefold Siege 1080p Max", "Groyne Marram 12"]
    row = next(row for row, texts in enumerate(table.texts()) if texts[:2] == wanted)
    table.setCurrentIndex(table.rows_model.index(row, 0))
    assert "The CPU sets the pace" in texts(limits)
    limits.show_page("Loss")
    assert "Groyne Marram 12 gives" in limits.loss.words.text()
    assert "host" in limits.loss.waterfall.accessibleDescription()
    limits.loss.waterfall.grab()
    limits.chosen.choose("workbench-marram-12", "tidewrack-1080p")
    assert "Choose a cell of a rig under test" in limits.loss.words.text()


def test_sliders_answer_at_once_and_say_what_is_outside(limits, qtbot):
    limits.show_page("What if")
    page = limits.what_if
    before = page.predicted.average_fps
    assert before == pytest.approx(69.5, rel=0.03)
    page.link.setFocus()
    for _ in range(60):
        qtbot.keyClick(page.link, Qt.Key.Key_Right)
    assert page.predicted.average_fps > before
    assert page.predicted.low_80 < page.predicted.average_fps < page.predicted.high_80
    page.card.setValue(page.card.maximum())
    assert "Outside what was measured: card speed" in page.outside.text()
    page.back.setChecked(True)
    sent_back = page.predicted.average_fps
    page.back.setChecked(False)
    assert page.predicted.average_fps > sent_back
    qtbot.mouseClick(page.reset, Qt.MouseButton.LeftButton)
    assert page.predicted.average_fps == pytest.approx(before)
    page.preset.setCurrentIndex(4)
    page.preset.activated.emit(4)
    assert page.predicted.average_fps == pytest.approx(95.8, rel=0.04)  # what the cord measured
    page.rule.grab()


def test_ceilings_name_the_wasted_card(limits, demo_window, settle, qtbot):
    demo_window.desk.choose_review("which-card")
    settle(demo_window)
    limits.show_page("Ceiling")
    assert limits.blunt.text().startswith(
        "Below 2160p the 40 Gb/s cable cannot keep Marram 16 busy"
    )
    heard = limits.ceiling.picture.accessibleDescription().split("; ")
    assert heard[0].endswith("Marram 16 wasted")
    assert ", pays up to" in heard[2]


def test_the_next_test_goes_to_the_plan_with_one_key(limits, demo_window, settle, qtbot):
    limits.show_page("Next test")
    page = limits.next
    qtbot.waitUntil(lambda: len(page.table.texts()) >= 3, timeout=60_000)
    first = page.table.texts()[0][0]
    cases = len(demo_window.desk.snapshot.review.case_ids)
    page.table.setFocus()
    qtbot.keyClick(page.table, Qt.Key.Key_Return)
    settle(demo_window)
    review = demo_window.desk.snapshot.review
    assert len(review.case_ids) == cases + 1
    case = demo_window.desk.snapshot.contents.cases[review.case_ids[-1]]
    assert case.resolution == "720p"
    assert "Tidewrack" in first
    assert demo_window.desk.snapshot.contents.plans[review.id].extras[-1].case_id == case.id
    demo_window.desk.undo()
    settle(demo_window)
    assert len(demo_window.desk.snapshot.review.case_ids) == cases


def test_the_board_shows_the_limits(limits, demo_window):
    board = demo_window.desk.snapshot.board
    assert cell_text(board, "sluice-marram-12", "ninefold-siege-1080p", Lens.LIMIT) == "CPU"
    demo_window.controllers["Board"].show_lens(Lens.LIMIT)
    assert stop(demo_window, "Board").cells.model.lens is Lens.LIMIT


def test_a_logbook_that_cannot_tell_says_what_would(window, logs, settle, qtbot, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Limits")
    assert "Limits" in stop(window, "Limits").accessibleName()
    assert stop(window, "Limits").blunt.text()


def test_the_other_reviews_are_taken_out_by_one_click_and_undone(limits, demo_window, settle):
    assert "Also uses 20 results of 1 other review" in limits.blunt.text()
    press(limits, "Fit this review alone")
    settle(demo_window)
    assert "Also uses" not in limits.blunt.text()
    assert demo_window.desk.snapshot.analysis.limits.fit.measured.beside == ()
    press(limits, "Learn from the other reviews")
    settle(demo_window)
    assert "Also uses 20 results" in limits.blunt.text()
    demo_window.desk.undo()
    settle(demo_window)
    assert "Also uses" not in limits.blunt.text()


def press(stop, words):
    from PyQt6.QtWidgets import QPushButton

    found = [one for one in stop.evidence.findChildren(QPushButton) if one.text() == words]
    assert len(found) == 1
    found[0].click()
