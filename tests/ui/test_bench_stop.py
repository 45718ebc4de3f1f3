"""The Bench for real: build a rig, break it, read the finding, mend it, tick, print, undo."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel, QPlainTextEdit
from reach import Hand, stop

from blunt_ruler.core.records.hardware import TickState
from blunt_ruler.core.rigs.compatibility import check_fit


@pytest.fixture
def bench(demo_window, settle):
    demo_window.go_to("Bench")
    settle(demo_window)
    return stop(demo_window, "Bench")


def words(widget):
    return " | ".join(label.text() for label in widget.findChildren(QLabel) if label.text())


def type_in(qtbot, field, text):
    """Type a text over what a field holds, and leave it."""
    box = field.box
    box.setFocus()
    if isinstance(box, QPlainTextEdit):
        box.setPlainText(text)
    else:
        box.selectAll()
        qtbot.keyClicks(box, text)
        qtbot.keyClick(box, Qt.Key.Key_Return)
    box.clearFocus()


def test_from_an_empty_logbook_to_a_rig_that_lacks_an_outlet(window, qtbot, settle, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Bench")
    bench = stop(window, "Bench")
    assert "No rig is described yet" in bench.blunt.text()

    qtbot.mouseClick(bench.new, Qt.MouseButton.LeftButton)
    settle(window)
    sections = bench.rig_page.sections
    for kind in ("host", "card", "dock", "link"):
        qtbot.mouseClick(sections[kind].new, Qt.MouseButton.LeftButton)
        settle(window)
    type_in(qtbot, sections["card"].form.fields["power_inputs"], "8-pin ×2")
    settle(window)
    type_in(qtbot, sections["card"].form.fields["board_power_w"], "180")
    settle(window)
    type_in(qtbot, sections["dock"].form.fields["outlets"], "8-pin")
    settle(window)
    type_in(qtbot, sections["link"].form.fields["hops"], "host port: 4.0 x4\ncord: 3.0 x4")
    settle(window)

    (rig,) = window.desk.snapshot.contents.rigs.values()
    bench.show_page("Fit")
    assert "needs 8-pin ×2 and New dock offers 1" in words(bench.fit_page)
    assert "will not work as described" in bench.blunt.text()
    bench.show_page("Ladder")
    assert "cord generation 3" in bench.blunt.text()
    assert "left for the game" in bench.blunt.text()
    bench.show_page("Pre-flight")
    assert len(bench.preflight_page.cards) >= 10
    window.controllers["Bench"].print_list(rig.id, tmp_path / "list.pdf")
    settle(window)
    assert (tmp_path / "list.pdf").read_bytes().startswith(b"%PDF")


def test_three_slots_in_a_two_slot_bracket_and_back(bench, demo_window, qtbot, settle):
    bench.choose_rig("breakwater-marram-12")
    field = bench.rig_page.sections["card"].form.fields["slots_wide"]
    type_in(qtbot, field, "3")
    settle(demo_window)
    assert "Marram 12 is 3 slots wide and the bracket of Breakwater has 2" in bench.blunt.text()
    assert "blocking" in demo_window.rail.stops["Bench"].state.words
    demo_window.desk.undo()
    settle(demo_window)
    assert field.text() == "2"
    assert "Nothing stops" in bench.blunt.text()


def test_a_wrong_value_stays_with_a_sentence_and_is_not_stored(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12")
    field = bench.rig_page.sections["dock"].form.fields["supply_w"]
    type_in(qtbot, field, "plenty")
    settle(demo_window)
    assert field.text() == "plenty"
    assert "is no number. Give a number in W." in field.wrong.text()
    assert field.wrong.isVisible()
    assert demo_window.desk.snapshot.contents.docks["sluice"].supply_w == 330
    Hand(demo_window).rename_rig("groyne-marram-12", "Another edit")
    settle(demo_window)
    assert field.text() == "plenty"
    type_in(qtbot, field, "450")
    settle(demo_window)
    assert not field.wrong.isVisible()
    assert demo_window.desk.snapshot.contents.docks["sluice"].supply_w == 450


def test_duplicate_and_change_one_thing(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12")
    qtbot.mouseClick(bench.duplicate, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert bench.rig_page.rig_form.fields["name"].text() == "Sluice Marram 12 2"
    choice = bench.rig_page.sections["link"].choice
    choice.setCurrentText("PCIe 4.0 x4 cord")
    choice.activated.emit(choice.currentIndex())
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    rig = next(rig for rig in contents.rigs.values() if rig.name == "Sluice Marram 12 2")
    assert rig.link_id == "cord"
    assert contents.rigs["sluice-marram-12"].link_id == "cable"
    assert len(demo_window.desk.snapshot.review.seats) == 6
    assert "link (PCIe 4.0 x4 cord" in words(bench.evidence)


def test_a_shared_part_says_that_an_edit_changes_them_all(bench):
    bench.choose_rig("sluice-marram-12")
    assert "Used by 7 rigs" in bench.rig_page.sections["host"].shared.text()


def test_past_rigs_join_and_leave_the_review(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-16")
    assert bench.join.text() == "Join the review"
    qtbot.mouseClick(bench.join, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert bench.join.text() == "Leave the review"
    assert len(demo_window.desk.snapshot.board.columns) == 6
    qtbot.mouseClick(bench.join, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert len(demo_window.desk.snapshot.board.columns) == 5


def test_the_demo_shows_a_finding_of_each_severity(demo_window):
    contents = demo_window.desk.snapshot.contents
    severities = {finding.severity for rig in contents.rigs for finding in check_fit(contents, rig)}
    assert len(severities) == 3


def test_ladders_side_by_side_and_a_measured_figure(bench, demo_window, qtbot, settle, tmp_path):
    bench.show_page("Ladder")
    for row in range(4):
        bench.rigs.item(row).setSelected(row in (1, 2, 3))
    assert bench.ladder_page.drawings.count() == 3
    bench.choose_rig("groyne-marram-12")
    page = bench.ladder_page
    page.measured.setText("a lot")
    page.measured.editingFinished.emit()
    assert "is no number" in page.wrong.text()
    assert page.measured.text() == "a lot"
    page.measured.setText("2,6")
    page.measured.editingFinished.emit()
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.rigs["groyne-marram-12"].measured_gb_per_s == 2.6
    assert "half the lanes" in page.below.text()
    assert "as measured (typed)" in bench.blunt.text()
    qtbot.mouseClick(page.sweep, Qt.MouseButton.LeftButton)
    settle(demo_window)
    rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
    assert rig.measured_gb_per_s == pytest.approx(6.4, rel=0.05)
    assert "simulated bus sweep" in rig.measured_how
    sweep = tmp_path / "sweep.csv"
    sweep.write_text("block MB,rate GB/s\n1,5.0\n64,6.1\n256,6.0\n")
    demo_window.controllers["Bench"].import_sweep(rig.id, sweep)
    settle(demo_window)
    rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
    assert (rig.measured_gb_per_s, rig.measured_how) == (6.1, "sweep sweep.csv")
    page.rate.setValue(120)
    left = rig.measured_gb_per_s * 1000 / 120
    assert f"{left:.1f}\u202fMB a frame" in page.budget.text()


def test_preflight_is_ticked_with_readings_and_undone(bench, demo_window, qtbot, settle):
    bench.choose_rig("breakwater-marram-12")
    bench.show_page("Pre-flight")
    cards = {card.step.key: card for card in bench.preflight_page.cards}
    card = cards["link_under_load"]
    card.reading.setText("wide open")
    qtbot.mouseClick(card.done, Qt.MouseButton.LeftButton)
    assert "is no hop" in card.says.text()
    assert not card.done.isChecked()
    card.reading.setText("4.0 x4")
    qtbot.mouseClick(card.done, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert "came up at 4 lanes, 8 expected" in bench.blunt.text()
    ticks = [
        t
        for t in demo_window.desk.snapshot.contents.ticks.values()
        if t.rig_id == "breakwater-marram-12"
    ]
    assert [(tick.state, tick.reading) for tick in ticks] == [(TickState.DONE, "4.0 x4")]
    assert ticks[0].at.startswith("20")
    demo_window.desk.undo()
    settle(demo_window)
    assert "left before" in bench.blunt.text()


def test_a_skipped_step_shows_on_the_runs_that_followed(demo_window, settle):
    demo_window.go_to("Runs")
    settle(demo_window)
    runs = stop(demo_window, "Runs")
    row = next(
        row
        for row, line in enumerate(runs.list.model.rows)
        if line.run.id == "groyne-marram-12_tidewrack-1080p_1"
    )
    runs.list.table.selectRow(row)
    settle(demo_window)
    shown = words(runs.evidence)
    assert "PRE-FLIGHT STEPS SKIPPED BEFORE IT" in shown
    assert "Plug the monitor into the Marram 12, never into the host." in shown


def test_a_machine_is_read_compared_watched_and_filled_in(bench, demo_window, qtbot, settle):
    bench.choose_rig("groyne-marram-12")
    bench.show_page("Machine")
    page = bench.machine_page
    page.stand_in.setCurrentText("quillon-cord-two-lanes")
    assert not page.root.isEnabled()
    qtbot.mouseClick(page.look, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "lanes 2, not 4" in page.says.text(), timeout=30_000)
    qtbot.mouseClick(page.watch, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Narrow" in page.strip.toPlainText(), timeout=30_000)
    page.stand_in.setCurrentText("quillon-cord")
    qtbot.waitUntil(lambda: "as it should be" in page.strip.toPlainText(), timeout=30_000)
    bench.show_page("Rig")
    assert not page.watch.isChecked()
    bench.show_page("Machine")
    qtbot.mouseClick(page.fill, Qt.MouseButton.LeftButton)
    settle(demo_window)
    cord = demo_window.desk.snapshot.contents.links["cord"]
    assert [hop.name for hop in cord.hops] == ["0000:00:01.1"]


def test_a_root_without_a_tree_is_said(bench, qtbot, tmp_path):
    bench.show_page("Machine")
    page = bench.machine_page
    page.root.setText(str(tmp_path))
    qtbot.mouseClick(page.look, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "no device tree" in page.says.text(), timeout=30_000)


def test_parts_are_pasted_catalogued_and_exported(bench, demo_window, settle, tmp_path):
    controller = demo_window.controllers["Bench"]
    QApplication.clipboard().setText("kind,name,length_mm\ncard,Marram 12,250\n")
    bench.parts_requested.emit("paste")
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.cards["m12"].length_mm == 250
    QApplication.clipboard().setText("kind,name\nfan,x\n")
    bench.parts_requested.emit("paste")
    settle(demo_window)
    assert "no kind “fan”" in demo_window.banner.words.text()
    bench.parts_requested.emit("catalogue")
    settle(demo_window)
    names = {link.name for link in demo_window.desk.snapshot.contents.links.values()}
    assert "USB4 tunnel, 80 Gb/s" in names
    controller.export_parts(tmp_path / "parts.csv")
    settle(demo_window)
    before = len(demo_window.desk.snapshot.contents.docks)
    controller.import_parts(tmp_path / "parts.csv")
    settle(demo_window)
    assert len(demo_window.desk.snapshot.contents.docks) == before
    controller.import_parts(tmp_path / "none.json")
    settle(demo_window)
    assert "cannot be read" in demo_window.banner.words.text()
