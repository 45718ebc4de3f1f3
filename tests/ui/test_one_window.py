"""No page makes a second top-level window: one that flashes up takes the focus away."""

import pytest
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QWidget
from reach import every_page

MEANT = (Qt.WindowType.ToolTip, Qt.WindowType.Popup)


class Watch(QObject):
    """Notes every window that is shown beside the first."""

    def __init__(self, window):
        super().__init__()
        self.window, self.found = window, []

    def eventFilter(self, watched, event):
        if (
            event is not None
            and event.type() == QEvent.Type.Show
            and isinstance(watched, QWidget)
            and watched.isWindow()
            and watched is not self.window
            and watched.windowType() not in MEANT
        ):
            self.found.append(f"{type(watched).__name__} {watched.objectName()} {watched!r}")
        return False


@pytest.fixture
def watch(demo_window, dressed):
    found = Watch(demo_window)
    dressed.installEventFilter(found)
    yield found
    dressed.removeEventFilter(found)


def test_no_page_makes_a_second_window(demo_window, settle, watch):
    for name, page in every_page(demo_window, settle):
        assert not watch.found, f"{name}, {page}"
