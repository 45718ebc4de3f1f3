"""Names what holds the interface up, for `--debug`: any event that takes over 50 ms.

The application times each event it delivers; a thread of its own looks at what the interface thread
is doing meanwhile. Nothing of this runs without `--debug`.
"""

import logging
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from types import FrameType

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication

log = logging.getLogger(__name__)

LATE_S = 0.05  # a handler may take so long
LOOK_EVERY_S = 0.02
OURS = f"{Path(__file__).parents[2]}/"

Tell = Callable[[float, str], None]


def _log(late_s: float, where: str) -> None:
    log.debug("interface held up for %.0f ms: %s", 1000 * late_s, where)


class WatchedApplication(QApplication):
    """Tells of every event that takes over `LATE_S`, without those that it waits for inside."""

    def __init__(self, arguments: list[str], tell: Tell = _log) -> None:
        super().__init__(arguments)
        self._tell = tell
        self._inner_s = 0.0  # time of the events delivered inside the present one
        self._since = float("inf")
        self._seen: list[str] = []
        self._watched = threading.get_ident()
        threading.Thread(target=self._look, name="loop watch", daemon=True).start()

    def notify(self, receiver: QObject | None, event: QEvent | None) -> bool:
        """Deliver an event, and time it."""
        outer_s, self._inner_s = self._inner_s, 0.0
        before, self._since = self._since, time.perf_counter()
        started = self._since
        # Either may be gone when it has been delivered.
        words = f"{type(receiver).__name__} {_name(receiver)}, {_kind(event)}"
        try:
            return super().notify(receiver, event)
        finally:
            whole_s = time.perf_counter() - started
            own_s = whole_s - self._inner_s
            self._inner_s, self._since = outer_s + whole_s, before
            if own_s > LATE_S:
                seen, self._seen = self._seen, []
                self._tell(own_s, f"{words}: {max(seen, key=seen.count, default='nothing seen')}")

    def _look(self) -> None:
        while True:
            time.sleep(LOOK_EVERY_S)
            if time.perf_counter() - self._since > LOOK_EVERY_S:
                self._seen.append(_where(sys._current_frames().get(self._watched)))


def _name(receiver: QObject | None) -> str:
    return "" if receiver is None else receiver.objectName()


def _kind(event: QEvent | None) -> str:
    kind = event.type() if event is not None else QEvent.Type.None_
    return kind.name if isinstance(kind, QEvent.Type) else str(kind)


def _where(frame: FrameType | None) -> str:
    """The handler that runs, and where in our own code it is."""
    ours = []
    while frame is not None:
        code = frame.f_code
        if code.co_filename.startswith(OURS):
            name = code.co_filename.removeprefix(OURS)
            ours.append(f"{name}:{frame.f_lineno} {code.co_qualname}")
        frame = frame.f_back
    ours = [one for one in ours if not one.startswith(("__main__", "cli/", "ui/app", "ui/loop_w"))]
    if not ours:
        return "Qt itself"
    return f"{ours[-1]} … {ours[0]}" if len(ours) > 1 else ours[0]
