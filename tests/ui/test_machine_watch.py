"""A machine is read while the clock of At work runs, and what it said is kept with the run."""

import os
import time

import pytest
from reach import stop

from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.records import Origin, Run, TypedFigures

AT = "Runs"


@pytest.fixture
def work(demo_window, settle):
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    runs.show_page("At work")
    settle(demo_window)
    return runs.page("At work")


def choose(box, data):
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())


def on_cord(work):
    choose(work.rig, "groyne-marram-12")
    choose(work.case, "skitter-1080p")


def watch(work, qtbot, name):
    work.machine.setCurrentText(name)
    work.start.click()
    qtbot.waitUntil(lambda: bool(work.reading.text()), timeout=60_000)


def read(work, qtbot, times):
    """Wait until the machine has been read so often: a busy one takes its time."""
    qtbot.waitUntil(
        lambda: work.watch._latest is not None and work.watch._latest.at_s.size >= times,
        timeout=60_000,
    )


def type_run(window, settle, key, repeat, average_fps):
    """Figures typed for the cell that is at work."""
    run = Run(
        id=key,
        rig_id="groyne-marram-12",
        case_id="skitter-1080p",
        repeat=repeat,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=average_fps),
    )
    window.desk.edit("type", lambda _book, _contents: {"runs": {run.id: run}})
    settle(window)


def test_typed_figures_get_what_the_machine_said(work, demo_window, qtbot, settle):
    on_cord(work)
    watch(work, qtbot, "play quillon-cord")
    assert "PCIe 4.0 x4: card" in work.reading.text()
    assert work.alarm.isHidden()
    read(work, qtbot, 4)
    work.start.click()
    qtbot.waitUntil(lambda: work.watch.watched is not None)
    type_run(demo_window, settle, "typed-now", 9, 250.0)
    kept = demo_window.desk.snapshot.contents.runs["typed-now"]
    assert 75 <= kept.reading(Gauge.CARD_BUSY) <= 98
    assert kept.gauge(Gauge.LINK_LANES).high == 4
    assert demo_window.desk.snapshot.undo == "what the machine said during pass 9"
    assert work.watch.watched is None


def test_a_state_that_did_not_take_is_told_before_the_pass_is_over(
    work, demo_window, qtbot, settle
):
    on_cord(work)
    watch(work, qtbot, "play quillon-cord-two-lanes")
    assert "x2 where the rig says 4 lanes: the state did not take" in work.alarm.text()
    assert not work.alarm.isHidden()
    read(work, qtbot, 4)
    work.start.click()
    qtbot.waitUntil(lambda: work.watch.watched is not None)
    type_run(demo_window, settle, "narrow", 8, 200.0)
    found = demo_window.desk.snapshot.analysis.checked.by_run["narrow"]
    said = [one.says for one in found]
    assert any("2 lanes instead of 4, says the machine" in one for one in said)


def test_a_log_gets_the_gauges_it_lacks(work, demo_window, qtbot, settle, tmp_path):
    on_cord(work)
    watch(work, qtbot, "play quillon-cord")
    began = time.time()
    read(work, qtbot, 6)
    work.start.click()
    qtbot.waitUntil(lambda: work.watch.watched is not None)
    log = tmp_path / "Groyne Marram 12 Skitter 1080p Low.csv"
    frames = int((time.time() - began) / 0.004)
    rows = "\n".join(f"{index},{4.0 + 0.3 * (index % 7 == 0):.2f}" for index in range(frames))
    log.write_text(f"frame,frame time ms\n{rows}\n")
    os.utime(log, (time.time(), time.time()))
    before = set(demo_window.desk.snapshot.contents.runs)
    controller = demo_window.controllers["Runs"]
    controller._on_log(log)
    settle(demo_window)
    runs = demo_window.desk.snapshot.contents.runs
    new = [run for key, run in runs.items() if key not in before]
    assert len(new) == 1
    assert new[0].observed.gauge(Gauge.CARD_BUSY).mean > 70
    assert new[0].observed.gauge(Gauge.LINK_LANES).high == 4


def test_a_folder_without_a_machine_is_one_sentence(work, demo_window, qtbot, monkeypatch):
    from pathlib import Path

    import blunt_ruler.bench.machines as machines

    monkeypatch.setattr(machines, "lay_out", lambda _name, root: Path(root))
    errors = []
    work.error_raised.connect(errors.append)
    work.machine.setCurrentText("play quillon-cord")
    work.start.click()
    qtbot.waitUntil(lambda: bool(errors), timeout=60_000)
    assert "no device tree" in str(errors[0])
    assert not work.watch.is_on
