"""What the window remembers between starts: where it was, its stop, the widths of columns."""

import pytest
from PyQt6 import sip
from reach import stop

from blunt_ruler.ui.desk.settings import Settings


@pytest.fixture
def again(dressed, qtbot, settle):
    """Open a second window with the settings that a first one left behind."""
    windows = []

    def again(path=None):
        from blunt_ruler.ui.shell.window import MainWindow

        window = MainWindow(Settings())
        windows.append(window)
        window.show()
        if path is not None:
            window.desk.open(path)
        settle(window)
        return window

    yield again
    for window in windows:
        window.close()
        dressed.processEvents()
        sip.delete(window)


def test_columns_keep_the_width_they_were_given(demo_window, demo_book, again):
    demo_window.go_to("Worth")
    head = stop(demo_window, "Worth").prices.table.header()
    began = [head.sectionSize(place) for place in range(head.count())]
    head.resizeSection(2, 130)
    runs = stop(demo_window, "Runs").list.table.horizontalHeader()
    runs.resizeSection(3, 91)
    demo_window.close()
    window = again(demo_book)
    later = stop(window, "Worth").prices.table.header()
    assert later.sectionSize(2) == 130
    assert later.sectionSize(3) == began[3]
    assert stop(window, "Runs").list.table.horizontalHeader().sectionSize(3) == 91
    assert Settings().columns("Sentences of the verdict") == [], "what was not dragged is not kept"


def test_it_opens_where_it_was_left(demo_window, demo_book, again):
    demo_window.go_to("Limits")
    demo_window.resize(1100, 720)
    demo_window.close()
    window = again(demo_book)
    assert window.current_stop == "Limits"
    assert window.stack.currentWidget() is stop(window, "Limits").view
    assert Settings().geometry is not None


def test_nonsense_in_the_settings_is_passed_over(demo_window, demo_book, again):
    settings = Settings()
    settings.stop = "Nowhere"
    settings._store.setValue("columns/Parts list of the rig", ["a", "-3", "900"])
    window = again(demo_book)
    assert window.current_stop == "Board"
    window.go_to("Worth")
    assert stop(window, "Worth").prices.table.header().sectionSize(2) == 96
