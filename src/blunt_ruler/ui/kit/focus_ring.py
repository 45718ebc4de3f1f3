"""The ring around what has the focus: it shows after a key, not after a click or at opening.

Watched is each window as a whole, which hears of every key and click before its widgets do; no
widget pays for it. The style sheet draws the ring on widgets that carry `ring`.
"""

from collections.abc import Iterator

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QWindow
from PyQt6.QtWidgets import QApplication, QWidget

CLICKS = (QEvent.Type.MouseButtonPress, QEvent.Type.TouchBegin, QEvent.Type.TabletPress)


def focus_last(*widgets: QWidget) -> None:
    """Let Tab reach these, and what is in them, after everything else of their window.

    What is built or filled anew comes last by itself: what stands below it is put behind again.
    """
    if not widgets:
        return
    window = widgets[0].window()
    last = _last_of(window)
    for whole in widgets:
        for one in (whole, *whole.findChildren(QWidget)):
            if _takes_tab(one) and one.window() is window:  # lists that drop down are windows
                if last is not None and last is not one:
                    QWidget.setTabOrder(last, one)
                last = one


def focus_before(first: QWidget, *widgets: QWidget) -> None:
    """Let Tab reach these, and what is in them, right before another widget."""
    window = first.window()
    new = [
        one
        for whole in widgets
        for one in (whole, *whole.findChildren(QWidget))
        if _takes_tab(one) and one.window() is window
    ]
    last = first.previousInFocusChain()
    while last is not None and last is not first and (last in new or not _takes_tab(last)):
        last = last.previousInFocusChain()
    for one in new if last is not None and last is not first else ():
        QWidget.setTabOrder(last, one)
        last = one


def first_of(*widgets: QWidget) -> QWidget | None:
    """The first in some widgets that Tab reaches."""
    every = (one for whole in widgets for one in _in_order(whole))
    return next(filter(_takes_tab, every), None)


def _in_order(whole: QWidget) -> Iterator[QWidget]:
    """A widget and all in it, one by one: large forms are not listed for the first of them."""
    yield whole
    for child in whole.children():
        if isinstance(child, QWidget):
            yield from _in_order(child)


def _takes_tab(widget: QWidget) -> bool:
    return bool(widget.focusPolicy() & Qt.FocusPolicy.TabFocus) and widget.focusProxy() is None


def _last_of(window: QWidget | None) -> QWidget | None:
    """The last that Tab reaches in a window; Qt takes no other for an order."""
    at = window.previousInFocusChain() if window is not None else None
    while at is not None and at is not window and not _takes_tab(at):
        at = at.previousInFocusChain()
    return None if at is window else at


class FocusRing(QObject):
    """Puts the ring on and takes it off, for all windows of an application."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self._by_key = False
        self._watched: set[QWindow] = set()
        app.focusChanged.connect(self._on_focus)

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """What a window hears first."""
        if a1 is not None:
            if a1.type() == QEvent.Type.KeyPress:
                self._set(True)
            elif a1.type() in CLICKS:
                self._set(False)
        return super().eventFilter(a0, a1)

    def _set(self, by_key: bool) -> None:
        self._by_key = by_key
        _show(QApplication.focusWidget(), by_key)

    def _on_focus(self, before: QWidget | None, now: QWidget | None) -> None:
        _show(before, False)
        if now is None:
            return
        window = now.window()
        handle = window.windowHandle() if window is not None else None
        if handle is not None and handle not in self._watched:
            self._watched.add(handle)
            handle.destroyed.connect(lambda _gone=None, gone=handle: self._watched.discard(gone))
            handle.installEventFilter(self)
        _show(now, self._by_key)


def _show(widget: QWidget | None, on: bool) -> None:
    if widget is None or bool(widget.property("ring")) == on:
        return
    widget.setProperty("ring", on)
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)
    widget.update()


def has_ring(widget: QWidget) -> bool:
    """Whether a widget that paints itself shows the ring."""
    return widget.hasFocus() and bool(widget.property("ring"))
