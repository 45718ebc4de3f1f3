"""Faults of our own: written to a log file, shown as a sentence, and survived.

Any exception that reaches the interpreter's hooks (a slot, a thread, painting, a model, Qt's own
messages) is logged and told to the window; nothing ends because of it. One that comes again at
once from the same place, as from each cell of a table, is told once.
"""

import logging
import sys
import threading
import time
from collections.abc import Callable
from types import TracebackType

from PyQt6.QtCore import QMessageLogContext, QObject, QtMsgType, pyqtSignal, qInstallMessageHandler

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.diary import details, log

AGAIN_S = 1.0  # a fault that comes again sooner is the same

_QT_LEVELS = {
    QtMsgType.QtDebugMsg: logging.DEBUG,
    QtMsgType.QtInfoMsg: logging.INFO,
    QtMsgType.QtWarningMsg: logging.WARNING,
    QtMsgType.QtCriticalMsg: logging.ERROR,
    QtMsgType.QtFatalMsg: logging.CRITICAL,
}


class Faults(QObject):
    """Takes over the hooks while it is installed.

    Signals:
        raised(object): an exception that nothing else caught; sent from whichever thread.
    """

    raised = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._before: tuple[Callable[..., object], Callable[..., object]] | None = None
        self._told: dict[tuple[str, int, str], float] = {}  # when a fault last came, by its place

    def install(self) -> None:
        """Take over `sys.excepthook`, `threading.excepthook` and Qt's messages."""
        self._before = sys.excepthook, threading.excepthook
        sys.excepthook = self._on_exception
        threading.excepthook = lambda args: self._on_exception(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )
        qInstallMessageHandler(_on_qt_message)

    def remove(self) -> None:
        """Give the hooks back."""
        if self._before is not None:
            sys.excepthook, threading.excepthook = self._before
            self._before = None
        qInstallMessageHandler(None)

    def _on_exception(
        self,
        kind: type[BaseException],
        error: BaseException,
        trace: TracebackType | None,
    ) -> None:
        if issubclass(kind, KeyboardInterrupt) or self._comes_again(kind, trace):
            return
        log.error("fault: %s", details(error.with_traceback(trace)))
        self.raised.emit(error)

    def _comes_again(self, kind: type[BaseException], trace: TracebackType | None) -> bool:
        """Whether the same fault came from the same place a moment ago."""
        while trace is not None and trace.tb_next is not None:
            trace = trace.tb_next
        where = (trace.tb_frame.f_code.co_filename, trace.tb_lineno) if trace else ("", 0)
        key, now = (*where, kind.__name__), time.monotonic()
        before, self._told[key] = self._told.get(key, -AGAIN_S), now
        return now - before < AGAIN_S


def sentence(error: BaseException) -> str:
    """An exception in one sentence: a user's to mend as it stands, ours as what it is."""
    if isinstance(error, UserFixable):
        return str(error)
    refused = _refused_field(error)
    if refused:
        return refused
    words = " ".join(str(error).split())[:160]
    return (
        f"A fault inside Blunt Ruler stopped this ({type(error).__name__}: {words}). "
        "Nothing was changed, and you can go on."
    )


def _refused_field(error: BaseException) -> str:
    """A value that a record refuses, as a sentence; blank for any other exception."""
    from pydantic import ValidationError

    if not isinstance(error, ValidationError):
        return ""
    first = error.errors()[0]
    field = " ".join(str(part).replace("_", " ") for part in first["loc"]) or "the entry"
    return f"{field}: {first['msg'][:1].lower()}{first['msg'][1:]}. Change it and try again."


def _on_qt_message(kind: QtMsgType, _context: QMessageLogContext, words: str | None) -> None:
    log.log(_QT_LEVELS.get(kind, logging.WARNING), "Qt: %s", words)
