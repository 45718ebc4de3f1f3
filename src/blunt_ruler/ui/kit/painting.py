"""Painting that a fault in it cannot break.

A painter that is still active when an exception leaves `paintEvent`, or that was saved and not
restored, ends the process in Qt's own code. So whoever paints is given a painter here and never
makes one: it is ended or put back whatever happens, a mark stands where nothing could be drawn,
and the fault is told like any other, but once: the same is painted again and again.
"""

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar

from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QPaintDevice, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QStyleOptionViewItem, QWidget

Drawn = TypeVar("Drawn", bound=QWidget)
Painter = TypeVar("Painter")
Given = ParamSpec("Given")
MARK = "!"


@contextmanager
def painting(on: QPaintDevice) -> Iterator[QPainter]:
    """A painter that is ended when the block ends, however it does."""
    painter = QPainter(on)
    try:
        yield painter
    finally:
        painter.end()


def painted(draw: Callable[[Drawn, QPainter], None]) -> Callable[[Drawn, QPaintEvent | None], None]:
    """The `paintEvent` of a widget out of what draws it; of a view, what is drawn over it."""

    @wraps(draw)
    def paint_event(self: Drawn, _event: QPaintEvent | None) -> None:
        on = self.viewport() if isinstance(self, QAbstractScrollArea) else self
        if on is None:
            return
        try:
            with painting(on) as painter:
                draw(self, painter)
        except Exception as error:
            with painting(on) as painter:
                _mark(painter, on.rect())
            _tell(draw, error)

    return paint_event


def painted_part(
    draw: Callable[Concatenate[Painter, QPainter, Given], None],
) -> Callable[Concatenate[Painter, QPainter | None, Given], None]:
    """The `paint` of a delegate, or `paintSection` of a header, out of what draws one cell."""

    @wraps(draw)
    def paint(
        self: Painter, painter: QPainter | None, /, *args: Given.args, **names: Given.kwargs
    ) -> None:
        if painter is None:
            return
        painter.save()
        try:
            draw(self, painter, *args, **names)
        except Exception as error:
            painter.restore()
            painter.save()
            _mark(painter, _room(args))
            _tell(draw, error)
        finally:
            painter.restore()

    return paint


def _room(args: tuple[object, ...]) -> QRect:
    """Where a cell is drawn, by what its painter was given."""
    for one in args:
        if isinstance(one, QStyleOptionViewItem):
            return one.rect
        if isinstance(one, QRect):
            return one
    return QRect()


def _mark(painter: QPainter, room: QRect) -> None:
    """Blank, with a mark: something is missing here."""
    painter.fillRect(room, QColor("#FBF9F4"))
    painter.setPen(QColor("#B2432F"))
    painter.drawText(QRectF(room), Qt.AlignmentFlag.AlignCenter, MARK)


_told: set[object] = set()  # what has failed before


def _tell(draw: object, error: Exception) -> None:
    if draw not in _told:
        _told.add(draw)
        sys.excepthook(type(error), error, error.__traceback__)
