"""The tray of charts and the read-along, driven by keys."""

import pytest
from PyQt6.QtCore import Qt
from reach import stop

from blunt_ruler.ui.writeup.charts_dialog import ChartsDialog
from blunt_ruler.ui.writeup.read_along import ReadAlong

AT = "Write-up"


@pytest.fixture
def page(demo_window, settle, qtbot):
    settle(demo_window)
    demo_window.go_to("Write-up")
    writeup = stop(demo_window, "Write-up")
    writeup.show_page("Charts")
    page = writeup.charts
    qtbot.waitUntil(lambda: page.tray.count() > 10, timeout=60_000)
    settle(demo_window)
    return page


def test_the_tray_has_every_chart_and_says_how_long_it_takes(page):
    assert page.order()[0] == "cover"
    assert page.order()[-1] == "closing"
    assert page.line().endswith("to read at 150 words a minute.")
    shown = {page.tray.item(place).text() for place in range(page.tray.count())}
    assert any(words.startswith("Tidewrack, 2 sheets · ") for words in shown)
    unticked = page.tray.item(page.tray.count() - 1)
    assert unticked.checkState() is Qt.CheckState.Unchecked


def test_a_chart_is_moved_and_left_out_and_undo_brings_it_back(page, demo_window, settle, qtbot):
    before = page.order()
    page.tray.setFocus()
    page.tray.setCurrentRow(3)
    key = page._chosen_key()
    qtbot.keyClick(page.tray, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    settle(demo_window)
    review = demo_window.desk.snapshot.review
    assert review.writeup.charts.index(key) == 2
    qtbot.waitUntil(lambda: page.order() == review.writeup.charts, timeout=30_000)
    page.tray.setFocus()
    page._choose_key(key)
    qtbot.keyClick(page.tray, Qt.Key.Key_Space)
    settle(demo_window)
    assert key not in demo_window.desk.snapshot.review.writeup.charts
    demo_window.desk.undo()
    settle(demo_window)
    demo_window.desk.undo()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.writeup.charts == ()
    qtbot.waitUntil(lambda: page.order() == before, timeout=30_000)


def test_the_style_is_kept(page, demo_window, settle, qtbot):
    page.pace.setValue(120)
    page.pace.editingFinished.emit()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.writeup.style.pace == 120
    qtbot.waitUntil(lambda: "at 120 words" in page.line(), timeout=30_000)
    box = page.boxes["spelling"]
    box.setCurrentText("American")
    box.activated.emit(1)
    settle(demo_window)
    assert demo_window.desk.snapshot.review.writeup.style.spelling == "American"


def test_charts_are_written_where_one_says(page, demo_window, settle, tmp_path, qtbot):
    page.tray.setCurrentRow(0)
    deeds = demo_window.controllers["Write-up"]
    deeds.view.charts._put_charts(("cover", "title.Skitter"))
    settle(demo_window)
    page.write.click()
    dialog = deeds.charts_dialog
    assert isinstance(dialog, ChartsDialog)
    dialog.kinds["1920x1080"].setChecked(False)
    assert not dialog.go.isEnabled() and "No kind is ticked" in dialog.problem.text()
    dialog.kinds["1280x720"].setChecked(True)
    dialog.folder.setText(str(tmp_path / "film"))
    dialog._check()
    dialog.go.click()
    qtbot.waitUntil((tmp_path / "film" / "chapters.vtt").exists, timeout=60_000)
    names = sorted(one.name for one in (tmp_path / "film").iterdir())
    assert names == [
        "01-which-link.png",
        "02-skitter.png",
        "chapters.txt",
        "chapters.vtt",
        "narration.txt",
    ]


def test_one_reads_along_by_keys_alone(page, demo_window, qtbot, settle):
    page.read.click()
    deeds = demo_window.controllers["Write-up"]
    qtbot.waitUntil(lambda: isinstance(getattr(deeds, "reading", None), ReadAlong), timeout=60_000)
    reading = deeds.reading
    reading.resize(1280, 720)
    first = reading.lines[0].words
    assert reading.accessibleDescription().startswith(first)
    qtbot.keyClick(reading, Qt.Key.Key_Right)
    assert reading.place == 1
    qtbot.keyClick(reading, Qt.Key.Key_PageDown)
    assert reading.lines[reading.place].shot == reading.lines[1].shot + 1
    qtbot.keyClick(reading, Qt.Key.Key_Left)
    qtbot.keyClick(reading, Qt.Key.Key_Space)
    assert reading.running
    qtbot.waitUntil(lambda: reading.elapsed_s > 0.2, timeout=60_000)
    qtbot.keyClick(reading, Qt.Key.Key_Space)
    stood = reading.elapsed_s
    qtbot.wait(100)
    assert reading.elapsed_s == stood
    whole = reading.whole_s
    qtbot.keyClick(reading, Qt.Key.Key_Plus)
    assert reading.pace == 160 and reading.whole_s < whole
    plain = reading.grab().toImage()
    qtbot.keyClick(reading, Qt.Key.Key_M)
    turned = reading.grab().toImage()
    assert turned == plain.mirrored(True, False) or turned != plain
    qtbot.keyClick(reading, Qt.Key.Key_End)
    assert reading.place == len(reading.lines) - 1
    qtbot.keyClick(reading, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: not demo_window.isHidden(), timeout=60_000)
