"""Runs, driven: take a run live, stop one, trim and undo, redo, paste a grid, watch an inbox."""

import pytest
from PyQt6.QtCore import Qt
from reach import Hand, stop

from blunt_ruler.bench.log_files import HABITS, write_log
from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_titles
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Decision
from blunt_ruler.exchange.logs import frame_logs
from blunt_ruler.exchange.logs.frame_logs import read_log

AT = "Runs"

MENU_RUN = "workbench-marram-12_low-lantern-1080p_1"


@pytest.fixture
def runs(demo_window, settle, qtbot):
    demo_window.go_to("Runs")
    settle(demo_window)
    return stop(demo_window, "Runs")


def contents(window):
    return window.desk.snapshot.contents


def idle(runs, window, qtbot, settle):
    qtbot.waitUntil(lambda: not runs.work.taker.is_running, timeout=60_000)
    settle(window)


def test_one_key_takes_the_next_run_of_the_plan(runs, demo_window, qtbot, settle):
    before = runs.work.going
    qtbot.keyClick(demo_window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    idle(runs, demo_window, qtbot, settle)
    run = list(contents(demo_window).runs.values())[-1]
    assert (run.rig_id, run.case_id, run.repeat) == (before.rig_id, before.case_id, before.repeat)
    assert run.origin.kind == "simulated"
    assert run.decision is Decision.KEEP
    assert run.figures.duration_s == pytest.approx(30.0, abs=0.2)
    assert run.observed.gauges
    assert runs.work.going.left == before.left - 1
    assert f"{before.left - 1} passes left" in runs.blunt.text()
    demo_window.desk.undo()
    settle(demo_window)
    assert run.id not in contents(demo_window).runs


def test_a_run_that_is_stopped_is_kept_to_be_redone(runs, demo_window, qtbot, settle):
    runs.work.pace.setCurrentText("at its own pace")
    left = runs.work.going.left
    runs.show_page("At work")
    runs.work.take_run()
    assert not runs.work.take.isEnabled()
    qtbot.waitUntil(lambda: runs.work._plot is not None, timeout=60_000)
    qtbot.mouseClick(runs.work.stop, Qt.MouseButton.LeftButton)
    idle(runs, demo_window, qtbot, settle)
    run = list(contents(demo_window).runs.values())[-1]
    assert run.decision is Decision.REDO
    assert run.reason.startswith("stopped after")
    assert run.figures.duration_s < 10
    assert runs.work.going.left == left  # it still has to be taken


def test_a_menu_is_cut_shown_before_and_after_and_brought_back(runs, demo_window, qtbot, settle):
    runs.show_run(MENU_RUN)
    qtbot.waitUntil(lambda: runs.list.panel is not None, timeout=60_000)
    settle(demo_window)
    panel = runs.list.panel
    qtbot.mouseClick(panel.propose, Qt.MouseButton.LeftButton)
    assert panel.tried().from_s == pytest.approx(7.0, abs=0.05)
    assert panel.tried().to_s is None or panel.tried().to_s > 36.9
    qtbot.waitUntil(lambda: runs.list._cut is not None, timeout=60_000)
    texts = [one.text() for one in runs.evidence.findChildren(type(runs.blunt).__mro__[1])]
    assert any("329.2 → 214" in text for text in texts)
    qtbot.mouseClick(panel.apply, Qt.MouseButton.LeftButton)
    idle(runs, demo_window, qtbot, settle)
    trimmed = contents(demo_window).runs[MENU_RUN]
    assert trimmed.figures.average_fps == pytest.approx(214.0, abs=0.5)
    assert "menu" in trimmed.trim.why
    assert MENU_RUN not in runs.list._checked.by_run  # nothing is left to find
    demo_window.desk.undo()
    idle(runs, demo_window, qtbot, settle)
    assert contents(demo_window).runs[MENU_RUN].trim is None
    assert contents(demo_window).runs[MENU_RUN].figures.average_fps > 300


def test_handles_and_fields_move_together(runs, demo_window, qtbot, settle):
    runs.show_run(MENU_RUN)
    qtbot.waitUntil(lambda: runs.list.panel is not None, timeout=60_000)
    settle(demo_window)
    panel = runs.list.panel
    panel.plot.region.setRegion((3.0, 20.0))
    assert (panel.from_s.value(), panel.to_s.value()) == (3.0, 20.0)
    panel.from_s.setFocus()
    panel.from_s.stepUp()
    assert panel.plot.region.getRegion()[0] == pytest.approx(3.1)
    panel.from_s.setValue(20.0)  # nothing would be left
    qtbot.waitUntil(lambda: "fewer than 2 frames" in panel.says.toolTip(), timeout=60_000)


def test_a_trim_that_ends_at_nothing_is_pulled_back(runs, demo_window, qtbot, settle):
    runs.show_run(MENU_RUN)
    qtbot.waitUntil(lambda: runs.list.panel is not None, timeout=60_000)
    settle(demo_window)
    panel = runs.list.panel
    panel.to_s.setFocus()
    panel.to_s.selectAll()
    qtbot.keyClicks(panel.to_s, "0")
    qtbot.keyClick(panel.to_s, Qt.Key.Key_Tab)
    settle(demo_window)
    assert panel.to_s.value() > 0
    assert panel.tried() is None or panel.tried().to_s > 0
    assert not demo_window.banner.isVisible()


def test_the_low_that_is_drawn_is_of_the_school_that_is_said(runs, demo_window, qtbot, settle):
    snapshot = demo_window.desk.snapshot
    school = LowSchool.WORST_MEAN
    demo_window.desk.apply(change_review(snapshot.review, "school", low_school=school))
    idle(runs, demo_window, qtbot, settle)
    runs.show_run("sluice-marram-12_tidewrack-1080p_1")
    qtbot.waitUntil(lambda: runs.list.panel is not None, timeout=60_000)
    settle(demo_window)
    low = contents(demo_window).runs["sluice-marram-12_tidewrack-1080p_1"].figures.low_1
    assert low.worst_mean < low.percentile - 1
    plot = runs.list.panel.plot
    assert plot._low.value() == pytest.approx(1000.0 / low.worst_mean)
    assert f"worst-mean, {low.worst_mean:.1f} fps" in plot._low_words.toPlainText()


def test_the_views_of_a_trace_and_the_other_passes(runs, demo_window, qtbot, settle):
    runs.show_run("sluice-marram-12_tidewrack-1080p_1")
    qtbot.waitUntil(lambda: runs.list.panel is not None, timeout=60_000)
    settle(demo_window)
    panel = runs.list.panel
    panel.overlay.setChecked(True)
    settle(demo_window)
    assert len(panel.plot._others) == 2
    panel.plot.put_cursor(10.0)
    assert "10.00 s" in panel.says.toolTip()
    assert "card busy" in panel.says.toolTip()
    for name in ("Distribution", "Percentiles", "Trace"):
        panel.bar.choose(name)
    assert len(panel.percentiles._items) == 3
    panel.lanes.setChecked(False)
    assert panel.plot.lanes == []
    panel.overlay.setChecked(False)
    assert panel.plot._others == []


def test_findings_lead_to_their_run_and_redo_goes_back_into_the_plan(
    runs, demo_window, qtbot, settle
):
    runs.show_page("Findings")
    page = runs.findings
    names = [row[0] for row in page.table.texts()]
    assert names[0] == "frame cap or refresh lock"
    assert "recorder on" in names
    page.table.setCurrentIndex(page.table.rows_model.index(0, 0))
    left = runs.work.going.left
    run = contents(demo_window).runs["sluice-marram-12_copper-meridian-1080p_2"]
    Hand(demo_window).decide(run, Decision.REDO)
    idle(runs, demo_window, qtbot, settle)
    assert runs.work.going.left == left + 1
    page.table.setCurrentIndex(page.table.rows_model.index(0, 0))
    qtbot.mouseClick(page.show_run, Qt.MouseButton.LeftButton)
    assert runs.list._run_id == "sluice-marram-12_copper-meridian-1080p_1"


def test_what_all_passes_share_is_answered_once_and_remembered(runs, demo_window, qtbot, settle):
    early = {"early_stutters_per_min": 60.0, "late_stutters_per_min": 2.0}
    passes = [
        run.model_copy(update={"observed": run.observed.model_copy(update=early)})
        for run in contents(demo_window).runs.values()
        if (run.rig_id, run.case_id) == ("groyne-marram-12", "skitter-1080p") and run.observed
    ]
    Hand(demo_window).put("stutter at first in every pass", *passes)
    settle(demo_window)
    runs.show_page("Findings")
    page = runs.findings
    qtbot.waitUntil(
        lambda: any("every pass" in one.where for one in page.table.rows_model.rows),
        timeout=30_000,
    )
    stutter = next(
        i for i, one in enumerate(page.table.rows_model.rows) if "every pass" in one.where
    )
    finding = page.table.rows_model.rows[stutter].finding
    page.table.choose_place(stutter)
    assert page.scene.isEnabled() and not page.trim_all.isEnabled()
    assert not page.ask_again.isVisible()
    qtbot.mouseClick(page.scene, Qt.MouseButton.LeftButton)
    settle(demo_window)
    qtbot.waitUntil(lambda: demo_window.desk.snapshot.analysis.settled, timeout=30_000)
    case = contents(demo_window).cases[contents(demo_window).runs[finding.run_id].case_id]
    assert case.scene_has == (str(finding.check),)
    assert finding.check.words in page.answered.text()
    assert not any("every pass" in one.where for one in page.table.rows_model.rows)
    qtbot.mouseClick(page.ask_again, Qt.MouseButton.LeftButton)
    settle(demo_window)
    qtbot.waitUntil(
        lambda: any("every pass" in r.where for r in page.table.rows_model.rows), timeout=30_000
    )
    assert not page.ask_again.isVisible()


def test_traces_of_an_earlier_version_are_read_again(runs, demo_window, qtbot, settle):
    old = contents(demo_window).runs[MENU_RUN]
    seen = old.observed.model_copy(update={"profile": "", "peaks": "", "edge_share": 0.0})
    Hand(demo_window).put("as before", old.model_copy(update={"observed": seen}))
    settle(demo_window)
    runs.show_page("Findings")
    page = runs.findings
    assert "1 trace read by an earlier version" in page.earlier.text()
    qtbot.mouseClick(page.read_again, Qt.MouseButton.LeftButton)
    settle(demo_window)
    qtbot.waitUntil(lambda: not page.read_again.isVisible(), timeout=30_000)
    assert contents(demo_window).runs[MENU_RUN] == old


def test_a_kept_fault_is_counted_and_must_be_redone(runs, demo_window, qtbot, settle):
    run = contents(demo_window).runs["sluice-marram-12_skitter-1080p_1"]
    kept = run.model_copy(update={"decision": Decision.KEEP, "reason": ""})
    Hand(demo_window).put("keep it", kept)
    idle(runs, demo_window, qtbot, settle)
    runs.show_page("All runs")
    assert "217 of 218 kept runs are valid; 1 run must be taken again" in runs.blunt.text()


def test_another_line_gives_other_findings(runs, demo_window, qtbot, settle):
    runs.show_page("Thresholds")
    field = runs.lines.form.fields["shortest_s"]
    field.box.setText("33")
    field.box.editingFinished.emit()
    idle(runs, demo_window, qtbot, settle)
    assert sum(one.check == "too_short" for one in runs.list._checked.findings) > 100
    assert demo_window.desk.snapshot.review.thresholds.shortest_s == 33
    qtbot.mouseClick(runs.lines.defaults, Qt.MouseButton.LeftButton)
    idle(runs, demo_window, qtbot, settle)
    assert not any(one.check == "too_short" for one in runs.list._checked.findings)


def test_the_next_pass_is_typed_on_the_board(runs, demo_window, qtbot, settle):
    runs.show_page("At work")
    work = runs.work
    qtbot.mouseClick(work.typing, Qt.MouseButton.LeftButton)
    assert demo_window.current_stop == "Board"
    cells = demo_window.controllers["Board"].stop.cells
    going = (work.going.rig_id, work.going.case_id)
    assert (cells._at.rig_id, cells._at.case_id) == going
    qtbot.keyClicks(cells.typing.editor, "61.5")
    qtbot.keyClick(cells.typing.editor, Qt.Key.Key_Return)
    settle(demo_window)
    run = list(contents(demo_window).runs.values())[-1]
    assert (run.rig_id, run.case_id) == going
    assert (run.origin.kind, run.typed.average_fps) == ("typed", 61.5)


def test_a_log_in_the_inbox_is_taken_in_where_its_name_says(
    runs, demo_window, qtbot, settle, tmp_path
):
    folder = tmp_path / "inbox"
    folder.mkdir()
    demo_window.controllers["Runs"].watch(folder)
    setting = Setting(bench_titles()["Tidewrack"], "1440p", "High", 22.0)
    trace = play_run(bench_rigs()["Groyne Marram 12"], setting, 8)
    write_log(folder / "groyne-marram-12_tidewrack_1440p_high.csv", trace, HABITS["plain"])
    (folder / "unknown.csv").write_text("frame time ms\nnot a number\n")
    arrived = runs.work.inbox.arrived
    qtbot.waitUntil(lambda: arrived.count() == 2, timeout=60_000)
    settle(demo_window)
    said = sorted(arrived.item(row).text() for row in range(2))
    assert "taken in as Groyne Marram 12, Tidewrack / coast run / 1440p / High" in said[0]
    assert "by its name" in said[0]
    assert said[1].startswith("unknown.csv: ")
    run = list(contents(demo_window).runs.values())[-1]
    assert (run.rig_id, run.case_id) == ("groyne-marram-12", "tidewrack-1440p")
    demo_window.controllers["Runs"].watch(None)
    assert runs.work.inbox.unwatch.isHidden()


def test_a_log_that_vanishes_is_a_note_and_no_fault(
    runs, demo_window, settle, tmp_path, monkeypatch
):
    controller, arrived = demo_window.controllers["Runs"], runs.work.inbox.arrived
    gone = tmp_path / "gone.csv"
    controller.log_finished.emit(gone)
    settle(demo_window)
    assert arrived.item(0).text().startswith("gone.csv: ")
    assert "file" in arrived.item(0).text()
    path = tmp_path / "groyne-marram-12_tidewrack_1440p_high.csv"
    trace = play_run(
        bench_rigs()["Groyne Marram 12"],
        Setting(bench_titles()["Tidewrack"], "1440p", "High", 22.0),
        8,
    )
    write_log(path, trace, HABITS["plain"])

    def read_and_gone(path, step):
        found = read_log(path, step=step)
        path.unlink()
        return found

    monkeypatch.setattr(frame_logs, "read_log", read_and_gone)
    before = len(contents(demo_window).runs)
    controller.log_finished.emit(path)
    settle(demo_window)
    assert "taken in as Groyne Marram 12" in arrived.item(0).text()
    assert len(contents(demo_window).runs) == before + 1


def test_it_says_when_the_inbox_is_gone_and_back(runs, demo_window, qtbot, tmp_path):
    folder = tmp_path / "inbox"
    folder.mkdir()
    demo_window.controllers["Runs"].watch(folder)
    says = runs.work.inbox.words
    assert says.toolTip() == f"Watching {folder}"
    folder.rmdir()
    qtbot.waitUntil(lambda: says.toolTip().startswith(f"{folder} is gone"), timeout=60_000)
    folder.mkdir()
    qtbot.waitUntil(lambda: says.toolTip() == f"Watching {folder}", timeout=60_000)
    demo_window.controllers["Runs"].watch(None)


@pytest.mark.deep
def test_a_log_that_grew_after_it_was_taken_is_offered_in_its_place(
    runs, demo_window, qtbot, settle, tmp_path
):
    folder = tmp_path / "inbox"
    folder.mkdir()
    setting = Setting(bench_titles()["Tidewrack"], "1440p", "High", 22.0)
    trace = play_run(bench_rigs()["Groyne Marram 12"], setting, 8)
    path = folder / "groyne-marram-12_tidewrack_1440p_high.csv"
    write_log(path, trace, HABITS["plain"])
    whole = path.read_text()
    path.write_text("\n".join(whole.splitlines()[:900]) + "\n")
    demo_window.controllers["Runs"].watch(folder)
    arrived = runs.work.inbox.arrived
    qtbot.waitUntil(lambda: arrived.count() == 1, timeout=60_000)
    settle(demo_window)
    before = len(contents(demo_window).runs)
    path.write_text(whole)
    qtbot.waitUntil(lambda: arrived.count() == 2, timeout=60_000)
    assert "has grown from 899 to" in arrived.item(0).text()
    arrived.itemActivated.emit(arrived.item(0))
    settle(demo_window)
    run = list(contents(demo_window).runs.values())[-1]
    assert len(contents(demo_window).runs) == before
    assert run.figures.frames == trace.frame_times_ms.size
    demo_window.desk.undo()
    settle(demo_window)
    assert list(contents(demo_window).runs.values())[-1].figures.frames == 899
    path.write_text(whole.splitlines()[0] + "\n" + "\n".join(whole.splitlines()[500:]) + "\n")
    qtbot.waitUntil(lambda: arrived.count() == 4, timeout=60_000)
    settle(demo_window)
    assert "taken in as" in arrived.item(0).text()  # another recording under an old name
    assert len(contents(demo_window).runs) == before + 1
    demo_window.controllers["Runs"].watch(None)


def test_all_runs_of_the_plan_are_taken_and_undone_rig_by_rig(
    demo_window, settle, qtbot, monkeypatch
):
    from blunt_ruler.ui.runs import whole_plan

    short = whole_plan.Setting
    monkeypatch.setattr(whole_plan, "Setting", lambda *of: short(*of[:3], 4.0))
    runs = demo_window.controllers["Runs"]
    snapshot = demo_window.desk.snapshot
    before = len(snapshot.contents.runs)
    left = sum(cell.left for cell in snapshot.analysis.bench_plan.kept)
    demo_window.go_to("Runs")
    runs.stop.show_page("At work")
    runs.work.take_all.click()
    runs.take_all()  # not twice at once
    qtbot.waitUntil(lambda: runs._all is None, timeout=120_000)
    settle(demo_window)
    assert len(demo_window.desk.snapshot.contents.runs) == before + left
    assert f"{left} passes taken on the simulated bench" in demo_window.banner.words.text()
    assert "Every planned pass is done" in runs.stop.blunt.text()
    demo_window.desk.undo()
    settle(demo_window)
    after = len(demo_window.desk.snapshot.contents.runs)
    assert before < after < before + left
    runs.take_all()
    demo_window.close_logbook()  # what is under way is for no other logbook
    settle(demo_window)
    assert demo_window.desk.snapshot is None
