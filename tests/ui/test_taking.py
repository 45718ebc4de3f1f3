"""What the window is given by a drop: folders, many logs, files that are none."""

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDragLeaveEvent, QDropEvent
from PyQt6.QtWidgets import QFileDialog

from blunt_ruler import processes

SHIFT = Qt.KeyboardModifier.ShiftModifier
KEYS = (Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)


def mime(*paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    return data


def drop(window, path):
    data = mime(path)  # Qt does not keep it
    window.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, *KEYS))


def drag(window, data):
    event = QDragEnterEvent(QPoint(5, 5), Qt.DropAction.CopyAction, data, *KEYS)
    window.dragEnterEvent(event)
    return event


@pytest.fixture
def started(monkeypatch):
    """How many processes were started ahead, and that they are gone."""
    counts = []

    class Pool:
        def shutdown(self, wait, cancel_futures):
            counts.append("ended")

    monkeypatch.setattr(processes, "started", lambda count, module: counts.append(count) or Pool())
    yield counts
    processes.end_ahead()


def test_a_dropped_folder_is_looked_at_by_rigs(demo_window, qtbot, settle, logs, started):
    bench = logs[0].parent
    for path, rig in zip(logs, ("sluice marram 12", "cable", "tower"), strict=True):
        (bench / rig).mkdir()
        path.rename(bench / rig / "tidewrack.csv")
    (bench / "notes.png").write_text("x")
    data = mime(bench)
    assert drag(demo_window, data).isAccepted()
    assert started == [], "few files are read here"
    demo_window.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, *KEYS))
    qtbot.waitUntil(lambda: demo_window.taking.dialog is not None, timeout=60_000)
    dialog = demo_window.taking.dialog
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    assert [file.rig for file in dialog._files] == ["cable", "Sluice Marram 12", "tower"]
    assert dialog.rows.index(0, 0).data() == "cable/tidewrack.csv"
    assert demo_window.banner.words.text().startswith("1 other file in the folder was left")
    dialog.reject()


def test_a_folder_is_chosen_by_the_keyboard(demo_window, qtbot, logs, monkeypatch):
    folder = str(logs[0].parent)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: "")
    demo_window.actions_of.by_name["Import a folder of logs…"].trigger()
    assert demo_window.taking.dialog is None
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: folder)
    qtbot.keyClick(demo_window, "I", Qt.KeyboardModifier.ControlModifier | SHIFT)
    qtbot.waitUntil(lambda: demo_window.taking.dialog is not None, timeout=60_000)
    dialog = demo_window.taking.dialog
    assert [file.path for file in dialog._files] == sorted(logs)
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    dialog.reject()


def test_processes_start_while_many_logs_are_dragged(demo_window, tmp_path, settle, started):
    for number in range(processes.FEWEST):
        (tmp_path / f"{number}.csv").write_text("x")
    drag(demo_window, mime(tmp_path))
    assert len(started) == 1
    drag(demo_window, mime(tmp_path))
    assert len(started) == 1, "once"
    demo_window.dragLeaveEvent(QDragLeaveEvent())
    assert started[1:] == ["ended"]
    drag(demo_window, mime(*tmp_path.iterdir()))
    assert len(started) == 3
    for path in tmp_path.iterdir():
        path.rename(path.with_suffix(".png"))
    demo_window.taking.take_dropped([QUrl.fromLocalFile(str(tmp_path))])
    settle(demo_window)
    assert "there is no log in it" in demo_window.banner.words.text()
    assert started[3:] == ["ended"], "there was nothing to read"


def test_a_window_that_is_closed_shows_nothing_more(demo_window, dressed, logs):
    """A dialog that came after its end kept the program alive, unseen."""
    demo_window.taking.import_logs(logs)
    demo_window.show_history()
    demo_window.close()
    dressed.processEvents()
    assert demo_window.taking.dialog is None
    assert not [one for one in dressed.topLevelWidgets() if one.isVisible()]


def test_a_folder_without_logs_is_said_and_text_is_not_welcome(demo_window, settle, tmp_path):
    (tmp_path / "a.png").write_text("x")
    demo_window.taking.take_dropped([QUrl.fromLocalFile(str(tmp_path))])
    settle(demo_window)
    assert "there is no log in it" in demo_window.banner.words.text()
    assert demo_window.taking.dialog is None
    words = QMimeData()
    words.setText("no file")
    event = QDragEnterEvent(QPoint(5, 5), Qt.DropAction.CopyAction, words, *KEYS)
    event.ignore()
    demo_window.dragEnterEvent(event)
    assert not event.isAccepted()


@pytest.fixture
def package(tmp_path, demo_analysis):
    from blunt_ruler.exchange.documents.data_package import write_package
    from blunt_ruler.files import shipped
    from blunt_ruler.logbook.bundle import write_bundle

    demo = shipped("demo", "demo.blunt")
    book, _ = write_bundle(demo, demo_analysis.review.id, tmp_path / "theirs" / "bundle.blunt")
    return write_package(tmp_path / "theirs" / "their review.zip", demo_analysis, (), book)


def test_a_published_review_opens_as_a_copy_of_ones_own(
    window, settle, package, tmp_path, monkeypatch
):
    own = tmp_path / "own"
    monkeypatch.setattr("blunt_ruler.ui.desk.settings.logbooks_folder", lambda: own)
    drop(window, package)
    settle(window)
    assert window.desk.snapshot.path == own / "their review.blunt"
    assert len(window.desk.snapshot.contents.rigs) == 5


def test_over_a_logbook_its_rigs_come_in_as_references_and_one_undo_takes_them_out(
    window, settle, package, tmp_path
):
    window.desk.create(tmp_path / "mine.blunt")
    settle(window)
    drop(window, package)
    settle(window)
    snapshot = window.desk.snapshot
    assert len(snapshot.review.references) == 5
    assert {rig.origin for rig in snapshot.contents.rigs.values()} == {"their review"}
    window.desk.undo()
    settle(window)
    assert not window.desk.snapshot.contents.rigs
