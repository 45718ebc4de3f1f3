"""What lies on the desk is one value: no late result is laid over what came after it."""

import time

from PyQt6.QtWidgets import QApplication, QLineEdit
from reach import Hand, stop

from blunt_ruler.core.records.records import Decision

FAULTY = "sluice-marram-12_skitter-1080p_1"


def test_a_name_stands_though_an_older_analysis_comes_in_late(demo_window, settle, qtbot):
    """Keep a faulty run, rename a rig, hold the interface thread: the new name must stand."""
    demo_window.go_to("Board")
    run = demo_window.desk.snapshot.contents.runs[FAULTY]
    Hand(demo_window).put(
        "keep it", run.model_copy(update={"decision": Decision.KEEP, "reason": ""})
    )
    qtbot.waitUntil(
        lambda: demo_window.desk.snapshot.contents.runs[FAULTY].decision is Decision.KEEP,
        timeout=60_000,
    )
    Hand(demo_window).rename_rig("sluice-marram-12", "The new name")
    time.sleep(1.5)  # both results wait for the interface thread, the older one first
    settle(demo_window)
    snapshot = demo_window.desk.snapshot
    assert snapshot.analysis.settled
    assert snapshot.analysis.contents is snapshot.contents
    assert snapshot.board.column("sluice-marram-12").name == "The new name"
    assert stop(demo_window, "Board").cells.model.board.columns[1].name == "The new name"
    assert FAULTY in snapshot.checked.by_run


def test_an_analysis_of_other_contents_is_thrown_away(demo_window, settle):
    desk = demo_window.desk
    old = desk.snapshot.analysis
    Hand(demo_window).rename_rig("sluice-marram-12", "The new name")
    settle(demo_window)
    seen = []
    desk.changed.connect(seen.append)
    desk._on_analysed(old)
    assert seen == []
    assert desk.snapshot.board.column("sluice-marram-12").name == "The new name"


def test_a_trim_tried_on_one_run_says_nothing_of_the_next(demo_window, settle, qtbot):
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    runs.show_run("workbench-marram-12_low-lantern-1080p_1")
    settle(demo_window)
    page = runs.list
    page.panel.propose.click()
    runs.show_run("sluice-marram-12_tidewrack-1080p_1")
    time.sleep(1.5)  # the figures of the first run wait for the interface thread
    settle(demo_window)
    assert page._run_id == "sluice-marram-12_tidewrack-1080p_1"
    assert page._cut is None


def test_what_is_being_typed_in_the_evidence_outlives_a_snapshot(demo_window, settle, qtbot):
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    runs.show_run("sluice-marram-12_tidewrack-1080p_1")
    settle(demo_window)
    demo_window.activateWindow()
    qtbot.waitUntil(demo_window.isActiveWindow, timeout=60_000)

    def entry():
        return next(
            one
            for one in runs.evidence.findChildren(QLineEdit)
            if one.accessibleName() == "Reason for the decision" and one.isVisible()
        )

    entry().setFocus()
    qtbot.keyClicks(entry(), "half a rea")
    Hand(demo_window).rename_rig("groyne-marram-12", "Something else")
    settle(demo_window)
    assert entry().text() == "half a rea"
    assert QApplication.focusWidget() is entry()
    qtbot.keyClicks(entry(), "son")
    run = demo_window.desk.snapshot.contents.runs["sluice-marram-12_tidewrack-1080p_1"]
    assert run.reason == "", "nothing half typed is written"
    entry().clearFocus()
    settle(demo_window)
    run = demo_window.desk.snapshot.contents.runs["sluice-marram-12_tidewrack-1080p_1"]
    assert run.reason == "half a reason"


def test_hidden_stops_and_pages_work_nothing_out(demo_window, settle, monkeypatch):
    demo_window.go_to("Limits")
    stop(demo_window, "Limits").show_page("Next test")
    stop(demo_window, "Limits").show_page("Cells")
    demo_window.go_to("Board")
    settle(demo_window)
    calls = []
    monkeypatch.setattr(
        "blunt_ruler.ui.limits.pages.tests_for", lambda *a: calls.append(a) or ((), 0.0)
    )
    Hand(demo_window).rename_rig("sluice-marram-12", "The new name")
    settle(demo_window)
    demo_window.go_to("Limits")
    settle(demo_window)
    assert calls == []
    stop(demo_window, "Limits").show_page("Next test")
    settle(demo_window)
    assert len(calls) == 1
