"""A bad afternoon kept by keys, undone, and told in the report."""

import pytest
from PyQt6.QtCore import Qt
from reach import stop

from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.logbook import Logbook

AT = "Bench"


@pytest.fixture
def page(demo_window, settle):
    settle(demo_window)
    bench = stop(demo_window, "Bench")
    bench.show_page("Trouble")
    settle(demo_window)
    return bench.page("Trouble")


def test_a_trouble_is_noted_asked_about_and_cured_by_keys(page, demo_window, settle, qtbot):
    bench = stop(demo_window, "Bench")
    assert not bench.strip_frame.isVisible(), "a trouble needs the room"
    page.seen.setFocus()
    qtbot.keyClicks(page.seen.lineEdit(), "the card drops out")
    qtbot.keyClick(page.seen.lineEdit(), Qt.Key.Key_Return)
    settle(demo_window)
    assert page.line().startswith("Likeliest, ")
    assert page.proposed is not None and page.do.text().startswith(page.proposed.do)
    first = page.proposed.key
    page.other.click()
    assert page.proposed.key != first
    for _ in range(3):
        page.no.click()
        settle(demo_window)
    texts = page.table.texts()
    assert [row[1] for row in texts] == ["seen", "tried", "tried", "tried"]
    demo_window.desk.undo()
    settle(demo_window)
    assert len(page.table.texts()) == 3
    page.cured.click()
    settle(demo_window)
    assert page.table.texts()[-1][1] == "cured"
    assert page.line().startswith("Choose what is seen")
    with Logbook.reading(demo_window.desk.snapshot.path) as book:
        assert len(book.contents().diary) == 4
    document = compose(demo_window.desk.snapshot.analysis, ())
    said = [one.words for part in document.sections for one in part.sentences]
    assert any("the card drops out" in one and "Cured by:" in one for one in said)
    bench.show_page("Changes")
    assert bench.strip_frame.isVisible()


def test_an_entry_that_was_a_slip_is_deleted(page, demo_window, settle, qtbot):
    page.seen.setCurrentText("it smells of violets")
    page.note()
    settle(demo_window)
    page.table.choose_place(0)
    page.drop.click()
    settle(demo_window)
    assert page.table.texts() == []
