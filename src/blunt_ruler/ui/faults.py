"""Faults of our own: written to a log file, shown as a sentence, and survived.

Any exception that reaches the interpreter's hooks (a slot, a thread, Qt's own messages) is
logged and told to the window; nothing ends because of it. The log says what happened and where,
never what a user's records hold.
"""

import logging
import sys
import threading
import traceback
from collections.abc import Callable
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QMessageLogContext, QObject, QtMsgType, pyqtSignal, qInstallMessageHandler

from blunt_ruler.core.errors import UserFixable

log = logging.getLogger("blunt_ruler")

LOG_BYTES = 500_000
_QT_LEVELS = {
    QtMsgType.QtDebugMsg: logging.DEBUG,
    QtMsgType.QtInfoMsg: logging.INFO,
    QtMsgType.QtWarningMsg: logging.WARNING,
    QtMsgType.QtCriticalMsg: logging.ERROR,
    QtMsgType.QtFatalMsg: logging.CRITICAL,
}


def log_path() -> Path:
    """Where the log is kept."""
    from platformdirs import user_state_path

    return user_state_path("blunt-ruler") / "blunt-ruler.log"


class Faults(QObject):
    """Takes over the hooks while it is installed.

    Signals:
        raised(object): an exception that nothing else caught; sent from whichever thread.
    """

    raised = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._before: tuple[Callable[..., object], Callable[..., object]] | None = None
        self._handler: logging.Handler | None = None

    def install(self, log_file: Path | None = None) -> None:
        """Take over `sys.excepthook`, `threading.excepthook` and Qt's messages."""
        self._before = sys.excepthook, threading.excepthook
        sys.excepthook = self._on_exception
        threading.excepthook = lambda args: self._on_exception(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )
        qInstallMessageHandler(_on_qt_message)
        try:
            path = log_file or log_path()
            path.parent.mkdir(parents=True, exist_ok=True)
            self._handler = RotatingFileHandler(path, maxBytes=LOG_BYTES, backupCount=1)
            self._handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
            log.addHandler(self._handler)
        except OSError as error:
            log.warning("no log file: %s", error)

    def remove(self) -> None:
        """Give the hooks back."""
        if self._before is not None:
            sys.excepthook, threading.excepthook = self._before
            self._before = None
        qInstallMessageHandler(None)
        if self._handler is not None:
            log.removeHandler(self._handler)
            self._handler.close()
            self._handler = None

    def _on_exception(
        self,
        kind: type[BaseException],
        error: BaseException,
        trace: TracebackType | None,
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            return
        log.error("fault: %s", details(error.with_traceback(trace)))
        self.raised.emit(error)


def details(error: BaseException) -> str:
    """What happened and where, for a report: no value of a record is in it."""
    frames = traceback.extract_tb(error.__traceback__)
    where = "\n".join(f"  {Path(f.filename).name}:{f.lineno} in {f.name}" for f in frames)
    return f"{type(error).__name__}: {str(error)[:400]}\n{where}"


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
